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
		{"format not known", append(head(3, 1), 0, 99, 0, 0), nil},
		{"subtable outside", []byte{0, 0, 0, 1, 0, 3, 0, 1, 0, 1, 0, 0}, nil},
	} {
		t.Run(test.name, func(t *testing.T) {
			got, err := table.ParseCmap(test.data)
			require.NoError(t, err)
			assert.Equal(t, test.want, expand(got))
		})
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
