package metadata_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"sparecrate/font/metadata"
)

func TestPrintable(t *testing.T) {
	for in, want := range map[string]string{
		"Skerrow Sans": "Skerrow Sans", "a\x1b[31mred\x07": "a[31mred", "a\u202Eb\u2066c\u200F": "abc", "two\r\nlines\tand a tab": "two lines and a tab",
		"line\u2028separator": "line separator", "\u009b31m": "31m", "نی\u200cها": "نی\u200cها", "\ufeffmark": "mark", "\x00": "", "é ü 漢": "é ü 漢",
	} {
		assert.Equal(t, want, metadata.Printable(in), "%q", in)
	}
	assert.Equal(t, "two\nlines\tand", metadata.PrintableText("two\r\nlines\tand\x1b"))
}
