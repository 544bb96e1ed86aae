package work_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/store"
	"sparecrate/internal/store/jobdb"
	"sparecrate/internal/work"
)

func TestMain(m *testing.M) { mariadbtest.Main(m) }

func records(t *testing.T) *store.Store {
	t.Helper()
	s, err := store.Open(context.Background(), mariadbtest.New(t))
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s
}

func queue(s *store.Store, holder string, h work.Handler) *work.Queue {
	q := work.New(s, holder, 2, slog.New(slog.DiscardHandler))
	q.Handle("test", h)
	return q
}

// background runs queues until the test ends.
func background(t *testing.T, queues ...*work.Queue) {
	t.Helper()
	ctx, stop := context.WithCancel(context.Background())
	var all sync.WaitGroup
	for _, q := range queues {
		all.Go(func() { q.Run(ctx) })
	}
	t.Cleanup(func() { stop(); all.Wait() })
}

func job(key string) work.Job {
	return work.Job{Kind: "test", Key: key, Title: "Test " + key, Payload: map[string]string{"key": key}}
}

// add asks for a job as callers do, in a transaction.
func add(t *testing.T, s *store.Store, q *work.Queue, key string) {
	t.Helper()
	ctx := context.Background()
	require.NoError(t, s.Tx(ctx, func(tx *store.Store) error { return q.Add(ctx, tx, job(key)) }))
	q.Wake()
}

func state(t *testing.T, s *store.Store, key string) store.Job {
	t.Helper()
	j, err := jobdb.In(s).JobByKey(context.Background(), "test", key)
	require.NoError(t, err)
	return *j
}

// TestJobsAsideKeepNobodyWaiting has more jobs of a kind that is done aside than go on at
// once, while others are done; a stop puts those under way back.
func TestJobsAsideKeepNobodyWaiting(t *testing.T) {
	s := records(t)
	var now, most atomic.Int32
	q := work.New(s, "a", 1, slog.New(slog.DiscardHandler))
	q.Handle("test", func(context.Context, []byte, func(int, int)) error { return nil })
	q.HandleAside("slow", 2, func(ctx context.Context, _ []byte, _ func(int, int)) error {
		most.Store(max(most.Load(), now.Add(1)))
		defer now.Add(-1)
		<-ctx.Done()
		return ctx.Err()
	})
	ctx := context.Background()
	for i := range 4 {
		require.NoError(t, s.Tx(ctx, func(tx *store.Store) error {
			return q.Add(ctx, tx, work.Job{Kind: "slow", Key: fmt.Sprint(i), Title: "Slow", Payload: i})
		}))
	}
	running, stop := context.WithCancel(ctx)
	ended := make(chan bool)
	go func() { q.Run(running); close(ended) }()
	require.Eventually(t, func() bool { return now.Load() == 2 }, time.Minute, 10*time.Millisecond)
	add(t, s, q, "quick")
	require.Eventually(t, func() bool { return state(t, s, "quick").State == jobdb.JobDone }, time.Minute, 20*time.Millisecond)
	assert.Equal(t, int32(2), now.Load())
	stop()
	<-ended
	assert.Equal(t, int32(2), most.Load(), "no more than two at once")
	for i := range 4 {
		j, err := jobdb.In(s).JobByKey(ctx, "slow", fmt.Sprint(i))
		require.NoError(t, err)
		assert.Equal(t, jobdb.JobWaiting, j.State)
		assert.Zero(t, j.Attempts, "a stop counts for no try")
	}
}

// TestEachJobIsDoneOnce has three processes work on a hundred jobs, asked for
// in the background and by callers at the same time.
func TestEachJobIsDoneOnce(t *testing.T) {
	s := records(t)
	var mu sync.Mutex
	times := map[string]int{}
	count := func(_ context.Context, payload []byte, _ func(int, int)) error {
		var p map[string]string
		if err := json.Unmarshal(payload, &p); err != nil {
			return err
		}
		mu.Lock()
		defer mu.Unlock()
		times[p["key"]]++
		return nil
	}
	queues := []*work.Queue{queue(s, "a", count), queue(s, "b", count), queue(s, "c", count)}
	background(t, queues...)
	ctx := context.Background()
	var all sync.WaitGroup
	for i := range 100 {
		key := fmt.Sprint(i)
		add(t, s, queues[0], key)
		if i%5 == 0 {
			for _, q := range queues {
				all.Go(func() { assert.NoError(t, q.Do(ctx, job(key))) })
			}
		}
	}
	all.Wait()
	require.Eventually(t, func() bool {
		counts, err := jobdb.In(s).CountJobs(ctx)
		return err == nil && counts[jobdb.JobDone] == 100
	}, time.Minute, 20*time.Millisecond)
	mu.Lock()
	defer mu.Unlock()
	assert.Len(t, times, 100)
	for key, n := range times {
		// What callers ask for after it was done is done anew; nothing else is.
		if key[len(key)-1] != '0' && key[len(key)-1] != '5' {
			assert.Equal(t, 1, n, key)
		}
	}
}

// TestWhatIsAskedForWhileItRunsIsDoneAnew asks for work again while it is being done: it is
// done once more where the one who asks wants that.
func TestWhatIsAskedForWhileItRunsIsDoneAnew(t *testing.T) {
	for _, anew := range []bool{true, false} {
		s := records(t)
		var q *work.Queue
		var times atomic.Int32
		ctx := context.Background()
		ask := func(ctx context.Context) error {
			j := job("same")
			j.Anew = anew
			return s.Tx(ctx, func(tx *store.Store) error { return q.Add(ctx, tx, j) })
		}
		q = queue(s, "a", func(ctx context.Context, _ []byte, _ func(int, int)) error {
			if times.Add(1) == 1 {
				return ask(ctx)
			}
			return nil
		})
		require.NoError(t, ask(ctx))
		background(t, q)
		q.Wake()
		want := int32(1)
		if anew {
			want = 2
		}
		require.Eventually(t, func() bool { return state(t, s, "same").State == jobdb.JobDone }, time.Minute, 20*time.Millisecond)
		assert.Equal(t, want, times.Load())
		assert.Equal(t, 1, state(t, s, "same").Attempts)
	}
}

func TestDoNeedsNobodyInTheBackground(t *testing.T) {
	s := records(t)
	var running atomic.Int32
	leave := make(chan struct{})
	q := queue(s, "a", func(context.Context, []byte, func(int, int)) error {
		running.Add(1)
		<-leave
		running.Add(-1)
		return nil
	})
	var all sync.WaitGroup
	for i := range 8 {
		all.Go(func() { assert.NoError(t, q.Do(context.Background(), job(fmt.Sprint(i)))) })
	}
	require.Eventually(t, func() bool { return running.Load() == 2 }, 20*time.Second, time.Millisecond)
	for range 8 {
		assert.LessOrEqual(t, running.Load(), int32(2), "no more at once than there are slots")
		leave <- struct{}{}
	}
	all.Wait()
	assert.Equal(t, jobdb.JobDone, state(t, s, "7").State)
	assert.NotNil(t, state(t, s, "7").FinishedAt)
}

func TestFailures(t *testing.T) {
	s := records(t)
	ctx := context.Background()
	var tries atomic.Int32
	q := queue(s, "a", func(_ context.Context, payload []byte, _ func(int, int)) error {
		n := tries.Add(1)
		switch string(payload) {
		case `{"key":"hopeless"}`:
			return fmt.Errorf("the outlines are broken: %w", work.ErrHopeless)
		case `{"key":"panic"}`:
			panic("out of range")
		case `{"key":"second"}`:
			if n == 1 {
				return errors.New("the disk was full")
			}
		}
		return nil
	})
	err := q.Do(ctx, job("hopeless"))
	require.ErrorIs(t, err, work.ErrFailed)
	assert.Contains(t, err.Error(), "the outlines are broken")
	assert.EqualValues(t, 1, tries.Load(), "no second attempt")
	failed := state(t, s, "hopeless")
	assert.Equal(t, jobdb.JobFailed, failed.State)

	err = q.Do(ctx, job("panic"))
	require.ErrorIs(t, err, work.ErrFailed)
	assert.Contains(t, err.Error(), "it broke off: out of range")

	tries.Store(0)
	require.NoError(t, q.Do(ctx, job("second")), "what may pass is tried again")
	assert.EqualValues(t, 2, tries.Load())
	assert.Equal(t, 2, state(t, s, "second").Attempts)

	require.ErrorIs(t, jobdb.In(s).RetryJob(ctx, state(t, s, "second").ID), store.ErrStale, "only what failed is done again")
	require.NoError(t, jobdb.In(s).RetryJob(ctx, failed.ID))
	assert.Equal(t, jobdb.JobWaiting, state(t, s, "hopeless").State)
	require.ErrorIs(t, q.Do(ctx, job("hopeless")), work.ErrFailed)
	page := store.Page{Limit: 10}
	all, err := jobdb.In(s).Jobs(ctx, jobdb.JobFailed, page)
	require.NoError(t, err)
	assert.Len(t, all, 2)
}

// TestTheWorkOfTheDeadGoesOn takes a job and lets its lease run out, as a
// process that dies would.
func TestTheWorkOfTheDeadGoesOn(t *testing.T) {
	s := records(t)
	ctx := context.Background()
	done := make(chan string, 1)
	q := queue(s, "alive", func(_ context.Context, payload []byte, _ func(int, int)) error {
		done <- string(payload)
		return nil
	})
	add(t, s, q, "orphan")
	dead, err := jobdb.In(s).LeaseJob(ctx, []string{"test"}, 0, "dead", 200*time.Millisecond)
	require.NoError(t, err)
	_, err = jobdb.In(s).LeaseJob(ctx, []string{"test"}, 0, "alive", time.Minute)
	require.ErrorIs(t, err, store.ErrNotFound, "a job at work is nobody else's")
	_, err = jobdb.In(s).LeaseJob(ctx, []string{"other"}, 0, "alive", time.Minute)
	require.ErrorIs(t, err, store.ErrNotFound)
	background(t, q)
	select {
	case payload := <-done:
		assert.JSONEq(t, `{"key":"orphan"}`, payload)
	case <-time.After(20 * time.Second):
		require.Fail(t, "nobody took it over")
	}
	require.Eventually(t, func() bool { return state(t, s, "orphan").State == jobdb.JobDone }, time.Minute, 10*time.Millisecond)
	require.ErrorIs(t, jobdb.In(s).FinishJob(ctx, dead), store.ErrStale, "the dead cannot speak for it any more")
	require.ErrorIs(t, jobdb.In(s).RenewJob(ctx, dead, time.Minute, 1, 2), store.ErrStale)
	assert.Equal(t, 2, state(t, s, "orphan").Attempts)
}

// TestAnInterruptedJobIsPutBack ends a queue in the middle of a job.
func TestAnInterruptedJobIsPutBack(t *testing.T) {
	s := records(t)
	started := make(chan struct{})
	q := queue(s, "a", func(ctx context.Context, _ []byte, progress func(int, int)) error {
		progress(3, 9)
		close(started)
		<-ctx.Done()
		return ctx.Err()
	})
	add(t, s, q, "long")
	ctx, stop := context.WithCancel(context.Background())
	ended := make(chan struct{})
	go func() { q.Run(ctx); close(ended) }()
	<-started
	stop()
	select {
	case <-ended:
	case <-time.After(20 * time.Second):
		require.Fail(t, "the queue does not end")
	}
	j := state(t, s, "long")
	assert.Equal(t, jobdb.JobWaiting, j.State)
	assert.Zero(t, j.Attempts, "an interruption is no failed attempt")
}

func TestOldJobsAreForgotten(t *testing.T) {
	s := records(t)
	ctx := context.Background()
	q := queue(s, "a", func(context.Context, []byte, func(int, int)) error { return nil })
	require.NoError(t, q.Do(ctx, job("old")))
	require.NoError(t, jobdb.In(s).SweepJobs(ctx, jobdb.JobDone, time.Hour))
	assert.Equal(t, jobdb.JobDone, state(t, s, "old").State, "it is not old yet")
	require.NoError(t, jobdb.In(s).SweepJobs(ctx, jobdb.JobDone, -time.Hour))
	_, err := jobdb.In(s).JobByKey(ctx, "test", "old")
	require.ErrorIs(t, err, store.ErrNotFound)
}

// TestWhatPeopleWaitForComesFirst asks for a lot of other work before it, and has
// none of that taken up while a process is at what people wait for.
func TestWhatPeopleWaitForComesFirst(t *testing.T) {
	s := records(t)
	var mu sync.Mutex
	var order []string
	said := func(what string) {
		mu.Lock()
		defer mu.Unlock()
		order = append(order, what)
	}
	go1 := make(chan struct{})
	q := work.New(s, "one", 2, slog.New(slog.DiscardHandler))
	q.Handle("test", func(context.Context, []byte, func(int, int)) error { said("other"); return nil })
	q.Handle("waited", func(context.Context, []byte, func(int, int)) error {
		said("begun")
		<-go1
		said("ended")
		return nil
	})
	q.Prefer("waited")
	for i := range 3 {
		add(t, s, q, fmt.Sprint(i))
	}
	ctx := context.Background()
	require.NoError(t, s.Tx(ctx, func(tx *store.Store) error { return q.Add(ctx, tx, work.Job{Kind: "waited", Key: "w", Payload: 1}) }))
	background(t, q)
	require.Eventually(t, func() bool { mu.Lock(); defer mu.Unlock(); return len(order) > 0 }, 10*time.Second, time.Millisecond)
	add(t, s, q, "3") // wakes it
	require.Never(t, func() bool { mu.Lock(); defer mu.Unlock(); return len(order) > 1 }, 300*time.Millisecond, 10*time.Millisecond)
	close(go1)
	require.Eventually(t, func() bool { mu.Lock(); defer mu.Unlock(); return len(order) == 6 }, 10*time.Second, time.Millisecond)
	assert.Equal(t, []string{"begun", "ended", "other", "other", "other", "other"}, order)
}
