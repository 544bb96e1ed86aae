package reports

import (
	"context"
	"fmt"
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
// later, and one's own as soon as they are worked out. Nobody waits long for a list while there is
// an older one, which says how old it is.
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
	// rest is how many times as long as it took nothing is worked out again for others' changes.
	rest = 9
	// patience is how long somebody waits for their own changes, and where the list is old.
	patience = time.Second
	old      = time.Minute
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

// items returns what needs attention, for a person: all of it, in order, not to be changed; and
// when it was worked out where something has changed since.
func (w *worked) items(ctx context.Context, r *Reports, p *store.Person, within int, client int64) ([]api.DueItem, *time.Time, error) {
	stamp, err := r.Stamp(scope.Everything(ctx))
	if err != nil {
		return nil, nil, err
	}
	key := fmt.Sprint(scope.Of(ctx).Key(), within, client)
	had := w.get(key)
	if had != nil && had.stamp == stamp && time.Since(had.at) < counted {
		return had.items, nil, nil
	}
	sameDay := had != nil && had.stamp[:len(time.DateOnly)] == stamp[:len(time.DateOnly)]
	// Whoever is limited to some clients sees nothing that has been taken from these.
	if !sameDay || had.took <= r.AtOnce || scope.Of(ctx) != nil {
		got, err := wait(ctx, w.workOut(ctx, r, key+" "+stamp, key, stamp, within, client))
		if err != nil {
			return nil, nil, err
		}
		return got.items, nil, nil
	}
	own, err := reportdb.In(r.store).DidSince(ctx, p.Name, had.upTo)
	if err != nil {
		return nil, nil, err
	}
	since := time.Since(had.at)
	if own && (had.took < patience || since > had.took) || since > rest*had.took {
		// One at a time: what changes meanwhile comes with the next.
		working := w.workOut(ctx, r, key, key, stamp, within, client)
		soon, cancel := context.WithTimeout(ctx, patience)
		defer cancel()
		for own || since > old {
			got, err := wait(soon, working)
			if soon.Err() != nil && ctx.Err() == nil {
				break
			}
			if err != nil {
				return nil, nil, err
			}
			if had, since = got, 0; had.stamp == stamp {
				return had.items, nil, nil
			}
			// It was begun before what oneself did.
			if own, err = reportdb.In(r.store).DidSince(ctx, p.Name, had.upTo); err != nil {
				return nil, nil, err
			}
			if own {
				working = w.workOut(ctx, r, key, key, stamp, within, client)
			}
		}
	}
	return had.items, &had.at, nil
}

// wait returns what is worked out, or an error when ctx ends before.
func wait(ctx context.Context, working <-chan singleflight.Result) (*workedOut, error) {
	select {
	case <-ctx.Done():
		return nil, ctx.Err()
	case got := <-working:
		if got.Err != nil {
			return nil, got.Err
		}
		return got.Val.(*workedOut), nil
	}
}

// workOut works it out; of many who ask for the same, of, at the same time, one does.
func (w *worked) workOut(ctx context.Context, r *Reports, of, key, stamp string, within int, client int64) <-chan singleflight.Result {
	ctx = context.WithoutCancel(ctx) // whoever asked first may go away
	return w.one.DoChan(of, func() (any, error) {
		start := time.Now()
		upTo, err := r.store.LastActivity(scope.Everything(ctx))
		if err != nil {
			return nil, err
		}
		items, err := dueItems(ctx, r, within, client)
		if err != nil {
			return nil, err
		}
		done := &workedOut{items, stamp, upTo, time.Now(), time.Since(start)}
		w.mu.Lock()
		defer w.mu.Unlock()
		w.answers.Add(key, done)
		return done, nil
	})
}
