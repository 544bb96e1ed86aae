package reports

import (
	"context"
	"io"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/spreadsheet"
	"sparecrate/internal/store"
	"sparecrate/internal/store/reportdb"
)

// mostExported bounds the lines of an exported file, which is made in memory.
const mostExported = 10_000

// ActivityQuery is what activity is narrowed to; nil does not narrow.
type ActivityQuery struct {
	Person, Action, Words *string
	From, To              *openapi.Date // days, both included
	Client                *int64
}

// filter returns the query as the database takes it.
func (q ActivityQuery) filter(ctx context.Context, s *store.Store) (reportdb.ActivityFilter, error) {
	f := reportdb.ActivityFilter{Person: app.Filled(q.Person), Action: app.Filled(q.Action), Words: app.Filled(q.Words)}
	if q.Client != nil {
		of, err := app.ClientOf(ctx, s, "client", *q.Client)
		if err != nil {
			return f, err
		}
		f.Client = of.ID
	}
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

// Activity returns a page of who did what, newest first; with choices, also the people and
// actions to choose from.
func (r *Reports) Activity(ctx context.Context, p *store.Person, q ActivityQuery, choices bool, cursor *string, limit *int) (*api.ActivityPage, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	f, err := q.filter(ctx, r.store)
	if err != nil {
		return nil, err
	}
	at, err := app.ReadPage(cursor, limit)
	if err != nil {
		return nil, err
	}
	db := reportdb.In(r.store)
	items, err := db.Activities(ctx, f, at)
	if err != nil {
		return nil, err
	}
	items, next := app.CutPage(items, at, func(a store.Activity) (string, int64) { return "", a.ID })
	out := &api.ActivityPage{Next: next, Items: app.Each(items, func(a store.Activity) api.Activity {
		return api.Activity{Id: a.ID, At: a.At, Person: a.Person, Action: a.Action, Subject: a.Subject, Detail: a.Detail}
	})}
	if choices {
		people, actions, err := db.ActivityChoices(ctx)
		if err != nil {
			return nil, err
		}
		out.People, out.Actions = &people, &actions
	}
	return out, nil
}

// ActivityFile writes who did what as CSV, newest first, and returns the file's name.
func (r *Reports) ActivityFile(ctx context.Context, p *store.Person, q ActivityQuery, w io.Writer) (name string, err error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return "", err
	}
	f, err := q.filter(ctx, r.store)
	if err != nil {
		return "", err
	}
	items, err := reportdb.In(r.store).Activities(ctx, f, store.Page{Limit: mostExported})
	if err != nil {
		return "", err
	}
	rows := app.Each(items, func(a store.Activity) []string {
		if !p.Prices {
			a.Detail = app.WithoutPrice(a.Detail)
		}
		return []string{a.At.UTC().Format(time.RFC3339), a.Person, a.Action, a.Subject, a.Detail}
	})
	return "activity-" + r.now().UTC().Format(time.DateOnly) + ".csv", spreadsheet.WriteCSV(w, []string{"Time (UTC)", "Person", "Action", "Subject", "Details"}, rows)
}
