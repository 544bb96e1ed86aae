package metadata

import (
	"strings"
	"unicode"
)

// Printable returns a name on one line without the characters that change how what
// stands around it is shown: control characters (Unicode category Cc), the marks of
// bidirectional text (UAX #9, section 2), and line separators. Line breaks and tabs
// become spaces.
func Printable(s string) string { return printable(s, false) }

// PrintableText does as Printable for texts of several lines: line breaks and tabs stay.
func PrintableText(s string) string { return printable(s, true) }

func printable(s string, lines bool) string {
	clean := strings.Map(func(r rune) rune {
		switch {
		case r == '\n' || r == '\t':
			if lines {
				return r
			}
			return ' '
		case r == '\r' && lines, Hidden(r):
			return -1
		case r == '\r' || r == '\u2028' || r == '\u2029':
			return ' '
		}
		return r
	}, s)
	if clean == s {
		return s
	}
	if lines {
		return strings.TrimSpace(clean)
	}
	return strings.Join(strings.Fields(clean), " ")
}

// Hidden reports whether a character is not seen but changes how others are shown: a
// control character other than line breaks and tabs, or a mark of bidirectional text.
func Hidden(r rune) bool {
	switch {
	case r == '\n' || r == '\t' || r == '\r':
		return false
	case unicode.Is(unicode.Cc, r), r == '\u061C', r == '\u200E', r == '\u200F', r >= '\u202A' && r <= '\u202E', r >= '\u2066' && r <= '\u2069', r == '\uFEFF', r >= '\uFFF9' && r <= '\uFFFB':
		return true
	}
	return false
}
