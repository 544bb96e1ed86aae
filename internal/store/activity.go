package store

import (
	"context"
	"database/sql"
	"time"

	"sparecrate/internal/store/schema"
	"sparecrate/internal/store/scope"
)

// Activity is one line of who did what, when. Names are kept as they were.
type Activity struct {
	ID                              int64
	ClientID                        *int64 // what it concerns, where that is known
	At                              time.Time
	Person, Action, Subject, Detail string
}

// AddActivity notes what was done, and that something changed.
func (s *Store) AddActivity(ctx context.Context, a *Activity) error {
	if about := scope.Concerned(ctx); about != 0 {
		a.ClientID = &about
	} else if err := s.clientByName(ctx, a); err != nil {
		return err
	}
	if err := Add(ctx, s, a); err != nil {
		return err
	}
	return s.Changed(ctx)
}

// namedClients are the clients of what activity calls by a name, for as many as there are.
const namedClients = `SELECT id AS client_id FROM clients WHERE name = @name UNION SELECT client_id FROM families WHERE name = @name
	UNION SELECT client_id FROM sites WHERE name = @name UNION SELECT client_id FROM shortlists WHERE name = @name
	UNION SELECT client_id FROM imports WHERE title = @name
	UNION SELECT granted_to_id FROM licenses WHERE id = IF(@name LIKE 'license %', CAST(SUBSTRING(SUBSTRING_INDEX(@name, ',', 1), 9) AS UNSIGNED), 0)`

// clientByName sets the client of what a line of activity names, where that is one only.
func (s *Store) clientByName(ctx context.Context, a *Activity) error {
	var found []int64
	if err := s.On(scope.Everything(ctx)).Raw(namedClients, sql.Named("name", a.Subject)).Scan(&found).Error; err != nil {
		return Told(err)
	}
	if len(found) == 1 {
		a.ClientID = &found[0]
	}
	return nil
}

// Changed notes that something of what people see changed. It counts when the
// transaction ends, so whoever sees the count sees the change.
func (s *Store) Changed(ctx context.Context) error {
	return Told(s.On(ctx).Exec("UPDATE change_slots SET n = n + 1 WHERE slot = CONNECTION_ID() MOD ?", schema.ChangeSlots).Error)
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
