package store

import (
	"database/sql/driver"
	"fmt"
	"slices"
	"strings"
)

// Containers are those that a face's files come in. Their column is a SET, which knows
// the names.
type Containers []string

// Has says whether one of them is there.
func (c Containers) Has(container string) bool { return slices.Contains(c, container) }

// Scan reads the column.
func (c *Containers) Scan(column any) error {
	var text string
	switch v := column.(type) {
	case string:
		text = v
	case []byte:
		text = string(v)
	default:
		return fmt.Errorf("containers are no text but %T", column)
	}
	if *c = nil; text != "" {
		*c = strings.Split(text, ",")
	}
	return nil
}

// Value writes the column.
func (c Containers) Value() (driver.Value, error) { return strings.Join(c, ","), nil }
