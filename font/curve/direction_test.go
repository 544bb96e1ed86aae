package curve

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestTheWayToTheNextPoint is one unit long, passes points over that lie where it starts, and
// leads nowhere where all of them do.
func TestTheWayToTheNextPoint(t *testing.T) {
	from := Point{X: 3, Y: 4}
	for _, c := range []struct {
		others []Point
		want   Point
	}{
		{[]Point{{X: 13, Y: 4}}, Point{X: 1}},
		{[]Point{{X: 3, Y: -4}}, Point{Y: -1}},
		{[]Point{from, from, {X: 6, Y: 8}}, Point{X: 0.6, Y: 0.8}},
		{[]Point{{X: 3, Y: 4.25}, {X: 100, Y: 4}}, Point{Y: 1}},
		{[]Point{from}, Point{}},
		{nil, Point{}},
	} {
		got := direction(from, c.others...)
		assert.InDelta(t, c.want.X, got.X, 1e-12, "%v", c.others)
		assert.InDelta(t, c.want.Y, got.Y, 1e-12, "%v", c.others)
		if c.want != (Point{}) {
			assert.InDelta(t, 1, math.Hypot(got.X, got.Y), 1e-12)
		}
	}
}
