package facts

import (
	"fmt"
	"slices"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

func (r *reading) readNames() {
	if r.name == nil {
		if !r.font.Has(table.TagName) {
			r.problem(ProblemNoName, "The font has no name table; no system can list it. Ask the maker for a complete file.")
		}
		return
	}
	n := &r.out.Names
	for id, to := range map[table.NameID]*string{
		table.NameCopyright: &n.Copyright, table.NameFamily: &n.Family, table.NameSubfamily: &n.Subfamily,
		table.NameFull: &n.Full, table.NameVersion: &n.Version, table.NamePostScript: &n.PostScript,
		table.NameTrademark: &n.Trademark, table.NameManufacturer: &n.Manufacturer, table.NameDesigner: &n.Designer,
		table.NameDescription: &n.Description, table.NameVendorURL: &n.VendorURL, table.NameDesignerURL: &n.DesignerURL,
		table.NameLicense: &n.License, table.NameLicenseURL: &n.LicenseURL, table.NameSampleText: &n.SampleText,
		table.NameTypographicFamily: &n.TypographicFamily, table.NameTypographicSubfamily: &n.TypographicSubfamily,
	} {
		*to = r.name.Best(id)
	}
	if r.name.Skipped > 0 {
		r.problem(ProblemNameText, fmt.Sprintf("The text of %d name record(s) lies outside the name table and is lost; ask the maker for a whole file.", r.name.Skipped))
	}
}

// readMeasures fills units, glyph count, line metrics and heights.
func (r *reading) readMeasures() {
	if r.head != nil {
		r.out.UnitsPerEm = int(r.head.UnitsPerEm)
	}
	if m := parse(r, table.TagMaxp, table.ParseMaxp); m != nil {
		r.out.Glyphs = int(m.Glyphs)
	}
	m := &r.out.Metrics
	switch {
	case r.os2 != nil && r.os2.HasTypo && r.os2.Selection&table.SelectUseTypo != 0:
		m.Ascent, m.Descent, m.LineGap = int(r.os2.TypoAscender), int(r.os2.TypoDescender), int(r.os2.TypoLineGap)
	case r.hhea != nil:
		m.Ascent, m.Descent, m.LineGap = int(r.hhea.Ascent), int(r.hhea.Descent), int(r.hhea.LineGap)
	default:
		r.problem(ProblemNoMetrics, "The font states no line height (no `hhea` table); text set in it will sit differently everywhere.")
	}
	if r.os2 != nil && r.os2.HasHeights {
		m.XHeight, m.CapHeight = int(r.os2.XHeight), int(r.os2.CapHeight)
	}
}

func (r *reading) readVariations() {
	f := parse(r, table.TagFvar, table.ParseFvar)
	if f == nil {
		return
	}
	name := func(id table.NameID) string {
		if r.name == nil {
			return ""
		}
		return r.name.Best(id)
	}
	for _, a := range f.Axes {
		r.out.Axes = append(r.out.Axes, Axis{a.Tag.String(), a.Min.Float(), a.Default.Float(), a.Max.Float(), name(a.Name)})
	}
	for _, in := range f.Instances {
		one := Instance{Name: name(in.Name), PostScript: name(in.PostScript), Coordinates: map[string]float64{}}
		for i, c := range in.Coordinates {
			one.Coordinates[f.Axes[i].Tag.String()] = c.Float()
		}
		r.out.Instances = append(r.out.Instances, one)
	}
}

var (
	bitmapTables = []sfnt.Tag{sfnt.MakeTag("EBDT"), sfnt.MakeTag("CBDT"), sfnt.MakeTag("sbix"), sfnt.MakeTag("bdat")}
	colorTables  = []sfnt.Tag{sfnt.MakeTag("COLR"), sfnt.MakeTag("SVG "), sfnt.MakeTag("sbix"), sfnt.MakeTag("CBDT")}
)

// readContents fills outlines, color, features and coverage.
func (r *reading) readContents() {
	out := &r.out
	switch {
	case len(r.font.Table(table.TagGlyf)) > 0:
		out.Outlines = TrueType
	case r.font.Has(table.TagCFF):
		out.Outlines = CFF
	case r.font.Has(table.TagCFF2):
		out.Outlines = CFF2
	case slices.ContainsFunc(bitmapTables, r.font.Has):
		out.Outlines = Bitmap
	default:
		out.Outlines = None
		r.problem(ProblemNoGlyphs, "The font holds no drawings of letters; nothing can be set in it.")
	}
	for _, t := range colorTables {
		if r.font.Has(t) {
			out.Color = append(out.Color, t.String())
		}
	}
	for _, t := range []sfnt.Tag{table.TagGSUB, table.TagGPOS} {
		out.Features = append(out.Features, table.LayoutTags(r.font.Table(t))...)
	}
	slices.Sort(out.Features)
	out.Features = slices.Compact(out.Features)

	if b := r.font.Table(table.TagCmap); b != nil {
		runs, err := table.ParseCmap(b)
		if err != nil {
			r.problem(ProblemTable, "A part of the font cannot be read: "+err.Error()+".")
		}
		for _, run := range runs {
			out.Coverage.Codepoints += run.Count
		}
	}
	if out.Coverage.Codepoints == 0 {
		r.problem(ProblemNoCharacters, "The font maps no characters to its glyphs; text cannot be set in it.")
	}
}
