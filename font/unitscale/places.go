package unitscale

import (
	"fmt"
	"slices"

	"sparecrate/font/sfnt"
)

// places gathers where a table that is a tree of offsets holds font units, each
// once however often it is pointed at.
type places struct {
	v              sfnt.View
	seen           map[int]bool
	signed, counts []int
}

// u16 reads a number; what lies outside counts as nothing.
func (p *places) u16(at int) int { return p.v.Cursor().Count(at) }

// add notes a number; whether it was noted before.
func (p *places) add(list *[]int, at int) {
	if _, ok := p.v.Sub(at, 2); ok && !p.seen[at] {
		p.seen[at] = true
		*list = append(*list, at)
	}
}

func (p *places) value(at int)    { p.add(&p.signed, at) }
func (p *places) distance(at int) { p.add(&p.counts, at) }

// once reports whether a part is met for the first time.
func (p *places) once(at int) bool {
	if p.seen[-1-at] {
		return false
	}
	p.seen[-1-at] = true
	_, ok := p.v.Sub(at, 2)
	return ok
}

// tree scales a table at the places that walk finds.
func (s *scaler) tree(tag sfnt.Tag, walk func(p *places)) {
	b := slices.Clone(s.font.Table(tag))
	if len(b) == 0 {
		return
	}
	p := &places{v: sfnt.View(b), seen: map[int]bool{}}
	walk(p)
	for _, at := range p.signed {
		s.signed(b, at)
	}
	for _, at := range p.counts {
		s.unsigned(b, at)
	}
	s.made[tag] = b
}

// kerning scales `kern` in the forms that OpenType has (OpenType, `kern`,
// formats 0 and 2).
func (s *scaler) kerning() error {
	b := s.font.Table(tagKern)
	if len(b) == 0 {
		return nil
	}
	var failed error
	s.tree(tagKern, func(p *places) {
		if p.u16(0) != 0 {
			failed = fmt.Errorf("%w: its table `kern` has a form that is not OpenType's", ErrUnits)
			return
		}
		at := 4
		for range p.u16(2) {
			length, format := p.u16(at+2), p.u16(at+4)>>8
			switch format {
			case 0:
				for i := range p.u16(at + 6) { // its length says less where there are many pairs
					p.value(at + 14 + 6*i + 4)
				}
			case 2:
				for place := at + p.u16(at+12); place < at+length; place += 2 {
					p.value(place)
				}
			default:
				failed = fmt.Errorf("%w: its table `kern` has a part of format %d", ErrUnits, format)
			}
			if at += length; length == 0 {
				return
			}
		}
	})
	return failed
}

// baselines scales `BASE`.
func (s *scaler) baselines() error {
	if v := sfnt.View(s.font.Table(tagBASE)); len(v) > 8 {
		if minor, _ := v.U16(2); minor > 0 {
			if at, _ := v.U32(8); at != 0 {
				return fmt.Errorf("%w: its baselines vary", ErrUnits)
			}
		}
	}
	s.tree(tagBASE, func(p *places) {
		for _, place := range []int{4, 6} {
			axis := p.u16(place)
			if axis == 0 || !p.once(axis) {
				continue
			}
			list := axis + p.u16(axis+2)
			for i := range p.u16(list) {
				script := list + p.u16(list+2+6*i+4)
				if !p.once(script) {
					continue
				}
				if at := p.u16(script); at != 0 && p.once(script+at) {
					values := script + at
					for k := range p.u16(values + 2) {
						p.value(values + p.u16(values+4+2*k) + 2)
					}
				}
				p.extremes(script, p.u16(script+2))
				for k := range p.u16(script + 4) {
					p.extremes(script, p.u16(script+6+6*k+4))
				}
			}
		}
	})
	return nil
}

// extremes walks a MinMax table.
func (p *places) extremes(script, offset int) {
	at := script + offset
	if offset == 0 || !p.once(at) {
		return
	}
	ends := func(place int) {
		for i := range 2 {
			if to := p.u16(place + 2*i); to != 0 {
				p.value(at + to + 2)
			}
		}
	}
	ends(at)
	for i := range p.u16(at + 4) {
		ends(at + 6 + 8*i + 4)
	}
}

// mathematics scales `MATH`.
func (s *scaler) mathematics() error {
	const (
		constants = 51 // values with a device, behind two shares and two heights
		shares    = 8
	)
	s.tree(tagMATH, func(p *places) {
		if at := p.u16(4); at != 0 {
			p.distance(at + 4)
			p.distance(at + 6)
			for i := range constants {
				p.value(at + shares + 4*i)
			}
		}
		if at := p.u16(6); at != 0 {
			for _, place := range []int{0, 2} { // slants, and where accents go
				if list := at + p.u16(at+place); list != at && p.once(list) {
					for i := range p.u16(list + 2) {
						p.value(list + 4 + 4*i)
					}
				}
			}
			if list := at + p.u16(at+6); list != at && p.once(list) {
				for i := range 4 * p.u16(list+2) {
					if to := p.u16(list + 4 + 2*i); to != 0 && p.once(list+to) {
						for k := range 2*p.u16(list+to) + 1 { // heights, and one more kern than those
							p.value(list + to + 2 + 4*k)
						}
					}
				}
			}
		}
		if at := p.u16(8); at != 0 {
			p.distance(at)
			for i := range p.u16(at+6) + p.u16(at+8) {
				if to := p.u16(at + 10 + 2*i); to != 0 && p.once(at+to) {
					p.construction(at + to)
				}
			}
		}
	})
	return nil
}

// construction walks a MathGlyphConstruction table.
func (p *places) construction(at int) {
	for i := range p.u16(at + 2) {
		p.distance(at + 4 + 4*i + 2)
	}
	to := p.u16(at)
	if to == 0 || !p.once(at+to) {
		return
	}
	at += to
	p.value(at)
	for i := range p.u16(at + 4) {
		for k := range 3 {
			p.distance(at + 6 + 10*i + 2 + 2*k)
		}
	}
}
