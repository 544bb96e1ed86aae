package unitscale_test

import (
	"testing"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/fonttest"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/font/unitscale"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// TestFacesAsApproved puts faces on a finer grid, whole and with each table damaged.
func TestFacesAsApproved(t *testing.T) {
	t.Parallel()
	finer := func(f *sfnt.Font) (string, error) {
		out, err := unitscale.Finer(f, 4)
		if err != nil {
			return "", err
		}
		return fonttest.Written(out), nil
	}
	faces := map[string]*sfnt.Font{"truetype": foundrytest.Face(t, foundry.Signage()[0], font.TTF), "postscript": foundrytest.Face(t, foundry.Display(), font.OTF)}
	for name, as := range map[string]font.Container{"variable": font.TTF, "variable postscript": font.OTF} {
		b, err := foundry.BuildVariable(foundry.Signage(), as)
		if err != nil {
			t.Fatal(err)
		}
		faces[name] = foundrytest.Parsed(t, b)
	}
	for name, f := range faces {
		face, _, err := subset.Face(f, subset.Options{Characters: coverage.OfText("aÁ fi")})
		if err != nil {
			t.Fatal(err)
		}
		face = with(face, "VORG", words16(1, 0, 880, 2, 1, 900, 2, 870))
		face = with(face, "BASE", words16(1, 0, 4, 0, 8, 0, 0, 0))
		fonttest.Approve(t, name, nil, fonttest.Tables(face, 60, finer)...)
	}
}
