// Package svgfont writes a face as an SVG 1.1 font (W3C recommendation of 16
// August 2011, chapter 20): an XML document with a path for each character.
// The first phones with a web browser took nothing else.
//
// It is the one container that loses something: hinting, kerning, ligatures and
// all other layout, variations (the default design is drawn), color and names
// beyond those of style. It is only written, never read.
package svgfont

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"strconv"
	"unicode/utf8"

	"sparecrate/font/curve"
	"sparecrate/font/outline"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// Limits on what is written; a font of Chinese comes to some 60 MB, five times
// the font.
const (
	MaxSize   = 256 << 20 // bytes
	maxGrowth = 64        // times the font
)

// ErrTooLarge says that the document would be larger than a limit.
var ErrTooLarge = errors.New("the SVG font would be larger than any old phone reads")

const header = `<?xml version="1.0" encoding="UTF-8"?>
<!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd">
<svg xmlns="http://www.w3.org/2000/svg" version="1.1">
`

// Encode writes the face. The error says what of the font cannot be read, or
// wraps outline.ErrNone or ErrTooLarge. The same face gives the same bytes.
func Encode(f *sfnt.Font) ([]byte, error) {
	e, err := open(f)
	if err != nil {
		return nil, err
	}
	e.out.WriteString(header)
	e.metadata()
	e.out.WriteString("<defs>\n")
	if err := e.face(); err != nil {
		return nil, err
	}
	e.out.WriteString("</font>\n</defs>\n</svg>\n")
	return e.out.Bytes(), nil
}

// encoder holds the tables while the document is written.
type encoder struct {
	out     bytes.Buffer
	most    int // bytes
	outline *outline.Reader
	runs    []table.Run
	metrics []table.Metric
	head    *table.Head
	hhea    *table.Hhea
	os2     *table.OS2
	post    *table.Post
	name    *table.Name
}

func open(f *sfnt.Font) (*encoder, error) {
	e := &encoder{os2: &table.OS2{WeightClass: 400}, post: &table.Post{}, name: &table.Name{}}
	for _, t := range f.Tables {
		e.most += maxGrowth * len(t.Data)
	}
	e.most = min(e.most, MaxSize)
	var err error
	if e.outline, err = outline.Open(f); err != nil {
		return nil, err
	}
	if e.runs, err = table.ParseCmap(f.Table(table.TagCmap)); err != nil {
		return nil, err
	}
	if e.head, err = table.ParseHead(f.Table(table.TagHead)); err != nil {
		return nil, err
	}
	if e.hhea, err = table.ParseHhea(f.Table(table.TagHhea)); err != nil {
		return nil, err
	}
	e.metrics = table.ParseHmtx(f.Table(table.TagHmtx), int(e.hhea.LongMetrics), e.outline.Count())
	// The rest has defaults, so that an old font without it is written too.
	if t, err := table.ParseOS2(f.Table(table.TagOS2)); err == nil {
		e.os2 = t
	}
	if t, err := table.ParsePost(f.Table(table.TagPost)); err == nil {
		e.post = t
	}
	if t, err := table.ParseName(f.Table(table.TagName)); err == nil {
		e.name = t
	}
	return e, nil
}

// metadata keeps what the font says of its rights.
func (e *encoder) metadata() {
	e.out.WriteString("<metadata>")
	for _, id := range []table.NameID{table.NameCopyright, table.NameLicense, table.NameLicenseURL} {
		if text := e.name.Best(id); text != "" {
			_ = xml.EscapeText(&e.out, []byte(text)) // a buffer takes everything
			e.out.WriteByte('\n')
		}
	}
	e.out.WriteString("</metadata>\n")
}

// face writes the font element and all in it.
func (e *encoder) face() error {
	id := e.name.Best(table.NamePostScript)
	if id == "" {
		id = "font"
	}
	usual := e.usualAdvance()
	e.element("font", attributes{{"id", id}, {"horiz-adv-x", strconv.Itoa(usual)}}, false)
	family := e.name.Best(table.NameTypographicFamily)
	if family == "" {
		family = e.name.Best(table.NameFamily)
	}
	style := "normal"
	if e.os2.Selection&table.SelectItalic != 0 {
		style = "italic"
	} else if e.os2.Selection&table.SelectOblique != 0 {
		style = "oblique"
	}
	face := attributes{
		{"font-family", family}, {"font-weight", strconv.Itoa(min(max(int(e.os2.WeightClass+50)/100*100, 100), 900))},
		{"font-style", style}, {"units-per-em", strconv.Itoa(int(e.head.UnitsPerEm))},
		{"ascent", strconv.Itoa(int(e.hhea.Ascent))}, {"descent", strconv.Itoa(int(e.hhea.Descent))},
		{"bbox", fmt.Sprintf("%d %d %d %d", e.head.XMin, e.head.YMin, e.head.XMax, e.head.YMax)},
		{"underline-position", strconv.Itoa(int(e.post.UnderlinePosition))}, {"underline-thickness", strconv.Itoa(int(e.post.UnderlineThickness))},
	}
	if e.os2.HasHeights {
		face = append(face, attribute{"x-height", strconv.Itoa(int(e.os2.XHeight))}, attribute{"cap-height", strconv.Itoa(int(e.os2.CapHeight))})
	}
	e.element("font-face", face, true)
	if err := e.glyph("missing-glyph", "", 0, usual); err != nil {
		return err
	}
	for _, run := range e.runs {
		for i := range run.Count {
			r := run.First + rune(i)
			if !inXML(r) {
				continue
			}
			if err := e.glyph("glyph", string(r), int(run.Glyph)+i, usual); err != nil {
				return err
			}
		}
	}
	return nil
}

// usualAdvance is the commonest advance, which glyphs of that width leave out.
func (e *encoder) usualAdvance() int {
	counts := map[uint16]int{}
	best := uint16(0)
	for _, m := range e.metrics {
		counts[m.Advance]++
		if n := counts[m.Advance]; n > counts[best] || n == counts[best] && m.Advance < best {
			best = m.Advance
		}
	}
	return int(best)
}

// glyph writes one character's glyph; one that cannot be read is an error.
func (e *encoder) glyph(element, unicode string, glyph, usual int) error {
	if glyph >= e.outline.Count() {
		return nil // the character map names more than there is; browsers show nothing either
	}
	contours, err := e.outline.Contours(glyph)
	if err != nil {
		return err
	}
	var a attributes
	if unicode != "" {
		a = append(a, attribute{"unicode", unicode})
	}
	advance := 0
	if n := len(e.metrics); n > 0 {
		advance = int(e.metrics[min(glyph, n-1)].Advance)
	}
	if advance != usual {
		a = append(a, attribute{"horiz-adv-x", strconv.Itoa(advance)})
	}
	if d := Path(contours); d != "" {
		a = append(a, attribute{"d", d})
	}
	e.element(element, a, true)
	if e.out.Len() > e.most {
		return fmt.Errorf("%w: more than %d bytes", ErrTooLarge, e.most)
	}
	return nil
}

type (
	attribute  struct{ name, value string }
	attributes []attribute
)

func (e *encoder) element(name string, a attributes, closed bool) {
	e.out.WriteString("<" + name)
	for _, one := range a {
		e.out.WriteString(" " + one.name + `="`)
		_ = xml.EscapeText(&e.out, []byte(one.value))
		e.out.WriteByte('"')
	}
	if closed {
		e.out.WriteByte('/')
	}
	e.out.WriteString(">\n")
}

// inXML reports whether XML 1.0 (section 2.2) can hold the character.
func inXML(r rune) bool {
	return r >= ' ' && r != 0x7F && r != 0xFFFE && r != 0xFFFF && utf8.ValidRune(r)
}

// Path writes contours as the data of an SVG path (SVG 1.1, section 8.3), in
// font units with y upwards, as glyphs of an SVG font are.
func Path(contours []curve.Contour) string {
	var p pen
	for _, c := range contours {
		p.to('M', c.From)
		for i, s := range c.Segments {
			switch {
			case s.Line && i == len(c.Segments)-1 && s.To == c.From: // closing draws it
			case s.Line && round(s.To.X) == p.x:
				p.command('v')
				p.number(round(s.To.Y) - p.y)
				p.y = round(s.To.Y)
			case s.Line && round(s.To.Y) == p.y:
				p.command('h')
				p.number(round(s.To.X) - p.x)
				p.x = round(s.To.X)
			case s.Line:
				p.to('l', s.To)
			case s.Quadratic:
				p.to('q', s.C1, s.To)
			default:
				p.to('c', s.C1, s.C2, s.To)
			}
		}
		p.out = append(p.out, 'z')
		p.x, p.y, p.last = round(c.From.X), round(c.From.Y), 'z'
	}
	return string(p.out)
}

// pen writes steps from where it stands, in hundredths of a font unit.
type pen struct {
	out  []byte
	x, y int
	last byte
}

const perUnit = 100

func round(n float64) int {
	if n < 0 {
		return -int(-n*perUnit + 0.5)
	}
	return int(n*perUnit + 0.5)
}

// command writes a letter, unless the one before goes on.
func (p *pen) command(c byte) {
	if p.last != c {
		p.out = append(p.out, c)
		p.last = c
		return
	}
	p.out = append(p.out, ' ')
}

// number writes a number of hundredths, with a space where one is needed.
func (p *pen) number(n int) {
	if last := p.out[len(p.out)-1]; n >= 0 && last >= '0' && last <= '9' {
		p.out = append(p.out, ' ')
	}
	if n%perUnit == 0 {
		p.out = strconv.AppendInt(p.out, int64(n/perUnit), 10)
		return
	}
	p.out = strconv.AppendFloat(p.out, float64(n)/perUnit, 'f', -1, 64)
}

// to writes a command with points: absolute for M, else from where the pen is.
func (p *pen) to(c byte, points ...curve.Point) {
	p.command(c)
	x, y := p.x, p.y
	if c == 'M' {
		x, y = 0, 0
	}
	for _, at := range points {
		p.number(round(at.X) - x)
		p.number(round(at.Y) - y)
	}
	last := points[len(points)-1]
	p.x, p.y = round(last.X), round(last.Y)
}
