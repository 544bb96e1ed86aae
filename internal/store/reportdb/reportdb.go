// Package reportdb holds the statements of what goes out on its own: calendars, weekly
// e-mails, and what moved since it was last looked at.
package reportdb

import "sparecrate/internal/store"

// Queries are these statements over a database or a transaction.
type Queries struct{ *store.Store }

// In returns the statements that run in s.
func In(s *store.Store) Queries { return Queries{s} }
