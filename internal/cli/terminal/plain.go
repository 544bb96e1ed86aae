package terminal

import (
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"sparecrate/font/metadata"
)

// Shielded writes text to a terminal so that nothing in it acts on the terminal: names
// of fonts and files come from anywhere. Hidden characters are written as \u001b, which
// is what JSON means by them, too.
type Shielded struct {
	To   io.Writer
	left []byte // the beginning of a character whose end is still to come
}

func (w *Shielded) Write(p []byte) (int, error) {
	text := slices.Concat(w.left, p)
	w.left = nil
	var out strings.Builder
	for len(text) > 0 {
		if !utf8.FullRune(text) {
			w.left = append([]byte{}, text...)
			break
		}
		r, n := utf8.DecodeRune(text)
		switch {
		case r == utf8.RuneError && n == 1:
			out.WriteRune(utf8.RuneError)
		case metadata.Hidden(r), r == '\r', r == '\u2028', r == '\u2029':
			fmt.Fprintf(&out, `\u%04x`, r)
		default:
			out.Write(text[:n])
		}
		text = text[n:]
	}
	if _, err := io.WriteString(w.To, out.String()); err != nil {
		return 0, err
	}
	return len(p), nil
}
