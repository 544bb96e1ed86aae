package woff2

import (
	"encoding/binary"
	"fmt"
	"math"

	"sparecrate/font/glyf"
	"sparecrate/font/sfnt"
)

// The transformed glyf table (section 5.1): a header, then seven streams, then
// the overlap bitmap where its option says so.
const (
	glyfHeader      = 36
	glyfStreams     = 7
	optionOverlap   = 1 << 0
	compositeGlyph  = 0xFFFF
	maxShortOffset  = 2 * math.MaxUint16
	glyphHeaderSize = 10
	// maxGrowth is far more than outlines grow by the transform; only points made
	// up by repeated flags do.
	maxGrowth = 4
)

// transformGlyf writes the outlines in transformed form. It fails on glyphs
// that cannot be read; the tables are stored as they are then.
func transformGlyf(table, loca []byte, long bool) ([]byte, error) {
	glyphs, err := glyf.Locate(table, loca, long)
	if err != nil {
		return nil, err
	}
	if len(glyphs) > math.MaxUint16 {
		return nil, fmt.Errorf("%w: there are too many glyphs", glyf.ErrGlyph)
	}
	t := &glyfWriter{overlap: make([]byte, (len(glyphs)+7)/8), boxed: make([]byte, (len(glyphs)+31)/32*4)}
	for i, g := range glyphs {
		if err := t.add(i, g); err != nil {
			return nil, err
		}
		if len(t.flags)+len(t.coordinates) > maxGrowth*len(table)+1<<16 {
			return nil, fmt.Errorf("%w: the outlines repeat themselves beyond measure", glyf.ErrGlyph)
		}
	}
	return t.assemble(len(glyphs), long), nil
}

type glyfWriter struct {
	contours, points, flags, coordinates, composites, boxes, instructions []byte

	boxed   []byte // a bit a glyph: its box is stated
	overlap []byte // a bit a glyph: its contours cross
	crosses bool
}

func (t *glyfWriter) add(i int, glyph []byte) error {
	if len(glyph) == 0 {
		t.contours = append(t.contours, 0, 0)
		return nil
	}
	count, ok := glyf.ContourCount(glyph)
	if !ok {
		return fmt.Errorf("%w: glyph %d has no header", glyf.ErrGlyph, i)
	}
	if count < 0 {
		return t.addComposite(i, glyph)
	}
	s, err := glyf.ParseSimple(glyph)
	if err != nil {
		return err
	}
	if len(s.Ends) == 0 {
		if len(s.Instructions) > 0 {
			return fmt.Errorf("%w: glyph %d has instructions and no contours", glyf.ErrGlyph, i)
		}
		// A header before no contours says nothing; the glyph comes back empty.
		t.contours = append(t.contours, 0, 0)
		return nil
	}
	t.contours = binary.BigEndian.AppendUint16(t.contours, uint16(len(s.Ends)))
	start := 0
	for _, end := range s.Ends {
		t.points = append255(t.points, end+1-start)
		start = end + 1
	}
	x, y := 0, 0
	for _, p := range s.Points {
		t.flags, t.coordinates = appendTriplet(t.flags, t.coordinates, p.X-x, p.Y-y, p.On)
		x, y = p.X, p.Y
	}
	t.coordinates = append255(t.coordinates, len(s.Instructions))
	t.instructions = append(t.instructions, s.Instructions...)
	if s.Measure() != s.Bounds {
		t.stateBox(i, s.Bounds)
	}
	if s.Overlap {
		t.overlap[i/8] |= 0x80 >> (i % 8)
		t.crosses = true
	}
	return nil
}

func (t *glyfWriter) addComposite(i int, glyph []byte) error {
	v := sfnt.View(glyph)
	end, instructed, err := glyf.Components(v, glyphHeaderSize)
	if err != nil {
		return err
	}
	t.contours = binary.BigEndian.AppendUint16(t.contours, compositeGlyph)
	t.composites = append(t.composites, glyph[glyphHeaderSize:end]...)
	t.stateBox(i, glyf.BoundsOf(glyph))
	if !instructed {
		return nil
	}
	length, _ := v.U16(end)
	instructions, ok := v.Sub(end+2, int(length))
	if !ok {
		return fmt.Errorf("%w: the instructions of glyph %d run past its end", glyf.ErrGlyph, i)
	}
	t.coordinates = append255(t.coordinates, int(length))
	t.instructions = append(t.instructions, instructions...)
	return nil
}

func (t *glyfWriter) stateBox(i int, b glyf.Bounds) {
	t.boxed[i/8] |= 0x80 >> (i % 8)
	for _, n := range []int16{b.XMin, b.YMin, b.XMax, b.YMax} {
		t.boxes = binary.BigEndian.AppendUint16(t.boxes, uint16(n))
	}
}

func (t *glyfWriter) assemble(glyphs int, long bool) []byte {
	options, format := 0, 0
	if t.crosses {
		options |= optionOverlap
	}
	if long {
		format = 1
	}
	streams := [glyfStreams][]byte{t.contours, t.points, t.flags, t.coordinates, t.composites, append(t.boxed, t.boxes...), t.instructions}
	size := glyfHeader + len(t.overlap)
	for _, s := range streams {
		size += len(s)
	}
	out := make([]byte, 0, size)
	for _, n := range []int{0, options, glyphs, format} {
		out = binary.BigEndian.AppendUint16(out, uint16(n))
	}
	for _, s := range streams {
		out = binary.BigEndian.AppendUint32(out, uint32(len(s)))
	}
	for _, s := range streams {
		out = append(out, s...)
	}
	if t.crosses {
		out = append(out, t.overlap...)
	}
	return out
}

// outlines is what a transformed glyf table holds.
type outlines struct {
	glyf, loca []byte
	left       []int16 // xMin of each glyph, which a transformed hmtx leaves out
}

// restoreGlyf reads a transformed glyf table. The output is at most a small
// multiple of the input: every point takes two bytes of it at least.
func restoreGlyf(b []byte) (*outlines, error) {
	v := sfnt.View(b)
	if len(b) < glyfHeader {
		return nil, fmt.Errorf("%w: its outlines end inside their header", errDamaged)
	}
	c := v.Cursor() // the header is there
	options, glyphs, format := c.Count(2), c.Count(4), c.Count(6)
	var streams [glyfStreams]stream
	at := glyfHeader
	for i := range streams {
		size := c.Offset(8 + 4*i)
		part, ok := v.Sub(at, size)
		if !ok {
			return nil, fmt.Errorf("%w: its outlines are shorter than they say", errDamaged)
		}
		streams[i] = stream{v: part, ok: true}
		at += size
	}
	r := &glyfReader{contours: &streams[0], points: &streams[1], flags: &streams[2], coordinates: &streams[3],
		composites: &streams[4], boxes: &streams[5], instructions: &streams[6]}
	if r.boxed = r.boxes.take((glyphs + 31) / 32 * 4); !r.boxes.ok {
		return nil, fmt.Errorf("%w: its outlines lack the list of boxes", errDamaged)
	}
	if options&optionOverlap != 0 {
		var ok bool
		if r.overlap, ok = v.Sub(at, (glyphs+7)/8); !ok {
			return nil, fmt.Errorf("%w: its overlap bitmap is missing", errDamaged)
		}
	}
	out := &outlines{glyf: make([]byte, 0, len(b)+len(b)/2), left: make([]int16, 0, min(glyphs, len(b)))}
	offsets := []int{0}
	for i := range glyphs {
		bounds, err := r.next(i, out)
		if err != nil {
			return nil, err
		}
		for len(out.glyf)%4 != 0 {
			out.glyf = append(out.glyf, 0)
		}
		if len(out.glyf) > MaxFont {
			return nil, fmt.Errorf("%w: more than %d bytes", ErrTooLarge, MaxFont)
		}
		out.left = append(out.left, bounds.XMin)
		offsets = append(offsets, len(out.glyf))
	}
	if format == 0 && len(out.glyf) > maxShortOffset {
		return nil, fmt.Errorf("%w: its outlines are too long for the offsets it asks for", errDamaged)
	}
	out.loca = glyf.Index(offsets, format != 0)
	return out, nil
}

type glyfReader struct {
	contours, points, flags, coordinates, composites, boxes, instructions *stream

	boxed, overlap []byte

	// Kept from glyph to glyph, so that a font costs few allocations.
	ends []int
	dots []glyf.Point
}

func bit(bitmap []byte, i int) bool { return i/8 < len(bitmap) && bitmap[i/8]&(0x80>>(i%8)) != 0 }

func (r *glyfReader) whole() bool {
	return r.contours.ok && r.points.ok && r.flags.ok && r.coordinates.ok && r.composites.ok && r.boxes.ok && r.instructions.ok
}

// next appends one glyph to the table.
func (r *glyfReader) next(i int, out *outlines) (glyf.Bounds, error) {
	damaged := func(what string) error { return fmt.Errorf("%w: glyph %d %s", errDamaged, i, what) }
	count := r.contours.u16()
	if count == 0 && r.contours.ok {
		if bit(r.boxed, i) {
			return glyf.Bounds{}, damaged("is empty and states a box")
		}
		return glyf.Bounds{}, nil
	}
	if count == compositeGlyph {
		bounds, err := r.composite(i, out)
		if err == nil && !r.whole() {
			err = damaged("runs past the end of the outlines")
		}
		return bounds, err
	}
	s := &glyf.Simple{Ends: r.ends[:0], Overlap: bit(r.overlap, i)}
	total := 0
	for range count {
		n := r.points.u255()
		if total += n; !r.points.ok || n == 0 || total > len(r.flags.v)-r.flags.at || total > math.MaxUint16 {
			return glyf.Bounds{}, damaged("has more points than there are flags")
		}
		s.Ends = append(s.Ends, total-1)
	}
	if total > len(r.dots) {
		r.dots = make([]glyf.Point, 2*total)
	}
	s.Points, r.ends = r.dots[:total], s.Ends
	x, y := 0, 0
	for p := range s.Points {
		flag := r.flags.u8()
		dx, dy := triplet(flag&0x7F, r.coordinates)
		x, y = int(int16(x+dx)), int(int16(y+dy))
		s.Points[p] = glyf.Point{X: x, Y: y, On: flag&0x80 == 0}
	}
	s.Instructions = r.instructions.take(r.coordinates.u255())
	s.Bounds = s.Measure()
	if bit(r.boxed, i) {
		s.Bounds = r.box()
	}
	if !r.whole() {
		return glyf.Bounds{}, damaged("runs past the end of the outlines")
	}
	out.glyf = s.Append(out.glyf)
	return s.Bounds, nil
}

func (r *glyfReader) box() glyf.Bounds {
	i16 := func() int16 { return int16(r.boxes.u16()) }
	return glyf.Bounds{XMin: i16(), YMin: i16(), XMax: i16(), YMax: i16()}
}

func (r *glyfReader) composite(i int, out *outlines) (glyf.Bounds, error) {
	if !bit(r.boxed, i) {
		return glyf.Bounds{}, fmt.Errorf("%w: glyph %d is made of parts and states no box", errDamaged, i)
	}
	end, instructed, err := glyf.Components(r.composites.v, r.composites.at)
	if err != nil {
		return glyf.Bounds{}, fmt.Errorf("%w: glyph %d: %w", errDamaged, i, err)
	}
	parts := r.composites.take(end - r.composites.at)
	bounds := r.box()
	out.glyf = binary.BigEndian.AppendUint16(out.glyf, compositeGlyph)
	for _, n := range []int16{bounds.XMin, bounds.YMin, bounds.XMax, bounds.YMax} {
		out.glyf = binary.BigEndian.AppendUint16(out.glyf, uint16(n))
	}
	out.glyf = append(out.glyf, parts...)
	if instructed {
		code := r.instructions.take(r.coordinates.u255())
		out.glyf = binary.BigEndian.AppendUint16(out.glyf, uint16(len(code)))
		out.glyf = append(out.glyf, code...)
	}
	return bounds, nil
}
