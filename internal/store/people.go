package store

import (
	"time"
)

// Person is somebody with an account.
type Person struct {
	ID                 int64
	Name, Email, Role  string
	PasswordHash       string
	Subject            *string // who it is at the sign-on provider, as a hash
	MustChangePassword bool
	PasswordEnds       *time.Time // of a one-time password
	Weekly             bool       // gets the due list by e-mail
	ClosedAt           *time.Time
	EndsAt             *time.Time // when the account closes by itself
	// Limited says that only what is of Clients is seen; Prices and Documents, that those of
	// licenses are.
	Limited           bool
	Prices, Documents bool
	Clients           []Client `gorm:"many2many:person_clients"`
	Turn              int      // goes up when all sessions end; those of an earlier turn count no more
	CreatedAt         time.Time
	// MustAddFactor says that a second factor is asked of the person and none is set up;
	// SecondFactor, that one is.
	MustAddFactor, SecondFactor bool `gorm:"-"`
	// SignedOn says that the session was begun by a sign-on provider.
	SignedOn bool `gorm:"-"`
	// Guest says that somebody of a client's own asks, whatever the role is for this call.
	Guest bool `gorm:"-"`
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
	// What the token sees of what its person does.
	Limited           bool
	Prices, Documents bool
	Clients           []Client `gorm:"many2many:token_clients"`
	Person            Person
}

// Session is what a browser's cookie stands for.
type Session struct {
	Token  string `gorm:"primaryKey"`
	Data   []byte
	Expiry time.Time
	ID     int64 // what people know it by
	// Whose it is, the turn of the account it was begun in, when, from where and with what.
	PersonID          int64
	Person            Person
	Turn              int
	StartedAt, SeenAt time.Time
	Address, Browser  string
	SignedOn          *string // hash of the provider's session that it was begun by
}
