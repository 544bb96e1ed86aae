package layout

import (
	"encoding/binary"
	"fmt"
	"maps"
	"math"
	"slices"

	"sparecrate/font/sfnt"
)

// frame writes the whole table around the lookups.
func (r *rewriter) frame(made map[int][]*node) ([]byte, error) {
	lookups, err := r.lookupList(made)
	if err != nil {
		return nil, err
	}
	numbers := r.featureNumbers()
	scripts, ok := pack(r.scripts(numbers))
	features, ok2 := pack(r.featureList(numbers))
	if !ok || !ok2 {
		return nil, fmt.Errorf("table `%s`: %w", r.t.name, ErrSize)
	}
	variations := r.featureVariations(numbers)
	header := 10
	if variations != nil {
		header = 14
	}
	featuresAt := header + len(scripts)
	lookupsAt := featuresAt + len(features)
	if lookupsAt > math.MaxUint16 {
		return nil, fmt.Errorf("table `%s`: %w", r.t.name, ErrSize)
	}
	var out node
	out.u16(1, header/14, header, featuresAt, lookupsAt)
	if variations != nil {
		out.u32(lookupsAt + len(lookups))
	}
	return slices.Concat(out.b, scripts, features, lookups, variations), nil
}

// lookupList writes the lookups; where they are out of reach, behind extension
// subtables with 32-bit offsets.
func (r *rewriter) lookupList(made map[int][]*node) ([]byte, error) {
	type packed struct {
		lookup
		subs [][]byte
	}
	list := make([]packed, len(r.index))
	subtables, size := 0, 0
	shared := map[string]bool{}
	for old, to := range r.index {
		list[to].lookup = r.t.lookups[old]
		for _, n := range made[old] {
			b, ok := pack(n)
			if !ok {
				return nil, fmt.Errorf("table `%s`, lookup %d: %w", r.t.name, old, ErrSize)
			}
			list[to].subs = append(list[to].subs, b)
			subtables++
			if !shared[string(b)] {
				shared[string(b)] = true
				size += len(b)
			}
		}
	}
	head := 2 + 2*len(list)
	for _, l := range list {
		head += 6 + 2*len(l.subs) + l.flag&useMarkFilterSet/8
	}
	far := head+size > math.MaxUint16
	if far {
		head += 8 * subtables
		if head > math.MaxUint16 {
			return nil, fmt.Errorf("table `%s`: %w", r.t.name, ErrSize)
		}
	}
	extension := subExtension
	if r.t.gpos {
		extension = posExtension
	}
	var out node
	out.u16(len(list))
	at := 2 + 2*len(list)
	for _, l := range list {
		out.u16(at)
		at += 6 + 2*len(l.subs) + l.flag&useMarkFilterSet/8
		if far {
			at += 8 * len(l.subs)
		}
	}
	var tail []byte
	places := map[string]int{}
	for _, l := range list {
		start := len(out.b)
		kind := l.kind
		if far {
			kind = extension
		}
		out.u16(kind, l.flag, len(l.subs))
		firstHead := 6 + 2*len(l.subs) + l.flag&useMarkFilterSet/8
		wheres := make([]int, len(l.subs))
		for i, b := range l.subs {
			where, ok := places[string(b)]
			if !ok {
				where = head + len(tail)
				places[string(b)] = where
				tail = append(tail, b...)
			}
			wheres[i] = where
			if far {
				out.u16(firstHead + 8*i)
			} else {
				out.u16(where - start)
			}
		}
		if l.flag&useMarkFilterSet != 0 {
			out.u16(l.markSet)
		}
		if far {
			for _, where := range wheres {
				place := len(out.b)
				out.u16(1, l.kind)
				out.u32(where - place)
			}
		}
	}
	return append(out.b, tail...), nil
}

// featureNumbers numbers the features that stay: those with lookups, now or by
// a variation.
func (r *rewriter) featureNumbers() map[int]int {
	varied := map[int]bool{}
	for _, v := range r.variables {
		for _, s := range v.subs {
			if len(r.mapped(s.lookups)) > 0 {
				varied[s.feature] = true
			}
		}
	}
	out := map[int]int{}
	for i, f := range r.features {
		if r.wants(i) && (len(r.mapped(f.lookups)) > 0 || varied[i] || f.tag == tagSize || r.present(f.tag)) {
			out[i] = len(out)
		}
	}
	return out
}

var tagSize = sfnt.MakeTag("size")

func (r *rewriter) featureList(numbers map[int]int) *node {
	list := &node{}
	list.u16(len(numbers))
	for _, i := range slices.Sorted(maps.Keys(numbers)) {
		f := r.features[i]
		one := &node{}
		one.link(r.t.paramsOf(f))
		lookups := r.mapped(f.lookups)
		one.u16(len(lookups))
		one.u16(lookups...)
		list.u32(int(f.tag))
		list.link(one)
	}
	return list
}

// paramsOf copies a feature's parameters; those of unknown kinds go.
func (t *Table) paramsOf(f feature) *node {
	if f.params == 0 {
		return nil
	}
	size := 0
	switch name := f.tag.String(); {
	case f.tag == tagSize:
		size = 10
	case name[:2] == "ss":
		size = 4
	case name[:2] == "cv":
		n, _ := t.v.U16(f.params + 12)
		size = 14 + 3*int(n)
	}
	b, ok := t.v.Sub(f.params, size)
	if !ok || size == 0 {
		return nil
	}
	return &node{b: slices.Clone(b)}
}

func (r *rewriter) scripts(numbers map[int]int) *node {
	t := r.t
	list := &node{}
	if t.scripts == 0 {
		list.u16(0)
		return list
	}
	system := func(at int) *node {
		n := &node{}
		need := noRequired
		if to, ok := numbers[t.u16(at+2)]; ok {
			need = to
		}
		var features []int
		for _, f := range t.numbers(at+6, t.count(at+4, at+6, 2)) {
			if to, ok := numbers[f]; ok {
				features = append(features, to)
			}
		}
		n.u16(0, need, len(features))
		n.u16(features...)
		return n
	}
	count := t.count(t.scripts, t.scripts+2, 6)
	list.u16(count)
	for i := range count {
		place := t.scripts + 2 + 6*i
		at := t.scripts + t.u16(place+4)
		one := &node{}
		if usual := t.u16(at); usual != 0 {
			one.link(system(at + usual))
		} else {
			one.u16(0)
		}
		languages := t.count(at+2, at+4, 6)
		one.u16(languages)
		for k := range languages {
			one.u32(t.u32(at + 4 + 6*k))
			one.link(system(at + t.u16(at+8+6*k)))
		}
		list.u32(t.u32(place))
		list.link(one)
	}
	return list
}

// featureVariations writes the table with its 32-bit offsets, nil for none.
func (r *rewriter) featureVariations(numbers map[int]int) []byte {
	var records []variation
	useful := 0
	for _, v := range r.variables {
		one := variation{conditions: v.conditions}
		for _, s := range v.subs {
			if to, ok := numbers[s.feature]; ok {
				one.subs = append(one.subs, featureSub{to, r.mapped(s.lookups)})
			}
		}
		records = append(records, one)
		if len(one.subs) > 0 {
			useful = len(records) // one without effect still keeps those behind it from applying
		}
	}
	records = records[:useful]
	if len(records) == 0 {
		return nil
	}
	out := &node{}
	out.u16(1, 0)
	out.u32(len(records))
	for range records {
		out.u32(0)
		out.u32(0)
	}
	for i, v := range records {
		if len(v.conditions) > 0 {
			binary.BigEndian.PutUint32(out.b[8+8*i:], uint32(len(out.b)))
			out.u16(len(v.conditions))
			for k := range v.conditions {
				out.u32(2 + 4*len(v.conditions) + 8*k)
			}
			for _, c := range v.conditions {
				out.u16(1, c.Axis, int(c.Min), int(c.Max))
			}
		}
		if len(v.subs) == 0 {
			continue
		}
		slices.SortFunc(v.subs, func(a, b featureSub) int { return a.feature - b.feature })
		binary.BigEndian.PutUint32(out.b[12+8*i:], uint32(len(out.b)))
		out.u16(1, 0, len(v.subs))
		at := 6 + 6*len(v.subs)
		for _, s := range v.subs {
			out.u16(s.feature)
			out.u32(at)
			at += 4 + 2*len(s.lookups)
		}
		for _, s := range v.subs {
			out.u16(0, len(s.lookups))
			out.u16(s.lookups...)
		}
	}
	return out.b
}
