package css

import (
	"bytes"
	"regexp"
	"strings"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"
)

// FontRule is an @font-face rule as it stands in a stylesheet, whether it can be used or
// not.
type FontRule struct {
	Hosted
	Line     int    // from 1
	Display  string // font-display; empty where it is not said
	Embedded int    // sources that stand in the sheet itself, as data: URLs
	Adjusted bool   // it overrides metrics, as a stand-in does
	Nested   bool   // within another rule, such as @media
	Source   bool   // there is a src
	Text     string
}

// comments matches what browsers pass over.
var comments = regexp.MustCompile(`(?s)/\*.*?\*/`)

// bare returns a sheet without its comments, each line where it was.
func bare(text string) string {
	return comments.ReplaceAllStringFunc(text, func(c string) string { return strings.Repeat("\n", strings.Count(c, "\n")) })
}

// FontRules returns the @font-face rules of a stylesheet with their lines, those that lack
// something as well. Addresses are made absolute by base.
func FontRules(text, base string) []FontRule {
	text = bare(text)
	var out []FontRule
	p := css.NewParser(parse.NewInput(bytes.NewReader([]byte(text))), false)
	var rule *FontRule
	depth, from := 0, 0
	for {
		grammar, _, data := p.Next()
		switch grammar {
		case css.ErrorGrammar:
			if p.Err() != nil && !p.HasParseError() {
				return out
			}
		case css.BeginAtRuleGrammar:
			if strings.EqualFold(string(data), "@font-face") && rule == nil {
				from = min(p.Offset(), len(text))
				rule = &FontRule{Hosted: Hosted{WeightMin: 400, WeightMax: 400, Style: "normal"}, Nested: depth > 0, Line: 1 + strings.Count(text[:from], "\n")}
			}
			depth++
		case css.DeclarationGrammar:
			if rule != nil {
				name := strings.ToLower(string(data))
				rule.declare(name, p.Values(), base)
				switch name {
				case "font-display":
					rule.Display = strings.ToLower(plain(p.Values()))
				case "src":
					rule.Source = true
					rule.Embedded += strings.Count(strings.ToLower(plain(p.Values())), "data:")
				case "size-adjust", "ascent-override", "descent-override", "line-gap-override":
					rule.Adjusted = true
				}
			}
		case css.EndAtRuleGrammar:
			depth = max(0, depth-1)
			if rule != nil {
				rule.Text = "@font-face {" + text[from:max(from, min(p.Offset(), len(text)))]
				out = append(out, *rule)
			}
			rule = nil
		}
	}
}

// Misspelled is an at-rule that browsers drop because its name is not quite @font-face.
type Misspelled struct {
	Name string
	Line int
	Text string // of the rule, shortened
}

var blockRule = regexp.MustCompile(`(?s)@\s*([\p{L}_‑–—-]+(?:\s+face)?)\s*\{([^{}]*)\}`)

// MisspelledRules returns the at-rules of a stylesheet that are meant to be @font-face.
func MisspelledRules(text string) []Misspelled {
	text = bare(text)
	var out []Misspelled
	for _, m := range blockRule.FindAllStringSubmatchIndex(text, -1) {
		name, body := text[m[2]:m[3]], strings.ToLower(text[m[4]:m[5]])
		if strings.EqualFold(name, "font-face") && text[m[0]+1] != ' ' {
			continue
		}
		if strings.Contains(body, "src") && strings.Contains(body, "font-family") {
			out = append(out, Misspelled{Name: "@" + name, Line: 1 + strings.Count(text[:m[0]], "\n"), Text: text[m[0]:m[1]]})
		}
	}
	return out
}

// Curly matches the quotes that text editors put in place of straight ones.
var Curly = regexp.MustCompile(`[“”„‟‘’‚‛«»]`)

// CurlyLines returns the lines, from 1, of declarations of fonts that hold curly quotes.
func CurlyLines(text string) []int {
	var out []int
	for i, line := range strings.Split(bare(text), "\n") {
		lower := strings.ToLower(line)
		if Curly.MatchString(line) && (strings.Contains(lower, "font-family") || strings.Contains(lower, "src") || strings.Contains(lower, "url(") || strings.Contains(lower, "format(")) && !strings.Contains(lower, "content") {
			out = append(out, i+1)
		}
	}
	return out
}
