// Package spreadsheet writes tables that spreadsheets open.
package spreadsheet

import (
	"encoding/csv"
	"errors"
	"io"
	"strings"
)

// harmless keeps a cell from being a formula where a spreadsheet opens the file.
func harmless(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}

// WriteCSV writes a table as RFC 4180 has it, in UTF-8 with a byte order mark so that
// spreadsheets read it as that. Cells that would be formulas are written as text.
func WriteCSV(w io.Writer, headings []string, rows [][]string) error {
	return WriteEach(w, headings, func(write func(row []string) error) error {
		for _, row := range rows {
			if err := write(row); err != nil {
				return err
			}
		}
		return nil
	})
}

// WriteEach writes a table as WriteCSV does, row by row as they come.
func WriteEach(w io.Writer, headings []string, each func(write func(row []string) error) error) error {
	if _, err := io.WriteString(w, "\ufeff"); err != nil {
		return err
	}
	c := csv.NewWriter(w)
	c.UseCRLF = true
	if err := c.Write(headings); err != nil {
		return err
	}
	err := each(func(row []string) error {
		cells := make([]string, len(row))
		for i, cell := range row {
			cells[i] = harmless(cell)
		}
		return c.Write(cells)
	})
	c.Flush()
	return errors.Join(err, c.Error())
}
