// Package auditdb holds the statements of the audit log: entries that are only added, and
// the head of their chain.
package auditdb

import (
	"context"
	"time"

	"gorm.io/gorm"

	"sparecrate/internal/store"
)

// Queries are these statements over a database or a transaction.
type Queries struct{ *store.Store }

// In returns the statements that run in s.
func In(s *store.Store) Queries { return Queries{s} }

// Entry is one line of the audit log.
type Entry struct {
	Seq      int64 `gorm:"primaryKey;autoIncrement:false"`
	At       time.Time
	PersonID int64 // 0 for nobody known
	Person   string
	Via      string // session or token
	Address  string
	Action   string
	Subject  string
	Outcome  string
	Detail   string
	Request  string // its number in the service's log
	Hash     string // of this entry and the one before
}

// TableName keeps GORM from guessing.
func (Entry) TableName() string { return "audit_entries" }

// Head is where the chain stands, and what its first kept entry goes on from.
type Head struct {
	Seq    int64 // of the last entry, 0 for none
	Hash   string
	First  int64 // of the first kept entry
	Before string
}

// Head returns the head, locked until the transaction ends where it is for adding.
func (s Queries) Head(ctx context.Context, adding bool) (h Head, err error) {
	lock := ""
	if adding {
		lock = " FOR UPDATE"
	}
	err = s.On(ctx).Raw("SELECT seq, hash, first, `before` FROM audit_head WHERE id = 1" + lock).Scan(&h).Error
	return h, store.Told(err)
}

// Add adds entries and moves the head to the last of them.
func (s Queries) Add(ctx context.Context, entries []Entry) error {
	if err := s.On(ctx).Create(&entries).Error; err != nil {
		return store.Told(err)
	}
	last := entries[len(entries)-1]
	return store.Told(s.On(ctx).Exec("UPDATE audit_head SET seq = ?, hash = ? WHERE id = 1", last.Seq, last.Hash).Error)
}

// Filter narrows entries; what is empty does not.
type Filter struct {
	Person, Action string // as they are written
	Words          string // in the subject, the detail or the address
	From, Before   time.Time
}

func (f Filter) on(q *gorm.DB) *gorm.DB {
	if f.Person != "" {
		q = q.Where("person = ?", f.Person)
	}
	if f.Action != "" {
		q = q.Where("action = ?", f.Action)
	}
	if f.Words != "" {
		q = q.Where("(LOCATE(?, subject) > 0 OR LOCATE(?, detail) > 0 OR LOCATE(?, address) > 0)", f.Words, f.Words, f.Words)
	}
	if !f.From.IsZero() {
		q = q.Where("at >= ?", f.From)
	}
	if !f.Before.IsZero() {
		q = q.Where("at < ?", f.Before)
	}
	return q
}

// Newest returns entries before one (from the end for 0), newest first.
func (s Queries) Newest(ctx context.Context, f Filter, before int64, limit int) ([]Entry, error) {
	q := f.on(s.On(ctx)).Order("seq DESC").Limit(limit)
	if before > 0 {
		q = q.Where("seq < ?", before)
	}
	return store.List[Entry](q)
}

// After returns entries after one in their order.
func (s Queries) After(ctx context.Context, f Filter, seq int64, limit int) ([]Entry, error) {
	return store.List[Entry](f.on(s.On(ctx)).Where("seq > ?", seq).Order("seq").Limit(limit))
}

// Choices returns everybody and every action in the log.
func (s Queries) Choices(ctx context.Context) (people, actions []string, err error) {
	if err = s.On(ctx).Model(&Entry{}).Distinct().Order("person").Limit(500).Pluck("person", &people).Error; err != nil {
		return nil, nil, store.Told(err)
	}
	err = s.On(ctx).Model(&Entry{}).Distinct().Order("action").Limit(500).Pluck("action", &actions).Error
	return people, actions, store.Told(err)
}

// LastBefore returns the last entry before a time; ErrNotFound where there is none.
func (s Queries) LastBefore(ctx context.Context, at time.Time) (*Entry, error) {
	return store.First[Entry](s.On(ctx).Where("at < ?", at).Order("seq DESC"))
}

// Forget removes entries up to one, which the chain then begins behind.
func (s Queries) Forget(ctx context.Context, last *Entry) error {
	if err := s.On(ctx).Exec("DELETE FROM audit_entries WHERE seq <= ?", last.Seq).Error; err != nil {
		return store.Told(err)
	}
	return store.Told(s.On(ctx).Exec("UPDATE audit_head SET first = ?, `before` = ? WHERE id = 1", last.Seq+1, last.Hash).Error)
}
