package identity

import (
	"maps"
	"math"
	"slices"
	"strings"

	"sparecrate/font/coverage"
	"sparecrate/font/reshape"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/font/table"
)

// Measure measures a face as Of does, and a variable one in each of its named styles, for
// some of its characters. The error wraps that of Of; a style that cannot be had is left
// out.
func Measure(f *sfnt.Font) (*Print, error) {
	p, err := Of(f)
	if err != nil || !f.Has(table.TagFvar) {
		return p, err
	}
	fvar, err := table.ParseFvar(f.Table(table.TagFvar))
	if err != nil {
		return nil, err
	}
	for _, a := range fvar.Axes {
		p.Axes = append(p.Axes, Axis{tagOf(a.Tag), a.Min.Float(), a.Default.Float(), a.Max.Float()})
	}
	few, err := reduced(f, probes(p.Shapes, mostProbes))
	if err != nil {
		return p, nil //nolint:nilerr // measured in its default design
	}
	names, _ := table.ParseName(f.Table(table.TagName))
	for i, n := range fvar.Instances {
		if i == mostStyles {
			break
		}
		style := Instance{At: map[string]float64{}}
		if names != nil {
			style.Name = names.Best(n.Name)
		}
		for k, c := range n.Coordinates {
			if k < len(p.Axes) {
				style.At[p.Axes[k].Tag] = c.Float()
			}
		}
		if style.Shapes = posed(few, style.At); style.Shapes != nil {
			p.Named = append(p.Named, style)
		}
	}
	return p, nil
}

const (
	// mostProbes bounds the characters that styles are measured by.
	mostProbes = 60
	// mostStyles bounds the named styles that are measured.
	mostStyles = 64
	// mostAxes bounds the axes along which a place is searched: each makes every step of
	// the search longer.
	mostAxes = 12
)

func tagOf(t sfnt.Tag) string { return strings.TrimSpace(t.String()) }

// probes returns characters to go by: letters and figures of ASCII first, then those
// whose number comes first when it is mixed.
func probes(shapes []Shape, most int) []rune {
	var out []rune
	for i := range shapes {
		if !shapes[i].Blank() {
			out = append(out, shapes[i].Rune)
		}
	}
	rank := func(r rune) uint32 {
		if r > ' ' && r < 0x7F {
			return mix(uint32(r)) >> 8 //nolint:gosec // a code point
		}
		return mix(uint32(r)) | 1<<30 //nolint:gosec // a code point
	}
	slices.SortFunc(out, func(a, b rune) int { return int(int64(rank(a)) - int64(rank(b))) })
	out = out[:min(len(out), most)]
	slices.Sort(out)
	return out
}

// reduced returns a face with some characters only.
func reduced(f *sfnt.Font, text []rune) (*sfnt.Font, error) {
	small, _, err := subset.Face(f, subset.Options{Characters: coverage.OfText(string(text)), Features: []string{}})
	return small, err
}

// posed measures a variable face at a place, nil where it cannot be.
func posed(f *sfnt.Font, at map[string]float64) []Shape {
	there, err := reshape.Posed(f, at, "")
	if err != nil {
		return nil
	}
	p, err := Of(there)
	if err != nil {
		return nil
	}
	return p.Shapes
}

// Place is where in the design space of a variable face a static one stands.
type Place struct {
	At map[string]float64 `json:"at"` // on each axis, in user coordinates
	// Style is the named style at that place, empty for none.
	Style    string    `json:"style"`
	Evidence *Evidence `json:"evidence"`
}

// Placed finds where in the design space of the variable face f, whose measures are of,
// a static face stands; false where it is no instance of it. The characters that both
// have are what it goes by.
func Placed(static, of *Print, f *sfnt.Font) (*Place, bool) {
	if len(of.Axes) == 0 || len(of.Axes) > mostAxes || len(static.Axes) > 0 {
		return nil, false
	}
	var both []Shape
	for i := range static.Shapes {
		if s := &static.Shapes[i]; !s.Blank() {
			if t := of.Find(s.Rune); t != nil && !t.Blank() {
				both = append(both, *s)
			}
		}
	}
	if len(both) < fewest {
		return nil, false
	}
	text := probes(both, mostProbes)
	wanted := slices.DeleteFunc(slices.Clone(both), func(s Shape) bool { return !slices.Contains(text, s.Rune) })
	few, err := reduced(f, text)
	if err != nil {
		return nil, false
	}
	s := &search{wanted: wanted, face: few, axes: of.Axes}
	start := map[string]float64{}
	for _, a := range of.Axes {
		start[a.Tag] = a.Default
	}
	best := s.apart(start)
	for _, n := range of.Named {
		if d := misfit(wanted, n.Shapes); d < best {
			best, start = d, maps.Clone(n.At)
		}
	}
	at := s.descend(start)
	at = s.round(at)
	shapes := posed(few, at)
	if shapes == nil {
		return nil, false
	}
	e := compare(wanted, shapes)
	if float64(e.Alike) < oneDesign*float64(e.Common) || !e.Sure() {
		return nil, false
	}
	out := &Place{At: at, Evidence: e}
	for _, n := range of.Named {
		if maps.EqualFunc(n.At, at, func(a, b float64) bool { return math.Abs(a-b) < 0.01 }) {
			out.Style = n.Name
		}
	}
	return out, true
}

// search looks for a place in a design space.
type search struct {
	wanted []Shape
	face   *sfnt.Font
	axes   []Axis
}

func (s *search) apart(at map[string]float64) float64 {
	shapes := posed(s.face, at)
	if shapes == nil {
		return math.Inf(1)
	}
	return misfit(s.wanted, shapes)
}

// misfit is the sum of squared differences of measures over the characters of both, of
// each, and infinite where there are none.
func misfit(wanted, shapes []Shape) float64 {
	sum, n := 0.0, 0
	for i := range wanted {
		if t := find(shapes, wanted[i].Rune); t != nil {
			for _, d := range residuals(&wanted[i], t) {
				sum += d * d
			}
			n++
		}
	}
	if n == 0 {
		return math.Inf(1)
	}
	return sum / float64(n)
}

func residuals(s, t *Shape) [6]float64 {
	return [6]float64{
		float64(s.Advance) - float64(t.Advance), float64(s.Left) - float64(t.Left), float64(s.Right) - float64(t.Right),
		float64(s.Bottom) - float64(t.Bottom), float64(s.Top) - float64(t.Top), float64(s.Area) - float64(t.Area),
	}
}

// rounds bounds how often the search takes a step.
const rounds = 12

// descend follows the differences to where they are least, by Gauss's and Newton's
// method: along each axis it measures what a small step changes.
func (s *search) descend(at map[string]float64) map[string]float64 {
	best := s.apart(at)
	for range rounds {
		here := posed(s.face, at)
		if here == nil {
			return at
		}
		n := len(s.axes)
		normal, right := make([][]float64, n), make([]float64, n)
		var slopes [][]float64
		for i, a := range s.axes {
			normal[i] = make([]float64, n)
			h := (a.Max - a.Min) / 50
			if at[a.Tag]+h > a.Max {
				h = -h
			}
			moved := maps.Clone(at)
			moved[a.Tag] += h
			slopes = append(slopes, s.slope(here, posed(s.face, moved), h))
		}
		off := s.slope(here, nil, 1)
		for i := range n {
			for j := range n {
				for k := range off {
					normal[i][j] += slopes[i][k] * slopes[j][k]
				}
			}
			normal[i][i] += 1e-9
			for k := range off {
				right[i] += slopes[i][k] * off[k]
			}
		}
		by := solve(normal, right)
		next := maps.Clone(at)
		better := false
		for _, share := range []float64{1, 0.5, 0.25, 0.1} {
			for i, a := range s.axes {
				next[a.Tag] = max(a.Min, min(a.Max, at[a.Tag]+share*by[i]))
			}
			if d := s.apart(next); d < best {
				best, at, better = d, maps.Clone(next), true
				break
			}
		}
		if !better || best < 1 {
			break
		}
	}
	return at
}

// slope lists by how much each measure of the wanted characters changes by a step of h;
// with nothing moved by how much it is off.
func (s *search) slope(here, moved []Shape, h float64) []float64 {
	var out []float64
	for i := range s.wanted {
		t := find(here, s.wanted[i].Rune)
		to := &s.wanted[i]
		if moved != nil {
			to = find(moved, s.wanted[i].Rune)
		}
		if t == nil || to == nil {
			out = append(out, make([]float64, 6)...)
			continue
		}
		for _, d := range residuals(to, t) {
			out = append(out, d/h)
		}
	}
	return out
}

// solve solves linear equations by elimination, with the largest pivot; an unknown that
// nothing depends on is 0.
func solve(m [][]float64, right []float64) []float64 {
	n := len(right)
	for c := range n {
		p := c
		for r := c + 1; r < n; r++ {
			if math.Abs(m[r][c]) > math.Abs(m[p][c]) {
				p = r
			}
		}
		m[c], m[p], right[c], right[p] = m[p], m[c], right[p], right[c]
		if math.Abs(m[c][c]) < 1e-8 {
			continue
		}
		for r := c + 1; r < n; r++ {
			k := m[r][c] / m[c][c]
			for i := c; i < n; i++ {
				m[r][i] -= k * m[c][i]
			}
			right[r] -= k * right[c]
		}
	}
	out := make([]float64, n)
	for r := n - 1; r >= 0; r-- {
		if math.Abs(m[r][r]) < 1e-8 {
			continue
		}
		v := right[r]
		for i := r + 1; i < n; i++ {
			v -= m[r][i] * out[i]
		}
		out[r] = v / m[r][r]
	}
	return out
}

// round takes a place to whole numbers where that is as near.
func (s *search) round(at map[string]float64) map[string]float64 {
	best := s.apart(at)
	for _, to := range []float64{100, 10, 1, 0.1} {
		near := maps.Clone(at)
		for _, a := range s.axes {
			x := math.Round(at[a.Tag]/to) * to
			near[a.Tag] = max(a.Min, min(a.Max, x))
		}
		if d := s.apart(near); d <= best+4 {
			return near
		}
	}
	return at
}
