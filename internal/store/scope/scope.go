// Package scope limits statements to what belongs to some clients.
//
// A person or a token may be limited to clients. Then every statement that reads, whatever
// room it stands in, sees tables that hold only what is of these clients: the statement gets
// common table expressions in front that take the tables' names (ISO/IEC 9075-2, 7.17;
// MariaDB merges them, so that indexes serve as before). A statement that somebody adds is
// limited with the others, and a table that nobody said anything about fails a test.
//
// What is shared by all (builders, character sets, what fonts have in common) is not
// limited. What counts across clients, such as how far a license is used, is read with
// Everything, by rooms that say only what is the asker's.
package scope

import (
	"context"
	"slices"
	"strconv"
	"strings"
)

type limitKey struct{}

// Limit is what somebody is limited to.
type Limit struct {
	clients []int64 // ascending, each once
	list    string  // the same, as SQL
}

// Limited returns a context whose statements see only what is of some clients; nothing for none.
func Limited(ctx context.Context, clients []int64) context.Context {
	sorted := slices.Clone(clients)
	slices.Sort(sorted)
	sorted = slices.Compact(sorted)
	words := make([]string, len(sorted))
	for i, id := range sorted {
		words[i] = strconv.FormatInt(id, 10)
	}
	list := strings.Join(words, ",")
	if list == "" {
		list = "NULL" // equals nothing
	}
	return context.WithValue(ctx, limitKey{}, &Limit{sorted, list})
}

// Everything returns a context whose statements are not limited.
func Everything(ctx context.Context) context.Context {
	if Of(ctx) == nil {
		return ctx
	}
	return context.WithValue(ctx, limitKey{}, (*Limit)(nil))
}

// Of returns what a context is limited to, nil for nothing.
func Of(ctx context.Context) *Limit {
	l, _ := ctx.Value(limitKey{}).(*Limit)
	return l
}

// Has reports whether a client is one of those; every one is where there is no limit.
func (l *Limit) Has(client int64) bool {
	if l == nil {
		return true
	}
	_, is := slices.BinarySearch(l.clients, client)
	return is
}

// Clients returns the clients, nil where there is no limit.
func (l *Limit) Clients() []int64 {
	if l == nil {
		return nil
	}
	return l.clients
}

// Key tells limits apart: what is kept for one of them is not for another.
func (l *Limit) Key() string {
	if l == nil {
		return ""
	}
	return "of " + l.list + " "
}

type aboutKey struct{}

// About returns a context in which is done what concerns one client: activity and jobs
// that begin in it are that client's.
func About(ctx context.Context, client int64) context.Context {
	return context.WithValue(ctx, aboutKey{}, client)
}

// Concerned returns the client that what is done in a context concerns, 0 where none is known.
func Concerned(ctx context.Context) int64 {
	id, _ := ctx.Value(aboutKey{}).(int64)
	return id
}
