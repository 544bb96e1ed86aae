package coverage

import (
	"cmp"
	"fmt"
	"math/bits"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"sparecrate/font/table"
)

// Characters is a set of code points: runs in order that do not touch. Their
// Glyph says nothing.
type Characters []table.Run

// NewCharacters makes a set of runs in any order.
func NewCharacters(runs []table.Run) Characters {
	runs = slices.Clone(runs)
	slices.SortFunc(runs, func(a, b table.Run) int { return cmp.Compare(a.First, b.First) })
	var out Characters
	for _, r := range runs {
		if n := len(out); n > 0 && r.First <= out[n-1].First+rune(out[n-1].Count) {
			out[n-1].Count = max(out[n-1].Count, int(r.First-out[n-1].First)+r.Count)
			continue
		}
		out = append(out, table.Run{First: r.First, Count: r.Count})
	}
	return out
}

// OfText makes the set of a text's characters, and of those that letters with
// marks become when they are composed, as programs do. Line ends and tabs are
// none.
func OfText(text string) Characters {
	var runs []table.Run
	for _, r := range text + norm.NFC.String(text) {
		if r >= ' ' && r != unicode.ReplacementChar {
			runs = append(runs, table.Run{First: r, Count: 1})
		}
	}
	return NewCharacters(runs)
}

// Has reports whether a character is in the set.
func (c Characters) Has(r rune) bool {
	i, found := slices.BinarySearchFunc(c, r, func(run table.Run, r rune) int { return cmp.Compare(run.First, r) })
	if found {
		return true
	}
	return i > 0 && r < c[i-1].First+rune(c[i-1].Count)
}

// Len counts the characters.
func (c Characters) Len() int {
	n := 0
	for _, r := range c {
		n += r.Count
	}
	return n
}

// And returns what is in both sets.
func (c Characters) And(o Characters) Characters { return c.filter(o, true) }

// Without returns what is in c but not in o.
func (c Characters) Without(o Characters) Characters { return c.filter(o, false) }

// Plus returns what is in either set.
func (c Characters) Plus(o Characters) Characters {
	return NewCharacters(append(slices.Clone(c), o...))
}

func (c Characters) filter(o Characters, both bool) Characters {
	var out []table.Run
	from := 0
	for _, r := range c {
		at, end := r.First, r.First+rune(r.Count)
		for from < len(o) && o[from].First+rune(o[from].Count) <= at {
			from++
		}
		for _, other := range o[from:] {
			first, last := max(at, other.First), min(end, other.First+rune(other.Count))
			if first >= last {
				break
			}
			if both {
				out = append(out, table.Run{First: first, Count: int(last - first)})
			} else if first > at {
				out = append(out, table.Run{First: at, Count: int(first - at)})
			}
			at = last
		}
		if !both && at < end {
			out = append(out, table.Run{First: at, Count: int(end - at)})
		}
	}
	return NewCharacters(out)
}

// String writes the set as the value of the CSS descriptor `unicode-range`.
func (c Characters) String() string {
	words := make([]string, len(c))
	for i, r := range c {
		words[i] = fmt.Sprintf("U+%04X", r.First)
		if r.Count > 1 {
			words[i] += fmt.Sprintf("-%04X", int(r.First)+r.Count-1)
		}
	}
	return strings.Join(words, ", ")
}

// ParseRange reads one code point or a range as CSS writes them: U+20AC,
// U+0400-045F.
func ParseRange(text string) (Characters, error) {
	wrong := fmt.Errorf("%q is no range of characters; write it like U+20AC or U+0400-045F", text)
	rest, ok := strings.CutPrefix(strings.ToUpper(strings.TrimSpace(text)), "U+")
	first, last, two := strings.Cut(rest, "-")
	if !two {
		last = first
	}
	a, err := strconv.ParseUint(first, 16, 32)
	b, err2 := strconv.ParseUint(strings.TrimPrefix(last, "U+"), 16, 32)
	if !ok || err != nil || err2 != nil || a > b || b > unicode.MaxRune {
		return nil, wrong
	}
	return Characters{{First: rune(a), Count: int(b-a) + 1}}, nil
}

// ParseRanges reads a value of the CSS descriptor `unicode-range` (CSS Fonts Level 4, section
// 4.5): ranges between commas, of which one may end in question marks for any digits.
func ParseRanges(text string) (Characters, error) {
	var runs []table.Run
	for word := range strings.SplitSeq(text, ",") {
		word = strings.TrimSpace(word)
		if n := strings.Count(word, "?"); n > 0 && strings.HasSuffix(word, strings.Repeat("?", n)) {
			stem := strings.TrimRight(word, "?")
			word = stem + strings.Repeat("0", n) + "-" + stem[min(2, len(stem)):] + strings.Repeat("F", n)
		}
		c, err := ParseRange(word)
		if err != nil {
			return nil, err
		}
		runs = append(runs, c...)
	}
	return NewCharacters(runs), nil
}

// WebSet is a customary set of characters for pages of the web.
type WebSet struct {
	Name, For string
	Ranges    string
}

// WebSets are the sets that pages are usually split by. They are whole blocks
// of Unicode with the marks, signs and currencies their writing needs.
var WebSets = []WebSet{
	{"latin", "Western European languages, with punctuation, currency and arrows", "U+0000-00FF U+0131 U+0152-0153 U+0160-0161 U+0178 U+017D-017E U+0192 U+02C6-02C7 U+02DA U+02DC U+2000-206F U+2074 U+20AC U+2113 U+2116 U+2122 U+2190-2193 U+2212 U+2215 U+FB01-FB02 U+FEFF U+FFFD"},
	{"latin-ext", "Central European, Turkish, Baltic and other languages in Latin letters", "U+0100-02AF U+02B0-02FF U+0300-0331 U+1D00-1DBF U+1E00-1EFF U+20A0-20CF U+2C60-2C7F U+A720-A7FF U+FB00-FB06"},
	{"vietnamese", "Vietnamese", "U+0102-0103 U+0110-0111 U+0128-0129 U+0168-0169 U+01A0-01A1 U+01AF-01B0 U+0300-0304 U+0306 U+0309 U+031B U+0323 U+1EA0-1EF9 U+20AB"},
	{"cyrillic", "Russian, Ukrainian, Bulgarian, Serbian", "U+0301 U+0400-045F U+0490-0491 U+2116"},
	{"cyrillic-ext", "other languages in Cyrillic letters", "U+0460-052F U+1C80-1C8F U+20B4 U+20BD U+2DE0-2DFF U+A640-A69F"},
	{"greek", "Greek of today", "U+0370-03FF"},
	{"greek-ext", "Greek with all accents", "U+1F00-1FFF"},
	{"hebrew", "Hebrew", "U+0590-05FF U+200C-2010 U+20AA U+25CC U+FB1D-FB4F"},
	{"arabic", "Arabic, Persian, Urdu", "U+0600-06FF U+0750-077F U+0870-08FF U+200C-200F U+2010-2011 U+204F U+25CC U+2E41 U+FB50-FDFF U+FE70-FEFC"},
	{"devanagari", "Hindi, Marathi, Nepali", "U+0900-097F U+1CD0-1CFF U+200C-200D U+20A8 U+20B9 U+25CC U+A830-A839 U+A8E0-A8FF"},
	{"bengali", "Bengali", "U+0951-0952 U+0964-0965 U+0980-09FF U+200C-200D U+20B9 U+25CC"},
	{"tamil", "Tamil", "U+0964-0965 U+0B80-0BFF U+200C-200D U+20B9 U+25CC"},
	{"telugu", "Telugu", "U+0951-0952 U+0964-0965 U+0C00-0C7F U+200C-200D U+25CC"},
	{"gujarati", "Gujarati", "U+0951-0952 U+0964-0965 U+0A80-0AFF U+200C-200D U+20B9 U+25CC U+A830-A839"},
	{"gurmukhi", "Panjabi", "U+0951-0952 U+0964-0965 U+0A00-0A7F U+200C-200D U+20B9 U+25CC U+262C U+A830-A839"},
	{"kannada", "Kannada", "U+0951-0952 U+0964-0965 U+0C80-0CFF U+200C-200D U+20B9 U+25CC"},
	{"malayalam", "Malayalam", "U+0951-0952 U+0964-0965 U+0D00-0D7F U+200C-200D U+20B9 U+25CC"},
	{"sinhala", "Sinhala", "U+0964-0965 U+0D80-0DFF U+200C-200D U+25CC"},
	{"thai", "Thai", "U+0E00-0E7F U+200C-200D U+25CC"},
	{"khmer", "Khmer", "U+1780-17FF U+19E0-19FF U+200B-200D U+25CC"},
	{"georgian", "Georgian", "U+0589 U+10A0-10FF U+1C90-1CBF U+2D00-2D2F"},
	{"armenian", "Armenian", "U+0308 U+0530-058F U+2010 U+2024 U+25CC U+FB13-FB17"},
	{"ethiopic", "Amharic, Tigrinya", "U+030E U+1200-139F U+2D80-2DDF U+AB00-AB2F"},
	{"kana", "Japanese syllables and punctuation", "U+3000-30FF U+31F0-31FF U+FF00-FFEF"},
	{"hangul", "Korean", "U+1100-11FF U+3000-303F U+3130-318F U+A960-A97F U+AC00-D7FF U+FF00-FFEF"},
	{"han", "Chinese characters", "U+2E80-2FDF U+3000-303F U+3400-4DBF U+4E00-9FFF U+F900-FAFF U+FF00-FFEF U+20000-323AF"},
	{"math", "operators, arrows and technical signs", "U+2000-206F U+2070-209F U+2100-214F U+2190-23FF U+25A0-25FF U+2900-2AFF U+1D400-1D7FF"},
	{"symbols", "dingbats, shapes and pictures", "U+2190-21FF U+2300-23FF U+2460-27BF U+2900-297F U+2B00-2BFF U+1F000-1FAFF"},
	{"icons", "the private area that icon fonts draw in", "U+E000-F8FF U+F0000-FFFFD"},
}

// everyday is what a language needs besides its letters: digits and punctuation.
const everyday = "U+0020-0040 U+005B-0060 U+007B-007E U+00A0 U+00A7 U+00AB U+00B0 U+00BB U+2010-2014 U+2018-201E U+2026 U+2039-203A U+20AC"

func ranges(list string) Characters {
	var runs []table.Run
	for word := range strings.FieldsSeq(list) {
		c, err := ParseRange(word)
		if err != nil {
			panic("a set of characters: " + err.Error())
		}
		runs = append(runs, c...)
	}
	return NewCharacters(runs)
}

// All is every character.
var All = Characters{{First: 0, Count: unicode.MaxRune + 1}}

// Named returns the characters a word stands for: `all`, a web set (latin-ext),
// a language by code or English name (pl, Polish), or a script as Unicode names
// it (Cherokee). A word before a colon says which is meant: script:latin,
// language:pl; a block of Unicode is only found with one, block:arrows. The error is a sentence for people.
func Named(word string) (Characters, error) {
	kind, name, marked := strings.Cut(strings.TrimSpace(word), ":")
	if !marked {
		kind, name = "", strings.TrimSpace(word)
	}
	low := strings.ToLower(name)
	switch kind {
	case "", "script", "language":
	case "block":
		if c, ok := block(name); ok {
			return c, nil
		}
		return nil, fmt.Errorf("Unicode has no block %q; its blocks have names like Latin-1 Supplement", name) //nolint:staticcheck // a name
	default:
		return nil, fmt.Errorf("%q: only script:, language: and block: may stand before a colon", word)
	}
	if kind == "" {
		if low == "all" {
			return All, nil
		}
		for _, s := range WebSets {
			if s.Name == low {
				return ranges(s.Ranges), nil
			}
		}
	}
	if kind != "script" {
		if letters, ok := languages().letters(low); ok {
			return letters.Plus(ranges(everyday)), nil
		}
	}
	if kind != "language" {
		t := scripts()
		for i, s := range t.scripts {
			if strings.EqualFold(s.Name, strings.NewReplacer("_", " ", "-", " ").Replace(name)) {
				var runs []table.Run
				for _, span := range t.spans {
					if span.is == i {
						runs = append(runs, table.Run{First: span.first, Count: int(span.last-span.first) + 1})
					}
				}
				return NewCharacters(runs), nil
			}
		}
	}
	names := make([]string, len(WebSets))
	for i, s := range WebSets {
		names[i] = s.Name
	}
	return nil, fmt.Errorf("no set of characters is called %q; there are all, %s, every script (script:latin), every language (pl, Polish) and every block of Unicode (block:arrows)", word, strings.Join(names, ", "))
}

// letters returns the letters of a language by its code or English name.
func (t *languageTable) letters(word string) (Characters, bool) {
	for i := range t.languages {
		l := &t.languages[i]
		if l.code != word && strings.ToLower(l.name) != word && strings.ToLower(l.code) != strings.ReplaceAll(word, "_", "-") {
			continue
		}
		return t.lettersOf(l), true
	}
	return nil, false
}

func (t *languageTable) lettersOf(l *language) Characters {
	var runs []table.Run
	for _, m := range l.masks {
		for rest := m.bits; rest != 0; rest &= rest - 1 {
			runs = append(runs, table.Run{First: t.letter(m.word<<6 + bits.TrailingZeros64(rest)), Count: 1})
		}
	}
	return NewCharacters(runs)
}
