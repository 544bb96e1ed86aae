package catalogsearch

import (
	"cmp"
	"context"
	"errors"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"sparecrate/api"
	"sparecrate/font/appearance"
	"sparecrate/font/identity"
	"sparecrate/internal/app"
	"sparecrate/internal/library"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/finddb"
)

const (
	// mostLooked bounds the faces whose letters are compared with those of a family.
	mostLooked = 60
	// mostMatches bounds the families that are listed.
	mostMatches = 12
	// farthest is the distance of appearance from which families are not called similar.
	farthest = 2.6
	// leastAlike is the least score of a family that is called similar.
	leastAlike = 0.5
)

// looks reads what is asked of measures.
func looks(q *api.ListFamiliesParams) ([]finddb.Measure, error) {
	var out []finddb.Measure
	for _, one := range []struct {
		field string
		text  *string
		of    finddb.Measured
	}{
		{"stem", q.Stem, finddb.Stem}, {"contrast", q.Contrast, finddb.Contrast}, {"xHeight", q.XHeight, finddb.XHeight},
		{"letterWidth", q.LetterWidth, finddb.LetterWidth}, {"roundness", q.Roundness, finddb.Roundness}, {"slant", q.Slant, finddb.Slant},
	} {
		low, high, err := limits(one.field, app.Filled(one.text))
		if err != nil {
			return nil, err
		}
		if low != nil || high != nil {
			out = append(out, finddb.Measure{Of: one.of, Low: low, High: high})
		}
	}
	return out, nil
}

// limits reads a number, which is both ends, or a range: 1.5-3, 2-, -70. Of a single number
// the neighborhood counts that a person means by it: half of its last digit.
func limits(field, text string) (low, high *float64, err error) {
	text = strings.TrimSpace(strings.TrimSuffix(text, "%"))
	if text == "" {
		return nil, nil, nil
	}
	bad := app.InvalidField(field, "bad-range", "%q is not a number or range for %s. Give one such as 70, 60-80 or 60-.", text, field)
	read := func(s string) *float64 {
		if s = strings.TrimSpace(s); s == "" {
			return nil
		}
		n, wrong := strconv.ParseFloat(s, 64)
		if wrong != nil || math.IsNaN(n) || n < 0 || n > 1000 {
			err = bad
		}
		return &n
	}
	from, to, isRange := strings.Cut(text, "-")
	if !isRange {
		n := read(text)
		if err != nil {
			return nil, nil, err
		}
		_, digits, _ := strings.Cut(text, ".")
		half := math.Pow(10, -float64(len(digits))) / 2
		below, above := *n-half, *n+half
		return &below, &above, nil
	}
	low, high = read(from), read(to)
	switch {
	case err != nil:
		return nil, nil, err
	case low == nil && high == nil:
		return nil, nil, bad
	case low != nil && high != nil && *low > *high:
		return nil, nil, app.InvalidField(field, "bad-range", "The range %s of %s runs backwards; write the smaller number first.", text, field)
	}
	return low, high, nil
}

// choices counts what each value of the filters would find.
func (c *Finding) choices(ctx context.Context, q *finddb.Query) (*[]api.FilterChoices, error) {
	found, err := finddb.In(c.store).Choices(ctx, q)
	if err != nil {
		return nil, err
	}
	out := []api.FilterChoices{}
	for _, name := range slices.Sorted(maps.Keys(found)) {
		one := api.FilterChoices{Filter: name}
		for _, v := range found[name] {
			one.Values = append(one.Values, struct {
				Families int    `json:"families"`
				Value    string `json:"value"`
			}{v.Families, v.Value})
		}
		if one.Values != nil {
			out = append(out, one)
		}
	}
	return &out, nil
}

// look returns a look as package appearance measures it.
func look(l *store.Look) *appearance.Appearance {
	return &appearance.Appearance{
		Kind: appearance.Kind(l.Kind), Serifs: l.Serifs, Stem: l.Stem, Contrast: l.Contrast, XHeight: l.XHeight,
		Width: l.LetterWidth, Roundness: l.Roundness, Slant: l.Slant,
	}
}

// match is a family beside another, by one of its faces.
type match struct {
	face  finddb.LookedAt
	score float64
	why   []string
}

// Similar returns the families that look like one, the most similar first: by what is
// measured of their faces, and by how their letters are drawn.
func (c *Finding) Similar(ctx context.Context, p *store.Person, id int64) (*api.FamilyMatchList, error) {
	return c.matches(ctx, p, id, func(of *finddb.LookedAt) ([]match, error) {
		near, err := finddb.In(c.store).LooksNear(ctx, id, &of.Look, mostLooked)
		if err != nil {
			return nil, err
		}
		mine, err := c.measures.Kept(ctx, of.SHA256, of.Place)
		if err != nil {
			return nil, err
		}
		var out []match
		for _, n := range near {
			apart := appearance.Distance(look(&of.Look), look(&n.Look))
			if apart > farthest {
				continue
			}
			score := math.Exp(-apart)
			theirs, err := c.measures.Kept(ctx, n.SHA256, n.Place)
			if err != nil {
				return nil, err
			}
			if mine != nil && theirs != nil {
				score = (score + identity.Likeness(mine, theirs)) / 2
			}
			if score < leastAlike {
				continue
			}
			out = append(out, match{face: n, score: score, why: shared(&of.Look, &n.Look)})
		}
		return out, nil
	})
}

// shared says in what two faces agree.
func shared(a, b *store.Look) []string {
	var agree, differ []string
	told := func(same bool, what string) {
		if same {
			agree = append(agree, what)
		} else {
			differ = append(differ, what)
		}
	}
	told(a.Kind == b.Kind, "kind")
	told(math.Abs(a.Stem-b.Stem) <= 2, "weight")
	told(math.Abs(math.Log(max(a.Contrast, 1)/max(b.Contrast, 1))) <= 0.2, "stroke contrast")
	told(math.Abs(a.XHeight-b.XHeight) <= 3, "x-height")
	told(math.Abs(a.LetterWidth-b.LetterWidth) <= 6, "width")
	told(math.Abs(a.Roundness-b.Roundness) <= 8, "roundness")
	told(math.Abs(a.Slant-b.Slant) <= 2, "slant")
	var out []string
	if len(agree) > 0 {
		out = append(out, "Same "+sentence.List(agree)+".")
	}
	if len(differ) > 0 {
		out = append(out, "Different "+sentence.List(differ)+".")
	}
	return out
}

// Pairings returns the families that go together with one, the best first.
func (c *Finding) Pairings(ctx context.Context, p *store.Person, id int64) (*api.FamilyMatchList, error) {
	return c.matches(ctx, p, id, func(of *finddb.LookedAt) ([]match, error) {
		beside, err := finddb.In(c.store).LooksBeside(ctx, id, &of.Look, mostLooked)
		if err != nil {
			return nil, err
		}
		var out []match
		for _, b := range beside {
			if pair := appearance.Pair(look(&of.Look), look(&b.Look)); pair.Score > 0 {
				out = append(out, match{face: b, score: pair.Score, why: pair.Why})
			}
		}
		return out, nil
	})
}

// matches lists the families of faces that find gives for the face that stands for a family,
// the best first, each family once.
func (c *Finding) matches(ctx context.Context, p *store.Person, id int64, find func(of *finddb.LookedAt) ([]match, error)) (*api.FamilyMatchList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	if _, err := familydb.In(c.store).Family(ctx, id); err != nil {
		return nil, app.Explain(err, "family")
	}
	out := &api.FamilyMatchList{Items: []api.FamilyMatch{}}
	of, err := finddb.In(c.store).Representative(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return out, nil // without Latin letters, or not measured yet
	}
	if err != nil {
		return nil, err
	}
	out.Style, out.Appearance = of.Style, library.AppearanceView(&of.Look)
	found, err := find(of)
	if err != nil {
		return nil, err
	}
	slices.SortStableFunc(found, func(a, b match) int { return cmp.Compare(b.score, a.score) })
	seen := map[int64]bool{}
	found = slices.DeleteFunc(found, func(m match) bool {
		again := seen[m.face.FamilyID]
		seen[m.face.FamilyID] = true
		return again
	})
	found = found[:min(len(found), mostMatches)]
	families, err := finddb.In(c.store).FamiliesOf(ctx, app.Each(found, func(m match) int64 { return m.face.FamilyID }))
	if err != nil {
		return nil, err
	}
	views, err := c.Summaries(ctx, families)
	if err != nil {
		return nil, err
	}
	for _, m := range found {
		if i := slices.IndexFunc(views, func(v api.FamilySummary) bool { return v.Id == m.face.FamilyID }); i >= 0 {
			out.Items = append(out.Items, api.FamilyMatch{Family: views[i], Style: m.face.Style, Score: float32(math.Round(m.score*1000) / 1000), Why: m.why})
		}
	}
	return out, nil
}
