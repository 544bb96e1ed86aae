package css_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/tdewolff/parse/v2"
	lexer "github.com/tdewolff/parse/v2/css"
	"golang.org/x/net/html"

	"sparecrate/font/fallback"
	"sparecrate/internal/css"
)

// hostile are texts that try to leave a string, a rule, a style element, a comment.
var hostile = []string{
	`</style><script>alert(1)</script>`, `</STYLE ><img src=x onerror=alert(1)>`, `"; } body { display: none } "`, `*/ } body{display:none} /*`,
	`\`, `\"`, `"`, "'", "\n}\nbody{color:red}", "\r\f\x00", `100%;}body{x:y}`, `U+0-7F;}*{x:y}`, `url(javascript:alert(1))`, "<!--", "-->", "]]>", "\u2028", "\u202e", `expression(alert(1))`,
}

// stays holds that a stylesheet in a style element is one style element and nothing
// else, and so many @font-face rules and nothing else.
func stays(t *testing.T, sheet string, rules int) {
	t.Helper()
	page, err := html.Parse(strings.NewReader("<!DOCTYPE html><head><style>" + sheet + "</style></head><body></body>"))
	require.NoError(t, err)
	var elements []string
	for n := range page.Descendants() {
		if n.Type == html.ElementNode {
			elements = append(elements, n.Data)
		}
	}
	assert.Equal(t, []string{"html", "head", "style", "body"}, elements, "%q", sheet)
	p := lexer.NewParser(parse.NewInput(bytes.NewReader([]byte(sheet))), false)
	found, depth := 0, 0
	for {
		kind, _, data := p.Next()
		switch kind {
		case lexer.ErrorGrammar:
			assert.False(t, p.HasParseError(), "%q: %v", sheet, p.Err())
			assert.Equal(t, rules, found, "%q", sheet)
			return
		case lexer.BeginAtRuleGrammar:
			assert.Equal(t, "@font-face", string(data))
			found++
			depth++
		case lexer.EndAtRuleGrammar:
			depth--
		case lexer.CommentGrammar, lexer.DeclarationGrammar:
		default:
			t.Fatalf("%q holds %v %q", sheet, kind, data)
		}
		if depth > 1 {
			t.Fatalf("%q nests rules", sheet)
		}
	}
}

func faceOf(text string) css.Face {
	return css.Face{
		Family: text, Sources: []css.Source{{URL: text, Format: text}, {URL: text, Format: "embedded-opentype"}}, Weight: text, Style: text, Stretch: text,
		Display: text, Range: text, Local: []string{text}, Overrides: &fallback.Overrides{SizeAdjust: 100},
	}
}

func TestNothingLeavesItsContext(t *testing.T) {
	for _, text := range hostile {
		stays(t, css.Sheet([]css.Face{faceOf(text), faceOf("x" + text + "y")}), 2)
	}
}

// TestWhatIsPastedIsReadIntoValues pastes rules whose every descriptor is hostile.
func TestWhatIsPastedIsReadIntoValues(t *testing.T) {
	for _, text := range append(hostile, `"&#60;/style&#62;&#60;script&#62;alert(1)&#60;/script&#62;"`) {
		for _, descriptor := range []string{"font-family", "font-stretch", "font-weight", "font-style", "unicode-range", "src", "font-display"} {
			pasted, err := css.ReadPasted("<b></b>@font-face{font-family:X;src:url(https://fonts.example/x.woff2);" + descriptor + ":" + text + "}")
			if err != nil {
				continue
			}
			stays(t, css.HostedRules(pasted.Faces), len(pasted.Faces))
			for _, f := range pasted.Faces {
				assert.Regexp(t, `^[0-9.% ]*$`, f.Stretch)
				assert.Regexp(t, `^[0-9A-FU+?, -]*$`, f.Range)
			}
		}
	}
}

func TestDescriptorsAreRead(t *testing.T) {
	sheet := css.ReadSheet(`@font-face{font-family:A;src:url(a.woff2);font-stretch:Condensed 125%;unicode-range:u+0-7f, U+4??}
		@font-face{font-family:B;src:url(b.woff2);font-stretch:wide;unicode-range:all}`, "https://fonts.example/")
	require.Len(t, sheet.Faces, 2)
	assert.Equal(t, "75% 125%", sheet.Faces[0].Stretch)
	assert.Equal(t, "U+0-7F, U+4??", sheet.Faces[0].Range)
	assert.Empty(t, sheet.Faces[1].Stretch)
	assert.Empty(t, sheet.Faces[1].Range)
}

func FuzzContext(f *testing.F) {
	for _, text := range hostile {
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) { stays(t, css.Sheet([]css.Face{faceOf(text)}), 1) })
}
