package stated_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/license"
	"sparecrate/internal/stated"
)

// Each file in testdata/documents holds a document, and under a line of hyphens what it states;
// a question mark stands for a value that the document leaves open.
func TestTermsOfDocumentsAreRead(t *testing.T) {
	all, err := filepath.Glob("testdata/documents/*.txt")
	require.NoError(t, err)
	require.NotEmpty(t, all)
	for _, path := range all {
		t.Run(strings.TrimSuffix(filepath.Base(path), ".txt"), func(t *testing.T) {
			file, err := os.ReadFile(path)
			require.NoError(t, err)
			body, want, ok := strings.Cut(string(file), "\n---")
			require.True(t, ok)
			got := []string{}
			for _, s := range stated.Read(license.Text{Source: "license.pdf", Body: body}, []string{"Holmvik Ferries", "Orrery Hall", "Saltmarsh Seed Exchange"}) {
				value := s.Value
				if value == "" {
					value = "?"
					assert.NotEmpty(t, s.Open)
				}
				got = append(got, string(s.Field)+" "+value)
				assert.NotEmpty(t, s.Quote, s.Field)
			}
			assert.ElementsMatch(t, strings.FieldsFunc(want, func(c rune) bool { return c == '\n' }), got, strings.Join(got, "\n"))
		})
	}
}

func FuzzRead(f *testing.F) {
	all, err := filepath.Glob("testdata/documents/*.txt")
	require.NoError(f, err)
	for _, path := range all {
		file, err := os.ReadFile(path)
		require.NoError(f, err)
		f.Add(string(file))
	}
	f.Add("Licensee:\xff\xc3 É\n| a | b | c\nvalid until 31.02.2026")
	f.Fuzz(func(t *testing.T, body string) {
		for _, s := range stated.Read(license.Text{Body: body}, []string{"Orrery Hall", ""}) {
			assert.True(t, s.Value != "" || s.Open != "", s.Field)
		}
	})
}

// A document of the greatest size that is read, of words that every pattern begins to match.
func BenchmarkRead(b *testing.B) {
	body := strings.Repeat("Licensed to web page views 10,000 up to 5 users not for apps valid until 1 May of the license no. ", 200)
	for b.Loop() {
		stated.Read(license.Text{Body: body}, []string{"Orrery Hall"})
	}
	b.ReportMetric(float64(len(body))*float64(b.N)/b.Elapsed().Seconds()/1e6, "MB/s")
}
