package service_test

import (
	"bufio"
	"bytes"
	"encoding/base64"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/reshape"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/service"
	"sparecrate/internal/service/servicetest"
)

// as makes a call as somebody and returns status, header and body.
func (s *studio) as(role api.Role, method, path, body string, header ...string) (int, http.Header, string) {
	s.t.Helper()
	if role != "" {
		header = append([]string{"Authorization", "Bearer " + s.As(role).Token}, header...)
	}
	r := request(s.t, http.DefaultClient, method, s.Address+path, body, header...)
	text, err := io.ReadAll(r.Body)
	require.NoError(s.t, err)
	return r.StatusCode, r.Header, string(text)
}

// statementsOf returns how many statements the last read of a path took.
func (s *studio) statementsOf(path string) int {
	s.t.Helper()
	line := regexp.MustCompile(`path=` + regexp.QuoteMeta(path) + ` .*statements=(\d+)`)
	var n int
	require.Eventually(s.t, func() bool { // the line is written after the answer
		all := line.FindAllStringSubmatch(s.Log.String(), -1)
		if len(all) == 0 {
			return false
		}
		var err error
		n, err = strconv.Atoi(all[len(all)-1][1])
		return err == nil
	}, time.Minute, 10*time.Millisecond)
	return n
}

// TestOneWorksOutWhatManyAskFor asks for one page many times at once after a change.
func TestOneWorksOutWhatManyAskFor(t *testing.T) {
	s := open(t)
	s.family(foundry.Signage()[0])
	require.Eventually(t, func() bool { // conversions that end change the page, too
		for _, c := range s.formats(1) {
			if c.State == api.Waiting || c.State == api.Running {
				return false
			}
		}
		return true
	}, time.Minute, 100*time.Millisecond)
	s.client("Holmvik Ferries")
	before := len(s.Log.String())
	var all sync.WaitGroup
	bodies := make([]string, 24)
	for i := range bodies {
		all.Go(func() {
			status, _, body := s.as(api.RoleViewer, "GET", "/api/v1/families/1", "")
			assert.Equal(t, http.StatusOK, status)
			bodies[i] = body
		})
	}
	all.Wait()
	for _, b := range bodies {
		assert.Equal(t, bodies[0], b)
	}
	s.statementsOf("/api/v1/families/1")
	// A remembered page takes two statements, or three where the use of a token is noted.
	worked := regexp.MustCompile(`path=/api/v1/families/1 .*statements=([4-9]|\d\d)`).FindAllString(s.Log.String()[before:], -1)
	assert.Less(t, len(worked), 4, "of 24 requests")
	assert.NotEmpty(t, worked)
}

// TestBodiesAreWhatIsTaken sends bodies of other kinds than a call takes, larger and
// slower ones.
func TestBodiesAreWhatIsTaken(t *testing.T) {
	s := open(t)
	form := "--x\r\nContent-Disposition: form-data; name=\"email\"\r\n\r\na@b.example\r\n--x--\r\n"
	for _, c := range []struct {
		role               api.Role
		method, path, body string
		kind               string
		status             int
	}{
		{"", "POST", "/session", form, "multipart/form-data; boundary=x", 415},
		{"", "POST", "/session", "<SignIn/>", "text/xml", 415},
		{"", "POST", "/session", "email=a&password=b", "application/x-www-form-urlencoded", 415},
		{"", "POST", "/session", `{"email":"a","password":"b"}`, "text/plain", 415},
		{api.RoleAdmin, "POST", "/tokens", "<NewToken><name>x</name></NewToken>", "text/xml", 415},
		{api.RoleAdmin, "POST", "/clients", form, "multipart/form-data; boundary=x", 415},
		{api.RoleAdmin, "POST", "/files", `{"file":"x"}`, "application/json", 415},
		{"", "POST", "/session", `{"email":"` + strings.Repeat("x", 2<<20) + `","password":"b"}`, "application/json", 413},
		{"", "POST", "/session", `{"email":"a","password":"b"} and more`, "application/json", 400},
		{"", "POST", "/session", `{"email":"a"}`, "application/json", 422},
		{"", "POST", "/session", `{"email":"a","password":"b","role":"admin"}`, "application/json", 422},
		{"", "POST", "/session", `{"email":"a","password":7}`, "application/json", 422},
		{"", "POST", "/session", `{"email":"a\u0000","password":"b"}`, "application/json", 422},
		{"", "POST", "/session", `null`, "application/json", 422},
	} {
		status, _, body := s.as(c.role, c.method, "/api/v1"+c.path, c.body, "Content-Type", c.kind)
		assert.Equal(t, c.status, status, "%s as %s: %s", c.path, c.kind, body)
	}

	// Without a sign-in not even a byte of an upload is read.
	left, err := os.ReadDir(os.TempDir())
	require.NoError(t, err)
	u, err := url.Parse(s.Address)
	require.NoError(t, err)
	conn, err := net.Dial("tcp", u.Host)
	require.NoError(t, err)
	defer func() { _ = conn.Close() }()
	_, err = fmt.Fprintf(conn, "POST /api/v1/session HTTP/1.1\r\nHost: x\r\nContent-Type: multipart/form-data; boundary=x\r\nContent-Length: %d\r\n\r\n", 1<<30)
	require.NoError(t, err)
	answer, err := http.ReadResponse(bufio.NewReader(conn), nil)
	require.NoError(t, err)
	_ = answer.Body.Close()
	assert.Equal(t, http.StatusRequestEntityTooLarge, answer.StatusCode, "by its stated size")
	now, err := os.ReadDir(os.TempDir())
	require.NoError(t, err)
	assert.LessOrEqual(t, len(now), len(left)+1)
}

// TestRoleAssignmentsAreNotWipedBySlips sends roleAssignments that are incomplete or misspelt.
func TestRoleAssignmentsAreNotWipedBySlips(t *testing.T) {
	s := open(t)
	family := s.family(foundry.Signage()[1])
	site := s.site("Timetable", 1, family)
	now, err := s.admin.GetSiteWithResponse(t.Context(), site)
	require.NoError(t, err)
	path := fmt.Sprintf("/api/v1/sites/%d/roles", site)
	good := fmt.Sprintf(`{"assignments":[{"role":"body","family":%d,"weight":400,"slope":"normal","fallbacks":[],"override":false}],"replacements":[]}`, family)
	status, _, body := s.as(api.RoleEditor, "PUT", path, good, "If-Match", now.JSON200.Etag)
	require.Equal(t, http.StatusOK, status, body)
	now, err = s.admin.GetSiteWithResponse(t.Context(), site)
	require.NoError(t, err)
	for _, bad := range []string{`{"roles":[]}`, `{}`, `{"assignments":null,"replacements":[]}`, `{"assignments":[]}`, `{"assignments":[],"replacements":[],"roles":[]}`, `[]`, `"x"`, ``} {
		status, _, body := s.as(api.RoleEditor, "PUT", path, bad, "If-Match", now.JSON200.Etag)
		assert.Contains(t, []int{400, 422}, status, "%s: %s", bad, body)
	}
	after, err := s.admin.GetSiteWithResponse(t.Context(), site)
	require.NoError(t, err)
	assert.Equal(t, string(now.Body), string(after.Body))
	assert.Contains(t, string(after.Body), `"role":"body"`)
}

// TestNumbersThatAreNone asks for pictures of sizes that are no numbers.
func TestNumbersThatAreNone(t *testing.T) {
	s := open(t)
	s.family(foundry.Signage()[1])
	for _, q := range []string{"size=NaN", "size=Inf", "size=-Inf", "size=1e999", "size=", "width=1.5", "dark=maybe", "text=%ff%fe", "sizes=40", "glyphs=-1"} {
		status, _, body := s.as(api.RoleViewer, "GET", "/api/v1/files/1/specimen?"+q, "")
		assert.Equal(t, http.StatusUnprocessableEntity, status, "%s: %s", q, body)
	}
	assert.NotContains(t, s.Log.String(), "panic")
}

// TestTokensEndAndDoNoMoreThanTheyMay holds tokens against their scope and their time.
func TestTokensEndAndDoNoMoreThanTheyMay(t *testing.T) {
	s := open(t)
	make := func(secret, body string) (int, string) {
		r := request(t, http.DefaultClient, "POST", s.Address+"/api/v1/tokens", body, "Authorization", "Bearer "+secret)
		var made api.AddedToken
		if r.StatusCode == http.StatusCreated {
			decode(t, r, &made)
		}
		return r.StatusCode, made.Secret
	}
	admin := s.As(api.RoleAdmin).Token
	status, write := make(admin, `{"name":"w","scope":"write","days":10}`)
	require.Equal(t, http.StatusCreated, status)
	_, read := make(admin, `{"name":"r","scope":"read"}`)
	call := func(secret, method, path, body string) int {
		return request(t, http.DefaultClient, method, s.Address+"/api/v1"+path, body, "Authorization", "Bearer "+secret).StatusCode
	}
	editor := s.person(api.RoleEditor)
	for _, c := range []struct {
		secret, method, path, body string
		status                     int
	}{
		{read, "GET", "/clients", "", 200},
		{read, "POST", "/clients", `{"name":"A"}`, 403},
		{read, "GET", "/people", "", 403},
		{write, "POST", "/clients", `{"name":"B"}`, 201},
		{write, "GET", "/people", "", 403},
		{admin, "GET", "/people", "", 200},
		{admin, "PUT", "/session/password", `{"current":"` + s.As(api.RoleAdmin).Password + `","new":"another few words do"}`, 403},
		{admin, "POST", "/tokens", `{"name":"x","scope":"admin","days":1}`, 403},
		{write, "POST", "/tokens", `{"name":"x","scope":"admin"}`, 403},
		{write, "POST", "/tokens", `{"name":"x","scope":"write","days":1}`, 403},
		{write, "POST", "/tokens", `{"name":"x","scope":"read","days":11}`, 403},
		{admin, "POST", fmt.Sprintf("/people/%d/password", editor), "", 403},
		{admin, "PATCH", fmt.Sprintf("/people/%d", editor), `{"role":"admin"}`, 403},
		{admin, "PATCH", fmt.Sprintf("/people/%d", editor), `{"role":"editor"}`, 200},
		{admin, "POST", "/people", `{"name":"Mads Birk","email":"mads@lanternjaw.example","role":"admin"}`, 403},
		{admin, "POST", "/people", `{"name":"Mads Birk","email":"mads@lanternjaw.example","role":"viewer"}`, 201},
		{read, "POST", "/tokens", `{"name":"x","scope":"read"}`, 403},
		{s.As(api.RoleEditor).Token, "POST", "/tokens", `{"name":"x","scope":"admin"}`, 403},
		{admin, "POST", "/tokens", `{"name":"x","days":366}`, 422},
	} {
		assert.Equal(t, c.status, call(c.secret, c.method, c.path, c.body), "%s %s %s", c.method, c.path, c.body)
	}
	status, child := make(write, `{"name":"child","scope":"read"}`)
	require.Equal(t, http.StatusCreated, status)
	listed, err := s.admin.ListTokensWithResponse(t.Context(), &api.ListTokensParams{Everyone: ptr(true)})
	require.NoError(t, err)
	var parent int64
	for _, token := range listed.JSON200.Items {
		assert.True(t, token.ExpiresAt.After(time.Now()))
		if token.Name == "w" {
			parent = token.Id
		}
		if token.Name == "child" {
			assert.WithinDuration(t, time.Now().AddDate(0, 0, 10), token.ExpiresAt, time.Hour, "no later than the token it was made with")
		}
	}
	assert.Equal(t, 200, call(child, "GET", "/clients", ""))
	withdrawn, err := s.admin.RevokeTokenWithResponse(t.Context(), parent)
	require.NoError(t, err)
	require.Equal(t, http.StatusNoContent, withdrawn.StatusCode())
	for _, secret := range []string{write, child} {
		assert.Equal(t, 401, call(secret, "GET", "/clients", ""), "a token ends with the one it was made with")
	}
	others, err := s.Client(t, api.RoleEditor).ListTokensWithResponse(t.Context(), &api.ListTokensParams{Everyone: ptr(true)})
	require.NoError(t, err)
	assert.Equal(t, http.StatusForbidden, others.StatusCode())
}

// person finds the number of the person of a role.
func (s *studio) person(role api.Role) int64 {
	s.t.Helper()
	people, err := s.admin.ListPeopleWithResponse(s.t.Context())
	require.NoError(s.t, err)
	i := slices.IndexFunc(people.JSON200.Items, func(p api.Person) bool { return p.Role == role })
	require.GreaterOrEqual(s.t, i, 0)
	return people.JSON200.Items[i].Id
}

// TestRecoveryEndsEverything gives somebody a new password: whatever the old one let in
// is out, at once.
func TestRecoveryEndsEverything(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	editor := s.Client(t, api.RoleEditor)
	feed, err := editor.AddFeedWithResponse(ctx)
	require.NoError(t, err)
	require.NotNil(t, feed.JSON201)
	calendar := func() int { status, _, _ := s.as("", "GET", feed.JSON201.Path, ""); return status }
	require.Equal(t, http.StatusOK, calendar())
	id := s.person(api.RoleEditor)
	stream, err := http.NewRequestWithContext(ctx, http.MethodGet, s.Address+"/api/v1/events?topic=jobs", nil)
	require.NoError(t, err)
	stream.Header.Set("Authorization", "Bearer "+s.As(api.RoleEditor).Token)
	open, err := http.DefaultClient.Do(stream)
	require.NoError(t, err)
	defer func() { _ = open.Body.Close() }()
	require.Equal(t, http.StatusOK, open.StatusCode)

	given, err := s.Session(t, api.RoleAdmin).GivePasswordWithResponse(ctx, id)
	require.NoError(t, err)
	require.NotNil(t, given.JSON200)
	status, _, _ := s.as(api.RoleEditor, "POST", "/api/v1/clients", `{"name":"A"}`)
	assert.Equal(t, http.StatusUnauthorized, status, "the token")
	assert.Equal(t, http.StatusNotFound, calendar(), "the calendar")
	_, err = io.Copy(io.Discard, open.Body) // returns when the stream ends
	require.NoError(t, err, "the stream")
	status, _, _ = s.as("", "POST", "/api/v1/session", fmt.Sprintf(`{"email":%q,"password":%q}`, s.As(api.RoleEditor).Email, given.JSON200.OneTimePassword))
	assert.Equal(t, http.StatusOK, status)
}

// TestStreamsOfAPersonAreLimited opens more streams than a person needs.
func TestStreamsOfAPersonAreLimited(t *testing.T) {
	s := open(t)
	statuses := map[int]int{}
	for range 30 {
		r, err := http.NewRequestWithContext(t.Context(), http.MethodGet, s.Address+"/api/v1/events?topic=jobs", nil)
		require.NoError(t, err)
		r.Header.Set("Authorization", "Bearer "+s.As(api.RoleViewer).Token)
		answer, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		defer func() { _ = answer.Body.Close() }()
		statuses[answer.StatusCode]++
	}
	assert.Equal(t, map[int]int{http.StatusOK: 20, http.StatusTooManyRequests: 10}, statuses)
	for _, topic := range []string{"import/01", "import/1 ", "import/+1", "import/0", "jobs/1", "Jobs"} {
		status, _, body := s.as(api.RoleEditor, "GET", "/api/v1/events?topic="+url.QueryEscape(topic), "")
		assert.Equal(t, http.StatusUnprocessableEntity, status, "%s: %s", topic, body)
	}
}

// fontBytes finds fonts in an answer, as they are or as text.
var fontBytes = regexp.MustCompile(`^(?:wOF2|wOFF|OTTO|ttcf|\x00\x01\x00\x00\x00)|(?:wOF2|wOFF|OTTO|ttcf)\x00\x01|d09GM|d09GR|T1RUT|AAEAAA`)

// TestViewersGetNoFontBytes calls everything that can be read, as a viewer, over a crate
// that holds fonts, packs, derived files and documents, and looks into what comes back.
func TestViewersGetNoFontBytes(t *testing.T) {
	s := open(t)
	family := s.family(foundry.Signage()[1])
	s.document(s.license(1, nil, family).Id)
	site := s.site("Timetable", 1, family)
	now, err := s.admin.GetSiteWithResponse(t.Context(), site)
	require.NoError(t, err)
	status, _, body := s.as(api.RoleAdmin, "PUT", fmt.Sprintf("/api/v1/sites/%d/roles", site),
		fmt.Sprintf(`{"assignments":[{"role":"body","family":%d,"weight":400,"slope":"normal","fallbacks":[],"override":false}],"replacements":[]}`, family), "If-Match", now.JSON200.Etag)
	require.Equal(t, http.StatusOK, status, body)
	built, err := s.admin.BuildPackWithResponse(t.Context(), site, nil)
	require.NoError(t, err)
	require.NotNil(t, built.JSON201, "%s", built.Body)
	made := s.reshape(1, api.WOFF2, reshape.Recipe{Subset: &reshape.Subset{Text: "abc"}})
	require.NotNil(t, made.JSON200, "%s", made.Body)
	contract, err := os.ReadFile("../../api/openapi.yaml")
	require.NoError(t, err)
	path, asked := "", 0
	var answered []string
	for line := range strings.Lines(string(contract)) {
		switch line = strings.TrimRight(line, "\n"); {
		case strings.HasPrefix(line, "  /"):
			path = strings.TrimSuffix(strings.TrimSpace(line), ":")
		case line == "    get:" && path != "/events":
			at := strings.NewReplacer("{id}", "1", "{kind}", "self-hosted", "{hash}", made.JSON200.Hash, "{allocationId}", "1", "{sheetId}", "1").Replace(path)
			for _, query := range []string{"", "?format=woff2", "?builder=self-hosted", "?inline=true", "?format=csv", "?q=order", "?use=web", "?from=1&to=1"} {
				status, _, body := s.as(api.RoleViewer, "GET", "/api/v1"+at+query, "")
				asked++
				if status == http.StatusOK {
					answered = append(answered, path)
				}
				assert.NotRegexp(t, fontBytes, body, "%s%s", at, query)
				if path == "/families/{id}/proof" && status == http.StatusOK { // documents and checksums
					for name := range inZip(t, []byte(body)) {
						assert.Contains(t, []string{".html", ".json", ".txt", ""}, filepath.Ext(name), "%s in %s", name, at)
					}
					continue
				}
				assert.False(t, strings.HasPrefix(body, "PK\x03\x04"), "%s%s is an archive", at, query)
			}
		}
	}
	assert.Greater(t, asked, 300)
	assert.Contains(t, answered, "/families/{id}")
	for _, at := range []string{"/packs/1/content", "/files/1/content", "/families/1/pack?builder=self-hosted", "/files/1/reshaped/" + made.JSON200.Hash} {
		status, _, body := s.as(api.RoleViewer, "GET", "/api/v1"+at, "")
		assert.Equal(t, http.StatusForbidden, status, "%s: %s", at, body)
	}
	// That the expression finds fonts.
	_, _, whole := s.as(api.RoleEditor, "GET", "/api/v1/files/1/content", "")
	assert.Regexp(t, fontBytes, whole)
	assert.Regexp(t, fontBytes, `{"x":"`+base64.StdEncoding.EncodeToString([]byte(whole))+`"}`)
}

// TestDamagedBytesNeverGoOut flips a byte of what is stored.
func TestDamagedBytesNeverGoOut(t *testing.T) {
	s := open(t)
	data := drawn(t, foundry.Signage()[1], font.TTF)
	added := s.add("skerrow.ttf", data)
	require.NotNil(t, added.JSON200)
	family := added.JSON200.Family.Id
	s.document(s.license(1, nil, family).Id)
	site := s.site("Timetable", 1, family)
	build := func() *api.BuildPackResponse {
		r, err := s.admin.BuildPackWithResponse(t.Context(), site, nil)
		require.NoError(t, err)
		return r
	}
	first := build()
	require.NotNil(t, first.JSON201, "%s", first.Body)
	damage := func(opens string) {
		t.Helper()
		n := 0
		require.NoError(t, filepath.WalkDir(s.Data+"/files", func(path string, e os.DirEntry, err error) error {
			if err != nil || e.IsDir() {
				return err
			}
			b, err := os.ReadFile(path) //nolint:gosec // the test's own folder
			if err == nil && bytes.HasPrefix(b, []byte(opens)) {
				b[len(b)/2] ^= 1
				n++
				err = os.WriteFile(path, b, 0o600)
			}
			return err
		}))
		require.Positive(t, n)
	}
	content := func() (int, string) {
		status, _, body := s.as(api.RoleEditor, "GET", "/api/v1/files/1/content?format=woff2", "")
		return status, body
	}
	status, woff2 := content()
	require.Equal(t, http.StatusOK, status)

	damage("wOF2")
	again := build()
	require.NotNil(t, again.JSON201, "%s", again.Body)
	assert.Equal(t, first.JSON201.Sha256, again.JSON201.Sha256, "what is derived is made again, to the same bytes")
	damage("wOF2")
	status, healed := content()
	require.Equal(t, http.StatusOK, status)
	assert.Equal(t, woff2, healed)

	damage("\x00\x01\x00\x00")
	status, body := func() (int, string) {
		status, _, body := s.as(api.RoleEditor, "GET", "/api/v1/files/1/content", "")
		return status, body
	}()
	assert.Equal(t, http.StatusConflict, status)
	assert.Contains(t, body, "damaged-file")
	assert.Contains(t, s.Log.String(), "a stored file is damaged")
	log, err := s.admin.ListActivityWithResponse(t.Context(), &api.ListActivityParams{})
	require.NoError(t, err)
	assert.Equal(t, "found damaged file", log.JSON200.Items[0].Action)
	back := s.add("skerrow.ttf", data)
	require.NotNil(t, back.JSON200, "%s", back.Body)
	assert.Contains(t, back.JSON200.Message, "it is whole again")
	status, _, body = s.as(api.RoleEditor, "GET", "/api/v1/files/1/content", "")
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, string(data), body)

	damage("PK\x03\x04")
	r, err := http.NewRequestWithContext(t.Context(), http.MethodGet, fmt.Sprintf("%s/api/v1/packs/%d/content", s.Address, first.JSON201.Id), nil)
	require.NoError(t, err)
	r.Header.Set("Authorization", "Bearer "+s.As(api.RoleEditor).Token)
	answer, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	defer func() { _ = answer.Body.Close() }()
	_, err = io.ReadAll(answer.Body)
	assert.True(t, err != nil || answer.StatusCode != http.StatusOK, "a damaged pack is cut off before its end")
}

// TestALicenseOfAnEditorDoesNotFreeARestrictedFont records a license with a document
// for a font that forbids embedding.
func TestALicenseOfAnEditorDoesNotFreeARestrictedFont(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	poster := s.family(foundry.Poster())
	site := s.site("Almanac", 1, poster)
	editor := s.Client(t, api.RoleEditor)
	terms := api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseWeb}, Families: []int64{poster}}
	added, err := editor.AddLicenseWithResponse(ctx, terms)
	require.NoError(t, err)
	require.NotNil(t, added.JSON201, "%s", added.Body)
	s.document(added.JSON201.Id)
	state := func() (api.VerdictState, string) {
		r, err := s.admin.GetVerdictWithResponse(ctx, poster, &api.GetVerdictParams{Site: &site})
		require.NoError(t, err)
		return r.JSON200.State, r.JSON200.Reasons[0].Code
	}
	blocked, code := state()
	assert.Equal(t, api.Blocked, blocked)
	assert.Equal(t, "awaits-approval", code)
	refused, err := editor.BuildPackWithResponse(ctx, site, nil)
	require.NoError(t, err)
	assert.Equal(t, http.StatusConflict, refused.StatusCode())
	lower, err := editor.ApproveLicenseWithResponse(ctx, added.JSON201.Id, &api.ApproveLicenseParams{IfMatch: added.JSON201.Etag})
	require.NoError(t, err)
	assert.Equal(t, http.StatusForbidden, lower.StatusCode())
	approved, err := s.admin.ApproveLicenseWithResponse(ctx, added.JSON201.Id, &api.ApproveLicenseParams{IfMatch: added.JSON201.Etag})
	require.NoError(t, err)
	require.NotNil(t, approved.JSON200, "%s", approved.Body)
	clear, _ := state()
	assert.Equal(t, api.Cleared, clear)
	changed, err := editor.ChangeLicenseWithResponse(ctx, added.JSON201.Id, &api.ChangeLicenseParams{IfMatch: approved.JSON200.Etag}, terms)
	require.NoError(t, err)
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	blocked, _ = state()
	assert.Equal(t, api.Blocked, blocked, "what an editor changes is to be approved again")
}

// TestGuessesOfOneDoNotLockOutAnother guesses behind a proxy that is trusted.
func TestGuessesOfOneDoNotLockOutAnother(t *testing.T) {
	s := &studio{servicetest.Start(t, nil, func(o *service.Options) { o.Proxies = []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")} }), t, nil}
	in := s.As(api.RoleEditor)
	try := func(from, email, password string) (int, http.Header) {
		status, header, _ := s.as("", "POST", "/api/v1/session", fmt.Sprintf(`{"email":%q,"password":%q}`, email, password), "X-Forwarded-For", from)
		return status, header
	}
	status, _ := try("198.51.100.7", in.Email, in.Password)
	require.Equal(t, http.StatusOK, status)
	statuses := map[int]int{}
	for range 15 {
		status, header := try("203.0.113.9", in.Email, "guess")
		statuses[status]++
		if status == http.StatusTooManyRequests {
			assert.NotEmpty(t, header.Get("Retry-After"))
		}
	}
	assert.Equal(t, map[int]int{401: 10, 429: 5}, statuses)
	status, _ = try("203.0.113.9", in.Email, in.Password)
	assert.Equal(t, http.StatusTooManyRequests, status, "the right one from there neither")
	status, _ = try("198.51.100.7", in.Email, in.Password)
	assert.Equal(t, http.StatusOK, status, "from where the person signs in as ever")
	status, _ = try("203.0.113.9, 198.51.100.8", in.Email, in.Password)
	assert.Equal(t, http.StatusOK, status, "what stands left of an untrusted address is not believed")
}

// TestChangingThePasswordIsLimited guesses the password by the route that changes it.
func TestChangingThePasswordIsLimited(t *testing.T) {
	s := open(t)
	in := s.As(api.RoleViewer)
	r := request(t, http.DefaultClient, "POST", s.Address+"/api/v1/session", fmt.Sprintf(`{"email":%q,"password":%q}`, in.Email, in.Password))
	require.Equal(t, http.StatusOK, r.StatusCode)
	cookie := r.Cookies()[0]
	statuses := map[int]int{}
	for range 15 {
		status, _, _ := s.as("", "PUT", "/api/v1/session/password", `{"current":"guess","new":"another few words do"}`, "Cookie", cookie.Name+"="+cookie.Value)
		statuses[status]++
	}
	assert.Equal(t, map[int]int{422: 10, 429: 5}, statuses)
	status, _, _ := s.as("", "GET", "/metrics", "", "Cookie", cookie.Name+"="+cookie.Value)
	assert.Equal(t, http.StatusOK, status)
}
