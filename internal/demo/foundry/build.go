package foundry

import (
	"math"
	"slices"
	"strings"
	"time"

	"sparecrate/font"
	"sparecrate/font/cff"
	"sparecrate/font/glyf"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// drawnOn is the date every face carries, so that the bytes never change.
var drawnOn = time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)

// Build draws the design and writes it as a TTF, or as an OTF with PostScript
// outlines.
func Build(d *Design, as font.Container) ([]byte, error) {
	glyphs := d.draw()
	index := map[rune]table.GlyphID{}
	byName := map[string]table.GlyphID{}
	var pairs []table.Mapping
	for i, g := range glyphs {
		byName[g.name] = table.GlyphID(i)
		if g.rune != 0 {
			index[g.rune] = table.GlyphID(i)
			pairs = append(pairs, table.Mapping{Rune: g.rune, Glyph: table.GlyphID(i)})
		}
	}
	slices.SortFunc(pairs, func(a, b table.Mapping) int { return int(a.Rune - b.Rune) })
	f := &sfnt.Font{Flavor: sfnt.VersionTrueType}
	set := func(tag sfnt.Tag, data []byte) { f.Tables = append(f.Tables, sfnt.Table{Tag: tag, Data: data}) }

	var bounds []glyf.Bounds
	head := table.Head{Revision: 0x00010000, Flags: 0x000B, UnitsPerEm: unitsPerEm, Created: drawnOn, Modified: drawnOn, LowestPPEM: 8}
	post := table.Post{UnderlinePosition: -110, UnderlineThickness: int16(d.H * 0.7), Monospaced: d.Pitch > 0, ItalicAngle: d.angle()}
	if as == font.OTF {
		f.Flavor = uint32(sfnt.VersionCFF)
		bounds = outlineBounds(glyphs)
		set(table.TagCFF, d.postScript(glyphs, all(bounds)))
		set(table.TagMaxp, (&table.Maxp{Glyphs: uint16(len(glyphs))}).Encode())
		set(table.TagPost, post.Encode(nil))
	} else {
		t := glyf.Encode(trueType(glyphs, index))
		bounds = t.Bounds
		head.LongLoca = t.LongLoca
		set(table.TagGlyf, t.Glyf)
		set(table.TagLoca, t.Loca)
		set(table.TagMaxp, t.Profile.Encode())
		names := make([]string, len(glyphs))
		for i, g := range glyphs {
			names[i] = g.name
		}
		set(table.TagPost, post.Encode(names))
	}
	box := all(bounds)
	head.XMin, head.YMin, head.XMax, head.YMax = box.XMin, box.YMin, box.XMax, box.YMax
	if d.Weight == 700 {
		head.MacStyle = table.MacBold
	}
	if d.italic() {
		head.MacStyle |= table.MacItalic
	}
	metrics, hhea := d.metrics(glyphs, bounds)
	set(table.TagHead, head.Encode())
	set(table.TagHhea, hhea.Encode())
	set(table.TagHmtx, table.EncodeHmtx(metrics))
	set(table.TagOS2, d.os2(glyphs, pairs, box).Encode())
	set(table.TagCmap, table.EncodeCmap(pairs))
	set(table.TagName, d.names().Encode())
	if d.Pitch == 0 {
		set(table.TagGPOS, d.kerning(index).Encode())
	}
	var joined []table.Ligature
	for _, pair := range []string{"fi", "tt", "ff"} {
		a, b := rune(pair[0]), rune(pair[1])
		if to, is := byName[string(a)+"_"+string(b)]; is {
			joined = append(joined, table.Ligature{From: []table.GlyphID{index[a], index[b]}, To: to})
		}
	}
	if len(joined) > 0 {
		set(table.TagGSUB, table.EncodeLigatures(joined, []string{"TRK ", "AZE ", "CRT "}))
	}
	return font.Make(f, as)
}

// trueType returns outlines with quadratic contours run clockwise, as TrueType
// has them, and composed letters as composites behind everything they use.
func trueType(glyphs []glyph, index map[rune]table.GlyphID) []glyf.Outline {
	out := make([]glyf.Outline, len(glyphs))
	for i, g := range glyphs {
		o := &out[i]
		o.Overlap = true
		for _, p := range g.parts {
			o.Parts = append(o.Parts, glyf.Part{Glyph: index[p.rune], X: p.x, Y: p.y})
		}
		if len(g.parts) == 0 {
			for _, c := range g.contours {
				o.Contours = append(o.Contours, c.Reverse())
			}
		}
	}
	return out
}

func (d *Design) postScript(glyphs []glyph, box glyf.Bounds) []byte {
	f := cff.Font{
		PostScript: d.PostScript, Family: d.Family, Full: d.full(), Weight: d.Style, Notice: copyright,
		Bounds: [4]int{int(box.XMin), int(box.YMin), int(box.XMax), int(box.YMax)},
	}
	for _, g := range glyphs {
		f.Glyphs = append(f.Glyphs, cff.Glyph{Name: g.name, Advance: g.advance, Contours: g.contours})
	}
	return f.Encode()
}

func outlineBounds(glyphs []glyph) []glyf.Bounds {
	out := make([]glyf.Bounds, len(glyphs))
	for i, g := range glyphs {
		if len(g.contours) == 0 {
			continue
		}
		b := extent(g.contours)
		out[i] = glyf.Bounds{XMin: int16(math.Floor(b.x0)), YMin: int16(math.Floor(b.y0)), XMax: int16(math.Ceil(b.x1)), YMax: int16(math.Ceil(b.y1))}
	}
	return out
}

func all(bounds []glyf.Bounds) glyf.Bounds {
	var b glyf.Bounds
	for _, g := range bounds {
		b.XMin, b.YMin = min(b.XMin, g.XMin), min(b.YMin, g.YMin)
		b.XMax, b.YMax = max(b.XMax, g.XMax), max(b.YMax, g.YMax)
	}
	return b
}

// Line metrics: all three sets say the same, so text sits alike everywhere.
const (
	lineAscent  = 960
	lineDescent = -260
)

func (d *Design) metrics(glyphs []glyph, bounds []glyf.Bounds) ([]table.Metric, table.Hhea) {
	h := table.Hhea{
		Ascent: lineAscent, Descent: lineDescent, CaretRise: 1, LongMetrics: uint16(len(glyphs)),
		MinLeft: math.MaxInt16, MinRight: math.MaxInt16,
	}
	metrics := make([]table.Metric, len(glyphs))
	for i, g := range glyphs {
		b := bounds[i]
		metrics[i] = table.Metric{Advance: uint16(g.advance), Left: b.XMin}
		h.AdvanceMax = max(h.AdvanceMax, uint16(g.advance))
		if b != (glyf.Bounds{}) {
			h.MinLeft = min(h.MinLeft, b.XMin)
			h.MinRight = min(h.MinRight, int16(g.advance)-b.XMax)
			h.MaxX = max(h.MaxX, b.XMax)
		}
	}
	return metrics, h
}

func (d *Design) os2(glyphs []glyph, pairs []table.Mapping, box glyf.Bounds) *table.OS2 {
	sum, n := 0, 0
	for _, g := range glyphs {
		if g.advance > 0 {
			sum, n = sum+g.advance, n+1
		}
	}
	t := &table.OS2{
		AverageWidth: int16(sum / n), WeightClass: uint16(d.Weight), WidthClass: uint16(d.WidthClass), Type: uint16(d.FsType),
		Subscript: [4]int16{650, 600, 0, 75}, Superscript: [4]int16{650, 600, 0, 350},
		StrikeoutSize: int16(d.H * 0.7), StrikeoutPos: int16(d.X * 0.55),
		Panose: [10]byte{2, 0, byte(d.Weight/100 + 1)}, UnicodeRange: [4]uint32{0x00000027, 0, 0, 0}, Vendor: "LNJW",
		Selection: table.SelectUseTypo, FirstChar: uint16(pairs[0].Rune), LastChar: uint16(pairs[len(pairs)-1].Rune),
		TypoAscender: lineAscent, TypoDescender: lineDescent, WinAscent: lineAscent, WinDescent: -lineDescent,
		CodePages: [2]uint32{0x00000093, 0}, XHeight: int16(d.X), CapHeight: int16(d.Cap), BreakChar: ' ', MaxContext: 2,
	}
	t.WinAscent, t.WinDescent = max(t.WinAscent, uint16(box.YMax)), max(t.WinDescent, uint16(-box.YMin))
	if d.Weight == 700 {
		t.Selection |= table.SelectBold
	}
	if d.italic() {
		t.Selection |= table.SelectItalic
	}
	if d.Weight == 400 && !d.italic() {
		t.Selection |= table.SelectRegular
	}
	if d.Pitch > 0 {
		t.Panose = [10]byte{2, 0, byte(d.Weight/100 + 1), 9}
	}
	return t
}

const (
	copyright = "Copyright 2026 Lanternjaw Studio. Drawn for the demonstration studio."
	maker     = "Lanternjaw Studio"
	makerURL  = "https://lanternjaw.example/type"
)

func (d *Design) full() string { return d.Family + " " + d.Style }

// angle is the angle of an italic as the post table has it.
func (d *Design) angle() table.Fixed {
	if !d.italic() {
		return 0
	}
	return table.Fixed(-d.Slant * 65536)
}

// italic reports whether the style is one; a script leans and is none.
func (d *Design) italic() bool { return strings.HasSuffix(d.Style, "Italic") }

// names follow the four-style rule: styles other than Regular, Italic, Bold and Bold Italic
// are families of their own in ID 1, held together by IDs 16 and 17.
func (d *Design) names() *table.Name {
	family, subfamily := d.Family, d.Style
	typographic := !slices.Contains([]string{"Regular", "Italic", "Bold", "Bold Italic"}, d.Style)
	if typographic {
		family, subfamily = d.full(), "Regular"
	}
	values := map[table.NameID]string{
		table.NameCopyright: copyright, table.NameFamily: family, table.NameSubfamily: subfamily,
		table.NameUnique: d.Version + ";LNJW;" + d.PostScript, table.NameFull: d.full(),
		table.NameVersion: "Version " + d.Version, table.NamePostScript: d.PostScript,
		table.NameManufacturer: maker, table.NameDesigner: "Ines Varga", table.NameVendorURL: makerURL,
		table.NameLicense: d.License, table.NameLicenseURL: d.LicenseURL, table.NameSampleText: d.Sample,
	}
	if typographic {
		values[table.NameTypographicFamily], values[table.NameTypographicSubfamily] = d.Family, d.Style
	}
	n := &table.Name{}
	for id := range table.NameVariationsPrefix {
		if v := values[id]; v != "" {
			n.Records = append(n.Records, table.NameRecord{Platform: table.PlatformWindows, Encoding: 1, Language: 0x0409, ID: id, Value: v})
		}
	}
	return n
}

// kerning pulls together what leaves holes: diagonals, arms over voids, and
// points beside them. Composed letters kern as their base.
func (d *Design) kerning(index map[rune]table.GlyphID) *table.Kerning {
	base := map[rune]rune{}
	for _, a := range accents(d) {
		base[a.rune] = a.base
	}
	classify := func(classes []string) map[table.GlyphID]int {
		out := map[table.GlyphID]int{}
		for r, g := range index {
			if b, ok := base[r]; ok {
				r = b
			}
			for c, members := range classes {
				if strings.ContainsRune(members, r) {
					out[g] = c + 1
				}
			}
		}
		return out
	}
	lefts := []string{"A", "TVWY", "FP", "LR", "vwyr", "oebp", "DOQ"}
	rights := []string{"A", "TVWY", "aceodqgs", "vwy", ".,…", "unmrpxz", "J"}
	const (
		lA = iota + 1
		lT
		lF
		lL
		lv
		lo
		lO
	)
	const (
		rA = iota + 1
		rT
		ro
		rv
		rPoint
		rn
		rJ
	)
	k := &table.Kerning{Left: classify(lefts), Right: classify(rights), Adjust: map[[2]int]int{}}
	for pair, units := range map[[2]int]int{
		{lA, rT}: -70, {lA, rv}: -28, {lT, rA}: -70, {lT, ro}: -74, {lT, rPoint}: -88, {lT, rn}: -46, {lT, rv}: -36, {lT, rJ}: -60,
		{lF, rA}: -56, {lF, rPoint}: -90, {lF, ro}: -24, {lF, rJ}: -60, {lL, rT}: -72, {lL, rv}: -34,
		{lv, rPoint}: -60, {lv, ro}: -10, {lo, rv}: -10, {lO, rA}: -26, {lO, rT}: -26, {lO, rPoint}: -36,
	} {
		k.Adjust[pair] = units
	}
	return k
}
