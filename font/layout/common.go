package layout

import "slices"

// coverageNode writes a coverage table of ascending glyphs in the shorter form.
func coverageNode(glyphs []GlyphID) *node {
	var ranges [][3]int
	for i, g := range glyphs {
		if n := len(ranges); n > 0 && ranges[n-1][1]+1 == int(g) {
			ranges[n-1][1] = int(g)
			continue
		}
		ranges = append(ranges, [3]int{int(g), int(g), i})
	}
	n := &node{}
	if 6*len(ranges) < 2*len(glyphs) {
		n.u16(2, len(ranges))
		for _, r := range ranges {
			n.u16(r[0], r[1], r[2])
		}
		return n
	}
	n.u16(1, len(glyphs))
	n.glyphs(glyphs)
	return n
}

// classNode writes a class definition of glyphs in ascending order in the
// shorter form; nil where all are of class 0. Glyphs out of order, which only
// damaged tables have, are left out.
func classNode(glyphs []GlyphID, class []int) *node {
	var ranges [][3]int
	for i, g := range glyphs {
		if class[i] == 0 || len(ranges) > 0 && int(g) <= ranges[len(ranges)-1][1] {
			continue
		}
		if n := len(ranges); n > 0 && ranges[n-1][1]+1 == int(g) && ranges[n-1][2] == class[i] {
			ranges[n-1][1] = int(g)
			continue
		}
		ranges = append(ranges, [3]int{int(g), int(g), class[i]})
	}
	if len(ranges) == 0 {
		return nil
	}
	n := &node{}
	first, last := ranges[0][0], ranges[len(ranges)-1][1]
	if 6+2*(last-first+1) < 4+6*len(ranges) {
		n.u16(1, first, last-first+1)
		list := make([]int, last-first+1)
		for _, r := range ranges {
			for g := r[0]; g <= r[1]; g++ {
				list[g-first] = r[2]
			}
		}
		n.u16(list...)
		return n
	}
	n.u16(2, len(ranges))
	for _, r := range ranges {
		n.u16(r[0], r[1], r[2])
	}
	return n
}

// emptyClasses is a class definition without glyphs, for where one must stand.
func emptyClasses() *node {
	n := &node{}
	n.u16(2, 0)
	return n
}

// stayList returns the covered glyphs that stay by new numbers, with their
// coverage indices.
func (r *rewriter) stayList(coverage int) (glyphs []GlyphID, indices []int) {
	for i, g := range r.t.coverage(coverage) {
		if to, ok := r.stays(g); ok {
			glyphs = append(glyphs, to)
			indices = append(indices, i)
		}
	}
	return glyphs, indices
}

// classMembers returns glyphs that stay and have a class, by new numbers.
func (r *rewriter) classMembers(c *classes) (glyphs []GlyphID, class []int) {
	for _, rng := range c.ranges {
		for g := int(rng.first); g <= int(rng.last); g++ {
			if to, ok := r.stays(GlyphID(g)); ok {
				glyphs = append(glyphs, to)
				class = append(class, rng.class)
			}
		}
	}
	return glyphs, class
}

// classTable writes a class definition for the glyphs that stay, with the same
// classes.
func (r *rewriter) classTable(c *classes) *node {
	if n := classNode(r.classMembers(c)); n != nil {
		return n
	}
	return emptyClasses()
}

// has reports whether a glyph that stays is of a class; all are taken to be of
// class 0.
func (r *rewriter) has(c *classes, class int) bool {
	if r.Keep == nil {
		return true
	}
	present, ok := r.classes[c]
	if !ok {
		present = c.present(r.Keep)
		r.classes[c] = present
	}
	return present[class]
}

// call notes that the lookup being written calls others and gives the records
// as numbers, without those whose lookup is left out.
func (r *rewriter) call(records []record) []int {
	var out []int
	for _, rec := range records {
		if to, ok := r.index[rec.lookup]; ok {
			r.calls[r.current][rec.lookup] = true
			out = append(out, rec.at, to)
		}
	}
	return out
}

// context writes a contextual subtable in the format it has.
func (r *rewriter) context(at int, chain bool) (*node, bool) {
	switch r.t.u16(at) {
	case 1:
		return r.contextSets(at, chain, nil)
	case 2:
		return r.contextSets(at, chain, func(n *node, rewritten [3]*node) {
			if chain {
				n.link(rewritten[0])
				n.link(rewritten[1])
				n.link(rewritten[2])
			} else {
				n.link(rewritten[1])
			}
		})
	case 3:
		return r.contextCoverages(at, chain)
	}
	r.t.bad = true
	return nil, false
}

// possible reports whether glyphs that stay can be what the matches ask for.
func (r *rewriter) possible(ms []match) bool {
	for _, m := range ms {
		switch m.kind {
		case matchGlyph:
			if _, ok := r.stays(GlyphID(m.value)); !ok {
				return false
			}
		case matchClass:
			if !r.has(m.classes, m.value) {
				return false
			}
		case matchCoverage:
			if glyphs, _ := r.stayList(m.value); len(glyphs) == 0 {
				return false
			}
		}
	}
	return true
}

// renumbered returns what a match asks for, by new numbers.
func (r *rewriter) renumbered(ms []match) []int {
	out := make([]int, len(ms))
	for i, m := range ms {
		out[i] = m.value
		if m.kind == matchGlyph {
			to, _ := r.stays(GlyphID(m.value))
			out[i] = int(to)
		}
	}
	return out
}

// contextSets writes the formats 1 (sets of rules by glyph) and 2 (by class,
// where byClass writes the class definitions).
func (r *rewriter) contextSets(at int, chain bool, byClass func(*node, [3]*node)) (*node, bool) {
	t := r.t
	coverage := at + t.u16(at+2)
	glyphs, _ := r.stayList(coverage)
	if len(glyphs) == 0 {
		return nil, false
	}
	sets := map[int][]*node{}
	acts := false
	var used [3]*classes
	t.eachRule(at, chain, func(_ int, first match) bool { return r.possible([]match{first}) },
		func(_ int, ru rule) bool {
			for i, ms := range [][]match{ru.back, ru.input, ru.ahead} {
				if len(ms) > 0 && ms[0].kind == matchClass {
					used[i] = ms[0].classes
				}
			}
			if !r.possible(ru.input) || !r.possible(ru.back) || !r.possible(ru.ahead) {
				return true
			}
			records := r.call(ru.records)
			acts = acts || len(records) > 0
			n := &node{}
			if chain {
				n.u16(len(ru.back))
				n.u16(r.renumbered(ru.back)...)
				n.u16(len(ru.input))
				n.u16(r.renumbered(ru.input[1:])...)
				n.u16(len(ru.ahead))
				n.u16(r.renumbered(ru.ahead)...)
				n.u16(len(records) / 2)
			} else {
				n.u16(len(ru.input), len(records)/2)
				n.u16(r.renumbered(ru.input[1:])...)
			}
			n.u16(records...)
			key := ru.input[0].value
			if ru.input[0].kind == matchGlyph {
				key = r.renumbered(ru.input[:1])[0]
			}
			sets[key] = append(sets[key], n)
			return true
		})
	if len(sets) == 0 {
		return nil, false
	}
	set := func(rules []*node) *node {
		if len(rules) == 0 {
			return nil
		}
		n := &node{}
		n.u16(len(rules))
		for _, one := range rules {
			n.link(one)
		}
		return n
	}
	out := &node{}
	if byClass == nil {
		glyphs = slices.DeleteFunc(glyphs, func(g GlyphID) bool { return sets[int(g)] == nil })
		out.u16(1)
		out.link(coverageNode(glyphs))
		out.u16(len(glyphs))
		for _, g := range glyphs {
			out.link(set(sets[int(g)]))
		}
		return out, acts
	}
	out.u16(2)
	out.link(coverageNode(glyphs))
	var written [3]*node
	for i, c := range used {
		if c != nil {
			written[i] = r.classTable(c)
		} else {
			written[i] = emptyClasses()
		}
	}
	byClass(out, written)
	highest := 0
	for class := range sets {
		highest = max(highest, class)
	}
	out.u16(highest + 1)
	for class := range highest + 1 {
		out.link(set(sets[class]))
	}
	return out, acts
}

// contextCoverages writes format 3: one rule with a coverage for each place.
func (r *rewriter) contextCoverages(at int, chain bool) (n *node, acts bool) {
	r.t.eachRule(at, chain, func(int, match) bool { return true }, func(_ int, ru rule) bool {
		if !r.possible(ru.input) || !r.possible(ru.back) || !r.possible(ru.ahead) {
			return false
		}
		records := r.call(ru.records)
		acts = len(records) > 0
		n = &node{}
		n.u16(3)
		list := func(ms []match) {
			for _, m := range ms {
				glyphs, _ := r.stayList(m.value)
				n.link(coverageNode(glyphs))
			}
		}
		if chain {
			for _, ms := range [][]match{ru.back, ru.input, ru.ahead} {
				n.u16(len(ms))
				list(ms)
			}
			n.u16(len(records) / 2)
		} else {
			n.u16(len(ru.input), len(records)/2)
			list(ru.input)
		}
		n.u16(records...)
		return false
	})
	return n, acts
}
