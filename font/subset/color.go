package subset

import (
	"encoding/binary"
	"errors"
	"slices"

	"sparecrate/font/layout"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// closeColors adds the glyphs that colored glyphs are made of.
func (t *trimmer) closeColors() error {
	if b := t.font.Table(tagCOLR); len(b) > 0 {
		c, err := openColors(b)
		if err != nil {
			return err
		}
		if err := c.close(&t.keep); err != nil {
			return err
		}
	}
	if b := t.font.Table(tagSbix); len(b) > 0 {
		closeSbix(sfnt.View(b), t.before, &t.keep)
	}
	return nil
}

func (t *trimmer) colors(made map[sfnt.Tag][]byte) error {
	if b := t.font.Table(tagCOLR); len(b) > 0 {
		c, err := openColors(b)
		if err != nil {
			return err
		}
		if made[tagCOLR], err = c.write(&t.keep, t.to); err != nil {
			return err
		}
	}
	if b := t.font.Table(tagSVG); len(b) > 0 {
		out, err := t.drawings(sfnt.View(b))
		if err != nil {
			return err
		}
		made[tagSVG] = out
	}
	if b := t.font.Table(tagSbix); len(b) > 0 {
		made[tagSbix] = t.sbix(sfnt.View(b))
	}
	return nil
}

var errColors = errors.New("the colors of its glyphs lie outside their table")

// colors is COLR (OpenType, `COLR`, versions 0 and 1).
type colors struct {
	v      sfnt.View
	bases  map[table.GlyphID][2]int // version 0: first layer and how many
	layers [][2]int                 // glyph and palette entry

	paints     map[table.GlyphID]int // version 1: offset of each base glyph's paint
	layerList  []int                 // offsets of paints
	clips      int
	indexMap   int
	variations int
	bad        bool
	work       int
}

// A paint may use others many times over; a graph this rich is no picture.
const maxPaints = 1 << 20

func openColors(b []byte) (*colors, error) {
	c := &colors{v: sfnt.View(b), bases: map[table.GlyphID][2]int{}, paints: map[table.GlyphID]int{}, work: maxPaints}
	version := c.u16(0)
	basesAt, layersAt := c.u32(4), c.u32(8)
	if _, ok := c.v.Sub(basesAt, 6*c.u16(2)); !ok {
		return nil, damaged("its colors cannot be read", errColors)
	}
	for i := range c.u16(2) {
		at := basesAt + 6*i
		c.bases[table.GlyphID(c.u16(at))] = [2]int{c.u16(at + 2), c.u16(at + 4)}
	}
	if _, ok := c.v.Sub(layersAt, 4*c.u16(12)); !ok {
		return nil, damaged("its colors cannot be read", errColors)
	}
	for i := range c.u16(12) {
		c.layers = append(c.layers, [2]int{c.u16(layersAt + 4*i), c.u16(layersAt + 4*i + 2)})
	}
	if version >= 1 {
		if list := c.u32(14); list != 0 {
			n := c.u32(list)
			if _, ok := c.v.Sub(list+4, 6*n); !ok {
				return nil, damaged("its colors cannot be read", errColors)
			}
			for i := range n {
				c.paints[table.GlyphID(c.u16(list+4+6*i))] = list + c.u32(list+6+6*i)
			}
		}
		if list := c.u32(18); list != 0 {
			n := c.u32(list)
			if _, ok := c.v.Sub(list+4, 4*n); !ok {
				return nil, damaged("its colors cannot be read", errColors)
			}
			for i := range n {
				c.layerList = append(c.layerList, list+c.u32(list+4+4*i))
			}
		}
		c.clips, c.indexMap, c.variations = c.u32(22), c.u32(26), c.u32(30)
	}
	if c.bad {
		return nil, damaged("its colors cannot be read", errColors)
	}
	return c, nil
}

func (c *colors) u16(at int) int {
	n, ok := c.v.U16(at)
	c.bad = c.bad || !ok
	return int(n)
}

func (c *colors) u24(at int) int {
	b, ok := c.v.U8(at)
	c.bad = c.bad || !ok
	return int(b)<<16 | c.u16(at+1)
}

func (c *colors) u32(at int) int {
	n, ok := c.v.U32(at)
	c.bad = c.bad || !ok
	return int(n)
}

// paintForm is what a format of paint holds: its size, where offsets of other
// paints and of a color line (24 bits) or an affine (24 bits) stand, and where
// a glyph.
type paintForm struct {
	size    int
	paints  []int
	line    int // offset of a color line, 0 for none
	affine  int
	glyph   int
	varying bool
}

// paintForms by format number (OpenType, `COLR`, "Paint tables").
var paintForms = map[int]paintForm{
	1: {size: 6}, 2: {size: 5}, 3: {size: 9},
	4: {size: 16, line: 1}, 5: {size: 20, line: 1, varying: true},
	6: {size: 16, line: 1}, 7: {size: 20, line: 1, varying: true},
	8: {size: 12, line: 1}, 9: {size: 16, line: 1, varying: true},
	10: {size: 6, paints: []int{1}, glyph: 4}, 11: {size: 3, glyph: 1},
	12: {size: 7, paints: []int{1}, affine: 4}, 13: {size: 7, paints: []int{1}, affine: 4, varying: true},
	14: {size: 8, paints: []int{1}}, 15: {size: 12, paints: []int{1}},
	16: {size: 8, paints: []int{1}}, 17: {size: 12, paints: []int{1}},
	18: {size: 12, paints: []int{1}}, 19: {size: 16, paints: []int{1}},
	20: {size: 6, paints: []int{1}}, 21: {size: 10, paints: []int{1}},
	22: {size: 10, paints: []int{1}}, 23: {size: 14, paints: []int{1}},
	24: {size: 6, paints: []int{1}}, 25: {size: 10, paints: []int{1}},
	26: {size: 10, paints: []int{1}}, 27: {size: 14, paints: []int{1}},
	28: {size: 8, paints: []int{1}}, 29: {size: 12, paints: []int{1}},
	30: {size: 12, paints: []int{1}}, 31: {size: 16, paints: []int{1}},
	32: {size: 8, paints: []int{1, 5}},
}

const (
	paintLayers = 1
	paintGlyph  = 10
	paintColr   = 11
)

// visit goes through a paint and those it uses, each once.
func (c *colors) visit(at int, seen map[int]bool, do func(at, format int, f paintForm)) {
	if c.work--; seen[at] || c.bad || c.work < 0 {
		return
	}
	seen[at] = true
	b, ok := c.v.U8(at)
	f, known := paintForms[int(b)]
	if _, fits := c.v.Sub(at, f.size); !ok || !known || !fits {
		c.bad = true
		return
	}
	do(at, int(b), f)
	for _, p := range f.paints {
		c.visit(at+c.u24(at+p), seen, do)
	}
	if int(b) == paintLayers {
		n, first := int(c.v[at+1]), c.u32(at+2)
		for i := first; i < first+n; i++ {
			if i >= len(c.layerList) {
				c.bad = true
				return
			}
			c.visit(c.layerList[i], seen, do)
		}
	}
}

// close adds the glyphs that layers and paints draw.
func (c *colors) close(set *layout.Set) error {
	seen := map[int]bool{}
	queue := set.Glyphs()
	add := func(n int) {
		if g := table.GlyphID(n); !set.Has(g) {
			set.Add(g)
			queue = append(queue, g)
		}
	}
	for len(queue) > 0 {
		g := queue[len(queue)-1]
		queue = queue[:len(queue)-1]
		if b, ok := c.bases[g]; ok {
			for i := b[0]; i < b[0]+b[1] && i < len(c.layers); i++ {
				add(c.layers[i][0])
			}
		}
		if at, ok := c.paints[g]; ok {
			c.visit(at, seen, func(at, _ int, f paintForm) {
				if f.glyph != 0 {
					add(c.u16(at + f.glyph))
				}
			})
		}
	}
	if c.bad {
		return damaged("its colors cannot be read", errColors)
	}
	return nil
}

// write writes the table for the glyphs that stay. Version 1 keeps its paints
// in place, each where the old table had it, with only the numbers of glyphs
// changed and the lists at the front written anew; paints that nothing uses any
// more go where they lie at either end.
func (c *colors) write(keep *layout.Set, to []table.GlyphID) ([]byte, error) {
	var bases, layers []byte
	count, layerCount := 0, 0
	for _, g := range keep.Glyphs() {
		b, ok := c.bases[g]
		if !ok {
			continue
		}
		if b[0]+b[1] > len(c.layers) {
			return nil, damaged("its colors cannot be read", errColors)
		}
		bases = appendNumbers(bases, int(to[g]), layerCount, b[1])
		if layerCount+b[1] > 0xFFFF {
			return nil, damaged("its colors cannot be read", errColors)
		}
		for _, l := range c.layers[b[0] : b[0]+b[1]] {
			layers = appendNumbers(layers, int(to[l[0]]), l[1])
			layerCount++
		}
		count++
	}
	var painted []table.GlyphID
	for _, g := range keep.Glyphs() {
		if _, ok := c.paints[g]; ok {
			painted = append(painted, g)
		}
	}
	if len(painted) == 0 {
		if count == 0 {
			return nil, nil
		}
		out := appendNumbers(nil, 0, count)
		out = binary.BigEndian.AppendUint32(out, 14)
		out = binary.BigEndian.AppendUint32(out, uint32(14+len(bases)))
		out = appendNumbers(out, layerCount)
		return append(append(out, bases...), layers...), nil
	}
	return c.writePaints(painted, keep, to, bases, layers, count, layerCount)
}

func appendNumbers(out []byte, numbers ...int) []byte {
	for _, n := range numbers {
		out = binary.BigEndian.AppendUint16(out, uint16(n))
	}
	return out
}

// piece is a run of bytes of the old table that goes into the new one.
type piece struct{ from, to int }

// writePaints writes version 1. Offsets between paints are forward and relative,
// so the used pieces of the paint area are copied in their order and the
// offsets corrected for what was left out between.
func (c *colors) writePaints(painted []table.GlyphID, keep *layout.Set, to []table.GlyphID, bases, layers []byte, count, layerCount int) ([]byte, error) {
	seen := map[int]bool{}
	var pieces []piece
	layersUsed := map[int]bool{}
	for _, g := range painted {
		c.visit(c.paints[g], seen, func(at, format int, f paintForm) {
			pieces = append(pieces, piece{at, at + f.size})
			if f.line != 0 {
				line := at + c.u24(at+f.line)
				stop := 6
				if f.varying {
					stop = 10
				}
				pieces = append(pieces, piece{line, line + 3 + stop*c.u16(line+1)})
			}
			if f.affine != 0 {
				size := 24
				if f.varying {
					size = 28
				}
				affine := at + c.u24(at+f.affine)
				pieces = append(pieces, piece{affine, affine + size})
			}
			if format == paintLayers {
				for i := range int(c.v[at+1]) {
					layersUsed[c.u32(at+2)+i] = true
				}
			}
		})
	}
	if c.bad {
		return nil, damaged("its colors cannot be read", errColors)
	}
	slices.SortFunc(pieces, func(a, b piece) int { return a.from - b.from })
	var merged []piece
	for _, p := range pieces {
		if n := len(merged); n > 0 && p.from <= merged[n-1].to {
			merged[n-1].to = max(merged[n-1].to, p.to)
			continue
		}
		merged = append(merged, p)
	}
	var area []byte
	starts := make([]int, len(merged))
	for i, p := range merged {
		b, ok := c.v.Sub(p.from, p.to-p.from)
		if !ok {
			return nil, damaged("its colors cannot be read", errColors)
		}
		starts[i] = len(area)
		area = append(area, b...)
	}
	moved := func(at int) int {
		i, found := slices.BinarySearchFunc(merged, at, func(p piece, at int) int { return p.from - at })
		if !found {
			i--
		}
		return starts[i] + at - merged[i].from
	}
	// Layers keep their order; runs of layers stay runs.
	var layerOrder []int
	layerTo := map[int]int{}
	for i := range c.layerList {
		if layersUsed[i] {
			layerTo[i] = len(layerOrder)
			layerOrder = append(layerOrder, i)
		}
	}
	for at := range seen {
		format := int(c.v[at])
		f := paintForms[format]
		here := moved(at)
		for _, p := range append(slices.Clone(f.paints), f.line, f.affine) {
			if p != 0 {
				put24(area[here+p:], moved(at+c.u24(at+p))-here)
			}
		}
		if f.glyph != 0 {
			binary.BigEndian.PutUint16(area[here+f.glyph:], uint16(to[c.u16(at+f.glyph)]))
		}
		if format == paintLayers && c.v[at+1] > 0 {
			binary.BigEndian.PutUint32(area[here+2:], uint32(layerTo[c.u32(at+2)]))
		}
	}

	const header = 34
	baseList := header + len(bases) + len(layers)
	layerList := baseList + 4 + 6*len(painted)
	areaAt := layerList + 4 + 4*len(layerOrder)
	clips := c.clipList(keep, to)
	clipsAt := areaAt + len(area)
	place := func(some bool, at int) uint32 {
		if some {
			return uint32(at)
		}
		return 0
	}
	out := appendNumbers(nil, 1, count)
	out = binary.BigEndian.AppendUint32(out, place(count > 0, header))
	out = binary.BigEndian.AppendUint32(out, place(count > 0, header+len(bases)))
	out = appendNumbers(out, layerCount)
	out = binary.BigEndian.AppendUint32(out, uint32(baseList))
	out = binary.BigEndian.AppendUint32(out, place(len(layerOrder) > 0, layerList))
	out = binary.BigEndian.AppendUint32(out, place(len(clips) > 0, clipsAt))
	mapAt := clipsAt + len(clips)
	var indexMap, store []byte
	if c.variations != 0 {
		store, _ = c.v.From(c.variations)
		if c.indexMap != 0 {
			indexMap, _ = c.v.From(c.indexMap)
			if c.indexMap < c.variations {
				indexMap = indexMap[:min(len(indexMap), c.variations-c.indexMap)]
			} else {
				store = store[:min(len(store), c.indexMap-c.variations)]
			}
		}
	}
	out = binary.BigEndian.AppendUint32(out, place(len(indexMap) > 0, mapAt))
	out = binary.BigEndian.AppendUint32(out, place(len(store) > 0, mapAt+len(indexMap)))
	out = append(append(out, bases...), layers...)
	out = binary.BigEndian.AppendUint32(out, uint32(len(painted)))
	for _, g := range painted {
		out = appendNumbers(out, int(to[g]))
		out = binary.BigEndian.AppendUint32(out, uint32(areaAt+moved(c.paints[g])-baseList))
	}
	out = binary.BigEndian.AppendUint32(out, uint32(len(layerOrder)))
	for _, i := range layerOrder {
		out = binary.BigEndian.AppendUint32(out, uint32(areaAt+moved(c.layerList[i])-layerList))
	}
	out = append(out, area...)
	out = append(out, clips...)
	return append(append(out, indexMap...), store...), nil
}

func put24(b []byte, n int) { b[0], b[1], b[2] = byte(n>>16), byte(n>>8), byte(n) }

// mostClipped bounds the glyphs that boxes are looked up for: each glyph has one, but a
// list may name all of them over and over.
const mostClipped = 1 << 20

// clipList writes the boxes of the base glyphs that stay.
func (c *colors) clipList(keep *layout.Set, to []table.GlyphID) []byte {
	if c.clips == 0 {
		return nil
	}
	type clip struct{ first, last, box int }
	var list []clip
	n, looked := c.u32(c.clips+1), 0
	for i := range n {
		at := c.clips + 5 + 7*i
		if _, ok := c.v.Sub(at, 7); !ok || looked > mostClipped {
			break
		}
		for g := c.u16(at); g <= c.u16(at+2); g++ {
			looked++
			if !keep.Has(table.GlyphID(g)) {
				continue
			}
			box := c.clips + c.u24(at+4)
			now := int(to[g])
			if k := len(list); k > 0 && list[k-1].box == box && list[k-1].last == now-1 {
				list[k-1].last = now
				continue
			}
			list = append(list, clip{now, now, box})
		}
	}
	if len(list) == 0 {
		return nil
	}
	out := []byte{1}
	out = binary.BigEndian.AppendUint32(out, uint32(len(list)))
	head := 5 + 7*len(list)
	var boxes []byte
	known := map[int]int{}
	for _, l := range list {
		at, ok := known[l.box]
		if !ok {
			at = head + len(boxes)
			known[l.box] = at
			size := 9
			if format, _ := c.v.U8(l.box); format == 2 {
				size = 13
			}
			b, _ := c.v.Sub(l.box, size)
			boxes = append(boxes, b...)
		}
		out = appendNumbers(out, l.first, l.last)
		out = append(out, byte(at>>16), byte(at>>8), byte(at))
	}
	return append(out, boxes...)
}
