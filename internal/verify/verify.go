// Package verify looks whether the records and the files of a service are sound and agree: every
// file that a record names is there with the bytes that its hash is of, nothing lies around that
// no record names, what is counted and listed twice is the same, and the audit log is as it was
// written. What can be made again of the rest is repaired when that is asked for.
package verify

import (
	"context"
	"errors"
	"fmt"
	"time"

	"golang.org/x/sync/errgroup"

	"sparecrate/internal/audit"
	"sparecrate/internal/bucket"
	"sparecrate/internal/store"
	"sparecrate/internal/store/dumpdb"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/verifydb"
)

// Kinds of findings.
const (
	Missing    = "missing"   // a file that a record names is not there
	Damaged    = "damaged"   // its bytes do not have its hash
	Orphans    = "orphans"   // files that no record names
	Listing    = "listing"   // a family is counted or listed wrongly
	AuditLog   = "audit-log" // the audit log was changed
	atOnce     = 4           // files read at once
	abandoned  = 24 * time.Hour
	batch      = 500
	whatItMade = "converted font"
)

// Finding is something that is wrong.
type Finding struct {
	Kind     string   `json:"kind"`
	SHA256   string   `json:"sha256,omitempty"`
	What     string   `json:"what"`
	Names    []string `json:"names,omitempty"`
	Repaired bool     `json:"repaired,omitempty"`
	Advice   string   `json:"advice,omitempty"`
}

// Report is what was looked at and found.
type Report struct {
	Files    int       `json:"files"`
	Entries  int64     `json:"auditEntries"`
	Findings []Finding `json:"findings"`
}

// Sound reports whether nothing is wrong that was not repaired.
func (r *Report) Sound() bool {
	for _, f := range r.Findings {
		if !f.Repaired {
			return false
		}
	}
	return true
}

type verifier struct {
	records *store.Store
	files   *bucket.Bucket
	repair  bool
	report  Report
}

// Service looks at everything, and repairs what can be derived if repair is set.
func Service(ctx context.Context, records *store.Store, files *bucket.Bucket, repair bool) (*Report, error) {
	v := &verifier{records: records, files: files, repair: repair}
	v.report.Findings = []Finding{}
	for _, look := range []func(context.Context) error{v.originals, v.derived, v.orphans, v.listings, v.audit} {
		if err := look(ctx); err != nil {
			return nil, err
		}
	}
	return &v.report, nil
}

func (v *verifier) found(f Finding) { v.report.Findings = append(v.report.Findings, f) }

// state says what is wrong with a file; empty for nothing.
func (v *verifier) state(ctx context.Context, hash string) (string, error) {
	err := v.files.Check(ctx, bucket.Hash(hash))
	switch {
	case errors.Is(err, bucket.ErrMissing):
		return Missing, nil
	case errors.Is(err, bucket.ErrDamaged):
		return Damaged, nil
	}
	return "", err
}

// states looks at many files at once.
func (v *verifier) states(ctx context.Context, hashes []string) ([]string, error) {
	out := make([]string, len(hashes))
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(atOnce)
	for i, h := range hashes {
		g.Go(func() (err error) {
			out[i], err = v.state(ctx, h)
			return err
		})
	}
	v.report.Files += len(hashes)
	return out, g.Wait()
}

// originals looks at what cannot be made again.
func (v *verifier) originals(ctx context.Context) error {
	var named []dumpdb.File
	if err := dumpdb.In(v.records).Snapshot(ctx, func(s dumpdb.Snapshot) (err error) {
		named, err = s.Files()
		return err
	}); err != nil {
		return err
	}
	hashes := make([]string, len(named))
	for i, f := range named {
		hashes[i] = f.SHA256
	}
	states, err := v.states(ctx, hashes)
	if err != nil {
		return err
	}
	for i, state := range states {
		if state == "" || state == Missing && !named[i].Needed {
			continue
		}
		names, err := verifydb.In(v.records).Names(ctx, named[i].SHA256)
		if err != nil {
			return err
		}
		advice := "Add the same file again, or restore it from a backup."
		if named[i].What == "pack" {
			advice = "Build the pack again, or restore it from a backup."
		}
		v.found(Finding{Kind: state, SHA256: named[i].SHA256, What: named[i].What, Names: names, Advice: advice})
	}
	return nil
}

// derived looks at converted fonts, which are made again when they are wanted.
func (v *verifier) derived(ctx context.Context) error {
	for after := ""; ; {
		hashes, err := verifydb.In(v.records).Derived(ctx, after, batch)
		if err != nil || len(hashes) == 0 {
			return err
		}
		after = hashes[len(hashes)-1]
		states, err := v.states(ctx, hashes)
		if err != nil {
			return err
		}
		for i, state := range states {
			if state == "" {
				continue
			}
			f := Finding{Kind: state, SHA256: hashes[i], What: whatItMade, Repaired: v.repair, Advice: "Run `sparecrate verify --repair`: it is made again when it is wanted."}
			if v.repair {
				f.Advice = ""
				if err := verifydb.In(v.records).ForgetDerived(ctx, hashes[i]); err != nil {
					return err
				}
				if err := v.files.Drop(ctx, bucket.Hash(hashes[i])); err != nil {
					return err
				}
			}
			v.found(f)
		}
	}
}

// orphans looks for files that no record has named for a day.
func (v *verifier) orphans(ctx context.Context) error {
	n := 0
	removed, err := v.files.Sweep(ctx, time.Now().Add(-abandoned), func(ctx context.Context, hashes []bucket.Hash) (map[bucket.Hash]bool, error) {
		asked := make([]string, len(hashes))
		for i, h := range hashes {
			asked[i] = string(h)
		}
		named, err := familydb.In(v.records).NamedHashes(ctx, asked)
		kept := map[bucket.Hash]bool{}
		for _, h := range hashes {
			if !named[string(h)] {
				n++
			}
			kept[h] = named[string(h)] || !v.repair
		}
		return kept, err
	})
	if err == nil && v.repair {
		err = v.files.DropParts(ctx, time.Now().Add(-abandoned))
	}
	if err != nil || n == 0 {
		return err
	}
	f := Finding{Kind: Orphans, What: fmt.Sprintf("files that no record names: %d", n), Repaired: removed == n, Advice: "The service removes them within an hour; `sparecrate verify --repair` does at once."}
	if f.Repaired {
		f.Advice = ""
	}
	v.found(f)
	return nil
}

// listings looks at what families are counted and found by.
func (v *verifier) listings(ctx context.Context) error {
	wrong, err := verifydb.In(v.records).Misnumbered(ctx)
	if err != nil || len(wrong) == 0 {
		return err
	}
	f := Finding{Kind: Listing, What: "families that are counted or listed wrongly", Repaired: v.repair, Advice: "Run `sparecrate verify --repair`, then start the service again: it lists them anew."}
	ids := make([]int64, len(wrong))
	for i, one := range wrong {
		ids[i] = one.ID
		if i < 20 {
			f.Names = append(f.Names, one.Name)
		}
	}
	if v.repair {
		f.Advice = "The service lists them anew at its next start."
		if err := v.records.Tx(ctx, func(tx *store.Store) error { return verifydb.In(tx).ListAnew(ctx, ids) }); err != nil {
			return err
		}
	}
	v.found(f)
	return nil
}

// audit looks at the audit log.
func (v *verifier) audit(ctx context.Context) error {
	r, err := audit.New(v.records, time.Now, 0).Verify(ctx, "")
	if err != nil {
		return err
	}
	v.report.Entries = r.Entries
	if r.Fault != "" {
		v.found(Finding{Kind: AuditLog, What: fmt.Sprintf("entry %d: %s", r.At, r.Fault), Advice: "Keep a copy of the database as it is, and find out who had access to it; a backup of before has the entries."})
	}
	return nil
}
