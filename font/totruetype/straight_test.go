package totruetype

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"sparecrate/font/curve"
)

// TestCurvesThatAreLines tells curves whose handles lie on a line from others.
func TestCurvesThatAreLines(t *testing.T) {
	p := func(x, y float64) curve.Point { return curve.Point{X: x, Y: y} }
	cubic := func(c1, c2, to curve.Point) curve.Segment { return curve.Segment{C1: c1, C2: c2, To: to} }
	for _, c := range []struct {
		why  string
		from curve.Point
		s    curve.Segment
		want bool
	}{
		{"handles on the line", p(0, 0), cubic(p(10, 10), p(20, 20), p(30, 30)), true},
		{"handles at the ends", p(5, 0), cubic(p(5, 0), p(5, 90), p(5, 90)), true},
		{"a little beside", p(0, 0), cubic(p(10, 0.09), p(20, -0.09), p(30, 0)), true},
		{"the first beside", p(0, 0), cubic(p(10, 0.2), p(20, 0), p(30, 0)), false},
		{"the second beside", p(0, 0), cubic(p(10, 0), p(20, -0.2), p(30, 0)), false},
		{"before the start", p(0, 0), cubic(p(-5, 0), p(20, 0), p(30, 0)), false},
		{"behind the end", p(0, 0), cubic(p(10, 0), p(35, 0), p(30, 0)), false},
		{"off the origin", p(100, 200), cubic(p(110, 220), p(120, 240), p(130, 260)), true},
		{"off the origin and bent", p(100, 200), cubic(p(110, 200), p(120, 240), p(130, 260)), false},
		{"no way at all", p(7, 7), cubic(p(7, 7), p(7.05, 7), p(7, 7)), true},
		{"a loop back to the start", p(7, 7), cubic(p(9, 7), p(7, 9), p(7, 7)), false},
		{"quadratic", p(0, 0), curve.Segment{Quadratic: true, C1: p(10, 0), To: p(20, 0)}, false},
	} {
		assert.Equal(t, c.want, straight(c.from, c.s), c.why)
	}
}
