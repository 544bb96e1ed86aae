package main

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"time"
)

// Fault is something that happens to a part of the cluster.
type Fault struct {
	Name string
	// Breaks are the kinds of requests that cannot be answered well meanwhile, whoever is asked.
	Breaks []string
	// Do breaks something, waits a while, and mends it.
	Do func(ctx context.Context) error
}

// after waits, and says false when ctx ended before.
func after(ctx context.Context, d time.Duration) bool {
	select {
	case <-ctx.Done():
		return false
	case <-time.After(d):
		return true
	}
}

// between returns a fault that breaks, waits and mends; it mends also when it is interrupted.
func between(breaks func() error, mends func() error, wait time.Duration) func(context.Context) error {
	return func(ctx context.Context) error {
		if err := breaks(); err != nil {
			return errors.Join(err, mends())
		}
		after(ctx, wait)
		return mends()
	}
}

// Faults returns everything that may happen.
func (c *Cluster) Faults() (all []Fault) {
	ctx := context.Background() // what was broken is mended whatever happens
	for _, m := range slices.Concat(c.databases, c.gateways, c.services) {
		all = append(all,
			Fault{Name: "kill " + m.Name, Do: between(m.Kill, m.Start, 5*time.Second)},
			Fault{Name: "freeze " + m.Name, Do: between(m.Freeze, m.Thaw, 8*time.Second)},
			Fault{Name: "unplug " + m.Name, Do: between(func() error { return c.lan.Unplug(ctx, m.Name) }, func() error { return c.lan.Plug(ctx, m.Name) }, 8*time.Second)},
		)
	}
	for _, m := range slices.Concat(c.databases, c.services) {
		all = append(all, Fault{Name: "restart " + m.Name, Do: between(m.Stop, m.Start, time.Second)})
	}
	for _, m := range c.databases {
		// A node of the database leaves the cluster for it, and comes back when it is started again.
		all = append(all, Fault{Name: "fill " + m.Name, Do: between(m.Fill, func() error { return errors.Join(m.Empty(), m.Kill(), restartLater(ctx, m)) }, 8*time.Second)})
	}
	for _, m := range c.services {
		all = append(all, Fault{Name: "fill " + m.Name, Do: between(m.Fill, m.Empty, 8*time.Second)})
	}
	shared := &Member{folder: c.store}
	all = append(all, Fault{Name: "fill the store", Breaks: []string{"font", "import", "pack"}, Do: between(shared.Fill, shared.Empty, 8*time.Second)})
	for i := range c.databases {
		apart := []string{c.databases[i].Name, c.services[i].Name}
		all = append(all, Fault{
			Name: fmt.Sprintf("split off %s and %s", apart[0], apart[1]),
			Do:   between(func() error { return c.lan.Split(ctx, apart...) }, func() error { return c.lan.Heal(ctx, apart...) }, 10*time.Second),
		})
	}
	return all
}

// restartLater starts a node of the database once the others have taken it for gone, as systemd does with
// RestartSec=5: one that is back at once has them agree twice in a row, and nobody writes meanwhile.
func restartLater(ctx context.Context, m *Member) error {
	after(ctx, 5*time.Second)
	return m.Start()
}

// Upgrades has the services that run an older program run the newer one, one after the other, as a
// rolling upgrade does: those that are still to come go on beside those that were.
func (c *Cluster) Upgrades() (all []Fault) {
	for _, m := range c.services {
		if c.older == "" {
			return nil
		}
		all = append(all, Fault{Name: "upgrade " + m.Name, Do: func(context.Context) error {
			err := m.Stop()
			c.mu.Lock()
			delete(c.old, m.Name)
			c.mu.Unlock()
			return errors.Join(err, m.Start())
		}})
	}
	return all
}

// settled is how often in a row the cluster has to be found whole, a second apart: a node that was
// frozen takes itself for level with the others until it hears from them.
const settled = 3

// whole waits until every part serves again.
func (c *Cluster) whole(ctx context.Context) error {
	for range settled {
		if err := wholeOnce(ctx, c); err != nil {
			return err
		}
		after(ctx, time.Second)
	}
	return wholeOnce(ctx, c)
}

func wholeOnce(ctx context.Context, c *Cluster) error {
	return eventually(ctx, 3*time.Minute, "every part serves again", func(ctx context.Context) error {
		for _, m := range c.all() {
			if !m.Running() {
				// What has ended by itself is started again, as an administrator's system does.
				if err := m.Start(); err != nil {
					return err
				}
				return fmt.Errorf("%s was started again", m.Name)
			}
		}
		for _, m := range c.databases {
			if err := c.synced(ctx, m); err != nil {
				return err
			}
		}
		return c.answers(ctx)
	})
}

// order returns the faults in an order that follows from a seed: each once, then each again.
func order(all []Fault, only []string, seed uint64) func() Fault {
	if len(only) > 0 {
		all = slices.DeleteFunc(slices.Clone(all), func(f Fault) bool { return !slices.Contains(only, f.Name) })
	}
	rng := rand.New(rand.NewPCG(seed, seed)) //nolint:gosec // not for secrets
	var rest []Fault
	return func() Fault {
		if len(rest) == 0 {
			rest = slices.Clone(all)
			rng.Shuffle(len(rest), func(i, j int) { rest[i], rest[j] = rest[j], rest[i] })
		}
		next := rest[0]
		rest = rest[1:]
		return next
	}
}
