package inspect

import (
	"fmt"
	"slices"
	"strings"

	"sparecrate/internal/css"
)

// plan judges what the page shows against the roles that its site has.
func (j *judge) plan() {
	for _, r := range j.Roles {
		if r.Elements == 0 {
			continue
		}
		for _, u := range r.Fonts {
			if u.Sent && j.isOf(u, r.Family) {
				r.Elements = 0
			}
		}
		if r.Elements == 0 {
			continue
		}
		var set []string
		for _, u := range r.Fonts {
			name := u.Family
			if !u.Sent {
				name = "a font of the visitor's system"
			}
			if !slices.Contains(set, name) {
				set = append(set, name)
			}
		}
		j.add(Finding{Code: "role-differs", Selector: r.Selector, Message: fmt.Sprintf("%s (%s) is assigned %s, and shows in %s.", r.Title, r.Selector, r.Family, strings.Join(set, " and ")),
			Evidence: fmt.Sprintf("%d elements", r.Elements), Fix: fmt.Sprintf("Rebuild the site's pack and upload it: %s { font-family: %s; }", r.Selector, css.Quote(r.Family))})
	}
}

// isOf reports whether a font that text is set in is of a family of the catalog.
func (j *judge) isOf(u Used, family string) bool {
	for _, r := range j.Sent() {
		if r.Font.Is(u) && r.Font.Known != nil && sameName(r.Font.Known.FamilyName, family) {
			return true
		}
		if x := j.ruleFor(r); r.Font.Is(u) && x != nil && sameName(x.Family, family) {
			return true
		}
		if r.Font.Is(u) && sameName(r.Font.Metadata.Names.FamilyName(), family) {
			return true
		}
	}
	return sameName(u.Family, family)
}
