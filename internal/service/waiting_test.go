package service_test

import (
	"bytes"
	"context"
	"io"
	"log/slog"
	"net"
	"net/http"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/service"
)

// lines is a log that several goroutines write and read.
type lines struct {
	mu  sync.Mutex
	all bytes.Buffer
}

func (l *lines) Write(b []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.all.Write(b)
}

func (l *lines) String() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.all.String()
}

// TestAStartWaitsForItsDatabase starts a service whose database does not answer: it says so to
// everybody who asks, and serves when the database comes. One whose database refuses it ends.
func TestAStartWaitsForItsDatabase(t *testing.T) {
	own := mariadbtest.New(t)
	node := mariadbtest.NewNode(t, own)
	l, err := net.Listen("tcp", "127.0.0.1:0") //nolint:noctx // closed at once
	require.NoError(t, err)
	address := l.Addr().String()
	require.NoError(t, l.Close())
	dsn := mariadbtest.Through(t, own, node)
	ctx, stop := context.WithCancel(t.Context())
	said, ended, ready := &lines{}, make(chan error, 1), make(chan string, 1)
	o := service.Options{Listen: address, Data: t.TempDir(), Database: dsn, Log: slog.New(slog.NewTextHandler(said, nil)), Ready: func(a string) { ready <- a }}
	go func() { ended <- service.Run(ctx, o) }()
	get := func(path string) (int, string) {
		answer, err := http.Get("http://" + address + path) //nolint:gosec,noctx // on this machine
		if err != nil {
			return 0, err.Error()
		}
		defer func() { _ = answer.Body.Close() }()
		return answer.StatusCode, string(must(io.ReadAll(answer.Body))(t))
	}
	require.Eventually(t, func() bool {
		status, body := get("/api/v1/session")
		return status == http.StatusServiceUnavailable && bytes.Contains([]byte(body), []byte("The service is not ready: its database does not answer. Try again in some seconds."))
	}, timeToSettle, 50*time.Millisecond)
	status, _ := get("/readyz")
	assert.Equal(t, http.StatusServiceUnavailable, status)
	status, body := get("/healthz")
	assert.Equal(t, http.StatusOK, status, body)
	assert.Contains(t, said.String(), "waiting for the database")
	select {
	case err := <-ended:
		t.Fatalf("it ended: %v", err)
	default:
	}
	node.Run()
	select {
	case <-ready:
	case <-time.After(timeToSettle):
		t.Fatalf("it does not start: %s", said)
	}
	status, body = get("/readyz")
	assert.Equal(t, http.StatusOK, status, body)
	status, _ = get("/api/v1/session")
	assert.Equal(t, http.StatusUnauthorized, status)
	assert.Contains(t, said.String(), "the database answers")
	stop()
	require.NoError(t, <-ended)

	o.Database = "nobody:wrong@tcp(" + node.Address + ")/none"
	err = service.Run(t.Context(), o)
	require.ErrorContains(t, err, "Access denied")
	o.Database = "nobody:wrong@tcp(127.0.0.1:1)/none"
	stopped, stop := context.WithTimeout(t.Context(), 300*time.Millisecond)
	defer stop()
	require.NoError(t, service.Run(stopped, o), "one that is told to end while it waits does")
}
