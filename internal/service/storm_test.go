package service_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"math"
	"math/rand/v2"
	"mime/multipart"
	"net/http"
	"net/url"
	"os"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/service/servicetest"
)

// stormSize is how many requests TestStorm makes; SPARECRATE_STORM sets another number.
const stormSize = 2000

// TestStorm makes random requests, valid and not, of every call of the contract as every
// role. Nothing ends in an error of the service, and nothing is left behind in memory,
// files or goroutines.
func TestStorm(t *testing.T) {
	n := stormSize
	if more, err := strconv.Atoi(os.Getenv("SPARECRATE_STORM")); err == nil {
		n = more
	}
	servicetest.Alone(t) // it counts what the process has open
	s := open(t)
	family := s.family(foundry.Signage()[1])
	s.family(foundry.Poster())
	s.document(s.license(1, nil, family).Id)
	s.site("Timetable", 1, family)
	calls := callsOf(t)
	statuses := map[int]int{}
	var mu sync.Mutex
	storm := func(requests int, seed uint64) {
		var all sync.WaitGroup
		const workers = 4
		for w := range workers {
			all.Go(func() {
				g := &guesser{rng: rand.New(rand.NewPCG(seed, uint64(w))), font: drawn(t, foundry.Display(), font.WOFF)} //nolint:gosec // not for secrets
				for range requests / workers {
					c := calls[g.rng.IntN(len(calls))]
					role := []api.Role{"", api.RoleViewer, api.RoleEditor, api.RoleAdmin}[g.rng.IntN(4)]
					r := g.request(t, s.Address, c)
					if role != "" {
						r.Header.Set("Authorization", "Bearer "+s.As(role).Token)
					}
					answer, err := http.DefaultClient.Do(r)
					if err != nil {
						t.Errorf("%s %s: %v", r.Method, r.URL, err)
						continue
					}
					body, _ := io.ReadAll(answer.Body)
					_ = answer.Body.Close()
					mu.Lock()
					statuses[answer.StatusCode]++
					mu.Unlock()
					if answer.StatusCode >= 500 {
						t.Errorf("%s %s as %q: %d %s\n%s", r.Method, r.URL.RequestURI(), role, answer.StatusCode, body, g.sent)
					}
					if answer.StatusCode >= 400 {
						var p api.Problem
						assert.NoError(t, json.Unmarshal(body, &p), "%s %s: %s", r.Method, r.URL.RequestURI(), body)
						assert.NotEmpty(t, p.Detail)
					}
				}
			})
		}
		all.Wait()
	}
	storm(n/4, 1)
	http.DefaultClient.CloseIdleConnections()
	files, routines := openFiles(t), runtime.NumGoroutine()
	storm(n, 2)
	http.DefaultClient.CloseIdleConnections()
	require.Eventually(t, func() bool { return runtime.NumGoroutine() <= routines+20 && openFiles(t) <= files+10 }, timeToSettle, settleEvery,
		"goroutines or files are left: %d and %d before", routines, files)
	assert.NotContains(t, s.Log.String(), "panic")
	t.Log(statuses)
}

const (
	timeToSettle = time.Minute
	settleEvery  = 200 * time.Millisecond
)

func openFiles(t *testing.T) int {
	t.Helper()
	found, err := os.ReadDir("/proc/self/fd")
	require.NoError(t, err)
	return len(found)
}

// stormCall is a call of the contract.
type stormCall struct {
	method, path string
	op           *openapi3.Operation
	parameters   openapi3.Parameters
}

func callsOf(t *testing.T) []stormCall {
	t.Helper()
	doc, err := openapi3.NewLoader().LoadFromData(api.Contract)
	require.NoError(t, err)
	var out []stormCall
	paths := doc.Paths.Map()
	for _, path := range slices.Sorted(maps.Keys(paths)) {
		for method, op := range paths[path].Operations() {
			// Streams do not end, and these would end the accounts that the storm acts as.
			if slices.Contains([]string{"watchEvents", "changePerson", "givePassword", "revokeToken"}, op.OperationID) {
				continue
			}
			out = append(out, stormCall{method, path, op, slices.Concat(paths[path].Parameters, op.Parameters)})
		}
	}
	return out
}

// guesser makes up requests.
type guesser struct {
	rng  *rand.Rand
	font []byte
	sent string
}

func (g *guesser) chance(of int) bool { return g.rng.IntN(of) == 0 }

func (g *guesser) text() string {
	return []string{
		"Skerrow Sans", "", "1", "\u0000", "\x1b[31m", "</style><script>alert(1)</script>", `"; } body{} "`, strings.Repeat("x", 300), strings.Repeat("字", 5000), "\u202eevil", "' OR 1=1 --",
		"../../etc/passwd", "a@b.example", "https://fonts.example/x.css", "NaN", "-1", "1e999", "{{7*7}}", "web", "400", "%00", "\U0001F600", "2026-11", "bundler", "true",
	}[g.rng.IntN(25)]
}

// value makes up a value of a schema, or one that does not fit.
func (g *guesser) value(s *openapi3.Schema, depth int) any {
	if s == nil || depth > 5 || g.chance(25) {
		return []any{nil, true, g.text(), -7, 1e308, []any{}, map[string]any{}, []any{g.text()}, map[string]any{"x": 1}}[g.rng.IntN(9)]
	}
	switch {
	case len(s.Enum) > 0:
		return s.Enum[g.rng.IntN(len(s.Enum))]
	case s.Type.Is("string"):
		if s.Format == "date" && !g.chance(5) {
			return fmt.Sprintf("20%02d-0%d-1%d", g.rng.IntN(99), 1+g.rng.IntN(9), g.rng.IntN(9))
		}
		return g.text()
	case s.Type.Is("integer"):
		return []any{0, 1, 2, 3, 400, -1, 1 << 40, math.MaxInt32}[g.rng.IntN(8)]
	case s.Type.Is("number"):
		return []any{0, 1.5, 48, -1, 1e300}[g.rng.IntN(5)]
	case s.Type.Is("boolean"):
		return g.chance(2)
	case s.Type.Is("array"):
		out := []any{}
		for range g.rng.IntN(4) {
			out = append(out, g.value(s.Items.Value, depth+1))
		}
		return out
	}
	out := map[string]any{}
	for name, p := range s.Properties {
		if slices.Contains(s.Required, name) && !g.chance(30) || g.chance(3) {
			out[name] = g.value(p.Value, depth+1)
		}
	}
	if g.chance(30) {
		out["unknown"] = g.text()
	}
	return out
}

func (g *guesser) request(t *testing.T, address string, c stormCall) *http.Request {
	path, query := c.path, url.Values{}
	for _, p := range c.parameters {
		switch p.Value.In {
		case "path":
			value := fmt.Sprint([]any{1, 1, 1, 2, 3, 99, 0, -1, "x", "self-hosted", strings.Repeat("ab", 32), "9223372036854775808"}[g.rng.IntN(12)])
			path = strings.ReplaceAll(path, "{"+p.Value.Name+"}", url.PathEscape(value))
		case "query":
			if p.Value.Required || g.chance(3) {
				v := g.value(p.Value.Schema.Value, 4)
				if list, is := v.([]any); is {
					for _, one := range list {
						query.Add(p.Value.Name, fmt.Sprint(one))
					}
				} else {
					query.Set(p.Value.Name, fmt.Sprint(v))
				}
			}
		}
	}
	var body io.Reader
	kind := ""
	g.sent = ""
	if c.op.RequestBody != nil {
		content := c.op.RequestBody.Value.Content
		if content.Get("multipart/form-data") != nil {
			var b bytes.Buffer
			m := multipart.NewWriter(&b)
			_ = m.WriteField("client", g.text())
			_ = m.WriteField("path", g.text())
			w, _ := m.CreateFormFile("file", g.text())
			data := slices.Clone(g.font)
			if g.chance(2) && len(data) > 0 {
				data[g.rng.IntN(len(data))] ^= byte(1 + g.rng.IntN(255))
			}
			_, _ = w.Write(data[:g.rng.IntN(len(data)+1)])
			_ = m.Close()
			body, kind = &b, m.FormDataContentType()
		} else if media := content.Get("application/json"); media != nil {
			b, err := json.Marshal(g.value(media.Schema.Value, 0))
			require.NoError(t, err)
			if g.chance(40) {
				b = b[:g.rng.IntN(len(b)+1)]
			}
			g.sent = string(b[:min(len(b), 2000)])
			body, kind = bytes.NewReader(b), "application/json"
		}
		if g.chance(60) {
			kind = "text/xml"
		}
	}
	r, err := http.NewRequestWithContext(t.Context(), c.method, address+"/api/v1"+path+"?"+query.Encode(), body)
	require.NoError(t, err)
	if kind != "" {
		r.Header.Set("Content-Type", kind)
	}
	if g.chance(2) {
		r.Header.Set("If-Match", []string{`"1"`, `"2"`, `x`, `"99"`}[g.rng.IntN(4)])
	}
	return r
}
