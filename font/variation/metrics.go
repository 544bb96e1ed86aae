package variation

import (
	"encoding/binary"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// Metrics is HVAR or VVAR: how advances, and perhaps bearings, vary by glyph.
type Metrics struct {
	Store *Store
	// Maps give a row for each glyph: of advances, of the first and second
	// bearings, and in VVAR of vertical origins. Advances without a map go by
	// set 0 and the number of the glyph; others without a map do not vary on
	// their own.
	Maps [][]uint32
}

// ParseMetrics reads the table. The error wraps sfnt.ErrDamaged.
func ParseMetrics(b []byte, tag sfnt.Tag) (*Metrics, error) {
	maps := 3
	if tag == TagVVAR {
		maps = 4
	}
	v := sfnt.View(b)
	at, ok := v.U32(4)
	if _, fits := v.Sub(0, 8+4*maps); !ok || !fits {
		return nil, damaged("metrics that vary have no header")
	}
	rest, ok := v.From(int(at))
	if !ok {
		return nil, damaged("the variations of metrics lie outside their table")
	}
	m := &Metrics{Maps: make([][]uint32, maps)}
	var err error
	if m.Store, err = ParseStore(rest); err != nil {
		return nil, err
	}
	for i := range m.Maps {
		offset, _ := v.U32(8 + 4*i)
		if offset == 0 {
			continue
		}
		rest, ok := v.From(int(offset))
		if !ok {
			return nil, damaged("a map of variations lies outside its table")
		}
		if m.Maps[i], err = ParseMap(rest); err != nil {
			return nil, err
		}
	}
	return m, nil
}

// index returns the row of a glyph in a map, NoVariation where there is none.
func (m *Metrics) index(which int, glyph table.GlyphID) uint32 {
	list := m.Maps[which]
	switch {
	case list == nil && which == 0:
		return Index(0, int(glyph))
	case len(list) == 0:
		return NoVariation
	}
	return list[min(int(glyph), len(list)-1)]
}

// Trim returns the table for some of the glyphs, in their order.
func (m *Metrics) Trim(glyphs []table.GlyphID) *Metrics {
	used := map[uint32]bool{}
	m.each(glyphs, func(_, _ int, k uint32) { used[k] = true })
	delete(used, NoVariation)
	out := &Metrics{Maps: make([][]uint32, len(m.Maps))}
	var to map[uint32]uint32
	out.Store, to = m.Store.Only(used)
	to[NoVariation] = NoVariation
	m.each(glyphs, func(which, _ int, k uint32) { out.Maps[which] = append(out.Maps[which], to[k]) })
	return out
}

// each goes through the rows of all maps that are there.
func (m *Metrics) each(glyphs []table.GlyphID, do func(which, i int, row uint32)) {
	for which := range m.Maps {
		if which > 0 && m.Maps[which] == nil {
			continue
		}
		for i, g := range glyphs {
			do(which, i, m.index(which, g))
		}
	}
}

// Encode writes the table; a map that says what goes without saying is left out.
func (m *Metrics) Encode() []byte {
	plain := len(m.Store.Sets) == 1
	for i, k := range m.Maps[0] {
		plain = plain && k == Index(0, i)
	}
	header := 8 + 4*len(m.Maps)
	store := m.Store.Encode()
	out := binary.BigEndian.AppendUint32(nil, 0x00010000)
	out = binary.BigEndian.AppendUint32(out, uint32(header))
	var tail []byte
	for i, list := range m.Maps {
		if len(list) == 0 || i == 0 && plain {
			out = binary.BigEndian.AppendUint32(out, 0)
			continue
		}
		out = binary.BigEndian.AppendUint32(out, uint32(header+len(store)+len(tail)))
		tail = append(tail, EncodeMap(list)...)
	}
	return append(append(out, store...), tail...)
}

// Change returns the table after a change of the axes, and what the advance of
// each of so many glyphs gains for good.
func (m *Metrics) Change(c Change, glyphs int) (*Metrics, []float64) {
	store, fixed := c.Store(m.Store)
	gain := make([]float64, glyphs)
	for g := range gain {
		k := m.index(0, table.GlyphID(g))
		if outer, inner := int(k>>16), int(k&0xFFFF); outer < len(fixed) && inner < len(fixed[outer]) {
			gain[g] = fixed[outer][inner]
		}
	}
	return &Metrics{Store: store, Maps: m.Maps}, gain
}
