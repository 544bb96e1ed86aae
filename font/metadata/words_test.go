package metadata_test

import (
	"fmt"
	"testing"

	"sparecrate/font/fonttest"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// TestStyleWordsAsApproved reads faces whose names hold each word for a weight or a width.
func TestStyleWordsAsApproved(t *testing.T) {
	t.Parallel()
	var lines []string
	for _, style := range []string{
		"Thin", "Hairline", "ExtraLight", "Ultra Light", "SemiLight", "Light", "Regular", "Normal", "Book", "Medium", "Demi", "DemiBold", "Semi Bold", "Bold", "Extra-Bold", "UltraBold", "Black", "Heavy", "ExtraBlack", "UltraBlack",
		"Condensed", "Narrow", "Compressed Bold", "Extra Condensed", "Expanded", "Extended Light", "Italic", "Bold Italic", "Oblique", "Slanted", "Roman", "Display", "",
	} {
		f := face(t, map[sfnt.Tag][]byte{table.TagName: names(map[table.NameID]string{table.NameFamily: "Skerrow " + style, table.NameSubfamily: "Regular", table.NameFull: "Skerrow " + style}), table.TagOS2: nil})
		lines = append(lines, fmt.Sprintf("%q: %q, %q, %+v %v", style, f.Names.FamilyName(), f.Names.StyleName(), f.Style, codes(f)))
		f = face(t, map[sfnt.Tag][]byte{table.TagName: names(map[table.NameID]string{table.NameFamily: "Skerrow", table.NameTypographicSubfamily: style})})
		lines = append(lines, fmt.Sprintf("  typographic: %q, %q, %+v %v", f.Names.FamilyName(), f.Names.StyleName(), f.Style, codes(f)))
	}
	fonttest.Lines(t, "words", lines...)
}
