package cff

import (
	"fmt"
	"math"

	"sparecrate/font/cff/internal/dict"
	"sparecrate/font/curve"
	"sparecrate/font/sfnt"
)

// Glyph returns a glyph's outline and advance in units of the charstrings, for a
// variable table in its default design; the advance is not stated in CFF2. The
// error wraps sfnt.ErrDamaged or ErrTooDeep.
func (t *Table) Glyph(glyph int) (contours []curve.Contour, advance float64, err error) {
	return t.glyph(glyph, false)
}

func (t *Table) glyph(glyph int, part bool) ([]curve.Contour, float64, error) {
	m, err := t.machine(glyph)
	if err != nil {
		return nil, 0, err
	}
	m.part = part
	if err := m.execute(); err != nil {
		return nil, 0, err
	}
	return m.contours, m.advance, nil
}

// machine makes one that is ready to run a glyph.
func (t *Table) machine(glyph int) (*machine, error) {
	code, ok := t.charstrings.At(glyph)
	font := t.selector(glyph)
	if !ok || font >= len(t.fonts) {
		return nil, fmt.Errorf("%w: glyph %d has no outline", errDamaged, glyph)
	}
	return &machine{table: t, font: &t.fonts[font], glyph: glyph, code: code, is: codeKey{codeGlyph, 0, glyph}, fontNumber: font,
		advance: t.fonts[font].defaultWidth, widthDone: t.Version == 2, variation: t.fonts[font].variation}, nil
}

func (m *machine) execute() error {
	if err := m.run(m.code, 0); err != nil {
		return fmt.Errorf("glyph %d: %w", m.glyph, err)
	}
	m.close()
	return nil
}

// machine runs one charstring.
type machine struct {
	table      *Table
	font       *private
	fontNumber int
	glyph      int
	code       []byte
	part       bool // an accent or its letter, which may not be made of parts again

	is      codeKey // the code that runs
	trace   *trace  // what is noted of calls, nil for nothing
	trail   *trail  // what is noted of drawing and hints, nil for nothing
	scalars []float64

	stack     []float64
	scratch   [maxScratch]float64
	stems     int
	variation int
	advance   float64
	widthDone bool
	done      bool
	steps     int

	at       curve.Point
	open     bool
	contours []curve.Contour
}

func (m *machine) run(code []byte, depth int) error {
	if depth > maxSubrs {
		return fmt.Errorf("%w: its subroutines call each other too deeply", ErrTooDeep)
	}
	v := sfnt.View(code)
	number := -1 // where the number before an operator starts
	for at := 0; at < len(code) && !m.done; {
		m.table.steps--
		if m.steps++; m.table.steps < 0 || m.steps > stepsPerGlyph {
			return ErrTooDeep
		}
		c := code[at]
		if c >= 32 || c == 28 {
			n, next, ok := operand(v, at)
			if !ok || len(m.stack) >= maxOperands {
				return fmt.Errorf("%w: its operands cannot be read", errDamaged)
			}
			m.stack, number, at = append(m.stack, n), at, next
			continue
		}
		from := number
		number = -1
		at++
		op := int(c)
		if c == csEscape {
			next, _ := v.U8(at)
			op = csEscape<<8 | int(next)
			at++
		}
		switch op {
		case csCallSubr, csCallGSubr:
			if err := m.call(op, depth, from, at-1); err != nil {
				return err
			}
		case csReturn:
			return nil
		case csHintMask, csCntrMask:
			m.width(len(m.stack)%2 == 1)
			m.stems += len(m.stack) / 2
			if len(m.stack) > 0 {
				m.trail.stems(csVStemHM, m.stack) // which may be left unsaid before a mask
			}
			m.stack = m.stack[:0]
			mask, _ := v.Sub(at, (m.stems+7)/8)
			m.trail.mask(op, mask)
			at += (m.stems + 7) / 8
		default:
			if err := m.do(op); err != nil {
				return err
			}
		}
	}
	return nil
}

// operand reads a number (TN 5177, section 3.2).
func operand(v sfnt.View, at int) (float64, int, bool) {
	if c, _ := v.U8(at); c == 255 {
		n, ok := v.U32(at + 1)
		return float64(int32(n)) / 65536, at + 5, ok
	}
	n, next, ok := dict.Integer(v, at)
	return float64(n), next, ok
}

// call runs a subroutine. from is where the number that names it starts in the
// code, -1 where it was computed; at is where the operator stands.
func (m *machine) call(op, depth, from, at int) error {
	subrs, key := m.font.subrs, codeKey{codeLocal, m.fontNumber, 0}
	if op == csCallGSubr {
		subrs, key = m.table.global, codeKey{codeGlobal, 0, 0}
	}
	n, ok := m.pop()
	if !ok {
		return errStack
	}
	key.number = int(n) + bias(subrs.Count)
	code, ok := subrs.At(key.number)
	if !ok {
		return fmt.Errorf("%w: it calls a subroutine that is not there", errDamaged)
	}
	if m.trace != nil {
		m.trace.call(m.is, from, at, key)
	}
	caller := m.is
	m.is = key
	err := m.run(code, depth+1)
	m.is = caller
	return err
}

// bias is what is added to the number of a subroutine (TN 5176, section 16).
func bias(subrs int) int {
	switch {
	case subrs < 1240:
		return 107
	case subrs < 33900:
		return 1131
	}
	return 32768
}

var errStack = fmt.Errorf("%w: an operator lacks its operands", errDamaged)

func (m *machine) pop() (float64, bool) {
	n := len(m.stack)
	if n == 0 {
		return 0, false
	}
	top := m.stack[n-1]
	m.stack = m.stack[:n-1]
	return top, true
}

// width takes the advance from the bottom of the stack: the first operator that
// clears the stack may have one operand more.
func (m *machine) width(extra bool) {
	if !m.widthDone && extra && len(m.stack) > 0 {
		m.advance = m.font.nominal + m.stack[0]
		m.stack = m.stack[1:]
	}
	m.widthDone = true
}

// do runs an operator that draws, hints or ends, and clears the stack; those
// that compute leave it to arithmetic.
func (m *machine) do(op int) error {
	switch op {
	case csHStem, csVStem, csHStemHM, csVStemHM:
		m.width(len(m.stack)%2 == 1)
		m.stems += len(m.stack) / 2
		m.trail.stems(op, m.stack)
	case csRMoveTo:
		m.width(len(m.stack) > 2)
		m.moveTo(m.arg(0), m.arg(1))
	case csHMoveTo:
		m.width(len(m.stack) > 1)
		m.moveTo(m.arg(0), 0)
	case csVMoveTo:
		m.width(len(m.stack) > 1)
		m.moveTo(0, m.arg(0))
	case csEndChar:
		m.width(len(m.stack) == 1 || len(m.stack) == 5)
		m.done = true
		if len(m.stack) >= 4 && m.table.Version == 1 {
			return m.compose()
		}
	case csVSIndex:
		m.variation = int(m.arg(0))
	case csBlend:
		return m.blend()
	default:
		if op >= csEscape<<8 && (op < csHFlex || op > csFlex1) {
			return m.arithmetic(op)
		}
		if !m.draw(op) {
			return fmt.Errorf("%w: it holds the unknown operator %d", errDamaged, op)
		}
	}
	m.stack = m.stack[:0]
	return nil
}

// arg returns operand i, 0 where there are fewer.
func (m *machine) arg(i int) float64 {
	if i < len(m.stack) {
		return m.stack[i]
	}
	return 0
}

// blend takes the differences of each region times its scalar; without scalars
// it keeps the values of the default design.
func (m *machine) blend() error {
	n, ok := m.pop()
	count, regions := int(n), 0
	if m.variation >= 0 && m.variation < len(m.table.regions) {
		regions = m.table.regions[m.variation]
	}
	if !ok || count < 0 || count*(regions+1) > len(m.stack) {
		return errStack
	}
	values := m.stack[len(m.stack)-count*(regions+1):]
	m.stack = m.stack[:len(m.stack)-count*regions]
	if m.trail != nil {
		m.trail.variation = m.variation
		for i := range count {
			for k := range min(regions, len(m.scalars)) {
				values[i] += m.scalars[k] * values[count+i*regions+k]
			}
		}
	}
	return nil
}

func (m *machine) moveTo(dx, dy float64) {
	m.close()
	m.at = m.at.Add(curve.Point{X: dx, Y: dy})
	m.trail.draw(csRMoveTo, m.at)
	m.contours = append(m.contours, curve.Contour{From: m.at})
	m.open = true
}

// close drops a contour that never drew anything.
func (m *machine) close() {
	if n := len(m.contours); m.open && len(m.contours[n-1].Segments) == 0 {
		m.contours = m.contours[:n-1]
	}
	m.open = false
}

func (m *machine) add(s curve.Segment) {
	if !m.open {
		m.contours = append(m.contours, curve.Contour{From: m.at})
		m.open = true
	}
	c := &m.contours[len(m.contours)-1]
	c.Segments = append(c.Segments, s)
	m.at = s.To
	if s.Line {
		m.trail.draw(csRLineTo, s.To)
	} else {
		m.trail.draw(csRRCurveTo, s.C1, s.C2, s.To)
	}
}

func (m *machine) line(dx, dy float64) {
	m.add(curve.Segment{To: m.at.Add(curve.Point{X: dx, Y: dy}), Line: true})
}

func (m *machine) curve(ax, ay, bx, by, cx, cy float64) {
	a := m.at.Add(curve.Point{X: ax, Y: ay})
	b := a.Add(curve.Point{X: bx, Y: by})
	m.add(curve.Segment{C1: a, C2: b, To: b.Add(curve.Point{X: cx, Y: cy})})
}

// draw runs the operators for lines and curves, false for an unknown one.
func (m *machine) draw(op int) bool {
	s := m.stack
	switch op {
	case csRLineTo:
		for ; len(s) >= 2; s = s[2:] {
			m.line(s[0], s[1])
		}
	case csHLineTo, csVLineTo:
		for horizontal := op == csHLineTo; len(s) >= 1; s, horizontal = s[1:], !horizontal {
			if horizontal {
				m.line(s[0], 0)
			} else {
				m.line(0, s[0])
			}
		}
	case csRRCurveTo, csRCurveLine:
		for ; len(s) >= 6; s = s[6:] {
			m.curve(s[0], s[1], s[2], s[3], s[4], s[5])
		}
		if op == csRCurveLine && len(s) >= 2 {
			m.line(s[0], s[1])
		}
	case csRLineCurve:
		for ; len(s) >= 8; s = s[2:] {
			m.line(s[0], s[1])
		}
		if len(s) >= 6 {
			m.curve(s[0], s[1], s[2], s[3], s[4], s[5])
		}
	case csVVCurveTo, csHHCurveTo:
		m.straightCurves(s, op == csHHCurveTo)
	case csVHCurveTo, csHVCurveTo:
		m.turningCurves(s, op == csHVCurveTo)
	case csHFlex, csFlex, csHFlex1, csFlex1:
		m.flex(op)
	default:
		return false
	}
	return true
}

// straightCurves are curves that start and end in the same direction.
func (m *machine) straightCurves(s []float64, horizontal bool) {
	across := 0.0
	if len(s)%4 == 1 {
		across, s = s[0], s[1:]
	}
	for ; len(s) >= 4; s = s[4:] {
		if horizontal {
			m.curve(s[0], across, s[1], s[2], s[3], 0)
		} else {
			m.curve(across, s[0], s[1], s[2], 0, s[3])
		}
		across = 0
	}
}

// turningCurves are curves that start in one direction and end in the other.
func (m *machine) turningCurves(s []float64, horizontal bool) {
	for ; len(s) >= 4; s, horizontal = s[4:], !horizontal {
		last := 0.0
		if len(s) == 5 {
			last = s[4]
		}
		if horizontal {
			m.curve(s[0], 0, s[1], s[2], last, s[3])
		} else {
			m.curve(0, s[0], s[1], s[2], s[3], last)
		}
	}
}

// flex draws two curves that at small sizes may become a line.
func (m *machine) flex(op int) {
	a := m.arg
	switch op {
	case csFlex:
		m.curve(a(0), a(1), a(2), a(3), a(4), a(5))
		m.curve(a(6), a(7), a(8), a(9), a(10), a(11))
	case csHFlex:
		m.curve(a(0), 0, a(1), a(2), a(3), 0)
		m.curve(a(4), 0, a(5), -a(2), a(6), 0)
	case csHFlex1:
		m.curve(a(0), a(1), a(2), a(3), a(4), 0)
		m.curve(a(5), 0, a(6), a(7), a(8), -(a(1) + a(3) + a(7)))
	case csFlex1:
		dx, dy := a(0)+a(2)+a(4)+a(6)+a(8), a(1)+a(3)+a(5)+a(7)+a(9)
		m.curve(a(0), a(1), a(2), a(3), a(4), a(5))
		if math.Abs(dx) > math.Abs(dy) {
			m.curve(a(6), a(7), a(8), a(9), a(10), -dy)
		} else {
			m.curve(a(6), a(7), a(8), a(9), -dx, a(10))
		}
	}
}

// compose draws a letter and its accent, named by their places in Adobe's
// standard encoding (TN 5177, appendix C).
func (m *machine) compose() error {
	if m.part {
		return fmt.Errorf("%w: an accented letter is made of accented letters", errDamaged)
	}
	shift := curve.Point{X: m.stack[0], Y: m.stack[1]}
	m.close()
	for i, code := range m.stack[2:4] {
		glyph := m.table.standardGlyph(int(code))
		if glyph < 0 {
			return fmt.Errorf("%w: it is made of a glyph that is not there", errDamaged)
		}
		if m.trace != nil {
			m.trace.parts = append(m.trace.parts, glyph)
			continue
		}
		contours, _, err := m.table.glyph(glyph, true)
		if err != nil {
			return err
		}
		for _, c := range contours {
			if i == 1 {
				c = c.Move(shift)
			}
			m.contours = append(m.contours, c)
		}
	}
	m.stack = m.stack[:0]
	return nil
}

// standardRanges are the codes of Adobe's standard encoding: first code, how
// many, and the number of the first name (TN 5176, appendix B).
var standardRanges = [][3]int{
	{32, 95, 1}, {161, 15, 96}, {177, 4, 111}, {182, 8, 115}, {191, 1, 123}, {193, 8, 124}, {202, 2, 132}, {205, 4, 134},
	{225, 1, 138}, {227, 1, 139}, {232, 4, 140}, {241, 1, 144}, {245, 1, 145}, {248, 4, 146},
}

// standardGlyph returns the glyph of a code of the standard encoding, -1 for none.
func (t *Table) standardGlyph(code int) int {
	for _, r := range standardRanges {
		if code < r[0] || code >= r[0]+r[1] {
			continue
		}
		for g, name := range t.names() {
			if int(name) == r[2]+code-r[0] {
				return g
			}
		}
	}
	return -1
}
