package audit

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"strconv"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/spreadsheet"
	"sparecrate/internal/store"
	"sparecrate/internal/store/auditdb"
)

// Query is what entries are narrowed to; nil does not narrow.
type Query struct {
	Person, Action, Words *string
	From, To              *openapi.Date // days, both included
}

func (q Query) filter() (auditdb.Filter, error) {
	f := auditdb.Filter{Person: app.Filled(q.Person), Action: app.Filled(q.Action), Words: app.Filled(q.Words)}
	if q.From != nil {
		f.From = q.From.Time
	}
	if q.To != nil {
		f.Before = q.To.AddDate(0, 0, 1)
	}
	if q.From != nil && q.To != nil && q.To.Before(q.From.Time) {
		return f, app.InvalidField("to", "bad-range", "The last day, %s, is before the first, %s. Swap them.", q.To.Format(time.DateOnly), q.From.Format(time.DateOnly))
	}
	return f, nil
}

func view(e auditdb.Entry) api.AuditEntry {
	return api.AuditEntry{
		Number: e.Seq, At: e.At, Person: e.Person, Via: e.Via, Address: e.Address, Action: e.Action, Subject: e.Subject, Outcome: e.Outcome, Detail: e.Detail, Request: e.Request, Hash: e.Hash,
	}
}

// Entries returns a page of the log, newest first; with choices, also the people and actions
// to choose from. Only admins read it.
func (l *Log) Entries(ctx context.Context, p *store.Person, q Query, choices bool, cursor *string, limit *int) (*api.AuditPage, error) {
	if err := app.Require(p, api.RoleAdmin); err != nil {
		return nil, err
	}
	f, err := q.filter()
	if err != nil {
		return nil, err
	}
	at, err := app.ReadPage(cursor, limit)
	if err != nil {
		return nil, err
	}
	found, err := auditdb.In(l.store).Newest(ctx, f, at.AfterID, at.Limit)
	if err != nil {
		return nil, err
	}
	found, next := app.CutPage(found, at, func(e auditdb.Entry) (string, int64) { return "", e.Seq })
	out := &api.AuditPage{Items: app.Each(found, view), Next: next}
	if choices {
		people, actions, err := auditdb.In(l.store).Choices(ctx)
		if err != nil {
			return nil, err
		}
		out.People, out.Actions = &people, &actions
	}
	return out, nil
}

// Check looks at the whole chain.
func (l *Log) Check(ctx context.Context, p *store.Person, noted *string) (*api.AuditReport, error) {
	if err := app.Require(p, api.RoleAdmin); err != nil {
		return nil, err
	}
	r, err := l.Verify(ctx, app.Filled(noted))
	if errors.Is(err, ErrNoted) {
		return nil, app.InvalidField("noted", "bad-head", "A noted head is NUMBER:HASH, as the check writes it.")
	}
	if err != nil {
		return nil, err
	}
	out := &api.AuditReport{Entries: r.Entries, First: r.First, Last: r.Last, Head: strconv.FormatInt(r.Last, 10) + ":" + r.Head, Whole: r.Fault == ""}
	if r.Fault != "" {
		out.Fault, out.At = &r.Fault, &r.At
	}
	return out, nil
}

// Export returns the log, oldest first, as lines of JSON or as CSV, and the file's name. It is
// read as it goes; what can no longer be read breaks it off.
func (l *Log) Export(ctx context.Context, p *store.Person, q Query, format string) (io.Reader, string, error) {
	if err := app.Require(p, api.RoleAdmin); err != nil {
		return nil, "", err
	}
	f, err := q.filter()
	if err != nil {
		return nil, "", err
	}
	write, name := writeLines, "audit-"+l.now().UTC().Format(time.DateOnly)
	if format == "csv" {
		write, name = writeTable, name+".csv"
	} else {
		name += ".jsonl"
	}
	r, w := io.Pipe()
	go func() {
		each := func(do func(e api.AuditEntry) error) error {
			for last := int64(0); ; {
				found, err := auditdb.In(l.store).After(ctx, f, last, page)
				if err != nil {
					return err
				}
				for _, e := range found {
					if err := do(view(e)); err != nil {
						return err
					}
					last = e.Seq
				}
				if len(found) < page {
					return nil
				}
			}
		}
		w.CloseWithError(write(w, each))
	}()
	return r, name, nil
}

func writeLines(w io.Writer, each func(func(api.AuditEntry) error) error) error {
	out := json.NewEncoder(w)
	out.SetEscapeHTML(false)
	return each(func(e api.AuditEntry) error { return out.Encode(e) })
}

func writeTable(w io.Writer, each func(func(api.AuditEntry) error) error) error {
	headings := []string{"Number", "Time (UTC)", "Person", "Via", "Address", "Action", "Subject", "Outcome", "Details", "Request", "Hash"}
	return spreadsheet.WriteEach(w, headings, func(write func([]string) error) error {
		return each(func(e api.AuditEntry) error {
			return write([]string{strconv.FormatInt(e.Number, 10), e.At.UTC().Format(time.RFC3339Nano), e.Person, e.Via, e.Address, e.Action, e.Subject, e.Outcome, e.Detail, e.Request, e.Hash})
		})
	})
}
