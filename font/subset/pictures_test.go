package subset_test

import (
	"bytes"
	"compress/gzip"
	"encoding/binary"
	"io"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// glyphCount is the number of glyphs of a face.
func glyphCount(f *sfnt.Font) int {
	return int(binary.BigEndian.Uint16(f.Table(sfnt.MakeTag("maxp"))[4:]))
}

func u32s(values ...int) []byte {
	var out []byte
	for _, v := range values {
		out = binary.BigEndian.AppendUint32(out, uint32(v))
	}
	return out
}

func joined(parts ...[]byte) []byte { return bytes.Join(parts, nil) }

// sbix writes one strike of pictures by glyph.
func sbix(glyphs int, pictures map[int]string) []byte {
	strike := u16s(64, 72)
	at := 4 + 4*(glyphs+1)
	var data []byte
	for g := range glyphs {
		strike = append(strike, u32s(at+len(data))...)
		data = append(data, pictures[g]...)
	}
	strike = append(strike, u32s(at+len(data))...)
	return joined(u16s(1, 1), u32s(1, 12), strike, data)
}

// TestPicturesStayWithTheirGlyphs keeps pictures of one size (`sbix`), and that of
// another glyph where a picture is said to be the same.
func TestPicturesStayWithTheirGlyphs(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	n := glyphCount(f)
	a, b, c := glyphOf(t, f, 'A'), glyphOf(t, f, 'B'), glyphOf(t, f, 'C')
	table := sbix(n, map[int]string{
		a: "\x00\x01\x00\x02dupe" + string(u16s(c)), b: "\x00\x00\x00\x00png the picture of B", c: "\x00\x00\x00\x00png the picture of C",
	})
	out, result := trimmed(t, with(f, map[string][]byte{"sbix": table}), subset.Options{Characters: coverage.OfText("A")})
	assert.Equal(t, 4, result.Glyphs, ".notdef, a space, A and the glyph whose picture it has")
	assert.Equal(t, sbix(4, map[int]string{2: "\x00\x01\x00\x02dupe" + string(u16s(3)), 3: "\x00\x00\x00\x00png the picture of C"}), out.Table(sfnt.MakeTag("sbix")))
	gone, _ := trimmed(t, with(f, map[string][]byte{"sbix": table}), subset.Options{Characters: coverage.OfText("D")})
	assert.Empty(t, gone.Table(sfnt.MakeTag("sbix")), "no picture is left")
	for cut := range 40 {
		short, _, err := subset.Face(with(f, map[string][]byte{"sbix": table[:cut]}), subset.Options{Characters: coverage.OfText("A")})
		require.NoError(t, err, "cut at %d", cut)
		assert.LessOrEqual(t, len(short.Table(sfnt.MakeTag("sbix"))), 40)
	}
}

// strike is one size of pictures; each run of glyphs has an index of its own.
func strike(runs ...[]byte) []byte {
	const headers = 8 + 48
	array := []byte{}
	var tables []byte
	for _, r := range runs { // the first and last glyph, then the index
		array = append(array, r[:4]...)
		array = append(array, u32s(8*len(runs)+len(tables))...)
		tables = append(tables, r[4:]...)
	}
	head := joined(u32s(headers, len(array)+len(tables), len(runs), 0), make([]byte, 24), u16s(0, 0), []byte{109, 109, 32, 1})
	return joined(u16s(3, 0), u32s(1), head, array, tables)
}

// picturesOf reads the pictures of a trimmed pair of tables, indexes of formats 1
// and 2, by glyph.
func picturesOf(t *testing.T, where, data []byte) map[int]string {
	t.Helper()
	out := map[int]string{}
	u16, u32 := binary.BigEndian.Uint16, binary.BigEndian.Uint32
	array := where[u32(where[8:]):]
	for i := range int(u32(where[16:])) {
		first, last := int(u16(array[8*i:])), int(u16(array[8*i+2:]))
		index := array[u32(array[8*i+4:]):]
		for g := first; g <= last; g++ {
			k := g - first
			var from, to int
			switch u16(index) {
			case 1:
				from, to = int(u32(index[8+4*k:])), int(u32(index[12+4*k:]))
			case 2:
				size := int(u32(index[8:]))
				from, to = size*k, size*(k+1)
			default:
				t.Fatalf("an index of format %d", u16(index))
			}
			base := int(u32(index[4:]))
			out[g] = string(data[base+from : base+to])
		}
	}
	return out
}

// TestPicturesOfEveryIndex keeps pictures that are found by indexes of every format
// (`CBLC` with `CBDT`).
func TestPicturesOfEveryIndex(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	a := glyphOf(t, f, 'A')
	require.Equal(t, a+9, glyphOf(t, f, 'J'), "letters follow one another")
	data := joined(u16s(3, 0), []byte("AAABBCCCCDDDDEEEEFFFGGGGHHHIIIJJJ"))
	metrics := []byte{10, 10, 0, 10, 12, 0, 0, 12}
	where := strike(
		joined(u16s(a, a+1), u16s(1, 17), u32s(4, 0, 3, 5)),                                    // AAA and BB
		joined(u16s(a+2, a+4), u16s(2, 19), u32s(9, 4), metrics),                               // CCCC, DDDD, EEEE
		joined(u16s(a+5, a+6), u16s(3, 17), u32s(21), u16s(0, 3, 7, 0)),                        // FFF and GGGG
		joined(u16s(a+7, a+8), u16s(4, 17), u32s(28, 2), u16s(a+7, 0, a+8, 3, 0, 6)),           // HHH and III
		joined(u16s(a+9, a+9), u16s(5, 19), u32s(34, 3), metrics, u32s(1), u16s(a+9), u16s(0))) // JJJ
	face := with(f, map[string][]byte{"CBLC": where, "CBDT": data})
	all, _ := trimmed(t, face, subset.Options{Characters: coverage.OfText("ABCDEFGHIJ")})
	assert.Equal(t, map[int]string{2: "AAA", 3: "BB", 4: "CCCC", 5: "DDDD", 6: "EEEE", 7: "FFF", 8: "GGGG", 9: "HHH", 10: "III", 11: "JJJ"},
		picturesOf(t, all.Table(sfnt.MakeTag("CBLC")), all.Table(sfnt.MakeTag("CBDT"))))
	some, _ := trimmed(t, face, subset.Options{Characters: coverage.OfText("BDEHJ")})
	assert.Equal(t, map[int]string{2: "BB", 3: "DDDD", 4: "EEEE", 5: "HHH", 6: "JJJ"},
		picturesOf(t, some.Table(sfnt.MakeTag("CBLC")), some.Table(sfnt.MakeTag("CBDT"))))
	again, _ := trimmed(t, some, subset.Options{Characters: coverage.OfText("BDEHJ")})
	assert.Equal(t, some.Table(sfnt.MakeTag("CBLC")), again.Table(sfnt.MakeTag("CBLC")), "trimmed again it is the same")
	none, _ := trimmed(t, face, subset.Options{Characters: coverage.OfText("Z")})
	assert.Empty(t, none.Table(sfnt.MakeTag("CBLC")))
	for cut := 8; cut < len(where); cut++ {
		_, _, err := subset.Face(with(f, map[string][]byte{"CBLC": where[:cut], "CBDT": data}), subset.Options{Characters: coverage.OfText("ABCDEFGHIJ")})
		if err != nil {
			assert.ErrorIs(t, err, sfnt.ErrDamaged, "cut at %d", cut)
		}
	}
	_, _, err := subset.Face(with(f, map[string][]byte{"CBLC": where, "CBDT": data[:20]}), subset.Options{Characters: coverage.OfText("ABCDEFGHIJ")})
	require.ErrorIs(t, err, sfnt.ErrDamaged)
}

// TestPackedDrawingsStayPacked trims drawings that came packed.
func TestPackedDrawingsStayPacked(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	a, b := glyphOf(t, f, 'A'), glyphOf(t, f, 'B')
	var packed bytes.Buffer
	w := gzip.NewWriter(&packed)
	_, err := io.WriteString(w, `<svg xmlns="http://www.w3.org/2000/svg"><g id="glyph`+itoa(a)+`"><path d="M0 0"/></g><g id="glyph`+itoa(b)+`"><path d="M1 1"/></g></svg>`)
	require.NoError(t, err)
	require.NoError(t, w.Close())
	svg := joined(u16s(0, 0, 10, 0, 0, 1, a, b, 0, 14), u32s(packed.Len()), packed.Bytes())
	out, _ := trimmed(t, with(f, map[string][]byte{"SVG ": svg}), subset.Options{Characters: coverage.OfText("A")})
	now := out.Table(sfnt.MakeTag("SVG "))
	r, err := gzip.NewReader(bytes.NewReader(now[24:]))
	require.NoError(t, err)
	text, err := io.ReadAll(r)
	require.NoError(t, err)
	assert.Contains(t, string(text), `id="glyph2"`)
	assert.NotContains(t, string(text), "M1 1")
	for _, bad := range [][]byte{packed.Bytes()[:packed.Len()-9], append([]byte{0x1F, 0x8B}, "nothing packed"...)} {
		_, _, err := subset.Face(with(f, map[string][]byte{"SVG ": joined(svg[:20], u32s(len(bad)), bad)}), subset.Options{Characters: coverage.OfText("A")})
		assert.ErrorIs(t, err, sfnt.ErrDamaged, "%q", bad)
	}
}

// TestVerticalOriginsStay keeps where glyphs start in vertical lines.
func TestVerticalOriginsStay(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.OTF)
	a, b, c := glyphOf(t, f, 'A'), glyphOf(t, f, 'B'), glyphOf(t, f, 'C')
	out, _ := trimmed(t, with(f, map[string][]byte{"VORG": u16s(1, 0, 880, 3, a, 900, b, 905, c, 910)}), subset.Options{Characters: coverage.OfText("AC")})
	assert.Equal(t, u16s(1, 0, 880, 2, 2, 900, 3, 910), out.Table(sfnt.MakeTag("VORG")))
}
