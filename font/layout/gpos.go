package layout

import (
	"math/bits"
	"slices"
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
	device [4]*node
}

// device reads a device or variation table: what it adds for good, and the
// table that stays, nil for none.
func (r *rewriter) device(at int) (add int, n *node) {
	t := r.t
	a, b, format := t.u16(at), t.u16(at+2), t.u16(at+4)
	switch {
	case format == 0x8000:
		if r.Vary == nil {
			n = &node{}
			n.u16(a, b, format)
			return 0, n
		}
		add, outer, inner, varies := r.Vary(a, b)
		if varies {
			n = &node{}
			n.u16(outer, inner, format)
		}
		return add, n
	case format >= 1 && format <= 3 && b >= a:
		size := 6 + 2*(((b-a+1)<<format+15)/16)
		if raw, ok := t.v.Sub(at, size); ok {
			return 0, &node{b: slices.Clone(raw)}
		}
		t.bad = true
	}
	return 0, nil
}

// value reads a ValueRecord; offsets count from parent.
func (r *rewriter) value(at, format, parent int) (v value) {
	t := r.t
	for i := range 4 {
		if format&(1<<i) != 0 {
			v.number[i] = int16(r.scaled(t.i16(at)))
			at += 2
		}
	}
	for i := range 4 {
		if format&(0x10<<i) == 0 {
			continue
		}
		if offset := t.u16(at); offset != 0 {
			add, n := r.device(parent + offset)
			v.number[i] += int16(r.scaled(add))
			v.device[i] = n
		}
		at += 2
	}
	return v
}

func valueSize(format int) int { return 2 * bits.OnesCount(uint(format&0xFF)) }

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

func (n *node) value(v value, format int) {
	for i := range 4 {
		if format&(1<<i) != 0 {
			n.u16(int(v.number[i]))
		}
	}
	for i := range 4 {
		if format&(0x10<<i) != 0 {
			n.link(v.device[i])
		}
	}
}

func (r *rewriter) positioning(kind, at int) *node {
	switch kind {
	case posSingle:
		return r.singleValue(at)
	case posPair:
		switch r.t.u16(at) {
		case 1:
			return r.pairs(at)
		case 2:
			return r.pairClasses(at)
		}
	case posCursive:
		return r.cursive(at)
	case posMarkBase, posMarkMark:
		return r.marks(at, r.baseArray)
	case posMarkLigature:
		return r.marks(at, r.ligatureArray)
	}
	r.t.bad = true
	return nil
}

func (r *rewriter) singleValue(at int) *node {
	t := r.t
	format := t.u16(at + 4)
	glyphs, indices := r.stayList(at + t.u16(at+2))
	if len(glyphs) == 0 {
		return nil
	}
	if t.u16(at) == 1 {
		v := r.value(at+6, format, at)
		format = format&valueNumbers | v.format()
		n := &node{}
		n.u16(1)
		n.link(coverageNode(glyphs))
		n.u16(format)
		n.value(v, format)
		return n
	}
	count := t.u16(at + 6)
	out := format & valueNumbers
	var values []value
	for k, i := range indices {
		if i >= count {
			glyphs = glyphs[:k]
			break
		}
		v := r.value(at+8+i*valueSize(format), format, at)
		out |= v.format()
		values = append(values, v)
	}
	if len(values) == 0 {
		return nil
	}
	n := &node{}
	n.u16(2)
	n.link(coverageNode(glyphs))
	n.u16(out, len(values))
	for _, v := range values {
		n.value(v, out)
	}
	return n
}

func (r *rewriter) pairs(at int) *node {
	type pair struct {
		second GlyphID
		a, b   value
	}
	t := r.t
	formatA, formatB := t.u16(at+4), t.u16(at+6)
	size := 2 + valueSize(formatA) + valueSize(formatB)
	outA, outB := formatA&valueNumbers, formatB&valueNumbers
	glyphs, indices := r.stayList(at + t.u16(at+2))
	var from []GlyphID
	var sets [][]pair
	for k, i := range indices {
		if i >= t.u16(at+8) {
			break
		}
		set := at + t.u16(at+10+2*i)
		var list []pair
		for j := range t.count(set, set+2, size) {
			place := set + 2 + size*j
			second, ok := r.stays(GlyphID(t.u16(place)))
			if !ok {
				continue
			}
			p := pair{second, r.value(place+2, formatA, set), r.value(place+2+valueSize(formatA), formatB, set)}
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
	n := &node{}
	n.u16(1)
	n.link(coverageNode(from))
	n.u16(outA, outB, len(sets))
	for _, list := range sets {
		set := &node{}
		set.u16(len(list))
		for _, p := range list {
			set.u16(int(p.second))
			set.value(p.a, outA)
			set.value(p.b, outB)
		}
		n.link(set)
	}
	return n
}

// pairClasses writes a table of classes by classes, without classes that no
// glyph has.
func (r *rewriter) pairClasses(at int) *node {
	t := r.t
	formatA, formatB := t.u16(at+4), t.u16(at+6)
	first, second := t.classdef(at, t.u16(at+8)), t.classdef(at, t.u16(at+10))
	countA, countB := t.u16(at+12), t.u16(at+14)
	size := valueSize(formatA) + valueSize(formatB)
	if _, ok := t.v.Sub(at+16, countA*countB*size); !ok {
		t.bad = true
		return nil
	}
	if t.work -= countA * countB; t.work < 0 {
		return nil
	}
	var glyphs []GlyphID
	var classOf []int
	usedA, usedB := map[int]bool{}, map[int]bool{0: true}
	for _, g := range t.coverage(at + t.u16(at+2)) {
		to, ok := r.stays(g)
		class := first.of(g)
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
	n := &node{}
	n.u16(2)
	n.link(coverageNode(glyphs))
	n.u16(outA, outB)
	for _, c := range []*node{classNode(glyphs, classOf), classNode(seconds, secondOf)} {
		if c == nil {
			c = emptyClasses()
		}
		n.link(c)
	}
	n.u16(len(orderA), len(orderB))
	r.cells(at, orderA, orderB, countB, formatA, formatB, func(a, b value) {
		n.value(a, outA)
		n.value(b, outB)
	})
	return n
}

// cells reads the values of rows and columns of a class table that starts at.
func (r *rewriter) cells(at int, rows, columns []int, countB, formatA, formatB int, do func(a, b value)) {
	size := valueSize(formatA) + valueSize(formatB)
	for _, a := range rows {
		for _, b := range columns {
			place := at + 16 + (a*countB+b)*size
			do(r.value(place, formatA, at), r.value(place+valueSize(formatA), formatB, at))
		}
	}
}

// anchor reads an anchor, nil for the offset of nothing.
func (r *rewriter) anchor(parent, offset int) *node {
	if offset == 0 {
		return nil
	}
	t := r.t
	at := parent + offset
	n := &node{}
	x, y := r.scaled(t.i16(at+2)), r.scaled(t.i16(at+4))
	switch t.u16(at) {
	case 1:
		n.u16(1, x, y)
	case 2:
		n.u16(2, x, y, t.u16(at+6))
	case 3:
		var devices [2]*node
		for i, value := range []*int{&x, &y} {
			if offset := t.u16(at + 6 + 2*i); offset != 0 {
				add, d := r.device(at + offset)
				*value += r.scaled(add)
				devices[i] = d
			}
		}
		if devices[0] == nil && devices[1] == nil {
			n.u16(1, x, y)
			break
		}
		n.u16(3, x, y)
		n.link(devices[0])
		n.link(devices[1])
	default:
		t.bad = true
	}
	return n
}

func (r *rewriter) cursive(at int) *node {
	t := r.t
	all, indices := r.stayList(at + t.u16(at+2))
	var glyphs []GlyphID
	var anchors []*node
	for k, i := range indices {
		if i >= t.u16(at+4) {
			break
		}
		entry, exit := r.anchor(at, t.u16(at+6+4*i)), r.anchor(at, t.u16(at+8+4*i))
		if entry != nil || exit != nil {
			glyphs = append(glyphs, all[k])
			anchors = append(anchors, entry, exit)
		}
	}
	if len(glyphs) == 0 {
		return nil
	}
	n := &node{}
	n.u16(1)
	n.link(coverageNode(glyphs))
	n.u16(len(glyphs))
	for _, a := range anchors {
		n.link(a)
	}
	return n
}

// marks writes attachment of marks to bases, ligatures or marks; bases writes
// the array of what they are attached to.
func (r *rewriter) marks(at int, bases func(array, classes int, indices []int) ([]int, *node)) *node {
	t := r.t
	classes := t.u16(at + 6)
	markGlyphs, markIndices := r.stayList(at + t.u16(at+2))
	baseGlyphs, baseIndices := r.stayList(at + t.u16(at+4))
	markArray := at + t.u16(at+8)
	marks := &node{}
	markCount := t.count(markArray, markArray+2, 4)
	for k, i := range markIndices {
		if i >= markCount {
			markGlyphs, markIndices = markGlyphs[:k], markIndices[:k]
			break
		}
	}
	if len(markGlyphs) == 0 || len(baseGlyphs) == 0 {
		return nil
	}
	marks.u16(len(markIndices))
	for _, i := range markIndices {
		marks.u16(t.u16(markArray + 2 + 4*i))
		marks.link(r.anchor(markArray, t.u16(markArray+4+4*i)))
	}
	kept, array := bases(at+t.u16(at+10), classes, baseIndices)
	var glyphs []GlyphID
	for k, i := range baseIndices {
		if _, ok := slices.BinarySearch(kept, i); ok {
			glyphs = append(glyphs, baseGlyphs[k])
		}
	}
	if len(glyphs) == 0 {
		return nil
	}
	n := &node{}
	n.u16(1)
	n.link(coverageNode(markGlyphs))
	n.link(coverageNode(glyphs))
	n.u16(classes)
	n.link(marks)
	n.link(array)
	return n
}

func (r *rewriter) baseArray(array, classes int, indices []int) ([]int, *node) {
	t := r.t
	count := t.count(array, array+2, 2*classes)
	var kept []int
	var anchors []*node
	for _, i := range indices {
		if i >= count {
			break
		}
		row := make([]*node, classes)
		some := false
		for c := range classes {
			row[c] = r.anchor(array, t.u16(array+2+2*(i*classes+c)))
			some = some || row[c] != nil
		}
		if some {
			kept = append(kept, i)
			anchors = append(anchors, row...)
		}
	}
	n := &node{}
	n.u16(len(kept))
	for _, a := range anchors {
		n.link(a)
	}
	return kept, n
}

func (r *rewriter) ligatureArray(array, classes int, indices []int) ([]int, *node) {
	t := r.t
	count := t.count(array, array+2, 2)
	var kept []int
	n := &node{}
	n.u16(0)
	for _, i := range indices {
		if i >= count {
			break
		}
		attach := array + t.u16(array+2+2*i)
		parts := t.count(attach, attach+2, 2*classes)
		one := &node{}
		one.u16(parts)
		for k := range parts * classes {
			one.link(r.anchor(attach, t.u16(attach+2+2*k)))
		}
		kept = append(kept, i)
		n.link(one)
	}
	n.set16(0, len(kept))
	return kept, n
}
