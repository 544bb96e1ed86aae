package license_test

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/license"
)

// linesOf returns the lines of a file of texts, without its comments.
func linesOf(t *testing.T, name string) []string {
	t.Helper()
	b, err := os.ReadFile("testdata/" + name)
	require.NoError(t, err)
	var out []string
	for line := range strings.Lines(string(b)) {
		if line = strings.TrimSpace(line); line != "" && !strings.HasPrefix(line, "#") {
			out = append(out, line)
		}
	}
	return out
}

// TestDoubtfulTextsAreCaught reads what invented makers wrote beside their fonts, alone,
// as a line among others, in capitals and broken over lines.
func TestDoubtfulTextsAreCaught(t *testing.T) {
	t.Parallel()
	lines := linesOf(t, "doubtful.txt")
	require.Greater(t, len(lines), 150)
	for _, line := range lines {
		signal, text, _ := strings.Cut(line, "\t")
		for _, body := range []string{
			text, "Moss Hollow Regular\n(c) 2024 Pia Lund\n\n" + text + "\n\nThank you!\n", strings.ToUpper(text), strings.ReplaceAll(text, " ", "\n"),
		} {
			found := license.Warnings(license.Read(license.Text{Source: "readme.txt", Body: body}))
			var got []license.Signal
			for _, f := range found {
				got = append(got, f.Signal)
			}
			assert.Contains(t, got, license.Signal(signal), "%q", body)
		}
	}
}

func TestHarmlessTextsGiveNoAlarm(t *testing.T) {
	t.Parallel()
	for _, line := range linesOf(t, "harmless.txt") {
		for _, f := range license.Warnings(license.Read(license.Text{Source: "readme.txt", Body: line})) {
			t.Errorf("%q: %s by %q", line, f.Signal, f.Phrase)
		}
	}
}
