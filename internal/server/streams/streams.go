// Package streams tells open consoles what has changed, by server-sent events.
package streams

import (
	"context"
	"fmt"
	"log/slog"
	"maps"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/labstack/echo/v5"

	"sparecrate/internal/app"
	"sparecrate/internal/reports"
	"sparecrate/internal/rooms"
	"sparecrate/internal/server/edge"
	"sparecrate/internal/store"
	"sparecrate/internal/store/scope"
)

const (
	// A person may have so many streams open at one process, with so many topics in all.
	maxStreams = 20
	maxWatched = 80
	// pulse is how often what is watched is looked at; a topic that many watch is
	// looked at once. The database is asked, so that work of other processes shows.
	pulse        = 300 * time.Millisecond
	lookPatience = 5 * time.Second
	// beatsToAsk is how many looks there are from one question whether people are still
	// let in to the next.
	beatsToAsk = 3
	// Streams say something now and then, so that proxies keep them open, and end
	// after a while: the browser comes back and is asked who it is.
	stillHere  = 20 * time.Second
	streamLife = 15 * time.Minute
)

// stoppingKey finds, in a request's context, the context that ends when the
// service is told to stop, which streams would hold up.
type stoppingKey struct{}

// WithStop returns a context for requests whose streams end when stopping does.
func WithStop(ctx, stopping context.Context) context.Context { //nolint:revive // both are contexts
	return context.WithValue(ctx, stoppingKey{}, stopping)
}

// watcher tells streams when what they watch has changed. One loop of a process looks
// at everything that is watched, as long as there is anything.
type watcher struct {
	rooms *rooms.Rooms
	log   *slog.Logger

	mu      sync.Mutex
	streams map[*stream]bool
	looking bool
}

// stream is what is still to be said to one reader: each topic once.
type stream struct {
	person *store.Person
	topics []reports.Topic
	stood  map[reports.Topic]string // how they stood when they were last looked at; the watcher's
	mu     sync.Mutex
	queue  []reports.Topic
	more   chan struct{} // something is in the queue
	over   chan struct{} // closed when its person is no longer let in
}

// watched is what people who see the same watch, and how it stands.
type watched struct {
	ctx    context.Context //nolint:containedctx // that says what they see
	topics map[reports.Topic]bool
	stand  map[reports.Topic]string
}

func (s *stream) say(topic reports.Topic) {
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
		out.WriteString("event: changed\ndata: " + string(topic) + "\n\n")
	}
	s.queue = nil
	return out.String()
}

// watch opens a stream of topics, which says each of them at once and whenever it has
// changed, until end is called. It refuses one stream or topic too many of a person.
func (w *watcher) watch(ctx context.Context, p *store.Person, topics []reports.Topic) (s *stream, end func(), err error) {
	stood, err := w.rooms.Reports.Stand(ctx, topics)
	if err != nil {
		return nil, nil, err
	}
	s = &stream{person: p, topics: topics, stood: stood, more: make(chan struct{}, 1), over: make(chan struct{})}
	for _, topic := range topics {
		s.say(topic)
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	streams, watched := 1, len(topics)
	for other := range w.streams {
		if other.person.ID == p.ID {
			streams++
			watched += len(other.topics)
		}
	}
	if streams > maxStreams || watched > maxWatched {
		return nil, nil, &app.Error{Kind: app.TooMany, Code: "too-many-streams", Wait: stillHere,
			Message: fmt.Sprintf("You have %d streams open already, and %d topics in them at most. Close a window of the console and try again.", maxStreams, maxWatched)}
	}
	w.streams[s] = true
	if !w.looking {
		w.looking = true
		go w.loop()
	}
	return s, func() {
		w.mu.Lock()
		defer w.mu.Unlock()
		delete(w.streams, s)
	}, nil
}

// loop looks at what is watched until nobody watches anything. Errors pass: the next
// look may find what it looks for.
func (w *watcher) loop() {
	tick := time.NewTicker(pulse)
	defer tick.Stop()
	for beat := 0; ; beat++ {
		<-tick.C
		ctx, cancel := context.WithTimeout(context.Background(), lookPatience)
		going := w.look(ctx, beat%beatsToAsk == 0)
		cancel()
		if !going {
			return
		}
	}
}

// look tells the streams whose topics have changed, and ends those of people who are no
// longer let in, where it is to ask that too. It returns false when nobody watches.
func (w *watcher) look(ctx context.Context, ask bool) bool {
	w.mu.Lock()
	// What is watched is looked at once for all who see the same.
	looks := map[string]*watched{}
	var people []*store.Person
	for s := range w.streams {
		people = append(people, s.person)
		sees := app.AsSeenBy(ctx, s.person)
		key := scope.Of(sees).Key()
		if looks[key] == nil {
			looks[key] = &watched{ctx: sees, topics: map[reports.Topic]bool{}}
		}
		for _, t := range s.topics {
			looks[key].topics[t] = true
		}
	}
	if len(people) == 0 {
		w.looking = false
		w.mu.Unlock()
		return false
	}
	w.mu.Unlock()

	var err error
	for _, one := range looks {
		if one.stand, err = w.rooms.Reports.Stand(one.ctx, slices.Collect(maps.Keys(one.topics))); err != nil {
			break
		}
	}
	var still map[*store.Person]bool
	if err == nil && ask {
		still, err = w.rooms.Reports.StillIn(ctx, people)
	}
	if err != nil {
		w.log.Debug("what is watched cannot be looked at", "error", err)
		return true
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	for s := range w.streams {
		now := looks[scope.Of(app.AsSeenBy(ctx, s.person)).Key()]
		for _, t := range s.topics {
			if now == nil {
				break // it came since
			}
			if stands, looked := now.stand[t]; looked && stands != s.stood[t] {
				s.stood[t] = stands
				s.say(t)
			}
		}
		if in, asked := still[s.person]; asked && !in {
			close(s.over)
			delete(w.streams, s)
		}
	}
	return true
}

// Events answers with a stream of the topics that have changed.
func Events(c *rooms.Rooms, log *slog.Logger) echo.HandlerFunc {
	w := &watcher{rooms: c, log: log, streams: map[*stream]bool{}}
	return func(e *echo.Context) error {
		r := e.Request()
		topics, err := c.Reports.Watchable(r.Context(), edge.Who(r.Context()), r.URL.Query()["topic"])
		if err != nil {
			return err
		}
		s, end, err := w.watch(r.Context(), edge.Who(r.Context()), topics)
		if err != nil {
			return err
		}
		defer end()
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
		case <-s.over:
			return nil
		case <-stopping:
			return nil
		case <-ctx.Done():
			return nil
		}
	}
}
