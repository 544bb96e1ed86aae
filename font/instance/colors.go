package instance

import (
	"encoding/binary"
	"slices"

	"sparecrate/font/sfnt"
	"sparecrate/font/variation"
)

var tagCOLR = sfnt.MakeTag("COLR")

// varying says where a paint or a part of one that varies has its numbers, and the
// index of their variations (OpenType, `COLR`, "Paint tables"): one row a number,
// in this order.
type varying struct {
	numbers []int // offsets of 16-bit numbers
	base    int
}

var varyingPaints = map[byte]varying{
	3:  {[]int{3}, 5},
	5:  {[]int{4, 6, 8, 10, 12, 14}, 16},
	7:  {[]int{4, 6, 8, 10, 12, 14}, 16},
	9:  {[]int{4, 6, 8, 10}, 12},
	15: {[]int{4, 6}, 8},
	17: {[]int{4, 6}, 8},
	19: {[]int{4, 6, 8, 10}, 12},
	21: {[]int{4}, 6},
	23: {[]int{4, 6, 8}, 10},
	25: {[]int{4}, 6},
	27: {[]int{4, 6, 8}, 10},
	29: {[]int{4, 6}, 8},
	31: {[]int{4, 6, 8, 10}, 12},
}

// colors pins pictures of colors that vary (`COLR` version 1). Their numbers are
// changed where they stand; what varies still keeps its index.
func (p *pinner) colors() error {
	b := p.font.Table(tagCOLR)
	v := sfnt.View(b)
	version, _ := v.U16(0)
	at, ok := v.U32(30)
	if version == 0 || !ok || at == 0 {
		return nil
	}
	raw, ok := v.From(int(at))
	if !ok {
		return damaged("its colors cannot be read", sfnt.ErrDamaged)
	}
	store, err := variation.ParseStore(raw)
	if err != nil {
		return damaged("its colors cannot be read", err)
	}
	c := &colorist{b: slices.Clone(b), settled: p.change.Settle(store), static: p.static, seen: map[int]bool{}}
	if at, _ := v.U32(26); at != 0 {
		raw, ok := v.From(int(at))
		if !ok {
			return damaged("its colors cannot be read", sfnt.ErrDamaged)
		}
		if c.rows, err = variation.ParseMap(raw); err != nil {
			return damaged("its colors cannot be read", err)
		}
	}
	c.walk()
	if p.static {
		binary.BigEndian.PutUint32(c.b[26:], 0)
		binary.BigEndian.PutUint32(c.b[30:], 0)
		if int(at)+len(raw) == len(c.b) && c.last <= int(at) { // nothing lies behind the store
			c.b = c.b[:at]
		}
	} else {
		binary.BigEndian.PutUint32(c.b[30:], uint32(len(c.b)))
		c.b = append(c.b, c.settled.Store.Encode()...)
	}
	p.put(tagCOLR, c.b)
	return nil
}

// colorist changes a color table in place.
type colorist struct {
	b       []byte
	rows    []uint32 // rows by index, nil where the index is the row
	settled *variation.Settle
	static  bool
	seen    map[int]bool // parts by offset, each changed once
	last    int          // the end of what was changed or walked through
}

func (c *colorist) u8(at int) int  { n, _ := sfnt.View(c.b).U8(at); return int(n) }
func (c *colorist) u16(at int) int { n, _ := sfnt.View(c.b).U16(at); return int(n) }
func (c *colorist) u24(at int) int { return c.u8(at)<<16 | c.u16(at+1) }
func (c *colorist) u32(at int) int { n, _ := sfnt.View(c.b).U32(at); return int(n) }

// once reports whether a part is met for the first time and has so many bytes.
func (c *colorist) once(at, size int) bool {
	if _, ok := sfnt.View(c.b).Sub(at, size); !ok || c.seen[at] {
		return false
	}
	c.seen[at] = true
	c.last = max(c.last, at+size)
	return true
}

// walk goes through all paints and clip boxes.
func (c *colorist) walk() {
	var queue []int
	add := func(at int) { queue = append(queue, at) }
	if list := c.u32(14); list != 0 {
		for i := range min(c.u32(list), len(c.b)/6) {
			add(list + c.u32(list+4+6*i+2))
		}
	}
	if list := c.u32(18); list != 0 {
		for i := range min(c.u32(list), len(c.b)/4) {
			add(list + c.u32(list+4+4*i))
		}
	}
	for len(queue) > 0 {
		at := queue[len(queue)-1]
		queue = queue[:len(queue)-1]
		if c.once(at, 2) {
			c.paint(at, add)
		}
	}
	if list := c.u32(22); list != 0 {
		for i := range min(c.u32(list+1), len(c.b)/7) {
			box := list + c.u24(list+5+7*i+4)
			if c.u8(box) == 2 && c.once(box, 13) {
				c.change(box, varying{[]int{1, 3, 5, 7}, 9})
			}
		}
	}
}

// paint changes one paint and names those within it.
func (c *colorist) paint(at int, add func(int)) {
	format := byte(c.u8(at))
	if v, ok := varyingPaints[format]; ok {
		c.change(at, v)
	}
	switch format {
	case 5, 7, 9:
		c.line(at + c.u24(at+1))
	case 13:
		c.affine(at + c.u24(at+4))
	}
	switch {
	case format == 10 || format >= 12 && format <= 31:
		add(at + c.u24(at+1))
	case format == 32:
		add(at + c.u24(at+1))
		add(at + c.u24(at+5))
	}
}

// line changes the stops of a color line.
func (c *colorist) line(at int) {
	stops := c.u16(at + 1)
	if !c.once(at, 3+10*stops) {
		return
	}
	for i := range stops {
		c.change(at+3+10*i, varying{[]int{0, 4}, 6})
	}
}

// affine changes a transform, whose numbers have 32 bits.
func (c *colorist) affine(at int) {
	if !c.once(at, 28) {
		return
	}
	base := c.u32(at + 24)
	for i := range 6 {
		n := int(int32(c.u32(at+4*i))) + c.fixed(base, i)
		binary.BigEndian.PutUint32(c.b[at+4*i:], uint32(int32(n)))
	}
	c.settle(at + 24)
}

func (c *colorist) change(at int, v varying) {
	if _, ok := sfnt.View(c.b).Sub(at, v.base+4); !ok {
		return
	}
	base := c.u32(at + v.base)
	for i, number := range v.numbers {
		n := int(int16(c.u16(at+number))) + c.fixed(base, i)
		binary.BigEndian.PutUint16(c.b[at+number:], uint16(int16(n)))
	}
	c.settle(at + v.base)
	c.last = max(c.last, at+v.base+4)
}

// fixed returns what the number of an index gains for good.
func (c *colorist) fixed(base, i int) int {
	if base == variation.NoVariation {
		return 0
	}
	row := uint32(base + i)
	if c.rows != nil {
		if len(c.rows) == 0 {
			return 0
		}
		row = c.rows[min(int(row), len(c.rows)-1)]
	}
	return c.settled.Fixed(int(row>>16), int(row&0xFFFF))
}

// settle says that nothing varies any longer, where that is so.
func (c *colorist) settle(at int) {
	if c.static {
		binary.BigEndian.PutUint32(c.b[at:], variation.NoVariation)
	}
}
