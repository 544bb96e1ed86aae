package builder

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"
)

// Role is what a face does on a site. Besides the known ones a team has its own,
// each with a selector.
type Role string

// The known roles.
const (
	Body       Role = "body"
	Heading1   Role = "heading-1"
	Heading2   Role = "heading-2"
	Heading3   Role = "heading-3"
	Heading4   Role = "heading-4"
	Heading5   Role = "heading-5"
	Heading6   Role = "heading-6"
	Links      Role = "links"
	Buttons    Role = "buttons"
	Navigation Role = "navigation"
	Captions   Role = "captions"
	Lists      Role = "lists"
	Quotes     Role = "quotes"
	Code       Role = "code"
)

// Known is a role that needs no selector.
type Known struct {
	Role     Role
	Name     string // for people
	Selector string // where the platform has no other
	// Running says that people write words in bold and italic in it.
	Running bool
}

// Roles are the known roles, in the order they are shown and written in: what
// comes later overrules what comes before.
var Roles = []Known{
	{Body, "Body text", "body", true},
	{Lists, "Lists", "ul, ol, dl", true},
	{Quotes, "Quotes", "blockquote", true},
	{Captions, "Captions", "figcaption, caption", true},
	{Links, "Links", "a", false},
	{Navigation, "Navigation", "nav, nav a", false},
	{Buttons, "Buttons", "button, input[type=\"submit\"], [role=\"button\"]", false},
	{Code, "Code", "code, pre, kbd, samp", false},
	{Heading6, "Heading 6", "h6", false},
	{Heading5, "Heading 5", "h5", false},
	{Heading4, "Heading 4", "h4", false},
	{Heading3, "Heading 3", "h3", false},
	{Heading2, "Heading 2", "h2", false},
	{Heading1, "Heading 1", "h1", false},
}

// Known returns what is known of a role; ok is false for a team's own.
func (r Role) Known() (Known, bool) {
	at := slices.IndexFunc(Roles, func(k Known) bool { return k.Role == r })
	if at < 0 {
		return Known{Role: r, Name: string(r)}, false
	}
	return Roles[at], true
}

// Order is the place of a role among others; a team's own come last.
func (r Role) Order() int {
	at := slices.IndexFunc(Roles, func(k Known) bool { return k.Role == r })
	if at < 0 {
		return len(Roles)
	}
	return at
}

// Selector returns the selector of a role at this platform: its own, or the usual.
func (r *Rules) Selector(role Role) string {
	for _, s := range r.Roles {
		if s.Role == role && s.Selector != "" {
			return s.Selector
		}
	}
	k, _ := role.Known()
	return k.Selector
}

// errSelector says that a text is no selector; the message is a sentence.
var errSelector = errors.New("no selector")

// CheckSelector refuses what would end a rule or is no selector at all; the
// error is a sentence.
func CheckSelector(text string) error {
	if strings.TrimSpace(text) == "" {
		return fmt.Errorf("%w: a role of your own needs a selector, like .timetable td", errSelector)
	}
	if len(text) > 500 {
		return fmt.Errorf("%w: this selector is longer than 500 letters", errSelector)
	}
	if strings.ContainsAny(text, "{};@<\\") || strings.Contains(text, "/*") {
		return fmt.Errorf("%w: write the selector alone, without braces, semicolons or comments", errSelector)
	}
	if i := strings.IndexAny(text, "“”‘’„"); i >= 0 {
		return fmt.Errorf("%w: the selector has curly quotes; write straight ones", errSelector)
	}
	depth := 0
	l := css.NewLexer(parse.NewInputString(text))
	for {
		kind, _ := l.Next()
		switch kind {
		case css.ErrorToken:
			if depth != 0 {
				return fmt.Errorf("%w: a bracket is not closed", errSelector)
			}
			parts := strings.Split(text, ",")
			if depthless(text) && slices.ContainsFunc(parts, func(p string) bool { return strings.TrimSpace(p) == "" }) {
				return fmt.Errorf("%w: there is nothing before or after a comma", errSelector)
			}
			return nil
		case css.BadStringToken, css.BadURLToken, css.URLToken, css.CDOToken, css.CDCToken:
			return fmt.Errorf("%w: a quote is not closed", errSelector)
		case css.LeftParenthesisToken, css.LeftBracketToken, css.FunctionToken:
			depth++
		case css.RightParenthesisToken, css.RightBracketToken:
			depth--
		}
	}
}

func depthless(text string) bool { return !strings.ContainsAny(text, "([\"'") }

// Reading orders roles as people read them, the largest number first: body text,
// headings by size, then what stands in text and around it.
func (r Role) Reading() int {
	for i, k := range []Role{Body, Heading1, Heading2, Heading3, Heading4, Heading5, Heading6, Links, Buttons, Navigation, Captions, Lists, Quotes, Code} {
		if k == r {
			return 100 - i
		}
	}
	return 0
}
