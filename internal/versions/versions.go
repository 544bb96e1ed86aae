// Package versions says which of a face's files are in use: which one packs take, or
// which several where they are parts of one design, and what each of the others is beside
// them. It goes by what the files draw (package identity), by their version numbers and
// by what people decided, never by the order in which they came.
package versions

import (
	"cmp"
	"slices"
	"strconv"
	"strings"

	"sparecrate/font/coverage"
	"sparecrate/font/identity"
	"sparecrate/font/table"
)

// File is a file that holds a face, under the names of that face.
type File struct {
	ID        int64
	Name      string // on disk
	Version   string // name ID 5
	Format    string
	Print     *identity.Print // nil for one that cannot be measured
	Range     string          // the unicode-range that it was served for, empty where it was not
	InUse     bool            // packs take it now
	Chosen    bool            // a person said that packs take it, whatever else there is
	Preferred int64           // a person said that it counts; the highest wins, 0 is not said, below 0 that it does not
}

// State is what a file is beside the others of its face.
type State string

// The states.
const (
	Used       State = "used"       // packs take it
	Piece      State = "piece"      // packs take it together with others, each for its characters
	Part       State = "part"       // it holds some of the characters of the one in use
	Whole      State = "whole"      // it holds more characters than the one that was chosen
	Sibling    State = "sibling"    // the same in another format
	Older      State = "older"      // an older version
	Newer      State = "newer"      // a newer version than the one that was chosen
	Conflict   State = "conflict"   // the same version number with other content: a person settles it
	SetAside   State = "set-aside"  // that was finished, for another file
	Mislabeled State = "mislabeled" // another design under the same names
)

// Choice says what each of some files is.
type Choice struct {
	// Used are the files that packs take: one, or parts of a design, the one with the
	// basic letters first. It is empty only where there is no file.
	Used []int
	// States are by file, Beside the file that each is compared with (its own number for
	// those in use), Evidence how they relate; nil where that is not known.
	States   []State
	Beside   []int
	Evidence []*identity.Evidence
	// Looks are the styles that mislabeled files look like, for who knows the family.
	Looks []string
	// Union are the characters of all files in use, Ranges by file the unicode-range that
	// each of several in use goes out for; empty for all others.
	Union  coverage.Characters
	Ranges []string
	// Unsure reports of a file that nothing but a guess says whether it or another one is
	// the right one: a person has to settle it.
	Unsure []bool
}

const (
	// few is the share of its characters, one in so many, that one version of a design may
	// have more than the next and the next still be whole.
	few = 10
	// mostlyNew is the share of its characters, one in so many, that a part must add.
	mostlyNew = 2
)

// Choose says which of a face's files are in use. The order of the files does not matter
// but for numbers that are equal in all else: there the lower ID comes first.
func Choose(files []File) *Choice {
	c := &chooser{files: files, sets: make([]coverage.Characters, len(files)), Choice: &Choice{
		States: make([]State, len(files)), Beside: make([]int, len(files)), Evidence: make([]*identity.Evidence, len(files)), Unsure: make([]bool, len(files)), Looks: make([]string, len(files)), Ranges: make([]string, len(files)),
	}}
	if len(files) == 0 {
		return c.Choice
	}
	for i := range files {
		c.sets[i] = Characters(files[i].Print)
	}
	one := c.oneDesign()
	groups := c.byVersion(one)
	at := c.accepted(groups)
	c.within(groups[at])
	main := c.Used[0]
	for k, g := range groups {
		for _, i := range g.files {
			switch {
			case k == at:
			case k > at:
				c.set(i, Older, main)
			case files[main].Chosen:
				c.set(i, Newer, main)
			default:
				c.set(i, Part, main)
			}
		}
	}
	for i := range files {
		if !slices.Contains(one, i) {
			c.set(i, Mislabeled, main)
			c.unsure(main, i)
		}
	}
	c.share()
	return c.Choice
}

// share gives each of several files in use its range: the one that it was served for, where
// all were, else each character to the first that has it, so that no browser loads two
// files for one character.
func (c *chooser) share() {
	served := true
	for _, i := range c.Used {
		_, err := coverage.ParseRanges(c.files[i].Range)
		served = served && err == nil
	}
	for _, i := range c.Used {
		mine := c.sets[i].Without(c.Union)
		c.Union = c.Union.Plus(c.sets[i])
		if len(c.Used) < 2 {
			continue
		}
		if served {
			mine, _ = coverage.ParseRanges(c.files[i].Range)
		}
		c.Ranges[i] = mine.String()
	}
}

// Characters returns the characters that a measured face draws.
func Characters(p *identity.Print) coverage.Characters {
	if p == nil {
		return nil
	}
	runs := make([]table.Run, len(p.Shapes))
	for i, s := range p.Shapes {
		runs[i] = table.Run{First: s.Rune, Count: 1}
	}
	return coverage.NewCharacters(runs)
}

// chooser is a choice being made.
type chooser struct {
	*Choice
	files []File
	sets  []coverage.Characters
}

func (c *chooser) set(i int, s State, beside int) {
	c.States[i], c.Beside[i], c.Evidence[i] = s, beside, nil
	if i != beside {
		c.Evidence[i] = c.compare(beside, i)
	}
}

// unsure says of two files that a person has to say which of them is right, where nothing
// spoke for one of them before.
func (c *chooser) unsure(a, b int) {
	for _, i := range []int{a, b} {
		if f := &c.files[i]; f.InUse || f.Chosen || f.Preferred != 0 {
			return
		}
	}
	c.Unsure[a], c.Unsure[b] = true, true
}

// compare says how two files relate, nil where that is not known.
func (c *chooser) compare(a, b int) *identity.Evidence {
	if c.files[a].Print == nil || c.files[b].Print == nil {
		return nil
	}
	return identity.Compare(c.files[a].Print, c.files[b].Print)
}

// better orders files that hold the same characters of the same version: what a person
// chose, then the plainer format, the later build, the one in use.
func (c *chooser) better(a, b int) int {
	x, y := &c.files[a], &c.files[b]
	return cmp.Or(yes(y.Chosen)-yes(x.Chosen), cmp.Compare(y.Preferred, x.Preferred), FormatRank(y.Format)-FormatRank(x.Format), Compare(y.Version, x.Version), yes(y.InUse)-yes(x.InUse), cmp.Compare(x.ID, y.ID))
}

func yes(b bool) int {
	if b {
		return 1
	}
	return 0
}

// oneDesign returns the files that draw one design: that of the file that a person chose,
// or is in use, or holds most.
func (c *chooser) oneDesign() []int {
	order := make([]int, len(c.files))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int {
		x, y := &c.files[a], &c.files[b]
		return cmp.Or(yes(y.Chosen)-yes(x.Chosen), cmp.Compare(y.Preferred, x.Preferred), yes(y.InUse)-yes(x.InUse), c.sets[b].Len()-c.sets[a].Len(),
			Compare(y.Version, x.Version), FormatRank(y.Format)-FormatRank(x.Format), cmp.Compare(x.ID, y.ID))
	})
	in, rest := order[:1:1], order[1:]
	// What shares too little with the first is compared with those that are in already.
	for again := true; again; {
		again = false
		var unsure []int
		for _, i := range rest {
			switch judged, same := c.belongs(in, i); {
			case !judged:
				unsure = append(unsure, i)
			case same:
				in, again = append(in, i), true
			}
		}
		rest = unsure
	}
	return append(in, rest...) // nothing speaks against those
}

// belongs reports whether a file draws the design of others, where any of them shares
// enough with it to judge.
func (c *chooser) belongs(in []int, i int) (judged, same bool) {
	for _, k := range in {
		if e := c.compare(k, i); e != nil && e.Sure() {
			return true, e.Relation != identity.Different
		}
	}
	return false, false
}

// group are the files of one version.
type group struct {
	number   []int
	files    []int
	all      coverage.Characters // that they hold together
	measured bool                // all of them
}

// byVersion sorts files into groups, the newest version first.
func (c *chooser) byVersion(files []int) []group {
	var out []group
	for _, i := range files {
		number := number(c.files[i].Version)
		k, found := slices.BinarySearchFunc(out, number, func(g group, n []int) int { return slices.Compare(n, g.number) })
		if !found {
			out = slices.Insert(out, k, group{number: number, measured: true})
		}
		g := &out[k]
		g.files, g.all, g.measured = append(g.files, i), g.all.Plus(c.sets[i]), g.measured && c.files[i].Print != nil
	}
	return out
}

// accepted returns which version is in use: the one that a person chose, or the newest
// that holds nearly all characters of those before it.
func (c *chooser) accepted(groups []group) int {
	if k := slices.IndexFunc(groups, func(g group) bool { return slices.ContainsFunc(g.files, func(i int) bool { return c.files[i].Chosen }) }); k >= 0 {
		return k
	}
	for k, g := range groups {
		whole := true
		for _, older := range groups[k+1:] {
			if g.measured && older.measured && few*older.all.Without(g.all).Len() > older.all.Len() {
				whole = false
			}
		}
		if whole {
			return k
		}
	}
	return 0 // not reached: the oldest has none before it
}

// within says what the files of the version in use are.
func (c *chooser) within(g group) {
	if !g.measured {
		slices.SortFunc(g.files, c.better)
		c.sameCharacters(g.files)
		c.Used = g.files[:1]
		return
	}
	classes := c.classes(g.files)
	// A file whose characters another holds, too, is not wanted, unless a person chose it.
	slices.SortFunc(classes, func(a, b []int) int {
		x, y := a[0], b[0]
		return cmp.Or(yes(c.files[y].Chosen)-yes(c.files[x].Chosen), c.letters(y)-c.letters(x), c.sets[y].Len()-c.sets[x].Len(), cmp.Compare(c.files[x].ID, c.files[y].ID))
	})
	main := classes[0][0]
	held := func(i int) int { // a file that holds all of another's characters and more; -1 for none
		for _, other := range classes {
			if k := other[0]; k != i && c.sets[i].Without(c.sets[k]).Len() == 0 {
				return k
			}
		}
		return -1
	}
	if c.files[main].Chosen && held(main) >= 0 {
		c.Used = []int{main}
	} else {
		main = classes[slices.IndexFunc(classes, func(k []int) bool { return held(k[0]) < 0 })][0]
		c.Used = []int{main}
		have := c.sets[main]
		for _, class := range classes {
			i := class[0]
			adds := c.sets[i].Without(have).Len()
			if i == main || held(i) >= 0 || adds == 0 || c.files[i].Range == "" && adds*mostlyNew < c.sets[i].Len() {
				continue
			}
			c.Used = append(c.Used, i)
			have = have.Plus(c.sets[i])
		}
	}
	for _, class := range classes {
		first := class[0]
		c.sameCharacters(class)
		if slices.Contains(c.Used, first) {
			continue
		}
		state := Part
		if c.sets[first].Len() > c.sets[main].Len() {
			state = Whole
		}
		for _, i := range class {
			c.set(i, state, main)
		}
	}
	for n, i := range c.Used {
		c.set(i, Used, i)
		if n > 0 {
			c.States[i] = Piece
		}
	}
}

// letters counts the basic letters that a file has.
func (c *chooser) letters(i int) int { return c.sets[i].And(basic).Len() }

var basic = coverage.OfText("ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz")

// classes sorts files by the characters that they hold, the best of each first.
func (c *chooser) classes(files []int) [][]int {
	var out [][]int
	for _, i := range files {
		k := slices.IndexFunc(out, func(class []int) bool { return slices.Equal(c.sets[class[0]], c.sets[i]) })
		if k < 0 {
			out, k = append(out, nil), len(out)
		}
		out[k] = append(out[k], i)
	}
	for _, class := range out {
		slices.SortFunc(class, c.better)
	}
	return out
}

// sameCharacters says what files are that hold the same characters of the same version,
// the best first: other formats of one font, or other content under one version number.
func (c *chooser) sameCharacters(class []int) {
	c.set(class[0], Used, class[0])
	first := map[string]int{c.files[class[0]].Format: class[0]}
	for _, i := range class[1:] {
		f := &c.files[i]
		beside, had := first[f.Format]
		if !had {
			beside = class[0]
			first[f.Format] = i
		}
		e := c.compare(beside, i)
		redrawn := e != nil && e.Sure() && e.Relation == identity.Version
		switch {
		case !had && !redrawn, f.Print != nil && c.files[beside].Print != nil && f.Print.Content == c.files[beside].Print.Content && f.Print.Content != 0:
			c.set(i, Sibling, beside)
		case Compare(f.Version, c.files[beside].Version) < 0:
			c.set(i, Older, beside) // an earlier build of the version
		case c.files[beside].Preferred > 0 || c.files[beside].Chosen || f.Preferred < 0:
			c.set(i, SetAside, beside)
		default:
			c.set(i, Conflict, beside)
			c.unsure(beside, i)
		}
	}
}

// FormatRank orders formats as sources of packs: the plain ones carry all tables as
// the maker wrote them.
func FormatRank(c string) int {
	return slices.Index([]string{"eot", "woff", "woff2", "ttc", "otf", "ttf"}, c)
}

// Compare compares name ID 5 strings ("Version 1.010; build 7") by the numbers in them,
// one after the other.
func Compare(a, b string) int { return slices.Compare(numbers(a), numbers(b)) }

// number returns the version number alone: the first numbers with points between them. What
// tools add behind it ("Version 1.200;PS 001.200;hotconv 1.0.88") differs between the
// formats of one release.
func number(s string) []int {
	at := strings.IndexFunc(s, isDigit)
	if at < 0 {
		return nil
	}
	s = s[at:]
	if end := strings.IndexFunc(s, func(r rune) bool { return !isDigit(r) && r != '.' }); end >= 0 {
		s = s[:end]
	}
	return numbers(s)
}

func isDigit(r rune) bool { return r >= '0' && r <= '9' }

func numbers(s string) []int {
	var out []int
	for _, part := range strings.FieldsFunc(s, func(r rune) bool { return !isDigit(r) }) {
		if n, err := strconv.Atoi(part); err == nil {
			out = append(out, n)
		}
	}
	return out
}
