package main

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"time"
)

// Outcome is what became of a change that was asked for once.
type Outcome int

// The outcomes.
const (
	Unknown Outcome = iota // no answer, or one that does not say: it may have been made
	Made                   // acknowledged
	Refused                // not made
)

// Entry is a change that makes one thing with a name that nothing else has.
type Entry struct {
	Kind, Name string
	Outcome    Outcome
	ID         int64
	Hash       string // of what was sent, hex of SHA-256
}

// Ledger notes what was asked for, and how the requests went.
type Ledger struct {
	mu      sync.Mutex
	entries []Entry
	kinds   map[string]*Requests
	allowed map[string]bool // kinds that may fail for the time being
	during  func() string
}

// Requests are how those of one kind went.
type Requests struct {
	Good, Failed int
	Slowest      time.Duration // answer, good or not
	Outage       time.Duration // longest time in which somebody got no good answer
	Faults       string        // what was going on then
	Last         string        // failure
}

// NewLedger returns an empty ledger; during says what is going on.
func NewLedger(during func() string) *Ledger {
	return &Ledger{kinds: map[string]*Requests{}, during: during}
}

// Allow names the kinds of requests that may fail for the time being.
func (l *Ledger) Allow(kinds []string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.allowed = map[string]bool{}
	for _, k := range kinds {
		l.allowed[k] = true
	}
}

// Note notes a change.
func (l *Ledger) Note(e Entry) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.entries = append(l.entries, e)
}

// Entries returns the changes of a kind.
func (l *Ledger) Entries(kind string) []Entry {
	l.mu.Lock()
	defer l.mu.Unlock()
	var out []Entry
	for _, e := range l.entries {
		if e.Kind == kind {
			out = append(out, e)
		}
	}
	return out
}

// Asked notes how a request went that was begun at start. failingSince is when the asker's first
// of those in a row began that failed, its own start if it is the first; it is returned for the
// next one, zero after a good answer.
func (l *Ledger) Asked(kind string, start, failingSince time.Time, bad error) time.Time {
	l.mu.Lock()
	defer l.mu.Unlock()
	r := l.kinds[kind]
	if r == nil {
		r = &Requests{}
		l.kinds[kind] = r
	}
	now := time.Now()
	if l.allowed[kind] && bad != nil {
		r.Failed++
		return now
	}
	r.Slowest = max(r.Slowest, now.Sub(start))
	if failingSince.IsZero() {
		failingSince = start
	}
	if without := now.Sub(failingSince); without > r.Outage {
		r.Outage, r.Faults = without, l.during()
	}
	if bad == nil {
		r.Good++
		return time.Time{}
	}
	r.Failed++
	r.Last = fmt.Sprintf("%s, during %s", bad, l.during())
	return failingSince
}

// Compare says what is wrong with what was found, how often by name, of a kind: what was
// acknowledged is there once, what was refused is not, and what is not known is there at most once.
func (l *Ledger) Compare(kind string, found map[string]int) (wrong []string) {
	for _, e := range l.Entries(kind) {
		switch n := found[e.Name]; {
		case e.Outcome == Made && n == 0:
			wrong = append(wrong, fmt.Sprintf("%s %q was acknowledged and is lost", kind, e.Name))
		case e.Outcome == Refused && n > 0:
			wrong = append(wrong, fmt.Sprintf("%s %q was refused and is there", kind, e.Name))
		case n > 1:
			wrong = append(wrong, fmt.Sprintf("%s %q is there %d times", kind, e.Name, n))
		}
	}
	return wrong
}

// Report returns a table of the kinds of requests.
func (l *Ledger) Report() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	var b strings.Builder
	_, _ = fmt.Fprintf(&b, "%-10s %7s %7s %10s %10s  %s\n", "request", "good", "failed", "slowest", "outage", "longest outage during")
	for _, kind := range slices.Sorted(maps.Keys(l.kinds)) {
		r := l.kinds[kind]
		_, _ = fmt.Fprintf(&b, "%-10s %7d %7d %9.1fs %9.1fs  %s\n", kind, r.Good, r.Failed, r.Slowest.Seconds(), r.Outage.Seconds(), r.Faults)
	}
	for _, kind := range slices.Sorted(maps.Keys(l.kinds)) {
		if r := l.kinds[kind]; r.Last != "" {
			_, _ = fmt.Fprintf(&b, "last failure of %s: %s\n", kind, r.Last)
		}
	}
	return b.String()
}

// TooLong returns the kinds of requests that got no good answer for longer than a time.
func (l *Ledger) TooLong(limit time.Duration) (wrong []string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	for _, kind := range slices.Sorted(maps.Keys(l.kinds)) {
		if r := l.kinds[kind]; r.Outage > limit {
			wrong = append(wrong, fmt.Sprintf("%s got no good answer for %.1f s, during %s", kind, r.Outage.Seconds(), r.Faults))
		}
	}
	return wrong
}
