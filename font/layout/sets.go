package layout

import (
	"math/bits"
	"slices"
	"sort"
)

// Set is a set of glyphs.
type Set [1024]uint64

// Has reports whether a glyph is in the set.
func (s *Set) Has(g GlyphID) bool { return s[g>>6]&(1<<(g&63)) != 0 }

// Add puts a glyph into the set.
func (s *Set) Add(g GlyphID) { s[g>>6] |= 1 << (g & 63) }

// Len counts the glyphs.
func (s *Set) Len() int {
	n := 0
	for _, w := range s {
		n += bits.OnesCount64(w)
	}
	return n
}

// Glyphs lists the set in ascending order.
func (s *Set) Glyphs() []GlyphID {
	out := make([]GlyphID, 0, s.Len())
	for i, w := range s {
		for ; w != 0; w &= w - 1 {
			out = append(out, GlyphID(i<<6+bits.TrailingZeros64(w)))
		}
	}
	return out
}

// within reports whether every glyph of s is in o.
func (s *Set) within(o *Set) bool {
	for i, w := range s {
		if w&^o[i] != 0 {
			return false
		}
	}
	return true
}

func (s *Set) merge(o *Set) {
	for i, w := range o {
		s[i] |= w
	}
}

// coverage lists the glyphs of a coverage table in the order of their indices;
// none for the offset of nothing.
func (t *Table) coverage(at int) []GlyphID {
	if got, ok := t.coverages[at]; ok {
		return got
	}
	var out []GlyphID
	switch t.u16(at) {
	case 1:
		n := t.count(at+2, at+4, 2)
		out = make([]GlyphID, n)
		for i := range out {
			out[i] = GlyphID(t.u16(at + 4 + 2*i))
		}
	case 2:
		for i := range t.count(at+2, at+4, 6) {
			first, last := t.u16(at+4+6*i), t.u16(at+6+6*i)
			if t.work -= max(last-first, 0); t.work < 0 || len(out)+last-first > 1<<16 {
				t.bad = true
				break
			}
			for g := first; g <= last; g++ {
				out = append(out, GlyphID(g))
			}
		}
	default:
		t.bad = true
	}
	if !slices.IsSorted(out) { // indices of such tables mean nothing; readers search them and fail
		t.bad = true
	}
	t.coverages[at] = out
	return out
}

// covers returns a glyph's coverage index, false where it is not covered.
func (t *Table) covers(at int, g GlyphID) (int, bool) {
	t.work--
	return slices.BinarySearch(t.coverage(at), g)
}

// classes is a class definition table: ranges in order, all other glyphs of
// class 0.
type classes struct{ ranges []classRange }

type classRange struct {
	first, last GlyphID
	class       int
}

// of returns a glyph's class.
func (c *classes) of(g GlyphID) int {
	i := sort.Search(len(c.ranges), func(i int) bool { return c.ranges[i].last >= g })
	if i < len(c.ranges) && c.ranges[i].first <= g {
		return c.ranges[i].class
	}
	return 0
}

// classdef reads a class definition table; the offset of nothing, 0 from its
// parent, stands for one without classes.
func (t *Table) classdef(parent, offset int) *classes {
	if offset == 0 {
		return &classes{}
	}
	at := parent + offset
	if got, ok := t.classdefs[at]; ok {
		return got
	}
	c := &classes{}
	switch t.u16(at) {
	case 1:
		first := t.u16(at + 2)
		for i := range t.count(at+4, at+6, 2) {
			if class := t.u16(at + 6 + 2*i); class != 0 && first+i < 1<<16 {
				c.add(GlyphID(first+i), GlyphID(first+i), class)
			}
		}
	case 2:
		for i := range t.count(at+2, at+4, 6) {
			r := at + 4 + 6*i
			if first, last := t.u16(r), t.u16(r+2); first <= last {
				c.add(GlyphID(first), GlyphID(last), t.u16(r+4))
			}
		}
	default:
		t.bad = true
	}
	for i := 1; i < len(c.ranges); i++ {
		if c.ranges[i].first <= c.ranges[i-1].last {
			t.bad = true
		}
	}
	t.classdefs[at] = c
	return c
}

func (c *classes) add(first, last GlyphID, class int) {
	if n := len(c.ranges); n > 0 && c.ranges[n-1].class == class && c.ranges[n-1].last+1 == first {
		c.ranges[n-1].last = last
		return
	}
	c.ranges = append(c.ranges, classRange{first, last, class})
}

// present tells which classes glyphs of the set have; class 0 counts as there.
func (c *classes) present(s *Set) map[int]bool {
	out := map[int]bool{0: true}
	for _, r := range c.ranges {
		if out[r.class] {
			continue
		}
		for g := int(r.first); g <= int(r.last); g++ {
			if s[g>>6] == 0 {
				g |= 63
				continue
			}
			if s.Has(GlyphID(g)) {
				out[r.class] = true
				break
			}
		}
	}
	return out
}
