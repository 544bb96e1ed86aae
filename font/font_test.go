package font_test

import (
	"bytes"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	xsfnt "golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"sparecrate/font"
	"sparecrate/font/glyf"
	"sparecrate/font/metadata"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/internal/demo/foundry"
)

// realFonts are the TTF files of two of Debian's packages, which make setup installs.
func realFonts(t testing.TB) []string {
	t.Helper()
	var all []string
	for _, folder := range []string{"dejavu", "liberation2"} {
		found, err := filepath.Glob("/usr/share/fonts/truetype/" + folder + "/*.ttf")
		require.NoError(t, err)
		require.NotEmpty(t, found, "the package fonts-%s is not installed; run make setup", folder)
		all = append(all, found...)
	}
	return all
}

func demoFont(t testing.TB) *font.File {
	t.Helper()
	b, err := foundry.Build(foundry.Signage()[1], font.TTF)
	require.NoError(t, err)
	opened, err := font.Open(b)
	require.NoError(t, err)
	return opened
}

// knownProblems are what is really the matter with the fonts read here.
var knownProblems = map[string][]string{
	"DejaVuMathTeXGyre.ttf":     {metadata.ProblemUsageBits, metadata.ProblemNoKerning}, // fsType 0x000C: preview-and-print and editable at once
	"DejaVuSans-ExtraLight.ttf": {metadata.ProblemNoSigns},
}

// TestMetadataOfRealFonts compares what we read with what another font library reads.
func TestMetadataOfRealFonts(t *testing.T) {
	for _, path := range realFonts(t) {
		t.Run(filepath.Base(path), func(t *testing.T) {
			b, err := os.ReadFile(path)
			require.NoError(t, err)
			faces, err := metadata.Read(b)
			require.NoError(t, err)
			require.Len(t, faces, 1)
			f := faces[0]
			other, err := xsfnt.Parse(b)
			require.NoError(t, err)
			var buf xsfnt.Buffer
			for id, ours := range map[xsfnt.NameID]string{
				xsfnt.NameIDFamily: f.Names.Family, xsfnt.NameIDSubfamily: f.Names.Subfamily, xsfnt.NameIDFull: f.Names.Full,
				xsfnt.NameIDPostScript: f.Names.PostScript, xsfnt.NameIDVersion: f.Names.Version, xsfnt.NameIDCopyright: f.Names.Copyright,
			} {
				theirs, err := other.Name(&buf, id)
				require.NoError(t, err)
				assert.Equal(t, theirs, ours, "name %d", id)
			}
			assert.Equal(t, other.NumGlyphs(), f.Glyphs)
			assert.EqualValues(t, other.UnitsPerEm(), f.UnitsPerEm)
			metrics, err := other.Metrics(&buf, fixed.I(f.UnitsPerEm), 0)
			require.NoError(t, err)
			assert.Equal(t, metrics.Ascent.Round(), f.Metrics.Ascent)
			assert.Equal(t, metrics.Descent.Round(), -f.Metrics.Descent)
			codes := []string{}
			for _, p := range f.Problems {
				codes = append(codes, p.Code)
			}
			assert.Equal(t, append([]string{}, knownProblems[filepath.Base(path)]...), codes)
			assert.Positive(t, f.Coverage.Codepoints)
		})
	}
}

// TestLossless writes real fonts into every container and expects each table
// back as it was, but for what the recommendations change in head. Brotli at its
// best takes seconds a font, so WOFF2 is made of the smallest ones only.
func TestLossless(t *testing.T) {
	const small = 255_000
	for _, path := range realFonts(t) {
		t.Run(filepath.Base(path), func(t *testing.T) {
			t.Parallel()
			b, err := os.ReadFile(path)
			require.NoError(t, err)
			opened, err := font.Open(b)
			require.NoError(t, err)
			face := opened.Faces[0]
			to := []font.Container{font.WOFF, font.EOT, font.TTF}
			if len(b) < small {
				to = append(to, font.WOFF2)
			}
			for _, to := range to {
				made, err := font.Make(face, to)
				require.NoError(t, err)
				back, err := font.Open(made)
				require.NoError(t, err)
				assert.Equal(t, to, back.Container)
				sameTables(t, face, back.Faces[0], to)
				_, err = xsfnt.Parse(sfnt.Write(back.Faces[0]))
				require.NoError(t, err)
			}
		})
	}
}

// sameTables expects every table of a face as it was, but for what the
// recommendations of a container change.
func sameTables(t testing.TB, face, back *sfnt.Font, to font.Container) {
	t.Helper()
	for _, part := range face.Tables {
		got := back.Table(part.Tag)
		name := part.Tag.String()
		switch {
		case part.Tag == sfnt.TagHead:
			require.Len(t, got, len(part.Data))
			want := bytes.Clone(part.Data)
			copy(want[8:12], got[8:12]) // checkSumAdjustment
			if to == font.WOFF2 {
				want[16] |= 0x08 // bit 11 of flags
			}
			require.Equal(t, want, got)
		case to == font.WOFF2 && name == "DSIG":
			require.Nil(t, got, "signatures are left out")
		case to == font.WOFF2 && (name == "glyf" || name == "loca"): // described anew
			require.True(t, back.Has(part.Tag))
		default:
			require.True(t, bytes.Equal(face.Table(part.Tag), got), "%s: table %s is not what it was", to, part.Tag)
		}
	}
	if to == font.WOFF2 && len(face.Table(table.TagGlyf)) > 0 {
		sameOutlines(t, face, back)
	}
}

// sameOutlines compares every glyph: points, flags, instructions and boxes of
// simple ones, the bytes of those made of parts.
func sameOutlines(t testing.TB, a, b *sfnt.Font) {
	t.Helper()
	read := func(f *sfnt.Font) [][]byte {
		head, err := table.ParseHead(f.Table(table.TagHead))
		require.NoError(t, err)
		glyphs, err := glyf.Locate(f.Table(table.TagGlyf), f.Table(table.TagLoca), head.LongLoca)
		require.NoError(t, err)
		return glyphs
	}
	was, is := read(a), read(b)
	require.Len(t, is, len(was))
	for i := range was {
		if n, ok := glyf.ContourCount(was[i]); !ok || n < 0 {
			// Behind a glyph made of parts there may be padding.
			require.True(t, bytes.Equal(bytes.TrimRight(was[i], "\x00"), bytes.TrimRight(is[i], "\x00")), "glyph %d", i)
			continue
		}
		x, err := glyf.ParseSimple(was[i])
		require.NoError(t, err)
		if len(x.Ends) == 0 && len(is[i]) == 0 {
			continue // a header that announces nothing
		}
		y, err := glyf.ParseSimple(is[i])
		require.NoError(t, err)
		require.Equal(t, x, y, "glyph %d", i)
	}
}

func TestWhatIsNoFontIsNamed(t *testing.T) {
	for name, test := range map[string]struct {
		data []byte
		says string
	}{
		"empty":           {nil, "empty"},
		"web page":        {[]byte("\n<!DOCTYPE html><html><title>404</title>"), "a web page saved as a font"},
		"zip":             {[]byte("PK\x03\x04aaaaaaaaaaaaaaaa"), "a zip archive"},
		"version control": {[]byte("version https://git-lfs.github.com/spec/v1\noid sha256:1\nsize 3\n"), "a pointer that version control keeps"},
		"type 1":          {[]byte("%!PS-AdobeFont-1.0: Example\n"), "a Type 1 font"},
		"type 1 binary":   {[]byte("\x80\x01\x10\x00\x00\x00%!PS-AdobeFont"), "a Type 1 font"},
		"svg font":        {[]byte("<?xml version=\"1.0\"?>\n<!DOCTYPE svg>\n<svg><defs><font/></defs></svg>"), "an SVG font"},
		"drawing":         {[]byte("<svg viewBox='0 0 1 1'><path d='M0 0'/></svg>"), "a drawing in SVG"},
		"commented page":  {[]byte("<!-- saved --> <!-- twice -->\n<html>"), "a web page saved as a font"},
		"only a comment":  {[]byte("<!-- saved from"), "a web page or an XML document"},
		"storage error":   {[]byte("<?xml version=\"1.0\"?><Error><Code>AccessDenied</Code></Error>"), "an XML document, not a font, most likely an error message"},
		"gzip":            {[]byte("\x1F\x8B\x08\x00aaaaaaaaaaaa"), "packed by gzip"},
		"double":          {[]byte("\x00\x05\x16\x07\x00\x02\x00\x00aaaaaaa"), "a suitcase"},
		"resource fork":   {[]byte("\x00\x00\x00\x10\x00\x00\x00\x14\x00\x00\x00\x04\x00\x00\x00\x04datamap!"), "a suitcase"},
		"typed bitmaps":   {[]byte("STARTFONT 2.1\nFONT -misc-example\n"), "a font of bitmaps"},
		"packed bitmaps":  {[]byte("\x01fcp\x04\x00\x00\x00aaaaaaaa"), "a font of bitmaps"},
		"windows bitmaps": {append([]byte("MZ"), append(make([]byte, 200), "FONTRES 100"...)...), "a font of bitmaps"},
		"metrics":         {[]byte("StartFontMetrics 4.1\nFontName Example"), "only the metrics"},
		"picture":         {[]byte("\x89PNG\r\n\x1a\naaaaaaaaaa"), "a picture"},
		"json":            {[]byte(`{"error":"forbidden"}`), "a JSON document"},
		"pdf":             {[]byte("%PDF-1.7 aaaaaaaaaa"), "a PDF document"},
		"zeros":           {make([]byte, 5000), "only zeros"},
		"text":            {[]byte("Thank you for downloading this font."), "a text file"},
		"short":           {[]byte{1, 2, 3}, "only 3 bytes"},
		"other":           {[]byte{0xCA, 0xFE, 0xBA, 0xBE, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}, "not a font file: it opens with the bytes ca fe ba be"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := font.Open(test.data)
			require.ErrorIs(t, err, font.ErrNotFont)
			assert.Contains(t, err.Error(), test.says)
		})
	}
}

// TestTruncatedFontsNeverPassForWhole cuts a font at many places, in every
// container: each cut is refused with a sentence, or leaves only padding out.
func TestTruncatedFontsNeverPassForWhole(t *testing.T) {
	opened := demoFont(t)
	for _, to := range []font.Container{font.TTF, font.WOFF, font.EOT, font.WOFF2} {
		made, err := font.Make(opened.Faces[0], to)
		require.NoError(t, err)
		for n := 0; n < len(made)-4; n += 1 + len(made)/97 {
			_, err := font.Open(made[:n])
			require.Error(t, err, "%s cut to %d of %d bytes", to, n, len(made))
			assert.NotEmpty(t, err.Error())
		}
	}
}

// TestWhatAWOFFFileCarriesGoesAlong keeps a maker's document of license and
// credits when a file is asked for in the other version.
func TestWhatAWOFFFileCarriesGoesAlong(t *testing.T) {
	opened := demoFont(t)
	opened.Metadata, opened.Private = []byte("<metadata version=\"1.0\"/>"), []byte("order 4711")
	for _, to := range []font.Container{font.WOFF, font.WOFF2} {
		made, err := opened.Make(0, to)
		require.NoError(t, err)
		back, err := font.Open(made)
		require.NoError(t, err)
		assert.Equal(t, opened.Blocks, back.Blocks, to)
		opened = back
	}
}

func TestOutlinesDecideBetweenTTFAndOTF(t *testing.T) {
	opened := demoFont(t)
	_, err := font.Make(opened.Faces[0], font.OTF)
	require.ErrorIs(t, err, font.ErrContainer)
	_, err = font.Make(opened.Faces[0], "pfb")
	require.ErrorIs(t, err, font.ErrContainer)
}
