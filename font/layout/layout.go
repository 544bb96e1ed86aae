// Package layout understands the rules that set glyphs: the tables GSUB and
// GPOS, and the classes of GDEF, of the OpenType specification 1.9.1
// ("OpenType Layout common table formats" and the chapters of the tables).
//
// It does three things with them. Close finds every glyph that rules can make
// of a set of glyphs. Rewrite writes a table again for fewer or renumbered
// glyphs, fewer features, or with its variations finished or changed. A Setter
// applies rules to a line of glyphs.
//
// Reading is checked everywhere. Lists that a table names over and over are
// bounded by work in proportion to its size.
package layout

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
	// ErrSize says that rules cannot be written within the reach of 16-bit offsets.
	ErrSize = errors.New("the layout rules are too large to be written")
)

const (
	// workPerByte bounds the steps taken through a table; real ones take up to
	// about fifty where rules are closed over round after round.
	workPerByte = 2000
	workBase    = 1 << 22
	// maxDepth is how deep contextual lookups may call each other, as in
	// common readers.
	maxDepth   = 8
	noRequired = 0xFFFF
)

// Lookup types of GSUB, by their numbers.
const (
	subSingle = 1 + iota
	subMultiple
	subAlternate
	subLigature
	subContext
	subChain
	subExtension
	subReverse
)

// Lookup types of GPOS, by their numbers.
const (
	posSingle = 1 + iota
	posPair
	posCursive
	posMarkBase
	posMarkLigature
	posMarkMark
	posContext
	posChain
	posExtension
)

// lookup flags
const (
	ignoreBases      = 0x02
	ignoreLigatures  = 0x04
	ignoreMarks      = 0x08
	useMarkFilterSet = 0x10
)

// Table is GSUB or GPOS opened for reading. It is for one goroutine.
type Table struct {
	v          sfnt.View
	name       sfnt.Tag
	gpos       bool
	scripts    int // offset of the ScriptList, 0 for none
	features   []feature
	lookups    []lookup
	variations []variation

	bad       bool // something lay outside
	work      int
	coverages map[int][]GlyphID
	classdefs map[int]*classes
}

type feature struct {
	tag     sfnt.Tag
	params  int // offset, 0 for none
	lookups []int
}

type lookup struct {
	kind, flag, markSet int
	subtables           []int // offsets, extensions resolved
}

// variation replaces features where all conditions hold.
type variation struct {
	conditions []Condition
	subs       []featureSub
}

type featureSub struct {
	feature int
	lookups []int
}

// Condition holds where an axis lies within a range of normalized coordinates,
// F2Dot14.
type Condition struct {
	Axis     int
	Min, Max int16
}

// Open reads the lists of a GSUB or GPOS table. The error wraps sfnt.ErrDamaged.
func Open(b []byte, tag sfnt.Tag) (*Table, error) {
	t := &Table{v: sfnt.View(b), name: tag, gpos: tag == table.TagGPOS, work: workPerByte*len(b) + workBase,
		coverages: map[int][]GlyphID{}, classdefs: map[int]*classes{}}
	if len(b) < 10 || t.u16(0) != 1 {
		return nil, fmt.Errorf("table `%s`: %w: it has no header of a version that exists", tag, errDamaged)
	}
	t.scripts = t.u16(4)
	t.readFeatures(t.u16(6))
	t.readLookups(t.u16(8))
	if t.u16(2) >= 1 && len(b) >= 14 {
		t.readVariations(t.u32(10))
	}
	if t.work < 0 {
		return nil, fmt.Errorf("table `%s`: %w", tag, ErrWork)
	}
	if t.bad {
		return nil, fmt.Errorf("table `%s`: %w: its lists run past its end", tag, errDamaged)
	}
	return t, nil
}

// err is what went wrong while reading, nil if nothing did.
func (t *Table) err() error {
	switch {
	case t.work < 0:
		return fmt.Errorf("table `%s`: %w", t.name, ErrWork)
	case t.bad:
		return fmt.Errorf("table `%s`: %w: a rule lies outside it", t.name, errDamaged)
	}
	return nil
}

func (t *Table) u16(at int) int {
	n, ok := t.v.U16(at)
	t.bad = t.bad || !ok
	return int(n)
}

func (t *Table) i16(at int) int { return int(int16(t.u16(at))) }

func (t *Table) u32(at int) int {
	n, ok := t.v.U32(at)
	t.bad = t.bad || !ok
	return int(n)
}

// count reads a number of things of a size that follow at an offset; where they
// do not fit there are none.
func (t *Table) count(at, follow, size int) int {
	n := t.u16(at)
	if _, ok := t.v.Sub(follow, n*size); !ok {
		t.bad = true
		return 0
	}
	t.work -= n + 1
	if t.work < 0 {
		return 0
	}
	return n
}

func (t *Table) numbers(at, n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = t.u16(at + 2*i)
	}
	return out
}

func (t *Table) readFeatures(list int) {
	if list == 0 {
		return
	}
	for i := range t.count(list, list+2, 6) {
		f := feature{tag: sfnt.Tag(t.u32(list + 2 + 6*i))}
		at := list + t.u16(list+6+6*i)
		if params := t.u16(at); params != 0 {
			f.params = at + params
		}
		f.lookups = t.numbers(at+4, t.count(at+2, at+4, 2))
		t.features = append(t.features, f)
	}
}

func (t *Table) readLookups(list int) {
	if list == 0 {
		return
	}
	extension := subExtension
	if t.gpos {
		extension = posExtension
	}
	for i := range t.count(list, list+2, 2) {
		at := list + t.u16(list+2+2*i)
		l := lookup{kind: t.u16(at), flag: t.u16(at + 2)}
		n := t.count(at+4, at+6, 2)
		if l.flag&useMarkFilterSet != 0 {
			l.markSet = t.u16(at + 6 + 2*n)
		}
		kind := l.kind
		for k := range n {
			sub := at + t.u16(at+6+2*k)
			if kind == extension {
				l.kind = t.u16(sub + 2)
				sub += t.u32(sub + 4)
			}
			l.subtables = append(l.subtables, sub)
		}
		t.lookups = append(t.lookups, l)
	}
}

func (t *Table) readVariations(at int) {
	if at == 0 {
		return
	}
	const maxVariations = 4096
	n := t.u32(at + 4)
	for i := range min(n, maxVariations) {
		var one variation
		if offset := t.u32(at + 8 + 8*i); offset != 0 {
			set := at + offset
			for k := range t.count(set, set+2, 4) {
				c := set + t.u32(set+2+4*k)
				if t.u16(c) != 1 {
					// A condition of a kind to come never holds.
					one.conditions = append(one.conditions, Condition{Axis: 0, Min: 1, Max: 0})
					continue
				}
				one.conditions = append(one.conditions, Condition{t.u16(c + 2), int16(t.i16(c + 4)), int16(t.i16(c + 6))})
			}
		}
		if offset := t.u32(at + 12 + 8*i); offset != 0 {
			list := at + offset
			for k := range t.count(list+4, list+6, 6) {
				f := list + t.u32(list+6+6*k+2)
				one.subs = append(one.subs, featureSub{t.u16(list + 6 + 6*k), t.numbers(f+4, t.count(f+2, f+4, 2))})
			}
		}
		t.variations = append(t.variations, one)
	}
}

// Features lists the tags of the features in the order of the table.
func (t *Table) Features() []sfnt.Tag {
	tags := make([]sfnt.Tag, len(t.features))
	for i, f := range t.features {
		tags[i] = f.tag
	}
	return tags
}

// Has reports whether the table has a feature with rules.
func (t *Table) Has(tag sfnt.Tag) bool {
	for _, f := range t.features {
		if f.tag == tag && len(f.lookups) > 0 {
			return true
		}
	}
	return false
}
