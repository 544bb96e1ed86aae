package cli_test

import (
	"bytes"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/metadata"
	"sparecrate/internal/demo"
)

// TestReshapeFiles runs each verb on a file and opens what it wrote.
func TestReshapeFiles(t *testing.T) {
	t.Parallel()
	s := newShell(t)
	fonts, err := demo.Fonts()
	require.NoError(t, err)
	paths := map[string]string{}
	for _, f := range fonts {
		paths[f.Name] = s.write(f.Name, f.Data)
	}
	regular, variable, otf := paths["SkerrowSans-Regular.ttf"], paths["SkerrowSans-Variable.ttf"], paths["umbrisk_display_v2_FINAL.otf"]
	folder := filepath.Dir(regular)
	read := func(name string) metadata.Face {
		b, err := os.ReadFile(filepath.Join(folder, name)) //nolint:gosec // written a moment ago
		require.NoError(t, err)
		faces, err := metadata.Read(b)
		require.NoError(t, err)
		return faces[0]
	}
	out := func(name string) string { return filepath.Join(folder, name) }

	text := s.ok("file", "subset", "--text", "Quay 4 ж", "--out", out("quay.woff2"), regular)
	assert.Contains(t, text, "Not in the font ж")
	assert.Less(t, read("quay.woff2").Glyphs, 12)
	s.ok("file", "subset", "--split", "--keep", "latin,cyrillic,rest", "--out", out("web"), regular)
	sheet, err := os.ReadFile(out("web/SkerrowSans-Regular.css"))
	require.NoError(t, err)
	assert.Equal(t, 2, strings.Count(string(sheet), "unicode-range: U+"))
	assert.Equal(t, "Skerrow Sans", read("web/SkerrowSans-Regular-rest.woff2").Names.Family)

	assert.Contains(t, s.ok("file", "instance", "--instance", "bold", "--out", out("bold.ttf"), variable), "SkerrowSans-Bold")
	assert.Equal(t, 700, read("bold.ttf").Style.Weight)
	s.ok("file", "instance", "--at", "wght=350:500", "--out", out("part.woff2"), variable)
	assert.InDelta(t, 350, read("part.woff2").Axes[0].Min, 0)
	s.ok("file", "rename", "--family", "Pier Sans", "--out", out("pier.otf"), otf)
	assert.Equal(t, "PierSans-Regular", read("pier.otf").Names.PostScript)
	s.ok("file", "instance", "--at", "wght=552", "--fine", "--out", out("fine.ttf"), variable)
	assert.Equal(t, 4000, read("fine.ttf").UnitsPerEm)
	assert.Equal(t, 8, strings.Count(s.ok("file", "fallback", "--groups", "6", regular), "size-adjust"))
	s.ok("file", "convert", "--to", "ttf", "--out", out("ttf"), otf)
	assert.Equal(t, metadata.TrueType, read("ttf/umbrisk_display_v2_FINAL.ttf").Outlines)

	assert.Contains(t, s.ok("file", "fallback", "--against", "arial,"+paths["tidegarth.ttf"], regular), `local("Tidegarth Poster Regular")`)
	s.ok("file", "preview", "--text", `Quay 4\nSkerry`, "--size", "40,20", "--glyphs", "10", "--features", "-kern", "--out", out("quay.png"), regular)
	b, err := os.ReadFile(out("quay.png"))
	require.NoError(t, err)
	img, err := png.Decode(bytes.NewReader(b))
	require.NoError(t, err)
	assert.Greater(t, img.Bounds().Dy(), 150)
	s.ok("file", "preview", "--out", out("name.svg"), otf)

	for says, args := range map[string][]string{
		"no axis `opsz`":                   {"file", "instance", "--at", "opsz=12", "--out", out("x.ttf"), variable},
		"has no =":                         {"file", "instance", "--at", "wght", "--out", out("x.ttf"), variable},
		"nothing of what is to be kept":    {"file", "subset", "--keep", "script:Thai", "--out", out("x.ttf"), regular},
		"no set of characters is called":   {"file", "subset", "--keep", "nosuch", "--out", out("x.ttf"), regular},
		"--out must end in":                {"file", "subset", "--keep", "latin", "--out", out("x.zip"), regular},
		"would be written over itself":     {"file", "rename", "--family", "X", "--out", regular, regular},
		"give the new name":                {"file", "rename", "--out", out("x.ttf"), regular},
		"there is no face 3":               {"file", "preview", "--face", "3", "--out", out("x.png"), regular},
		"must end in png or svg":           {"file", "preview", "--out", out("x.gif"), regular},
		"metrics of \"nosuch\" are not":    {"file", "fallback", "--against", "nosuch", regular},
		"--split takes the sets of --keep": {"file", "subset", "--split", "--text", "x", "--out", out("x"), regular},
	} {
		_, errs, code := s.run(args...)
		assert.NotZero(t, code, says)
		assert.Contains(t, errs, says)
	}
	left, err := filepath.Glob(out("x.*"))
	require.NoError(t, err)
	assert.Empty(t, left, "nothing is left of what failed")
}
