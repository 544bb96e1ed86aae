package fallback

import (
	"cmp"
	_ "embed"
	"strings"
	"sync"

	"sparecrate/font/shape"
)

// kerned returns what kerning and ligatures add to the widths of characters in
// running text of a language, in ems: what each pair adds is divided between its
// two characters so that, over all pairs as often as they come up, the sums miss
// the least (least squares).
func (m *Measure) kerned(language string) map[rune]float64 {
	if m.face == nil {
		return nil
	}
	set, err := shape.Open(m.face)
	if err != nil || set.UnitsPerEm == 0 {
		return nil
	}
	width := func(text ...rune) float64 {
		return float64(set.Set(string(text), shape.Options{}).Advance) / float64(set.UnitsPerEm)
	}
	alone := map[rune]float64{}
	var list []pair
	for _, p := range pairsIn(language) {
		if m.advances[p.first] <= 0 || m.advances[p.second] <= 0 {
			continue
		}
		for _, r := range []rune{p.first, p.second} {
			if _, ok := alone[r]; !ok {
				alone[r] = width(r)
			}
		}
		p.adds = width(p.first, p.second) - alone[p.first] - alone[p.second]
		list = append(list, p)
	}
	// Each half is what best makes up for the other, in turn; this settles fast, as
	// nearly all pairs add nothing.
	const rounds = 20
	before, after := map[rune]float64{}, map[rune]float64{}
	for range rounds {
		before = halves(list, func(p pair) (rune, float64) { return p.first, p.adds - after[p.second] })
		after = halves(list, func(p pair) (rune, float64) { return p.second, p.adds - before[p.first] })
	}
	for r, x := range before {
		after[r] += x
	}
	return after
}

// halves returns the mean of a figure for each character, weighted by how often
// the pairs come up.
func halves(list []pair, of func(pair) (rune, float64)) map[rune]float64 {
	sums, counts := map[rune]float64{}, map[rune]float64{}
	for _, p := range list {
		r, x := of(p)
		sums[r] += p.count * x
		counts[r] += p.count
	}
	for r := range sums {
		sums[r] /= counts[r]
	}
	return sums
}

// pair is two characters that follow each other: how often they do, in 100,000
// pairs, and what is added to their widths, in ems.
type pair struct {
	first, second rune
	count, adds   float64
}

//go:embed pairs.txt
var pairText string

var pairs = sync.OnceValue(func() map[string][]pair {
	out := map[string][]pair{}
	for line := range strings.Lines(pairText) {
		if strings.HasPrefix(line, "#") {
			continue
		}
		language, list, _ := strings.Cut(strings.TrimSpace(line), "\t")
		for word := range strings.FieldsSeq(list) {
			r := []rune(strings.ReplaceAll(word, "_", " "))
			out[language] = append(out[language], pair{first: r[0], second: r[1], count: numbers(string(r[2:]), 10)[0]})
		}
	}
	return out
})

// pairsIn returns the pairs of a language that is known.
func pairsIn(language string) []pair {
	return pairs()[cmp.Or(base(language), english)]
}
