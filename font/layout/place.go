package layout

import "sparecrate/font/layout/internal/rules"

// adjust adds a ValueRecord to a glyph; device tables and variations are those
// of the default design.
func (b *buffer) adjust(i, at, format int) {
	g := &b.glyphs[i]
	for bit := range 4 {
		if format&(1<<bit) == 0 {
			continue
		}
		n := b.t.I16(at)
		at += 2
		switch bit {
		case 0:
			g.X += n
		case 1:
			g.Y += n
		case 2:
			g.Advance += n
		}
	}
}

func (b *buffer) position(l rules.Lookup, at, i int) int {
	t := b.t
	n, ok := t.Covers(at+t.U16(at+2), b.glyphs[i].ID)
	if !ok {
		return 0
	}
	switch l.Kind {
	case rules.PosSingle:
		format := t.U16(at + 4)
		if t.U16(at) == 1 {
			b.adjust(i, at+6, format)
		} else if n < t.U16(at+6) {
			b.adjust(i, at+8+n*rules.ValueSize(format), format)
		}
		return 1
	case rules.PosPair:
		return b.pair(l, at, i, n)
	case rules.PosMarkBase, rules.PosMarkLigature, rules.PosMarkMark:
		return b.mark(l, at, i, n)
	}
	return 0 // cursive attachment is left out
}

func (b *buffer) pair(l rules.Lookup, at, i, n int) int {
	t := b.t
	second := b.next(l, i, 1)
	if second < 0 {
		return 0
	}
	formatA, formatB := t.U16(at+4), t.U16(at+6)
	size := rules.ValueSize(formatA) + rules.ValueSize(formatB)
	place := 0
	if t.U16(at) == 1 {
		if n >= t.U16(at+8) {
			return 0
		}
		set := at + t.U16(at+10+2*n)
		low, high := 0, t.Count(set, set+2, 2+size)
		for low < high {
			mid := (low + high) / 2
			if rules.GlyphID(t.U16(set+2+mid*(2+size))) < b.glyphs[second].ID {
				low = mid + 1
			} else {
				high = mid
			}
		}
		if low >= t.U16(set) || rules.GlyphID(t.U16(set+2+low*(2+size))) != b.glyphs[second].ID {
			return 0
		}
		place = set + 4 + low*(2+size)
	} else {
		a := t.Classdef(at, t.U16(at+8)).Of(b.glyphs[i].ID)
		c := t.Classdef(at, t.U16(at+10)).Of(b.glyphs[second].ID)
		if a >= t.U16(at+12) || c >= t.U16(at+14) {
			return 0
		}
		place = at + 16 + (a*t.U16(at+14)+c)*size
	}
	b.adjust(i, place, formatA)
	b.adjust(second, place+rules.ValueSize(formatA), formatB)
	if formatB != 0 {
		return second - i + 1
	}
	return second - i
}

// mark places a mark on the glyph before it: a base, a part of a ligature, or
// another mark.
func (b *buffer) mark(l rules.Lookup, at, i, n int) int {
	t := b.t
	base := i
	for {
		if base--; base < 0 {
			return 0
		}
		b.steps--
		isMark := b.defs.Class(b.glyphs[base].ID) == rules.ClassMark
		if l.Kind == rules.PosMarkMark {
			if b.ignored(l, b.glyphs[base].ID) {
				continue
			}
			if !isMark {
				return 0
			}
			break
		}
		if !isMark {
			break
		}
	}
	k, ok := t.Covers(at+t.U16(at+4), b.glyphs[base].ID)
	if !ok {
		return 0
	}
	classes := t.U16(at + 6)
	marks, bases := at+t.U16(at+8), at+t.U16(at+10)
	if n >= t.Count(marks, marks+2, 4) {
		return 0
	}
	class, own := t.U16(marks+2+4*n), marks+t.U16(marks+4+4*n)
	if class >= classes {
		return 0
	}
	row := bases + 2 + 2*k*classes
	if l.Kind == rules.PosMarkLigature {
		bases += t.U16(bases + 2 + 2*k)
		part := b.glyphs[i].part
		if parts := t.U16(bases); part == 0 || part > parts {
			part = parts
		}
		row = bases + 2 + 2*max(part-1, 0)*classes
	}
	anchor := t.U16(row + 2*class)
	if anchor == 0 || t.Bad {
		return 0
	}
	to := bases + anchor
	g := &b.glyphs[i]
	g.X, g.Y, g.on = t.I16(to+2)-t.I16(own+2), t.I16(to+4)-t.I16(own+4), base+1
	return 1
}

// On returns the place in the line of the glyph that a rule put this one on, which
// its shift then counts from; false where it stands by itself.
func (g *Glyph) On() (int, bool) { return g.on - 1, g.on > 0 }
