// Package table reads and writes the tables inside a font, one file a table,
// after the chapters of the OpenType specification 1.9.1 of the same names.
//
// Each table has a Parse function from bytes to a plain value and, where this
// project writes fonts, an Encode method back. Reading takes a table's length
// as the truth: fields past its end are absent, never guessed. Numbers are in
// font units unless a comment says otherwise.
package table

import (
	"fmt"

	"sparecrate/font/sfnt"
)

// ErrShort says that a table ends before the fields every version of it has; it wraps
// sfnt.ErrDamaged.
var ErrShort = sfnt.Damaged("the table is too short")

func short(tag string, have, want int) error {
	return fmt.Errorf("table `%s`: %w: %d bytes where at least %d are needed", tag, ErrShort, have, want)
}

// The tables this package knows.
var (
	TagCFF  = sfnt.MakeTag("CFF ")
	TagCFF2 = sfnt.MakeTag("CFF2")
	TagCmap = sfnt.MakeTag("cmap")
	TagGlyf = sfnt.MakeTag("glyf")
	TagGPOS = sfnt.MakeTag("GPOS")
	TagGSUB = sfnt.MakeTag("GSUB")
	TagHead = sfnt.MakeTag("head")
	TagHhea = sfnt.MakeTag("hhea")
	TagHmtx = sfnt.MakeTag("hmtx")
	TagLoca = sfnt.MakeTag("loca")
	TagMaxp = sfnt.MakeTag("maxp")
	TagName = sfnt.MakeTag("name")
	TagOS2  = sfnt.MakeTag("OS/2")
	TagPost = sfnt.MakeTag("post")
)

// GlyphID is a glyph's number within its face.
type GlyphID uint16

// Fixed is a signed 16.16 number.
type Fixed int32

// Float returns the number as floating point.
func (f Fixed) Float() float64 { return float64(f) / 65536 }

// MakeFixed returns a whole number as 16.16.
func MakeFixed(n int) Fixed { return Fixed(n << 16) }

// writer appends big-endian numbers.
type writer []byte

func (w *writer) u8(v uint8)   { *w = append(*w, v) }
func (w *writer) u16(v int)    { *w = append(*w, byte(v>>8), byte(v)) }
func (w *writer) u32(v uint32) { *w = append(*w, byte(v>>24), byte(v>>16), byte(v>>8), byte(v)) }
func (w *writer) u64(v uint64) { w.u32(uint32(v >> 32)); w.u32(uint32(v)) }
func (w *writer) tag(s string) { w.u32(uint32(sfnt.MakeTag(s))) }

// setU16 overwrites two bytes written before.
func (w *writer) setU16(at, v int) { (*w)[at], (*w)[at+1] = byte(v>>8), byte(v) }
