package table

import (
	"cmp"
	"slices"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
	"golang.org/x/text/encoding/korean"
	"golang.org/x/text/encoding/simplifiedchinese"
	"golang.org/x/text/encoding/traditionalchinese"

	"sparecrate/font/sfnt"
)

// NameID says what a name record holds (OpenType, `name`, "Name IDs").
type NameID uint16

// The name IDs of the specification.
const (
	NameCopyright            NameID = 0
	NameFamily               NameID = 1
	NameSubfamily            NameID = 2
	NameUnique               NameID = 3
	NameFull                 NameID = 4
	NameVersion              NameID = 5
	NamePostScript           NameID = 6
	NameTrademark            NameID = 7
	NameManufacturer         NameID = 8
	NameDesigner             NameID = 9
	NameDescription          NameID = 10
	NameVendorURL            NameID = 11
	NameDesignerURL          NameID = 12
	NameLicense              NameID = 13
	NameLicenseURL           NameID = 14
	NameTypographicFamily    NameID = 16
	NameTypographicSubfamily NameID = 17
	NameCompatibleFull       NameID = 18
	NameSampleText           NameID = 19
	NameWWSFamily            NameID = 21
	NameWWSSubfamily         NameID = 22
	NameVariationsPrefix     NameID = 25
)

// Platforms of name and cmap records.
const (
	PlatformUnicode   = 0
	PlatformMacintosh = 1
	PlatformWindows   = 3

	languageEnglishUS = 0x0409
	// maxNameRecords is several times what fonts in many languages carry.
	maxNameRecords = 8192
)

// NameRecord is one name in one platform, encoding and language.
type NameRecord struct {
	Platform, Encoding, Language uint16
	ID                           NameID
	Value                        string // for writing; a parsed record has its bytes instead

	raw []byte
}

// Text gives the record's value. Parsed records are decoded when asked for:
// fonts carry far more names than anybody reads.
func (r *NameRecord) Text() string {
	if r.raw != nil {
		return decodeName(r.Platform, r.Encoding, r.raw)
	}
	return r.Value
}

// Name is the naming table (`name`), formats 0 and 1.
type Name struct {
	Records []NameRecord
	// Skipped counts records whose text lies outside the table.
	Skipped int
}

// ParseName reads all records; those whose text lies outside the table are
// counted and left out. The error wraps ErrShort.
func ParseName(b []byte) (*Name, error) {
	v := sfnt.View(b)
	count, ok := v.U16(2)
	if !ok || len(b) < 6 {
		return nil, short("name", len(b), 6)
	}
	storage, _ := v.U16(4)
	n := &Name{}
	for i := range min(int(count), maxNameRecords) {
		rec, ok := v.Sub(6+12*i, 12)
		if !ok {
			n.Skipped += int(count) - i
			break
		}
		u16 := func(at int) uint16 { x, _ := rec.U16(at); return x }
		text, ok := v.Sub(int(storage)+int(u16(10)), int(u16(8)))
		if !ok {
			n.Skipped++
			continue
		}
		n.Records = append(n.Records, NameRecord{u16(0), u16(2), u16(4), NameID(u16(6)), "", text})
	}
	return n, nil
}

// Best gives the value a reader of English expects: Windows in US English, then
// any English, then Unicode, then whatever comes first. Empty where there is
// none.
func (n *Name) Best(id NameID) string {
	best, rank := "", 0
	for i := range n.Records {
		r := &n.Records[i]
		if r.ID != id || r.rank() <= rank {
			continue
		}
		if text := r.Text(); text != "" {
			best, rank = text, r.rank()
		}
	}
	return best
}

func (r *NameRecord) rank() int {
	switch {
	case r.Platform == PlatformWindows && r.Language == languageEnglishUS:
		return 6
	case r.Platform == PlatformWindows && r.Language&0x3FF == 0x009: // any English
		return 5
	case r.Platform == PlatformUnicode:
		return 4
	case r.Platform == PlatformMacintosh && r.Language == 0:
		return 3
	case r.Platform == PlatformWindows:
		return 2
	}
	return 1
}

// Encode writes format 0 with records in the order the specification asks for.
// Windows and Unicode records are written as UTF-16, Macintosh ones as Mac
// Roman with '?' for what it lacks.
func (n *Name) Encode() []byte {
	records := slices.Clone(n.Records)
	slices.SortStableFunc(records, func(a, b NameRecord) int {
		return cmp.Or(cmp.Compare(a.Platform, b.Platform), cmp.Compare(a.Encoding, b.Encoding),
			cmp.Compare(a.Language, b.Language), cmp.Compare(a.ID, b.ID))
	})
	var w, pool writer
	w.u16(0)
	w.u16(len(records))
	w.u16(6 + 12*len(records))
	seen := map[string]int{}
	for _, r := range records {
		text := encodeName(r.Platform, r.Text())
		at, ok := seen[string(text)]
		if !ok {
			at = len(pool)
			seen[string(text)] = at
			pool = append(pool, text...)
		}
		for _, f := range []int{int(r.Platform), int(r.Encoding), int(r.Language), int(r.ID), len(text), at} {
			w.u16(f)
		}
	}
	return append(w, pool...)
}

func encodeName(platform uint16, s string) []byte {
	var w writer
	if platform == PlatformMacintosh {
		for _, r := range s {
			c, ok := charmap.Macintosh.EncodeRune(r)
			if !ok {
				c = '?'
			}
			w.u8(c)
		}
		return w
	}
	for _, u := range utf16.Encode([]rune(s)) {
		w.u16(int(u))
	}
	return w
}

// Encodings of the Windows and Macintosh platforms other than Unicode and Mac
// Roman, by encoding ID.
var (
	windowsEncodings = map[uint16]encoding.Encoding{
		2: japanese.ShiftJIS, 3: simplifiedchinese.GBK, 4: traditionalchinese.Big5, 5: korean.EUCKR,
	}
	macEncodings = map[uint16]encoding.Encoding{
		1: japanese.ShiftJIS, 2: traditionalchinese.Big5, 3: korean.EUCKR,
		7: charmap.MacintoshCyrillic, 25: simplifiedchinese.GBK,
	}
)

func decodeName(platform, enc uint16, b []byte) string {
	switch platform {
	case PlatformMacintosh:
		if e, ok := macEncodings[enc]; ok {
			return decodeWith(e, b)
		}
		return macRoman(b)
	case PlatformWindows:
		if e, ok := windowsEncodings[enc]; ok {
			// Some makers pad every byte to two; the pad is dropped before decoding.
			packed := make([]byte, 0, len(b))
			for _, c := range b {
				if c != 0 {
					packed = append(packed, c)
				}
			}
			return decodeWith(e, packed)
		}
	}
	return utf16BE(b)
}

func decodeWith(e encoding.Encoding, b []byte) string {
	out, err := e.NewDecoder().Bytes(b)
	if err != nil {
		return string(utf8.RuneError)
	}
	return string(out)
}

func macRoman(b []byte) string {
	var s strings.Builder
	s.Grow(len(b))
	for _, c := range b {
		if c < utf8.RuneSelf {
			s.WriteByte(c)
		} else {
			s.WriteRune(charmap.Macintosh.DecodeByte(c))
		}
	}
	return s.String()
}

// utf16BE decodes without the detour over a slice of runes: nearly all names
// are short and ASCII.
func utf16BE(b []byte) string {
	var s strings.Builder
	s.Grow(len(b) / 2)
	for i := 0; i+1 < len(b); i += 2 {
		r := rune(b[i])<<8 | rune(b[i+1])
		if r < utf8.RuneSelf {
			s.WriteByte(byte(r))
			continue
		}
		if utf16.IsSurrogate(r) {
			low := rune(0)
			if i+3 < len(b) {
				low = rune(b[i+2])<<8 | rune(b[i+3])
			}
			if r = utf16.DecodeRune(r, low); r != utf8.RuneError {
				i += 2
			}
		}
		s.WriteRune(r)
	}
	return s.String()
}
