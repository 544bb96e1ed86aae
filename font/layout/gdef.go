package layout

import (
	"encoding/binary"
	"fmt"
	"slices"

	"sparecrate/font/sfnt"
)

// TagGDEF is the table of glyph classes.
var TagGDEF = sfnt.MakeTag("GDEF")

// Classes of glyphs in GDEF.
const (
	ClassBase      = 1
	ClassLigature  = 2
	ClassMark      = 3
	ClassComponent = 4
)

// Definitions is GDEF opened for reading: what kind of glyph each is.
type Definitions struct {
	t        *Table
	glyphs   *classes
	marks    *classes // classes of marks that lookups tell apart
	markSets []int    // offsets of coverages
	store    int      // offset of the item variation store, 0 for none
}

// OpenDefinitions reads GDEF. A nil table gives a value without classes. The
// error wraps sfnt.ErrDamaged.
func OpenDefinitions(b []byte) (*Definitions, error) {
	d := &Definitions{glyphs: &classes{}, marks: &classes{}}
	d.t = &Table{v: sfnt.View(b), name: TagGDEF, work: workPerByte*len(b) + workBase, coverages: map[int][]GlyphID{}, classdefs: map[int]*classes{}}
	if len(b) == 0 {
		return d, nil
	}
	t := d.t
	version := t.u32(0)
	if len(b) < 12 || version>>16 != 1 {
		return nil, fmt.Errorf("table `GDEF`: %w: it has no header of a version that exists", errDamaged)
	}
	d.glyphs = t.classdef(0, t.u16(4))
	d.marks = t.classdef(0, t.u16(10))
	if version >= 0x00010002 {
		if at := t.u16(12); at != 0 {
			for i := range t.count(at+2, at+4, 4) {
				d.markSets = append(d.markSets, at+t.u32(at+4+4*i))
			}
		}
	}
	if version >= 0x00010003 {
		d.store = t.u32(14)
	}
	return d, t.err()
}

// Class returns a glyph's class, 0 for none.
func (d *Definitions) Class(g GlyphID) int { return d.glyphs.of(g) }

// Store returns the bytes of the item variation store, nil for none.
func (d *Definitions) Store() []byte {
	if d.store == 0 {
		return nil
	}
	b, _ := d.t.v.From(d.store)
	return b
}

// Rewrite writes GDEF by the plan (of which Feature and Conditions do not
// matter) with another item variation store, nil for none. It gives nil where
// nothing is left to be said. The error wraps sfnt.ErrDamaged, ErrWork or ErrSize.
func (d *Definitions) Rewrite(p Plan, store []byte) ([]byte, error) {
	t := d.t
	if len(t.v) == 0 {
		return nil, nil
	}
	r := &rewriter{Plan: p, t: t, classes: map[*classes]map[int]bool{}}
	root := &node{}
	root.u16(1, 0)
	classNodeOf := func(c *classes) *node { return classNode(r.classMembers(c)) }
	glyphs := classNodeOf(d.glyphs)
	attach, carets, marks := r.attachList(t.u16(6)), r.caretList(t.u16(8)), classNodeOf(d.marks)
	for _, n := range []*node{glyphs, attach, carets, marks} {
		root.link(n)
	}
	if err := r.err(); err != nil {
		return nil, err
	}
	if glyphs == nil && attach == nil && carets == nil && marks == nil && len(d.markSets) == 0 && store == nil {
		return nil, nil
	}
	version := 0
	if len(d.markSets) > 0 || store != nil {
		version = 2
		root.u16(0) // mark sets, with offsets of 32 bits, stand behind the rest
	}
	if store != nil {
		version = 3
		root.u32(0)
	}
	root.set16(2, version)
	out, ok := pack(root)
	if !ok {
		return nil, fmt.Errorf("table `GDEF`: %w", ErrSize)
	}
	if len(d.markSets) > 0 {
		if len(out) > 0xFFFF {
			return nil, fmt.Errorf("table `GDEF`: %w", ErrSize)
		}
		binary.BigEndian.PutUint16(out[12:], uint16(len(out)))
		out = append(out, r.markSetTable(d.markSets)...)
	}
	if store != nil {
		for len(out)%4 != 0 {
			out = append(out, 0)
		}
		binary.BigEndian.PutUint32(out[14:], uint32(len(out)))
		out = append(out, store...)
	}
	return out, t.err()
}

func (r *rewriter) markSetTable(sets []int) []byte {
	out := &node{}
	out.u16(1, len(sets))
	at := 4 + 4*len(sets)
	var tables []byte
	for _, set := range sets {
		glyphs, _ := r.stayList(set)
		out.u32(at + len(tables))
		tables = append(tables, coverageNode(glyphs).b...)
	}
	return append(out.b, tables...)
}

// attachList writes the points of glyphs that others may be attached to.
func (r *rewriter) attachList(at int) *node {
	if at == 0 {
		return nil
	}
	t := r.t
	all, indices := r.stayList(at + t.u16(at))
	var lists []*node
	for k, i := range indices {
		if i >= t.u16(at+2) {
			all = all[:k]
			break
		}
		list := at + t.u16(at+4+2*i)
		n := t.count(list, list+2, 2)
		one := &node{}
		one.u16(n)
		one.u16(t.numbers(list+2, n)...)
		lists = append(lists, one)
	}
	return unmarked(all, lists)
}

// unmarked writes a coverage and a list for each glyph, without a format.
func unmarked(glyphs []GlyphID, lists []*node) *node {
	if len(glyphs) == 0 {
		return nil
	}
	n := &node{}
	n.link(coverageNode(glyphs))
	n.u16(len(lists))
	for _, one := range lists {
		n.link(one)
	}
	return n
}

// caretList writes where a text cursor stands within ligatures.
func (r *rewriter) caretList(at int) *node {
	if at == 0 {
		return nil
	}
	t := r.t
	all, indices := r.stayList(at + t.u16(at))
	var lists []*node
	for k, i := range indices {
		if i >= t.u16(at+2) {
			all = all[:k]
			break
		}
		list := at + t.u16(at+4+2*i)
		n := t.count(list, list+2, 2)
		one := &node{}
		one.u16(n)
		for c := range n {
			one.link(r.caret(list + t.u16(list+2+2*c)))
		}
		lists = append(lists, one)
	}
	return unmarked(all, lists)
}

func (r *rewriter) caret(at int) *node {
	t := r.t
	n := &node{}
	switch format := t.u16(at); format {
	case 1:
		n.u16(1, r.scaled(t.i16(at+2)))
	case 2: // a point of the outline
		n.u16(2, t.u16(at+2))
	case 3:
		place := r.scaled(t.i16(at + 2))
		var d *node
		if offset := t.u16(at + 4); offset != 0 {
			var add int
			add, d = r.device(at + offset)
			place += r.scaled(add)
		}
		if d == nil {
			n.u16(1, place)
			break
		}
		n.u16(3, place)
		n.link(d)
	default:
		t.bad = true
	}
	return n
}

// Marks reports whether glyphs of the set are marks.
func (d *Definitions) Marks(s *Set) bool {
	for _, g := range slices.Backward(s.Glyphs()) {
		if d.Class(g) == ClassMark {
			return true
		}
	}
	return false
}
