package table

import "sparecrate/font/sfnt"

// Selector is what a character map says of one variation selector (OpenType,
// `cmap`, format 14).
type Selector struct {
	Selector rune
	Default  []Run     // characters whose usual glyph is meant; Glyph says nothing
	Special  []Mapping // characters with a glyph of their own
}

// maxSelectors is all that Unicode has: 16 and 240, and some of other scripts.
const maxSelectors = 512

// ParseSelectors reads the format 14 subtable of a character map, none where
// there is none; what lies outside is left out.
func ParseSelectors(b []byte) []Selector {
	v := sfnt.View(b)
	count, _ := v.U16(2)
	at := -1
	eachSubtable(v, int(count), func(_, _, format uint16, offset int) {
		if format == 14 {
			at = offset
		}
	})
	if at < 0 {
		return nil
	}
	c := v.Cursor()
	records, _ := v.U32(at + 6)
	var out []Selector
	for i := range min(int(records), maxSelectors) {
		rec := at + 10 + 11*i
		if _, ok := v.Sub(rec, 11); !ok {
			break
		}
		s := Selector{Selector: rune(c.U24(rec))}
		if offset, _ := v.U32(rec + 3); offset != 0 {
			n, _ := v.U32(at + int(offset))
			list, ok := v.Sub(at+int(offset)+4, 4*int(n))
			for k := 0; ok && k < len(list)/4; k++ {
				s.Default = append(s.Default, Run{First: rune(list[4*k])<<16 | rune(list[4*k+1])<<8 | rune(list[4*k+2]), Count: int(list[4*k+3]) + 1})
			}
		}
		if offset, _ := v.U32(rec + 7); offset != 0 {
			n, _ := v.U32(at + int(offset))
			list, ok := v.Sub(at+int(offset)+4, 5*int(n))
			for k := 0; ok && k < len(list)/5; k++ {
				e := list[5*k:]
				s.Special = append(s.Special, Mapping{rune(e[0])<<16 | rune(e[1])<<8 | rune(e[2]), GlyphID(e[3])<<8 | GlyphID(e[4])})
			}
		}
		out = append(out, s)
	}
	return out
}

func encodeSelectors(selectors []Selector) []byte {
	u24 := func(w *writer, n rune) { w.u8(uint8(n >> 16)); w.u16(int(n & 0xFFFF)) }
	var w, tables writer
	head := 10 + 11*len(selectors)
	w.u16(14)
	w.u32(0) // length, set below
	w.u32(uint32(len(selectors)))
	for _, s := range selectors {
		u24(&w, s.Selector)
		place := func(some bool) {
			if some {
				w.u32(uint32(head + len(tables)))
			} else {
				w.u32(0)
			}
		}
		place(len(s.Default) > 0)
		if len(s.Default) > 0 {
			tables.u32(uint32(len(s.Default)))
			for _, r := range s.Default {
				u24(&tables, r.First)
				tables.u8(uint8(r.Count - 1))
			}
		}
		place(len(s.Special) > 0)
		if len(s.Special) > 0 {
			tables.u32(uint32(len(s.Special)))
			for _, m := range s.Special {
				u24(&tables, m.Rune)
				tables.u16(int(m.Glyph))
			}
		}
	}
	w = append(w, tables...)
	w.setU16(2, len(w)>>16)
	w.setU16(4, len(w)&0xFFFF)
	return w
}
