package service_test

import (
	"io"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/bucket/buckettest"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/service"
	"sparecrate/internal/service/servicetest"
)

// TestFilesOnS3 runs a service whose files lie on a server that speaks S3: fonts come in, a pack
// goes out. While the server is away the service says which part does not answer, and what needs
// no file goes on; afterwards it comes back by itself.
func TestFilesOnS3(t *testing.T) {
	if buckettest.Program() == "" {
		t.Skip("no server is built; run make s3")
	}
	servicetest.Alone(t)
	g := buckettest.Start(t)
	s := &studio{servicetest.Start(t, nil, func(o *service.Options) { o.Bucket = g.URL() }), t, nil}
	s.admin = s.Client(t, "admin")
	ctx := t.Context()
	b := s.furnish("Amberly", foundry.Signage()[0])
	pack := must(s.admin.GetPackContentWithResponse(ctx, b.of["packs"]))(t)
	require.Equal(t, http.StatusOK, pack.StatusCode(), "%s", pack.Body)
	assert.Equal(t, "PK", string(pack.Body[:2]))
	keys, err := g.Keys(ctx)
	require.NoError(t, err)
	assert.Greater(t, len(keys), 3, "font, converted fonts, document, pack")
	ready := func() (int, string) {
		r := request(t, http.DefaultClient, "GET", s.Address+"/readyz", "")
		said, err := io.ReadAll(r.Body)
		require.NoError(t, err)
		return r.StatusCode, string(said)
	}
	status, said := ready()
	assert.Equal(t, http.StatusOK, status, said)

	g.Kill()
	status, said = ready()
	assert.Equal(t, http.StatusServiceUnavailable, status)
	assert.Equal(t, "files: the files cannot be written: the bucket fonts: it does not answer\n", said)
	assert.Equal(t, http.StatusOK, must(s.admin.GetFamilyWithResponse(ctx, b.of["families"]))(t).StatusCode(), "what needs no file goes on")
	start := time.Now()
	away := must(s.admin.GetPackContentWithResponse(ctx, b.of["packs"]))(t)
	problemOf(t, away.HTTPResponse, away.ApplicationproblemJSONDefault, http.StatusServiceUnavailable, "unavailable")
	assert.Less(t, time.Since(start), 20*time.Second)
	g.Run(t)
	require.Eventually(t, func() bool { status, _ := ready(); return status == http.StatusOK }, 20*time.Second, 100*time.Millisecond)
	again := must(s.admin.GetPackContentWithResponse(ctx, b.of["packs"]))(t)
	assert.Equal(t, pack.Body, again.Body)
}
