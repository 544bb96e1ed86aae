package lint_test

import (
	"bytes"
	"encoding/binary"
	"os"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/lint"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

func check(t testing.TB, b []byte) *lint.Report {
	t.Helper()
	r, err := lint.Check(b)
	require.NoError(t, err)
	return r
}

// TestWhatWeWriteBreaksNoRule checks our own output in every container, and
// real fonts.
func TestWhatWeWriteBreaksNoRule(t *testing.T) {
	for _, f := range []*sfnt.Font{foundrytest.Face(t, foundry.Signage()[1], font.TTF), foundrytest.Face(t, foundry.Display(), font.OTF)} {
		for _, to := range []font.Container{font.TTF, font.OTF, font.WOFF, font.WOFF2, font.EOT} {
			made, err := font.Make(f, to)
			if err != nil {
				require.ErrorIs(t, err, font.ErrContainer)
				continue
			}
			assert.Empty(t, check(t, made).Findings, to)
		}
	}
	paths, err := filepath.Glob("/usr/share/fonts/truetype/*/*.ttf")
	require.NoError(t, err)
	require.NotEmpty(t, paths)
	for _, path := range paths {
		b, err := os.ReadFile(path)
		require.NoError(t, err)
		assert.Zero(t, check(t, b).Errors(), path)
	}
}

// edit returns a table's bytes with some overwritten.
func edit(at int, value ...byte) func([]byte) []byte {
	return func(b []byte) []byte {
		b = bytes.Clone(b)
		copy(b[at:], value)
		return b
	}
}

func cut(n int) func([]byte) []byte { return func(b []byte) []byte { return b[:n] } }

func gone([]byte) []byte { return nil }

func be(n uint32) []byte { return binary.BigEndian.AppendUint32(nil, n) }

// TestEveryRule breaks one rule at a time and expects it named.
func TestEveryRule(t *testing.T) {
	truetype, postscript := foundrytest.Face(t, foundry.Signage()[1], font.TTF), foundrytest.Face(t, foundry.Display(), font.OTF)
	tag := sfnt.MakeTag
	made, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	require.NoError(t, err)
	variable := foundrytest.Parsed(t, made)
	require.Empty(t, check(t, made).Findings)
	for _, test := range []struct {
		name string
		of   *sfnt.Font
		tag  sfnt.Tag
		edit func([]byte) []byte
		code string
		is   lint.Severity
	}{
		{"no cmap", truetype, table.TagCmap, gone, "table-missing", lint.Error},
		{"no hmtx", truetype, table.TagHmtx, gone, "table-missing", lint.Error},
		{"no loca", truetype, table.TagLoca, gone, "table-missing", lint.Error},
		{"no post", truetype, table.TagPost, gone, "table-missing", lint.Warning},
		{"no outlines", truetype, table.TagGlyf, gone, "outlines-missing", lint.Error},
		{"no outlines in OTF", postscript, table.TagCFF, gone, "outlines-missing", lint.Error},
		{"both kinds of outlines", truetype, table.TagCFF, func([]byte) []byte { return postscript.Table(table.TagCFF) }, "outlines-twice", lint.Warning},
		{"a wrong magic number", truetype, table.TagHead, edit(12, 0), "head-magic", lint.Error},
		{"an em of nothing", truetype, table.TagHead, edit(18, 0, 0), "head-units", lint.Error},
		{"an unknown loca", truetype, table.TagHead, edit(50, 0, 7), "head-loca", lint.Error},
		{"an unknown glyf", truetype, table.TagHead, edit(52, 0, 7), "head-glyphs", lint.Error},
		{"a box inside out", truetype, table.TagHead, edit(36, 0x7F, 0xFF), "head-box", lint.Warning},
		{"a short head", truetype, table.TagHead, cut(40), "table-short", lint.Error},
		{"no glyphs", truetype, table.TagMaxp, edit(4, 0, 0), "no-glyphs", lint.Error},
		{"more glyphs than places", truetype, table.TagMaxp, edit(4, 0xFF, 0xFF), "table-short", lint.Error},
		{"a short maxp", truetype, table.TagMaxp, cut(6), "table-short", lint.Error},
		{"an unknown maxp", truetype, table.TagMaxp, edit(0, 0, 9), "version", lint.Error},
		{"a maxp for PostScript", truetype, table.TagMaxp, edit(0, 0, 0, 0x50, 0), "version", lint.Error},
		{"a small profile", truetype, table.TagMaxp, edit(6, 0, 3), "glyph-points", lint.Warning},
		{"other glyphs than maxp", postscript, table.TagMaxp, edit(4, 0, 9), "glyph-count", lint.Error},
		{"no advances", truetype, table.TagHhea, edit(34, 0, 0), "metrics-count", lint.Error},
		{"more advances than glyphs", truetype, table.TagHhea, edit(34, 0xFF, 0), "metrics-count", lint.Error},
		{"advances that run out", truetype, table.TagHmtx, cut(40), "table-short", lint.Error},
		{"a positive descent", truetype, table.TagHhea, edit(6, 0, 99), "descent", lint.Warning},
		{"a negative ascent", truetype, table.TagHhea, edit(4, 0xFF, 99), "ascent", lint.Warning},
		{"a wider glyph", truetype, table.TagHhea, edit(10, 0, 99), "advance-max", lint.Warning},
		{"an unknown OS/2", truetype, table.TagOS2, edit(0, 0, 6), "version", lint.Error},
		{"a short OS/2", truetype, table.TagOS2, cut(78), "table-short", lint.Error},
		{"a weight of nothing", truetype, table.TagOS2, edit(4, 0, 0), "weight", lint.Warning},
		{"a width of twelve", truetype, table.TagOS2, edit(6, 0, 12), "width", lint.Warning},
		{"a permission that means nothing", truetype, table.TagOS2, edit(8, 0x80, 0), "permission-bits", lint.Warning},
		{"regular and bold", truetype, table.TagOS2, edit(62, 0, 0x60), "selection", lint.Warning},
		{"new bits in an old table", truetype, table.TagOS2, func(b []byte) []byte { return edit(62, 0, 0x80)(edit(0, 0, 3)(b)) }, "selection", lint.Warning},
		{"an unknown post", truetype, table.TagPost, edit(0, 0, 9), "version", lint.Error},
		{"fewer glyph names", truetype, table.TagPost, edit(32, 0, 9), "names-count", lint.Error},
		{"a glyph name that is not", truetype, table.TagPost, edit(36, 0x40, 0), "names-missing", lint.Error},
		{"glyph names that run out", truetype, table.TagPost, cut(60), "table-short", lint.Error},
		{"names that run out", truetype, table.TagName, cut(90), "names-outside", lint.Error},
		{"an unknown name table", truetype, table.TagName, edit(0, 0, 5), "version", lint.Error},
		{"names out of order", truetype, table.TagName, edit(12, 0xFF, 0xFF), "names-order", lint.Warning},
		{"a name with half a letter", truetype, table.TagName, edit(14, 0, 5), "names-odd", lint.Warning},
		{"nothing to be listed by", truetype, table.TagName, edit(2, 0, 1), "name-missing", lint.Warning},
		{"characters that run out", truetype, table.TagCmap, cut(3), "table-short", lint.Error},
		{"a subtable outside", truetype, table.TagCmap, edit(8, 0x7F), "subtable-outside", lint.Error},
		{"no Unicode", truetype, table.TagCmap, func([]byte) []byte {
			return []byte{0, 0, 0, 1, 0, 3, 0, 3, 0, 0, 0, 12, 0, 6, 0, 12, 0, 0, 0, 0, 0, 1, 0, 1}
		}, "no-unicode", lint.Warning},
		{"an unknown subtable", truetype, table.TagCmap, func([]byte) []byte { return []byte{0, 0, 0, 1, 0, 3, 0, 1, 0, 0, 0, 12, 0, 9, 0, 12} }, "subtable-format", lint.Error},
		{"segments that run out", truetype, table.TagCmap, func([]byte) []byte { return []byte{0, 0, 0, 1, 0, 3, 0, 1, 0, 0, 0, 12, 0, 4, 0, 20, 0, 0, 0, 90} }, "characters-order", lint.Error},
		{"a group inside out", truetype, table.TagCmap, groups(9, 3, 1), "characters-order", lint.Error},
		{"groups in no order", truetype, table.TagCmap, groups(65, 66, 1, 66, 67, 3), "characters-order", lint.Error},
		{"a group beyond Unicode", truetype, table.TagCmap, groups(65, 0x110000, 1), "characters-order", lint.Error},
		{"groups that run out", truetype, table.TagCmap, func(b []byte) []byte { return groups(65, 66, 1)(b)[:30] }, "characters-order", lint.Error},
		{"a character without a glyph", truetype, table.TagCmap, groups(65, 66, 0xFFF0), "glyphs-outside", lint.Error},
		{"a glyph outside", truetype, table.TagLoca, edit(8, 0xFF, 0xFF, 0xFF, 0xFF), "glyphs-outside", lint.Error},
		{"a broken glyph", truetype, table.TagGlyf, func(b []byte) []byte { return edit(10, 0xFF, 0xFF)(b) }, "glyph-broken", lint.Error},
		{"a point outside its box", truetype, table.TagGlyf, edit(6, 0, 1), "glyph-box", lint.Warning},
		{"broken PostScript", postscript, table.TagCFF, edit(0, 9), "outlines-broken", lint.Error},
		{"layout of the future", truetype, table.TagGSUB, edit(0, 0, 9), "version", lint.Error},
		{"a feature without its lookup", truetype, table.TagGSUB, edit(findIn(truetype, table.TagGSUB, "liga")+4+2+4, 0, 9), "feature-outside", lint.Error},
		{"a lookup of no kind", truetype, table.TagGPOS, func(b []byte) []byte { return edit(int(binary.BigEndian.Uint16(b[8:]))+4, 0, 44)(b) }, "lookup-outside", lint.Error},
		{"layout that runs out", truetype, table.TagGPOS, cut(8), "table-short", lint.Error},
		{"scripts that run out", truetype, table.TagGPOS, edit(4, 0x7F, 0xFF), "table-short", lint.Error},
		{"a pair of no glyphs", truetype, tag("kern"), kern(1, 0xFFF0), "glyphs-outside", lint.Warning},
		{"pairs in no order", truetype, tag("kern"), kern(7, 3, 2, 1), "pairs-order", lint.Warning},
		{"pairs beside PostScript", postscript, tag("kern"), kern(1, 2), "kern-postscript", lint.Warning},
		{"pairs that run out", truetype, tag("kern"), func(b []byte) []byte { return kern(1, 2)(b)[:20] }, "table-short", lint.Warning},
		{"an axis inside out", truetype, table.TagFvar, axis(90, 40, 10), "axis-range", lint.Error},
		{"variations without names of styles", truetype, table.TagFvar, axis(10, 40, 90), "table-missing", lint.Warning},
		{"variations without axes", truetype, tag("gvar"), func([]byte) []byte { return make([]byte, 20) }, "table-missing", lint.Warning},
		{"a variable font without names of styles", variable, table.TagSTAT, gone, "table-missing", lint.Warning},
		{"outlines that do not vary", variable, tag("gvar"), gone, "table-missing", lint.Warning},
		{"outlines that vary along other axes", variable, tag("gvar"), edit(4, 0, 9), "axis-count", lint.Error},
		{"other glyphs vary", variable, tag("gvar"), edit(12, 0, 9), "glyph-count", lint.Error},
		{"variations that end at once", variable, tag("gvar"), cut(19), "table-short", lint.Error},
		{"variations outside", variable, tag("gvar"), edit(24, 0xFF, 0xFF, 0xFF, 0xFF), "glyphs-outside", lint.Error},
		{"an instance beyond its axis", variable, table.TagFvar, edit(16+20+4, 0x7F), "instance-outside", lint.Warning},
		{"scales of too many axes", variable, table.TagAvar, func([]byte) []byte { return []byte{0, 1, 0, 0, 0, 0, 0, 2, 0, 0, 0, 0} }, "axis-count", lint.Error},
		{"scales that run out", variable, table.TagAvar, func([]byte) []byte { return []byte{0, 1, 0, 0, 0, 0, 0, 1, 0, 9} }, "table-short", lint.Error},
		{"no axis", variable, table.TagFvar, edit(8, 0, 0), "no-axes", lint.Error},
		{"a glyph with layers that are not there", truetype, tag("COLR"), func([]byte) []byte {
			return []byte{0, 0, 0, 1, 0, 0, 0, 14, 0, 0, 0, 20, 0, 1, 0, 1, 0, 0, 0, 5, 0, 2, 0, 0}
		}, "layers-outside", lint.Error},
		{"a glyph with one layer more than there are", truetype, tag("COLR"), func([]byte) []byte {
			return []byte{0, 0, 0, 1, 0, 0, 0, 14, 0, 0, 0, 20, 0, 2, 0, 1, 0, 0, 0, 3, 0, 2, 0, 0, 0, 2, 0, 0}
		}, "layers-outside", lint.Error},
		{"a layer that is a glyph more than there are", truetype, tag("COLR"), func([]byte) []byte {
			maxp := truetype.Table(sfnt.MakeTag("maxp"))
			n := int(maxp[4])<<8 | int(maxp[5])
			return []byte{0, 0, 0, 1, 0, 0, 0, 14, 0, 0, 0, 20, 0, 1, 0, 1, 0, 0, 0, 1, byte(n >> 8), byte(n), 0, 0}
		}, "layers-outside", lint.Error},
		{"layers without colors", truetype, tag("COLR"), func([]byte) []byte { return make([]byte, 14) }, "table-missing", lint.Warning},
		{"layers that run out", truetype, tag("COLR"), func([]byte) []byte { return append(make([]byte, 12), 0, 9) }, "table-short", lint.Error},
	} {
		t.Run(test.name, func(t *testing.T) {
			f := &sfnt.Font{Flavor: test.of.Flavor, Tables: slices.Clone(test.of.Tables)}
			i := slices.IndexFunc(f.Tables, func(t sfnt.Table) bool { return t.Tag == test.tag })
			if i < 0 {
				f.Tables = append(f.Tables, sfnt.Table{Tag: test.tag})
				i = len(f.Tables) - 1
			}
			if f.Tables[i].Data = test.edit(f.Tables[i].Data); f.Tables[i].Data == nil {
				f.Tables = slices.Delete(f.Tables, i, i+1)
			}
			r := check(t, sfnt.Write(f))
			var found *lint.Finding
			for i := range r.Findings {
				assert.Regexp(t, `^[A-Z].*\.$`, r.Findings[i].Message, "a sentence")
				if r.Findings[i].Code == test.code && found == nil {
					found = &r.Findings[i]
				}
			}
			if assert.NotNil(t, found, "%+v", r.Findings) {
				assert.Equal(t, test.is, found.Severity)
			}
		})
	}
}

func findIn(f *sfnt.Font, tag sfnt.Tag, text string) int {
	b := f.Table(tag)
	at := bytes.Index(b, []byte(text))
	return at + int(binary.BigEndian.Uint16(b[at+4:])) - 8 // the list holds one feature, so its table is 8 behind the list
}

// groups returns a cmap of format 12 of first, last and glyph each.
func groups(n ...uint32) func([]byte) []byte {
	return func([]byte) []byte {
		b := []byte{0, 0, 0, 1, 0, 3, 0, 10, 0, 0, 0, 12, 0, 12, 0, 0}
		b = slices.Concat(b, be(uint32(16+4*len(n))), be(0), be(uint32(len(n)/3)))
		for _, x := range n {
			b = append(b, be(x)...)
		}
		return b
	}
}

func kern(glyphs ...uint16) func([]byte) []byte {
	return func([]byte) []byte {
		pairs := len(glyphs) / 2
		b := []byte{0, 0, 0, 1, 0, 0, 0, byte(14 + 6*pairs), 0, 1, 0, byte(pairs), 0, 0, 0, 0, 0, 0}
		for i := 0; i < len(glyphs); i += 2 {
			b = binary.BigEndian.AppendUint16(b, glyphs[i])
			b = binary.BigEndian.AppendUint16(b, glyphs[i+1])
			b = append(b, 0, 10)
		}
		return b
	}
}

func axis(low, start, high byte) func([]byte) []byte {
	return func([]byte) []byte {
		return []byte{0, 1, 0, 0, 0, 16, 0, 2, 0, 1, 0, 20, 0, 0, 0, 8,
			'w', 'g', 'h', 't', 0, low, 0, 0, 0, start, 0, 0, 0, high, 0, 0, 0, 0, 1, 0}
	}
}

// TestTheFrame edits whole files.
func TestTheFrame(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	plain := sfnt.Write(f)
	woff, err := font.Make(f, font.WOFF)
	require.NoError(t, err)
	eot, err := font.Make(f, font.EOT)
	require.NoError(t, err)
	whole := &font.File{Faces: []*sfnt.Font{f}}
	whole.Metadata = []byte("<metadata><unclosed></metadata>")
	told, err := whole.Make(0, font.WOFF2)
	require.NoError(t, err)
	for _, test := range []struct {
		name string
		file []byte
		at   int
		put  []byte
		code string
	}{
		{"searching the directory", plain, 6, []byte{0, 1}, "directory-search"},
		{"a table's checksum", plain, 12 + 4, []byte{1, 2, 3, 4}, "checksum"},
		{"the file's checksum", plain, 12 + 4, []byte{1, 2, 3, 4}, "checksum-file"},
		{"a table twice", plain, 12 + 16, plain[12:16], "table-twice"},
		{"tables out of order", plain, 12, plain[12+16 : 12+20], "directory-order"},
		{"a table on no boundary", plain, 12 + 8, be(binary.BigEndian.Uint32(plain[12+8:]) + 1), "table-not-aligned"},
		{"a table without a byte", plain, 12 + 12, be(0), "table-empty"},
		{"a table on another", plain, 12 + 12, be(binary.BigEndian.Uint32(plain[12+12:]) + 400), "table-overlap"},
		{"a reserved field", woff, 14, []byte{1}, "reserved"},
		{"the unpacked size", woff, 16, []byte{0, 0, 0, 9}, "woff-size"},
		{"another permission in front", eot, 32, []byte{2}, "eot-permission"},
		{"metadata that is no XML", told, 0, nil, "metadata"},
	} {
		t.Run(test.name, func(t *testing.T) {
			b := bytes.Clone(test.file)
			copy(b[test.at:], test.put)
			r := check(t, b)
			assert.True(t, slices.ContainsFunc(r.Findings, func(f lint.Finding) bool { return f.Code == test.code }), "%+v", r.Findings)
		})
	}
	_, err = lint.Check([]byte("<html>"))
	require.ErrorIs(t, err, font.ErrNotFont)
}

// TestRepeatingListsEnd gives a table whose lists all name the same bytes: a
// checker that follows every path would take hours.
func TestRepeatingListsEnd(t *testing.T) {
	const scripts = 9000
	b := []byte{0, 1, 0, 0, 0, 10, 0, 0, 0, 0, scripts >> 8, scripts & 0xFF}
	for range scripts {
		b = append(b, 'l', 'a', 't', 'n', 0, 0) // the script is the list itself, and its languages are too
	}
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	f.Tables = append(slices.DeleteFunc(f.Tables, func(t sfnt.Table) bool { return t.Tag == table.TagGSUB }), sfnt.Table{Tag: table.TagGSUB, Data: b})
	done := make(chan *lint.Report, 1)
	go func() { r, _ := lint.Check(sfnt.Write(f)); done <- r }()
	select {
	case r := <-done:
		assert.Positive(t, r.Errors())
	case <-time.After(30 * time.Second):
		require.Fail(t, "it does not end")
	}
}

func FuzzCheck(f *testing.F) {
	for _, one := range []*sfnt.Font{foundrytest.Face(f, foundry.Signage()[0], font.TTF), foundrytest.Face(f, foundry.Display(), font.OTF)} {
		small := &sfnt.Font{Flavor: one.Flavor}
		for _, t := range one.Tables {
			if len(t.Data) < 2500 {
				small.Tables = append(small.Tables, t)
			}
		}
		f.Add(sfnt.Write(small))
	}
	f.Fuzz(func(_ *testing.T, b []byte) {
		if len(b) < 1<<16 {
			_, _ = lint.Check(b)
		}
	})
}

// TestColorsAreThoseOfThePalette paints a layer with each color of a palette of two, the text's
// own color, and one that the palette does not have.
func TestColorsAreThoseOfThePalette(t *testing.T) {
	plain := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	for color, wrong := range map[uint16]bool{0: false, 1: false, 2: true, 3: true, 0xFFFF: false} {
		f := &sfnt.Font{Flavor: plain.Flavor, Tables: append(slices.Clone(plain.Tables),
			sfnt.Table{Tag: sfnt.MakeTag("COLR"), Data: binary.BigEndian.AppendUint16([]byte{0, 0, 0, 1, 0, 0, 0, 14, 0, 0, 0, 20, 0, 1, 0, 1, 0, 0, 0, 1, 0, 2}, color)},
			sfnt.Table{Tag: sfnt.MakeTag("CPAL"), Data: []byte{0, 0, 0, 2, 0, 1, 0, 2, 0, 0, 0, 14, 0, 0, 1, 2, 3, 4, 5, 6, 7, 8}})}
		b, err := font.Make(f, font.TTF)
		require.NoError(t, err)
		is := slices.ContainsFunc(check(t, b).Findings, func(one lint.Finding) bool { return one.Code == "colors-outside" })
		assert.Equal(t, wrong, is, "color %d", color)
	}
}
