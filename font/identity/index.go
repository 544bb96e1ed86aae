package identity

import (
	"cmp"
	"math/bits"
	"slices"
)

// MostCells bounds the cells of a face, of 4 bytes each.
const MostCells = 1000

// styleCells bounds the cells of each named style of a variable face.
const styleCells = 60

// Cell is a character with its coarse measures, as a number: two faces of one design
// share most of the cells of their common characters, others few.
type Cell uint32

// Cells returns the cells that a face is found by: of a face with more than MostCells
// characters those of a choice that is the same for every face, so that a part of a face
// shares its cells with the whole.
func (p *Print) Cells() []Cell {
	out := cells(p.Shapes, MostCells-styleCells*min(len(p.Named), MostCells/styleCells/2))
	for i, n := range p.Named {
		if i == MostCells/styleCells/2 {
			break
		}
		out = append(out, cells(n.Shapes, styleCells)...)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// Sampled reports whether Cells holds but a choice of the cells: a part of such a face may
// share none of those. Where a look-up of a part finds nothing near, it is to be compared
// with the faces that are sampled, too.
func (p *Print) Sampled() bool { return len(p.Shapes) > MostCells }

// cells returns up to so many cells of shapes, those of characters whose number comes
// first when it is mixed.
func cells(shapes []Shape, most int) []Cell {
	type ranked struct {
		rank uint32
		cell Cell
	}
	all := make([]ranked, 0, len(shapes))
	for i := range shapes {
		if s := &shapes[i]; !s.Blank() {
			all = append(all, ranked{mix(uint32(s.Rune)), cell(s)}) //nolint:gosec // a code point
		}
	}
	if len(all) > most {
		slices.SortFunc(all, func(a, b ranked) int { return cmp.Compare(a.rank, b.rank) })
		all = all[:most]
	}
	out := make([]Cell, len(all))
	for i, r := range all {
		out[i] = r.cell
	}
	return out
}

// coarse is how many parts of an em a side of a cell has: far more than measures of one
// design differ by, so that few of its characters fall into another cell.
const coarse = Grid / 64

func cell(s *Shape) Cell {
	h := mix(uint32(s.Rune)) //nolint:gosec // a code point
	for _, v := range []int16{s.Advance, s.Right - s.Left, s.Top, s.Top - s.Bottom} {
		h = mix(h ^ uint32(int32(v)+coarse/3)/coarse) //nolint:gosec // any number will do
	}
	return Cell(h)
}

// mix is a function from 32 bits to 32 bits whose every output bit depends on every input
// bit.
func mix(x uint32) uint32 {
	x ^= x >> 16
	x *= 0x7feb352d
	x ^= x >> 15
	x *= 0x846ca68b
	return x ^ x>>16
}

// Index finds faces by their cells. It is filled first and asked then; asking changes
// nothing.
type Index struct {
	entries []entry
	sorted  bool
	faces   int
}

type entry struct {
	cell Cell
	face uint32
}

// Add puts a face in, under a number of the caller's.
func (x *Index) Add(face uint32, cells []Cell) {
	for _, c := range cells {
		x.entries = append(x.entries, entry{c, face})
	}
	x.sorted = false
	x.faces++
}

// Candidate is a face that shares cells with another.
type Candidate struct {
	Face   uint32
	Shared int
}

// usual bounds the faces that a cell may lead to and still tell something.
const usual = 2000

// Look returns the faces that share most cells, the nearest first, at most so many.
func (x *Index) Look(asked []Cell, most int) []Candidate {
	if !x.sorted {
		slices.SortFunc(x.entries, func(a, b entry) int {
			if c := cmp.Compare(a.cell, b.cell); c != 0 {
				return c
			}
			return cmp.Compare(a.face, b.face)
		})
		x.sorted = true
	}
	votes := map[uint32]int{}
	for _, c := range asked {
		from, _ := slices.BinarySearchFunc(x.entries, c, func(e entry, c Cell) int { return cmp.Compare(e.cell, c) })
		n := 0
		for i := from; i < len(x.entries) && x.entries[i].cell == c; i++ {
			n++
		}
		if n > usual {
			continue
		}
		// A cell that few faces share weighs more.
		weight := 1 + max(0, 11-bits.Len(uint(n))) //nolint:gosec // a count
		for i := from; i < from+n; i++ {
			votes[x.entries[i].face] += weight
		}
	}
	out := make([]Candidate, 0, len(votes))
	for face, n := range votes {
		out = append(out, Candidate{face, n})
	}
	slices.SortFunc(out, func(a, b Candidate) int {
		if c := cmp.Compare(b.Shared, a.Shared); c != 0 {
			return c
		}
		return cmp.Compare(a.Face, b.Face)
	})
	return out[:min(len(out), most)]
}
