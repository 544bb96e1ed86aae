package layout

import (
	"encoding/binary"
	"fmt"

	"sparecrate/font/layout/internal/offsets"
	"sparecrate/font/layout/internal/rules"
)

// RewriteDefinitions writes GDEF by the plan (of which Feature and Conditions do not
// matter) with another item variation store, nil for none. It gives nil where
// nothing is left to be said. The error wraps sfnt.ErrDamaged, ErrWork or ErrSize.
func RewriteDefinitions(d *rules.Definitions, p Plan, store []byte) ([]byte, error) {
	t := d.Table
	if len(t.View) == 0 {
		return nil, nil
	}
	r := glyphKinds{&rewriter{Plan: p, t: t, classes: map[*rules.Classes]map[int]bool{}}}
	root := &offsets.Node{}
	root.U16(1, 0)
	classNodeOf := func(c *rules.Classes) *offsets.Node { return offsets.Classes(r.classMembers(c)) }
	glyphs := classNodeOf(d.Glyphs)
	attach, carets, marks := r.attachList(t.U16(6)), r.caretList(t.U16(8)), classNodeOf(d.Marks)
	for _, n := range []*offsets.Node{glyphs, attach, carets, marks} {
		root.Link(n)
	}
	if err := r.err(); err != nil {
		return nil, err
	}
	if glyphs == nil && attach == nil && carets == nil && marks == nil && len(d.MarkSets) == 0 && store == nil {
		return nil, nil
	}
	version := 0
	if len(d.MarkSets) > 0 || store != nil {
		version = 2
		root.U16(0) // mark sets, with offsets of 32 bits, stand behind the rest
	}
	if store != nil {
		version = 3
		root.U32(0)
	}
	root.Set16(2, version)
	out, ok := offsets.Pack(root)
	if !ok {
		return nil, fmt.Errorf("table `GDEF`: %w", ErrSize)
	}
	if len(d.MarkSets) > 0 {
		if len(out) > 0xFFFF {
			return nil, fmt.Errorf("table `GDEF`: %w", ErrSize)
		}
		binary.BigEndian.PutUint16(out[12:], uint16(len(out)))
		out = append(out, r.markSetTable(d.MarkSets)...)
	}
	if store != nil {
		for len(out)%4 != 0 {
			out = append(out, 0)
		}
		binary.BigEndian.PutUint32(out[14:], uint32(len(out)))
		out = append(out, store...)
	}
	return out, t.Err()
}

// glyphKinds writes the tables of GDEF.
type glyphKinds struct{ *rewriter }

func (r glyphKinds) markSetTable(sets []int) []byte {
	out := &offsets.Node{}
	out.U16(1, len(sets))
	at := 4 + 4*len(sets)
	var tables []byte
	for _, set := range sets {
		glyphs, _ := r.stayList(set)
		out.U32(at + len(tables))
		tables = append(tables, offsets.Coverage(glyphs).Bytes...)
	}
	return append(out.Bytes, tables...)
}

// attachList writes the points of glyphs that others may be attached to.
func (r glyphKinds) attachList(at int) *offsets.Node {
	if at == 0 {
		return nil
	}
	t := r.t
	all, indices := r.stayList(at + t.U16(at))
	var lists []*offsets.Node
	for k, i := range indices {
		if i >= t.U16(at+2) {
			all = all[:k]
			break
		}
		list := at + t.U16(at+4+2*i)
		n := t.Count(list, list+2, 2)
		one := &offsets.Node{}
		one.U16(n)
		one.U16(t.Numbers(list+2, n)...)
		lists = append(lists, one)
	}
	return unmarked(all, lists)
}

// unmarked writes a coverage and a list for each glyph, without a format.
func unmarked(glyphs []rules.GlyphID, lists []*offsets.Node) *offsets.Node {
	if len(glyphs) == 0 {
		return nil
	}
	n := &offsets.Node{}
	n.Link(offsets.Coverage(glyphs))
	n.U16(len(lists))
	for _, one := range lists {
		n.Link(one)
	}
	return n
}

// caretList writes where a text cursor stands within ligatures.
func (r glyphKinds) caretList(at int) *offsets.Node {
	if at == 0 {
		return nil
	}
	t := r.t
	all, indices := r.stayList(at + t.U16(at))
	var lists []*offsets.Node
	for k, i := range indices {
		if i >= t.U16(at+2) {
			all = all[:k]
			break
		}
		list := at + t.U16(at+4+2*i)
		n := t.Count(list, list+2, 2)
		one := &offsets.Node{}
		one.U16(n)
		for c := range n {
			one.Link(r.caret(list + t.U16(list+2+2*c)))
		}
		lists = append(lists, one)
	}
	return unmarked(all, lists)
}

func (r glyphKinds) caret(at int) *offsets.Node {
	t := r.t
	n := &offsets.Node{}
	switch format := t.U16(at); format {
	case 1:
		n.U16(1, r.scaled(t.I16(at+2)))
	case 2: // a point of the outline
		n.U16(2, t.U16(at+2))
	case 3:
		place := r.scaled(t.I16(at + 2))
		var d *offsets.Node
		if offset := t.U16(at + 4); offset != 0 {
			var add int
			add, d = r.device(at + offset)
			place += r.scaled(add)
		}
		if d == nil {
			n.U16(1, place)
			break
		}
		n.U16(3, place)
		n.Link(d)
	default:
		t.Bad = true
	}
	return n
}
