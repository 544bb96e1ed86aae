package layout

import "sparecrate/font/layout/internal/rules"
import "sparecrate/font/layout/internal/offsets"

// subtable writes one subtable, nil where nothing of it is left; does tells
// whether it has an effect.
func (r *rewriter) subtable(kind, at int) (n *offsets.Node, does bool) {
	if context, chain := r.t.IsContext(kind); context {
		return r.context(at, chain)
	}
	if r.t.Gpos {
		n = positions{r}.subtable(kind, at)
	} else {
		n = substitutions{r}.subtable(kind, at)
	}
	return n, n != nil
}

// substitutions writes the subtables of GSUB.
type substitutions struct{ *rewriter }

func (r substitutions) subtable(kind, at int) *offsets.Node {
	switch kind {
	case rules.SubSingle:
		return r.single(at)
	case rules.SubMultiple:
		return r.sequences(at, true)
	case rules.SubAlternate:
		return r.sequences(at, false)
	case rules.SubLigature:
		return r.ligatures(at)
	case rules.SubReverse:
		return r.reverse(at)
	}
	r.t.Bad = true
	return nil
}

func (r substitutions) single(at int) *offsets.Node {
	t := r.t
	format := t.U16(at)
	var from, to []rules.GlyphID
	for i, g := range t.Coverage(at + t.U16(at+2)) {
		var made rules.GlyphID
		if format == 1 {
			made = g + rules.GlyphID(t.U16(at+4))
		} else if i < t.U16(at+4) {
			made = rules.GlyphID(t.U16(at + 6 + 2*i))
		} else {
			break
		}
		a, ok := r.stays(g)
		b, ok2 := r.stays(made)
		if ok && ok2 {
			from, to = append(from, a), append(to, b)
		}
	}
	if len(from) == 0 {
		return nil
	}
	same := true
	for i := range from {
		same = same && to[i]-from[i] == to[0]-from[0]
	}
	n := &offsets.Node{}
	if same {
		n.U16(1)
		n.Link(offsets.Coverage(from))
		n.U16(int(to[0] - from[0]))
		return n
	}
	n.U16(2)
	n.Link(offsets.Coverage(from))
	n.U16(len(to))
	n.Glyphs(to)
	return n
}

// sequences writes multiple and alternate substitution, which look the same:
// all outputs must stay for the first, any for the second.
func (r substitutions) sequences(at int, all bool) *offsets.Node {
	t := r.t
	var from []rules.GlyphID
	var lists []*offsets.Node
	for i, g := range t.Coverage(at + t.U16(at+2)) {
		a, ok := r.stays(g)
		if i >= t.U16(at+4) {
			break
		}
		if !ok {
			continue
		}
		list := at + t.U16(at+6+2*i)
		n := t.Count(list, list+2, 2)
		var to []rules.GlyphID
		for k := range n {
			if b, ok := r.stays(rules.GlyphID(t.U16(list + 2 + 2*k))); ok {
				to = append(to, b)
			}
		}
		if all && len(to) < n || !all && len(to) == 0 {
			continue
		}
		one := &offsets.Node{}
		one.U16(len(to))
		one.Glyphs(to)
		from, lists = append(from, a), append(lists, one)
	}
	return listed(1, from, lists)
}

// listed writes the commonest frame: a coverage and a list for each glyph.
func listed(format int, glyphs []rules.GlyphID, lists []*offsets.Node) *offsets.Node {
	if len(glyphs) == 0 {
		return nil
	}
	n := &offsets.Node{}
	n.U16(format)
	n.Link(offsets.Coverage(glyphs))
	n.U16(len(lists))
	for _, one := range lists {
		n.Link(one)
	}
	return n
}

func (r substitutions) ligatures(at int) *offsets.Node {
	t := r.t
	var from []rules.GlyphID
	var sets []*offsets.Node
	for i, g := range t.Coverage(at + t.U16(at+2)) {
		a, ok := r.stays(g)
		if i >= t.U16(at+4) {
			break
		}
		if !ok {
			continue
		}
		list := at + t.U16(at+6+2*i)
		var kept []*offsets.Node
		for k := range t.Count(list, list+2, 2) {
			if one := r.ligature(list + t.U16(list+2+2*k)); one != nil {
				kept = append(kept, one)
			}
		}
		if len(kept) == 0 {
			continue
		}
		set := &offsets.Node{}
		set.U16(len(kept))
		for _, one := range kept {
			set.Link(one)
		}
		from, sets = append(from, a), append(sets, set)
	}
	return listed(1, from, sets)
}

func (r substitutions) ligature(at int) *offsets.Node {
	t := r.t
	to, ok := r.stays(rules.GlyphID(t.U16(at)))
	n := t.U16(at + 2)
	if !ok || n == 0 {
		return nil
	}
	one := &offsets.Node{}
	one.U16(int(to), n)
	for k := range n - 1 {
		t.Work--
		c, ok := r.stays(rules.GlyphID(t.U16(at + 4 + 2*k)))
		if !ok || t.Bad {
			return nil
		}
		one.U16(int(c))
	}
	return one
}

func (r substitutions) reverse(at int) *offsets.Node {
	t := r.t
	var around [2][]*offsets.Node
	place := at + 4
	for i := range around {
		n := t.Count(place, place+2, 2)
		for k := range n {
			glyphs, _ := r.stayList(at + t.U16(place+2+2*k))
			if len(glyphs) == 0 {
				return nil
			}
			around[i] = append(around[i], offsets.Coverage(glyphs))
		}
		place += 2 + 2*n
	}
	var from, to []rules.GlyphID
	for i, g := range t.Coverage(at + t.U16(at+2)) {
		if i >= t.U16(place) {
			break
		}
		a, ok := r.stays(g)
		b, ok2 := r.stays(rules.GlyphID(t.U16(place + 2 + 2*i)))
		if ok && ok2 {
			from, to = append(from, a), append(to, b)
		}
	}
	if len(from) == 0 {
		return nil
	}
	n := &offsets.Node{}
	n.U16(1)
	n.Link(offsets.Coverage(from))
	for _, list := range around {
		n.U16(len(list))
		for _, c := range list {
			n.Link(c)
		}
	}
	n.U16(len(to))
	n.Glyphs(to)
	return n
}
