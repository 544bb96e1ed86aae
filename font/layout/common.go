package layout

import "sparecrate/font/layout/internal/rules"
import "sparecrate/font/layout/internal/offsets"
import "slices"

// stayList returns the covered glyphs that stay by new numbers, with their
// coverage indices.
func (r *rewriter) stayList(coverage int) (glyphs []rules.GlyphID, indices []int) {
	for i, g := range r.t.Coverage(coverage) {
		if to, ok := r.stays(g); ok {
			glyphs = append(glyphs, to)
			indices = append(indices, i)
		}
	}
	return glyphs, indices
}

// classMembers returns glyphs that stay and have a class, by new numbers.
func (r *rewriter) classMembers(c *rules.Classes) (glyphs []rules.GlyphID, class []int) {
	for _, rng := range c.Ranges {
		for g := int(rng.First); g <= int(rng.Last); g++ {
			if to, ok := r.stays(rules.GlyphID(g)); ok {
				glyphs = append(glyphs, to)
				class = append(class, rng.Class)
			}
		}
	}
	return glyphs, class
}

// classTable writes a class definition for the glyphs that stay, with the same
// classes.
func (r *rewriter) classTable(c *rules.Classes) *offsets.Node {
	if n := offsets.Classes(r.classMembers(c)); n != nil {
		return n
	}
	return offsets.NoClasses()
}

// has reports whether a glyph that stays is of a class; all are taken to be of
// class 0.
func (r *rewriter) has(c *rules.Classes, class int) bool {
	if r.Keep == nil {
		return true
	}
	present, ok := r.classes[c]
	if !ok {
		present = c.Present(r.Keep)
		r.classes[c] = present
	}
	return present[class]
}

// call notes that the lookup being written calls others and gives the records
// as numbers, without those whose lookup is left out.
func (r *rewriter) call(records []rules.Record) []int {
	var out []int
	for _, rec := range records {
		if to, ok := r.index[rec.Lookup]; ok {
			r.calls[r.current][rec.Lookup] = true
			out = append(out, rec.At, to)
		}
	}
	return out
}

// context writes a contextual subtable in the format it has.
func (r *rewriter) context(at int, chain bool) (*offsets.Node, bool) {
	switch r.t.U16(at) {
	case 1:
		return r.contextSets(at, chain, nil)
	case 2:
		return r.contextSets(at, chain, func(n *offsets.Node, rewritten [3]*offsets.Node) {
			if chain {
				n.Link(rewritten[0])
				n.Link(rewritten[1])
				n.Link(rewritten[2])
			} else {
				n.Link(rewritten[1])
			}
		})
	case 3:
		return r.contextCoverages(at, chain)
	}
	r.t.Bad = true
	return nil, false
}

// possible reports whether glyphs that stay can be what the matches ask for.
func (r *rewriter) possible(ms []rules.Match) bool {
	for _, m := range ms {
		switch m.Kind {
		case rules.MatchGlyph:
			if _, ok := r.stays(rules.GlyphID(m.Value)); !ok {
				return false
			}
		case rules.MatchClass:
			if !r.has(m.Classes, m.Value) {
				return false
			}
		case rules.MatchCoverage:
			if glyphs, _ := r.stayList(m.Value); len(glyphs) == 0 {
				return false
			}
		}
	}
	return true
}

// renumbered returns what a match asks for, by new numbers.
func (r *rewriter) renumbered(ms []rules.Match) []int {
	out := make([]int, len(ms))
	for i, m := range ms {
		out[i] = m.Value
		if m.Kind == rules.MatchGlyph {
			to, _ := r.stays(rules.GlyphID(m.Value))
			out[i] = int(to)
		}
	}
	return out
}

// contextSets writes the formats 1 (sets of rules by glyph) and 2 (by class,
// where byClass writes the class definitions).
func (r *rewriter) contextSets(at int, chain bool, byClass func(*offsets.Node, [3]*offsets.Node)) (*offsets.Node, bool) {
	t := r.t
	coverage := at + t.U16(at+2)
	glyphs, _ := r.stayList(coverage)
	if len(glyphs) == 0 {
		return nil, false
	}
	sets := map[int][]*offsets.Node{}
	acts := false
	var used [3]*rules.Classes
	t.EachRule(at, chain, func(_ int, first rules.Match) bool { return r.possible([]rules.Match{first}) },
		func(_ int, ru rules.Rule) bool {
			for i, ms := range [][]rules.Match{ru.Back, ru.Input, ru.Ahead} {
				if len(ms) > 0 && ms[0].Kind == rules.MatchClass {
					used[i] = ms[0].Classes
				}
			}
			if !r.possible(ru.Input) || !r.possible(ru.Back) || !r.possible(ru.Ahead) {
				return true
			}
			records := r.call(ru.Records)
			acts = acts || len(records) > 0
			n := &offsets.Node{}
			if chain {
				n.U16(len(ru.Back))
				n.U16(r.renumbered(ru.Back)...)
				n.U16(len(ru.Input))
				n.U16(r.renumbered(ru.Input[1:])...)
				n.U16(len(ru.Ahead))
				n.U16(r.renumbered(ru.Ahead)...)
				n.U16(len(records) / 2)
			} else {
				n.U16(len(ru.Input), len(records)/2)
				n.U16(r.renumbered(ru.Input[1:])...)
			}
			n.U16(records...)
			key := ru.Input[0].Value
			if ru.Input[0].Kind == rules.MatchGlyph {
				key = r.renumbered(ru.Input[:1])[0]
			}
			sets[key] = append(sets[key], n)
			return true
		})
	if len(sets) == 0 {
		return nil, false
	}
	set := func(rules []*offsets.Node) *offsets.Node {
		if len(rules) == 0 {
			return nil
		}
		n := &offsets.Node{}
		n.U16(len(rules))
		for _, one := range rules {
			n.Link(one)
		}
		return n
	}
	out := &offsets.Node{}
	if byClass == nil {
		glyphs = slices.DeleteFunc(glyphs, func(g rules.GlyphID) bool { return sets[int(g)] == nil })
		out.U16(1)
		out.Link(offsets.Coverage(glyphs))
		out.U16(len(glyphs))
		for _, g := range glyphs {
			out.Link(set(sets[int(g)]))
		}
		return out, acts
	}
	out.U16(2)
	out.Link(offsets.Coverage(glyphs))
	var written [3]*offsets.Node
	for i, c := range used {
		if c != nil {
			written[i] = r.classTable(c)
		} else {
			written[i] = offsets.NoClasses()
		}
	}
	byClass(out, written)
	highest := 0
	for class := range sets {
		highest = max(highest, class)
	}
	out.U16(highest + 1)
	for class := range highest + 1 {
		out.Link(set(sets[class]))
	}
	return out, acts
}

// contextCoverages writes format 3: one rule with a coverage for each place.
func (r *rewriter) contextCoverages(at int, chain bool) (n *offsets.Node, acts bool) {
	r.t.EachRule(at, chain, func(int, rules.Match) bool { return true }, func(_ int, ru rules.Rule) bool {
		if !r.possible(ru.Input) || !r.possible(ru.Back) || !r.possible(ru.Ahead) {
			return false
		}
		records := r.call(ru.Records)
		acts = len(records) > 0
		n = &offsets.Node{}
		n.U16(3)
		list := func(ms []rules.Match) {
			for _, m := range ms {
				glyphs, _ := r.stayList(m.Value)
				n.Link(offsets.Coverage(glyphs))
			}
		}
		if chain {
			for _, ms := range [][]rules.Match{ru.Back, ru.Input, ru.Ahead} {
				n.U16(len(ms))
				list(ms)
			}
			n.U16(len(records) / 2)
		} else {
			n.U16(len(ru.Input), len(records)/2)
			list(ru.Input)
		}
		n.U16(records...)
		return false
	})
	return n, acts
}
