package jail_test

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/jail"
)

var hog [][]byte

// acts does what its input names.
var acts = jail.Register("acts", func(in []byte) ([]byte, error) {
	switch what, _, _ := strings.Cut(string(in), " "); what {
	case "echo":
		return in, nil
	case "refuse":
		return nil, errors.New("the file is damaged")
	case "panic":
		panic("hostile")
	case "spin":
		for n := 0; ; n++ {
			_ = n
		}
	case "hog":
		for {
			hog = append(hog, make([]byte, 1<<20))
			for i := range hog[len(hog)-1] {
				hog[len(hog)-1][i] = 1
			}
		}
	case "sleep":
		time.Sleep(time.Minute)
	case "environment":
		return fmt.Append(nil, os.Environ()), nil
	case "write":
		return nil, os.WriteFile(os.TempDir()+"/jail-test", make([]byte, 8<<20), 0o600)
	}
	return nil, nil
})

func TestWhatRunsEnds(t *testing.T) {
	out, err := acts.Run(t.Context(), []byte("echo this"))
	require.NoError(t, err)
	assert.Equal(t, "echo this", string(out))
	_, err = acts.Run(t.Context(), []byte("refuse"))
	require.EqualError(t, err, "the file is damaged")
	for _, hostile := range []string{"panic", "spin", "hog"} {
		_, err = acts.Run(t.Context(), []byte(hostile))
		require.ErrorIs(t, err, jail.ErrOver, hostile)
	}
	t.Setenv("SPARECRATE_SECRET", "x")
	out, err = acts.Run(t.Context(), []byte("environment"))
	require.NoError(t, err)
	assert.NotContains(t, string(out), "SECRET")
}

// TestLimitsAreKept holds what a child used against its limits.
func TestLimitsAreKept(t *testing.T) {
	var before, after syscall.Rusage
	require.NoError(t, syscall.Getrusage(syscall.RUSAGE_CHILDREN, &before))
	_, err := acts.Run(t.Context(), []byte("spin"))
	require.ErrorIs(t, err, jail.ErrOver)
	_, err = acts.Run(t.Context(), []byte("hog"))
	require.ErrorIs(t, err, jail.ErrOver)
	require.NoError(t, syscall.Getrusage(syscall.RUSAGE_CHILDREN, &after))
	assert.Less(t, after.Utime.Sec+after.Stime.Sec-before.Utime.Sec-before.Stime.Sec, int64(6), "seconds of processor time")
	assert.Less(t, after.Maxrss, int64(600<<10), "kilobytes")
}

func TestACallerThatLeavesEndsIt(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	go func() {
		time.Sleep(50 * time.Millisecond)
		cancel()
	}()
	_, err := acts.Run(ctx, []byte("sleep"))
	require.ErrorIs(t, err, context.Canceled)
}
