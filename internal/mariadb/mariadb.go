// Package mariadb runs a private MariaDB server from a folder: the records of a
// service that was given no database of its own.
//
// The server listens on a Unix socket in the folder and on no network address.
// The folder is readable by its owner only, so nobody else on the machine can
// reach the server, with or without a password. At every start the server's
// accounts are brought back to the two it needs: the service's, with rights on
// its own schema only, and the one that MariaDB keeps for its views.
//
// Open makes what is missing, starts the server and waits until it answers. The
// server is watched: when it ends by itself it is started again, and after
// several failures in a row Failed says why. The server ends with the process
// that started it, also when that process is killed.
//
// Layout of the folder:
//
//	lock         held by the process that has the folder
//	server.json  the service's password, for commands on the same machine
//	data/        MariaDB's data; the socket and the process file are in it
//	tmp/         temporary tables and files, emptied at each start
//	exports/     always empty: the only place LOAD DATA and OUTFILE may name
package mariadb

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"syscall"

	"github.com/go-sql-driver/mysql"
)

const (
	database   = "sparecrate"
	account    = "sparecrate"
	socketName = "server.sock"
	// network is the name under which the driver finds our dialer: see dial.
	network = "sparecrate"
)

// ErrInUse is returned by Open when another process has the folder.
var ErrInUse = errors.New("the data folder is in use by another sparecrate; stop that one first or give another folder with --data")

// Server is a running private server.
type Server struct {
	folder  string
	schemas []string // the account may use these besides its own
	lock    *os.File
	note    note
	log     *slog.Logger
	failed  chan error // receives once, when the server cannot be kept running

	mu      sync.Mutex
	process *process
	closing bool
}

// note is kept beside the data, so that commands on the same machine reach the server.
type note struct {
	Password string `json:"password"`
}

// Open starts the server of a folder and waits until it answers. The service's
// account may use its own schema and those that match one of the given patterns,
// written as in GRANT (`test\_%`). The error is ErrInUse when another process has
// the folder.
func Open(ctx context.Context, folder string, log *slog.Logger, schemas ...string) (*Server, error) {
	folder, err := filepath.Abs(folder)
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return nil, fmt.Errorf("make the database folder: %w", err)
	}
	// A folder that was made with other rights, or restored from a backup.
	if err := os.Chmod(folder, 0o700); err != nil { //nolint:gosec // a folder needs the execute bit
		return nil, fmt.Errorf("close the database folder to others: %w", err)
	}
	lock, err := takeLock(filepath.Join(folder, "lock"))
	if err != nil {
		return nil, err
	}
	s := &Server{folder: folder, schemas: schemas, lock: lock, log: log, failed: make(chan error, 1), note: note{Password: rand.Text()}}
	if err := s.start(ctx); err != nil {
		_ = lock.Close()
		return nil, err
	}
	go s.watch()
	return s, nil
}

func takeLock(path string) (*os.File, error) {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, fmt.Errorf("open the folder's lock: %w", err)
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		_ = f.Close()
		return nil, ErrInUse
	}
	return f, nil
}

// start ends what an earlier run left in the folder, prepares the folder and
// launches the server.
func (s *Server) start(ctx context.Context) error {
	if err := endLeftover(s.path("data")); err != nil {
		return err
	}
	if err := s.install(ctx); err != nil {
		return err
	}
	p, err := s.launch(ctx)
	if err != nil {
		return err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.process = p
	return nil
}

func (s *Server) path(name string) string { return filepath.Join(s.folder, name) }

func (s *Server) writeNote() error {
	b, err := json.Marshal(s.note)
	if err != nil {
		return err
	}
	return os.WriteFile(s.path("server.json"), b, 0o600)
}

// Running returns the data source name of the server that another process runs in
// a folder; the error says so when none does.
func Running(ctx context.Context, folder string) (string, error) {
	folder, err := filepath.Abs(folder)
	if err != nil {
		return "", err
	}
	s := &Server{folder: folder}
	b, err := os.ReadFile(s.path("server.json"))
	if err == nil {
		err = json.Unmarshal(b, &s.note)
	}
	if err != nil {
		return "", fmt.Errorf("no database runs in %s: %w", folder, err)
	}
	if err := s.wait(ctx, nil); err != nil {
		return "", err
	}
	return s.DSN(""), nil
}

// DSN returns the data source name for a database of this server; an empty name is
// the service's own. It holds the password and works in this process only.
func (s *Server) DSN(name string) string {
	if name == "" {
		name = database
	}
	c := mysql.NewConfig()
	c.User, c.Passwd, c.Net, c.Addr, c.DBName = account, s.note.Password, network, s.path(filepath.Join("data", socketName)), name
	return c.FormatDSN()
}

func init() { mysql.RegisterDialContext(network, dial) }

// maxSocketPath is what an address of a Unix socket holds on Linux, bytes.
const maxSocketPath = 107

// dial connects to a socket by its path. Paths that are longer than a socket
// address holds are reached through the folder's descriptor.
func dial(ctx context.Context, path string) (net.Conn, error) {
	var d net.Dialer
	if len(path) <= maxSocketPath {
		return d.DialContext(ctx, "unix", path)
	}
	folder, err := os.Open(filepath.Dir(path)) //nolint:gosec // the server's own folder
	if err != nil {
		return nil, err
	}
	defer func() { _ = folder.Close() }()
	return d.DialContext(ctx, "unix", fmt.Sprintf("/proc/self/fd/%d/%s", folder.Fd(), filepath.Base(path)))
}

// accounts are the statements that run at each start before the server answers:
// they remove every account but the ones needed, so that folders of older versions
// and folders that somebody tampered with are sound again.
func (s *Server) accounts() string {
	grants := []string{"`" + database + "`"}
	for _, pattern := range s.schemas {
		grants = append(grants, "`"+pattern+"`")
	}
	user := "'" + account + "'@'localhost'"
	all := []string{
		"CREATE DATABASE IF NOT EXISTS " + database + " CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci",
		"DELETE FROM mysql.global_priv WHERE User <> 'mariadb.sys'",
	}
	for _, table := range []string{"db", "tables_priv", "columns_priv", "procs_priv", "proxies_priv", "roles_mapping"} {
		all = append(all, "DELETE FROM mysql."+table+" WHERE User <> 'mariadb.sys'")
	}
	all = append(all, "FLUSH PRIVILEGES", "CREATE USER "+user+" IDENTIFIED BY '"+s.note.Password+"'")
	for _, schema := range grants {
		all = append(all, "GRANT ALL ON "+schema+".* TO "+user)
	}
	return strings.Join(all, ";\n") + ";\n"
}

// PID returns the number of the server's process.
func (s *Server) PID() int {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.process.pid
}

// Failed receives an error when the server ended and could not be started again.
func (s *Server) Failed() <-chan error { return s.failed }

// Close stops the server cleanly and releases the folder.
func (s *Server) Close() error {
	s.mu.Lock()
	s.closing = true
	p := s.process
	s.mu.Unlock()
	return errors.Join(p.end(), s.lock.Close())
}
