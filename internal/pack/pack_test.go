package pack_test

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/facts"
	"sparecrate/font/fallback"
	"sparecrate/internal/css"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
)

func builder(t testing.TB, kind string) pack.Builder {
	t.Helper()
	b, ok := pack.BuilderOf(kind)
	require.True(t, ok)
	return b
}

func input(t testing.TB, kind string) pack.Input {
	t.Helper()
	face := func(style, full string, weight int, slope facts.Slope) pack.Face {
		return pack.Face{
			Style: style,
			Facts: facts.Face{Names: facts.Names{Full: full, PostScript: "PS" + style, Copyright: "© the maker"}, Style: facts.Style{Weight: weight, WidthPercent: 100, Slope: slope}},
			Files: map[font.Container][]byte{font.WOFF2: []byte("woff2 of " + style), font.WOFF: []byte("woff of " + style)},
		}
	}
	return pack.Input{
		Site: "Fähre & Co.", Client: "Holmvik </style> Ferries", Domains: []string{"holmvik.example"}, Builder: builder(t, kind),
		Families: []pack.Family{{
			Name:     `Example "Sans"`,
			Faces:    []pack.Face{face("Bold", "Example Bold", 700, facts.Upright), face("Regular", "Example Regular", 400, facts.Upright), face("Regular ", "Example Regular", 400, facts.Italic)},
			Verdict:  license.Verdict{State: license.Query, Reasons: []license.Reason{{State: license.Query, Code: "no-evidence", Message: "No document.", Evidence: "license 1"}}},
			Licenses: []string{"license 1"}, SignOff: &pack.SignOff{By: "Ines", At: "2026-11-24T10:00:00Z", Reason: "Order is on its way"},
		}},
	}
}

func assemble(t testing.TB, in pack.Input) map[string][]byte {
	t.Helper()
	entries, err := pack.Assemble(in)
	require.NoError(t, err)
	out := map[string][]byte{}
	for _, e := range entries {
		assert.NotContains(t, out, e.Path, "a path twice")
		assert.NotEmpty(t, e.Why)
		out[e.Path] = e.Data
	}
	return out
}

func TestSelfHosted(t *testing.T) {
	files := assemble(t, input(t, "self-hosted"))
	sheet := string(files["fonts.css"])
	for _, path := range []string{"fonts/example-sans-regular.woff2", "fonts/example-sans-regular-2.woff2", "fonts/example-sans-bold.woff"} {
		assert.Contains(t, files, path)
		assert.Contains(t, sheet, `url("`+path+`")`)
	}
	assert.Equal(t, 3, strings.Count(sheet, "@font-face"))
	assert.Less(t, strings.Index(sheet, "regular.woff2"), strings.Index(sheet, "bold.woff2"), "lighter faces first")
	assert.Contains(t, sheet, `font-family: "Example \"Sans\""`)
	slip := string(files["upload-slip.html"])
	assert.Contains(t, slip, "&lt;link rel=&#34;stylesheet&#34; href=&#34;/fonts.css&#34;&gt;")
	assert.NotContains(t, slip, "Holmvik </style>", "names are escaped")
	note := string(files["license-note.txt"])
	assert.Contains(t, note, "query: No document. [license 1]")
	assert.Contains(t, note, "Signed off by Ines on 2026-11-24T10:00:00Z: Order is on its way")
	assert.Contains(t, note, "© the maker")
}

// TestPartsAndStandIns has a face in two files by characters, with a local font
// that holds its place, and one for which none can.
func TestPartsAndStandIns(t *testing.T) {
	in := input(t, "self-hosted")
	in.Families[0].Faces = in.Families[0].Faces[:2]
	split, lone := &in.Families[0].Faces[0], &in.Families[0].Faces[1]
	split.Parts = []pack.Part{{Name: "latin", Range: "U+20-7E", Files: split.Files}, {Name: "script:Greek", Range: "U+370-3FF", Files: split.Files}}
	split.Files, split.StandIns = nil, css.Fallbacks(split.Facts, []string{"Arial"}, []fallback.Group{{}, {Characters: coverage.OfText("ab")}})
	lone.NoStandIn = "Too few letters. */"
	files := assemble(t, in)
	sheet := string(files["fonts.css"])
	for _, part := range []string{"fonts/example-sans-bold-latin.woff2", "fonts/example-sans-bold-script-greek.woff", "fonts/example-sans-regular.woff2"} {
		assert.Contains(t, files, part)
		assert.Contains(t, sheet, part)
	}
	assert.Equal(t, 1, strings.Count(sheet, "unicode-range: U+370-3FF;"))
	assert.Equal(t, 2, strings.Count(sheet, `font-family: "Example \"Sans\" Fallback";`))
	assert.Contains(t, sheet, "Regular: Too few letters. * / */")
	assert.Contains(t, sheet, "unicode-range: U+0061-0062;")
	slip := string(files["upload-slip.html"])
	assert.Equal(t, 2, strings.Count(slip, "<br><code>font-family"), "a face has one line, however many files it has")
	assert.Contains(t, slip, "characters: latin")
	assert.Contains(t, slip, `\&#34; Fallback&#34;, sans-serif`)
	assert.Contains(t, string(files["manifest.json"]), `"characters": "U+20-7E"`)
}

func TestUploadFormWantsFullNames(t *testing.T) {
	files := assemble(t, input(t, "upload-form"))
	assert.Contains(t, files, "fonts/Example Regular.woff2")
	assert.Contains(t, files, "fonts/Example Regular-2.woff2", "two faces of one full name do not meet")
	assert.Contains(t, string(files["fonts.css"]), `url("fonts/Example%20Regular.woff2")`)
	slip := string(files["upload-slip.html"])
	assert.Contains(t, slip, "<kbd>Example Bold</kbd>")
	assert.Contains(t, slip, "<kbd>700</kbd>")
}

func TestManifestNamesEveryFile(t *testing.T) {
	files := assemble(t, input(t, "bundler"))
	var m struct {
		Builder  string
		Families []struct {
			Verdict string
			SignOff *pack.SignOff
		}
		Files []struct {
			Path, SHA256, PostScript string
			Bytes                    int
		}
	}
	require.NoError(t, json.Unmarshal(files["manifest.json"], &m))
	assert.Equal(t, "bundler", m.Builder)
	assert.Equal(t, "query", m.Families[0].Verdict)
	assert.Equal(t, "Ines", m.Families[0].SignOff.By)
	require.Len(t, m.Files, len(files)-1, "all but itself")
	for _, f := range m.Files {
		sum := sha256.Sum256(files[f.Path])
		assert.Equal(t, hex.EncodeToString(sum[:]), f.SHA256, f.Path)
		assert.Equal(t, len(files[f.Path]), f.Bytes)
	}
}

func TestZipIsTheSameEachTime(t *testing.T) {
	var zips [2]bytes.Buffer
	for i := range zips {
		entries, err := pack.Assemble(input(t, "self-hosted"))
		require.NoError(t, err)
		require.NoError(t, pack.Zip(&zips[i], entries))
	}
	assert.Equal(t, zips[0].Bytes(), zips[1].Bytes())
	z, err := zip.NewReader(bytes.NewReader(zips[0].Bytes()), int64(zips[0].Len()))
	require.NoError(t, err)
	want := assemble(t, input(t, "self-hosted"))
	require.Len(t, z.File, len(want))
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		got, err := io.ReadAll(r)
		require.NoError(t, err)
		assert.Equal(t, want[f.Name], got, f.Name)
		assert.Equal(t, strings.HasPrefix(f.Name, "fonts/"), f.Method == zip.Store)
	}
}

func TestPlainNames(t *testing.T) {
	for in, want := range map[string]string{
		"Skerrow Sans Bold": "skerrow-sans-bold", "Grün  & Co.": "grun-co", "../../etc": "etc", "Łódź Straße": "lodz-strasse", "字体": "font", "": "font", "A--B": "a-b",
	} {
		assert.Equal(t, want, pack.Plain(in))
	}
	b := builder(t, "upload-form")
	assert.Equal(t, "AB C", b.FileBase("x", "y", `A/B\ C`), "no name leads out of its folder")
	assert.Equal(t, "x-y", b.FileBase("x", "y", ""))
}
