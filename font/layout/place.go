package layout

// adjust adds a ValueRecord to a glyph; device tables and variations are those
// of the default design.
func (b *buffer) adjust(i, at, format int) {
	g := &b.glyphs[i]
	for bit := range 4 {
		if format&(1<<bit) == 0 {
			continue
		}
		n := b.t.i16(at)
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

func (b *buffer) position(l lookup, at, i int) int {
	t := b.t
	n, ok := t.covers(at+t.u16(at+2), b.glyphs[i].ID)
	if !ok {
		return 0
	}
	switch l.kind {
	case posSingle:
		format := t.u16(at + 4)
		if t.u16(at) == 1 {
			b.adjust(i, at+6, format)
		} else if n < t.u16(at+6) {
			b.adjust(i, at+8+n*valueSize(format), format)
		}
		return 1
	case posPair:
		return b.pair(l, at, i, n)
	case posMarkBase, posMarkLigature, posMarkMark:
		return b.mark(l, at, i, n)
	}
	return 0 // cursive attachment is left out
}

func (b *buffer) pair(l lookup, at, i, n int) int {
	t := b.t
	second := b.next(l, i, 1)
	if second < 0 {
		return 0
	}
	formatA, formatB := t.u16(at+4), t.u16(at+6)
	size := valueSize(formatA) + valueSize(formatB)
	place := 0
	if t.u16(at) == 1 {
		if n >= t.u16(at+8) {
			return 0
		}
		set := at + t.u16(at+10+2*n)
		low, high := 0, t.count(set, set+2, 2+size)
		for low < high {
			mid := (low + high) / 2
			if GlyphID(t.u16(set+2+mid*(2+size))) < b.glyphs[second].ID {
				low = mid + 1
			} else {
				high = mid
			}
		}
		if low >= t.u16(set) || GlyphID(t.u16(set+2+low*(2+size))) != b.glyphs[second].ID {
			return 0
		}
		place = set + 4 + low*(2+size)
	} else {
		a := t.classdef(at, t.u16(at+8)).of(b.glyphs[i].ID)
		c := t.classdef(at, t.u16(at+10)).of(b.glyphs[second].ID)
		if a >= t.u16(at+12) || c >= t.u16(at+14) {
			return 0
		}
		place = at + 16 + (a*t.u16(at+14)+c)*size
	}
	b.adjust(i, place, formatA)
	b.adjust(second, place+valueSize(formatA), formatB)
	if formatB != 0 {
		return second - i + 1
	}
	return second - i
}

// mark places a mark on the glyph before it: a base, a part of a ligature, or
// another mark.
func (b *buffer) mark(l lookup, at, i, n int) int {
	t := b.t
	base := i
	for {
		if base--; base < 0 {
			return 0
		}
		b.steps--
		isMark := b.defs.Class(b.glyphs[base].ID) == ClassMark
		if l.kind == posMarkMark {
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
	k, ok := t.covers(at+t.u16(at+4), b.glyphs[base].ID)
	if !ok {
		return 0
	}
	classes := t.u16(at + 6)
	marks, bases := at+t.u16(at+8), at+t.u16(at+10)
	if n >= t.count(marks, marks+2, 4) {
		return 0
	}
	class, own := t.u16(marks+2+4*n), marks+t.u16(marks+4+4*n)
	if class >= classes {
		return 0
	}
	row := bases + 2 + 2*k*classes
	if l.kind == posMarkLigature {
		bases += t.u16(bases + 2 + 2*k)
		part := b.glyphs[i].part
		if parts := t.u16(bases); part == 0 || part > parts {
			part = parts
		}
		row = bases + 2 + 2*max(part-1, 0)*classes
	}
	anchor := t.u16(row + 2*class)
	if anchor == 0 || t.bad {
		return 0
	}
	to := bases + anchor
	g := &b.glyphs[i]
	g.X, g.Y, g.on = t.i16(to+2)-t.i16(own+2), t.i16(to+4)-t.i16(own+4), base+1
	return 1
}

// On returns the place in the line of the glyph that a rule put this one on, which
// its shift then counts from; false where it stands by itself.
func (g *Glyph) On() (int, bool) { return g.on - 1, g.on > 0 }
