package packaging

import (
	"context"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/font/metadata"
	"sparecrate/font/reshape"
	"sparecrate/internal/app"
	"sparecrate/internal/conversion"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
	"sparecrate/internal/usage"
)

// weight is what a face comes to in a pack.
type weight struct {
	bytes   int64 // of the files that one current browser takes
	pending bool  // some of them are not made yet
}

// weightsOf returns what each face comes to, by its ID: a pack lists a face's files best
// first, and only the best of each is fetched.
func weightsOf(entries []pack.Entry) map[int64]weight {
	out := map[int64]weight{}
	stem := ""
	for _, e := range entries {
		if e.Place < 0 {
			continue
		}
		if s := strings.TrimSuffix(e.Path, string(e.Format)); s != stem {
			w := out[e.Face]
			out[e.Face] = weight{w.bytes + e.Bytes, w.pending || e.Pending}
			stem = s
		}
	}
	return out
}

// weigh returns what the faces of a family on a site would come to if packs reshaped it by
// a recipe. What is not made yet is asked for, and pending.
func (c *Packaging) weigh(ctx context.Context, d *usage.Site, u *usage.SiteFamily, recipe *reshape.Recipe) (map[int64]weight, error) {
	alone, used := *d, *u
	used.Recipe = recipe
	alone.Uses = []usage.SiteFamily{used}
	p := InputFor(&alone, "")
	p.RoleAssignments, p.Replacements = nil, nil // they may speak of other families
	if err := c.fill(ctx, p, c.conversion.Ask); err != nil {
		return nil, err
	}
	return weightsOf(pack.LayOut(p.Input).Entries), nil
}

// latin is what a face is trimmed to where people are told what trimming saves.
var latin = &reshape.Subset{Keep: []string{"latin", "latin-ext"}}

// saved returns what trimming to the Latin letters saves of each face of a family, measured:
// of those that have a tenth of other letters or more, and may be trimmed at all.
func saved(ctx context.Context, c *Packaging, d *usage.Site, u *usage.SiteFamily, now map[int64]weight) (map[int64]weight, error) {
	if d.Rules.For != "web" || u.Recipe != nil && (u.Recipe.Subset != nil || len(u.Recipe.Split) > 0) ||
		!slices.ContainsFunc(u.Family.Faces, func(f store.Face) bool { return slices.Contains(u.Sends.Sent, f.ID) && wouldTrim(&f) }) {
		return nil, nil //nolint:nilnil // nothing to save
	}
	recipe := reshape.Recipe{}
	if u.Recipe != nil {
		recipe = *u.Recipe
	}
	recipe.Subset = latin
	trimmed, err := c.weigh(ctx, d, u, &recipe)
	if err != nil {
		if ctx.Err() != nil {
			return nil, err
		}
		return nil, nil //nolint:nilerr,nilnil // it cannot be trimmed, so that nothing is saved
	}
	out := map[int64]weight{}
	for i := range u.Family.Faces {
		f := &u.Family.Faces[i]
		before, is := now[f.ID]
		if !is || !wouldTrim(f) {
			continue
		}
		w := trimmed[f.ID]
		out[f.ID] = weight{before.bytes - w.bytes, before.pending || w.pending}
	}
	return out, nil
}

// wouldTrim reports whether it is worth while to measure what trimming a face saves.
func wouldTrim(face *store.Face) bool {
	cur := face.Current()
	if cur == nil || len(face.Parts()) > 0 || cur.Metadata.Embedding.NoSubsetting {
		return false
	}
	return othersThanLatin(&cur.Metadata)
}

// othersThanLatin reports whether a face writes Latin, and at least a tenth of its
// characters belong to other scripts.
func othersThanLatin(f *metadata.Face) bool {
	latin, others := 0, 0
	for _, s := range f.Coverage.Scripts {
		switch s.Name {
		case "Latin":
			latin = s.Covered
		case "Common", "Inherited":
		default:
			others += s.Covered
		}
	}
	return latin > 0 && others*10 >= f.Coverage.Codepoints
}

// Sizes returns what packs for a site would hold of a family that is on it, reshaped by a
// recipe, beside what they hold now. What is not made yet is asked for.
func (c *Packaging) Sizes(ctx context.Context, p *store.Person, site, family int64, recipe *reshape.Recipe) (*api.RecipeSizes, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	if !recipe.Empty() {
		if err := conversion.Checked(recipe); err != nil {
			return nil, err
		}
	}
	d, err := c.usage.LoadSite(ctx, site)
	if err != nil {
		return nil, err
	}
	at := slices.IndexFunc(d.Uses, func(u usage.SiteFamily) bool { return u.Family.ID == family })
	if at < 0 {
		return nil, app.Problem(app.Missing, "not-found", "The family is not on the site %s. Put it there first.", d.Name)
	}
	u := &d.Uses[at]
	now, err := c.weigh(ctx, d, u, u.Recipe)
	if err != nil {
		return nil, err
	}
	then, err := c.weigh(ctx, d, u, recipe)
	if err != nil {
		return nil, err
	}
	out := &api.RecipeSizes{Items: []api.RecipeSize{}}
	for i := range u.Family.Faces {
		f := &u.Family.Faces[i]
		before, was := now[f.ID]
		after, is := then[f.ID]
		if !was && !is {
			continue
		}
		out.Items = append(out.Items, api.RecipeSize{Face: f.ID, Style: f.Style, Before: before.bytes, After: after.bytes, Pending: before.pending || after.pending})
		out.Before += before.bytes
		out.After += after.bytes
		out.Pending = out.Pending || before.pending || after.pending
	}
	return out, nil
}
