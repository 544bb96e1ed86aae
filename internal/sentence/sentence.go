// Package sentence turns errors of the core, and lists, into what people read.
package sentence

import (
	"strings"
	"unicode/utf8"
)

// List names things in a sentence: a, b and c.
func List(names []string) string {
	if n := len(names); n > 1 {
		return strings.Join(names[:n-1], ", ") + " and " + names[n-1]
	}
	return strings.Join(names, "")
}

// Of writes an error as a sentence: a capital first, a point last.
func Of(err error) string {
	s := err.Error()
	first, n := utf8.DecodeRuneInString(s)
	return strings.ToUpper(string(first)) + strings.TrimSuffix(s[n:], ".") + "."
}
