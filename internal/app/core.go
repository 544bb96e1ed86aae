// Package app is what every room of the service shares: errors with a code and a
// sentence, pages of lists, version tags, the activity, and the limiter of heavy work.
//
// The rooms are packages, one a capability. An arrow between them only runs down:
// reports > sites > packaging > imports > library > licensing > conversion > usage > app.
// Functions that are calls of the API take the person who asks and answer in the types
// of the contract; errors meant for people are *Error.
package app

import (
	"log/slog"
	"runtime"
	"time"

	"filippo.io/age"

	"sparecrate/internal/bucket"
	"sparecrate/internal/fetch"
	"sparecrate/internal/mail"
	"sparecrate/internal/seal"
	"sparecrate/internal/store"
	"sparecrate/internal/work"
)

// Core is what the rooms work on.
type Core struct {
	Store  *store.Store
	Bucket *bucket.Bucket
	Now    func() time.Time // the clock
	Queue  *work.Queue
	Heavy  *Limiter
	// Outside reads from addresses that people give.
	Outside *fetch.Fetcher
	Limits  Limits
	Log     *slog.Logger
}

// NewCore returns the core over records and files. now is the clock.
func NewCore(s *store.Store, b *bucket.Bucket, now func() time.Time, limits Limits, log *slog.Logger) *Core {
	return &Core{Store: s, Bucket: b, Now: now, Queue: work.New(s, work.Holder(), runtime.NumCPU(), log), Heavy: NewLimiter(), Outside: fetch.New(limits.Private), Limits: limits, Log: log}
}

// Limits bound what is taken in, and say what the service may reach.
type Limits struct {
	FontBytes     int64 // one font file
	DocumentBytes int64 // one document
	ArchiveBytes  int64 // one archive
	// Private lets addresses that people give lead into private networks.
	Private bool
	// Mail says how e-mails leave; none do without a server.
	Mail mail.Config
	// Address is that of the service, as e-mails give it.
	Address string
	// SecondFactor says whom a second factor is asked of.
	SecondFactor FactorPolicy
	// Secrets seals what is kept of authenticator apps; nil for a key that ends with the process.
	Secrets *seal.Key
	// AuditKept is how long the audit log keeps its entries, 0 for good.
	AuditKept time.Duration
	// Backup says where and how often the service is backed up by itself.
	Backup BackupPlan
}

// BackupPlan says how a service makes its backups.
type BackupPlan struct {
	Place      string // empty where it makes none
	Every      time.Duration
	Keep       int             // how many stay; 0 for all
	Recipients []age.Recipient // none for no encryption
	KeyFile    string          // the key for secrets, which goes along where it is encrypted
}

// Late says how old the last good backup may become before people are told.
func (p BackupPlan) Late() time.Duration { return 2*p.Every + time.Hour }

// Often says in words how often a backup is made.
func (p BackupPlan) Often() string {
	switch p.Every {
	case 24 * time.Hour:
		return "every day"
	case 7 * 24 * time.Hour:
		return "every week"
	}
	return "every " + p.Every.String()
}

// FactorPolicy says whom a second factor is asked of.
type FactorPolicy string

// Whom it may be asked of. Others may set one up.
const (
	FactorForNobody FactorPolicy = "nobody"
	FactorForAdmins FactorPolicy = "admins"
	FactorForAll    FactorPolicy = "everybody"
)

// DefaultLimits take every real font and document known to us.
var DefaultLimits = Limits{FontBytes: 64 << 20, DocumentBytes: 32 << 20, ArchiveBytes: 4 << 30}
