package fallback

import (
	"fmt"
	"maps"
	"slices"
	"testing"

	"sparecrate/font/fonttest"
)

// TestTables holds the measures of system fonts and the counts of letters, as they are read,
// against what was approved.
func TestTables(t *testing.T) {
	var lines []string
	for _, name := range slices.Sorted(maps.Keys(systems())) {
		m := systems()[name]
		lines = append(lines, fmt.Sprintf("%s %q %v %v %v %s", name, m.Name, m.Ascent, m.Descent, m.LineGap, sorted(m.advances)))
	}
	for _, language := range Languages() {
		sum := 0.0
		for _, n := range letters()[language] {
			sum += n
		}
		lines = append(lines, fmt.Sprintf("%s %.9f %s", language, sum, sorted(letters()[language])))
	}
	fonttest.Lines(t, "tables", lines...)
}

// sorted writes numbers of letters in their order, as a digest.
func sorted(of map[rune]float64) string {
	var all []any
	for _, r := range slices.Sorted(maps.Keys(of)) {
		all = append(all, fmt.Sprintf("%c %.9f", r, of[r]))
	}
	return fonttest.Digest(all...)
}
