package cff

import "sparecrate/font/curve"

// trail is what a glyph draws and hints, step by step, in absolute places.
type trail struct {
	steps     []step
	variation int // CFF2: the set of regions that its differences are of
}

// step is an operator with absolute operands: points as x and y by turns, edges
// of stems in their order; or a mask.
type step struct {
	op   int
	at   []float64
	mask []byte
}

func (t *trail) draw(op int, points ...curve.Point) {
	if t == nil {
		return
	}
	s := step{op: op, at: make([]float64, 0, 2*len(points))}
	for _, p := range points {
		s.at = append(s.at, p.X, p.Y)
	}
	t.steps = append(t.steps, s)
}

// stems notes edges, which the operands give one from the other.
func (t *trail) stems(op int, operands []float64) {
	if t == nil {
		return
	}
	s := step{op: op}
	at := 0.0
	for _, d := range operands {
		at += d
		s.at = append(s.at, at)
	}
	t.steps = append(t.steps, s)
}

func (t *trail) mask(op int, mask []byte) {
	if t != nil {
		t.steps = append(t.steps, step{op: op, mask: mask})
	}
}

// trailOf runs a glyph with the given scalars of the regions.
func (t *Table) trailOf(glyph int, scalars []float64) (*trail, error) {
	m, err := t.machine(glyph)
	if err != nil {
		return nil, err
	}
	m.scalars = scalars
	m.trail = &trail{variation: m.variation}
	if err := m.execute(); err != nil {
		return nil, err
	}
	return m.trail, nil
}
