package store

import (
	"time"
)

// Job is a piece of work that some process takes up: what it is for programs
// (kind, key, payload) and for people (title), and how far it is. A kind and key
// name one piece of work however often it is asked for.
type Job struct {
	ID             int64
	ClientID       *int64 // what it is for concerns, where that is known
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

// jobStates says how jobs stand but for how far they are; jobsStamp that, too.
const (
	jobStates = `(SELECT MAX(id) FROM jobs), (SELECT MAX(finished_at) FROM jobs WHERE state = 'done'), (SELECT MAX(finished_at) FROM jobs WHERE state = 'failed'),
	(SELECT MAX(run_at) FROM jobs WHERE state = 'waiting'), (SELECT CONCAT_WS(' ', COUNT(*), SUM(id), SUM(attempts)) FROM jobs WHERE state = 'running')`
	JobsStamp = "CONCAT_WS(' ', " + jobStates + ", (SELECT CONCAT_WS(' ', SUM(done), SUM(total)) FROM jobs WHERE state = 'running'))"
)
