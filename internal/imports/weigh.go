package imports

import (
	"context"
	"fmt"
	"path"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/font/identity"
	"sparecrate/internal/library"
	"sparecrate/internal/store"
	"sparecrate/internal/store/facedb"
	"sparecrate/internal/store/importdb"
	"sparecrate/internal/versions"
)

// weighing is a font of a face among all of that face: the catalog's, and the others that
// are marked in the import.
type weighing struct {
	files  []versions.File
	choice *versions.Choice
	at     int           // the font's own place
	places map[int64]int // of the fonts of the import, by number
	there  bool          // the catalog has the face
	face   string        // the face's name
}

// finished are the words for what a person said of a font that is in conflict.
const (
	settledUse  = "use"  // it counts
	settledKeep = "keep" // the other one counts
)

// preference is what a finished font has over those that nobody spoke of.
func preference(settle string) int64 {
	switch settle {
	case settledUse:
		return 1 << 40
	case settledKeep:
		return -1
	}
	return 0
}

// weighed weighs a font against the catalog's files of its face and against the fonts of
// its import that are marked. Fonts that have just come are weighed against the catalog
// alone: nobody is shown what becomes of them.
func (r *review) weighed(ctx context.Context, it *store.ImportItem, name string, family *store.FamilyHead) (*weighing, error) {
	first := it.Summary.Faces[0]
	w := &weighing{face: library.FaceName(name, first.Style)}
	var links []store.FaceFile
	if family != nil {
		for _, face := range family.Faces {
			if face.FaceKey != first.Key {
				continue
			}
			var err error
			if links, err = r.linksOf(ctx, face.ID); err != nil {
				return nil, err
			}
			w.face = library.FaceName(name, face.Style)
		}
	}
	w.there = len(links) > 0
	var others []store.ImportItem
	key := ""
	if it.Meets == nil {
		key = fmt.Sprintf("%d %s %s", r.client(it).ID, strings.ToLower(name), it.FaceKey)
		if known := r.groups[key]; known != nil {
			if at, is := known.places[it.ID]; is { // all marked fonts of a face are weighed at once
				again := *known
				again.at = at
				return &again, nil
			}
		}
		var err error
		if others, err = r.othersOf(ctx, it, name); err != nil {
			return nil, err
		}
		// Of very many fonts for one face the first are weighed together, and each later one
		// against what was found to be in use among those.
		if known := r.groups[key]; known != nil && len(others) >= importdb.MostOfFace {
			others = slices.DeleteFunc(others, func(o store.ImportItem) bool {
				at, is := known.places[o.ID]
				return !is || !slices.Contains(known.choice.Used, at)
			})
			key = ""
		}
	}
	if len(links)+len(others) == 0 {
		w.files = []versions.File{versionOf(it)}
		w.choice = versions.Choose(w.files)
		return w, nil
	}
	weighed, _, err := r.c.library.Files.Weighed(ctx, links)
	if err != nil {
		return nil, err
	}
	w.files, w.places = weighed, map[int64]int{}
	had := map[string]bool{it.SHA256: true}
	for _, l := range links {
		had[l.File.SHA256] = true
	}
	for i := range append(others, *it) {
		one := it
		if i < len(others) {
			one = &others[i]
			if had[one.SHA256] {
				continue
			}
			had[one.SHA256] = true
		}
		f := versionOf(one)
		if f.Print, err = r.print(ctx, one.SHA256); err != nil {
			return nil, err
		}
		w.places[one.ID] = len(w.files)
		w.files = append(w.files, f)
	}
	w.at = len(w.files) - 1
	w.choice = versions.Choose(w.files)
	if it.Marked && key != "" {
		r.groups[key] = w
	}
	return w, nil
}

// print returns the measures of a font of the import, read once.
func (r *review) print(ctx context.Context, hash string) (*identity.Print, error) {
	if p, known := r.prints[hash]; known {
		return p, nil
	}
	look := r.c.library.Measures.Kept
	if r.thorough {
		look = r.c.library.Measures.Of
	}
	p, err := look(ctx, hash, 0)
	if err == nil {
		r.prints[hash] = p
	}
	return p, err
}

// versionOf returns a font of a import as package versions takes it, not measured. Its
// number comes behind those of the catalog.
func versionOf(it *store.ImportItem) versions.File {
	return versions.File{ID: 1<<40 + it.ID, Name: path.Base(it.Path), Version: it.Summary.Faces[0].Version, Format: it.Summary.Format, Range: it.Summary.Range, Preferred: preference(it.Settle)}
}

// linksOf returns the catalog's files of a face, read once.
func (r *review) linksOf(ctx context.Context, face int64) ([]store.FaceFile, error) {
	if links, known := r.links[face]; known {
		return links, nil
	}
	links, err := facedb.In(r.c.store).LinksOf(ctx, face)
	if err == nil {
		r.links[face] = links
	}
	return links, err
}

// othersOf returns the other fonts of the import that are marked and go into the same
// face. Most have none, which is found out for many at once.
func (r *review) othersOf(ctx context.Context, it *store.ImportItem, name string) ([]store.ImportItem, error) {
	if r.crowded == nil {
		var err error
		if r.crowded, err = importdb.In(r.c.store).CrowdedFaces(ctx, r.imp.ID); err != nil {
			return nil, err
		}
	}
	if !r.crowded.Is(it, name) {
		return nil, nil
	}
	key := fmt.Sprintf("%d %s %s", r.client(it).ID, strings.ToLower(name), it.FaceKey)
	all, known := r.marked[key]
	if !known {
		found, err := importdb.In(r.c.store).MarkedOfFace(ctx, r.imp.ID, it.FaceKey, []string{it.Said, name})
		if err != nil {
			return nil, err
		}
		for i := range found {
			goes, _, err := r.family(ctx, &found[i], found[i].Summary.Faces[0])
			if err != nil {
				return nil, err
			}
			if strings.EqualFold(goes, name) && r.client(&found[i]).ID == r.client(it).ID {
				all = append(all, found[i])
			}
		}
		r.marked[key] = all
	}
	return slices.DeleteFunc(slices.Clone(all), func(o store.ImportItem) bool { return o.ID == it.ID }), nil
}

// inUse returns the place of the catalog's file that is in use, -1 for none.
func (w *weighing) inUse() int {
	return slices.IndexFunc(w.files, func(f versions.File) bool { return f.InUse })
}

// outcome says what a font is beside what the catalog has: what it is among all, or, where
// packs take it, what the file in use becomes beside it.
func (w *weighing) outcome() api.Outcome {
	state := w.choice.States[w.at]
	if state != versions.Used {
		return api.Outcome(state)
	}
	was := w.inUse()
	if was < 0 {
		return api.OutcomeNew
	}
	switch w.choice.States[was] {
	case versions.Older:
		return api.OutcomeNewer
	case versions.Part:
		return api.OutcomeWhole
	case versions.Sibling:
		return api.OutcomeSibling
	case versions.Piece:
		return api.OutcomePiece
	case versions.Mislabeled:
		return api.OutcomeMislabeled
	case versions.SetAside, versions.Conflict:
		return api.OutcomeConflict
	case versions.Used, versions.Whole, versions.Newer:
	}
	return api.OutcomeNewer
}

// undecided reports whether a person has to say what becomes of the font before it can be
// taken in.
func (w *weighing) undecided() bool {
	return w.files[w.at].Preferred == 0 && (w.choice.States[w.at] == versions.Conflict || w.choice.Unsure[w.at])
}

// says says in a sentence what becomes of the font.
func (w *weighing) says(version, format string) string {
	outcome := w.outcome()
	if w.choice.Unsure[w.at] {
		return fmt.Sprintf("There are several files for %s with the same names but different content. Choose which one to use.", w.face)
	}
	if w.choice.States[w.at] != versions.Used {
		return w.choice.Say(w.files, w.at, w.face)
	}
	was := w.inUse()
	more := 0
	if was >= 0 {
		if e := w.choice.Evidence[was]; e != nil {
			more = e.OnlyA.Len()
		}
	}
	switch outcome {
	case api.OutcomeNewer:
		return fmt.Sprintf("A newer version of %s (%s). Packs will use it; the old version is kept.", w.face, version)
	case api.OutcomeWhole:
		return fmt.Sprintf("The same design as %s with %d more characters. Packs will use it; the smaller file is kept.", w.face, more)
	case api.OutcomeSibling:
		return fmt.Sprintf("Another format (%s) of %s, which is in the catalog already; packs use it from now on.", strings.ToUpper(format), w.face)
	case api.OutcomePiece:
		return fmt.Sprintf("One of the %d parts of %s, the one with the basic letters. Packs hold them all, each with its range of characters.", len(w.choice.Used), w.face)
	case api.OutcomeConflict, api.OutcomeMislabeled:
		return fmt.Sprintf("It replaces %s, as chosen; the other file is kept.", w.files[was].Name)
	case api.OutcomeNew, api.OutcomeSame, api.OutcomeOlder, api.OutcomePart, api.OutcomeSetAside:
	}
	if len(w.files) > 1 {
		return fmt.Sprintf("New: %s. Of %d files for it, packs will use this one.", w.face, len(w.files))
	}
	return fmt.Sprintf("New: %s.", w.face)
}
