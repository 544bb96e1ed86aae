package store

import (
	"database/sql/driver"
	"fmt"
	"slices"
	"strings"
)

// Formats are those that a face's files come in. Their column is a SET, which knows
// the names.
type Formats []string

// Has says whether one of them is there.
func (c Formats) Has(format string) bool { return slices.Contains(c, format) }

// Scan reads the column.
func (c *Formats) Scan(column any) error {
	var text string
	switch v := column.(type) {
	case string:
		text = v
	case []byte:
		text = string(v)
	default:
		return fmt.Errorf("formats are no text but %T", column)
	}
	if *c = nil; text != "" {
		*c = strings.Split(text, ",")
	}
	return nil
}

// Value writes the column.
func (c Formats) Value() (driver.Value, error) { return strings.Join(c, ","), nil }
