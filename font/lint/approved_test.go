package lint_test

import (
	"fmt"
	"slices"
	"testing"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/fonttest"
	"sparecrate/font/lint"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// found lists the findings of a file.
func found(b []byte) (string, error) {
	r, err := lint.Check(b)
	if err != nil {
		return "", err
	}
	out := fmt.Sprintln(r.Container, r.Faces, r.Errors())
	for _, f := range r.Findings {
		out += fmt.Sprintln(f.Severity, f.Face, f.Table, f.Code, f.Message)
	}
	return out, nil
}

// TestFindingsAsApproved checks small faces of every kind, whole and with each table and
// each container damaged.
func TestFindingsAsApproved(t *testing.T) {
	t.Parallel()
	small := func(f *sfnt.Font) *sfnt.Font {
		face, _, err := subset.Face(f, subset.Options{Characters: coverage.OfText("aÁ fi")})
		if err != nil {
			t.Fatal(err)
		}
		return face
	}
	made := func(f *sfnt.Font, as font.Container) []byte {
		b, err := font.Make(f, as)
		if err != nil {
			t.Fatal(err)
		}
		return b
	}
	b, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	if err != nil {
		t.Fatal(err)
	}
	truetype, postscript, variable := small(foundrytest.Face(t, foundry.Signage()[0], font.TTF)), small(foundrytest.Face(t, foundry.Display(), font.OTF)), small(foundrytest.Parsed(t, b))
	for name, f := range map[string]*sfnt.Font{"truetype": truetype, "postscript": postscript, "variable": variable} {
		as := font.TTF
		if name == "postscript" {
			as = font.OTF
		}
		fonttest.Approve(t, name, nil, fonttest.Tables(f, 80, func(f *sfnt.Font) (string, error) {
			b, err := font.Make(f, as)
			if err != nil {
				return "", err
			}
			return found(b)
		})...)
	}
	painted, _ := fonttest.Colors(nil)
	with := func(tag string, b []byte) fonttest.Case {
		return fonttest.Case{Name: tag, Bytes: b, Read: func(b []byte) (string, error) {
			f := &sfnt.Font{Flavor: truetype.Flavor, Tables: append(slices.Clone(truetype.Tables), sfnt.Table{Tag: sfnt.MakeTag(tag), Data: b})}
			written, err := font.Make(f, font.TTF)
			if err != nil {
				return "", err
			}
			return found(written)
		}}
	}
	palette := []byte{0, 0, 0, 2, 0, 1, 0, 2, 0, 0, 0, 14, 0, 0, 1, 2, 3, 4, 5, 6, 7, 8}
	fonttest.Approve(t, "colors", nil, with("COLR", painted), with("CPAL", palette), with("COLR", []byte{0, 0, 0, 2, 0, 0, 0, 14, 0, 0, 0, 26, 0, 2, 0, 1, 0, 0, 0, 1, 0, 2, 0, 1, 0, 1, 0, 3, 0, 0, 0, 3, 0, 1}))
	var cases []fonttest.Case
	for _, as := range []font.Container{font.TTF, font.WOFF, font.WOFF2, font.EOT} {
		b := made(truetype, as)
		cases = append(cases, fonttest.Case{Name: string(as), Bytes: b[:min(len(b), 300)], Read: func(head []byte) (string, error) {
			return found(append(head[:len(head):len(head)], b[min(len(b), len(head)):]...))
		}})
	}
	fonttest.Approve(t, "containers", nil, cases...)
}
