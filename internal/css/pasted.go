package css

import (
	"errors"
	"fmt"
	"html"
	"net/url"
	"regexp"
	"slices"
	"strings"

	"github.com/agnivade/levenshtein"
	markup "golang.org/x/net/html"
)

// Pasted is what was found in something that somebody pasted.
type Pasted struct {
	Addresses []string // of stylesheets, absolute, each once
	Faces     []Hosted // of rules that were pasted themselves
	Notes     []string // sentences on what was mended or passed over
}

// ErrNoSheet says that what was pasted holds nothing to read fonts from.
var ErrNoSheet = errors.New("there is no stylesheet URL and no @font-face rule in the pasted text; paste a link tag, an @import rule, the URL of a stylesheet, or @font-face rules")

// ReadPasted finds the addresses of stylesheets and the @font-face rules in what
// people paste: link tags, @import rules, addresses, rules, or a mixture. What
// text editors and hasty copying do to code is mended, with a note. The error
// wraps ErrNoSheet.
func ReadPasted(text string) (*Pasted, error) {
	p := &Pasted{}
	text = p.mend(text)
	sheet := text
	if strings.Contains(text, "<") {
		sheet = p.markup(text)
	}
	read := ReadSheet(sheet, "")
	p.Faces = read.Faces
	for _, a := range read.Imports {
		p.add(a)
	}
	if len(p.Addresses)+len(p.Faces) == 0 {
		p.bare(sheet)
	}
	if len(p.Addresses)+len(p.Faces) == 0 {
		return nil, ErrNoSheet
	}
	return p, nil
}

func (p *Pasted) note(format string, args ...any) {
	if n := fmt.Sprintf(format, args...); !slices.Contains(p.Notes, n) {
		p.Notes = append(p.Notes, n)
	}
}

// add keeps an address once, with its scheme.
func (p *Pasted) add(address string) {
	address = strings.TrimSpace(address)
	if strings.HasPrefix(address, "//") {
		address = "https:" + address
	}
	u, err := url.Parse(address)
	if err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" {
		p.note("%q is not a complete URL, so the stylesheet cannot be read. Paste it with the server's name.", address)
		return
	}
	if !slices.Contains(p.Addresses, address) {
		p.Addresses = append(p.Addresses, address)
	}
}

var (
	curly     = strings.NewReplacer("“", `"`, "”", `"`, "„", `"`, "‟", `"`, "«", `"`, "»", `"`, "″", `"`, "‘", "'", "’", "'", "‚", "'", "′", "'")
	invisible = strings.NewReplacer("\u200b", "", "\ufeff", "", "\u00a0", " ", "\u2028", "\n")
	atRule    = regexp.MustCompile(`@\s*[A-Za-z_-]+(\s+face\b)?`)
	noAt      = regexp.MustCompile(`(?mi)^(\s*)(import\s+(?:url\(|["'])|font-face\s*\{)`)
	atWords   = []string{"@import", "@font-face"}
	others    = []string{"@media", "@charset", "@layer", "@supports", "@namespace", "@keyframes", "@page", "@property", "@format", "@font-feature-values", "@font-palette-values"}
	web       = regexp.MustCompile(`(?i)(?:https?:|^|[\s"'(=])//[^\s"'<>()\\;]+`)
	host      = regexp.MustCompile(`(?i)^[a-z0-9][a-z0-9.-]*\.[a-z]{2,}(?::\d+)?/\S*$`)
)

// mend makes code out of what a text editor or a web page made of it.
func (p *Pasted) mend(text string) string {
	text = invisible.Replace(text)
	if straight := curly.Replace(text); straight != text {
		p.note("Curly quotes were changed to straight ones: code does not work with curly quotes.")
		text = straight
	}
	if strings.Contains(text, "&lt;") || !strings.Contains(text, "<") && strings.Contains(text, "&amp;") {
		p.note("The code contains HTML escapes such as &lt; or &amp;; they were decoded.")
		text = html.UnescapeString(text)
	}
	text = noAt.ReplaceAllStringFunc(text, func(s string) string {
		word := strings.Fields(strings.TrimLeft(s, " \t\n"))[0]
		p.note("The @ before %s was missing; it was put in.", strings.TrimRight(strings.ToLower(word), "{"))
		at := len(s) - len(strings.TrimLeft(s, " \t\r\n"))
		return s[:at] + "@" + s[at:]
	})
	return atRule.ReplaceAllStringFunc(text, p.atRule)
}

// atRule mends the name of an at-rule that is nearly one of fonts.
func (p *Pasted) atRule(said string) string {
	word := strings.ToLower(strings.Join(strings.Fields(strings.ReplaceAll(said, "_", "-")), "-"))
	word = strings.Replace(word, "@-", "@", 1)
	if slices.Contains(others, word) {
		return said
	}
	for _, right := range atWords {
		if strings.ToLower(said) == right {
			return said
		}
		if levenshtein.ComputeDistance(word, right) <= 2 {
			p.note("%q is misspelt; it was read as %s.", said, right)
			return right
		}
	}
	return said
}

// markup reads the tags in what was pasted and gives the stylesheets between them.
func (p *Pasted) markup(text string) string {
	var sheet strings.Builder
	z := markup.NewTokenizer(strings.NewReader(text))
	inside := ""
	for {
		switch z.Next() {
		case markup.ErrorToken:
			return sheet.String()
		case markup.TextToken:
			if inside == "script" {
				p.script(string(z.Raw()))
				continue
			}
			sheet.WriteString(string(z.Text()) + "\n")
		case markup.StartTagToken, markup.SelfClosingTagToken:
			t := z.Token()
			inside = t.Data
			if t.Data == "link" {
				p.link(t)
			}
		case markup.EndTagToken:
			inside = ""
		}
	}
}

// link reads a link tag.
func (p *Pasted) link(t markup.Token) {
	attributes := map[string]string{}
	for _, a := range t.Attr {
		attributes[strings.ToLower(a.Key)] = a.Val
	}
	href := attributes["href"]
	rel := strings.Fields(strings.ToLower(attributes["rel"]))
	switch {
	case href == "":
	case slices.Contains(rel, "stylesheet") || len(rel) == 0 || attributes["as"] == "style":
		p.add(href)
	case slices.Contains(rel, "preconnect") || slices.Contains(rel, "dns-prefetch"):
		p.note("The tag for %s only opens a connection ahead of time; it brings no font and was passed over.", href)
	default:
		p.note("The tag with rel=%q brings no stylesheet and was passed over.", attributes["rel"])
	}
}

// script looks for addresses in a script, which is not run.
func (p *Pasted) script(text string) {
	for _, a := range web.FindAllString(text, -1) {
		p.note("A script was not run; a URL in it was read as a stylesheet's.")
		p.add(strings.Trim(a, " \t\r\n\"'(="))
	}
}

// bare finds addresses that stand for themselves.
func (p *Pasted) bare(text string) {
	if whole := strings.TrimSpace(text); web.MatchString(whole) && strings.HasPrefix(strings.ToLower(whole), "http") && len(strings.Fields(whole)) == 1 {
		p.add(whole)
		return
	}
	for _, a := range web.FindAllString(text, -1) {
		p.add(strings.Trim(a, " \t\r\n\"'(="))
	}
	if len(p.Addresses) > 0 {
		return
	}
	for _, word := range strings.Fields(text) {
		if word = strings.Trim(word, `"';,()`); host.MatchString(word) {
			p.note("The URL had no https://; it was added.")
			p.add("https://" + word)
		}
	}
}

// Snippets are the forms in which platforms want a stylesheet's address.
type Snippets struct{ Address, Link, Import, Script string }

// SnippetsOf writes an address in every form.
func SnippetsOf(address string) Snippets {
	inScript := strings.NewReplacer(`\`, `\\`, "'", `\'`, "<", `\x3C`, "\n", "")
	return Snippets{
		Address: address,
		Link:    `<link rel="stylesheet" href="` + html.EscapeString(address) + `">`,
		Import:  `@import url("` + strings.NewReplacer(`\`, `\\`, `"`, `\"`).Replace(address) + `");`,
		Script:  "const sheet = document.createElement('link');\nsheet.rel = 'stylesheet';\nsheet.href = '" + inScript.Replace(address) + "';\ndocument.head.append(sheet);",
	}
}
