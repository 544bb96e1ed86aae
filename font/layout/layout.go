// Package layout understands the rules that set glyphs: the tables GSUB and
// GPOS, and the classes of GDEF, of the OpenType specification 1.9.1
// ("OpenType Layout common table formats" and the chapters of the tables).
//
// It does three things with them. Close finds every glyph that rules can make
// of a set of glyphs. Rewrite writes a table again for fewer or renumbered
// glyphs, fewer features, or with its variations finished or changed. A Setter
// applies rules to a line of glyphs.
//
// Reading is checked everywhere. Lists that a table names over and over are
// bounded by work in proportion to its size.
package layout

import (
	"sparecrate/font/layout/internal/rules"
	"sparecrate/font/sfnt"
)

// What is read of the tables; package rules, inside this one, reads it.
type (
	// GlyphID is a glyph's number within its face.
	GlyphID = rules.GlyphID
	// Set is a set of glyphs.
	Set = rules.Set
	// Table is GSUB or GPOS opened for reading. It is for one goroutine.
	Table = rules.Table
	// Definitions is GDEF opened for reading: what kind of glyph each is.
	Definitions = rules.Definitions
	// Condition holds where an axis lies within a range of normalized
	// coordinates, F2Dot14.
	Condition = rules.Condition
)

// Classes of glyphs in GDEF.
const (
	ClassBase      = rules.ClassBase
	ClassLigature  = rules.ClassLigature
	ClassMark      = rules.ClassMark
	ClassComponent = rules.ClassComponent
)

// TagGDEF is the table of glyph classes.
var TagGDEF = rules.TagGDEF

// ErrWork says that a table asks for more work than any real one does.
var ErrWork = rules.ErrWork

// Open reads the lists of a GSUB or GPOS table. The error wraps sfnt.ErrDamaged.
func Open(b []byte, tag sfnt.Tag) (*Table, error) { return rules.Open(b, tag) }

// OpenDefinitions reads GDEF. A nil table gives a value without classes. The
// error wraps sfnt.ErrDamaged.
func OpenDefinitions(b []byte) (*Definitions, error) { return rules.OpenDefinitions(b) }
