package pack

import (
	"fmt"
	"slices"
	"strings"

	"sparecrate/font/metadata"
	"sparecrate/internal/builder"
	"sparecrate/internal/css"
)

// RoleAssignment says that a family does a role.
type RoleAssignment struct {
	Role     builder.Role
	Name     string // of a role of the team's own, for people
	Selector string // of a role of the team's own, or in place of the usual one
	Family   string
	Face     int64          // one of its faces, by its ID; 0 for what weight and slope find
	Weight   int            // 1 to 1000
	Slope    metadata.Slope // upright when empty
	// Stack are the fonts behind it, as names or generic families; the family's
	// generic one when empty.
	Stack    []string
	Override bool // the platform's styles are overruled
}

// Title names a placement's role for people.
func (p *RoleAssignment) Title() string {
	if p.Name != "" {
		return p.Name
	}
	k, _ := p.Role.Known()
	return k.Name
}

// Replacement says that a font name in a design is swapped for a family.
type Replacement struct {
	Name   string // as the design has it
	Family string
	Weight int
	Slope  metadata.Slope
}

// placed is a placement with the face that does it.
type placed struct {
	*RoleAssignment
	family *Family
	face   *Face // nil where the family is not in the pack
}

// Generics are the generic families of CSS Fonts Level 4 that a stack can end in.
var Generics = []string{"serif", "sans-serif", "monospace", "cursive", "fantasy", "system-ui", "ui-serif", "ui-sans-serif", "ui-monospace", "ui-rounded"}

// place finds the face of each placement, in the order their rules are written in.
func (l *layout) place() {
	for i := range l.RoleAssignments {
		p := placed{RoleAssignment: &l.RoleAssignments[i]}
		p.family, p.face = l.faceOf(p.Family, p.Weight, p.Slope)
		if p.family != nil && p.Face != 0 {
			if at := slices.IndexFunc(p.family.Faces, func(f Face) bool { return f.ID == p.Face && (p.face == nil || p.face.ID != f.ID) }); at >= 0 {
				p.face = &p.family.Faces[at]
			}
		}
		l.placed = append(l.placed, p)
	}
	slices.SortStableFunc(l.placed, func(a, b placed) int { return a.Role.Order() - b.Role.Order() })
}

// faceOf finds the face a browser takes of a family of the pack.
func (in *Input) faceOf(family string, weight int, slope metadata.Slope) (*Family, *Face) {
	for i := range in.Families {
		f := &in.Families[i]
		if f.Name != family {
			continue
		}
		at := Match(each(f.Faces, func(one *Face) *metadata.Face { return &one.Metadata }), weight, slope)
		if at < 0 {
			return f, nil
		}
		return f, &f.Faces[at]
	}
	return nil, nil
}

func each[T, U any](in []T, f func(*T) U) []U {
	out := make([]U, len(in))
	for i := range in {
		out[i] = f(&in[i])
	}
	return out
}

// overruling are the selectors of roles whose words stand in elements that a
// platform styles by themselves.
var overruling = map[builder.Role]string{
	builder.Body:       "body, p, li, dt, dd, td, th, input, select, textarea",
	builder.Lists:      "ul li, ol li, dl dt, dl dd",
	builder.Quotes:     "blockquote, blockquote p",
	builder.Navigation: "nav, nav a, nav li",
}

// selector returns the selector of a placement's rule.
func (l *layout) selector(p *RoleAssignment) string {
	if p.Selector != "" {
		return p.Selector
	}
	usual, _ := p.Role.Known()
	own := l.Rules.Selector(p.Role)
	if strong := overruling[p.Role]; strong != "" && l.overrides(p) && own == usual.Selector {
		return strong
	}
	return own
}

func (l *layout) overrides(p *RoleAssignment) bool { return p.Override || l.Rules.Styles.Override }

// stack writes the value of font-family for a placement.
func (l *layout) stack(p *placed) string {
	names := []string{css.Quote(l.cssFamily(p.family, p.face))}
	if name := p.family.fallbackName(); name != "" {
		names = append(names, css.Quote(name))
	}
	behind := p.Stack
	if len(behind) == 0 {
		behind = []string{p.family.generic()}
	}
	for _, name := range behind {
		if !slices.Contains(Generics, name) {
			name = css.Quote(name)
		}
		names = append(names, name)
	}
	return strings.Join(names, ", ")
}

func (f *Family) generic() string {
	if f.Generic == "" {
		return "sans-serif"
	}
	return f.Generic
}

// fallbackName is the family of the stand-ins of a family, empty where it has
// none.
func (f *Family) fallbackName() string {
	for _, face := range f.Faces {
		if len(face.LocalFonts) > 0 {
			return f.Name + " Fallback"
		}
	}
	return ""
}

// declarations writes what a placement says of its text.
func (l *layout) declarations(p *placed) [][2]string {
	weight, slope := fmt.Sprint(p.Weight), slopeWord(p.Slope)
	if l.alone(p.family) {
		weight, slope = "normal", "normal"
	}
	out := [][2]string{{"font-family", l.stack(p)}, {"font-weight", weight}, {"font-style", slope}}
	if w := p.face.Metadata.Style.WidthPercent; w != 100 && !l.alone(p.family) {
		out = append(out, [2]string{"font-stretch", fmt.Sprintf("%g%%", w)})
	}
	return out
}

func slopeWord(s metadata.Slope) string {
	if s == metadata.Upright || s == "" {
		return "normal"
	}
	return string(s)
}

// roleRules writes the rules of the roles.
func (l *layout) roleRules() string {
	var s strings.Builder
	for i := range l.placed {
		p := &l.placed[i]
		if p.face == nil {
			continue
		}
		selector := l.selector(p.RoleAssignment)
		if selector == "" {
			continue
		}
		important := ""
		if l.overrides(p.RoleAssignment) {
			important = " !important"
		}
		fmt.Fprintf(&s, "\n/* %s */\n%s {\n", comment(p.Title()), selector)
		for _, d := range l.declarations(p) {
			fmt.Fprintf(&s, "  %s: %s%s;\n", d[0], d[1], important)
		}
		s.WriteString("}\n")
		s.WriteString(l.mateRules(p, selector, important))
	}
	return s.String()
}

// mateRules writes rules for the bold and italic words within a role where each face is a
// family of its own: browsers find no other face by weight then.
func (l *layout) mateRules(p *placed, selector, important string) string {
	if !l.alone(p.family) {
		return ""
	}
	var s strings.Builder
	sent := each(p.family.Faces, func(f *Face) *metadata.Face { return &f.Metadata })
	for _, m := range mates(p.RoleAssignment) {
		at := Match(sent, m.weight, m.slope)
		if at < 0 || !m.fits(sent[at]) {
			continue
		}
		words := map[string]string{"bold": "strong, b", "italic": "em, i, cite"}[m.word]
		of := placed{RoleAssignment: p.RoleAssignment, family: p.family, face: &p.family.Faces[at]}
		fmt.Fprintf(&s, "\n/* %s in %s */\n:is(%s) :is(%s) {\n", m.word, comment(strings.ToLower(p.Title())), selector, words)
		for _, d := range [][2]string{{"font-family", l.stack(&of)}, {"font-weight", "normal"}, {"font-style", "normal"}} {
			fmt.Fprintf(&s, "  %s: %s%s;\n", d[0], d[1], important)
		}
		s.WriteString("}\n")
	}
	return s.String()
}

// comment makes text safe inside a CSS comment, also where the styles stand in a
// page.
func comment(s string) string { return strings.NewReplacer("*/", "* /", "<", "‹").Replace(s) }

// Need is a face that a site needs of a family.
type Need struct {
	Index int    // among the faces given
	Why   string // "body text, heading 1"
}

// Needed says which faces of a family its roleAssignments need: the face of each, and
// the bold and italic that people write in running text. Where no placement is
// given, all are needed. ids are the IDs of the faces, nil where no placement names
// one.
func Needed(ids []int64, faces []*metadata.Face, assignments []RoleAssignment) []Need {
	if len(assignments) == 0 {
		out := make([]Need, len(faces))
		for i := range faces {
			out[i] = Need{Index: i}
		}
		return out
	}
	var out []Need
	need := func(at int, why string) {
		if at < 0 {
			return
		}
		if k := slices.IndexFunc(out, func(n Need) bool { return n.Index == at }); k >= 0 {
			if !strings.Contains(", "+out[k].Why+",", ", "+why+",") {
				out[k].Why += ", " + why
			}
			return
		}
		out = append(out, Need{at, why})
	}
	for i := range assignments {
		p := &assignments[i]
		at := slices.Index(ids, p.Face)
		if at < 0 {
			at = Match(faces, p.Weight, p.Slope)
		}
		need(at, strings.ToLower(p.Title()))
	}
	for i := range assignments {
		p := &assignments[i]
		for _, m := range mates(p) {
			if at := Match(faces, m.weight, m.slope); at >= 0 && m.fits(faces[at]) {
				need(at, m.word+" in "+strings.ToLower(p.Title()))
			}
		}
	}
	slices.SortFunc(out, func(a, b Need) int { return a.Index - b.Index })
	return out
}

// mate is a style that people write within a role.
type mate struct {
	word   string
	weight int
	slope  metadata.Slope
	of     int // the weight of the text around it
}

// mates are the styles people write within running text beside its own.
func mates(p *RoleAssignment) []mate {
	k, known := p.Role.Known()
	if known && !k.Running {
		return nil
	}
	if !known {
		return nil
	}
	var out []mate
	if b := Bolder(p.Weight); b > p.Weight {
		out = append(out, mate{"bold", b, p.Slope, p.Weight})
	}
	if slopeWord(p.Slope) == "normal" {
		out = append(out, mate{"italic", p.Weight, metadata.Italic, p.Weight})
	}
	return out
}

// Bolder is the weight that bold words within text of a weight are set in: what `bolder`
// stands for (CSS Fonts Level 4, section 2.2.1).
func Bolder(weight int) int {
	switch {
	case weight < 350:
		return 400
	case weight < 550:
		return 700
	}
	return max(weight, 900)
}

// fits reports whether a face is what is meant, and not the nearest to it: for bold words
// a heavier one than that of the text around them.
func (m mate) fits(f *metadata.Face) bool {
	low, high := weights(f)
	if m.word == "bold" {
		heavier := low <= m.weight && m.weight <= high || low > m.of && (m.weight < bold || high >= bold)
		return heavier && slopeWord(f.Style.Slope) == slopeWord(m.slope)
	}
	return f.Style.Slope != metadata.Upright
}

// faked reports whether browsers make the style up of the face that they find: they smear
// what is below bold for a weight from there on, and slant upright letters.
func (m mate) faked(f *metadata.Face) bool {
	if m.word == "bold" {
		_, high := weights(f)
		return m.weight >= bold && high < bold
	}
	return f.Style.Slope == metadata.Upright
}
