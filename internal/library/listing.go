package library

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"sparecrate/font/metadata"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/search"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/store/usagedb"
	"sparecrate/internal/work"
)

// IndexVersion goes up when lists and search know other things of a family than
// before, so that all are listed anew.
const IndexVersion = 4

// The kinds of traits that faces are found by.
const (
	TraitLanguage = "language"
	TraitScript   = "script"
	TraitFeature  = "feature"
	TraitProblem  = "problem"
	AnyProblem    = "any"
)

// Trait names something that faces can be searched by.
func Trait(kind, value string) string { return app.Shorten(kind+":"+strings.TrimSpace(value), 80) }

// Traits returns all that a face is found by besides its words and numbers.
func Traits(f *metadata.Face) []string {
	var out []string
	for _, l := range f.Coverage.Languages {
		out = append(out, Trait(TraitLanguage, l))
	}
	for _, s := range f.Coverage.Scripts {
		if s.Name != "Common" && s.Name != "Inherited" {
			out = append(out, Trait(TraitScript, s.Name))
		}
	}
	for _, t := range f.Features {
		out = append(out, Trait(TraitFeature, t))
	}
	for _, p := range f.Problems {
		out = append(out, Trait(TraitProblem, p.Code))
	}
	if len(f.Problems) > 0 {
		out = append(out, Trait(TraitProblem, AnyProblem))
	}
	return out
}

// Listing returns what lists know of a face, from the file in use and all its files; set is the number
// of its set of traits, bearing that of what verdicts need of it.
func Listing(f *metadata.Face, file *store.File, place int, files []store.FaceFile, set, bearing int64) store.Listing {
	l := store.Listing{
		FileID: file.ID, Place: place, Format: file.Format, Formats: formatsOf(files), Supplied: store.SuppliedOf(files),
		WeightMin: f.Style.Weight, WeightMax: f.Style.Weight, WidthMin: f.Style.WidthPercent, WidthMax: f.Style.WidthPercent,
		Variable: len(f.Axes) > 0, Color: len(f.Color) > 0, Permission: string(f.Embedding.Level), Sample: app.Shorten(f.Names.SampleText, 200), TraitSet: set, FullName: app.Shorten(f.Names.Full, 250), Bearing: bearing,
	}
	for _, a := range f.Axes {
		switch a.Tag {
		case "wght":
			l.WeightMin, l.WeightMax = int(a.Min), int(a.Max)
		case "wdth":
			l.WidthMin, l.WidthMax = a.Min, a.Max
		}
	}
	return l
}

// formatsOf are the formats of a face's files, each once.
func formatsOf(files []store.FaceFile) []string {
	var out []string
	for _, f := range files {
		out = append(out, f.File.Format)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// FaceWords are the words by which a face's family is found.
func FaceWords(f *metadata.Face, style, fileName string) []string {
	n := &f.Names
	names := []string{style, n.Family, n.TypographicFamily, n.Full, n.PostScript, n.Designer, n.Manufacturer, fileName}
	for _, i := range f.Instances {
		names = append(names, i.Name, i.PostScript)
	}
	return search.Index(names...)
}

// FamilyWords are the words by which a family is found besides those of its faces.
func FamilyWords(f *store.Family, client string) []string {
	names := []string{f.Name, client, f.Designer, f.Foundry}
	for _, t := range f.Tags {
		names = append(names, t.Tag)
	}
	return search.Index(names...)
}

// index lists a family anew: the words by which it is found, and what lists show
// of its faces.
func (lib *Library) index(ctx context.Context, tx *store.Store, id int64) error {
	family, err := familydb.In(tx).Family(ctx, id)
	if err != nil {
		return err
	}
	if family.Indexer == 0 { // from before families had makers
		if err := makers(ctx, tx, family); err != nil {
			return err
		}
	}
	words := FamilyWords(family, family.Client.Name)
	hosts, err := librarydb.In(tx).Hosts(ctx, []int64{id})
	if err != nil {
		return err
	}
	words = append(words, search.Index(hosts[id]...)...)
	for i := range family.Faces {
		face := &family.Faces[i]
		for _, f := range face.Files {
			words = append(words, FaceWords(&f.Metadata, face.Style, f.File.Name)...)
		}
		if err := lib.Files.listed(ctx, tx, face, family); err != nil {
			return err
		}
	}
	slices.Sort(words)
	words = slices.Compact(words)
	if err := familydb.In(tx).AddWords(ctx, words); err != nil {
		return err
	}
	if err := familydb.In(tx).SetFamilyWords(ctx, id, words); err != nil {
		return err
	}
	return familydb.In(tx).Recount(ctx, id, lib.now(), IndexVersion)
}

// Bearing returns the number of what verdicts need of a face.
func Bearing(ctx context.Context, tx *store.Store, f *metadata.Face) (int64, error) {
	b, err := json.Marshal(license.FaceOf(f))
	if err != nil {
		return 0, err
	}
	return usagedb.In(tx).Bearing(ctx, string(b))
}

// makers has a family say who drew and who publishes it, as its first face does.
func makers(ctx context.Context, tx *store.Store, f *store.Family) error {
	for _, face := range f.Faces {
		if cur := face.Current(); cur != nil {
			f.Designer, f.Foundry = MakersOf(&cur.Metadata)
			return librarydb.In(tx).SetMakers(ctx, f)
		}
	}
	return nil
}

// MakersOf returns what a face says of its designer and foundry.
func MakersOf(f *metadata.Face) (designer, foundry string) {
	return app.Shorten(strings.TrimSpace(f.Names.Designer), 200), app.Shorten(strings.TrimSpace(f.Names.Manufacturer), 200)
}

// jobIndex is the kind of job that lists families anew which an older version of
// the service listed.
const jobIndex = "index"

// AskToIndex asks for that where there are such families.
func (lib *Library) AskToIndex(ctx context.Context) error {
	old, err := familydb.In(lib.store).ListedBefore(ctx, IndexVersion, 1)
	if err != nil || len(old) == 0 {
		return err
	}
	return lib.store.Tx(ctx, func(tx *store.Store) error {
		return lib.queue.Add(ctx, tx, work.Job{Kind: jobIndex, Key: fmt.Sprintf("v%d from %d", IndexVersion, old[0]), Title: "Families listed for search", Payload: struct{}{}})
	})
}

// indexAll does a job of the kind index.
func (lib *Library) indexAll(ctx context.Context, _ []byte, _ func(done, total int)) error {
	for {
		ids, err := familydb.In(lib.store).ListedBefore(ctx, IndexVersion, 100)
		if err != nil || len(ids) == 0 {
			return err
		}
		for _, id := range ids {
			err := lib.store.Tx(ctx, func(tx *store.Store) error { return lib.index(ctx, tx, id) })
			if err != nil && !errors.Is(err, store.ErrNotFound) {
				return err
			}
		}
	}
}
