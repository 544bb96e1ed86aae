package appearance

import (
	"fmt"
	"math"
	"strings"
)

// Distance says how far apart two faces look: 0 for alike, about 1 for what people call
// similar, more for different ones.
func Distance(a, b *Appearance) float64 {
	sum := 0.0
	for _, d := range []float64{
		(a.Stem - b.Stem) / 5, math.Log(max(a.Contrast, 1)/max(b.Contrast, 1)) / 0.35, (a.XHeight - b.XHeight) / 6,
		(a.Width - b.Width) / 14, (a.Roundness - b.Roundness) / 16, (a.Slant - b.Slant) / 6, (a.Serifs - b.Serifs) / 0.45,
	} {
		sum += d * d
	}
	for _, k := range []Kind{Mono, Script} {
		if (a.Kind == k) != (b.Kind == k) {
			sum += 2
		}
	}
	return math.Sqrt(sum / 3)
}

// Pairing says how well two faces go together on a page.
type Pairing struct {
	// Score is 1 for the best pairs; at 0 and below they do not go together.
	Score float64
	// Why names the measures that speak for the pair, or against it, as sentences.
	Why []string
}

// Pair judges two faces as a pair. What goes together differs clearly in kind, weight or
// contrast, so that headings and text are told apart, and agrees in the height of small
// letters, so that they sit on one line. What differs only a little looks like a mistake.
func Pair(a, b *Appearance) Pairing {
	var p Pairing
	says := func(score float64, format string, args ...any) {
		p.Score += score
		p.Why = append(p.Why, fmt.Sprintf(format, args...))
	}
	switch {
	case a.Kind != b.Kind && (a.Kind == Script || b.Kind == Script || a.Kind == Display || b.Kind == Display):
		says(1.2, "%s with %s: one for large sizes, one for text.", capitalized(a.Kind.Words()), b.Kind.Words())
	case a.Kind != b.Kind:
		says(1.5, "%s with %s: the difference is clear.", capitalized(a.Kind.Words()), b.Kind.Words())
	case math.Abs(a.Stem-b.Stem) >= 10:
		says(0.8, "Both are %s, and their stems differ clearly: %s and %s of the cap height.", a.Kind.Words(), whole(a.Stem), whole(b.Stem))
	default:
		says(-1.5, "Both are %s and look much alike.", a.Kind.Words())
	}
	off := math.Abs(a.XHeight - b.XHeight)
	switch {
	case off <= 2:
		says(1, "Their x-heights match: %s and %s of the cap height.", whole(a.XHeight), whole(b.XHeight))
	case off <= 5:
		says(0.5, "Their x-heights are close: %s and %s of the cap height.", whole(a.XHeight), whole(b.XHeight))
	default:
		says(-off/10, "Their x-heights differ: %s and %s of the cap height.", whole(a.XHeight), whole(b.XHeight))
	}
	switch ratio := max(a.Contrast/b.Contrast, b.Contrast/a.Contrast); {
	case ratio >= 1.6:
		says(0.5, "Stroke contrast sets them apart: %.1f to 1 and %.1f to 1.", a.Contrast, b.Contrast)
	case ratio <= 1.15 && a.Kind == b.Kind:
		says(-0.3, "Their stroke contrast is the same: %.1f to 1.", a.Contrast)
	}
	if a.Kind != b.Kind && math.Abs(a.Stem-b.Stem) <= 2.5 {
		says(0.4, "Their stems are equally thick, so the text color stays even.")
	}
	p.Score /= bestScore
	return p
}

// bestScore is the sum of all that speaks for a pairing.
const bestScore = 3.4

// Words returns the kind as people say it, in lower case.
func (k Kind) Words() string {
	switch k {
	case Sans:
		return "sans serif"
	case Mono:
		return "monospaced"
	}
	return string(k)
}

func capitalized(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

func whole(x float64) string { return fmt.Sprintf("%.0f %%", x) }
