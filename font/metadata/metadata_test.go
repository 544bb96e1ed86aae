package metadata_test

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// face returns a demo face with some tables replaced; nil takes a table out.
func face(t testing.TB, replace map[sfnt.Tag][]byte) metadata.Face {
	t.Helper()
	whole := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	out := &sfnt.Font{Flavor: whole.Flavor}
	for _, table := range whole.Tables {
		data, replaced := replace[table.Tag]
		if !replaced {
			data = table.Data
		}
		delete(replace, table.Tag)
		if data != nil {
			out.Tables = append(out.Tables, sfnt.Table{Tag: table.Tag, Data: data})
		}
	}
	for tag, data := range replace {
		if data != nil {
			out.Tables = append(out.Tables, sfnt.Table{Tag: tag, Data: data})
		}
	}
	faces, err := metadata.Read(sfnt.Write(out))
	require.NoError(t, err)
	return faces[0]
}

func names(values map[table.NameID]string) []byte {
	n := &table.Name{}
	for id, v := range values {
		n.Records = append(n.Records, table.NameRecord{Platform: 3, Encoding: 1, Language: 0x409, ID: id, Value: v})
	}
	return n.Encode()
}

func codes(f metadata.Face) []string {
	out := []string{}
	for _, p := range f.Problems {
		out = append(out, p.Code)
	}
	return out
}

func TestEmbedding(t *testing.T) {
	for _, test := range []struct {
		name    string
		version byte
		fsType  uint16
		level   metadata.Level
		whole   bool
		bitmaps bool
		several bool
		words   string
	}{
		{"installable", 4, 0x0000, metadata.Installable, false, false, false, "Installable: embedding and installing are permitted (fsType 0)."},
		{"restricted", 4, 0x0002, metadata.Restricted, false, false, false, "Restricted: embedding is not permitted (fsType 2)."},
		{"preview", 4, 0x0004, metadata.PreviewPrint, false, false, false, "Preview and print: embedding is permitted for viewing and printing only (fsType 4)."},
		{"editable", 4, 0x0008, metadata.Editable, false, false, false, "Editable: embedding in editable documents is permitted (fsType 8)."},
		{"no subsetting", 4, 0x0104, metadata.PreviewPrint, true, false, false, "Preview and print: embedding is permitted for viewing and printing only, no subsetting (fsType 260)."},
		{"bitmaps", 4, 0x0208, metadata.Editable, false, true, false, "Editable: embedding in editable documents is permitted, bitmaps only (fsType 520)."},
		{"several, old table", 1, 0x0006, metadata.PreviewPrint, false, false, false, "Preview and print: embedding is permitted for viewing and printing only (fsType 6)."},
		{"several, new table", 3, 0x000A, metadata.Editable, false, false, true, "Editable: embedding in editable documents is permitted (fsType 10)."},
	} {
		t.Run(test.name, func(t *testing.T) {
			os2 := (&table.OS2{WeightClass: 400, WidthClass: 5, Type: test.fsType}).Encode()
			os2[1] = test.version
			f := face(t, map[sfnt.Tag][]byte{table.TagOS2: os2})
			assert.Equal(t, metadata.Embedding{FsType: int(test.fsType), Level: test.level, NoSubsetting: test.whole, BitmapOnly: test.bitmaps}, f.Embedding)
			assert.Equal(t, test.words, f.Embedding.Words())
			assert.Equal(t, test.several, slices.Contains(codes(f), metadata.ProblemUsageBits))
		})
	}
	none := face(t, map[sfnt.Tag][]byte{table.TagOS2: nil})
	assert.Equal(t, metadata.NotStated, none.Embedding.Level)
	assert.Equal(t, "The font states no embedding permission.", none.Embedding.Words())
}

func TestFamilyAndStyleNames(t *testing.T) {
	for _, test := range []struct {
		name          string
		values        map[table.NameID]string
		family, style string
	}{
		{"four styles", map[table.NameID]string{1: "Example", 2: "Bold Italic"}, "Example", "Bold Italic"},
		{"typographic names count first", map[table.NameID]string{1: "Example Light", 2: "Regular", 16: "Example", 17: "Light"}, "Example", "Light"},
		{"style words in ID 1", map[table.NameID]string{1: "Example Semi Bold", 2: "Regular"}, "Example", "Semi Bold"},
		{"style words and italic", map[table.NameID]string{1: "Example Black", 2: "Italic"}, "Example", "Black Italic"},
		{"condensed", map[table.NameID]string{1: "Example Condensed ExtraLight", 2: "Regular"}, "Example", "Condensed ExtraLight"},
		{"a name that only looks like it", map[table.NameID]string{1: "Blackwood", 2: "Regular"}, "Blackwood", "Regular"},
		{"a style word alone is a name", map[table.NameID]string{1: "Bold", 2: "Regular"}, "Bold", "Regular"},
		{"no subfamily", map[table.NameID]string{1: "Example"}, "Example", "Regular"},
	} {
		t.Run(test.name, func(t *testing.T) {
			f := face(t, map[sfnt.Tag][]byte{table.TagName: names(test.values)})
			assert.Equal(t, test.family, f.Names.FamilyName())
			assert.Equal(t, test.style, f.Names.StyleName())
		})
	}
}

func TestStyleNumbers(t *testing.T) {
	for _, test := range []struct {
		name   string
		os2    *table.OS2
		style  string
		weight int
		width  float64
		slope  metadata.Slope
	}{
		{"as stated", &table.OS2{WeightClass: 600, WidthClass: 3}, "SemiBold", 600, 75, metadata.Upright},
		{"the number counts, not the word", &table.OS2{WeightClass: 450, WidthClass: 5}, "Bold", 450, 100, metadata.Upright},
		{"out of range, so the word counts", &table.OS2{WeightClass: 0, WidthClass: 5}, "Extra Bold", 800, 100, metadata.Upright},
		{"old makers' 1 to 9", &table.OS2{WeightClass: 7, WidthClass: 9}, "Bold", 700, 200, metadata.Upright},
		{"italic", &table.OS2{WeightClass: 400, WidthClass: 5, Selection: table.SelectItalic}, "Italic", 400, 100, metadata.Italic},
		{"oblique by its bit", &table.OS2{WeightClass: 400, WidthClass: 5, Selection: table.SelectOblique}, "Slanted", 400, 100, metadata.Oblique},
		{"oblique by its name", &table.OS2{WeightClass: 400, WidthClass: 5, Selection: table.SelectItalic}, "Oblique", 400, 100, metadata.Oblique},
	} {
		t.Run(test.name, func(t *testing.T) {
			f := face(t, map[sfnt.Tag][]byte{table.TagOS2: test.os2.Encode(), table.TagName: names(map[table.NameID]string{1: "Example", 2: test.style})})
			assert.Equal(t, metadata.Style{Weight: test.weight, WidthPercent: test.width, Slope: test.slope}, f.Style)
		})
	}
}

func TestBestNameAmongManyRecords(t *testing.T) {
	n := &table.Name{Records: []table.NameRecord{
		{Platform: 1, Encoding: 0, Language: 0, ID: 1, Value: "Caf\u00e9 Mac"},
		{Platform: 3, Encoding: 1, Language: 0x0407, ID: 1, Value: "Beispiel"},
		{Platform: 3, Encoding: 1, Language: 0x0809, ID: 1, Value: "British"},
		{Platform: 3, Encoding: 1, Language: 0x0407, ID: 4, Value: "Nur deutsch"},
		{Platform: 1, Encoding: 0, Language: 0, ID: 8, Value: "M\u00fcller & Co\u2026"},
		{Platform: 3, Encoding: 10, Language: 0x0409, ID: 9, Value: "Zoë 𝔘"},
	}}
	f := face(t, map[sfnt.Tag][]byte{table.TagName: n.Encode()})
	assert.Equal(t, "British", f.Names.Family, "any English before the rest")
	assert.Equal(t, "Nur deutsch", f.Names.Full, "the only one there is")
	assert.Equal(t, "Müller & Co…", f.Names.Manufacturer, "Mac Roman")
	assert.Equal(t, "Zoë 𝔘", f.Names.Designer, "beyond the basic plane")
}

func TestProblemsAreSaidAndNothingStops(t *testing.T) {
	short := []byte{0, 1}
	for _, test := range []struct {
		name    string
		replace map[sfnt.Tag][]byte
		code    string
	}{
		{"no name table", map[sfnt.Tag][]byte{table.TagName: nil}, metadata.ProblemNoName},
		{"short OS/2", map[sfnt.Tag][]byte{table.TagOS2: short}, metadata.ProblemTable},
		{"short head", map[sfnt.Tag][]byte{table.TagHead: short}, metadata.ProblemTable},
		{"short cmap", map[sfnt.Tag][]byte{table.TagCmap: short}, metadata.ProblemTable},
		{"no characters", map[sfnt.Tag][]byte{table.TagCmap: nil}, metadata.ProblemNoCharacters},
		{"no outlines", map[sfnt.Tag][]byte{table.TagGlyf: nil}, metadata.ProblemNoGlyphs},
		{"no line height", map[sfnt.Tag][]byte{table.TagHhea: nil, table.TagOS2: nil}, metadata.ProblemNoMetrics},
		{"name text outside", map[sfnt.Tag][]byte{table.TagName: {0, 0, 0, 1, 0, 18, 0, 3, 0, 1, 4, 9, 0, 1, 0, 90, 0, 0}}, metadata.ProblemNameText},
	} {
		t.Run(test.name, func(t *testing.T) {
			f := face(t, test.replace)
			assert.Contains(t, codes(f), test.code)
			for _, p := range f.Problems {
				assert.Regexp(t, `^[A-Z].*\.$`, p.Message, "a sentence")
			}
		})
	}
}

func TestVariableFont(t *testing.T) {
	fvar := []byte{
		0, 1, 0, 0, 0, 16, 0, 2, 0, 1, 0, 20, 0, 1, 0, 8, // one axis, one instance
		'w', 'g', 'h', 't', 0, 100, 0, 0, 1, 144, 0, 0, 3, 132, 0, 0, 0, 0, 1, 0,
		1, 1, 0, 0, 2, 188, 0, 0,
	}
	f := face(t, map[sfnt.Tag][]byte{table.TagFvar: fvar, table.TagName: names(map[table.NameID]string{1: "Example", 256: "Weight", 257: "Bold"})})
	assert.Equal(t, []metadata.Axis{{Tag: "wght", Min: 100, Default: 400, Max: 900, Name: "Weight"}}, f.Axes)
	assert.Equal(t, []metadata.Instance{{Name: "Bold", Coordinates: map[string]float64{"wght": 700}}}, f.Instances)
}

// TestJSONHasEveryFieldEvenEmpty keeps the shape that programs rely on.
func TestJSONHasEveryFieldEvenEmpty(t *testing.T) {
	b, err := json.Marshal(face(t, map[sfnt.Tag][]byte{table.TagGSUB: nil, table.TagGPOS: nil}))
	require.NoError(t, err)
	var got map[string]any
	require.NoError(t, json.Unmarshal(b, &got))
	for _, list := range []string{"axes", "instances", "styleAttributes", "features", "layoutScripts", "color"} {
		assert.Equal(t, []any{}, got[list], list)
	}
	covers := got["coverage"].(map[string]any)
	assert.EqualValues(t, 294, covers["codepoints"])
	assert.Equal(t, []any{map[string]any{"name": "Latin", "covered": 193.0, "of": 1481.0}}, covers["scripts"])
	assert.Subset(t, covers["languages"], []any{"en", "de", "fr", "pl", "tr"})
	assert.Equal(t, map[string]any{"ascent": 960.0, "descent": -260.0, "lineGap": 0.0, "xHeight": 516.0, "capHeight": 700.0}, got["metrics"])
	assert.Equal(t, map[string]any{"fsType": 0.0, "level": "installable", "noSubsetting": false, "bitmapOnly": false}, got["embedding"])
}

// TestMetadataOfAnOlderVersionHaveListsToo reads JSON as it was written before much
// of a face was known.
func TestMetadataOfAnOlderVersionHaveListsToo(t *testing.T) {
	var old metadata.Face
	require.NoError(t, json.Unmarshal([]byte(`{"container":"ttf","names":{"family":"Example"},"coverage":{"codepoints":3,"scripts":[],"languages":[]},"problems":[{"code":"a","message":"B."}]}`), &old))
	assert.Equal(t, "Example", old.Names.Family)
	assert.Equal(t, 3, old.Coverage.Codepoints)
	assert.Len(t, old.Problems, 1)
	b, err := json.Marshal(old)
	require.NoError(t, err)
	assert.NotContains(t, string(b), "null")
	again := face(t, nil)
	b, err = json.Marshal(again)
	require.NoError(t, err)
	var back metadata.Face
	require.NoError(t, json.Unmarshal(b, &back))
	assert.Equal(t, again, back, "there and back")
}

// FuzzRead starts from the tables that metadata are read from, without the bulk
// of outlines.
func FuzzRead(f *testing.F) {
	whole := foundrytest.Face(f, foundry.Signage()[0], font.TTF)
	small := &sfnt.Font{Flavor: whole.Flavor}
	for _, t := range whole.Tables {
		if len(t.Data) < 2500 {
			small.Tables = append(small.Tables, t)
		}
	}
	f.Add(sfnt.Write(small))
	f.Fuzz(func(_ *testing.T, b []byte) {
		if len(b) < 1<<16 {
			_, _ = metadata.Read(b)
		}
	})
}

// TestWhichHeightEachSystemTakes has the vertical metrics of hhea and OS/2 empty or not, and
// the bit that prefers those of OS/2 set or not.
func TestWhichHeightEachSystemTakes(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	with := func(tag sfnt.Tag, put func(b []byte)) []byte {
		b := bytes.Clone(f.Table(tag))
		put(b)
		return b
	}
	number := func(b []byte, at, v int) { binary.BigEndian.PutUint16(b[at:], uint16(int16(v))) } //nolint:gosec // small numbers
	for name, one := range map[string]struct {
		ascender, descender         int // hhea
		typoAscender, typoDescender int
		useTypo                     bool
		windows, other              metadata.LineSet
	}{
		"hhea":                        {700, -200, 800, -300, false, metadata.LinesWin, metadata.LinesHhea},
		"the bit":                     {700, -200, 800, -300, true, metadata.LinesTypo, metadata.LinesTypo},
		"no hhea":                     {0, 0, 800, -300, false, metadata.LinesWin, metadata.LinesTypo},
		"no hhea, typo without depth": {0, 0, 800, 0, false, metadata.LinesWin, metadata.LinesTypo},
		"no hhea, typo without rise":  {0, 0, 0, -300, false, metadata.LinesWin, metadata.LinesTypo},
		"neither":                     {0, 0, 0, 0, false, metadata.LinesWin, metadata.LinesWin},
		"hhea without descender":      {700, 0, 800, -300, false, metadata.LinesWin, metadata.LinesHhea},
		"hhea without ascender":       {0, -200, 800, -300, false, metadata.LinesWin, metadata.LinesHhea},
	} {
		got := face(t, map[sfnt.Tag][]byte{
			table.TagHhea: with(table.TagHhea, func(b []byte) { number(b, 4, one.ascender); number(b, 6, one.descender) }),
			table.TagOS2: with(table.TagOS2, func(b []byte) {
				number(b, 68, one.typoAscender)
				number(b, 70, one.typoDescender)
				selection := int(binary.BigEndian.Uint16(b[62:])) &^ table.SelectUseTypo
				if one.useTypo {
					selection |= table.SelectUseTypo
				}
				number(b, 62, selection)
			}),
		}).Lines.Systems
		assert.Equal(t, one.windows, got["windows"], name)
		assert.Equal(t, one.other, got["other"], name)
		assert.Equal(t, metadata.LinesHhea, got["apple"], name)
	}
}
