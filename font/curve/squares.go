package curve

import (
	"math"
	"slices"
)

// equations are the normal equations of weighted least squares.
type equations struct {
	n     int
	left  []float64 // n x n
	right []float64
}

func newEquations(n int) *equations { return &equations{n, make([]float64, n*n), make([]float64, n)} }

// add adds one equation: a row of factors that is to give want.
func (e *equations) add(row []float64, want, weight float64) {
	for i, x := range row {
		if x == 0 {
			continue
		}
		e.right[i] += weight * x * want
		for j, y := range row {
			e.left[i*e.n+j] += weight * x * y
		}
	}
}

// solve returns the unknowns, drawn a little towards zero so that what no equation
// tells stays where it is.
func (e *equations) solve() []float64 {
	const draw = 1e-4
	trace := 0.0
	for i := range e.n {
		trace += e.left[i*e.n+i]
	}
	// Cholesky's way: the left side is symmetric and, drawn, positive.
	l := slices.Clone(e.left)
	x := slices.Clone(e.right)
	for i := range e.n {
		l[i*e.n+i] += draw*trace/float64(e.n) + 1e-12
		for j := range i + 1 {
			sum := l[i*e.n+j]
			for k := range j {
				sum -= l[i*e.n+k] * l[j*e.n+k]
			}
			if i == j {
				l[i*e.n+i] = math.Sqrt(max(sum, 1e-12))
			} else {
				l[i*e.n+j] = sum / l[j*e.n+j]
			}
		}
	}
	for i := range e.n {
		for k := range i {
			x[i] -= l[i*e.n+k] * x[k]
		}
		x[i] /= l[i*e.n+i]
	}
	for i := e.n - 1; i >= 0; i-- {
		for k := i + 1; k < e.n; k++ {
			x[i] -= l[k*e.n+i] * x[k]
		}
		x[i] /= l[i*e.n+i]
	}
	return x
}
