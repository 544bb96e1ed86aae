package table_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

func TestCmapComesBack(t *testing.T) {
	pairs := []table.Mapping{{Rune: 0x20, Glyph: 1}, {Rune: 0x41, Glyph: 2}, {Rune: 0x42, Glyph: 3}, {Rune: 0x44, Glyph: 9}, {Rune: 0xE9, Glyph: 4}, {Rune: 0xFB01, Glyph: 60000}}
	runs, err := table.ParseCmap(table.EncodeCmap(pairs))
	require.NoError(t, err)
	assert.Equal(t, pairs, expand(runs))
}

func expand(runs []table.Run) []table.Mapping {
	var out []table.Mapping
	for _, r := range runs {
		for i := range r.Count {
			out = append(out, table.Mapping{Rune: r.First + rune(i), Glyph: r.Glyph + table.GlyphID(i)})
		}
	}
	return out
}

func TestCmapFormats(t *testing.T) {
	head := func(platform, encoding byte) []byte { return []byte{0, 0, 0, 1, 0, platform, 0, encoding, 0, 0, 0, 12} }
	for _, test := range []struct {
		name string
		data []byte
		want []table.Mapping
	}{
		{"format 6", append(head(3, 1), 0, 6, 0, 14, 0, 0, 0, 65, 0, 2, 0, 7, 0, 0), []table.Mapping{{Rune: 'A', Glyph: 7}}},
		{"format 12", append(head(3, 10), 0, 12, 0, 0, 0, 0, 0, 28, 0, 0, 0, 0, 0, 0, 0, 1, 0, 1, 0xF6, 0, 0, 1, 0xF6, 1, 0, 0, 0, 5),
			[]table.Mapping{{Rune: 0x1F600, Glyph: 5}, {Rune: 0x1F601, Glyph: 6}}},
		{"format 12 with a group beyond Unicode", append(head(3, 10), 0, 12, 0, 0, 0, 0, 0, 28, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0xFF, 0xFF, 0xFF, 0xFF, 0, 0, 0, 5), nil},
		{"format 0, of which ASCII is sure", append(head(1, 0), append([]byte{0, 0, 1, 6, 0, 0}, func() []byte {
			glyphs := make([]byte, 256)
			glyphs['A'], glyphs['B'], glyphs[0x8A] = 3, 4, 5 // the last is another letter on every system
			return glyphs
		}()...)...), []table.Mapping{{Rune: 'A', Glyph: 3}, {Rune: 'B', Glyph: 4}}},
		{"format 4 by differences, around the end of numbers", append(head(3, 1), 0, 4, 0, 32, 0, 0, 0, 4, 0, 0, 0, 0, 0, 0, 0, 67, 0xFF, 0xFF, 0, 0, 0, 65, 0xFF, 0xFF, 0xFF, 0xC0, 0, 1, 0, 0, 0, 0),
			[]table.Mapping{{Rune: 'A', Glyph: 1}, {Rune: 'B', Glyph: 2}, {Rune: 'C', Glyph: 3}}},
		{"format 4 by a list with a gap", append(head(3, 1), 0, 4, 0, 38, 0, 0, 0, 4, 0, 0, 0, 0, 0, 0, 0, 67, 0xFF, 0xFF, 0, 0, 0, 65, 0xFF, 0xFF, 0, 1, 0, 1, 0, 4, 0, 0, 0, 8, 0, 0, 0, 5),
			[]table.Mapping{{Rune: 'A', Glyph: 9}, {Rune: 'C', Glyph: 6}}},
		{"format 4 by a list that ends too early", append(head(3, 1), 0, 4, 0, 36, 0, 0, 0, 4, 0, 0, 0, 0, 0, 0, 0, 67, 0xFF, 0xFF, 0, 0, 0, 65, 0xFF, 0xFF, 0, 0, 0, 1, 0, 4, 0, 0, 0, 8, 0),
			[]table.Mapping{{Rune: 'A', Glyph: 8}}},
		{"format 4 whose segments overlap", append(head(3, 1), 0, 4, 0, 40, 0, 0, 0, 6, 0, 0, 0, 0, 0, 0, 0, 67, 0, 68, 0xFF, 0xFF, 0, 0, 0, 65, 0, 66, 0xFF, 0xFF, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0),
			[]table.Mapping{{Rune: 'A', Glyph: 65}, {Rune: 'B', Glyph: 66}, {Rune: 'C', Glyph: 67}, {Rune: 'D', Glyph: 68}}},
		{"format 4 without segments", append(head(3, 1), 0, 4, 0, 16, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0), nil},
		{"format 4 cut off", append(head(3, 1), 0, 4, 0, 16, 0, 0, 0, 8), nil},
		{"format not known", append(head(3, 1), 0, 99, 0, 0), nil},
		{"subtable outside", []byte{0, 0, 0, 1, 0, 3, 0, 1, 0, 1, 0, 0}, nil},
	} {
		t.Run(test.name, func(t *testing.T) {
			got, err := table.ParseCmap(test.data)
			require.NoError(t, err)
			assert.Equal(t, test.want, expand(got))
			// Coverage is the same code points, in a list that had something in it.
			covered, err := table.AppendCoverage([]table.Run{{First: 1, Count: 9}}, test.data)
			require.NoError(t, err)
			var points, want []rune
			for _, run := range covered {
				for i := range run.Count {
					points = append(points, run.First+rune(i))
				}
			}
			for _, m := range test.want {
				want = append(want, m.Rune)
			}
			assert.Equal(t, want, points)
		})
	}
}

// TestNamesInLanguagesOfTheirOwn reads names whose languages the table itself names
// (format 1), and names that share their text or lie outside.
func TestNamesInLanguagesOfTheirOwn(t *testing.T) {
	wide := func(s string) []byte {
		var out []byte
		for _, c := range []byte(s) {
			out = append(out, 0, c)
		}
		return out
	}
	record := func(language, id, length, at int) []byte {
		var out []byte
		for _, n := range []int{3, 1, language, id, length, at} {
			out = append(out, byte(n>>8), byte(n))
		}
		return out
	}
	const storage = 6 + 4*12 + 2 + 2*4
	b := []byte{0, 1, 0, 4, 0, storage}
	b = append(b, record(0x8000, 1, 10, 0)...)  // Kraka
	b = append(b, record(0x8001, 1, 10, 0)...)  // the same text
	b = append(b, record(0x8007, 1, 10, 0)...)  // of a language that is not named
	b = append(b, record(0x0409, 1, 10, 99)...) // outside
	b = append(b, 0, 2, 0, 4, 0, 10, 0xFF, 0, 0, 0)
	b = append(append(b, wide("Kraka")...), wide("se")...)
	n, err := table.ParseName(b)
	require.NoError(t, err)
	assert.Equal(t, 1, n.Skipped)
	require.Len(t, n.Records, 3)
	var said []string
	for i := range n.Records {
		said = append(said, n.LanguageTag(&n.Records[i])+": "+n.Records[i].Text())
	}
	assert.Equal(t, []string{"se: Kraka", ": Kraka", ": Kraka"}, said)
	assert.Equal(t, []string{"Kraka", "Kraka", "Kraka"}, n.Texts())
	assert.Equal(t, []string{"se", ""}, n.Tags, "a tag that lies outside is none")
	for cut := range b {
		if n, err := table.ParseName(b[:cut]); err == nil {
			assert.LessOrEqual(t, len(n.Records)+n.Skipped, 4)
		}
	}
}

func TestFixedTablesComeBack(t *testing.T) {
	hhea := table.Hhea{Ascent: 900, Descent: -250, LineGap: 20, AdvanceMax: 1200, MinLeft: -9, MinRight: -8, MaxX: 1190, CaretRise: 1, LongMetrics: 300}
	gotHhea, err := table.ParseHhea(hhea.Encode())
	require.NoError(t, err)
	assert.Equal(t, &hhea, gotHhea)

	maxp := table.Maxp{TrueType: true, Glyphs: 300, Points: 90, Contours: 5, CompositePoints: 120, CompositeContours: 7, Components: 2, Depth: 1}
	gotMaxp, err := table.ParseMaxp(maxp.Encode())
	require.NoError(t, err)
	assert.Equal(t, &maxp, gotMaxp)

	metrics := []table.Metric{{Advance: 500, Left: -3}, {Advance: 600, Left: 40}}
	assert.Equal(t, metrics, table.ParseHmtx(table.EncodeHmtx(metrics), 2, 2))
	assert.Equal(t, []table.Metric{{Advance: 500, Left: -3}, {Advance: 500, Left: 7}}, table.ParseHmtx([]byte{1, 0xF4, 0xFF, 0xFD, 0, 7}, 1, 5), "glyphs past the long metrics share the last advance")
}

func TestShortTablesSaySo(t *testing.T) {
	for name, parse := range map[string]func() error{
		"head": func() error { _, err := table.ParseHead(make([]byte, 53)); return err },
		"hhea": func() error { _, err := table.ParseHhea(nil); return err },
		"maxp": func() error { _, err := table.ParseMaxp(nil); return err },
		"OS/2": func() error { _, err := table.ParseOS2(make([]byte, 67)); return err },
		"post": func() error { _, err := table.ParsePost(make([]byte, 31)); return err },
		"name": func() error { _, err := table.ParseName(make([]byte, 5)); return err },
		"cmap": func() error { _, err := table.ParseCmap(nil); return err },
		"fvar": func() error { _, err := table.ParseFvar(make([]byte, 15)); return err },
	} {
		err := parse()
		require.ErrorIs(t, err, table.ErrShort, name)
		assert.Contains(t, err.Error(), "table `"+name+"`")
	}
}

func TestLayoutLists(t *testing.T) {
	gsub := table.EncodeLigatures([]table.Ligature{{From: []table.GlyphID{5, 6}, To: 9}}, []string{"TRK "})
	assert.Equal(t, []sfnt.Tag{sfnt.MakeTag("liga")}, table.LayoutFeatures(gsub))
	latin, turkish := sfnt.MakeTag("latn"), sfnt.MakeTag("TRK ")
	assert.Equal(t, []table.LayoutLanguage{{Script: sfnt.MakeTag("DFLT")}, {Script: latin}, {Script: latin, Language: turkish}}, table.LayoutLanguages(gsub))
	for _, damaged := range [][]byte{nil, {0, 1, 0, 0, 0, 10, 0xFF, 0xF0}, {0, 1, 0, 0, 0, 10, 0, 10, 0, 0, 0xFF, 0xFF}} {
		assert.Empty(t, table.LayoutFeatures(damaged))
		assert.Empty(t, table.LayoutLanguages(damaged))
	}
}

// TestNameIDsAreThoseOfTheSpecification holds the numbers against the specification's list
// (OpenType 1.9.1, name, "Name IDs").
func TestNameIDsAreThoseOfTheSpecification(t *testing.T) {
	for id, is := range map[table.NameID]uint16{
		table.NameCopyright: 0, table.NameFamily: 1, table.NameSubfamily: 2, table.NameUnique: 3, table.NameFull: 4, table.NameVersion: 5,
		table.NamePostScript: 6, table.NameTrademark: 7, table.NameManufacturer: 8, table.NameDesigner: 9, table.NameDescription: 10,
		table.NameVendorURL: 11, table.NameDesignerURL: 12, table.NameLicense: 13, table.NameLicenseURL: 14, table.NameTypographicFamily: 16,
		table.NameTypographicSubfamily: 17, table.NameCompatibleFull: 18, table.NameSampleText: 19, table.NameWWSFamily: 21,
		table.NameWWSSubfamily: 22, table.NameVariationsPrefix: 25,
	} {
		assert.EqualValues(t, is, id)
	}
}
