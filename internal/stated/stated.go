// Package stated reads the terms that a license document states, in the languages of orders and
// contracts: whom it is granted to, for what, from when until when, how much, and what it costs.
// What it gives is for a person to confirm: each term has the words that state it. It is pure.
package stated

import (
	"cmp"
	"slices"

	"sparecrate/internal/license"
)

// Field is a term of a license that a document may state.
type Field string

// The fields.
const (
	Grantee   Field = "granted-to"
	Licensor  Field = "licensor"
	Reference Field = "reference"
	From      Field = "from"      // a day, as 2026-07-01
	Until     Field = "until"     // a day, or Perpetual
	UseOf     Field = "use"       // one of Uses
	NotFor    Field = "not-use"   // one of Uses that the document keeps out
	Views     Field = "pageViews" // a month
	Seats     Field = "seats"
	Apps      Field = "apps"
	Domain    Field = "domain"
	Price     Field = "price" // as 240.00 EUR
)

// Perpetual is the value of Until for a license without an end.
const Perpetual = "perpetual"

// Term is a term that a document states, with the words that state it. A value that the
// words leave open is empty, and Open says why.
type Term struct {
	Field Field
	Value string
	Open  string
	Quote string
	Place string
	sure  int
}

// maxStated bounds how much of a document is read for terms, in bytes: some thirty pages.
const maxStated = 96 << 10

// Read returns the terms that a license document states: one value a field, the
// surest, and several uses and domains. clients are names that the grantee may be known by.
func Read(t license.Text, clients []string) []Term {
	body := t.Body[:min(len(t.Body), maxStated)]
	r := &termReader{body: body, lower: foldCase(body)}
	r.lower = unruled(r.lower)
	r.columns()
	r.flow = flowing(r.lower)
	r.days = daysIn(r.flow)
	r.people(clients)
	r.references()
	r.term()
	r.limits()
	r.domains()
	r.price()
	r.uses()
	return r.surest()
}

type termReader struct {
	body  string
	lower string // in small letters
	flow  string // and without the breaks of lines within paragraphs
	days  []day
	found []Term
}

func (r *termReader) add(f Field, sure int, value, open string, from, to int) {
	for from < to && from < len(r.body) && (r.body[from] == ' ' || r.body[from] == '\n' || r.body[from] == '\r' || r.body[from] == '\t') {
		from++
	}
	if value == "" && open == "" {
		return
	}
	if slices.ContainsFunc(r.found, func(s Term) bool { return s.Field == f && s.Value == value && s.Open == open && s.sure >= sure }) {
		return
	}
	r.found = append(r.found, Term{Field: f, Value: value, Open: open, Quote: license.Quote(r.body, from, to), Place: license.LineOf(r.body, from), sure: sure})
}

// fieldOrder is the order in which terms are given.
var fieldOrder = []Field{Grantee, Licensor, Reference, UseOf, NotFor, From, Until, Views, Seats, Apps, Domain, Price}

func (r *termReader) surest() []Term {
	var out []Term
	for _, f := range fieldOrder {
		var of []Term
		for _, s := range r.found {
			if s.Field == f {
				of = append(of, s)
			}
		}
		slices.SortStableFunc(of, func(a, b Term) int { return cmp.Compare(b.sure, a.sure) })
		if len(of) == 0 {
			continue
		}
		if f != UseOf && f != NotFor && f != Domain {
			out = append(out, of[0])
			continue
		}
		for _, one := range of {
			if !slices.ContainsFunc(out, func(s Term) bool { return s.Field == f && s.Value == one.Value }) {
				out = append(out, one)
			}
		}
	}
	// What a document grants in one place and keeps out in another is for a person to settle.
	return slices.DeleteFunc(out, func(s Term) bool {
		return s.Field == NotFor && slices.ContainsFunc(out, func(o Term) bool { return o.Field == UseOf && o.Value == s.Value && o.sure > s.sure })
	})
}
