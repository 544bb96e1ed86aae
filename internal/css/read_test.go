package css_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/css"
)

const rules = `
@charset "utf-8";
/* @font-face { font-family: No; src: url(no.woff2) } */
@import "more.css" layer(fonts);
@media screen {
  @font-face {
    font-family: 'Zenithar \26  Sons';
    font-style: italic; font-weight: 100 900; font-stretch: 75% 125%;
    src: local("Zenithar Italic"), url(../f/z.woff2?a=1&b=2) format("woff2"), url( "//files.example/z.woff" ) format('woff');
    unicode-range: u+0000-00ff, U+131;
  }
}
@font-face { font-family: Quarry Text; font-weight: bold; src: url('q.ttf'), url(data:font/woff2;base64,AAAA) }
@font-face { font-family: "Nothing"; }
.x { font-family: "Zenithar"; src: url(x.woff2) }
@font-face { src: url(y.woff2)`

func TestReadSheet(t *testing.T) {
	read := css.ReadSheet(rules, "https://type.example/sheets/all.css")
	assert.Equal(t, []string{"https://type.example/sheets/more.css"}, read.Imports)
	assert.Equal(t, []css.Hosted{
		{
			Family: "Zenithar & Sons", WeightMin: 100, WeightMax: 900, Style: "italic", Stretch: "75% 125%", Range: "U+0000-00FF, U+131", Local: []string{"Zenithar Italic"},
			Files: []css.HostedFile{{Address: "https://type.example/f/z.woff2?a=1&b=2", Format: "woff2"}, {Address: "https://files.example/z.woff", Format: "woff"}},
		},
		{Family: "Quarry Text", WeightMin: 700, WeightMax: 700, Style: "normal", Files: []css.HostedFile{{Address: "https://type.example/sheets/q.ttf"}}},
	}, read.Faces)
	for _, broken := range []string{"", "}", "@font-face", "@font-face {", "@import", "@import url(", "\x00\xff", strings.Repeat("{", 5000), strings.Repeat("@font-face{src:", 1000)} {
		assert.Empty(t, css.ReadSheet(broken, "x").Faces)
	}
}

func TestReadPasted(t *testing.T) {
	const sheet = "https://type.example/s.css?family=Zenithar&w=400"
	for _, c := range []struct {
		why, pasted string
		addresses   []string
		notes       []string
	}{
		{"an address", "  " + sheet + "\n", []string{sheet}, nil},
		{"a link tag", `<link href="https://type.example/s.css?family=Zenithar&amp;w=400" rel="stylesheet">`, []string{sheet}, nil},
		{"a head's worth of tags", `<link rel="preconnect" href="https://type.example"><link rel=stylesheet href=//type.example/s.css><link rel="icon" href="/i.png"><p>`,
			[]string{"https://type.example/s.css"}, []string{"only opens a connection", `rel="icon"`}},
		{"an import rule", `@import url('` + sheet + `');`, []string{sheet}, nil},
		{"an import rule with a string, in a style tag", `<style>@import "` + sheet + `" screen;</style>`, []string{sheet}, nil},
		{"curly quotes", `<link rel=“stylesheet” href=“` + sheet + `”>`, []string{sheet}, []string{"Curly quotes"}},
		{"curly quotes and a misspelt rule", "@improt url(‘" + sheet + "’);", []string{sheet}, []string{"Curly quotes", `"@improt" is misspelt; it was read as @import`}},
		{"a space in the rule's name", "@ import url(" + sheet + ");", []string{sheet}, []string{"misspelt"}},
		{"no @ at all", "import url('" + sheet + "');", []string{sheet}, []string{"The @ before import was missing"}},
		{"as a web page writes code", `&lt;link rel="stylesheet" href="` + strings.ReplaceAll(sheet, "&", "&amp;") + `"&gt;`, []string{sheet}, []string{"contains HTML escapes"}},
		{"an escaped address", strings.ReplaceAll(sheet, "&", "&amp;"), []string{sheet}, []string{"contains HTML escapes"}},
		{"a script", `<script>var l=document.createElement("link");l.href="` + sheet + `";</script>`, []string{sheet}, []string{"A script was not run"}},
		{"no scheme", "type.example/s.css", []string{"https://type.example/s.css"}, []string{"had no https://"}},
		{"in a sentence", "Please use “" + sheet + "” from now on", []string{sheet}, []string{"Curly quotes"}},
		{"twice", sheet + "\n" + sheet + "\nhttp://other.example/x.css", []string{sheet, "http://other.example/x.css"}, nil},
		{"without and with what is no whole address", `<link rel=stylesheet href="` + sheet + `"><link rel=stylesheet href="ftp://type.example/s.css"><link rel=stylesheet href="/s.css"><link rel=stylesheet href="http:s.css">`,
			[]string{sheet}, []string{`"ftp://type.example/s.css" is not a complete URL`, `"/s.css" is not a complete URL`, `"http:s.css" is not a complete URL`}},
		{"half a tag", `href="` + sheet + `" rel="stylesheet">`, []string{sheet}, nil},
	} {
		p, err := css.ReadPasted(c.pasted)
		require.NoError(t, err, c.why)
		assert.Equal(t, c.addresses, p.Addresses, c.why)
		require.Len(t, p.Notes, len(c.notes), "%s: %v", c.why, p.Notes)
		for i, n := range c.notes {
			assert.Contains(t, p.Notes[i], n, c.why)
		}
	}
	sheetOf := css.ReadSheet(`@font-face{font-family:X;src:local("X Bold"),url("data:font/woff2;base64,AAAA"),URL(DATA:x),url(a.woff2) format("woff2"),url("b.woff") format(woff),local(Y)}`, "https://files.example/css/")
	require.Len(t, sheetOf.Faces, 1)
	assert.Equal(t, []string{"X Bold", "Y"}, sheetOf.Faces[0].Local)
	assert.Equal(t, []css.HostedFile{{Address: "https://files.example/css/a.woff2", Format: "woff2"}, {Address: "https://files.example/css/b.woff", Format: "woff"}}, sheetOf.Faces[0].Files)
	p, err := css.ReadPasted("@fontface {\n font-family: ‘Zenithar’; src: url(//files.example/z.woff2) }\nfont-face { font-family: Zed; src: url(https://files.example/zed.woff) }")
	require.NoError(t, err)
	require.Len(t, p.Faces, 2)
	assert.Equal(t, "Zenithar", p.Faces[0].Family)
	assert.Equal(t, "https://files.example/z.woff2", p.Faces[0].Files[0].Address)
	for _, nothing := range []string{"", "hello", "<p>hello</p>", "ftp://type.example/x.css", "@media print { }", "C:\\fonts\\x.css", `<link rel=stylesheet href="local.css">`} {
		_, err := css.ReadPasted(nothing)
		require.ErrorIs(t, err, css.ErrNoSheet, nothing)
	}
}

func TestSnippets(t *testing.T) {
	s := css.SnippetsOf(`https://type.example/s.css?a="b"&c='d'`)
	for _, form := range []string{s.Address, s.Link, s.Import} {
		p, err := css.ReadPasted(form)
		require.NoError(t, err)
		assert.Equal(t, []string{s.Address}, p.Addresses, form)
	}
	assert.Contains(t, s.Script, `sheet.href = 'https://type.example/s.css?a="b"&c=\'d\'';`)
}

func FuzzReadPasted(f *testing.F) {
	f.Add(rules)
	f.Add(`<link rel="stylesheet" href="https://type.example/s.css"><style>@import "x.css";</style>`)
	f.Add("@improt url(‘//type.example/a.css’)")
	f.Add("@ font face { font-family: x; src: url(\\41 ) format(")
	f.Fuzz(func(t *testing.T, text string) {
		css.ReadSheet(text, "https://type.example/")
		p, err := css.ReadPasted(text)
		if err != nil {
			return
		}
		for _, a := range p.Addresses {
			if !strings.HasPrefix(a, "http://") && !strings.HasPrefix(a, "https://") {
				t.Errorf("%q is is not a web URL", a)
			}
		}
	})
}

// TestAddressesOfASource reads addresses with and without quotes, and leaves out what a sheet
// carries itself or does not say.
func TestAddressesOfASource(t *testing.T) {
	for source, want := range map[string][]string{
		`url(a.woff2)`:                        {"https://fonts.example/css/a.woff2"},
		`url("a.woff2") format("woff2")`:      {"https://fonts.example/css/a.woff2"},
		`url('/a.woff')`:                      {"https://fonts.example/a.woff"},
		`url("https://other.example/a.woff")`: {"https://other.example/a.woff"},
		`url("")`:                             nil,
		`url()`:                               nil,
		`url("data:font/woff2;base64,AAAA")`:  nil,
		`url(DATA:font/woff2;base64,AAAA)`:    nil,
		`local("Skerrow Sans"), url(a.woff2)`: {"https://fonts.example/css/a.woff2"},
	} {
		read := css.ReadSheet(`@font-face { font-family: "Skerrow Sans"; src: `+source+`; }`, "https://fonts.example/css/sheet.css")
		var got []string
		for _, h := range read.Faces {
			for _, f := range h.Files {
				got = append(got, f.Address)
			}
		}
		assert.Equal(t, want, got, source)
	}
}
