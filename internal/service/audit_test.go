package service_test

import (
	"bufio"
	"database/sql"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/audit"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/store"
	"sparecrate/internal/store/auditdb"
)

// entries returns the audit log, oldest first.
func (s *studio) entries() []api.AuditEntry {
	s.t.Helper()
	r := must(s.admin.GetAuditFileWithResponse(s.t.Context(), &api.GetAuditFileParams{}))(s.t)
	require.Equal(s.t, http.StatusOK, r.StatusCode(), "%s", r.Body)
	var out []api.AuditEntry
	lines := bufio.NewScanner(strings.NewReader(string(r.Body)))
	for lines.Scan() {
		var e api.AuditEntry
		require.NoError(s.t, json.Unmarshal(lines.Bytes(), &e))
		out = append(out, e)
	}
	return out
}

// TestWhatLeavesTheHouseIsRecorded signs in rightly and wrongly, downloads, is refused, and
// changes who may do what, and reads the log.
func TestWhatLeavesTheHouseIsRecorded(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	b := s.furnish("Amberly", foundry.Signage()[0])
	wrong := must(s.Client(t, "").SignInWithResponse(ctx, api.SignIn{Email: "ines@lanternjaw.example", Password: "not this one"}))(t)
	require.Equal(t, http.StatusUnauthorized, wrong.StatusCode())
	typo := must(s.Client(t, "").SignInWithResponse(ctx, api.SignIn{Email: "a password in the wrong field", Password: "x"}))(t)
	require.Equal(t, http.StatusUnauthorized, typo.StatusCode())
	session := s.Session(t, api.RoleEditor)
	require.Equal(t, http.StatusOK, must(session.GetPackContentWithResponse(ctx, b.of["packs"]))(t).StatusCode())
	require.Equal(t, http.StatusOK, must(s.Client(t, api.RoleEditor).GetFileContentWithResponse(ctx, b.of["files"], nil))(t).StatusCode())
	require.Equal(t, http.StatusOK, must(s.Client(t, api.RoleViewer).GetDocumentContentWithResponse(ctx, b.of["documents"], nil))(t).StatusCode())
	require.Equal(t, http.StatusForbidden, must(s.Client(t, api.RoleViewer).GetPackContentWithResponse(ctx, b.of["packs"]))(t).StatusCode())
	require.Equal(t, http.StatusForbidden, must(s.Client(t, api.RoleViewer).AddClientWithResponse(ctx, api.NewStudioClient{Name: "Mine"}))(t).StatusCode())
	printed := request(t, http.DefaultClient, "GET", fmt.Sprintf("%s/proof/%d", s.Address, b.of["families"]), "", "Authorization", "Bearer "+s.As(api.RoleViewer).Token)
	require.Equal(t, http.StatusOK, printed.StatusCode)
	added := must(s.Session(t, api.RoleAdmin).AddPersonWithResponse(ctx, api.NewPerson{Name: "Mads Birk", Email: "mads@lanternjaw.example", Role: api.RoleViewer}))(t)
	require.NotNil(t, added.JSON201)
	require.Equal(t, http.StatusNoContent, must(session.SignOutWithResponse(ctx))(t).StatusCode())

	said := ""
	all := s.entries()
	for i, e := range all {
		assert.Equal(t, int64(i+1), e.Number)
		assert.Equal(t, "127.0.0.1", e.Address)
		assert.NotEmpty(t, e.Request)
		said += fmt.Sprintf("%s|%s|%s|%s|%s\n", e.Person, e.Via, e.Action, e.Outcome, strings.TrimSpace(e.Subject+" "+e.Detail))
	}
	editor, viewer := "The editor <editor@lanternjaw.example>", "The viewer <viewer@lanternjaw.example>"
	for _, line := range []string{
		"ines@lanternjaw.example||signed in|wrong-sign-in|\n", "(no e-mail address)||signed in|wrong-sign-in|\n", editor + "|new session|signed in|done|\n",
		fmt.Sprintf("downloaded pack|done|packs/%d/content amberly-pages-fonts.zip\n", b.of["packs"]), editor + "|token ", "(test)|downloaded font|done|",
		"downloaded document|done|" + fmt.Sprintf("documents/%d/content Amberly order.txt\n", b.of["documents"]), "downloaded pack|role-too-low|", "was refused|role-too-low|clients (addClient)\n", fmt.Sprintf("(test)|downloaded proof|done|proof/%d\n", b.of["families"]),
		`added person|done|people {"email":"mads@lanternjaw.example","name":"Mads Birk","role":"viewer"}`, editor + "|session ", "|signed out|done|",
	} {
		assert.Contains(t, said, line)
	}
	for _, secret := range []string{"not this one", "wrong field", added.JSON201.OneTimePassword, s.As(api.RoleAdmin).Password} {
		assert.NotContains(t, said, secret)
	}
	found := must(s.admin.ListAuditWithResponse(ctx, &api.ListAuditParams{Action: ptr("downloaded pack"), Choices: ptr(true), Limit: ptr(1)}))(t).JSON200
	require.Len(t, found.Items, 1)
	require.NotNil(t, found.Next)
	assert.Contains(t, *found.People, editor)
	assert.Equal(t, viewer, found.Items[0].Person, "newest first")
	next := must(s.admin.ListAuditWithResponse(ctx, &api.ListAuditParams{Action: ptr("downloaded pack"), Cursor: found.Next}))(t).JSON200
	require.Len(t, next.Items, 1)
	assert.Equal(t, editor, next.Items[0].Person)
	table := must(s.admin.GetAuditFileWithResponse(ctx, &api.GetAuditFileParams{Format: ptr(api.AuditTable), Person: &viewer}))(t)
	rows, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(string(table.Body), "\ufeff"))).ReadAll()
	require.NoError(t, err)
	assert.Len(t, rows, 5, "%s", table.Body)
	for _, role := range []api.Role{api.RoleEditor, api.RoleViewer} {
		assert.Equal(t, http.StatusForbidden, must(s.Client(t, role).ListAuditWithResponse(ctx, nil))(t).StatusCode())
		assert.Equal(t, http.StatusForbidden, must(s.Client(t, role).CheckAuditWithResponse(ctx, nil))(t).StatusCode())
	}
}

// TestVerifyNamesThePlace changes the log as somebody would who can write to the database: one
// byte, an entry taken out, the end cut off, two moved, the whole chain made anew.
func TestVerifyNamesThePlace(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	records, err := store.Open(ctx, s.Database)
	require.NoError(t, err)
	t.Cleanup(func() { _ = records.Close() })
	l := audit.New(records, func() time.Time { return time.Now().UTC() }, 0)
	for i := range 12 {
		require.NoError(t, l.Add(ctx, audit.Entry{Action: "downloaded font", Outcome: "done", Subject: fmt.Sprintf("files/%d", i+1), ByNobody: "somebody"}))
	}
	db, err := sql.Open("mysql", s.Database)
	require.NoError(t, err)
	t.Cleanup(func() { _ = db.Close() })
	whole, err := l.Verify(ctx, "")
	require.NoError(t, err)
	require.Empty(t, whole.Fault)
	assert.Equal(t, int64(12), whole.Entries)
	noted := fmt.Sprintf("%d:%s", whole.Last, whole.Head)

	again := func() { // as it was
		for _, q := range []string{"DELETE FROM audit_entries", "INSERT INTO audit_entries SELECT * FROM kept_entries", "DELETE FROM audit_head", "INSERT INTO audit_head SELECT * FROM kept_head"} {
			_, err := db.ExecContext(ctx, q)
			require.NoError(t, err)
		}
	}
	for _, q := range []string{"CREATE TABLE kept_entries AS SELECT * FROM audit_entries", "CREATE TABLE kept_head AS SELECT * FROM audit_head"} {
		_, err := db.ExecContext(ctx, q)
		require.NoError(t, err)
	}
	for _, test := range []struct {
		name, change, says string
		at                 int64
	}{
		{"one byte", "UPDATE audit_entries SET subject = REPLACE(subject, 'files/4', 'files/5') WHERE seq = 4", "entry 4", 4},
		{"a time", "UPDATE audit_entries SET at = at + INTERVAL 1 MICROSECOND WHERE seq = 7", "entry 7", 7},
		{"a hash", "UPDATE audit_entries SET hash = REPEAT('a', 64) WHERE seq = 3", "entry 3", 3},
		{"taken out", "DELETE FROM audit_entries WHERE seq = 5", "entry 5 is missing", 5},
		{"the first", "DELETE FROM audit_entries WHERE seq = 1", "entry 1 is missing", 1},
		{"cut off", "DELETE FROM audit_entries WHERE seq > 9", "the end is cut off: entries 10 to 12", 10},
		{"all", "DELETE FROM audit_entries", "the end is cut off: entries 1 to 12", 1},
		{"moved", "UPDATE audit_entries SET seq = CASE seq WHEN 6 THEN 108 WHEN 8 THEN 106 ELSE seq END WHERE seq IN (6, 8)", "entry 6 is missing", 6},
		{"one more", "INSERT INTO audit_entries SELECT 13, at, person_id, person, via, address, action, subject, outcome, detail, request, hash FROM audit_entries WHERE seq = 12", "entry 13 stands behind the end", 13},
		{"the head", "UPDATE audit_head SET hash = REPEAT('b', 64)", "the head of the log", 12},
	} {
		_, err := db.ExecContext(ctx, test.change)
		require.NoError(t, err, test.name)
		r := must(s.admin.CheckAuditWithResponse(ctx, nil))(t)
		require.NotNil(t, r.JSON200, "%s: %s", test.name, r.Body)
		assert.False(t, r.JSON200.Whole, test.name)
		require.NotNil(t, r.JSON200.Fault, test.name)
		assert.Contains(t, *r.JSON200.Fault, test.says, test.name)
		assert.Equal(t, test.at, *r.JSON200.At, test.name)
		again()
	}
	_, err = db.ExecContext(ctx, "UPDATE audit_entries SET seq = CASE seq WHEN 6 THEN -8 ELSE -6 END WHERE seq IN (6, 8)")
	require.NoError(t, err)
	_, err = db.ExecContext(ctx, "UPDATE audit_entries SET seq = -seq WHERE seq < 0")
	require.NoError(t, err)
	swapped, err := l.Verify(ctx, "")
	require.NoError(t, err)
	assert.Contains(t, swapped.Fault, "entry 6", "two that changed places")
	again()

	// A log that was made anew is whole in itself; a head that was noted gives it away.
	for _, q := range []string{"DELETE FROM audit_entries", "UPDATE audit_head SET seq = 0, hash = REPEAT('0', 64)"} {
		_, err := db.ExecContext(ctx, q)
		require.NoError(t, err)
	}
	for range 12 {
		require.NoError(t, l.Add(ctx, audit.Entry{Action: "downloaded font", Outcome: "done", Subject: "files/1"}))
	}
	made, err := l.Verify(ctx, "")
	require.NoError(t, err)
	assert.Empty(t, made.Fault)
	made, err = l.Verify(ctx, noted)
	require.NoError(t, err)
	assert.Contains(t, made.Fault, "was written anew")
	made, err = l.Verify(ctx, "40:"+whole.Head)
	require.NoError(t, err)
	assert.Contains(t, made.Fault, "entry 40, which was noted, is not there")
	again()
	same := must(s.admin.CheckAuditWithResponse(ctx, &api.CheckAuditParams{Noted: &noted}))(t)
	assert.True(t, same.JSON200.Whole)
	bad := must(s.admin.CheckAuditWithResponse(ctx, &api.CheckAuditParams{Noted: ptr("nonsense")}))(t)
	problemOf(t, bad.HTTPResponse, bad.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "bad-head")
}

// TestOldEntriesAreForgotten keeps entries for a day; the chain goes on from those that went.
func TestOldEntriesAreForgotten(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	records, err := store.Open(ctx, s.Database)
	require.NoError(t, err)
	t.Cleanup(func() { _ = records.Close() })
	now := time.Now().UTC().Add(-72 * time.Hour)
	l := audit.New(records, func() time.Time { return now }, 24*time.Hour)
	for range 5 {
		require.NoError(t, l.Add(ctx, audit.Entry{Action: "downloaded font", Outcome: "done"}))
		now = now.Add(15 * time.Hour)
	}
	require.NoError(t, l.Forget(ctx))
	r, err := l.Verify(ctx, "")
	require.NoError(t, err)
	assert.Empty(t, r.Fault)
	assert.Greater(t, r.First, int64(2))
	left, err := auditdb.In(records).Newest(ctx, auditdb.Filter{}, 0, 10)
	require.NoError(t, err)
	assert.Equal(t, "forgot old entries", left[0].Action)
	require.NoError(t, l.Forget(ctx), "with nothing to forget")
}

// TestManyEntriesAtOnce adds entries from many sides; each gets its place.
func TestManyEntriesAtOnceHaveTheirPlace(t *testing.T) {
	s := open(t)
	b := s.furnish("Amberly", foundry.Signage()[0])
	c := s.Client(t, api.RoleEditor)
	done := make(chan int, 60)
	for range cap(done) {
		go func() {
			r, err := c.GetFileContentWithResponse(t.Context(), b.of["files"], nil)
			if err != nil {
				done <- 0
				return
			}
			done <- r.StatusCode()
		}()
	}
	for range cap(done) {
		assert.Equal(t, http.StatusOK, <-done)
	}
	r := must(s.admin.CheckAuditWithResponse(t.Context(), nil))(t).JSON200
	assert.True(t, r.Whole)
	assert.GreaterOrEqual(t, r.Entries, int64(60))
}

// TestWhatCannotBeRecordedIsNotSent takes the log away: nothing leaves, and nobody comes in.
func TestWhatCannotBeRecordedIsNotSent(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	b := s.furnish("Amberly", foundry.Signage()[0])
	db, err := sql.Open("mysql", s.Database)
	require.NoError(t, err)
	t.Cleanup(func() { _ = db.Close() })
	_, err = db.ExecContext(ctx, "RENAME TABLE audit_entries TO away")
	require.NoError(t, err)
	for name, r := range map[string]*http.Response{
		"file":     must(s.Client(t, api.RoleEditor).GetFileContent(ctx, b.of["files"], nil))(t),
		"pack":     must(s.Client(t, api.RoleEditor).GetPackContent(ctx, b.of["packs"]))(t),
		"document": must(s.Client(t, api.RoleEditor).GetDocumentContent(ctx, b.of["documents"], nil))(t),
		"sign-in":  must(s.Client(t, "").SignIn(ctx, api.SignIn{Email: s.As(api.RoleEditor).Email, Password: s.As(api.RoleEditor).Password}))(t),
	} {
		said := new(strings.Builder)
		_, _ = bufio.NewReader(r.Body).WriteTo(said)
		_ = r.Body.Close()
		assert.Equal(t, http.StatusServiceUnavailable, r.StatusCode, name)
		assert.Contains(t, said.String(), "not-recorded", name)
		if cookie := r.Header.Get("Set-Cookie"); cookie != "" {
			assert.Contains(t, cookie, "sparecrate_session=; ", name)
		}
	}
	assert.Equal(t, http.StatusOK, must(s.Client(t, api.RoleEditor).ListFamilies(ctx, nil))(t).StatusCode, "what is not recorded goes on")
	_, err = db.ExecContext(ctx, "RENAME TABLE away TO audit_entries")
	require.NoError(t, err)
	assert.Equal(t, http.StatusOK, must(s.Client(t, api.RoleEditor).GetFileContent(ctx, b.of["files"], nil))(t).StatusCode)
}

// TestTheAuditLogInTheConsole reads, narrows and verifies the log in a browser.
func TestTheAuditLogInTheConsole(t *testing.T) {
	s := open(t)
	b := s.furnish("Amberly", foundry.Signage()[0])
	must(s.Client(t, api.RoleEditor).GetPackContentWithResponse(t.Context(), b.of["packs"]))(t)
	ctx := tab(t, "")
	signIn(t, ctx, s.Service, api.RoleAdmin, "/settings?tab=audit")
	browsertest.Do(t, ctx, browsertest.Until(`document.body.innerText.includes("amberly-pages-fonts.zip")`), choose("Action", "downloaded pack"),
		browsertest.Until(`document.querySelectorAll("tr.entry").length === 1`), press("Verify"), browsertest.Until(`/\d+ entries, 1 to \d+, are whole/.test(document.body.innerText)`))
	db, err := sql.Open("mysql", s.Database)
	require.NoError(t, err)
	t.Cleanup(func() { _ = db.Close() })
	_, err = db.ExecContext(t.Context(), "UPDATE audit_entries SET person = 'Nobody' WHERE seq = 1")
	require.NoError(t, err)
	browsertest.Do(t, ctx, press("Verify"), browsertest.Until(`document.querySelector("[role=alert]")?.innerText.includes("entry 1")`))
}
