package service_test

import (
	"bytes"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/store/scope"
)

// must returns an answer, or fails the test.
func must[T any](r T, err error) func(testing.TB) T {
	return func(t testing.TB) T {
		t.Helper()
		require.NoError(t, err)
		return r
	}
}

// belongings are the numbers of what a client has, by the first part of their addresses.
// All of it bears the client's mark in its name.
type belongings struct {
	mark   string
	client int64
	of     map[string]int64
}

// furnish gives a new client one of everything.
func (s *studio) furnish(mark string, d *foundry.Design) *belongings {
	t, ctx, works := s.t, s.t.Context(), mark+" Works"
	b := &belongings{mark: mark, client: s.client(works), of: map[string]int64{}}
	b.of["clients"] = b.client
	design := *d
	design.Family, design.PostScript = mark+" Serif", mark+"Serif-Regular"
	family := s.family(&design, "client", works, "origin", "bought")
	b.of["families"] = family
	page := must(s.admin.GetFamilyWithResponse(ctx, family))(t).JSON200
	b.of["faces"], b.of["files"] = page.Faces[0].Id, page.Faces[0].Files[0].Id
	price, currency := int64(12900), "EUR"
	license := must(s.admin.AddLicenseWithResponse(ctx, api.LicenseTerms{Kind: api.KindBought, GrantedTo: b.client, Uses: []api.Use{api.UseWeb}, Families: []int64{family},
		Licensor: ptr(mark + " Type"), Price: &price, Currency: &currency}))(t).JSON201
	require.NotNil(t, license)
	b.of["licenses"] = license.Id
	kind, body := upload(t, mark+" order.txt", []byte("Order of "+mark))
	document := must(s.admin.AddDocumentWithBodyWithResponse(ctx, license.Id, kind, body))(t)
	require.NotNil(t, document.JSON201, "%s", document.Body)
	b.of["documents"] = document.JSON201.Id
	domain := strings.ToLower(mark) + ".example"
	site := must(s.admin.AddSiteWithResponse(ctx, api.SiteTerms{Name: mark + " pages", Client: b.client, Builder: "self-hosted", Domains: &[]string{domain}}))(t).JSON201
	require.NotNil(t, site)
	b.of["sites"] = site.Id
	used := must(s.admin.AddSiteFamilyWithResponse(ctx, site.Id, family, api.FamilyOnSite{}))(t)
	require.NotNil(t, used.JSON200, "%s", used.Body)
	pages := must(s.admin.AddSitePagesWithResponse(ctx, site.Id, api.NewSitePages{Pages: []api.NewSitePage{{Url: "https://" + domain + "/"}}}))(t)
	require.Less(t, pages.StatusCode(), 300, "%s", pages.Body)
	pack := must(s.admin.BuildPackWithResponse(ctx, site.Id, nil))(t)
	require.NotNil(t, pack.JSON201, "%s", pack.Body)
	b.of["packs"] = pack.JSON201.Id
	signed := must(s.admin.AddFamilySignOffWithResponse(ctx, family, api.NewFamilySignOff{Builder: "pdf", Reason: mark + " asked for it"}))(t)
	_ = signed
	list := must(s.admin.AddShortlistWithResponse(ctx, api.NewShortlist{Name: mark + " choices", Client: ptr(works), Families: &[]int64{family}, Note: ptr("For " + mark)}))(t)
	require.NotNil(t, list.JSON201, "%s", list.Body)
	b.of["shortlists"] = list.JSON201.Id
	imp := must(s.admin.StartImportWithResponse(ctx, api.NewImport{Title: ptr(mark + " files"), Client: ptr(works)}))(t)
	require.NotNil(t, imp.JSON201, "%s", imp.Body)
	b.of["imports"] = imp.JSON201.Id
	return b
}

// asker is somebody who makes calls.
type asker struct {
	name           string
	over           *http.Client
	token          string
	limited, guest bool
}

func (a asker) ask(t testing.TB, method, address, kind string, body []byte) (int, string) {
	t.Helper()
	ctx, cancel := context.WithTimeout(t.Context(), 30*time.Second)
	defer cancel()
	r, err := http.NewRequestWithContext(ctx, method, address, bytes.NewReader(body))
	require.NoError(t, err)
	if kind != "" {
		r.Header.Set("Content-Type", kind)
	}
	r.Header.Set("If-Match", `"1"`)
	if a.token != "" {
		r.Header.Set("Authorization", "Bearer "+a.token)
	}
	answered, err := a.over.Do(r)
	require.NoError(t, err)
	defer func() { _ = answered.Body.Close() }()
	said, err := io.ReadAll(io.LimitReader(answered.Body, 4<<20))
	require.NoError(t, err)
	return answered.StatusCode, string(said)
}

// join adds somebody to the studio, who signs in and chooses a password.
func (s *studio) join(n api.NewPerson) asker {
	t, ctx := s.t, s.t.Context()
	admin := s.Session(t, api.RoleAdmin)
	added := must(admin.AddPersonWithResponse(ctx, n))(t)
	require.NotNil(t, added.JSON201, "%s", added.Body)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	a := asker{name: string(n.Role), over: &http.Client{Jar: jar}, limited: n.Clients != nil, guest: n.Role == api.RoleGuest}
	one := added.JSON201.OneTimePassword
	status, said := a.ask(t, "POST", s.Address+"/api/v1/session", "application/json", jsonOf(t, api.SignIn{Email: n.Email, Password: one}))
	require.Equal(t, http.StatusOK, status, said)
	status, said = a.ask(t, "PUT", s.Address+"/api/v1/session/password", "application/json", jsonOf(t, api.PasswordChange{Current: one, New: "a quiet lantern at nine"}))
	require.Equal(t, http.StatusNoContent, status, said)
	return a
}

func jsonOf(t testing.TB, v any) []byte {
	t.Helper()
	b, err := json.Marshal(v)
	require.NoError(t, err)
	return b
}

// call is a call of the contract.
type call struct {
	id, method, path string
	body             *openapi3.RequestBody
}

// calls returns all calls of the contract: those that read, those that change things, and
// those that delete them.
func calls(t testing.TB) []call {
	t.Helper()
	doc, err := openapi3.NewLoader().LoadFromData(api.Contract)
	require.NoError(t, err)
	var out []call
	for path, item := range doc.Paths.Map() {
		for method, op := range item.Operations() {
			c := call{id: op.OperationID, method: method, path: path}
			if op.RequestBody != nil {
				c.body = op.RequestBody.Value
			}
			out = append(out, c)
		}
	}
	order := map[string]int{"GET": 0, "POST": 1, "PUT": 1, "PATCH": 1, "DELETE": 2}
	slices.SortFunc(out, func(a, b call) int {
		if d := order[a.method] - order[b.method]; d != 0 {
			return d
		}
		return strings.Compare(a.path+a.method, b.path+b.method)
	})
	return out
}

var inPath = regexp.MustCompile(`\{(\w+)\}`)

// aimed returns the address of a call that is aimed at what a client has, with what can be
// asked for in a query; beside says whether it names anything of the client at all.
func (c call) aimed(b *belongings) (address string, names bool) {
	kind, _, _ := strings.Cut(strings.TrimPrefix(c.path, "/"), "/")
	address = inPath.ReplaceAllStringFunc(c.path, func(p string) string {
		switch p {
		case "{id}":
			if id, is := b.of[kind]; is {
				names = true
				return strconv.FormatInt(id, 10)
			}
			return "99999"
		case "{familyId}":
			return strconv.FormatInt(b.of["families"], 10)
		case "{file}":
			return strconv.FormatInt(b.of["files"], 10)
		case "{kind}":
			return "self-hosted"
		case "{key}":
			return strings.Repeat("ab", 32)
		}
		return "1"
	})
	query := map[string]string{
		"listFamilies": "?client=" + b.mark + "+Works&choices=true&q=" + b.mark, "listSites": fmt.Sprintf("?client=%d", b.client), "listLicenses": fmt.Sprintf("?client=%d", b.client),
		"listDue": fmt.Sprintf("?within=400&client=%d", b.client), "listActivity": fmt.Sprintf("?choices=true&client=%d", b.client), "getRegister": fmt.Sprintf("?client=%d", b.client),
		"listShortlists": "?client=" + b.mark + "+Works", "listGaps": fmt.Sprintf("?client=%d", b.client), "findDocuments": "?q=" + b.mark, "getRegisterFile": fmt.Sprintf("?format=csv&client=%d", b.client),
		"getActivityFile": fmt.Sprintf("?client=%d", b.client), "getVerdict": fmt.Sprintf("?use=web&site=%d&client=%d", b.of["sites"], b.client), "listSignOffs": fmt.Sprintf("?site=%d", b.of["sites"]),
		"watchEvents": fmt.Sprintf("?topic=import/%d", b.of["imports"]), "drawSpecimen": "?text=a&size=20", "planClientPack": "?builder=desktop", "getInspectionFile": "?format=csv",
	}
	return address + query[c.id], names
}

// bodies are what calls send that name things within their bodies.
func bodies(b *belongings) map[string]any {
	family, works := b.of["families"], b.mark+" Works"
	return map[string]any{
		"addSite": api.SiteTerms{Name: "Another", Client: b.client, Builder: "self-hosted"}, "changeSite": api.SiteTerms{Name: "Another", Client: b.client, Builder: "self-hosted"},
		"startImport": api.NewImport{Client: &works}, "addShortlist": api.NewShortlist{Name: "x", Client: &works, Families: &[]int64{family}},
		"changeShortlist": api.ShortlistChange{Families: &[]int64{family}}, "changeFamilies": map[string]any{"families": []int64{family}, "tags": []string{"seized"}},
		"coverFamilies": api.SomeFamilies{Families: []int64{family}}, "confirmRecognized": api.SomeFamilies{Families: []int64{family}},
		"addLicense":    api.LicenseTerms{Kind: api.KindBought, GrantedTo: b.client, Uses: []api.Use{api.UseWeb}, Families: []int64{family}},
		"changeLicense": api.LicenseTerms{Kind: api.KindBought, GrantedTo: b.client, Uses: []api.Use{api.UseWeb}, Families: []int64{family}},
		"moveFaces":     map[string]any{"into": strconv.FormatInt(family, 10)}, "changeFamily": map[string]any{"client": b.client},
		"addHosted": map[string]any{"text": `<link rel="stylesheet" href="https://fonts.example/a.css">`, "client": works}, "addSignOff": api.NewSignOff{Family: family, Reason: "because"},
		"addFamilySignOff": api.NewFamilySignOff{Builder: "self-hosted", Reason: "because"}, "addSitePages": api.NewSitePages{Pages: []api.NewSitePage{{Url: "https://pages.example/"}}},
		"buildClientPack": api.NewClientPack{Builder: "desktop"}, "addOutlet": api.NewOutlet{Name: "x", Builder: "self-hosted"}, "useFile": api.FileInUse{File: b.of["files"]},
		"setChoices": map[string]any{"exclude": []int64{b.of["faces"]}}, "assignRoles": map[string]any{"assignments": []any{}, "replacements": []any{map[string]any{"name": "Old", "family": family, "weight": 400, "slope": "normal"}}},
		"addAllocation": api.NewAllocation{Measure: api.MeasureSeats, Name: "Somebody"}, "changeClient": api.NewStudioClient{Name: "Renamed"}, "addClient": api.NewStudioClient{Name: "New one"},
		"shareShortlist": map[string]any{}, "selfHostFamily": map[string]any{"source": b.of["files"]}, "changeImportItems": map[string]any{"mark": true, "client": works},
		"changePassword": api.PasswordChange{Current: "wrong", New: "wrong again and again"}, "addToken": map[string]any{"name": "t", "clients": []int64{b.client}},
		"setViews": map[string]any{"months": []any{}}, "snoozeDue": map[string]any{"until": "2099-01-01"}, "reshapeFile": map[string]any{"recipe": map[string]any{}},
		"signIn": api.SignIn{Email: "nobody@nowhere.example", Password: "nothing at all"},
	}
}

// harmless are calls that are not made, as they would end the asker's own access.
var harmless = []string{"signOut", "endSession", "revokeToken", "changePassword"}

// send makes a call, aimed at what a client has.
func (c call) send(t testing.TB, a asker, base string, b *belongings) (int, string) {
	t.Helper()
	address, _ := c.aimed(b)
	kind, body := "", []byte(nil)
	if c.body != nil {
		if c.body.Content.Get("application/json") != nil {
			kind, body = "application/json", []byte("{}")
			if given, is := bodies(b)[c.id]; is {
				body = jsonOf(t, given)
			}
		} else {
			from, r := upload(t, "a.txt", []byte("x"), "client", b.mark+" Works")
			kind = from
			body, _ = io.ReadAll(r)
		}
	}
	if c.id == "watchEvents" { // which goes on
		ctx, cancel := context.WithTimeout(t.Context(), 300*time.Millisecond)
		defer cancel()
		r, err := http.NewRequestWithContext(ctx, c.method, base+address, nil)
		require.NoError(t, err)
		if a.token != "" {
			r.Header.Set("Authorization", "Bearer "+a.token)
		}
		answered, err := a.over.Do(r)
		require.NoError(t, err)
		defer func() { _ = answered.Body.Close() }()
		said, _ := io.ReadAll(answered.Body)
		return answered.StatusCode, string(said)
	}
	return a.ask(t, c.method, base+address, kind, body)
}

// rowsOf returns the rows of a table that are seen in a context, each as text.
func rowsOf(t testing.TB, db *sql.DB, ctx context.Context, table string) (lines []string) { //nolint:revive // t first
	t.Helper()
	rows, err := scope.Pool{DB: db}.QueryContext(ctx, "SELECT * FROM "+table)
	require.NoError(t, err, table)
	defer func() { _ = rows.Close() }()
	columns, err := rows.Columns()
	require.NoError(t, err)
	for rows.Next() {
		values := make([]sql.NullString, len(columns))
		into := make([]any, len(columns))
		for i := range values {
			into[i] = &values[i]
		}
		require.NoError(t, rows.Scan(into...))
		lines = append(lines, fmt.Sprint(values))
	}
	require.NoError(t, rows.Err())
	return lines
}

// possessions returns a digest of every row that belongs to a client, by table.
func possessions(t testing.TB, dsn string, client int64) map[string]string {
	t.Helper()
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	out := map[string]string{}
	tables, _ := scope.Known()
	for _, table := range tables {
		lines := rowsOf(t, db, scope.Limited(t.Context(), []int64{client}), table)
		slices.Sort(lines)
		sum := sha256.Sum256([]byte(strings.Join(lines, "\n")))
		out[table] = strconv.Itoa(len(lines)) + " " + hex.EncodeToString(sum[:6])
	}
	return out
}

// TestNobodySeesAnotherClient makes every call of the contract as people and tokens limited to
// one client, aimed at what is theirs, at what is another client's and at what is not there: of
// the other client nothing is said, an answer about what it has is the answer about what is
// not there, and nothing of it changes.
func TestNobodySeesAnotherClient(t *testing.T) {
	s := open(t)
	ours := s.furnish("Amberly", foundry.Signage()[0])
	theirs := s.furnish("Birkfold", foundry.Poster())
	none := &belongings{mark: "Nowhere", client: 99999, of: map[string]int64{}}
	for kind := range theirs.of {
		none.of[kind] = 99999
	}
	only := &[]int64{ours.client}
	editor := s.join(api.NewPerson{Name: "Freya Lund", Email: "freya@lanternjaw.example", Role: api.RoleEditor, Clients: only, Prices: new(bool), Documents: ptr(true)})
	viewer := s.join(api.NewPerson{Name: "Oskar Thorn", Email: "oskar@lanternjaw.example", Role: api.RoleViewer, Clients: only})
	guest := s.join(api.NewPerson{Name: "Nell Amber", Email: "nell@amberly.example", Role: api.RoleGuest, Clients: only})
	token := must(s.Session(t, api.RoleAdmin).AddTokenWithResponse(t.Context(), api.NewToken{Name: "for Amberly", Scope: ptr(api.ScopeWrite), Clients: only}))(t)
	require.NotNil(t, token.JSON201, "%s", token.Body)
	narrow := asker{name: "token", over: &http.Client{}, token: token.JSON201.Secret, limited: true}
	whole := asker{name: "viewer of all", over: &http.Client{}, token: s.As(api.RoleViewer).Token}
	nobody := asker{name: "nobody", over: &http.Client{}}

	before := possessions(t, s.Database, theirs.client)
	require.Greater(t, len(before), 30)
	base := s.Address + "/api/v1"
	answers, seen, foreign := 0, 0, 0
	shown := must(s.admin.AddShortlistWithResponse(t.Context(), api.NewShortlist{Name: "To show", Client: ptr("Amberly Works"), Families: &[]int64{ours.of["families"]}}))(t).JSON201.Id
	for _, a := range []asker{editor, viewer, guest, narrow} {
		status, said := a.ask(t, "POST", fmt.Sprintf("%s/shortlists/%d/shares", base, shown), "application/json", []byte("{}"))
		answers += 3
		if a != editor && a != narrow {
			assert.Equal(t, http.StatusForbidden, status, said)
			continue
		}
		var link api.AddedShare
		require.Equal(t, http.StatusCreated, status, said)
		require.NoError(t, json.Unmarshal([]byte(said), &link), said)
		status, said = nobody.ask(t, "GET", s.Address+link.Path, "", nil)
		assert.Equal(t, http.StatusOK, status)
		assert.Contains(t, said, "Amberly Serif")
		assert.NotContains(t, strings.ToLower(said), "birkfold", "a link by "+a.name)
		for face, want := range map[int64]int{ours.of["faces"]: http.StatusOK, theirs.of["faces"]: http.StatusNotFound} {
			status, _ = nobody.ask(t, "GET", fmt.Sprintf("%s%s/%d/picture.png", s.Address, link.Path, face), "", nil)
			assert.Equal(t, want, status, "a link by "+a.name)
		}
	}
	plain := regexp.MustCompile(`\d+|"(createdAt|at|etag|secret|name)":"[^"]*"`)
	for _, c := range calls(t) {
		if slices.Contains(harmless, c.id) {
			continue
		}
		if c.method == "GET" { // what the others are refused is there
			if status, said := c.send(t, whole, base, theirs); status == http.StatusOK && strings.Contains(said, "Birkfold") {
				seen++
			}
		}
		if status, said := c.send(t, nobody, base, theirs); !slices.Contains([]string{"signIn", "getWaysIn", "startPasskeySignIn", "signInWithPasskey"}, c.id) {
			assert.Equal(t, http.StatusUnauthorized, status, "%s as nobody: %s", c.id, said)
		}
		for _, a := range []asker{editor, viewer, guest, narrow} {
			what := c.id + " as " + a.name
			_, names := c.aimed(theirs)
			missing, about := c.send(t, a, base, none)
			status, said := c.send(t, a, base, theirs)
			answers += 3
			// What the asker has said itself may be said back.
			said = strings.ReplaceAll(said, `There is no client \"Birkfold Works\"`, `There is no client \"Nowhere Works\"`)
			assert.NotContains(t, strings.ToLower(said), "birkfold", what)
			if names {
				foreign++
				assert.GreaterOrEqual(t, status, 400, what)
			}
			if names || c.body != nil {
				assert.Equal(t, missing, status, "%s: %s", what, said)
				assert.Equal(t, plain.ReplaceAllString(about, "N"), plain.ReplaceAllString(said, "N"), what)
			}
			_, said = c.send(t, a, base, ours)
			assert.NotContains(t, strings.ToLower(said), "birkfold", "%s, of its own", what)
		}
	}
	// Beside the contract: calendars, pages to print, what an open stream says.
	for _, a := range []asker{editor, viewer, guest, narrow} {
		for _, path := range []string{"/register/print", fmt.Sprintf("/register/print?client=%d", theirs.client), fmt.Sprintf("/proof/%d", theirs.of["families"]), "/inspections/1/print", "/metrics"} {
			_, said := a.ask(t, "GET", s.Address+path, "", nil)
			assert.NotContains(t, strings.ToLower(said), "birkfold", path+" as "+a.name)
			answers++
		}
		status, said := a.ask(t, "POST", base+"/feeds", "", nil)
		if a.guest {
			assert.Equal(t, http.StatusForbidden, status)
			continue
		}
		var feed api.NewFeed
		require.NoError(t, json.Unmarshal([]byte(said), &feed), said)
		status, said = nobody.ask(t, "GET", s.Address+feed.Path, "", nil)
		assert.Equal(t, http.StatusOK, status)
		assert.NotContains(t, strings.ToLower(said), "birkfold", "the calendar of "+a.name)
		answers++
	}
	assert.Equal(t, before, possessions(t, s.Database, theirs.client), "nothing of the other client changed")
	assert.Greater(t, seen, 25, "what is hidden is there for others")
	assert.Greater(t, foreign, 300)
	assert.Greater(t, answers, 1800)
	t.Logf("%d answers, %d of them aimed at what another client has; %d calls show it to who sees all", answers, foreign, seen)
}
