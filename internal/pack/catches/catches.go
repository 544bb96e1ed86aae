// Package catches says what a rule of a role catches on a page besides what people mean by it:
// navigation built of lists, headings of tables, fields of forms. It is pure.
package catches

import (
	"slices"
	"strings"

	"sparecrate/internal/builder"
)

// catch is what a rule for some elements catches besides what people think of.
type catch struct {
	elements []string
	what     string
	forced   bool         // only where the rule overrules those of the page (!important)
	light    bool         // only where the rule sets a weight below bold
	unless   builder.Role // placed by itself
	own      builder.Role // of which it is what is meant
}

var catches = []catch{
	{elements: []string{"li", "ul", "ol"}, what: "navigation built from lists", unless: builder.Navigation},
	{elements: []string{"li", "dt", "dd", "td"}, what: "bold entries, which turn regular", forced: true, light: true},
	{elements: []string{"ol"}, what: "numbered notes and breadcrumbs"},
	{elements: []string{"b", "strong"}, what: "bold words in lists and running text"},
	{elements: []string{"em", "i"}, what: "emphasized words everywhere"},
	{elements: []string{"span"}, what: "single words everywhere"},
	{elements: []string{"div"}, what: "every part of the page"},
	{elements: []string{"*"}, what: "every element of the page"},
	{elements: []string{"p"}, what: "paragraphs in quotes, lists and captions", own: builder.Body},
	{elements: []string{"a"}, what: "links styled as buttons", unless: builder.Buttons},
	{elements: []string{"a"}, what: "links in headings and in navigation"},
	{elements: []string{"td"}, what: "tables used for page layout"},
	{elements: []string{"th", "*"}, what: "table headings, which turn regular", light: true},
	{elements: []string{"label"}, what: "labels of checkboxes"},
	{elements: []string{"input", "select", "textarea", "*"}, what: "form fields"},
	{elements: []string{"*", "i", "em", "span", "a", "li", "td", "div", "p", "label", "button"}, what: "icon fonts on such elements, which turn into letters or boxes", forced: true},
}

// Rule is a rule that sets a role.
type Rule struct {
	Role     builder.Role
	Selector string
	Forced   bool                    // it overrules what the page says (!important)
	Light    bool                    // its weight is below bold
	Placed   func(builder.Role) bool // whether a role is placed by itself
}

// Of returns the elements of a rule that catch more than is meant, what they catch, and the
// roles that would be spared if they were placed.
func Of(r Rule) (elements, what []string, spared []builder.Role) {
	subjects := catchers(r.Selector)
	for _, c := range catches {
		if c.forced && !r.Forced || c.light && !r.Light || c.own == r.Role && c.own != "" || c.unless != "" && r.Placed(c.unless) {
			continue
		}
		by := slices.DeleteFunc(slices.Clone(subjects), func(e string) bool { return !slices.Contains(c.elements, e) })
		if len(by) == 0 {
			continue
		}
		what = append(what, c.what)
		for _, e := range by {
			if !slices.Contains(elements, e) {
				elements = append(elements, e)
			}
		}
		if c.unless != "" {
			spared = append(spared, c.unless)
		}
	}
	return elements, what, spared
}

// wide are elements that say little about where on a page something stands.
var wide = []string{"html", "body", "div", "ul", "ol", "dl", "table", "tbody", "thead", "tr", "form", "*"}

// catchers are the elements that a selector catches wherever they stand on a page, each
// once: not those within something named, or of a class.
func catchers(selector string) []string {
	var out []string
	for _, one := range cutOutside(selector, func(c byte) bool { return c == ',' }) {
		parts := cutOutside(one, func(c byte) bool { return c == ' ' || c == '>' || c == '+' || c == '~' || c == '\n' || c == '\t' })
		if len(parts) == 0 {
			continue
		}
		last := parts[len(parts)-1]
		if slices.ContainsFunc(parts[:len(parts)-1], func(within string) bool { return !slices.Contains(wide, strings.ToLower(within)) }) {
			continue
		}
		var found []string
		for _, any := range []string{":is(", ":where(", ":any("} {
			if strings.HasPrefix(last, any) && strings.HasSuffix(last, ")") {
				found = catchers(last[len(any) : len(last)-1])
			}
		}
		if found == nil {
			end := strings.IndexFunc(last, func(r rune) bool {
				return r != '*' && r != '-' && (r < '0' || r > '9') && (r < 'a' || r > 'z') && (r < 'A' || r > 'Z')
			})
			element, rest := last, ""
			if end >= 0 {
				element, rest = last[:end], last[end:]
			}
			switch {
			case strings.HasPrefix(rest, "[type=") && element == "input" && strings.Contains(rest, "submit"), element == "" && strings.HasPrefix(rest, "[role="):
				element = "button"
			case strings.ContainsAny(rest, ".#[") || element == "" && rest != "":
				continue // it is named
			}
			found = []string{strings.ToLower(element)}
		}
		for _, e := range found {
			if !slices.Contains(out, e) {
				out = append(out, e)
			}
		}
	}
	return out
}

// cutOutside cuts a selector where cut says so, outside of brackets and quotes; empty
// pieces are left out.
func cutOutside(s string, cut func(byte) bool) []string {
	var out []string
	depth, quote, from := 0, byte(0), 0
	piece := func(to int) {
		if one := strings.TrimSpace(s[from:to]); one != "" {
			out = append(out, one)
		}
	}
	for i := range len(s) {
		switch c := s[i]; {
		case quote != 0:
			if c == quote {
				quote = 0
			}
		case c == '"' || c == '\'':
			quote = c
		case c == '(' || c == '[':
			depth++
		case c == ')' || c == ']':
			depth--
		case depth == 0 && cut(c):
			piece(i)
			from = i + 1
		}
	}
	piece(len(s))
	return out
}
