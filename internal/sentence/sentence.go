// Package sentence turns errors of the core into what people read.
package sentence

import (
	"strings"
	"unicode/utf8"
)

// Of writes an error as a sentence: a capital first, a point last.
func Of(err error) string {
	s := err.Error()
	first, n := utf8.DecodeRuneInString(s)
	return strings.ToUpper(string(first)) + strings.TrimSuffix(s[n:], ".") + "."
}
