// Package unitscale puts a face on a finer grid: every number in font units, and the
// number of units in an em, becomes so many times as large. Nothing looks
// different; but what is rounded to whole units afterwards, when a face is
// pinned or retyped, is rounded to less.
package unitscale

import (
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"slices"

	"sparecrate/font/glyf"
	"sparecrate/font/layout"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/font/variation"
)

// What a caller may want to tell apart.
var (
	// ErrUnits says that a table holds font units in a form that is not known.
	ErrUnits = errors.New("the font cannot be put on a finer grid")
	// ErrSize says that a number would grow beyond what its field holds.
	ErrSize = errors.New("the numbers of the font are too large for a finer grid")
)

// Enough is the number of units in an em at which rounding is not seen: half a
// unit is a fortieth of a pixel at 200 pixels.
const Enough = 4000

// Factor says how many times finer a grid has to be to have Enough units: a
// power of two, 1 where it has.
func Factor(unitsPerEm int) int {
	k := 1
	for unitsPerEm > 0 && unitsPerEm*k < Enough {
		k *= 2
	}
	return k
}

// fields are the places of 16-bit numbers in font units, by table; those of
// OS/2 as far as the table goes.
var fields = map[sfnt.Tag][]int{
	table.TagHead: {36, 38, 40, 42},
	table.TagHhea: {4, 6, 8, 12, 14, 16, 22},
	tagVhea:       {4, 6, 8, 12, 14, 16, 22},
	table.TagOS2:  {2, 10, 12, 14, 16, 18, 20, 22, 24, 26, 28, 68, 70, 72, 86, 88},
	table.TagPost: {8, 10},
}

// unsigned are those that count from 0 to 65535.
var unsigned = map[sfnt.Tag][]int{
	table.TagHead: {18},
	table.TagHhea: {10},
	tagVhea:       {10},
	table.TagOS2:  {74, 76},
}

var (
	tagVhea = sfnt.MakeTag("vhea")
	tagVmtx = sfnt.MakeTag("vmtx")
	tagVORG = sfnt.MakeTag("VORG")
	tagCvt  = sfnt.MakeTag("cvt ")
	tagKern = sfnt.MakeTag("kern")
	tagBASE = sfnt.MakeTag("BASE")
	tagMATH = sfnt.MakeTag("MATH")
	tagCOLR = sfnt.MakeTag("COLR")
)

// unknown are tables with font units in forms that are left alone, and so
// cannot be kept.
var unknown = []sfnt.Tag{
	sfnt.MakeTag("SVG "), sfnt.MakeTag("JSTF"), sfnt.MakeTag("kerx"), sfnt.MakeTag("just"), sfnt.MakeTag("lcar"),
	sfnt.MakeTag("opbd"), sfnt.MakeTag("trak"), sfnt.MakeTag("bsln"), sfnt.MakeTag("Glat"), sfnt.MakeTag("VARC"),
}

// Finer puts a face, which is not changed, on a grid so many times finer, all but
// PostScript outlines: readers cut those off at whole units (cff.Whole), so a
// finer grid would draw them otherwise; package retype draws them anew. The error
// wraps ErrUnits, ErrSize or sfnt.ErrDamaged.
func Finer(f *sfnt.Font, times int) (*sfnt.Font, error) {
	if times < 1 {
		return nil, fmt.Errorf("%w: %d times", ErrSize, times)
	}
	s := &scaler{font: f, times: times, made: map[sfnt.Tag][]byte{}}
	for _, tag := range unknown {
		if f.Has(tag) {
			return nil, fmt.Errorf("%w: its table `%s` cannot be changed", ErrUnits, tag)
		}
	}
	if version, ok := sfnt.View(f.Table(tagCOLR)).U16(0); ok && version > 0 {
		return nil, fmt.Errorf("%w: its colors are pictures of their own (`COLR` version %d)", ErrUnits, version)
	}
	for _, step := range []func() error{s.numbers, s.outlines, s.variations, s.layout, s.kerning, s.baselines, s.mathematics} {
		if err := step(); err != nil {
			return nil, err
		}
	}
	if s.outgrown {
		return nil, ErrSize
	}
	out := &sfnt.Font{Flavor: f.Flavor}
	for _, t := range f.Tables {
		if b, ok := s.made[t.Tag]; ok {
			t = sfnt.Table{Tag: t.Tag, Data: b}
		}
		if len(t.Data) == 0 {
			continue // rules without effect
		}
		out.Tables = append(out.Tables, t)
	}
	return out, nil
}

// scaler scales one face.
type scaler struct {
	font     *sfnt.Font
	times    int
	made     map[sfnt.Tag][]byte
	outgrown bool
}

func damaged(tag sfnt.Tag, err error) error {
	return fmt.Errorf("%w: table `%s`: %w", sfnt.ErrDamaged, tag, err)
}

// signed scales a 16-bit number in place.
func (s *scaler) signed(b []byte, at int) {
	n := int(int16(binary.BigEndian.Uint16(b[at:]))) * s.times
	s.outgrown = s.outgrown || n != int(int16(n))
	binary.BigEndian.PutUint16(b[at:], uint16(n))
}

func (s *scaler) unsigned(b []byte, at int) {
	n := int(binary.BigEndian.Uint16(b[at:])) * s.times
	s.outgrown = s.outgrown || n > math.MaxUint16
	binary.BigEndian.PutUint16(b[at:], uint16(n))
}

// numbers scales the fields of tables that are lists of numbers.
func (s *scaler) numbers() error {
	edit := func(tag sfnt.Tag, do func(b []byte)) {
		if b := s.font.Table(tag); len(b) > 0 {
			b = slices.Clone(b)
			do(b)
			s.made[tag] = b
		}
	}
	for tag, places := range fields {
		edit(tag, func(b []byte) {
			for _, at := range places {
				if at+2 <= len(b) {
					s.signed(b, at)
				}
			}
			for _, at := range unsigned[tag] {
				if at+2 <= len(b) {
					s.unsigned(b, at)
				}
			}
		})
	}
	if head := s.made[table.TagHead]; len(head) < 54 {
		return damaged(table.TagHead, table.ErrShort)
	} else if binary.BigEndian.Uint16(head[18:]) > 16384 {
		s.outgrown = true
	}
	for list, header := range map[sfnt.Tag]sfnt.Tag{table.TagHmtx: table.TagHhea, tagVmtx: tagVhea} {
		long, _ := sfnt.View(s.font.Table(header)).U16(34)
		edit(list, func(b []byte) {
			for at := 0; at+2 <= len(b); at += 2 {
				if at < 4*int(long) && at%4 == 0 {
					s.unsigned(b, at)
				} else {
					s.signed(b, at)
				}
			}
		})
	}
	edit(tagCvt, func(b []byte) {
		for at := 0; at+2 <= len(b); at += 2 {
			s.signed(b, at)
		}
	})
	edit(tagVORG, func(b []byte) {
		for at := 4; at+2 <= len(b); at += 4 {
			if at != 8 {
				s.signed(b, at)
			}
			if at == 4 {
				at = 6 // behind the count, records of a glyph and its origin
			}
		}
	})
	return nil
}

// outlines scales `glyf`.
func (s *scaler) outlines() error {
	data := s.font.Table(table.TagGlyf)
	if len(data) == 0 {
		return nil
	}
	head, err := table.ParseHead(s.font.Table(table.TagHead))
	if err != nil {
		return damaged(table.TagHead, err)
	}
	list, err := glyf.Locate(data, s.font.Table(table.TagLoca), head.LongLoca)
	if err != nil {
		return damaged(table.TagGlyf, err)
	}
	var out []byte
	offsets := []int{0}
	for g, b := range list {
		if out, err = s.glyph(out, b); err != nil {
			return damaged(table.TagGlyf, fmt.Errorf("glyph %d: %w", g, err))
		}
		for len(out)%4 != 0 {
			out = append(out, 0)
		}
		offsets = append(offsets, len(out))
	}
	if len(out) == 0 {
		out = []byte{0}
	}
	long := len(out) > 2*math.MaxUint16
	format := uint16(0)
	if long {
		format = 1
	}
	binary.BigEndian.PutUint16(s.made[table.TagHead][50:], format)
	s.made[table.TagGlyf], s.made[table.TagLoca] = out, glyf.Index(offsets, long)
	return nil
}

func (s *scaler) glyph(out, b []byte) ([]byte, error) {
	count, ok := glyf.ContourCount(b)
	if !ok || count == 0 {
		return append(out, b...), nil
	}
	start := len(out)
	if count < 0 {
		parts, err := glyf.ParseParts(b)
		if err != nil {
			return nil, err
		}
		x, y := make([]float64, len(parts)), make([]float64, len(parts))
		for i, p := range parts {
			if !p.Match {
				x[i], y[i] = p.DX*float64(s.times-1), p.DY*float64(s.times-1)
				s.outgrown = s.outgrown || max(math.Abs(p.DX), math.Abs(p.DY))*float64(s.times) > math.MaxInt16
			}
		}
		moved, err := glyf.MoveParts(b, x, y)
		if err != nil {
			return nil, err
		}
		out = append(out, moved...)
		for at := 2; at < 10; at += 2 {
			s.signed(out[start:], at)
		}
		return out, nil
	}
	simple, err := glyf.ParseSimple(b)
	if err != nil {
		return nil, err
	}
	for i := range simple.Points {
		p := &simple.Points[i]
		p.X, p.Y = p.X*s.times, p.Y*s.times
		s.outgrown = s.outgrown || p.X != int(int16(p.X)) || p.Y != int(int16(p.Y))
	}
	out = simple.Append(out)
	copy(out[start+2:], b[2:10]) // the box as it is stated
	for at := 2; at < 10; at += 2 {
		s.signed(out[start:], at)
	}
	return out, nil
}

func (s *scaler) axes() (int, error) {
	fvar, err := table.ParseFvar(s.font.Table(table.TagFvar))
	if err != nil {
		return 0, damaged(table.TagFvar, err)
	}
	return len(fvar.Axes), nil
}

// layout scales what the layout rules place, and what that varies by.
func (s *scaler) layout() error {
	plan := layout.Plan{Scale: s.times, Present: func(sfnt.Tag) bool { return true }}
	if b := s.font.Table(table.TagGPOS); len(b) > 0 {
		t, err := layout.Open(b, table.TagGPOS)
		if err == nil {
			s.made[table.TagGPOS], err = layout.Rewrite(t, plan)
		}
		if err != nil {
			return s.failed(table.TagGPOS, err)
		}
	}
	definitions, err := layout.OpenDefinitions(s.font.Table(layout.TagGDEF))
	if err != nil {
		return damaged(layout.TagGDEF, err)
	}
	if len(s.font.Table(layout.TagGDEF)) == 0 {
		return nil
	}
	store, err := s.store(layout.TagGDEF, definitions.Store())
	if err != nil {
		return err
	}
	if s.made[layout.TagGDEF], err = layout.RewriteDefinitions(definitions, plan, store); err != nil {
		return s.failed(layout.TagGDEF, err)
	}
	return nil
}

func (s *scaler) failed(tag sfnt.Tag, err error) error {
	if errors.Is(err, layout.ErrSize) {
		return fmt.Errorf("%w: %w", ErrSize, err)
	}
	return damaged(tag, err)
}

// store scales the rows of an item variation store.
func (s *scaler) store(tag sfnt.Tag, b []byte) ([]byte, error) {
	if b == nil {
		return nil, nil
	}
	store, err := variation.ParseStore(b)
	if err != nil {
		return nil, damaged(tag, err)
	}
	s.rows(store)
	return store.Encode(), nil
}

func (s *scaler) rows(store *variation.Store) {
	for _, set := range store.Sets {
		for _, row := range set.Rows {
			for i := range row {
				row[i] *= int32(s.times)
			}
		}
	}
}

// variations scales what outlines, metrics and hints vary by.
func (s *scaler) variations() error {
	if !s.font.Has(table.TagFvar) {
		return nil
	}
	axes, err := s.axes()
	if err != nil {
		return err
	}
	for _, step := range []func(axes int) error{s.gvar, s.cvar} {
		if err := step(axes); err != nil {
			return err
		}
	}
	for _, tag := range []sfnt.Tag{variation.TagHVAR, variation.TagVVAR} {
		if b := s.font.Table(tag); len(b) > 0 {
			m, err := variation.ParseMetrics(b, tag)
			if err != nil {
				return damaged(tag, err)
			}
			s.rows(m.Store)
			s.made[tag] = m.Encode()
		}
	}
	b := s.font.Table(variation.TagMVAR)
	at, ok := sfnt.View(b).U16(10)
	if !ok || at == 0 || int(at) > len(b) {
		return nil
	}
	store, err := s.store(variation.TagMVAR, b[at:])
	if err != nil {
		return err
	}
	s.made[variation.TagMVAR] = slices.Concat(b[:at], store)
	return nil
}

func (s *scaler) gvar(axes int) error {
	b := s.font.Table(variation.TagGvar)
	if len(b) == 0 {
		return nil
	}
	gvar, err := variation.ParseGvar(b)
	if err != nil {
		return damaged(variation.TagGvar, err)
	}
	head, _ := table.ParseHead(s.font.Table(table.TagHead))
	list, err := glyf.Locate(s.font.Table(table.TagGlyf), s.font.Table(table.TagLoca), head.LongLoca)
	if err != nil {
		return damaged(table.TagGlyf, err)
	}
	s.made[variation.TagGvar], err = variation.EncodeGvar(len(list), axes, func(g int) ([]variation.Tuple, error) {
		points, err := glyf.PointCount(list[g])
		if err != nil {
			return nil, err
		}
		tuples, err := gvar.Tuples(table.GlyphID(g), points+4) // and the phantom points
		s.tuples(tuples)
		return tuples, err
	})
	if err != nil {
		return damaged(variation.TagGvar, err)
	}
	return nil
}

func (s *scaler) cvar(axes int) error {
	b := s.font.Table(variation.TagCvar)
	if len(b) == 0 {
		return nil
	}
	tuples, err := variation.ParseCvar(b, axes, len(s.font.Table(tagCvt))/2)
	if err != nil {
		return damaged(variation.TagCvar, err)
	}
	s.tuples(tuples)
	s.made[variation.TagCvar] = variation.EncodeCvar(tuples)
	return nil
}

func (s *scaler) tuples(tuples []variation.Tuple) {
	for _, t := range tuples {
		for _, list := range [][]float64{t.X, t.Y} {
			for i := range list {
				list[i] *= float64(s.times)
				s.outgrown = s.outgrown || math.Abs(list[i]) > math.MaxInt16
			}
		}
	}
}
