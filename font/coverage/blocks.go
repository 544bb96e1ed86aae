package coverage

import (
	"cmp"
	_ "embed"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode"
)

// Block says how much of a block of Unicode is covered (The Unicode Standard, section 3.4,
// D10b; Blocks.txt of the character database).
type Block struct {
	Name        string
	First, Last rune // its code points, those without a character included
	Covered     int  // characters that are there
	Of          int  // characters the block has
}

//go:embed blocks.txt
var blocksText string

// allBlocks are the blocks in order, with nothing covered.
var allBlocks = sync.OnceValue(func() []Block {
	var out []Block
	for line := range strings.Lines(blocksText) {
		line = strings.TrimSuffix(line, "\n")
		if strings.HasPrefix(line, "#") {
			continue
		}
		span, name, _ := strings.Cut(line, "\t")
		from, to, _ := strings.Cut(span, "-")
		first, err := strconv.ParseInt(from, 16, 32)
		last, err2 := strconv.ParseInt(to, 16, 32)
		if err != nil || err2 != nil {
			panic("blocks.txt: " + line)
		}
		out = append(out, Block{Name: name, First: rune(first), Last: rune(last)})
	}
	written := []*unicode.RangeTable{unicode.L, unicode.M, unicode.N, unicode.P, unicode.S, unicode.Z, unicode.Cf, unicode.Co}
	for i := range out {
		for r := out[i].First; r <= out[i].Last; r++ {
			if unicode.In(r, written...) {
				out[i].Of++
			}
		}
	}
	return out
})

// Blocks counts the characters of each block that has one of the set, in order of code
// points.
func Blocks(c Characters) []Block {
	all := allBlocks()
	var out []Block
	from := 0
	for _, run := range c {
		last := run.First + rune(run.Count) - 1
		for from < len(all) && all[from].Last < run.First {
			from++
		}
		for i := from; i < len(all) && all[i].First <= last; i++ {
			n := int(min(last, all[i].Last) - max(run.First, all[i].First) + 1)
			if k := len(out); k == 0 || out[k-1].First != all[i].First {
				out = append(out, all[i])
			}
			out[len(out)-1].Covered += n
		}
	}
	for i := range out {
		out[i].Of = max(out[i].Of, out[i].Covered) // a font may have characters of a newer Unicode
	}
	return out
}

// block returns the code points of a block by its name; false where there is none of it.
func block(name string) (Characters, bool) {
	all := allBlocks()
	plain := strings.NewReplacer("_", " ", "-", " ")
	i := slices.IndexFunc(all, func(b Block) bool { return strings.EqualFold(plain.Replace(b.Name), plain.Replace(name)) })
	if i < 0 {
		return nil, false
	}
	return Characters{{First: all[i].First, Count: int(all[i].Last-all[i].First) + 1}}, true
}

// Written says how many of a language's letters are covered.
type Written struct {
	Code, Name  string
	Covered, Of int
}

// Languages returns the languages of which the set has a letter: the complete ones first,
// then those that lack least, each by name.
func (c Characters) Languages() []Written {
	t := languages()
	var out []Written
	for i := range t.languages {
		l := &t.languages[i]
		letters := t.lettersOf(l)
		if n := letters.And(c).Len(); n > 0 {
			out = append(out, Written{l.code, l.name, n, letters.Len()})
		}
	}
	slices.SortFunc(out, func(a, b Written) int {
		return cmp.Or(cmp.Compare(a.Of-a.Covered, b.Of-b.Covered), cmp.Compare(a.Name, b.Name))
	})
	return out
}

// Missing returns the letters of a language, by its code or English name, that the set does
// not have; false where the language is not known.
func (c Characters) Missing(language string) (Characters, bool) {
	letters, ok := languages().letters(strings.ToLower(language))
	if !ok {
		return nil, false
	}
	return letters.Without(c), true
}
