package sites

import (
	"sparecrate/font"
	"sparecrate/font/glyf"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// marked makes a font say that it is italic.
func marked(b []byte) ([]byte, error) {
	f, err := font.Open(b)
	if err != nil {
		return nil, err
	}
	os2, err := table.ParseOS2(f.Faces[0].Table(table.TagOS2))
	if err != nil {
		return nil, err
	}
	head, err := table.ParseHead(f.Faces[0].Table(table.TagHead))
	if err != nil {
		return nil, err
	}
	os2.Selection = os2.Selection&^(1<<6) | 1
	head.MacStyle |= 2
	return font.Make(withTable(withTable(f.Faces[0], table.TagOS2, os2.Encode()), table.TagHead, head.Encode()), font.WOFF2)
}

// icons makes a font of icons: capitals at characters for private use.
func icons(b []byte) ([]byte, error) {
	f, err := font.Open(b)
	if err != nil {
		return nil, err
	}
	runs, err := table.ParseCmap(f.Faces[0].Table(table.TagCmap))
	if err != nil {
		return nil, err
	}
	var pairs []table.Mapping
	for _, r := range runs {
		for i := range r.Count {
			if c := r.First + rune(i); c >= 'A' && c <= 'Z' { //nolint:gosec // a code point
				pairs = append(pairs, table.Mapping{Rune: 0xE000 + c - 'A', Glyph: r.Glyph + table.GlyphID(i)}) //nolint:gosec // a glyph
			}
		}
	}
	return font.Make(withTable(f.Faces[0], table.TagCmap, table.EncodeCmap(pairs)), font.WOFF2)
}

// large makes a font of which a page shows little: one with thousands of glyphs that no
// two are alike.
func large(b []byte) ([]byte, error) {
	f, err := font.Open(b)
	if err != nil {
		return nil, err
	}
	more, err := grown(f.Faces[0])
	if err != nil {
		return nil, err
	}
	return font.Make(more, font.WOFF2)
}

// copies is how often a large font draws each glyph again, each time a little otherwise.
const copies = 12

func grown(f *sfnt.Font) (*sfnt.Font, error) {
	head, err := table.ParseHead(f.Table(table.TagHead))
	if err != nil {
		return nil, err
	}
	hhea, err := table.ParseHhea(f.Table(table.TagHhea))
	if err != nil {
		return nil, err
	}
	maxp, err := table.ParseMaxp(f.Table(table.TagMaxp))
	if err != nil {
		return nil, err
	}
	runs, err := table.ParseCmap(f.Table(table.TagCmap))
	if err != nil {
		return nil, err
	}
	glyphs, err := glyf.Locate(f.Table(table.TagGlyf), f.Table(table.TagLoca), head.LongLoca)
	if err != nil {
		return nil, err
	}
	metrics := table.ParseHmtx(f.Table(table.TagHmtx), int(hhea.LongMetrics), int(maxp.Glyphs))
	var pairs []table.Mapping
	for _, r := range runs {
		for i := range r.Count {
			pairs = append(pairs, table.Mapping{Rune: r.First + rune(i), Glyph: r.Glyph + table.GlyphID(i)}) //nolint:gosec // as it was read
		}
	}
	own := len(glyphs)
	for copy := range copies {
		for at := range own {
			simple, err := glyf.ParseSimple(glyphs[at])
			if err != nil || len(simple.Points) == 0 {
				continue
			}
			for k := range simple.Points {
				simple.Points[k].X += (copy*7 + k*5 + at) % 19
				simple.Points[k].Y += (copy*11 + k*3 + at) % 17
			}
			simple.Bounds = simple.Measure()
			pairs = append(pairs, table.Mapping{Rune: rune(0x4E00 + len(glyphs) - own), Glyph: table.GlyphID(len(glyphs))}) //nolint:gosec // within the plane
			glyphs, metrics = append(glyphs, simple.Append(nil)), append(metrics, metrics[at])
		}
	}
	var data []byte
	offsets := []int{0}
	for _, g := range glyphs {
		data = append(data, g...)
		for len(data)%4 != 0 {
			data = append(data, 0)
		}
		offsets = append(offsets, len(data))
	}
	head.LongLoca, maxp.Glyphs = true, uint16(len(glyphs)) //nolint:gosec // some thousands
	hmtx, long := table.EncodeMetrics(metrics)
	hhea.LongMetrics = uint16(long) //nolint:gosec // glyphs
	for tag, b := range map[sfnt.Tag][]byte{table.TagGlyf: data, table.TagLoca: glyf.Index(offsets, true), table.TagHead: head.Encode(), table.TagMaxp: maxp.Encode(),
		table.TagHmtx: hmtx, table.TagHhea: hhea.Encode(), table.TagCmap: table.EncodeCmap(pairs), table.TagPost: (&table.Post{Version: 0x00030000}).Encode(nil)} {
		f = withTable(f, tag, b)
	}
	return f, nil
}
