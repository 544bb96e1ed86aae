package library

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"maps"
	"math"
	"slices"
	"sparecrate/internal/store/facedb"
	"strconv"
	"strings"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/identity"
	"sparecrate/font/sfnt"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
)

const (
	// mostCandidates bounds the faces that are compared with one that is looked for.
	mostCandidates = 24
	// mostLarge bounds the large faces that are compared where nothing near is found.
	mostLarge = 60
	// mostAlike bounds the faces that are told.
	mostAlike = 12
	// mostPlaced bounds the variable faces whose design space is searched.
	mostPlaced = 3
)

// Alike finds the faces of the catalog that draw what a font file draws, the nearest
// first. The file is not kept.
func (d *Designs) Alike(ctx context.Context, p *store.Person, r io.Reader) (*api.AlikeList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	staged, err := d.bucket.Stage(r, d.limits.FontBytes)
	if errors.Is(err, bucket.ErrTooLarge) {
		return nil, app.Problem(app.TooLarge, "file-too-large", "The file is too large: the limit for a font file is %d MB.", d.limits.FontBytes>>20)
	}
	if err != nil {
		return nil, err
	}
	defer staged.Close()
	head := make([]byte, font.HeadSize)
	n, err := staged.ReadAt(head, 0)
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, err
	}
	var asked *identity.Print
	err = d.heavy.Hold(ctx, app.UnpackedSize(head[:n], staged.Size), func() error {
		data, err := staged.Bytes()
		if err != nil {
			return err
		}
		f, err := font.Open(data)
		if err != nil {
			return app.InvalidField("file", "not-a-font", "%s", sentence.Of(err))
		}
		if asked, err = identity.Measure(f.Faces[0]); err != nil {
			return app.InvalidField("file", "nothing-drawn", "What this font draws cannot be measured: %v.", err)
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	candidates, err := facedb.In(d.store).FacesAlike(ctx, asked.Cells(), mostCandidates)
	if err != nil {
		return nil, err
	}
	exact, err := d.ofBytes(ctx, string(staged.Hash))
	if err != nil {
		return nil, err
	}
	for _, one := range exact {
		if !slices.ContainsFunc(candidates, func(a facedb.Alike) bool { return a.FileID == one.FileID && a.Place == one.Place }) {
			candidates = append(candidates, one)
		}
	}
	out := &api.AlikeList{Items: []api.Alike{}}
	near, err := d.compared(ctx, asked, candidates)
	if err != nil {
		return nil, err
	}
	// A part of a large face may share none of the cells that are kept of that.
	if !slices.ContainsFunc(near, func(n nearby) bool { return n.evidence.Sure() && n.evidence.Relation != identity.Different }) {
		large, err := facedb.In(d.store).LargeFaces(ctx, mostLarge)
		if err != nil {
			return nil, err
		}
		more, err := d.compared(ctx, asked, large)
		if err != nil {
			return nil, err
		}
		near = append(near, slices.DeleteFunc(more, func(n nearby) bool { return !n.evidence.Sure() || n.evidence.Relation == identity.Different })...)
	}
	placed := 0
	for _, one := range near {
		v := one.view()
		if is := slices.ContainsFunc(exact, func(a facedb.Alike) bool { return a.FaceID == v.Face }); is {
			v.Exact = &is
		}
		if one.Variable && len(asked.Axes) == 0 && one.evidence.Relation == identity.Different && placed < mostPlaced {
			placed++
			if err := d.place(ctx, asked, one, &v); err != nil {
				return nil, err
			}
		}
		out.Items = append(out.Items, v)
	}
	rank := map[api.Relation]int{api.RelationSame: 0, api.RelationPart: 1, api.RelationInstance: 2, api.RelationVersion: 3, api.RelationDifferent: 4}
	slices.SortStableFunc(out.Items, func(a, b api.Alike) int {
		return cmp.Or(rank[a.Relation]-rank[b.Relation], map[bool]int{true: 1}[b.Exact != nil]-map[bool]int{true: 1}[a.Exact != nil], cmp.Compare(b.Closeness, a.Closeness), b.Alike-a.Alike)
	})
	// Several files of one face are told once, by the nearest.
	told := map[int64]bool{}
	out.Items = slices.DeleteFunc(out.Items, func(a api.Alike) bool {
		again := told[a.Face]
		told[a.Face] = true
		return again
	})
	out.Items = out.Items[:min(len(out.Items), mostAlike)]
	return out, nil
}

// ofBytes returns the faces that a file is of by its very bytes, and sees to it that they are
// measured.
func (d *Designs) ofBytes(ctx context.Context, hash string) ([]facedb.Alike, error) {
	found, err := facedb.In(d.store).FacesOfBytes(ctx, hash)
	if err != nil {
		return nil, err
	}
	for _, one := range found {
		if _, err := d.prints.Of(ctx, one.SHA256, one.Place); err != nil {
			return nil, err
		}
	}
	return found, nil
}

// compared compares a face with others of the catalog, as far as they are measured.
func (d *Designs) compared(ctx context.Context, asked *identity.Print, with []facedb.Alike) ([]nearby, error) {
	var out []nearby
	for _, one := range with {
		kept, err := d.prints.Kept(ctx, one.SHA256, one.Place)
		if err != nil {
			return nil, err
		}
		if kept != nil {
			out = append(out, nearby{one, kept, identity.Compare(asked, kept)})
		}
	}
	return out, nil
}

// nearby is a face that shares cells with the one that is looked for.
type nearby struct {
	facedb.Alike
	print    *identity.Print
	evidence *identity.Evidence
}

func (n *nearby) view() api.Alike {
	e := n.evidence
	v := api.Alike{Family: api.Ref{Id: n.FamilyID, Name: n.Family}, Client: n.Client, Face: n.FaceID, Style: n.Style, Relation: api.Relation(e.Relation), Common: e.Common, Alike: e.Alike}
	if e.Common > 0 {
		v.Closeness = float32(math.Round(1000*float64(e.Drawn)/float64(e.Common)) / 1000)
	}
	name := strings.TrimSpace(n.Family + " " + n.Style)
	gaps, adds := e.OnlyB.Len(), e.OnlyA.Len()
	switch {
	case e.Relation == identity.Same:
		v.Why = fmt.Sprintf("The same design as %s, with the same characters.", name)
	case e.Relation == identity.Part && adds == 0:
		v.Why = fmt.Sprintf("A part of %s: the same design with %d characters fewer.", name, gaps)
	case e.Relation == identity.Part && gaps == 0:
		v.Why = fmt.Sprintf("The same design as %s, with %d characters more.", name, adds)
	case e.Relation == identity.Part:
		v.Why = fmt.Sprintf("The same design as %s: %d characters are only in this file, %d only in the catalog.", name, adds, gaps)
	case e.Relation == identity.Version:
		v.Why = fmt.Sprintf("Another version of the design of %s: %d of %d common characters are as they are there.", name, e.Alike, e.Common)
	default:
		v.Why = fmt.Sprintf("Another design than %s: %d of %d common characters are drawn alike.", name, e.Drawn, e.Common)
	}
	return v
}

// place looks for a static face in the design space of a variable one.
func (d *Designs) place(ctx context.Context, asked *identity.Print, one nearby, v *api.Alike) error {
	return d.conversion.Face(ctx, one.FileID, &one.Place, 0, func(f *sfnt.Font) error {
		found, is := identity.Placed(asked, one.print, f)
		if !is {
			return nil
		}
		at := map[string]float32{}
		var words []string
		for _, tag := range slices.Sorted(maps.Keys(found.At)) {
			at[tag] = float32(found.At[tag])
			words = append(words, tag+" "+strconv.FormatFloat(found.At[tag], 'f', -1, 64))
		}
		v.Relation, v.At, v.Common, v.Alike, v.Closeness = api.RelationInstance, &at, found.Evidence.Common, found.Evidence.Alike, 1
		v.Why = fmt.Sprintf("An instance of the variable face %s, at %s.", strings.TrimSpace(one.Family+" "+one.Style), strings.Join(words, ", "))
		return nil
	})
}
