package metadata_test

import (
	"encoding/json"
	"testing"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/fonttest"
	"sparecrate/font/metadata"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// TestMetadataAsApproved reads small faces of every kind, whole and with each table damaged.
func TestMetadataAsApproved(t *testing.T) {
	t.Parallel()
	b, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	if err != nil {
		t.Fatal(err)
	}
	read := func(f *sfnt.Font) (string, error) {
		out, err := json.Marshal(metadata.One(f))
		return string(out), err
	}
	for name, f := range map[string]*sfnt.Font{
		"truetype":   foundrytest.Face(t, foundry.Signage()[0], font.TTF),
		"postscript": foundrytest.Face(t, foundry.Display(), font.OTF),
		"variable":   foundrytest.Parsed(t, b),
	} {
		face, _, err := subset.Face(f, subset.Options{Characters: coverage.OfText("aÁ fi")})
		if err != nil {
			t.Fatal(err)
		}
		fonttest.Approve(t, name, nil, fonttest.Tables(face, 100, read)...)
		written := sfnt.Write(face)
		fonttest.Approve(t, name+" file", nil, fonttest.Case{Name: name, Bytes: written[:12+16*len(face.Tables)], Read: func(head []byte) (string, error) {
			faces, err := metadata.Read(append(head[:len(head):len(head)], written[len(head):]...))
			if err != nil {
				return "", err
			}
			out, err := json.Marshal(faces)
			return string(out), err
		}})
	}
}
