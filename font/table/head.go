package table

import (
	"time"

	"sparecrate/font/sfnt"
)

// Bits of head.macStyle.
const (
	MacBold   = 1 << 0
	MacItalic = 1 << 1
)

const headSize = 54

// Head is the font header (`head`).
type Head struct {
	Revision               Fixed
	ChecksumAdjustment     uint32
	Flags                  uint16
	UnitsPerEm             uint16 // font units in an em, 16 to 16384
	Created, Modified      time.Time
	XMin, YMin, XMax, YMax int16 // bounding box of all glyphs, font units
	MacStyle               uint16
	LowestPPEM             uint16
	LongLoca               bool // indexToLocFormat 1: 32-bit offsets in loca
}

// The table counts seconds from the start of 1904, UTC.
var epoch = time.Date(1904, 1, 1, 0, 0, 0, 0, time.UTC)

// ParseHead reads the table. The error wraps ErrShort.
func ParseHead(b []byte) (*Head, error) {
	if len(b) < headSize {
		return nil, short("head", len(b), headSize)
	}
	c := sfnt.View(b).Cursor()
	when := func(at int) time.Time {
		// Half the range of the field is far beyond any calendar; such values are damage, not dates.
		if c.U32(at) > 3 {
			return time.Time{}
		}
		return epoch.Add(time.Duration(uint64(c.U32(at))<<32|uint64(c.U32(at+4))) * time.Second)
	}
	return &Head{
		Revision:           Fixed(c.U32(4)),
		ChecksumAdjustment: c.U32(8),
		Flags:              c.U16(16),
		UnitsPerEm:         c.U16(18),
		Created:            when(20),
		Modified:           when(28),
		XMin:               c.I16(36),
		YMin:               c.I16(38),
		XMax:               c.I16(40),
		YMax:               c.I16(42),
		MacStyle:           c.U16(44),
		LowestPPEM:         c.U16(46),
		LongLoca:           c.U16(50) == 1,
	}, c.Err()
}

// Encode writes the table; the checksum adjustment is left for sfnt.Write.
func (h *Head) Encode() []byte {
	var w writer
	w.u32(0x00010000)
	w.u32(uint32(h.Revision))
	w.u32(0)
	w.u32(0x5F0F3CF5)
	w.u16(int(h.Flags))
	w.u16(int(h.UnitsPerEm))
	w.u64(uint64(h.Created.Sub(epoch) / time.Second))
	w.u64(uint64(h.Modified.Sub(epoch) / time.Second))
	for _, n := range []int16{h.XMin, h.YMin, h.XMax, h.YMax} {
		w.u16(int(n))
	}
	w.u16(int(h.MacStyle))
	w.u16(int(h.LowestPPEM))
	w.u16(2) // fontDirectionHint, deprecated: always 2
	if h.LongLoca {
		w.u16(1)
	} else {
		w.u16(0)
	}
	w.u16(0)
	return w
}
