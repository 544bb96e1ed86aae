package catalog

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"maps"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"sparecrate/font"
	"sparecrate/font/facts"
	"sparecrate/font/fallback"
	"sparecrate/font/reshape"
	"sparecrate/internal/bucket"
	"sparecrate/internal/builder"
	"sparecrate/internal/css"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
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
	used       *usedFamily
	face       *store.Face
	cur        *store.FaceFile
	recipe     *reshape.Recipe  // with what the receiver makes necessary; nil for nothing
	containers []font.Container // best first
	trouble    error            // why the receiver cannot have it
}

// input gives what a pack for an environment is made of, without any file.
func (d *delivered) input(environment string) *packing {
	rules := d.rules.Rules
	if d.Choices.OldBrowsers {
		rules = rules.WithOld()
	}
	p := &packing{Input: pack.Input{Site: d.Name, Client: d.Client.Name, Domains: d.Domains, Environment: environment, Rules: rules, Words: d.Words, Call: builder.Call(d.Choices.Call)}}
	for _, e := range d.Environments {
		if e.Name == environment {
			p.Prefix = e.Prefix
		}
	}
	names := map[int64]string{}
	for i := range d.used {
		u := &d.used[i]
		names[u.family.ID] = u.family.Name
		f := pack.Family{Name: u.family.Name, Verdict: u.verdict,
			Licenses: each(u.licenses, func(l store.License) pack.License { return pack.License{Name: licenseName(l), SPDX: l.SPDX} })}
		if u.verdict.State != license.Clear && u.signOff != nil {
			f.SignOff = &pack.SignOff{By: u.signOff.Person, At: u.signOff.At.Format(time.RFC3339), Reason: u.signOff.Reason}
			if u.signOff.Ends != nil {
				f.SignOff.Until = u.signOff.Ends.Format(time.DateOnly)
			}
		}
		for k := range u.family.Faces {
			face := &u.family.Faces[k]
			cur := current(*face)
			if cur == nil {
				continue
			}
			if !slices.Contains(u.sends.sent, face.ID) {
				f.Left = append(f.Left, face.Style)
				continue
			}
			p.addFace(d, &f, len(p.Families), u, face, cur)
		}
		p.Families = append(p.Families, f)
	}
	for _, one := range d.Placements {
		p.Placements = append(p.Placements, placementOf(one, names[one.FamilyID]))
	}
	for i := range p.Families {
		p.Families[i].Generic = p.genericOf(p.Families[i].Name)
	}
	for _, one := range d.StandIns {
		p.StandIns = append(p.StandIns, pack.StandIn{Name: one.Name, Family: names[one.FamilyID], Weight: one.Weight, Slope: facts.Slope(one.Slope)})
	}
	return p
}

// genericOf is the generic family behind a family: the one its roles end in, else the
// nearest to its name.
func (p *packing) genericOf(family string) string {
	for _, one := range p.Placements {
		if n := len(one.Stack); one.Family == family && n > 0 && slices.Contains(pack.Generics, one.Stack[n-1]) {
			return one.Stack[n-1]
		}
	}
	return genericOf(family)
}

// addFace adds a face to a packing; a variable one, where the receiver takes none,
// as static faces.
func (p *packing) addFace(d *delivered, f *pack.Family, family int, u *usedFamily, face *store.Face, cur *store.FaceFile) {
	placements := placementsOf(d.Site, u.family.ID, u.family.Name)
	one := pack.Face{ID: face.ID, Facts: cur.Facts, Style: face.Style, Came: cur.File.Name, Why: u.sends.needs[face.ID]}
	made := packedFace{family: family, used: u, face: face, cur: cur}
	var retype bool
	made.containers, retype, made.trouble = p.Rules.ContainersOf(cur.Facts.Outlines)
	if len(made.containers) > 0 {
		made.trouble = nil
	}
	if u.recipe != nil && u.recipe.Trim != nil && !p.splits(u) {
		if kept, err := u.recipe.Trim.Characters(); err == nil {
			if text := kept.String(); len(text) <= maxRange {
				one.Range = text
			}
		}
	}
	add := func(recipe *reshape.Recipe, why []string) {
		made.recipe, made.at = recipe, len(f.Faces)
		words := []string{}
		if !u.recipe.Plain() {
			whole := *u.recipe.Made()
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
	if retype {
		why = append(why, "its outlines become TrueType ones, because the receiver takes TTF")
	}
	if len(cur.Facts.Axes) == 0 || p.Rules.Files.Variable || u.recipe != nil && u.recipe.Pin != nil {
		add(u.recipe, why)
		return
	}
	for _, weight := range pinsOf(d.Site, &cur.Facts, placements) {
		recipe := reshape.Recipe{}
		if u.recipe != nil {
			recipe = *u.recipe
		}
		recipe.Pin = &reshape.Pin{Rest: true}
		if slices.ContainsFunc(cur.Facts.Axes, func(a facts.Axis) bool { return a.Tag == "wght" }) {
			recipe.Pin.At = map[string]string{"wght": fmt.Sprint(weight)}
		}
		one.Facts.Axes, one.Facts.Instances = nil, nil
		one.Facts.Style.Weight = weight
		one.Style = builder.WeightWord(weight)
		add(&recipe, append(slices.Clone(why), fmt.Sprintf("pinned at the weight %d, because the receiver takes no variable fonts", weight)))
	}
}

// splits reports whether faces of a family go in parts by characters.
func (p *packing) splits(u *usedFamily) bool {
	return u.recipe != nil && len(u.recipe.Split) > 0 && p.Rules.Files.Parts
}

// recipeFor gives the recipe of a container: TTF is made of any outlines.
func (f *packedFace) recipeFor(to font.Container, base *reshape.Recipe) *reshape.Recipe {
	postScript := f.cur.Facts.Outlines == facts.CFF || f.cur.Facts.Outlines == facts.CFF2
	if to != font.TTF || !postScript {
		return base
	}
	if base == nil {
		return &reshape.Recipe{Retype: true}
	}
	retyped := *base
	retyped.Retype = true
	return &retyped
}

// whole gives the recipe of a whole face.
func (f *packedFace) whole() *reshape.Recipe {
	if f.recipe.Plain() {
		return nil
	}
	whole := *f.recipe.Made()
	whole.Split, whole.Part = nil, ""
	if whole.Plain() {
		return nil
	}
	return &whole
}

// makings gives what has to be made for a face.
func (p *packing) makings(f *packedFace) []making {
	var out []making
	recipes := []*reshape.Recipe{f.whole()}
	if p.splits(f.used) {
		recipes = nil // its parts are known once it is opened
	}
	for _, r := range recipes {
		for _, to := range f.containers {
			if r.Plain() && asItIs(&f.cur.File, to) && f.recipeFor(to, r).Plain() {
				continue
			}
			out = append(out, making{f.cur.File.SHA256, f.cur.Place, to, f.recipeFor(to, r)})
		}
	}
	return out
}

// fill makes the files of a packing, on all cores; what was made before is taken as
// it is.
func (c *Catalog) fill(ctx context.Context, p *packing) error {
	known, err := c.known(ctx, p)
	if err != nil {
		return err
	}
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(runtime.NumCPU())
	// The largest first, so that no core waits for another at the end.
	order := make([]*packedFace, len(p.faces))
	for i := range p.faces {
		order[i] = &p.faces[i]
	}
	slices.SortStableFunc(order, func(a, b *packedFace) int { return cmp.Compare(b.cur.File.Bytes, a.cur.File.Bytes) })
	for _, f := range order {
		g.Go(func() error { return c.fillFace(ctx, p, f, known) })
	}
	return g.Wait()
}

// known gives what is made already of the sources of a packing, by source and recipe.
func (c *Catalog) known(ctx context.Context, p *packing) (map[string]store.Derived, error) {
	var sources []string
	for _, f := range p.faces {
		sources = append(sources, f.cur.File.SHA256)
	}
	out := map[string]store.Derived{}
	if len(sources) == 0 {
		return out, nil
	}
	found, err := c.store.DerivedOf(ctx, sources)
	for _, d := range found {
		out[d.Source+" "+d.Recipe] = d
	}
	return out, err
}

// fillFace makes the files of one face.
func (c *Catalog) fillFace(ctx context.Context, p *packing, f *packedFace, known map[string]store.Derived) error {
	one := &p.Families[f.family].Faces[f.at]
	if f.trouble != nil {
		return problem(Conflict, "cannot-send", "%s %s: %s. Take another builder, or leave the face out.", f.used.family.Name, f.face.Style, sentence.Of(f.trouble))
	}
	whole := f.whole()
	var err error
	if one.Files, err = c.packFiles(ctx, f, whole, known); err != nil {
		return err
	}
	split := p.splits(f.used)
	against := p.against(f)
	if whole == nil && !split && against == nil {
		return nil
	}
	read := sync.OnceValues(func() (*font.File, error) {
		easiest := one.Files[0]
		for _, file := range one.Files[1:] {
			if easiest.Container == font.WOFF2 || file.Container == font.TTF || file.Container == font.OTF {
				easiest = file
			}
		}
		return c.read(ctx, easiest)
	})
	if whole != nil || split {
		opened, err := read()
		if err != nil {
			return err
		}
		// What is said of the face is what is true of it now.
		one.Facts = facts.One(opened.Faces[0])
		if f.recipe.Pin != nil || f.recipe.Rename != nil {
			one.Style = one.Facts.Names.StyleName()
		}
	}
	if against != nil {
		if err := c.standInsOf(one, against, read); err != nil {
			return err
		}
		if f.recipe == nil || f.recipe.Fallback == nil {
			one.NoStandIn = "" // nobody asked for one
		}
	}
	if !split {
		return nil
	}
	opened, err := read()
	if err != nil {
		return err
	}
	parts, err := reshape.Parts(opened.Faces[0], f.recipe.Split)
	if err != nil {
		return problem(Conflict, "cannot-split", "%s %s cannot be split: %s", f.used.family.Name, f.face.Style, sentence.Of(err))
	}
	one.Files = nil
	for _, part := range parts {
		recipe := *f.recipe.Made()
		recipe.Part = part.Name
		files, err := c.packFiles(ctx, f, &recipe, known)
		if err != nil {
			return err
		}
		one.Parts = append(one.Parts, pack.Part{Name: part.Name, Range: part.Characters.String(), Files: files})
	}
	return nil
}

func (c *Catalog) read(ctx context.Context, f pack.File) (*font.File, error) {
	data, err := c.bucket.Read(ctx, bucket.Hash(f.SHA256))
	if err != nil {
		return nil, err
	}
	return font.Open(data)
}

// against says which local fonts are made to the measure of a face: those its
// recipe names, else those its roles fall back to.
func (p *packing) against(f *packedFace) *reshape.Fallback {
	if !p.Rules.Web() || p.Rules.Styles.Form == builder.StylesNone || p.Rules.Styles.Form == builder.StylesAddresses {
		return nil
	}
	if f.recipe != nil && f.recipe.Fallback != nil {
		return f.recipe.Fallback
	}
	var names []string
	for _, one := range p.Placements {
		if one.Family != f.used.family.Name {
			continue
		}
		for _, name := range one.Stack {
			if _, err := fallback.System(name, false); err == nil && !slices.Contains(names, strings.ToLower(name)) {
				names = append(names, strings.ToLower(name))
			}
		}
	}
	if len(names) == 0 {
		return nil
	}
	return &reshape.Fallback{Against: names[:min(len(names), 2)], Language: "en"}
}

// maxRange bounds a unicode-range in a stylesheet, bytes; what is longer would weigh
// more than it saves.
const maxRange = 2000

// boldFrom is the weight from which the bold of a system font stands in.
const boldFrom = 600

// measured keeps what was found of local fonts to the measure of faces: it is the
// same each time.
var measured struct {
	sync.Mutex
	found map[string][]reshape.StandIn
}

const mostMeasured = 2000

// standInsOf makes local fonts to the measure of a face.
func (c *Catalog) standInsOf(one *pack.Face, against *reshape.Fallback, read func() (*font.File, error)) error {
	key := one.Files[0].SHA256 + (&reshape.Recipe{Fallback: against}).Key()
	measured.Lock()
	found, ok := measured.found[key]
	measured.Unlock()
	if !ok {
		opened, err := read()
		if err != nil {
			return err
		}
		found, err = against.StandIns(opened.Faces[0], one.Facts.Style.Weight >= boldFrom)
		if err != nil {
			one.NoStandIn = sentence.Of(err)
			return nil
		}
		measured.Lock()
		if measured.found == nil || len(measured.found) >= mostMeasured {
			measured.found = map[string][]reshape.StandIn{}
		}
		measured.found[key] = found
		measured.Unlock()
	}
	for _, s := range found {
		one.StandIns = append(one.StandIns, css.Fallbacks(one.Facts, []string{s.Local}, s.Groups)...)
	}
	return nil
}

// packFiles gives a face in each container that is sent, made by a recipe, nil for
// none.
func (c *Catalog) packFiles(ctx context.Context, f *packedFace, base *reshape.Recipe, known map[string]store.Derived) ([]pack.File, error) {
	var out []pack.File
	for _, to := range f.containers {
		recipe := f.recipeFor(to, base)
		hash, bytes := f.cur.File.SHA256, f.cur.File.Bytes
		if !recipe.Plain() || !asItIs(&f.cur.File, to) {
			if recipe.Plain() {
				recipe = nil
			}
			m := making{f.cur.File.SHA256, f.cur.Place, to, recipe}
			d, ok := known[m.Source+" "+m.recipe()]
			if !ok {
				made, err := c.made(ctx, &f.cur.File, m)
				if err != nil {
					return nil, err
				}
				d = *made
			}
			hash, bytes = d.Hash, d.Bytes
		}
		out = append(out, pack.File{Container: to, Blob: pack.Blob{SHA256: hash, Bytes: bytes, Open: func() (io.ReadCloser, error) {
			r, _, err := c.bucket.Open(ctx, bucket.Hash(hash))
			return r, err
		}}})
	}
	return out, nil
}

// environmentOf finds which environment of a site is meant: the first where none is
// named.
func environmentOf(s *store.Site, name *string) (string, error) {
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
		return "", invalid("environment", "unknown-environment", "The site %s has no environments; leave it out.", s.Name)
	}
	return "", invalid("environment", "unknown-environment", "The site %s has no environment %q; choose one of %s.", s.Name, *name,
		strings.Join(each(s.Environments, func(e store.Environment) string { return e.Name }), ", "))
}

// laid is a pack laid out, with what it was made of.
type laid struct {
	*packing
	*pack.Packed
}

// assemble makes the parts of a pack for an environment and lays it out.
func (c *Catalog) assemble(ctx context.Context, d *delivered, environment string) (*laid, error) {
	p := d.input(environment)
	if err := c.fill(ctx, p); err != nil {
		return nil, err
	}
	landed, err := c.store.LandedAt(ctx, d.ID, environment)
	if err != nil {
		return nil, err
	}
	p.Landed = make(map[string]pack.Landed, len(landed))
	for path, l := range landed {
		p.Landed[path] = pack.Landed{Address: l.Address, SHA256: l.SHA256}
	}
	pages, err := c.store.SitePages(ctx, d.ID)
	if err != nil {
		return nil, err
	}
	for _, page := range pages {
		p.Pages = append(p.Pages, pack.Page{Title: cmp.Or(page.Title, page.Address), Address: page.Address})
	}
	packed, err := pack.Assemble(p.Input)
	if err != nil {
		return nil, err
	}
	return &laid{p, packed}, nil
}

// trimSaves is about what trimming a face to the Latin letters would save of its
// bytes, by the share of letters of other scripts; 0 where it is not worth while.
func trimSaves(f *facts.Face, bytes int64) int64 {
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
	if latin == 0 || others*10 < f.Coverage.Codepoints {
		return 0
	}
	return bytes * int64(others) / int64(f.Coverage.Codepoints)
}

// waiting counts the parts of a pack, and those of them that are made.
func (c *Catalog) waiting(ctx context.Context, p *packing) (made, of int, err error) {
	known, err := c.known(ctx, p)
	if err != nil {
		return 0, 0, err
	}
	wanted := map[string]bool{}
	for i := range p.faces {
		for _, m := range p.makings(&p.faces[i]) {
			wanted[m.Source+" "+m.recipe()] = true
		}
	}
	for key := range maps.Keys(wanted) {
		if _, ok := known[key]; ok {
			made++
		}
	}
	return made, len(wanted), nil
}
