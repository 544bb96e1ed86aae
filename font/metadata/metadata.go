// Package metadata reads what a face says of itself: its names, its embedding
// permission, its style, its measures, what it covers, and what is wrong with
// it. A Face is plain data and the JSON of `file read --json`.
package metadata

import (
	"encoding/json"
	"sync"
	"time"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// Version goes up when metadata of the same bytes are read otherwise than before,
// so that what was kept can be read again.
const Version = 6

// Face is everything read from one face. Lists are empty rather than nil, so
// that they are lists in JSON too.
type Face struct {
	Container       font.Container   `json:"format"`
	Index           int              `json:"index"` // place within a collection
	Names           Names            `json:"names"`
	Records         []NameRecord     `json:"records"`
	Style           Style            `json:"style"`
	Embedding       Embedding        `json:"embedding"`
	Outlines        Outlines         `json:"outlines"`
	Hinting         Hinting          `json:"hinting"`
	UnitsPerEm      int              `json:"unitsPerEm"`
	Glyphs          int              `json:"glyphs"`
	Metrics         Metrics          `json:"metrics"`
	Lines           Lines            `json:"lines"`
	Axes            []Axis           `json:"axes"`
	Instances       []Instance       `json:"instances"`
	StyleAttributes []StyleAttribute `json:"styleAttributes"`
	Features        []string         `json:"features"`
	LayoutScripts   []LayoutScript   `json:"layoutScripts"`
	Color           []string         `json:"color"` // COLRv0, COLRv1, SVG, sbix, CBDT
	Palettes        int              `json:"palettes"`
	Coverage        Coverage         `json:"coverage"`
	Vendor          string           `json:"vendor"`             // the four letters of OS/2.achVendID
	Revision        float64          `json:"revision"`           // head.fontRevision
	Created         *time.Time       `json:"created,omitempty"`  // head, UTC
	Modified        *time.Time       `json:"modified,omitempty"` // head, UTC
	Tables          []Table          `json:"tables"`
	Checksums       Checksums        `json:"checksums"`
	Problems        []Problem        `json:"problems"`
}

// Table is a table of the file and its length in bytes, unpacked.
type Table struct {
	Tag   string `json:"tag"`
	Bytes int    `json:"bytes"`
}

// Checksums says whether tables are what the file's directory says they are.
type Checksums struct {
	State ChecksumState `json:"state"`
	Wrong []string      `json:"wrong"` // tags
}

// ChecksumState is what is known of a face's checksums.
type ChecksumState string

// The states of checksums.
const (
	ChecksumsRight     ChecksumState = "right"
	ChecksumsWrong     ChecksumState = "wrong"
	ChecksumsUnstated  ChecksumState = "not-stated" // WOFF2 carries none
	ChecksumsUnchecked ChecksumState = "not-checked"
)

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

// Hinting is the help a face gives for drawing at small sizes.
type Hinting string

// The kinds of hinting.
const (
	HintingNone         Hinting = "none"
	HintingInstructions Hinting = "instructions" // TrueType programs
	HintingZones        Hinting = "zones"        // PostScript alignment zones and stems
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
	Hidden  bool    `json:"hidden"` // not meant for people
	Bent    bool    `json:"bent"`   // avar: its scale is not even
}

// Instance is a named style of a variable font.
type Instance struct {
	Name        string             `json:"name"`
	PostScript  string             `json:"postscript"`
	Coordinates map[string]float64 `json:"coordinates"`
}

// StyleAttribute is an axis along which the family's faces differ, with the
// names of places on it (`STAT`).
type StyleAttribute struct {
	Tag    string       `json:"tag"`
	Name   string       `json:"name"`
	Values []StyleValue `json:"values"`
}

// StyleValue is a named place or range on a style axis.
type StyleValue struct {
	Name     string   `json:"name"`
	Value    float64  `json:"value"`
	Min      float64  `json:"min"`
	Max      float64  `json:"max"`
	Linked   *float64 `json:"linked,omitempty"` // the place style linking goes to, such as bold's
	Elidable bool     `json:"elidable"`         // left out of style names
}

// LayoutScript is a script the layout rules are written for, by OpenType tag,
// with the languages that have rules of their own.
type LayoutScript struct {
	Tag       string   `json:"tag"`
	Languages []string `json:"languages"`
}

// Coverage is what can be written with a face.
type Coverage struct {
	Codepoints int               `json:"codepoints"` // how many
	Scripts    []coverage.Script `json:"scripts"`
	Languages  []string          `json:"languages"` // codes of package coverage
	Nearly     []coverage.Nearly `json:"nearly"`
}

// Problem is something a studio should know, with a code that stays the same
// and a sentence.
type Problem struct {
	Code    string `json:"code"`
	Message string `json:"message"`
}

// Of reads the faces of an opened file, without their checksums: only the
// tables that metadata stand in are touched. It never fails: what cannot be read
// is a problem of the face.
func Of(f *font.File) []Face {
	faces := make([]Face, len(f.Faces))
	for i, face := range f.Faces {
		faces[i] = read(face)
		faces[i].Container, faces[i].Index = f.Container, i
	}
	return faces
}

// One reads a face that no file holds yet.
func One(f *sfnt.Font) Face { return read(f) }

// Read opens the bytes of a font file, reads its faces and checks the sums of
// all their tables.
func Read(b []byte) ([]Face, error) {
	f, err := font.Open(b)
	if err != nil {
		return nil, err
	}
	return Checked(f), nil
}

// Checked reads the faces of a file as Of does, and checks the sums of its tables.
func Checked(f *font.File) []Face {
	faces := Of(f)
	for i, wrong := range sfnt.WrongChecksums(f.Faces) {
		faces[i].verify(wrong)
	}
	return faces
}

// reading carries one face through the steps of read.
type reading struct {
	font *sfnt.Font
	out  Face
	head *table.Head
	hhea *table.Hhea
	maxp *table.Maxp
	os2  *table.OS2
	post *table.Post
	name *table.Name
	// style is the style's name, which several steps look for words in.
	style string
	runs  []table.Run          // what the character map covers
	room  *[]table.Run         // that they are written to
	byID  map[table.NameID]int // the best record of each name ID, once asked for
}

// blank is a face of which nothing is known, with lists that are empty.
func blank() Face {
	return Face{
		Records: []NameRecord{}, Axes: []Axis{}, Instances: []Instance{}, StyleAttributes: []StyleAttribute{},
		Features: []string{}, LayoutScripts: []LayoutScript{}, Color: []string{}, Hinting: HintingNone, Tables: []Table{},
		Lines:     Lines{Sets: []LineMetrics{}, Systems: map[string]LineSet{}},
		Coverage:  Coverage{Scripts: []coverage.Script{}, Languages: []string{}, Nearly: []coverage.Nearly{}},
		Checksums: Checksums{ChecksumsUnchecked, []string{}}, Problems: []Problem{},
	}
}

// UnmarshalJSON leaves empty what the JSON does not speak of: metadata that an
// older version wrote have lists too.
func (f *Face) UnmarshalJSON(b []byte) error {
	type plain Face
	p := plain(blank())
	if err := json.Unmarshal(b, &p); err != nil {
		return err
	}
	*f = Face(p)
	return nil
}

// rooms are lists for what character maps cover, used again by the next face;
// larger ones than maxRoom, in runs, are not kept.
var rooms = sync.Pool{New: func() any { return new([]table.Run) }}

const maxRoom = 1 << 14

func read(f *sfnt.Font) Face {
	room := rooms.Get().(*[]table.Run) //nolint:errcheck // nothing else is put there
	r := &reading{font: f, out: blank(), room: room}
	defer func() {
		if r.runs != nil {
			*room = r.runs
		}
		if cap(*room) <= maxRoom {
			rooms.Put(room)
		}
	}()
	r.head = parse(r, table.TagHead, table.ParseHead)
	r.hhea = parse(r, table.TagHhea, table.ParseHhea)
	r.maxp = parse(r, table.TagMaxp, table.ParseMaxp)
	r.os2 = parse(r, table.TagOS2, table.ParseOS2)
	r.post = parse(r, table.TagPost, table.ParsePost)
	r.name = parse(r, table.TagName, table.ParseName)
	r.readFrame()
	r.readNames()
	r.readStyle()
	r.readEmbedding()
	r.readMeasures()
	r.readVariations()
	r.readDrawings()
	r.readLayout()
	r.readCoverage()
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
		r.unreadable(err)
		return nil
	}
	return t
}
