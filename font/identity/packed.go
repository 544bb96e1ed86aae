package identity

import (
	"encoding/binary"
	"fmt"
	"math"

	"sparecrate/font/sfnt"
)

// Measurer counts changes of what is measured and how it is packed: prints of another
// version are not compared.
const Measurer = 2

// Pack writes a print in about 26 bytes a character.
func (p *Print) Pack() []byte {
	b := binary.BigEndian.AppendUint64([]byte{Measurer}, p.Content)
	b = binary.AppendUvarint(b, uint64(len(p.Axes)))
	for _, a := range p.Axes {
		b = appendText(b, a.Tag)
		for _, v := range []float64{a.Min, a.Default, a.Max} {
			b = binary.BigEndian.AppendUint64(b, math.Float64bits(v))
		}
	}
	b = appendShapes(b, p.Shapes)
	b = binary.AppendUvarint(b, uint64(len(p.Named)))
	for _, n := range p.Named {
		b = appendText(b, n.Name)
		for _, a := range p.Axes {
			b = binary.BigEndian.AppendUint64(b, math.Float64bits(n.At[a.Tag]))
		}
		b = appendShapes(b, n.Shapes)
	}
	return b
}

func appendText(b []byte, s string) []byte {
	return append(binary.AppendUvarint(b, uint64(len(s))), s...)
}

func appendShapes(b []byte, shapes []Shape) []byte {
	b = binary.AppendUvarint(b, uint64(len(shapes)))
	last := rune(0)
	for i := range shapes {
		s := &shapes[i]
		b = binary.AppendUvarint(b, uint64(s.Rune-last)) //nolint:gosec // ascending
		last = s.Rune
		for _, v := range []int16{s.Advance, s.Left, s.Bottom, s.Right, s.Top, s.Area, s.X, s.Y} {
			b = binary.BigEndian.AppendUint16(b, uint16(v)) //nolint:gosec // its bits
		}
		b = append(b, s.Ink[:]...)
	}
	return b
}

// Unpack reads what Pack wrote. The error wraps sfnt.ErrDamaged.
func Unpack(b []byte) (*Print, error) {
	r := reader{b: b}
	if r.byte() != Measurer {
		return nil, sfnt.Damaged("a fingerprint is damaged")
	}
	p := &Print{Content: binary.BigEndian.Uint64(r.take(8))}
	for range r.count(25) {
		p.Axes = append(p.Axes, Axis{Tag: r.text(), Min: r.float(), Default: r.float(), Max: r.float()})
	}
	p.Shapes = r.shapes()
	for range r.count(2) {
		n := Instance{Name: r.text(), At: map[string]float64{}}
		for _, a := range p.Axes {
			n.At[a.Tag] = r.float()
		}
		n.Shapes = r.shapes()
		p.Named = append(p.Named, n)
	}
	if r.short {
		return nil, fmt.Errorf("%w: a fingerprint is cut off", sfnt.ErrDamaged)
	}
	return p, nil
}

// reader reads packed bytes; short says that they ended too early.
type reader struct {
	b     []byte
	short bool
}

func (r *reader) take(n int) []byte {
	if n < 0 || n > len(r.b) {
		r.short = true
		r.b = nil
		return make([]byte, min(max(n, 0), 64))
	}
	out := r.b[:n]
	r.b = r.b[n:]
	return out
}

func (r *reader) byte() byte { return r.take(1)[0] }

func (r *reader) number() uint64 {
	v, n := binary.Uvarint(r.b)
	if n <= 0 {
		r.short = true
		r.b = nil
		return 0
	}
	r.b = r.b[n:]
	return v
}

// count reads how many things follow, of at least so many bytes each.
func (r *reader) count(size int) int {
	n := r.number()
	if n > uint64(len(r.b)/size) { //nolint:gosec // a length
		r.short = true
		return 0
	}
	return int(n) //nolint:gosec // bounded
}

func (r *reader) text() string { return string(r.take(r.count(1))) }

func (r *reader) float() float64 { return math.Float64frombits(binary.BigEndian.Uint64(r.take(8))) }

func (r *reader) shapes() []Shape {
	out := make([]Shape, r.count(17+Lines))
	last := uint64(0)
	for i := range out {
		s := &out[i]
		last += r.number()
		if last > 0x10FFFF || i > 0 && rune(last) <= out[i-1].Rune {
			r.short = true
			return nil
		}
		s.Rune = rune(last)
		for _, v := range []*int16{&s.Advance, &s.Left, &s.Bottom, &s.Right, &s.Top, &s.Area, &s.X, &s.Y} {
			*v = int16(binary.BigEndian.Uint16(r.take(2))) //nolint:gosec // its bits
		}
		copy(s.Ink[:], r.take(Lines))
	}
	return out
}
