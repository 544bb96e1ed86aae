package foundry

import (
	"os"
	"sparecrate/font"
	"testing"
)

func TestDump(t *testing.T) {
	os.MkdirAll("/tmp/w/fonts", 0o755)
	for _, d := range Signage() {
		b, err := Build(d, font.TTF)
		if err != nil {
			t.Fatal(err)
		}
		os.WriteFile("/tmp/w/fonts/"+d.PostScript+".ttf", b, 0o644)
		f, _ := font.Open(b)
		w, err := font.Make(f.Faces[0], font.WOFF2)
		if err != nil {
			t.Fatal(err)
		}
		os.WriteFile("/tmp/w/fonts/"+d.PostScript+".woff2", w, 0o644)
		w, _ = font.Make(f.Faces[0], font.WOFF)
		os.WriteFile("/tmp/w/fonts/"+d.PostScript+".woff", w, 0o644)
	}
	d := Display()
	b, err := Build(d, font.OTF)
	if err != nil {
		t.Fatal(err)
	}
	os.WriteFile("/tmp/w/fonts/"+d.PostScript+".otf", b, 0o644)
	f, _ := font.Open(b)
	w, _ := font.Make(f.Faces[0], font.WOFF2)
	os.WriteFile("/tmp/w/fonts/"+d.PostScript+".woff2", w, 0o644)
}
