package reports

import (
	"context"
	"fmt"
	"slices"
	"sync"
	"time"

	"github.com/hashicorp/golang-lru/v2/simplelru"
	"golang.org/x/sync/singleflight"

	"sparecrate/api"
	"sparecrate/internal/store"
	"sparecrate/internal/store/reportdb"
	"sparecrate/internal/store/scope"
)

// worked remembers what needs attention, for those who see the same. In a large studio it takes
// seconds to work out, and something changes all the time: then others' changes come a little
// later, one's own at once.
type worked struct {
	one     singleflight.Group
	mu      sync.Mutex
	answers *simplelru.LRU[string, *workedOut]
}

// workedOut is what was worked out.
type workedOut struct {
	items []api.DueItem
	stamp string
	upTo  int64 // the last activity before it
	at    time.Time
	took  time.Duration
}

const (
	mostWorked = 64 // lists that are remembered
	// atOnce is how long something may take to work out that is worked out for each change.
	atOnce = 100 * time.Millisecond
	// rest is how many times as long as it took nothing is worked out again for others' changes,
	// and stale how old a list may become in any case.
	rest  = 3
	stale = time.Minute
	// counted is how long a list holds while nothing changes but what visitors are counted.
	counted = 10 * time.Minute
)

func newWorked() *worked {
	answers, _ := simplelru.NewLRU[string, *workedOut](mostWorked, nil) // the size is no error
	return &worked{answers: answers}
}

func (w *worked) get(key string) *workedOut {
	w.mu.Lock()
	defer w.mu.Unlock()
	a, _ := w.answers.Get(key)
	return a
}

// items returns what needs attention, for a person: all of it, in order.
func (w *worked) items(ctx context.Context, r *Reports, p *store.Person, within int, client int64) ([]api.DueItem, error) {
	stamp, err := r.Stamp(scope.Everything(ctx))
	if err != nil {
		return nil, err
	}
	key := fmt.Sprint(scope.Of(ctx).Key(), within, client)
	had := w.get(key)
	if had != nil && had.stamp == stamp && time.Since(had.at) < counted {
		return slices.Clone(had.items), nil
	}
	if had != nil && had.took > r.AtOnce && time.Since(had.at) < stale && had.stamp[:len(time.DateOnly)] == stamp[:len(time.DateOnly)] {
		own, err := reportdb.In(r.store).DidSince(ctx, p.Name, had.upTo)
		if err != nil {
			return nil, err
		}
		if !own {
			if time.Since(had.at) > rest*had.took {
				go func() { _, _ = w.workOut(context.WithoutCancel(ctx), r, key, stamp, within, client) }()
			}
			return slices.Clone(had.items), nil
		}
	}
	return w.workOut(ctx, r, key, stamp, within, client)
}

// workOut works it out; of many who ask for the same at the same time, one does.
func (w *worked) workOut(ctx context.Context, r *Reports, key, stamp string, within int, client int64) ([]api.DueItem, error) {
	done := w.one.DoChan(key+" "+stamp, func() (any, error) {
		start := time.Now()
		// Whoever asked first may go away.
		ctx := context.WithoutCancel(ctx)
		upTo, err := r.store.LastActivity(scope.Everything(ctx))
		if err != nil {
			return nil, err
		}
		items, err := dueItems(ctx, r, within, client)
		if err != nil {
			return nil, err
		}
		w.mu.Lock()
		defer w.mu.Unlock()
		w.answers.Add(key, &workedOut{items, stamp, upTo, time.Now(), time.Since(start)})
		return items, nil
	})
	select {
	case <-ctx.Done():
		return nil, ctx.Err()
	case got := <-done:
		if got.Err != nil {
			return nil, got.Err
		}
		return slices.Clone(got.Val.([]api.DueItem)), nil
	}
}
