package conversion

import (
	"context"
	"errors"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/jobdb"
)

// Jobs returns a page of the service's jobs, newest first, and how many there are
// in each state.
func (c *Conversion) Jobs(ctx context.Context, p *store.Person, q api.ListJobsParams) (*api.JobPage, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	at, err := app.ReadPage(q.Cursor, q.Limit)
	if err != nil {
		return nil, err
	}
	state := ""
	if q.State != nil && *q.State != "" {
		if !q.State.Valid() {
			return nil, app.InvalidField("state", "bad-state", "%q is not the state of a job. Choose waiting, running, done or failed.", *q.State)
		}
		state = string(*q.State)
	}
	items, err := jobdb.In(c.store).Jobs(ctx, state, at)
	if err != nil {
		return nil, err
	}
	counts, err := jobdb.In(c.store).CountJobs(ctx)
	if err != nil {
		return nil, err
	}
	items, next := app.CutPage(items, at, func(j store.Job) (string, int64) { return "", j.ID })
	return &api.JobPage{
		Items: app.Each(items, jobView), Next: next,
		Waiting: counts[jobdb.JobWaiting], Running: counts[jobdb.JobRunning], Failed: counts[jobdb.JobFailed],
	}, nil
}

// RetryJob has a job that was given up done again.
func (c *Conversion) RetryJob(ctx context.Context, p *store.Person, id int64) (*api.Job, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	err := c.store.Tx(ctx, func(tx *store.Store) error {
		j, err := jobdb.In(tx).Job(ctx, id)
		if err != nil {
			return err
		}
		if err := jobdb.In(tx).RetryJob(ctx, id); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "retried job", j.Title, j.Error)
	})
	if errors.Is(err, store.ErrStale) {
		return nil, app.Problem(app.Conflict, "not-failed", "Only a failed job can be retried.")
	}
	if err != nil {
		return nil, app.Explain(err, "job")
	}
	c.queue.Wake()
	j, err := jobdb.In(c.store).Job(ctx, id)
	if err != nil {
		return nil, err
	}
	v := jobView(*j)
	return &v, nil
}

func jobView(j store.Job) api.Job {
	v := api.Job{
		Id: j.ID, Kind: j.Kind, Title: j.Title, State: api.JobState(j.State), Attempts: j.Attempts, Done: j.Done, Total: j.Total,
		CreatedAt: j.CreatedAt, FinishedAt: j.FinishedAt,
	}
	if j.Error != "" {
		v.Why = &j.Error
	}
	return v
}
