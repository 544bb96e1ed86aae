package table_test

import (
	"encoding/binary"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// cutOff reads every beginning of a table: an error that says so, or a value, and
// never more.
func cutOff[T any](t *testing.T, b []byte, least int, read func([]byte) (T, error)) {
	t.Helper()
	for n := range len(b) {
		_, err := read(b[:n])
		if n < least {
			require.ErrorIs(t, err, table.ErrShort, "%d bytes", n)
			require.Contains(t, err.Error(), "bytes where at least")
		}
	}
}

func TestHeadComesBack(t *testing.T) {
	h := &table.Head{
		Revision: table.MakeFixed(2), Flags: 0x000B, UnitsPerEm: 2048,
		Created: time.Date(2003, 4, 5, 6, 7, 8, 0, time.UTC), Modified: time.Date(2026, 1, 2, 3, 4, 5, 0, time.UTC),
		XMin: -300, YMin: -512, XMax: 2400, YMax: 1900, MacStyle: table.MacBold | table.MacItalic, LowestPPEM: 9, LongLoca: true,
	}
	b := h.Encode()
	got, err := table.ParseHead(b)
	require.NoError(t, err)
	assert.Equal(t, h, got)
	assert.Equal(t, uint32(0x5F0F3CF5), binary.BigEndian.Uint32(b[12:]), "the magic number")
	assert.InDelta(t, 2.0, got.Revision.Float(), 0)
	cutOff(t, b, 54, table.ParseHead)
	b[20] = 0x7F // a date beyond any calendar
	got, err = table.ParseHead(b)
	require.NoError(t, err)
	assert.True(t, got.Created.IsZero())
	assert.Equal(t, h.Modified, got.Modified)
	h.LongLoca = false
	got, err = table.ParseHead(h.Encode())
	require.NoError(t, err)
	assert.False(t, got.LongLoca)
}

func TestLineHeaderAndMetricsComeBack(t *testing.T) {
	h := &table.Hhea{Ascent: 1900, Descent: -500, LineGap: 67, AdvanceMax: 2500, MinLeft: -80, MinRight: -90, MaxX: 2400, CaretRise: 1, CaretRun: 0, LongMetrics: 3}
	got, err := table.ParseHhea(h.Encode())
	require.NoError(t, err)
	assert.Equal(t, h, got)
	cutOff(t, h.Encode(), 36, table.ParseHhea)

	metrics := []table.Metric{{Advance: 500, Left: 20}, {Advance: 610, Left: -8}, {Advance: 700, Left: 0}, {Advance: 700, Left: 44}, {Advance: 700, Left: -44}}
	assert.Equal(t, metrics, table.ParseHmtx(table.EncodeHmtx(metrics), len(metrics), len(metrics)))
	few, long := table.EncodeMetrics(metrics)
	assert.Equal(t, 3, long, "what shares the last advance has none of its own")
	assert.Len(t, few, 3*4+2*2)
	assert.Equal(t, metrics, table.ParseHmtx(few, long, len(metrics)))
	assert.Equal(t, metrics[:4], table.ParseHmtx(few[:15], long, len(metrics)), "as far as the table goes")
	assert.Empty(t, table.ParseHmtx(nil, 1, 5))
	one, long := table.EncodeMetrics([]table.Metric{{Advance: 600, Left: 1}, {Advance: 600, Left: 2}})
	assert.Equal(t, 1, long)
	assert.Len(t, one, 6)
}

func TestProfileComesBack(t *testing.T) {
	full := &table.Maxp{Glyphs: 900, TrueType: true, Points: 120, Contours: 6, CompositePoints: 200, CompositeContours: 9, Instructions: 77, Components: 4, Depth: 2}
	got, err := table.ParseMaxp(full.Encode())
	require.NoError(t, err)
	assert.Equal(t, full, got)
	assert.Len(t, full.Encode(), 32)
	brief := &table.Maxp{Glyphs: 12}
	got, err = table.ParseMaxp(brief.Encode())
	require.NoError(t, err)
	assert.Equal(t, brief, got)
	cutOff(t, brief.Encode(), 6, table.ParseMaxp)
}

func TestMeasuresAndPermissionsComeBack(t *testing.T) {
	o := &table.OS2{
		Version: 4, AverageWidth: 512, WeightClass: 650, WidthClass: 3, Type: table.EmbedEditable | table.EmbedNoSubsetting,
		Subscript: [4]int16{600, 650, 0, 75}, Superscript: [4]int16{600, 650, 0, 350}, StrikeoutSize: 50, StrikeoutPos: 280, FamilyClass: 0x0802,
		Panose: [10]byte{2, 11, 6, 4, 2, 2, 2, 2, 2, 4}, UnicodeRange: [4]uint32{0xE00002FF, 1, 2, 3}, Vendor: "LANT",
		Selection: table.SelectUseTypo | table.SelectItalic, FirstChar: 32, LastChar: 0xFB02, HasTypo: true, TypoAscender: 950, TypoDescender: -250, TypoLineGap: 0,
		WinAscent: 1100, WinDescent: 320, CodePages: [2]uint32{0x2000019F, 0}, HasHeights: true, XHeight: 480, CapHeight: 700, DefaultChar: 0, BreakChar: 32, MaxContext: 4,
	}
	b := o.Encode()
	got, err := table.ParseOS2(b)
	require.NoError(t, err)
	assert.Equal(t, o, got)
	cutOff(t, b, 68, table.ParseOS2)

	old, err := table.ParseOS2(b[:68])
	require.NoError(t, err)
	assert.False(t, old.HasTypo || old.HasHeights, "the first fonts ended here")
	assert.Equal(t, uint16(650), old.WeightClass)
	b[1] = 1
	first, err := table.ParseOS2(b[:86])
	require.NoError(t, err)
	assert.True(t, first.HasTypo)
	assert.False(t, first.HasHeights)
	assert.Equal(t, o.CodePages, first.CodePages)
	b[1] = 5
	sized, err := table.ParseOS2(append(b, 0, 160, 4, 0))
	require.NoError(t, err)
	assert.Equal(t, []uint16{160, 1024}, []uint16{sized.LowerSize, sized.UpperSize})
}

func TestGlyphNamesComeBack(t *testing.T) {
	p := &table.Post{Version: 0x00020000, ItalicAngle: -table.MakeFixed(12), UnderlinePosition: -100, UnderlineThickness: 50, Monospaced: true}
	long := strings.Repeat("n", 80)
	b := p.Encode([]string{".notdef", "A", "eacute", long})
	got, err := table.ParsePost(b)
	require.NoError(t, err)
	assert.Equal(t, p, got)
	cutOff(t, b, 32, table.ParsePost)
	assert.Contains(t, string(b), "\x06eacute")
	assert.Contains(t, string(b), "\x3f"+long[:63], "a name has 63 letters at most")

	small := table.TrimPost(b, []table.GlyphID{0, 2})
	assert.Equal(t, []byte{0, 2, 0, 0, 1, 2}, small[32:38], "two glyphs: the usual name, and the first of its own")
	assert.Equal(t, "\x06eacute", string(small[38:]))
	assert.Equal(t, []byte{0, 1, 0, 0}, table.TrimPost(b, []table.GlyphID{9})[32:36], "a glyph that is not there has no name")

	none := p.Encode(nil)
	got, err = table.ParsePost(none)
	require.NoError(t, err)
	assert.Equal(t, uint32(0x00030000), got.Version)
	assert.Equal(t, none, table.TrimPost(none, []table.GlyphID{0}))
	old := append([]byte{0, 1, 0, 0}, none[4:]...)
	assert.Equal(t, none, table.TrimPost(old, []table.GlyphID{0}), "names by number go")
	assert.Equal(t, []byte{1, 2}, table.TrimPost([]byte{1, 2}, nil), "what is no table stays")
}

func TestAxesComeBack(t *testing.T) {
	f := &table.Fvar{
		Axes: []table.Axis{
			{Tag: sfnt.MakeTag("wght"), Min: table.MakeFixed(100), Default: table.MakeFixed(400), Max: table.MakeFixed(900), Name: 256},
			{Tag: sfnt.MakeTag("SOFT"), Min: table.MakeFixed(-1), Default: 0, Max: 0x8000, Name: 257, Hidden: true},
		},
		Instances: []table.Instance{
			{Name: 258, PostScript: 0xFFFF, Coordinates: []table.Fixed{table.MakeFixed(400), 0}},
			{Name: 259, PostScript: 300, Coordinates: []table.Fixed{table.MakeFixed(700), 0x8000}},
		},
	}
	b := f.Encode()
	got, err := table.ParseFvar(b)
	require.NoError(t, err)
	assert.Equal(t, f, got)
	assert.InDelta(t, 0.5, got.Axes[1].Max.Float(), 0)
	cutOff(t, b, 16+2*20, table.ParseFvar)
	cut, err := table.ParseFvar(b[:len(b)-3])
	require.NoError(t, err)
	assert.Len(t, cut.Instances, 1, "an instance that is not whole is left out")

	f.Instances[1].PostScript = 0xFFFF
	plain := f.Encode()
	assert.Len(t, plain, len(b)-4, "no names, no room for them")
	got, err = table.ParseFvar(plain)
	require.NoError(t, err)
	assert.Equal(t, f, got)

	many := append([]byte(nil), b...)
	many[8], many[9] = 0xFF, 0xFF
	_, err = table.ParseFvar(many)
	require.ErrorIs(t, err, table.ErrShort, "more axes than any font has")
	thin := append([]byte(nil), b...)
	thin[14], thin[15] = 0, 4
	got, err = table.ParseFvar(thin)
	require.NoError(t, err)
	assert.Empty(t, got.Instances, "instances without room for their places")
}

func TestStylesComeBack(t *testing.T) {
	s := &table.Stat{
		Axes: []table.StyleAxis{{Tag: sfnt.MakeTag("wght"), Name: 256, Ordering: 1}, {Tag: sfnt.MakeTag("ital"), Name: 257, Ordering: 0}},
		Values: []table.StyleValue{
			{Axis: 0, Name: 258, Value: table.MakeFixed(400), Min: table.MakeFixed(400), Max: table.MakeFixed(400), Linked: table.MakeFixed(700), HasLinked: true, Elidable: true},
			{Axis: 1, Name: 259, Value: table.MakeFixed(1), Min: table.MakeFixed(1), Max: table.MakeFixed(1)},
		},
	}
	b := s.Encode(2)
	got, err := table.ParseStat(b)
	require.NoError(t, err)
	assert.Equal(t, s, got)
	cutOff(t, b, 20+2*8, table.ParseStat)
	cut, err := table.ParseStat(b[:len(b)-1])
	require.NoError(t, err)
	assert.Len(t, cut.Values, 1, "a value that is not whole is left out")

	ranged := append([]byte(nil), b...)
	at := len(b) - 12 // the second value, made a range
	ranged[at+1] = 2
	ranged = append(ranged, 0, 0, 0x80, 0, 0, 2, 0, 0)
	got, err = table.ParseStat(ranged)
	require.NoError(t, err)
	assert.Equal(t, []table.Fixed{0x8000, table.MakeFixed(2)}, []table.Fixed{got.Values[1].Min, got.Values[1].Max})
	ranged[at+1] = 4
	got, err = table.ParseStat(ranged)
	require.NoError(t, err)
	assert.Len(t, got.Values, 1, "values on several axes are left out")
	many := append([]byte(nil), b...)
	many[6] = 0xFF
	_, err = table.ParseStat(many)
	assert.ErrorIs(t, err, table.ErrShort)
}

// TestBentScales reads an avar with a straight axis and a bent one.
func TestBentScales(t *testing.T) {
	b := []byte{0, 1, 0, 0, 0, 0, 0, 2, 0, 2, 0xC0, 0, 0xC0, 0, 0x40, 0, 0x40, 0, 0, 2, 0x20, 0, 0x30, 0, 0x40, 0, 0x40, 0}
	bent, err := table.ParseAvar(b)
	require.NoError(t, err)
	assert.Equal(t, []bool{false, true}, bent)
	cutOff(t, b, len(b), table.ParseAvar)
}

func TestSelectorsComeBack(t *testing.T) {
	c := &table.Cmap{
		Pairs: []table.Mapping{{Rune: 0x2603, Glyph: 4}, {Rune: 0x8FBA, Glyph: 5}},
		Selectors: []table.Selector{
			{Selector: 0xFE0F, Default: []table.Run{{First: 0x2603, Count: 1}}},
			{Selector: 0xE0100, Default: []table.Run{{First: 0x8FBA, Count: 2}}, Special: []table.Mapping{{Rune: 0x8FBB, Glyph: 77}}},
		},
	}
	b := c.Encode()
	assert.Equal(t, c.Selectors, table.ParseSelectors(b))
	runs, err := table.ParseCmap(b)
	require.NoError(t, err)
	assert.Equal(t, c.Pairs, expand(runs), "they are no characters of their own")
	for n := range len(b) {
		assert.LessOrEqual(t, len(table.ParseSelectors(b[:n])), 2)
	}
	assert.Empty(t, table.ParseSelectors((&table.Cmap{Pairs: c.Pairs}).Encode()))
}

// TestNamesInEveryEncoding writes records in the encodings of their platforms.
func TestNamesInEveryEncoding(t *testing.T) {
	n := &table.Name{Records: []table.NameRecord{
		{Platform: table.PlatformWindows, Encoding: 1, Language: 0x409, ID: table.NameFamily, Value: "Skerrów 𝔖"},
		{Platform: table.PlatformWindows, Encoding: 1, Language: 0x407, ID: table.NameFamily, Value: "Schärrow"},
		{Platform: table.PlatformWindows, Encoding: 2, Language: 0x411, ID: table.NameFamily, Value: "スケロー"},
		{Platform: table.PlatformWindows, Encoding: 4, Language: 0x404, ID: table.NameFamily, Value: "斯克"},
		{Platform: table.PlatformMacintosh, Encoding: 0, Language: 0, ID: table.NameFamily, Value: "Skerrów"},
		{Platform: table.PlatformMacintosh, Encoding: 7, Language: 32, ID: table.NameFamily, Value: "Скерроу"},
		{Platform: table.PlatformUnicode, Encoding: 3, Language: 0, ID: table.NameFamily, Value: "Skerrow U"},
		{Platform: table.PlatformMacintosh, Encoding: 0, Language: 0, ID: table.NameFull, Value: "Снег"},
	}}
	b := n.Encode()
	got, err := table.ParseName(b)
	require.NoError(t, err)
	require.Len(t, got.Records, len(n.Records))
	texts := map[string]bool{}
	for i, text := range got.Texts() {
		assert.Equal(t, text, got.Records[i].Text())
		assert.Positive(t, got.Records[i].Bytes())
		texts[text] = true
	}
	for _, r := range n.Records[:7] {
		assert.True(t, texts[r.Value], r.Value)
	}
	assert.True(t, texts["????"], "what an encoding lacks")
	assert.Equal(t, "Skerrów 𝔖", got.Best(table.NameFamily), "English first")
	assert.Equal(t, "????", got.Best(table.NameFull))
	assert.Empty(t, got.Best(table.NameLicense))
	last := -1
	for i := range got.Records {
		assert.GreaterOrEqual(t, int(got.Records[i].Platform), last, "in order")
		last = int(got.Records[i].Platform)
	}
	cutOff(t, b, 6, table.ParseName)
	cut, err := table.ParseName(b[:len(b)-1])
	require.NoError(t, err)
	assert.Positive(t, cut.Skipped)
}

// TestTheBestName takes away the records that are better, one by one.
func TestTheBestName(t *testing.T) {
	record := func(platform, language uint16, value string) table.NameRecord {
		return table.NameRecord{Platform: platform, Encoding: 1, Language: language, ID: table.NameFamily, Value: value}
	}
	all := []table.NameRecord{
		record(table.PlatformWindows, 0x409, "US"), record(table.PlatformWindows, 0x809, "UK"), record(table.PlatformUnicode, 0, "Unicode"),
		{Platform: table.PlatformMacintosh, ID: table.NameFamily, Value: "Macintosh"}, record(table.PlatformWindows, 0x407, "German"),
		{Platform: table.PlatformMacintosh, Language: 2, ID: table.NameFamily, Value: "Macintosh, German"},
	}
	for i := range all {
		assert.Equal(t, all[i].Value, (&table.Name{Records: all[i:]}).Best(table.NameFamily))
	}
}

// TestNamesThatOtherTablesUse finds the names of axes, instances, styles, features
// and palettes.
func TestNamesThatOtherTablesUse(t *testing.T) {
	f := &table.Fvar{Axes: []table.Axis{{Tag: sfnt.MakeTag("wght"), Name: 256}}, Instances: []table.Instance{{Name: 257, PostScript: 258, Coordinates: []table.Fixed{0}}}}
	// One axis, one value of it, and the name where nothing is said.
	stat := []byte{0, 1, 0, 2, 0, 8, 0, 1, 0, 0, 0, 20, 0, 1, 0, 0, 0, 28, 1, 5, 'w', 'g', 'h', 't', 1, 3, 0, 0, 0, 2, 0, 1, 0, 0, 0, 0, 1, 4, 0, 0, 0, 0}
	// Two features, a stylistic set and a character variant, with their parameters.
	gsub := []byte{0, 1, 0, 0, 0, 0, 0, 10, 0, 0}
	gsub = append(gsub, 0, 2, 's', 's', '0', '1', 0, 14, 'c', 'v', '0', '1', 0, 22, 0, 4, 0, 0, 0, 0, 1, 10, 0, 4, 0, 0, 0, 0, 1, 11, 1, 12, 0, 0, 0, 2, 1, 20)
	cpal := []byte{0, 1, 0, 2, 0, 1, 0, 2, 0, 0, 0, 30, 0, 0, 0, 0, 0, 0, 0, 0, 0, 26, 0, 0, 0, 28, 1, 30, 1, 31, 1, 32}
	tables := map[sfnt.Tag][]byte{table.TagFvar: f.Encode(), table.TagSTAT: stat, table.TagGSUB: gsub, sfnt.MakeTag("CPAL"): cpal}
	used, err := table.NamesUsed(func(tag sfnt.Tag) []byte { return tables[tag] })
	require.NoError(t, err)
	for name, id := range map[string]table.NameID{
		"axis": 256, "instance": 257, "PostScript": 258, "style axis": 0x103, "style value": 0x104, "where nothing is said": 0x105,
		"stylistic set": 0x10A, "variant": 0x10B, "its tip": 0x10C, "its first choice": 0x114, "its second": 0x115, "palette": 0x11E, "color": 0x11F, "other color": 0x120,
	} {
		assert.True(t, used[id], name)
	}
	none, err := table.NamesUsed(func(sfnt.Tag) []byte { return nil })
	require.NoError(t, err)
	assert.Empty(t, none)
	_, err = table.NamesUsed(func(tag sfnt.Tag) []byte { return map[sfnt.Tag][]byte{table.TagFvar: {0, 1}}[tag] })
	assert.ErrorIs(t, err, table.ErrShort)
}
