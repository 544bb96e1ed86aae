package woff

import (
	"encoding/binary"
	"fmt"

	"sparecrate/font/sfnt"
)

// MaxMetadata bounds the unpacked metadata document, in bytes; real ones have
// some thousands.
const MaxMetadata = 4 << 20

// Blocks are what a file of either WOFF version may carry besides the font.
type Blocks struct {
	Metadata []byte // XML, unpacked; nil where there is none
	Private  []byte // nil where there is none
}

// ReadBlocks reads the blocks of a file whose five header fields from metaOffset
// to privLength (WOFF 1.0 section 3, WOFF 2.0 section 4.1) stand at offset at;
// unpack undoes the version's compression of a document of that many bytes. The
// error says what is wrong and wraps none of this package's.
func ReadBlocks(b []byte, at int, unpack func(packed []byte, size int) ([]byte, error)) (Blocks, error) {
	v := sfnt.View(b)
	c := v.Cursor()
	field := func(i int) int { return c.Offset(at + 4*i) }
	var out Blocks
	if offset, packed, size := field(0), field(1), field(2); offset != 0 && packed != 0 {
		data, ok := v.Sub(offset, packed)
		if !ok || size > MaxMetadata {
			return out, fmt.Errorf("its metadata lies outside the file or is too large")
		}
		var err error
		if out.Metadata, err = unpack(data, size); err != nil {
			return out, fmt.Errorf("its metadata: %w", err)
		}
	}
	if offset, size := field(3), field(4); offset != 0 && size != 0 {
		var ok bool
		if out.Private, ok = v.Sub(offset, size); !ok {
			return out, fmt.Errorf("its private block lies outside the file")
		}
	}
	return out, c.Err()
}

// Append writes the blocks behind a file's first at bytes, each on a multiple
// of four, and gives what follows those bytes and the five header fields.
func (x *Blocks) Append(at int, pack func([]byte) []byte) (tail, fields []byte) {
	align := func() {
		for (at+len(tail))%4 != 0 {
			tail = append(tail, 0)
		}
	}
	var header [5]int
	if len(x.Metadata) > 0 {
		align()
		packed := pack(x.Metadata)
		header[0], header[1], header[2] = at+len(tail), len(packed), len(x.Metadata)
		tail = append(tail, packed...)
	}
	if len(x.Private) > 0 {
		align()
		header[3], header[4] = at+len(tail), len(x.Private)
		tail = append(tail, x.Private...)
	}
	for _, n := range header {
		fields = binary.BigEndian.AppendUint32(fields, uint32(n))
	}
	return tail, fields
}
