// Package curvetest measures how far drawn lines are from each other, for tests.
package curvetest

import (
	"math"

	"sparecrate/font/curve"
)

// Away returns the largest distance of points from a line through others.
func Away(points, line []curve.Point) float64 {
	most := 0.0
	for _, p := range points {
		least := math.Inf(1)
		for i := 1; i < len(line); i++ {
			a, d := line[i-1], line[i].Sub(line[i-1])
			k := 0.0
			if l := d.X*d.X + d.Y*d.Y; l > 0 {
				v := p.Sub(a)
				k = max(0, min(1, (v.X*d.X+v.Y*d.Y)/l))
			}
			least = min(least, p.Sub(a.Add(d.Mul(k))).Len())
		}
		most = max(most, least)
	}
	return most
}
