package register_test

import (
	"bytes"
	"encoding/csv"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"sparecrate/internal/register"
)

var sample = register.Register{Studio: "Lanternjaw Studio", Client: "Orrery Hall", Day: time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC), Rows: []register.Row{
	{Family: "Umbrisk Display", Client: "Orrery Hall", Origin: "bought", Verdict: "clear", Faces: 1, Licenses: []string{"2: web", "5: desktop"}, Sites: []string{"Visitor site"}, Evidence: []string{"order.pdf"}},
	{Family: "=cmd|' /C calc'!A0", Client: "<b>Orrery</b>", Origin: "unknown", Verdict: "blocked", Missing: []string{"Buy, \"soon\"", "+1"}},
}}

func TestCSV(t *testing.T) {
	var out bytes.Buffer
	require.NoError(t, sample.CSV(&out))
	rows, err := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(out.Bytes(), []byte("\ufeff")))).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 3)
	assert.Equal(t, "2: web; 5: desktop", rows[1][5])
	assert.Equal(t, "'=cmd|' /C calc'!A0", rows[2][0], "no cell is a formula")
	assert.Equal(t, `Buy, "soon"; +1`, rows[2][8])
}

func TestXLSX(t *testing.T) {
	var out bytes.Buffer
	require.NoError(t, sample.XLSX(&out))
	book, err := excelize.OpenReader(&out)
	require.NoError(t, err)
	kind, err := book.GetCellType("Register", "D2")
	require.NoError(t, err)
	assert.NotEqual(t, excelize.CellTypeInlineString, kind, "a number is one")
	formula, err := book.GetCellFormula("Register", "A3")
	require.NoError(t, err)
	assert.Empty(t, formula)
	text, err := book.GetCellValue("Register", "A3")
	require.NoError(t, err)
	assert.Equal(t, sample.Rows[1].Family, text)
	several, err := book.GetCellValue("Register", "F2")
	require.NoError(t, err)
	assert.Equal(t, "2: web\n5: desktop", several)
}

func TestHTML(t *testing.T) {
	var out bytes.Buffer
	require.NoError(t, sample.HTML(&out))
	assert.Contains(t, out.String(), "<h1>License register: Orrery Hall</h1>")
	assert.Contains(t, out.String(), "2 families, 1 clear, 1 blocked")
	assert.Contains(t, out.String(), "&lt;b&gt;Orrery&lt;/b&gt;")
	empty := register.Register{Studio: "x"}
	out.Reset()
	require.NoError(t, empty.HTML(&out))
	assert.Contains(t, out.String(), "The register is empty.")
}
