package font_test

import (
	"bytes"
	"fmt"
	"slices"
	"testing"

	"sparecrate/font"
	"sparecrate/font/fonttest"
	"sparecrate/internal/demo/foundry"
)

// TestWhatIsNoFontAsApproved opens files of other kinds, whole and damaged: each is told
// by what it is.
func TestWhatIsNoFontAsApproved(t *testing.T) {
	t.Parallel()
	var lines []string
	open := func(name string, b []byte) {
		f, err := font.Open(b)
		if err != nil {
			lines = append(lines, fmt.Sprintf("%s: %v", name, err))
			return
		}
		lines = append(lines, fmt.Sprintf("%s: %s with %d faces", name, f.Container, len(f.Faces)))
	}
	fon := make([]byte, 200)
	copy(fon, "MZ")
	copy(fon[120:], "FONTRES 100,96,96 : Example")
	fnt := make([]byte, 130)
	copy(fnt, []byte{0, 3, 130, 0, 0, 0})
	fork := append([]byte{0, 0, 0, 16, 0, 0, 0, 20, 0, 0, 0, 4, 0, 0, 0, 8}, make([]byte, 12)...)
	for name, b := range map[string][]byte{
		"nothing": nil, "a byte": {1}, "eleven bytes": make([]byte, 11), "zeros": make([]byte, 64),
		"a page": []byte("  <!DOCTYPE html><html></html>"), "a page behind a comment": []byte("<!-- x --> <!-- y --><html>"), "a comment without an end": []byte("<!-- x"),
		"a drawing": []byte("<?xml version=\"1.0\"?><svg></svg>"), "an SVG font": []byte("<svg><defs><font id=\"a\"></font></defs></svg>"), "XML": []byte("<?xml version=\"1.0\"?><a/>"), "an error": []byte("<Error><Code>NoSuchKey</Code></Error>"),
		"text": []byte("Dear Ines,\nthe fonts are in the other folder."), "a stylesheet": []byte("@font-face { font-family: x }"), "JSON": []byte("{\"error\": true}  "),
		"a picture": []byte("\x89PNG\r\n\x1a\n0000000000"), "a photo": []byte("\xff\xd8\xff\xe0 00000000000"), "a zip": []byte("PK\x03\x04 0000000000000"), "a PDF": []byte("%PDF-1.7 0000000000"), "a rar": []byte("Rar!\x1a\x07\x00 0000000"),
		"seven z": []byte("7z\xbc\xaf\x27\x1c 00000000000"), "gzip": []byte("\x1f\x8b\x08 0000000000000"), "Type 1": []byte("%!PS-AdobeFont-1.0: Example 0000"), "Type 1, packed": []byte("\x80\x01\x00\x10\x00\x00%!PS-AdobeFont-1.0"),
		"bitmaps": fon, "a bitmap": fnt, "a fork": fork, "BDF": []byte("STARTFONT 2.1\nFONT x\n"), "metrics": []byte("StartFontMetrics 2.0\n0000"), "half a woff": []byte("wOFF0000000000000"), "half a woff2": []byte("wOF20000000000"), "true": []byte("true0000000000000"), "typ1": []byte("typ10000000000000"),
	} {
		open(name, b)
		for n := range len(b) {
			_, err := font.Open(b[:n])
			if err == nil {
				t.Errorf("%s cut at %d is taken for a font", name, n)
			}
		}
	}
	slices.Sort(lines)
	whole, err := foundry.Build(foundry.Signage()[0], font.TTF)
	if err != nil {
		t.Fatal(err)
	}
	for _, at := range []int{1, 4, 11, 12, 13, 100, 300} {
		open(fmt.Sprint("a font cut at ", at), whole[:at])
	}
	open("a font behind a byte", append([]byte{0}, whole...))
	open("a font twice", bytes.Repeat(whole, 2))
	fonttest.Lines(t, "nofonts", lines...)
}
