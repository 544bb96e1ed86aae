package reshape_test

import (
	"os"
	"testing"

	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/fallback"
	"sparecrate/font/instance"
	"sparecrate/font/outline"
	"sparecrate/font/rename"
	"sparecrate/font/sfnt"
	"sparecrate/font/shape"
	"sparecrate/font/specimen"
	"sparecrate/font/subset"
	"sparecrate/font/table"
	"sparecrate/font/totruetype"
	"sparecrate/internal/demo/foundry"
)

// maxFuzzed keeps one run short; larger fonts only take longer.
const maxFuzzed = 200_000

// seeds are small fonts of every kind the verbs tell apart.
func seeds(f *testing.F) {
	f.Helper()
	add := func(b []byte, err error) {
		require.NoError(f, err)
		opened, err := font.Open(b)
		require.NoError(f, err)
		small, _, err := subset.Face(opened.Faces[0], subset.Options{Characters: coverage.OfText("AVfié%")})
		require.NoError(f, err)
		f.Add(sfnt.Write(small))
	}
	add(foundry.Build(foundry.Signage()[1], font.TTF))
	add(foundry.Build(foundry.Display(), font.OTF))
	add(foundry.BuildVariable(foundry.Signage(), font.TTF))
	add(foundry.BuildVariable(foundry.Signage(), font.OTF))
	b, err := os.ReadFile("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf")
	require.NoError(f, err)
	opened, err := font.Open(b)
	require.NoError(f, err)
	small, _, err := subset.Face(opened.Faces[0], subset.Options{Characters: coverage.OfText("fiلاẍשָ")})
	require.NoError(f, err)
	f.Add(sfnt.Write(small))
}

// fuzz runs a verb on whatever opens as a font; what it makes must open again.
func fuzz(f *testing.F, verb func(t *testing.T, face *sfnt.Font) *sfnt.Font) {
	seeds(f)
	f.Fuzz(func(t *testing.T, b []byte) {
		if len(b) > maxFuzzed {
			return
		}
		faces, err := sfnt.Parse(b)
		if err != nil {
			return
		}
		made := verb(t, faces[0])
		if made == nil {
			return
		}
		if _, err := sfnt.Parse(sfnt.Write(made)); err != nil && len(made.Tables) > 0 {
			t.Fatalf("what was made cannot be read: %v", err)
		}
	})
}

func FuzzTrim(f *testing.F) {
	set := coverage.OfText("AVfi é")
	fuzz(f, func(t *testing.T, face *sfnt.Font) *sfnt.Font {
		out, _, err := subset.Face(face, subset.Options{Characters: set})
		if err != nil {
			return nil
		}
		if _, _, err := subset.Face(out, subset.Options{Characters: set}); err != nil {
			t.Fatalf("what was trimmed cannot be trimmed: %v", err)
		}
		return out
	})
}

func FuzzPin(f *testing.F) {
	fuzz(f, func(_ *testing.T, face *sfnt.Font) *sfnt.Font {
		out, _, err := instance.Face(face, instance.Options{Rest: true})
		if err != nil {
			return nil
		}
		_, _, _ = instance.Face(face, instance.Options{At: map[string]instance.Range{"wght": {Min: 450, Max: 600}}})
		return out
	})
}

func FuzzRetype(f *testing.F) {
	fuzz(f, func(t *testing.T, face *sfnt.Font) *sfnt.Font {
		out, err := totruetype.Face(face)
		if err != nil {
			return nil
		}
		if _, err := outline.Open(out); err != nil && out.Has(table.TagHead) {
			t.Fatalf("the outlines made cannot be read: %v", err)
		}
		return out
	})
}

func FuzzRename(f *testing.F) {
	fuzz(f, func(_ *testing.T, face *sfnt.Font) *sfnt.Font {
		out, _, err := rename.Face(face, rename.Options{Family: "Pier Sans"})
		if err != nil {
			return nil
		}
		return out
	})
}

func FuzzFallback(f *testing.F) {
	arial, err := fallback.System("arial", false)
	require.NoError(f, err)
	fuzz(f, func(_ *testing.T, face *sfnt.Font) *sfnt.Font {
		if m, err := fallback.Face(face); err == nil {
			_, _ = fallback.Of(m, arial, "en")
		}
		return nil
	})
}

func FuzzSpecimen(f *testing.F) {
	fuzz(f, func(_ *testing.T, face *sfnt.Font) *sfnt.Font {
		p, err := specimen.Draw(face, specimen.Options{Lines: []specimen.Line{{Text: "AVfi é لا שָ", Size: 20}}, Glyphs: 20, Options: shape.Options{Features: map[string]bool{"smcp": true}}})
		if err == nil {
			_, _ = p.PNG()
			p.SVG()
		}
		return nil
	})
}
