package css

import (
	"bytes"
	"net/url"
	"slices"
	"strings"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"
	markup "golang.org/x/net/html"
)

// FamiliesSet returns the font families that the rules of a stylesheet set text in, in small
// letters, each with the selectors of these rules (CSS Fonts Level 4, section 2.1).
func FamiliesSet(text string) map[string][]string {
	out := map[string][]string{}
	p := css.NewParser(parse.NewInput(bytes.NewReader([]byte(text))), false)
	var selectors []string // of the rules around
	before := ""           // selectors of a list, up to the last
	fonts := 0             // depth within @font-face
	for {
		grammar, _, data := p.Next()
		switch grammar {
		case css.ErrorGrammar:
			if p.Err() != nil && !p.HasParseError() {
				return out
			}
		case css.QualifiedRuleGrammar:
			before += plain(p.Values()) + ", "
		case css.BeginRulesetGrammar:
			selectors, before = append(selectors, before+plain(p.Values())), ""
		case css.EndRulesetGrammar:
			selectors = selectors[:max(0, len(selectors)-1)]
		case css.BeginAtRuleGrammar:
			if strings.EqualFold(string(data), "@font-face") || fonts > 0 {
				fonts++
			}
		case css.EndAtRuleGrammar:
			fonts = max(0, fonts-1)
		case css.DeclarationGrammar:
			if name := strings.ToLower(string(data)); fonts == 0 && len(selectors) > 0 && (name == "font-family" || name == "font") {
				for _, family := range familiesOf(p.Values(), name == "font") {
					if of := selectors[len(selectors)-1]; !slices.Contains(out[family], of) {
						out[family] = append(out[family], of)
					}
				}
			}
		}
	}
}

// familiesOf returns the families of a list of fonts, in small letters; of the shorthand, what
// stands behind the size.
func familiesOf(values []css.Token, shorthand bool) []string {
	var out []string
	var words []string
	flush := func() {
		if name := strings.Join(words, " "); name != "" {
			out = append(out, strings.ToLower(name))
		}
		words = nil
	}
	for i, v := range values {
		switch v.TokenType {
		case css.CommaToken:
			flush()
		case css.StringToken:
			words = []string{unquote(string(v.Data))}
		case css.IdentToken:
			words = append(words, string(v.Data))
		case css.DimensionToken, css.PercentageToken, css.NumberToken:
			if shorthand && len(out) == 0 {
				words = nil // style, weight and size stand before the first
			}
		case css.DelimToken:
			if string(v.Data) == "!" && i > 0 {
				flush()
				return out
			}
		}
	}
	flush()
	return out
}

// PageStyles is what a page holds of styles.
type PageStyles struct {
	Inline string   // the text of its style elements, and its style attributes as rules
	Linked []string // absolute URLs of its stylesheets
}

// StylesOfPage reads the styles of an HTML page; URLs are made absolute by base, the page's own.
func StylesOfPage(text, base string) PageStyles {
	var out PageStyles
	var inline strings.Builder
	z := markup.NewTokenizer(strings.NewReader(text))
	inside := false
	for {
		switch z.Next() {
		case markup.ErrorToken:
			out.Inline = inline.String()
			return out
		case markup.TextToken:
			if inside {
				inline.WriteString(string(z.Text()) + "\n")
			}
		case markup.EndTagToken:
			inside = false
		case markup.StartTagToken, markup.SelfClosingTagToken:
			t := z.Token()
			inside = t.Data == "style"
			attributes := map[string]string{}
			for _, a := range t.Attr {
				attributes[strings.ToLower(a.Key)] = a.Val
			}
			if style := attributes["style"]; style != "" && !strings.ContainsAny(style, "{}") {
				inline.WriteString(selectorOf(t.Data, attributes) + " {" + style + "}\n")
			}
			if t.Data == "base" && attributes["href"] != "" {
				base = absolute(attributes["href"], base)
			}
			if t.Data == "link" && attributes["href"] != "" && slices.Contains(strings.Fields(strings.ToLower(attributes["rel"])), "stylesheet") {
				if at := absolute(attributes["href"], base); isWeb(at) && !slices.Contains(out.Linked, at) {
					out.Linked = append(out.Linked, at)
				}
			}
		}
	}
}

// selectorOf names an element by its tag, and its ID or first class.
func selectorOf(tag string, attributes map[string]string) string {
	name := func(s string) string {
		return strings.Map(func(r rune) rune {
			if r == '-' || r == '_' || r >= '0' && r <= '9' || r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' {
				return r
			}
			return -1
		}, s)
	}
	tag = name(tag)
	if id := name(attributes["id"]); id != "" {
		return tag + "#" + id
	}
	if classes := strings.Fields(attributes["class"]); len(classes) > 0 && name(classes[0]) != "" {
		return tag + "." + name(classes[0])
	}
	return tag
}

func isWeb(address string) bool {
	u, err := url.Parse(address)
	return err == nil && (u.Scheme == "https" || u.Scheme == "http") && u.Host != ""
}
