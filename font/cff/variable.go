package cff

import (
	"fmt"

	"sparecrate/font/curve"
	"sparecrate/font/variation"
)

// EncodeVariable writes a CFF2 table of glyphs drawn in several designs, of which
// the first is the default and each other one lies at the peak of a region of
// the store's first set. A glyph must be drawn of the same pieces in each. The
// error wraps sfnt.ErrDamaged.
func EncodeVariable(designs [][][]curve.Contour, store *variation.Store) ([]byte, error) {
	p := &pinning{subset: subset{t: &Table{Version: 2}}, store: store}
	p.fonts = []int{0}
	p.privates = [][]byte{nil}
	for g := range designs[0] {
		w := &charWriter{p: p}
		trails := make([]*trail, len(designs))
		for i, d := range designs {
			trails[i] = trailAlong(d[g])
			if len(trails[i].steps) != len(trails[0].steps) {
				return nil, fmt.Errorf("%w: glyph %d is drawn of other pieces in design %d", errDamaged, g, i)
			}
		}
		for n, s := range trails[0].steps {
			left := make([][]float64, len(s.at))
			for k, x := range s.at {
				for _, t := range trails[1:] {
					if t.steps[n].op != s.op {
						return nil, fmt.Errorf("%w: glyph %d is drawn of other pieces", errDamaged, g)
					}
					left[k] = append(left[k], t.steps[n].at[k]-x)
				}
			}
			w.step(s, s.at, left)
		}
		p.codes = append(p.codes, w.out)
	}
	return p.version2(), nil
}

func trailAlong(contours []curve.Contour) *trail {
	t := &trail{}
	for _, c := range contours {
		t.draw(csRMoveTo, c.From)
		last := c.From
		for _, s := range c.Segments {
			if s.Line {
				t.draw(csRLineTo, s.To)
			} else {
				k := s.Cubic(last)
				t.draw(csRRCurveTo, k.C1, k.C2, k.To)
			}
			last = s.To
		}
	}
	return t
}
