// Package coverage tells what can be written with a set of characters: how much
// of each Unicode script is there, and which languages are complete.
//
// Scripts are those of the Unicode character database, as Go's standard library
// has it; characters shared by many scripts (Common, Inherited) count for none.
// A language is complete when every letter of its everyday writing is there:
// the exemplar characters of the Unicode CLDR (UTS #35, part 2, "Character
// elements") and their capitals, kept in languages.txt.
package coverage

import (
	"cmp"
	_ "embed"
	"math/bits"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode"

	"sparecrate/font/table"
)

// Script says how much of a script is covered.
type Script struct {
	Name    string `json:"name"`
	Covered int    `json:"covered"` // characters that are there
	Of      int    `json:"of"`      // characters the script has
}

// Scripts counts the characters of each script in the runs, which are in order
// and do not overlap; the script with most comes first.
func Scripts(runs []table.Run) []Script {
	t := scripts()
	var counts [maxScripts]int32
	kinds := 0
	from := 0
	for _, run := range runs {
		last := run.First + rune(run.Count) - 1
		from = reach(t.spans, from, run.First)
		for i := from; i < len(t.spans) && t.spans[i].first <= last; i++ {
			s := t.spans[i]
			if counts[s.is] == 0 {
				kinds++
			}
			counts[s.is] += min(last, s.last) - max(run.First, s.first) + 1
		}
	}
	out := make([]Script, 0, kinds)
	for i, n := range counts {
		if n > 0 {
			out = append(out, Script{t.scripts[i].Name, int(n), t.scripts[i].Of})
		}
	}
	slices.SortStableFunc(out, func(a, b Script) int { return b.Covered - a.Covered })
	return out
}

// Nearly is a language that a face lacks a few letters of.
type Nearly struct {
	Code    string `json:"code"`
	Missing string `json:"missing"` // the letters
}

// maxMissing is how many letters may be missing for a language to be nearly
// complete; more are not worth adding one by one.
const maxMissing = 12

// Languages returns the codes of the languages whose letters are all in the
// runs, which are in order and do not overlap, in the order of the codes; and
// those of Widely that are nearly complete, in that list's order.
func Languages(runs []table.Run) (complete []string, nearly []Nearly) {
	t := languages()
	var have [maxWords]uint64
	from := 0
	for _, run := range runs {
		last := run.First + rune(run.Count) - 1
		from = reach(t.spans, from, run.First)
		for i := from; i < len(t.spans) && t.spans[i].first <= last; i++ {
			s := t.spans[i]
			a, b := max(run.First, s.first), min(last, s.last)
			setBits(have[:], s.is+int(a-s.first), s.is+int(b-s.first))
		}
	}
	var found [maxLanguages]int
	count := 0
next:
	for i := range t.languages {
		for _, m := range t.languages[i].masks {
			if have[m.word]&m.bits != m.bits {
				continue next
			}
		}
		found[count] = i
		count++
	}
	complete = make([]string, count)
	for i, which := range found[:count] {
		complete[i] = t.languages[which].code
	}
	for _, which := range t.widely {
		if missing := t.missing(&t.languages[which], have[:]); missing != "" {
			nearly = append(nearly, Nearly{t.languages[which].code, missing})
		}
	}
	return complete, nearly
}

// missing returns the letters of a language that are not there, none where all
// are or more than maxMissing are not.
func (t *languageTable) missing(l *language, have []uint64) string {
	gaps := 0
	for _, m := range l.masks {
		if gaps += bits.OnesCount64(m.bits &^ have[m.word]); gaps > maxMissing {
			return ""
		}
	}
	if gaps == 0 {
		return ""
	}
	letters := make([]rune, 0, maxMissing)
	for k := len(l.masks) - 1; k >= 0; k-- {
		m := l.masks[k]
		for rest := m.bits &^ have[m.word]; rest != 0; rest &= rest - 1 {
			letters = append(letters, t.letter(m.word<<6+bits.TrailingZeros64(rest)))
		}
	}
	return string(letters)
}

// letter returns the code point at a place of the set.
func (t *languageTable) letter(place int) rune {
	i, found := slices.BinarySearchFunc(t.spans, place, func(s span, place int) int { return cmp.Compare(s.is, place) })
	if !found {
		i--
	}
	return t.spans[i].first + rune(place-t.spans[i].is)
}

// Widely are the languages most pages of the web are written in and most people
// write, by code, in that order: what is asked of a font first.
var Widely = []string{
	"en", "es", "de", "fr", "ja", "pt", "ru", "it", "zh", "pl", "tr", "nl", "ko", "vi", "ar", "fa", "cs", "id", "uk", "sv", "el", "ro", "hu", "da",
	"th", "fi", "nb", "he", "bg", "sk", "hr", "sr", "lt", "lv", "et", "sl", "ca", "hi", "bn", "ta", "te", "mr", "ur", "sw",
}

// Sizes of what lies on the stack while a face is read; the tables are checked
// against them when they are built.
const (
	maxWords     = 512 // for the letters of all languages, 64 a word
	maxLanguages = 512
	maxScripts   = 256
)

// Codes returns the codes of all languages that are known: those of Widely in
// that order, then the rest by name.
func Codes() []string {
	t := languages()
	rest := make([]string, 0, len(t.languages))
	for i := range t.languages {
		if !slices.Contains(Widely, t.languages[i].code) {
			rest = append(rest, t.languages[i].code)
		}
	}
	slices.SortFunc(rest, func(a, b string) int { return cmp.Compare(LanguageName(a), LanguageName(b)) })
	return append(slices.Clone(Widely), rest...)
}

// LanguageName returns a language's name in English, the code itself where it is
// not known.
func LanguageName(code string) string {
	t := languages()
	if i, ok := slices.BinarySearchFunc(t.languages, code, func(l language, code string) int { return cmp.Compare(l.code, code) }); ok {
		return t.languages[i].name
	}
	return code
}

// span is a range of code points that belong together: to the script of number
// is, or to places of the set of letters from is on.
type span struct {
	first, last rune
	is          int
}

// reach returns the first span at or behind from that ends at r or later.
func reach(spans []span, from int, r rune) int {
	// Runs and spans mostly go on side by side; only jumps are worth a search.
	for range 4 {
		if from >= len(spans) || spans[from].last >= r {
			return from
		}
		from++
	}
	step := 1
	for from+step < len(spans) && spans[from+step].last < r {
		from += step
		step *= 2
	}
	if from >= len(spans) {
		return from
	}
	n, _ := slices.BinarySearchFunc(spans[from:min(from+step+1, len(spans))], r, func(s span, r rune) int { return cmp.Compare(s.last, r) })
	return from + n
}

func setBits(set []uint64, a, b int) {
	for w := a >> 6; w <= b>>6; w++ {
		mask := ^uint64(0)
		if w == a>>6 {
			mask &= ^uint64(0) << (a & 63)
		}
		if w == b>>6 {
			mask &= ^uint64(0) >> (63 - b&63)
		}
		set[w] |= mask
	}
}

type scriptTable struct {
	scripts []Script
	spans   []span
}

var scripts = sync.OnceValue(func() *scriptTable {
	t := &scriptTable{}
	for name := range unicode.Scripts {
		if name != "Common" && name != "Inherited" {
			t.scripts = append(t.scripts, Script{Name: name})
		}
	}
	slices.SortFunc(t.scripts, func(a, b Script) int { return cmp.Compare(a.Name, b.Name) })
	if len(t.scripts) > maxScripts {
		panic("Unicode has more scripts than maxScripts has room for")
	}
	for i := range t.scripts {
		s := &t.scripts[i]
		add := func(lo, hi, stride rune) {
			if stride == 1 {
				t.spans = append(t.spans, span{lo, hi, i})
				s.Of += int(hi-lo) + 1
				return
			}
			for r := lo; r <= hi; r += stride {
				t.spans = append(t.spans, span{r, r, i})
				s.Of++
			}
		}
		ranges := unicode.Scripts[s.Name]
		for _, r := range ranges.R16 {
			add(rune(r.Lo), rune(r.Hi), rune(r.Stride))
		}
		for _, r := range ranges.R32 {
			add(rune(r.Lo), rune(r.Hi), rune(r.Stride))
		}
		s.Name = strings.ReplaceAll(s.Name, "_", " ")
	}
	slices.SortFunc(t.spans, func(a, b span) int { return cmp.Compare(a.first, b.first) })
	return t
})

//go:embed languages.txt
var languageText string

// language is complete where all masked places of the set of letters are set.
type language struct {
	code, name string
	masks      []mask
}

type mask struct {
	word int
	bits uint64
}

type languageTable struct {
	languages []language
	spans     []span // all letters of all languages, numbered in order
	widely    []int  // the languages of Widely
}

var languages = sync.OnceValue(func() *languageTable {
	t := &languageTable{}
	letters := map[string][]span{}
	for line := range strings.Lines(languageText) {
		if strings.HasPrefix(line, "#") {
			continue
		}
		code, rest, _ := strings.Cut(strings.TrimSpace(line), "\t")
		name, ranges, _ := strings.Cut(rest, "\t")
		for piece := range strings.FieldsSeq(ranges) {
			first, last, isRange := strings.Cut(piece, "-")
			if !isRange {
				last = first
			}
			letters[code] = append(letters[code], span{hex(first), hex(last), 0})
		}
		t.spans = append(t.spans, letters[code]...)
		t.languages = append(t.languages, language{code: code, name: name})
	}
	slices.SortFunc(t.languages, func(a, b language) int { return cmp.Compare(a.code, b.code) })
	t.number()
	for i := range t.languages {
		t.languages[i].masks = t.masks(letters[t.languages[i].code])
	}
	for _, code := range Widely {
		t.widely = append(t.widely, slices.IndexFunc(t.languages, func(l language) bool { return l.code == code }))
	}
	return t
})

// number joins the spans and numbers their letters.
func (t *languageTable) number() {
	slices.SortFunc(t.spans, func(a, b span) int { return cmp.Compare(a.first, b.first) })
	joined := t.spans[:0]
	for _, s := range t.spans {
		if n := len(joined); n > 0 && s.first <= joined[n-1].last+1 {
			joined[n-1].last = max(joined[n-1].last, s.last)
			continue
		}
		joined = append(joined, s)
	}
	t.spans = joined
	count := 0
	for i := range t.spans {
		t.spans[i].is = count
		count += int(t.spans[i].last-t.spans[i].first) + 1
	}
	if count > 64*maxWords || len(t.languages) > maxLanguages {
		panic("languages.txt holds more than maxWords or maxLanguages has room for")
	}
}

// masks returns the places of a language's letters, the rarest first: letters of
// high numbers are the ones a font lacks.
func (t *languageTable) masks(letters []span) []mask {
	set := make([]uint64, maxWords)
	for _, l := range letters {
		s := t.spans[reach(t.spans, 0, l.first)]
		setBits(set, s.is+int(l.first-s.first), s.is+int(l.last-s.first))
	}
	var out []mask
	for w, bits := range slices.Backward(set) {
		if bits != 0 {
			out = append(out, mask{w, bits})
		}
	}
	return out
}

// hex reads a code point of the embedded file, which is known to be well-formed.
func hex(s string) rune {
	n, err := strconv.ParseUint(s, 16, 21)
	if err != nil {
		panic("languages.txt: " + err.Error())
	}
	return rune(n)
}
