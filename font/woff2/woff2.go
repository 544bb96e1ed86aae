// Package woff2 reads and writes WOFF 2.0 files, the W3C recommendation of
// 8 August 2024: the tables of a font in one Brotli stream, an optional
// metadata document and an optional private block.
//
// Encode transforms `glyf`, `loca` and `hmtx` (section 5), which keeps outlines,
// flags and instructions but not the bytes that describe them; what cannot be
// transformed is stored as it is. Decode reads both. Collections are read and
// written, with tables that faces share kept once (section 4.2).
package woff2

import (
	"errors"

	"sparecrate/font/sfnt"
	"sparecrate/font/woff"
)

// The header (WOFF 2.0, section 4.1) and the values of the transform version
// in a directory entry (section 4.1, "Table directory format").
const (
	Signature     = 0x774F4632 // "wOF2"
	headerSize    = 48
	blocksAt      = 28         // offset of metaOffset in the header
	collection    = 0x74746366 // "ttcf"
	ttcVersion    = 0x00010000 // of the collection header
	arbitraryTag  = 63
	nullGlyf      = 3
	flagsLossless = 1 << 11 // bit 11 of head.flags: the font went through a lossless transform
)

// Limits on what Decode unpacks.
const (
	// MaxFont bounds the unpacked font. The largest fonts in use, for Chinese,
	// stay below half of it.
	MaxFont = 128 << 20
	// maxShared bounds the tables of a collection, which its faces share.
	maxShared = 4096
)

// What a caller may want to tell apart.
var (
	errDamaged = sfnt.Damaged("the WOFF2 file is damaged")
	// ErrTooLarge says that the font would unpack to more than MaxFont bytes.
	ErrTooLarge = errors.New("the WOFF2 file unpacks to more than is allowed")
)

// File is what a WOFF2 file holds.
type File struct {
	Fonts      []*sfnt.Font // one, or those of a collection
	Collection bool         // it is one, be it of a single face
	woff.Blocks
}

// Is reports whether the bytes open as WOFF2.
func Is(b []byte) bool {
	v, ok := sfnt.View(b).U32(0)
	return ok && v == Signature
}

var (
	tagDSIG = sfnt.MakeTag("DSIG")
	tagGlyf = sfnt.MakeTag("glyf")
	tagLoca = sfnt.MakeTag("loca")
	tagHmtx = sfnt.MakeTag("hmtx")
	tagHhea = sfnt.MakeTag("hhea")
)

// knownTags are the tags a directory entry names by number (section 4.1).
var knownTags = func() []sfnt.Tag {
	const all = "cmapheadhheahmtxmaxpnameOS/2postcvt fpgmglyflocaprepCFF VORGEBDTEBLCgasphdmxkernLTSHPCLTVDMXvheavmtx" +
		"BASEGDEFGPOSGSUBEBSCJSTFMATHCBDTCBLCCOLRCPALSVG sbixacntavarbdatblocbslncvarfdscfeatfmtxfvargvarhsty" +
		"justlcarmortmorxopbdproptrakZapfSilfGlatGlocFeatSill"
	tags := make([]sfnt.Tag, 0, len(all)/4)
	for i := 0; i < len(all); i += 4 {
		tags = append(tags, sfnt.MakeTag(all[i:i+4]))
	}
	return tags
}()
