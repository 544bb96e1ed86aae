package server

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/labstack/echo/v5"

	"sparecrate/internal/catalog"
	"sparecrate/internal/store"
)

const (
	eventsPath = "/events"
	maxTopics  = 20
	// pulse is how often what is watched is looked at; a topic that many watch is
	// looked at once. The database is asked, so that work of other processes shows.
	pulse = 300 * time.Millisecond
	// Streams say something now and then, so that proxies keep them open, and end
	// after a while: the browser comes back and is asked who it is.
	stillHere  = 20 * time.Second
	streamLife = 15 * time.Minute
)

// stoppingKey finds, in a request's context, the context that ends when the
// service is told to stop, which streams would hold up.
type stoppingKey struct{}

// watcher tells streams when what they watch has changed.
type watcher struct {
	look   func(ctx context.Context, p *store.Person, topic string) (string, error)
	mu     sync.Mutex
	topics map[string]*watched
}

// watched is a topic that somebody watches.
type watched struct {
	stood   string // how it stood when it was last looked at
	streams map[*stream]bool
	end     context.CancelFunc
}

// stream is what is still to be said to one reader: each topic once.
type stream struct {
	mu    sync.Mutex
	queue []string
	more  chan struct{} // something is in the queue
}

func (s *stream) say(topic string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if !slices.Contains(s.queue, topic) {
		s.queue = append(s.queue, topic)
	}
	select {
	case s.more <- struct{}{}:
	default:
	}
}

// said takes everything out of the queue, as events.
func (s *stream) said() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	var out strings.Builder
	for _, topic := range s.queue {
		out.WriteString("event: changed\ndata: " + topic + "\n\n")
	}
	s.queue = nil
	return out.String()
}

// watch sends the topic to a stream now and whenever it has changed, until the
// function given back is called. It refuses what the person may not watch.
func (w *watcher) watch(ctx context.Context, p *store.Person, topic string, to *stream) (func(), error) {
	stood, err := w.look(ctx, p, topic)
	if err != nil {
		return nil, err
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	t := w.topics[topic]
	if t == nil {
		looking, end := context.WithCancel(context.WithoutCancel(ctx))
		t = &watched{stood: stood, streams: map[*stream]bool{}, end: end}
		w.topics[topic] = t
		go w.keep(looking, p, topic, t)
	}
	t.streams[to] = true
	to.say(topic)
	return func() {
		w.mu.Lock()
		defer w.mu.Unlock()
		if delete(t.streams, to); len(t.streams) == 0 && w.topics[topic] == t {
			t.end()
			delete(w.topics, topic)
		}
	}, nil
}

// keep looks at a topic until nobody watches it. Errors pass: the next look may
// find what it looks for, and a thing that is gone has changed.
func (w *watcher) keep(ctx context.Context, p *store.Person, topic string, t *watched) {
	tick := time.NewTicker(pulse)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
		now, err := w.look(ctx, p, topic)
		if err != nil {
			now = err.Error()
		}
		w.mu.Lock()
		if now != t.stood {
			t.stood = now
			for s := range t.streams {
				s.say(topic)
			}
		}
		w.mu.Unlock()
	}
}

// events answers with a stream of the topics that have changed.
func events(c *catalog.Catalog) echo.HandlerFunc {
	w := &watcher{look: c.Watch, topics: map[string]*watched{}}
	return func(e *echo.Context) error {
		r := e.Request()
		topics := r.URL.Query()["topic"]
		if len(topics) == 0 || len(topics) > maxTopics {
			return &catalog.Error{Kind: catalog.Invalid, Code: "topics", Field: "topic", Message: fmt.Sprintf("Say what to watch, %d topics at most.", maxTopics)}
		}
		s := &stream{more: make(chan struct{}, 1)}
		for _, topic := range topics {
			end, err := w.watch(r.Context(), who(r.Context()), topic, s)
			if err != nil {
				return err
			}
			defer end()
		}
		h := e.Response().Header()
		h.Set(echo.HeaderContentType, "text/event-stream")
		h.Set(echo.HeaderCacheControl, "no-store")
		h.Set("X-Accel-Buffering", "no")
		e.Response().WriteHeader(http.StatusOK)
		return flow(r.Context(), e.Response(), s)
	}
}

// flow writes a stream until its time is over, its reader gone or the service stops.
func flow(ctx context.Context, w http.ResponseWriter, s *stream) error {
	var stopping <-chan struct{}
	if end, ok := ctx.Value(stoppingKey{}).(context.Context); ok {
		stopping = end.Done()
	}
	still, over := time.NewTicker(stillHere), time.NewTimer(streamLife)
	defer still.Stop()
	defer over.Stop()
	out := http.NewResponseController(w)
	line := "retry: 2000\n\n"
	for {
		if _, err := w.Write([]byte(line)); err != nil {
			return nil //nolint:nilerr // its reader is gone
		}
		if err := out.Flush(); err != nil {
			return err
		}
		select {
		case <-s.more:
			line = s.said()
		case <-still.C:
			line = ": still here\n\n"
		case <-over.C:
			return nil
		case <-stopping:
			return nil
		case <-ctx.Done():
			return nil
		}
	}
}
