package font

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"unicode/utf8"
)

// openings are what files that are no font open with, and what they are.
var openings = []struct {
	bytes string
	is    string
}{
	{"PK\x03\x04", "this is a zip archive, not a font; unpack it and add the font files inside"},
	{"PK\x05\x06", "this is an empty zip archive; fetch it again from where it came from"},
	{"\x1F\x8B", "this is packed by gzip, not a font; unpack it and add the font file inside"},
	{"7z\xBC\xAF\x27\x1C", "this is a 7z archive, not a font; unpack it and add the font files inside"},
	{"Rar!", "this is a RAR archive, not a font; unpack it and add the font files inside"},
	{"\xFD7zXZ", "this is packed by xz, not a font; unpack it and add the font file inside"},
	{"version https://git-lfs", "this is a pointer that version control keeps in place of the font; fetch the real file first"},
	{"%!PS-AdobeFont", typeOne}, {"%!FontType1", typeOne}, {"\x80\x01", typeOne}, {"typ1", typeOne},
	{"%!PS", "this is a PostScript program, not a font; ask the foundry for an OTF"},
	{"StartFontMetrics", "this file holds only the metrics of a Type 1 font, without its letters; ask the foundry for an OTF"},
	{"%PDF", "this is a PDF document, not a font; add it to a license as evidence instead"},
	{"STARTFONT", bitmaps}, {"\x01fcp", bitmaps}, {"\x72\xB5\x4A\x86", bitmaps}, {"\x36\x04", bitmaps},
	{"\x00\x05\x16\x07", suitcase}, {"\x00\x05\x16\x00", suitcase}, {"(This file must be converted with BinHex", suitcase},
	{"\x89PNG", picture}, {"\xFF\xD8\xFF", picture}, {"GIF8", picture},
	{"SplineFontDB:", "this is a font editor's own working file; export a TTF or OTF from it"},
	{"{", "this is a JSON document, not a font, most likely an error message; download the font file itself"},
	{"[", "this is a JSON document, not a font; download the font file itself"},
}

const (
	typeOne  = "this is a Type 1 font, an old format that no browser reads; ask the foundry for an OTF"
	bitmaps  = "this is a font of bitmaps for fixed sizes, which no browser draws; ask the foundry for one with outlines"
	suitcase = "this is a suitcase of the old Macintosh, which keeps fonts where other systems do not look; ask the foundry for an OTF or TTF"
	picture  = "this is a picture, not a font; download the font file itself"
)

// whatElse names what the bytes are, since they are no font that is read.
func whatElse(b []byte) string {
	start := bytes.TrimLeft(bytes.TrimPrefix(b[:min(len(b), 1<<14)], []byte("\xEF\xBB\xBF")), " \t\r\n")
	if len(b) == 0 {
		return "this file is empty; fetch it again from where it came from"
	}
	if s := markup(start); s != "" {
		return s
	}
	for _, o := range openings {
		if bytes.HasPrefix(start, []byte(o.bytes)) || bytes.HasPrefix(b, []byte(o.bytes)) {
			return o.is
		}
	}
	switch {
	case len(bytes.Trim(b[:min(len(b), 4096)], "\x00")) == 0:
		return "this file holds only zeros, as an interrupted download leaves it; fetch it again"
	case isResourceFork(b):
		return suitcase
	case isWindowsBitmaps(b):
		return bitmaps
	case len(b) < 12:
		return fmt.Sprintf("this file has only %s, too few for a font; fetch it again from where it came from", bytesOf(len(b)))
	case looksLikeText(start):
		return "this is a text file, not a font; download the font file itself"
	}
	return fmt.Sprintf("this is not a font file: it opens with the bytes % x, which no font format does", b[:4])
}

func bytesOf(n int) string {
	if n == 1 {
		return "1 byte"
	}
	return fmt.Sprintf("%d bytes", n)
}

// markup names web pages and XML, empty for anything else.
func markup(start []byte) string {
	lower := bytes.ToLower(start)
	has := func(prefix string) bool { return bytes.HasPrefix(lower, []byte(prefix)) }
	for has("<!--") { // comments may stand before anything
		_, rest, ok := bytes.Cut(lower, []byte("-->"))
		if lower = bytes.TrimLeft(rest, " \t\r\n"); !ok {
			return "this is a web page or an XML document, not a font; download the font file itself"
		}
	}
	switch {
	case has("<!doctype html"), has("<html"), has("<head"), has("<body"), has("<title"), has("<script"):
		return "this is a web page saved as a font, most likely an error or sign-in page; download the font file itself"
	case (has("<?xml") || has("<svg") || has("<!doctype svg")) && bytes.Contains(lower, []byte("<svg")):
		if bytes.Contains(lower, []byte("<font")) {
			return "this is an SVG font, which only the first phones drew and which keeps little of a font; add the TTF, OTF or WOFF of the same face"
		}
		return "this is a drawing in SVG, not a font; download the font file itself"
	case has("<?xml"), has("<error"):
		return "this is an XML document, not a font, most likely an error message; download the font file itself"
	}
	return ""
}

// isResourceFork checks the four numbers a fork opens with (Inside Macintosh,
// "Resource File Format"): data, then the map, up to the end.
func isResourceFork(b []byte) bool {
	if len(b) < 16 {
		return false
	}
	n := func(i int) int { return int(binary.BigEndian.Uint32(b[4*i:])) }
	return n(0) >= 16 && n(1) == n(0)+n(2) && n(1)+n(3) == len(b)
}

// isWindowsBitmaps checks for a program file without a program, as .fon files
// are, and for the bare resource in it.
func isWindowsBitmaps(b []byte) bool {
	if len(b) < 118 {
		return false
	}
	if version := binary.LittleEndian.Uint16(b); version == 0x0200 || version == 0x0300 {
		return int(binary.LittleEndian.Uint32(b[2:])) == len(b)
	}
	return b[0] == 'M' && b[1] == 'Z' && bytes.Contains(b[:min(len(b), 4096)], []byte("FONTRES"))
}

func looksLikeText(b []byte) bool {
	for len(b) > 0 {
		r, n := utf8.DecodeRune(b)
		if r == utf8.RuneError && n == 1 && len(b) >= utf8.UTFMax || r < ' ' && r != '\n' && r != '\r' && r != '\t' {
			return false
		}
		b = b[n:]
	}
	return true
}
