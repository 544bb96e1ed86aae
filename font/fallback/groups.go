package fallback

import (
	"cmp"
	"math"
	"slices"
	"unicode"

	"sparecrate/font/coverage"
)

// Group is a part of the characters, with overrides of its own.
type Group struct {
	Characters coverage.Characters // nil for all that no other group has
	Overrides
}

// MaxGroups bounds how many groups there are besides the first.
const MaxGroups = 24

// Groups is Of for text that must not move at all: besides the overrides for all
// characters, which come first, it gives others for up to so many groups of
// letters that are about as much wider or narrower in the web font than in the
// stand-in. Lines then break at the same words; that letters of the stand-in
// differ in size is seen until the font arrives. The space is a group by itself.
// The errors are Of's.
func Groups(web, replacement *Measure, language string, groups int) ([]Group, error) {
	whole, err := Of(web, replacement, language)
	if err != nil {
		return nil, err
	}
	out := []Group{{Overrides: *whole}}
	if groups <= 0 {
		return out, nil
	}
	common := commonIn(language)
	kerned := web.kerned(language)
	var list []widened
	for r := range web.advances {
		a, b := web.advances[r], replacement.advances[r]
		if a <= 0 || b <= 0 || !usual(r) && common[r] == 0 || unicode.Is(unicode.Mn, r) {
			continue
		}
		// Letters of other languages come up now and then.
		list = append(list, widened{r, (a + kerned[r]) / b, max(common[r], rare) * b})
	}
	slices.SortFunc(list, func(x, y widened) int { return cmp.Or(cmp.Compare(x.ratio, y.ratio), cmp.Compare(x.char, y.char)) })
	if space := slices.IndexFunc(list, func(w widened) bool { return w.char == ' ' }); space >= 0 {
		out = append(out, group(web, list[space:space+1]))
		list = slices.Delete(list, space, space+1)
	}
	for _, part := range parts(list, min(groups, MaxGroups)) {
		out = append(out, group(web, part))
	}
	return out, nil
}

// usual reports whether a character comes up in text of any language that is
// written in Latin letters, or between letters.
func usual(r rune) bool {
	return r >= ' ' && r <= '~' || r >= 0xA0 && r <= 0x17F || r >= 0x2010 && r <= 0x2026
}

// rare is how much letters count that the language does not have.
const rare = 1e-5

// widened is a character, how many times as wide the web font has it, and how
// much that matters.
type widened struct {
	char          rune
	ratio, weight float64
}

// group returns the overrides of characters.
func group(web *Measure, list []widened) Group {
	sum, weight := 0.0, 0.0
	chars := make([]rune, len(list))
	for i, w := range list {
		sum, weight = sum+w.ratio*w.weight, weight+w.weight
		chars[i] = w.char
	}
	return Group{coverage.OfText(string(chars)), *overrides(web, sum/weight)}
}

// parts cuts a sorted list in so many parts that the ratios in each are as near
// each other as can be: the sum of weighted squares is the least.
func parts(list []widened, groups int) [][]widened {
	// Ratios a step apart are taken together, which bounds the work.
	const step = 0.002
	var ends []int
	for i := range list {
		if i+1 == len(list) || math.Floor(list[i+1].ratio/step) != math.Floor(list[i].ratio/step) {
			ends = append(ends, i+1)
		}
	}
	if len(ends) <= groups {
		groups = len(ends)
	}
	if groups == 0 {
		return nil
	}
	n := len(ends)
	w, s, q := make([]float64, n+1), make([]float64, n+1), make([]float64, n+1)
	at := 0
	for i, end := range ends {
		w[i+1], s[i+1], q[i+1] = w[i], s[i], q[i]
		for ; at < end; at++ {
			one := list[at]
			w[i+1] += one.weight
			s[i+1] += one.weight * one.ratio
			q[i+1] += one.weight * one.ratio * one.ratio
		}
	}
	cost := func(from, to int) float64 {
		d := s[to] - s[from]
		return q[to] - q[from] - d*d/(w[to]-w[from])
	}
	least := make([][]float64, groups+1)
	cut := make([][]int, groups+1)
	for g := range least {
		least[g], cut[g] = make([]float64, n+1), make([]int, n+1)
		for i := range least[g] {
			least[g][i] = math.Inf(1)
		}
	}
	least[0][0] = 0
	for g := 1; g <= groups; g++ {
		for to := g; to <= n; to++ {
			for from := g - 1; from < to; from++ {
				if c := least[g-1][from] + cost(from, to); c < least[g][to] {
					least[g][to], cut[g][to] = c, from
				}
			}
		}
	}
	out := make([][]widened, groups)
	for g, to := groups, n; g > 0; g-- {
		from := cut[g][to]
		start := 0
		if from > 0 {
			start = ends[from-1]
		}
		out[g-1] = list[start:ends[to-1]]
		to = from
	}
	return out
}
