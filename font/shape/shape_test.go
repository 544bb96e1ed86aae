package shape_test

import (
	"encoding/binary"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/layout"
	"sparecrate/font/sfnt"
	"sparecrate/font/shape"
	"sparecrate/font/table"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

var tagKern = sfnt.MakeTag("kern")

// with returns a font with a table put in place of what it has, or taken out where
// there are no bytes.
func with(f *sfnt.Font, tag sfnt.Tag, b []byte) *sfnt.Font {
	out := &sfnt.Font{Flavor: f.Flavor}
	for _, t := range f.Tables {
		if t.Tag != tag {
			out.Tables = append(out.Tables, t)
		}
	}
	if b != nil {
		out.Tables = append(out.Tables, sfnt.Table{Tag: tag, Data: b})
	}
	return out
}

func opened(t *testing.T, f *sfnt.Font) *shape.Face {
	t.Helper()
	a, err := shape.Open(f)
	require.NoError(t, err)
	return a
}

// wide opens a font that is installed with letters of many scripts.
func wide(t *testing.T) *shape.Face {
	t.Helper()
	b, err := os.ReadFile("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf")
	require.NoError(t, err)
	return opened(t, foundrytest.Parsed(t, b))
}

// pairs writes an old kerning table with one pair (`kern`, version 0, format 0).
func pairs(left, right table.GlyphID, by int16) []byte {
	b := []byte{0, 0, 0, 1, 0, 0, 0, 20, 0, 1, 0, 1, 0, 6, 0, 0, 0, 0}
	b = binary.BigEndian.AppendUint16(b, uint16(left))
	b = binary.BigEndian.AppendUint16(b, uint16(right))
	return binary.BigEndian.AppendUint16(b, uint16(by))
}

// ids returns the glyphs as they are seen, from the left.
func ids(l *shape.Line) []table.GlyphID {
	seen := slices.Clone(l.Glyphs)
	slices.SortStableFunc(seen, func(a, b shape.Glyph) int { return a.X - b.X })
	out := make([]table.GlyphID, len(seen))
	for i, g := range seen {
		out[i] = g.ID
	}
	return out
}

// TestTheOldKerningTable tells where readers take it: where the rules have no
// kerning for the text, and never beside PostScript outlines.
func TestTheOldKerningTable(t *testing.T) {
	trueType, postScript := foundrytest.Face(t, foundry.Signage()[1], font.TTF), foundrytest.Face(t, foundry.Signage()[1], font.OTF)
	bare := opened(t, with(trueType, table.TagGPOS, nil))
	h, o := bare.Glyph('H'), bare.Glyph('o')
	plain := bare.Set("Ho", shape.Options{}).Advance
	assert.Equal(t, bare.Advance(h)+bare.Advance(o), plain)
	kern := pairs(h, o, -300)

	kerned := opened(t, with(with(trueType, table.TagGPOS, nil), tagKern, kern))
	line := kerned.Set("Ho", shape.Options{})
	assert.Equal(t, plain-300, line.Advance)
	assert.Equal(t, kerned.Advance(h)-300, line.Glyphs[1].X)
	assert.Equal(t, plain, kerned.Set("Ho", shape.Options{Features: map[string]bool{"kern": false}}).Advance, "switched off")
	assert.Equal(t, plain, kerned.Set("oH", shape.Options{}).Advance, "the other way round is no pair")

	both := opened(t, with(trueType, tagKern, kern))
	assert.Equal(t, opened(t, trueType).Set("Ho", shape.Options{}).Advance, both.Set("Ho", shape.Options{}).Advance, "rules that kern go before")

	beside := opened(t, with(with(postScript, table.TagGPOS, nil), tagKern, kern))
	assert.Equal(t, plain, beside.Set("Ho", shape.Options{}).Advance, "PostScript outlines")

	for name, b := range map[string][]byte{"cut off": kern[:20], "empty": {0, 0}, "of another maker": append([]byte{0, 1}, kern[2:]...), "vertical": append(slices.Clone(kern[:9]), append([]byte{0}, kern[10:]...)...)} {
		assert.Equal(t, plain, opened(t, with(with(trueType, table.TagGPOS, nil), tagKern, b)).Set("Ho", shape.Options{}).Advance, name)
	}
}

func TestLettersWithMarksAreComposed(t *testing.T) {
	a := opened(t, foundrytest.Face(t, foundry.Signage()[1], font.TTF))
	assert.Equal(t, ids(a.Set("é", shape.Options{})), ids(a.Set("é", shape.Options{})))
	assert.Empty(t, a.Set("é", shape.Options{}).Missing)
	assert.Len(t, a.Set("a\u200bb\ufe0f\u00ad", shape.Options{}).Glyphs, 2, "what only steers the text is not set")
}

func TestWhatIsMissingIsListedOnce(t *testing.T) {
	a := opened(t, foundrytest.Face(t, foundry.Signage()[1], font.TTF))
	line := a.Set("a世b界世", shape.Options{})
	assert.Equal(t, []rune("世界"), line.Missing)
	assert.Len(t, line.Glyphs, 5)
	assert.Zero(t, line.Glyphs[1].ID)
	assert.Empty(t, a.Set("", shape.Options{}).Glyphs)
	assert.Len(t, a.Set(strings.Repeat("a", 5000), shape.Options{}).Glyphs, 4096, "a line has an end")
}

// TestFeaturesAreSwitched takes a ligature and small capitals.
func TestFeaturesAreSwitched(t *testing.T) {
	a := opened(t, foundrytest.Face(t, foundry.Signage()[1], font.TTF))
	joined, apart := a.Set("fi", shape.Options{}), a.Set("fi", shape.Options{Features: map[string]bool{"liga": false}})
	assert.Len(t, joined.Glyphs, 1)
	assert.Len(t, apart.Glyphs, 2)
	on, err := shape.Switches([]string{"smcp", " -liga"})
	require.NoError(t, err)
	assert.Equal(t, map[string]bool{"smcp": true, "liga": false}, on)
	for _, bad := range []string{"", "-", "lig", "-ligature"} {
		_, err := shape.Switches([]string{bad})
		require.ErrorIs(t, err, shape.ErrFeature)
		assert.Contains(t, err.Error(), "four letters")
	}
}

// TestArabicLettersJoin sets letters alone, joined, with a letter that joins on
// one side only, with a mark between, and with signs that ask to join or not.
func TestArabicLettersJoin(t *testing.T) {
	a := wide(t)
	alone := func(r rune) table.GlyphID { return a.Glyph(r) }
	beh, seen, alef := 'ب', 'س', 'ا'
	// The last letter stands at the left.
	line := ids(a.Set("سبس", shape.Options{}))
	require.Len(t, line, 3)
	final, medial, initial := line[0], line[1], line[2]
	for name, g := range map[string]table.GlyphID{"final": final, "medial": medial, "initial": initial} {
		assert.NotEqual(t, alone(seen), g, name)
		assert.NotEqual(t, alone(beh), g, name)
	}
	assert.NotEqual(t, final, initial)

	assert.Equal(t, []table.GlyphID{alone(seen)}, ids(a.Set("س", shape.Options{})))
	behind := ids(a.Set("اس", shape.Options{}))
	assert.Equal(t, []table.GlyphID{alone(seen), alone(alef)}, behind, "alef does not join what is behind it")
	marked := ids(a.Set("سَبس", shape.Options{}))
	require.Len(t, marked, 4)
	assert.Equal(t, []table.GlyphID{final, medial}, marked[:2], "a mark is looked past")
	assert.Contains(t, marked[2:], initial)
	assert.Equal(t, []table.GlyphID{initial}, ids(a.Set("س\u200d", shape.Options{})), "a sign that asks to join")
	assert.Equal(t, []table.GlyphID{alone(seen), alone(seen)}, ids(a.Set("س\u200cس", shape.Options{})), "and one that asks not to")
	off := map[string]bool{"init": false, "medi": false, "fina": false}
	assert.Equal(t, []table.GlyphID{alone(seen), alone(beh), alone(seen)}, ids(a.Set("سبس", shape.Options{Features: off})))
}

// TestLinesRunAsTheyAreRead mixes directions: the glyphs come from the left.
func TestLinesRunAsTheyAreRead(t *testing.T) {
	a := wide(t)
	glyphs := func(text string) []table.GlyphID {
		var out []table.GlyphID
		for _, r := range text {
			out = append(out, a.Glyph(r))
		}
		return out
	}
	off := shape.Options{Features: map[string]bool{"liga": false, "calt": false, "ccmp": false}}
	for text, seen := range map[string]string{
		"abc":     "abc",
		"שלום":    "םולש",
		"ab שלום": "ab םולש",
		"שלום ab": "ab םולש",
		"(של)":    "(לש)",
		"של 12":   "12 לש",
		"Иван Go": "Иван Go",
	} {
		line := a.Set(text, off)
		assert.Equal(t, glyphs(seen), ids(line), text)
		width := 0
		for _, g := range line.Glyphs {
			width += a.Advance(g.ID)
		}
		assert.InDelta(t, width, line.Advance, 300, "%s: but for kerning", text)
	}
}

// TestMarksStandOnTheirLetter puts a mark on a letter there is no composed one
// for, from either side.
func TestMarksStandOnTheirLetter(t *testing.T) {
	a := wide(t)
	line := a.Set("q\u0301x", shape.Options{})
	require.Len(t, line.Glyphs, 3)
	q := a.Advance(a.Glyph('q'))
	assert.Less(t, line.Glyphs[1].X, q, "over the letter, not behind it")
	assert.InDelta(t, q, line.Glyphs[2].X, 200, "and takes no room")
	hebrew := a.Set("שָל", shape.Options{})
	require.Len(t, hebrew.Glyphs, 3)
	assert.Equal(t, a.Advance(a.Glyph('ש'))+a.Advance(a.Glyph('ל')), hebrew.Advance)
}

// TestSymbolFonts answer to the characters that their codes stand for (OpenType
// 1.9.1, cmap, platform 3, encoding 0).
func TestSymbolFonts(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	// One segment from F041, as cmap format 4 has it.
	b := []byte{0, 0, 0, 1, 0, 3, 0, 0, 0, 0, 0, 12, 0, 4, 0, 32, 0, 0, 0, 4, 0, 4, 0, 1, 0, 0, 0xF0, 0x42, 0xFF, 0xFF, 0, 0, 0xF0, 0x41, 0xFF, 0xFF, 0x0F, 0xC4, 0, 1, 0, 0, 0, 0}
	a := opened(t, with(f, table.TagCmap, b))
	assert.Equal(t, table.GlyphID(5), a.Glyph('A'))
	assert.Equal(t, table.GlyphID(6), a.Glyph('B'))
	assert.Zero(t, a.Glyph('C'))
	assert.Equal(t, table.GlyphID(5), a.Glyph(0xF041))
}

func TestDamagedFontsAreRefused(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	head := slices.Clone(f.Table(table.TagHead))
	head[18], head[19] = 0, 0 // units in an em
	for name, bad := range map[string]*sfnt.Font{
		"no head":              with(f, table.TagHead, nil),
		"no units":             with(f, table.TagHead, head),
		"no hhea":              with(f, table.TagHhea, nil),
		"no maxp":              with(f, table.TagMaxp, nil),
		"characters cut off":   with(f, table.TagCmap, f.Table(table.TagCmap)[:3]),
		"no characters at all": with(f, table.TagCmap, []byte{}),
	} {
		_, err := shape.Open(bad)
		assert.ErrorIs(t, err, sfnt.ErrDamaged, name)
	}
	a := opened(t, with(with(with(f, table.TagGSUB, []byte{0, 9}), table.TagGPOS, []byte{0}), layout.TagGDEF, []byte{7}))
	assert.Len(t, a.Set("fi", shape.Options{}).Glyphs, 2, "rules that cannot be read are done without")
}
