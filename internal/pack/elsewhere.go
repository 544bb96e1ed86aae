package pack

import (
	"fmt"
	"strings"

	"sparecrate/internal/builder"
	"sparecrate/internal/css"
)

// Sheet is somebody else's stylesheet that a family is served from.
type Sheet struct {
	Host    string     // of the server that each page view calls
	Address string     // of the stylesheet; empty where only its rules are known
	Rules   []css.Face // in it; they stand in for it where it has no address
}

// elsewhere reports whether a family is served from somebody else's server: its
// faces then have no files.
func (f *Family) elsewhere() bool { return len(f.Elsewhere) > 0 }

// hosts names the servers.
func (f *Family) hosts() string {
	var out []string
	for _, s := range f.Elsewhere {
		out = append(out, s.Host)
	}
	return strings.Join(out, " and ")
}

// rulesLike returns the rules of somebody else's stylesheets for one face of a family, a rule
// for each part of its characters.
func (f *Family) rulesLike(face *Face) []css.Face {
	low, high := weights(&face.Metadata)
	weight := fmt.Sprint(low)
	if high > low {
		weight = fmt.Sprintf("%d %d", low, high)
	}
	var out []css.Face
	for _, s := range f.Elsewhere {
		for _, r := range s.Rules {
			if r.Weight == weight && r.Style == slopeWord(face.Metadata.Style.Slope) && len(r.Sources) > 0 {
				out = append(out, r)
			}
		}
	}
	return out
}

// sheetOf returns the URL of somebody else's stylesheet that a family is served from, empty
// where only its rules are known.
func (f *Family) sheetOf() string {
	for _, s := range f.Elsewhere {
		if s.Address != "" {
			return s.Address
		}
	}
	return ""
}

// called returns the addresses of the stylesheets of all families that are served
// from elsewhere, each once, and the rules of those without one.
func (l *layout) called() (addresses []string, rules []css.Face) {
	seen := map[string]bool{}
	for i := range l.Families {
		for _, s := range l.Families[i].Elsewhere {
			switch {
			case s.Address == "":
				rules = append(rules, s.Rules...)
			case !seen[s.Address]:
				seen[s.Address] = true
				addresses = append(addresses, s.Address)
			}
		}
	}
	return addresses, rules
}

// imports writes the rules that load other stylesheets, which have to come before all
// others.
func (l *layout) imports() string {
	var s strings.Builder
	addresses, _ := l.called()
	for _, a := range addresses {
		s.WriteString("@import url(" + css.Quote(a) + ");\n")
	}
	if s.Len() > 0 {
		s.WriteByte('\n')
	}
	return s.String()
}

// served writes the rules of families whose stylesheet has no address.
func (l *layout) served() string {
	_, rules := l.called()
	if len(rules) == 0 {
		return ""
	}
	return "\n/* Served from elsewhere. */\n" + css.Sheet(rules)
}

// styled reports whether the platform takes styles that can load others.
func (l *layout) styled() bool {
	return l.Rules.Styles.Form.Loads() && l.Rules.Styles.Form != builder.StylesURLs
}

// away warns of families that are served from elsewhere.
func (l *layout) away(f *Family, warn func(code, about, format string, args ...any)) {
	if l.styled() {
		warn("calls-elsewhere", f.Name, "Each page view loads from %s for %s: the page waits for it, and that server learns who reads. Self-host the family if its license allows that.", f.hosts(), f.Name)
		return
	}
	hint := ""
	for _, s := range f.Elsewhere {
		if s.Address != "" && l.Rules.Web() {
			hint = fmt.Sprintf(" Where the platform takes the address of a stylesheet, it is %s.", s.Address)
			break
		}
	}
	warn("only-elsewhere", f.Name, "%s is served by %s and has no files here; this platform takes files, so the pack does not include it. Self-host it first.%s", f.Name, f.hosts(), hint)
}
