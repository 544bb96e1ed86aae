package library

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/identity"
	"sparecrate/font/metadata"
	"sparecrate/internal/app"
	"sparecrate/internal/builder"
	"sparecrate/internal/conversion"
	"sparecrate/internal/measures"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/facedb"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/versions"
	"sparecrate/internal/work"
)

// Files says which of the files of faces are in use (package versions), keeps what people
// decided about it, and takes files away and brings them back.
type Files struct {
	store      *store.Store
	queue      *work.Queue
	conversion *conversion.Conversion
	library    *Library
	prints     measures.Measures
	now        func() time.Time
	note       app.Noter
}

// mostWeighed bounds the files of a face that are weighed against each other: those in use,
// those that people decided about, and the latest.
const mostWeighed = 150

// Weighed returns the files of a face as package versions takes them, and the links that
// they stand for.
func (c *Files) Weighed(ctx context.Context, links []store.FaceFile) ([]versions.File, []*store.FaceFile, error) {
	var taken []*store.FaceFile
	for i := range links {
		taken = append(taken, &links[i])
	}
	if len(taken) > mostWeighed {
		decided := func(l *store.FaceFile) bool { return l.Current || l.Beside || l.Chosen || l.Preferred > 0 }
		slices.SortStableFunc(taken, func(a, b *store.FaceFile) int {
			switch {
			case decided(a) != decided(b) && decided(a):
				return -1
			case decided(a) != decided(b):
				return 1
			}
			return cmp.Compare(b.FileID, a.FileID)
		})
		taken = taken[:mostWeighed]
	}
	out := make([]versions.File, len(taken))
	for i, l := range taken {
		p, err := c.prints.Soon(ctx, l.File.SHA256, l.Place, l.Metadata.Glyphs)
		if err != nil {
			return nil, nil, err
		}
		out[i] = VersionOf(l)
		out[i].Print = p
	}
	return out, taken, nil
}

// VersionOf returns a file of a face as package versions takes it, not measured.
func VersionOf(l *store.FaceFile) versions.File {
	return versions.File{ID: l.FileID, Name: l.File.Name, Version: l.Version, Format: l.File.Format, Range: l.Served,
		InUse: l.Current || l.Beside, Chosen: l.Chosen, Preferred: l.Preferred}
}

// Decide works out anew which files of a face are in use, and records it: in the face's
// links, and in what lists, search and verdicts know of it.
func (c *Files) Decide(ctx context.Context, tx *store.Store, face *store.Face, family string) (err error) {
	// What a transaction read before may be old by now: others may have added files meanwhile.
	if face.Files, err = facedb.In(tx).LockedLinks(ctx, face.ID); err != nil {
		return err
	}
	if len(face.Files) == 0 {
		face.Together = nil
		if err := facedb.In(tx).SetTogether(ctx, face); err != nil {
			return err
		}
		return familydb.In(tx).SetListing(ctx, face.ID, store.Listing{})
	}
	weighed, links, err := c.Weighed(ctx, face.Files)
	if err != nil {
		return err
	}
	choice := versions.Choose(weighed)
	was := face.Current()
	came := map[int]bool{} // siblings that were none before
	for i, l := range links {
		before := *l
		came[i] = choice.States[i] == versions.Sibling && l.Outcome != string(versions.Sibling)
		l.Current, l.Beside = i == choice.Used[0], slices.Contains(choice.Used[1:], i)
		l.Outcome, l.Sends = string(choice.States[i]), choice.Ranges[i]
		if choice.States[i] == versions.Used {
			l.Outcome = ""
		}
		if l.LooksLike = ""; choice.States[i] == versions.Mislabeled {
			if l.LooksLike, err = c.looksLike(ctx, tx, face, l, choice.Evidence[i]); err != nil {
				return err
			}
			choice.Looks[i] = l.LooksLike
		}
		l.Why = app.Shorten(choice.Say(weighed, i, FaceName(family, face.Style)), 490)
		if l.Chosen && l.ChosenBy != "" {
			l.Why = app.Shorten(l.ChosenBy+" chose it; a newer version does not take its place.", 490)
		}
		if l.Current == before.Current && l.Beside == before.Beside && l.Outcome == before.Outcome && l.Why == before.Why && l.LooksLike == before.LooksLike && l.Sends == before.Sends {
			continue
		}
		if err := facedb.In(tx).SetStanding(ctx, l); err != nil {
			return err
		}
		if (l.Current || l.Beside) && !before.Current && !before.Beside {
			if err := c.conversion.AskToMake(ctx, tx, &l.File, l.Place); err != nil {
				return err
			}
		}
	}
	if had := face.Together != nil; len(choice.Used) > 1 || had {
		face.Together = nil
		if len(choice.Used) > 1 {
			all := metadata.Writes(choice.Union)
			face.Together = &all
		}
		if err := facedb.In(tx).SetTogether(ctx, face); err != nil {
			return err
		}
	}
	// What was made of the one in use is made again where its supplier's own is there now.
	if cur := face.Current(); was != nil && was.FileID == cur.FileID {
		for i, l := range links {
			if came[i] && l.File.Faces == 1 {
				if err := c.conversion.MakeAnew(ctx, tx, cur.File.SHA256, cur.Place, font.Container(l.File.Format), l.File.Name); err != nil {
					return err
				}
			}
		}
	}
	return c.list(ctx, tx, face)
}

// looksLike says which style a file that draws another design than its face looks like: a
// face of the family that draws the same, or the one that its strokes speak of; empty where
// neither tells.
func (c *Files) looksLike(ctx context.Context, tx *store.Store, face *store.Face, l *store.FaceFile, e *identity.Evidence) (string, error) {
	drawn, err := c.prints.Of(ctx, l.File.SHA256, l.Place)
	if err != nil || drawn == nil {
		return "", err
	}
	mates, err := facedb.In(tx).FacesInUse(ctx, face.FamilyID, face.ID)
	if err != nil {
		return "", err
	}
	for _, m := range mates {
		p, err := c.prints.Of(ctx, m.SHA256, m.Place)
		if err != nil {
			return "", err
		}
		if p == nil {
			continue
		}
		if e := identity.Compare(p, drawn); e.Sure() && e.Relation != identity.Different {
			return m.Style, nil
		}
	}
	weight := versions.LooksLike(e, face.Weight)
	if weight == 0 {
		return "", nil
	}
	style := builder.WeightWord(weight)
	if face.Slope == string(metadata.Italic) || face.Slope == string(metadata.Oblique) {
		style += " Italic"
	}
	return style, nil
}

// listed lists a face anew. Which of its files are in use is worked out anew where an older
// version of the catalog did that.
func (c *Files) listed(ctx context.Context, tx *store.Store, face *store.Face, family *store.Family) error {
	if family.Indexer < IndexVersion && len(face.Files) > 1 || len(face.Files) == 0 {
		return c.Decide(ctx, tx, face, family.Name)
	}
	if face.Current() == nil {
		return nil
	}
	return c.list(ctx, tx, face)
}

// list writes what lists, search and verdicts know of a face.
func (c *Files) list(ctx context.Context, tx *store.Store, face *store.Face) error {
	cur := face.Current()
	set, err := familydb.In(tx).TraitSet(ctx, Traits(&cur.Metadata))
	if err != nil {
		return err
	}
	bears, err := Bearing(ctx, tx, &cur.Metadata)
	if err != nil {
		return err
	}
	listing := Listing(&cur.Metadata, &cur.File, cur.Place, face.Files, set, bears)
	look, err := librarydb.In(tx).Look(ctx, cur.File.SHA256, cur.Place)
	if err != nil {
		return err
	}
	if look != nil {
		listing.Look = store.Look{
			Kind: string(look.Kind), Serifs: look.Serifs, Stem: look.Stem, Contrast: look.Contrast, XHeight: look.XHeight,
			LetterWidth: look.Width, Roundness: look.Roundness, Slant: look.Slant,
		}
	}
	return familydb.In(tx).SetListing(ctx, face.ID, listing)
}

// FaceName names a face of a family.
func FaceName(family, style string) string { return strings.TrimSpace(family + " " + style) }

// face returns a face and its family, of which something is to be changed.
func (c *Files) face(ctx context.Context, tx *store.Store, id int64) (*store.Face, *store.Family, error) {
	f, err := familydb.In(tx).Face(ctx, id)
	if err != nil {
		return nil, nil, app.Explain(err, "face")
	}
	family, err := familydb.In(tx).Family(ctx, f.FamilyID)
	if err != nil {
		return nil, nil, err
	}
	return f, family, app.NotDeleted(family)
}

// change changes something of a file of a face, and works out anew what is in use. The
// change gives the words for the activity; empty where nothing is to be done.
func (c *Files) change(ctx context.Context, p *store.Person, face int64, action string, change func(tx *store.Store, f *store.Face, family *store.Family) (string, error)) (*api.Family, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	defer c.queue.Wake()
	var of int64
	err := c.store.Tx(ctx, func(tx *store.Store) error {
		f, family, err := c.face(ctx, tx, face)
		if err != nil {
			return err
		}
		of = family.ID
		said, err := change(tx, f, family)
		if err != nil || said == "" {
			return err
		}
		if err := c.again(ctx, tx, face, family.Name); err != nil {
			return err
		}
		if err := c.library.index(ctx, tx, family.ID); err != nil {
			return err
		}
		return c.note(ctx, tx, p, action, family.Name, FaceName("", f.Style)+": "+said)
	})
	if err != nil {
		return nil, err
	}
	return c.library.Family(ctx, p, of)
}

// measured works out anew what is in use of the faces of a file that was measured after it
// came.
func (c *Files) measured(ctx context.Context, file *store.File) error {
	holders, err := facedb.In(c.store).Holders(ctx, []string{file.SHA256})
	if err != nil {
		return err
	}
	defer c.queue.Wake()
	for _, h := range holders {
		err := c.store.Tx(ctx, func(tx *store.Store) error {
			f, err := familydb.In(tx).Face(ctx, h.FaceID)
			if err != nil {
				return err
			}
			// Also with one file: another may be coming in, by somebody who did not see these measures.
			if err := c.Decide(ctx, tx, f, h.Family); err != nil {
				return err
			}
			return c.library.index(ctx, tx, h.FamilyID)
		})
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
	}
	return nil
}

// again works out what is in use of a face, as it is recorded.
func (c *Files) again(ctx context.Context, tx *store.Store, face int64, family string) error {
	f, err := familydb.In(tx).Face(ctx, face)
	if err != nil {
		return err
	}
	return c.Decide(ctx, tx, f, family)
}

// link finds a file among those of a face.
func link(f *store.Face, file int64) (*store.FaceFile, error) {
	i := slices.IndexFunc(f.Files, func(l store.FaceFile) bool { return l.FileID == file })
	if i < 0 {
		return nil, app.InvalidField("file", "no-such-version", "The file %d holds no version of this face.", file)
	}
	return &f.Files[i], nil
}

// Use has packs use a file of a face, whatever else there is and comes.
func (c *Files) Use(ctx context.Context, p *store.Person, face, file int64) (*api.Family, error) {
	return c.change(ctx, p, face, "chose file", func(tx *store.Store, f *store.Face, _ *store.Family) (string, error) {
		chosen, err := link(f, file)
		if err != nil {
			return "", err
		}
		if err := unchoose(ctx, tx, f); err != nil {
			return "", err
		}
		chosen.Chosen, chosen.ChosenBy = true, p.Name
		return fmt.Sprintf("packs use %s (%s)", chosen.File.Name, cmp.Or(chosen.Version, "no version")), facedb.In(tx).SetStanding(ctx, chosen)
	})
}

// unchoose ends the choice of a file of a face.
func unchoose(ctx context.Context, tx *store.Store, f *store.Face) error {
	for i := range f.Files {
		if l := &f.Files[i]; l.Chosen {
			l.Chosen, l.ChosenBy = false, ""
			if err := facedb.In(tx).SetStanding(ctx, l); err != nil {
				return err
			}
		}
	}
	return nil
}

// UseNewest ends the choice of a file: packs use the newest complete one again.
func (c *Files) UseNewest(ctx context.Context, p *store.Person, face int64) (*api.Family, error) {
	return c.change(ctx, p, face, "ended choice of file", func(tx *store.Store, f *store.Face, _ *store.Family) (string, error) {
		if !slices.ContainsFunc(f.Files, func(l store.FaceFile) bool { return l.Chosen }) {
			return "", nil
		}
		return "packs use the newest complete file", unchoose(ctx, tx, f)
	})
}

// Settle says which of several files of one version number counts.
func (c *Files) Settle(ctx context.Context, p *store.Person, face, file int64) (*api.Family, error) {
	return c.change(ctx, p, face, "finished conflict", func(tx *store.Store, f *store.Face, _ *store.Family) (string, error) {
		l, err := link(f, file)
		if err != nil {
			return "", err
		}
		for i := range f.Files { // what draws another design counts for nothing then
			if o := &f.Files[i]; o.FileID != file && o.Outcome == string(versions.Mislabeled) && o.Preferred == 0 {
				o.Preferred = -1
				if err := facedb.In(tx).SetStanding(ctx, o); err != nil {
					return "", err
				}
			}
		}
		return fmt.Sprintf("%s counts for its version (%s)", l.File.Name, cmp.Or(l.Version, "no version")), Prefer(ctx, tx, f, l)
	})
}

// Prefer has a file count for its version, before all others.
func Prefer(ctx context.Context, tx *store.Store, f *store.Face, l *store.FaceFile) error {
	for _, o := range f.Files {
		l.Preferred = max(l.Preferred, o.Preferred+1)
	}
	return facedb.In(tx).SetStanding(ctx, l)
}

// Remove takes a file off a face, or, for 0, all of them, until it is brought back; after
// thirty days it is gone. Where sites use it, it is refused with their names unless
// anyway is set.
func (c *Files) Remove(ctx context.Context, p *store.Person, face, file int64, anyway bool) (*api.Family, error) {
	return c.change(ctx, p, face, "removed file", func(tx *store.Store, f *store.Face, family *store.Family) (string, error) {
		going := f.Files
		if file != 0 {
			l, err := link(f, file)
			if err != nil {
				return "", err
			}
			going = []store.FaceFile{*l}
		}
		if len(going) == 0 {
			return "", app.Problem(app.Missing, "not-found", "This face has no files.")
		}
		if !anyway {
			if err := c.inUse(ctx, tx, f, family, going); err != nil {
				return "", err
			}
		}
		now := c.now()
		var names []string
		for i := range going {
			l := &going[i]
			l.RemovedAt, l.RemovedBy, l.Current, l.Beside, l.Chosen, l.ChosenBy = &now, p.Name, false, false, false, ""
			names = append(names, l.File.Name)
			if err := facedb.In(tx).SetStanding(ctx, l); err != nil {
				return "", err
			}
		}
		return strings.Join(names, ", "), nil
	})
}

// inUse says what uses files that are to be removed.
func (c *Files) inUse(ctx context.Context, tx *store.Store, f *store.Face, family *store.Family, going []store.FaceFile) error {
	sites, err := facedb.In(tx).SitesUsing(ctx, family.ID)
	if err != nil {
		return err
	}
	inUse := slices.ContainsFunc(going, func(l store.FaceFile) bool { return l.Current || l.Beside })
	var names []string
	for _, s := range sites {
		stays := s.Choices.PinnedTo(f.ID)
		if stays == 0 && inUse || slices.ContainsFunc(going, func(l store.FaceFile) bool { return l.FileID == stays }) {
			names = append(names, s.Name)
		}
	}
	if len(names) == 0 {
		return nil
	}
	then := "packs of them then use another file of it"
	if len(going) == len(f.Files) {
		then = "the face is then gone from their packs"
	}
	return app.Problem(app.Conflict, "in-use", "Packs use this file of %s, which is on %s; %s. It can be restored for 30 days.", FaceName(family.Name, f.Style), sentence.List(names), then)
}

// Restore undoes a removal.
func (c *Files) Restore(ctx context.Context, p *store.Person, face, file int64) (*api.Family, error) {
	return c.change(ctx, p, face, "brought file back", func(tx *store.Store, _ *store.Face, _ *store.Family) (string, error) {
		back, err := facedb.In(tx).RemovedFiles(ctx, face)
		if err != nil {
			return "", err
		}
		var names []string
		for i := range back {
			l := &back[i]
			if file != 0 && l.FileID != file {
				continue
			}
			l.RemovedAt, l.RemovedBy = nil, ""
			names = append(names, l.File.Name)
			if err := facedb.In(tx).SetStanding(ctx, l); err != nil {
				return "", err
			}
		}
		if len(names) == 0 {
			return "", app.Problem(app.Conflict, "not-removed", "No such file was removed from this face, or its 30 days are over.")
		}
		return strings.Join(names, ", "), nil
	})
}

// sweep ends the files that were removed from faces more than thirty days ago.
func (c *Files) sweep(ctx context.Context) error {
	var free []string
	err := c.store.Tx(ctx, func(tx *store.Store) (err error) {
		free, err = librarydb.In(tx).PurgeRemoved(ctx, c.now().Add(-keepDeleted))
		return err
	})
	return errors.Join(err, drop(ctx, c.library.bucket, free))
}

// RecordAs records a file as another style of its family than it calls itself: what a
// mislabeled one looks like.
func (c *Files) RecordAs(ctx context.Context, p *store.Person, face, file int64, style string) (*api.Family, error) {
	style, err := app.RequiredText("style", style)
	if err != nil {
		return nil, err
	}
	weight, said := metadata.WeightOf(style)
	if n, err := strconv.Atoi(style); err == nil && n >= 1 && n <= 1000 {
		weight, said = n, true
	}
	if !said {
		return nil, app.InvalidField("style", "no-weight", "%q names no weight; write it like Bold, SemiBold Italic or 700.", style)
	}
	return c.change(ctx, p, face, "recorded file", func(tx *store.Store, f *store.Face, family *store.Family) (string, error) {
		l, err := link(f, file)
		if err != nil {
			return "", err
		}
		name := l.File.Name
		l.AsStyle, l.AsWeight = app.Shorten(style, 200), weight
		l.Record()
		to, err := familydb.In(tx).FaceByKey(ctx, family.ID, KeyOf(style, &l.Metadata))
		if errors.Is(err, store.ErrNotFound) {
			to = &store.Face{FamilyID: family.ID, FaceKey: KeyOf(style, &l.Metadata), Style: l.AsStyle, Width: f.Width, Weight: weight, Slope: f.Slope}
			err = familydb.In(tx).AddFace(ctx, to)
		}
		if err != nil {
			return "", err
		}
		if to.ID == face {
			return "", app.InvalidField("style", "same-style", "It is recorded as %s already.", f.Style)
		}
		if err := facedb.In(tx).MoveFile(ctx, l, to.ID); err != nil {
			return "", err
		}
		return name + " as " + l.AsStyle, c.again(ctx, tx, to.ID, family.Name)
	})
}

// KeyOf is what makes a face the same when it comes again: its style's name and numbers,
// and whether it is variable.
func KeyOf(style string, f *metadata.Face) string {
	kind := "static"
	if len(f.Axes) > 0 {
		kind = "variable"
	}
	return app.Shorten(fmt.Sprintf("%s|%d|%g|%s|%s", strings.ToLower(style), f.Style.Weight, f.Style.WidthPercent, f.Style.Slope, kind), 250)
}
