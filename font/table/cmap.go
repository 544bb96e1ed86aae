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

// Run is a run of code points that map to a run of glyphs, neither empty.
type Run struct {
	First rune
	Count int
	Glyph GlyphID
}

// ParseCmap reads the best Unicode subtable (formats 4, 6, 12 and 0) into
// runs in order of code points, without those that map to glyph 0. It reads
// what can be read: a subtable that runs out yields the runs before. No code
// point is mapped twice, so the work is bounded by Unicode.
func ParseCmap(b []byte) ([]Run, error) { return parseCmap(b, nil, false) }

// AppendCoverage reads which code points are mapped, in runs as long as they go
// whatever the glyphs; Glyph is that of the first of a run. The runs are written
// over those of into, whose room is used again. Where only coverage is asked for
// it is a good deal faster than ParseCmap.
func AppendCoverage(into []Run, b []byte) ([]Run, error) { return parseCmap(b, into[:0], true) }

// parseCmap reads into a list that may have room already.
func parseCmap(b []byte, list []Run, loose bool) ([]Run, error) {
	v := sfnt.View(b)
	count, ok := v.U16(2)
	if !ok {
		return list, short("cmap", len(b), 4)
	}
	best, at := 0, 0
	eachSubtable(v, int(count), func(platform, enc, format uint16, offset int) {
		if rank := cmapRank(platform, enc, format); rank > best {
			best, at = rank, offset
		}
	})
	if best == 0 {
		return list, nil
	}
	sub, _ := v.From(at)
	runs := runList{list: list, loose: loose}
	switch format, _ := sub.U16(0); format {
	case 0:
		runs.format0(sub)
	case 4:
		runs.format4(sub)
	case 6:
		runs.format6(sub)
	default:
		runs.format12(sub)
	}
	return runs.list, nil
}

// eachSubtable goes through the records of a character map.
func eachSubtable(v sfnt.View, count int, do func(platform, encoding, format uint16, offset int)) {
	for i := range count {
		rec, ok := v.Sub(4+8*i, 8)
		if !ok {
			return
		}
		platform, _ := rec.U16(0)
		enc, _ := rec.U16(2)
		offset, _ := rec.U32(4)
		if format, ok := v.U16(int(offset)); ok {
			do(platform, enc, format, int(offset))
		}
	}
}

// SymbolCmap reports whether the best subtable is one for symbols (Windows
// encoding 0): its characters stand at U+F000 and on, and readers find those of
// one byte there.
func SymbolCmap(b []byte) bool {
	v := sfnt.View(b)
	count, _ := v.U16(2)
	best, symbol := 0, false
	eachSubtable(v, int(count), func(platform, enc, format uint16, _ int) {
		if rank := cmapRank(platform, enc, format); rank > best {
			best, symbol = rank, platform == PlatformWindows && enc == 0
		}
	})
	return symbol
}

// runList gathers runs, joined where code points and, unless loose, glyphs go on.
type runList struct {
	list  []Run
	loose bool
}

func (l *runList) add(r Run) {
	if n := len(l.list); n > 0 {
		last := &l.list[n-1]
		if last.First+rune(last.Count) == r.First && (l.loose || int(last.Glyph)+last.Count == int(r.Glyph)) {
			last.Count += r.Count
			return
		}
	}
	l.list = append(l.list, r)
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

func (l *runList) format0(v sfnt.View) {
	// Mac Roman and Unicode agree on ASCII, the part that is sure.
	for c := range 0x80 {
		if g, ok := v.U8(6 + c); ok && g != 0 {
			l.add(Run{rune(c), 1, GlyphID(g)})
		}
	}
}

func (l *runList) format4(v sfnt.View) {
	doubled, ok := v.U16(6)
	if !ok {
		return
	}
	segments := int(doubled / 2)
	// Four lists, one behind the other; what the last still holds is there whole.
	rangesAt := 16 + 6*segments
	whole := min(segments, (len(v)-rangesAt)/2)
	if whole <= 0 {
		return
	}
	ends, starts, deltas, ranges := v[14:], v[16+2*segments:], v[16+4*segments:], v[rangesAt:]
	l.list = slices.Grow(l.list, whole)
	next := 0
	for at := 0; at < 2*whole; at += 2 {
		end, start := int(ends[at])<<8|int(ends[at+1]), int(starts[at])<<8|int(starts[at+1])
		delta := uint16(deltas[at])<<8 | uint16(deltas[at+1])
		offset := int(ranges[at])<<8 | int(ranges[at+1])
		first, last := max(start, next), min(end, 0xFFFE) // U+FFFF is no character
		next = max(next, end+1)
		switch {
		case first > last:
		case offset != 0:
			l.listed(first, last, delta, ranges[at:], offset-2*start)
		case first+int(delta) > 0 && (first+int(delta))>>16 == (last+int(delta))>>16:
			// Glyphs run along with code points; only the first can be glyph 0.
			if uint16(first)+delta == 0 {
				first++
			}
			if first <= last {
				l.add(Run{rune(first), last - first + 1, GlyphID(uint16(first) + delta)})
			}
		default:
			for c := first; c <= last; c++ {
				if g := uint16(c) + delta; g != 0 {
					l.add(Run{rune(c), 1, GlyphID(g)})
				}
			}
		}
	}
}

// listed reads a segment whose glyphs stand in a list, that of code point c at
// base+2c.
func (l *runList) listed(first, last int, delta uint16, v sfnt.View, base int) {
	last = min(last, (len(v)-base)/2-1) // as far as the list goes
	if base+2*first < 0 || first > last {
		return
	}
	glyphs := v[base+2*first : base+2*last+2]
	for i := 0; i+1 < len(glyphs); i += 2 {
		g := uint16(glyphs[i])<<8 | uint16(glyphs[i+1])
		if g == 0 {
			continue
		}
		if g += delta; g != 0 {
			l.add(Run{rune(first + i/2), 1, GlyphID(g)})
		}
	}
}

func (l *runList) format6(v sfnt.View) {
	first, _ := v.U16(6)
	count, _ := v.U16(8)
	for i := range int(count) {
		g, ok := v.U16(10 + 2*i)
		if !ok {
			break
		}
		if g != 0 {
			l.add(Run{rune(first) + rune(i), 1, GlyphID(g)})
		}
	}
}

func (l *runList) format12(v sfnt.View) {
	groups, ok := v.U32(12)
	if !ok {
		return
	}
	l.list = slices.Grow(l.list, min(int(groups), len(v)/12))
	next := uint32(0)
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
		first := max(start, next)
		next = max(next, end+1)
		if glyph == 0 && first == start {
			first++
		}
		from := glyph + first - start
		if first > end || from > 0xFFFF {
			continue
		}
		count := min(end-first+1, 0x10000-from)
		l.add(Run{rune(first), int(count), GlyphID(from)})
	}
}

// Cmap is a character map to write.
type Cmap struct {
	Pairs []Mapping // in order of code points
	// Symbol asks for the Windows encoding for symbols.
	Symbol    bool
	Selectors []Selector
}

// EncodeCmap writes the pairs, which must be in order of code points and inside
// the basic plane, for the Unicode and Windows platforms.
func EncodeCmap(pairs []Mapping) []byte { return (&Cmap{Pairs: pairs}).Encode() }

// Encode writes a format 4 subtable for the basic plane, a format 12 subtable
// with everything where characters lie beyond it or format 4 would be too
// large, and a format 14 subtable for variation selectors.
func (c *Cmap) Encode() []byte {
	type subtable struct {
		records [][2]int
		b       []byte
	}
	basic := c.Pairs
	for len(basic) > 0 && basic[len(basic)-1].Rune > 0xFFFF {
		basic = basic[:len(basic)-1]
	}
	var subs []subtable
	if len(c.Selectors) > 0 {
		subs = append(subs, subtable{[][2]int{{PlatformUnicode, 5}}, encodeSelectors(c.Selectors)})
	}
	small, fits := encodeFormat4(basic)
	if fits {
		records := [][2]int{{PlatformUnicode, 3}, {PlatformWindows, encodingUCS2}}
		if c.Symbol {
			records = [][2]int{{PlatformWindows, 0}}
		}
		subs = append(subs, subtable{records, small})
	}
	if len(basic) < len(c.Pairs) || !fits {
		subs = append(subs, subtable{[][2]int{{PlatformUnicode, 4}, {PlatformWindows, encodingUCS4}}, encodeFormat12(c.Pairs)})
	}
	type record struct{ platform, encoding, at int }
	var records []record
	count := 0
	for _, s := range subs {
		count += len(s.records)
	}
	at := 4 + 8*count
	for _, s := range subs {
		for _, r := range s.records {
			records = append(records, record{r[0], r[1], at})
		}
		at += len(s.b)
	}
	slices.SortFunc(records, func(a, b record) int {
		return cmp.Or(cmp.Compare(a.platform, b.platform), cmp.Compare(a.encoding, b.encoding))
	})
	var w writer
	w.u16(0)
	w.u16(count)
	for _, r := range records {
		w.u16(r.platform)
		w.u16(r.encoding)
		w.u32(uint32(r.at))
	}
	for _, s := range subs {
		w = append(w, s.b...)
	}
	return w
}

// encodeFormat4 writes the pairs in segments, false where they do not fit its
// 16-bit length.
func encodeFormat4(pairs []Mapping) ([]byte, bool) {
	type segment struct {
		start, end, delta int
		glyphs            []GlyphID // one by one where delta does not give them
	}
	var segments []segment
	for i := 0; i < len(pairs); {
		// A run of code points, and the pieces of it whose glyphs run along.
		n, pieces := 1, 1
		for i+n < len(pairs) && pairs[i+n].Rune == pairs[i].Rune+rune(n) {
			if pairs[i+n].Glyph != pairs[i+n-1].Glyph+1 {
				pieces++
			}
			n++
		}
		run := pairs[i : i+n]
		i += n
		if 8*pieces > 8+2*n {
			one := segment{start: int(run[0].Rune), end: int(run[n-1].Rune)}
			for _, p := range run {
				one.glyphs = append(one.glyphs, p.Glyph)
			}
			segments = append(segments, one)
			continue
		}
		for k, p := range run {
			delta := int(p.Glyph) - int(p.Rune)
			if k > 0 && segments[len(segments)-1].delta == delta {
				segments[len(segments)-1].end++
				continue
			}
			segments = append(segments, segment{start: int(p.Rune), end: int(p.Rune), delta: delta})
		}
	}
	if n := len(segments); n == 0 || segments[n-1].end != 0xFFFF {
		segments = append(segments, segment{start: 0xFFFF, end: 0xFFFF, delta: 1})
	}
	var sub, glyphs writer
	sub.u16(4)
	sub.u16(0) // length, set below
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
	for i, s := range segments {
		if s.glyphs == nil {
			sub.u16(0)
			continue
		}
		sub.u16(2*(len(segments)-i) + len(glyphs))
		for _, g := range s.glyphs {
			glyphs.u16(int(g))
		}
	}
	sub = append(sub, glyphs...)
	sub.setU16(2, len(sub))
	return sub, len(sub) <= 0xFFFF
}

func encodeFormat12(pairs []Mapping) []byte {
	var runs runList
	for _, p := range pairs {
		runs.add(Run{p.Rune, 1, p.Glyph})
	}
	var w writer
	w.u16(12)
	w.u16(0)
	w.u32(uint32(16 + 12*len(runs.list)))
	w.u32(0)
	w.u32(uint32(len(runs.list)))
	for _, r := range runs.list {
		w.u32(uint32(r.First))
		w.u32(uint32(int(r.First) + r.Count - 1))
		w.u32(uint32(r.Glyph))
	}
	return w
}
