// Package factordb holds the statements about second factors: what somebody has beside
// the password.
package factordb

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

// Queries are these statements over a database or a transaction.
type Queries struct{ *store.Store }

// In returns the statements that run in s.
func In(s *store.Store) Queries { return Queries{s} }

// Totp is the secret of an authenticator app. It counts once it is confirmed.
type Totp struct {
	PersonID    int64 `gorm:"primaryKey;autoIncrement:false"`
	Secret      string
	ConfirmedAt *time.Time
	LastStep    int64 // of the last code that was taken, which is not taken again
}

// Passkey is a credential of Web Authentication.
type Passkey struct {
	ID, PersonID int64
	Handle       string // SHA-256 of the credential's identifier
	Name         string
	Credential   string // JSON
	CreatedAt    time.Time
	LastUsedAt   *time.Time
}

// RecoveryCode lets in once; only its hash is kept.
type RecoveryCode struct {
	PersonID int64  `gorm:"primaryKey;autoIncrement:false"`
	Hash     string `gorm:"primaryKey"`
	Salt     string // which all of a person's share
}

// Count is how many second factors and recovery codes somebody has.
type Count struct{ Totp, Passkeys, Codes int }

// Any reports whether there is a second factor.
func (c Count) Any() bool { return c.Totp+c.Passkeys > 0 }

// Count counts what somebody has.
func (s Queries) Count(ctx context.Context, person int64) (c Count, err error) {
	err = s.On(ctx).Raw(`SELECT (SELECT COUNT(*) FROM totps WHERE person_id = @p AND confirmed_at IS NOT NULL) AS totp,
		(SELECT COUNT(*) FROM passkeys WHERE person_id = @p) AS passkeys, (SELECT COUNT(*) FROM recovery_codes WHERE person_id = @p) AS codes`, map[string]any{"p": person}).Scan(&c).Error
	return c, store.Told(err)
}

// With returns those who have a second factor.
func (s Queries) With(ctx context.Context) (map[int64]bool, error) {
	var ids []int64
	err := s.On(ctx).Raw("SELECT person_id FROM totps WHERE confirmed_at IS NOT NULL UNION SELECT person_id FROM passkeys").Scan(&ids).Error
	out := map[int64]bool{}
	for _, id := range ids {
		out[id] = true
	}
	return out, store.Told(err)
}

// Totp returns somebody's secret, locked until the transaction ends.
func (s Queries) Totp(ctx context.Context, person int64) (*Totp, error) {
	return store.First[Totp](s.On(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Where("person_id = ?", person))
}

// PutTotp keeps a secret that is not confirmed, in place of one that was not.
func (s Queries) PutTotp(ctx context.Context, person int64, secret string) error {
	return store.Told(s.On(ctx).Exec("INSERT INTO totps (person_id, secret) VALUES (?, ?) ON DUPLICATE KEY UPDATE secret = IF(confirmed_at IS NULL, VALUES(secret), secret)", person, secret).Error)
}

// Unsealed returns the secrets that are kept as they are, locked until the transaction ends.
func (s Queries) Unsealed(ctx context.Context) ([]Totp, error) {
	return store.List[Totp](s.On(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Where("secret NOT LIKE 'sealed:%'").Order("person_id"))
}

// ReplaceSecret keeps a secret in another form.
func (s Queries) ReplaceSecret(ctx context.Context, person int64, secret string) error {
	return store.Told(s.On(ctx).Exec("UPDATE totps SET secret = ? WHERE person_id = ?", secret, person).Error)
}

// TookCode notes that a code was taken, the first of which confirms the secret.
func (s Queries) TookCode(ctx context.Context, person, step int64, at time.Time) error {
	return store.Told(s.On(ctx).Exec("UPDATE totps SET last_step = ?, confirmed_at = COALESCE(confirmed_at, ?) WHERE person_id = ?", step, at, person).Error)
}

// DeleteTotp removes a secret.
func (s Queries) DeleteTotp(ctx context.Context, person int64) error {
	return store.Told(s.On(ctx).Exec("DELETE FROM totps WHERE person_id = ?", person).Error)
}

// Passkeys returns somebody's passkeys.
func (s Queries) Passkeys(ctx context.Context, person int64) ([]Passkey, error) {
	return store.List[Passkey](s.On(ctx).Where("person_id = ?", person).Order("id"))
}

// AddPasskey keeps a passkey; ErrTaken where it is known.
func (s Queries) AddPasskey(ctx context.Context, k *Passkey) error { return store.Add(ctx, s.Store, k) }

// UsedPasskey notes that a passkey was used, with what it counts.
func (s Queries) UsedPasskey(ctx context.Context, handle, credential string, at time.Time) error {
	return store.Told(s.On(ctx).Exec("UPDATE passkeys SET credential = ?, last_used_at = ? WHERE handle = ?", credential, at, handle).Error)
}

// DeletePasskey removes one of somebody's passkeys; ErrNotFound where there is none such.
func (s Queries) DeletePasskey(ctx context.Context, person, id int64) error {
	r := s.On(ctx).Where("person_id = ? AND id = ?", person, id).Delete(&Passkey{})
	if r.Error == nil && r.RowsAffected == 0 {
		return store.ErrNotFound
	}
	return store.Told(r.Error)
}

// PutCodes replaces somebody's recovery codes, which were hashed with one salt.
func (s Queries) PutCodes(ctx context.Context, person int64, salt string, hashes []string) error {
	if err := s.On(ctx).Exec("DELETE FROM recovery_codes WHERE person_id = ?", person).Error; err != nil {
		return store.Told(err)
	}
	if len(hashes) == 0 {
		return nil
	}
	rows := make([]RecoveryCode, len(hashes))
	for i, h := range hashes {
		rows[i] = RecoveryCode{person, h, salt}
	}
	return store.Told(s.On(ctx).Create(&rows).Error)
}

// Salt returns what somebody's recovery codes are hashed with; empty where there are none, or
// they are of a version that had no salt.
func (s Queries) Salt(ctx context.Context, person int64) (salt string, err error) {
	err = s.On(ctx).Raw("SELECT COALESCE(MAX(salt), '') FROM recovery_codes WHERE person_id = ?", person).Scan(&salt).Error
	return salt, store.Told(err)
}

// TakeCode uses a recovery code up; false where there is none such.
func (s Queries) TakeCode(ctx context.Context, person int64, hash string) (bool, error) {
	r := s.On(ctx).Exec("DELETE FROM recovery_codes WHERE person_id = ? AND hash = ?", person, hash)
	return r.RowsAffected > 0, store.Told(r.Error)
}

// Forget removes all of somebody's second factors; in a transaction.
func (s Queries) Forget(ctx context.Context, person int64) error {
	for _, table := range []string{"totps", "passkeys", "recovery_codes"} {
		if err := s.On(ctx).Exec("DELETE FROM "+table+" WHERE person_id = ?", person).Error; err != nil {
			return store.Told(err)
		}
	}
	return nil
}
