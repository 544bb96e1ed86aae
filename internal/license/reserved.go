package license

import (
	"regexp"
	"slices"
	"strings"
)

// reservedName matches the phrase by which a font's license keeps its name.
var reservedName = regexp.MustCompile(`with\s+(?:the\s+)?(?:no\s+)?reserved\s+font\s+names?\s*(?:\(s\))?\s*(?:are|is|of)?\s*:?\s*`)

// reservedWords takes one name off the head of what follows.
var reservedWords = regexp.MustCompile(`^(?:"([^"\n]{1,60})"|'([^'\n]{1,60})'|([\pL\pN][\pL\pN +&_-]{0,59}))(?:\s*(?:,|;|\band\b|\bor\b)\s*)?`)

// noName matches what follows such a phrase in the text of a license and is no name.
var noName = regexp.MustCompile(`(?i)^(?:this font|this license|the fonts?|and|or|the|any|under|no |is |are )|copyright|reserved|licen[cs]e|permission`)

// reserved returns the reserved font names of a text.
func (t *text) reserved() ([]string, span, bool) {
	var out []string
	var at span
	if !strings.Contains(t.plain, "reserved") {
		return nil, at, false
	}
	for _, m := range reservedName.FindAllStringIndex(t.plain, 20) {
		if strings.Contains(t.plain[m[0]:m[1]], "no reserved") {
			continue
		}
		// The names as they are written, not in small letters.
		rest := t.plain[m[1]:]
		from := m[1]
		for n := 0; n < 10; n++ {
			w := reservedWords.FindStringSubmatchIndex(rest)
			if w == nil {
				break
			}
			for g := 2; g < len(w); g += 2 {
				if w[g] < 0 {
					continue
				}
				s := t.place(from+w[g], from+w[g+1], 1)
				name := strings.Trim(strings.Join(strings.Fields(t.body[s.from:s.to]), " "), " \"'.,“”‘’„«»")
				// A sentence of the license that goes on, or its template, is no name.
				if i := strings.Index(strings.ToLower(name), " and "); i > 0 && g == 6 {
					name = name[:i]
				}
				if name != "" && !noName.MatchString(name) && !slices.Contains(out, name) {
					if out == nil {
						at = t.place(m[0], from+w[g+1], 1)
					}
					out = append(out, name)
				}
			}
			quoted := w[2] >= 0 || w[4] >= 0
			more := strings.ContainsAny(rest[:w[1]], ",;") || strings.HasSuffix(strings.TrimSpace(rest[:w[1]]), "and") || strings.HasSuffix(strings.TrimSpace(rest[:w[1]]), "or")
			rest, from = rest[w[1]:], from+w[1]
			if !more || !quoted && !strings.HasPrefix(strings.TrimSpace(rest), `"`) {
				break
			}
		}
	}
	return out, at, len(out) > 0
}
