// Package librarydb holds the statements of the catalog itself: the page of a family,
// moving and deleting, and families that others host.
package librarydb

import "sparecrate/internal/store"

// Queries are these statements over a database or a transaction.
type Queries struct{ *store.Store }

// In returns the statements that run in s.
func In(s *store.Store) Queries { return Queries{s} }
