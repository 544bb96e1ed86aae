package woff2

import (
	"encoding/binary"
	"fmt"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// The transformed hmtx table (section 5.4): a flag for each of its two lists of
// left side bearings says that the list is left out, because every bearing is
// its glyph's xMin.
const (
	omitProportional = 1 << 0 // of glyphs with an advance of their own
	omitMonospaced   = 1 << 1 // of the glyphs behind them
	hmtxTransform    = 1      // version of the transform in a directory entry
)

// transformHmtx returns the transformed table, nil where nothing worth it can be
// left out: it parts advances from bearings, which compress better side by side,
// so the bearings of most glyphs must go.
func transformHmtx(b []byte, long int, left []int16) []byte {
	metrics := table.ParseHmtx(b, long, len(left))
	if long == 0 || long > len(left) || len(metrics) != len(left) || len(b) != 2*long+2*len(left) {
		return nil
	}
	flags := byte(omitProportional)
	if len(left) > long {
		flags |= omitMonospaced
	}
	for i, m := range metrics {
		switch {
		case m.Left == left[i]:
		case i < long:
			flags &^= omitProportional
		default:
			flags &^= omitMonospaced
		}
	}
	if flags == 0 || flags == omitMonospaced && len(left)-long < long {
		return nil
	}
	out := []byte{flags}
	for _, m := range metrics[:long] {
		out = binary.BigEndian.AppendUint16(out, m.Advance)
	}
	for i, m := range metrics {
		if i < long && flags&omitProportional == 0 || i >= long && flags&omitMonospaced == 0 {
			out = binary.BigEndian.AppendUint16(out, uint16(m.Left))
		}
	}
	return out
}

// restoreHmtx reads a transformed table of a font with that many long metrics.
func restoreHmtx(b []byte, long int, left []int16) ([]byte, error) {
	s := &stream{v: sfnt.View(b), ok: true}
	flags := s.u8()
	if flags&^(omitProportional|omitMonospaced) != 0 || flags == 0 || long == 0 || long > len(left) {
		return nil, fmt.Errorf("%w: its transformed `hmtx` cannot be", errDamaged)
	}
	advances := s.take(2 * long)
	bearing := func(i, omit int) int16 {
		if flags&omit != 0 {
			return left[i]
		}
		return int16(s.u16())
	}
	var out []byte
	for i := range long {
		if s.ok {
			out = append(out, advances[2*i], advances[2*i+1])
		}
		out = binary.BigEndian.AppendUint16(out, uint16(bearing(i, omitProportional)))
	}
	for i := long; i < len(left); i++ {
		out = binary.BigEndian.AppendUint16(out, uint16(bearing(i, omitMonospaced)))
	}
	if !s.ok {
		return nil, fmt.Errorf("%w: its transformed `hmtx` is too short", errDamaged)
	}
	return out, nil
}
