package table

import "sparecrate/font/sfnt"

// Bits of OS/2.fsType, the embedding permission.
const (
	EmbedRestricted   = 0x0002
	EmbedPreviewPrint = 0x0004
	EmbedEditable     = 0x0008
	EmbedLevels       = 0x000F // usage permissions mask
	EmbedNoSubsetting = 0x0100
	EmbedBitmapOnly   = 0x0200
)

// Bits of OS/2.fsSelection.
const (
	SelectItalic     = 1 << 0
	SelectBold       = 1 << 5
	SelectRegular    = 1 << 6
	SelectUseTypo    = 1 << 7
	SelectWWS        = 1 << 8
	SelectOblique    = 1 << 9
	os2SizeV0        = 68 // as the first fonts wrote it, without typographic metrics
	os2SizeTypo      = 78
	os2SizeCodePages = 86
	os2SizeV2        = 96
	os2SizeV5        = 100
)

// OS2 is the table of metrics and permissions (`OS/2`), versions 0 to 5.
type OS2 struct {
	Version                     uint16
	AverageWidth                int16
	WeightClass, WidthClass     uint16 // 1 to 1000, and 1 to 9
	Type                        uint16 // fsType
	Subscript, Superscript      [4]int16
	StrikeoutSize, StrikeoutPos int16
	FamilyClass                 int16
	Panose                      [10]byte
	UnicodeRange                [4]uint32
	Vendor                      string
	Selection                   uint16 // fsSelection
	FirstChar, LastChar         uint16
	HasTypo                     bool // the table is long enough for the next two lines
	TypoAscender, TypoDescender int16
	TypoLineGap                 int16
	WinAscent, WinDescent       uint16
	CodePages                   [2]uint32
	HasHeights                  bool // version 2 and later
	XHeight, CapHeight          int16
	DefaultChar, BreakChar      uint16
	MaxContext                  uint16
	LowerSize, UpperSize        uint16 // version 5: optical sizes, twentieths of a point
}

// ParseOS2 reads the table. The error wraps ErrShort.
func ParseOS2(b []byte) (*OS2, error) {
	if len(b) < os2SizeV0 {
		return nil, short("OS/2", len(b), os2SizeV0)
	}
	c := sfnt.View(b).Cursor()
	t := &OS2{
		Version: c.U16(0), AverageWidth: c.I16(2), WeightClass: c.U16(4), WidthClass: c.U16(6), Type: c.U16(8),
		StrikeoutSize: c.I16(26), StrikeoutPos: c.I16(28), FamilyClass: c.I16(30),
		Vendor: sfnt.Tag(c.U32(58)).String(), Selection: c.U16(62), FirstChar: c.U16(64), LastChar: c.U16(66),
	}
	for i := range 4 {
		t.Subscript[i], t.Superscript[i] = c.I16(10+2*i), c.I16(18+2*i)
		t.UnicodeRange[i] = c.U32(42 + 4*i)
	}
	copy(t.Panose[:], b[32:42])
	if len(b) >= os2SizeTypo {
		t.HasTypo = true
		t.TypoAscender, t.TypoDescender, t.TypoLineGap = c.I16(68), c.I16(70), c.I16(72)
		t.WinAscent, t.WinDescent = c.U16(74), c.U16(76)
	}
	if t.Version >= 1 && len(b) >= os2SizeCodePages {
		t.CodePages = [2]uint32{c.U32(78), c.U32(82)}
	}
	if t.Version >= 2 && len(b) >= os2SizeV2 {
		t.HasHeights = true
		t.XHeight, t.CapHeight = c.I16(86), c.I16(88)
		t.DefaultChar, t.BreakChar, t.MaxContext = c.U16(90), c.U16(92), c.U16(94)
	}
	if t.Version >= 5 && len(b) >= os2SizeV5 {
		t.LowerSize, t.UpperSize = c.U16(96), c.U16(98)
	}
	return t, c.Err()
}

// Encode writes the table as version 4.
func (t *OS2) Encode() []byte {
	var w writer
	w.u16(4)
	w.u16(int(t.AverageWidth))
	w.u16(int(t.WeightClass))
	w.u16(int(t.WidthClass))
	w.u16(int(t.Type))
	for _, set := range [][4]int16{t.Subscript, t.Superscript} {
		for _, n := range set {
			w.u16(int(n))
		}
	}
	w.u16(int(t.StrikeoutSize))
	w.u16(int(t.StrikeoutPos))
	w.u16(int(t.FamilyClass))
	w = append(w, t.Panose[:]...)
	for _, n := range t.UnicodeRange {
		w.u32(n)
	}
	w.tag(t.Vendor)
	for _, n := range []int{int(t.Selection), int(t.FirstChar), int(t.LastChar), int(t.TypoAscender),
		int(t.TypoDescender), int(t.TypoLineGap), int(t.WinAscent), int(t.WinDescent)} {
		w.u16(n)
	}
	w.u32(t.CodePages[0])
	w.u32(t.CodePages[1])
	for _, n := range []int{int(t.XHeight), int(t.CapHeight), int(t.DefaultChar), int(t.BreakChar), int(t.MaxContext)} {
		w.u16(n)
	}
	return w
}
