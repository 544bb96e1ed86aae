package spreadsheet_test

import (
	"bytes"
	"encoding/csv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/spreadsheet"
)

// TestNoCellIsAFormula writes what a spreadsheet would run, and reads it back as text.
func TestNoCellIsAFormula(t *testing.T) {
	var out bytes.Buffer
	require.NoError(t, spreadsheet.WriteCSV(&out, []string{"Name", "Note"}, [][]string{{"=1+1", "a \"quoted\", word"}, {"@x", "two\nlines"}, {"", "ü"}}))
	assert.True(t, bytes.HasPrefix(out.Bytes(), []byte("\ufeff")))
	assert.Contains(t, out.String(), "\r\n")
	read, err := csv.NewReader(bytes.NewReader(out.Bytes()[3:])).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"Name", "Note"}, {"'=1+1", "a \"quoted\", word"}, {"'@x", "two\nlines"}, {"", "ü"}}, read)
}
