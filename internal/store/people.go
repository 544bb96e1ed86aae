package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Person is somebody with an account.
type Person struct {
	ID                 int64
	Name, Email, Role  string
	PasswordHash       string
	MustChangePassword bool
	PasswordEnds       *time.Time // of a one-time password
	Weekly             bool       // gets the due list by e-mail
	ClosedAt           *time.Time
	Turn               int // goes up when all sessions end; those of an earlier turn count no more
	CreatedAt          time.Time
	// Token is what the person acts through where that is no session.
	Token *Token `gorm:"-"`
}

// Token lets a program in on a person's behalf; only the hash of its secret is kept.
type Token struct {
	ID, PersonID int64
	ParentID     *int64 // the token that it was made with
	Name, Hash   string
	Scope        string // read, write or admin
	CreatedAt    time.Time
	ExpiresAt    time.Time
	LastUsedAt   *time.Time
	Person       Person
}

// Session is what a browser's cookie stands for.
type Session struct {
	Token  string `gorm:"primaryKey"`
	Data   []byte
	Expiry time.Time
}

// AddPerson adds an account; ErrTaken where the e-mail address has one.
func (s *Store) AddPerson(ctx context.Context, p *Person) error { return add(s, ctx, p) }

// Person gives an account by its number.
func (s *Store) Person(ctx context.Context, id int64) (*Person, error) {
	return first[Person](s.db.WithContext(ctx).Where("id = ?", id))
}

// PersonByEmail gives an account by its e-mail address.
func (s *Store) PersonByEmail(ctx context.Context, email string) (*Person, error) {
	return first[Person](s.db.WithContext(ctx).Where("email = ?", email))
}

// People gives all accounts by name.
func (s *Store) People(ctx context.Context) ([]Person, error) {
	return list[Person](s.db.WithContext(ctx).Order("name, id"))
}

// OpenAdmins gives the admins whose accounts are open; the rows are locked until the
// transaction ends, so that two who leave at once do not both find the other.
func (s *Store) OpenAdmins(ctx context.Context) ([]Person, error) {
	return list[Person](s.db.WithContext(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Where("role = 'admin' AND closed_at IS NULL").Order("id"))
}

// SetPassword replaces a password. Whatever the old one let in ends: sessions, tokens
// and feeds. ends is when a one-time password runs out; nil for one's own.
func (s *Store) SetPassword(ctx context.Context, id int64, hash string, ends *time.Time, at time.Time) error {
	err := s.db.WithContext(ctx).Model(&Person{}).Where("id = ?", id).
		Updates(map[string]any{"password_hash": hash, "must_change_password": ends != nil, "password_ends": ends}).Error
	if err != nil {
		return told(err)
	}
	return s.endAccess(ctx, id, at)
}

// endAccess ends the sessions, tokens and feeds of an account.
func (s *Store) endAccess(ctx context.Context, id int64, at time.Time) error {
	db := s.db.WithContext(ctx)
	if err := db.Model(&Person{}).Where("id = ?", id).Update("turn", gorm.Expr("turn + 1")).Error; err != nil {
		return told(err)
	}
	if err := db.Where("person_id = ?", id).Delete(&Token{}).Error; err != nil {
		return told(err)
	}
	return told(db.Model(&Feed{}).Where("person_id = ? AND withdrawn_at IS NULL", id).Update("withdrawn_at", at).Error)
}

// ChangePerson writes somebody's name and role.
func (s *Store) ChangePerson(ctx context.Context, p *Person) error {
	return told(s.db.WithContext(ctx).Model(&Person{}).Where("id = ?", p.ID).Updates(map[string]any{"name": p.Name, "role": p.Role}).Error)
}

// ClosePerson closes an account: its sessions and tokens end, and its feeds and
// weekly e-mails.
func (s *Store) ClosePerson(ctx context.Context, id int64, at time.Time) error {
	if err := s.db.WithContext(ctx).Model(&Person{}).Where("id = ?", id).Updates(map[string]any{"closed_at": at, "weekly": false}).Error; err != nil {
		return told(err)
	}
	return s.endAccess(ctx, id, at)
}

// OpenPerson opens a closed account again.
func (s *Store) OpenPerson(ctx context.Context, id int64) error {
	return told(s.db.WithContext(ctx).Model(&Person{}).Where("id = ?", id).Update("closed_at", nil).Error)
}

// StillIn returns those of some accounts that are open, with the turn of their
// sessions, and those of some tokens that are not expired.
func (s *Store) StillIn(ctx context.Context, people, tokens []int64, now time.Time) (turns map[int64]int, live map[int64]bool, err error) {
	turns, live = map[int64]int{}, map[int64]bool{}
	var rows []Person
	if err := s.db.WithContext(ctx).Select("id, turn").Where("id IN ? AND closed_at IS NULL", people).Find(&rows).Error; err != nil {
		return nil, nil, told(err)
	}
	for _, r := range rows {
		turns[r.ID] = r.Turn
	}
	if len(tokens) == 0 {
		return turns, live, nil
	}
	var ids []int64
	if err := s.db.WithContext(ctx).Model(&Token{}).Where("id IN ? AND expires_at > ?", tokens, now).Pluck("id", &ids).Error; err != nil {
		return nil, nil, told(err)
	}
	for _, id := range ids {
		live[id] = true
	}
	return turns, live, nil
}

// AddToken keeps a new token.
func (s *Store) AddToken(ctx context.Context, t *Token) error { return add(s, ctx, t) }

// Tokens gives a person's tokens, newest first.
func (s *Store) Tokens(ctx context.Context, person int64) ([]Token, error) {
	return list[Token](s.db.WithContext(ctx).Where("person_id = ?", person).Order("id DESC"))
}

// TokenByHash finds a token by the hash of its secret.
func (s *Store) TokenByHash(ctx context.Context, hash string) (*Token, error) {
	return first[Token](s.db.WithContext(ctx).Joins("Person").Where("tokens.hash = ?", hash))
}

// TouchToken notes that a token was used.
func (s *Store) TouchToken(ctx context.Context, id int64, at time.Time) error {
	return s.db.WithContext(ctx).Model(&Token{}).Where("id = ?", id).Update("last_used_at", at).Error
}

// AllTokens returns everybody's tokens, newest first.
func (s *Store) AllTokens(ctx context.Context) ([]Token, error) {
	return list[Token](s.db.WithContext(ctx).Joins("Person").Order("tokens.id DESC"))
}

// Token returns a token by its number.
func (s *Store) Token(ctx context.Context, id int64) (*Token, error) {
	return first[Token](s.db.WithContext(ctx).Joins("Person").Where("tokens.id = ?", id))
}

// DropToken removes a token and those that were made with it.
func (s *Store) DropToken(ctx context.Context, id int64) error {
	return told(s.db.WithContext(ctx).Exec(`DELETE FROM tokens WHERE id IN (WITH RECURSIVE made AS (
		SELECT id FROM tokens WHERE id = ? UNION SELECT t.id FROM tokens t JOIN made ON t.parent_id = made.id) SELECT id FROM made)`, id).Error)
}

// SaveSession writes a session.
func (s *Store) SaveSession(ctx context.Context, v *Session) error {
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(v).Error
}

// Session gives a session that has not run out.
func (s *Store) Session(ctx context.Context, token string, now time.Time) (*Session, error) {
	return first[Session](s.db.WithContext(ctx).Where("token = ? AND expiry > ?", token, now))
}

// DropSession ends a session, and all that have run out by now.
func (s *Store) DropSession(ctx context.Context, token string, now time.Time) error {
	return s.db.WithContext(ctx).Where("token = ? OR expiry <= ?", token, now).Delete(&Session{}).Error
}
