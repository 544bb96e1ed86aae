package identity

import "math"

// Likeness says how alike two faces draw the basic Latin letters: 1 for the same outlines, 0
// where widths, boxes and ink have little in common. It is 0 where they share fewer than
// ten letters.
func Likeness(a, b *Print) float64 {
	const fewest = 10
	sum, n := 0.0, 0
	for r := 'A'; r <= 'z'; r++ {
		if r > 'Z' && r < 'a' {
			continue
		}
		s, t := a.Find(r), b.Find(r)
		if s == nil || t == nil || s.Blank() || t.Blank() {
			continue
		}
		n++
		sum += apart(s, t)
	}
	if n < fewest {
		return 0
	}
	return math.Exp(-3 * sum / float64(n))
}

// apart returns how far two shapes are apart: the mean difference of their measures, as a
// part of the height of the larger one.
func apart(s, t *Shape) float64 {
	height := max(float64(s.Top-s.Bottom), float64(t.Top-t.Bottom), 1)
	off := func(a, b int16) float64 { return math.Abs(float64(a)-float64(b)) / height }
	sum := off(s.Advance, t.Advance) + off(s.Left, t.Left) + off(s.Right, t.Right) + off(s.Top, t.Top) + off(s.Bottom, t.Bottom)
	for i := range Lines {
		sum += math.Abs(float64(s.Ink[i])-float64(t.Ink[i])) * (Grid / 128) / height
	}
	return sum / (5 + Lines)
}
