package layout

// subtable writes one subtable, nil where nothing of it is left; does tells
// whether it has an effect.
func (r *rewriter) subtable(kind, at int) (n *node, does bool) {
	if context, chain := r.t.isContext(kind); context {
		return r.context(at, chain)
	}
	if r.t.gpos {
		n = r.positioning(kind, at)
	} else {
		n = r.substitution(kind, at)
	}
	return n, n != nil
}

func (r *rewriter) substitution(kind, at int) *node {
	switch kind {
	case subSingle:
		return r.single(at)
	case subMultiple:
		return r.sequences(at, true)
	case subAlternate:
		return r.sequences(at, false)
	case subLigature:
		return r.ligatures(at)
	case subReverse:
		return r.reverse(at)
	}
	r.t.bad = true
	return nil
}

func (r *rewriter) single(at int) *node {
	t := r.t
	format := t.u16(at)
	var from, to []GlyphID
	for i, g := range t.coverage(at + t.u16(at+2)) {
		var made GlyphID
		if format == 1 {
			made = g + GlyphID(t.u16(at+4))
		} else if i < t.u16(at+4) {
			made = GlyphID(t.u16(at + 6 + 2*i))
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
	n := &node{}
	if same {
		n.u16(1)
		n.link(coverageNode(from))
		n.u16(int(to[0] - from[0]))
		return n
	}
	n.u16(2)
	n.link(coverageNode(from))
	n.u16(len(to))
	n.glyphs(to)
	return n
}

// sequences writes multiple and alternate substitution, which look the same:
// all outputs must stay for the first, any for the second.
func (r *rewriter) sequences(at int, all bool) *node {
	t := r.t
	var from []GlyphID
	var lists []*node
	for i, g := range t.coverage(at + t.u16(at+2)) {
		a, ok := r.stays(g)
		if i >= t.u16(at+4) {
			break
		}
		if !ok {
			continue
		}
		list := at + t.u16(at+6+2*i)
		n := t.count(list, list+2, 2)
		var to []GlyphID
		for k := range n {
			if b, ok := r.stays(GlyphID(t.u16(list + 2 + 2*k))); ok {
				to = append(to, b)
			}
		}
		if all && len(to) < n || !all && len(to) == 0 {
			continue
		}
		one := &node{}
		one.u16(len(to))
		one.glyphs(to)
		from, lists = append(from, a), append(lists, one)
	}
	return listed(1, from, lists)
}

// listed writes the commonest frame: a coverage and a list for each glyph.
func listed(format int, glyphs []GlyphID, lists []*node) *node {
	if len(glyphs) == 0 {
		return nil
	}
	n := &node{}
	n.u16(format)
	n.link(coverageNode(glyphs))
	n.u16(len(lists))
	for _, one := range lists {
		n.link(one)
	}
	return n
}

func (r *rewriter) ligatures(at int) *node {
	t := r.t
	var from []GlyphID
	var sets []*node
	for i, g := range t.coverage(at + t.u16(at+2)) {
		a, ok := r.stays(g)
		if i >= t.u16(at+4) {
			break
		}
		if !ok {
			continue
		}
		list := at + t.u16(at+6+2*i)
		var kept []*node
		for k := range t.count(list, list+2, 2) {
			if one := r.ligature(list + t.u16(list+2+2*k)); one != nil {
				kept = append(kept, one)
			}
		}
		if len(kept) == 0 {
			continue
		}
		set := &node{}
		set.u16(len(kept))
		for _, one := range kept {
			set.link(one)
		}
		from, sets = append(from, a), append(sets, set)
	}
	return listed(1, from, sets)
}

func (r *rewriter) ligature(at int) *node {
	t := r.t
	to, ok := r.stays(GlyphID(t.u16(at)))
	n := t.u16(at + 2)
	if !ok || n == 0 {
		return nil
	}
	one := &node{}
	one.u16(int(to), n)
	for k := range n - 1 {
		t.work--
		c, ok := r.stays(GlyphID(t.u16(at + 4 + 2*k)))
		if !ok || t.bad {
			return nil
		}
		one.u16(int(c))
	}
	return one
}

func (r *rewriter) reverse(at int) *node {
	t := r.t
	var around [2][]*node
	place := at + 4
	for i := range around {
		n := t.count(place, place+2, 2)
		for k := range n {
			glyphs, _ := r.stayList(at + t.u16(place+2+2*k))
			if len(glyphs) == 0 {
				return nil
			}
			around[i] = append(around[i], coverageNode(glyphs))
		}
		place += 2 + 2*n
	}
	var from, to []GlyphID
	for i, g := range t.coverage(at + t.u16(at+2)) {
		if i >= t.u16(place) {
			break
		}
		a, ok := r.stays(g)
		b, ok2 := r.stays(GlyphID(t.u16(place + 2 + 2*i)))
		if ok && ok2 {
			from, to = append(from, a), append(to, b)
		}
	}
	if len(from) == 0 {
		return nil
	}
	n := &node{}
	n.u16(1)
	n.link(coverageNode(from))
	for _, list := range around {
		n.u16(len(list))
		for _, c := range list {
			n.link(c)
		}
	}
	n.u16(len(to))
	n.glyphs(to)
	return n
}
