package table

import (
	"cmp"
	"slices"

	"sparecrate/font/sfnt"
)

const (
	encodingUCS2 = 1
	encodingUCS4 = 10
	maxRune      = 0x10FFFF
)

// Mapping is one pair of a character map.
type Mapping struct {
	Rune  rune
	Glyph GlyphID
}

// ParseCmap reads the best Unicode subtable (formats 4, 6, 12 and 0) into
// pairs in order of code points, without those that map to glyph 0. It reads
// what can be read: a subtable that runs out yields the pairs before.
func ParseCmap(b []byte) ([]Mapping, error) {
	v := sfnt.View(b)
	count, ok := v.U16(2)
	if !ok {
		return nil, short("cmap", len(b), 4)
	}
	best, at := 0, 0
	for i := range int(count) {
		rec, ok := v.Sub(4+8*i, 8)
		if !ok {
			break
		}
		platform, _ := rec.U16(0)
		enc, _ := rec.U16(2)
		offset, _ := rec.U32(4)
		format, ok := v.U16(int(offset))
		if !ok {
			continue
		}
		if rank := cmapRank(platform, enc, format); rank > best {
			best, at = rank, int(offset)
		}
	}
	if best == 0 {
		return nil, nil
	}
	sub, _ := v.From(at)
	format, _ := sub.U16(0)
	var pairs []Mapping
	switch format {
	case 0:
		pairs = cmapFormat0(sub)
	case 4:
		pairs = cmapFormat4(sub)
	case 6:
		pairs = cmapFormat6(sub)
	case 12:
		pairs = cmapFormat12(sub)
	}
	byRune := func(a, b Mapping) int { return cmp.Compare(a.Rune, b.Rune) }
	if !slices.IsSortedFunc(pairs, byRune) {
		slices.SortStableFunc(pairs, byRune)
	}
	return slices.CompactFunc(pairs, func(a, b Mapping) bool { return a.Rune == b.Rune }), nil
}

// cmapRank orders subtables: full Unicode before the basic plane, Windows
// before Unicode, and symbol and Mac Roman maps last.
func cmapRank(platform, enc, format uint16) int {
	switch {
	case format != 0 && format != 4 && format != 6 && format != 12:
		return 0
	case format == 12 && platform == PlatformWindows && enc == encodingUCS4:
		return 6
	case format == 12 && platform == PlatformUnicode:
		return 5
	case platform == PlatformWindows && enc == encodingUCS2:
		return 4
	case platform == PlatformUnicode:
		return 3
	case platform == PlatformWindows && enc == 0:
		return 2
	}
	return 1
}

func cmapFormat0(v sfnt.View) []Mapping {
	var pairs []Mapping
	for c := range 256 {
		g, ok := v.U8(6 + c)
		if !ok {
			break
		}
		// Mac Roman and Unicode agree on ASCII, the part that is sure.
		if g != 0 && c < 0x80 {
			pairs = append(pairs, Mapping{rune(c), GlyphID(g)})
		}
	}
	return pairs
}

func cmapFormat4(v sfnt.View) []Mapping {
	doubled, ok := v.U16(6)
	if !ok {
		return nil
	}
	segments := int(doubled / 2)
	var pairs []Mapping
	next := 0 // segments are in order: a code point is mapped once, so the work is bounded by Unicode
	for i := range segments {
		end, ok1 := v.U16(14 + 2*i)
		start, ok2 := v.U16(16 + 2*segments + 2*i)
		delta, ok3 := v.U16(16 + 4*segments + 2*i)
		rangeAt := 16 + 6*segments + 2*i
		offset, ok4 := v.U16(rangeAt)
		if !ok1 || !ok2 || !ok3 || !ok4 {
			break
		}
		for c := max(int(start), next); c <= int(end); c++ {
			g := uint16(c)
			if offset != 0 {
				if g, ok = v.U16(rangeAt + int(offset) + 2*(c-int(start))); !ok {
					break
				}
				if g != 0 {
					g += delta
				}
			} else {
				g += delta
			}
			if g != 0 && c != 0xFFFF {
				pairs = append(pairs, Mapping{rune(c), GlyphID(g)})
			}
		}
		next = max(next, int(end)+1)
	}
	return pairs
}

func cmapFormat6(v sfnt.View) []Mapping {
	first, _ := v.U16(6)
	count, _ := v.U16(8)
	var pairs []Mapping
	for i := range int(count) {
		g, ok := v.U16(10 + 2*i)
		if !ok {
			break
		}
		if g != 0 {
			pairs = append(pairs, Mapping{rune(first) + rune(i), GlyphID(g)})
		}
	}
	return pairs
}

func cmapFormat12(v sfnt.View) []Mapping {
	groups, ok := v.U32(12)
	if !ok {
		return nil
	}
	var pairs []Mapping
	next := uint32(0) // groups are in order: a code point is mapped once, so the work is bounded by Unicode
	for i := range int(groups) {
		rec, ok := v.Sub(16+12*i, 12)
		if !ok {
			break
		}
		start, _ := rec.U32(0)
		end, _ := rec.U32(4)
		glyph, _ := rec.U32(8)
		if start > end || end > maxRune || glyph > 0xFFFF {
			continue
		}
		for c := max(start, next); c <= end; c++ {
			g := glyph + (c - start)
			if g > 0xFFFF {
				break
			}
			if g != 0 {
				pairs = append(pairs, Mapping{rune(c), GlyphID(g)})
			}
		}
		next = max(next, end+1)
	}
	return pairs
}

// EncodeCmap writes the pairs, which must be in order of code points and inside
// the basic plane, as a format 4 subtable for the Unicode and Windows platforms.
func EncodeCmap(pairs []Mapping) []byte {
	type segment struct{ start, end, delta int }
	var segments []segment
	for _, p := range pairs {
		c, delta := int(p.Rune), int(p.Glyph)-int(p.Rune)
		if n := len(segments); n > 0 && segments[n-1].end == c-1 && segments[n-1].delta == delta {
			segments[n-1].end = c
			continue
		}
		segments = append(segments, segment{c, c, delta})
	}
	segments = append(segments, segment{0xFFFF, 0xFFFF, 1})
	var sub writer
	sub.u16(4)
	sub.u16(16 + 8*len(segments))
	sub.u16(0)
	log := 0
	for 2<<log <= len(segments) {
		log++
	}
	sub.u16(2 * len(segments))
	sub.u16(2 << log)
	sub.u16(log)
	sub.u16(2*len(segments) - 2<<log)
	for _, s := range segments {
		sub.u16(s.end)
	}
	sub.u16(0)
	for _, s := range segments {
		sub.u16(s.start)
	}
	for _, s := range segments {
		sub.u16(s.delta)
	}
	for range segments {
		sub.u16(0)
	}
	var w writer
	w.u16(0)
	w.u16(2)
	for _, record := range [][2]int{{PlatformUnicode, 3}, {PlatformWindows, encodingUCS2}} {
		w.u16(record[0])
		w.u16(record[1])
		w.u32(20)
	}
	return append(w, sub...)
}
