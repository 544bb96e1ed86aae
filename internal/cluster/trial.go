package main

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"math/rand/v2"
	"net"
	"net/http"
	"os"
	"os/exec"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"sparecrate/api"
)

// Trial is how a cluster is tried.
type Trial struct {
	For  time.Duration
	Seed uint64
	Only []string // names of faults; all when empty
}

// longest is how long somebody may be without a good answer.
const longest = 5 * time.Second

// try lets faults happen under load, one after the other, then looks whether everything is there.
func (c *Cluster) try(ctx context.Context, t Trial) error {
	token, err := c.signIn(ctx)
	if err != nil {
		return err
	}
	var doing atomic.Value
	doing.Store("nothing")
	ledger := NewLedger(func() string { return doing.Load().(string) })
	l, err := c.prepare(ctx, ledger, token)
	if err != nil {
		return err
	}
	loaded, stop := context.WithCancel(ctx)
	defer stop()
	var people sync.WaitGroup
	for n := range workers {
		p := &person{load: l, number: n, failing: map[string]time.Time{}, rng: rand.New(rand.NewPCG(t.Seed, uint64(n)))} //nolint:gosec // not for secrets
		people.Go(func() { p.run(loaded) })
	}
	still := standstill(loaded)
	var wrong []string
	faults, next := 0, order(c.Faults(), t.Only, t.Seed)
	begun := time.Now()
	upgrades := c.Upgrades()
	for after(ctx, 5*time.Second) && (time.Since(begun) < t.For || len(upgrades) > 0) {
		var f Fault
		if len(upgrades) > 0 {
			f, upgrades = upgrades[0], upgrades[1:]
		} else {
			f = next()
		}
		faults++
		doing.Store(f.Name)
		ledger.Allow(f.Breaks)
		start := time.Now()
		if err := f.Do(ctx); err != nil {
			return fmt.Errorf("%s: %w", f.Name, err)
		}
		done := time.Since(start)
		doing.Store("what follows " + f.Name)
		if err := c.whole(ctx); err != nil {
			wrong = append(wrong, fmt.Sprintf("after %s: %s", f.Name, err))
			break
		}
		ledger.Allow(nil)
		fmt.Printf("%5.0f s  %-28s %4.1f s, whole again after %4.1f s\n", time.Since(begun).Seconds(), f.Name, done.Seconds(), (time.Since(start) - done).Seconds())
	}
	if ctx.Err() != nil {
		return ctx.Err()
	}
	stop()
	people.Wait()
	fmt.Print("\n", ledger.Report(), "\n")
	if stood := <-still; stood > time.Second {
		fmt.Printf("this machine itself stood still for up to %.1f s\n", stood.Seconds())
	}
	wrong = append(wrong, ledger.TooLong(longest)...)
	found, err := c.look(ctx, l, token)
	if err != nil {
		return err
	}
	wrong = append(wrong, found...)
	if len(wrong) > 0 {
		return errors.New("these are wrong:\n  " + strings.Join(wrong, "\n  "))
	}
	fmt.Printf("%d faults in %.0f minutes: nothing acknowledged is lost, nothing is doubled, nobody waited longer than %s, all jobs are done\n", faults, time.Since(begun).Minutes(), longest)
	return nil
}

// standstill tells, once ctx ends, for how long nothing at all ran here: all nodes of a cluster
// share one machine, and what it cannot do is no fault of theirs.
func standstill(ctx context.Context) <-chan time.Duration {
	told := make(chan time.Duration, 1)
	go func() {
		most := time.Duration(0)
		const step = 50 * time.Millisecond
		for begun := time.Now(); after(ctx, step); begun = time.Now() {
			most = max(most, time.Since(begun)-step)
		}
		told <- most
	}()
	return told
}

// look says what is wrong once all is quiet.
func (c *Cluster) look(ctx context.Context, l *load, token string) (wrong []string, err error) {
	if err := eventually(ctx, 3*time.Minute, "all jobs are done", func(ctx context.Context) error { return idle(ctx, l.client) }); err != nil {
		wrong = append(wrong, err.Error())
	}
	for _, m := range c.services {
		direct := &http.Client{Timeout: patience, Transport: &http.Transport{DialContext: through(m)}}
		one, err := acting("http://"+net.JoinHostPort(m.Address, servicePort), token, direct)
		if err != nil {
			return nil, err
		}
		found, err := compare(ctx, one, l)
		if err != nil {
			return nil, fmt.Errorf("look through %s: %w", m.Name, err)
		}
		for _, w := range found {
			wrong = append(wrong, "seen through "+m.Name+": "+w)
		}
	}
	wrong = append(wrong, bytesThere(ctx, l)...)
	m := c.services[0]
	args := append([]string{"netns", "exec", m.space, c.program(m.Name), "verify"}, c.arguments(m)...)
	verify := exec.CommandContext(ctx, "ip", args...) //nolint:gosec // our own arguments
	verify.Env = append(os.Environ(), m.env...)
	if out, err := verify.CombinedOutput(); err != nil {
		wrong = append(wrong, fmt.Sprintf("verify: %s", bytes.TrimSpace(out)))
	} else {
		fmt.Printf("verify says: %s\n", bytes.TrimSpace(out))
	}
	return wrong, nil
}

// through connects to one service, by a program in its network that passes bytes on.
func through(m *Member) func(ctx context.Context, _, _ string) (net.Conn, error) {
	return func(_ context.Context, _, _ string) (net.Conn, error) {
		here, there := net.Pipe()
		cmd := exec.Command("ip", "netns", "exec", m.space, "socat", "-", "TCP:"+net.JoinHostPort(m.Address, servicePort)) //nolint:gosec,noctx // it ends with its input
		cmd.Stdin, cmd.Stdout = there, there
		if err := cmd.Start(); err != nil {
			return nil, err
		}
		go func() { _ = cmd.Wait(); _ = there.Close() }()
		return here, nil
	}
}

// idle says which jobs are not done.
func idle(ctx context.Context, client *api.ClientWithResponses) error {
	for _, state := range []api.JobState{api.JobWaiting, api.JobRunning, api.JobFailed} {
		jobs, err := client.ListJobsWithResponse(ctx, &api.ListJobsParams{State: &state})
		if err != nil || jobs.JSON200 == nil {
			return told(jobs, err)
		}
		if n := len(jobs.JSON200.Items); n > 0 {
			why := ""
			if w := jobs.JSON200.Items[0].Why; w != nil {
				why = ": " + *w
			}
			return fmt.Errorf("%d jobs are %s, %q among them%s", n, state, jobs.JSON200.Items[0].Title, why)
		}
	}
	return nil
}

// compare lists what there is and says what is not as it was acknowledged.
func compare(ctx context.Context, client *api.ClientWithResponses, l *load) (wrong []string, err error) {
	most := 200
	lists := map[string]func(cursor *string) (names []string, next *string, err error){
		"font": func(cursor *string) ([]string, *string, error) {
			a, err := client.ListFamiliesWithResponse(ctx, &api.ListFamiliesParams{Limit: &most, Cursor: cursor})
			if err != nil || a.JSON200 == nil {
				return nil, nil, told(a, err)
			}
			return namesOf(a.JSON200.Items, func(f api.FamilySummary) string { return f.Name }), a.JSON200.Next, nil
		},
		"client": func(*string) ([]string, *string, error) {
			a, err := client.ListClientsWithResponse(ctx)
			if err != nil || a.JSON200 == nil {
				return nil, nil, told(a, err)
			}
			return namesOf(a.JSON200.Items, func(c api.StudioClient) string { return c.Name }), nil, nil
		},
		"site": func(cursor *string) ([]string, *string, error) {
			a, err := client.ListSitesWithResponse(ctx, &api.ListSitesParams{Limit: &most, Cursor: cursor})
			if err != nil || a.JSON200 == nil {
				return nil, nil, told(a, err)
			}
			return namesOf(a.JSON200.Items, func(s api.Site) string { return s.Name }), a.JSON200.Next, nil
		},
		"license": func(cursor *string) ([]string, *string, error) {
			a, err := client.ListLicensesWithResponse(ctx, &api.ListLicensesParams{Limit: &most, Cursor: cursor})
			if err != nil || a.JSON200 == nil {
				return nil, nil, told(a, err)
			}
			return namesOf(a.JSON200.Items, func(l api.License) string { return l.Reference }), a.JSON200.Next, nil
		},
	}
	for kind, list := range lists {
		found := map[string]int{}
		var cursor *string
		for {
			names, next, err := list(cursor)
			if err != nil {
				return nil, fmt.Errorf("list of %s: %w", kind, err)
			}
			for _, n := range names {
				found[n]++
			}
			if cursor = next; cursor == nil {
				break
			}
		}
		wrong = append(wrong, l.ledger.Compare(kind, found)...)
		if kind == "font" {
			wrong = append(wrong, l.ledger.Compare("import", found)...)
		}
	}
	list, err := client.GetShortlistWithResponse(ctx, l.listID)
	if err != nil || list.JSON200 == nil {
		return nil, told(list, err)
	}
	made, unknown := 0, 0
	for _, e := range l.ledger.Entries("counter") {
		switch e.Outcome {
		case Made:
			made++
		case Unknown:
			unknown++
		}
	}
	if n := len(list.JSON200.Note); n < made || n > made+unknown {
		wrong = append(wrong, fmt.Sprintf("the counter is at %d after %d acknowledged and %d unknown changes", n, made, unknown))
	}
	return wrong, nil
}

func namesOf[T any](items []T, name func(T) string) (out []string) {
	for _, i := range items {
		out = append(out, name(i))
	}
	return out
}

// bytesThere says which fonts are not what was sent.
func bytesThere(ctx context.Context, l *load) (wrong []string) {
	for _, e := range l.ledger.Entries("font") {
		if e.Outcome != Made {
			continue
		}
		f, err := l.client.GetFamilyWithResponse(ctx, e.ID)
		if err != nil || f.JSON200 == nil || len(f.JSON200.Faces) != 1 {
			wrong = append(wrong, fmt.Sprintf("font %q: %v", e.Name, told(f, err)))
			continue
		}
		got, err := l.client.GetFileContentWithResponse(ctx, f.JSON200.Faces[0].Files[0].Id, &api.GetFileContentParams{})
		if err != nil || got.StatusCode() != http.StatusOK {
			wrong = append(wrong, fmt.Sprintf("file of %q: %v", e.Name, told(got, err)))
			continue
		}
		if sum := sha256.Sum256(got.Body); hex.EncodeToString(sum[:]) != e.Hash {
			wrong = append(wrong, fmt.Sprintf("file of %q is not what was sent", e.Name))
		}
	}
	return wrong
}
