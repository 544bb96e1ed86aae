package coverage_test

import (
	"fmt"
	"testing"

	"sparecrate/font/coverage"
	"sparecrate/font/fonttest"
	"sparecrate/font/table"
)

// TestAlphabetsAsApproved asks what blocks of characters write, whole and with holes.
func TestAlphabetsAsApproved(t *testing.T) {
	t.Parallel()
	var lines []string
	blocks := []table.Run{{First: ' ', Count: 95}, {First: 0xA0, Count: 96}, {First: 0x100, Count: 128}, {First: 0x180, Count: 208}, {First: 0x370, Count: 144}, {First: 0x400, Count: 256},
		{First: 0x531, Count: 90}, {First: 0x590, Count: 112}, {First: 0x600, Count: 256}, {First: 0x900, Count: 128}, {First: 0xE00, Count: 128}, {First: 0x1E00, Count: 256}, {First: 0x2000, Count: 0x300}, {First: 0x3040, Count: 192}, {First: 0x4E00, Count: 21000}}
	for i := range blocks {
		for _, runs := range [][]table.Run{{blocks[i]}, blocks[:i+1], {blocks[0], {First: blocks[i].First + 3, Count: blocks[i].Count - 5}}, {blocks[0], {First: blocks[i].First, Count: blocks[i].Count / 2}}} {
			complete, nearly := coverage.Languages(runs)
			lines = append(lines, fmt.Sprint(complete), fmt.Sprintf("  %+v", nearly), fmt.Sprintf("  %+v", coverage.Scripts(runs)), "  "+fonttest.Digest(coverage.Of(runs)))
		}
	}
	for _, word := range []string{"latin", "latin-ext", "greek", "cyrillic", "vietnamese", "german", "nothing", "Polish", "de", "pl"} {
		c, err := coverage.Named(word)
		lines = append(lines, fmt.Sprintf("%s: %v %v", word, c, err))
	}
	for _, text := range []string{"U+41", "U+0041-005A, U+4??", "u+1F600-1F64F", "U+5A-41", "41", "U+110000", "U+", "U+????", "U+41-"} {
		c, err := coverage.ParseRange(text)
		lines = append(lines, fmt.Sprintf("%s: %v %v", text, c, err))
	}
	a, b := coverage.OfText("Ünvåning 16:35"), coverage.OfText("abcnv\u0308")
	lines = append(lines, fmt.Sprint(a, b, a.Has('n'), a.Has('q'), a.And(b), a.Plus(b), a.Without(b), b.Without(a), a.Len()))
	fonttest.Lines(t, "alphabets", lines...)
}
