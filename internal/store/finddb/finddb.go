// Package finddb holds the statements of search.
package finddb

import "sparecrate/internal/store"

// Queries are these statements over a database or a transaction.
type Queries struct{ *store.Store }

// In returns the statements that run in s.
func In(s *store.Store) Queries { return Queries{s} }
