package conversion

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/font/reshape"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/jobdb"
	"sparecrate/internal/work"
)

// makerVersion is part of every recipe: it goes up when the core's output for
// the same input changes, so that old results are made anew.
const makerVersion = 6

// jobMake is the kind of job that writes a face into another format.
const jobMake = "make"

// Making is what such a job is told.
type Making struct {
	Source string         `json:"source"` // SHA-256 of the file
	Place  int            `json:"place"`  // of the face in it
	To     font.Container `json:"to"`
	// Reshape is what becomes of the face first, nil for nothing.
	Reshape *reshape.Recipe `json:"reshape,omitempty"`
	// Here has it made here also where its supplier delivered it.
	Here bool `json:"here,omitempty"`
}

// Recipe names how the file is made, as it is kept with the result.
func (m Making) Recipe() string {
	name := fmt.Sprintf("%s/%d/v%d", m.To, m.Place, makerVersion)
	if !m.Reshape.Plain() {
		sum := sha256.Sum256([]byte(m.Reshape.Key()))
		name += "/" + hex.EncodeToString(sum[:16])
	}
	if m.Here {
		name += "/here"
	}
	return name
}

func (m Making) key() string { return m.Source + " " + m.Recipe() }

func (m Making) job(of string) work.Job {
	title := app.Shorten(of, 200) + " as " + strings.ToUpper(string(m.To))
	if !m.Reshape.Empty() {
		title = app.Shorten(title+", "+m.Reshape.Words(), 290)
	}
	return work.Job{Kind: jobMake, Key: m.key(), Title: title, Payload: m}
}

// AsItCame reports whether a file is the format asked for already.
func AsItCame(f *store.File, to font.Container) bool {
	return f.Faces == 1 && f.Format == string(to)
}

// Derive returns a face of a file in a format: the file itself where it is
// one, else what a job makes once and is kept.
func (c *Conversion) Derive(ctx context.Context, f *store.File, place int, to font.Container) (bucket.Hash, error) {
	if AsItCame(f, to) {
		return bucket.Hash(f.SHA256), nil
	}
	d, err := c.Made(ctx, f, Making{Source: f.SHA256, Place: place, To: to})
	if err != nil {
		return "", err
	}
	return bucket.Hash(d.Hash), nil
}

// Made returns what a making makes: what is kept of it, else what a job does now.
func (c *Conversion) Made(ctx context.Context, f *store.File, m Making) (*store.Derived, error) {
	d, err := familydb.In(c.store).DerivedFile(ctx, m.Source, m.Recipe())
	if errors.Is(err, store.ErrNotFound) {
		err = c.queue.Do(ctx, m.job(f.Name))
		if errors.Is(err, work.ErrFailed) {
			return nil, m.impossible(f, strings.TrimPrefix(err.Error(), work.ErrFailed.Error()+": "))
		}
		if err == nil {
			d, err = familydb.In(c.store).DerivedFile(ctx, m.Source, m.Recipe())
		}
	}
	return d, err
}

// impossible says why something cannot be made, by what its job said.
func (m Making) impossible(f *store.File, why string) error {
	why = strings.TrimSuffix(why, ".")
	if !m.Reshape.Empty() {
		return app.InvalidField("recipe", "cannot-reshape", "“%s” cannot be reshaped: %s.", f.Name, why)
	}
	return app.InvalidField("format", "format-impossible", "%s cannot be converted to %s: %s.", f.Name, strings.ToUpper(string(m.To)), why)
}

// Ask returns what a making makes where it is made, else nil: it is asked for then and made
// in the background. The error is that of Made where it was given up.
func (c *Conversion) Ask(ctx context.Context, f *store.File, m Making) (*store.Derived, error) {
	d, err := familydb.In(c.store).DerivedFile(ctx, m.Source, m.Recipe())
	if !errors.Is(err, store.ErrNotFound) {
		return d, err
	}
	asked, err := jobdb.In(c.store).JobsByKeys(ctx, jobMake, []string{m.key()})
	if err != nil {
		return nil, err
	}
	job, is := asked[m.key()]
	switch {
	case is && job.State == jobdb.JobFailed:
		return nil, m.impossible(f, job.Error)
	case is && job.State != jobdb.JobDone:
		return nil, nil //nolint:nilnil // asked for, and not made yet
	}
	if err := c.store.Tx(ctx, func(tx *store.Store) error { return c.queue.Add(ctx, tx, m.job(f.Name)) }); err != nil {
		return nil, err
	}
	c.queue.Wake()
	return nil, nil //nolint:nilnil // as above
}

// makeFormat does a job of the kind make. Made again it is the same bytes
// under the same hash.
func (c *Conversion) makeFormat(ctx context.Context, payload []byte, _ func(done, total int)) error {
	m, err := work.Payload[Making](payload)
	if err != nil {
		return err
	}
	recipe := m.Recipe()
	asked := m
	if there, err := c.takeSupplied(ctx, asked); there || err != nil {
		return err
	}
	opened, told, err := c.openFor(ctx, &m)
	if err != nil {
		return err
	}
	made, err := opened.MakeContext(ctx, m.Place, m.To)
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if err != nil {
		return work.Hopeless(err)
	}
	hash, err := c.bucket.PutBytes(ctx, made)
	if err != nil {
		return err
	}
	// It may have come while this was made.
	if there, err := c.takeSupplied(ctx, asked); there || err != nil {
		return err
	}
	return familydb.In(c.store).AddDerived(ctx, &store.Derived{Source: m.Source, Recipe: recipe, Hash: string(hash), Bytes: int64(len(made)), Told: told})
}

// takeSupplied takes the supplier's own file for what is to be made, where there is one:
// it goes out as it came.
func (c *Conversion) takeSupplied(ctx context.Context, m Making) (bool, error) {
	if !m.Reshape.Empty() || m.Here || c.Supplied == nil {
		return false, nil
	}
	f, err := c.Supplied(ctx, m)
	if f == nil || err != nil {
		return false, err
	}
	return true, familydb.In(c.store).SetDerived(ctx, &store.Derived{Source: m.Source, Recipe: m.Recipe(), Hash: f.SHA256, Bytes: f.Bytes, Told: store.ToldSupplied})
}

// openFor opens the face that a making is about, reshaped where it asks for that.
func (c *Conversion) openFor(ctx context.Context, m *Making) (opened *font.File, told string, err error) {
	key := fmt.Sprintf("%s/%d/%t/%s", m.Source, m.Place, m.To == font.TTF, m.Reshape.Key())
	if !m.Reshape.Empty() {
		if opened, told = c.shaped.take(key); opened != nil {
			m.Place = 0
			return opened, told, nil
		}
	}
	data, err := c.bucket.Read(ctx, bucket.Hash(m.Source))
	var broken *bucket.Broken
	if errors.As(err, &broken) {
		return nil, "", work.Hopeless(c.explainDamage(ctx, broken))
	}
	if err != nil {
		return nil, "", err
	}
	if opened, err = font.Open(data); err != nil {
		return nil, "", work.Hopeless(err)
	}
	if m.Place < 0 || m.Place >= len(opened.Faces) {
		return nil, "", work.Hopeless(fmt.Errorf("the file holds %d face(s), counted from 0; there is no face %d", len(opened.Faces), m.Place))
	}
	if m.Reshape.Empty() {
		return opened, "", nil
	}
	if opened, told, err = reshaped(opened, *m); err != nil {
		return nil, "", work.Hopeless(err)
	}
	m.Place = 0
	if len(data) <= mostShaped {
		c.shaped.keep(key, opened, told)
	}
	return opened, told, nil
}

// mostShaped bounds the files whose reshaped faces are kept for a moment, bytes.
const mostShaped = 4 << 20

// shapedFaces are the last faces that were reshaped: a pack wants each in several
// formats, one after the other.
type shapedFaces struct {
	sync.Mutex
	last [4]struct {
		key, told string
		file      *font.File
	}
	next int
}

func (s *shapedFaces) take(key string) (*font.File, string) {
	s.Lock()
	defer s.Unlock()
	for i := range s.last {
		if s.last[i].file != nil && s.last[i].key == key {
			return s.last[i].file, s.last[i].told
		}
	}
	return nil, ""
}

func (s *shapedFaces) keep(key string, file *font.File, told string) {
	s.Lock()
	defer s.Unlock()
	at := &s.last[s.next]
	at.key, at.file, at.told = key, file, told
	s.next = (s.next + 1) % len(s.last)
}

// madeAhead are the formats that most platforms want.
var madeAhead = []font.Container{font.WOFF2, font.WOFF}

// AskToMake asks for the formats that packs are made of, ahead of time.
func (c *Conversion) AskToMake(ctx context.Context, tx *store.Store, f *store.File, place int) error {
	for _, to := range madeAhead {
		if AsItCame(f, to) {
			continue
		}
		if err := c.queue.Add(ctx, tx, Making{Source: f.SHA256, Place: place, To: to}.job(f.Name)); err != nil {
			return err
		}
	}
	return nil
}

// MakeAnew has a format of a face made again, because its supplier's own file of it is
// there now.
func (c *Conversion) MakeAnew(ctx context.Context, tx *store.Store, source string, place int, to font.Container, of string) error {
	m := Making{Source: source, Place: place, To: to}
	if err := familydb.In(tx).ForgetMade(ctx, m.Source, m.Recipe()); err != nil {
		return err
	}
	j := m.job(of)
	j.Anew = true // one that runs now may not see the file that came
	return c.queue.Add(ctx, tx, j)
}

// Formats tells for a face's current file which formats there are, which
// are on their way, and which are made when they are asked for.
func (c *Conversion) Formats(ctx context.Context, current []store.FaceFile, made []store.Derived) (map[int64][]api.FaceFormat, error) {
	var keys []string
	for _, f := range current {
		for _, to := range font.Makeable {
			keys = append(keys, Making{Source: f.File.SHA256, Place: f.Place, To: to}.key())
		}
	}
	jobs, err := jobdb.In(c.store).JobsByKeys(ctx, jobMake, keys)
	if err != nil {
		return nil, err
	}
	out := map[int64][]api.FaceFormat{}
	for _, f := range current {
		for _, to := range font.Makeable {
			m := Making{Source: f.File.SHA256, Place: f.Place, To: to}
			one := api.FaceFormat{Format: api.FileFormat(to), State: api.OnRequest}
			job, asked := jobs[m.key()]
			at := slices.IndexFunc(made, func(d store.Derived) bool { return d.Source == m.Source && d.Recipe == m.Recipe() })
			switch {
			case AsItCame(&f.File, to):
				one.State, one.Bytes = api.AsItCame, &f.File.Bytes
			case (to == font.TTF || to == font.OTF) && !fits(f, to):
				continue
			case at >= 0 && made[at].Told == store.ToldSupplied:
				one.State, one.Bytes = api.AsItCame, &made[at].Bytes
			case at >= 0:
				one.State, one.Bytes = api.Made, &made[at].Bytes
			case asked && job.State == jobdb.JobFailed:
				one.State, one.Why = api.Failed, &job.Error
			case asked && job.State == jobdb.JobRunning:
				one.State = api.Running
			case asked && job.State == jobdb.JobWaiting:
				one.State = api.Waiting
			}
			out[f.FaceID] = append(out[f.FaceID], one)
		}
	}
	return out, nil
}

// fits reports whether a face's outlines belong into TTF or OTF.
func fits(f store.FaceFile, to font.Container) bool {
	postScript := f.Metadata.Outlines == metadata.CFF || f.Metadata.Outlines == metadata.CFF2
	return postScript == (to == font.OTF)
}
