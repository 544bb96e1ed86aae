package woff2

import (
	"bytes"
	"fmt"
	"io"
	"math"

	"github.com/andybalholm/brotli"

	"sparecrate/font/sfnt"
)

type entry struct {
	tag    sfnt.Tag
	length int
}

// Decode reads a WOFF2 file. The error wraps ErrDamaged, ErrTooLarge or
// ErrUnsupported.
func Decode(b []byte) (*File, error) {
	v := sfnt.View(b)
	if !Is(b) || len(b) < headerSize {
		return nil, fmt.Errorf("%w: it ends inside its header", ErrDamaged)
	}
	u32 := func(at int) int { n, _ := v.U32(at); return int(n) }
	flavor, _ := v.U32(4)
	count, _ := v.U16(12)
	switch {
	case u32(8) != len(b):
		return nil, fmt.Errorf("%w: it says it has %d bytes and has %d", ErrDamaged, u32(8), len(b))
	case flavor == collection:
		return nil, fmt.Errorf("%w: it holds a collection of fonts", ErrUnsupported)
	case !sfnt.KnownFlavor(flavor):
		return nil, fmt.Errorf("%w: what it holds opens with %q and is no font", ErrDamaged, sfnt.Tag(flavor))
	case count == 0 || int(count) > sfnt.MaxTables:
		return nil, fmt.Errorf("%w: its directory does not say a sensible number of tables", ErrDamaged)
	}
	entries, at, err := readDirectory(v, int(count))
	if err != nil {
		return nil, err
	}
	packed, ok := v.Sub(at, u32(20))
	if !ok {
		return nil, fmt.Errorf("%w: its compressed data runs past the end of the file", ErrDamaged)
	}
	total := 0
	for _, e := range entries {
		if total += e.length; total > MaxFont {
			return nil, fmt.Errorf("%w: more than %d bytes", ErrTooLarge, MaxFont)
		}
	}
	data, err := unbrotli(packed, total)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	f := &File{Font: &sfnt.Font{Flavor: flavor, Tables: make([]sfnt.Table, 0, count)}}
	for _, e := range entries {
		t := sfnt.Table{Tag: e.tag, Data: data[:e.length:e.length]}
		t.Checksum = sfnt.Checksum(t.Data)
		if t.Tag == sfnt.TagHead {
			t.Checksum = sfnt.HeadChecksum(t.Data)
		}
		f.Font.Tables = append(f.Font.Tables, t)
		data = data[e.length:]
	}
	return f, f.readBlocks(v)
}

// readDirectory reads the entries and gives the offset after them.
func readDirectory(v sfnt.View, count int) ([]entry, int, error) {
	at := headerSize
	entries := make([]entry, 0, count)
	for range count {
		flags, ok := v.U8(at)
		at++
		var tag sfnt.Tag
		switch known := int(flags & 0x3F); {
		case !ok:
			return nil, 0, fmt.Errorf("%w: it ends inside its table directory", ErrDamaged)
		case known == arbitraryTag:
			n, _ := v.U32(at)
			tag, at = sfnt.Tag(n), at+4
		default:
			tag = knownTags[known]
		}
		length, next, ok := base128(v, at)
		if !ok {
			return nil, 0, fmt.Errorf("%w: table `%s` has no readable length", ErrDamaged, tag)
		}
		at = next
		transform := int(flags >> 6)
		if tag == tagGlyf || tag == tagLoca {
			if transform != nullGlyf {
				return nil, 0, fmt.Errorf("%w: its outlines are transformed; add the TTF or OTF it was made from instead", ErrUnsupported)
			}
		} else if transform != 0 {
			return nil, 0, fmt.Errorf("%w: table `%s` is transformed; add the TTF or OTF it was made from instead", ErrUnsupported, tag)
		}
		entries = append(entries, entry{tag, length})
	}
	return entries, at, nil
}

// base128 reads a UIntBase128 (section 3.1): at most five bytes, no leading
// zeros, at most 32 bits.
func base128(v sfnt.View, at int) (value, next int, ok bool) {
	for i := range 5 {
		b, ok := v.U8(at + i)
		if !ok || i == 0 && b == 0x80 {
			return 0, 0, false
		}
		if value = value<<7 | int(b&0x7F); value > math.MaxUint32 {
			return 0, 0, false
		}
		if b&0x80 == 0 {
			return value, at + i + 1, true
		}
	}
	return 0, 0, false
}

// readBlocks reads the metadata and private blocks.
func (f *File) readBlocks(v sfnt.View) error {
	u32 := func(at int) int { n, _ := v.U32(at); return int(n) }
	if at, packed, size := u32(28), u32(32), u32(36); at != 0 && packed != 0 {
		b, ok := v.Sub(at, packed)
		if !ok || size > MaxMetadata {
			return fmt.Errorf("%w: its metadata lies outside the file or is too large", ErrDamaged)
		}
		data, err := unbrotli(b, size)
		if err != nil {
			return fmt.Errorf("%w: its metadata: %w", ErrDamaged, err)
		}
		f.Metadata = data
	}
	if at, size := u32(40), u32(44); at != 0 && size != 0 {
		b, ok := v.Sub(at, size)
		if !ok {
			return fmt.Errorf("%w: its private block lies outside the file", ErrDamaged)
		}
		f.Private = b
	}
	return nil
}

// unbrotli grows with what really comes out, so a false size costs nothing.
func unbrotli(packed []byte, size int) ([]byte, error) {
	var out bytes.Buffer
	n, err := io.Copy(&out, io.LimitReader(brotli.NewReader(bytes.NewReader(packed)), int64(size)+1))
	if err != nil {
		return nil, err
	}
	if n != int64(size) {
		return nil, fmt.Errorf("it unpacks to another size than the %d bytes stated", size)
	}
	return out.Bytes(), nil
}
