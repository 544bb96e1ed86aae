package metadata

import (
	"fmt"
	"testing"

	"sparecrate/font/fonttest"
)

// TestNamesAndStyles holds what is read of names against what was approved: where a family's
// name ends and its style begins, weights and widths.
func TestNamesAndStyles(t *testing.T) {
	var lines []string
	for _, name := range []string{"Quay", "Quay Bold", "Quay-Bold", "Quay Semi Bold", "Quay SemiBold Italic", "Quay Extra Light", "Quay Ultra", "Quay Ultra Bold", "Quay Demi", "Bold", "Italic", "Bold Italic", "Light Quay", "Quay Light House", "Quay Text",
		"Quay Text Light", "Quay Condensed", "Quay Extra Condensed", "Quay Semi Condensed Bold Oblique", "Quay Narrow", "Quay Wide Black", "Quay Book", "Quay Medium", "Quay Roman", "Quay Regular", "Quay Hairline", "Quay Thin Italic", "-Bold", "Quay ", "Quay  Bold", "Quay W700", "Quay Expanded", "Quay Ultra Expanded"} {
		base, words := splitStyleWords(name)
		weight, ok := WeightOf(name)
		lines = append(lines, fmt.Sprintf("%q: %q %q, weight %d %v, width %g", name, base, words, weight, ok, widthOf(name)))
	}
	fonttest.Lines(t, "styles", lines...)
}
