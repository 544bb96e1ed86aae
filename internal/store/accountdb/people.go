package accountdb

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
	"sparecrate/internal/store/scope"
)

// AddPerson adds an account; ErrTaken where the e-mail address has one.
func (s Queries) AddPerson(ctx context.Context, p *store.Person) error {
	return store.Told(s.On(ctx).Omit("Clients.*").Create(p).Error)
}

// Person returns an account by its number.
func (s Queries) Person(ctx context.Context, id int64) (*store.Person, error) {
	return store.First[store.Person](s.On(ctx).Where("id = ?", id))
}

// PersonByEmail returns an account by its e-mail address.
func (s Queries) PersonByEmail(ctx context.Context, email string) (*store.Person, error) {
	return store.First[store.Person](s.On(ctx).Where("email = ?", email))
}

// PersonBySubject returns an account by who somebody is at the sign-on provider.
func (s Queries) PersonBySubject(ctx context.Context, subject string) (*store.Person, error) {
	return store.First[store.Person](s.On(ctx).Where("subject = ?", subject))
}

// Follow writes what a sign-on provider says of somebody.
func (s Queries) Follow(ctx context.Context, p *store.Person) error {
	return store.Told(s.On(ctx).Model(&store.Person{}).Where("id = ?", p.ID).Updates(map[string]any{
		"name": p.Name, "email": p.Email, "role": p.Role, "subject": p.Subject, "must_change_password": false, "password_ends": nil,
	}).Error)
}

// People returns all accounts by name.
func (s Queries) People(ctx context.Context) ([]store.Person, error) {
	return store.List[store.Person](s.On(ctx).Order("name, id"))
}

// OpenAdmins returns the admins whose accounts are open; the rows are locked until the
// transaction ends, so that two who leave at once do not both find the other.
func (s Queries) OpenAdmins(ctx context.Context) ([]store.Person, error) {
	return store.List[store.Person](s.On(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Where("role = 'admin' AND closed_at IS NULL").Order("id"))
}

// SetPassword replaces a password. Whatever the old one let in ends: sessions, tokens
// and feeds. ends is when a one-time password runs out; nil for one's own.
func (s Queries) SetPassword(ctx context.Context, id int64, hash string, ends *time.Time, at time.Time) error {
	err := s.On(ctx).Model(&store.Person{}).Where("id = ?", id).
		Updates(map[string]any{"password_hash": hash, "must_change_password": ends != nil, "password_ends": ends}).Error
	if err != nil {
		return store.Told(err)
	}
	return s.endAccess(ctx, id, at)
}

// endAccess ends the sessions, tokens and feeds of an account.
func (s Queries) endAccess(ctx context.Context, id int64, at time.Time) error {
	db := s.On(ctx)
	if err := db.Model(&store.Person{}).Where("id = ?", id).Update("turn", gorm.Expr("turn + 1")).Error; err != nil {
		return store.Told(err)
	}
	if err := db.Where("person_id = ?", id).Delete(&store.Token{}).Error; err != nil {
		return store.Told(err)
	}
	return store.Told(db.Model(&store.Feed{}).Where("person_id = ? AND revoked_at IS NULL", id).Update("revoked_at", at).Error)
}

// ChangePerson writes somebody's name and role.
func (s Queries) ChangePerson(ctx context.Context, p *store.Person) error {
	return store.Told(s.On(ctx).Model(&store.Person{}).Where("id = ?", p.ID).Updates(map[string]any{"name": p.Name, "role": p.Role}).Error)
}

// NextTurn ends all sessions of an account.
func (s Queries) NextTurn(ctx context.Context, id int64) error {
	return store.Told(s.On(ctx).Model(&store.Person{}).Where("id = ?", id).Update("turn", gorm.Expr("turn + 1")).Error)
}

// SetLimits writes what somebody sees and until when. Sessions of before end.
func (s Queries) SetLimits(ctx context.Context, p *store.Person) error {
	db := s.On(ctx)
	err := db.Model(&store.Person{}).Where("id = ?", p.ID).Updates(map[string]any{
		"limited": p.Limited, "prices": p.Prices, "documents": p.Documents, "ends_at": p.EndsAt, "turn": gorm.Expr("turn + 1"),
	}).Error
	if err != nil {
		return store.Told(err)
	}
	return store.Told(db.Model(p).Omit("Clients.*").Association("Clients").Replace(p.Clients))
}

// ClientsOfPeople returns the clients that people are limited to, by person; of all people
// for none.
func (s Queries) ClientsOfPeople(ctx context.Context, people []int64) (map[int64][]store.Client, error) {
	q := s.On(scope.Everything(ctx)).Table("clients").Select("clients.*, l.person_id AS of").Joins("JOIN person_clients l ON l.client_id = clients.id").Order("clients.name, clients.id")
	if people != nil {
		q = q.Where("l.person_id IN ?", people)
	}
	return clientsBy(q)
}

// ClientsOfTokens returns the clients that tokens are limited to, by token.
func (s Queries) ClientsOfTokens(ctx context.Context, tokens []int64) (map[int64][]store.Client, error) {
	return clientsBy(s.On(scope.Everything(ctx)).Table("clients").Select("clients.*, l.token_id AS of").
		Joins("JOIN token_clients l ON l.client_id = clients.id").Where("l.token_id IN ?", tokens).Order("clients.name, clients.id"))
}

func clientsBy(q *gorm.DB) (map[int64][]store.Client, error) {
	var rows []struct {
		store.Client
		Of int64
	}
	err := q.Scan(&rows).Error
	out := map[int64][]store.Client{}
	for _, r := range rows {
		out[r.Of] = append(out[r.Of], r.Client)
	}
	return out, store.Told(err)
}

// ClosePerson closes an account: its sessions and tokens end, and its feeds and
// weekly e-mails; what was assigned to it is nobody's.
func (s Queries) ClosePerson(ctx context.Context, id int64, at time.Time) error {
	if err := s.On(ctx).Model(&store.Person{}).Where("id = ?", id).Updates(map[string]any{"closed_at": at, "weekly": false}).Error; err != nil {
		return store.Told(err)
	}
	if err := s.On(ctx).Where("person_id = ?", id).Delete(&store.DueOwner{}).Error; err != nil {
		return store.Told(err)
	}
	return s.endAccess(ctx, id, at)
}

// OpenPerson opens a closed account again.
func (s Queries) OpenPerson(ctx context.Context, id int64) error {
	return store.Told(s.On(ctx).Model(&store.Person{}).Where("id = ?", id).Update("closed_at", nil).Error)
}

// StillIn returns those of some accounts that are open, with the turn of their
// sessions, and those of some tokens that are not expired.
func (s Queries) StillIn(ctx context.Context, people, tokens []int64, now time.Time) (turns map[int64]int, live map[int64]bool, err error) {
	turns, live = map[int64]int{}, map[int64]bool{}
	var rows []store.Person
	if err := s.On(ctx).Select("id, turn").Where("id IN ? AND closed_at IS NULL AND (ends_at IS NULL OR ends_at > ?)", people, now).Find(&rows).Error; err != nil {
		return nil, nil, store.Told(err)
	}
	for _, r := range rows {
		turns[r.ID] = r.Turn
	}
	if len(tokens) == 0 {
		return turns, live, nil
	}
	var ids []int64
	if err := s.On(ctx).Model(&store.Token{}).Where("id IN ? AND expires_at > ?", tokens, now).Pluck("id", &ids).Error; err != nil {
		return nil, nil, store.Told(err)
	}
	for _, id := range ids {
		live[id] = true
	}
	return turns, live, nil
}

// AddToken keeps a new token.
func (s Queries) AddToken(ctx context.Context, t *store.Token) error {
	return store.Told(s.On(ctx).Omit("Clients.*", "Person").Create(t).Error)
}

// Tokens returns a person's tokens, newest first.
func (s Queries) Tokens(ctx context.Context, person int64) ([]store.Token, error) {
	return store.List[store.Token](s.On(ctx).Where("person_id = ?", person).Order("id DESC"))
}

// TokenByHash finds a token by the hash of its secret.
func (s Queries) TokenByHash(ctx context.Context, hash string) (*store.Token, error) {
	return store.First[store.Token](s.On(ctx).Joins("Person").Where("tokens.hash = ?", hash))
}

// TouchToken notes that a token was used.
func (s Queries) TouchToken(ctx context.Context, id int64, at time.Time) error {
	return s.On(ctx).Model(&store.Token{}).Where("id = ?", id).Update("last_used_at", at).Error
}

// AllTokens returns everybody's tokens, newest first.
func (s Queries) AllTokens(ctx context.Context) ([]store.Token, error) {
	return store.List[store.Token](s.On(ctx).Joins("Person").Order("tokens.id DESC"))
}

// Token returns a token by its number.
func (s Queries) Token(ctx context.Context, id int64) (*store.Token, error) {
	return store.First[store.Token](s.On(ctx).Joins("Person").Where("tokens.id = ?", id))
}

// DeleteToken removes a token and those that were made with it.
func (s Queries) DeleteToken(ctx context.Context, id int64) error {
	return store.Told(s.On(ctx).Exec(`DELETE FROM tokens WHERE id IN (WITH RECURSIVE made AS (
		SELECT id FROM tokens WHERE id = ? UNION SELECT t.id FROM tokens t JOIN made ON t.parent_id = made.id) SELECT id FROM made)`, id).Error)
}
