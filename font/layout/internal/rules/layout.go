// Package rules reads the tables of rules that set glyphs, GSUB and GPOS, and
// the classes of GDEF, of the OpenType specification 1.9.1 ("OpenType Layout
// common table formats"): features, lookups, coverages, classes and contextual
// rules. What closes, writes and applies them is package layout.
//
// Reading is checked everywhere. A number that lies outside reads as 0 and
// marks the table Bad; lists that a table names over and over are bounded by
// work in proportion to its size.
package rules

import (
	"errors"
	"fmt"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// GlyphID is a glyph's number within its face.
type GlyphID = table.GlyphID

// What a caller may want to tell apart.
var (
	errDamaged = sfnt.Damaged("the layout rules are damaged")
	// ErrWork says that a table asks for more work than any real one does.
	ErrWork = errors.New("the layout rules ask for too much work")
)

const (
	// workPerByte bounds the steps taken through a table; real ones take up to
	// about fifty where rules are closed over round after round.
	workPerByte = 2000
	workBase    = 1 << 22
	// MaxDepth is how deep contextual lookups may call each other, as in
	// common readers.
	MaxDepth = 8
	// NoRequired stands where a language needs no feature.
	NoRequired = 0xFFFF
)

// Lookup types of GSUB, by their numbers.
const (
	SubSingle = 1 + iota
	SubMultiple
	SubAlternate
	SubLigature
	subContext
	subChain
	SubExtension
	SubReverse
)

// Lookup types of GPOS, by their numbers.
const (
	PosSingle = 1 + iota
	PosPair
	PosCursive
	PosMarkBase
	PosMarkLigature
	PosMarkMark
	posContext
	posChain
	PosExtension
)

// lookup flags
const (
	IgnoreBases      = 0x02
	IgnoreLigatures  = 0x04
	IgnoreMarks      = 0x08
	UseMarkFilterSet = 0x10
)

// Table is GSUB or GPOS opened for reading. It is for one goroutine.
type Table struct {
	View       sfnt.View
	Name       sfnt.Tag
	Gpos       bool
	Scripts    int // offset of the ScriptList, 0 for none
	Features   []Feature
	Lookups    []Lookup
	Variations []Variation

	Bad       bool // something lay outside
	Work      int
	coverages map[int][]GlyphID
	classdefs map[int]*Classes
}

// Feature is a feature of the FeatureList with the lookups it calls.
type Feature struct {
	Tag     sfnt.Tag
	Params  int // offset, 0 for none
	Lookups []int
}

// Lookup is a lookup of the LookupList: its type, flags and mark filtering set.
type Lookup struct {
	Kind, Flag, MarkSet int
	Subtables           []int // offsets, extensions resolved
}

// Variation replaces features where all conditions hold.
type Variation struct {
	Conditions []Condition
	Subs       []FeatureSub
}

// FeatureSub gives a feature other lookups.
type FeatureSub struct {
	Feature int
	Lookups []int
}

// Condition holds where an axis lies within a range of normalized coordinates,
// F2Dot14.
type Condition struct {
	Axis     int
	Min, Max int16
}

// Open reads the lists of a GSUB or GPOS table. The error wraps sfnt.ErrDamaged.
func Open(b []byte, tag sfnt.Tag) (*Table, error) {
	t := &Table{View: sfnt.View(b), Name: tag, Gpos: tag == table.TagGPOS, Work: workPerByte*len(b) + workBase,
		coverages: map[int][]GlyphID{}, classdefs: map[int]*Classes{}}
	if len(b) < 10 || t.U16(0) != 1 {
		return nil, fmt.Errorf("table `%s`: %w: it has no header of a version that exists", tag, errDamaged)
	}
	t.Scripts = t.U16(4)
	t.readFeatures(t.U16(6))
	t.readLookups(t.U16(8))
	if t.U16(2) >= 1 && len(b) >= 14 {
		t.readVariations(t.U32(10))
	}
	if t.Work < 0 {
		return nil, fmt.Errorf("table `%s`: %w", tag, ErrWork)
	}
	if t.Bad {
		return nil, fmt.Errorf("table `%s`: %w: its lists run past its end", tag, errDamaged)
	}
	return t, nil
}

// Err is what went wrong while reading, nil if nothing did.
func (t *Table) Err() error {
	switch {
	case t.Work < 0:
		return fmt.Errorf("table `%s`: %w", t.Name, ErrWork)
	case t.Bad:
		return fmt.Errorf("table `%s`: %w: a rule lies outside it", t.Name, errDamaged)
	}
	return nil
}

// U16 reads a number at an offset; 0 outside, which marks the table Bad.
func (t *Table) U16(at int) int {
	n, ok := t.View.U16(at)
	t.Bad = t.Bad || !ok
	return int(n)
}

// I16 reads a signed number as U16 does.
func (t *Table) I16(at int) int { return int(int16(t.U16(at))) }

// U32 reads a number of 32 bits as U16 does.
func (t *Table) U32(at int) int {
	n, ok := t.View.U32(at)
	t.Bad = t.Bad || !ok
	return int(n)
}

// Count reads a number of things of a size that follow at an offset; where they
// do not fit there are none.
func (t *Table) Count(at, follow, size int) int {
	n := t.U16(at)
	if _, ok := t.View.Sub(follow, n*size); !ok {
		t.Bad = true
		return 0
	}
	t.Work -= n + 1
	if t.Work < 0 {
		return 0
	}
	return n
}

// Numbers reads n numbers of 16 bits that lie one after another.
func (t *Table) Numbers(at, n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = t.U16(at + 2*i)
	}
	return out
}

func (t *Table) readFeatures(list int) {
	if list == 0 {
		return
	}
	for i := range t.Count(list, list+2, 6) {
		f := Feature{Tag: sfnt.Tag(t.U32(list + 2 + 6*i))}
		at := list + t.U16(list+6+6*i)
		if params := t.U16(at); params != 0 {
			f.Params = at + params
		}
		f.Lookups = t.Numbers(at+4, t.Count(at+2, at+4, 2))
		t.Features = append(t.Features, f)
	}
}

func (t *Table) readLookups(list int) {
	if list == 0 {
		return
	}
	extension := SubExtension
	if t.Gpos {
		extension = PosExtension
	}
	for i := range t.Count(list, list+2, 2) {
		at := list + t.U16(list+2+2*i)
		l := Lookup{Kind: t.U16(at), Flag: t.U16(at + 2)}
		n := t.Count(at+4, at+6, 2)
		if l.Flag&UseMarkFilterSet != 0 {
			l.MarkSet = t.U16(at + 6 + 2*n)
		}
		kind := l.Kind
		for k := range n {
			sub := at + t.U16(at+6+2*k)
			if kind == extension {
				l.Kind = t.U16(sub + 2)
				sub += t.U32(sub + 4)
			}
			l.Subtables = append(l.Subtables, sub)
		}
		t.Lookups = append(t.Lookups, l)
	}
}

func (t *Table) readVariations(at int) {
	if at == 0 {
		return
	}
	const maxVariations = 4096
	n := t.U32(at + 4)
	for i := range min(n, maxVariations) {
		var one Variation
		if offset := t.U32(at + 8 + 8*i); offset != 0 {
			set := at + offset
			for k := range t.Count(set, set+2, 4) {
				c := set + t.U32(set+2+4*k)
				if t.U16(c) != 1 {
					// A condition of a kind to come never holds.
					one.Conditions = append(one.Conditions, Condition{Axis: 0, Min: 1, Max: 0})
					continue
				}
				one.Conditions = append(one.Conditions, Condition{t.U16(c + 2), int16(t.I16(c + 4)), int16(t.I16(c + 6))})
			}
		}
		if offset := t.U32(at + 12 + 8*i); offset != 0 {
			list := at + offset
			for k := range t.Count(list+4, list+6, 6) {
				f := list + t.U32(list+6+6*k+2)
				one.Subs = append(one.Subs, FeatureSub{t.U16(list + 6 + 6*k), t.Numbers(f+4, t.Count(f+2, f+4, 2))})
			}
		}
		t.Variations = append(t.Variations, one)
	}
}

// FeatureTags lists the tags of the features in the order of the table.
func (t *Table) FeatureTags() []sfnt.Tag {
	tags := make([]sfnt.Tag, len(t.Features))
	for i, f := range t.Features {
		tags[i] = f.Tag
	}
	return tags
}

// Has reports whether the table has a feature with rules.
func (t *Table) Has(tag sfnt.Tag) bool {
	for _, f := range t.Features {
		if f.Tag == tag && len(f.Lookups) > 0 {
			return true
		}
	}
	return false
}

// SystemFeatures returns the features of a script's language, or of its usual
// one; of the script DFLT, or else latn, where the script has none.
func (t *Table) SystemFeatures(script, language sfnt.Tag) []int {
	if t.Scripts == 0 {
		return nil
	}
	find := func(tag sfnt.Tag) int {
		for i := range t.Count(t.Scripts, t.Scripts+2, 6) {
			if sfnt.Tag(t.U32(t.Scripts+2+6*i)) == tag {
				return t.Scripts + t.U16(t.Scripts+6+6*i)
			}
		}
		return 0
	}
	at := 0
	for _, tag := range []sfnt.Tag{script, sfnt.MakeTag("DFLT"), sfnt.MakeTag("dflt"), sfnt.MakeTag("latn")} {
		if at = find(tag); at != 0 {
			break
		}
	}
	if at == 0 {
		return nil
	}
	system := 0
	if usual := t.U16(at); usual != 0 {
		system = at + usual
	}
	for i := range t.Count(at+2, at+4, 6) {
		if sfnt.Tag(t.U32(at+4+6*i)) == language {
			system = at + t.U16(at+8+6*i)
		}
	}
	if system == 0 {
		return nil
	}
	out := t.Numbers(system+6, t.Count(system+4, system+6, 2))
	if need := t.U16(system + 2); need != NoRequired {
		out = append(out, need)
	}
	return out
}
