package mariadb_test

import (
	"bytes"
	"context"
	"database/sql"
	"fmt"
	"log/slog"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/mariadb"
)

func TestMain(m *testing.M) {
	_ = mysql.SetLogger(&mysql.NopLogger{})
	os.Exit(m.Run())
}

func open(t *testing.T, folder string) *mariadb.Server {
	t.Helper()
	s, err := mariadb.Open(t.Context(), folder, slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	return s
}

// connect opens a database by a data source name.
func connect(t *testing.T, dsn string) *sql.DB {
	t.Helper()
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	t.Cleanup(func() { _ = db.Close() })
	return db
}

func run(t *testing.T, s *mariadb.Server, query string) {
	t.Helper()
	_, err := connect(t, s.DSN("")).ExecContext(t.Context(), query)
	require.NoError(t, err)
}

func gone(pid int) bool {
	b, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", pid))
	return err != nil || strings.Contains(string(b), ") Z ")
}

// TestServerEndsWithItsProcess starts a server in a process that is killed. The
// server ends too, and the next run has its records.
func TestServerEndsWithItsProcess(t *testing.T) {
	if folder := os.Getenv("MARIADB_TEST_FOLDER"); folder != "" {
		s := open(t, folder)
		run(t, s, "CREATE TABLE kept (n INT)")
		require.NoError(t, os.WriteFile(filepath.Join(folder, "ready"), []byte(strconv.Itoa(s.PID())), 0o600))
		select {} // until killed
	}
	// A path longer than an address of a socket holds.
	folder := filepath.Join(t.TempDir(), strings.Repeat("long", 30))
	child := exec.Command(os.Args[0], "-test.run=TestServerEndsWithItsProcess") //nolint:gosec // this very test
	child.Env = append(os.Environ(), "MARIADB_TEST_FOLDER="+folder)
	require.NoError(t, child.Start())
	var pid int
	require.Eventually(t, func() bool {
		b, err := os.ReadFile(filepath.Join(folder, "ready"))
		pid, _ = strconv.Atoi(string(b))
		return err == nil && pid != 0
	}, 2*time.Minute, 20*time.Millisecond)

	_, err := mariadb.Open(context.Background(), folder, slog.New(slog.DiscardHandler))
	require.ErrorIs(t, err, mariadb.ErrInUse, "one process at a time has the folder")
	dsn, err := mariadb.Running(t.Context(), folder)
	require.NoError(t, err)
	require.NoError(t, connect(t, dsn).PingContext(t.Context()), "another process of the same user reaches it")

	require.NoError(t, child.Process.Kill())
	_ = child.Wait()
	require.Eventually(t, func() bool { return gone(pid) }, time.Minute, 20*time.Millisecond, "the server outlives its process")
	s := open(t, folder)
	run(t, s, "INSERT INTO kept VALUES (1)")
	last := s.PID()
	require.NoError(t, s.Close())
	assert.True(t, gone(last), "a closed server is gone")
	_, err = mariadb.Running(t.Context(), folder)
	assert.Error(t, err)
}

// spoil puts accounts into a stopped folder as older versions and intruders would.
func spoil(t *testing.T, folder string) {
	t.Helper()
	args := []string{"--no-defaults", "--bootstrap", "--datadir=" + filepath.Join(folder, "data"), "--tmpdir=" + t.TempDir(), "--innodb-log-file-size=16M"}
	if os.Getuid() == 0 {
		args = append(args, "--user=root")
	}
	cmd := exec.Command("mariadbd", args...) //nolint:gosec // our own arguments
	var all []string
	for _, account := range []string{"'root','127.0.0.1'", "'root','localhost'", "'','localhost'", "'intruder','%'", "'sparecrate','127.0.0.1'"} {
		all = append(all, "REPLACE INTO mysql.global_priv VALUES ("+account+`,'{"access":18446744073709551615}');`)
	}
	cmd.Stdin = strings.NewReader(strings.Join(append(all, "REPLACE INTO mysql.db (Host, Db, User, Select_priv) VALUES ('%', 'sparecrate', 'intruder', 'Y');"), "\n") + "\n")
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
}

// TestNobodyElseGetsIn spoils a folder's accounts, starts the server on it, and
// tries every way in: as another user of the machine and as the same one, by socket
// and by network, with and without a password.
func TestNobodyElseGetsIn(t *testing.T) {
	folder := filepath.Join(t.TempDir(), "db")
	first := open(t, folder)
	require.NoError(t, first.Close())
	spoil(t, folder)
	require.NoError(t, os.Chmod(folder, 0o755)) //nolint:gosec // as after a careless restore
	s := open(t, folder)
	defer func() { require.NoError(t, s.Close()) }()

	// What is above the folder lets others pass, so that only the folder itself keeps them out.
	for dir := filepath.Dir(folder); dir != os.TempDir() && dir != "/"; dir = filepath.Dir(dir) {
		require.NoError(t, os.Chmod(dir, 0o755)) //nolint:gosec // see above
	}
	info, err := os.Stat(folder)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o700), info.Mode().Perm())
	assert.Empty(t, listening(t, s.PID()), "the server listens on the network")

	socket := filepath.Join(folder, "data", "server.sock")
	for _, user := range []string{"root", "intruder", "sparecrate", "", "mariadb.sys"} {
		for _, password := range []string{"", "x", "sparecrate"} {
			c := mysql.NewConfig()
			c.User, c.Passwd, c.Net, c.Addr = user, password, "sparecrate", socket
			var refused *mysql.MySQLError
			err := connect(t, c.FormatDSN()).PingContext(t.Context())
			if assert.ErrorAs(t, err, &refused, "%q with password %q gets in", user, password) {
				assert.Contains(t, []uint16{1045, 1698, 4151}, refused.Number)
			}
			for _, where := range [][]string{{"--socket=" + socket}, {"--protocol=tcp", "--host=127.0.0.1"}, {"--protocol=tcp", "--host=::1"}} {
				args := append([]string{"--no-defaults", "--user=" + user, "--connect-timeout=5", "--execute=SELECT 'in'"}, where...)
				if password != "" {
					args = append(args, "--password="+password)
				}
				out, err := asOther(t, "mariadb", args...)
				assert.Error(t, err, "%v: %s", args, out)
			}
		}
	}
}

// asOther runs a command as another user of the machine, where this one may do that.
func asOther(t *testing.T, name string, args ...string) (string, error) {
	t.Helper()
	cmd := exec.CommandContext(t.Context(), name, args...) //nolint:gosec // our own arguments
	cmd.Dir = "/"
	if os.Getuid() == 0 {
		nobody, err := user.Lookup("nobody")
		require.NoError(t, err)
		id, err := strconv.ParseUint(nobody.Uid, 10, 32)
		require.NoError(t, err)
		cmd.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: uint32(id), Gid: uint32(id)}}
	}
	out, err := cmd.CombinedOutput()
	return string(out), err
}

// listening returns the network sockets on which a process listens.
func listening(t *testing.T, pid int) []string {
	t.Helper()
	own := map[string]bool{}
	fds, err := filepath.Glob(fmt.Sprintf("/proc/%d/fd/*", pid))
	require.NoError(t, err)
	for _, fd := range fds {
		if to, err := os.Readlink(fd); err == nil {
			own[strings.TrimSuffix(strings.TrimPrefix(to, "socket:["), "]")] = true
		}
	}
	require.NotEmpty(t, own)
	var out []string
	for _, list := range []string{"tcp", "tcp6"} {
		b, err := os.ReadFile(fmt.Sprintf("/proc/%d/net/%s", pid, list))
		require.NoError(t, err)
		for line := range bytes.Lines(b) {
			if f := strings.Fields(string(line)); len(f) > 9 && f[3] == "0A" && own[f[9]] {
				out = append(out, f[1])
			}
		}
	}
	return out
}

// TestAccountHasItsOwnSchemaOnly tries what reaches beyond it: other schemas,
// accounts, and files of the machine.
func TestAccountHasItsOwnSchemaOnly(t *testing.T) {
	folder := t.TempDir()
	s := open(t, folder)
	defer func() { require.NoError(t, s.Close()) }()
	db := connect(t, s.DSN(""))
	for _, query := range []string{
		"CREATE DATABASE other", "SELECT * FROM mysql.global_priv", "CREATE USER x", "SELECT 1 INTO OUTFILE '" + folder + "/exports/x'",
		"LOAD DATA LOCAL INFILE '/etc/passwd' INTO TABLE x", "SET GLOBAL general_log = 1", "SHUTDOWN",
	} {
		_, err := db.ExecContext(t.Context(), query)
		assert.Error(t, err, query)
	}
	var file sql.NullString
	require.NoError(t, db.QueryRowContext(t.Context(), "SELECT LOAD_FILE('/etc/passwd')").Scan(&file))
	assert.False(t, file.Valid, "a file of the machine is read")
	var tmp, exports, local string
	require.NoError(t, db.QueryRowContext(t.Context(), "SELECT @@tmpdir, @@secure_file_priv, @@local_infile").Scan(&tmp, &exports, &local))
	assert.Equal(t, filepath.Join(folder, "tmp"), tmp, "temporary tables are kept apart from those of other servers")
	assert.Equal(t, filepath.Join(folder, "exports"), strings.TrimSuffix(exports, "/"))
	assert.Equal(t, "0", local)
	assert.NoFileExists(t, filepath.Join(folder, "accounts.sql"), "the password is in no file but the note")
}

// TestDeadServerIsStartedAgain kills the server and expects another within two
// seconds, under the same data source name.
func TestDeadServerIsStartedAgain(t *testing.T) {
	s := open(t, t.TempDir())
	run(t, s, "CREATE TABLE kept (n INT)")
	for range 2 {
		before := s.PID()
		require.NoError(t, syscall.Kill(before, syscall.SIGKILL))
		require.Eventually(t, func() bool {
			db, err := sql.Open("mysql", s.DSN(""))
			if err != nil {
				return false
			}
			defer func() { _ = db.Close() }()
			_, err = db.ExecContext(t.Context(), "INSERT INTO kept VALUES (1)")
			return err == nil && s.PID() != before
		}, time.Minute, 10*time.Millisecond)
	}
	require.NoError(t, s.Close())
}

// TestServerThatCannotBeStartedIsGivenUp takes the program away, so that no start
// succeeds.
func TestServerThatCannotBeStartedIsGivenUp(t *testing.T) {
	s := open(t, t.TempDir())
	t.Setenv("PATH", "")
	require.NoError(t, syscall.Kill(s.PID(), syscall.SIGKILL))
	select {
	case err := <-s.Failed():
		require.ErrorContains(t, err, "ended 5 times")
	case <-time.After(time.Minute):
		t.Fatal("the server is not given up")
	}
	require.NoError(t, s.Close())
}
