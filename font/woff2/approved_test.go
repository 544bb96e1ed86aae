package woff2_test

import (
	"fmt"
	"testing"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/fonttest"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/font/woff"
	"sparecrate/font/woff2"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// TestFilesAsApproved packs and unpacks faces and a collection, whole and damaged; and
// faces whose outlines are damaged before they are packed.
func TestFilesAsApproved(t *testing.T) {
	t.Parallel()
	small := func(d *foundry.Design, as font.Container, text string) *sfnt.Font {
		face, _, err := subset.Face(foundrytest.Face(t, d, as), subset.Options{Characters: coverage.OfText(text)})
		if err != nil {
			t.Fatal(err)
		}
		return face
	}
	truetype := small(foundry.Signage()[0], font.TTF, "aÁé&@8 fi")
	read := func(b []byte) (string, error) {
		f, err := woff2.Decode(b)
		if err != nil {
			return "", err
		}
		out := fmt.Sprintf("%v %q %x", f.Collection, f.Metadata, f.Private)
		for _, face := range f.Fonts {
			out += " " + fonttest.Written(face)
		}
		return out, nil
	}
	one := encoded(t, &woff2.File{Fonts: []*sfnt.Font{truetype}, Blocks: woff.Blocks{Metadata: []byte("<metadata/>"), Private: []byte{1, 2}}})
	postscript := encoded(t, &woff2.File{Fonts: []*sfnt.Font{small(foundry.Display(), font.OTF, "ab")}})
	several := encoded(t, &woff2.File{Collection: true, Fonts: []*sfnt.Font{truetype, small(foundry.Signage()[1], font.TTF, "aÁé&@8 fi"), truetype}})
	fonttest.Approve(t, "files", read,
		fonttest.Case{Name: "a face with blocks", Bytes: one, Step: 9},
		fonttest.Case{Name: "PostScript outlines", Bytes: postscript, Step: 9},
		fonttest.Case{Name: "a collection", Bytes: several, Step: 12})
	fonttest.Approve(t, "packed", nil, fonttest.Tables(truetype, 5, func(f *sfnt.Font) (string, error) {
		b, err := woff2.Encode(&woff2.File{Fonts: []*sfnt.Font{f}})
		if err != nil {
			return "", err
		}
		back, err := woff2.Decode(b)
		if err != nil {
			return "not read back", nil //nolint:nilerr // said in the text
		}
		return fonttest.Written(back.Fonts[0]), nil
	})...)
}
