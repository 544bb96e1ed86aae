// Package mariadb runs a private MariaDB server on loopback from a folder: the
// records of a service that was given no database of its own.
//
// The folder holds the server's data, a lock, and a note of how to reach the
// server (port, process, random password; readable by its owner only). Open
// makes what is missing, starts the server and waits until it answers. If a
// server from a run that crashed is still up in the folder, it is taken over.
// The lock makes sure that one process at a time has the folder.
package mariadb

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/go-sql-driver/mysql"
)

const (
	database = "sparecrate"
	account  = "sparecrate"
	// startPatience is how long a server may take until it answers; recovery after a crash is the slow case.
	startPatience = 90 * time.Second
	stopPatience  = 60 * time.Second
	pollEvery     = 50 * time.Millisecond
)

// ErrInUse says that another process has the folder.
var ErrInUse = errors.New("the data folder is in use by another sparecrate; stop that one first or give another folder with --data")

// Server is a running private server.
type Server struct {
	folder string
	lock   *os.File
	note   note
	pid    int
	exited chan struct{} // closed when a server we started is gone; nil for one taken over
}

// note is kept beside the data, so that a later run finds a server left running.
type note struct {
	Port     int    `json:"port"`
	Password string `json:"password"`
}

// Open starts or takes over the server of a folder and waits until it answers.
func Open(ctx context.Context, folder string, log *slog.Logger) (*Server, error) {
	folder, err := filepath.Abs(folder)
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return nil, fmt.Errorf("make the database folder: %w", err)
	}
	lock, err := takeLock(filepath.Join(folder, "lock"))
	if err != nil {
		return nil, err
	}
	s := &Server{folder: folder, lock: lock}
	if err := s.start(ctx, log); err != nil {
		_ = lock.Close()
		return nil, err
	}
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

func (s *Server) start(ctx context.Context, log *slog.Logger) error {
	if s.find() {
		if s.readNote() == nil && s.wait(ctx) == nil {
			log.Info("took over the database server a stopped run left", "pid", s.pid, "port", s.note.Port)
			return nil
		}
		log.Warn("the database server a stopped run left does not answer; stopping it", "pid", s.pid)
		if err := s.end(); err != nil {
			return err
		}
	}
	if err := s.install(ctx); err != nil {
		return err
	}
	return s.launch(ctx)
}

func (s *Server) path(name string) string { return filepath.Join(s.folder, name) }

func (s *Server) readNote() error {
	b, err := os.ReadFile(s.path("server.json"))
	if err != nil {
		return err
	}
	return json.Unmarshal(b, &s.note)
}

func (s *Server) writeNote() error {
	b, err := json.Marshal(s.note)
	if err != nil {
		return err
	}
	return os.WriteFile(s.path("server.json"), b, 0o600)
}

// find looks for a running server of this folder and notes its process. The
// process list is asked rather than a file: it is right at any moment a crash
// may come.
func (s *Server) find() bool {
	s.pid = 0
	lists, err := filepath.Glob("/proc/[0-9]*/cmdline")
	if err != nil {
		return false
	}
	for _, list := range lists {
		b, err := os.ReadFile(list)
		if err != nil || !slices.Contains(strings.Split(string(b), "\x00"), "--datadir="+s.path("data")) {
			continue
		}
		if pid, err := strconv.Atoi(filepath.Base(filepath.Dir(list))); err == nil {
			s.pid = pid
			return true
		}
	}
	return false
}

// install makes an empty data folder once; it is put in place whole or not at all.
func (s *Server) install(ctx context.Context) error {
	if _, err := os.Stat(s.path("data")); err == nil {
		return nil
	}
	tool, err := exec.LookPath("mariadb-install-db")
	if err != nil {
		return errors.New("MariaDB is not installed; install it with `apt-get install mariadb-server`, or give a server with --database")
	}
	// On a machine under load the tool fails now and then for no reason it tells;
	// it works on a folder of its own, so another attempt costs nothing.
	for attempt := 1; ; attempt++ {
		if err = s.prepare(ctx, tool); err == nil || attempt == installAttempts || ctx.Err() != nil {
			return err
		}
	}
}

// prepare runs the tool into a new folder and puts that in place once it is whole.
func (s *Server) prepare(ctx context.Context, tool string) error {
	fresh := s.path("data.new")
	if err := os.RemoveAll(fresh); err != nil {
		return err
	}
	cmd := exec.CommandContext(ctx, tool, "--no-defaults", "--datadir="+fresh, "--auth-root-authentication-method=normal", //nolint:gosec // our own arguments
		"--skip-test-db", "--skip-name-resolve", "--innodb-log-file-size=16M")
	cmd.Args = append(cmd.Args, rootUser()...)
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("prepare the database folder: %w: %s", err, strings.TrimSpace(string(out)))
	}
	return os.Rename(fresh, s.path("data"))
}

const installAttempts = 3

// rootUser is the argument the server asks for when it is started by root.
func rootUser() []string {
	if os.Getuid() == 0 {
		return []string{"--user=root"}
	}
	return nil
}

func (s *Server) launch(ctx context.Context) error {
	daemon, err := exec.LookPath("mariadbd")
	if err != nil {
		return errors.New("MariaDB is not installed; install it with `apt-get install mariadb-server`, or give a server with --database")
	}
	port, err := freePort()
	if err != nil {
		return err
	}
	s.note = note{Port: port, Password: rand.Text()}
	init := fmt.Sprintf("CREATE DATABASE IF NOT EXISTS %s CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci;\n"+
		"CREATE OR REPLACE USER '%s'@'127.0.0.1' IDENTIFIED BY '%s';\nGRANT ALL ON *.* TO '%[2]s'@'127.0.0.1';\n"+
		"ALTER USER root@localhost IDENTIFIED BY '%[3]s';\n", database, account, s.note.Password)
	if err := os.WriteFile(s.path("init.sql"), []byte(init), 0o600); err != nil {
		return err
	}
	if err := s.writeNote(); err != nil {
		return err
	}
	output, err := os.Create(s.path("server.log"))
	if err != nil {
		return err
	}
	defer func() { _ = output.Close() }()
	cmd := exec.Command(daemon, "--no-defaults", "--datadir="+s.path("data"), "--init-file="+s.path("init.sql"), //nolint:gosec,noctx // our own arguments; it outlives ctx on purpose
		"--bind-address=127.0.0.1", "--port="+strconv.Itoa(port), "--socket=server.sock", "--pid-file=server.pid",
		"--skip-name-resolve", "--skip-log-bin", "--innodb-log-file-size=16M", "--innodb-buffer-pool-size=128M",
		"--character-set-server=utf8mb4", "--collation-server=utf8mb4_unicode_520_ci", "--max-connections=200")
	cmd.Args = append(cmd.Args, rootUser()...)
	cmd.Stdout, cmd.Stderr = output, output
	// A group of its own: an interrupt from the terminal goes to us, and we stop the server when we are done with it.
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	if err := cmd.Start(); err != nil {
		return fmt.Errorf("start the database server: %w", err)
	}
	s.exited = make(chan struct{})
	go func() { _ = cmd.Wait(); close(s.exited) }()
	s.pid = cmd.Process.Pid
	if err := s.wait(ctx); err != nil {
		return errors.Join(err, s.end())
	}
	return os.Remove(s.path("init.sql"))
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0") //nolint:noctx // nothing to wait for
	if err != nil {
		return 0, err
	}
	defer func() { _ = l.Close() }()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// DSN is the data source name for a database of this server; an empty name is
// the service's own.
func (s *Server) DSN(name string) string {
	if name == "" {
		name = database
	}
	c := mysql.NewConfig()
	c.User, c.Passwd, c.Net, c.DBName = account, s.note.Password, "tcp", name
	c.Addr = net.JoinHostPort("127.0.0.1", strconv.Itoa(s.note.Port))
	return c.FormatDSN()
}

// PID is the server's process.
func (s *Server) PID() int { return s.pid }

// wait polls until the server answers our password.
func (s *Server) wait(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, startPatience)
	defer cancel()
	db, err := sql.Open("mysql", s.DSN(""))
	if err != nil {
		return err
	}
	defer func() { _ = db.Close() }()
	_ = mysql.SetLogger(quiet{})
	for {
		if err = db.PingContext(ctx); err == nil {
			return nil
		}
		select {
		case <-ctx.Done():
			return fmt.Errorf("the database server does not answer: %w; see %s", err, s.path("server.log"))
		case <-s.exited:
			return fmt.Errorf("the database server stopped while starting; see %s", s.path("server.log"))
		case <-time.After(pollEvery):
		}
	}
}

// quiet keeps refused connections while waiting out of the log.
type quiet struct{}

func (quiet) Print(...any) {}

// Close stops the server cleanly and gives the folder free.
func (s *Server) Close() error {
	return errors.Join(s.end(), s.lock.Close())
}

func (s *Server) end() error {
	if err := syscall.Kill(s.pid, syscall.SIGTERM); err != nil {
		if errors.Is(err, syscall.ESRCH) {
			return nil
		}
		return fmt.Errorf("stop the database server: %w", err)
	}
	deadline := time.After(stopPatience)
	for {
		select {
		case <-s.exited:
			return nil
		case <-deadline:
			return fmt.Errorf("the database server (process %d) does not stop", s.pid)
		case <-time.After(pollEvery):
			if s.exited == nil && !s.find() {
				return nil
			}
		}
	}
}
