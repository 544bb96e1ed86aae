package conversion

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"path"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/fallback"
	"sparecrate/font/metadata"
	"sparecrate/font/reshape"
	"sparecrate/font/sfnt"
	"sparecrate/font/shape"
	"sparecrate/font/specimen"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/css"
	"sparecrate/internal/license"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/usage"
)

// maxRecipe bounds what a recipe may come to as JSON, bytes.
const maxRecipe = 20000

// Report is what is kept of a reshaping besides its bytes.
type Report struct {
	Glyphs       int      `json:"glyphs"`
	GlyphsBefore int      `json:"glyphsBefore"`
	Missing      string   `json:"missing,omitempty"`
	Dropped      []string `json:"dropped,omitempty"`
	Family       string   `json:"family"`
	Full         string   `json:"full"`
	PostScript   string   `json:"postScript"`
}

// reshaped applies a making's recipe to its face.
func reshaped(f *font.File, m Making) (*font.File, string, error) {
	recipe := *m.Reshape
	if m.To == font.TTF {
		recipe.ToTrueType = true // a TTF is asked for, whatever the outlines
	}
	before := metadata.One(f.Faces[m.Place])
	face, outcome, err := recipe.Apply(f.Faces[m.Place])
	if err != nil {
		return nil, "", err
	}
	now := metadata.One(face)
	t := Report{Glyphs: now.Glyphs, GlyphsBefore: before.Glyphs, Missing: string(outcome.Missing), Family: now.Names.FamilyName(), Full: now.Names.Full, PostScript: now.Names.PostScript}
	if outcome.Subset != nil {
		t.Dropped = outcome.Subset.Dropped
	}
	b, err := json.Marshal(t)
	return &font.File{Container: f.Container, Faces: []*sfnt.Font{face}}, string(b), err
}

// Checked refuses recipes that say nothing or too much.
func Checked(r *reshape.Recipe) error {
	if r.Empty() {
		return app.InvalidField("recipe", "empty-recipe", "The recipe is empty. Choose what to subset, instance, convert or rename.")
	}
	if len(r.Key()) > maxRecipe {
		return app.InvalidField("recipe", "recipe-too-long", "The recipe is too long. Use character sets or ranges instead of a long text.")
	}
	if err := r.Check(); err != nil {
		return app.InvalidField("recipe", "bad-recipe", "%s", sentence.Of(err))
	}
	return nil
}

// judge weighs the changes that an order asks for: for the family that it names, else for
// all that have the file, of which the strictest counts.
func (c *Conversion) judge(ctx context.Context, file int64, o *api.ReshapeOrder) (license.Verdict, error) {
	var worst license.Verdict
	families, err := familydb.In(c.store).FamiliesWithFile(ctx, file)
	if err != nil {
		return worst, err
	}
	if o.Family != nil {
		if !slices.Contains(families, *o.Family) {
			return worst, app.InvalidField("family", "not-its-family", "The family %d does not have this file.", *o.Family)
		}
		families = []int64{*o.Family}
	}
	if len(families) == 0 {
		return worst, app.Problem(app.Missing, "not-found", "No family of the catalog has this file.")
	}
	for i, id := range families {
		family, err := familydb.In(c.store).Family(ctx, id)
		if err != nil {
			return worst, app.Explain(err, "family")
		}
		verdict, err := c.usage.JudgeChanges(ctx, family, usage.ChangesOf(&o.Recipe))
		if err != nil {
			return worst, err
		}
		if i == 0 || verdict.State.Worse(worst.State) {
			worst = verdict
		}
	}
	return worst, nil
}

// Reshape makes another font of a face by a recipe, once. What the font or its
// license forbids is refused.
func (c *Conversion) Reshape(ctx context.Context, p *store.Person, id int64, o api.ReshapeOrder) (*api.Reshaped, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	if err := Checked(&o.Recipe); err != nil {
		return nil, err
	}
	if o.Recipe.Plain() {
		return nil, app.InvalidField("recipe", "empty-recipe", "The recipe does not change the font. Choose what to subset, instance, convert or rename.")
	}
	o.Recipe = *o.Recipe.Made()
	if !slices.Contains(font.Makeable, font.Container(o.Format)) {
		return nil, app.InvalidField("format", "bad-format", "%q is not a possible format. Choose %s.", o.Format, font.Listed(font.Makeable))
	}
	f, place, err := c.faceOf(ctx, id, o.Place)
	if err != nil {
		return nil, err
	}
	verdict, err := c.judge(ctx, id, &o)
	if err != nil {
		return nil, err
	}
	for _, r := range verdict.Reasons {
		if r.State == license.Blocked || r.Code == "reserved-name" {
			return nil, app.Problem(app.Conflict, r.Code, "%s (%s)", r.Message, r.Evidence)
		}
	}
	m := Making{Source: f.SHA256, Place: place, To: font.Container(o.Format), Reshape: &o.Recipe}
	d, err := c.Made(ctx, f, m)
	if err != nil {
		return nil, err
	}
	var t Report
	if err := json.Unmarshal([]byte(d.Told), &t); err != nil {
		return nil, err
	}
	out := &api.Reshaped{
		Hash: d.Hash, Name: path.Base(strings.TrimSuffix(f.Name, path.Ext(f.Name))) + "-reshaped." + string(o.Format), Bytes: d.Bytes, From: f.Bytes,
		Glyphs: t.Glyphs, GlyphsBefore: t.GlyphsBefore, Missing: t.Missing, Dropped: append([]string{}, t.Dropped...),
		Family: t.Family, FullName: t.Full, PostScriptName: t.PostScript,
		Verdict: api.VerdictState(verdict.State), Reasons: usage.ReasonViews(verdict.Reasons),
	}
	if AsItCame(f, m.To) {
		return out, nil
	}
	// The whole face in the same format, where it is at hand, says what was saved.
	whole, err := familydb.In(c.store).DerivedFile(ctx, f.SHA256, Making{Source: f.SHA256, Place: place, To: m.To}.Recipe())
	if err == nil {
		out.From = whole.Bytes
	} else if !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	return out, nil
}

// ReshapedContent opens what was made of a file, by its hash.
func (c *Conversion) ReshapedContent(ctx context.Context, p *store.Person, id int64, hash string) (r io.ReadCloser, size int64, name string, err error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, 0, "", err
	}
	f, err := familydb.In(c.store).File(ctx, id)
	if err != nil {
		return nil, 0, "", app.Explain(err, "file")
	}
	d, err := familydb.In(c.store).DerivedByHash(ctx, f.SHA256, hash)
	if err != nil {
		return nil, 0, "", app.Explain(err, "font")
	}
	format, _, _ := strings.Cut(d.Recipe, "/")
	r, size, err = c.OpenSound(ctx, func() (bucket.Hash, error) {
		if _, err := familydb.In(c.store).DerivedByHash(ctx, f.SHA256, hash); err != nil {
			// The recipe is not kept with what it made, so a person has it made again.
			return "", app.Problem(app.Missing, "not-found", "The result was damaged and was removed. Try again with the same settings.")
		}
		return bucket.Hash(d.Hash), nil
	})
	return r, size, strings.TrimSuffix(f.Name, path.Ext(f.Name)) + "-reshaped." + format, err
}

// faceOf finds a file and checks which face of it is meant.
func (c *Conversion) faceOf(ctx context.Context, id int64, place *int) (*store.File, int, error) {
	f, err := familydb.In(c.store).File(ctx, id)
	if err != nil {
		return nil, 0, app.Explain(err, "file")
	}
	n := 0
	if place != nil {
		n = *place
	}
	if n < 0 || n >= f.Faces {
		return nil, 0, app.InvalidField("place", "no-such-face", "The file holds %d face(s), counted from 0; there is no face %d.", f.Faces, n)
	}
	return f, n, nil
}

// Face reads a face of a file from the bucket and does something with it, as soon as
// the limiter lets it.
func (c *Conversion) Face(ctx context.Context, id int64, place *int, extra int64, do func(*sfnt.Font) error) error {
	f, n, err := c.faceOf(ctx, id, place)
	if err != nil {
		return err
	}
	r, size, err := c.bucket.Open(ctx, bucket.Hash(f.SHA256))
	if err != nil {
		return c.told(ctx, err)
	}
	head := make([]byte, font.HeadSize)
	_, err = io.ReadFull(r, head)
	_ = r.Close()
	if err != nil {
		return c.told(ctx, err)
	}
	return c.heavy.Do(ctx, app.UnpackedSize(head, size)+extra, func() error {
		data, err := c.bucket.Read(ctx, bucket.Hash(f.SHA256))
		if err != nil {
			return c.told(ctx, err)
		}
		opened, err := font.Open(data)
		if err != nil {
			return err
		}
		if n >= len(opened.Faces) {
			return app.InvalidField("place", "no-such-face", "The file holds %d face(s), counted from 0; there is no face %d.", len(opened.Faces), n)
		}
		return do(opened.Faces[n])
	})
}

// Report says which file is damaged, where an error is about that.
func (c *Conversion) told(ctx context.Context, err error) error {
	var broken *bucket.Broken
	if errors.As(err, &broken) {
		return c.explainDamage(ctx, broken)
	}
	return err
}

// Specimen draws text in a face, for whoever may see it.
func (c *Conversion) Specimen(ctx context.Context, p *store.Person, id int64, q api.DrawSpecimenParams) ([]byte, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	return c.Draw(ctx, id, q)
}

// mostDrawn is how many pictures are kept for those who ask for the same, maxDrawn how
// large such a picture may be, bytes.
const (
	mostDrawn = 128
	maxDrawn  = 256 << 10
)

// Draw returns a picture of text in a face, as PNG.
func (c *Conversion) Draw(ctx context.Context, id int64, q api.DrawSpecimenParams) (picture []byte, err error) {
	key, err := json.Marshal([]any{id, q})
	if err != nil {
		return nil, err
	}
	if kept, is := c.drawn.Get(string(key)); is {
		return kept, nil
	}
	err = c.Face(ctx, id, q.Place, drawMemory, func(f *sfnt.Font) (err error) {
		picture, err = drawing(ctx, f, q)
		return err
	})
	if err == nil && len(picture) <= maxDrawn {
		c.drawn.Add(string(key), picture)
	}
	return picture, err
}

func drawing(ctx context.Context, f *sfnt.Font, q api.DrawSpecimenParams) (_ []byte, err error) {
	size, text := 48.0, ""
	if q.Size != nil {
		size = float64(*q.Size)
	}
	if size < 4 || size > 400 {
		return nil, app.InvalidField("size", "bad-size", "The size must be between 4 and 400 pixels.")
	}
	if q.Text != nil {
		text = app.Shorten(*q.Text, 2000)
	}
	o := specimen.Options{Dark: q.Dark != nil && *q.Dark}
	if q.Width != nil {
		o.Width = max(100, min(*q.Width, 4000))
	}
	if q.Glyphs != nil {
		o.Glyphs = max(0, min(*q.Glyphs, 2000))
	}
	if text == "" && o.Glyphs == 0 {
		text = metadata.One(f).Names.Full
	}
	if q.Features != nil && *q.Features != "" {
		if o.Features, err = shape.Switches(strings.Split(*q.Features, ",")); err != nil {
			return nil, app.InvalidField("features", "bad-feature", "%s", sentence.Of(err))
		}
	}
	if q.At != nil {
		at, err := reshape.Places(*q.At)
		if err != nil {
			return nil, app.InvalidField("at", "bad-place", "%s", sentence.Of(err))
		}
		only := text
		if o.Glyphs > 0 {
			only = "" // all are drawn
		}
		if f, err = reshape.Posed(f, at, only); err != nil {
			return nil, app.InvalidField("at", "cannot-draw", "%s", sentence.Of(err))
		}
	}
	for line := range strings.SplitSeq(text, "\n") {
		o.Lines = append(o.Lines, specimen.Line{Text: line, Size: size})
	}
	picture, err := specimen.DrawContext(ctx, f, o)
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	if err != nil {
		return nil, app.InvalidField("text", "cannot-draw", "%s", sentence.Of(err))
	}
	return picture.PNG()
}

// Fallback returns rules for local fonts that take as much room as a face.
func (c *Conversion) Fallback(ctx context.Context, p *store.Person, id int64, q api.FindFallbackParams) (*api.FallbackList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	against, language, groups := "arial,georgia", "en", 0
	if q.Against != nil && *q.Against != "" {
		against = *q.Against
	}
	if q.Language != nil && *q.Language != "" {
		language = *q.Language
	}
	if q.Groups != nil {
		groups = *q.Groups
	}
	if err := fallback.Known(language); err != nil {
		return nil, app.InvalidField("language", "unknown-language", "%s", sentence.Of(err))
	}
	wanted := reshape.Fallback{Against: strings.Split(against, ","), Language: language, Groups: groups}
	if err := (&reshape.Recipe{Fallback: &wanted}).Check(); err != nil {
		return nil, app.InvalidField("against", "unknown-font", "%s", sentence.Of(err))
	}
	var face metadata.Face
	var found []reshape.LocalFont
	err := c.Face(ctx, id, q.Place, 0, func(f *sfnt.Font) (err error) {
		face = metadata.One(f)
		if found, err = wanted.LocalFonts(f, face.Style.Weight >= BoldFrom); err != nil {
			return app.InvalidField("language", "cannot-compare", "%s", sentence.Of(err))
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	out := &api.FallbackList{Items: []api.Fallback{}}
	for _, s := range found {
		v := s.Groups[0]
		out.Items = append(out.Items, api.Fallback{
			Against: s.Local, Source: s.Source, Css: css.Sheet(css.Fallbacks(face, []string{s.Local}, s.Groups)),
			SizeAdjust: float32(v.SizeAdjust), AscentOverride: float32(v.Ascent), DescentOverride: float32(v.Descent), LineGapOverride: float32(v.LineGap),
		})
	}
	return out, nil
}

// CharacterSets returns the named sets a font can be trimmed to.
func (c *Conversion) CharacterSets(p *store.Person) (*api.CharacterSetList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	return &api.CharacterSetList{Items: app.Each(coverage.WebSets, func(s coverage.WebSet) api.CharacterSet {
		return api.CharacterSet{Name: s.Name, For: s.For}
	})}, nil
}

// BoldFrom is the weight from which the bold of a system font stands in.
const BoldFrom = 600

// drawMemory is what drawing takes besides the font, at most: pixels and the PNG.
const drawMemory = 48 << 20
