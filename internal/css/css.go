// Package css writes the stylesheets that load fonts: @font-face rules by CSS
// Fonts Level 4, section 4. It is pure.
package css

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"sparecrate/font/fallback"
	"sparecrate/font/metadata"
)

const eot = "embedded-opentype"

// Source is one file of a face, in the order a browser should try them.
type Source struct {
	URL    string // absolute, or relative to the stylesheet
	Format string // woff2, woff, truetype, opentype; empty where it is not known
}

// Face is one @font-face rule.
type Face struct {
	Family  string
	Sources []Source
	Weight  string // a number, or two for a variable font's range
	Style   string // normal, italic or oblique
	Stretch string // font-stretch, a percentage or two; empty leaves it out
	Display string // font-display: swap, block, fallback, optional; empty leaves it out
	Range   string // unicode-range; empty for all characters
	// Local are full or PostScript names of fonts of the reader's machine, which
	// come before Sources.
	Local []string
	// Overrides make it take as much room as another font.
	Overrides *fallback.Overrides
}

// Of returns the rule of a face, without its sources: the family's name, and
// weight, style and width as they are or vary. Of a slant that varies nothing is
// said: browsers add a slant of their own to a range that ends before theirs.
func Of(f metadata.Face) Face {
	rule := Face{Family: f.Names.FamilyName(), Weight: strconv.Itoa(f.Style.Weight), Style: string(f.Style.Slope), Display: "swap"}
	if f.Style.Slope == metadata.Upright {
		rule.Style = "normal"
	}
	if f.Style.WidthPercent != 100 {
		rule.Stretch = percent(f.Style.WidthPercent)
	}
	for _, a := range f.Axes {
		if a.Min >= a.Max {
			continue
		}
		switch a.Tag {
		case "wght":
			rule.Weight = fmt.Sprintf("%d %d", int(a.Min), int(a.Max))
		case "wdth":
			rule.Stretch = percent(a.Min) + " " + percent(a.Max)
		}
	}
	return rule
}

// Fallbacks returns the rules of a local font that stands in for a face, one for
// each group of characters; of rules that cover the same, the last one counts.
func Fallbacks(f metadata.Face, local []string, groups []fallback.Group) []Face {
	rules := make([]Face, len(groups))
	for i, g := range groups {
		rules[i] = Fallback(f, local[0], g.Overrides)
		rules[i].Local = local
		rules[i].Range = g.Characters.String()
	}
	return rules
}

// Fallback returns the rule of a local font that stands in for a face until it
// has arrived, under the family's name with the word Fallback.
func Fallback(f metadata.Face, local string, o fallback.Overrides) Face {
	rule := Of(f)
	rule.Family += " Fallback"
	rule.Display = ""
	rule.Stretch = ""
	rule.Local = []string{local}
	rule.Overrides = &o
	return rule
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
	var sources []string
	for _, src := range f.Sources {
		if src.Format == eot { // before version 9 Internet Explorer reads only this line
			fmt.Fprintf(&s, "  src: url(%s);\n", Quote(src.URL))
		}
	}
	for _, name := range f.Local {
		sources = append(sources, fmt.Sprintf("local(%s)", Quote(name)))
	}
	// Version 8 reads a list of sources as one address, up to the mark: it comes first, and
	// what follows it is not sent to the server.
	listed := slices.Clone(f.Sources)
	slices.SortStableFunc(listed, func(a, b Source) int { return yes(b.Format == eot) - yes(a.Format == eot) })
	if len(f.Local) > 0 {
		listed = f.Sources
	}
	for _, src := range listed {
		if src.Format == eot {
			src.URL += "?#iefix"
		}
		source := fmt.Sprintf("url(%s)", Quote(src.URL))
		if src.Format != "" {
			source += fmt.Sprintf(" format(%s)", Quote(src.Format))
		}
		sources = append(sources, source)
	}
	fmt.Fprintf(&s, "  src: %s;\n", strings.Join(sources, ",\n       "))
	s.WriteString(f.descriptors())
	s.WriteString("}\n")
	return s.String()
}

func yes(b bool) int {
	if b {
		return 1
	}
	return 0
}

func percent(x float64) string { return strconv.FormatFloat(x, 'f', -1, 64) + "%" }

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
			fmt.Fprintf(&s, "\\%x ", r)
		case r == '\u2028' || r == '\u2029' || r >= 0x80 && r < 0xA0: // and into a script
			fmt.Fprintf(&s, "\\%x ", r)
		default:
			s.WriteRune(r)
		}
	}
	s.WriteByte('"')
	return s.String()
}

// ScriptString quotes text for a script (ECMAScript string literals), a line at a time.
func ScriptString(text string) string {
	lines := strings.Split(strings.TrimSuffix(text, "\n"), "\n")
	for i, line := range lines {
		line = strings.NewReplacer(`\`, `\\`, `'`, `\'`, "\u2028", `\u2028`, "\u2029", `\u2029`, "</", `<\/`, "\r", "").Replace(line)
		lines[i] = "    '" + line + "'"
	}
	return "[\n" + strings.Join(lines, ",\n") + "\n  ].join('\\n')"
}
