package imports

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/identity"
	"sparecrate/font/metadata"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/conversion"
	"sparecrate/internal/library"
	"sparecrate/internal/measures"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/facedb"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/versions"
)

// Arrival is a font file on its way in.
type Arrival struct {
	Name   string // file name on disk
	Client string // name or number; where empty the studio, or who has the bytes already
	Origin api.Origin
	Bytes  io.Reader
	// Family is the family it goes into instead of the one that it names, now and
	// when fonts of that name come again; empty for that one.
	Family string
	// Range is the unicode-range that it was served for, empty where it was not; Settle what
	// a person said of it where it is in conflict with another.
	Range, Settle string
}

// AddFile takes a font file in: read, kept in the bucket, recorded with its
// faces and family. The same bytes a second time change nothing and say so. A
// failure at any point leaves no record; bytes without a record may stay in
// the bucket.
func (c *Imports) AddFile(ctx context.Context, p *store.Person, a Arrival) (*api.ImportResult, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	if a.Origin == "" {
		a.Origin = api.OriginUnknown
	}
	if !a.Origin.Valid() {
		return nil, app.InvalidField("origin", "bad-origin", "%q is not an origin; choose bought, client, open, commissioned, hosted or unknown.", a.Origin)
	}
	client, err := app.OpenClient(ctx, c.store, a.Client)
	if err != nil {
		return nil, err
	}
	a.Name = app.FileName(a.Name)
	staged, err := c.bucket.Stage(a.Bytes, c.limits.FontBytes)
	if errors.Is(err, bucket.ErrTooLarge) {
		return nil, app.Problem(app.TooLarge, "file-too-large", "The file is too large: the limit for a font file is %d MB.", c.limits.FontBytes>>20)
	}
	if err != nil {
		return nil, err
	}
	defer staged.Close()
	in := &imp{c: c, person: p, client: client, arrival: a, hash: string(staged.Hash), size: staged.Size}
	if same, err := c.sameBytes(ctx, in); same != nil || err != nil {
		if err != nil {
			return nil, err
		}
		healed, err := c.conversion.Heal(ctx, staged)
		if healed && err == nil {
			same.Message += " The stored copy was damaged; it is whole again."
		}
		return same, err
	}
	var faces []metadata.Face
	var prints []*measures.Measure
	err = c.reading(ctx, staged, func(data []byte) (err error) {
		if faces, prints, err = read(data); err != nil {
			return app.InvalidField("file", "not-a-font", "%s", sentence.Of(err))
		}
		library.HoldAgainst(faces, a.Name)
		return nil
	})
	if err != nil {
		return nil, err
	}
	if faces[0].Names.FamilyName() == "" {
		return nil, app.InvalidField("file", "no-family-name", noFamily)
	}
	if err := c.bucket.Put(ctx, staged); err != nil {
		return nil, err
	}
	if !measures.Large(faces) {
		if err := c.library.Measures.Keep(ctx, string(staged.Hash), prints); err != nil {
			return nil, err
		}
	}
	in.faces = faces
	if err := in.prepare(ctx); err != nil {
		return nil, err
	}
	var result *api.ImportResult
	defer c.queue.Wake() // once the jobs asked for can be seen
	err = c.store.Tx(ctx, func(tx *store.Store) (err error) {
		result, err = in.record(ctx, tx)
		return err
	})
	if errors.Is(err, store.ErrTaken) { // the same file came in twice at the same time
		if same, err := c.sameBytes(ctx, in); same != nil || err != nil {
			return same, err
		}
		err = c.store.Tx(ctx, func(tx *store.Store) (err error) {
			result, err = in.record(ctx, tx)
			return err
		})
	}
	return result, err
}

// sameBytes answers for a file that the client has already; nil where it is to be recorded.
// Bytes that another client has are recorded for this one, too, unless nobody named a
// client: then they are whose they are. A file that was removed is brought back.
func (c *Imports) sameBytes(ctx context.Context, in *imp) (*api.ImportResult, error) {
	holders, err := facedb.In(c.store).Holders(ctx, []string{in.hash})
	if err != nil {
		return nil, err
	}
	mine := func(h store.Holder) bool { return h.ClientID == in.client.ID && h.Status != store.Deleted }
	at := slices.IndexFunc(holders, func(h store.Holder) bool { return mine(h) && !h.Removed })
	if at < 0 {
		at = slices.IndexFunc(holders, mine)
	}
	if at < 0 && in.arrival.Client == "" && !in.explicit {
		at = slices.IndexFunc(holders, func(h store.Holder) bool { return h.Status != store.Deleted && !h.Removed })
	}
	if at < 0 {
		if k := slices.IndexFunc(holders, func(h store.Holder) bool { return h.ClientID == in.client.ID || in.arrival.Client == "" }); k >= 0 && holders[k].Status == store.Deleted {
			h := holders[k]
			return nil, app.Problem(app.Conflict, "family-deleted", "These bytes are in the family %s of %s, which was deleted. Restore it, with `sparecrate family restore %d` or in the console.", h.Family, h.Client, h.FamilyID)
		}
		return nil, nil
	}
	h := holders[at]
	out := &api.ImportResult{Outcome: api.OutcomeSame, Family: api.Ref{Id: h.FamilyID, Name: h.Family}, Faces: []metadata.Face{}}
	if h.Removed {
		for _, one := range holders {
			if mine(one) && one.Removed {
				if _, err := c.library.Files.Restore(ctx, in.person, one.FaceID, one.FileID); err != nil {
					return nil, err
				}
			}
		}
		out.Message = fmt.Sprintf("These bytes were removed from the family %s of %s; they are back.", h.Family, h.Client)
		return out, nil
	}
	out.Message = fmt.Sprintf("Duplicate of %s in the family %s of %s, already in the catalog. Nothing was changed.", h.File, h.Family, h.Client)
	return out, nil
}

// import carries one file through its transaction.
type imp struct {
	c       *Imports
	person  *store.Person
	client  *store.Client
	arrival Arrival
	faces   []metadata.Face
	hash    string
	size    int64
	sets    []int64           // of traits, of each face
	bears   []int64           // what verdicts need, of each face
	words   [][]string        // by which each face is found
	goes    map[string]string // the family that fonts go to that name another, by that
	prints  []*identity.Print // what the faces draw, nil for one that cannot be measured
	// explicit says that the client was named by somebody, though not with the font;
	// owners names others that have the same bytes.
	explicit bool
	owners   string
	said     string // what became of the first face, in a sentence
}

// prepare does what can be done before the transaction: keeps what faces share
// with others, and looks up where families go. It is looked up here because what a
// transaction reads first without a lock is all that it sees of what others write
// until it ends, and a family may be one of that.
func (in *imp) prepare(ctx context.Context) error {
	in.goes = map[string]string{}
	for i := range in.faces {
		f := &in.faces[i]
		drawn, err := in.c.library.Measures.Soon(ctx, in.hash, f.Index, f.Glyphs)
		if err != nil {
			return err
		}
		in.prints = append(in.prints, drawn)
		set, err := familydb.In(in.c.store).TraitSet(ctx, library.Traits(f))
		if err != nil {
			return err
		}
		words := library.FaceWords(f, f.Names.StyleName(), in.arrival.Name)
		if err := familydb.In(in.c.store).AddWords(ctx, words); err != nil {
			return err
		}
		bears, err := library.Bearing(ctx, in.c.store, f)
		if err != nil {
			return err
		}
		in.sets, in.bears, in.words = append(in.sets, set), append(in.bears, bears), append(in.words, words)
		if said := library.SaidFamily(f, &in.faces[0]); in.arrival.Family == "" {
			remembered, err := familydb.In(in.c.store).RememberedFamily(ctx, in.client.ID, said)
			if errors.Is(err, store.ErrNotFound) {
				continue
			}
			if err != nil {
				return err
			}
			in.goes[said] = remembered.Name
		}
	}
	return nil
}

func (in *imp) record(ctx context.Context, tx *store.Store) (*api.ImportResult, error) {
	file := store.File{
		SHA256: in.hash, Bytes: in.size, Format: string(in.faces[0].Container), Faces: len(in.faces), Name: in.arrival.Name,
		AddedAt: in.c.now(), AddedBy: in.person.Name,
	}
	// Recorded first and looked for only then: to look for what is not there, with a lock,
	// would make all that record files at the same time wait for each other.
	switch err := familydb.In(tx).AddFile(ctx, &file); {
	case errors.Is(err, store.ErrTaken): // of another client, or of this one since we looked
		known, err := facedb.In(tx).FileNow(ctx, in.hash)
		if err != nil {
			return nil, err
		}
		holders, err := facedb.In(tx).Holders(ctx, []string{in.hash})
		if err != nil {
			return nil, err
		}
		if slices.ContainsFunc(holders, func(h store.Holder) bool { return h.ClientID == in.client.ID }) {
			return nil, store.ErrTaken
		}
		file = *known
		if len(holders) > 0 {
			in.owners = fmt.Sprintf(" %s has the same file; each keeps its own licenses, sites and notes.", holders[0].Client)
		}
	case err != nil:
		return nil, err
	}
	if measures.Large(in.faces) {
		if err := in.c.library.Measures.Ask(ctx, tx, in.hash, in.arrival.Name, file.ID); err != nil {
			return nil, err
		}
	}
	result := &api.ImportResult{Faces: in.faces}
	var outcomes []api.Outcome
	touched := map[int64][]string{}
	for i := range in.faces {
		family, err := in.family(ctx, tx, &in.faces[i])
		if err != nil {
			return nil, err
		}
		outcome, err := in.face(ctx, tx, family, i, &file)
		if err != nil {
			return nil, err
		}
		outcomes = append(outcomes, outcome)
		touched[family.ID] = append(touched[family.ID], in.words[i]...)
		if i == 0 {
			result.Family = api.Ref{Id: family.ID, Name: family.Name}
		}
	}
	for id, words := range touched {
		if err := familydb.In(tx).AddFamilyWords(ctx, id, words); err != nil {
			return nil, err
		}
		if err := familydb.In(tx).Recount(ctx, id, in.c.now(), library.IndexVersion); err != nil {
			return nil, err
		}
	}
	result.Outcome = outcomes[0]
	for _, o := range outcomes {
		if o != outcomes[0] {
			result.Outcome = api.OutcomeNew // a collection of old and new faces brings something new
		}
	}
	result.Message = in.said + in.owners
	if n := len(in.faces); n > 1 {
		result.Message = fmt.Sprintf("A collection of %d faces, the first of the family %s.", n, result.Family.Name) + in.owners
	}
	return result, in.c.note(ctx, tx, in.person, "added file", result.Family.Name, in.arrival.Name+": "+result.Message)
}

// family finds the client's family a face belongs to, or starts it.
func (in *imp) family(ctx context.Context, tx *store.Store, f *metadata.Face) (*store.Family, error) {
	said := library.SaidFamily(f, &in.faces[0])
	if in.arrival.Family == "" {
		return in.named(ctx, tx, cmp.Or(in.goes[said], said), f)
	}
	family, err := in.named(ctx, tx, in.arrival.Family, f)
	if err != nil {
		return nil, err
	}
	return family, familydb.In(tx).RememberFamily(ctx, in.client.ID, said, family.ID)
}

// named finds or starts a family by name, with what the face says of its makers.
func (in *imp) named(ctx context.Context, tx *store.Store, name string, f *metadata.Face) (*store.Family, error) {
	found, err := familydb.In(tx).FamilyByName(ctx, in.client.ID, name)
	if err == nil && found.FaceCount == 0 && found.Origin == string(api.OriginHosted) {
		// It was only hosted elsewhere; from now on it is where its files came from.
		found.Origin = string(in.arrival.Origin)
		err = familydb.In(tx).SetOrigin(ctx, found.ID, found.Origin)
	}
	if !errors.Is(err, store.ErrNotFound) {
		return found, err
	}
	fresh := &store.Family{ClientID: in.client.ID, Name: name, Origin: string(in.arrival.Origin), Version: 1, CreatedAt: in.c.now(), ChangedAt: in.c.now(), Status: store.Active, Indexer: library.IndexVersion}
	fresh.Designer, fresh.Foundry = library.MakersOf(f)
	if err := familydb.In(tx).AddFamily(ctx, fresh); err != nil {
		return nil, err
	}
	words := library.FamilyWords(fresh, in.client.Name)
	if err := familydb.In(tx).AddWords(ctx, words); err != nil {
		return nil, err
	}
	return fresh, familydb.In(tx).AddFamilyWords(ctx, fresh.ID, words)
}

// face finds the family's face or starts it, and puts the file with it.
func (in *imp) face(ctx context.Context, tx *store.Store, family *store.Family, i int, file *store.File) (api.Outcome, error) {
	f := &in.faces[i]
	if p := in.prints[i]; p != nil {
		if err := librarydb.In(tx).SetCells(ctx, file.ID, f.Index, p.Cells()); err != nil {
			return "", err
		}
	}
	key := library.KeyOf(f.Names.StyleName(), f)
	link := &store.FaceFile{FileID: file.ID, Place: f.Index, Version: app.Shorten(f.Names.Version, 250), Metadata: *f, Reader: metadata.Version, Served: in.arrival.Range}
	found, err := familydb.In(tx).FaceByKey(ctx, family.ID, key)
	fresh := errors.Is(err, store.ErrNotFound)
	if err != nil && !fresh {
		return "", err
	}
	if fresh {
		found = &store.Face{
			FamilyID: family.ID, FaceKey: key, Style: app.Shorten(f.Names.StyleName(), 200),
			Width: f.Style.WidthPercent, Weight: f.Style.Weight, Slope: string(f.Style.Slope),
			Listing: library.Listing(f, file, f.Index, []store.FaceFile{{File: *file, Current: true}}, in.sets[i], in.bears[i]),
		}
		if err := familydb.In(tx).AddFace(ctx, found); err != nil {
			return "", err
		}
	}
	name := library.FaceName(family.Name, found.Style)
	if link.FaceID = found.ID; len(found.Files) == 0 {
		link.Current, link.Preferred = true, min(preference(in.arrival.Settle), 1)
		if err := familydb.In(tx).AddFaceFile(ctx, link); err != nil {
			return "", err
		}
		if i == 0 {
			in.said = fmt.Sprintf("New: %s.", name)
		}
		if !fresh { // all its files were removed
			if err := familydb.In(tx).SetListing(ctx, found.ID, library.Listing(f, file, f.Index, []store.FaceFile{{File: *file, Current: true}}, in.sets[i], in.bears[i])); err != nil {
				return "", err
			}
		}
		return api.OutcomeNew, in.c.conversion.AskToMake(ctx, tx, file, f.Index)
	}
	return in.joins(ctx, tx, found, link, file, name, i)
}

// joins puts a file with a face that has some, and has it worked out which are in use.
func (in *imp) joins(ctx context.Context, tx *store.Store, face *store.Face, link *store.FaceFile, file *store.File, name string, i int) (api.Outcome, error) {
	if err := familydb.In(tx).AddFaceFile(ctx, link); err != nil {
		return "", err
	}
	link.File = *file
	switch in.arrival.Settle {
	case settledUse:
		if err := library.Prefer(ctx, tx, face, link); err != nil {
			return "", err
		}
	case settledKeep:
		link.Preferred = -1
		if err := facedb.In(tx).SetStanding(ctx, link); err != nil {
			return "", err
		}
	}
	face.Files = append(face.Files, *link)
	files, links, err := in.c.library.Files.Weighed(ctx, face.Files)
	if err != nil {
		return "", err
	}
	w := &weighing{files: files, choice: versions.Choose(files), there: true, face: name}
	w.at = slices.IndexFunc(links, func(l *store.FaceFile) bool { return l.FileID == link.FileID && l.Place == link.Place })
	said := w.says(link.Version, file.Format)
	if err := in.c.library.Files.Decide(ctx, tx, face, strings.TrimSuffix(name, " "+face.Style)); err != nil {
		return "", err
	}
	if now := face.Files[slices.IndexFunc(face.Files, func(l store.FaceFile) bool { return l.FileID == link.FileID && l.Place == link.Place })]; !now.Current {
		said = now.Why
	}
	if i == 0 {
		in.said = said
	}
	return w.outcome(), nil
}

// FileContent opens the bytes of a file, or one of its faces in another
// format, for those who may have fonts; viewers see pictures (Specimen). The
// name is the one to save it under.
func (c *Imports) FileContent(ctx context.Context, p *store.Person, id int64, format *api.FileFormat, place int) (r io.ReadCloser, size int64, name string, err error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, 0, "", err
	}
	f, err := familydb.In(c.store).File(ctx, id)
	if err != nil {
		return nil, 0, "", app.Explain(err, "file")
	}
	name = f.Name
	if format == nil || conversion.AsItCame(f, font.Container(*format)) {
		r, size, err = c.conversion.OpenSound(ctx, func() (bucket.Hash, error) { return bucket.Hash(f.SHA256), nil })
		return r, size, name, err
	}
	if place < 0 || place >= f.Faces {
		return nil, 0, "", app.InvalidField("place", "no-such-face", "The file holds %d face(s), counted from 0; there is no face %d.", f.Faces, place)
	}
	r, size, err = c.conversion.OpenSound(ctx, func() (bucket.Hash, error) { return c.conversion.Derive(ctx, f, place, font.Container(*format)) })
	return r, size, strings.TrimSuffix(name, path.Ext(name)) + "." + string(*format), err
}
