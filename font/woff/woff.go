// Package woff reads and writes WOFF 1.0 files, the W3C recommendation of
// 13 December 2012: each table of a font compressed with zlib, an optional
// metadata document and an optional private block.
package woff

import (
	"errors"

	"sparecrate/font/sfnt"
)

// The header and one directory entry (WOFF 1.0, sections 3 and 4).
const (
	Signature  = 0x774F4646 // "wOFF"
	headerSize = 44
	blocksAt   = 24 // offset of metaOffset in the header
	entrySize  = 20
)

// Limits on what Decode unpacks.
const (
	// MaxFont bounds the unpacked font. The largest fonts in use, for Chinese,
	// stay below half of it.
	MaxFont = 128 << 20
)

// Largest is how many bytes a font in a file of so many bytes may unpack to: MaxFont, and
// no more than so many times the file. Real fonts unpack to a few times their file; small
// ones of many equal glyphs to more.
func Largest(file int) int {
	const ratio, floor = 100, 8 << 20
	return min(MaxFont, max(floor, ratio*file))
}

// What a caller may want to tell apart.
var (
	errDamaged = sfnt.Damaged("the WOFF file is damaged")
	// ErrTooLarge says that the font would unpack to more than MaxFont bytes.
	ErrTooLarge = errors.New("the WOFF file unpacks to more than is allowed")
)

// File is what a WOFF file holds.
type File struct {
	Font *sfnt.Font
	Blocks
}

// Is reports whether the bytes open as WOFF 1.
func Is(b []byte) bool {
	v, ok := sfnt.View(b).U32(0)
	return ok && v == Signature
}
