package woff2

import (
	"bytes"
	"encoding/binary"
	"slices"

	"github.com/andybalholm/brotli"

	"sparecrate/font/sfnt"
)

// Encode writes the face as WOFF 2.0, tables in the order of their tags but
// with loca behind glyf, in one Brotli stream of quality 11. A digital
// signature is left out and bit 11 of head.flags set, as section 5.4 asks. The
// same file gives the same bytes.
func Encode(f *File) ([]byte, error) {
	plain, err := prepare(f.Font)
	if err != nil {
		return nil, err
	}
	var directory, stream []byte
	size := sfntSize(len(plain.Tables))
	for _, t := range plain.Tables {
		directory = appendEntry(directory, t)
		stream = append(stream, t.Data...)
		size += sfnt.Padded(len(t.Data))
	}
	packed := compress(stream)

	// Every block starts on a multiple of four and browsers refuse a file whose
	// length is not one.
	at := headerSize + len(directory) + len(packed)
	tail := padding(at)
	var metaAt, metaPacked, privateAt int
	if len(f.Metadata) > 0 {
		b := compress(f.Metadata)
		metaAt, metaPacked = at+len(tail), len(b)
		tail = append(tail, b...)
		tail = append(tail, padding(at+len(tail))...)
	}
	if len(f.Private) > 0 {
		privateAt = at + len(tail)
		tail = append(tail, f.Private...)
		tail = append(tail, padding(at+len(tail))...)
	}
	out := make([]byte, 0, at+len(tail))
	for _, n := range []uint32{Signature, f.Font.Flavor, uint32(at + len(tail))} {
		out = binary.BigEndian.AppendUint32(out, n)
	}
	out = binary.BigEndian.AppendUint16(out, uint16(len(plain.Tables)))
	out = binary.BigEndian.AppendUint16(out, 0)
	for _, n := range []int{size, len(packed), 1 << 16, metaAt, metaPacked, len(f.Metadata), privateAt, len(f.Private)} {
		out = binary.BigEndian.AppendUint32(out, uint32(n))
	}
	return slices.Concat(out, directory, packed, tail), nil
}

// prepare gives the tables as they go into the stream, with checksums a reader
// will find right.
func prepare(f *sfnt.Font) (*sfnt.Font, error) {
	out := &sfnt.Font{Flavor: f.Flavor}
	for _, t := range f.Tables {
		if t.Tag == tagDSIG {
			continue
		}
		if t.Tag == sfnt.TagHead && len(t.Data) >= 18 {
			t.Data = slices.Clone(t.Data)
			flags := binary.BigEndian.Uint16(t.Data[16:])
			binary.BigEndian.PutUint16(t.Data[16:], flags|flagsLossless)
		}
		out.Tables = append(out.Tables, t)
	}
	fonts, err := sfnt.Parse(sfnt.Write(out))
	if err != nil {
		return nil, err
	}
	out = fonts[0]
	slices.SortStableFunc(out.Tables, func(a, b sfnt.Table) int { return order(a.Tag) - order(b.Tag) })
	return out, nil
}

// order sorts by tag, with loca right behind glyf.
func order(t sfnt.Tag) int {
	if t == tagLoca {
		return 2*int(tagGlyf) + 1
	}
	return 2 * int(t)
}

func appendEntry(out []byte, t sfnt.Table) []byte {
	flags := byte(arbitraryTag)
	if known := slices.Index(knownTags, t.Tag); known >= 0 {
		flags = byte(known)
	}
	named := flags != arbitraryTag
	if t.Tag == tagGlyf || t.Tag == tagLoca {
		flags |= nullGlyf << 6
	}
	out = append(out, flags)
	if !named {
		out = binary.BigEndian.AppendUint32(out, uint32(t.Tag))
	}
	return appendBase128(out, uint32(len(t.Data)))
}

func appendBase128(out []byte, n uint32) []byte {
	started := false
	for shift := 28; shift > 0; shift -= 7 {
		if b := byte(n >> shift & 0x7F); b != 0 || started {
			out = append(out, b|0x80)
			started = true
		}
	}
	return append(out, byte(n&0x7F))
}

func padding(at int) []byte { return make([]byte, sfnt.Padded(at)-at) }

// sfntSize is the size of a plain font's header and directory.
func sfntSize(tables int) int { return 12 + 16*tables }

func compress(b []byte) []byte {
	var out bytes.Buffer
	w := brotli.NewWriterLevel(&out, brotli.BestCompression)
	_, _ = w.Write(b) // a buffer takes everything
	_ = w.Close()
	return out.Bytes()
}
