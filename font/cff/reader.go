package cff

import (
	"fmt"
	"math"

	"sparecrate/font/cff/internal/dict"
	"sparecrate/font/sfnt"
)

// Table is a CFF or CFF2 table opened for reading. It keeps slices of the
// bytes it was parsed from.
type Table struct {
	Version int // 1 for `CFF `, 2 for `CFF2`
	CID     bool
	// Name is the PostScript name, empty in CFF2.
	Name string

	top         dict.Dict
	strings     dict.Index
	global      dict.Index
	charstrings dict.Index
	fonts       []private
	selector    func(glyph int) int // the number of a glyph's private dictionary
	topRaw      []byte              // the top dictionary
	fontRaw     [][]byte            // the dictionaries of FDArray
	v           sfnt.View
	charset     []uint16 // names (SIDs) or CIDs of glyphs 0, 1, 2 ..., read when asked for
	regions     []int    // CFF2: regions of each set of variation data
	steps       int      // work left, over all glyphs
}

// private is what charstrings of one font of the table share.
type private struct {
	subrs                 dict.Index
	defaultWidth, nominal float64
	hinted                bool
	variation             int    // CFF2: the usual set of variation data
	raw                   []byte // the private dictionary
}

// Parse opens a table: version 1 by its first byte, or version 2. It reads the
// dictionaries, not the outlines. The error wraps sfnt.ErrDamaged.
func Parse(b []byte) (*Table, error) {
	v := sfnt.View(b)
	major, _ := v.U8(0)
	header, ok := v.U8(2)
	if !ok || major != 1 && major != 2 {
		return nil, fmt.Errorf("%w: the header names no version that exists", errDamaged)
	}
	t := &Table{Version: int(major), steps: stepsPerByte*len(b) + 1<<16}
	at := int(header)
	var err error
	t.v = v
	if major == 2 {
		size, ok := v.U16(3)
		if !ok {
			return nil, fmt.Errorf("%w: it ends inside its header", errDamaged)
		}
		raw, ok := v.Sub(at, int(size))
		if !ok {
			return nil, fmt.Errorf("%w: its top dictionary runs past its end", errDamaged)
		}
		t.topRaw = raw
		if t.top, err = dict.Read(raw); err != nil {
			return nil, err
		}
		if t.global, _, err = dict.ReadIndex(v, at+int(size), true); err != nil {
			return nil, err
		}
	} else if err = t.readHeaders(v, at); err != nil {
		return nil, err
	}
	if t.charstrings, _, err = dict.ReadIndex(v, t.top.Offset(opCharStrings), t.Version == 2); err != nil {
		return nil, err
	}
	if t.charstrings.Count == 0 || t.charstrings.Count > math.MaxUint16 {
		return nil, fmt.Errorf("%w: it holds %d glyphs", errDamaged, t.charstrings.Count)
	}
	if t.Version == 2 {
		t.readRegions(v)
	}
	return t, t.readFonts(v)
}

// readHeaders reads what stands before the offsets of version 1: names, the
// top dictionary, strings and global subroutines.
func (t *Table) readHeaders(v sfnt.View, at int) error {
	names, at, err := dict.ReadIndex(v, at, false)
	if err != nil {
		return err
	}
	if name, ok := names.At(0); ok {
		t.Name = string(name)
	}
	tops, at, err := dict.ReadIndex(v, at, false)
	if err != nil {
		return err
	}
	raw, ok := tops.At(0)
	if !ok {
		return fmt.Errorf("%w: it has no top dictionary", errDamaged)
	}
	t.topRaw = raw
	if t.top, err = dict.Read(raw); err != nil {
		return err
	}
	if kind := t.top.Number(opCharType, 2); kind != 2 {
		return fmt.Errorf("%w: its charstrings are of the type %g, which no reader of fonts takes", errDamaged, kind)
	}
	if t.strings, at, err = dict.ReadIndex(v, at, false); err != nil {
		return err
	}
	t.global, _, err = dict.ReadIndex(v, at, false)
	return err
}

// readFonts reads the private dictionaries: one, or one a font of FDArray.
func (t *Table) readFonts(v sfnt.View) error {
	t.selector = func(int) int { return 0 }
	_, t.CID = t.top[opROS]
	if _, several := t.top[opFDArray]; !several {
		p, err := t.readPrivate(v, t.top)
		t.fonts = []private{p}
		return err
	}
	array, _, err := dict.ReadIndex(v, t.top.Offset(opFDArray), t.Version == 2)
	if err != nil {
		return err
	}
	if array.Count == 0 || array.Count > maxFonts {
		return fmt.Errorf("%w: it holds %d private dictionaries", errDamaged, array.Count)
	}
	for i := range array.Count {
		raw, _ := array.At(i)
		d, err := dict.Read(raw)
		if err != nil {
			return err
		}
		p, err := t.readPrivate(v, d)
		if err != nil {
			return err
		}
		t.fonts, t.fontRaw = append(t.fonts, p), append(t.fontRaw, raw)
	}
	if _, ok := t.top[opFDSelect]; ok {
		t.selector = selector(v, t.top.Offset(opFDSelect))
	}
	return nil
}

func (t *Table) readPrivate(v sfnt.View, font dict.Dict) (private, error) {
	where := font[opPrivate]
	if len(where) < 2 || where[0] == 0 {
		return private{}, nil
	}
	at := int(where[1])
	raw, ok := v.Sub(at, int(where[0]))
	if !ok {
		return private{}, fmt.Errorf("%w: a private dictionary lies outside it", errDamaged)
	}
	d, err := dict.Read(raw)
	if err != nil {
		return private{}, err
	}
	p := private{defaultWidth: d.Number(opDefaultWidth, 0), nominal: d.Number(opNominalWidth, 0), variation: d.Offset(opVSIndex), raw: raw}
	for _, op := range []int{opBlueValues, opStdHW, opStdVW} {
		p.hinted = p.hinted || len(d[op]) > 0
	}
	if rel := d.Offset(opSubrs); rel != 0 {
		p.subrs, _, err = dict.ReadIndex(v, at+rel, t.Version == 2)
	}
	return p, err
}

// selector reads FDSelect (TN 5176, section 19; OpenType `CFF2`, formats 0, 3, 4).
func selector(v sfnt.View, at int) func(int) int {
	format, _ := v.U8(at)
	switch format {
	case 0:
		return func(g int) int { n, _ := v.U8(at + 1 + g); return int(n) }
	case 3:
		count, _ := v.U16(at + 1)
		return func(g int) int {
			return ranged(int(count), g, func(i int) (int, int) {
				first, _ := v.U16(at + 3 + 3*i)
				fd, _ := v.U8(at + 5 + 3*i)
				return int(first), int(fd)
			})
		}
	case 4:
		count, _ := v.U32(at + 1)
		return func(g int) int {
			return ranged(min(int(count), math.MaxUint16), g, func(i int) (int, int) {
				first, _ := v.U32(at + 5 + 6*i)
				fd, _ := v.U16(at + 9 + 6*i)
				return int(first), int(fd)
			})
		}
	}
	return func(int) int { return 0 }
}

// ranged finds the last of count ranges that starts at or before g.
func ranged(count, g int, entry func(i int) (first, value int)) int {
	low, high := 0, count
	for low < high {
		mid := (low + high) / 2
		if first, _ := entry(mid); first <= g {
			low = mid + 1
		} else {
			high = mid
		}
	}
	if low == 0 {
		return 0
	}
	_, value := entry(low - 1)
	return value
}

// readCharset reads the names of glyphs; the sets that stand for a number under
// three are fixed ones, of which only the first occurs in fonts of today.
func (t *Table) readCharset(v sfnt.View) {
	glyphs := t.charstrings.Count
	t.charset = make([]uint16, 1, glyphs)
	at := t.top.Offset(opCharset)
	if at < 3 {
		for i := 1; i < glyphs; i++ {
			t.charset = append(t.charset, uint16(i))
		}
		return
	}
	format, _ := v.U8(at)
	at++
	for len(t.charset) < glyphs {
		first, ok := v.U16(at)
		if !ok {
			return
		}
		at += 2
		left := 0
		switch format {
		case 1:
			n, _ := v.U8(at)
			left, at = int(n), at+1
		case 2:
			n, _ := v.U16(at)
			left, at = int(n), at+2
		}
		for i := 0; i <= left && len(t.charset) < glyphs; i++ {
			t.charset = append(t.charset, first+uint16(i))
		}
	}
}

// readRegions counts the regions of each set of variation data, which `blend`
// needs to tell defaults from differences (OpenType, "Item variation store").
func (t *Table) readRegions(v sfnt.View) {
	at := t.top.Offset(opVariations)
	if at == 0 {
		return
	}
	at += 2 // the length of the store
	count, _ := v.U16(at + 6)
	for i := range int(count) {
		offset, ok := v.U32(at + 8 + 4*i)
		if !ok {
			return
		}
		n, _ := v.U16(at + int(offset) + 4)
		t.regions = append(t.regions, int(n))
	}
}

// Glyphs is how many glyphs the table holds.
func (t *Table) Glyphs() int { return t.charstrings.Count }

// Hinted reports whether the table guides the drawing at small sizes: alignment
// zones or standard stems in a private dictionary.
func (t *Table) Hinted() bool {
	for _, f := range t.fonts {
		if f.hinted {
			return true
		}
	}
	return false
}

// names returns the charset, read when it is first asked for; none in CFF2.
func (t *Table) names() []uint16 {
	if t.charset == nil && t.Version == 1 {
		t.readCharset(t.v)
	}
	return t.charset
}

// GlyphName returns a glyph's name in a name-keyed table of version 1, empty for
// one of the standard names or where there is none.
func (t *Table) GlyphName(glyph int) string {
	names := t.names()
	if t.CID || glyph < 0 || glyph >= len(names) || int(names[glyph]) < standardStrings {
		return ""
	}
	name, _ := t.strings.At(int(names[glyph]) - standardStrings)
	return string(name)
}
