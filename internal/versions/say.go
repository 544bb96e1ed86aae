package versions

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"sparecrate/font/identity"
)

// Say says in a sentence what a file is beside the others of its face, which goes by a
// name. Files are those that the choice was made of.
func (c *Choice) Say(files []File, i int, face string) string {
	f, e := &files[i], c.Evidence[i]
	var beside *File
	if c.Beside[i] != i {
		beside = &files[c.Beside[i]]
	}
	gaps, adds := 0, 0
	if e != nil {
		gaps, adds = e.OnlyA.Len(), e.OnlyB.Len()
	}
	switch c.States[i] {
	case Used:
		return c.reason(files, i)
	case Piece:
		return fmt.Sprintf("One of the %d parts of %s, for characters that the others do not have. Packs include all of them, each with its character range.", len(c.Used), face)
	case Part:
		switch {
		case e == nil:
			return fmt.Sprintf("A part of %s. It is kept; packs go on using %s.", face, beside.Name)
		case Compare(f.Version, beside.Version) > 0:
			return fmt.Sprintf("By its version number it is newer than %s (%s), but it is missing %s. It is kept; packs still use %s.", face, f.Version, characters(gaps), beside.Name)
		case adds > 0:
			return fmt.Sprintf("A part of %s: the same design with other characters, %d of them not in %s, which has %d that are not in this one. It is kept; packs go on using %s.", face, adds, beside.Name, gaps, beside.Name)
		}
		return fmt.Sprintf("A part of %s: it is missing %s. It is kept; packs still use %s.", face, characters(gaps), beside.Name)
	case Whole:
		return fmt.Sprintf("It has %s more than %s, which was chosen. It is kept; packs go on using that.", characters(adds), beside.Name)
	case Sibling:
		if f.Format == beside.Format {
			return fmt.Sprintf("The same font as %s: every table holds the same, only the file around them differs.", beside.Name)
		}
		return fmt.Sprintf("The same font as %s in another format (%s).", beside.Name, strings.ToUpper(f.Format))
	case Older:
		return fmt.Sprintf("An older version of %s (%s). It is kept; packs go on using the newer one.", face, f.Version)
	case Newer:
		return fmt.Sprintf("A newer version of %s (%s). It is kept; packs go on using %s, which was chosen.", face, f.Version, beside.Name)
	case Conflict:
		return fmt.Sprintf("It has the same version number as %s but different content%s. Choose which of the two to use; until then packs use %s.", beside.Name, redrawn(e), beside.Name)
	case SetAside:
		return fmt.Sprintf("It has the version number of %s and other content; that one was chosen of the two.", beside.Name)
	case Mislabeled:
		return fmt.Sprintf("It is called %s and draws another design than %s%s%s. It is kept and not used; one of the two is named wrongly.", face, beside.Name, strokes(e), looks(c.Looks[i]))
	}
	return ""
}

// reason says why a file is the one in use.
func (c *Choice) reason(files []File, i int) string {
	f := &files[i]
	switch {
	case f.Chosen:
		return "It was chosen; a newer version does not take its place."
	case len(c.Used) > 1:
		return fmt.Sprintf("One of the %d parts of the design that packs hold together, the one with the basic letters.", len(c.Used))
	case len(files) == 1:
		return ""
	case f.Preferred > 0:
		return "It was chosen of several files of its version, the newest complete one."
	case slices.ContainsFunc(c.States, func(s State) bool { return s == Older || s == Part }):
		return "It is the newest complete file."
	}
	return "It is the file of the newest version with all tables of the original."
}

func characters(n int) string {
	if n == 1 {
		return "1 character"
	}
	return fmt.Sprintf("%d characters", n)
}

// redrawn says which characters two files of one version draw differently.
func redrawn(e *identity.Evidence) string {
	if e == nil || len(e.Redrawn) == 0 {
		return ""
	}
	const most = 8
	var some []string
	for _, r := range e.Redrawn[:min(len(e.Redrawn), most)] {
		some = append(some, r.Text)
	}
	more := ""
	if e.Common-e.Alike > most {
		more = " ..."
	}
	return fmt.Sprintf(" (drawn or spaced differently: %s%s)", strings.Join(some, " "), more)
}

func looks(style string) string {
	if style == "" {
		return ""
	}
	return ", which looks like " + style
}

// strokes says how the strokes of the second of two designs differ from those of the
// first, where they do.
func strokes(e *identity.Evidence) string {
	switch {
	case e == nil || e.Stems == 0:
		return ""
	case e.Stems >= bolder:
		return fmt.Sprintf(", a bolder one (upright strokes are %g times as thick)", e.Stems)
	case e.Stems <= lighter:
		return fmt.Sprintf(", a lighter one (upright strokes are %g times as thick)", e.Stems)
	}
	return ""
}

// From where on strokes count as bolder or lighter.
const (
	bolder  = 1.15
	lighter = 0.87
)

// stems are how thick upright strokes of a weight are beside those of the weight 400, as
// text faces mostly have it.
var stems = []struct {
	weight int
	times  float64
}{{100, 0.35}, {200, 0.55}, {300, 0.77}, {400, 1}, {500, 1.18}, {600, 1.4}, {700, 1.65}, {800, 1.95}, {900, 2.3}}

// LooksLike guesses the weight of a mislabeled face by its strokes beside those of a face
// of a known weight; 0 where they do not tell.
func LooksLike(e *identity.Evidence, weight int) int {
	if e == nil || e.Stems == 0 || e.Stems < bolder && e.Stems > lighter {
		return 0
	}
	times := func(weight int) float64 {
		for i, s := range stems {
			if weight <= s.weight {
				if i == 0 {
					return s.times
				}
				was := stems[i-1]
				return was.times + (s.times-was.times)*float64(weight-was.weight)/float64(s.weight-was.weight)
			}
		}
		return stems[len(stems)-1].times
	}
	is := e.Stems * times(weight)
	best, off := 0, math.Inf(1)
	for _, s := range stems {
		if d := math.Abs(math.Log(is / s.times)); d < off && s.weight != weight {
			best, off = s.weight, d
		}
	}
	return best
}
