// Package usagedb holds the statements about which faces go out where, and what bears on
// whether they may.
package usagedb

import "sparecrate/internal/store"

// Queries are these statements over a database or a transaction.
type Queries struct{ *store.Store }

// In returns the statements that run in s.
func In(s *store.Store) Queries { return Queries{s} }
