package jobdb

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
	"sparecrate/internal/store/scope"
)

// The states of a job.
const (
	JobWaiting = "waiting"
	JobRunning = "running"
	JobDone    = "done"
	JobFailed  = "failed"
)

// AddJob asks for work. Where the same is asked for already it stays as it is,
// but what was done or given up is to be done again, and with anew what is being done.
func (s Queries) AddJob(ctx context.Context, j *store.Job, anew bool) error {
	fresh := map[string]any{}
	for column, value := range map[string]string{
		"attempts": "0", "run_at": "NOW(6)", "error": "''", "done": "0", "finished_at": "NULL", "created_at": "NOW(6)", "state": "'waiting'",
	} {
		fresh[column] = gorm.Expr("IF(state IN ('done', 'failed'), " + value + ", " + column + ")")
	}
	if anew { // FinishJob sees by the new time that it is to be done again
		fresh["run_at"] = gorm.Expr("IF(state = 'waiting', run_at, NOW(6))")
	}
	// MariaDB sets columns one after the other, so state, which the others ask for, comes last.
	assign := clause.Set{}
	for _, column := range []string{"attempts", "run_at", "error", "done", "finished_at", "created_at", "state"} {
		assign = append(assign, clause.Assignment{Column: clause.Column{Name: column}, Value: fresh[column]})
	}
	row := map[string]any{
		"kind": j.Kind, "job_key": j.JobKey, "client_id": concerned(ctx), "title": j.Title, "payload": j.Payload, "state": JobWaiting, "attempts": 0,
		"run_at": gorm.Expr("NOW(6)"), "holder": "", "done": 0, "total": 0, "error": "", "created_at": gorm.Expr("NOW(6)"),
	}
	return s.On(ctx).Model(&store.Job{}).Clauses(clause.OnConflict{DoUpdates: assign}).Create(row).Error
}

// concerned is the client that a job concerns which is asked for in a context; nil where
// none is known.
func concerned(ctx context.Context) *int64 {
	if id := scope.Concerned(ctx); id != 0 {
		return &id
	}
	return nil
}

// JobByKey finds a job by what it is, whoever asked for it.
func (s Queries) JobByKey(ctx context.Context, kind, key string) (*store.Job, error) {
	return store.First[store.Job](s.On(scope.Everything(ctx)).Where("kind = ? AND job_key = ?", kind, key))
}

// JobsByKeys returns the jobs of one kind that there are, by key, whoever asked for them.
func (s Queries) JobsByKeys(ctx context.Context, kind string, keys []string) (map[string]store.Job, error) {
	found, err := store.List[store.Job](s.On(scope.Everything(ctx)).Where("kind = ? AND job_key IN ?", kind, keys))
	byKey := map[string]store.Job{}
	for _, j := range found {
		byKey[j.JobKey] = j
	}
	return byKey, err
}

// LeaseJob takes the next job for a holder: one whose holder let its lease run
// out, else the one that waits longest. It takes the kinds given only, and with
// id that one or none. ErrNotFound where there is nothing to take.
func (s Queries) LeaseJob(ctx context.Context, kinds []string, id int64, holder string, lease time.Duration) (*store.Job, error) {
	var job *store.Job
	err := s.Tx(ctx, func(tx *store.Store) error {
		for _, which := range []struct{ where, order string }{
			// A time further ahead than anybody sets one was written before the
			// database's clock was set back.
			{"state = 'running' AND (lease_until < NOW(6) OR lease_until > NOW(6) + INTERVAL 10 MINUTE)", "lease_until"},
			{"state = 'waiting' AND (run_at <= NOW(6) OR run_at > NOW(6) + INTERVAL 10 MINUTE)", "run_at, id"},
		} {
			q := tx.On(ctx).Clauses(clause.Locking{Strength: clause.LockingStrengthUpdate, Options: clause.LockingOptionsSkipLocked}).
				Where(which.where).Where("kind IN ?", kinds).Order(which.order).Limit(1)
			if id != 0 {
				q = q.Where("id = ?", id)
			}
			found, err := store.List[store.Job](q)
			if err != nil {
				return err
			}
			if len(found) == 0 {
				continue
			}
			job = &found[0]
			job.Attempts, job.Holder, job.State = job.Attempts+1, holder, JobRunning
			return tx.On(ctx).Model(&store.Job{}).Where("id = ?", job.ID).Updates(map[string]any{
				"state": JobRunning, "holder": holder, "attempts": job.Attempts, "lease_until": until(lease), "done": 0,
			}).Error
		}
		return store.ErrNotFound
	})
	if err != nil {
		return nil, err
	}
	return job, nil
}

// until is a time from now on by the database's clock, which all processes share.
func until(d time.Duration) clause.Expr {
	return gorm.Expr("NOW(6) + INTERVAL ? MICROSECOND", d.Microseconds())
}

// keep writes columns of a job as its holder took it, again where the database
// asks for that; ErrStale where another took it over since.
func (s Queries) keep(ctx context.Context, j *store.Job, columns map[string]any) error {
	return s.Tx(ctx, func(tx *store.Store) error {
		r := tx.On(ctx).Model(&store.Job{}).Where("id = ? AND state = 'running' AND holder = ? AND attempts = ?", j.ID, j.Holder, j.Attempts).Updates(columns)
		if r.Error == nil && r.RowsAffected == 0 {
			return store.ErrStale
		}
		return r.Error
	})
}

// RenewJob keeps a lease and says how far the work is.
func (s Queries) RenewJob(ctx context.Context, j *store.Job, lease time.Duration, done, total int) error {
	return s.keep(ctx, j, map[string]any{"lease_until": until(lease), "done": done, "total": total})
}

// FinishJob says that the work is done. Where it was asked for again since its holder took
// it, it waits to be done once more.
func (s Queries) FinishJob(ctx context.Context, j *store.Job) error {
	return s.keep(ctx, j, map[string]any{
		"state": gorm.Expr("IF(run_at = ?, 'done', 'waiting')", j.RunAt), "finished_at": gorm.Expr("IF(run_at = ?, NOW(6), NULL)", j.RunAt),
		"attempts": gorm.Expr("IF(run_at = ?, attempts, 0)", j.RunAt), "lease_until": nil, "error": "",
	})
}

// FailJob says that the work failed for good.
func (s Queries) FailJob(ctx context.Context, j *store.Job, why string) error {
	return s.keep(ctx, j, map[string]any{"state": JobFailed, "lease_until": nil, "finished_at": gorm.Expr("NOW(6)"), "error": why})
}

// PutBackJob lets the work wait for a while; an attempt that was only
// interrupted does not count.
func (s Queries) PutBackJob(ctx context.Context, j *store.Job, wait time.Duration, why string, counts bool) error {
	attempts := j.Attempts
	if !counts {
		attempts--
	}
	return s.keep(ctx, j, map[string]any{"state": JobWaiting, "lease_until": nil, "run_at": until(wait), "error": why, "attempts": attempts})
}

// JobHolders returns the processes that hold jobs.
func (s Queries) JobHolders(ctx context.Context) ([]string, error) {
	var out []string
	err := s.On(ctx).Model(&store.Job{}).Where("state = ?", JobRunning).Distinct().Pluck("holder", &out).Error
	return out, store.Told(err)
}

// FreeJobs has the jobs of a holder that died taken up again.
func (s Queries) FreeJobs(ctx context.Context, holder string) error {
	return store.Told(s.On(ctx).Model(&store.Job{}).Where("state = ? AND holder = ?", JobRunning, holder).
		Updates(map[string]any{"state": JobWaiting, "lease_until": nil, "run_at": gorm.Expr("NOW(6)")}).Error)
}

// RetryJob has a job that failed done again. ErrStale where it did not fail.
func (s Queries) RetryJob(ctx context.Context, id int64) error {
	r := s.On(ctx).Model(&store.Job{}).Where("id = ? AND state = 'failed'", id).
		Updates(map[string]any{"state": JobWaiting, "attempts": 0, "run_at": gorm.Expr("NOW(6)"), "finished_at": nil})
	if r.Error == nil && r.RowsAffected == 0 {
		return store.ErrStale
	}
	return r.Error
}

// Job returns a job by its number.
func (s Queries) Job(ctx context.Context, id int64) (*store.Job, error) {
	return store.First[store.Job](s.On(ctx).Where("id = ?", id))
}

// Jobs returns a page of jobs, newest first, those of one state where it is given.
func (s Queries) Jobs(ctx context.Context, state string, p store.Page) ([]store.Job, error) {
	q := p.Newest(s.On(ctx))
	if state != "" {
		q = q.Where("state = ?", state)
	}
	return store.List[store.Job](q)
}

// CountJobs counts jobs by state.
func (s Queries) CountJobs(ctx context.Context) (map[string]int, error) {
	var rows []struct {
		State string
		Count int
	}
	err := s.On(ctx).Model(&store.Job{}).Select("state, COUNT(*) AS count").Group("state").Scan(&rows).Error
	counts := map[string]int{}
	for _, r := range rows {
		counts[r.State] = r.Count
	}
	return counts, err
}

// Pending returns how many jobs of a kind have not ended.
func (s Queries) Pending(ctx context.Context, kind string) (int64, error) {
	var n int64
	err := s.On(ctx).Model(&store.Job{}).Where("kind = ? AND state IN (?, ?)", kind, JobWaiting, JobRunning).Count(&n).Error
	return n, store.Told(err)
}

// SweepJobs forgets jobs that ended before a time ago, a bounded number at once.
func (s Queries) SweepJobs(ctx context.Context, state string, ago time.Duration) error {
	return s.On(ctx).Exec("DELETE FROM jobs WHERE state = ? AND finished_at < NOW(6) - INTERVAL ? SECOND LIMIT 1000", state, int(ago.Seconds())).Error
}
