package woff2

import (
	"bytes"
	"fmt"
	"io"
	"math"
	"slices"

	"github.com/andybalholm/brotli"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// entry is a table as the directory describes it.
type entry struct {
	tag         sfnt.Tag
	length      int // of the table
	packed      int // of its bytes in the stream, before Brotli
	transformed bool
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
	total, plain := 0, 0
	for _, e := range entries {
		total += e.packed
		if plain += e.length; total > MaxFont || plain > MaxFont {
			return nil, fmt.Errorf("%w: more than %d bytes", ErrTooLarge, MaxFont)
		}
	}
	data, err := unbrotli(packed, total)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	f := &File{Font: &sfnt.Font{Flavor: flavor, Tables: make([]sfnt.Table, 0, count)}}
	for _, e := range entries {
		f.Font.Tables = append(f.Font.Tables, sfnt.Table{Tag: e.tag, Data: data[:e.packed:e.packed]})
		data = data[e.packed:]
	}
	if err := restore(f.Font, entries); err != nil {
		return nil, err
	}
	for i := range f.Font.Tables {
		t := &f.Font.Tables[i]
		t.Checksum = sfnt.Checksum(t.Data)
		if t.Tag == sfnt.TagHead {
			t.Checksum = sfnt.HeadChecksum(t.Data)
		}
	}
	return f, f.readBlocks(v)
}

// restore puts tables in place of their transformed forms.
func restore(f *sfnt.Font, entries []entry) error {
	at := func(tag sfnt.Tag) int {
		return slices.IndexFunc(entries, func(e entry) bool { return e.tag == tag && e.transformed })
	}
	glyf, loca, hmtx := at(tagGlyf), at(tagLoca), at(tagHmtx)
	if (glyf < 0) != (loca < 0) {
		return fmt.Errorf("%w: only one of `glyf` and `loca` is transformed", ErrDamaged)
	}
	if glyf < 0 {
		if hmtx >= 0 {
			return fmt.Errorf("%w: its `hmtx` is transformed without its outlines", ErrDamaged)
		}
		return nil
	}
	if entries[loca].packed != 0 {
		return fmt.Errorf("%w: its transformed `loca` is not empty", ErrDamaged)
	}
	o, err := restoreGlyf(f.Tables[glyf].Data)
	if err != nil {
		return err
	}
	if len(o.loca) != entries[loca].length {
		return fmt.Errorf("%w: its `loca` should have %d bytes and comes to %d", ErrDamaged, entries[loca].length, len(o.loca))
	}
	f.Tables[glyf].Data, f.Tables[loca].Data = o.glyf, o.loca
	if hmtx < 0 {
		return nil
	}
	hhea, err := table.ParseHhea(f.Table(tagHhea))
	if err != nil {
		return fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	f.Tables[hmtx].Data, err = restoreHmtx(f.Tables[hmtx].Data, int(hhea.LongMetrics), o.left)
	return err
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
		e := entry{tag: tag, length: length, packed: length}
		version := int(flags >> 6)
		switch {
		case (tag == tagGlyf || tag == tagLoca) && version == 0, tag == tagHmtx && version == hmtxTransform:
			e.transformed = true
		case (tag == tagGlyf || tag == tagLoca) && version == nullGlyf, version == 0:
		default:
			return nil, 0, fmt.Errorf("%w: table `%s` has the unknown transform %d", ErrDamaged, tag, version)
		}
		if e.transformed {
			if e.packed, at, ok = base128(v, at); !ok {
				return nil, 0, fmt.Errorf("%w: table `%s` has no readable length", ErrDamaged, tag)
			}
		}
		entries = append(entries, e)
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

// unbrotli reserves what such a stream usually comes to and grows with what
// really comes out, so a false size costs little.
func unbrotli(packed []byte, size int) ([]byte, error) {
	const usual = 8
	var out bytes.Buffer
	out.Grow(min(size+1+bytes.MinRead, usual*len(packed)+bytes.MinRead))
	n, err := io.Copy(&out, io.LimitReader(brotli.NewReader(bytes.NewReader(packed)), int64(size)+1))
	if err != nil {
		return nil, err
	}
	if n != int64(size) {
		return nil, fmt.Errorf("it unpacks to another size than the %d bytes stated", size)
	}
	return out.Bytes(), nil
}
