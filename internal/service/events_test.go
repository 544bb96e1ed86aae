package service_test

import (
	"bufio"
	"context"
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/service"
	"sparecrate/internal/service/servicetest"
)

// TestWhatIsWatchedIsToldOfEverywhere watches a import at one process while it is
// filled at another, over the same records.
func TestWhatIsWatchedIsToldOfEverywhere(t *testing.T) {
	var options service.Options
	s := servicetest.Start(t, nil, func(o *service.Options) { options = *o })
	other, stop := context.WithCancel(context.Background())
	ready, done := make(chan string, 1), make(chan error, 1)
	options.Prepare, options.Ready = nil, func(address string) { ready <- address }
	go func() { done <- service.Run(other, options) }()
	second := *s
	select {
	case second.Address = <-ready:
	case err := <-done:
		t.Fatalf("the second process did not start: %v", err)
	}
	here, there := s.Client(t, api.RoleEditor), second.Client(t, api.RoleViewer)
	opened, err := here.StartImportWithResponse(t.Context(), api.NewImport{})
	require.NoError(t, err)
	topic := fmt.Sprintf("import/%d", opened.JSON201.Id)
	r, err := there.ClientInterface.(*api.Client).WatchEvents(t.Context(), &api.WatchEventsParams{Topic: []string{topic, "activity", topic}}) //nolint:errcheck // what it is
	require.NoError(t, err)
	defer func() { _ = r.Body.Close() }()
	require.Equal(t, http.StatusOK, r.StatusCode)
	assert.Equal(t, "text/event-stream", r.Header.Get("Content-Type"))
	said := make(chan string, 100)
	go func() {
		defer close(said)
		for lines := bufio.NewScanner(r.Body); lines.Scan(); {
			if topic, is := strings.CutPrefix(lines.Text(), "data: "); is {
				said <- topic
			}
		}
	}()
	assert.ElementsMatch(t, []string{topic, "activity"}, []string{<-said, <-said}, "each once at the beginning")
	kind, body := upload(t, "x", drawn(t, foundry.Signage()[0], font.TTF), "path", "light.ttf")
	added, err := here.AddImportItemWithBodyWithResponse(t.Context(), opened.JSON201.Id, kind, body)
	require.NoError(t, err)
	require.NotNil(t, added.JSON200, "%s", added.Body)
	assert.Equal(t, topic, <-said)
	changed, err := here.ChangeImportItemsWithResponse(t.Context(), opened.JSON201.Id, api.ImportChange{Origin: new(api.OriginBought)})
	require.NoError(t, err)
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	assert.Equal(t, topic, <-said, "where fonts came from is part of it")
	accepted, err := here.AcceptImportWithResponse(t.Context(), opened.JSON201.Id)
	require.NoError(t, err)
	require.NotNil(t, accepted.JSON202, "%s", accepted.Body)
	for seen := map[string]bool{}; !seen[topic] || !seen["activity"]; {
		seen[<-said] = true
	}
	// A process that stops does not wait for who watches.
	stop()
	for range said { //nolint:revive // until the stream ends
	}
	require.NoError(t, <-done)
}

func TestWhatCannotBeWatched(t *testing.T) {
	s := servicetest.Start(t, nil)
	watch := func(role api.Role, topics ...string) (int, string) {
		r, err := s.Client(t, role).WatchEventsWithResponse(t.Context(), &api.WatchEventsParams{Topic: topics})
		require.NoError(t, err)
		require.NotNil(t, r.ApplicationproblemJSONDefault, "%s", r.Body)
		return r.StatusCode(), r.ApplicationproblemJSONDefault.Detail
	}
	for _, test := range []struct {
		role   api.Role
		topics []string
		status int
		says   string
	}{
		{"", []string{"jobs"}, http.StatusUnauthorized, "Sign in first."},
		{api.RoleViewer, nil, http.StatusUnprocessableEntity, "The parameter topic is missing"},
		{api.RoleViewer, make([]string, 21), http.StatusUnprocessableEntity, "more than 20 entries"},
		{api.RoleViewer, []string{"jobs", "secrets"}, http.StatusUnprocessableEntity, `"secrets" cannot be watched`},
		{api.RoleViewer, []string{"import/x"}, http.StatusUnprocessableEntity, "cannot be watched"},
		{api.RoleViewer, []string{"import/77"}, http.StatusNotFound, "There is no such import"},
	} {
		status, says := watch(test.role, test.topics...)
		assert.Equal(t, test.status, status, "%v: %s", test.topics, says)
		assert.Contains(t, says, test.says)
	}
}

// TestAnOpenPageIsToldWhatOthersDo keeps a import and the activities open in two
// tabs while somebody else works.
func TestAnOpenPageIsToldWhatOthersDo(t *testing.T) {
	s := open(t)
	opened, err := s.admin.StartImportWithResponse(t.Context(), api.NewImport{})
	require.NoError(t, err)
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleViewer)
	browsertest.Do(t, ctx, chromedp.Navigate(fmt.Sprintf("%s/imports/%d", s.Address, opened.JSON201.Id)), browsertest.Visible("main h1"))
	before := browsertest.Eval[float64](t, ctx, `performance.getEntriesByType("resource").length`)
	s.put(opened.JSON201.Id, "signs/light.ttf", drawn(t, foundry.Signage()[0], font.TTF))
	browsertest.Do(t, ctx, says("Skerrow Sans"))
	s.accept(opened.JSON201.Id)
	browsertest.Do(t, ctx, says("Finished"))
	assert.Less(t, browsertest.Eval[float64](t, ctx, `performance.getEntriesByType("resource").length`), before+40, "it is told, and does not keep asking")
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/activity"), browsertest.Visible("main h1"))
	_, err = s.admin.AddClientWithResponse(t.Context(), api.AddClientJSONRequestBody{Name: "Harbour Line"})
	require.NoError(t, err)
	browsertest.Do(t, ctx, says("Harbour Line"))
}
