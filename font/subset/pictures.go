package subset

import (
	"bytes"
	"compress/gzip"
	"encoding/binary"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strconv"

	"sparecrate/font/layout"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// dupe marks a picture of sbix that is that of another glyph.
var dupe = sfnt.MakeTag("dupe")

// eachStrike goes through the strikes of sbix: offset of each.
func eachStrike(v sfnt.View, do func(at int)) {
	n, _ := v.U32(4)
	for i := range min(int(n), len(v)/4) {
		if at, ok := v.U32(8 + 4*i); ok {
			do(int(at))
		}
	}
}

// strikeGlyph returns the bytes of a glyph's picture, none where there is none.
func strikeGlyph(v sfnt.View, strike, glyph int) sfnt.View {
	from, ok := v.U32(strike + 4 + 4*glyph)
	to, ok2 := v.U32(strike + 8 + 4*glyph)
	b, ok3 := v.Sub(strike+int(from), int(to)-int(from))
	if !ok || !ok2 || !ok3 {
		return nil
	}
	return b
}

func closeSbix(v sfnt.View, glyphs int, set *layout.Set) {
	const deep = 4 // pictures of pictures of pictures do not occur
	for range deep {
		for _, g := range set.Glyphs() {
			eachStrike(v, func(at int) {
				if int(g) >= glyphs {
					return
				}
				b := strikeGlyph(v, at, int(g))
				kind, _ := b.U32(4)
				if other, ok := b.U16(8); ok && sfnt.Tag(kind) == dupe {
					set.Add(table.GlyphID(other))
				}
			})
		}
	}
}

func (t *trimmer) sbix(v sfnt.View) []byte {
	if len(v) < 8 {
		return nil
	}
	var strikes [][]byte
	some := false
	eachStrike(v, func(at int) {
		head, ok := v.Sub(at, 4)
		if !ok {
			return
		}
		out := slices.Clone(head)
		place := 4 + 4*(len(t.glyphs)+1)
		var data []byte
		for _, g := range t.glyphs {
			out = binary.BigEndian.AppendUint32(out, uint32(place+len(data)))
			b := slices.Clone(strikeGlyph(v, at, int(g)))
			kind, _ := b.U32(4)
			if other, ok := b.U16(8); ok && sfnt.Tag(kind) == dupe && int(other) < len(t.to) {
				binary.BigEndian.PutUint16(b[8:], uint16(t.to[other]))
			}
			some = some || len(b) > 0
			data = append(data, b...)
		}
		out = binary.BigEndian.AppendUint32(out, uint32(place+len(data)))
		strikes = append(strikes, append(out, data...))
	})
	if !some {
		return nil
	}
	out := slices.Clone(v[:4])
	out = binary.BigEndian.AppendUint32(out, uint32(len(strikes)))
	at := 8 + 4*len(strikes)
	for _, s := range strikes {
		out = binary.BigEndian.AppendUint32(out, uint32(at))
		at += len(s)
	}
	for _, s := range strikes {
		out = append(out, s...)
	}
	return out
}

const (
	// maxDrawing bounds what one packed SVG document may come to, bytes.
	maxDrawing = 16 << 20
	// maxDrawings bounds all of them together, in times the table.
	maxDrawings = 256
)

var (
	errSVG     = errors.New("the drawings of its glyphs cannot be read")
	glyphID    = regexp.MustCompile(`(\bid\s*=\s*["']glyph|#glyph)([0-9]+)`)
	isGlyphID  = regexp.MustCompile(`^glyph([0-9]+)$`)
	gzipHeader = []byte{0x1F, 0x8B}
)

// drawings writes the table of SVG documents (OpenType, `SVG `): those with
// glyphs that stay, by their new numbers, without the elements of others.
func (t *trimmer) drawings(v sfnt.View) ([]byte, error) {
	list, _ := v.U32(2)
	count, ok := v.U16(int(list))
	if !ok {
		return nil, damaged("its colors", errSVG)
	}
	type document struct {
		first, last int
		text        []byte
	}
	var documents []document
	done := map[[2]int][]byte{}
	budget := maxDrawings*len(v) + maxDrawing
	for i := range int(count) {
		rec := int(list) + 2 + 12*i
		first, _ := v.U16(rec)
		last, _ := v.U16(rec + 2)
		offset, _ := v.U32(rec + 4)
		length, ok := v.U32(rec + 8)
		raw, ok2 := v.Sub(int(list)+int(offset), int(length))
		if !ok || !ok2 {
			return nil, damaged("its colors", errSVG)
		}
		key := [2]int{int(offset), int(length)}
		for g := int(first); g <= int(last); g++ {
			if !t.keep.Has(table.GlyphID(g)) {
				continue
			}
			text, known := done[key]
			if !known {
				plain, packed, err := unpacked(raw)
				if budget -= len(plain); err != nil || budget < 0 {
					return nil, damaged("its colors", errSVG)
				}
				text = t.drawing(plain)
				if packed {
					text = packedAgain(text)
				}
				done[key] = text
			}
			now := int(t.to[g])
			if n := len(documents); n > 0 && documents[n-1].last == now-1 && &documents[n-1].text[0] == &text[0] {
				documents[n-1].last = now
				continue
			}
			documents = append(documents, document{now, now, text})
		}
	}
	if len(documents) == 0 {
		return nil, nil
	}
	out := append(slices.Clone(v[:2]), 0, 0, 0, 10, 0, 0, 0, 0)
	out = appendNumbers(out, len(documents))
	at := 2 + 12*len(documents)
	var texts []byte
	places := map[*byte]int{}
	for _, d := range documents {
		place, ok := places[&d.text[0]]
		if !ok {
			place = at + len(texts)
			places[&d.text[0]] = place
			texts = append(texts, d.text...)
		}
		out = appendNumbers(out, d.first, d.last)
		out = binary.BigEndian.AppendUint32(out, uint32(place))
		out = binary.BigEndian.AppendUint32(out, uint32(len(d.text)))
	}
	return append(out, texts...), nil
}

func unpacked(b []byte) (plain []byte, packed bool, err error) {
	if !bytes.HasPrefix(b, gzipHeader) {
		return b, false, nil
	}
	r, err := gzip.NewReader(bytes.NewReader(b))
	if err != nil {
		return nil, true, err
	}
	plain, err = io.ReadAll(io.LimitReader(r, maxDrawing+1))
	if err == nil && len(plain) > maxDrawing {
		err = errSVG
	}
	return plain, true, err
}

func packedAgain(b []byte) []byte {
	var out bytes.Buffer
	w, _ := gzip.NewWriterLevel(&out, gzip.BestCompression) // fails for levels that do not exist only
	_, _ = w.Write(b)
	_ = w.Close()
	return out.Bytes()
}

// drawing returns an SVG document with its glyphs by new numbers. Elements of
// glyphs that go are cut out where they stand on their own and nothing uses
// them; others are given a name that no glyph has.
func (t *trimmer) drawing(text []byte) []byte {
	text = t.cut(text)
	return glyphID.ReplaceAllFunc(text, func(m []byte) []byte {
		part := glyphID.FindSubmatch(m)
		old, err := strconv.Atoi(string(part[2]))
		if err == nil && old < len(t.to) && t.keep.Has(table.GlyphID(old)) {
			return fmt.Appendf(nil, "%s%d", part[1], t.to[old])
		}
		return fmt.Appendf(nil, "%s-gone%s", part[1], part[2])
	})
}

// cut removes the outermost elements of glyphs that go, unless something refers
// to them or the text is no XML.
func (t *trimmer) cut(text []byte) []byte {
	used := map[string]bool{}
	for _, m := range glyphID.FindAllSubmatch(text, -1) {
		if m[1][0] == '#' {
			used[string(m[2])] = true
		}
	}
	d := xml.NewDecoder(bytes.NewReader(text))
	d.Strict = false
	var out []byte
	last, from, depth := 0, -1, 0
	for {
		at := int(d.InputOffset())
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return text
		}
		switch e := token.(type) {
		case xml.StartElement:
			if from >= 0 {
				depth++
				break
			}
			for _, a := range e.Attr {
				m := isGlyphID.FindStringSubmatch(a.Value)
				if a.Name.Local != "id" || m == nil || used[m[1]] {
					continue
				}
				if g, err := strconv.Atoi(m[1]); err == nil && (g >= len(t.to) || !t.keep.Has(table.GlyphID(g))) {
					from, depth = at, 1
				}
			}
		case xml.EndElement:
			if from < 0 {
				break
			}
			if depth--; depth == 0 {
				out = append(out, text[last:from]...)
				last, from = int(d.InputOffset()), -1
			}
		}
	}
	return append(out, text[last:]...)
}
