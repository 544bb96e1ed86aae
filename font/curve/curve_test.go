package curve_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/curve"
)

func pt(x, y float64) curve.Point { return curve.Point{X: x, Y: y} }

// at returns the point of a cubic at t.
func at(p curve.Point, s curve.Segment, t float64) curve.Point {
	u := 1 - t
	return p.Mul(u * u * u).Add(s.C1.Mul(3 * u * u * t)).Add(s.C2.Mul(3 * u * t * t)).Add(s.To.Mul(t * t * t))
}

// distance is how far the cubic's points are from the quadratics, at the same
// share of the way.
func distance(p curve.Point, s curve.Segment, quads []curve.Quad) float64 {
	worst := 0.0
	start := p
	for i, q := range quads {
		for k := range 17 {
			t := float64(k) / 16
			on := start.Mul((1 - t) * (1 - t)).Add(q.C.Mul(2 * t * (1 - t))).Add(q.To.Mul(t * t))
			worst = max(worst, on.Sub(at(p, s, (float64(i)+t)/float64(len(quads)))).Len())
		}
		start = q.To
	}
	return worst
}

func TestQuadraticsStayWithinTolerance(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	any := func() curve.Point { return pt(r.Float64()*2000-1000, r.Float64()*2000-1000) }
	for range 2000 {
		p, s := any(), curve.Segment{C1: any(), C2: any(), To: any()}
		for _, tolerance := range []float64{0.5, 5} {
			quads := curve.Quads(p, s, tolerance)
			require.LessOrEqual(t, distance(p, s, quads), tolerance*1.0001)
			require.Equal(t, s.To, quads[len(quads)-1].To, "it ends where the cubic ends")
		}
	}
}

func TestAQuadraticInDisguiseIsOnePiece(t *testing.T) {
	p, c, to := pt(0, 0), pt(300, 600), pt(600, 0)
	raised := curve.Segment{C1: p.Add(c.Mul(2)).Mul(1.0 / 3), C2: to.Add(c.Mul(2)).Mul(1.0 / 3), To: to}
	quads := curve.Quads(p, raised, 0.5)
	require.Len(t, quads, 1)
	assert.InDelta(t, 0, quads[0].C.Sub(c).Len(), 1e-9)
}

func TestSplitMeetsInTheMiddle(t *testing.T) {
	p, s := pt(0, 0), curve.Segment{C1: pt(0, 100), C2: pt(100, 100), To: pt(100, 0)}
	a, b := curve.Split(p, s, 0.25)
	assert.Equal(t, at(p, s, 0.25), a.To)
	assert.Equal(t, s.To, b.To)
	for k := range 9 {
		u := float64(k) / 8
		assert.InDelta(t, 0, at(a.To, b, u).Sub(at(p, s, 0.25+0.75*u)).Len(), 1e-9)
	}
}

func TestDirection(t *testing.T) {
	c := curve.Contour{From: pt(0, 0), Segments: []curve.Segment{{To: pt(10, 0), Line: true}, {C1: pt(14, 4), C2: pt(14, 6), To: pt(10, 10)}, {To: pt(0, 10), Line: true}}}
	assert.Positive(t, c.Area(), "counter-clockwise")
	back := c.Reverse()
	assert.InDelta(t, -c.Area(), back.Area(), 1e-9)
	assert.Equal(t, pt(0, 10), back.From)
	assert.Equal(t, c.Segments[1].C1, back.Segments[1].C2, "handles change places")
	moved := c.Move(pt(5, -5))
	assert.InDelta(t, c.Area(), moved.Area(), 1e-9)
	assert.Equal(t, pt(5, -5), moved.From)
	assert.False(t, math.IsNaN(curve.Contour{}.Reverse().Area()))
}
