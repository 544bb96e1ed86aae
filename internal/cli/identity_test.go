package cli_test

import (
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/rename"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/font/woff2"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// TestDesignsOnTheCommandLine compares files, looks one up in the catalog, and chooses the
// file that packs use.
func TestDesignsOnTheCommandLine(t *testing.T) {
	s := demoShell(t)
	regular := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	small, _, err := subset.Face(regular, subset.Options{Characters: coverage.OfText("The ferry leaves at 16:35")})
	require.NoError(t, err)
	ghost, _, err := rename.Face(small, rename.Options{Family: "Ghost"})
	require.NoError(t, err)
	whole, part, other := s.write("whole.ttf", sfnt.Write(regular)), s.write("part.ttf", sfnt.Write(small)), s.write("ghost.ttf", sfnt.Write(ghost))
	var d struct {
		Relation   string
		OtherNames bool
		OnlySecond struct{ Count int }
	}
	s.json(&d, 3, "file", "compare", part, whole)
	assert.Equal(t, "part", d.Relation)
	assert.False(t, d.OtherNames)
	assert.Positive(t, d.OnlySecond.Count)
	assert.Contains(t, s.ok("file", "compare", other, whole), "They are named differently: Ghost Regular and Skerrow Sans Regular.")
	assert.Contains(t, s.fails(1, "file", "compare", s.write("no.ttf", []byte("Dear Ines")), whole), "no.ttf")

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

// TestFilesOnTheCommandLine settles a conflict in a import and on the family, goes back
// to an older version and on again, records a mislabeled bold, removes files and brings them
// back, and mends what families lack.
func TestFilesOnTheCommandLine(t *testing.T) {
	s := demoShell(t)
	regular := *foundry.Signage()[1]
	was := foundrytest.Face(t, &regular, font.TTF)
	other := &sfnt.Font{Flavor: was.Flavor, Tables: append([]sfnt.Table{{Tag: sfnt.MakeTag("note"), Data: []byte("other")}}, was.Tables...)}
	bold := *foundry.Signage()[2]
	bold.Style, bold.PostScript, bold.Weight = regular.Style, regular.PostScript, regular.Weight
	out := s.ok("add", "--client", "Holmvik Ferries", "--yes", s.write("other.ttf", sfnt.Write(other)), s.write("bold.ttf", sfnt.Write(foundrytest.Face(t, &bold, font.TTF))))
	assert.Contains(t, out, "which looks like Bold")
	assert.Contains(t, out, "Somebody has to say of 1 font which file counts")
	settle := regexp.MustCompile("imports select --resolve use ([0-9]+) ([0-9]+)").FindStringSubmatch(out)
	require.NotNil(t, settle, out)
	assert.Contains(t, s.ok("imports", "select", "--resolve", "use", settle[1], settle[2]), "as chosen")
	s.ok("imports", "accept", settle[1])
	assert.Contains(t, s.ok("family", "versions", "--face", "Regular", "Skerrow Sans"), "other.ttf, packs use this one")
	assert.Contains(t, s.ok("families", "skerrow"), "(1 file to resolve)")
	assert.Contains(t, s.ok("gaps", "--what", "conflict"), "1 file: choose which one to use.")

	assert.Contains(t, s.ok("family", "resolve", "Skerrow Sans", "SkerrowSans-Regular.ttf"), "Packs use SkerrowSans-Regular.ttf for Skerrow Sans Regular.")
	assert.Contains(t, s.ok("family", "use-file", "Skerrow Sans", "other.ttf"), "Packs use other.ttf")
	assert.Contains(t, s.ok("family", "use-newest", "Skerrow Sans", "Regular"), "Packs use SkerrowSans-Regular.ttf")
	assert.Contains(t, s.fails(1, "family", "record-as", "Skerrow Sans", "bold.ttf", "Handsome"), "names no weight")
	assert.Contains(t, s.ok("family", "record-as", "Skerrow Sans", "bold.ttf", "Black"), "Packs use bold.ttf for Skerrow Sans Black.")
	assert.Contains(t, s.fails(1, "family", "remove-file", "Skerrow Sans", "SkerrowSans-Bold.ttf"), "the face is then gone from their packs. It can be restored for 30 days. Say --anyway")
	assert.Contains(t, s.ok("family", "remove-face", "--anyway", "Skerrow Sans", "Bold"), "Skerrow Sans Bold is removed.")
	assert.Contains(t, s.ok("family", "Skerrow Sans"), "Bold, removed\n  file           SkerrowSans-Bold.ttf (by Ines Varga, can be restored until")
	assert.Contains(t, s.ok("family", "restore-file", "Skerrow Sans", "SkerrowSans-Bold.ttf"), "Packs use SkerrowSans-Bold.ttf for Skerrow Sans Bold.")

	assert.Contains(t, s.ok("pack", "choose", "--pin", "Skerrow Sans Regular=other.ttf", "--source", "smaller", "Holmvik timetable"), "stays on other.ttf (Version 1.200)")
	assert.Contains(t, s.fails(2, "pack", "choose", "--pin", "Skerrow Sans Regular", "Holmvik timetable"), "--pin needs FACE=FILE")
	assert.NotContains(t, s.ok("pack", "choose", "--pin", "Skerrow Sans Regular=", "Holmvik timetable"), "stays on")

	// The same bytes for two clients: each has a family of its own, named with its client.
	s.ok("add", "--client", "Orrery Hall", "--yes", s.write("again.ttf", sfnt.Write(was)))
	assert.Contains(t, s.fails(1, "family", "Skerrow Sans"), `or with its client, like "`)
	assert.Contains(t, s.ok("family", "orrery hall/Skerrow Sans"), "Orrery Hall, origin unknown")
	assert.Contains(t, s.ok("gaps", "--client", "Orrery Hall", "--origin", "client", "--tag", "planets"), "Done for ")
	assert.Contains(t, s.ok("family", "Orrery Hall/Skerrow Sans"), "Orrery Hall, origin client")
	assert.Contains(t, s.fails(1, "gaps", "--what", "money"), "money")
}
