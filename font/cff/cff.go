// Package cff reads and writes PostScript outlines: the Compact Font Format,
// version 1 (Adobe Technical Note 5176), with Type 2 charstrings (Technical Note
// 5177).
//
// Parse and Table.Glyph read version 1 and version 2 (OpenType, `CFF2`), the
// latter in its default design. Encode writes one name-keyed font of version 1
// without subroutines or hints.
package cff

import (
	"errors"

	"sparecrate/font/cff/internal/dict"
)

// What a caller may want to tell apart.
var (
	errDamaged = dict.ErrDamaged
	// ErrTooDeep says that a glyph asks for more work than any real one does.
	ErrTooDeep = errors.New("the PostScript outlines ask for too much work")
)

// Operators of dictionaries (TN 5176, section 9); those of two bytes count from
// 0x0C00.
const (
	opNotice       = 1
	opFullName     = 2
	opFamilyName   = 3
	opWeight       = 4
	opFontBBox     = 5
	opBlueValues   = 6
	opStdHW        = 10
	opStdVW        = 11
	opCharset      = 15
	opCharStrings  = 17
	opPrivate      = 18
	opSubrs        = 19
	opDefaultWidth = 20
	opNominalWidth = 21
	opVSIndex      = 22
	opBlend        = 23
	opVariations   = 24
	opEncoding     = 16
	opVersion      = 0
	opCopyright    = 0x0C00
	opCharType     = 0x0C06
	opPostScript   = 0x0C15
	opBaseFont     = 0x0C16
	opSynthetic    = 0x0C14
	opUniqueID     = 13
	opXUID         = 14
	opCIDCount     = 0x0C22
	opMatrix       = 0x0C07
	opFontName     = 0x0C26
	opROS          = 0x0C1E
	opFDArray      = 0x0C24
	opFDSelect     = 0x0C25
)

// Operators of Type 2 charstrings (TN 5177, section 4; OpenType, "CFF2
// CharString format"). Those of two bytes count from 0x0C00.
const (
	csHStem      = 1
	csVStem      = 3
	csVMoveTo    = 4
	csRLineTo    = 5
	csHLineTo    = 6
	csVLineTo    = 7
	csRRCurveTo  = 8
	csCallSubr   = 10
	csReturn     = 11
	csEscape     = 12
	csEndChar    = 14
	csVSIndex    = 15
	csBlend      = 16
	csHStemHM    = 18
	csHintMask   = 19
	csCntrMask   = 20
	csRMoveTo    = 21
	csHMoveTo    = 22
	csVStemHM    = 23
	csRCurveLine = 24
	csRLineCurve = 25
	csVVCurveTo  = 26
	csHHCurveTo  = 27
	csCallGSubr  = 29
	csVHCurveTo  = 30
	csHVCurveTo  = 31
	csHFlex      = 0x0C22
	csFlex       = 0x0C23
	csHFlex1     = 0x0C24
	csFlex1      = 0x0C25
)

// Limits of a table.
const (
	// maxFonts is the format's own limit, as FDSelect counts in bytes.
	maxFonts = 256
	// stepsPerByte bounds the work of reading all outlines by the size of the
	// table; shared subroutines make real fonts take up to about ten.
	stepsPerByte = 200
	// stepsPerGlyph is several times the operands and operators of the most
	// detailed drawings known to us.
	stepsPerGlyph = 1 << 19
	// standardStrings is how many strings every reader knows; a font's own are
	// numbered on from there.
	standardStrings = 391
)

// Limits of one charstring (TN 5177, appendix B, with the 513 operands of CFF2).
const (
	maxOperands = 513
	maxSubrs    = 10
	maxScratch  = 32
)
