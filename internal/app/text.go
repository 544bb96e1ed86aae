package app

import (
	"fmt"
	"strings"

	"sparecrate/font/metadata"
)

// Shorten shortens text to n characters.
func Shorten(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n])
	}
	return s
}

// Number writes a number of things: 1 font, 2 fonts.
func Number(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// RequiredText trims a text that may not be empty.
func RequiredText(field, value string) (string, error) {
	value = strings.TrimSpace(metadata.Printable(value))
	if value == "" {
		return "", InvalidField(field, "missing-value", "The field %s is empty; fill it in.", field)
	}
	if len([]rune(value)) > 200 {
		return "", InvalidField(field, "too-long", "The field %s is longer than 200 characters; shorten it.", field)
	}
	return value, nil
}

// Each maps a list; the result is never nil.
func Each[T, U any](items []T, f func(T) U) []U {
	out := make([]U, len(items))
	for i, it := range items {
		out[i] = f(it)
	}
	return out
}
