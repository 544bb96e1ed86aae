package cli_test

import (
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/subset"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo"
)

// TestAKitFromFilesAlone writes fonts, a stylesheet and a sample page for files of two
// families, of which one is cut in two, and opens the page in a browser.
func TestAKitFromFilesAlone(t *testing.T) {
	t.Parallel()
	s := newShell(t)
	fonts, err := demo.Fonts()
	require.NoError(t, err)
	var paths []string
	for _, f := range fonts[:2] {
		paths = append(paths, s.write(f.Name, f.Data))
	}
	opened, err := font.Open(fonts[2].Data)
	require.NoError(t, err)
	for _, cut := range [][2]string{{"others", "abcdefghijklmnopqrstuvwxyz 0123456789,:"}, {"capitals", "ABCDEFGHIJKLMNOPQRSTUVWXYZ"}} {
		part, _, err := subset.Face(opened.Faces[0], subset.Options{Characters: coverage.OfText(cut[1])})
		require.NoError(t, err)
		data, err := font.Make(part, font.WOFF)
		require.NoError(t, err)
		paths = append(paths, s.write("Bold "+cut[0]+".woff", data))
	}
	paths = append(paths, s.write(fonts[3].Name, fonts[3].Data))
	out := filepath.Join(s.folder, "web")
	var kit struct {
		Fonts []struct{ Out string }
		Kit   []string
	}
	s.json(&kit, 2, append([]string{"file", "convert", "--css", "--out", out, "--sample-text", "Hamburg"}, paths...)...)
	assert.Len(t, kit.Fonts, 10, "woff2 and woff of five")
	assert.Subset(t, kit.Kit, []string{filepath.Join(out, "fonts.css"), filepath.Join(out, "sample.html")})
	sheet, err := os.ReadFile(filepath.Join(out, "fonts.css"))
	require.NoError(t, err)
	assert.Contains(t, string(sheet), "unicode-range: U+0041-005A;")

	h := httptest.NewServer(http.FileServer(http.Dir(out)))
	t.Cleanup(h.Close)
	ctx := browsertest.New(t, "")
	browsertest.Do(t, ctx, chromedp.Navigate(h.URL+"/sample.html"))
	for _, status := range browsertest.Eval[[]string](t, ctx, `document.fonts.ready.then(fonts => [...fonts].map(f => f.status))`) {
		assert.Equal(t, "loaded", status)
	}
	assert.Equal(t, 5.0, browsertest.Eval[float64](t, ctx, `performance.getEntriesByType("resource").filter(r => r.name.endsWith(".woff2")).length`))

	assert.Contains(t, s.fails(2, "file", "convert", paths[0]), "--to")
	assert.Contains(t, s.fails(1, "file", "convert", "--css", "--out", out, s.write("page.ttf", []byte("<html>"))), "page.ttf")
}
