package totruetype_test

import (
	"testing"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/fonttest"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/font/totruetype"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// TestFacesAsApproved draws a PostScript face in quadratics, whole and with each table
// damaged.
func TestFacesAsApproved(t *testing.T) {
	t.Parallel()
	face, _, err := subset.Face(foundrytest.Face(t, foundry.Display(), font.OTF), subset.Options{Characters: coverage.OfText("aÁ fi&8")})
	if err != nil {
		t.Fatal(err)
	}
	face.Tables = append(face.Tables, sfnt.Table{Tag: sfnt.MakeTag("VORG"), Data: []byte{0, 1, 0, 0, 3, 112, 0, 2, 0, 1, 3, 132, 0, 2, 3, 102}})
	fonttest.Approve(t, "faces", nil, fonttest.Tables(face, 20, func(f *sfnt.Font) (string, error) {
		out, err := totruetype.Face(f)
		if err != nil {
			return "", err
		}
		finer, err := totruetype.Finer(f, 2)
		if err != nil {
			return fonttest.Written(out), nil //nolint:nilerr // as far as it goes
		}
		return fonttest.Written(out) + fonttest.Written(finer), nil
	})...)
}
