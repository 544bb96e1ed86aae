// Package password says which passwords people may choose, by NIST SP 800-63B-4,
// section 3.1.1.2: long ones, of any characters, that are not commonly used and not
// made of one's own names. It asks for no mix of kinds of characters and lets
// passwords stand for as long as they are secret. It is pure.
package password

import (
	_ "embed" // the list of common passwords
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// The bounds of a password's length, in characters.
const (
	Min = 15
	Max = 200
	// different is how many different characters a password needs.
	different = 6
	// minName is the length from which a name counts as part of a password, characters.
	minName = 4
)

//go:embed common.txt
var list string

// common are words that commonly used passwords are made of, in small letters.
var common = func() map[string]bool {
	out := map[string]bool{}
	for word := range strings.FieldsSeq(list) {
		if utf8.RuneCountInString(word) >= 3 {
			out[word] = true
		}
	}
	return out
}()

// Check returns why a password may not be chosen, nil where it may. own are the names
// of the person and the service: names and e-mail addresses.
func Check(password string, own ...string) error {
	plain := norm.NFKC.String(password)
	switch n := utf8.RuneCountInString(plain); {
	case n < Min:
		return fmt.Errorf("a password needs at least %d characters; this one has %d. A few words that do not belong together do well", Min, n)
	case utf8.RuneCountInString(password) > Max:
		return fmt.Errorf("a password has at most %d characters", Max)
	}
	seen := map[rune]bool{}
	for _, r := range plain {
		seen[unicode.ToLower(r)] = true
	}
	if len(seen) < different {
		return fmt.Errorf("this password has only %d different characters; choose one with at least %d", len(seen), different)
	}
	lower := strings.ToLower(plain)
	for _, name := range own {
		for _, part := range strings.FieldsFunc(strings.ToLower(norm.NFKC.String(name)), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
			if utf8.RuneCountInString(part) >= minName && strings.Contains(lower, part) {
				return fmt.Errorf("this password holds your own name or address (%q); choose one that does not", part)
			}
		}
	}
	if isCommon(lower) {
		return fmt.Errorf("this password is made of commonly used ones and easy to guess; choose another")
	}
	return nil
}

// lookalikes are digits and signs that people put in the place of letters.
var lookalikes = strings.NewReplacer("0", "o", "1", "l", "3", "e", "4", "a", "5", "s", "7", "t", "@", "a", "$", "s")

// isCommon reports whether a password in small letters is nothing but common words,
// runs of neighboring characters, and repetitions.
func isCommon(lower string) bool {
	letters := strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) {
			return r
		}
		return -1
	}, lower)
	return common[letters] || covered(lower) || covered(lookalikes.Replace(lower))
}

// covered reports whether a text can be cut into at most two different common words,
// signs, digits, and runs such as "abcd", "9876" and "aaaa".
func covered(text string) bool {
	runes := []rune(text)
	// words[i] are the sets of words with which the first i characters are cut, as the
	// smallest count of different ones.
	type cut struct{ first, second string }
	reach := make([]map[cut]bool, len(runes)+1)
	reach[0] = map[cut]bool{{}: true}
	for i := range runes {
		for c := range reach[i] {
			step := func(to int, word string) {
				next := c
				switch {
				case word == "" || word == c.first || word == c.second:
				case c.first == "":
					next.first = word
				case c.second == "":
					next.second = word
				default:
					return
				}
				if reach[to] == nil {
					reach[to] = map[cut]bool{}
				}
				reach[to][next] = true
			}
			if !unicode.IsLetter(runes[i]) {
				step(i+1, "")
			}
			for _, d := range []rune{-1, 0, 1} {
				to := i + 1
				for to < len(runes) && runes[to] == runes[to-1]+d {
					to++
				}
				if to-i >= 3 {
					step(to, "")
				}
			}
			for to := i + 3; to <= min(len(runes), i+maxWord); to++ {
				if w := string(runes[i:to]); common[w] {
					step(to, w)
				}
			}
		}
	}
	return len(reach[len(runes)]) > 0
}

// maxWord is the length of the longest common word, characters.
const maxWord = 20
