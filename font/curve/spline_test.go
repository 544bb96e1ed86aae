package curve_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/curve"
	"sparecrate/font/curve/curvetest"
)

// along returns many points of the quadratics with these control points, whose
// ends lie half-way between two.
func along(p curve.Point, s curve.Segment, controls []curve.Point) []curve.Point {
	const steps = 60
	var out []curve.Point
	from := p
	for i, c := range controls {
		to := s.To
		if i+1 < len(controls) {
			to = c.Add(controls[i+1]).Mul(0.5)
		}
		for k := range steps + 1 {
			t := float64(k) / steps
			out = append(out, from.Mul((1-t)*(1-t)).Add(c.Mul(2*t*(1-t))).Add(to.Mul(t*t)))
		}
		from = to
	}
	return out
}

// apart is the largest distance of a place on either line from the other.
func apart(a, b []curve.Point) float64 { return max(curvetest.Away(a, b), curvetest.Away(b, a)) }

func drawn(p curve.Point, s curve.Segment) []curve.Point {
	var out []curve.Point
	for k := range 401 {
		out = append(out, at(p, s, float64(k)/400))
	}
	return out
}

// TestSplinesFollowFreeCurves takes curves of every kind, with loops and turns:
// the quadratics are as near as they are said to be, leave nothing out, and are
// few.
func TestSplinesFollowFreeCurves(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	any := func() curve.Point { return pt(float64(r.IntN(700)), float64(r.IntN(700))) }
	const tolerance = 0.5
	points, curves, far := 0, 0, 0
	for range 100 {
		p, s := any(), curve.Segment{C1: any(), C2: any(), To: any()}
		controls := curve.Spline(p, s, tolerance)
		require.NotEmpty(t, controls)
		for _, c := range controls {
			require.Equal(t, pt(math.Round(c.X), math.Round(c.Y)), c, "whole units")
		}
		off := apart(along(p, s, controls), drawn(p, s))
		if off > 1.5*tolerance+0.1 {
			far++
		}
		points, curves = points+len(controls)+1, curves+1
	}
	assert.LessOrEqual(t, far, curves/50, "but for cusps that whole units cannot follow")
	assert.Less(t, float64(points), 1.9*3*float64(curves), "points of the cubics, which no face has as wild")
}

// TestSplinesKeepTheTangentsOfTheEnds takes arcs whose ends run straight along an
// axis, as those of letters do: extremes stay extremes.
func TestSplinesKeepTheTangentsOfTheEnds(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 3))
	for range 200 {
		w, h := float64(50+r.IntN(600)), float64(50+r.IntN(600))
		k, l := math.Round(w*(0.3+0.6*r.Float64())), math.Round(h*(0.3+0.6*r.Float64()))
		p, s := pt(0, 0), curve.Segment{C1: pt(0, l), C2: pt(w-k, h), To: pt(w, h)}
		controls := curve.Spline(p, s, 0.3)
		assert.Equal(t, 0.0, controls[0].X, "the first lies above the start")
		assert.Equal(t, h, controls[len(controls)-1].Y, "the last beside the end")
		assert.LessOrEqual(t, len(controls), 4)
		for _, q := range along(p, s, controls) {
			require.True(t, q.X >= 0 && q.X <= w && q.Y >= 0 && q.Y <= h, "nothing reaches beyond the extremes")
		}
	}
}

func TestSplinesOfWhatIsHardlyACurve(t *testing.T) {
	for name, s := range map[string]curve.Segment{
		"a point":               {C1: pt(5, 5), C2: pt(5, 5), To: pt(5, 5)},
		"a line":                {C1: pt(35, 35), C2: pt(65, 65), To: pt(95, 95)},
		"one handle":            {C1: pt(5, 5), C2: pt(5, 400), To: pt(300, 400)},
		"back over itself":      {C1: pt(905, 5), C2: pt(-800, 5), To: pt(105, 5)},
		"a cusp":                {C1: pt(405, 400), C2: pt(5, 400), To: pt(405, 5)},
		"handles behind theirs": {C1: pt(-200, 5), C2: pt(500, 5), To: pt(205, 5)},
	} {
		controls := curve.Spline(pt(5, 5), s, 0.3)
		require.NotEmpty(t, controls, name)
		for _, c := range controls {
			assert.False(t, math.IsNaN(c.X) || math.IsNaN(c.Y) || math.Abs(c.X) > 2000 || math.Abs(c.Y) > 2000, "%s: %v", name, controls)
		}
		assert.Less(t, apart(along(pt(5, 5), s, controls), drawn(pt(5, 5), s)), 8.0, "%s: %v", name, controls)
	}
}

// TestASplineIsAsLongAsItMayBe takes a curve so large that each further quadratic follows it
// more closely: all twelve are taken where the tolerance asks for more than they give, and
// with a looser one only as many as it takes.
func TestASplineIsAsLongAsItMayBe(t *testing.T) {
	p, s := pt(0, 0), curve.Segment{C1: pt(0, 1e6), C2: pt(3e6, 2e6), To: pt(3e6, -1e6)}
	assert.Len(t, curve.Spline(p, s, 1e-6), 12)
	few := curve.Spline(p, s, 1e4)
	assert.Less(t, len(few), 6)
	assert.LessOrEqual(t, apart(along(p, s, few), drawn(p, s)), 1.6e4)
}
