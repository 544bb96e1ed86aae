// Package offsets writes tables whose parts refer to each other by 16-bit
// offsets, as those of OpenType layout do: equal parts are written once, and
// parts are put in an order in which every offset fits.
package offsets

import (
	"encoding/binary"
	"math"
	"strconv"

	"sparecrate/font/table"
)

// Node is a piece of a table being written, with links to pieces that lie
// behind it: 16-bit offsets from its start.
type Node struct {
	Bytes []byte
	links []link
}

type link struct {
	at int
	to *Node
}

// U16 appends numbers of 16 bits.
func (n *Node) U16(values ...int) {
	for _, v := range values {
		n.Bytes = binary.BigEndian.AppendUint16(n.Bytes, uint16(v))
	}
}

// U32 appends a number of 32 bits.
func (n *Node) U32(v int) { n.Bytes = binary.BigEndian.AppendUint32(n.Bytes, uint32(v)) }

// Set16 writes a number over what stands at an offset.
func (n *Node) Set16(at, v int) { binary.BigEndian.PutUint16(n.Bytes[at:], uint16(v)) }

// Link writes an offset to a node, that of nothing for nil.
func (n *Node) Link(to *Node) {
	if to != nil {
		n.links = append(n.links, link{len(n.Bytes), to})
	}
	n.U16(0)
}

// Glyphs writes glyph numbers.
func (n *Node) Glyphs(list []table.GlyphID) {
	for _, g := range list {
		n.U16(int(g))
	}
}

// Pack lays a node and all it links to out in one piece, equal ones once. It is
// false where an offset does not fit 16 bits.
func Pack(root *Node) ([]byte, bool) {
	p := &packer{known: map[string]*Node{}, done: map[*Node]*Node{}, keys: map[*Node]string{}}
	root = p.share(root)
	for _, order := range [][]*Node{depthFirst(root), breadthFirst(root)} {
		if b, ok := layOut(order); ok {
			return b, true
		}
	}
	return nil, false
}

// packer makes equal nodes one.
type packer struct {
	known map[string]*Node
	done  map[*Node]*Node
	keys  map[*Node]string
}

func (p *packer) share(n *Node) *Node {
	if one, ok := p.done[n]; ok {
		return one
	}
	key := make([]byte, 0, len(n.Bytes)+16*len(n.links))
	key = append(key, n.Bytes...)
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
func depthFirst(root *Node) []*Node {
	var out []*Node
	seen := map[*Node]bool{}
	var visit func(n *Node)
	visit = func(n *Node) {
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
func breadthFirst(root *Node) []*Node {
	level := map[*Node]int{}
	topological := depthFirst(root)
	deepest := 0
	for _, n := range topological {
		for _, l := range n.links {
			level[l.to] = max(level[l.to], level[n]+1)
			deepest = max(deepest, level[l.to])
		}
	}
	out := make([]*Node, 0, len(topological))
	for d := range deepest + 1 {
		for _, n := range topological {
			if level[n] == d {
				out = append(out, n)
			}
		}
	}
	return out
}

func layOut(order []*Node) ([]byte, bool) {
	places := make(map[*Node]int, len(order))
	size := 0
	for _, n := range order {
		places[n] = size
		size += len(n.Bytes)
	}
	out := make([]byte, 0, size)
	for _, n := range order {
		base := len(out)
		out = append(out, n.Bytes...)
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
