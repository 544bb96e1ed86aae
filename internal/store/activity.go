package store

import (
	"context"
	"fmt"
	"strings"
	"time"
)

// Activity is one line of who did what, when. Names are kept as they were.
type Activity struct {
	ID                              int64
	At                              time.Time
	Person, Action, Subject, Detail string
}

// AddActivity notes what was done, and that something changed.
func (s *Store) AddActivity(ctx context.Context, a *Activity) error {
	if err := Add(ctx, s, a); err != nil {
		return err
	}
	return s.Changed(ctx)
}

// changeSlots is over how many rows changes are counted, so that transactions rarely
// wait for one another.
const changeSlots = 32

// slots are the rows that changes are counted in, for a migration.
func slots() string {
	rows := make([]string, changeSlots)
	for i := range rows {
		rows[i] = fmt.Sprintf("(%d, 0)", i)
	}
	return strings.Join(rows, ", ")
}

// Changed notes that something of what people see changed. It counts when the
// transaction ends, so whoever sees the count sees the change.
func (s *Store) Changed(ctx context.Context) error {
	return Told(s.On(ctx).Exec("UPDATE change_slots SET n = n + 1 WHERE slot = CONNECTION_ID() MOD ?", changeSlots).Error)
}

// Stamp is the same as long as nothing changes that people see, jobs included.
func (s *Store) Stamp(ctx context.Context) (string, error) {
	var stamp string
	err := s.On(ctx).Raw("SELECT CONCAT_WS(' ', (SELECT SUM(n) FROM change_slots), " + jobStates + ")").Scan(&stamp).Error
	return stamp, Told(err)
}

// LastActivity returns the number of what was noted last, 0 where nothing was.
func (s *Store) LastActivity(ctx context.Context) (id int64, err error) {
	err = s.On(ctx).Model(&Activity{}).Select("COALESCE(MAX(id), 0)").Scan(&id).Error
	return id, Told(err)
}
