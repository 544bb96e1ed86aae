package identity

import (
	"cmp"
	"math"
	"slices"

	"sparecrate/font/coverage"
	"sparecrate/font/table"
)

// Relation is how two designs relate.
type Relation string

// The relations, from the nearest to none.
const (
	// Same is one design with the same characters.
	Same Relation = "same"
	// Part is one design, of which each has characters the other has not, or one holds
	// some of the other's.
	Part Relation = "part"
	// Version is a design that goes on: characters were redrawn or set wider, and the
	// rest is the same or near.
	Version Relation = "version"
	// Different are two designs.
	Different Relation = "different"
)

// How far measures may be apart and still be the same. Rounding to a grid of 1000 units
// moves a point by two steps of 4096 at most.
const (
	nearLength = 6  // parts of an em
	nearArea   = 10 // 1/4096 of a square em, and a hundredth of it
	nearMiddle = 10
	nearInk    = 2 // 1/128 em
)

// Evidence says how two faces relate, and why.
type Evidence struct {
	Relation Relation `json:"relation"`
	// Common is how many characters both have, Alike how many of these are drawn alike and
	// move on alike, Drawn how many are drawn alike but for the space around them.
	Common int `json:"common"`
	Alike  int `json:"alike"`
	Drawn  int `json:"drawn"`
	// OnlyA and OnlyB are the characters that one has and the other has not.
	OnlyA coverage.Characters `json:"-"`
	OnlyB coverage.Characters `json:"-"`
	// Redrawn are the common characters that are not alike, those that differ most first.
	Redrawn []Redrawn `json:"redrawn"`
	// Apart is how far the common characters are apart, as a part of an em: the middle of
	// their differences.
	Apart float64 `json:"apart"`
	// Stems is how thick upright strokes of the second are beside those of the first, 0
	// where that cannot be measured.
	Stems float64 `json:"stems"`
}

// Redrawn is a character that two faces draw differently.
type Redrawn struct {
	Rune  rune    `json:"-"`
	Text  string  `json:"character"`
	Apart float64 `json:"apart"` // the largest difference of its measures, as a part of an em
}

// Sure reports whether there is enough to go by: a few characters that leave ink.
func (e *Evidence) Sure() bool { return e.Common >= fewest }

const (
	// fewest is how many drawn characters two faces must share to be judged.
	fewest = 4
	// mostRedrawn bounds the characters that are listed.
	mostRedrawn = 300
	// oneDesign is the share of common characters that are alike in one design. The rest is
	// room for characters that a tool draws anew: marks, a space, the sign for nothing.
	oneDesign = 0.97
	// goesOn is the share of common characters that a new version leaves as they were, or
	// draws nearly so (within goesOnApart of an em).
	goesOn      = 0.2
	goesOnApart = 0.02
)

// Compare says how two faces relate. The named styles of variable faces do not matter; see
// Placed.
func Compare(a, b *Print) *Evidence { return compare(a.Shapes, b.Shapes) }

func compare(a, b []Shape) *Evidence {
	e := &Evidence{Relation: Different, Redrawn: []Redrawn{}}
	var onlyA, onlyB []table.Run
	var apart []float64
	blank, blankAlike := 0, 0
	for i, j := 0, 0; i < len(a) || j < len(b); {
		switch {
		case j == len(b) || i < len(a) && a[i].Rune < b[j].Rune:
			onlyA = append(onlyA, table.Run{First: a[i].Rune, Count: 1})
			i++
			continue
		case i == len(a) || b[j].Rune < a[i].Rune:
			onlyB = append(onlyB, table.Run{First: b[j].Rune, Count: 1})
			j++
			continue
		}
		s, t := &a[i], &b[j]
		i, j = i+1, j+1
		if s.Blank() && t.Blank() {
			blank++
			if near(s.Advance, t.Advance, nearLength) {
				blankAlike++
			}
			continue
		}
		e.Common++
		drawn := alike(s, t, true)
		if drawn {
			e.Drawn++
		}
		if drawn && near(s.Advance, t.Advance, nearLength) && near(s.Left, t.Left, nearLength) {
			e.Alike++
			apart = append(apart, 0)
			continue
		}
		d := difference(s, t)
		apart = append(apart, d)
		e.Redrawn = append(e.Redrawn, Redrawn{s.Rune, string(s.Rune), d})
	}
	e.OnlyA, e.OnlyB = coverage.NewCharacters(onlyA), coverage.NewCharacters(onlyB)
	slices.SortStableFunc(e.Redrawn, func(x, y Redrawn) int { return cmp.Compare(y.Apart, x.Apart) })
	e.Redrawn = e.Redrawn[:min(len(e.Redrawn), mostRedrawn)]
	if len(apart) > 0 {
		slices.Sort(apart)
		e.Apart = apart[len(apart)/2]
	}
	if was, is := stem(a), stem(b); was > 0 && is > 0 {
		e.Stems = math.Round(100*is/was) / 100
	}
	e.judge(blank, blankAlike)
	return e
}

// judge draws the conclusion.
func (e *Evidence) judge(blank, blankAlike int) {
	if e.Common < fewest {
		return
	}
	share := func(n int) float64 { return float64(n) / float64(e.Common) }
	switch {
	case share(e.Alike) >= oneDesign && (blank == 0 || blankAlike*2 >= blank):
		e.Relation = Part
		if e.OnlyA.Len()+e.OnlyB.Len() == 0 {
			e.Relation = Same
		}
	case share(e.Drawn) >= goesOn && e.Apart <= goesOnApart, share(e.Drawn) >= oneDesign:
		e.Relation = Version
	}
}

func near(a, b int16, by int) bool { return max(int(a)-int(b), int(b)-int(a)) <= by }

// alike reports whether two characters are drawn alike, wherever they stand between their
// neighbors where moved is set. Areas and middles differ where contours overlap in one and
// were joined in the other; the ink on the lines does not.
func alike(s, t *Shape, moved bool) bool {
	dx := int16(0)
	if moved {
		dx = t.Left - s.Left
	}
	if !near(s.Left+dx, t.Left, nearLength) || !near(s.Right+dx, t.Right, nearLength) || !near(s.Bottom, t.Bottom, nearLength) || !near(s.Top, t.Top, nearLength) {
		return false
	}
	within := nearArea + int(s.Area)/100
	outline := near(s.Area, t.Area, within) && near(s.X+dx, t.X, nearMiddle) && near(s.Y, t.Y, nearMiddle)
	off := 0
	for i := range s.Ink {
		if d := int(s.Ink[i]) - int(t.Ink[i]); d > nearInk || d < -nearInk {
			off++
		}
	}
	// A line may just touch an edge, where the least difference is a whole stroke.
	return outline && off <= 2 || off == 0
}

// difference returns the largest difference of the measures of two characters, as a part
// of an em.
func difference(s, t *Shape) float64 {
	d := 0.0
	for _, pair := range [][2]int16{{s.Advance, t.Advance}, {s.Left, t.Left}, {s.Right, t.Right}, {s.Bottom, t.Bottom}, {s.Top, t.Top}, {s.X, t.X}, {s.Y, t.Y}} {
		d = max(d, math.Abs(float64(pair[0])-float64(pair[1]))/Grid)
	}
	for i := range s.Ink {
		d = max(d, math.Abs(float64(s.Ink[i])-float64(t.Ink[i]))/128/4)
	}
	return math.Round(10000*d) / 10000
}

// stem returns how thick the upright strokes are, as a part of an em: the middle of the
// ink on the middle lines of letters that are one stroke; 0 where there are none.
func stem(shapes []Shape) float64 {
	var all []float64
	for _, r := range "Iil|1Tr" {
		if s := find(shapes, r); s != nil && !s.Blank() && s.Ink[2] > 0 {
			all = append(all, float64(s.Ink[2])/128)
		}
	}
	if len(all) == 0 {
		return 0
	}
	slices.Sort(all)
	return all[len(all)/2]
}
