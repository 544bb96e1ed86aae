package identity_test

import (
	"fmt"
	"io/fs"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/fonttest"
	"sparecrate/font/identity"
	"sparecrate/font/instance"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/font/table"
	"sparecrate/font/totruetype"
	"sparecrate/font/unitscale"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// library is many faces with their measures, and an index of them.
type library struct {
	names  []string
	fonts  []*sfnt.Font
	prints []*identity.Print
	index  identity.Index
}

func (l *library) add(name string, f *sfnt.Font) {
	p, err := identity.Measure(f)
	if err != nil || len(p.Shapes) == 0 {
		return // no outlines
	}
	l.index.Add(uint32(len(l.prints)), p.Cells())
	l.names, l.fonts, l.prints = append(l.names, name), append(l.fonts, f), append(l.prints, p)
}

// found is a face of the library with how it relates to what is looked for.
type found struct {
	face     int
	evidence *identity.Evidence
}

// look finds the nearest faces of a print, the nearest first.
func (l *library) look(p *identity.Print) []found {
	var out []found
	for _, c := range l.index.Look(p.Cells(), 12) {
		out = append(out, found{int(c.Face), identity.Compare(p, l.prints[c.Face])})
	}
	if !slices.ContainsFunc(out, func(f found) bool { return f.evidence.Sure() && f.evidence.Relation != identity.Different }) {
		for i, other := range l.prints {
			if other.Sampled() {
				out = append(out, found{i, identity.Compare(p, other)})
			}
		}
	}
	slices.SortStableFunc(out, func(a, b found) int { return identity.Nearer(a.evidence, b.evidence) })
	return out[:min(len(out), 12)]
}

// rates are how often look-ups were asked, how often the first answer was another design, and how often
// another design was called the same.
type rates struct{ asked, wrong, pairs, falsely int }

// lookUp takes from each face a choice of characters, changes what is stored otherwise, and
// looks it up among all. Faces that draw the characters asked for alike cannot be told
// apart by them, and each of them is a right answer.
func (l *library) lookUp(characters int, say func(format string, args ...any)) rates {
	var out rates
	r := rand.New(rand.NewPCG(uint64(characters), 1))
	for i, f := range l.fonts {
		var drawn []rune
		for _, s := range l.prints[i].Shapes {
			if !s.Blank() {
				drawn = append(drawn, s.Rune)
			}
		}
		if len(drawn) < characters {
			continue
		}
		r.Shuffle(len(drawn), func(a, b int) { drawn[a], drawn[b] = drawn[b], drawn[a] })
		small, _, err := subset.Face(f, subset.Options{Characters: coverage.OfText(string(drawn[:characters]))})
		if err != nil {
			continue
		}
		p, err := identity.Measure(stored(small))
		if err != nil {
			continue
		}
		out.asked++
		all := l.look(p)
		if len(all) == 0 {
			out.wrong++
			say("%d of %s: nothing is found", characters, l.names[i])
			continue
		}
		own := identity.Compare(p, l.prints[i])
		if first := all[0]; first.face != i && identity.Nearer(first.evidence, own) != 0 && (first.evidence.Relation == identity.Different || identity.Compare(l.prints[i], l.prints[first.face]).Relation == identity.Different) {
			out.wrong++
			say("%d of %s: taken for %s (%d of %d alike; of its own %d)", characters, l.names[i], l.names[first.face], first.evidence.Alike, first.evidence.Common, own.Alike)
		}
		for _, one := range all {
			out.pairs++
			if one.face != i && (one.evidence.Relation == identity.Same || one.evidence.Relation == identity.Part) && identity.Compare(l.prints[i], l.prints[one.face]).Relation == identity.Different {
				out.falsely++
				say("%d of %s: called one design with %s (%d of %d alike)", characters, l.names[i], l.names[one.face], one.evidence.Alike, one.evidence.Common)
			}
		}
	}
	return out
}

// stored returns a face as it might be stored elsewhere: a variable one pinned, cubic
// outlines in quadratics, quadratics on a finer grid, without hints.
func stored(f *sfnt.Font) *sfnt.Font {
	if f.Has(table.TagFvar) {
		if static, _, err := instance.Face(f, instance.Options{Rest: true}); err == nil {
			f = static
		}
	}
	change := func(f *sfnt.Font) (*sfnt.Font, error) { return unitscale.Finer(f, 2) }
	if f.Has(table.TagCFF) {
		change = totruetype.Face
	}
	if made, err := change(f); err == nil {
		f = made
	}
	return without(f, "fpgm", "prep", "cvt ", "GSUB", "GPOS", "kern")
}

// TestAChoiceOfCharactersIsFoundAmongAll looks up parts of every face of Debian's two
// packages and of the demo studio; with SPARECRATE_FONTS of a folder, of all fonts in it.
func TestAChoiceOfCharactersIsFoundAmongAll(t *testing.T) {
	l := &library{}
	for _, d := range append(foundry.Signage(), foundry.Display(), foundry.Poster()) {
		l.add(d.PostScript, foundrytest.Face(t, d, font.TTF))
	}
	folder := os.Getenv("SPARECRATE_FONTS")
	most := 0.0
	if folder == "" {
		folder = "/usr/share/fonts/truetype"
	} else {
		most = 0.005
	}
	require.NoError(t, filepath.WalkDir(folder, func(path string, _ fs.DirEntry, err error) error {
		if !slices.Contains([]string{".ttf", ".otf", ".woff", ".woff2", ".ttc"}, filepath.Ext(path)) {
			return err
		}
		b, err := os.ReadFile(path) //nolint:gosec // a font of this machine
		if err != nil {
			return nil //nolint:nilerr // a link that leads nowhere
		}
		if f, err := font.Open(b); err == nil {
			l.add(filepath.Base(path), f.Faces[0])
		}
		return nil
	}))
	require.Greater(t, len(l.prints), 30)
	for _, characters := range []int{60, 200} {
		r := l.lookUp(characters, t.Logf)
		t.Logf("%d faces; %d characters: %d asked, %d wrong; %d pairs, %d called one design and are not", len(l.prints), characters, r.asked, r.wrong, r.pairs, r.falsely)
		assert.Positive(t, r.asked)
		assert.LessOrEqual(t, float64(r.wrong), most*float64(r.asked))
		assert.LessOrEqual(t, float64(r.falsely), most/10*float64(r.pairs))
	}
}

// TestPrintsComeBack packs the measures of faces, and unpacks them whole and damaged.
func TestPrintsComeBack(t *testing.T) {
	b, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	require.NoError(t, err)
	for name, f := range map[string]*sfnt.Font{"variable": foundrytest.Parsed(t, b), "static": foundrytest.Face(t, foundry.Display(), font.OTF)} {
		p, err := identity.Measure(f)
		require.NoError(t, err)
		back, err := identity.Unpack(p.Pack())
		require.NoError(t, err)
		assert.Equal(t, p, back, name)
		assert.LessOrEqual(t, 4*len(p.Cells()), 4096)
	}
	p, err := identity.Measure(trimmed(t, foundrytest.Parsed(t, b), "ab"))
	require.NoError(t, err)
	fonttest.Approve(t, "packed", func(b []byte) (string, error) {
		p, err := identity.Unpack(b)
		if err != nil {
			return "", err
		}
		return fmt.Sprintf("%+v %x", *p, p.Cells()), nil
	}, fonttest.Case{Name: "a variable face of two letters", Bytes: p.Pack()})
}

// TestMeasuresAsApproved holds the measures of letters, and those of every two faces
// compared.
func TestMeasuresAsApproved(t *testing.T) {
	var lines []string
	var faces []*identity.Face
	for _, d := range append(foundry.Signage(), foundry.Display(), foundry.Poster()) {
		f := read(t, foundrytest.Face(t, d, font.OTF))
		faces = append(faces, f)
		for _, r := range "aOgIé. " {
			lines = append(lines, fmt.Sprintf("%s %q: %+v", d.PostScript, r, *f.Print.Find(r)))
		}
	}
	for i := range faces {
		for j := range i {
			e := identity.Between(faces[i], faces[j]).Evidence
			lines = append(lines, fmt.Sprintf("%s and %s: %s, %d in both, %d alike, %d drawn alike, %.4f apart, strokes %g", faces[i].Metadata.Names.Full, faces[j].Metadata.Names.Full, e.Relation, e.Common, e.Alike, e.Drawn, e.Apart, e.Stems))
		}
	}
	fonttest.Lines(t, "measures", lines...)
}

// TestDamagedFacesAsApproved measures small faces with each table damaged.
func TestDamagedFacesAsApproved(t *testing.T) {
	b, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	require.NoError(t, err)
	c, err := foundry.BuildVariable(foundry.Signage(), font.OTF)
	require.NoError(t, err)
	for name, f := range map[string]*sfnt.Font{
		"truetype": foundrytest.Face(t, foundry.Signage()[0], font.TTF), "postscript": foundrytest.Face(t, foundry.Display(), font.OTF), "variable": foundrytest.Parsed(t, b), "variable postscript": foundrytest.Parsed(t, c),
	} {
		fonttest.Approve(t, name, nil, fonttest.Tables(trimmed(t, f, "aÁ fi8"), 25, func(f *sfnt.Font) (string, error) {
			p, err := identity.Measure(f)
			if err != nil {
				return "", err
			}
			p.Content = 0 // it tells every change
			return fmt.Sprintf("%x %x", p.Pack(), p.Cells()), nil
		})...)
	}
}

// BenchmarkMeasure measures a face beside writing it as WOFF2, as a ratio.
func BenchmarkMeasure(b *testing.B) {
	f := opened(b, "/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf")
	start := time.Now()
	if _, err := font.Make(f, font.WOFF2); err != nil {
		b.Fatal(err)
	}
	packing := time.Since(start)
	for b.Loop() {
		if _, err := identity.Measure(f); err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(float64(packing)/(float64(b.Elapsed())/float64(b.N)), "times-as-fast-as-woff2")
}

// BenchmarkLook looks a face up among 100,000.
func BenchmarkLook(b *testing.B) {
	p, err := identity.Measure(opened(b, "/usr/share/fonts/truetype/liberation2/LiberationSans-Regular.ttf"))
	require.NoError(b, err)
	r := rand.New(rand.NewPCG(1, 2))
	index := &identity.Index{}
	for face := range uint32(100_000) {
		other := &identity.Print{Shapes: make([]identity.Shape, 0, 240)}
		scale := 0.7 + 0.6*r.Float64()
		for i := range p.Shapes[:240] {
			s := p.Shapes[i]
			s.Advance = int16(float64(s.Advance) * scale * (0.9 + 0.2*r.Float64()))
			s.Top = int16(float64(s.Top) * (0.9 + 0.2*r.Float64()))
			s.Right = int16(float64(s.Right) * scale * (0.9 + 0.2*r.Float64()))
			other.Shapes = append(other.Shapes, s)
		}
		index.Add(face, other.Cells())
	}
	index.Add(100_000, p.Cells())
	asked := p.Cells()
	index.Look(asked, 1)
	for b.Loop() {
		if best := index.Look(asked, 12); best[0].Face != 100_000 {
			b.Fatal("another face is found")
		}
	}
}
