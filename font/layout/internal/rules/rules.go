package rules

import "math/bits"

// Match is what a glyph must be at one place of a contextual rule.
type Match struct {
	Kind    matchKind
	Value   int // the glyph, the class, or the offset of the coverage
	Classes *Classes
}

type matchKind uint8

// What a Match names.
const (
	MatchGlyph matchKind = iota
	MatchClass
	MatchCoverage
)

// Record calls a lookup at a place of the input.
type Record struct{ At, Lookup int }

// Rule is one contextual rule, of whatever format: what stands before (nearest
// first), the input with its first glyph, what follows, and what to do.
type Rule struct {
	Back, Input, Ahead []Match
	Records            []Record
}

// Fits reports whether a glyph is what the match asks for.
func (t *Table) Fits(m Match, g GlyphID) bool {
	switch m.Kind {
	case MatchGlyph:
		return int(g) == m.Value
	case MatchClass:
		return m.Classes.Of(g) == m.Value
	}
	_, ok := t.Covers(m.Value, g)
	return ok
}

// IsContext reports whether a kind of lookup is contextual, and whether it
// chains with what stands before and after.
func (t *Table) IsContext(kind int) (context, chain bool) {
	if t.Gpos {
		return kind == posContext || kind == posChain, kind == posChain
	}
	return kind == subContext || kind == subChain, kind == subChain
}

// EachRule goes through the rules of a contextual subtable. want is asked with
// the coverage and the match of the first glyph whether a set of rules matters;
// do ends the walk by returning false.
func (t *Table) EachRule(at int, chain bool, want func(coverage int, first Match) bool, do func(coverage int, r Rule) bool) {
	format := t.U16(at)
	if format == 3 {
		r := Rule{}
		place := at + 2
		list := func() []Match {
			n := t.Count(place, place+2, 2)
			out := make([]Match, n)
			for i := range out {
				out[i] = Match{MatchCoverage, at + t.U16(place+2+2*i), nil}
			}
			place += 2 + 2*n
			return out
		}
		if chain {
			r.Back, r.Input, r.Ahead = list(), list(), list()
			r.Records = t.records(place, place+2)
		} else {
			n := t.Count(place, place+4, 2)
			for i := range n {
				r.Input = append(r.Input, Match{MatchCoverage, at + t.U16(place+4+2*i), nil})
			}
			r.Records = t.records(place+2, place+4+2*n)
		}
		if len(r.Input) > 0 && want(r.Input[0].Value, r.Input[0]) {
			do(r.Input[0].Value, r)
		}
		return
	}
	coverage := at + t.U16(at+2)
	var back, input, ahead *Classes
	place := at + 4
	if format == 2 {
		if chain {
			back, input, ahead = t.Classdef(at, t.U16(at+4)), t.Classdef(at, t.U16(at+6)), t.Classdef(at, t.U16(at+8))
			place = at + 10
		} else {
			input = t.Classdef(at, t.U16(at+4))
			place = at + 6
		}
	} else if format != 1 {
		t.Bad = true
		return
	}
	as := func(c *Classes, n int) Match {
		if c == nil {
			return Match{MatchGlyph, n, nil}
		}
		return Match{MatchClass, n, c}
	}
	covered := []GlyphID(nil)
	if format == 1 {
		covered = t.Coverage(coverage)
	}
	for i := range t.Count(place, place+2, 2) {
		first := as(input, i)
		if format == 1 {
			if i >= len(covered) {
				break
			}
			first.Value = int(covered[i])
		}
		offset := t.U16(place + 2 + 2*i)
		if offset == 0 || !want(coverage, first) {
			continue
		}
		set := at + offset
		for k := range t.Count(set, set+2, 2) {
			r, ok := t.ruleAt(set+t.U16(set+2+2*k), chain, first, func(n, which int) Match {
				return as([]*Classes{back, input, ahead}[which], n)
			})
			if !ok || !do(coverage, r) {
				return
			}
		}
	}
}

// ruleAt reads a rule of the formats 1 and 2. as makes a match of a number before
// (0), within (1) or after (2) the input.
func (t *Table) ruleAt(at int, chain bool, first Match, as func(n, which int) Match) (Rule, bool) {
	r := Rule{Input: []Match{first}}
	list := func(n, which int) []Match {
		out := make([]Match, n)
		for i := range out {
			out[i] = as(t.U16(at+2*i), which)
		}
		at += 2 * n
		return out
	}
	if !chain {
		n, records := t.U16(at), at+2
		at += 4
		if n == 0 || t.Count(records-2, at, 2) == 0 {
			t.Bad = true
			return r, false
		}
		r.Input = append(r.Input, list(n-1, 1)...)
		r.Records = t.records(records, at)
		return r, !t.Bad
	}
	n := t.Count(at, at+2, 2)
	at += 2
	r.Back = list(n, 0)
	n = t.Count(at, at+2, 2)
	if n == 0 {
		t.Bad = true
		return r, false
	}
	at += 2
	r.Input = append(r.Input, list(n-1, 1)...)
	n = t.Count(at, at+2, 2)
	at += 2
	r.Ahead = list(n, 2)
	r.Records = t.records(at, at+2)
	return r, !t.Bad && t.Work >= 0
}

// records reads the lookups a rule calls: their number at one place, the
// records at another.
func (t *Table) records(number, at int) []Record {
	n := t.Count(number, at, 4)
	out := make([]Record, n)
	for i := range out {
		out[i] = Record{t.U16(at + 4*i), t.U16(at + 4*i + 2)}
	}
	return out
}

// ValueSize returns the bytes of a value record of a format.
func ValueSize(format int) int { return 2 * bits.OnesCount(uint(format&0xFF)) }
