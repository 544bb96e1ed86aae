package woff2

import (
	"context"
	"encoding/binary"
	"fmt"
	"math"
	"math/bits"
	"slices"

	"github.com/andybalholm/brotli"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// Encode writes the file as WOFF 2.0, outlines and metrics transformed where they
// can be, in one Brotli stream of quality 11. A digital signature is left out and bit 11 of head.flags set, as section 5.4 asks. The
// same file gives the same bytes.
func Encode(f *File) ([]byte, error) { return EncodeContext(context.Background(), f) }

// EncodeContext does as Encode and stops within a piece of the stream once ctx
// ends; the error is that of the context then.
func EncodeContext(ctx context.Context, f *File) ([]byte, error) {
	if len(f.Fonts) == 0 || len(f.Fonts) > sfnt.MaxFaces || len(f.Fonts) > 1 && !f.Collection {
		return nil, fmt.Errorf("a WOFF2 file holds one face, a collection up to %d; there are %d", sfnt.MaxFaces, len(f.Fonts))
	}
	g := &gathered{}
	flavor := f.Fonts[0].Flavor
	if f.Collection {
		g.places, flavor = map[place]int{}, collection
	}
	var faces []member
	for _, font := range f.Fonts {
		plain := prepare(font)
		if n := len(plain.Tables); n == 0 || n > sfnt.MaxTables {
			return nil, fmt.Errorf("a font has 1 to %d tables; this one has %d", sfnt.MaxTables, n)
		}
		m := g.add(plain)
		g.size += sfntSize(len(m.tables))
		faces = append(faces, m)
	}
	if f.Collection {
		g.directory = appendMembers(g.directory, faces)
		g.size += sfntSize(0) + 4*len(faces)
	}
	packed := compress(ctx, g.stream...)

	// Every block starts on a multiple of four and browsers refuse a file whose
	// length is not one.
	at := headerSize + len(g.directory) + len(packed)
	tail, blocks := f.Append(at, func(b []byte) []byte { return compress(ctx, b) })
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	tail = append(tail, padding(at+len(tail))...)
	out := make([]byte, 0, at+len(tail))
	for _, n := range []uint32{Signature, flavor, uint32(at + len(tail))} {
		out = binary.BigEndian.AppendUint32(out, n)
	}
	out = binary.BigEndian.AppendUint16(out, uint16(g.entries))
	out = binary.BigEndian.AppendUint16(out, 0)
	for _, n := range []int{g.size, len(packed), 1 << 16} {
		out = binary.BigEndian.AppendUint32(out, uint32(n))
	}
	return slices.Concat(out, blocks, g.directory, packed, tail), nil
}

// prepare gives the tables as they go into the stream, with checksums a reader
// will find right.
func prepare(f *sfnt.Font) *sfnt.Font {
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
	return sfnt.Settle(out)
}

// arrange sorts tables by tag, but with text first and outlines last: over many
// fonts Brotli does a little better so, as what it learns from one part stays
// near its like. loca must be right behind glyf, and hmtx behind both for
// readers that restore in order.
func arrange(tables []sfnt.Table) {
	place := func(t sfnt.Tag) int {
		if early := slices.Index(textTables, t); early >= 0 {
			return early - len(textTables)
		}
		if late := slices.Index(outlineTables, t); late >= 0 {
			return math.MaxUint32 + 1 + late
		}
		return int(t)
	}
	slices.SortStableFunc(tables, func(a, b sfnt.Table) int { return place(a.Tag) - place(b.Tag) })
}

var (
	textTables    = []sfnt.Tag{sfnt.MakeTag("name"), sfnt.MakeTag("post")}
	outlineTables = []sfnt.Tag{tagGlyf, tagLoca, tagHmtx}
)

// form is a table's bytes in the stream, and the length a reader restores it to.
type form struct {
	length int
	data   []byte
}

// transform returns the transformed form of the tables that have one. Outlines
// are restored at once: what a reader gets is known to be readable, and how
// long it is.
func transform(f *sfnt.Font) map[sfnt.Tag]form {
	head, err := table.ParseHead(f.Table(sfnt.TagHead))
	if err != nil || !f.Has(tagGlyf) || !f.Has(tagLoca) {
		return nil
	}
	packed, err := transformGlyf(f.Table(tagGlyf), f.Table(tagLoca), head.LongLoca)
	if err != nil {
		return nil
	}
	back, err := restoreGlyf(packed)
	if err != nil {
		return nil
	}
	forms := map[sfnt.Tag]form{tagGlyf: {len(back.glyf), packed}, tagLoca: {len(back.loca), nil}}
	hhea, err := table.ParseHhea(f.Table(tagHhea))
	if err != nil {
		return forms
	}
	hmtx := f.Table(tagHmtx)
	if packed := transformHmtx(hmtx, int(hhea.LongMetrics), back.left); packed != nil {
		forms[tagHmtx] = form{len(hmtx), packed}
	}
	return forms
}

func appendEntry(out []byte, tag sfnt.Tag, f form, transformed bool) []byte {
	flags := byte(arbitraryTag)
	if known := slices.Index(knownTags, tag); known >= 0 {
		flags = byte(known)
	}
	named := flags != arbitraryTag
	switch {
	case (tag == tagGlyf || tag == tagLoca) && !transformed:
		flags |= nullGlyf << 6
	case tag == tagHmtx && transformed:
		flags |= hmtxTransform << 6
	}
	out = append(out, flags)
	if !named {
		out = binary.BigEndian.AppendUint32(out, uint32(tag))
	}
	out = appendBase128(out, uint32(f.length))
	if transformed {
		out = appendBase128(out, uint32(len(f.data)))
	}
	return out
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

// stepSize is how many bytes are compressed between two looks at whether the
// result is still wanted; some tenths of a second.
const stepSize = 64 << 10

// compress packs pieces as one stream at Brotli's best. A window larger than the
// data would find nothing more and only cost memory: eight bytes for each byte of
// it, which is why it never is as large as the format allows. What it returns once
// ctx has ended is of no use.
func compress(ctx context.Context, pieces ...[]byte) []byte {
	const windowGap, smallest, largest = 16, 16, 21 // RFC 7932, section 9.1: a window of n bits holds 2^n - 16 bytes
	total := 0
	for _, b := range pieces {
		total += len(b)
	}
	window := min(max(bits.Len(uint(total+windowGap-1)), smallest), largest)
	var out parts
	w := brotli.NewWriterOptions(&out, brotli.WriterOptions{Quality: brotli.BestCompression, LGWin: window})
	for _, b := range pieces {
		for step := range slices.Chunk(b, stepSize) {
			if ctx.Err() != nil {
				return nil
			}
			_, _ = w.Write(step) // parts take everything
		}
	}
	_ = w.Close()
	return slices.Concat(out...)
}

// parts keeps what is written without moving it while it grows.
type parts [][]byte

func (p *parts) Write(b []byte) (int, error) {
	*p = append(*p, slices.Clone(b))
	return len(b), nil
}
