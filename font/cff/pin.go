package cff

import (
	"encoding/binary"
	"fmt"
	"math"

	"sparecrate/font/cff/internal/dict"
	"sparecrate/font/variation"
)

// Static says what version 1 must hold and version 2 does not.
type Static struct {
	PostScript, Full, Family string
	Names                    []string // of the glyphs, ".notdef" first
	Advances                 []int    // font units
}

// Pin writes a CFF2 table after a change of the axes: with static set as version
// 1, which must leave no axis, else as version 2 with what varies still. Hints
// stay; subroutines are written out. Coordinates of version 1 are what readers have
// of the variable outline (see Whole); those of version 2 are rounded to whole units,
// or where fine is set to 1/65536, so that what readers add up is the same. The error wraps sfnt.ErrDamaged or ErrTooDeep.
func (t *Table) Pin(c variation.Change, static *Static, fine bool) ([]byte, error) {
	if t.Version != 2 {
		return nil, fmt.Errorf("%w: it does not vary", errDamaged)
	}
	p := &pinning{subset: subset{t: t, trace: &trace{}, numbers: map[codeKey]int{}, locals: map[int][]int{}}, change: c, static: static, fine: fine}
	if err := p.regions(); err != nil {
		return nil, err
	}
	for g := range t.Glyphs() {
		p.glyphs = append(p.glyphs, g)
		code, err := p.charstring(g)
		if err != nil {
			return nil, fmt.Errorf("glyph %d: %w", g, err)
		}
		p.codes = append(p.codes, code)
	}
	for f := range t.fonts {
		p.fonts = append(p.fonts, f)
		private, err := p.privateDict(t.fonts[f].raw)
		if err != nil {
			return nil, err
		}
		p.privates = append(p.privates, private)
	}
	if static != nil {
		return p.version1(), nil
	}
	return p.version2(), nil
}

// pinning writes a CFF2 table anew.
type pinning struct {
	subset
	change   variation.Change
	static   *Static
	fine     bool             // keep parts of units in version 2
	store    *variation.Store // after the change
	fixed    [][]float64      // by set and old region: how much of it is for good
	varies   [][][]float64    // by set and old region: how much goes to each new region of the set
	codes    [][]byte
	privates [][]byte
}

// regions settles what becomes of the regions of each set.
func (p *pinning) regions() error {
	t := p.t
	at := t.top.Offset(opVariations)
	if at == 0 {
		return nil
	}
	raw, ok := t.v.From(at + 2)
	if !ok {
		return fmt.Errorf("%w: its variations lie outside it", errDamaged)
	}
	old, err := variation.ParseStore(raw)
	if err != nil {
		return fmt.Errorf("%w: %w", errDamaged, err)
	}
	p.store, _ = p.change.Store(old)
	for i, set := range old.Sets {
		now := p.store.Sets[i]
		fixed, varies := make([]float64, len(set.Regions)), make([][]float64, len(set.Regions))
		for k, r := range set.Regions {
			varies[k] = make([]float64, len(now.Regions))
			for _, term := range p.change.Region(old.Regions[r]) {
				if term.Region == nil {
					fixed[k] += term.Weight
					continue
				}
				for n, number := range now.Regions {
					if p.store.Regions[number].Same(term.Region) {
						varies[k][n] += term.Weight
					}
				}
			}
		}
		p.fixed, p.varies = append(p.fixed, fixed), append(p.varies, varies)
	}
	return nil
}

// blended returns a number for good and what it varies by, from its default and
// its difference in each old region.
func (p *pinning) blended(set int, usual float64, differences []float64) (value float64, left []float64) {
	value = usual
	if set < 0 || set >= len(p.fixed) {
		return value, nil
	}
	left = make([]float64, len(p.store.Sets[set].Regions))
	for k, d := range differences {
		if d == 0 || k >= len(p.fixed[set]) {
			continue
		}
		value += p.fixed[set][k] * d
		for n, w := range p.varies[set][k] {
			left[n] += w * d
		}
	}
	return value, left
}

// charstring writes a glyph.
func (p *pinning) charstring(g int) ([]byte, error) {
	usual, err := p.t.trailOf(g, nil)
	if err != nil {
		return nil, err
	}
	set := usual.variation
	regions := 0
	if set >= 0 && set < len(p.t.regions) {
		regions = p.t.regions[set]
	}
	// A glyph is linear in its differences: run with one region at a time, it tells what each does.
	alone := make([]*trail, regions)
	for k := range alone {
		scalars := make([]float64, regions)
		scalars[k] = 1
		if alone[k], err = p.t.trailOf(g, scalars); err != nil {
			return nil, err
		}
		if len(alone[k].steps) != len(usual.steps) {
			return nil, fmt.Errorf("%w: its outline is another in each design", errDamaged)
		}
	}
	w := &charWriter{p: p, set: set}
	if p.static != nil && g < len(p.static.Advances) {
		w.out = appendCharInt(w.out, p.static.Advances[g])
	} else if p.static == nil && set != p.t.fonts[p.t.selector(g)].variation {
		w.out = append(appendCharInt(w.out, set), csVSIndex)
	}
	differences := make([]float64, regions)
	for i, s := range usual.steps {
		values, left := make([]float64, len(s.at)), make([][]float64, len(s.at))
		for n, x := range s.at {
			for k := range alone {
				if len(alone[k].steps[i].at) != len(s.at) {
					return nil, fmt.Errorf("%w: its outline is another in each design", errDamaged)
				}
				differences[k] = alone[k].steps[i].at[n] - x
			}
			values[n], left[n] = p.blended(set, x, differences)
		}
		w.step(s, values, left)
	}
	if p.static != nil {
		w.out = append(w.out, csEndChar)
	}
	return w.out, nil
}

// charWriter writes steps as operators, each place rounded and then relative to
// the one before, so that roundings do not add up.
type charWriter struct {
	p     *pinning
	set   int
	out   []byte
	at    [2]float64   // the current point, rounded
	drift [2][]float64 // and what it varies by
}

func (w *charWriter) step(s step, values []float64, left [][]float64) {
	const most = 46 // operands of an operator, within version 1's limit of 48
	switch {
	case s.mask != nil:
		w.out = append(append(w.out, byte(s.op)), s.mask...)
	case s.op == csHStem || s.op == csVStem || s.op == csHStemHM || s.op == csVStemHM:
		for len(values) > 0 {
			n := min(len(values), most)
			last, lastLeft := 0.0, []float64(nil)
			w.operands(n, func(i int) (float64, []float64) {
				x, d := w.p.nearest(values[i]), w.p.nearestOf(left[i])
				v, l := x-last, minus(d, lastLeft)
				last, lastLeft = x, d
				return v, l
			})
			w.out = append(w.out, byte(s.op))
			values, left = values[n:], left[n:]
		}
	default:
		w.operands(len(values), func(i int) (float64, []float64) {
			xy := i % 2
			x, d := w.p.whole(values[i]), w.p.nearestOf(left[i])
			v, l := x-w.at[xy], minus(d, w.drift[xy])
			w.at[xy], w.drift[xy] = x, d
			return v, l
		})
		w.out = append(w.out, byte(s.op))
	}
}

// Whole returns a coordinate as readers of PostScript outlines have it, who cut off
// what is less than a unit once the outline is put together.
func Whole(x float64) float64 {
	const noise = 1.0 / 2048 // of adding up in steps of 1/65536
	return math.Floor(x + noise)
}

// whole rounds a coordinate: as readers do where nothing varies any longer, to
// the nearest unit where variations are added.
func (p *pinning) whole(x float64) float64 {
	if p.static != nil {
		return Whole(x)
	}
	return p.nearest(x)
}

// nearest rounds to what a charstring is written in.
func (p *pinning) nearest(x float64) float64 {
	if p.fine && p.static == nil {
		const parts = 1 << 16
		return math.Round(x*parts) / parts
	}
	return math.Round(x)
}

func (p *pinning) nearestOf(d []float64) []float64 {
	out := make([]float64, len(d))
	for i, x := range d {
		out[i] = p.nearest(x)
	}
	return out
}

// operands writes n numbers, with a blend where one of them varies.
func (w *charWriter) operands(n int, number func(i int) (float64, []float64)) {
	var rest []float64
	varies := false
	for i := range n {
		v, l := number(i)
		w.out = appendCharNumber(w.out, v)
		for _, d := range l {
			varies = varies || d != 0
		}
		rest = append(rest, l...)
	}
	if !varies || w.p.static != nil {
		return
	}
	for _, d := range rest {
		w.out = appendCharNumber(w.out, d)
	}
	w.out = append(appendCharInt(w.out, n), csBlend)
}

func minus(a, b []float64) []float64 {
	out := append([]float64(nil), a...)
	for i := range b {
		out[i] -= b[i]
	}
	return out
}

// privateDict writes a private dictionary without subroutines.
func (p *pinning) privateDict(raw []byte) ([]byte, error) {
	entries, err := dict.Split(raw)
	if err != nil {
		return nil, err
	}
	var out []byte
	set := 0
	var operands []hint
	for _, e := range entries {
		switch e.Op {
		case opSubrs:
		case opVSIndex:
			if len(e.Operands) > 0 {
				set = int(e.Operands[0])
			}
			if p.static == nil {
				out = append(out, e.Raw...)
			}
		case opBlend:
			regions := 0
			if set >= 0 && set < len(p.t.regions) {
				regions = p.t.regions[set]
			}
			if len(e.Operands) == 0 {
				return nil, fmt.Errorf("%w: a private dictionary cannot be read", errDamaged)
			}
			n := int(e.Operands[len(e.Operands)-1])
			values := e.Operands[:len(e.Operands)-1]
			if n < 0 || n*(regions+1) > len(values) {
				return nil, fmt.Errorf("%w: a private dictionary cannot be read", errDamaged)
			}
			plain := len(values) - n*(regions+1)
			for _, v := range values[:plain] {
				operands = append(operands, hintOf(v, nil, v))
			}
			values = values[plain:]
			for i := range n {
				v, left := p.blended(set, values[i], values[n+i*regions:n+(i+1)*regions])
				operands = append(operands, hintOf(v, left, values[i]))
			}
		default:
			if operands == nil {
				out = append(out, e.Raw...)
				continue
			}
			for _, v := range e.Operands {
				operands = append(operands, hintOf(v, nil, v))
			}
			out = p.blendedEntry(out, set, operands)
			out = dict.AppendOperator(out, e.Op)
			operands = nil
		}
	}
	return out, nil
}

// hint is a number of a private dictionary: what it is, and what each region that
// is left adds. One that was whole stays so.
type hint struct {
	value float64
	left  []float64
	whole bool
}

func hintOf(value float64, left []float64, was float64) hint {
	return hint{value, left, was == math.Trunc(was)}
}

// blendedEntry writes the operands of an entry that varied.
func (p *pinning) blendedEntry(out []byte, set int, operands []hint) []byte {
	number := func(x float64, whole bool) {
		if whole {
			x = math.Round(x)
		}
		out = dict.AppendNumber(out, x)
	}
	varies := false
	for _, h := range operands {
		number(h.value, h.whole)
		for _, d := range h.left {
			varies = varies || d != 0 && (!h.whole || math.Round(d) != 0)
		}
	}
	if !varies || p.static != nil {
		return out
	}
	regions := len(p.store.Sets[set].Regions)
	for _, h := range operands {
		for k := range regions {
			d := 0.0
			if k < len(h.left) {
				d = h.left[k]
			}
			number(d, h.whole)
		}
	}
	return dict.AppendOperator(dict.AppendInt(out, len(operands)), opBlend)
}

// version2 writes the table with its regions as they are now.
func (p *pinning) version2() []byte {
	var store []byte
	if p.store != nil {
		store = p.store.Encode()
		store = append(binary.BigEndian.AppendUint16(nil, uint16(len(store))), store...)
	}
	several := len(p.fonts) > 1
	selects := p.selects()
	glyphs := p.index(p.codes)
	var glyphsAt, arrayAt, selectAt, storeAt int
	places := make([]int, len(p.privates))
	array := func() []byte {
		items := make([][]byte, len(p.privates))
		for i := range items {
			items[i] = append(dict.AppendInt32(dict.AppendInt32(nil, len(p.privates[i])), places[i]), opPrivate)
		}
		return p.index(items)
	}
	head := func() []byte {
		var d []byte
		if raw := p.entry(opMatrix); raw != nil {
			d = append(d, raw...)
		}
		d = append(dict.AppendInt32(d, glyphsAt), opCharStrings)
		d = dict.AppendOperator(dict.AppendInt32(d, arrayAt), opFDArray)
		if several {
			d = dict.AppendOperator(dict.AppendInt32(d, selectAt), opFDSelect)
		}
		if store != nil {
			d = append(dict.AppendInt32(d, storeAt), opVariations)
		}
		out := append([]byte{2, 0, 5, byte(len(d) >> 8), byte(len(d))}, d...)
		return append(out, 0, 0, 0, 0) // no global subroutines
	}
	at := len(head())
	for _, piece := range []struct {
		place *int
		b     []byte
	}{{&storeAt, store}, {&selectAt, selects}, {&glyphsAt, glyphs}, {&arrayAt, array()}} {
		*piece.place = at
		at += len(piece.b)
	}
	for i, b := range p.privates {
		places[i] = at
		at += len(b)
	}
	out := head()
	for _, piece := range append([][]byte{store, selects, glyphs, array()}, p.privates...) {
		out = append(out, piece...)
	}
	return out
}

// entry returns the bytes of an entry of the top dictionary.
func (p *pinning) entry(op int) []byte {
	entries, err := dict.Split(p.t.topRaw)
	if err != nil {
		return nil
	}
	for _, e := range entries {
		if e.Op == op {
			return e.Raw
		}
	}
	return nil
}

// version1 writes the table for readers that know no other: keyed by names where
// there is one private dictionary, else by numbers.
func (p *pinning) version1() []byte {
	s := p.static
	cid := len(p.fonts) > 1
	var pool stringPool
	var charset []byte
	if cid {
		charset = binary.BigEndian.AppendUint16([]byte{2, 0, 1}, uint16(len(p.codes)-2))
	} else {
		charset = []byte{0}
		for g := 1; g < len(p.codes); g++ {
			charset = binary.BigEndian.AppendUint16(charset, uint16(pool.standard(s.Names[g])))
		}
	}
	var selects []byte
	if cid {
		p.t.Version = 1 // in which FDSelect always stands
		selects = p.selects()
		p.t.Version = 2
	}
	glyphs := dict.EncodeIndex(p.codes)
	names := dict.EncodeIndex([][]byte{[]byte(s.PostScript)})
	registry, ordering := 0, 0
	if cid {
		registry, ordering = pool.number("Adobe"), pool.number("Identity")
	}
	full, family := pool.number(s.Full), pool.number(s.Family)
	strings := dict.EncodeIndex(pool.list)
	var charsetAt, selectAt, glyphsAt, arrayAt int
	places := make([]int, len(p.privates))
	array := func() []byte {
		if !cid {
			return nil
		}
		items := make([][]byte, len(p.privates))
		for i := range items {
			items[i] = append(dict.AppendInt32(dict.AppendInt32(nil, len(p.privates[i])), places[i]), opPrivate)
		}
		return dict.EncodeIndex(items)
	}
	head := func() []byte {
		var d []byte
		if cid {
			d = dict.AppendOperator(dict.AppendInt(dict.AppendInt(dict.AppendInt(d, registry), ordering), 0), opROS)
		}
		d = append(dict.AppendInt(d, full), opFullName)
		d = append(dict.AppendInt(d, family), opFamilyName)
		if raw := p.entry(opMatrix); raw != nil {
			d = append(d, raw...)
		}
		d = append(dict.AppendInt32(d, charsetAt), opCharset)
		d = append(dict.AppendInt32(d, glyphsAt), opCharStrings)
		if cid {
			d = dict.AppendOperator(dict.AppendInt(d, len(p.codes)), opCIDCount)
			d = dict.AppendOperator(dict.AppendInt32(d, arrayAt), opFDArray)
			d = dict.AppendOperator(dict.AppendInt32(d, selectAt), opFDSelect)
		} else {
			d = append(dict.AppendInt32(dict.AppendInt32(d, len(p.privates[0])), places[0]), opPrivate)
		}
		out := append([]byte{1, 0, 4, 4}, names...)
		out = append(out, dict.EncodeIndex([][]byte{d})...)
		out = append(out, strings...)
		return append(out, 0, 0)
	}
	at := len(head())
	for _, piece := range []struct {
		place *int
		b     []byte
	}{{&charsetAt, charset}, {&selectAt, selects}, {&glyphsAt, glyphs}, {&arrayAt, array()}} {
		*piece.place = at
		at += len(piece.b)
	}
	for i, b := range p.privates {
		places[i] = at
		at += len(b)
	}
	out := head()
	for _, piece := range append([][]byte{charset, selects, glyphs, array()}, p.privates...) {
		out = append(out, piece...)
	}
	return out
}

// standard numbers a glyph's name, one every reader knows by its own number.
func (p *stringPool) standard(name string) int {
	for i, n := range standardNames {
		if n == name {
			return i
		}
	}
	return p.number(name)
}
