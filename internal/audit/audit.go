// Package audit is the record of who came in, what left the house, and who changed what
// others may do.
//
// Entries are only added. Each carries the SHA-256 (FIPS 180-4) of itself and of the hash of
// the entry before, so that one that is changed, taken out or moved breaks the chain there;
// the head, kept apart, gives away that the end was cut off. Whoever can write to the database
// can make the whole chain anew: against that, the head is said in the service's log now and
// then and stands in every export, and Verify takes one that somebody noted.
package audit

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"strconv"
	"strings"
	"sync"
	"time"

	"sparecrate/font/metadata"
	"sparecrate/internal/store"
	"sparecrate/internal/store/auditdb"
)

// Entry is what is to be recorded of one thing that was done or refused.
type Entry struct {
	Person   *store.Person // nil for nobody known
	Via      string        // which session or token
	Address  string        // of the network
	Action   string
	Subject  string
	Outcome  string // done, or why not
	Detail   string
	Request  string
	ByNobody string // who it was said to be, where nobody is known
}

// Log is the audit log.
type Log struct {
	store *store.Store
	now   func() time.Time
	keep  time.Duration // how long entries are kept; 0 for good

	mu      sync.Mutex
	waiting []*added
	writing bool
}

type added struct {
	entry auditdb.Entry
	done  chan error
}

// New returns the log of a database. keep is how long entries are kept, 0 for good.
func New(s *store.Store, now func() time.Time, keep time.Duration) *Log {
	return &Log{store: s, now: now, keep: keep}
}

// What is kept of each text, characters.
const (
	mostText   = 300
	mostDetail = 2000
)

func kept(s string, most int) string {
	s = metadata.Printable(strings.ToValidUTF8(s, ""))
	if r := []rune(s); len(r) > most {
		return string(r[:most-1]) + "…"
	}
	return s
}

// Add adds an entry and returns once it is there for good. Entries that come at the same
// time are written together.
func (l *Log) Add(ctx context.Context, e Entry) error {
	row := auditdb.Entry{
		At: l.now().UTC().Truncate(time.Microsecond), Person: kept(e.ByNobody, mostText), Via: kept(e.Via, mostText), Address: kept(e.Address, 64), Action: kept(e.Action, 60),
		Subject: kept(e.Subject, mostText), Outcome: kept(e.Outcome, 60), Detail: kept(e.Detail, mostDetail), Request: kept(e.Request, 64),
	}
	if e.Person != nil {
		row.PersonID, row.Person = e.Person.ID, kept(e.Person.Name+" <"+e.Person.Email+">", mostText)
	}
	a := &added{row, make(chan error, 1)}
	l.mu.Lock()
	l.waiting = append(l.waiting, a)
	if !l.writing {
		l.writing = true
		go l.write()
	}
	l.mu.Unlock()
	select {
	case err := <-a.done:
		return err
	case <-ctx.Done():
		return ctx.Err()
	}
}

// patience is how long entries may take to be written.
const patience = 20 * time.Second

// write writes what waits, until nothing does.
func (l *Log) write() {
	for {
		l.mu.Lock()
		all := l.waiting
		l.waiting = nil
		if len(all) == 0 {
			l.writing = false
			l.mu.Unlock()
			return
		}
		l.mu.Unlock()
		ctx, cancel := context.WithTimeout(context.Background(), patience)
		err := l.append(ctx, all)
		cancel()
		for _, a := range all {
			a.done <- err
		}
	}
}

// append adds entries to the chain.
func (l *Log) append(ctx context.Context, all []*added) error {
	return l.store.Tx(ctx, func(tx *store.Store) error {
		head, err := auditdb.In(tx).Head(ctx, true)
		if err != nil {
			return err
		}
		rows := make([]auditdb.Entry, len(all))
		before := head.Hash
		for i, a := range all {
			rows[i] = a.entry
			rows[i].Seq = head.Seq + 1 + int64(i)
			rows[i].Hash = hashOf(&rows[i], before)
			before = rows[i].Hash
		}
		return auditdb.In(tx).Add(ctx, rows)
	})
}

// hashOf is the hash of an entry that goes on from the hash of another: the SHA-256 of that
// hash, a line feed and the entry's fields as an array in JSON.
func hashOf(e *auditdb.Entry, before string) string {
	fields := []string{strconv.FormatInt(e.Seq, 10), e.At.UTC().Format(time.RFC3339Nano), strconv.FormatInt(e.PersonID, 10), e.Person, e.Via, e.Address, e.Action, e.Subject, e.Outcome, e.Detail, e.Request}
	body, _ := json.Marshal(fields) // strings can always be written
	sum := sha256.Sum256([]byte(before + "\n" + string(body)))
	return hex.EncodeToString(sum[:])
}

// Report is what came of a look at the whole chain.
type Report struct {
	Entries     int64
	First, Last int64
	Head        string // the hash of the last entry
	Fault       string // what is wrong, empty for nothing
	At          int64  // the number of the entry where it is
}

// page is how many entries are read at once.
const page = 5000

// Verify looks at every entry that is kept. noted is a head that somebody noted earlier, as
// NUMBER:HASH, empty for none: the chain must still go through it.
func (l *Log) Verify(ctx context.Context, noted string) (*Report, error) {
	number, hash, err := readNoted(noted)
	if err != nil {
		return nil, err
	}
	out := &Report{}
	// Within one transaction, so that entries that are added meanwhile do not count.
	err = l.store.Tx(ctx, func(tx *store.Store) error {
		*out = Report{}
		head, err := auditdb.In(tx).Head(ctx, false)
		if err != nil {
			return err
		}
		out.First, out.Last, out.Head = head.First, head.Seq, head.Hash
		fault := func(at int64, format string, args ...any) error {
			out.At, out.Fault = at, fmt.Sprintf(format, args...)
			return nil
		}
		if noted != "" && (number > head.Seq || number < head.First-1) {
			return fault(number, "entry %d, which was noted, is not there: the log holds %d to %d", number, head.First, head.Seq)
		}
		before, next := head.Before, head.First
		for {
			found, err := auditdb.In(tx).After(ctx, auditdb.Filter{}, next-1, page)
			if err != nil {
				return err
			}
			for i := range found {
				e := &found[i]
				switch {
				case e.Seq != next:
					return fault(next, "entry %d is missing: %d comes after %d", next, e.Seq, next-1)
				case e.Seq > head.Seq:
					return fault(e.Seq, "entry %d stands behind the end of the log at %d", e.Seq, head.Seq)
				case hashOf(e, before) != e.Hash:
					return fault(e.Seq, "entry %d (%s, %s) was changed, or one before it was moved: its hash does not fit", e.Seq, e.At.UTC().Format(time.RFC3339), e.Action)
				case noted != "" && e.Seq == number && e.Hash != hash:
					return fault(e.Seq, "entry %d has another hash than the one noted: the log was written anew", e.Seq)
				}
				before, next = e.Hash, next+1
				out.Entries++
			}
			if len(found) < page {
				break
			}
		}
		switch {
		case next <= head.Seq:
			return fault(next, "the end is cut off: entries %d to %d are missing", next, head.Seq)
		case before != head.Hash:
			return fault(head.Seq, "the head of the log is not the hash of its last entry")
		}
		return nil
	})
	return out, err
}

// ErrNoted says that a noted head cannot be read.
var ErrNoted = errors.New("a noted head is NUMBER:HASH, as verify writes it")

func readNoted(noted string) (number int64, hash string, err error) {
	if noted == "" {
		return 0, "", nil
	}
	n, hash, found := strings.Cut(noted, ":")
	number, err = strconv.ParseInt(n, 10, 64)
	if !found || err != nil || number < 1 || len(hash) != 64 {
		return 0, "", ErrNoted
	}
	return number, strings.ToLower(hash), nil
}

// Forget removes entries that are older than they are kept, and says so in the log.
func (l *Log) Forget(ctx context.Context) error {
	if l.keep == 0 {
		return nil
	}
	var gone *auditdb.Entry
	err := l.store.Tx(ctx, func(tx *store.Store) error {
		gone = nil
		if _, err := auditdb.In(tx).Head(ctx, true); err != nil {
			return err
		}
		last, err := auditdb.In(tx).LastBefore(ctx, l.now().Add(-l.keep))
		if errors.Is(err, store.ErrNotFound) {
			return nil
		}
		if err != nil {
			return err
		}
		gone = last
		return auditdb.In(tx).Forget(ctx, last)
	})
	if err != nil || gone == nil {
		return err
	}
	return l.Add(ctx, Entry{ByNobody: "the service", Action: "forgot old entries", Outcome: "done", Subject: "audit log", Detail: fmt.Sprintf("up to %d:%s", gone.Seq, gone.Hash)})
}

// Head returns the head of the chain, to be noted elsewhere.
func (l *Log) Head(ctx context.Context) (string, error) {
	h, err := auditdb.In(l.store).Head(ctx, false)
	return fmt.Sprintf("%d:%s", h.Seq, h.Hash), err
}

// Keep says the head of the log in the service's own log and removes what is older than it is
// kept, now and every day, until ctx ends.
func (l *Log) Keep(ctx context.Context, log *slog.Logger) {
	tick := time.NewTicker(24 * time.Hour)
	defer tick.Stop()
	for {
		if err := l.Forget(ctx); err != nil && ctx.Err() == nil {
			log.Warn("old entries of the audit log were not removed; it is tried again tomorrow", "error", err)
		}
		if head, err := l.Head(ctx); err == nil {
			log.Info("audit log", "head", head)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}
