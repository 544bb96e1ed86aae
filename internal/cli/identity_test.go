package cli_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/rename"
	"sparecrate/font/sfnt"
	"sparecrate/font/trim"
	"sparecrate/font/woff2"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// TestDesignsOnTheCommandLine compares files, looks one up in the catalog, and chooses the
// file that packs use.
func TestDesignsOnTheCommandLine(t *testing.T) {
	s := demoShell(t)
	regular := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	small, _, err := trim.Face(regular, trim.Options{Characters: coverage.OfText("The ferry leaves at 16:35")})
	require.NoError(t, err)
	ghost, _, err := rename.Face(small, rename.Options{Family: "Ghost"})
	require.NoError(t, err)
	whole, part, other := s.write("whole.ttf", sfnt.Write(regular)), s.write("part.ttf", sfnt.Write(small)), s.write("ghost.ttf", sfnt.Write(ghost))
	var d struct {
		Relation   string
		OtherNames bool
		OnlySecond struct{ Count int }
	}
	s.json(&d, 3, "file", "diff", part, whole)
	assert.Equal(t, "part", d.Relation)
	assert.False(t, d.OtherNames)
	assert.Positive(t, d.OnlySecond.Count)
	assert.Contains(t, s.ok("file", "diff", other, whole), "They are named differently: Ghost Regular and Skerrow Sans Regular.")
	assert.Contains(t, s.fails(1, "file", "diff", s.write("no.ttf", []byte("Dear Ines")), whole), "no.ttf")

	assert.Regexp(t, `Skerrow Sans Regular.*part +100.0 %`, s.ok("families", "--like", other))
	assert.Contains(t, s.fails(2, "families", "--like", other, "words"), "no TEXT goes with it")

	// A collection whose faces have one file is chosen face by face.
	bold := foundrytest.Face(t, foundry.Signage()[2], font.TTF)
	packed, err := woff2.Encode(&woff2.File{Collection: true, Fonts: []*sfnt.Font{regular, bold}})
	require.NoError(t, err)
	s.ok("add", "--client", "Holmvik Ferries", "--yes", s.write("both.woff2", packed))
	assert.Contains(t, s.fails(2, "family", "use-file", "Skerrow Sans", "both.woff2"), "say which with --face")
	assert.Contains(t, s.ok("family", "use-file", "--face", "Bold", "Skerrow Sans", "both.woff2"), "Packs use both.woff2 for Skerrow Sans Bold.")
	assert.Contains(t, s.ok("family", "versions", "--face", "Bold", "Skerrow Sans"), "both.woff2, packs use this one")
	assert.Contains(t, s.ok("family", "versions", "--face", "Regular", "Skerrow Sans"), "SkerrowSans-Regular.ttf, packs use this one")
}
