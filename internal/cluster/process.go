package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"sync"
	"syscall"
	"time"
)

// Member is a program that runs in a network of its own.
type Member struct {
	Name, Address string
	space         string
	folder        string // for what it keeps, on a disk of limited size
	log           string
	args          func() []string
	env           []string

	mu   sync.Mutex
	cmd  *exec.Cmd
	done chan struct{}
}

// Start starts the program; what it says goes to its log.
func (m *Member) Start() error {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.running() {
		return nil
	}
	out, err := os.OpenFile(m.log, os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	defer func() { _ = out.Close() }()
	args := append([]string{"netns", "exec", m.space}, m.args()...)
	cmd := exec.Command("ip", args...) //nolint:gosec,noctx // our own arguments; it ends with Stop or Kill
	cmd.Dir, cmd.Env, cmd.Stdout, cmd.Stderr = m.folder, append(os.Environ(), m.env...), out, out
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	if err := cmd.Start(); err != nil {
		return fmt.Errorf("start %s: %w", m.Name, err)
	}
	done := make(chan struct{})
	go func() { _ = cmd.Wait(); close(done) }()
	m.cmd, m.done = cmd, done
	return nil
}

func (m *Member) running() bool {
	if m.cmd == nil {
		return false
	}
	select {
	case <-m.done:
		return false
	default:
		return true
	}
}

// Running says whether the program runs.
func (m *Member) Running() bool {
	m.mu.Lock()
	defer m.mu.Unlock()
	return m.running()
}

// signal sends a signal to the program and what it started.
func (m *Member) signal(s syscall.Signal) error {
	m.mu.Lock()
	defer m.mu.Unlock()
	if !m.running() {
		return nil
	}
	if err := syscall.Kill(-m.cmd.Process.Pid, s); err != nil && !errors.Is(err, syscall.ESRCH) {
		return fmt.Errorf("%s: %w", m.Name, err)
	}
	return nil
}

// Freeze stops the program where it is; Thaw lets it go on.
func (m *Member) Freeze() error { return m.signal(syscall.SIGSTOP) }

// Thaw lets a frozen program go on.
func (m *Member) Thaw() error { return m.signal(syscall.SIGCONT) }

// Kill ends the program at once.
func (m *Member) Kill() error {
	if err := m.signal(syscall.SIGKILL); err != nil {
		return err
	}
	return m.ended(10 * time.Second)
}

// Stop asks the program to end, and ends it where that takes too long.
func (m *Member) Stop() error {
	_ = m.signal(syscall.SIGCONT)
	if err := m.signal(syscall.SIGTERM); err != nil {
		return err
	}
	if m.ended(30*time.Second) == nil {
		return nil
	}
	return m.Kill()
}

func (m *Member) ended(within time.Duration) error {
	m.mu.Lock()
	done := m.done
	m.mu.Unlock()
	if done == nil {
		return nil
	}
	select {
	case <-done:
		return nil
	case <-time.After(within):
		return fmt.Errorf("%s does not end", m.Name)
	}
}

// diskSize is how much a member may keep.
const diskSize = "size=1500m"

// disk gives a member a disk of limited size, in memory.
func (m *Member) disk() error {
	if err := os.MkdirAll(m.folder, 0o700); err != nil {
		return err
	}
	return syscall.Mount("tmpfs", m.folder, "tmpfs", 0, diskSize)
}

// ballast is the file that fills a disk.
const ballast = "ballast"

// Fill leaves no room on the member's disk.
func (m *Member) Fill() error {
	f, err := os.Create(filepath.Join(m.folder, ballast))
	if err != nil {
		return err
	}
	defer func() { _ = f.Close() }()
	for block := make([]byte, 1<<20); ; {
		_, err := f.Write(block)
		if errors.Is(err, syscall.ENOSPC) && len(block) > 1<<10 {
			block = block[:1<<10]
			continue
		}
		if errors.Is(err, syscall.ENOSPC) {
			return nil
		}
		if err != nil {
			return err
		}
	}
}

// Empty makes room again.
func (m *Member) Empty() error { return os.Remove(filepath.Join(m.folder, ballast)) }

// eventually asks again until ok is true.
func eventually(ctx context.Context, within time.Duration, what string, ok func(context.Context) error) error {
	ctx, cancel := context.WithTimeout(ctx, within)
	defer cancel()
	var last error
	for {
		if last = ok(ctx); last == nil {
			return nil
		}
		select {
		case <-ctx.Done():
			return fmt.Errorf("%s does not happen within %s: %w", what, within, last)
		case <-time.After(200 * time.Millisecond):
		}
	}
}
