package curve_test

import (
	"fmt"
	"regexp"
	"strconv"
	"testing"

	"sparecrate/font/curve"
	"sparecrate/font/fonttest"
)

var number = regexp.MustCompile(`-?\d+\.\d+(e[-+]\d+)?`)

// TestCurvesAsApproved follows curves of many bends in quadratics and splines.
func TestCurvesAsApproved(t *testing.T) {
	t.Parallel()
	var lines []string
	line := func(values ...any) {
		lines = append(lines, number.ReplaceAllStringFunc(fmt.Sprintf("%+v", values), func(n string) string {
			v, err := strconv.ParseFloat(n, 64)
			if err != nil {
				return n
			}
			return strconv.FormatFloat(v, 'f', 2, 64)
		}))
	}
	for i := range 40 {
		x := func(k int) float64 { return float64((i*i*37+k*k*101+i*k*53)%1000 - 200) }
		p, s := pt(x(1), x(2)), curve.Segment{C1: pt(x(3), x(4)), C2: pt(x(5), x(6)), To: pt(x(7), x(8))}
		if i%9 == 0 {
			s = curve.Segment{To: pt(x(7), x(8)), Line: true}
		}
		if i%7 == 0 {
			s = curve.Segment{C1: pt(x(3), x(4)), To: pt(x(7), x(8)), Quadratic: true}
			line(s.Cubic(p), curve.Contour{From: p, Segments: []curve.Segment{s}}.Area())
			s = s.Cubic(p)
		}
		first, second := curve.Split(p, s, float64(i)/40)
		controls := curve.Spline(p, s, 0.5)
		c := curve.Contour{From: p, Segments: []curve.Segment{s, {To: pt(x(9), x(10)), Line: true}}}
		line(first, second, curve.Quads(p, s, 0.5), curve.QuadsOf(p, s, 3), controls, curve.Deviation(p, s, controls))
		line(c.Area(), c.Reverse(), c.Move(pt(3, 4)).Map(func(p curve.Point) curve.Point { return pt(p.Y, p.X) }))
		line(s.Cubic(p), p.Sub(s.To).Mul(2).Add(p).Len())
	}
	fonttest.Lines(t, "curves", lines...)
}
