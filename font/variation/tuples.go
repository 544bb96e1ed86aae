package variation

import (
	"encoding/binary"
	"math"
	"slices"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// Tuple is what varies over one region: deltas of numbered points, or of all
// where Points is nil. In `cvar` there is no Y.
type Tuple struct {
	Region Region
	Points []int
	X, Y   []float64
}

// Tuples reads the variations of a glyph with so many points, the four phantom
// points among them. The error wraps sfnt.ErrDamaged.
func (g *Gvar) Tuples(glyph table.GlyphID, points int) ([]Tuple, error) {
	if int(glyph) >= len(g.glyphs) || len(g.glyphs[glyph]) == 0 {
		return nil, nil
	}
	return parseTuples(sfnt.View(g.glyphs[glyph]), 0, g.Axes, g.Shared, points, true)
}

// ParseCvar reads the variations of so many control values. The error wraps
// sfnt.ErrDamaged.
func ParseCvar(b []byte, axes, values int) ([]Tuple, error) {
	return parseTuples(sfnt.View(b), 4, axes, nil, values, false)
}

// parseTuples reads a tuple variation store (OpenType, "Tuple variation store").
func parseTuples(v sfnt.View, at, axes int, shared []Region, points int, both bool) ([]Tuple, error) {
	count, ok := v.U16(at)
	offset, ok2 := v.U16(at + 2)
	if !ok || !ok2 {
		return nil, damaged("the variations of a glyph have no header")
	}
	data, ok := v.From(int(offset))
	if !ok {
		return nil, damaged("the variations of a glyph run past their end")
	}
	p := &packedReader{v: data, points: points}
	var common []int
	hasCommon := count&sharedPoint != 0
	if hasCommon {
		common = p.numbers()
	}
	serial := p.at
	at += 4
	var out []Tuple
	for range int(count & maxTuples) {
		size, _ := v.U16(at)
		index, ok := v.U16(at + 2)
		if !ok {
			return nil, damaged("the variations of a glyph end inside their headers")
		}
		at += 4
		t := Tuple{}
		switch {
		case index&tupleOwn != 0:
			if _, ok := v.Sub(at, 2*axes); !ok {
				return nil, damaged("a region runs past its end")
			}
			t.Region = peaks(v, at, axes)
			at += 2 * axes
		case int(index&tupleIndex) < len(shared):
			t.Region = slices.Clone(shared[index&tupleIndex])
		default:
			return nil, damaged("a region is not there")
		}
		if index&tupleRange != 0 {
			if _, ok := v.Sub(at, 4*axes); !ok {
				return nil, damaged("a region runs past its end")
			}
			for i := range axes {
				start, _ := v.I16(at + 2*i)
				end, _ := v.I16(at + 2*axes + 2*i)
				t.Region[i].Start, t.Region[i].End = fromF2(start), fromF2(end)
			}
			at += 4 * axes
		}
		p.at = serial
		if t.Points = common; index&tupleOwnPts != 0 || !hasCommon {
			t.Points = nil
			if index&tupleOwnPts != 0 {
				t.Points = p.numbers()
			}
		}
		n := points
		if t.Points != nil {
			n = len(t.Points)
		}
		t.X = p.deltas(n)
		if both {
			t.Y = p.deltas(n)
		}
		if p.bad {
			return nil, damaged("the variations of a glyph run past their end")
		}
		serial += int(size)
		out = append(out, t)
	}
	return out, nil
}

// packedReader reads packed point numbers and deltas.
type packedReader struct {
	v      sfnt.View
	at     int
	points int
	bad    bool
}

func (p *packedReader) u8() int {
	b, ok := p.v.U8(p.at)
	p.bad = p.bad || !ok
	p.at++
	return int(b)
}

func (p *packedReader) u16() int {
	b, ok := p.v.U16(p.at)
	p.bad = p.bad || !ok
	p.at += 2
	return int(b)
}

// numbers reads packed point numbers, nil for all.
func (p *packedReader) numbers() []int {
	n := p.u8()
	if n&0x80 != 0 {
		n = n&0x7F<<8 | p.u8()
	}
	if n == 0 || p.bad {
		return nil
	}
	out := make([]int, 0, n)
	last := 0
	for len(out) < n && !p.bad {
		control := p.u8()
		for range control&0x7F + 1 {
			if control&0x80 != 0 {
				last += p.u16()
			} else {
				last += p.u8()
			}
			if len(out) < n {
				out = append(out, last)
			}
		}
	}
	return out
}

func (p *packedReader) deltas(n int) []float64 {
	out := make([]float64, 0, min(n, 64*(len(p.v)+1)))
	for len(out) < n && !p.bad {
		control := p.u8()
		for range control&0x3F + 1 {
			d := 0
			switch control & 0xC0 {
			case 0:
				d = int(int8(p.u8()))
			case 0x40:
				d = int(int16(p.u16()))
			case 0xC0: // 32-bit, as newer versions have it
				d = int(int32(uint32(p.u16())<<16 | uint32(p.u16())))
			}
			if len(out) < n {
				out = append(out, float64(d))
			}
		}
	}
	return out
}

// Outline is what deltas of points that are not named are inferred from.
type Outline struct {
	X, Y []float64 // as in the default design; the phantom points need not be there
	Ends []int     // last point of each contour; none for a composite
}

// Spread returns the deltas of all points of a glyph: those of points that are not
// named follow from their neighbours on the contour (OpenType, `gvar`, "Inferred
// deltas for un-referenced point numbers").
func (t *Tuple) Spread(points int, o Outline) (x, y []float64) {
	x, y = make([]float64, points), make([]float64, points)
	if t.Points == nil {
		copy(x, t.X)
		copy(y, t.Y)
		return x, y
	}
	named := make([]bool, points)
	for i, p := range t.Points {
		if p < points && i < len(t.X) && i < len(t.Y) {
			x[p], y[p] = t.X[i], t.Y[i]
			named[p] = true
		}
	}
	first := 0
	for _, end := range o.Ends {
		if end >= points || end >= len(o.X) {
			break
		}
		infer(first, end, named, o.X, x)
		infer(first, end, named, o.Y, y)
		first = end + 1
	}
	return x, y
}

// infer fills the deltas of one contour in one direction.
func infer(first, end int, named []bool, place, delta []float64) {
	start := first
	for start <= end && !named[start] {
		start++
	}
	if start > end {
		return
	}
	n := end - first + 1
	next := func(i int) int { return first + (i-first+1)%n }
	a := start
	for {
		b := next(a)
		for !named[b] {
			b = next(b)
		}
		for i := next(a); i != b; i = next(i) {
			delta[i] = inferred(place[i], place[a], place[b], delta[a], delta[b])
		}
		if a = b; a == start {
			return
		}
	}
}

// inferred returns the delta of a place between or beside two places with theirs.
func inferred(at, a, b, da, db float64) float64 {
	if a == b {
		if da == db {
			return da
		}
		return 0
	}
	if a > b {
		a, b, da, db = b, a, db, da
	}
	switch {
	case at <= a:
		return da
	case at >= b:
		return db
	}
	return da + (db-da)*(at-a)/(b-a)
}

// EncodeCvar writes the variations of control values, nil where none is left.
func EncodeCvar(tuples []Tuple) []byte {
	body := encodeTuples(tuples, nil, 4)
	if body == nil {
		return nil
	}
	return append([]byte{0, 1, 0, 0}, body...)
}

// EncodeGvar writes the table for so many glyphs. of gives the variations of a
// glyph and is asked twice for each, so that those of all glyphs are never in
// memory at a time; the error is the first one of of.
func EncodeGvar(glyphs, axes int, of func(glyph int) ([]Tuple, error)) ([]byte, error) {
	// Peaks that several glyphs share stand once, the commonest first.
	counts := map[string]int{}
	for g := range glyphs {
		list, err := of(g)
		if err != nil {
			return nil, err
		}
		for _, t := range list {
			counts[string(peakBytes(t.Region))]++
		}
	}
	var keys []string
	for k, n := range counts {
		if n > 1 {
			keys = append(keys, k)
		}
	}
	slices.SortFunc(keys, func(a, b string) int {
		if counts[a] != counts[b] {
			return counts[b] - counts[a]
		}
		if a < b {
			return -1
		}
		return 1
	})
	keys = keys[:min(len(keys), tupleIndex+1)]
	shared := map[string]int{}
	var list []byte
	for i, k := range keys {
		shared[k] = i
		list = append(list, k...)
	}
	g := &Gvar{Axes: axes}
	data := make([][]byte, glyphs)
	for i := range data {
		tuples, err := of(i)
		if err != nil {
			return nil, err
		}
		data[i] = encodeTuples(tuples, shared, 0)
	}
	return g.frame(list, data), nil
}

func peakBytes(r Region) []byte {
	b := make([]byte, 0, 2*len(r))
	for _, t := range r {
		b = binary.BigEndian.AppendUint16(b, toF2(t.Peak))
	}
	return b
}

// encodeTuples writes tuples behind so many bytes of a header; nil where no
// delta is left.
func encodeTuples(tuples []Tuple, shared map[string]int, before int) []byte {
	var heads, data []byte
	count := 0
	for _, t := range tuples {
		x, y := rounded(t.X), rounded(t.Y)
		if allZero(x) && allZero(y) {
			continue
		}
		if count == maxTuples {
			break
		}
		one := packNumbers(t.Points)
		one = append(one, packDeltas(x)...)
		if t.Y != nil {
			one = append(one, packDeltas(y)...)
		}
		flags := tupleOwnPts
		peak := peakBytes(t.Region)
		index, known := shared[string(peak)]
		if !known {
			flags |= tupleOwn
		} else {
			flags |= index
		}
		usual := true
		for _, tent := range t.Region {
			usual = usual && tent.Start == min(tent.Peak, 0) && tent.End == max(tent.Peak, 0)
		}
		if !usual {
			flags |= tupleRange
		}
		heads = binary.BigEndian.AppendUint16(heads, uint16(len(one)))
		heads = binary.BigEndian.AppendUint16(heads, uint16(flags))
		if !known {
			heads = append(heads, peak...)
		}
		if !usual {
			for _, tent := range t.Region {
				heads = binary.BigEndian.AppendUint16(heads, toF2(tent.Start))
			}
			for _, tent := range t.Region {
				heads = binary.BigEndian.AppendUint16(heads, toF2(tent.End))
			}
		}
		data = append(data, one...)
		count++
	}
	if count == 0 {
		return nil
	}
	out := binary.BigEndian.AppendUint16(nil, uint16(count))
	out = binary.BigEndian.AppendUint16(out, uint16(before+4+len(heads)))
	return append(append(out, heads...), data...)
}

func rounded(d []float64) []int {
	out := make([]int, len(d))
	for i, x := range d {
		out[i] = int(math.Round(x))
	}
	return out
}

func allZero(d []int) bool { return !slices.ContainsFunc(d, func(n int) bool { return n != 0 }) }

// packNumbers packs point numbers; nil stands for all.
func packNumbers(points []int) []byte {
	if len(points) == 0 {
		return []byte{0}
	}
	var out []byte
	if n := len(points); n < 0x80 {
		out = append(out, byte(n))
	} else {
		out = append(out, byte(n>>8)|0x80, byte(n))
	}
	last := 0
	for i := 0; i < len(points); {
		wide := points[i]-last > 0xFF
		n, at := 0, last
		for i+n < len(points) && n < 0x80 && (points[i+n]-at > 0xFF) == wide {
			at = points[i+n]
			n++
		}
		control := n - 1
		if wide {
			control |= 0x80
		}
		out = append(out, byte(control))
		for _, p := range points[i : i+n] {
			if wide {
				out = binary.BigEndian.AppendUint16(out, uint16(p-last))
			} else {
				out = append(out, byte(p-last))
			}
			last = p
		}
		i += n
	}
	return out
}

func packDeltas(d []int) []byte {
	kind := func(n int) byte {
		switch {
		case n == 0:
			return 0x80
		case n >= math.MinInt8 && n <= math.MaxInt8:
			return 0
		}
		return 0x40
	}
	var out []byte
	for i := 0; i < len(d); {
		k := kind(d[i])
		n := 1
		for i+n < len(d) && n < 64 {
			next := kind(d[i+n])
			// A single zero within bytes, or a byte within words, costs less than a new run.
			if next != k && (next == 0x40 || k == 0x80 || i+n+1 >= len(d) || kind(d[i+n+1]) != k) {
				break
			}
			n++
		}
		out = append(out, k|byte(n-1))
		for _, x := range d[i : i+n] {
			switch k {
			case 0:
				out = append(out, byte(x))
			case 0x40:
				out = binary.BigEndian.AppendUint16(out, uint16(x))
			}
		}
		i += n
	}
	return out
}
