package cff

import (
	"encoding/binary"
	"fmt"
	"math"
	"slices"
	"strings"

	"sparecrate/font/cff/internal/dict"
)

// Subset writes the table again with the glyphs given, in that order, which
// must be ascending and start with 0. Outlines, hints and names stay as they
// are; subroutines and private dictionaries that nothing uses go, and the rest
// is renumbered. The old encoding, which fonts in OpenType do not use, goes
// too. The error wraps sfnt.ErrDamaged or ErrTooDeep.
func (t *Table) Subset(glyphs []int) ([]byte, error) {
	s := &subset{t: t, glyphs: glyphs, trace: &trace{sites: map[codeKey]map[int]site{}}, numbers: map[codeKey]int{}, locals: map[int][]int{}}
	for _, g := range glyphs {
		m, err := t.machine(g)
		if err != nil {
			return nil, err
		}
		m.trace = s.trace
		if err := m.execute(); err != nil {
			return nil, err
		}
	}
	s.chooseFonts()
	s.chooseSubrs()
	return s.encode()
}

type subset struct {
	t      *Table
	glyphs []int
	trace  *trace

	fonts   []int         // private dictionaries that stay, by old number
	globals []int         // global subroutines that stay, by old number
	locals  map[int][]int // by font
	numbers map[codeKey]int
	strings stringPool
	renamed map[int]string // new strings, by operator
	oldName string         // the PostScript name before
}

func (s *subset) chooseFonts() {
	for _, g := range s.glyphs {
		if f := s.t.selector(g); !slices.Contains(s.fonts, f) {
			s.fonts = append(s.fonts, f)
		}
	}
	slices.Sort(s.fonts)
}

// chooseSubrs numbers the subroutines that are called, in the old order.
func (s *subset) chooseSubrs() {
	used := map[codeKey]bool{}
	for _, calls := range s.trace.sites {
		for _, c := range calls {
			used[c.to] = true
		}
	}
	pick := func(kind codeKind, font, count int) (list []int) {
		for i := range count {
			key := codeKey{kind, font, i}
			if used[key] || s.trace.computed {
				s.numbers[key] = len(list)
				list = append(list, i)
			}
		}
		return list
	}
	s.globals = pick(codeGlobal, 0, s.t.global.Count)
	for _, f := range s.fonts {
		s.locals[f] = pick(codeLocal, f, s.t.fonts[f].subrs.Count)
	}
}

// code returns a piece of code with its calls renumbered.
func (s *subset) code(key codeKey, old []byte) []byte {
	calls := s.trace.sites[key]
	if len(calls) == 0 || s.trace.computed {
		return old
	}
	places := make([]int, 0, len(calls))
	for at := range calls {
		places = append(places, at)
	}
	slices.Sort(places)
	out := make([]byte, 0, len(old))
	last := 0
	for _, at := range places {
		c := calls[at]
		count := len(s.globals)
		if c.to.kind == codeLocal {
			count = len(s.locals[c.to.font])
		}
		out = append(out, old[last:c.from]...)
		out = appendCharInt(out, s.numbers[c.to]-bias(count))
		last = at
	}
	return append(out, old[last:]...)
}

func (s *subset) subrs(kind codeKind, font int, from dict.Index, list []int) []byte {
	items := make([][]byte, len(list))
	for i, n := range list {
		old, _ := from.At(n)
		items[i] = s.code(codeKey{kind, font, n}, old)
	}
	return s.index(items)
}

func (s *subset) index(items [][]byte) []byte {
	b := dict.EncodeIndex(items)
	if s.t.Version == 2 {
		return append(binary.BigEndian.AppendUint32(nil, uint32(len(items))), b[2:]...)
	}
	return b
}

// private returns a private dictionary with its subroutines behind it: the
// dictionary's length, and all bytes.
func (s *subset) private(font int) (int, []byte, error) {
	p := s.t.fonts[font]
	entries, err := dict.Split(p.raw)
	if err != nil {
		return 0, nil, err
	}
	var out []byte
	for _, e := range entries {
		if e.Op != opSubrs {
			out = append(out, e.Raw...)
		}
	}
	if len(s.locals[font]) == 0 {
		return len(out), out, nil
	}
	// The offset counts from the start of the dictionary, of which it is the last entry.
	size := len(out) + 6
	out = append(dict.AppendInt32(out, size), opSubrs)
	return size, append(out, s.subrs(codeLocal, font, p.subrs, s.locals[font])...), nil
}

func (s *subset) encode() ([]byte, error) {
	t := s.t
	charstrings := make([][]byte, len(s.glyphs))
	for i, g := range s.glyphs {
		old, _ := t.charstrings.At(g)
		charstrings[i] = s.code(codeKey{codeGlyph, 0, g}, old)
	}
	charset := s.charset()
	top, err := s.dict(t.topRaw)
	if err != nil {
		return nil, err
	}
	if t.Version == 1 {
		top = append(top, dict.Entry{Op: opCharset, Placed: true})
	}
	fonts := make([][]dict.Entry, len(t.fontRaw))
	for _, f := range s.fonts {
		if f < len(t.fontRaw) {
			if fonts[f], err = s.dict(t.fontRaw[f]); err != nil {
				return nil, err
			}
		}
	}
	global := s.subrs(codeGlobal, 0, t.global, s.globals)
	var store []byte
	if at := t.top.Offset(opVariations); at != 0 {
		size, _ := t.v.U16(at)
		store, _ = t.v.Sub(at, int(size)+2)
	}
	selects := s.selects()
	privates := make([][]byte, len(s.fonts))
	sizes := make([]int, len(s.fonts))
	for i, f := range s.fonts {
		if sizes[i], privates[i], err = s.private(f); err != nil {
			return nil, err
		}
	}
	glyphs := s.index(charstrings)
	several := len(t.fontRaw) > 0

	// Offsets take five bytes whatever they are, so places follow from sizes.
	privateAt := make([]int, len(s.fonts))
	array := func() []byte {
		if !several {
			return nil
		}
		items := make([][]byte, len(s.fonts))
		for i, f := range s.fonts {
			items[i] = dict.Join(fonts[f], func(op int) []byte {
				if op == opPrivate {
					return dict.AppendInt32(dict.AppendInt32(nil, sizes[i]), privateAt[i])
				}
				return nil
			})
		}
		return s.index(items)
	}
	var storeAt, charsetAt, selectAt, glyphsAt, arrayAt int
	head := func() []byte {
		d := dict.Join(top, func(op int) []byte {
			switch op {
			case opCharset:
				return dict.AppendInt32(nil, charsetAt)
			case opFDSelect:
				return dict.AppendInt32(nil, selectAt)
			case opCharStrings:
				return dict.AppendInt32(nil, glyphsAt)
			case opFDArray:
				return dict.AppendInt32(nil, arrayAt)
			case opVariations:
				return dict.AppendInt32(nil, storeAt)
			case opPrivate:
				return dict.AppendInt32(dict.AppendInt32(nil, sizes[0]), privateAt[0])
			}
			return nil
		})
		if t.Version == 2 {
			out := []byte{2, 0, 5, byte(len(d) >> 8), byte(len(d))}
			return append(append(out, d...), global...)
		}
		out := append([]byte{1, 0, 4, 4}, dict.EncodeIndex([][]byte{[]byte(t.Name)})...)
		out = append(out, dict.EncodeIndex([][]byte{d})...)
		out = append(out, dict.EncodeIndex(s.strings.list)...)
		return append(out, global...)
	}
	at := len(head())
	for _, piece := range []struct {
		place *int
		b     []byte
	}{{&storeAt, store}, {&charsetAt, charset}, {&selectAt, selects}, {&glyphsAt, glyphs}, {&arrayAt, array()}} {
		*piece.place = at
		at += len(piece.b)
	}
	for i, p := range privates {
		privateAt[i] = at
		at += len(p)
	}
	out := head()
	for _, piece := range append([][]byte{store, charset, selects, glyphs, array()}, privates...) {
		out = append(out, piece...)
	}
	if len(out) != at {
		return nil, fmt.Errorf("%w: it does not come out as computed", errDamaged)
	}
	return out, nil
}

// dict takes a dictionary apart, with its strings in the new pool and without
// what no longer holds.
func (s *subset) dict(raw []byte) ([]dict.Entry, error) {
	entries, err := dict.Split(raw)
	if err != nil {
		return nil, err
	}
	var out []dict.Entry
	for _, e := range entries {
		switch e.Op {
		case opEncoding, opUniqueID, opXUID:
			continue
		case opVersion, opNotice, opFullName, opFamilyName, opWeight, opCopyright, opPostScript, opBaseFont, opFontName:
			if s.t.Version == 1 && len(e.Operands) == 1 {
				e.Raw = dict.AppendOperator(dict.AppendInt(nil, s.name(e.Op, int(e.Operands[0]))), e.Op)
			}
		case opROS:
			if len(e.Operands) == 3 {
				b := dict.AppendInt(dict.AppendInt(nil, s.string(int(e.Operands[0]))), s.string(int(e.Operands[1])))
				e.Raw = dict.AppendOperator(dict.AppendInt(b, int(e.Operands[2])), e.Op)
			}
		case opCharset:
			continue // the top dictionary gets its own
		case opFDSelect:
			if !s.selecting() {
				continue
			}
			e.Placed = true
		case opPrivate, opCharStrings, opFDArray, opVariations:
			e.Placed = true
		}
		out = append(out, e)
	}
	return out, nil
}

// string returns the new number of a string.
func (s *subset) string(sid int) int {
	if sid < standardStrings {
		return sid
	}
	b, _ := s.t.strings.At(sid - standardStrings)
	return s.strings.number(string(b))
}

// stringPool numbers strings behind the standard ones.
type stringPool struct {
	list  [][]byte
	known map[string]int
}

func (p *stringPool) number(text string) int {
	n, ok := p.known[text]
	if !ok {
		if p.known == nil {
			p.known = map[string]int{}
		}
		n = standardStrings + len(p.list)
		p.known[text] = n
		p.list = append(p.list, []byte(text))
	}
	return n
}

// charset writes the names or CIDs of the glyphs (TN 5176, section 13), none in
// CFF2.
func (s *subset) charset() []byte {
	if s.t.Version == 2 {
		return nil
	}
	names := s.t.names()
	var ids []int
	for _, g := range s.glyphs[1:] {
		id := 0
		if g < len(names) {
			id = int(names[g])
		}
		if !s.t.CID {
			id = s.string(id)
		}
		ids = append(ids, id)
	}
	out := []byte{2}
	for i := 0; i < len(ids); {
		n := 1
		for i+n < len(ids) && ids[i+n] == ids[i]+n {
			n++
		}
		out = binary.BigEndian.AppendUint16(out, uint16(ids[i]))
		out = binary.BigEndian.AppendUint16(out, uint16(n-1))
		i += n
	}
	if len(out) <= 2*len(ids) {
		return out
	}
	out = []byte{0}
	for _, id := range ids {
		out = binary.BigEndian.AppendUint16(out, uint16(id))
	}
	return out
}

// selecting reports whether glyphs name their dictionary; CFF2 does without
// where there is one.
func (s *subset) selecting() bool {
	_, ok := s.t.top[opFDSelect]
	return ok && (len(s.fonts) > 1 || s.t.Version == 1)
}

// selects writes FDSelect in format 3, none where there is one dictionary by
// nature.
func (s *subset) selects() []byte {
	if !s.selecting() {
		return nil
	}
	out := []byte{3, 0, 0}
	ranges, last := 0, -1
	for i, g := range s.glyphs {
		f := slices.Index(s.fonts, s.t.selector(g))
		if f != last {
			out = binary.BigEndian.AppendUint16(out, uint16(i))
			out = append(out, byte(f))
			ranges++
			last = f
		}
	}
	binary.BigEndian.PutUint16(out[1:], uint16(ranges))
	return binary.BigEndian.AppendUint16(out, uint16(min(len(s.glyphs), math.MaxUint16)))
}

// Rename writes a table of version 1 with other names: for PostScript, full and
// of the family. The private dictionaries of a table for many characters keep
// what distinguishes their names. The error wraps sfnt.ErrDamaged.
func Rename(b []byte, postScript, full, family string) ([]byte, error) {
	t, err := Parse(b)
	if err != nil {
		return nil, err
	}
	if t.Version != 1 {
		return b, nil
	}
	s := &subset{t: t, trace: &trace{computed: true}, numbers: map[codeKey]int{}, locals: map[int][]int{}, renamed: map[int]string{}}
	s.renamed[opFullName], s.renamed[opFamilyName] = full, family
	s.oldName = t.Name
	t.Name = postScript
	for g := range t.Glyphs() {
		s.glyphs = append(s.glyphs, g)
	}
	for f := range t.fonts {
		s.fonts = append(s.fonts, f)
	}
	s.chooseSubrs()
	return s.encode()
}

// name returns the number of the string of an entry, a new name where it has one.
func (s *subset) name(op, sid int) int {
	if name, ok := s.renamed[op]; ok {
		return s.strings.number(name)
	}
	if op == opFontName && s.oldName != "" {
		old, _ := s.t.strings.At(sid - standardStrings)
		if rest, ok := strings.CutPrefix(string(old), s.oldName); ok {
			return s.strings.number(s.t.Name + rest)
		}
	}
	return s.string(sid)
}
