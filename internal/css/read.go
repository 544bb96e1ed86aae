package css

import (
	"bytes"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"
)

// Hosted is an @font-face rule that somebody else wrote.
type Hosted struct {
	Family               string
	WeightMin, WeightMax int    // the same but for a range
	Style                string // normal, italic or oblique
	Stretch              string // one percentage or two; empty where it is not said
	Range                string // unicode-range; empty for all characters
	Files                []HostedFile
	Local                []string // fonts of the reader's machine that come first
}

// HostedFile is an address that a face is loaded from.
type HostedFile struct {
	Address string // absolute where the sheet's own address is known
	Format  string // as the sheet says; empty where it says nothing
}

// Read is what a stylesheet holds for fonts.
type Read struct {
	Faces   []Hosted
	Imports []string // addresses of other sheets
}

// ReadSheet reads the @font-face and @import rules of a stylesheet (CSS Fonts
// Level 4, section 4; CSS Cascade 5, section 2), also those within other rules.
// Addresses are made absolute by base, the sheet's own one, where that is given.
// What cannot be read is passed over, as browsers do.
func ReadSheet(text, base string) *Read {
	out := &Read{}
	p := css.NewParser(parse.NewInput(bytes.NewReader([]byte(text))), false)
	var face *Hosted
	for {
		grammar, _, data := p.Next()
		switch grammar {
		case css.ErrorGrammar:
			if p.Err() != nil && !p.HasParseError() {
				return out
			}
		case css.AtRuleGrammar:
			if strings.EqualFold(string(data), "@import") {
				if address, ok := firstAddress(p.Values()); ok {
					out.Imports = append(out.Imports, absolute(address, base))
				}
			}
		case css.BeginAtRuleGrammar:
			if strings.EqualFold(string(data), "@font-face") {
				face = &Hosted{WeightMin: 400, WeightMax: 400, Style: "normal"}
			}
		case css.DeclarationGrammar:
			if face != nil {
				face.declare(strings.ToLower(string(data)), p.Values(), base)
			}
		case css.EndAtRuleGrammar:
			if face != nil && face.Family != "" && len(face.Files)+len(face.Local) > 0 {
				out.Faces = append(out.Faces, *face)
			}
			face = nil
		}
	}
}

// declare takes one descriptor of a rule.
func (h *Hosted) declare(name string, values []css.Token, base string) {
	text := plain(values)
	switch name {
	case "font-family":
		h.Family = familyName(values)
	case "font-style":
		if word, _, _ := strings.Cut(strings.ToLower(text), " "); slices.Contains(slopes, word) {
			h.Style = word
		}
	case "font-weight":
		h.WeightMin, h.WeightMax = weights(text)
	case "font-stretch", "font-width":
		h.Stretch = stretch(text)
	case "unicode-range":
		h.Range = characters(text)
	case "src":
		h.sources(values, base)
	}
}

// sources reads the list of a src descriptor.
func (h *Hosted) sources(values []css.Token, base string) {
	for i, v := range values {
		switch v.TokenType {
		case css.URLToken:
			if a := inURL(string(v.Data)); a != "" && !strings.HasPrefix(strings.ToLower(a), "data:") {
				h.Files = append(h.Files, HostedFile{Address: absolute(a, base), Format: formatOf(values[i+1:])})
			}
		case css.FunctionToken:
			inside := inFunction(values[i+1:])
			switch strings.ToLower(string(v.Data)) {
			case "url(":
				if a := unquote(plain(inside)); a != "" && !strings.HasPrefix(strings.ToLower(a), "data:") {
					h.Files = append(h.Files, HostedFile{Address: absolute(a, base), Format: formatOf(values[i+1:])})
				}
			case "local(":
				h.Local = append(h.Local, unquote(plain(inside)))
			}
		}
	}
}

// inFunction returns the tokens up to the end of a function.
func inFunction(values []css.Token) []css.Token {
	if i := slices.IndexFunc(values, func(v css.Token) bool { return v.TokenType == css.RightParenthesisToken }); i >= 0 {
		return values[:i]
	}
	return values
}

// formatOf returns what format() says of a source, before the next source begins.
func formatOf(values []css.Token) string {
	for i, v := range values {
		switch {
		case v.TokenType == css.CommaToken:
			return ""
		case v.TokenType == css.FunctionToken && strings.EqualFold(string(v.Data), "format("):
			return strings.ToLower(unquote(plain(inFunction(values[i+1:]))))
		}
	}
	return ""
}

// firstAddress returns the address of an @import rule.
func firstAddress(values []css.Token) (string, bool) {
	for i, v := range values {
		switch {
		case v.TokenType == css.URLToken:
			return inURL(string(v.Data)), true
		case v.TokenType == css.StringToken:
			return unquote(string(v.Data)), true
		case v.TokenType == css.FunctionToken && strings.EqualFold(string(v.Data), "url("):
			return unquote(plain(inFunction(values[i+1:]))), true
		}
	}
	return "", false
}

// inURL returns what stands in a url() token.
func inURL(token string) string {
	inside := strings.TrimSuffix(token[strings.IndexByte(token, '(')+1:], ")")
	return unquote(strings.TrimSpace(inside))
}

// unquote takes quotes and the escapes of CSS Syntax 3, section 4.3.7, away.
func unquote(s string) string {
	s = strings.TrimSpace(s)
	if len(s) > 1 && (s[0] == '"' || s[0] == '\'') && s[len(s)-1] == s[0] {
		s = s[1 : len(s)-1]
	}
	var b strings.Builder
	for i := 0; i < len(s); i++ {
		if s[i] != '\\' || i+1 == len(s) {
			b.WriteByte(s[i])
			continue
		}
		n := 0
		for n < 6 && i+1+n < len(s) && strings.IndexByte("0123456789abcdefABCDEF", s[i+1+n]) >= 0 {
			n++
		}
		if n == 0 {
			i++
			b.WriteByte(s[i])
			continue
		}
		code, _ := strconv.ParseUint(s[i+1:i+1+n], 16, 32)
		if code == 0 {
			code = utf8.RuneError
		}
		b.WriteRune(rune(code)) //nolint:gosec // a surrogate or what is beyond Unicode comes out as U+FFFD
		i += n
		if i+1 < len(s) && strings.IndexByte(" \t\n", s[i+1]) >= 0 {
			i++
		}
	}
	return b.String()
}

func plain(values []css.Token) string {
	var b strings.Builder
	for _, v := range values {
		b.Write(v.Data)
	}
	return strings.TrimSpace(b.String())
}

// familyName joins the words of a name that stands without quotes.
func familyName(values []css.Token) string {
	if len(values) == 1 && values[0].TokenType == css.StringToken {
		return unquote(string(values[0].Data))
	}
	return strings.Join(strings.Fields(unquote(plain(values))), " ")
}

// weights reads a weight or a range of weights; 400 where it is none.
func weights(text string) (low, high int) {
	one := func(s string) int {
		switch strings.ToLower(s) {
		case "bold":
			return 700
		case "normal":
			return 400
		}
		n, err := strconv.ParseFloat(s, 64)
		if err != nil || n < 1 || n > 1000 {
			return 400
		}
		return int(n)
	}
	words := strings.Fields(text)
	switch len(words) {
	case 0:
		return 400, 400
	case 1:
		return one(words[0]), one(words[0])
	}
	a, b := one(words[0]), one(words[1])
	return min(a, b), max(a, b)
}

// absolute resolves an address within a sheet of the address base.
func absolute(address, base string) string {
	b, err := url.Parse(base)
	if err != nil || base == "" {
		if strings.HasPrefix(address, "//") {
			return "https:" + address
		}
		return address
	}
	u, err := b.Parse(address)
	if err != nil {
		return address
	}
	return u.String()
}

// HostedRules writes the rules of somebody else's fonts, with their addresses.
func HostedRules(faces []Hosted) string {
	rules := make([]Face, len(faces))
	for i, h := range faces {
		rules[i] = h.Rule()
	}
	return Sheet(rules)
}

// Rule returns the rule of a face of somebody else's, with its addresses.
func (h Hosted) Rule() Face {
	rule := Face{Family: h.Family, Weight: strconv.Itoa(h.WeightMin), Style: h.Style, Stretch: h.Stretch, Range: h.Range, Local: h.Local, Display: "swap"}
	if h.WeightMax != h.WeightMin {
		rule.Weight = fmt.Sprintf("%d %d", h.WeightMin, h.WeightMax)
	}
	for _, f := range h.Files {
		rule.Sources = append(rule.Sources, Source{URL: f.Address, Format: f.Format})
	}
	return rule
}

// ShortRange writes a unicode-range by its first part and how many more there are.
func ShortRange(text string) string {
	parts := strings.Split(text, ",")
	if len(parts) == 1 {
		return text
	}
	return fmt.Sprintf("%s and %d more", parts[0], len(parts)-1)
}
