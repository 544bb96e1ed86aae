package identity

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// letter is a character of ordinary measure.
func letter() Shape {
	s := Shape{Rune: 'n', Advance: 600, Left: 50, Bottom: 0, Right: 550, Top: 500, Area: 400, X: 300, Y: 240}
	for i := range s.Ink {
		s.Ink[i] = 40
	}
	return s
}

// TestHowNearIsAlike changes one measure of a character at a time: up to a limit it is the
// same drawing, and one step further it is not.
func TestHowNearIsAlike(t *testing.T) {
	whole := letter()
	assert.True(t, alike(&whole, &whole, false))
	edges := map[string]func(*Shape) *int16{
		"left": func(s *Shape) *int16 { return &s.Left }, "right": func(s *Shape) *int16 { return &s.Right },
		"bottom": func(s *Shape) *int16 { return &s.Bottom }, "top": func(s *Shape) *int16 { return &s.Top },
	}
	for name, of := range edges {
		for _, way := range []int16{1, -1} {
			other := letter()
			*of(&other) += way * nearLength
			assert.True(t, alike(&whole, &other, false), "%s by %d", name, way*nearLength)
			*of(&other) += way
			assert.False(t, alike(&whole, &other, false), "%s by more", name)
		}
	}
	within := int16(nearArea + 400/100)
	for name, c := range map[string]struct {
		of   func(*Shape) *int16
		most int16
	}{"area": {func(s *Shape) *int16 { return &s.Area }, within}, "middle": {func(s *Shape) *int16 { return &s.X }, nearMiddle}, "height of it": {func(s *Shape) *int16 { return &s.Y }, nearMiddle}} {
		for _, way := range []int16{1, -1} {
			other := letter()
			other.Ink[3] += nearInk + 1 // a line off: the outline decides
			*c.of(&other) += way * c.most
			assert.True(t, alike(&whole, &other, false), "%s by %d", name, way*c.most)
			*c.of(&other) += way
			assert.False(t, alike(&whole, &other, false), "%s by more", name)
		}
	}
	for off, is := range map[int]bool{0: true, 1: true, 2: true, 3: false} {
		other := letter()
		for i := range off {
			other.Ink[i] -= nearInk + 1
		}
		assert.Equal(t, is, alike(&whole, &other, false), "%d lines off", off)
	}
	inked := letter()
	for i := range inked.Ink {
		inked.Ink[i] += nearInk
	}
	inked.Area += 4 * within
	assert.True(t, alike(&whole, &inked, false), "where no line is off, contours may overlap or be joined")
	inked.Ink[0]++
	assert.False(t, alike(&whole, &inked, false))

	// Between its neighbors it may stand elsewhere.
	moved := letter()
	moved.Left, moved.Right, moved.X = moved.Left+90, moved.Right+90, moved.X+90
	assert.True(t, alike(&whole, &moved, true))
	assert.False(t, alike(&whole, &moved, false))
	moved.Right += nearLength + 1
	assert.False(t, alike(&whole, &moved, true))
}

// TestHowManyAlikeAreOneDesign draws the conclusion at its limits.
func TestHowManyAlikeAreOneDesign(t *testing.T) {
	judged := func(common, same, drawn int, apart float64) Relation {
		e := &Evidence{Common: common, Alike: same, Drawn: drawn, Apart: apart, Relation: Different}
		e.judge(0, 0)
		return e.Relation
	}
	const of = 1000
	one, on := int(oneDesign*of), int(goesOn*of)
	assert.Equal(t, Same, judged(of, one, one, 0))
	assert.NotEqual(t, Same, judged(of, one-1, one-1, 1))
	assert.Equal(t, Version, judged(of, 0, one, 1), "drawn alike, spaced otherwise")
	assert.Equal(t, Version, judged(of, 0, on, goesOnApart))
	assert.Equal(t, Different, judged(of, 0, on-1, goesOnApart))
	assert.Equal(t, Different, judged(of, 0, on, goesOnApart+0.001))
	assert.Equal(t, Different, judged(fewest-1, fewest-1, fewest-1, 0), "too few tell nothing")
	assert.Equal(t, Same, judged(fewest, fewest, fewest, 0))
	blanks := func(blank, alike int) Relation {
		e := &Evidence{Common: of, Alike: of, Drawn: of, Relation: Different}
		e.judge(blank, alike)
		return e.Relation
	}
	assert.Equal(t, Same, blanks(4, 2))
	assert.NotEqual(t, Same, blanks(4, 1))
	assert.NotEqual(t, Same, blanks(3, 1))
}

// TestStemsAreTheMiddleOfThem measures letters of one stroke.
func TestStemsAreTheMiddleOfThem(t *testing.T) {
	assert.Zero(t, stem(nil))
	shapes := []Shape{}
	for i, r := range "1ITilr|" { // by code point
		s := letter()
		s.Rune, s.Ink[2] = r, uint8(10+10*i) //nolint:gosec // small
		shapes = append(shapes, s)
	}
	assert.InDelta(t, 40.0/128, stem(shapes), 1e-9)
	shapes[3].Ink[2] = 0
	assert.InDelta(t, 50.0/128, stem(shapes), 1e-9, "a line without ink is none")
	other := letter()
	other.Left++
	assert.InDelta(t, 1.0/Grid, difference(&shapes[0], &Shape{Advance: 600, Left: 51, Right: 550, Top: 500, X: 300, Y: 240, Ink: shapes[0].Ink}), 1e-4)
}
