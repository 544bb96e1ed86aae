package demo

import (
	"archive/zip"
	"bytes"
	"context"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/rename"
	"sparecrate/internal/demo/foundry"
)

// import leaves what the planetarium sent for somebody to look through: a zip
// with a style mate missing, the same bytes under two names, a page saved as a
// font, a document, and what nobody needs.
func (f *filler) imp(ctx context.Context) error {
	packed, err := Zip()
	if err != nil {
		return err
	}
	title, client, origin := "Orrery Hall brand fonts", Orrery, api.OriginClient
	d, err := f.c.Imports.StartImport(ctx, f.p, api.NewImport{Title: &title, Client: &client, Origin: &origin})
	if err != nil {
		return err
	}
	_, err = f.c.Imports.AddImportItem(ctx, f.p, d.Id, "orrery-hall-fonts.zip", bytes.NewReader(packed))
	return err
}

// Zip packs that import.
func Zip() ([]byte, error) {
	regular, err := under("Zenithar Sans", foundry.Signage()[1])
	if err != nil {
		return nil, err
	}
	light, err := under("Zenithar Sans", foundry.Signage()[0])
	if err != nil {
		return nil, err
	}
	display, err := foundry.Build(foundry.Display(), font.WOFF2)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, one := range []struct {
		name string
		data []byte
	}{
		{"Orrery Hall/Zenithar/ZenitharSans-Light.woff", light},
		{"Orrery Hall/Zenithar/ZenitharSans-Regular.woff", regular},
		{"Orrery Hall/Zenithar/text font (copy).woff", regular},
		{"Orrery Hall/Zenithar/license.txt", []byte("Zenithar Sans: permission to use it at the planetarium, by letter of 3 May.\n")},
		{"Orrery Hall/Umbrisk/umbrisk.woff2", display},
		{"Orrery Hall/Umbrisk/umbrisk-bold.woff2", []byte("<!doctype html><title>Sign in to download</title>")},
		{"Orrery Hall/Umbrisk/demo.html", []byte("<!doctype html><title>Umbrisk Display</title>")},
		{"Orrery Hall/Umbrisk/stylesheet.css", []byte("@font-face { font-family: umbrisk }")},
		{"__MACOSX/Orrery Hall/._Umbrisk", []byte{0, 5, 22, 7}},
	} {
		w, err := z.Create(one.name)
		if err != nil {
			return nil, err
		}
		if _, err := w.Write(one.data); err != nil {
			return nil, err
		}
	}
	err = z.Close()
	return out.Bytes(), err
}

// under draws a design as a WOFF file of another family.
func under(family string, d *foundry.Design) ([]byte, error) {
	b, err := foundry.Build(d, font.TTF)
	if err != nil {
		return nil, err
	}
	opened, err := font.Open(b)
	if err != nil {
		return nil, err
	}
	face, _, err := rename.Face(opened.Faces[0], rename.Options{Family: family})
	if err != nil {
		return nil, err
	}
	return font.Make(face, font.WOFF)
}
