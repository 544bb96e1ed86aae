package layout

import (
	"encoding/binary"
	"fmt"
	"maps"
	"math"
	"slices"

	"sparecrate/font/layout/internal/offsets"
	"sparecrate/font/layout/internal/rules"
	"sparecrate/font/sfnt"
)

// frame writes the whole table around the lookups.
func (r *rewriter) frame(made map[int][]*offsets.Node) ([]byte, error) {
	lookups, err := r.lookupList(made)
	if err != nil {
		return nil, err
	}
	numbers := r.featureNumbers()
	scripts, ok := offsets.Pack(r.scripts(numbers))
	features, ok2 := offsets.Pack(r.featureList(numbers))
	if !ok || !ok2 {
		return nil, fmt.Errorf("table `%s`: %w", r.t.Name, ErrSize)
	}
	variations := r.featureVariations(numbers)
	header := 10
	if variations != nil {
		header = 14
	}
	featuresAt := header + len(scripts)
	lookupsAt := featuresAt + len(features)
	if lookupsAt > math.MaxUint16 {
		return nil, fmt.Errorf("table `%s`: %w", r.t.Name, ErrSize)
	}
	var out offsets.Node
	out.U16(1, header/14, header, featuresAt, lookupsAt)
	if variations != nil {
		out.U32(lookupsAt + len(lookups))
	}
	return slices.Concat(out.Bytes, scripts, features, lookups, variations), nil
}

// lookupList writes the lookups; where they are out of reach, behind extension
// subtables with 32-bit offsets.
func (r *rewriter) lookupList(made map[int][]*offsets.Node) ([]byte, error) {
	type packed struct {
		rules.Lookup
		subs [][]byte
	}
	list := make([]packed, len(r.index))
	subtables, size := 0, 0
	shared := map[string]bool{}
	for old, to := range r.index {
		list[to].Lookup = r.t.Lookups[old]
		for _, n := range made[old] {
			b, ok := offsets.Pack(n)
			if !ok {
				return nil, fmt.Errorf("table `%s`, lookup %d: %w", r.t.Name, old, ErrSize)
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
		head += 6 + 2*len(l.subs) + l.Flag&rules.UseMarkFilterSet/8
	}
	far := head+size > math.MaxUint16
	if far {
		head += 8 * subtables
		if head > math.MaxUint16 {
			return nil, fmt.Errorf("table `%s`: %w", r.t.Name, ErrSize)
		}
	}
	extension := rules.SubExtension
	if r.t.Gpos {
		extension = rules.PosExtension
	}
	var out offsets.Node
	out.U16(len(list))
	at := 2 + 2*len(list)
	for _, l := range list {
		out.U16(at)
		at += 6 + 2*len(l.subs) + l.Flag&rules.UseMarkFilterSet/8
		if far {
			at += 8 * len(l.subs)
		}
	}
	var tail []byte
	places := map[string]int{}
	for _, l := range list {
		start := len(out.Bytes)
		kind := l.Kind
		if far {
			kind = extension
		}
		out.U16(kind, l.Flag, len(l.subs))
		firstHead := 6 + 2*len(l.subs) + l.Flag&rules.UseMarkFilterSet/8
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
				out.U16(firstHead + 8*i)
			} else {
				out.U16(where - start)
			}
		}
		if l.Flag&rules.UseMarkFilterSet != 0 {
			out.U16(l.MarkSet)
		}
		if far {
			for _, where := range wheres {
				place := len(out.Bytes)
				out.U16(1, l.Kind)
				out.U32(where - place)
			}
		}
	}
	return append(out.Bytes, tail...), nil
}

// featureNumbers numbers the features that stay: those with lookups, now or by
// a variation.
func (r *rewriter) featureNumbers() map[int]int {
	varied := map[int]bool{}
	for _, v := range r.variables {
		for _, s := range v.Subs {
			if len(r.mapped(s.Lookups)) > 0 {
				varied[s.Feature] = true
			}
		}
	}
	out := map[int]int{}
	for i, f := range r.features {
		if r.wants(i) && (len(r.mapped(f.Lookups)) > 0 || varied[i] || f.Tag == tagSize || r.present(f.Tag)) {
			out[i] = len(out)
		}
	}
	return out
}

var tagSize = sfnt.MakeTag("size")

func (r *rewriter) featureList(numbers map[int]int) *offsets.Node {
	list := &offsets.Node{}
	list.U16(len(numbers))
	for _, i := range slices.Sorted(maps.Keys(numbers)) {
		f := r.features[i]
		one := &offsets.Node{}
		one.Link(paramsOf(r.t, f))
		lookups := r.mapped(f.Lookups)
		one.U16(len(lookups))
		one.U16(lookups...)
		list.U32(int(f.Tag))
		list.Link(one)
	}
	return list
}

// paramsOf copies a feature's parameters; those of unknown kinds go.
func paramsOf(t *rules.Table, f rules.Feature) *offsets.Node {
	if f.Params == 0 {
		return nil
	}
	size := 0
	switch name := f.Tag.String(); {
	case f.Tag == tagSize:
		size = 10
	case name[:2] == "ss":
		size = 4
	case name[:2] == "cv":
		n, _ := t.View.U16(f.Params + 12)
		size = 14 + 3*int(n)
	}
	b, ok := t.View.Sub(f.Params, size)
	if !ok || size == 0 {
		return nil
	}
	return &offsets.Node{Bytes: slices.Clone(b)}
}

func (r *rewriter) scripts(numbers map[int]int) *offsets.Node {
	t := r.t
	list := &offsets.Node{}
	if t.Scripts == 0 {
		list.U16(0)
		return list
	}
	system := func(at int) *offsets.Node {
		n := &offsets.Node{}
		need := rules.NoRequired
		if to, ok := numbers[t.U16(at+2)]; ok {
			need = to
		}
		var features []int
		for _, f := range t.Numbers(at+6, t.Count(at+4, at+6, 2)) {
			if to, ok := numbers[f]; ok {
				features = append(features, to)
			}
		}
		n.U16(0, need, len(features))
		n.U16(features...)
		return n
	}
	count := t.Count(t.Scripts, t.Scripts+2, 6)
	list.U16(count)
	for i := range count {
		place := t.Scripts + 2 + 6*i
		at := t.Scripts + t.U16(place+4)
		one := &offsets.Node{}
		if usual := t.U16(at); usual != 0 {
			one.Link(system(at + usual))
		} else {
			one.U16(0)
		}
		languages := t.Count(at+2, at+4, 6)
		one.U16(languages)
		for k := range languages {
			one.U32(t.U32(at + 4 + 6*k))
			one.Link(system(at + t.U16(at+8+6*k)))
		}
		list.U32(t.U32(place))
		list.Link(one)
	}
	return list
}

// featureVariations writes the table with its 32-bit offsets, nil for none.
func (r *rewriter) featureVariations(numbers map[int]int) []byte {
	var records []rules.Variation
	useful := 0
	for _, v := range r.variables {
		one := rules.Variation{Conditions: v.Conditions}
		for _, s := range v.Subs {
			if to, ok := numbers[s.Feature]; ok {
				one.Subs = append(one.Subs, rules.FeatureSub{Feature: to, Lookups: r.mapped(s.Lookups)})
			}
		}
		records = append(records, one)
		if len(one.Subs) > 0 {
			useful = len(records) // one without effect still keeps those behind it from applying
		}
	}
	records = records[:useful]
	if len(records) == 0 {
		return nil
	}
	out := &offsets.Node{}
	out.U16(1, 0)
	out.U32(len(records))
	for range records {
		out.U32(0)
		out.U32(0)
	}
	for i, v := range records {
		if len(v.Conditions) > 0 {
			binary.BigEndian.PutUint32(out.Bytes[8+8*i:], uint32(len(out.Bytes)))
			out.U16(len(v.Conditions))
			for k := range v.Conditions {
				out.U32(2 + 4*len(v.Conditions) + 8*k)
			}
			for _, c := range v.Conditions {
				out.U16(1, c.Axis, int(c.Min), int(c.Max))
			}
		}
		if len(v.Subs) == 0 {
			continue
		}
		slices.SortFunc(v.Subs, func(a, b rules.FeatureSub) int { return a.Feature - b.Feature })
		binary.BigEndian.PutUint32(out.Bytes[12+8*i:], uint32(len(out.Bytes)))
		out.U16(1, 0, len(v.Subs))
		at := 6 + 6*len(v.Subs)
		for _, s := range v.Subs {
			out.U16(s.Feature)
			out.U32(at)
			at += 4 + 2*len(s.Lookups)
		}
		for _, s := range v.Subs {
			out.U16(0, len(s.Lookups))
			out.U16(s.Lookups...)
		}
	}
	return out.Bytes
}
