// Package familydb holds the statements about families, faces and files that every part
// of the catalog asks for.
package familydb

import "sparecrate/internal/store"

// Queries are these statements over a database or a transaction.
type Queries struct{ *store.Store }

// In returns the statements that run in s.
func In(s *store.Store) Queries { return Queries{s} }
