package service_test

import (
	"context"
	"io"
	"log/slog"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/service"
)

// TestStopFinishesWhatItHolds asks the service to stop while a request is half
// sent: the request is answered, later ones are not taken.
func TestStopFinishesWhatItHolds(t *testing.T) {
	ctx, stop := context.WithCancel(context.Background())
	ready, done := make(chan string, 1), make(chan error, 1)
	go func() {
		done <- service.Run(ctx, service.Options{Listen: "127.0.0.1:0", Data: t.TempDir(), Database: mariadbtest.New(t), Log: slog.New(slog.DiscardHandler), Ready: func(a string) { ready <- a }})
	}()
	var address string
	select {
	case address = <-ready:
	case err := <-done:
		t.Fatal(err)
	}
	body, write := io.Pipe()
	r, err := http.NewRequestWithContext(context.Background(), http.MethodPost, address+"/api/v1/session", body)
	require.NoError(t, err)
	r.Header.Set("Content-Type", "application/json")
	status := make(chan int, 1)
	go func() {
		answer, err := http.DefaultClient.Do(r)
		if assert.NoError(t, err) {
			status <- answer.StatusCode
			_ = answer.Body.Close()
		}
	}()
	_, err = write.Write([]byte(`{"email":"nobody@studio.example",`))
	require.NoError(t, err)
	require.Eventually(t, func() bool { // the service has the request once it answers others beside it
		answer, err := http.Get(address + "/readyz") //nolint:noctx // a test's own service
		if err != nil {
			return false
		}
		_ = answer.Body.Close()
		return answer.StatusCode == http.StatusOK
	}, time.Minute, 10*time.Millisecond)
	http.DefaultClient.CloseIdleConnections()
	stop()
	require.Eventually(t, func() bool {
		answer, err := http.Get(address + "/healthz") //nolint:noctx // a test's own service
		if err == nil {
			_ = answer.Body.Close()
		}
		return err != nil
	}, time.Minute, 10*time.Millisecond, "nothing new is taken")
	_, err = write.Write([]byte(`"password":"guess"}`))
	require.NoError(t, err)
	require.NoError(t, write.Close())
	assert.Equal(t, http.StatusUnauthorized, <-status, "what was begun is answered")
	require.NoError(t, <-done)
}
