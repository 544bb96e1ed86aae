// Package variation computes how a variable font varies: the item variation
// store and its maps, the tuple variations of `gvar` and `cvar`, and the
// scales of `avar`, after the chapters "OpenType font variations common table
// formats", "gvar", "cvar" and "avar" of the OpenType specification 1.9.1.
//
// A Change says what becomes of the axes: pinned to a place, limited to a
// range, or left. It turns each region of the design space into what is added
// for good and what varies still, exactly but for rounding.
//
// Coordinates are normalized, -1 to 1, unless a comment says otherwise.
package variation

import (
	"fmt"

	"sparecrate/font/sfnt"
)

// The tables of variations.
var (
	TagGvar = sfnt.MakeTag("gvar")
	TagCvar = sfnt.MakeTag("cvar")
	TagHVAR = sfnt.MakeTag("HVAR")
	TagVVAR = sfnt.MakeTag("VVAR")
	TagMVAR = sfnt.MakeTag("MVAR")
)

var errDamaged = sfnt.Damaged("the variations are damaged")

func damaged(what string) error { return fmt.Errorf("%w: %s", errDamaged, what) }

const (
	// MaxAxes is a good deal more than any font known to us has.
	MaxAxes = 64
	// maxRegions and maxRows are the formats' own limits.
	maxRegions = 1 << 15
	maxRows    = 1 << 16
	// workPerByte bounds what is made of a table by its size; columns of a store
	// may be shorter than one byte a delta, packed runs of zeros are.
	workPerByte = 64
	workBase    = 1 << 20
)

// Tent is the support of a region along one axis: 0 up to Start, 1 at Peak, 0
// from End on, straight in between. The zero Tent is 1 everywhere.
type Tent struct{ Start, Peak, End float64 }

// Region is a tent for each axis.
type Region []Tent

// At returns how much of a tent applies at a coordinate (OpenType, "Algorithm for
// interpolation of instance values").
func (t Tent) At(x float64) float64 {
	switch {
	case t.Peak == 0 || x == t.Peak || t.Start > t.Peak || t.Peak > t.End || t.Start < 0 && t.End > 0:
		return 1
	case x <= t.Start || x >= t.End:
		return 0
	case x < t.Peak:
		return (x - t.Start) / (t.Peak - t.Start)
	}
	return (t.End - x) / (t.End - t.Peak)
}

// At returns how much of a region applies at a place: the product of its tents.
func (r Region) At(place []float64) float64 {
	scalar := 1.0
	for i, t := range r {
		if i < len(place) {
			scalar *= t.At(place[i])
		} else {
			scalar *= t.At(0)
		}
	}
	return scalar
}

// fromF2 reads a normalized coordinate; toF2 writes one.
func fromF2(v int16) float64 { return float64(v) / 16384 }

func toF2(x float64) uint16 {
	n := x * 16384
	if n < 0 {
		return uint16(int16(n - 0.5))
	}
	return uint16(int16(n + 0.5))
}
