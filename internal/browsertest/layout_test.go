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

	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo"
)

// TestTheBrowserKernsAndJoins sets text in the demo families and measures it:
// kerning, the ligature, and the languages that must not have it.
func TestTheBrowserKernsAndJoins(t *testing.T) {
	folder := t.TempDir()
	fonts, err := demo.Fonts()
	require.NoError(t, err)
	server := httptest.NewServer(http.FileServer(http.Dir(folder)))
	defer server.Close()
	ctx := browsertest.New(t, "")
	for i, f := range fonts {
		require.NoError(t, os.WriteFile(filepath.Join(folder, f.Name), f.Data, 0o600))
		page := fmt.Sprintf(`<!doctype html><meta charset="utf-8"><title>Layout</title><style>@font-face{font-family:f;src:url(%q)} span{font:100px f;white-space:nowrap}</style>
			<span id="kerned">AVATo.</span><br><span id="loose" style="font-kerning:none">AVATo.</span><br>
			<span id="joined">fi</span><br><span id="apart" style="font-variant-ligatures:none">fi</span><br><span id="turkish" lang="tr">fi</span><br>
			<span id="composed">&#xE9;&#x17E;</span><br><span id="plain">ez</span>`, f.Name)
		name := fmt.Sprintf("%d.html", i)
		require.NoError(t, os.WriteFile(filepath.Join(folder, name), []byte(page), 0o600))
		browsertest.Do(t, ctx, chromedp.Navigate(server.URL+"/"+name), browsertest.Until(`document.fonts.status === "loaded" && document.fonts.check("100px f")`))
		w := browsertest.Eval[map[string]float64](t, ctx, `Object.fromEntries([...document.querySelectorAll("span")].map(s => [s.id, s.getBoundingClientRect().width]))`)
		assert.Less(t, w["kerned"], w["loose"]-10, "%s: pairs with holes are pulled together", f.Name)
		assert.Less(t, w["joined"], w["apart"], "%s: f and i are joined", f.Name)
		assert.InDelta(t, w["apart"], w["turkish"], 0.01, "%s: but not in Turkish", f.Name)
		assert.InDelta(t, w["plain"], w["composed"], 0.01, "%s: letters with marks are as wide as those without", f.Name)
	}
}
