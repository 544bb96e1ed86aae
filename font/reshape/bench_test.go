package reshape_test

import (
	"os"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/instance"
	"sparecrate/font/memorytest"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/font/totruetype"
	"sparecrate/internal/demo/foundry"
)

// took times one run.
func took(b *testing.B, do func() error) float64 {
	b.Helper()
	start := time.Now()
	require.NoError(b, do())
	return float64(time.Since(start))
}

func opened(b *testing.B, data []byte) *sfnt.Font {
	b.Helper()
	f, err := font.Open(data)
	require.NoError(b, err)
	return f.Faces[0]
}

func installed(b *testing.B, variable, otherwise string) *sfnt.Font {
	b.Helper()
	path := os.Getenv(variable)
	if path == "" {
		path = otherwise
	}
	data, err := os.ReadFile(path) //nolint:gosec // the tester's own choice
	require.NoError(b, err)
	return opened(b, data)
}

const dejavu = "/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf"

func woff2(f *sfnt.Font) func() error {
	return func() error { _, err := font.Make(f, font.WOFF2); return err }
}

// BenchmarkTrim reports the time of trimming a face to Latin as a share of its
// WOFF2 encode, and that of both together for what is left. To reach: 0.1 for a
// large face for Chinese (SPARECRATE_CJK names one), and 1.
func BenchmarkTrim(b *testing.B) {
	f := installed(b, "SPARECRATE_CJK", dejavu)
	latin, err := coverage.Named("latin")
	require.NoError(b, err)
	whole := took(b, woff2(f))
	var alone, both float64
	for b.Loop() {
		var out *sfnt.Font
		alone += took(b, func() (err error) { out, _, err = subset.Face(f, subset.Options{Characters: latin}); return err })
		both += took(b, woff2(out))
	}
	b.ReportMetric(alone/float64(b.N)/whole, "trim/woff2")
	b.ReportMetric((alone+both)/float64(b.N)/whole, "trim+woff2/woff2")
}

// BenchmarkTrimLatin has a face of Latin trimmed to Latin: nearly everything
// stays. To reach: trimming and encoding no slower than encoding alone.
func BenchmarkTrimLatin(b *testing.B) {
	data, err := foundry.Build(foundry.Signage()[1], font.TTF)
	require.NoError(b, err)
	f := opened(b, data)
	latin, err := coverage.Named("latin")
	require.NoError(b, err)
	var whole, both float64
	for b.Loop() {
		whole += took(b, woff2(f))
		both += took(b, func() error {
			out, _, err := subset.Face(f, subset.Options{Characters: latin})
			require.NoError(b, err)
			return woff2(out)()
		})
	}
	b.ReportMetric(both/whole, "trim+woff2/woff2")
}

// BenchmarkPin reports pinning a variable face (SPARECRATE_VARIABLE names
// another) as a share of the WOFF2 encode of what comes out. To reach: 1.
func BenchmarkPin(b *testing.B) {
	data, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	require.NoError(b, err)
	f := opened(b, data)
	if os.Getenv("SPARECRATE_VARIABLE") != "" {
		f = installed(b, "SPARECRATE_VARIABLE", "")
	}
	var whole, alone float64
	for b.Loop() {
		var out *sfnt.Font
		alone += took(b, func() (err error) {
			out, _, err = instance.Face(f, instance.Options{At: map[string]instance.Range{"wght": {Min: 550, Max: 550}}, Rest: true})
			return err
		})
		whole += took(b, woff2(out))
	}
	b.ReportMetric(alone/whole, "pin/woff2")
}

// BenchmarkRetype reports retyping a PostScript face (SPARECRATE_POSTSCRIPT names
// another) as a share of its WOFF2 encode. To reach: 1.
func BenchmarkRetype(b *testing.B) {
	data, err := foundry.Build(foundry.Display(), font.OTF)
	require.NoError(b, err)
	f := opened(b, data)
	if os.Getenv("SPARECRATE_POSTSCRIPT") != "" {
		f = installed(b, "SPARECRATE_POSTSCRIPT", "")
	}
	var whole, alone float64
	for b.Loop() {
		alone += took(b, func() error { _, err := totruetype.Face(f); return err })
		whole += took(b, woff2(f))
	}
	b.ReportMetric(alone/whole, "retype/woff2")
}

// BenchmarkMemory reports the most memory that each verb has in use at a time, in
// times the font (the middle of all rounds): a large one trimmed, one that varies pinned whole and in part,
// PostScript outlines retyped. To reach: 8. It takes the fonts that the other
// benchmarks do.
func BenchmarkMemory(b *testing.B) {
	data, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	require.NoError(b, err)
	varies := opened(b, data)
	if os.Getenv("SPARECRATE_VARIABLE") != "" {
		varies = installed(b, "SPARECRATE_VARIABLE", "")
	}
	data, err = foundry.Build(foundry.Display(), font.OTF)
	require.NoError(b, err)
	drawn := opened(b, data)
	if os.Getenv("SPARECRATE_POSTSCRIPT") != "" {
		drawn = installed(b, "SPARECRATE_POSTSCRIPT", "")
	}
	large := installed(b, "SPARECRATE_CJK", dejavu)
	latin, err := coverage.Named("latin")
	require.NoError(b, err)
	times := func(f *sfnt.Font, do func() error) float64 {
		size := 0
		for _, t := range f.Tables {
			size += len(t.Data)
		}
		var failed error
		most := memorytest.Heap(func() { failed = do() })
		require.NoError(b, failed)
		return float64(most) / float64(size)
	}
	verbs := map[string]func() float64{
		"trim": func() float64 {
			return times(large, func() error { _, _, err := subset.Face(large, subset.Options{Characters: latin}); return err })
		},
		"pin": func() float64 {
			return times(varies, func() error { _, _, err := instance.Face(varies, instance.Options{Rest: true}); return err })
		},
		"pin-in-part": func() float64 {
			return times(varies, func() error {
				_, _, err := instance.Face(varies, instance.Options{At: map[string]instance.Range{"wght": {Min: 400, Max: 600}}})
				return err
			})
		},
		"retype": func() float64 {
			return times(drawn, func() error { _, err := totruetype.Face(drawn); return err })
		},
	}
	measured := map[string][]float64{}
	for b.Loop() {
		for name, measure := range verbs {
			measured[name] = append(measured[name], measure())
		}
	}
	// What comes into being while the collector runs counts as in use; the middle of
	// several runs is near the truth.
	for name, all := range measured {
		slices.Sort(all)
		b.ReportMetric(all[len(all)/2], name+"/font")
	}
}
