// Package foundrytest gives tests the demo families as faces.
package foundrytest

import (
	"testing"

	"sparecrate/font"
	"sparecrate/font/sfnt"
	"sparecrate/internal/demo/foundry"
)

// Face draws a design and gives its tables.
func Face(t testing.TB, d *foundry.Design, as font.Container) *sfnt.Font {
	t.Helper()
	b, err := foundry.Build(d, as)
	if err != nil {
		t.Fatal(err)
	}
	return Parsed(t, b)
}

// Parsed returns the tables of a font file of one face.
func Parsed(t testing.TB, b []byte) *sfnt.Font {
	t.Helper()
	fonts, err := sfnt.Parse(b)
	if err != nil {
		t.Fatal(err)
	}
	return fonts[0]
}
