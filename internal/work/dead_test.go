package work_test

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/store/jobdb"
	"sparecrate/internal/work"
)

// TestWorkOfADeadProcessOfThisMachineGoesOn has a process die that holds a job for
// minutes to come; one that lives keeps its job.
func TestWorkOfADeadProcessOfThisMachineGoesOn(t *testing.T) {
	s := records(t)
	q := queue(s, work.Holder(), func(context.Context, []byte, func(int, int)) error { return nil })
	add(t, s, q, "dead")
	add(t, s, q, "alive")
	ended := exec.Command("true")
	require.NoError(t, ended.Run())
	holder := strings.Replace(work.Holder(), fmt.Sprintf(".%d.", os.Getpid()), fmt.Sprintf(".%d.", ended.Process.Pid), 1)
	for key, who := range map[string]string{"dead": holder, "alive": work.Holder()} {
		_, err := jobdb.In(s).LeaseJob(t.Context(), []string{"test"}, state(t, s, key).ID, who, 5*time.Minute)
		require.NoError(t, err)
	}
	background(t, q)
	require.Eventually(t, func() bool { return state(t, s, "dead").State == jobdb.JobDone }, time.Minute, 20*time.Millisecond)
	assert.Equal(t, jobdb.JobRunning, state(t, s, "alive").State)
	assert.Equal(t, 2, state(t, s, "dead").Attempts, "the first try counts")
}

// TestAClockSetBackStopsNothing has jobs that were put off, and held by somebody who
// died, before the database's clock was set back by two hours.
func TestAClockSetBackStopsNothing(t *testing.T) {
	s := records(t)
	q := queue(s, work.Holder(), func(context.Context, []byte, func(int, int)) error { return nil })
	for _, key := range []string{"waiting", "held"} {
		add(t, s, q, key)
		j, err := jobdb.In(s).LeaseJob(t.Context(), []string{"test"}, state(t, s, key).ID, "of another machine", 2*time.Hour)
		require.NoError(t, err)
		if key == "waiting" {
			require.NoError(t, jobdb.In(s).PutBackJob(t.Context(), j, 2*time.Hour, "", true))
		}
	}
	background(t, q)
	for _, key := range []string{"waiting", "held"} {
		require.Eventually(t, func() bool { return state(t, s, key).State == jobdb.JobDone }, time.Minute, 20*time.Millisecond, key)
	}
}

// TestAJobThatDoesNotStopIsPutBack stops a queue whose handler goes on whatever it
// is told: the queue ends all the same, and the try does not count.
func TestAJobThatDoesNotStopIsPutBack(t *testing.T) {
	s := records(t)
	begun, end := make(chan bool), make(chan bool)
	q := queue(s, work.Holder(), func(context.Context, []byte, func(int, int)) error {
		close(begun)
		<-end
		return nil
	})
	defer close(end)
	add(t, s, q, "stuck")
	ctx, stop := context.WithCancel(context.Background())
	ended := make(chan bool)
	go func() { q.Run(ctx); close(ended) }()
	<-begun
	stop()
	<-ended
	j := state(t, s, "stuck")
	assert.Equal(t, jobdb.JobWaiting, j.State)
	assert.Zero(t, j.Attempts)
}
