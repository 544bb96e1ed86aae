package classify

import (
	"fmt"
	"slices"
	"strings"
)

// Style is one face of a family.
type Style struct {
	Name     string
	Weight   int
	Italic   bool
	Variable bool
}

// Mates says which styles of a family are missing that text asks for sooner or
// later: a browser fakes them then.
func Mates(styles []Style) []string {
	const (
		bold  = 600
		light = 350
		heavy = 500
	)
	var uprights, italics []Style
	regular, strong, variable := false, false, false
	for _, s := range styles {
		variable = variable || s.Variable
		if s.Italic {
			italics = append(italics, s)
			continue
		}
		uprights = append(uprights, s)
		regular = regular || s.Weight >= light && s.Weight <= heavy
		strong = strong || s.Weight >= bold
	}
	var out []string
	if regular && !strong && !variable {
		out = append(out, "There is no bold face; bold text will be faux bold.")
	}
	has := func(list []Style, weight int) bool {
		return slices.ContainsFunc(list, func(s Style) bool { return s.Weight == weight })
	}
	missing := func(of, among []Style) (names []string) {
		for _, s := range of {
			if !s.Variable && !has(among, s.Weight) {
				names = append(names, s.Name)
			}
		}
		return names
	}
	if len(italics) > 0 && !variable {
		if names := missing(uprights, italics); len(names) > 0 && len(uprights) > 0 {
			out = append(out, fmt.Sprintf("There is no italic for %s.", strings.Join(names, ", ")))
		}
		if names := missing(italics, uprights); len(names) > 0 {
			out = append(out, fmt.Sprintf("There is no upright style for %s.", strings.Join(names, ", ")))
		}
	}
	return out
}
