package packaging

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/metadata"
	"sparecrate/font/reshape"
	"sparecrate/internal/app"
	"sparecrate/internal/builder"
	"sparecrate/internal/conversion"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
	"sparecrate/internal/store/packdb"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/usage"
)

// packing is a pack being put together: what it is made of, and the faces whose
// files are still to be made.
type packing struct {
	pack.Input
	faces []packedFace
}

// packedFace is a face of a packing.
type packedFace struct {
	family, at int // places in the input
	used       *usage.SiteFamily
	face       *store.Face
	cur        *store.FaceFile
	supply     string           // the site's choice between its supplier's files and ours
	parts      []facePart       // the files that it goes out from, where these are several
	recipe     *reshape.Recipe  // with what the platform makes necessary; nil for nothing
	formats    []font.Container // best first
	trouble    error            // why the platform cannot have it
}

// facePart is a file of a face that is there in parts.
type facePart struct {
	link       store.FaceFile
	characters coverage.Characters // it goes out for
	name       string
}

// partsOf returns the parts of a face that is there in several files; those that hold
// characters of a trim where there is one.
func partsOf(face *store.Face, trim *reshape.Subset) []facePart {
	wanted := coverage.All
	if trim != nil {
		if kept, err := trim.Characters(); err == nil {
			wanted = kept
		}
	}
	var out []facePart
	for _, l := range face.Parts() {
		goes, err := coverage.ParseRanges(l.Sends)
		if err != nil {
			continue // not reached: it was written from a set of characters
		}
		goes = goes.And(wanted)
		if len(goes) == 0 {
			continue
		}
		out = append(out, facePart{l, goes, ""})
	}
	if len(out) > 1 { // the one with the basic letters stays the first
		slices.SortFunc(out[1:], func(a, b facePart) int { return int(a.characters[0].First) - int(b.characters[0].First) })
	}
	had := map[string]int{}
	for i := range out {
		part := &out[i]
		part.name = "Signs"
		for _, s := range coverage.Scripts(part.characters) {
			if s.Name != "Common" && s.Name != "Inherited" {
				part.name = s.Name
				break
			}
		}
		if had[part.name]++; had[part.name] > 1 {
			part.name = fmt.Sprintf("%s %d", part.name, had[part.name])
		}
	}
	return out
}

// takesParts says of a face that is there in parts whether a platform can have it: all of
// them where it takes parts, one where that is all that is asked for.
func (p *packing) takesParts(f *packedFace) error {
	if len(f.parts) < 2 || p.Rules.Files.Parts {
		return nil
	}
	return fmt.Errorf("it is in %d parts (%s), each for its characters, and “%s” takes one file per face. Add the complete font, or subset it to the characters of one part",
		len(f.parts), strings.Join(app.Each(f.parts, func(one facePart) string { return one.name }), ", "), p.Rules.Name)
}

// InputFor returns what a pack for an environment is made of, without any file.
func InputFor(d *usage.Site, environment string) *packing {
	rules := usage.RulesFor(d.Site, d.Rules.Rules)
	p := &packing{Input: pack.Input{Site: d.Name, Client: d.Client.Name, Domains: d.Domains, Environment: environment, Rules: rules, Words: d.SampleText, Call: builder.Load(d.Choices.Load)}}
	for _, e := range d.Environments {
		if e.Name == environment {
			p.Prefix = e.Prefix
		}
	}
	names := map[int64]string{}
	for i := range d.Uses {
		u := &d.Uses[i]
		names[u.Family.ID] = u.Family.Name
		f := pack.Family{Name: u.Family.Name, Verdict: u.Verdict, Licenses: licensesOf(u)}
		if u.Verdict.State != license.Cleared && u.SignOff != nil {
			f.SignOff = &pack.SignOff{By: u.SignOff.Person, At: u.SignOff.At.Format(time.RFC3339), Reason: u.SignOff.Reason}
			if u.SignOff.Ends != nil {
				f.SignOff.Until = u.SignOff.Ends.Format(time.DateOnly)
			}
		}
		f.Elsewhere, f.Faces = usage.Elsewhere(u.Family.Name, u.Sheets)
		for k := range u.Family.Faces {
			face := &u.Family.Faces[k]
			cur := face.Current()
			if cur == nil {
				continue
			}
			if !slices.Contains(u.Sends.Sent, face.ID) {
				f.Left = append(f.Left, face.Style)
				continue
			}
			p.addFace(d, &f, len(p.Families), u, face, cur)
		}
		p.Families = append(p.Families, f)
	}
	for _, one := range d.RoleAssignments {
		p.RoleAssignments = append(p.RoleAssignments, usage.RoleAssignmentOf(one, names[one.FamilyID]))
	}
	for i := range p.Families {
		p.Families[i].Generic = p.genericOf(p.Families[i].Name)
	}
	for _, one := range d.Replacements {
		p.Replacements = append(p.Replacements, pack.Replacement{Name: one.Name, Family: names[one.FamilyID], Weight: one.Weight, Slope: metadata.Slope(one.Slope)})
	}
	return p
}

// genericOf is the generic family behind a family: the one its roles end in, else the
// nearest to its name.
func (p *packing) genericOf(family string) string {
	for _, one := range p.RoleAssignments {
		if n := len(one.Stack); one.Family == family && n > 0 && slices.Contains(pack.Generics, one.Stack[n-1]) {
			return one.Stack[n-1]
		}
	}
	return builder.GenericOf(family)
}

// addFace adds a face to a packing; a variable one, where the platform takes none,
// as static faces.
func (p *packing) addFace(d *usage.Site, f *pack.Family, family int, u *usage.SiteFamily, face *store.Face, cur *store.FaceFile) {
	assignments := usage.RoleAssignmentsOf(d.Site, u.Family.ID, u.Family.Name)
	one := pack.Face{ID: face.ID, Metadata: cur.Metadata, Style: face.Style, Came: cur.File.Name, Why: u.Sends.Needs[face.ID]}
	made := packedFace{family: family, used: u, face: face, cur: cur, supply: d.Choices.Source}
	var trim *reshape.Subset
	if u.Recipe != nil {
		trim = u.Recipe.Subset
	}
	if made.parts = partsOf(face, trim); len(made.parts) == 1 { // the one that holds what is wanted
		made.cur = &made.parts[0].link
		made.parts = nil
	}
	made.formats, _, made.trouble = usage.FormatsOn(d.Site, d.Rules.Rules, cur.Metadata.Outlines, store.SuppliedOf(face.Files), !u.Recipe.Empty())
	if len(made.formats) > 0 {
		made.trouble = p.takesParts(&made)
	}
	if u.Recipe != nil && u.Recipe.Subset != nil && !p.splits(u) && made.parts == nil {
		if kept, err := u.Recipe.Subset.Characters(); err == nil {
			if text := kept.String(); len(text) <= maxRange {
				one.Range = text
			}
		}
	}
	add := func(recipe *reshape.Recipe, why []string) {
		made.recipe, made.at = recipe, len(f.Faces)
		words := []string{}
		if !u.Recipe.Plain() {
			whole := *u.Recipe.Made()
			if p.splits(u) {
				words = append(words, whole.Words())
			} else if whole.Split = nil; !whole.Plain() {
				words = append(words, whole.Words())
			}
		}
		one.Changed = strings.Join(append(words, why...), "; ")
		f.Faces = append(f.Faces, one)
		p.faces = append(p.faces, made)
	}
	var why []string
	if len(cur.Metadata.Axes) == 0 || p.Rules.Files.Variable || u.Recipe != nil && u.Recipe.Instance != nil {
		add(u.Recipe, why)
		return
	}
	for _, weight := range usage.PinsOf(d.Site, &cur.Metadata, assignments) {
		recipe := reshape.Recipe{}
		if u.Recipe != nil {
			recipe = *u.Recipe
		}
		recipe.Instance = &reshape.Instance{Rest: true}
		if slices.ContainsFunc(cur.Metadata.Axes, func(a metadata.Axis) bool { return a.Tag == "wght" }) {
			recipe.Instance.At = map[string]string{"wght": fmt.Sprint(weight)}
		}
		one.Metadata.Axes, one.Metadata.Instances = nil, nil
		one.Metadata.Style.Weight = weight
		one.Style = builder.WeightWord(weight)
		add(&recipe, append(slices.Clone(why), fmt.Sprintf("static instance at weight %d, because the platform does not accept variable fonts", weight)))
	}
}

// splits reports whether faces of a family go in parts by characters.
func (p *packing) splits(u *usage.SiteFamily) bool {
	return u.Recipe != nil && len(u.Recipe.Split) > 0 && p.Rules.Files.Parts
}

// EnvironmentOf finds which environment of a site is meant: the first where none is
// named.
func EnvironmentOf(s *store.Site, name *string) (string, error) {
	if name == nil || *name == "" {
		if len(s.Environments) > 0 {
			return s.Environments[0].Name, nil
		}
		return "", nil
	}
	for _, e := range s.Environments {
		if strings.EqualFold(e.Name, *name) {
			return e.Name, nil
		}
	}
	if len(s.Environments) == 0 {
		return "", app.InvalidField("environment", "unknown-environment", "The site %s has no environments. Remove the environment.", s.Name)
	}
	return "", app.InvalidField("environment", "unknown-environment", "The site %s has no environment %q; choose one of %s.", s.Name, *name,
		strings.Join(app.Each(s.Environments, func(e store.Environment) string { return e.Name }), ", "))
}

// laid is a pack laid out, with what it was made of.
type laid struct {
	*packing
	*pack.Packed
}

// Assemble makes the parts of a pack for an environment, waits for them, and lays it out
// with all that speaks of it.
func (c *Packaging) Assemble(ctx context.Context, d *usage.Site, environment string) (*laid, error) {
	l, err := c.layOut(ctx, d, environment, c.conversion.Made)
	if err != nil {
		return nil, err
	}
	return l, l.Render()
}

// LayOut lays a pack for an environment out without waiting for anything: parts that are
// not made yet are asked for and stay pending. With none pending, it has all that speaks
// of it, too.
func (c *Packaging) LayOut(ctx context.Context, d *usage.Site, environment string) (*laid, error) {
	l, err := c.layOut(ctx, d, environment, c.conversion.Ask)
	if err != nil || l.Pending > 0 {
		return l, err
	}
	return l, l.Render()
}

// maker gives what a making makes; nil where it is not made yet and nobody waits for it.
type maker func(ctx context.Context, f *store.File, m conversion.Making) (*store.Derived, error)

func (c *Packaging) layOut(ctx context.Context, d *usage.Site, environment string, made maker) (*laid, error) {
	p := InputFor(d, environment)
	if err := c.fill(ctx, p, made); err != nil {
		return nil, err
	}
	if err := c.licenseTexts(ctx, p, d); err != nil {
		return nil, err
	}
	urls, err := packdb.In(c.store).UploadedAt(ctx, d.ID, environment)
	if err != nil {
		return nil, err
	}
	p.FileURLs = make(map[string]pack.FileURLs, len(urls))
	for path, l := range urls {
		p.FileURLs[path] = pack.FileURLs{Address: l.URL, SHA256: l.SHA256}
	}
	pages, err := sitedb.In(c.store).SitePages(ctx, d.ID)
	if err != nil {
		return nil, err
	}
	for _, page := range pages {
		p.Pages = append(p.Pages, pack.Page{Title: cmp.Or(page.Title, page.URL), Address: page.URL})
	}
	return &laid{p, pack.LayOut(p.Input)}, nil
}

// areFiles says that a number of files are something.
func areFiles(n int) string {
	if n == 1 {
		return "1 file is"
	}
	return fmt.Sprintf("%d files are", n)
}
