// Package sessiondb holds the statements about sessions: where people are signed in.
package sessiondb

import (
	"context"
	"time"

	"sparecrate/internal/store"
)

// Queries are these statements over a database or a transaction.
type Queries struct{ *store.Store }

// In returns the statements that run in s.
func In(s *store.Store) Queries { return Queries{s} }

// SaveSession writes a session. One that has ended stays so: requests that began before
// that write it once more when they are done.
func (s Queries) SaveSession(ctx context.Context, v *store.Session) error {
	return s.On(ctx).Exec(`INSERT INTO sessions (token, data, expiry, person_id, turn, started_at, seen_at, address, browser, signed_on) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
		ON DUPLICATE KEY UPDATE expiry = IF(data = '', expiry, VALUES(expiry)), person_id = VALUES(person_id), turn = VALUES(turn),
			seen_at = VALUES(seen_at), signed_on = VALUES(signed_on), data = IF(data = '', data, VALUES(data))`,
		v.Token, v.Data, v.Expiry, v.PersonID, v.Turn, v.StartedAt, v.SeenAt, v.Address, v.Browser, v.SignedOn).Error
}

// Sessions returns the sessions that hold at a moment, the last used first: those of a
// person, or everybody's where person is 0.
func (s Queries) Sessions(ctx context.Context, person int64, now time.Time) ([]store.Session, error) {
	q := s.On(ctx).Joins("Person").Where("sessions.expiry > ? AND sessions.data <> '' AND Person.closed_at IS NULL AND Person.turn = sessions.turn", now)
	if person != 0 {
		q = q.Where("sessions.person_id = ?", person)
	}
	return store.List[store.Session](q.Order("sessions.seen_at DESC, sessions.id DESC").Limit(mostSessions))
}

// mostSessions is how many sessions are listed at most.
const mostSessions = 1000

// SessionByNumber returns a session by the number that people know it by.
func (s Queries) SessionByNumber(ctx context.Context, id int64) (*store.Session, error) {
	return store.First[store.Session](s.On(ctx).Joins("Person").Where("sessions.id = ? AND sessions.data <> ''", id))
}

// Session returns a session that has not run out.
func (s Queries) Session(ctx context.Context, token string, now time.Time) (*store.Session, error) {
	for start := time.Now(); ; {
		found, err := store.First[store.Session](s.On(ctx).Where("token = ? AND expiry > ? AND data <> ''", token, now))
		if err == nil || !s.ElsewhereAfter(ctx, err, start) {
			return found, err
		}
	}
}

// EndSignedOn ends the sessions that were begun by a sign-on provider: those of a session of
// the provider's, by its hash, or all such of a person.
func (s Queries) EndSignedOn(ctx context.Context, person int64, hash string, now time.Time) (int64, error) {
	r := s.On(ctx).Exec("UPDATE sessions SET data = '', expiry = ? WHERE data <> '' AND (signed_on = ? OR person_id = ? AND signed_on IS NOT NULL)", now.Add(ended), hash, person)
	return r.RowsAffected, store.Told(r.Error)
}

// ended is how long it is kept that a session has ended, longer than any request takes.
const ended = time.Hour

// DeleteSession ends a session, and forgets those that have run out by now.
func (s Queries) DeleteSession(ctx context.Context, token string, now time.Time) error {
	if err := s.On(ctx).Exec("UPDATE sessions SET data = '', expiry = ? WHERE token = ?", now.Add(ended), token).Error; err != nil {
		return err
	}
	return s.On(ctx).Where("expiry <= ?", now).Delete(&store.Session{}).Error
}
