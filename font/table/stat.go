package table

import "sparecrate/font/sfnt"

// The tables of a variable font besides fvar that are read.
var (
	TagAvar = sfnt.MakeTag("avar")
	TagSTAT = sfnt.MakeTag("STAT")
)

// maxStyleValues bounds the values listed from one STAT table; real fonts have
// some dozens.
const maxStyleValues = 1024

// StyleAxis is an axis along which the faces of a family differ.
type StyleAxis struct {
	Tag      sfnt.Tag
	Name     NameID
	Ordering uint16
}

// StyleValue names a place or a range on an axis.
type StyleValue struct {
	Axis            int // index into Stat.Axes
	Name            NameID
	Value, Min, Max Fixed // Min and Max are Value but for ranges
	Linked          Fixed // the style-linked value, such as that of bold
	HasLinked       bool
	Elidable        bool // left out of a style's name, as "Regular" is
}

// Stat is the style attributes table (`STAT`), with values of formats 1 to 3;
// those of format 4, which name several axes at once, are left out.
type Stat struct {
	Axes   []StyleAxis
	Values []StyleValue
}

// styleValueSize is how many bytes a value of a format has.
var styleValueSize = map[uint16]int{1: 12, 2: 20, 3: 16}

// ParseStat reads the table; what lies outside is left out. The error wraps
// ErrShort.
func ParseStat(b []byte) (*Stat, error) {
	const header, elidable = 18, 2
	if len(b) < header {
		return nil, short("STAT", len(b), header)
	}
	v := sfnt.View(b)
	c := v.Cursor()
	fixed := func(at int) Fixed { return Fixed(c.U32(at)) }
	s := &Stat{}
	size, axes, at := c.Count(4), c.Count(6), c.Offset(8)
	if axes > maxAxes || size < 8 {
		return nil, short("STAT", len(b), at+8*axes)
	}
	for i := range axes {
		if _, ok := v.Sub(at+size*i, 8); !ok {
			return nil, short("STAT", len(b), at+size*axes)
		}
		s.Axes = append(s.Axes, StyleAxis{sfnt.Tag(c.U32(at + size*i)), NameID(c.U16(at + size*i + 4)), c.U16(at + size*i + 6)})
	}
	values, list := min(c.Count(12), maxStyleValues), c.Offset(14)
	for i := range values {
		offset, there := v.U16(list + 2*i)
		at := list + int(offset)
		format, known := v.U16(at)
		if _, ok := v.Sub(at, styleValueSize[format]); !there || !known || !ok {
			continue
		}
		one := StyleValue{Axis: c.Count(at + 2), Elidable: c.Count(at+4)&elidable != 0, Name: NameID(c.U16(at + 6)), Value: fixed(at + 8)}
		one.Min, one.Max = one.Value, one.Value
		switch format {
		case 1:
		case 2:
			one.Min, one.Max = fixed(at+12), fixed(at+16)
		case 3:
			one.Linked, one.HasLinked = fixed(at+12), true
		default:
			continue
		}
		if one.Axis < axes {
			s.Values = append(s.Values, one)
		}
	}
	return s, c.Err()
}

// ParseAvar tells for each axis whether its scale is bent. The error wraps
// ErrShort.
func ParseAvar(b []byte) ([]bool, error) {
	v := sfnt.View(b)
	count, ok := v.U16(6)
	if !ok || int(count) > maxAxes {
		return nil, short("avar", len(b), 8)
	}
	bent := make([]bool, count)
	at := 8
	for i := range bent {
		pairs, ok := v.U16(at)
		if _, fits := v.Sub(at+2, 4*int(pairs)); !ok || !fits {
			return nil, short("avar", len(b), at+2+4*int(pairs))
		}
		for p := range int(pairs) {
			from, _ := v.U16(at + 2 + 4*p)
			to, _ := v.U16(at + 4 + 4*p)
			bent[i] = bent[i] || from != to
		}
		at += 2 + 4*int(pairs)
	}
	return bent, nil
}

// Encode writes the table in version 1.1, with values of the formats 1 and 3;
// fallback is the name of a style all of whose values are left out.
func (s *Stat) Encode(fallback NameID) []byte {
	const header, axisSize = 20, 8
	var w, values writer
	w.u32(0x00010001)
	w.u16(axisSize)
	w.u16(len(s.Axes))
	w.u32(header)
	w.u16(len(s.Values))
	w.u32(uint32(header + axisSize*len(s.Axes)))
	w.u16(int(fallback))
	for _, a := range s.Axes {
		w.u32(uint32(a.Tag))
		w.u16(int(a.Name))
		w.u16(int(a.Ordering))
	}
	for _, v := range s.Values {
		w.u16(2*len(s.Values) + len(values))
		format, flags := 1, 0
		if v.HasLinked {
			format = 3
		}
		if v.Elidable {
			flags = 2
		}
		values.u16(format)
		values.u16(v.Axis)
		values.u16(flags)
		values.u16(int(v.Name))
		values.u32(uint32(v.Value))
		if v.HasLinked {
			values.u32(uint32(v.Linked))
		}
	}
	return append(w, values...)
}
