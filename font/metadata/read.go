package metadata

import (
	"cmp"
	"slices"

	"sparecrate/font/cff"
	"sparecrate/font/coverage"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// readFrame fills what the directory and head say of the file.
func (r *reading) readFrame() {
	r.out.Tables = make([]Table, len(r.font.Tables))
	for i, t := range r.font.Tables {
		r.out.Tables[i] = Table{t.Tag.String(), len(t.Data)}
	}
	if r.os2 != nil {
		r.out.Vendor = r.os2.Vendor
	}
	if h := r.head; h != nil {
		// Hundredths are as fine as makers count; more digits are the binary fraction's.
		r.out.Revision = float64(int(h.Revision.Float()*1000+0.5)) / 1000
		if !h.Created.IsZero() {
			r.out.Created = &h.Created
		}
		if !h.Modified.IsZero() {
			r.out.Modified = &h.Modified
		}
	}
	r.judgeFrame()
}

var (
	bitmapTables = []sfnt.Tag{sfnt.MakeTag("EBDT"), sfnt.MakeTag("CBDT"), sfnt.MakeTag("sbix"), sfnt.MakeTag("bdat")}
	tagCOLR      = sfnt.MakeTag("COLR")
	tagCPAL      = sfnt.MakeTag("CPAL")
	tagSVG       = sfnt.MakeTag("SVG ")
	tagSbix      = sfnt.MakeTag("sbix")
	tagCBDT      = sfnt.MakeTag("CBDT")
	tagFpgm      = sfnt.MakeTag("fpgm")
	tagKern      = sfnt.MakeTag("kern")
)

// readDrawings fills outlines, hinting and color.
func (r *reading) readDrawings() {
	out := &r.out
	switch {
	case len(r.font.Table(table.TagGlyf)) > 0:
		out.Outlines = TrueType
		if r.maxp != nil && r.maxp.Instructions > 0 || len(r.font.Table(tagFpgm)) > 0 {
			out.Hinting = HintingInstructions
		}
	case r.font.Has(table.TagCFF):
		out.Outlines = CFF
		r.readPostScript(table.TagCFF)
	case r.font.Has(table.TagCFF2):
		out.Outlines = CFF2
		r.readPostScript(table.TagCFF2)
	case slices.ContainsFunc(bitmapTables, r.font.Has):
		out.Outlines = Bitmap
		if !r.font.Has(tagSbix) && !r.font.Has(tagCBDT) {
			r.problem(ProblemBitmapOnly, "The font holds only bitmaps for fixed sizes, which no browser draws; ask the foundry for one with outlines.")
		}
	default:
		out.Outlines = None
		r.problem(ProblemNoGlyphs, "The font holds no drawings of letters; nothing can be set in it.")
	}
	if b := r.font.Table(tagCOLR); b != nil {
		kind := "COLRv0"
		if version, _ := sfnt.View(b).U16(0); version >= 1 {
			kind = "COLRv1"
		}
		out.Color = append(out.Color, kind)
	}
	for tag, kind := range map[sfnt.Tag]string{tagSVG: "SVG", tagSbix: "sbix", tagCBDT: "CBDT"} {
		if r.font.Has(tag) {
			out.Color = append(out.Color, kind)
		}
	}
	slices.Sort(out.Color)
	if b := r.font.Table(tagCPAL); b != nil {
		n, _ := sfnt.View(b).U16(4)
		out.Palettes = int(n)
	}
}

func (r *reading) readPostScript(tag sfnt.Tag) {
	t, err := cff.Parse(r.font.Table(tag))
	if err != nil {
		r.unreadable(err)
		return
	}
	if t.Hinted() {
		r.out.Hinting = HintingZones
	}
}

// readLayout fills features and the scripts they are for.
func (r *reading) readLayout() {
	out := &r.out
	var features []sfnt.Tag
	var languages []table.LayoutLanguage
	for _, tag := range []sfnt.Tag{table.TagGSUB, table.TagGPOS} {
		if b := r.font.Table(tag); b != nil {
			features = append(features, table.LayoutFeatures(b)...)
			languages = append(languages, table.LayoutLanguages(b)...)
		}
	}
	slices.Sort(features)
	features = slices.Compact(features)
	out.Features = make([]string, len(features))
	for i, tag := range features {
		out.Features[i] = tag.String()
	}
	slices.SortFunc(languages, func(a, b table.LayoutLanguage) int {
		return cmp.Compare(uint64(a.Script)<<32|uint64(a.Language), uint64(b.Script)<<32|uint64(b.Language))
	})
	for _, l := range slices.Compact(languages) {
		if l.Language == 0 {
			out.LayoutScripts = append(out.LayoutScripts, LayoutScript{l.Script.String(), []string{}})
			continue
		}
		last := &out.LayoutScripts[len(out.LayoutScripts)-1]
		last.Languages = append(last.Languages, l.Language.String())
	}
}

// readCoverage fills what can be written.
func (r *reading) readCoverage() {
	out := &r.out.Coverage
	if b := r.font.Table(table.TagCmap); b != nil {
		runs, err := table.AppendCoverage(*r.room, b)
		if err != nil {
			r.unreadable(err)
		}
		r.runs = runs
		for _, run := range runs {
			out.Codepoints += run.Count
		}
	}
	if out.Codepoints == 0 {
		r.problem(ProblemNoCharacters, "The font maps no characters to its glyphs; text cannot be set in it.")
		return
	}
	*out = Writes(r.runs)
	r.judgeCoverage()
}

// Writes says what can be written with characters: of one face, or of all parts of one.
func Writes(characters coverage.Characters) Coverage {
	writes := coverage.Of(characters)
	out := Coverage{Codepoints: characters.Len(), Scripts: writes.Scripts, Languages: writes.Languages, Nearly: writes.Nearly}
	if out.Nearly == nil {
		out.Nearly = []coverage.Nearly{}
	}
	return out
}
