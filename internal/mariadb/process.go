package mariadb

import (
	"bufio"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/go-sql-driver/mysql"

	"sparecrate/internal/machine"
)

const (
	// startPatience is how long a server may take until it answers; recovery after a crash is the slow case.
	startPatience = 90 * time.Second
	// stopPatience is how long a server may take to stop; then it is killed, and recovers at its next start.
	stopPatience = 8 * time.Second
	pollEvery    = 20 * time.Millisecond
	// A server that ends by itself is started again at once, then after pauses that
	// double; after so many failures in a row it is given up. A failure is a start that
	// does not succeed, and a server that ends within steady of answering.
	firstPause  = 200 * time.Millisecond
	maxFailures = 5
	steady      = 500 * time.Millisecond

	installAttempts = 3
	lastLines       = 12
	maxLine         = 4096 // bytes

	accessDenied = 1045 // the number of MariaDB's error
)

// pool returns how much of a machine's memory the database may keep pages in, an eighth: it takes
// them as it fills them, so a small studio does not.
func pool(memory int64) int64 {
	const least, most = 128 << 20, 16 << 30
	return min(max(memory/8, least), most)
}

var errNotInstalled = errors.New("MariaDB is not installed; install it with `apt-get install mariadb-server-core mariadb-client-core`, or give a server with --database-file")

// process is a MariaDB process that this process started.
type process struct {
	pid    int
	exited chan struct{} // closed when the process is gone
	output *output
}

// install makes an empty data folder once; it is put in place whole or not at all.
func (s *Server) install(ctx context.Context) error {
	if _, err := os.Stat(s.path("data")); err == nil {
		return nil
	}
	tool, err := exec.LookPath("mariadb-install-db")
	if err != nil {
		return errNotInstalled
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
	if err := errors.Join(os.RemoveAll(fresh), s.emptyFolders()); err != nil {
		return err
	}
	cmd := exec.CommandContext(ctx, tool, "--no-defaults", "--datadir="+fresh, "--auth-root-authentication-method=normal", //nolint:gosec // our own arguments
		"--skip-test-db", "--skip-name-resolve", "--innodb-log-file-size=16M")
	cmd.Args = append(cmd.Args, rootUser()...)
	cmd.Env = s.environment()
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("prepare the database folder: %w: %s", err, strings.TrimSpace(string(out)))
	}
	return os.Rename(fresh, s.path("data"))
}

// emptyFolders makes the folders for temporary files and exports, empty.
func (s *Server) emptyFolders() error {
	for _, name := range []string{"tmp", "exports"} {
		if err := errors.Join(os.RemoveAll(s.path(name)), os.Mkdir(s.path(name), 0o700)); err != nil {
			return fmt.Errorf("make the database's folder %s: %w", name, err)
		}
	}
	return nil
}

// rootUser is the argument the server asks for when it is started by root.
func rootUser() []string {
	if os.Getuid() == 0 {
		return []string{"--user=root"}
	}
	return nil
}

// environment is what the server's programs run in. What systemd is told is told by us: the
// server would report itself in our place.
func (s *Server) environment() []string {
	return append(slices.DeleteFunc(os.Environ(), func(v string) bool { return strings.HasPrefix(v, "NOTIFY_SOCKET=") }), "TMPDIR="+s.path("tmp"))
}

// launch starts the server and waits until it answers.
func (s *Server) launch(ctx context.Context) (*process, error) {
	daemon, err := exec.LookPath("mariadbd")
	if err != nil {
		return nil, errNotInstalled
	}
	accounts := s.path("accounts.sql")
	if err := errors.Join(s.emptyFolders(), os.WriteFile(accounts, []byte(s.accounts()), 0o600), s.writeNote()); err != nil {
		return nil, err
	}
	defer func() { _ = os.Remove(accounts) }()                                                         // it holds the password
	cmd := exec.Command(daemon, "--no-defaults", "--datadir="+s.path("data"), "--init-file="+accounts, //nolint:gosec,noctx // our own arguments; it outlives ctx on purpose
		"--skip-networking", "--socket="+socketName, "--pid-file=server.pid", "--tmpdir="+s.path("tmp"), "--secure-file-priv="+s.path("exports"),
		"--skip-symbolic-links", "--local-infile=0", "--skip-name-resolve", "--skip-log-bin", "--innodb-log-file-size=16M", "--innodb-buffer-pool-size="+strconv.FormatInt(pool(machine.Memory()), 10),
		"--character-set-server=utf8mb4", "--collation-server=utf8mb4_unicode_520_ci", "--max-connections=200")
	cmd.Args = append(cmd.Args, rootUser()...)
	cmd.Env = s.environment()
	p, err := startWatched(cmd, s.log)
	if err != nil {
		return nil, fmt.Errorf("start the database server: %w", err)
	}
	if err := s.wait(ctx, p); err != nil {
		return nil, errors.Join(fmt.Errorf("%w; its last lines: %s", err, p.output.last()), p.end())
	}
	return p, nil
}

// startWatched starts a server so that it ends with this process. The kernel ties
// that to the thread that starts it, so one thread stays with the server.
func startWatched(cmd *exec.Cmd, log *slog.Logger) (*process, error) {
	read, write, err := os.Pipe()
	if err != nil {
		return nil, err
	}
	cmd.Stdout, cmd.Stderr = write, write
	// A group of its own: an interrupt from the terminal goes to us, and we stop the server when we are done with it.
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGTERM}
	p := &process{exited: make(chan struct{}), output: &output{log: log}}
	started := make(chan error, 1)
	go func() {
		runtime.LockOSThread() // and never unlocked: the thread ends with this function
		err := cmd.Start()
		_ = write.Close()
		if err == nil {
			p.pid = cmd.Process.Pid
		}
		started <- err
		if err == nil {
			_ = cmd.Wait()
			close(p.exited)
		}
	}()
	if err := <-started; err != nil {
		_ = read.Close()
		return nil, err
	}
	go p.output.follow(read)
	return p, nil
}

// output passes what the server prints to the log and keeps its last lines.
type output struct {
	log   *slog.Logger
	mu    sync.Mutex
	lines []string
}

func (o *output) follow(r io.ReadCloser) {
	defer func() { _ = r.Close() }()
	for in := bufio.NewReaderSize(r, maxLine); ; {
		b, _, err := in.ReadLine() // a longer line comes as several
		if err != nil {
			return
		}
		line := string(b)
		o.mu.Lock()
		o.lines = append(o.lines[max(0, len(o.lines)-lastLines+1):], line)
		o.mu.Unlock()
		level := slog.LevelDebug
		if strings.Contains(line, "[ERROR]") {
			level = slog.LevelWarn
		}
		o.log.Log(context.Background(), level, "database", "line", line)
	}
}

func (o *output) last() string {
	o.mu.Lock()
	defer o.mu.Unlock()
	return strings.Join(o.lines, " | ")
}

// wait polls until the server answers our password. With no process given, the
// server is another process's and gets one attempt.
func (s *Server) wait(ctx context.Context, p *process) error {
	ctx, cancel := context.WithTimeout(ctx, startPatience)
	defer cancel()
	db, err := sql.Open("mysql", s.DSN(""))
	if err != nil {
		return err
	}
	defer func() { _ = db.Close() }()
	for {
		err = db.PingContext(ctx)
		var refused *mysql.MySQLError
		switch {
		case err == nil:
			return nil
		case p == nil, errors.As(err, &refused) && refused.Number == accessDenied:
			return fmt.Errorf("the database server does not let the service in: %w", err)
		}
		select {
		case <-ctx.Done():
			return fmt.Errorf("the database server does not answer: %w", err)
		case <-p.exited:
			return errors.New("the database server stopped while starting")
		case <-time.After(pollEvery):
		}
	}
}

// end stops the server; one that does not stop in time is killed.
func (p *process) end() error {
	for _, how := range []struct {
		signal   syscall.Signal
		patience time.Duration
	}{{syscall.SIGTERM, stopPatience}, {syscall.SIGCONT, 0}, {syscall.SIGKILL, stopPatience}} {
		if err := syscall.Kill(p.pid, how.signal); err != nil && !errors.Is(err, syscall.ESRCH) {
			return fmt.Errorf("stop the database server: %w", err)
		}
		select {
		case <-p.exited:
			return nil
		case <-time.After(how.patience):
		}
	}
	return fmt.Errorf("the database server (process %d) does not stop", p.pid)
}

// watch starts the server again whenever it ends, until the server is closed.
func (s *Server) watch() {
	failures := 0
	for {
		s.mu.Lock()
		p := s.process
		s.mu.Unlock()
		began := time.Now()
		<-p.exited
		if time.Since(began) > steady {
			failures = 0
		}
		for {
			failures++
			if s.isClosing() {
				return
			}
			s.log.Error("the database server ended; starting it again", "failures", failures)
			err := s.restart()
			if err == nil {
				break
			}
			if failures >= maxFailures {
				s.failed <- fmt.Errorf("the private database ended %d times and cannot be started again: %w", failures, err)
				return
			}
			s.log.Error("the database server does not start", "error", err)
			time.Sleep(firstPause << failures)
		}
		if failures >= maxFailures {
			s.failed <- fmt.Errorf("the private database ended %d times within a short time; the log above says why", failures)
			return
		}
	}
}

func (s *Server) isClosing() bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.closing
}

// restart launches the server again. A server that is up only after Close was
// called is stopped at once.
func (s *Server) restart() error {
	p, err := s.launch(context.Background())
	if err != nil {
		return err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.process = p
	if s.closing {
		return p.end()
	}
	return nil
}

// endLeftover stops a server of this folder that an earlier run left: one that is
// still stopping, or one of a version whose servers went on. The process list is
// asked rather than a file: it is right at any moment a crash may come.
func endLeftover(data string) error {
	deadline := time.Now().Add(2 * stopPatience)
	for pid := leftover(data); pid != 0; pid = leftover(data) {
		signal := syscall.SIGTERM
		if time.Until(deadline) < stopPatience {
			signal = syscall.SIGKILL
		}
		if err := syscall.Kill(pid, signal); err != nil && !errors.Is(err, syscall.ESRCH) {
			return fmt.Errorf("stop the database server of an earlier run: %w", err)
		}
		if time.Now().After(deadline) {
			return fmt.Errorf("the database server of an earlier run (process %d) does not stop", pid)
		}
		time.Sleep(pollEvery)
	}
	return nil
}

// leftover returns the process that serves a data folder, 0 for none.
func leftover(data string) int {
	lists, err := filepath.Glob("/proc/[0-9]*/cmdline")
	if err != nil {
		return 0
	}
	for _, list := range lists {
		b, err := os.ReadFile(list) //nolint:gosec // the process list
		if err != nil || !slices.Contains(strings.Split(string(b), "\x00"), "--datadir="+data) {
			continue
		}
		if pid, err := strconv.Atoi(filepath.Base(filepath.Dir(list))); err == nil {
			return pid
		}
	}
	return 0
}
