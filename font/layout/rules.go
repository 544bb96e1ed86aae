package layout

// match is what a glyph must be at one place of a contextual rule.
type match struct {
	kind    matchKind
	value   int // the glyph, the class, or the offset of the coverage
	classes *classes
}

type matchKind uint8

const (
	matchGlyph matchKind = iota
	matchClass
	matchCoverage
)

// record calls a lookup at a place of the input.
type record struct{ at, lookup int }

// rule is one contextual rule, of whatever format: what stands before (nearest
// first), the input with its first glyph, what follows, and what to do.
type rule struct {
	back, input, ahead []match
	records            []record
}

// fits reports whether a glyph is what the match asks for.
func (t *Table) fits(m match, g GlyphID) bool {
	switch m.kind {
	case matchGlyph:
		return int(g) == m.value
	case matchClass:
		return m.classes.of(g) == m.value
	}
	_, ok := t.covers(m.value, g)
	return ok
}

// isContext reports whether a kind of lookup is contextual, and whether it
// chains with what stands before and after.
func (t *Table) isContext(kind int) (context, chain bool) {
	if t.gpos {
		return kind == posContext || kind == posChain, kind == posChain
	}
	return kind == subContext || kind == subChain, kind == subChain
}

// eachRule goes through the rules of a contextual subtable. want is asked with
// the coverage and the match of the first glyph whether a set of rules matters;
// do ends the walk by returning false.
func (t *Table) eachRule(at int, chain bool, want func(coverage int, first match) bool, do func(coverage int, r rule) bool) {
	format := t.u16(at)
	if format == 3 {
		r := rule{}
		place := at + 2
		list := func() []match {
			n := t.count(place, place+2, 2)
			out := make([]match, n)
			for i := range out {
				out[i] = match{matchCoverage, at + t.u16(place+2+2*i), nil}
			}
			place += 2 + 2*n
			return out
		}
		if chain {
			r.back, r.input, r.ahead = list(), list(), list()
			r.records = t.records(place, place+2)
		} else {
			n := t.count(place, place+4, 2)
			for i := range n {
				r.input = append(r.input, match{matchCoverage, at + t.u16(place+4+2*i), nil})
			}
			r.records = t.records(place+2, place+4+2*n)
		}
		if len(r.input) > 0 && want(r.input[0].value, r.input[0]) {
			do(r.input[0].value, r)
		}
		return
	}
	coverage := at + t.u16(at+2)
	var back, input, ahead *classes
	place := at + 4
	if format == 2 {
		if chain {
			back, input, ahead = t.classdef(at, t.u16(at+4)), t.classdef(at, t.u16(at+6)), t.classdef(at, t.u16(at+8))
			place = at + 10
		} else {
			input = t.classdef(at, t.u16(at+4))
			place = at + 6
		}
	} else if format != 1 {
		t.bad = true
		return
	}
	as := func(c *classes, n int) match {
		if c == nil {
			return match{matchGlyph, n, nil}
		}
		return match{matchClass, n, c}
	}
	covered := []GlyphID(nil)
	if format == 1 {
		covered = t.coverage(coverage)
	}
	for i := range t.count(place, place+2, 2) {
		first := as(input, i)
		if format == 1 {
			if i >= len(covered) {
				break
			}
			first.value = int(covered[i])
		}
		offset := t.u16(place + 2 + 2*i)
		if offset == 0 || !want(coverage, first) {
			continue
		}
		set := at + offset
		for k := range t.count(set, set+2, 2) {
			r, ok := t.ruleAt(set+t.u16(set+2+2*k), chain, first, func(n, which int) match {
				return as([]*classes{back, input, ahead}[which], n)
			})
			if !ok || !do(coverage, r) {
				return
			}
		}
	}
}

// ruleAt reads a rule of the formats 1 and 2. as makes a match of a number before
// (0), within (1) or after (2) the input.
func (t *Table) ruleAt(at int, chain bool, first match, as func(n, which int) match) (rule, bool) {
	r := rule{input: []match{first}}
	list := func(n, which int) []match {
		out := make([]match, n)
		for i := range out {
			out[i] = as(t.u16(at+2*i), which)
		}
		at += 2 * n
		return out
	}
	if !chain {
		n, records := t.u16(at), at+2
		at += 4
		if n == 0 || t.count(records-2, at, 2) == 0 {
			t.bad = true
			return r, false
		}
		r.input = append(r.input, list(n-1, 1)...)
		r.records = t.records(records, at)
		return r, !t.bad
	}
	n := t.count(at, at+2, 2)
	at += 2
	r.back = list(n, 0)
	n = t.count(at, at+2, 2)
	if n == 0 {
		t.bad = true
		return r, false
	}
	at += 2
	r.input = append(r.input, list(n-1, 1)...)
	n = t.count(at, at+2, 2)
	at += 2
	r.ahead = list(n, 2)
	r.records = t.records(at, at+2)
	return r, !t.bad && t.work >= 0
}

// records reads the lookups a rule calls: their number at one place, the
// records at another.
func (t *Table) records(number, at int) []record {
	n := t.count(number, at, 4)
	out := make([]record, n)
	for i := range out {
		out[i] = record{t.u16(at + 4*i), t.u16(at + 4*i + 2)}
	}
	return out
}
