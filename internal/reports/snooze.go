package reports

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"math"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/reportdb"
)

// keyOf returns what an item of the due list is known by from day to day: a hash of its kind
// and of what it is about, not of its message.
func keyOf(i *api.DueItem) string {
	h := sha256.New()
	_, _ = fmt.Fprint(h, i.Kind)
	for _, f := range i.Families {
		_, _ = fmt.Fprint(h, " f", f.Id)
	}
	for _, s := range i.Sites {
		_, _ = fmt.Fprint(h, " s", s.Id)
	}
	if i.License != nil {
		_, _ = fmt.Fprint(h, " l", i.License.Id)
	}
	if i.SignOff != nil {
		_, _ = fmt.Fprint(h, " o", *i.SignOff)
	}
	return hex.EncodeToString(h.Sum(nil))
}

// snoozes returns until when items are snoozed, by their keys.
func snoozes(ctx context.Context, r *Reports, today time.Time) (map[string]time.Time, error) {
	found, err := reportdb.In(r.store).Snoozes(ctx, today)
	if err != nil {
		return nil, err
	}
	until := make(map[string]time.Time, len(found))
	for _, z := range found {
		until[z.Item] = z.Until
	}
	return until, nil
}

// Snooze hides an item of the due list, for everybody, until a day.
func (r *Reports) Snooze(ctx context.Context, p *store.Person, key string, until time.Time) error {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return err
	}
	now := r.now()
	today := now.UTC().Truncate(24 * time.Hour)
	if !until.After(today) || until.After(today.AddDate(0, 0, maxWithin)) {
		return app.InvalidField("until", "bad-day", "Choose a day from tomorrow to %s.", today.AddDate(0, 0, maxWithin).Format(time.DateOnly))
	}
	i, err := r.item(ctx, p, key)
	if err != nil {
		return err
	}
	return r.store.Tx(ctx, func(tx *store.Store) error {
		if err := reportdb.In(tx).PutSnooze(ctx, &store.Snooze{Item: key, Until: until, Person: p.Name, At: now}, today); err != nil {
			return err
		}
		return r.note(ctx, tx, p, "snoozed", i.Message, "until "+until.Format(time.DateOnly))
	})
}

// item returns an item of the whole due list by its key, for somebody who may act on it.
func (r *Reports) item(ctx context.Context, p *store.Person, key string) (*api.DueItem, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	due, err := r.due(ctx, p, api.ListDueParams{Within: new(maxWithin), Snoozed: new(true)}, math.MaxInt)
	if err != nil {
		return nil, err
	}
	for _, i := range due.Items {
		if i.Key == key {
			return &i, nil
		}
	}
	return nil, app.Problem(app.Missing, "no-such-item", "This item no longer needs attention. Reload the list.")
}

// Wake ends the snooze of an item of the due list.
func (r *Reports) Wake(ctx context.Context, p *store.Person, key string) error {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return err
	}
	return reportdb.In(r.store).EndSnooze(ctx, key)
}
