package pack

import (
	"fmt"
	"slices"
	"strings"

	"sparecrate/font/metadata"
	"sparecrate/internal/builder"
	"sparecrate/internal/pack/catches"
)

// Warning is something that would look otherwise than meant.
type Warning struct {
	Code    string // stable
	About   string // the role or family it is about
	Message string // says what would happen and what to do
}

// Warnings returns what to mind about the roleAssignments and stand-ins of a site.
func Warnings(in Input) []Warning { return in.layOut().warnings() }

func (l *layout) warnings() []Warning {
	var out []Warning
	warn := func(code, about, format string, args ...any) {
		w := Warning{code, about, fmt.Sprintf(format, args...)}
		if !slices.Contains(out, w) {
			out = append(out, w)
		}
	}
	for i := range l.placed {
		p := &l.placed[i]
		switch {
		case p.family == nil:
			warn("family-missing", p.Title(), "%s is to be set in %s, which is not on this site.", p.Title(), p.Family)
			continue
		case p.face == nil:
			warn("face-missing", p.Title(), "%s is to be set in %s, and no face of it is sent.", p.Title(), p.Family)
			continue
		}
		l.faked(p, warn)
		l.caught(p, warn)
		if l.Rules.Styles.Form == builder.StylesNone && l.Rules.Web() && !slices.ContainsFunc(l.Rules.Roles, func(r builder.RoleSelector) bool { return r.Role == p.Role && r.Choose != "" }) {
			warn("role-unknown", p.Title(), "This platform has no field for %s and takes no styles; its text stays as the platform sets it.", strings.ToLower(p.Title()))
		}
	}
	for i := range l.Replacements {
		l.swapped(&l.Replacements[i], warn)
	}
	for i := range l.Families {
		f := &l.Families[i]
		if f.elsewhere() {
			l.away(f, warn)
			continue
		}
		if n := len(f.Faces); n >= 8 && len(l.placed) == 0 {
			warn("many-faces", f.Name, "All %d faces of %s are included. Assign roles to it, and only the faces they need are.", n, f.Name)
		}
		for k := range f.Faces {
			if face := &f.Faces[k]; face.NoReplacement != "" {
				warn("no-stand-in", f.Name, "There is no fallback font for %s %s: %s", f.Name, face.Style, face.NoReplacement)
			}
		}
	}
	l.limits(warn)
	return out
}

// limits warns of files that a platform would refuse for their size.
func (l *layout) limits(warn func(code, about, format string, args ...any)) {
	most := l.Rules.Files.MaxBytes
	for _, f := range l.fonts {
		if most > 0 && f.Bytes > most {
			warn("too-large", f.Family, "%s is %s; this platform accepts at most %s per file. Subset the face to the characters that the site needs.", f.name(), kilobytes(f.Bytes), kilobytes(most))
		}
	}
}

// faked warns of styles that a browser would make up: the role's own, and the
// bold and italic people write in running text.
func (l *layout) faked(p *placed, warn func(code, about, format string, args ...any)) {
	title, name := p.Title(), p.family.Name
	low, high := weights(&p.face.Metadata)
	slanted := p.face.Metadata.Style.Slope != metadata.Upright
	switch {
	case slopeWord(p.Slope) != "normal" && !slanted:
		warn("fake-italic", title, "%s will be faux italic: no italic face of %s is included. Include the italic, or set the role upright.", title, name)
	case p.Weight >= bold && high < bold && !l.alone(p.family):
		warn("fake-bold", title, "%s will be faux bold: its weight is %d, and the heaviest included face of %s has %d. Include a bold face, or set the role to %d.", title, p.Weight, name, high, high)
	case p.Weight < low || p.Weight > high:
		warn("other-weight", title, "%s has the weight %d; the nearest included face of %s has %d.", title, p.Weight, name, max(low, min(p.Weight, high)))
	}
	if !l.Rules.Web() { // code says which face it wants
		return
	}
	if l.alone(p.family) && !l.styled() {
		if k, _ := p.Role.Known(); k.Running {
			warn("each-alone", title, "This platform has no weights: bold and italic words in %s will be faux, unless they have their own role.", strings.ToLower(title))
		}
		return
	}
	sent := each(p.family.Faces, func(f *Face) *metadata.Face { return &f.Metadata })
	for _, m := range mates(p.RoleAssignment) {
		if at := Match(sent, m.weight, m.slope); at >= 0 && (m.fits(sent[at]) || !m.faked(sent[at])) {
			continue
		}
		if p.family.elsewhere() {
			warn("mate-missing", title, "%s text in %s will be faux %s: the stylesheet of %s has no %s face.", strings.ToUpper(m.word[:1])+m.word[1:], strings.ToLower(title), m.word, name, m.word)
			continue
		}
		what := "has no %s face"
		if slices.ContainsFunc(p.family.Left, func(style string) bool { return strings.Contains(strings.ToLower(style), m.word) }) {
			what = "has a %s face that is not included"
		}
		warn("mate-missing", title, "%s text in %s will be faux %s: %s %s.", strings.ToUpper(m.word[:1])+m.word[1:], strings.ToLower(title), m.word, name, fmt.Sprintf(what, m.word))
	}
}

func title(r builder.Role) string {
	k, _ := r.Known()
	return k.Name
}

func (l *layout) isPlaced(r builder.Role) bool {
	return slices.ContainsFunc(l.placed, func(p placed) bool { return p.Role == r })
}

// swapped warns of what a replacement changes besides what is meant, once for each name: what
// else the site's roles and pages set in it.
func (l *layout) swapped(s *Replacement, warn func(code, about, format string, args ...any)) {
	if at := slices.IndexFunc(l.Replacements, func(o Replacement) bool { return strings.EqualFold(o.Name, s.Name) }); &l.Replacements[at] != s {
		return
	}
	f, face := l.faceOf(s.Family, s.Weight, s.Slope)
	switch {
	case f == nil:
		warn("family-missing", s.Name, "%s is replaced by %s, which is not on this site.", s.Name, s.Family)
	case f.elsewhere() && !l.styled() && l.Rules.Styles.Form != builder.StylesURLs:
		warn("swap-elsewhere", s.Name, "%s cannot be replaced by %s, which is hosted elsewhere under its own name. Self-host it first.", s.Name, s.Family)
		return
	case f.elsewhere() && l.styled() && face != nil && len(f.rulesLike(face)) == 0:
		warn("swap-elsewhere", s.Name, "%s cannot be replaced by %s: no URL of its fonts is known. Read its stylesheet again, or self-host it.", s.Name, s.Family)
		return
	case f.elsewhere() && l.styled():
		warn("swap-hosted", s.Name, "%s becomes %s by the font URLs that its stylesheet had when it was read. The host can change them; read the stylesheet again where the text falls back.", s.Name, s.Family)
	}
	var roles []string
	for i := range l.placed {
		p := &l.placed[i]
		if strings.EqualFold(p.Family, s.Name) {
			roles = append(roles, strings.ToLower(p.Title())+" uses a family of that name")
		}
	}
	for i := range l.placed {
		p := &l.placed[i]
		if slices.ContainsFunc(p.Stack, func(name string) bool { return strings.EqualFold(name, s.Name) }) {
			roles = append(roles, strings.ToLower(p.Title())+" falls back to it")
		}
	}
	also := ""
	if len(roles) > 0 {
		also = " Here " + strings.Join(roles, ", ") + "."
	}
	if n := len(l.Pages); n > 0 {
		names := each(l.Pages[:min(n, 3)], func(p *Page) string { return p.Title })
		more := ""
		if n > len(names) {
			more = fmt.Sprintf(" and %d more", n-len(names))
		}
		also += fmt.Sprintf(" Check the pages %s%s.", strings.Join(names, ", "), more)
	}
	warn("swaps-all", s.Name, "Every text set in %s on the site changes to %s, including text you did not mean: forms, embedded content, old pages.%s Choose a name that nothing else uses.", s.Name, s.Family, also)
}

// caught warns of what a role's selector catches besides what is meant.
func (l *layout) caught(p *placed, warn func(code, about, format string, args ...any)) {
	selector := l.ruled(p.RoleAssignment)
	if selector == "" {
		return
	}
	forced := l.overrides(p.RoleAssignment)
	elements, what, spared := catches.Of(catches.Rule{Role: p.Role, Selector: selector, Forced: forced, Light: p.Weight < bold || l.alone(p.family), Placed: l.isPlaced})
	if len(what) == 0 {
		return
	}
	hint := "give it a narrower selector, like main " + elements[0]
	if len(spared) > 0 {
		places := each(spared, func(r *builder.Role) string { return strings.ToLower(title(*r)) })
		hint = fmt.Sprintf("assign a font to %s as well, or %s", strings.Join(places, " and "), hint)
	}
	how := ""
	if forced {
		how = ", and overrides the page's own styles for them (!important)"
	}
	warn("also-catches", p.Title(), "%s (%s) also catches %s%s; %s.", p.Title(), strings.Join(elements, ", "), strings.Join(what, "; "), how, hint)
}

// ruled is the selector of the rule that sets a placement: ours, or the platform's where
// it says by which it sets what is chosen in its form. It is empty where there is none.
func (l *layout) ruled(p *RoleAssignment) string {
	if l.styled() {
		return l.selector(p)
	}
	if l.Rules.Styles.Form == builder.StylesNone {
		for _, r := range l.Rules.Roles {
			if r.Role == p.Role {
				return r.Selector
			}
		}
	}
	return ""
}
