package cli_test

import (
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// first starts a service for the first time, signs in, and returns its address.
func (s *shell) first() (address string, process *exec.Cmd) {
	s.t.Helper()
	lines, process := s.serve("serve", "--studio", "Lanternjaw Studio", "--admin-email", "ines@lanternjaw.example")
	address = regexp.MustCompile(`http://\S+`).FindString(lines[1])
	once := s.write("once", []byte(regexp.MustCompile(`one-time password (\S+) and`).FindStringSubmatch(lines[0])[1]+"\n"))
	s.ok("sign-in", "--email", "ines@lanternjaw.example", "--password-file", once, "--new-password-file", s.write("own", []byte("harbour lights at dusk")), address)
	return address, process
}

// database returns the process of the private database below a data folder.
func (s *shell) database() int {
	s.t.Helper()
	b, err := os.ReadFile(filepath.Join(s.folder, "data", "mariadb", "data", "server.pid"))
	require.NoError(s.t, err)
	pid, err := strconv.Atoi(strings.TrimSpace(string(b)))
	require.NoError(s.t, err)
	return pid
}

func get(t *testing.T, address string) (int, string) {
	t.Helper()
	r, err := http.Get(address) //nolint:gosec,noctx // the test's own service
	if err != nil {
		return 0, err.Error()
	}
	defer func() { _ = r.Body.Close() }()
	b, err := io.ReadAll(r.Body)
	require.NoError(t, err)
	return r.StatusCode, string(b)
}

// TestALockedOutAdminGetsIn resets the password of an admin on the machine itself, with
// a running service and without.
func TestALockedOutAdminGetsIn(t *testing.T) {
	s := newShell(t)
	address, process := s.first()
	data := s.folder + "/data"
	reset := func() string {
		out := s.ok("admin", "reset", "--data", data)
		m := regexp.MustCompile(`^Sign in as ines@lanternjaw\.example with the one-time password (\S+) and`).FindStringSubmatch(out)
		require.NotNil(t, m, out)
		return s.write("reset", []byte(m[1]))
	}
	once := reset()
	_, errs, code := s.run("families")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "token is not known", "the old tokens have ended")
	s.ok("sign-in", "--email", "ines@lanternjaw.example", "--password-file", once, "--new-password-file", s.write("next", []byte("a kettle on the quay")), address)
	_, errs, code = s.run("admin", "reset", "--data", data, "nobody@lanternjaw.example")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "The admins are ines@lanternjaw.example")

	require.NoError(t, process.Process.Signal(syscall.SIGTERM))
	require.NoError(t, process.Wait())
	once = reset()
	lines, _ := s.serve("serve")
	address = regexp.MustCompile(`http://\S+`).FindString(strings.Join(lines, " "))
	s.ok("sign-in", "--email", "ines@lanternjaw.example", "--password-file", once, "--new-password-file", s.write("last", []byte("three gulls and a crane")), address)

	_, errs, code = s.run("admin", "reset", "--data", s.folder+"/none")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "there is no data folder")
	_, errs, code = s.run("serve", "--database", "crate:secret@tcp(127.0.0.1:3306)/crate")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "--database-file", "no password on the command line")
}

// TestADeadDatabaseIsStartedAgain kills the private database under a running service.
func TestADeadDatabaseIsStartedAgain(t *testing.T) {
	s := newShell(t)
	address, process := s.first()
	s.ok("client", "add", "Holmvik Ferries")
	for range 2 {
		before := s.database()
		require.NoError(t, syscall.Kill(before, syscall.SIGKILL))
		require.Eventually(t, func() bool {
			status, _ := get(t, address+"/readyz")
			return status == http.StatusOK && s.database() != before
		}, time.Minute, 20*time.Millisecond)
		assert.Contains(t, s.ok("client", "list"), "Holmvik Ferries")
	}
	// A frozen one is told of, and nothing hangs.
	pid := s.database()
	require.NoError(t, syscall.Kill(pid, syscall.SIGSTOP))
	time.Sleep(100 * time.Millisecond) // until the signal reached all threads
	status, body := get(t, address+"/readyz")
	require.NoError(t, syscall.Kill(pid, syscall.SIGCONT))
	assert.Equal(t, http.StatusServiceUnavailable, status)
	assert.Contains(t, body, "database: ")
	require.Eventually(t, func() bool { status, _ := get(t, address+"/readyz"); return status == http.StatusOK }, time.Minute, 20*time.Millisecond)

	// The files' folder is gone, then back.
	files := s.folder + "/data/files"
	require.NoError(t, os.Rename(files, files+".away"))
	status, body = get(t, address+"/readyz")
	assert.Equal(t, http.StatusServiceUnavailable, status)
	assert.Contains(t, body, "files: ")
	require.NoError(t, os.Rename(files+".away", files))
	status, _ = get(t, address+"/readyz")
	assert.Equal(t, http.StatusOK, status)

	// It ends with the service, also with one that is killed.
	pid = s.database()
	require.NoError(t, process.Process.Kill())
	_ = process.Wait()
	require.Eventually(t, func() bool {
		b, err := os.ReadFile("/proc/" + strconv.Itoa(pid) + "/cmdline")
		return err != nil || len(b) == 0
	}, time.Minute, 20*time.Millisecond)
}

// TestAServiceWithoutADatabaseEnds takes MariaDB away, so that it cannot be started again.
func TestAServiceWithoutADatabaseEnds(t *testing.T) {
	s := newShell(t)
	tools := filepath.Join(s.folder, "tools")
	require.NoError(t, os.Mkdir(tools, 0o700))
	for _, name := range []string{"mariadbd", "mariadb-install-db"} {
		path, err := exec.LookPath(name)
		require.NoError(t, err)
		require.NoError(t, os.Symlink(path, filepath.Join(tools, name)))
	}
	s.env = append(s.env, "PATH="+tools+":/usr/bin:/bin")
	_, process := s.serve("serve")
	pid := s.database()
	require.NoError(t, os.WriteFile(filepath.Join(s.folder, "data", "mariadb", "data", "ibdata1"), []byte("spoilt"), 0o600))
	require.NoError(t, syscall.Kill(pid, syscall.SIGKILL))
	ended := make(chan error, 1)
	go func() { ended <- process.Wait() }()
	select {
	case err := <-ended:
		require.Error(t, err)
		assert.Equal(t, 5, process.ProcessState.ExitCode())
		assert.Contains(t, process.Stderr.(interface{ String() string }).String(), "the service ends because it has no database") //nolint:errcheck // what it is
	case <-time.After(2 * time.Minute):
		t.Fatal("the service goes on without a database")
	}
}
