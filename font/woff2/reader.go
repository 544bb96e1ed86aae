package woff2

import (
	"bytes"
	"fmt"
	"io"
	"math"

	"github.com/andybalholm/brotli"

	"sparecrate/font/sfnt"
	"sparecrate/font/woff"
)

// entry is a table as the directory describes it.
type entry struct {
	tag         sfnt.Tag
	length      int // of the table
	packed      int // of its bytes in the stream, before Brotli
	transformed bool

	data []byte // in the stream's form first, then restored
	sum  uint32 // of the restored table
}

// Decode reads a WOFF2 file. Faces of a collection share the bytes of tables
// they have in common. The error wraps sfnt.ErrDamaged or ErrTooLarge.
func Decode(b []byte) (*File, error) {
	v := sfnt.View(b)
	if !Is(b) || len(b) < headerSize {
		return nil, fmt.Errorf("%w: it ends inside its header", errDamaged)
	}
	c := v.Cursor()
	flavor, count := c.U32(4), c.U16(12)
	f := &File{Collection: flavor == collection}
	most := sfnt.MaxTables
	if f.Collection {
		most = maxShared
	}
	switch {
	case c.Offset(8) != len(b):
		return nil, fmt.Errorf("%w: it says it has %d bytes and has %d", errDamaged, c.Offset(8), len(b))
	case !f.Collection && !sfnt.KnownFlavor(flavor):
		return nil, fmt.Errorf("%w: what it holds opens with %q and is no font", errDamaged, sfnt.Tag(flavor))
	case count == 0 || int(count) > most:
		return nil, fmt.Errorf("%w: its directory does not say a sensible number of tables", errDamaged)
	}
	entries, at, err := readDirectory(v, int(count))
	if err != nil {
		return nil, err
	}
	faces := []member{{flavor: flavor, tables: upTo(len(entries))}}
	if f.Collection {
		if faces, at, err = readMembers(v, at, len(entries)); err != nil {
			return nil, err
		}
	}
	packed, ok := v.Sub(at, c.Offset(20))
	if !ok {
		return nil, fmt.Errorf("%w: its compressed data runs past the end of the file", errDamaged)
	}
	if err := unpackTables(entries, packed); err != nil {
		return nil, err
	}
	if err := restore(entries, faces); err != nil {
		return nil, err
	}
	for _, m := range faces {
		font := &sfnt.Font{Flavor: m.flavor, Tables: make([]sfnt.Table, 0, len(m.tables))}
		for _, i := range m.tables {
			font.Tables = append(font.Tables, sfnt.Table{Tag: entries[i].tag, Checksum: entries[i].sum, Data: entries[i].data})
		}
		f.Fonts = append(f.Fonts, font)
	}
	if f.Blocks, err = woff.ReadBlocks(b, blocksAt, unbrotli); err != nil {
		return nil, fmt.Errorf("%w: %w", errDamaged, err)
	}
	return f, nil
}

func upTo(n int) []int {
	all := make([]int, n)
	for i := range all {
		all[i] = i
	}
	return all
}

// unpackTables fills the entries' data with slices of the one stream.
func unpackTables(entries []entry, packed []byte) error {
	most := woff.Largest(len(packed))
	total, plain := 0, 0
	for _, e := range entries {
		total += e.packed
		if plain += e.length; total > most || plain > most {
			return fmt.Errorf("%w: more than %d bytes", ErrTooLarge, most)
		}
	}
	data, err := unbrotli(packed, total)
	if err != nil {
		return fmt.Errorf("%w: %w", errDamaged, err)
	}
	for i := range entries {
		e := &entries[i]
		e.data, data = data[:e.packed:e.packed], data[e.packed:]
	}
	return nil
}

// restore puts tables in place of their transformed forms and sums them up.
func restore(entries []entry, faces []member) error {
	left := map[int][]int16{} // by the entry of a restored glyf
	total := 0
	for i := range entries {
		e := &entries[i]
		if !e.transformed || e.tag != tagGlyf {
			continue
		}
		loca := offsetsOf(entries, i, len(faces) > 1)
		if loca == nil {
			return fmt.Errorf("%w: only one of `glyf` and `loca` is transformed", errDamaged)
		}
		if loca.packed != 0 {
			return fmt.Errorf("%w: its transformed `loca` is not empty", errDamaged)
		}
		o, err := restoreGlyf(e.data)
		if err != nil {
			return err
		}
		if len(o.loca) != loca.length {
			return fmt.Errorf("%w: its `loca` should have %d bytes and comes to %d", errDamaged, loca.length, len(o.loca))
		}
		if total += len(o.glyf); total > MaxFont {
			return fmt.Errorf("%w: more than %d bytes", ErrTooLarge, MaxFont)
		}
		e.data, loca.data, left[i] = o.glyf, o.loca, o.left
		loca.transformed = false
	}
	for _, e := range entries {
		if e.transformed && e.tag == tagLoca {
			return fmt.Errorf("%w: only one of `glyf` and `loca` is transformed", errDamaged)
		}
	}
	for _, m := range faces {
		if err := m.restoreMetrics(entries, left); err != nil {
			return err
		}
	}
	for i := range entries {
		e := &entries[i]
		e.sum = sfnt.Checksum(e.data)
		if e.tag == sfnt.TagHead {
			e.sum = sfnt.HeadChecksum(e.data)
		}
	}
	return nil
}

// offsetsOf returns the transformed loca that belongs to the outlines of entry i:
// the next one in a collection, the only one elsewhere, where some makers keep
// other tables between the two.
func offsetsOf(entries []entry, i int, shared bool) *entry {
	if shared {
		entries = entries[i+1 : min(i+2, len(entries))]
	}
	for i := range entries {
		if e := &entries[i]; e.tag == tagLoca && e.transformed {
			return e
		}
	}
	return nil
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
			return nil, 0, fmt.Errorf("%w: it ends inside its table directory", errDamaged)
		case known == arbitraryTag:
			n, _ := v.U32(at)
			tag, at = sfnt.Tag(n), at+4
		default:
			tag = knownTags[known]
		}
		length, next, ok := base128(v, at)
		if !ok {
			return nil, 0, fmt.Errorf("%w: table `%s` has no readable length", errDamaged, tag)
		}
		at = next
		e := entry{tag: tag, length: length, packed: length}
		version := int(flags >> 6)
		switch {
		case (tag == tagGlyf || tag == tagLoca) && version == 0, tag == tagHmtx && version == hmtxTransform:
			e.transformed = true
		case (tag == tagGlyf || tag == tagLoca) && version == nullGlyf, version == 0:
		default:
			return nil, 0, fmt.Errorf("%w: table `%s` has the unknown transform %d", errDamaged, tag, version)
		}
		if e.transformed {
			if e.packed, at, ok = base128(v, at); !ok {
				return nil, 0, fmt.Errorf("%w: table `%s` has no readable length", errDamaged, tag)
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
