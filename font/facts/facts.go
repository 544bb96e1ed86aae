// Package facts reads what a face says of itself: its names, its embedding
// permission, its style, its measures, what it covers, and what is wrong with
// it. A Face is plain data and the JSON of `file read --json`.
package facts

import (
	"sparecrate/font"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// Face is everything read from one face. Lists are empty rather than nil, so
// that they are lists in JSON too.
type Face struct {
	Container  font.Container `json:"container"`
	Index      int            `json:"index"` // place within a collection
	Names      Names          `json:"names"`
	Style      Style          `json:"style"`
	Embedding  Embedding      `json:"embedding"`
	Outlines   Outlines       `json:"outlines"`
	UnitsPerEm int            `json:"unitsPerEm"`
	Glyphs     int            `json:"glyphs"`
	Metrics    Metrics        `json:"metrics"`
	Axes       []Axis         `json:"axes"`
	Instances  []Instance     `json:"instances"`
	Features   []string       `json:"features"`
	Color      []string       `json:"color"`
	Coverage   Coverage       `json:"coverage"`
	Problems   []Problem      `json:"problems"`
}

// Names are the values of the name table a reader of English expects.
type Names struct {
	Family               string `json:"family"`
	Subfamily            string `json:"subfamily"`
	Full                 string `json:"full"`
	PostScript           string `json:"postscript"`
	Version              string `json:"version"`
	TypographicFamily    string `json:"typographicFamily"`
	TypographicSubfamily string `json:"typographicSubfamily"`
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

// Slope is how letters lean.
type Slope string

// The slopes of CSS and of OS/2.fsSelection.
const (
	Upright Slope = "upright"
	Italic  Slope = "italic"
	Oblique Slope = "oblique"
)

// Style is a face's place within its family.
type Style struct {
	Weight       int     `json:"weight"`       // 1 to 1000, as in CSS
	WidthPercent float64 `json:"widthPercent"` // 100 is normal
	Slope        Slope   `json:"slope"`
}

// Outlines is the kind of drawing in a face.
type Outlines string

// The kinds of outlines.
const (
	TrueType Outlines = "truetype"
	CFF      Outlines = "cff"
	CFF2     Outlines = "cff2"
	Bitmap   Outlines = "bitmap"
	None     Outlines = "none"
)

// Metrics are line and letter heights in font units; the line metrics are the
// ones a browser uses: the typographic ones where the font asks for them, else hhea's.
type Metrics struct {
	Ascent    int `json:"ascent"`
	Descent   int `json:"descent"` // negative below the baseline
	LineGap   int `json:"lineGap"`
	XHeight   int `json:"xHeight"`
	CapHeight int `json:"capHeight"`
}

// Axis is an axis of a variable font.
type Axis struct {
	Tag     string  `json:"tag"`
	Min     float64 `json:"min"`
	Default float64 `json:"default"`
	Max     float64 `json:"max"`
	Name    string  `json:"name"`
}

// Instance is a named style of a variable font.
type Instance struct {
	Name        string             `json:"name"`
	PostScript  string             `json:"postscript"`
	Coordinates map[string]float64 `json:"coordinates"`
}

// Coverage is what can be written with a face.
type Coverage struct {
	Codepoints int      `json:"codepoints"` // how many
	Scripts    []string `json:"scripts"`
	Languages  []string `json:"languages"`
}

// Problem is something a studio should know, with a code that stays the same
// and a sentence.
type Problem struct {
	Code    string `json:"code"`
	Message string `json:"message"`
}

// The codes of problems.
const (
	ProblemTable        = "table-unreadable"
	ProblemNoName       = "no-name-table"
	ProblemNameText     = "name-text-missing"
	ProblemUsageBits    = "usage-bits-several"
	ProblemNoGlyphs     = "no-glyphs"
	ProblemNoCharacters = "no-characters"
	ProblemNoMetrics    = "no-line-metrics"
)

// Of reads the faces of an opened file. It never fails: what cannot be read is
// a problem of the face.
func Of(f *font.File) []Face {
	faces := make([]Face, len(f.Faces))
	for i, face := range f.Faces {
		faces[i] = read(face)
		faces[i].Container, faces[i].Index = f.Container, i
	}
	return faces
}

// Read opens the bytes of a font file and reads its faces.
func Read(b []byte) ([]Face, error) {
	f, err := font.Open(b)
	if err != nil {
		return nil, err
	}
	return Of(f), nil
}

// reading carries one face through the steps of read.
type reading struct {
	font *sfnt.Font
	out  Face
	head *table.Head
	hhea *table.Hhea
	os2  *table.OS2
	post *table.Post
	name *table.Name
}

func read(f *sfnt.Font) Face {
	r := &reading{font: f, out: Face{
		Axes: []Axis{}, Instances: []Instance{}, Features: []string{}, Color: []string{},
		Coverage: Coverage{Scripts: []string{}, Languages: []string{}}, Problems: []Problem{},
	}}
	r.head = parse(r, table.TagHead, table.ParseHead)
	r.hhea = parse(r, table.TagHhea, table.ParseHhea)
	r.os2 = parse(r, table.TagOS2, table.ParseOS2)
	r.post = parse(r, table.TagPost, table.ParsePost)
	r.name = parse(r, table.TagName, table.ParseName)
	r.readNames()
	r.readStyle()
	r.readEmbedding()
	r.readMeasures()
	r.readVariations()
	r.readContents()
	return r.out
}

// parse reads one table, nil where it is missing or unreadable; the latter is a
// problem.
func parse[T any](r *reading, tag sfnt.Tag, read func([]byte) (*T, error)) *T {
	b := r.font.Table(tag)
	if b == nil {
		return nil
	}
	t, err := read(b)
	if err != nil {
		r.problem(ProblemTable, "A part of the font cannot be read: "+err.Error()+".")
		return nil
	}
	return t
}

func (r *reading) problem(code, message string) {
	r.out.Problems = append(r.out.Problems, Problem{code, message})
}
