package pack_test

import (
	"bytes"
	"encoding/json"
	"encoding/xml"
	"errors"
	"io"
	"path"
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/tdewolff/parse/v2"
	lexer "github.com/tdewolff/parse/v2/css"
	"golang.org/x/net/html"

	"sparecrate/font/metadata"
	"sparecrate/internal/builder"
	"sparecrate/internal/css"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
)

// mark is in every hostile text, so that a test finds where it went.
const mark = "h0st1le"

// texts try to leave strings, comments, attributes, elements, lines.
var texts = []string{
	mark + `</style><script>alert(1)</script>`, mark + `"><img src=x onerror=alert(1)>`, `*/ body{` + mark + `:none} /*`, mark + `'); alert(1); ('`,
	mark + "\n}\n" + mark + "{color:red}", mark + `\`, mark + `"; alert(1); //`, "--><script>" + mark + "</script>", mark + "]]><x/>", mark + "\u2028alert(1)\u2029",
	mark + "${alert(1)}`", "{{" + mark + "}}", mark + "\x1b[31m\u202e", mark + "\\(print(1))", "<!--<script>" + mark,
}

// hostileInput has a hostile text wherever a person or a font may put one.
func hostileInput(t *testing.T, kind, text string) pack.Input {
	t.Helper()
	in := input(t, kind)
	in.Site, in.Client, in.Environment, in.Words = text, text, text, text
	in.Domains = []string{text}
	f := &in.Families[0]
	f.Name = text
	f.Left = []string{text}
	f.Verdict = license.Verdict{State: license.Review, Reasons: []license.Reason{{State: license.Review, Code: "no-evidence", Message: text, Evidence: text}}}
	f.Licenses = []pack.License{{Name: text, SPDX: "OFL-1.1"}}
	f.SignOff = &pack.SignOff{By: text, At: "2026-11-24T10:00:00Z", Reason: text}
	for i := range f.Faces {
		f.Faces[i].Style, f.Faces[i].Changed, f.Faces[i].Why = text, text, text
		f.Faces[i].Metadata.Names = metadata.Names{Family: text, Full: text, PostScript: text, Copyright: text, SampleText: text, License: text, Designer: text}
	}
	f.Faces[1].NoReplacement = text
	in.RoleAssignments = []pack.RoleAssignment{
		{Role: builder.Body, Family: text, Weight: 400, Stack: []string{text, "serif"}},
		{Role: "own", Name: text, Selector: ".own", Family: text, Weight: 700},
	}
	in.Replacements = []pack.Replacement{{Name: text, Family: text, Weight: 400}}
	in.Pages = []pack.Page{{Title: text, Address: text}}
	in.Prefix = "/fonts/"
	packed, err := pack.Assemble(in)
	require.NoError(t, err)
	if in.Rules.URLs.After {
		in.FileURLs = map[string]pack.FileURLs{}
		for _, e := range packed.Entries {
			in.FileURLs[e.Path] = pack.FileURLs{Address: "https://x.example/" + text, SHA256: e.SHA256}
		}
	}
	return in
}

// TestNothingLeavesItsContext builds packs of hostile texts for every builder, and reads
// each file as what reads it will: no text becomes code.
func TestNothingLeavesItsContext(t *testing.T) {
	for _, r := range builder.Shipped() {
		kind := r.Kind
		for _, text := range texts {
			in := hostileInput(t, kind, text)
			packed, err := pack.Assemble(in)
			require.NoError(t, err)
			if kind == "self-hosted" {
				in.Families = append(in.Families, pack.Family{Name: text, Faces: []pack.Face{{Style: text}}, Elsewhere: []pack.Sheet{{Host: text, Rules: []css.Face{{Family: text, Sources: []css.Source{{URL: text, Format: text}}, Weight: text, Stretch: text, Range: text}}}, {Host: text, Address: text}}})
				packed, err = pack.Assemble(in)
				require.NoError(t, err)
			}
			for _, e := range packed.Entries {
				assert.Equal(t, path.Clean("/"+e.Path), "/"+e.Path, "a path that leads elsewhere")
				assert.False(t, strings.ContainsFunc(e.Path, unicode.IsControl), "%q", e.Path)
				if e.Place < 0 {
					holds(t, kind+" "+e.Path, e.Path, read(t, e.Blob))
				}
			}
			holds(t, kind+" slip", "slip.html", packed.Slip)
			if packed.Styles != "" {
				switch in.Rules.Styles.Form {
				case builder.StylesBlock:
					holds(t, kind+" block", "block.html", []byte(packed.Styles))
				case builder.StylesStylesheet, builder.StylesBox, builder.StylesLinked:
					holds(t, kind+" styles", "styles.css", []byte(packed.Styles))
				case builder.StylesScript:
					holds(t, kind+" script", "script.js", []byte(packed.Styles))
				}
			}
		}
	}
}

// holds reads a file as what it is.
func holds(t *testing.T, what, name string, data []byte) {
	t.Helper()
	switch path.Ext(name) {
	case ".html":
		page, err := html.Parse(bytes.NewReader(data))
		require.NoError(t, err)
		for n := range page.Descendants() {
			if n.Type != html.ElementNode {
				continue
			}
			assert.NotContains(t, []string{"script", "img", "x", "iframe", "svg"}, n.Data, "%s: an element that a text made", what)
			for _, a := range n.Attr {
				assert.False(t, strings.HasPrefix(a.Key, "on"), "%s: %s", what, a.Key)
				assert.NotContains(t, a.Key, mark, what)
				if a.Key == "style" {
					onlyDeclarations(t, what, a.Val)
				}
			}
			if n.Data == "style" && n.FirstChild != nil {
				onlyRules(t, what, []byte(n.FirstChild.Data))
			}
		}
	case ".css":
		onlyRules(t, what, data)
		assert.NotContains(t, strings.ToLower(string(data)), "</style", what)
	case ".json":
		assert.True(t, json.Valid(data), what)
	case ".xml", ".plist":
		for d := xml.NewDecoder(bytes.NewReader(data)); ; {
			token, err := d.Token()
			if errors.Is(err, io.EOF) {
				break
			}
			require.NoError(t, err, "%s: %s", what, data)
			if e, ok := token.(xml.StartElement); ok {
				assert.NotEqual(t, "x", e.Name.Local, what)
			}
		}
	case ".js":
		assert.NotContains(t, strings.ToLower(string(data)), "</script", what)
		assert.NotContains(t, string(data), "<!--", what)
		onlyStrings(t, what, string(data))
	case ".swift":
		for line := range strings.Lines(string(data)) {
			if strings.Contains(line, "static let") {
				assert.Regexp(t, `^    static let \w+ = "(?:[^"\\]|\\\\|\\")*"\n$`, line, what)
			}
		}
	}
}

// onlyRules holds that a stylesheet has no rule or declaration that a text made.
func onlyRules(t *testing.T, what string, data []byte) {
	t.Helper()
	p := lexer.NewParser(parse.NewInput(bytes.NewReader(data)), false)
	for {
		kind, _, text := p.Next()
		switch kind {
		case lexer.ErrorGrammar:
			if p.HasParseError() {
				t.Errorf("%s: %v in %s", what, p.Err(), data)
			}
			return
		case lexer.BeginRulesetGrammar, lexer.QualifiedRuleGrammar, lexer.DeclarationGrammar, lexer.AtRuleGrammar, lexer.BeginAtRuleGrammar:
			assert.NotContains(t, string(text), mark, what)
			for _, v := range p.Values() {
				if v.TokenType != lexer.StringToken && v.TokenType != lexer.URLToken {
					assert.NotContains(t, string(v.Data), mark, "%s: outside of quotes in %s", what, text)
				}
			}
		case lexer.TokenGrammar:
			t.Errorf("%s: a loose %q", what, text)
		}
	}
}

func onlyDeclarations(t *testing.T, what, style string) {
	t.Helper()
	onlyRules(t, what, []byte("x{"+style+"}"))
}

// onlyStrings holds that a script has a text in its strings and comments only.
func onlyStrings(t *testing.T, what, script string) {
	t.Helper()
	var outside strings.Builder
	for i := 0; i < len(script); i++ {
		switch {
		case strings.HasPrefix(script[i:], "/*"):
			end := strings.Index(script[i+2:], "*/")
			require.GreaterOrEqual(t, end, 0, what)
			i += end + 3
		case script[i] == '\'':
			for i++; script[i] != '\''; i++ {
				require.NotEqual(t, byte('\n'), script[i], "%s: a string that a line ends", what)
				if script[i] == '\\' {
					i++
				}
			}
		default:
			outside.WriteByte(script[i])
		}
	}
	assert.NotContains(t, outside.String(), mark, what)
	assert.NotContains(t, outside.String(), "alert", what)
}
