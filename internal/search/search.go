// Package search takes names and what people type apart into words, and finds
// the words that were meant where one is misspelt.
//
// A word is a run of letters and digits, folded: without accents, in lower case,
// in the letters of the basic Latin alphabet where a letter of another one has a
// customary spelling (ø as o, æ as ae). Folding follows the compatibility
// decomposition of Unicode (UAX #15). The package is pure.
package search

import (
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

const (
	maxWord = 64 // letters; the rest of a longer word is not looked at
	minSlip = 4  // letters; shorter words are too near to one another to guess
)

// spelt are letters that decomposition does not take apart.
var spelt = strings.NewReplacer("ø", "o", "æ", "ae", "œ", "oe", "ß", "ss", "ł", "l", "đ", "d", "ð", "d", "þ", "th", "ı", "i", "ħ", "h", "ŋ", "n")

// Fold returns text as it is compared.
func Fold(text string) string {
	bare := strings.Map(func(r rune) rune {
		if unicode.Is(unicode.Mn, r) {
			return -1
		}
		return unicode.ToLower(r)
	}, norm.NFKD.String(text))
	return spelt.Replace(bare)
}

// Words returns the words of what somebody typed, in order.
func Words(text string) []string {
	words := strings.FieldsFunc(Fold(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	for i, w := range words {
		words[i] = cut(w)
	}
	return words
}

// Index returns the words by which something of these names is found, in order and
// each once: those of the names, and the parts of words that are written together
// (`HolmvikSans-BoldItalic` is found as `holmviksans` and as `sans`).
func Index(names ...string) []string {
	var out []string
	for _, name := range names {
		out = append(out, Words(name)...)
		out = append(out, Words(apart(name))...)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// apart puts a space before a capital behind a small letter, and where letters
// and digits meet.
func apart(name string) string {
	var b strings.Builder
	var last rune
	for _, r := range name {
		if unicode.IsUpper(r) && unicode.IsLower(last) || unicode.IsDigit(r) && unicode.IsLetter(last) || unicode.IsLetter(r) && unicode.IsDigit(last) {
			b.WriteByte(' ')
		}
		b.WriteRune(r)
		last = r
	}
	return b.String()
}

func cut(w string) string {
	if r := []rune(w); len(r) > maxWord {
		return string(r[:maxWord])
	}
	return w
}

// Meant returns the words of a vocabulary that a word may stand for which begins
// none of them: those that hold it, or else those that begin with it but for one
// slip, a letter wrong, missing, too many, or two in the wrong order. Short words
// are not guessed. Both word and vocabulary are folded.
func Meant(word string, vocabulary []string) []string {
	var within, near []string
	typed := []rune(word)
	for _, w := range vocabulary {
		switch {
		case strings.Contains(w, word):
			within = append(within, w)
		case len(typed) >= minSlip && slipped(typed, []rune(w)):
			near = append(near, w)
		}
	}
	if len(within) > 0 {
		return within
	}
	return near
}

// Sieve returns a beginning and a piece of a word, one of which is in every word
// that Meant gives for it; so a large vocabulary need not be read whole.
func Sieve(word string) (begins, holds string) {
	typed := []rune(word)
	if len(typed) < minSlip {
		return word, word
	}
	// A slip in the first half, or two letters changed about across its end, leave
	// the second half but for its first letter; any other leaves the first half.
	half := len(typed) / 2
	return string(typed[:half]), string(typed[half+1:])
}

// slipped reports whether a word begins with what was typed but for one slip.
func slipped(typed, word []rune) bool {
	i := 0
	for i < len(typed) && i < len(word) && typed[i] == word[i] {
		i++
	}
	from := func(of []rune, n int) []rune { return of[min(n, len(of)):] }
	begins := func(rest, with []rune) bool { return len(rest) >= len(with) && slices.Equal(rest[:len(with)], with) }
	return begins(from(word, i+1), from(typed, i+1)) && i < len(word) || // another letter
		begins(from(word, i), from(typed, i+1)) || // one too many
		begins(from(word, i+1), from(typed, i)) || // one missing
		i+1 < len(typed) && i+1 < len(word) && typed[i] == word[i+1] && typed[i+1] == word[i] && begins(word[i+2:], typed[i+2:])
}
