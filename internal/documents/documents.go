// Package documents gets the text out of the documents that prove a license: PDFs,
// web pages and plain texts in the encodings they come in. PDFs and pages are read
// in a process of their own (package jail).
package documents

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"mime"
	"path"
	"slices"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"github.com/ledongthuc/pdf"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
	"golang.org/x/text/encoding/charmap"

	"sparecrate/internal/jail"
)

const (
	// MaxText bounds the text kept of a document, in bytes.
	MaxText = 1 << 20
	// maxPages bounds the pages of a PDF that are read.
	maxPages = 500
)

// Text returns the text of a document, empty where it has none: a picture, a scan, a
// file of another kind. The error says why a document that should have one could
// not be read.
func Text(ctx context.Context, name string, data []byte) (string, error) {
	switch {
	case bytes.HasPrefix(data, []byte("%PDF-")):
		text, err := inJail.Run(ctx, data)
		return clean(string(text)), err
	case !textual(data):
		return "", nil
	}
	text := decode(data)
	if ext := strings.ToLower(path.Ext(name)); ext == ".html" || ext == ".htm" || strings.HasPrefix(strings.ToLower(strings.TrimSpace(text[:min(len(text), 200)])), "<!doctype html") {
		out, err := pageInJail.Run(ctx, []byte(text))
		if err != nil {
			return "", err
		}
		text = string(out)
	}
	return clean(text), nil
}

// inJail reads PDFs in a process of their own. The reader is not made for hostile
// files: it panics on some, others keep it going for ever or take gigabytes.
var inJail = jail.Register("pdf", func(in []byte) ([]byte, error) {
	text, err := pagesOf(in)
	return []byte(text), err
})

// pageInJail reads web pages in a process of their own, too: how they are read is not
// ours either.
var pageInJail = jail.Register("page", func(in []byte) ([]byte, error) { return []byte(ofPage(string(in))), nil })

func pagesOf(data []byte) (text string, err error) {
	defer func() {
		if p := recover(); p != nil {
			text, err = "", fmt.Errorf("the PDF is damaged: %v", p)
		}
	}()
	r, err := pdf.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return "", fmt.Errorf("the PDF cannot be read: %w", err)
	}
	var b strings.Builder
	for i := 1; i <= min(r.NumPage(), maxPages) && b.Len() < MaxText; i++ {
		page := r.Page(i)
		if page.V.IsNull() {
			continue
		}
		rows, err := page.GetTextByRow()
		if err != nil {
			return "", fmt.Errorf("page %d of the PDF cannot be read: %w", i, err)
		}
		for _, row := range rows {
			last := 0.0
			for n, word := range row.Content {
				if n > 0 && word.X > last+1 {
					b.WriteByte(' ')
				}
				b.WriteString(word.S)
				last = word.X + word.W
			}
			b.WriteByte('\n')
		}
	}
	return clean(b.String()), nil
}

// textual reports whether bytes are text: no control characters but those of text,
// or UTF-16.
func textual(data []byte) bool {
	if len(data) >= 2 && (data[0] == 0xff && data[1] == 0xfe || data[0] == 0xfe && data[1] == 0xff) {
		return true
	}
	return !slices.ContainsFunc(data[:min(len(data), 8192)], func(b byte) bool { return b < ' ' && !strings.ContainsRune("\t\n\v\f\r\x1a\x1b", rune(b)) })
}

// decode reads text as UTF-8 or UTF-16 where it is, else as Windows-1252.
func decode(data []byte) string {
	if len(data) >= 2 && data[0] == 0xff && data[1] == 0xfe {
		return wide(data[2:], func(b []byte) uint16 { return uint16(b[0]) | uint16(b[1])<<8 })
	}
	if len(data) >= 2 && data[0] == 0xfe && data[1] == 0xff {
		return wide(data[2:], func(b []byte) uint16 { return uint16(b[1]) | uint16(b[0])<<8 })
	}
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	if utf8.Valid(data) {
		return string(data)
	}
	if s, err := charmap.Windows1252.NewDecoder().Bytes(data); err == nil {
		return string(s)
	}
	return strings.ToValidUTF8(string(data), "\ufffd")
}

func wide(data []byte, unit func([]byte) uint16) string {
	units := make([]uint16, len(data)/2)
	for i := range units {
		units[i] = unit(data[2*i:])
	}
	return string(utf16.Decode(units))
}

// ofPage returns the words of a web page.
func ofPage(page string) string {
	var b strings.Builder
	skip := atom.Atom(0)
	for z := html.NewTokenizer(strings.NewReader(page)); ; {
		kind := z.Next()
		if kind == html.ErrorToken {
			if !errors.Is(z.Err(), io.EOF) {
				return b.String()
			}
			break
		}
		t := z.Token()
		switch {
		case kind == html.StartTagToken && (t.DataAtom == atom.Script || t.DataAtom == atom.Style):
			skip = t.DataAtom
		case kind == html.EndTagToken && t.DataAtom == skip:
			skip = 0
		case kind == html.TextToken && skip == 0:
			b.WriteString(t.Data)
		case kind == html.EndTagToken || kind == html.SelfClosingTagToken:
			if slices.Contains([]atom.Atom{atom.P, atom.Div, atom.Li, atom.Br, atom.Tr, atom.H1, atom.H2, atom.H3, atom.Title}, t.DataAtom) {
				b.WriteByte('\n')
			}
		}
	}
	return b.String()
}

// clean has a text fit for records: valid, without what a database refuses, bounded.
func clean(s string) string {
	s = strings.ToValidUTF8(strings.ReplaceAll(s, "\x00", ""), "\ufffd")
	for len(s) > MaxText {
		cut := MaxText
		for cut > 0 && !utf8.RuneStart(s[cut]) {
			cut--
		}
		s = s[:cut]
	}
	return s
}

// Kind returns the media type under which a browser may be shown a document, empty
// for one that it may only save: a page or a drawing could run a script.
func Kind(name string, head []byte) string {
	switch {
	case bytes.HasPrefix(head, []byte("%PDF-")):
		return "application/pdf"
	case bytes.HasPrefix(head, []byte("\x89PNG\r\n")):
		return "image/png"
	case bytes.HasPrefix(head, []byte("\xff\xd8\xff")):
		return "image/jpeg"
	}
	if kind := mime.TypeByExtension(strings.ToLower(path.Ext(name))); strings.HasPrefix(kind, "image/") || strings.HasPrefix(kind, "application/") || strings.Contains(kind, "html") || strings.Contains(kind, "xml") {
		return ""
	}
	if textual(head) && !bytes.HasPrefix(head, []byte("\xff\xfe")) && !bytes.HasPrefix(head, []byte("\xfe\xff")) {
		return "text/plain; charset=utf-8"
	}
	return ""
}
