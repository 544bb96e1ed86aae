package documents_test

import (
	"fmt"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/documents"
)

func TestText(t *testing.T) {
	for _, test := range []struct{ name, data, want string }{
		{"plain.txt", "Für Holmvik", "Für Holmvik"},
		{"old.txt", "F\xfcr Holmvik \x80 5", "Für Holmvik € 5"},
		{"wide.txt", "\xff\xfeF\x00\xfc\x00r\x00", "Für"},
		{"wide, big end first.txt", "\xfe\xff\x00F\x00\xfc\x00r", "Für"},
		{"marked.txt", "\xef\xbb\xbfFür", "Für"},
		{"page.html", "<p>Terms &amp; conditions</p><script>alert(1)</script><style>p{}</style><p>apply</p>", "Terms & conditions\napply\n"},
		{"no ending", "<!DOCTYPE html><title>Order</title><body>42", "Order\n42"},
		{"scan.png", "\x89PNG\r\n\x1a\n\x00\x00", ""},
		{"empty.txt", "", ""},
	} {
		got, err := documents.Text(t.Context(), test.name, []byte(test.data))
		require.NoError(t, err, test.name)
		assert.Equal(t, test.want, got, test.name)
	}
	long, err := documents.Text(t.Context(), "long.txt", []byte(strings.Repeat("ü", documents.MaxText)))
	require.NoError(t, err)
	assert.LessOrEqual(t, len(long), documents.MaxText)
	assert.True(t, utf8.ValidString(long))
	_, err = documents.Text(t.Context(), "broken.pdf", []byte("%PDF-1.7\nnothing of the kind"))
	require.Error(t, err)
}

func TestOnlyWhatIsSafeIsShown(t *testing.T) {
	for name, want := range map[string]string{
		"a.txt": "text/plain; charset=utf-8", "readme": "text/plain; charset=utf-8", "a.html": "", "a.svg": "", "a.xml": "", "a.docx": "",
	} {
		assert.Equal(t, want, documents.Kind(name, []byte("<svg onload=alert(1)>")), name)
	}
	assert.Equal(t, "application/pdf", documents.Kind("order.html", []byte("%PDF-1.4")), "what it is, not what it is called")
	assert.Empty(t, documents.Kind("a", []byte{0, 1, 2}))
}

func FuzzText(f *testing.F) {
	f.Add("a.pdf", []byte("%PDF-1.4\n1 0 obj\n<< /Type /Catalog >>\nendobj\ntrailer << /Root 1 0 R >>\nstartxref\n9\n%%EOF"))
	f.Add("a.html", []byte("<p>x<script>"))
	f.Add("a.txt", []byte("\xff\xfe\x00"))
	f.Fuzz(func(t *testing.T, name string, data []byte) {
		s, err := documents.Text(t.Context(), name, data)
		if err == nil && (!utf8.ValidString(s) || strings.ContainsRune(s, 0) || len(s) > documents.MaxText) {
			t.Fatalf("%q is no text for records", s)
		}
	})
}

// TestPDFsThatTurnInCircles reads PDFs whose pages or tables lead back to themselves.
func TestPDFsThatTurnInCircles(t *testing.T) {
	build := func(objects []string, trailer string) []byte {
		b := "%PDF-1.4\n"
		table := fmt.Sprintf("xref\n0 %d\n0000000000 65535 f \n", len(objects)+1)
		for i, o := range objects {
			table += fmt.Sprintf("%010d 00000 n \n", len(b))
			b += fmt.Sprintf("%d 0 obj\n%s\nendobj\n", i+1, o)
		}
		at := len(b)
		return []byte(b + table + fmt.Sprintf("trailer\n<< /Size %d /Root 1 0 R %s >>\nstartxref\n%d\n%%%%EOF\n", len(objects)+1, strings.ReplaceAll(trailer, "HERE", strconv.Itoa(at)), at))
	}
	catalog := "<< /Type /Catalog /Pages 2 0 R >>"
	for name, data := range map[string][]byte{
		"a tree of pages":     build([]string{catalog, "<< /Type /Pages /Count 5 /Kids [2 0 R] >>"}, ""),
		"a tree of two":       build([]string{catalog, "<< /Type /Pages /Count 900 /Kids [3 0 R] >>", "<< /Type /Pages /Parent 2 0 R /Count 900 /Kids [2 0 R 3 0 R] >>"}, ""),
		"a table before":      build([]string{catalog, "<< /Type /Pages /Count 0 /Kids [] >>"}, "/Prev HERE"),
		"a page that is none": build([]string{catalog, "<< /Type /Pages /Count 99999999 /Kids [9 0 R] >>"}, ""),
	} {
		var before, after syscall.Rusage
		require.NoError(t, syscall.Getrusage(syscall.RUSAGE_CHILDREN, &before))
		text, err := documents.Text(t.Context(), "order.pdf", data)
		require.NoError(t, syscall.Getrusage(syscall.RUSAGE_CHILDREN, &after))
		assert.Empty(t, text, name)
		t.Log(name, err)
		assert.Less(t, after.Utime.Sec-before.Utime.Sec, int64(3), "%s: seconds of processor time", name)
	}
}
