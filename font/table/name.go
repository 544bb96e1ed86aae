package table

import (
	"bytes"
	"cmp"
	"encoding/binary"
	"slices"
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
	// firstLanguageTag is the first language ID that stands for an entry of Tags.
	firstLanguageTag = 0x8000
	// maxNameRecords is several times what fonts in many languages carry.
	maxNameRecords = 8192
	// maxNameShare bounds the text of all records together, in times the table:
	// records share text, but no honest font says everything a dozen times.
	maxNameShare = 16
)

// NameRecord is one name in one platform, encoding and language.
type NameRecord struct {
	Platform, Encoding, Language uint16
	ID                           NameID
	Value                        string // for writing; a parsed record has its bytes instead

	raw []byte
}

// Text returns the record's value. Parsed records are decoded when asked for:
// fonts carry far more names than anybody reads.
func (r *NameRecord) Text() string {
	if r.raw == nil {
		return r.Value
	}
	return string(appendName(make([]byte, 0, len(r.raw)), r))
}

// Bytes is how long the value is in the table.
func (r *NameRecord) Bytes() int {
	if r.raw != nil {
		return len(r.raw)
	}
	return len(encodeName(r))
}

// Name is the naming table (`name`), formats 0 and 1.
type Name struct {
	Records []NameRecord
	// Skipped counts records whose text lies outside the table.
	Skipped int
	// Tags are the languages of format 1, which records name by 0x8000 and up.
	Tags []string
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
	n := &Name{Records: make([]NameRecord, 0, min(int(count), len(b)/12))}
	left := maxNameShare * len(b)
	for i := range min(int(count), maxNameRecords) {
		rec, ok := v.Sub(6+12*i, 12)
		if !ok {
			n.Skipped += int(count) - i
			break
		}
		c := rec.Cursor() // the record is there
		text, ok := v.Sub(int(storage)+c.Count(10), c.Count(8))
		if left -= len(text); !ok || left < 0 {
			n.Skipped++
			continue
		}
		n.Records = append(n.Records, NameRecord{c.U16(0), c.U16(2), c.U16(4), NameID(c.U16(6)), "", text})
	}
	if format, _ := v.U16(0); format == 1 {
		n.readTags(v, 6+12*int(count), int(storage))
	}
	return n, nil
}

func (n *Name) readTags(v sfnt.View, at, storage int) {
	const maxTag = 2 * 100 // bytes; no language needs so long a tag
	count, _ := v.U16(at)
	for i := range min(int(count), maxNameRecords) {
		length, _ := v.U16(at + 2 + 4*i)
		offset, ok := v.U16(at + 4 + 4*i)
		if !ok {
			return
		}
		text, ok := v.Sub(storage+int(offset), int(length))
		if !ok || len(text) > maxTag {
			text = nil
		}
		n.Tags = append(n.Tags, string(appendUTF16(nil, text)))
	}
}

// Texts returns the values of all records in order. They share one string, which
// is a good deal cheaper than Text for each.
func (n *Name) Texts() []string {
	size := 0
	for i := range n.Records {
		size += len(n.Records[i].raw)
	}
	all := make([]byte, 0, size)
	var few [96]int // most fonts have fewer records
	ends := few[:0]
	for i := range n.Records {
		r := &n.Records[i]
		all = appendName(all, r)
		ends = append(ends, len(all))
	}
	whole, from := string(all), 0
	texts := make([]string, len(ends))
	for i, end := range ends {
		texts[i], from = whole[from:end], end
	}
	return texts
}

// Best returns the value a reader of English expects: Windows in US English, then
// any English, then Unicode, then whatever comes first. Empty where there is
// none.
func (n *Name) Best(id NameID) string {
	best, rank := "", 0
	for i := range n.Records {
		r := &n.Records[i]
		if r.ID != id || r.Rank() <= rank {
			continue
		}
		if text := r.Text(); text != "" {
			best, rank = text, r.Rank()
		}
	}
	return best
}

// Rank orders the records of one name ID for a reader of English, higher is
// better.
func (r *NameRecord) Rank() int {
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
// Each record is written in the encoding it names, with '?' for what that lacks.
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
		text := encodeName(&r)
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

func encodeName(r *NameRecord) []byte {
	var w writer
	e := r.otherEncoding()
	if e == nil && r.Platform == PlatformMacintosh {
		e = charmap.Macintosh
	}
	if e == nil {
		for _, u := range utf16.Encode([]rune(r.Text())) {
			w.u16(int(u))
		}
		return w
	}
	one := e.NewEncoder()
	for _, c := range r.Text() {
		b, err := one.Bytes(utf8.AppendRune(nil, c))
		if err != nil {
			b = []byte{'?'}
		}
		w = append(w, b...)
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

// otherEncoding is a record's encoding where it is neither UTF-16 nor Mac Roman.
func (r *NameRecord) otherEncoding() encoding.Encoding {
	switch r.Platform {
	case PlatformMacintosh:
		return macEncodings[r.Encoding]
	case PlatformWindows:
		return windowsEncodings[r.Encoding]
	}
	return nil
}

// appendName appends a record's value as UTF-8.
func appendName(out []byte, r *NameRecord) []byte {
	b := r.raw
	if b == nil {
		return append(out, r.Value...)
	}
	e := r.otherEncoding()
	switch {
	case e != nil && r.Platform == PlatformWindows:
		// Some makers pad every byte to two; the pad is dropped before decoding.
		return appendWith(out, e, bytes.ReplaceAll(b, []byte{0}, nil))
	case e != nil:
		return appendWith(out, e, b)
	case r.Platform == PlatformMacintosh:
		return appendMacRoman(out, b)
	}
	return appendUTF16(out, b)
}

func appendWith(out []byte, e encoding.Encoding, b []byte) []byte {
	text, err := e.NewDecoder().Bytes(b)
	if err != nil {
		return utf8.AppendRune(out, utf8.RuneError)
	}
	return append(out, text...)
}

// Nearly all names are ASCII, license texts among them long; both decoders take
// eight bytes of such text at a time.

func appendMacRoman(out, b []byte) []byte {
	const high = 0x8080808080808080
	for len(b) > 0 {
		n := 0
		for len(b)-n >= 8 && binary.BigEndian.Uint64(b[n:])&high == 0 {
			n += 8
		}
		out, b = append(out, b[:n]...), b[n:]
		for _, c := range b[:min(len(b), 8)] {
			out = utf8.AppendRune(out, charmap.Macintosh.DecodeByte(c))
		}
		b = b[min(len(b), 8):]
	}
	return out
}

func appendUTF16(out, b []byte) []byte {
	const notASCII = 0xFF80FF80FF80FF80
	for len(b) >= 2 {
		if len(b) >= 8 {
			if w := binary.BigEndian.Uint64(b); w&notASCII == 0 {
				out = binary.BigEndian.AppendUint32(out, uint32(w>>24)&0xFF000000|uint32(w>>16)&0xFF0000|uint32(w>>8)&0xFF00|uint32(w)&0xFF)
				b = b[8:]
				continue
			}
		}
		r := rune(b[0])<<8 | rune(b[1])
		b = b[2:]
		if utf16.IsSurrogate(r) {
			low := rune(0)
			if len(b) >= 2 {
				low = rune(b[0])<<8 | rune(b[1])
			}
			if r = utf16.DecodeRune(r, low); r != utf8.RuneError {
				b = b[2:]
			}
		}
		out = utf8.AppendRune(out, r)
	}
	return out
}
