package service_test

import (
	"database/sql"
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"strings"
	"testing"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/fakes/mailbox"
	"sparecrate/internal/mail"
	"sparecrate/internal/service"
	"sparecrate/internal/service/servicetest"
)

// TestAStudioFontOnAClientsSite has somebody limited to a client at work on a site that uses
// a font of the studio's own: it is seen and packed as anybody packs it, and not changed.
func TestAStudioFontOnAClientsSite(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	ours, other := s.client("Amberly Works"), s.client("Birkfold Works")
	family := s.family(foundry.Poster(), "origin", "bought")
	views := int64(1000)
	studio := must(s.admin.AddLicenseWithResponse(ctx, api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseWeb}, Families: []int64{family}, PageViews: &views,
		Domains: &[]string{"amberly.example", "birkfold.example"}}))(t).JSON201
	require.NotNil(t, studio)
	s.document(studio.Id)
	sites := map[int64]int64{}
	for client, domain := range map[int64]string{ours: "amberly.example", other: "birkfold.example"} {
		site := must(s.admin.AddSiteWithResponse(ctx, api.SiteTerms{Name: domain, Client: client, Builder: "self-hosted", Domains: &[]string{domain}}))(t).JSON201
		require.NotNil(t, must(s.admin.AddSiteFamilyWithResponse(ctx, site.Id, family, api.FamilyOnSite{}))(t).JSON200)
		sites[client] = site.Id
	}
	editor := s.join(api.NewPerson{Name: "Freya Lund", Email: "freya@lanternjaw.example", Role: api.RoleEditor, Clients: &[]int64{ours}})
	at := func(method, path, body string) (int, string) {
		return editor.ask(t, method, s.Address+"/api/v1"+path, "application/json", []byte(body))
	}
	status, said := at("GET", fmt.Sprintf("/families/%d", family), "")
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, said, "amberly.example")
	assert.NotContains(t, said, "birkfold")
	for _, c := range []struct{ method, path, body string }{
		{"PATCH", "/families/%d", `{"note":"mine"}`}, {"DELETE", "/families/%d", ""}, {"POST", "/families/%d/move", `{"into":"Mine"}`},
	} {
		status, said := at(c.method, fmt.Sprintf(c.path, family), c.body)
		assert.Equal(t, http.StatusForbidden, status, "%s: %s", c.path, said)
		assert.Contains(t, said, "other-client")
	}
	status, said = at("PUT", fmt.Sprintf("/licenses/%d", studio.Id), string(jsonOf(t, api.LicenseTerms{Kind: api.KindBought, GrantedTo: ours, Uses: []api.Use{api.UseWeb}, Families: []int64{family}})))
	assert.Equal(t, http.StatusForbidden, status, said)
	status, said = at("POST", "/families/change", fmt.Sprintf(`{"families":[%d],"tags":["mine"]}`, family))
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, said, "belongs to another client", "and says so for each of many")

	// What counts against the license counts, whoever looks: the other client's page views too.
	month := time.Now().AddDate(0, -1, 0).Format("2006-01")
	for client, n := range map[int64]int64{ours: 400, other: 700} {
		set := must(s.admin.SetViewsWithResponse(ctx, sites[client], api.NewViews{Items: []api.MonthViews{{Month: month, Views: n}}}))(t)
		require.Less(t, set.StatusCode(), 300, "%s", set.Body)
	}
	status, said = at("GET", fmt.Sprintf("/licenses/%d", studio.Id), "")
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, said, `"used":1100`)
	status, said = at("GET", fmt.Sprintf("/sites/%d", sites[ours]), "")
	assert.Equal(t, http.StatusOK, status)
	whole := must(s.admin.GetSiteWithResponse(ctx, sites[ours]))(t)
	assert.Equal(t, string(whole.JSON200.Families[0].Verdict), verdictIn(said), "the verdict is the same for all")
}

func verdictIn(said string) string {
	_, rest, _ := strings.Cut(said, `"verdict":"`)
	verdict, _, _ := strings.Cut(rest, `"`)
	return verdict
}

// TestPricesAndDocumentsAreRightsOfTheirOwn has four people read a license.
func TestPricesAndDocumentsAreRightsOfTheirOwn(t *testing.T) {
	s := open(t)
	b := s.furnish("Amberly", foundry.Signage()[0])
	only := &[]int64{b.client}
	get := func(a asker, path string) (int, string) { return a.ask(t, "GET", s.Address+"/api/v1"+path, "", nil) }
	license, document := fmt.Sprintf("/licenses/%d", b.of["licenses"]), fmt.Sprintf("/documents/%d/content", b.of["documents"])
	must(s.admin.RenewLicenseWithBodyWithResponse(t.Context(), b.of["licenses"], "multipart/form-data; boundary=x", strings.NewReader("--x--")))(t)
	for i, test := range []struct{ prices, documents *bool }{{nil, nil}, {ptr(true), nil}, {nil, ptr(true)}, {ptr(true), ptr(true)}} {
		email := fmt.Sprintf("reader%d@lanternjaw.example", i)
		a := s.join(api.NewPerson{Name: "Reader", Email: email, Role: api.RoleEditor, Clients: only, Prices: test.prices, Documents: test.documents})
		prices, documents := test.prices != nil, test.documents != nil
		for _, path := range []string{license, license + "/versions", "/licenses", "/activity", fmt.Sprintf("/families/%d", b.of["families"])} {
			status, said := get(a, path)
			require.Equal(t, http.StatusOK, status, said)
			told := strings.Contains(said, "12900") || strings.Contains(said, "129.00")
			if !prices {
				assert.False(t, told, "%s: %s", path, said)
			} else if path == license || strings.HasSuffix(path, "versions") {
				assert.True(t, told, "%s: %s", path, said)
			}
		}
		_, said := get(a, license)
		assert.Equal(t, documents, strings.Contains(said, "order.txt"))
		status, said := get(a, document)
		assert.Equal(t, documents, status == http.StatusOK, said)
		for _, path := range []string{"/documents?q=Order", "/register/file?format=csv", fmt.Sprintf("/families/%d/proof", b.of["families"])} {
			status, _ := get(a, path)
			assert.Equal(t, documents, status == http.StatusOK, path)
		}
		status, _ = a.ask(t, "GET", s.Address+"/register/print", "", nil)
		assert.Equal(t, documents, status == http.StatusOK, "the printed register")
	}

	// Who does not see the price does not lose it by changing the rest.
	blind := s.join(api.NewPerson{Name: "Blind", Email: "blind@lanternjaw.example", Role: api.RoleEditor, Clients: only})
	now := must(s.admin.GetLicenseWithResponse(t.Context(), b.of["licenses"]))(t).JSON200
	status, said := func() (int, string) {
		body := jsonOf(t, api.LicenseTerms{Kind: api.KindBought, GrantedTo: b.client, Uses: []api.Use{api.UseWeb, api.UseApp}, Families: []int64{b.of["families"]}})
		return blind.ask(t, "PUT", s.Address+"/api/v1"+license, "application/json", body)
	}()
	require.Equal(t, http.StatusOK, status, said)
	after := must(s.admin.GetLicenseWithResponse(t.Context(), b.of["licenses"]))(t).JSON200
	assert.Equal(t, now.Price, after.Price)
	assert.Equal(t, now.Currency, after.Currency)
	assert.Len(t, after.Uses, 2)
}

// TestLimitsThatCannotBe asks for people and tokens with limits that make no sense.
func TestLimitsThatCannotBe(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	client := s.client("Amberly Works")
	session := s.Session(t, api.RoleAdmin)
	yesterday := openapi.Date{Time: time.Now().AddDate(0, 0, -2)}
	for code, n := range map[string]api.NewPerson{
		"admin-limited":  {Role: api.RoleAdmin, Clients: &[]int64{client}},
		"guest-client":   {Role: api.RoleGuest},
		"guest-rights":   {Role: api.RoleGuest, Clients: &[]int64{client}, Prices: ptr(true)},
		"unknown-client": {Role: api.RoleViewer, Clients: &[]int64{999}},
		"ended":          {Role: api.RoleViewer, EndsOn: &yesterday},
		"no-mail-server": {Role: api.RoleViewer, Invite: ptr(true)},
	} {
		n.Name, n.Email = "Somebody", "somebody@lanternjaw.example"
		r := must(session.AddPersonWithResponse(ctx, n))(t)
		problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, code)
	}
	guests := must(session.AddPersonWithResponse(ctx, api.NewPerson{Name: "G", Email: "g@amberly.example", Role: api.RoleGuest, Clients: &[]int64{client}}))(t)
	require.NotNil(t, guests.JSON201, "%s", guests.Body)
	for code, change := range map[string]api.PersonChange{
		"guest-client":  {Clients: &[]int64{}},
		"contradiction": {Clients: &[]int64{client}, AllClients: ptr(true)},
		"guest-rights":  {Documents: ptr(true)},
	} {
		r := must(session.ChangePersonWithResponse(ctx, guests.JSON201.Person.Id, change))(t)
		problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, code)
	}
	// A token for some clients does nothing of what admins do, whatever its scope.
	wide := must(session.AddTokenWithResponse(ctx, api.NewToken{Name: "wide", Scope: ptr(api.ScopeAdmin), Clients: &[]int64{client}}))(t)
	require.NotNil(t, wide.JSON201, "%s", wide.Body)
	for _, path := range []string{"/people", "/audit", "/settings", "/tokens?everyone=true", "/sessions?everyone=true"} {
		status, said := asker{over: &http.Client{}, token: wide.JSON201.Secret}.ask(t, "GET", s.Address+"/api/v1"+path, "", nil)
		assert.Equal(t, http.StatusForbidden, status, "%s: %s", path, said)
	}
	// A token reaches no further than whoever makes it.
	editor := s.join(api.NewPerson{Name: "Freya Lund", Email: "freya@lanternjaw.example", Role: api.RoleEditor, Clients: &[]int64{client}})
	status, said := editor.ask(t, "POST", s.Address+"/api/v1/tokens", "application/json", []byte(`{"name":"wide","clients":[1]}`))
	assert.Equal(t, http.StatusUnprocessableEntity, status, said)
	status, said = editor.ask(t, "POST", s.Address+"/api/v1/tokens", "application/json", []byte(`{"name":"mine"}`))
	require.Equal(t, http.StatusCreated, status, said)
	_, rest, _ := strings.Cut(said, `"secret":"`)
	secret, _, _ := strings.Cut(rest, `"`)
	status, said = asker{over: &http.Client{}, token: secret}.ask(t, "GET", s.Address+"/api/v1/sites", "", nil)
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, said, `"items":[]`)
}

// TestAGuestIsInvitedAndGone invites somebody of a client's own by e-mail, who sees what guests
// see; then the account's last day passes, and its limits change.
func TestAGuestIsInvitedAndGone(t *testing.T) {
	post, err := mailbox.Start()
	require.NoError(t, err)
	t.Cleanup(post.Close)
	s := &studio{servicetest.Start(t, nil, func(o *service.Options) {
		o.Mail, o.Address = mail.Config{Server: post.Address, From: "crate@lanternjaw.example", Plain: true}, "https://fonts.lanternjaw.example"
	}), t, nil}
	s.admin = s.Client(t, api.RoleAdmin)
	b := s.furnish("Amberly", foundry.Signage()[0])
	tomorrow := openapi.Date{Time: time.Now().AddDate(0, 0, 1)}
	session := s.Session(t, api.RoleAdmin)
	added := must(session.AddPersonWithResponse(t.Context(), api.NewPerson{Name: "Nell Amber", Email: "nell@amberly.example", Role: api.RoleGuest, Clients: &[]int64{b.client}, EndsOn: &tomorrow, Invite: ptr(true)}))(t)
	require.NotNil(t, added.JSON201, "%s", added.Body)
	assert.True(t, added.JSON201.Invited)
	assert.Empty(t, added.JSON201.OneTimePassword, "only the e-mail has it")
	require.Len(t, post.Letters(), 1)
	letter := post.Letters()[0].Text
	for _, part := range []string{"Nell Amber", "Amberly Works", "https://fonts.lanternjaw.example/", "nell@amberly.example", "The account ends with"} {
		assert.Contains(t, letter, part)
	}
	_, rest, _ := strings.Cut(letter, "Password     ")
	one, _, _ := strings.Cut(rest, "\n")
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	guest, base := asker{over: &http.Client{Jar: jar}}, s.Address+"/api/v1"
	in := func(password string) (int, string) {
		return guest.ask(t, "POST", base+"/session", "application/json", jsonOf(t, api.SignIn{Email: "nell@amberly.example", Password: password}))
	}
	status, said := in(strings.TrimSpace(one))
	require.Equal(t, http.StatusOK, status, said)
	status, said = guest.ask(t, "PUT", base+"/session/password", "application/json", jsonOf(t, api.PasswordChange{Current: strings.TrimSpace(one), New: "quiet water at nine"}))
	require.Equal(t, http.StatusNoContent, status, said)
	for path, want := range map[string]int{
		"/shortlists": 200, fmt.Sprintf("/shortlists/%d", b.of["shortlists"]): 200, "/sites": 200, fmt.Sprintf("/sites/%d", b.of["sites"]): 200,
		fmt.Sprintf("/sites/%d/packs", b.of["sites"]): 200, fmt.Sprintf("/packs/%d/content", b.of["packs"]): 200, fmt.Sprintf("/files/%d/specimen?text=a&size=20", b.of["files"]): 200,
		"/families": 403, "/licenses": 403, "/due": 403, "/activity": 403, fmt.Sprintf("/files/%d/content", b.of["files"]): 403, "/tokens": 403, "/people": 403, "/events": 403,
	} {
		status, said := guest.ask(t, "GET", base+path, "", nil)
		assert.Equal(t, want, status, "%s: %.200s", path, said)
		for _, studios := range []string{`By":"Ines Varga`, "order.txt", "129", `"licensed`} {
			if strings.HasPrefix(path, "/sites") || strings.HasPrefix(path, "/shortlists") {
				assert.NotContains(t, said, studios, path)
			}
		}
	}
	status, _ = guest.ask(t, "GET", s.Address+"/metrics", "", nil)
	assert.Equal(t, http.StatusForbidden, status)

	db, err := sql.Open("mysql", s.Database)
	require.NoError(t, err)
	t.Cleanup(func() { _ = db.Close() })
	_, err = db.ExecContext(t.Context(), "UPDATE people SET ends_at = UTC_TIMESTAMP() - INTERVAL 1 SECOND WHERE email = 'nell@amberly.example'")
	require.NoError(t, err)
	status, _ = guest.ask(t, "GET", base+"/sites", "", nil)
	assert.Equal(t, http.StatusUnauthorized, status, "the last day has passed")
	status, said = in("quiet water at nine")
	assert.Equal(t, http.StatusUnauthorized, status)
	assert.Contains(t, said, "This account ended on")
	later := openapi.Date{Time: time.Now().AddDate(0, 1, 0)}
	changed := must(session.ChangePersonWithResponse(t.Context(), added.JSON201.Person.Id, api.PersonChange{EndsOn: &later}))(t)
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	status, _ = in("quiet water at nine")
	assert.Equal(t, http.StatusOK, status, "prolonged")

	post.Refuse(true)
	refused := must(session.AddPersonWithResponse(t.Context(), api.NewPerson{Name: "Ash", Email: "ash@amberly.example", Role: api.RoleViewer, Invite: ptr(true)}))(t)
	problemOf(t, refused.HTTPResponse, refused.ApplicationproblemJSONDefault, http.StatusConflict, "mail-refused")
	people := must(session.ListPeopleWithResponse(t.Context()))(t)
	assert.NotContains(t, string(people.Body), "ash@amberly.example", "nobody is added whom no e-mail reaches")
}
