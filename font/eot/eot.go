// Package eot reads and writes Embedded OpenType files, the W3C member
// submission of 5 March 2008: a header that repeats some fields of a font, and
// the font behind it. Only Internet Explorer ever read them.
//
// Decode reads all three versions of the header and data that are plain or
// XOR-encrypted. Data packed by MicroType Express is told apart by
// ErrCompressed. Encode writes plain data under version 0x00020001 and binds
// the file to no address.
package eot

import (
	"errors"

	"sparecrate/font/sfnt"
)

// The header (submission, section 3): fields at fixed places, then strings of
// stated length, then the font.
const (
	version1   = 0x00010000
	version21  = 0x00020001
	version22  = 0x00020002
	magic      = 0x504C // stands at offset 34
	magicAt    = 34
	fixedSize  = 82 // up to the first string
	charsetDef = 1  // DEFAULT_CHARSET
	xorKey     = 0x50
)

// Flags of the header (submission, section 4.1).
const (
	flagSubset     = 0x00000001
	flagCompressed = 0x00000004 // MicroType Express
	flagEncrypted  = 0x10000000 // every byte of the font is XORed with 0x50
)

// What a caller may want to tell apart.
var (
	errDamaged = sfnt.Damaged("the EOT file is damaged")
	// ErrCompressed says that the font is packed in a way no reader but Internet
	// Explorer has.
	ErrCompressed = errors.New("the font in this EOT file is packed by MicroType Express, which only Internet Explorer unpacks; add the TTF, OTF or WOFF of the same face")
)

// File is what an EOT file holds.
type File struct {
	Fonts []*sfnt.Font // one, or those of a collection
	// Roots are the addresses the file may be used at, none for everywhere. They
	// are told, never enforced.
	Roots []string
	// Subset says that the file's maker left out glyphs.
	Subset bool
	// Encrypted says that the data was XOR-encrypted.
	Encrypted bool
}

// Is reports whether the bytes open as EOT.
func Is(b []byte) bool {
	v := sfnt.View(b)
	mark, ok := v.U16(magicAt)
	return ok && mark == swap(magic) && len(b) >= fixedSize
}

// swap turns a little-endian number into the big-endian one a View reads.
func swap(n uint16) uint16 { return n<<8 | n>>8 }
