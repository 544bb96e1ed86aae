package cff

import (
	"fmt"
	"math"
)

// Arithmetic operators (TN 5177, section 4.4 to 4.6).
const (
	csAnd    = 0x0C03
	csOr     = 0x0C04
	csNot    = 0x0C05
	csAbs    = 0x0C09
	csAdd    = 0x0C0A
	csSub    = 0x0C0B
	csDiv    = 0x0C0C
	csNeg    = 0x0C0E
	csEq     = 0x0C0F
	csDrop   = 0x0C12
	csPut    = 0x0C14
	csGet    = 0x0C15
	csIfElse = 0x0C16
	csRandom = 0x0C17
	csMul    = 0x0C18
	csSqrt   = 0x0C1A
	csDup    = 0x0C1B
	csExch   = 0x0C1C
	csIndex  = 0x0C1D
	csRoll   = 0x0C1E
)

// operandsOf is how many operands an operator takes.
var operandsOf = map[int]int{
	csAnd: 2, csOr: 2, csNot: 1, csAbs: 1, csAdd: 2, csSub: 2, csDiv: 2, csNeg: 1, csEq: 2, csDrop: 1, csPut: 2, csGet: 1,
	csIfElse: 4, csRandom: 0, csMul: 2, csSqrt: 1, csDup: 1, csExch: 2, csIndex: 1, csRoll: 2,
}

func (m *machine) arithmetic(op int) error {
	takes, known := operandsOf[op]
	if !known {
		m.stack = m.stack[:0] // reserved; readers skip them
		return nil
	}
	from := len(m.stack) - takes
	if from < 0 || len(m.stack) >= maxOperands {
		return errStack
	}
	a := append([]float64(nil), m.stack[from:]...)
	m.stack = m.stack[:from]
	push := func(n ...float64) { m.stack = append(m.stack, n...) }
	truth := func(b bool) {
		if b {
			push(1)
		} else {
			push(0)
		}
	}
	switch op {
	case csAnd:
		truth(a[0] != 0 && a[1] != 0)
	case csOr:
		truth(a[0] != 0 || a[1] != 0)
	case csNot:
		truth(a[0] == 0)
	case csEq:
		truth(a[0] == a[1])
	case csAbs:
		push(math.Abs(a[0]))
	case csAdd:
		push(a[0] + a[1])
	case csSub:
		push(a[0] - a[1])
	case csDiv:
		if a[1] == 0 {
			return fmt.Errorf("%w: it divides by nothing", errDamaged)
		}
		push(a[0] / a[1])
	case csNeg:
		push(-a[0])
	case csMul:
		push(a[0] * a[1])
	case csSqrt:
		push(math.Sqrt(max(a[0], 0)))
	case csRandom:
		push(0.5) // the same glyph every time
	case csDup:
		push(a[0], a[0])
	case csExch:
		push(a[1], a[0])
	case csIfElse:
		if a[2] <= a[3] {
			push(a[0])
		} else {
			push(a[1])
		}
	case csPut, csGet:
		i := int(a[len(a)-1])
		if i < 0 || i >= maxScratch {
			return errStack
		}
		if op == csPut {
			m.scratch[i] = a[0]
		} else {
			push(m.scratch[i])
		}
	case csIndex:
		i := from - 1 - max(int(a[0]), 0)
		if i < 0 {
			return errStack
		}
		push(m.stack[i])
	case csRoll:
		return m.roll(int(a[0]), int(a[1]))
	}
	return nil
}

// roll turns the n topmost operands by j places.
func (m *machine) roll(n, j int) error {
	if n < 0 || n > len(m.stack) {
		return errStack
	}
	if n == 0 {
		return nil
	}
	part := m.stack[len(m.stack)-n:]
	turned := make([]float64, n)
	for i, value := range part {
		turned[((i+j)%n+n)%n] = value
	}
	copy(part, turned)
	return nil
}
