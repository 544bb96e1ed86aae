// Package work has jobs done: each once, by one process at a time, until it
// succeeds or is given up.
//
// A job is a record in the database that any process may take up. Who takes it
// holds a lease and renews it while at work; when the holder dies, the lease
// runs out and another process goes on. So whatever a handler does it must be
// able to do again, and what it makes must be in place before it returns.
//
// Add asks for work to be done some time, within a transaction if need be; Do
// has it done now, by this process where no other is at it, and waits for it.
package work

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"runtime/debug"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"go.opentelemetry.io/otel/trace"

	"sparecrate/internal/store"
	"sparecrate/internal/store/jobdb"
	"sparecrate/internal/store/scope"
	"sparecrate/internal/traces"
)

// How long things take.
const (
	lease = 12 * time.Second // renewed six times; whoever does not is taken for dead
	idle  = time.Second      // between two looks for work
	// grace is how long a handler may take to return once its context has ended;
	// then it is left to itself and the job put back.
	grace       = 2 * time.Second
	maxAttempts = 5
	firstWait   = 2 * time.Second // before a second attempt; doubled for each one more
	keepDone    = 7 * 24 * time.Hour
	keepFailed  = 90 * 24 * time.Hour
	sweepEvery  = time.Hour

	takeOverEvery = 2 * time.Second
)

// Job is work to be asked for.
type Job struct {
	Kind    string
	Key     string // within the kind: what makes it the same work when it is asked for again
	Title   string // for people
	Payload any    // kept as JSON
	// Anew has the work done once more where it runs while it is asked for: it may have
	// passed what it is asked for.
	Anew bool
}

// Handler does the work of one kind. progress may be called any number of times.
// An error wrapping ErrHopeless is final; others are tried again.
type Handler func(ctx context.Context, payload []byte, progress func(done, total int)) error

// What a caller may want to tell apart.
var (
	// ErrHopeless says that another attempt would end the same.
	ErrHopeless = errors.New("it would fail again")
	// ErrFailed says that a job was given up; the message says why.
	ErrFailed = errors.New("the work was given up")
)

// Queue is where work is asked for and done.
type Queue struct {
	store    *store.Store
	holder   string
	log      *slog.Logger
	handlers map[string]Handler
	kinds    []string
	waited   []string      // kinds that people wait for
	busy     atomic.Int32  // how many of those this process is at
	slots    chan struct{} // a process works on as many jobs at once, in the background or for a caller
	wake     chan struct{}
	asides   []*aside
	looked   time.Time // when takeOver last looked
	// Observe is called when a job has ended, with its kind, how long it took and how it ended:
	// done, failed, or stopped. It may be nil; set it before Run.
	Observe func(kind string, took time.Duration, outcome string)
}

// New returns a queue that works on so many jobs at once. The holder's name must
// be no other process's.
func New(s *store.Store, holder string, slots int, log *slog.Logger) *Queue {
	return &Queue{store: s, holder: holder, log: log, handlers: map[string]Handler{}, slots: make(chan struct{}, slots), wake: make(chan struct{}, 1)}
}

// Handle says who does work of a kind; before Run. Work of other kinds is left
// to processes that know it.
func (q *Queue) Handle(kind string, h Handler) {
	q.handlers[kind] = h
	q.kinds = append(q.kinds, kind)
}

// aside does the jobs of one kind beside the others.
type aside struct {
	kind  string
	slots chan struct{}
	wake  chan struct{}
}

// HandleAside says who does work of a kind that is waited for more than it computes, as of
// another program: so many of them go on at once, beside the queue's others, and none of
// them keeps those waiting; before Run. Do does no such work.
func (q *Queue) HandleAside(kind string, atOnce int, h Handler) {
	q.handlers[kind] = h
	q.asides = append(q.asides, &aside{kind: kind, slots: make(chan struct{}, atOnce), wake: make(chan struct{}, 1)})
}

// runAside does the jobs of one kind until ctx ends and those under way have ended.
func (q *Queue) runAside(ctx context.Context, a *aside) {
	for ctx.Err() == nil {
		a.slots <- struct{}{}
		job, err := jobdb.In(q.store).LeaseJob(ctx, []string{a.kind}, 0, q.holder, lease)
		if err == nil {
			go func() {
				defer func() { <-a.slots }()
				q.run(ctx, job)
			}()
			continue
		}
		<-a.slots
		if !errors.Is(err, store.ErrNotFound) && ctx.Err() == nil {
			q.log.Error("no work can be taken up", "kind", a.kind, "error", err)
		}
		select {
		case <-ctx.Done():
		case <-a.wake:
		case <-time.After(2 * idle):
		}
	}
	for range cap(a.slots) {
		a.slots <- struct{}{}
	}
}

// Prefer says which kinds people wait for: they are taken up first, and while this
// process is at one, it takes up no others; before Run.
func (q *Queue) Prefer(kinds ...string) { q.waited = append(q.waited, kinds...) }

// next takes up the next job.
func (q *Queue) next(ctx context.Context) (*store.Job, error) {
	if len(q.waited) > 0 {
		job, err := jobdb.In(q.store).LeaseJob(ctx, q.waited, 0, q.holder, lease)
		if !errors.Is(err, store.ErrNotFound) {
			return job, err
		}
		if q.busy.Load() > 0 {
			return nil, store.ErrNotFound
		}
	}
	return jobdb.In(q.store).LeaseJob(ctx, q.kinds, 0, q.holder, lease)
}

// Add asks for work within a transaction. Call Wake once that is through.
func (q *Queue) Add(ctx context.Context, tx *store.Store, j Job) error {
	payload, err := json.Marshal(j.Payload)
	if err != nil {
		return err
	}
	if err := jobdb.In(tx).AddJob(ctx, &store.Job{Kind: j.Kind, JobKey: j.Key, Title: j.Title, Payload: string(payload)}, j.Anew); err != nil {
		return fmt.Errorf("ask for work: %w", err)
	}
	return nil
}

// Wake has Run look for work at once, as after a transaction that asked for some.
func (q *Queue) Wake() {
	waking := []chan struct{}{q.wake}
	for _, a := range q.asides {
		waking = append(waking, a.wake)
	}
	for _, w := range waking {
		select {
		case w <- struct{}{}:
		default:
		}
	}
}

// Do has the work done and waits for it: this process does it where nobody else
// is at it. The error wraps ErrFailed where it was given up.
func (q *Queue) Do(ctx context.Context, j Job) error {
	ctx = scope.Everything(ctx) // the work is the same for whoever asks
	if err := q.store.Tx(ctx, func(tx *store.Store) error { return q.Add(ctx, tx, j) }); err != nil {
		return err
	}
	q.Wake()
	for wait := 10 * time.Millisecond; ; wait = min(2*wait, 500*time.Millisecond) {
		now, err := jobdb.In(q.store).JobByKey(ctx, j.Kind, j.Key)
		if err != nil {
			return err
		}
		switch now.State {
		case jobdb.JobDone:
			return nil
		case jobdb.JobFailed:
			return fmt.Errorf("%w: %s", ErrFailed, now.Error)
		}
		if ran, err := q.tryNow(ctx, now.ID); ran || err != nil {
			if err != nil {
				return err
			}
			continue
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(wait):
		}
	}
}

// tryNow takes one job up if it can be had, in one of this process's slots.
func (q *Queue) tryNow(ctx context.Context, id int64) (ran bool, err error) {
	select {
	case q.slots <- struct{}{}:
	case <-ctx.Done():
		return false, ctx.Err()
	}
	defer func() { <-q.slots }()
	job, err := jobdb.In(q.store).LeaseJob(ctx, q.kinds, id, q.holder, lease)
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	q.run(ctx, job)
	return true, nil
}

// Run works in the background until ctx ends; then it lets what it is at come
// to its end or be put back.
func (q *Queue) Run(ctx context.Context) {
	var asides sync.WaitGroup
	for _, a := range q.asides {
		asides.Go(func() { q.runAside(ctx, a) })
	}
	defer asides.Wait()
	sweep := time.NewTicker(sweepEvery)
	defer sweep.Stop()
	for ctx.Err() == nil {
		q.slots <- struct{}{}
		q.takeOver(ctx)
		job, err := q.next(ctx)
		if err == nil {
			waited := slices.Contains(q.waited, job.Kind)
			if waited {
				q.busy.Add(1)
			}
			go func() {
				defer func() { <-q.slots }()
				q.run(ctx, job)
				if waited {
					q.busy.Add(-1)
					q.Wake()
				}
			}()
			continue
		}
		<-q.slots
		if !errors.Is(err, store.ErrNotFound) && ctx.Err() == nil {
			q.log.Error("no work can be taken up", "error", err)
		}
		select {
		case <-ctx.Done():
		case <-q.wake:
		case <-time.After(idle):
		case <-sweep.C:
			q.sweep(ctx)
		}
	}
	for range cap(q.slots) { // wait for all that are at work
		q.slots <- struct{}{}
	}
}

// takeOver frees the jobs of processes of this machine that are dead, now and then,
// so that they go on before their leases run out.
func (q *Queue) takeOver(ctx context.Context) {
	if time.Since(q.looked) < takeOverEvery {
		return
	}
	q.looked = time.Now()
	holders, err := jobdb.In(q.store).JobHolders(ctx)
	if err != nil {
		return // the next look for work says why
	}
	for _, h := range holders {
		if h != q.holder && dead(h) {
			q.log.Info("taking over the jobs of a process that died", "holder", h)
			if err := jobdb.In(q.store).FreeJobs(ctx, h); err != nil {
				q.log.Error("jobs of a dead process cannot be taken over", "error", err)
			}
		}
	}
}

func (q *Queue) sweep(ctx context.Context) {
	err := errors.Join(jobdb.In(q.store).SweepJobs(ctx, jobdb.JobDone, keepDone), jobdb.In(q.store).SweepJobs(ctx, jobdb.JobFailed, keepFailed))
	if err != nil && ctx.Err() == nil {
		q.log.Error("old jobs cannot be forgotten", "error", err)
	}
}

// run does a leased job and records how it ended.
func (q *Queue) run(ctx context.Context, job *store.Job) {
	working, stop := context.WithCancel(ctx)
	defer stop()
	var done, total atomic.Int64
	renewed := make(chan struct{})
	go func() {
		defer close(renewed)
		tick := time.NewTicker(lease / 6)
		defer tick.Stop()
		for {
			select {
			case <-working.Done():
				return
			case <-tick.C:
				if err := jobdb.In(q.store).RenewJob(working, job, lease, int(done.Load()), int(total.Load())); errors.Is(err, store.ErrStale) {
					stop() // somebody else has it by now
				}
			}
		}
	}()
	start := time.Now()
	traced, span := traces.Begin(working, "job "+job.Kind, trace.WithNewRoot(), trace.WithAttributes(traces.Kind.String(job.Kind)))
	err := q.bounded(traced, job, func(d, t int) { done.Store(int64(d)); total.Store(int64(t)) })
	stopped := working.Err() != nil
	traces.End(span, err)
	stop()
	<-renewed
	q.observe(job.Kind, time.Since(start), err, stopped)
	// The record is written even when the caller has gone.
	ending, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
	defer cancel()
	if bad := q.end(ending, job, err, stopped); bad != nil && !errors.Is(bad, store.ErrStale) {
		q.log.Error("the end of a job cannot be recorded", "job", job.Title, "error", bad)
	}
}

func (q *Queue) observe(kind string, took time.Duration, err error, stopped bool) {
	if q.Observe == nil {
		return
	}
	outcome := "done"
	switch {
	case stopped:
		outcome = "stopped"
	case err != nil:
		outcome = "failed"
	}
	q.Observe(kind, took, outcome)
}

// end records how a job ended.
func (q *Queue) end(ctx context.Context, job *store.Job, err error, stopped bool) error {
	switch {
	case err == nil:
		return jobdb.In(q.store).FinishJob(ctx, job)
	case stopped:
		q.Wake()
		return jobdb.In(q.store).PutBackJob(ctx, job, 0, "", false)
	case errors.Is(err, ErrHopeless) || job.Attempts >= maxAttempts:
		q.log.Error("a job was given up", "job", job.Title, "attempts", job.Attempts, "error", err)
		return jobdb.In(q.store).FailJob(ctx, job, err.Error())
	}
	return jobdb.In(q.store).PutBackJob(ctx, job, firstWait<<(job.Attempts-1), err.Error(), true)
}

// bounded handles a job and waits for its end, but no longer than grace once ctx
// has ended.
func (q *Queue) bounded(ctx context.Context, job *store.Job, progress func(done, total int)) error {
	ended := make(chan error, 1)
	go func() { ended <- q.handle(ctx, job, progress) }()
	select {
	case err := <-ended:
		return err
	case <-ctx.Done():
	}
	select {
	case err := <-ended:
		return err
	case <-time.After(grace):
		q.log.Warn("a job does not stop; it is put back", "job", job.Title)
		return ctx.Err()
	}
}

// handle calls the handler; a panic in it is an error of the job, not the end
// of the service.
func (q *Queue) handle(ctx context.Context, job *store.Job, progress func(done, total int)) (err error) {
	defer func() {
		if p := recover(); p != nil {
			q.log.Error("a job broke off", "job", job.Title, "panic", p, "stack", string(debug.Stack()))
			err = fmt.Errorf("%w: it broke off: %v", ErrHopeless, p)
		}
	}()
	if job.Attempts > maxAttempts {
		return fmt.Errorf("%w: whoever took it up died, %d times", ErrHopeless, job.Attempts-1)
	}
	if job.ClientID != nil {
		ctx = scope.About(ctx, *job.ClientID)
	}
	return q.handlers[job.Kind](ctx, []byte(job.Payload), progress)
}
