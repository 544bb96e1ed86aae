package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Job is a piece of work that some process takes up: what it is for programs
// (kind, key, payload) and for people (title), and how far it is. A kind and key
// name one piece of work however often it is asked for.
type Job struct {
	ID             int64
	Kind, JobKey   string
	Title, Payload string // Payload is JSON
	State          string
	Attempts       int
	RunAt          time.Time // not before
	Holder         string    // the process at it
	LeaseUntil     *time.Time
	Done, Total    int // progress, Total 0 where it is not known
	Error          string
	CreatedAt      time.Time
	FinishedAt     *time.Time
}

// The states of a job.
const (
	JobWaiting = "waiting"
	JobRunning = "running"
	JobDone    = "done"
	JobFailed  = "failed"
)

// AddJob asks for work. Where the same is asked for already it stays as it is,
// but what was done or given up is to be done again.
func (s *Store) AddJob(ctx context.Context, j *Job) error {
	fresh := map[string]any{}
	for column, value := range map[string]string{
		"attempts": "0", "run_at": "NOW(6)", "error": "''", "done": "0", "finished_at": "NULL", "created_at": "NOW(6)", "state": "'waiting'",
	} {
		fresh[column] = gorm.Expr("IF(state IN ('done', 'failed'), " + value + ", " + column + ")")
	}
	// MariaDB sets columns one after the other, so state, which the others ask for, comes last.
	assign := clause.Set{}
	for _, column := range []string{"attempts", "run_at", "error", "done", "finished_at", "created_at", "state"} {
		assign = append(assign, clause.Assignment{Column: clause.Column{Name: column}, Value: fresh[column]})
	}
	row := map[string]any{
		"kind": j.Kind, "job_key": j.JobKey, "title": j.Title, "payload": j.Payload, "state": JobWaiting, "attempts": 0,
		"run_at": gorm.Expr("NOW(6)"), "holder": "", "done": 0, "total": 0, "error": "", "created_at": gorm.Expr("NOW(6)"),
	}
	return s.db.WithContext(ctx).Model(&Job{}).Clauses(clause.OnConflict{DoUpdates: assign}).Create(row).Error
}

// JobByKey finds a job by what it is.
func (s *Store) JobByKey(ctx context.Context, kind, key string) (*Job, error) {
	return first[Job](s.db.WithContext(ctx).Where("kind = ? AND job_key = ?", kind, key))
}

// JobsByKeys gives the jobs of one kind that there are, by key.
func (s *Store) JobsByKeys(ctx context.Context, kind string, keys []string) (map[string]Job, error) {
	found, err := list[Job](s.db.WithContext(ctx).Where("kind = ? AND job_key IN ?", kind, keys))
	byKey := map[string]Job{}
	for _, j := range found {
		byKey[j.JobKey] = j
	}
	return byKey, err
}

// LeaseJob takes the next job for a holder: one whose holder let its lease run
// out, else the one that waits longest. It takes the kinds given only, and with
// id that one or none. ErrNotFound where there is nothing to take.
func (s *Store) LeaseJob(ctx context.Context, kinds []string, id int64, holder string, lease time.Duration) (*Job, error) {
	var job *Job
	err := s.Tx(ctx, func(tx *Store) error {
		for _, which := range []struct{ where, order string }{
			// A time further ahead than anybody sets one was written before the
			// database's clock was set back.
			{"state = 'running' AND (lease_until < NOW(6) OR lease_until > NOW(6) + INTERVAL 10 MINUTE)", "lease_until"},
			{"state = 'waiting' AND (run_at <= NOW(6) OR run_at > NOW(6) + INTERVAL 10 MINUTE)", "run_at, id"},
		} {
			q := tx.db.WithContext(ctx).Clauses(clause.Locking{Strength: clause.LockingStrengthUpdate, Options: clause.LockingOptionsSkipLocked}).
				Where(which.where).Where("kind IN ?", kinds).Order(which.order).Limit(1)
			if id != 0 {
				q = q.Where("id = ?", id)
			}
			found, err := list[Job](q)
			if err != nil {
				return err
			}
			if len(found) == 0 {
				continue
			}
			job = &found[0]
			job.Attempts, job.Holder, job.State = job.Attempts+1, holder, JobRunning
			return tx.db.WithContext(ctx).Model(&Job{}).Where("id = ?", job.ID).Updates(map[string]any{
				"state": JobRunning, "holder": holder, "attempts": job.Attempts, "lease_until": until(lease), "done": 0,
			}).Error
		}
		return ErrNotFound
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
func (s *Store) keep(ctx context.Context, j *Job, columns map[string]any) error {
	return s.Tx(ctx, func(tx *Store) error {
		r := tx.db.WithContext(ctx).Model(&Job{}).Where("id = ? AND state = 'running' AND holder = ? AND attempts = ?", j.ID, j.Holder, j.Attempts).Updates(columns)
		if r.Error == nil && r.RowsAffected == 0 {
			return ErrStale
		}
		return r.Error
	})
}

// RenewJob keeps a lease and says how far the work is.
func (s *Store) RenewJob(ctx context.Context, j *Job, lease time.Duration, done, total int) error {
	return s.keep(ctx, j, map[string]any{"lease_until": until(lease), "done": done, "total": total})
}

// FinishJob says that the work is done.
func (s *Store) FinishJob(ctx context.Context, j *Job) error {
	return s.keep(ctx, j, map[string]any{"state": JobDone, "lease_until": nil, "finished_at": gorm.Expr("NOW(6)"), "error": ""})
}

// FailJob says that the work failed for good.
func (s *Store) FailJob(ctx context.Context, j *Job, why string) error {
	return s.keep(ctx, j, map[string]any{"state": JobFailed, "lease_until": nil, "finished_at": gorm.Expr("NOW(6)"), "error": why})
}

// PutBackJob lets the work wait for a while; an attempt that was only
// interrupted does not count.
func (s *Store) PutBackJob(ctx context.Context, j *Job, wait time.Duration, why string, counts bool) error {
	attempts := j.Attempts
	if !counts {
		attempts--
	}
	return s.keep(ctx, j, map[string]any{"state": JobWaiting, "lease_until": nil, "run_at": until(wait), "error": why, "attempts": attempts})
}

// JobHolders returns the processes that hold jobs.
func (s *Store) JobHolders(ctx context.Context) ([]string, error) {
	var out []string
	err := s.db.WithContext(ctx).Model(&Job{}).Where("state = ?", JobRunning).Distinct().Pluck("holder", &out).Error
	return out, told(err)
}

// FreeJobs has the jobs of a holder that died taken up again.
func (s *Store) FreeJobs(ctx context.Context, holder string) error {
	return told(s.db.WithContext(ctx).Model(&Job{}).Where("state = ? AND holder = ?", JobRunning, holder).
		Updates(map[string]any{"state": JobWaiting, "lease_until": nil, "run_at": gorm.Expr("NOW(6)")}).Error)
}

// RetryJob has a job that failed done again. ErrStale where it did not fail.
func (s *Store) RetryJob(ctx context.Context, id int64) error {
	r := s.db.WithContext(ctx).Model(&Job{}).Where("id = ? AND state = 'failed'", id).
		Updates(map[string]any{"state": JobWaiting, "attempts": 0, "run_at": gorm.Expr("NOW(6)"), "finished_at": nil})
	if r.Error == nil && r.RowsAffected == 0 {
		return ErrStale
	}
	return r.Error
}

// Job gives a job by its number.
func (s *Store) Job(ctx context.Context, id int64) (*Job, error) {
	return first[Job](s.db.WithContext(ctx).Where("id = ?", id))
}

// Jobs gives a page of jobs, newest first, those of one state where it is given.
func (s *Store) Jobs(ctx context.Context, state string, p Page) ([]Job, error) {
	q := p.newest(s.db.WithContext(ctx))
	if state != "" {
		q = q.Where("state = ?", state)
	}
	return list[Job](q)
}

// JobsMoved says how jobs stand: it is the same as long as none is asked for, begins,
// goes on or ends. Each part is a look into an index.
func (s *Store) JobsMoved(ctx context.Context) (string, error) {
	var stood string
	err := s.db.WithContext(ctx).Raw("SELECT " + jobsStamp).Scan(&stood).Error
	return stood, told(err)
}

// jobStates says how jobs stand but for how far they are; jobsStamp that, too.
const (
	jobStates = `(SELECT MAX(id) FROM jobs), (SELECT MAX(finished_at) FROM jobs WHERE state = 'done'), (SELECT MAX(finished_at) FROM jobs WHERE state = 'failed'),
	(SELECT MAX(run_at) FROM jobs WHERE state = 'waiting'), (SELECT CONCAT_WS(' ', COUNT(*), SUM(id), SUM(attempts)) FROM jobs WHERE state = 'running')`
	jobsStamp = "CONCAT_WS(' ', " + jobStates + ", (SELECT CONCAT_WS(' ', SUM(done), SUM(total)) FROM jobs WHERE state = 'running'))"
)

// CountJobs counts jobs by state.
func (s *Store) CountJobs(ctx context.Context) (map[string]int, error) {
	var rows []struct {
		State string
		Count int
	}
	err := s.db.WithContext(ctx).Model(&Job{}).Select("state, COUNT(*) AS count").Group("state").Scan(&rows).Error
	counts := map[string]int{}
	for _, r := range rows {
		counts[r.State] = r.Count
	}
	return counts, err
}

// SweepJobs forgets jobs that ended before a time ago, a bounded number at once.
func (s *Store) SweepJobs(ctx context.Context, state string, ago time.Duration) error {
	return s.db.WithContext(ctx).Exec("DELETE FROM jobs WHERE state = ? AND finished_at < NOW(6) - INTERVAL ? SECOND LIMIT 1000", state, int(ago.Seconds())).Error
}
