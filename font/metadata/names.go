package metadata

import (
	"fmt"
	"strings"

	"sparecrate/font/table"
)

// Names are the values of the name table a reader of English expects. In names
// of other languages, see NamesIn.
type Names struct {
	Family               string `json:"family"`
	Subfamily            string `json:"subfamily"`
	Unique               string `json:"unique"`
	Full                 string `json:"full"`
	PostScript           string `json:"postscript"`
	Version              string `json:"version"`
	TypographicFamily    string `json:"typographicFamily"`
	TypographicSubfamily string `json:"typographicSubfamily"`
	CompatibleFull       string `json:"compatibleFull"`
	WWSFamily            string `json:"wwsFamily"`
	WWSSubfamily         string `json:"wwsSubfamily"`
	VariationsPrefix     string `json:"variationsPrefix"`
	Copyright            string `json:"copyright"`
	Trademark            string `json:"trademark"`
	Manufacturer         string `json:"manufacturer"`
	Designer             string `json:"designer"`
	Description          string `json:"description"`
	VendorURL            string `json:"vendorUrl"`
	DesignerURL          string `json:"designerUrl"`
	License              string `json:"license"`
	LicenseURL           string `json:"licenseUrl"`
	SampleText           string `json:"sampleText"`
}

// field returns the place of a name ID's value, nil for an ID without one.
func (n *Names) field(id table.NameID) *string {
	switch id {
	case table.NameFamily:
		return &n.Family
	case table.NameSubfamily:
		return &n.Subfamily
	case table.NameUnique:
		return &n.Unique
	case table.NameFull:
		return &n.Full
	case table.NamePostScript:
		return &n.PostScript
	case table.NameVersion:
		return &n.Version
	case table.NameTypographicFamily:
		return &n.TypographicFamily
	case table.NameTypographicSubfamily:
		return &n.TypographicSubfamily
	case table.NameCompatibleFull:
		return &n.CompatibleFull
	case table.NameWWSFamily:
		return &n.WWSFamily
	case table.NameWWSSubfamily:
		return &n.WWSSubfamily
	case table.NameVariationsPrefix:
		return &n.VariationsPrefix
	case table.NameCopyright:
		return &n.Copyright
	case table.NameTrademark:
		return &n.Trademark
	case table.NameManufacturer:
		return &n.Manufacturer
	case table.NameDesigner:
		return &n.Designer
	case table.NameDescription:
		return &n.Description
	case table.NameVendorURL:
		return &n.VendorURL
	case table.NameDesignerURL:
		return &n.DesignerURL
	case table.NameLicense:
		return &n.License
	case table.NameLicenseURL:
		return &n.LicenseURL
	case table.NameSampleText:
		return &n.SampleText
	}
	return nil
}

// NameRecord is one record of the name table.
type NameRecord struct {
	ID       int    `json:"id"`
	Platform int    `json:"platform"` // 0 Unicode, 1 Macintosh, 3 Windows
	Encoding int    `json:"encoding"`
	Language string `json:"language"` // a BCP 47 tag, empty where the number is not known
	Value    string `json:"value"`
}

// FamilyName is the family people think of: the typographic one where there is
// one, else name ID 1 without a style word that only the four-style rule put there.
func (n *Names) FamilyName() string {
	if n.TypographicFamily != "" {
		return n.TypographicFamily
	}
	base, _ := splitStyleWords(n.Family)
	return base
}

// StyleName is the style within FamilyName.
func (n *Names) StyleName() string {
	if n.TypographicSubfamily != "" {
		return n.TypographicSubfamily
	}
	if n.TypographicFamily == "" {
		if _, words := splitStyleWords(n.Family); words != "" {
			if n.Subfamily == "" || n.Subfamily == "Regular" {
				return words
			}
			return words + " " + n.Subfamily
		}
	}
	if n.Subfamily == "" {
		return "Regular"
	}
	return n.Subfamily
}

// NamesIn returns the names as a reader of the languages given expects them, BCP
// 47 tags in the order of preference: a record in the very language, else in
// the same language elsewhere, else the English ones.
func (f *Face) NamesIn(languages ...string) Names {
	n := f.Names
	best := map[int]int{}
	for _, r := range f.Records {
		to := n.field(table.NameID(r.ID))
		if to == nil || r.Value == "" || r.Language == "" {
			continue
		}
		for i, want := range languages {
			rank := 2 * (len(languages) - i)
			switch {
			case strings.EqualFold(r.Language, want):
				rank++
			case !strings.EqualFold(primary(r.Language), primary(want)):
				continue
			}
			if rank > best[r.ID] {
				best[r.ID], *to = rank, shownAs(table.NameID(r.ID), r.Value)
			}
		}
	}
	return n
}

// primary is the language of a tag without script and region.
func primary(tag string) string {
	tag, _, _ = strings.Cut(tag, "-")
	return tag
}

func (r *reading) readNames() {
	if r.name == nil {
		if !r.font.Has(table.TagName) {
			r.problem(ProblemNoName, "The font has no name table; no system can list it. Ask the foundry for a complete file.")
		}
		return
	}
	texts := r.name.Texts()
	r.out.Records = make([]NameRecord, len(texts))
	var rank [maxNamedID + 1]int
	for i := range r.name.Records {
		rec := &r.name.Records[i]
		out := &r.out.Records[i]
		*out = NameRecord{int(rec.ID), int(rec.Platform), int(rec.Encoding), r.name.LanguageTag(rec), texts[i]}
		if out.Value == "" || rec.ID > maxNamedID || rec.Rank() <= rank[rec.ID] {
			continue
		}
		if to := r.out.Names.field(rec.ID); to != nil {
			*to, rank[rec.ID] = shownAs(rec.ID, out.Value), rec.Rank()
		}
	}
	if r.name.Skipped > 0 {
		r.problem(ProblemNameText, fmt.Sprintf("The text of %d name record(s) lies outside the name table and is lost; ask the foundry for a complete file.", r.name.Skipped))
	}
	r.style = r.out.Names.StyleName()
	r.judgeNames()
}

// shownAs returns the text of a name as people are to see it; the record itself stays
// as it is.
func shownAs(id table.NameID, text string) string {
	switch id {
	case table.NameCopyright, table.NameTrademark, table.NameDescription, table.NameLicense, table.NameSampleText:
		return PrintableText(text)
	}
	return Printable(text)
}

// maxNamedID is the last name ID with a meaning of its own.
const maxNamedID = table.NameVariationsPrefix
