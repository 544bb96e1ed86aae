package layout

import (
	"encoding/binary"
	"math"
	"strconv"
)

// node is a piece of a table being written, with links to pieces that lie
// behind it: 16-bit offsets from its start.
type node struct {
	b     []byte
	links []link
}

type link struct {
	at int
	to *node
}

func (n *node) u16(values ...int) {
	for _, v := range values {
		n.b = binary.BigEndian.AppendUint16(n.b, uint16(v))
	}
}

func (n *node) u32(v int) { n.b = binary.BigEndian.AppendUint32(n.b, uint32(v)) }

func (n *node) set16(at, v int) { binary.BigEndian.PutUint16(n.b[at:], uint16(v)) }

// link writes an offset to a node, that of nothing for nil.
func (n *node) link(to *node) {
	if to != nil {
		n.links = append(n.links, link{len(n.b), to})
	}
	n.u16(0)
}

// glyphs writes glyph numbers.
func (n *node) glyphs(list []GlyphID) {
	for _, g := range list {
		n.u16(int(g))
	}
}

// pack lays a node and all it links to out in one piece, equal ones once. It is
// false where an offset does not fit 16 bits.
func pack(root *node) ([]byte, bool) {
	p := &packer{known: map[string]*node{}, done: map[*node]*node{}, keys: map[*node]string{}}
	root = p.share(root)
	for _, order := range [][]*node{depthFirst(root), breadthFirst(root)} {
		if b, ok := layOut(order); ok {
			return b, true
		}
	}
	return nil, false
}

// packer makes equal nodes one.
type packer struct {
	known map[string]*node
	done  map[*node]*node
	keys  map[*node]string
}

func (p *packer) share(n *node) *node {
	if one, ok := p.done[n]; ok {
		return one
	}
	key := make([]byte, 0, len(n.b)+16*len(n.links))
	key = append(key, n.b...)
	for i := range n.links {
		n.links[i].to = p.share(n.links[i].to)
		key = append(key, '|')
		key = strconv.AppendInt(key, int64(n.links[i].at), 36)
		key = append(key, ':')
		key = append(key, p.keys[n.links[i].to]...)
	}
	one, ok := p.known[string(key)]
	if !ok {
		one = n
		p.known[string(key)] = n
		p.keys[n] = strconv.Itoa(len(p.keys))
	}
	p.done[n] = one
	return one
}

// depthFirst orders nodes so that each stands behind all that link to it and
// close behind one of them.
func depthFirst(root *node) []*node {
	var out []*node
	seen := map[*node]bool{}
	var visit func(n *node)
	visit = func(n *node) {
		seen[n] = true
		for i := len(n.links) - 1; i >= 0; i-- {
			if to := n.links[i].to; !seen[to] {
				visit(to)
			}
		}
		out = append(out, n)
	}
	visit(root)
	for i, j := 0, len(out)-1; i < j; i, j = i+1, j-1 {
		out[i], out[j] = out[j], out[i]
	}
	return out
}

// breadthFirst orders nodes by the longest way from the root.
func breadthFirst(root *node) []*node {
	level := map[*node]int{}
	topological := depthFirst(root)
	deepest := 0
	for _, n := range topological {
		for _, l := range n.links {
			level[l.to] = max(level[l.to], level[n]+1)
			deepest = max(deepest, level[l.to])
		}
	}
	out := make([]*node, 0, len(topological))
	for d := range deepest + 1 {
		for _, n := range topological {
			if level[n] == d {
				out = append(out, n)
			}
		}
	}
	return out
}

func layOut(order []*node) ([]byte, bool) {
	places := make(map[*node]int, len(order))
	size := 0
	for _, n := range order {
		places[n] = size
		size += len(n.b)
	}
	out := make([]byte, 0, size)
	for _, n := range order {
		base := len(out)
		out = append(out, n.b...)
		for _, l := range n.links {
			offset := places[l.to] - base
			if offset > math.MaxUint16 {
				return nil, false
			}
			binary.BigEndian.PutUint16(out[base+l.at:], uint16(offset))
		}
	}
	return out, true
}
