package css_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"sparecrate/internal/css"
)

func TestFamiliesThatTextIsSetIn(t *testing.T) {
	set := css.FamiliesSet(`
@font-face { font-family: "Quay Draft"; src: url(q.woff2) }
body, .form > input { font-family: "Quay Draft", Georgia, serif }
h1 { font: italic 700 2rem/1.2 'Pier Sans', sans-serif }
h2 { FONT: 1.5em Old Pier Sans }
@media (min-width: 40em) { .wide blockquote { font-family: quay draft !important; color: red } }
.card { color: red; & p { font-family: Georgia } }
.broken { font-family: }
p { font: inherit }
`)
	assert.Equal(t, []string{"body,.form>input", ".wide blockquote"}, set["quay draft"])
	assert.Equal(t, []string{"h1"}, set["pier sans"])
	assert.Equal(t, []string{"h2"}, set["old pier sans"])
	assert.Contains(t, set["georgia"], "body,.form>input")
	assert.NotContains(t, set, "")
}

func TestStylesOfAPage(t *testing.T) {
	s := css.StylesOfPage(`<!doctype html><base href="/shop/"><link rel="preload stylesheet" href="a.css?x=1"><link rel=icon href=i.css>
<link rel=stylesheet href="https://cdn.example/b.css"><link rel=stylesheet href="javascript:alert(1)"><style>h1 { font-family: Pier }</style>
<p id="lead" style="font-family: 'Quay Draft'">x</p><div class="note big" style="font: 12px Quay Draft"></div><p style="}{">`, "https://holmvik.example/en/page")
	assert.Equal(t, []string{"https://holmvik.example/shop/a.css?x=1", "https://cdn.example/b.css"}, s.Linked)
	set := css.FamiliesSet(s.Inline)
	assert.Equal(t, []string{"h1"}, set["pier"])
	assert.Equal(t, []string{"p#lead", "div.note"}, set["quay draft"])
}
