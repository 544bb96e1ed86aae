package layout

import (
	"slices"

	"sparecrate/font/layout/internal/offsets"
	"sparecrate/font/layout/internal/rules"
)

// Bits of a value's format: four numbers, then an offset to a device table for
// each of them.
const (
	valueNumbers = 0x0F
	valueDevices = 0xF0
)

// value is a ValueRecord: placement x and y, advance x and y, and what each
// varies by.
type value struct {
	number [4]int16
	device [4]*offsets.Node
}

// device reads a device or variation table: what it adds for good, and the
// table that stays, nil for none.
func (r *rewriter) device(at int) (add int, n *offsets.Node) {
	t := r.t
	a, b, format := t.U16(at), t.U16(at+2), t.U16(at+4)
	switch {
	case format == 0x8000:
		if r.Vary == nil {
			n = &offsets.Node{}
			n.U16(a, b, format)
			return 0, n
		}
		add, outer, inner, varies := r.Vary(a, b)
		if varies {
			n = &offsets.Node{}
			n.U16(outer, inner, format)
		}
		return add, n
	case format >= 1 && format <= 3 && b >= a:
		size := 6 + 2*(((b-a+1)<<format+15)/16)
		if raw, ok := t.View.Sub(at, size); ok {
			return 0, &offsets.Node{Bytes: slices.Clone(raw)}
		}
		t.Bad = true
	}
	return 0, nil
}

// value reads a ValueRecord; offsets count from parent.
func (r positions) value(at, format, parent int) (v value) {
	t := r.t
	for i := range 4 {
		if format&(1<<i) != 0 {
			v.number[i] = int16(r.scaled(t.I16(at)))
			at += 2
		}
	}
	for i := range 4 {
		if format&(0x10<<i) == 0 {
			continue
		}
		if offset := t.U16(at); offset != 0 {
			add, n := r.device(parent + offset)
			v.number[i] += int16(r.scaled(add))
			v.device[i] = n
		}
		at += 2
	}
	return v
}

// format returns the bits a value needs beyond those it is known to have.
func (v *value) format() int {
	f := 0
	for i := range 4 {
		if v.number[i] != 0 {
			f |= 1 << i
		}
		if v.device[i] != nil {
			f |= 0x11 << i
		}
	}
	return f
}

// put writes the parts of a value that a format has.
func (v *value) put(n *offsets.Node, format int) {
	for i := range 4 {
		if format&(1<<i) != 0 {
			n.U16(int(v.number[i]))
		}
	}
	for i := range 4 {
		if format&(0x10<<i) != 0 {
			n.Link(v.device[i])
		}
	}
}

// positions writes the subtables of GPOS.
type positions struct{ *rewriter }

func (r positions) subtable(kind, at int) *offsets.Node {
	switch kind {
	case rules.PosSingle:
		return r.singleValue(at)
	case rules.PosPair:
		switch r.t.U16(at) {
		case 1:
			return r.pairs(at)
		case 2:
			return r.pairClasses(at)
		}
	case rules.PosCursive:
		return r.cursive(at)
	case rules.PosMarkBase, rules.PosMarkMark:
		return r.marks(at, r.baseArray)
	case rules.PosMarkLigature:
		return r.marks(at, r.ligatureArray)
	}
	r.t.Bad = true
	return nil
}

func (r positions) singleValue(at int) *offsets.Node {
	t := r.t
	format := t.U16(at + 4)
	glyphs, indices := r.stayList(at + t.U16(at+2))
	if len(glyphs) == 0 {
		return nil
	}
	if t.U16(at) == 1 {
		v := r.value(at+6, format, at)
		format = format&valueNumbers | v.format()
		n := &offsets.Node{}
		n.U16(1)
		n.Link(offsets.Coverage(glyphs))
		n.U16(format)
		v.put(n, format)
		return n
	}
	count := t.U16(at + 6)
	out := format & valueNumbers
	var values []value
	for k, i := range indices {
		if i >= count {
			glyphs = glyphs[:k]
			break
		}
		v := r.value(at+8+i*rules.ValueSize(format), format, at)
		out |= v.format()
		values = append(values, v)
	}
	if len(values) == 0 {
		return nil
	}
	n := &offsets.Node{}
	n.U16(2)
	n.Link(offsets.Coverage(glyphs))
	n.U16(out, len(values))
	for _, v := range values {
		v.put(n, out)
	}
	return n
}

func (r positions) pairs(at int) *offsets.Node {
	type pair struct {
		second rules.GlyphID
		a, b   value
	}
	t := r.t
	formatA, formatB := t.U16(at+4), t.U16(at+6)
	size := 2 + rules.ValueSize(formatA) + rules.ValueSize(formatB)
	outA, outB := formatA&valueNumbers, formatB&valueNumbers
	glyphs, indices := r.stayList(at + t.U16(at+2))
	var from []rules.GlyphID
	var sets [][]pair
	for k, i := range indices {
		if i >= t.U16(at+8) {
			break
		}
		set := at + t.U16(at+10+2*i)
		var list []pair
		for j := range t.Count(set, set+2, size) {
			place := set + 2 + size*j
			second, ok := r.stays(rules.GlyphID(t.U16(place)))
			if !ok {
				continue
			}
			p := pair{second, r.value(place+2, formatA, set), r.value(place+2+rules.ValueSize(formatA), formatB, set)}
			outA |= p.a.format()
			outB |= p.b.format()
			list = append(list, p)
		}
		if len(list) > 0 {
			from, sets = append(from, glyphs[k]), append(sets, list)
		}
	}
	if len(from) == 0 {
		return nil
	}
	n := &offsets.Node{}
	n.U16(1)
	n.Link(offsets.Coverage(from))
	n.U16(outA, outB, len(sets))
	for _, list := range sets {
		set := &offsets.Node{}
		set.U16(len(list))
		for _, p := range list {
			set.U16(int(p.second))
			p.a.put(set, outA)
			p.b.put(set, outB)
		}
		n.Link(set)
	}
	return n
}

// pairClasses writes a table of classes by classes, without classes that no
// glyph has.
func (r positions) pairClasses(at int) *offsets.Node {
	t := r.t
	formatA, formatB := t.U16(at+4), t.U16(at+6)
	first, second := t.Classdef(at, t.U16(at+8)), t.Classdef(at, t.U16(at+10))
	countA, countB := t.U16(at+12), t.U16(at+14)
	size := rules.ValueSize(formatA) + rules.ValueSize(formatB)
	if _, ok := t.View.Sub(at+16, countA*countB*size); !ok {
		t.Bad = true
		return nil
	}
	if t.Work -= countA * countB; t.Work < 0 {
		return nil
	}
	var glyphs []rules.GlyphID
	var classOf []int
	usedA, usedB := map[int]bool{}, map[int]bool{0: true}
	for _, g := range t.Coverage(at + t.U16(at+2)) {
		to, ok := r.stays(g)
		class := first.Of(g)
		if !ok || class >= countA {
			continue
		}
		glyphs, classOf = append(glyphs, to), append(classOf, class)
		usedA[class] = true
	}
	seconds, secondOf := r.classMembers(second)
	for i, class := range secondOf {
		if class >= countB {
			secondOf[i] = 0
			continue
		}
		usedB[class] = true
	}
	if len(glyphs) == 0 || countB == 0 {
		return nil
	}
	renumber := func(used map[int]bool, count int) (order []int, to map[int]int) {
		to = map[int]int{}
		for class := range count {
			if used[class] || class == 0 {
				to[class] = len(order)
				order = append(order, class)
			}
		}
		return order, to
	}
	// Class 0 of the first glyphs may be empty; it keeps its row, as the format asks for one.
	orderA, toA := renumber(usedA, countA)
	orderB, toB := renumber(usedB, countB)
	for i := range classOf {
		classOf[i] = toA[classOf[i]]
	}
	for i := range secondOf {
		secondOf[i] = toB[secondOf[i]]
	}
	outA, outB := formatA&valueNumbers, formatB&valueNumbers
	if (formatA|formatB)&valueDevices != 0 {
		r.cells(at, orderA, orderB, countB, formatA, formatB, func(a, b value) {
			outA |= a.format()
			outB |= b.format()
		})
	}
	n := &offsets.Node{}
	n.U16(2)
	n.Link(offsets.Coverage(glyphs))
	n.U16(outA, outB)
	for _, c := range []*offsets.Node{offsets.Classes(glyphs, classOf), offsets.Classes(seconds, secondOf)} {
		if c == nil {
			c = offsets.NoClasses()
		}
		n.Link(c)
	}
	n.U16(len(orderA), len(orderB))
	r.cells(at, orderA, orderB, countB, formatA, formatB, func(a, b value) {
		a.put(n, outA)
		b.put(n, outB)
	})
	return n
}

// cells reads the values of rows and columns of a class table that starts at.
func (r positions) cells(at int, rows, columns []int, countB, formatA, formatB int, do func(a, b value)) {
	size := rules.ValueSize(formatA) + rules.ValueSize(formatB)
	for _, a := range rows {
		for _, b := range columns {
			place := at + 16 + (a*countB+b)*size
			do(r.value(place, formatA, at), r.value(place+rules.ValueSize(formatA), formatB, at))
		}
	}
}

// anchor reads an anchor, nil for the offset of nothing.
func (r positions) anchor(parent, offset int) *offsets.Node {
	if offset == 0 {
		return nil
	}
	t := r.t
	at := parent + offset
	n := &offsets.Node{}
	x, y := r.scaled(t.I16(at+2)), r.scaled(t.I16(at+4))
	switch t.U16(at) {
	case 1:
		n.U16(1, x, y)
	case 2:
		n.U16(2, x, y, t.U16(at+6))
	case 3:
		var devices [2]*offsets.Node
		for i, value := range []*int{&x, &y} {
			if offset := t.U16(at + 6 + 2*i); offset != 0 {
				add, d := r.device(at + offset)
				*value += r.scaled(add)
				devices[i] = d
			}
		}
		if devices[0] == nil && devices[1] == nil {
			n.U16(1, x, y)
			break
		}
		n.U16(3, x, y)
		n.Link(devices[0])
		n.Link(devices[1])
	default:
		t.Bad = true
	}
	return n
}

func (r positions) cursive(at int) *offsets.Node {
	t := r.t
	all, indices := r.stayList(at + t.U16(at+2))
	var glyphs []rules.GlyphID
	var anchors []*offsets.Node
	for k, i := range indices {
		if i >= t.U16(at+4) {
			break
		}
		entry, exit := r.anchor(at, t.U16(at+6+4*i)), r.anchor(at, t.U16(at+8+4*i))
		if entry != nil || exit != nil {
			glyphs = append(glyphs, all[k])
			anchors = append(anchors, entry, exit)
		}
	}
	if len(glyphs) == 0 {
		return nil
	}
	n := &offsets.Node{}
	n.U16(1)
	n.Link(offsets.Coverage(glyphs))
	n.U16(len(glyphs))
	for _, a := range anchors {
		n.Link(a)
	}
	return n
}

// marks writes attachment of marks to bases, ligatures or marks; bases writes
// the array of what they are attached to.
func (r positions) marks(at int, bases func(array, classes int, indices []int) ([]int, *offsets.Node)) *offsets.Node {
	t := r.t
	classes := t.U16(at + 6)
	markGlyphs, markIndices := r.stayList(at + t.U16(at+2))
	baseGlyphs, baseIndices := r.stayList(at + t.U16(at+4))
	markArray := at + t.U16(at+8)
	marks := &offsets.Node{}
	markCount := t.Count(markArray, markArray+2, 4)
	for k, i := range markIndices {
		if i >= markCount {
			markGlyphs, markIndices = markGlyphs[:k], markIndices[:k]
			break
		}
	}
	if len(markGlyphs) == 0 || len(baseGlyphs) == 0 {
		return nil
	}
	marks.U16(len(markIndices))
	for _, i := range markIndices {
		marks.U16(t.U16(markArray + 2 + 4*i))
		marks.Link(r.anchor(markArray, t.U16(markArray+4+4*i)))
	}
	kept, array := bases(at+t.U16(at+10), classes, baseIndices)
	var glyphs []rules.GlyphID
	for k, i := range baseIndices {
		if _, ok := slices.BinarySearch(kept, i); ok {
			glyphs = append(glyphs, baseGlyphs[k])
		}
	}
	if len(glyphs) == 0 {
		return nil
	}
	n := &offsets.Node{}
	n.U16(1)
	n.Link(offsets.Coverage(markGlyphs))
	n.Link(offsets.Coverage(glyphs))
	n.U16(classes)
	n.Link(marks)
	n.Link(array)
	return n
}

func (r positions) baseArray(array, classes int, indices []int) ([]int, *offsets.Node) {
	t := r.t
	count := t.Count(array, array+2, 2*classes)
	var kept []int
	var anchors []*offsets.Node
	for _, i := range indices {
		if i >= count {
			break
		}
		row := make([]*offsets.Node, classes)
		some := false
		for c := range classes {
			row[c] = r.anchor(array, t.U16(array+2+2*(i*classes+c)))
			some = some || row[c] != nil
		}
		if some {
			kept = append(kept, i)
			anchors = append(anchors, row...)
		}
	}
	n := &offsets.Node{}
	n.U16(len(kept))
	for _, a := range anchors {
		n.Link(a)
	}
	return kept, n
}

func (r positions) ligatureArray(array, classes int, indices []int) ([]int, *offsets.Node) {
	t := r.t
	count := t.Count(array, array+2, 2)
	var kept []int
	n := &offsets.Node{}
	n.U16(0)
	for _, i := range indices {
		if i >= count {
			break
		}
		attach := array + t.U16(array+2+2*i)
		parts := t.Count(attach, attach+2, 2*classes)
		one := &offsets.Node{}
		one.U16(parts)
		for k := range parts * classes {
			one.Link(r.anchor(attach, t.U16(attach+2+2*k)))
		}
		kept = append(kept, i)
		n.Link(one)
	}
	n.Set16(0, len(kept))
	return kept, n
}
