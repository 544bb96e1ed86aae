// Package register writes the license register for people outside the service: as
// CSV, as a workbook, and as a page to print. It is pure.
package register

import (
	_ "embed"
	"fmt"
	"html/template"
	"io"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"

	"sparecrate/internal/spreadsheet"
)

// Row is a family in the register.
type Row struct {
	Family, Client, Origin, Verdict string
	Faces                           int
	Licenses, Sites                 []string
	Evidence, Missing               []string
}

// Register is the whole, or a client's part.
type Register struct {
	Studio, Client string // Client empty for all
	Day            time.Time
	Rows           []Row
}

// State is the verdict in words.
func (r Row) State() string {
	if r.Verdict == "review" {
		return "needs review"
	}
	return r.Verdict
}

var headings = []string{"Family", "Client", "Origin", "Faces", "Verdict", "Licensed", "Used on", "Evidence", "Missing"}

func (r Row) cells(between string) []string {
	return []string{r.Family, r.Client, r.Origin, fmt.Sprint(r.Faces), r.State(), strings.Join(r.Licenses, between), strings.Join(r.Sites, between),
		strings.Join(r.Evidence, between), strings.Join(r.Missing, between)}
}

// CSV writes the register as comma-separated values.
func (r *Register) CSV(w io.Writer) error {
	rows := make([][]string, len(r.Rows))
	for i, row := range r.Rows {
		rows[i] = row.cells("; ")
	}
	return spreadsheet.WriteCSV(w, headings, rows)
}

// XLSX writes the register as a workbook (ISO/IEC 29500): one sheet, its head fixed.
func (r *Register) XLSX(w io.Writer) error {
	const sheet = "Register"
	f := excelize.NewFile()
	defer func() { _ = f.Close() }()
	if err := f.SetSheetName("Sheet1", sheet); err != nil {
		return err
	}
	out, err := f.NewStreamWriter(sheet)
	if err != nil {
		return err
	}
	head, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}, Border: []excelize.Border{{Type: "bottom", Style: 1, Color: "000000"}}})
	if err != nil {
		return err
	}
	body, err := f.NewStyle(&excelize.Style{Alignment: &excelize.Alignment{WrapText: true, Vertical: "top"}})
	if err != nil {
		return err
	}
	for i, width := range []float64{26, 22, 14, 8, 10, 48, 36, 36, 48} {
		if err := out.SetColWidth(i+1, i+1, width); err != nil {
			return err
		}
	}
	if err := out.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}); err != nil {
		return err
	}
	write := func(n, style int, cells []any) error {
		for i := range cells {
			cells[i] = excelize.Cell{Value: cells[i], StyleID: style}
		}
		return out.SetRow(fmt.Sprintf("A%d", n), cells)
	}
	titles := make([]any, len(headings))
	for i, h := range headings {
		titles[i] = h
	}
	if err := write(1, head, titles); err != nil {
		return err
	}
	for n, row := range r.Rows {
		cells := row.cells("\n")
		values := make([]any, len(cells))
		for i, c := range cells {
			values[i] = c
		}
		values[3] = row.Faces
		if err := write(n+2, body, values); err != nil {
			return err
		}
	}
	if err := out.Flush(); err != nil {
		return err
	}
	return f.Write(w)
}

//go:embed print.html
var page string

var printed = template.Must(template.New("print").Funcs(template.FuncMap{"day": func(t time.Time) string { return t.Format("2 January 2006") }}).Parse(page))

// HTML writes the register as a page that prints on A4 across.
func (r *Register) HTML(w io.Writer) error { return printed.Execute(w, r) }

// Counts says how many families stand under each verdict, as "3 clear".
func (r *Register) Counts() []string {
	n := map[string]int{}
	for _, row := range r.Rows {
		n[row.Verdict]++
	}
	var out []string
	for _, v := range []string{"clear", "query", "blocked"} {
		if n[v] > 0 {
			out = append(out, fmt.Sprintf("%d %s", n[v], v))
		}
	}
	return out
}
