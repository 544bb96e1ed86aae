package packaging

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"runtime"
	"slices"
	"strings"
	"sync"

	"golang.org/x/sync/errgroup"

	"sparecrate/font"
	"sparecrate/font/fallback"
	"sparecrate/font/metadata"
	"sparecrate/font/reshape"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/builder"
	"sparecrate/internal/conversion"
	"sparecrate/internal/css"
	"sparecrate/internal/pack"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
)

// retyped reports whether the outlines of a face have to become TrueType ones for a
// format: TTF and EOT hold no others.
func (f *packedFace) retyped(to font.Container, base *reshape.Recipe) bool {
	postScript := f.cur.Metadata.Outlines == metadata.CFF || f.cur.Metadata.Outlines == metadata.CFF2
	return postScript && (to == font.TTF || to == font.EOT) && (base == nil || !base.ToTrueType)
}

// recipeFor returns the recipe of a format: one that holds TrueType outlines alone is
// made of any.
func (f *packedFace) recipeFor(to font.Container, base *reshape.Recipe) *reshape.Recipe {
	if !f.retyped(to, base) {
		return base
	}
	if base == nil {
		return &reshape.Recipe{ToTrueType: true}
	}
	retyped := *base
	retyped.ToTrueType = true
	return &retyped
}

// whole returns the recipe of a whole face.
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

// makings returns what has to be made for a face.
func (p *packing) makings(f *packedFace) []conversion.Making {
	if len(f.parts) == 0 && p.splits(f.used) {
		return nil // its parts are known once it is opened
	}
	var out []conversion.Making
	for _, from := range f.sources() {
		for _, to := range f.formats {
			if recipe := f.recipeFor(to, f.whole()); !recipe.Plain() || !conversion.AsItCame(&from.File, to) {
				out = append(out, f.ways(from, to, recipe)...)
			}
		}
	}
	return out
}

// sources are the files that a face goes out from: one, or its parts.
func (f *packedFace) sources() []*store.FaceFile {
	if len(f.parts) == 0 {
		return []*store.FaceFile{f.cur}
	}
	var out []*store.FaceFile
	for i := range f.parts {
		out = append(out, &f.parts[i].link)
	}
	return out
}

// fill gives the files of a packing, made on all cores; what was made before is taken as
// it is.
func (c *Packaging) fill(ctx context.Context, p *packing, made maker) error {
	known, err := c.known(ctx, p)
	if err != nil {
		return err
	}
	g, making := errgroup.WithContext(ctx) // which ends before the files are read
	g.SetLimit(runtime.NumCPU())
	// The largest first, so that no core waits for another at the end.
	order := make([]*packedFace, len(p.faces))
	for i := range p.faces {
		order[i] = &p.faces[i]
	}
	slices.SortStableFunc(order, func(a, b *packedFace) int { return cmp.Compare(b.cur.File.Bytes, a.cur.File.Bytes) })
	for _, f := range order {
		g.Go(func() error { return c.fillFace(making, ctx, p, f, known, made) })
	}
	return g.Wait()
}

// known returns what is made already of the sources of a packing, by source and recipe.
func (c *Packaging) known(ctx context.Context, p *packing) (map[string]store.Derived, error) {
	var sources []string
	for i := range p.faces {
		for _, from := range p.faces[i].sources() {
			sources = append(sources, from.File.SHA256)
		}
	}
	out := map[string]store.Derived{}
	if len(sources) == 0 {
		return out, nil
	}
	found, err := familydb.In(c.store).DerivedOf(ctx, sources)
	for _, d := range found {
		out[d.Source+" "+d.Recipe] = d
	}
	return out, err
}

// fillFace gives the files of one face, which are read in a context that lasts longer.
func (c *Packaging) fillFace(ctx, reading context.Context, p *packing, f *packedFace, known map[string]store.Derived, made maker) error {
	one := &p.Families[f.family].Faces[f.at]
	if f.trouble != nil {
		return app.Problem(app.Conflict, "cannot-send", "%s %s: %s. Choose another builder, or exclude the face.", f.used.Family.Name, f.face.Style, strings.TrimSuffix(f.trouble.Error(), "."))
	}
	whole := f.whole()
	var err error
	if one.Files, err = c.packFiles(ctx, reading, f, f.sources()[0], whole, known, made); err != nil {
		return err
	}
	if len(f.parts) > 0 {
		if err := c.fillParts(ctx, reading, f, one, known, made); err != nil {
			return err
		}
	}
	if slices.ContainsFunc(one.Files, func(f pack.File) bool { return f.Pending }) {
		return nil // what depends on the font's content is said once it is made
	}
	split := p.splits(f.used) && len(f.parts) == 0
	against := p.against(f)
	if whole == nil && !split && against == nil {
		return nil
	}
	read := sync.OnceValues(func() (*font.File, error) {
		easiest := one.Files[0]
		for _, file := range one.Files[1:] {
			if easiest.Format == font.WOFF2 || file.Format == font.TTF || file.Format == font.OTF {
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
		all := one.Metadata.Coverage
		one.Metadata = metadata.One(opened.Faces[0])
		if len(f.parts) > 0 {
			one.Metadata.Coverage = all // of all its parts
		}
		if f.recipe.Instance != nil || f.recipe.Rename != nil {
			one.Style = one.Metadata.Names.StyleName()
		}
	}
	if against != nil {
		if err := c.replacementsOf(one, against, read); err != nil {
			return err
		}
		if f.recipe == nil || f.recipe.Fallback == nil {
			one.NoReplacement = "" // nobody asked for one
		}
	}
	if len(f.parts) > 0 {
		one.Files = nil
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
		return app.Problem(app.Conflict, "cannot-split", "%s %s cannot be split: %s", f.used.Family.Name, f.face.Style, sentence.Of(err))
	}
	one.Files = nil
	for _, part := range parts {
		recipe := *f.recipe.Made()
		recipe.Part = part.Name
		files, err := c.packFiles(ctx, reading, f, f.cur, &recipe, known, made)
		if err != nil {
			return err
		}
		one.Parts = append(one.Parts, pack.Part{Name: part.Name, Range: part.Characters.String(), Files: files})
	}
	return nil
}

// fillParts gives the files of a face that is there in parts.
func (c *Packaging) fillParts(ctx, reading context.Context, f *packedFace, one *pack.Face, known map[string]store.Derived, made maker) error {
	for i := range f.parts {
		part := &f.parts[i]
		files, err := c.packFiles(ctx, reading, f, &part.link, f.whole(), known, made)
		if err != nil {
			return err
		}
		one.Parts = append(one.Parts, pack.Part{Name: part.name, Range: part.characters.String(), Files: files})
	}
	return nil
}

func (c *Packaging) read(ctx context.Context, f pack.File) (*font.File, error) {
	data, err := c.bucket.Read(ctx, bucket.Hash(f.SHA256))
	if err != nil {
		return nil, err
	}
	return font.Open(data)
}

// against says which local fonts are made to the measure of a face: those its
// recipe names, else those its roles fall back to.
func (p *packing) against(f *packedFace) *reshape.Fallback {
	if !p.Rules.Web() || p.Rules.Styles.Form == builder.StylesNone || p.Rules.Styles.Form == builder.StylesURLs {
		return nil
	}
	if f.recipe != nil && f.recipe.Fallback != nil {
		return f.recipe.Fallback
	}
	var names []string
	for _, one := range p.RoleAssignments {
		if one.Family != f.used.Family.Name {
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

// replacementsOf makes local fonts to the measure of a face.
func (c *Packaging) replacementsOf(one *pack.Face, against *reshape.Fallback, read func() (*font.File, error)) error {
	key := one.Files[0].SHA256 + (&reshape.Recipe{Fallback: against}).Key()
	found, ok := c.measured.Get(key)
	if !ok {
		opened, err := read()
		if err != nil {
			return err
		}
		found, err = against.LocalFonts(opened.Faces[0], one.Metadata.Style.Weight >= conversion.BoldFrom)
		if err != nil {
			one.NoReplacement = sentence.Of(err)
			return nil
		}
		c.measured.Add(key, found)
	}
	for _, s := range found {
		one.LocalFonts = append(one.LocalFonts, css.Fallbacks(one.Metadata, []string{s.Local}, s.Groups)...)
	}
	return nil
}

// packFiles returns a face in each format that is sent, made from a file by a recipe,
// nil for none.
func (c *Packaging) packFiles(ctx, reading context.Context, f *packedFace, from *store.FaceFile, base *reshape.Recipe, known map[string]store.Derived, maker maker) ([]pack.File, error) {
	var out []pack.File
	for _, to := range f.formats {
		recipe := f.recipeFor(to, base)
		if recipe.Plain() && conversion.AsItCame(&from.File, to) {
			out = append(out, c.fileOf(reading, to, from.File.SHA256, from.File.Bytes, true))
			continue
		}
		var best *store.Derived
		pending := false
		for _, m := range f.ways(from, to, recipe) {
			d, ok := known[m.Source+" "+m.Recipe()]
			if !ok {
				made, err := maker(ctx, &from.File, m)
				if err != nil {
					return nil, err
				}
				if made == nil {
					pending = true
					continue
				}
				d = *made
			}
			if best == nil || d.Bytes < best.Bytes {
				best = &d
			}
		}
		if pending {
			out = append(out, pack.File{Format: to, Pending: true})
			continue
		}
		file := c.fileOf(reading, to, best.Hash, best.Bytes, best.Told == store.ToldSupplied)
		if f.retyped(to, base) {
			file.Changed = fmt.Sprintf("its outlines become TrueType ones, because %s holds no others", strings.ToUpper(string(to)))
		}
		out = append(out, file)
	}
	return out, nil
}

// fileOf returns a file of a pack whose bytes are in the bucket.
func (c *Packaging) fileOf(ctx context.Context, to font.Container, hash string, bytes int64, supplied bool) pack.File {
	return pack.File{Format: to, Supplied: supplied, Blob: pack.Blob{SHA256: hash, Bytes: bytes, Open: func() (io.ReadCloser, error) {
		r, _, err := c.bucket.Open(ctx, bucket.Hash(hash))
		return r, err
	}}}
}

// ways are the makings that give a format of a face: one, or, where the smaller of the
// supplier's own and one that is made here is wanted, both.
func (f *packedFace) ways(from *store.FaceFile, to font.Container, recipe *reshape.Recipe) []conversion.Making {
	if recipe.Plain() {
		recipe = nil
	}
	usual := conversion.Making{Source: from.File.SHA256, Place: from.Place, To: to, Reshape: recipe}
	if recipe != nil || f.supply != store.SourceConverted && f.supply != store.SourceSmaller || !store.SuppliedOf(f.face.Files).Has(string(to)) {
		return []conversion.Making{usual}
	}
	here := usual
	here.Here = true
	if f.supply == store.SourceConverted {
		return []conversion.Making{here}
	}
	return []conversion.Making{usual, here}
}

// waiting counts the parts of a pack, and those of them that are made.
func (c *Packaging) waiting(ctx context.Context, p *packing) (made, of int, err error) {
	known, err := c.known(ctx, p)
	if err != nil {
		return 0, 0, err
	}
	wanted := map[string]bool{}
	for i := range p.faces {
		for _, m := range p.makings(&p.faces[i]) {
			wanted[m.Source+" "+m.Recipe()] = true
		}
	}
	for key := range wanted {
		if _, ok := known[key]; ok {
			made++
		}
	}
	return made, len(wanted), nil
}
