package woff

import (
	"bytes"
	"compress/zlib"
	"fmt"
	"io"

	"sparecrate/font/sfnt"
)

// Decode reads a WOFF file. Tables stored as they are stay slices of b. The
// error wraps sfnt.ErrDamaged or ErrTooLarge.
func Decode(b []byte) (*File, error) {
	v := sfnt.View(b)
	if !Is(b) || len(b) < headerSize {
		return nil, fmt.Errorf("%w: it ends inside its header", errDamaged)
	}
	c := v.Cursor()
	flavor, count := c.U32(4), c.U16(12)
	if c.Offset(8) != len(b) {
		return nil, fmt.Errorf("%w: it says it has %d bytes and has %d", errDamaged, c.Offset(8), len(b))
	}
	if count == 0 || int(count) > sfnt.MaxTables {
		return nil, fmt.Errorf("%w: its directory does not say a sensible number of tables", errDamaged)
	}
	if !sfnt.KnownFlavor(flavor) {
		return nil, fmt.Errorf("%w: what it holds opens with %q and is no single font", errDamaged, sfnt.Tag(flavor))
	}
	f := &File{Font: &sfnt.Font{Flavor: flavor, Tables: make([]sfnt.Table, 0, count)}}
	total := 0
	for i := range int(count) {
		at := headerSize + entrySize*i
		if _, ok := v.Sub(at, entrySize); !ok {
			return nil, fmt.Errorf("%w: it ends inside its table directory", errDamaged)
		}
		tag, sum := c.U32(at), c.U32(at+16)
		packed, ok := v.Sub(c.Offset(at+4), c.Offset(at+8))
		if !ok {
			return nil, fmt.Errorf("%w: table `%s` runs past the end of the file", errDamaged, sfnt.Tag(tag))
		}
		size := c.Offset(at + 12)
		if total += size; total > Largest(len(b)) {
			return nil, fmt.Errorf("%w: more than %d bytes", ErrTooLarge, Largest(len(b)))
		}
		data, err := unpack(packed, size)
		if err != nil {
			return nil, fmt.Errorf("%w: table `%s`: %w", errDamaged, sfnt.Tag(tag), err)
		}
		f.Font.Tables = append(f.Font.Tables, sfnt.Table{Tag: sfnt.Tag(tag), Checksum: sum, Data: data})
	}
	if err := c.Err(); err != nil {
		return nil, err
	}
	var err error
	if f.Blocks, err = ReadBlocks(b, blocksAt, inflate); err != nil {
		return nil, fmt.Errorf("%w: %w", errDamaged, err)
	}
	return f, nil
}

func unpack(packed []byte, size int) ([]byte, error) {
	switch {
	case len(packed) == size:
		return packed, nil
	case len(packed) > size:
		return nil, fmt.Errorf("it is said to be %d bytes packed and only %d unpacked", len(packed), size)
	}
	return inflate(packed, size)
}

// usualRatio is more than what a table usually unpacks to.
const usualRatio = 4

// inflate grows with what really comes out, so a false size costs nothing.
func inflate(packed []byte, size int) ([]byte, error) {
	r, err := zlib.NewReader(bytes.NewReader(packed))
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	out.Grow(min(size+1+bytes.MinRead, usualRatio*len(packed)+bytes.MinRead))
	n, err := io.Copy(&out, io.LimitReader(r, int64(size)+1))
	if err != nil {
		return nil, err
	}
	if n != int64(size) {
		return nil, fmt.Errorf("it unpacks to another size than the %d bytes stated", size)
	}
	return out.Bytes(), nil
}
