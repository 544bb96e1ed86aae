package browsertest_test

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/font/sfnt"
	"sparecrate/font/shape"
	"sparecrate/font/table"
	"sparecrate/font/totruetype"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/css"
	"sparecrate/internal/demo"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
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

// TestTheOldKerningTableInTheBrowser gives faces the table `kern`, with rules for
// kerning, without, with rules for other scripts only, and beside PostScript
// outlines: the browser takes it where package shape does, and what was not kerned
// is not when it is retyped.
func TestTheOldKerningTableInTheBrowser(t *testing.T) {
	s := newStage(t)
	ctx := browsertest.New(t, "")
	browsertest.Do(t, ctx, chromedp.Navigate(s.server.URL))
	trueType, postScript := foundrytest.Face(t, foundry.Signage()[1], font.TTF), foundrytest.Face(t, foundry.Signage()[1], font.OTF)
	a, err := shape.Open(trueType)
	require.NoError(t, err)
	h, o := a.Glyph('H'), a.Glyph('o')
	kern := []byte{0, 0, 0, 1, 0, 0, 0, 20, 0, 1, 0, 1, 0, 6, 0, 0, 0, 0}
	for _, n := range []uint16{uint16(h), uint16(o), 0xFED4} { // 300 units nearer
		kern = binary.BigEndian.AppendUint16(kern, n)
	}
	with := func(f *sfnt.Font, rules []byte) *sfnt.Font {
		out := &sfnt.Font{Flavor: f.Flavor, Tables: slices.DeleteFunc(slices.Clone(f.Tables), func(one sfnt.Table) bool { return one.Tag == table.TagGPOS })}
		if rules != nil {
			out.Tables = append(out.Tables, sfnt.Table{Tag: table.TagGPOS, Data: rules})
		}
		out.Tables = append(out.Tables, sfnt.Table{Tag: sfnt.MakeTag("kern"), Data: kern})
		return out
	}
	rules := trueType.Table(table.TagGPOS)
	others := bytes.Replace(bytes.Replace(rules, []byte("DFLT"), []byte("armn"), 1), []byte("latn"), []byte("cyrl"), 1)
	require.NotEqual(t, rules, others)
	retyped, err := totruetype.Face(with(postScript, nil))
	require.NoError(t, err)
	for _, test := range []struct {
		name   string
		face   *sfnt.Font
		kerned bool
	}{
		{"no rules", with(trueType, nil), true},
		{"rules that kern", with(trueType, rules), false},
		{"rules for other scripts", with(trueType, others), true},
		{"PostScript outlines", with(postScript, nil), false},
		{"PostScript outlines, retyped", retyped, false},
	} {
		set, err := shape.Open(test.face)
		require.NoError(t, err)
		ours := 1000 * float64(set.Set("Ho", shape.Options{}).Advance) / float64(set.UnitsPerEm)
		lines := s.compareInk(t, func(js string) []inkLine { return browsertest.Eval[[]inkLine](t, ctx, js) }, sfnt.Write(test.face), sfnt.Write(test.face), []string{"Ho"}, 1)
		require.Len(t, lines, 1, "%s: the browser takes it", test.name)
		assert.InDelta(t, lines[0].Widths[0], ours, 1, "%s: as wide as in the browser", test.name)
		plain := 1000 * float64(set.Advance(h)+set.Advance(o)) / float64(set.UnitsPerEm)
		if test.kerned {
			assert.InDelta(t, plain-300000/float64(set.UnitsPerEm), ours, 1, test.name)
		}
	}
}

// TestAWidthThatVariesFollowsTheStylesheet makes an axis of width out of one of weight:
// the rule says how far it goes, and text asks for a width by name.
func TestAWidthThatVariesFollowsTheStylesheet(t *testing.T) {
	s := newStage(t)
	ctx := browsertest.New(t, "")
	b, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	require.NoError(t, err)
	f := foundrytest.Parsed(t, b)
	for i, one := range f.Tables {
		if one.Tag != table.TagFvar {
			continue
		}
		axes, err := table.ParseFvar(one.Data)
		require.NoError(t, err)
		axes.Instances = nil
		axes.Axes[0].Tag, axes.Axes[0].Min, axes.Axes[0].Default, axes.Axes[0].Max = sfnt.MakeTag("wdth"), table.MakeFixed(100), table.MakeFixed(100), table.MakeFixed(125)
		f.Tables[i].Data = axes.Encode()
	}
	rule := css.Of(metadata.One(f))
	assert.Equal(t, "100% 125%", rule.Stretch)
	rule.Family, rule.Sources = "f", []css.Source{{URL: "/wide.ttf", Format: "truetype"}}
	s.served.Store("/wide.ttf", sfnt.Write(f))
	s.served.Store("/wide.html", fmt.Appendf(nil, `<!doctype html><title>Widths</title><style>%s span{font:100px f}</style>
		<span style="font-stretch:110%%">Hamburg</span><br><span>Hamburg</span><br><span style="font-stretch:125%%">Hamburg</span><br><span style="font-stretch:200%%">Hamburg</span>`, rule))
	browsertest.Do(t, ctx, chromedp.Navigate(s.server.URL+"/wide.html"), browsertest.Until(`document.fonts.status === "loaded" && document.fonts.check("100px f")`))
	w := browsertest.Eval[[]float64](t, ctx, `[...document.querySelectorAll("span")].map(x => x.getBoundingClientRect().width)`)
	assert.Less(t, w[1], w[0]-3)
	assert.Less(t, w[0], w[2]-3)
	assert.InDelta(t, w[2], w[3], 0.01, "it ends where the axis does")
}
