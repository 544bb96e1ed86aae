package edge

import (
	"bytes"
	"context"
	"net/http"
	"sync"
	"time"

	"github.com/hashicorp/golang-lru/v2/simplelru"
	"github.com/labstack/echo/v5"

	"sparecrate/internal/reports"
	"sparecrate/internal/rooms"
	"sparecrate/internal/store/scope"
)

// rememberedCalls are the calls whose answer is the same for everybody who may make
// them, and which take many statements to work out.
var rememberedCalls = map[string]bool{"getFamily": true, "listFamilies": true, "listClients": true, "listSites": true, "getSite": true}

// laterCalls are those of them where others' changes may come a little later when working out the
// answer takes long, as what needs attention does: the answer is of many sites.
var laterCalls = map[string]bool{"listSites": true}

const (
	// atOnce is how long an answer may take that is worked out for each change, rest how many times
	// as long as it took one holds for others' changes.
	atOnce = 100 * time.Millisecond
	rest   = 9
	// mostRemembered bounds all answers that are remembered, maxRemembered one; bytes.
	mostRemembered = 48 << 20
	maxRemembered  = 4 << 20
)

// Memory keeps answers for as long as nothing changes. Whether anything did is asked of
// the database for each request, so that changes of other processes count too.
type Memory struct {
	rooms   *rooms.Rooms
	metrics *Metrics
	mu      sync.Mutex
	working map[string]chan struct{} // answers that are being worked out, closed when they are
	answers *simplelru.LRU[string, *answer]
	bytes   int
}

type answer struct {
	stamp  string
	upTo   int64 // the last activity before it
	at     time.Time
	took   time.Duration
	header http.Header
	body   []byte
}

// NewMemory returns a memory that holds nothing yet.
func NewMemory(c *rooms.Rooms, metrics *Metrics) *Memory {
	m := &Memory{rooms: c, metrics: metrics, working: map[string]chan struct{}{}}
	m.answers, _ = simplelru.NewLRU(1<<20, func(_ string, a *answer) { m.bytes -= len(a.body) }) // the bytes bound it
	return m
}

func (m *Memory) get(key, stamp string) *answer {
	m.mu.Lock()
	defer m.mu.Unlock()
	if a, is := m.answers.Get(key); is && a.stamp == stamp {
		return a
	}
	return nil
}

func (m *Memory) put(key string, a *answer) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.answers.Remove(key)
	m.answers.Add(key, a)
	for m.bytes += len(a.body); m.bytes > mostRemembered; {
		m.answers.RemoveOldest()
	}
}

// Remembered answers what was answered before and did not change since.
func (m *Memory) Remembered(k *Contract) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			o := k.of(c)
			if o == nil || !rememberedCalls[o.route.Operation.OperationID] {
				return next(c)
			}
			// Read before the answer is worked out: what changes meanwhile changes the stamp.
			stamp, err := m.rooms.Reports.Stamp(scope.Everything(c.Request().Context()))
			if err != nil {
				return err
			}
			key := scope.Of(c.Request().Context()).Key() + c.Request().URL.RequestURI()
			if a := m.get(key, stamp); a != nil {
				m.metrics.remembered.WithLabelValues("hit").Inc()
				return a.send(c)
			}
			if laterCalls[o.route.Operation.OperationID] {
				if a, err := m.older(c.Request().Context(), key, stamp); err != nil {
					return err
				} else if a != nil {
					m.metrics.remembered.WithLabelValues("hit").Inc()
					return a.send(c)
				}
			}
			m.metrics.remembered.WithLabelValues("miss").Inc()
			// Of many who ask for the same at once one works it out.
			done, first := m.begin(stamp + " " + key)
			if first {
				defer m.end(stamp + " " + key)
				return m.work(c, next, key, stamp)
			}
			select {
			case <-done:
			case <-c.Request().Context().Done():
				return c.Request().Context().Err()
			}
			if a := m.get(key, stamp); a != nil {
				return a.send(c)
			}
			return next(c) // the first failed, or its answer is too long to keep
		}
	}
}

// older returns an answer from before what others changed lately, where working it out takes long;
// nil for none.
func (m *Memory) older(ctx context.Context, key, stamp string) (*answer, error) {
	if scope.Of(ctx) != nil { // whoever is limited to some clients sees nothing that has been taken from these
		return nil, nil //nolint:nilnil // there is none
	}
	m.mu.Lock()
	a, is := m.answers.Get(key)
	m.mu.Unlock()
	if !is || a.took <= atOnce || time.Since(a.at) > rest*a.took || a.stamp[:len(time.DateOnly)] != stamp[:len(time.DateOnly)] {
		return nil, nil //nolint:nilnil // there is none
	}
	if own, err := reports.DidSince(ctx, m.rooms.Reports, Who(ctx), a.upTo); err != nil || own {
		return nil, err
	}
	return a, nil
}

// begin says who works out an answer: the first who asks; others wait for the channel.
func (m *Memory) begin(of string) (done <-chan struct{}, first bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if c := m.working[of]; c != nil {
		return c, false
	}
	c := make(chan struct{})
	m.working[of] = c
	return c, true
}

func (m *Memory) end(of string) {
	m.mu.Lock()
	defer m.mu.Unlock()
	close(m.working[of])
	delete(m.working, of)
}

func (a *answer) send(c *echo.Context) error {
	for name, values := range a.header {
		c.Response().Header()[name] = values
	}
	return c.Blob(http.StatusOK, a.header.Get(echo.HeaderContentType), a.body)
}

// work works out an answer, sends it and keeps it.
func (m *Memory) work(c *echo.Context, next echo.HandlerFunc, key, stamp string) error {
	start := time.Now()
	upTo, err := reports.LastActivity(scope.Everything(c.Request().Context()), m.rooms.Reports)
	if err != nil {
		return err
	}
	before := c.Response()
	kept := &keeping{ResponseWriter: before, status: http.StatusOK}
	c.SetResponse(kept)
	err = next(c)
	c.SetResponse(before)
	if err == nil && kept.status == http.StatusOK && kept.body.Len() <= maxRemembered {
		header := http.Header{}
		for _, name := range []string{echo.HeaderContentType, "Etag", "ETag"} {
			if v := before.Header().Get(name); v != "" {
				header.Set(name, v)
			}
		}
		m.put(key, &answer{stamp, upTo, start, time.Since(start), header, bytes.Clone(kept.body.Bytes())})
	}
	return err
}

// keeping writes an answer and keeps it.
type keeping struct {
	http.ResponseWriter
	status int
	body   bytes.Buffer
}

func (w *keeping) WriteHeader(status int) {
	w.status = status
	w.ResponseWriter.WriteHeader(status)
}

func (w *keeping) Write(p []byte) (int, error) {
	if w.body.Len() <= maxRemembered {
		w.body.Write(p)
	}
	return w.ResponseWriter.Write(p)
}

// Unwrap lets Echo and the standard library find the writer below.
func (w *keeping) Unwrap() http.ResponseWriter { return w.ResponseWriter }
