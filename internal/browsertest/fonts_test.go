package browsertest_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo"
)

// compare sets the same text in two font files on two canvases and gives how
// many pixels have ink in the first and how many differ. A file the browser's
// font sanitizer refuses fails to load.
const compare = `(async (a, b, text) => {
	const pixels = async (url, family) => {
		const face = await new FontFace(family, "url(" + url + ")").load();
		document.fonts.add(face);
		const canvas = Object.assign(document.createElement("canvas"), {width: 1200, height: 320});
		const ink = canvas.getContext("2d", {willReadFrequently: true});
		ink.font = "110px '" + family + "'";
		text.forEach((line, i) => ink.fillText(line, 10, 120 + 150 * i));
		return ink.getImageData(0, 0, 1200, 320).data;
	};
	const x = await pixels(a, "first"), y = await pixels(b, "second");
	let ink = 0, other = 0;
	for (let i = 3; i < x.length; i += 4) { ink += x[i] > 0; other += x[i] !== y[i]; }
	return [ink, other];
})(%q, %q, ["Hamburg office 16:35", "Łódź, Ægir & Žluť AVTo"])`

// TestTheBrowserTakesEveryFormat loads what the core writes and compares the
// picture with that of the file it was made from.
func TestTheBrowserTakesEveryFormat(t *testing.T) {
	folder := t.TempDir()
	sources := map[string][]byte{}
	fonts, err := demo.Fonts()
	require.NoError(t, err)
	for _, f := range fonts[2:] {
		sources[f.Name] = f.Data
	}
	for _, path := range []string{"dejavu/DejaVuSansMono-Oblique.ttf", "liberation2/LiberationMono-Italic.ttf"} {
		b, err := os.ReadFile("/usr/share/fonts/truetype/" + path)
		require.NoError(t, err)
		sources[filepath.Base(path)] = b
	}
	server := httptest.NewServer(http.FileServer(http.Dir(folder)))
	defer server.Close()
	ctx := browsertest.New(t, "")
	require.NoError(t, os.WriteFile(filepath.Join(folder, "index.html"), []byte("<!doctype html><title>Fonts</title>"), 0o600))
	for name, data := range sources {
		opened, err := font.Open(data)
		require.NoError(t, err)
		write := func(name string, b []byte) {
			require.NoError(t, os.WriteFile(filepath.Join(folder, name), b, 0o600))
		}
		write(name, data)
		for _, to := range []font.Container{font.WOFF2, font.WOFF, opened.Container} {
			made, err := font.Make(opened.Faces[0], to)
			require.NoError(t, err)
			again, err := font.Open(made)
			require.NoError(t, err)
			back, err := font.Make(again.Faces[0], opened.Container)
			require.NoError(t, err)
			for kind, b := range map[string][]byte{"made." + string(to): made, "back." + string(to): back} {
				write(name+"."+kind, b)
				browsertest.Do(t, ctx, chromedp.Navigate(server.URL)) // a page without the fonts of the round before
				got := browsertest.Eval[[]int](t, ctx, fmt.Sprintf(compare, "/"+name, "/"+name+"."+kind))
				require.Len(t, got, 2)
				assert.Greater(t, got[0], 5000, "%s: text was drawn", name)
				assert.Zero(t, got[1], "%s as %s: pixels differ", name, kind)
			}
		}
	}
}
