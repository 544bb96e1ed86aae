package rules

import (
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
	Table    *Table
	Glyphs   *Classes
	Marks    *Classes // classes of marks that lookups tell apart
	MarkSets []int    // offsets of coverages
	store    int      // offset of the item variation store, 0 for none
}

// OpenDefinitions reads GDEF. A nil table gives a value without classes. The
// error wraps sfnt.ErrDamaged.
func OpenDefinitions(b []byte) (*Definitions, error) {
	d := &Definitions{Glyphs: &Classes{}, Marks: &Classes{}}
	d.Table = &Table{View: sfnt.View(b), Name: TagGDEF, Work: workPerByte*len(b) + workBase, coverages: map[int][]GlyphID{}, classdefs: map[int]*Classes{}}
	if len(b) == 0 {
		return d, nil
	}
	t := d.Table
	version := t.U32(0)
	if len(b) < 12 || version>>16 != 1 {
		return nil, fmt.Errorf("table `GDEF`: %w: it has no header of a version that exists", errDamaged)
	}
	d.Glyphs = t.Classdef(0, t.U16(4))
	d.Marks = t.Classdef(0, t.U16(10))
	if version >= 0x00010002 {
		if at := t.U16(12); at != 0 {
			for i := range t.Count(at+2, at+4, 4) {
				d.MarkSets = append(d.MarkSets, at+t.U32(at+4+4*i))
			}
		}
	}
	if version >= 0x00010003 {
		d.store = t.U32(14)
	}
	return d, t.Err()
}

// Class returns a glyph's class, 0 for none.
func (d *Definitions) Class(g GlyphID) int { return d.Glyphs.Of(g) }

// Store returns the bytes of the item variation store, nil for none.
func (d *Definitions) Store() []byte {
	if d.store == 0 {
		return nil
	}
	b, _ := d.Table.View.From(d.store)
	return b
}

// HoldsMark reports whether glyphs of the set are marks.
func (d *Definitions) HoldsMark(s *Set) bool {
	for _, g := range slices.Backward(s.Glyphs()) {
		if d.Class(g) == ClassMark {
			return true
		}
	}
	return false
}
