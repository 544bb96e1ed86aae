package woff

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"slices"

	"sparecrate/font/sfnt"
)

// Encode writes the face as WOFF 1.0 with tables in the order of their tags,
// each compressed where that makes it smaller. The same file gives the same
// bytes.
func Encode(f *File) ([]byte, error) {
	// The tables are taken as a plain font file would hold them, so that
	// checksums and the adjustment in head are those a reader gets back.
	plain := sfnt.Write(f.Font)
	fonts, err := sfnt.Parse(plain)
	if err != nil {
		return nil, err
	}
	tables := fonts[0].Tables
	at := headerSize + entrySize*len(tables)
	var directory, body []byte
	for _, t := range tables {
		packed := deflate(t.Data)
		if len(packed) >= len(t.Data) {
			packed = t.Data
		}
		for _, n := range []uint32{uint32(t.Tag), uint32(at + len(body)), uint32(len(packed)), uint32(len(t.Data)), t.Checksum} {
			directory = binary.BigEndian.AppendUint32(directory, n)
		}
		body = pad(append(body, packed...))
	}
	tail, fields := f.Append(at+len(body), deflate)
	out := make([]byte, 0, at+len(body))
	for _, n := range []uint32{Signature, f.Font.Flavor, uint32(at + len(body) + len(tail))} {
		out = binary.BigEndian.AppendUint32(out, n)
	}
	out = binary.BigEndian.AppendUint16(out, uint16(len(tables)))
	out = binary.BigEndian.AppendUint16(out, 0)
	out = binary.BigEndian.AppendUint32(out, uint32(len(plain)))
	out = binary.BigEndian.AppendUint32(out, 1<<16)
	return slices.Concat(out, fields, directory, body, tail), nil
}

func pad(b []byte) []byte {
	for len(b)%4 != 0 {
		b = append(b, 0)
	}
	return b
}

func deflate(b []byte) []byte {
	var out bytes.Buffer
	w, _ := zlib.NewWriterLevel(&out, zlib.BestCompression) // fails on an unknown level only
	_, _ = w.Write(b)                                       // a buffer takes everything
	_ = w.Close()
	return out.Bytes()
}
