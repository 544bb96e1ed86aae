package css_test

import (
	"fmt"
	"strings"
	"testing"

	"sparecrate/font/fallback"
	"sparecrate/font/fonttest"
	"sparecrate/internal/css"
)

// sheets are stylesheets and snippets as people paste them, whole and broken.
var sheets = []string{
	`@font-face{font-family:"Skerrow Sans";src:url(a.woff2) format("woff2"),url('b.woff') format('woff');font-weight:400}`,
	`@font-face { font-family: Skerrow\ Sans ; src: local("Skerrow"), url( "x.eot?#iefix" ) format("embedded-opentype"); font-style: oblique 10deg 20deg; font-weight: 100 900; font-stretch: 75% 125%; unicode-range: U+0-7F, u+4??, U+1F600-1F64F; font-display: swap }`,
	`/* @font-face{font-family:No} */ @import url("more.css"); @media print { @font-face{font-family:Printed;src:url(p.woff2)} } body{font-family:"Skerrow Sans",serif}`,
	`@font-face{font-family:A;src:url(data:font/woff2;base64,AAAA)}@font-face{src:url(noname.woff2)}@font-face{font-family:NoSource}`,
	`@font-face{font-family:B;src:url(../fonts/b.woff2);font-weight:bolder;font-style:italic;font-stretch:ultra-condensed;unicode-range:U+XYZ}`,
	`<link rel="stylesheet" href="https://fonts.example/css?family=Skerrow&amp;display=swap">`,
	`<link href='https://fonts.example/a.css' rel='preconnect stylesheet'><style>@font-face{font-family:"C";src:url(c.woff2)}</style>`,
	`@import url(https://fonts.example/b.css);`, `https://fonts.example/kit.js`, `<script src="https://fonts.example/kit.js"></script>`,
	`fonts.example/c.css`, `font-family: 'Skerrow Sans', sans-serif;`, `@font-face{font-family:"D;src:url(d.woff2)`, `}`, ``, `<b>nothing</b>`, `p{font:italic bold 12px/30px "E F",serif}`,
	"@font-face{font-family:\"G\\41 H\";src:url(https://fonts.example/g\\.woff2)}", `@font-face{font-family:K;src:url(//fonts.example/k.woff2);font-weight:1 1000}`,
}

// TestSheetsAsApproved reads stylesheets and snippets, whole and cut off at each place.
func TestSheetsAsApproved(t *testing.T) {
	t.Parallel()
	var cases []fonttest.Case
	for i, text := range sheets {
		cases = append(cases, fonttest.Case{Name: fmt.Sprint("sheet ", i), Bytes: []byte(text)})
	}
	fonttest.Approve(t, "sheets", func(b []byte) (string, error) {
		out := fmt.Sprintf("%+v", *css.ReadSheet(string(b), "https://holmvik.example/assets/site.css"))
		pasted, err := css.ReadPasted(string(b))
		if err != nil {
			return out + err.Error(), nil //nolint:nilerr // said in the text
		}
		return out + fmt.Sprintf("%+v %s", *pasted, css.HostedRules(pasted.Faces)), nil
	}, cases...)
}

// TestRulesAsApproved writes rules with each descriptor.
func TestRulesAsApproved(t *testing.T) {
	t.Parallel()
	var lines []string
	add := func(f css.Face) {
		lines = append(lines, strings.Split(css.Sheet([]css.Face{f}), "\n")...)
	}
	for _, f := range []css.Face{
		{Family: "Skerrow Sans", Sources: []css.Source{{URL: "a.woff2", Format: "woff2"}, {URL: "b.eot", Format: "embedded-opentype"}}, Weight: "400", Style: "normal"},
		{Family: `A "B" \ C`, Sources: []css.Source{{URL: "a b.woff2"}}, Weight: "100 900", Style: "oblique 0deg 10deg", Stretch: "75% 125%", Display: "swap", Range: "U+0-7F, U+4??"},
		{Family: "Skerrow Sans Fallback", Local: []string{"Arial", "Liberation Sans"}, Overrides: &fallback.Overrides{SizeAdjust: 104.125, Ascent: 91.5, Descent: 20.25}},
		faceOf("</style>"),
	} {
		add(f)
	}
	for _, text := range []string{"U+0041-005A, U+0061", "U+0-10FFFF", "", "U+00410-00420", "U+1F600"} {
		lines = append(lines, text+" is short "+css.ShortRange(text))
	}
	for _, text := range hostile {
		lines = append(lines, fmt.Sprintf("%q", css.Quote(text)))
	}
	lines = append(lines, fmt.Sprintf("%+v", css.SnippetsOf("https://fonts.example/live/a b.css?x=1&y=2")))
	fonttest.Lines(t, "rules", lines...)
}
