package rename

import (
	"fmt"
	"testing"

	"sparecrate/font/fonttest"
)

// TestStyleWords holds what styles are linked to in a family of four, and what is left of their
// names, against what was approved.
func TestStyleWords(t *testing.T) {
	var lines []string
	for _, style := range []string{"", "Regular", "Bold", "Italic", "Oblique", "Bold Italic", "Italic Bold", "Bold Oblique", "bold", "ITALIC", "Light", "Light Italic", "Light Bold", "Light Bold Italic", "Semi Bold", "SemiBold Italic",
		"Condensed Bold", "Condensed Oblique", "Regular Italic", "Regular Bold", "Black", "Bolder", "Boldest Italic", "Book Oblique", "Extra Bold", "Thin Regular"} {
		link := linked(style)
		lines = append(lines, fmt.Sprintf("%q links to %q, apart %q, without regular %q, PostScript %q", style, link, apart(style, link), withoutRegular("Quay "+style), PostScript("Quay "+style)))
	}
	fonttest.Lines(t, "styles", lines...)
}
