package main

import (
	"errors"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func quiet() string { return "nothing" }

func TestCompareFindsWhatIsLostAndWhatIsDoubled(t *testing.T) {
	l := NewLedger(quiet)
	for name, o := range map[string]Outcome{"made": Made, "lost": Made, "twice": Made, "refused": Refused, "there all the same": Refused, "perhaps": Unknown, "perhaps not": Unknown, "perhaps twice": Unknown} {
		l.Note(Entry{Kind: "site", Name: name, Outcome: o})
	}
	l.Note(Entry{Kind: "client", Name: "of another kind", Outcome: Made})
	wrong := l.Compare("site", map[string]int{"made": 1, "twice": 2, "there all the same": 1, "perhaps": 1, "perhaps twice": 2})
	assert.ElementsMatch(t, []string{
		`site "lost" was acknowledged and is lost`, `site "twice" is there 2 times`, `site "there all the same" was refused and is there`, `site "perhaps twice" is there 2 times`,
	}, wrong)
}

// TestOutagesAreMeasuredFromTheFirstFailure notes requests of two people: who gets no good answer
// counts, not whether somebody else does.
func TestOutagesAreMeasuredFromTheFirstFailure(t *testing.T) {
	during := "kill db1"
	l := NewLedger(func() string { return during })
	start := time.Now().Add(-8 * time.Second)
	failing := l.Asked("read", start, time.Time{}, errors.New("refused"))
	assert.Equal(t, start, failing)
	assert.True(t, l.Asked("read", time.Now(), time.Time{}, nil).IsZero())
	failing = l.Asked("read", time.Now(), failing, errors.New("refused again"))
	assert.Equal(t, start, failing)
	assert.True(t, l.Asked("read", time.Now(), failing, nil).IsZero())
	wrong := l.TooLong(5 * time.Second)
	require.Len(t, wrong, 1)
	assert.Contains(t, wrong[0], "read got no good answer for 8.0 s, during kill db1")
	assert.Empty(t, l.TooLong(9*time.Second))
	report := l.Report()
	assert.Contains(t, report, "read             2       2")
	assert.Contains(t, report, "last failure of read: refused again, during kill db1")

	l.Allow([]string{"font"})
	l.Asked("font", start, time.Time{}, errors.New("the store is full"))
	assert.Len(t, l.TooLong(5*time.Second), 1, "what is broken for all may fail")
	l.Allow(nil)
	l.Asked("font", start, time.Time{}, errors.New("still"))
	assert.Len(t, l.TooLong(5*time.Second), 2)
}

func TestOutcomes(t *testing.T) {
	answered := func(status int) answer { return fake(status) }
	assert.Equal(t, Made, outcome(answered(http.StatusCreated), nil, true))
	assert.Equal(t, Refused, outcome(answered(http.StatusConflict), nil, false))
	assert.Equal(t, Unknown, outcome(answered(http.StatusServiceUnavailable), nil, false))
	assert.Equal(t, Unknown, outcome(answered(0), errors.New("EOF"), false))
}

type fake int

func (f fake) Status() string  { return http.StatusText(int(f)) }
func (f fake) StatusCode() int { return int(f) }
func (f fake) GetBody() []byte { return nil }

func TestTheOrderFollowsFromTheSeed(t *testing.T) {
	var all []Fault
	for _, name := range []string{"a", "b", "c", "d", "e"} {
		all = append(all, Fault{Name: name})
	}
	names := func(seed uint64, only ...string) string {
		next, out := order(all, only, seed), ""
		for range 10 {
			out += next().Name
		}
		return out
	}
	one := names(1)
	assert.Equal(t, one, names(1))
	assert.NotEqual(t, one, names(2))
	for _, name := range []string{"a", "b", "c", "d", "e"} {
		assert.Equal(t, 1, strings.Count(one[:5], name), "each once before one comes again: %s", one)
	}
	assert.Equal(t, "dddddddddd", names(1, "d"))
}

// TestTheBalancerTakesItsConfiguration has the program check it, where it is installed.
func TestTheBalancerTakesItsConfiguration(t *testing.T) {
	text := balancing("127.0.0.1", filepath.Join(t.TempDir(), "door"), addressesOf("s3-", 2, 21), addressesOf("app", 3, 31))
	assert.Contains(t, text, "server app3 10.83.0.33:8480 check")
	assert.Contains(t, text, "server s3-2 10.83.0.22:9000 check")
	assert.Equal(t, 2, strings.Count(text, "server app1 "), "among those that are ready, and among those that live")
	program, err := exec.LookPath("haproxy")
	if err != nil {
		t.Skip("haproxy is not installed")
	}
	path := filepath.Join(t.TempDir(), balancerConf)
	require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
	out, err := exec.CommandContext(t.Context(), program, "-c", "-f", path).CombinedOutput() //nolint:gosec // our own arguments
	require.NoError(t, err, "%s", out)
}

// TestFaultsNameEveryPart holds the faults against the parts.
func TestFaultsNameEveryPart(t *testing.T) {
	c := New(t.TempDir(), "", "")
	for _, one := range []struct {
		of    *[]*Member
		names []string
	}{{&c.databases, []string{"db1", "db2", "db3"}}, {&c.gateways, []string{"s3-1", "s3-2"}}, {&c.services, []string{"app1", "app2", "app3"}}} {
		for _, name := range one.names {
			*one.of = append(*one.of, &Member{Name: name})
		}
	}
	var names []string
	for _, f := range c.Faults() {
		names = append(names, f.Name)
	}
	for _, m := range c.all() {
		for _, what := range []string{"kill ", "freeze ", "unplug "} {
			assert.Contains(t, names, what+m.Name)
		}
	}
	assert.Contains(t, names, "fill the store")
	assert.Contains(t, names, "split off db2 and app2")
	assert.Empty(t, c.Upgrades(), "there is no older program")
	c.older = "older"
	assert.Len(t, c.Upgrades(), 3)
}

// TestDrawnFontsAreOfFamiliesOfTheirOwn draws two fonts as the load does.
func TestDrawnFontsAreOfFamiliesOfTheirOwn(t *testing.T) {
	one, hash, err := drawn("Skerrow font 1-1")
	require.NoError(t, err)
	again, same, err := drawn("Skerrow font 1-1")
	require.NoError(t, err)
	assert.Equal(t, one, again)
	assert.Equal(t, hash, same)
	_, other, err := drawn("Skerrow font 1-2")
	require.NoError(t, err)
	assert.NotEqual(t, hash, other)
	kind, body, err := form("font.ttf", one, "path", "fonts/font.ttf")
	require.NoError(t, err)
	assert.Contains(t, kind, "multipart/form-data")
	assert.Greater(t, body.Len(), len(one))
}
