package subset_test

import (
	"fmt"
	"testing"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/fonttest"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// trims trims a face to fewer characters, and describes what is left.
func trims(f *sfnt.Font) (string, error) {
	var out string
	has, err := subset.Has(f)
	out += fmt.Sprintln(subset.Listed(has), err != nil)
	missing, err := subset.Missing(f, coverage.OfText("aé€ж"))
	out += fmt.Sprintln(subset.Listed(missing), err != nil)
	refused := 0
	for _, o := range []subset.Options{
		{Characters: coverage.OfText("fi"), Features: subset.Basic},
		{Characters: coverage.OfText("Áa☃\U0001F600"), Features: []string{"test"}},
		{Characters: coverage.Characters{{First: ' ', Count: 0x250}}},
	} {
		face, result, err := subset.Face(f, o)
		if err != nil {
			refused++
			continue
		}
		out += fmt.Sprintf("%s %+v\n", fonttest.Written(face), *result)
	}
	if refused == 3 {
		return "", subset.ErrNothing
	}
	return out + fmt.Sprint(refused), nil
}

// few is a face with so few characters that all of it can be damaged.
func few(t *testing.T, f *sfnt.Font) *sfnt.Font {
	t.Helper()
	face, _ := trimmed(t, f, subset.Options{Characters: coverage.OfText("fiaÁé ☃")})
	return face
}

// TestFacesAsApproved trims faces with outlines of every kind, whole and with each table
// damaged.
func TestFacesAsApproved(t *testing.T) {
	t.Parallel()
	for name, f := range map[string]*sfnt.Font{
		"truetype":   foundrytest.Face(t, foundry.Signage()[0], font.TTF),
		"postscript": foundrytest.Face(t, foundry.Display(), font.OTF),
	} {
		fonttest.Approve(t, name, nil, fonttest.Tables(few(t, f), 14, trims)...)
	}
	for name, as := range map[string]font.Container{"variable": font.TTF, "variable postscript": font.OTF} {
		b, err := foundry.BuildVariable(foundry.Signage(), as)
		if err != nil {
			t.Fatal(err)
		}
		fonttest.Approve(t, name, nil, fonttest.Tables(few(t, foundrytest.Parsed(t, b)), 6, trims)...)
	}
}

// TestColorsAndPicturesAsApproved does the same with what glyphs may have beside their
// outlines.
func TestColorsAndPicturesAsApproved(t *testing.T) {
	t.Parallel()
	f := few(t, foundrytest.Face(t, foundry.Signage()[0], font.TTF))
	a, i := glyphOf(t, f, 'a'), glyphOf(t, f, 'i')
	paints := joined(u16s(1, 0), u32s(0, 0), u16s(0), u32s(34, 0, 0, 0, 0),
		u32s(1), u16s(a), u32s(10), []byte{10, 0, 0, 6}, u16s(i), []byte{2}, u16s(3, 0x4000))
	layers := joined(u16s(0, 1), u32s(14, 20), u16s(2), u16s(a, 0, 2), u16s(i, 0, a, 1))
	// Every kind of paint, for faces with enough glyphs.
	more, _ := trimmed(t, foundrytest.Face(t, foundry.Signage()[0], font.TTF), subset.Options{Characters: coverage.OfText("fiaÁé bcdeghjklm")})
	painted, _ := fonttest.Colors(nil)
	still := append([]byte{}, painted...)
	fonttest.Approve(t, "paints", nil, within(more, "COLR", still))
	fonttest.Approve(t, "colors", nil,
		within(f, "COLR", paints), within(f, "COLR", layers), within(f, "sbix", sbix(glyphCount(f), map[int]string{a: "one", i: "two"})),
		within(f, "VORG", u16s(1, 0, 880, 2, min(a, i), 900, max(a, i), 870)),
		within(f, "kern", u16s(0, 1, 0, 20, 1, 1, 6, 0, 0, a, i, 0xFFD0)))
}

// within is a case of a face with one table more.
func within(f *sfnt.Font, tag string, b []byte) fonttest.Case {
	return fonttest.Case{Name: tag, Bytes: b, Read: func(b []byte) (string, error) {
		return trims(with(f, map[string][]byte{tag: b}))
	}}
}
