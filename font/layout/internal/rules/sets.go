package rules

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

// Within reports whether every glyph of s is in o.
func (s *Set) Within(o *Set) bool {
	for i, w := range s {
		if w&^o[i] != 0 {
			return false
		}
	}
	return true
}

// Merge adds the glyphs of o.
func (s *Set) Merge(o *Set) {
	for i, w := range o {
		s[i] |= w
	}
}

// Coverage lists the glyphs of a coverage table in the order of their indices;
// none for the offset of nothing.
func (t *Table) Coverage(at int) []GlyphID {
	if got, ok := t.coverages[at]; ok {
		return got
	}
	var out []GlyphID
	switch t.U16(at) {
	case 1:
		n := t.Count(at+2, at+4, 2)
		out = make([]GlyphID, n)
		for i := range out {
			out[i] = GlyphID(t.U16(at + 4 + 2*i))
		}
	case 2:
		for i := range t.Count(at+2, at+4, 6) {
			first, last := t.U16(at+4+6*i), t.U16(at+6+6*i)
			if t.Work -= max(last-first, 0); t.Work < 0 || len(out)+last-first > 1<<16 {
				t.Bad = true
				break
			}
			for g := first; g <= last; g++ {
				out = append(out, GlyphID(g))
			}
		}
	default:
		t.Bad = true
	}
	if !slices.IsSorted(out) { // indices of such tables mean nothing; readers search them and fail
		t.Bad = true
	}
	t.coverages[at] = out
	return out
}

// Covers returns a glyph's coverage index, false where it is not covered.
func (t *Table) Covers(at int, g GlyphID) (int, bool) {
	t.Work--
	return slices.BinarySearch(t.Coverage(at), g)
}

// Classes is a class definition table: ranges in order, all other glyphs of
// class 0.
type Classes struct{ Ranges []classRange }

type classRange struct {
	First, Last GlyphID
	Class       int
}

// Of returns a glyph's class.
func (c *Classes) Of(g GlyphID) int {
	i := sort.Search(len(c.Ranges), func(i int) bool { return c.Ranges[i].Last >= g })
	if i < len(c.Ranges) && c.Ranges[i].First <= g {
		return c.Ranges[i].Class
	}
	return 0
}

// Classdef reads a class definition table; the offset of nothing, 0 from its
// parent, stands for one without classes.
func (t *Table) Classdef(parent, offset int) *Classes {
	if offset == 0 {
		return &Classes{}
	}
	at := parent + offset
	if got, ok := t.classdefs[at]; ok {
		return got
	}
	c := &Classes{}
	switch t.U16(at) {
	case 1:
		first := t.U16(at + 2)
		for i := range t.Count(at+4, at+6, 2) {
			if class := t.U16(at + 6 + 2*i); class != 0 && first+i < 1<<16 {
				c.add(GlyphID(first+i), GlyphID(first+i), class)
			}
		}
	case 2:
		for i := range t.Count(at+2, at+4, 6) {
			r := at + 4 + 6*i
			if first, last := t.U16(r), t.U16(r+2); first <= last {
				c.add(GlyphID(first), GlyphID(last), t.U16(r+4))
			}
		}
	default:
		t.Bad = true
	}
	for i := 1; i < len(c.Ranges); i++ {
		if c.Ranges[i].First <= c.Ranges[i-1].Last {
			t.Bad = true
		}
	}
	t.classdefs[at] = c
	return c
}

func (c *Classes) add(first, last GlyphID, class int) {
	if n := len(c.Ranges); n > 0 && c.Ranges[n-1].Class == class && c.Ranges[n-1].Last+1 == first {
		c.Ranges[n-1].Last = last
		return
	}
	c.Ranges = append(c.Ranges, classRange{first, last, class})
}

// Present tells which classes glyphs of the set have; class 0 counts as there.
func (c *Classes) Present(s *Set) map[int]bool {
	out := map[int]bool{0: true}
	for _, r := range c.Ranges {
		if out[r.Class] {
			continue
		}
		for g := int(r.First); g <= int(r.Last); g++ {
			if s[g>>6] == 0 {
				g |= 63
				continue
			}
			if s.Has(GlyphID(g)) {
				out[r.Class] = true
				break
			}
		}
	}
	return out
}
