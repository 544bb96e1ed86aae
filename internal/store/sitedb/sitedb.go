// Package sitedb holds the statements about sites: families on them, roles, builders,
// pages and sign-offs.
package sitedb

import "sparecrate/internal/store"

// Queries are these statements over a database or a transaction.
type Queries struct{ *store.Store }

// In returns the statements that run in s.
func In(s *store.Store) Queries { return Queries{s} }
