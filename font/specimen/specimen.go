// Package specimen draws text set in a face, as a PNG or SVG picture: lines at
// several sizes, and a chart of the glyphs. It is for places where the font
// itself may not be sent, and for reports.
//
// Text is set by package shape, with kerning and ligatures; outlines are filled
// by the nonzero rule and smoothed. Layers of color (`COLR` version 0) are drawn
// with the first palette.
package specimen

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"math"
	"strings"

	"golang.org/x/image/vector"

	"sparecrate/font/curve"
	"sparecrate/font/outline"
	"sparecrate/font/sfnt"
	"sparecrate/font/shape"
	"sparecrate/font/table"
)

// What a caller may want to tell apart.
var (
	// ErrNothing says that there is nothing to draw.
	ErrNothing = errors.New("there is nothing to draw")
	// ErrTooLarge says that the picture would be larger than is made.
	ErrTooLarge = errors.New("the picture would be too large")
)

// Limits on a picture.
const (
	maxSide   = 8192
	maxPixels = 10_000_000
	maxLines  = 200
	maxSize   = 2000
	// maxSegments bounds the pieces of all outlines drawn; a page of the most
	// detailed glyphs known to us comes to a tenth of it.
	maxSegments = 1 << 22
	// maxCover bounds how often the area of a picture is drawn over, and maxInk how
	// many pixels are in all; glyphs of damaged fonts may be as large as the picture.
	maxCover = 16
	maxInk   = 1 << 26
)

// Line is a line of text at a size, in pixels an em.
type Line struct {
	Text string
	Size float64
}

// Options say what is drawn.
type Options struct {
	Lines []Line
	// Glyphs is how many glyphs the chart below the lines shows at most, 0 for no
	// chart.
	Glyphs int
	// Width is that of the picture in pixels; 0 makes it as wide as the longest
	// line. Longer lines are broken between words.
	Width int
	Dark  bool // light on dark
	shape.Options
}

// Picture is what was drawn: shapes in the order they are painted.
type Picture struct {
	Width, Height   int
	Missing         []rune // characters the face has no glyph for
	shapes          []filled
	ink, background color.NRGBA
	stop            func() error // returns an error once nobody wants the picture
}

// filled is an outline in pixels, y downwards.
type filled struct {
	contours []curve.Contour
	color    color.NRGBA
}

var (
	black = color.NRGBA{0x1B, 0x1D, 0x22, 0xFF}
	white = color.NRGBA{0xFF, 0xFF, 0xFF, 0xFF}
)

// Draw draws a face. The error wraps ErrNothing, ErrTooLarge or sfnt.ErrDamaged.
func Draw(f *sfnt.Font, o Options) (*Picture, error) { return DrawContext(context.Background(), f, o) }

// DrawContext does as Draw; drawing and the picture's PNG stop between glyphs once
// ctx ends, with the context's error.
func DrawContext(ctx context.Context, f *sfnt.Font, o Options) (*Picture, error) {
	face, err := shape.Open(f)
	if err != nil {
		return nil, sfnt.Damage(err)
	}
	reader, err := outline.Open(f)
	if err != nil {
		return nil, sfnt.Damage(err)
	}
	if len(o.Lines) > maxLines {
		return nil, fmt.Errorf("%w: it has %d lines; %d are drawn at most", ErrTooLarge, len(o.Lines), maxLines)
	}
	d := &drawer{face: face, reader: reader, options: o, colors: layersOf(f), budget: maxSegments}
	d.picture = &Picture{ink: black, background: white, stop: ctx.Err}
	if o.Dark {
		d.picture.ink, d.picture.background = white, black
	}
	return d.draw()
}

type drawer struct {
	face    *shape.Face
	reader  *outline.Reader
	options Options
	colors  *layers
	picture *Picture
	budget  int
	known   map[table.GlyphID][]curve.Contour
}

// row is a line as it is set.
type row struct {
	line *shape.Line
	size float64
}

func (d *drawer) draw() (*Picture, error) {
	d.known = map[table.GlyphID][]curve.Contour{}
	var rows []row
	widest, largest := 0.0, 0.0
	for _, l := range d.options.Lines {
		if l.Size <= 0 || l.Size > maxSize {
			return nil, fmt.Errorf("%w: a size is %g pixels; it must be above 0 and at most %d", ErrTooLarge, l.Size, maxSize)
		}
		largest = max(largest, l.Size)
		for _, line := range d.broken(l) {
			rows = append(rows, row{line, l.Size})
			widest = max(widest, d.pixels(line.Advance, l.Size))
		}
	}
	if len(rows) > maxLines {
		return nil, fmt.Errorf("%w: the text comes to %d lines; %d are drawn at most", ErrTooLarge, len(rows), maxLines)
	}
	margin := math.Round(16 + largest/6)
	width := float64(d.options.Width)
	if width == 0 {
		width = math.Ceil(widest + 2*margin)
	}
	if d.options.Glyphs > 0 {
		width = max(width, 640)
	}
	if width > maxSide {
		return nil, fmt.Errorf("%w: it would be %.0f pixels wide; %d is the most. Choose a smaller size, less text or a width", ErrTooLarge, width, maxSide)
	}
	y := margin
	for _, r := range rows {
		ascent, descent := d.pixels(d.face.Ascent, r.size), d.pixels(d.face.Descent, r.size)
		y += ascent
		for _, g := range r.line.Glyphs {
			if err := d.glyph(g.ID, margin+d.pixels(g.X, r.size), y-d.pixels(g.Y, r.size), r.size, d.picture.ink); err != nil {
				return nil, err
			}
		}
		y += descent
	}
	if d.options.Glyphs > 0 {
		if len(rows) > 0 {
			y += margin
		}
		var err error
		if y, err = d.chart(y, width, margin); err != nil {
			return nil, err
		}
	}
	if len(rows) == 0 && d.options.Glyphs == 0 {
		return nil, ErrNothing
	}
	d.picture.Width, d.picture.Height = int(width), int(math.Ceil(y+margin))
	if d.picture.Height > maxSide || d.picture.Width*d.picture.Height > maxPixels {
		return nil, fmt.Errorf("%w: it would be %d by %d pixels. Choose a smaller size or less text", ErrTooLarge, d.picture.Width, d.picture.Height)
	}
	return d.picture, nil
}

func (d *drawer) pixels(units int, size float64) float64 {
	return float64(units) * size / float64(d.face.UnitsPerEm)
}

// broken sets a line, in several where it does not fit the width.
func (d *drawer) broken(l Line) []*shape.Line {
	set := func(text string) *shape.Line {
		line := d.face.Set(text, d.options.Options)
		for _, r := range line.Missing {
			if !strings.ContainsRune(string(d.picture.Missing), r) {
				d.picture.Missing = append(d.picture.Missing, r)
			}
		}
		return line
	}
	room := float64(d.options.Width) - 2*math.Round(16+l.Size/6)
	whole := set(l.Text)
	if d.options.Width == 0 || d.pixels(whole.Advance, l.Size) <= room {
		return []*shape.Line{whole}
	}
	var out []*shape.Line
	var now string
	var last *shape.Line
	for word := range strings.FieldsSeq(l.Text) {
		if d.picture.stop() != nil {
			break // the first glyph finds out
		}
		next := word
		if now != "" {
			next = now + " " + word
		}
		line := set(next)
		if d.pixels(line.Advance, l.Size) > room && now != "" {
			out = append(out, last)
			next = word
			line = set(word)
		}
		if now, last = next, line; len(out) > maxLines {
			break
		}
	}
	return append(out, last)
}

// chart draws glyphs in a grid, each centered in its cell.
func (d *drawer) chart(y, width, margin float64) (float64, error) {
	const size, cell = 30.0, 48.0
	columns := max(1, int((width-2*margin)/cell))
	n := 0
	for g := range d.reader.Count() {
		contours, err := d.contours(table.GlyphID(g))
		if err != nil {
			return 0, err
		}
		if len(contours) == 0 || g == 0 {
			continue
		}
		if n == d.options.Glyphs {
			break
		}
		left := margin + cell*float64(n%columns) + (cell-d.pixels(d.face.Advance(table.GlyphID(g)), size))/2
		base := y + cell*float64(n/columns) + 36
		if err := d.glyph(table.GlyphID(g), left, base, size, d.picture.ink); err != nil {
			return 0, err
		}
		n++
	}
	return y + cell*math.Ceil(float64(n)/float64(columns)), nil
}

func (d *drawer) contours(g table.GlyphID) ([]curve.Contour, error) {
	if c, ok := d.known[g]; ok {
		return c, nil
	}
	c, err := d.reader.Contours(int(g))
	if err != nil {
		return nil, sfnt.Damage(err)
	}
	d.known[g] = c
	return c, nil
}

// glyph paints a glyph with its origin at a place.
func (d *drawer) glyph(g table.GlyphID, x, y, size float64, ink color.NRGBA) error {
	if layers := d.colors.of(g); len(layers) > 0 {
		for _, l := range layers {
			one := ink
			if !l.ink {
				one = l.color
			}
			if err := d.shape(l.glyph, x, y, size, one); err != nil {
				return err
			}
		}
		return nil
	}
	return d.shape(g, x, y, size, ink)
}

func (d *drawer) shape(g table.GlyphID, x, y, size float64, ink color.NRGBA) error {
	if err := d.picture.stop(); err != nil {
		return err
	}
	contours, err := d.contours(g)
	if err != nil || len(contours) == 0 {
		return err
	}
	k := size / float64(d.face.UnitsPerEm)
	place := func(p curve.Point) curve.Point { return curve.Point{X: x + k*p.X, Y: y - k*p.Y} }
	out := make([]curve.Contour, len(contours))
	for i, c := range contours {
		if d.budget -= len(c.Segments) + 1; d.budget < 0 {
			return fmt.Errorf("%w: its outlines have too many points", ErrTooLarge)
		}
		out[i] = curve.Contour{From: place(c.From), Segments: make([]curve.Segment, len(c.Segments))}
		for n, s := range c.Segments {
			out[i].Segments[n] = curve.Segment{C1: place(s.C1), C2: place(s.C2), To: place(s.To), Line: s.Line, Quadratic: s.Quadratic}
		}
	}
	d.picture.shapes = append(d.picture.shapes, filled{out, ink})
	return nil
}

// PNG returns the picture in pixels. The error wraps sfnt.ErrDamaged where glyphs are far
// larger than the font says.
func (p *Picture) PNG() ([]byte, error) {
	left := min(maxCover*p.Width*p.Height, maxInk)
	img := image.NewNRGBA(image.Rect(0, 0, p.Width, p.Height))
	draw.Draw(img, img.Bounds(), image.NewUniform(p.background), image.Point{}, draw.Src)
	for _, s := range p.shapes {
		if err := p.stop(); err != nil {
			return nil, err
		}
		box := boxOf(s.contours).Intersect(img.Bounds())
		if box.Empty() {
			continue
		}
		if left -= box.Dx() * box.Dy(); left < 0 {
			return nil, fmt.Errorf("%w: its glyphs are far larger than it says", sfnt.ErrDamaged)
		}
		// Each shape on its own, as overlaps of one glyph with the next must not cancel out.
		r := vector.NewRasterizer(box.Dx(), box.Dy())
		at := func(q curve.Point) (float32, float32) {
			return float32(q.X - float64(box.Min.X)), float32(q.Y - float64(box.Min.Y))
		}
		for _, c := range s.contours {
			x, y := at(c.From)
			r.MoveTo(x, y)
			for _, seg := range c.Segments {
				tx, ty := at(seg.To)
				ax, ay := at(seg.C1)
				switch {
				case seg.Line:
					r.LineTo(tx, ty)
				case seg.Quadratic:
					r.QuadTo(ax, ay, tx, ty)
				default:
					bx, by := at(seg.C2)
					r.CubeTo(ax, ay, bx, by, tx, ty)
				}
			}
			r.ClosePath()
		}
		r.Draw(img, box, image.NewUniform(s.color), image.Point{})
	}
	var out bytes.Buffer
	err := (&png.Encoder{CompressionLevel: png.BestCompression}).Encode(&out, img)
	return out.Bytes(), err
}

// boxOf returns the pixels around contours, control points too.
func boxOf(contours []curve.Contour) image.Rectangle {
	low, high := curve.Point{X: math.Inf(1), Y: math.Inf(1)}, curve.Point{X: math.Inf(-1), Y: math.Inf(-1)}
	add := func(p curve.Point) {
		low = curve.Point{X: min(low.X, p.X), Y: min(low.Y, p.Y)}
		high = curve.Point{X: max(high.X, p.X), Y: max(high.Y, p.Y)}
	}
	for _, c := range contours {
		add(c.From)
		for _, s := range c.Segments {
			add(s.To)
			if !s.Line {
				add(s.C1)
				if !s.Quadratic {
					add(s.C2)
				}
			}
		}
	}
	bounded := func(x float64) int { return int(max(-maxSide, min(x, 2*maxSide))) }
	return image.Rect(bounded(math.Floor(low.X)), bounded(math.Floor(low.Y)), bounded(math.Ceil(high.X)), bounded(math.Ceil(high.Y)))
}

// SVG returns the picture as paths (SVG 1.1, section 8.3).
func (p *Picture) SVG() []byte {
	var s bytes.Buffer
	fmt.Fprintf(&s, `<svg xmlns="http://www.w3.org/2000/svg" width="%d" height="%d" viewBox="0 0 %d %d"><rect width="100%%" height="100%%" fill="%s"/>`,
		p.Width, p.Height, p.Width, p.Height, hex(p.background))
	last := color.NRGBA{}
	open := false
	for _, f := range p.shapes {
		if !open || f.color != last {
			if open {
				s.WriteString(`"/>`)
			}
			fmt.Fprintf(&s, "\n<path fill=\"%s\"", hex(f.color))
			if f.color.A != 0xFF {
				fmt.Fprintf(&s, ` fill-opacity="%.3g"`, float64(f.color.A)/0xFF)
			}
			s.WriteString(` d="`)
			open, last = true, f.color
		}
		for _, c := range f.contours {
			fmt.Fprintf(&s, "M%s", points(c.From))
			for _, seg := range c.Segments {
				switch {
				case seg.Line:
					fmt.Fprintf(&s, "L%s", points(seg.To))
				case seg.Quadratic:
					fmt.Fprintf(&s, "Q%s", points(seg.C1, seg.To))
				default:
					fmt.Fprintf(&s, "C%s", points(seg.C1, seg.C2, seg.To))
				}
			}
			s.WriteByte('Z')
		}
	}
	if open {
		s.WriteString(`"/>`)
	}
	s.WriteString("</svg>\n")
	return s.Bytes()
}

func points(all ...curve.Point) string {
	words := make([]string, len(all))
	for i, p := range all {
		words[i] = fmt.Sprintf("%g %g", math.Round(p.X*100)/100, math.Round(p.Y*100)/100)
	}
	return strings.Join(words, " ")
}

func hex(c color.NRGBA) string { return fmt.Sprintf("#%02x%02x%02x", c.R, c.G, c.B) }
