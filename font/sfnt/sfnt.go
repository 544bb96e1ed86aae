// Package sfnt reads and writes the frame around the tables of a font: the
// table directory of TrueType and OpenType files and of their collections.
//
// It follows the OpenType specification 1.9.1, chapter "OpenType font file"
// (ISO/IEC 14496-22:2019, section 4). Tables stay bytes here; what is inside
// them is read by package table.
//
// Parse never trusts a number in the file: every offset and length is checked
// against the bytes at hand, nothing is allocated from a declared size, and the
// tables returned are slices of the input. Checksums are computed only where
// they are asked for. Digital signatures are carried like any other table.
package sfnt

import (
	"errors"
	"fmt"
)

// The four-byte marks a font file or collection opens with.
const (
	VersionTrueType = 0x00010000
	VersionCFF      = Tag(0x4F54544F) // "OTTO"
	VersionApple    = Tag(0x74727565) // "true": TrueType outlines, as Apple writes them
	versionTTC      = Tag(0x74746366) // "ttcf"
)

// Limits on what Parse accepts. Real fonts stay far below them; a hostile file
// must not make us loop or allocate for long.
const (
	// MaxTables is four times what the richest font known to us carries.
	MaxTables = 256
	// MaxFaces is twice the largest collection known to us.
	MaxFaces = 256

	// maxShare bounds the tables of a face together, in times the file: a table
	// may stand under two tags, as bitmaps of some old fonts do, but no honest
	// font says the same bytes over and over.
	maxShare = 2
	slack    = 1 << 16

	headerSize   = 12
	recordSize   = 16
	headSize     = 54
	headAdjust   = 8 // offset of head.checkSumAdjustment
	checksumGoal = 0xB1B0AFBA
)

// ErrNotFont says that the bytes do not open as a font at all. Where a file opens as a
// font and cannot be read to the end, the error wraps ErrDamaged.
var ErrNotFont = errors.New("this is not a font file")

// Tag is a four-letter name, first letter in the highest byte.
type Tag uint32

// MakeTag packs the first four bytes of s, padded with spaces.
func MakeTag(s string) Tag {
	b := [4]byte{' ', ' ', ' ', ' '}
	copy(b[:], s)
	return Tag(uint32(b[0])<<24 | uint32(b[1])<<16 | uint32(b[2])<<8 | uint32(b[3]))
}

// String returns the four letters back; bytes outside ASCII print as '?'.
func (t Tag) String() string {
	b := [4]byte{byte(t >> 24), byte(t >> 16), byte(t >> 8), byte(t)}
	for i, c := range b {
		if c < 0x20 || c > 0x7E {
			b[i] = '?'
		}
	}
	return string(b[:])
}

// Table is one table of a face.
type Table struct {
	Tag      Tag
	Checksum uint32 // as the directory states it; Write computes its own
	Offset   uint32 // place in the file Parse read it from; Write chooses its own
	Data     []byte // without padding; a slice of the input after Parse
}

// Font is one face: its flavor and its tables, in directory order.
type Font struct {
	Flavor uint32
	Tables []Table
}

// Table returns the bytes of the first table with this tag, nil if there is none.
func (f *Font) Table(tag Tag) []byte {
	for i := range f.Tables {
		if f.Tables[i].Tag == tag {
			return f.Tables[i].Data
		}
	}
	return nil
}

// Has reports whether the face has a table with this tag, be it empty.
func (f *Font) Has(tag Tag) bool {
	for i := range f.Tables {
		if f.Tables[i].Tag == tag {
			return true
		}
	}
	return false
}

// IsCollection reports whether the bytes open as a font collection.
func IsCollection(b []byte) bool {
	v, ok := View(b).U32(0)
	return ok && Tag(v) == versionTTC
}

// IsFont reports whether the bytes open as a single font.
func IsFont(b []byte) bool {
	v, ok := View(b).U32(0)
	return ok && KnownFlavor(v)
}

// KnownFlavor reports whether v is a version mark of a single font.
func KnownFlavor(v uint32) bool {
	return v == VersionTrueType || Tag(v) == VersionCFF || Tag(v) == VersionApple
}

// Parse reads a single font or every face of a collection, in order.
//
// The error wraps ErrNotFont or ErrDamaged and names the table at fault.
func Parse(b []byte) ([]*Font, error) {
	v := View(b)
	mark, ok := v.U32(0)
	if !ok {
		return nil, fmt.Errorf("%w: it has only %d bytes", ErrNotFont, len(b))
	}
	if Tag(mark) != versionTTC {
		f, err := parseFace(v, 0)
		if err != nil {
			return nil, err
		}
		return []*Font{f}, nil
	}
	count, ok := v.U32(8)
	if !ok || count == 0 || count > MaxFaces {
		return nil, fmt.Errorf("%w: its collection header does not say a sensible number of faces", ErrDamaged)
	}
	fonts := make([]*Font, 0, count)
	for i := range int(count) {
		at, ok := v.U32(12 + 4*i)
		if !ok {
			return nil, fmt.Errorf("%w: it ends inside the list of its %d faces", ErrDamaged, count)
		}
		f, err := parseFace(v, int(at))
		if err != nil {
			return nil, fmt.Errorf("face %d: %w", i, err)
		}
		fonts = append(fonts, f)
	}
	return fonts, nil
}

func parseFace(v View, at int) (*Font, error) {
	flavor, ok := v.U32(at)
	if !ok {
		return nil, fmt.Errorf("%w: it ends before its table directory", ErrDamaged)
	}
	if !KnownFlavor(flavor) {
		return nil, fmt.Errorf("%w: it opens with %q", ErrNotFont, Tag(flavor))
	}
	count, ok := v.U16(at + 4)
	if !ok || count == 0 || int(count) > MaxTables {
		return nil, fmt.Errorf("%w: its directory does not say a sensible number of tables", ErrDamaged)
	}
	f := &Font{Flavor: flavor, Tables: make([]Table, 0, count)}
	total := 0
	for i := range int(count) {
		rec, ok := v.Sub(at+headerSize+recordSize*i, recordSize)
		if !ok {
			return nil, fmt.Errorf("%w: it ends inside its table directory", ErrDamaged)
		}
		tag, _ := rec.U32(0)
		sum, _ := rec.U32(4)
		offset, _ := rec.U32(8)
		length, _ := rec.U32(12)
		data, ok := v.Sub(int(offset), int(length))
		if !ok {
			return nil, fmt.Errorf("%w: table `%s` runs past the end of the file (it should end at byte %d, the file has %d)",
				ErrDamaged, Tag(tag), uint64(offset)+uint64(length), len(v))
		}
		if total += int(length); total > maxShare*len(v)+slack {
			return nil, fmt.Errorf("%w: its tables name the same bytes over and over", ErrDamaged)
		}
		f.Tables = append(f.Tables, Table{Tag: Tag(tag), Checksum: sum, Offset: offset, Data: data})
	}
	return f, nil
}
