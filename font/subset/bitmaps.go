package subset

import (
	"encoding/binary"
	"errors"
	"slices"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// bitmapTables are the pairs of tables with pictures of glyphs by size: where
// they are, and what they are.
var bitmapTables = [][2]sfnt.Tag{
	{sfnt.MakeTag("CBLC"), sfnt.MakeTag("CBDT")},
	{sfnt.MakeTag("EBLC"), sfnt.MakeTag("EBDT")},
}

const (
	strikeSize  = 48
	bigMetrics  = 8
	bitmapShare = 4 // pictures may be shared, but not without end
)

var errBitmaps = errors.New("a list of them lies outside its table")

// bitmap is the picture of a glyph at one size.
type bitmap struct {
	glyph   int // new number
	format  int
	metrics []byte // big metrics and size of the image, where all of a run share them
	data    []byte
}

func (t *trimmer) bitmaps(made map[sfnt.Tag][]byte) error {
	for _, pair := range bitmapTables {
		where, data := sfnt.View(t.font.Table(pair[0])), sfnt.View(t.font.Table(pair[1]))
		if len(where) < 8 || len(data) < 4 {
			continue
		}
		newWhere, newData, err := t.strikes(where, data)
		if err != nil {
			return err
		}
		made[pair[0]], made[pair[1]] = newWhere, newData
	}
	return nil
}

// strikes writes one pair of tables (OpenType, `EBLC` and `CBLC`).
func (t *trimmer) strikes(where, data sfnt.View) (list, out []byte, err error) {
	n, _ := where.U32(4)
	out = slices.Clone(data[:4])
	var heads, tables [][]byte
	for i := range min(int(n), len(where)/strikeSize) {
		head, ok := where.Sub(8+strikeSize*i, strikeSize)
		if !ok {
			return nil, nil, damaged("its bitmaps cannot be read", errBitmaps)
		}
		var bitmaps []bitmap
		if bitmaps, err = t.strike(where, data, head); err != nil {
			return nil, nil, err
		}
		if len(bitmaps) == 0 {
			continue
		}
		var index []byte
		var count int
		index, count, out = writeStrike(bitmaps, out)
		h := slices.Clone(head)
		binary.BigEndian.PutUint32(h[4:], uint32(len(index)))
		binary.BigEndian.PutUint32(h[8:], uint32(count))
		binary.BigEndian.PutUint16(h[40:], uint16(bitmaps[0].glyph))
		binary.BigEndian.PutUint16(h[42:], uint16(bitmaps[len(bitmaps)-1].glyph))
		heads, tables = append(heads, h), append(tables, index)
	}
	if len(heads) == 0 {
		return nil, nil, nil
	}
	list = slices.Clone(where[:4])
	list = binary.BigEndian.AppendUint32(list, uint32(len(heads)))
	at := 8 + strikeSize*len(heads)
	for i, h := range heads {
		binary.BigEndian.PutUint32(h, uint32(at))
		list = append(list, h...)
		at += len(tables[i])
	}
	for _, b := range tables {
		list = append(list, b...)
	}
	return list, out, nil
}

// strike reads the pictures of the glyphs that stay at one size.
func (t *trimmer) strike(where, data, head sfnt.View) ([]bitmap, error) {
	lost := damaged("its bitmaps cannot be read", errBitmaps)
	array, _ := head.U32(0)
	count, _ := head.U32(8)
	if _, ok := where.Sub(int(array), 8*int(count)); !ok {
		return nil, lost
	}
	var out []bitmap
	budget := bitmapShare * len(data)
	for i := range int(count) {
		rec := int(array) + 8*i
		first, _ := where.U16(rec)
		last, _ := where.U16(rec + 2)
		offset, _ := where.U32(rec + 4)
		at := int(array) + int(offset)
		kind, _ := where.U16(at)
		format, _ := where.U16(at + 2)
		base, ok := where.U32(at + 4)
		if !ok {
			return nil, lost
		}
		add := func(g, from, to int, metrics []byte) bool {
			if from == to || g >= t.before || !t.keep.Has(table.GlyphID(g)) {
				return true
			}
			b, ok := data.Sub(int(base)+from, to-from)
			if budget -= len(b); !ok || budget < 0 {
				return false
			}
			out = append(out, bitmap{int(t.to[g]), int(format), metrics, b})
			return true
		}
		offsets := func(place, i int) int {
			if kind == 1 {
				n, _ := where.U32(place + 4*i)
				return int(n)
			}
			n, _ := where.U16(place + 2*i)
			return int(n)
		}
		fine := true
		switch kind {
		case 1, 3:
			for g := int(first); g <= int(last) && fine; g++ {
				fine = add(g, offsets(at+8, g-int(first)), offsets(at+8, g-int(first)+1), nil)
			}
		case 2, 5:
			size, _ := where.U32(at + 8)
			metrics, ok := where.Sub(at+8, 4+bigMetrics)
			fine = ok
			if kind == 2 {
				for g := int(first); g <= int(last) && fine; g++ {
					fine = add(g, int(size)*(g-int(first)), int(size)*(g-int(first)+1), metrics)
				}
				break
			}
			n, _ := where.U32(at + 20)
			for k := 0; k < int(n) && fine; k++ {
				g, ok := where.U16(at + 24 + 2*k)
				fine = ok && add(int(g), int(size)*k, int(size)*(k+1), metrics)
			}
		case 4:
			n, _ := where.U32(at + 8)
			for k := 0; k < int(n) && fine; k++ {
				g, _ := where.U16(at + 12 + 4*k)
				from, _ := where.U16(at + 14 + 4*k)
				to, ok := where.U16(at + 18 + 4*k)
				fine = ok && add(int(g), int(from), int(to), nil)
			}
		default:
			fine = false
		}
		if !fine {
			return nil, lost
		}
	}
	slices.SortStableFunc(out, func(a, b bitmap) int { return a.glyph - b.glyph })
	return slices.CompactFunc(out, func(a, b bitmap) bool { return a.glyph == b.glyph }), nil
}

// writeStrike writes runs of glyphs, in format 1, or 2 where they share their
// metrics; and the pictures behind those in data.
func writeStrike(bitmaps []bitmap, data []byte) (index []byte, count int, all []byte) {
	type run struct{ from, to int }
	var runs []run
	for i, b := range bitmaps {
		if n := len(runs); n > 0 {
			last := bitmaps[i-1]
			if last.glyph+1 == b.glyph && last.format == b.format && slices.Equal(last.metrics, b.metrics) {
				runs[n-1].to = i + 1
				continue
			}
		}
		runs = append(runs, run{i, i + 1})
	}
	var tables []byte
	for _, r := range runs {
		first := bitmaps[r.from]
		index = appendNumbers(index, first.glyph, bitmaps[r.to-1].glyph)
		index = binary.BigEndian.AppendUint32(index, uint32(8*len(runs)+len(tables)))
		base := len(data)
		if first.metrics != nil {
			tables = appendNumbers(tables, 2, first.format)
			tables = binary.BigEndian.AppendUint32(tables, uint32(base))
			tables = append(tables, first.metrics...)
			for _, b := range bitmaps[r.from:r.to] {
				data = append(data, b.data...)
			}
			continue
		}
		tables = appendNumbers(tables, 1, first.format)
		tables = binary.BigEndian.AppendUint32(tables, uint32(base))
		for _, b := range bitmaps[r.from:r.to] {
			tables = binary.BigEndian.AppendUint32(tables, uint32(len(data)-base))
			data = append(data, b.data...)
		}
		tables = binary.BigEndian.AppendUint32(tables, uint32(len(data)-base))
	}
	return append(index, tables...), len(runs), data
}
