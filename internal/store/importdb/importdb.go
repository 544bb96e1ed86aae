// Package importdb holds the statements about imports: what arrived, and what
// becomes of it.
package importdb

import "sparecrate/internal/store"

// Queries are these statements over a database or a transaction.
type Queries struct{ *store.Store }

// In returns the statements that run in s.
func In(s *store.Store) Queries { return Queries{s} }
