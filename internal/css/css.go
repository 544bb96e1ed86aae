// Package css writes the stylesheets that load fonts: @font-face rules by CSS
// Fonts Level 4, section 4. It is pure.
package css

import (
	"fmt"
	"strconv"
	"strings"
)

// Source is one file of a face, in the order a browser should try them.
type Source struct {
	URL    string // absolute, or relative to the stylesheet
	Format string // woff2, woff, truetype, opentype
}

// Face is one @font-face rule.
type Face struct {
	Family         string
	Sources        []Source
	Weight         string  // a number, or two for a variable font's range
	Style          string  // normal, italic or oblique
	StretchPercent float64 // 0 leaves the descriptor out
	Display        string  // font-display: swap, block, fallback, optional
}

// Sheet writes rules, in order, one after the other.
func Sheet(faces []Face) string {
	var s strings.Builder
	for i, f := range faces {
		if i > 0 {
			s.WriteByte('\n')
		}
		s.WriteString(f.String())
	}
	return s.String()
}

// String writes one rule.
func (f Face) String() string {
	var s strings.Builder
	s.WriteString("@font-face {\n")
	fmt.Fprintf(&s, "  font-family: %s;\n", Quote(f.Family))
	sources := make([]string, len(f.Sources))
	for i, src := range f.Sources {
		sources[i] = fmt.Sprintf("url(%s) format(%s)", Quote(src.URL), Quote(src.Format))
	}
	fmt.Fprintf(&s, "  src: %s;\n", strings.Join(sources, ",\n       "))
	fmt.Fprintf(&s, "  font-weight: %s;\n  font-style: %s;\n", f.Weight, f.Style)
	if f.StretchPercent != 0 {
		fmt.Fprintf(&s, "  font-stretch: %s%%;\n", strconv.FormatFloat(f.StretchPercent, 'f', -1, 64))
	}
	fmt.Fprintf(&s, "  font-display: %s;\n}\n", f.Display)
	return s.String()
}

// Quote writes a CSS string (CSS Syntax Level 3, section 4.3.5; CSSOM
// "serialize a string").
func Quote(text string) string {
	var s strings.Builder
	s.WriteByte('"')
	for _, r := range text {
		switch {
		case r == 0:
			s.WriteRune('\uFFFD')
		case r < ' ' || r == 0x7F:
			fmt.Fprintf(&s, "\\%x ", r)
		case r == '"' || r == '\\':
			s.WriteByte('\\')
			s.WriteRune(r)
		case r == '<': // a stylesheet may be pasted into a page, where </style> would end it
			s.WriteString("\\3c ")
		default:
			s.WriteRune(r)
		}
	}
	s.WriteByte('"')
	return s.String()
}
