// Package jail runs parsers of hostile files in a process of their own: the same
// binary, started again, with limits on processor time, memory and open files, without
// the service's environment, and killed when it goes over a limit. Whatever such a file
// does to a parser ends with that process.
//
// A package registers what it runs in a variable of its own, before main begins:
//
//	var inJail = jail.Register("pdf", func(in []byte) ([]byte, error) { ... })
//
// and calls it as out, err := inJail.Run(ctx, in).
package jail

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"runtime"
	"runtime/debug"
	"strings"
	"syscall"
	"time"
)

// The limits of one run.
const (
	// A second of processor time, and one more for each of these bytes of input.
	bytesASecond = 1 << 20
	mostSeconds  = 20
	// memory is for data, stacks and heap, beside a few times the input, bytes.
	memory    = 256 << 20
	perByte   = 8
	mostBytes = 768 << 20
	openFiles = 16
	// patience is how long a run may take by the clock; a machine under load is slow.
	patience = 45 * time.Second
	maxOut   = 4 << 20 // bytes of output
	variable = "SPARECRATE_JAIL"
	// exitRefused is the exit code of a run whose function returned an error.
	exitRefused = 3
)

// ErrOver is returned when a run went over a limit or broke off.
var ErrOver = errors.New("it takes more time or memory to read than is allowed")

// Jail is a function that runs in a process of its own.
type Jail struct{ name string }

// Register names a function. In the process that is started for it, it does not
// return: it runs the function on standard input and ends.
func Register(name string, do func(in []byte) ([]byte, error)) Jail {
	if os.Getenv(variable) == name {
		serve(do)
	}
	return Jail{name}
}

// serve runs a function on standard input and ends the process.
func serve(do func([]byte) ([]byte, error)) {
	in, err := io.ReadAll(os.Stdin)
	if err != nil {
		os.Exit(1)
	}
	most := min(memory+perByte*int64(len(in)), mostBytes)
	debug.SetMemoryLimit(most / 2)
	runtime.GOMAXPROCS(1)
	// What starting took does not count.
	var used syscall.Rusage
	_ = syscall.Getrusage(syscall.RUSAGE_SELF, &used)
	started := time.Duration(used.Utime.Nano() + used.Stime.Nano())
	seconds := uint64(min(1+len(in)/bytesASecond, mostSeconds)) + uint64((started+800*time.Millisecond)/time.Second) //nolint:gosec // positive
	for what, limit := range map[int]uint64{
		syscall.RLIMIT_CPU: seconds, syscall.RLIMIT_DATA: uint64(most) + mapped(), syscall.RLIMIT_NOFILE: openFiles, //nolint:gosec // positive
		syscall.RLIMIT_FSIZE: maxOut, syscall.RLIMIT_CORE: 0,
	} {
		if err := syscall.Setrlimit(what, &syscall.Rlimit{Cur: limit, Max: limit}); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
	}
	out, err := do(in)
	if err != nil {
		_, _ = os.Stdout.WriteString(err.Error())
		os.Exit(exitRefused)
	}
	if _, err := os.Stdout.Write(out[:min(len(out), maxOut)]); err != nil {
		os.Exit(1)
	}
	os.Exit(0)
}

// mapped returns how much of this process the limit on data counts so far, in bytes: the
// Go runtime has reserved room for itself before anything is read, and several times as
// much where the race detector watches.
func mapped() uint64 {
	fields, err := os.ReadFile("/proc/self/statm")
	if err != nil {
		return 0
	}
	var size, resident, shared, text, lib, data uint64
	if _, err := fmt.Sscan(string(fields), &size, &resident, &shared, &text, &lib, &data); err != nil {
		return 0
	}
	return data * uint64(os.Getpagesize()) //nolint:gosec // positive
}

// slots bounds how many run at once.
var slots = make(chan struct{}, 2)

// Run runs the function on some input in a process of its own. The error is the
// function's, as text, or ErrOver, or the context's.
func (j Jail) Run(ctx context.Context, in []byte) ([]byte, error) {
	select {
	case slots <- struct{}{}:
		defer func() { <-slots }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	limited, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	cmd := exec.CommandContext(limited, "/proc/self/exe")
	cmd.Env = []string{variable + "=" + j.name}
	cmd.Dir = "/"
	cmd.Stdin = bytes.NewReader(in)
	var out bounded
	cmd.Stdout = &out
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGKILL}
	cmd.WaitDelay = time.Second
	// The kernel ties the child's end to the thread that starts it.
	runtime.LockOSThread()
	err := cmd.Run()
	runtime.UnlockOSThread()
	var exit *exec.ExitError
	switch {
	case err == nil:
		return out.b.Bytes(), nil
	case ctx.Err() != nil:
		return nil, ctx.Err()
	case errors.As(err, &exit) && exit.ExitCode() == exitRefused:
		return nil, errors.New(strings.ToValidUTF8(out.b.String(), "\uFFFD"))
	case errors.As(err, &exit):
		return nil, ErrOver
	}
	return nil, fmt.Errorf("start a process to read it in: %w", err)
}

// bounded keeps so much of an output and takes the rest without keeping it.
type bounded struct{ b bytes.Buffer }

func (w *bounded) Write(p []byte) (int, error) {
	w.b.Write(p[:min(len(p), maxOut-w.b.Len())])
	return len(p), nil
}
