package service_test

import (
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/fakes/provider"
	"sparecrate/internal/service"
	"sparecrate/internal/service/servicetest"
	"sparecrate/internal/signon"
)

// signedOnStudio runs a service that people sign on to by a stand-in provider.
func signedOnStudio(t *testing.T, people ...provider.Person) (*studio, *provider.Provider) {
	t.Helper()
	p, err := provider.New("spare-crate", "a shared secret", people...)
	require.NoError(t, err)
	at := httptest.NewServer(p)
	t.Cleanup(at.Close)
	p.Issuer = at.URL
	var rules []signon.Rule
	for _, text := range []string{"owners=admin", "studio=editor", "holmvik=editor:Holmvik Ferries", "readers=viewer", "orrery=guest:Orrery Hall"} {
		r, err := signon.ReadRule(text)
		require.NoError(t, err)
		rules = append(rules, r)
	}
	s := &studio{servicetest.Start(t, nil, func(o *service.Options) {
		o.SecondFactor = app.FactorForAll
		o.SignOn = signon.Config{Issuer: at.URL, ClientID: "spare-crate", Secret: "a shared secret", Name: "Studio account", Rules: rules}
	}), t, nil}
	s.admin = s.Client(t, api.RoleAdmin)
	p.Back = []string{s.Address}
	return s, p
}

// signOn signs somebody on and returns who came in, and what the page for signing in says.
func (s *studio) signOn(who string, change ...func(u *url.URL)) (http.CookieJar, *api.Person, string) {
	t := s.t
	t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	c := &http.Client{Jar: jar, CheckRedirect: func(r *http.Request, _ []*http.Request) error {
		if strings.HasSuffix(r.URL.Path, "/authorize") && who != "" {
			q := r.URL.Query()
			q.Set("who", who)
			r.URL.RawQuery = q.Encode()
		}
		for _, f := range change {
			f(r.URL)
		}
		return nil
	}}
	r := request(t, c, "GET", s.Address+"/oidc/start", "")
	require.Equal(t, http.StatusOK, r.StatusCode)
	me := request(t, c, "GET", s.Address+"/api/v1/session", "")
	if me.StatusCode == http.StatusOK {
		var p api.Person
		decode(t, me, &p)
		return jar, &p, ""
	}
	var ways api.WaysIn
	decode(t, request(t, c, "GET", s.Address+"/api/v1/session/ways", ""), &ways)
	if ways.Problem == nil {
		return jar, nil, ""
	}
	return jar, nil, *ways.Problem
}

// TestSigningOnByAProvider signs people of several groups on, whose accounts are made, changed
// and linked as the provider says, and keeps others out.
func TestSigningOnByAProvider(t *testing.T) {
	s, p := signedOnStudio(t)
	ctx := t.Context()
	s.client("Holmvik Ferries")
	s.client("Orrery Hall")
	tomas := provider.Person{Subject: "7", Name: "Tomas Lindqvist", Email: "tomas@lanternjaw.example", Groups: []string{"studio", "holmvik"}}
	freya := provider.Person{Subject: "8", Name: "Freya Lund", Email: "freya@lanternjaw.example", Groups: []string{"holmvik", "readers"}}
	nell := provider.Person{Subject: "9", Name: "", Email: "nell@orrery.example", Groups: []string{"orrery"}}
	p.Know(tomas, freya, nell, provider.Person{Subject: "10", Name: "Nobody's", Email: "else@lanternjaw.example", Groups: []string{"kitchen"}},
		provider.Person{Subject: "11", Name: "Unconfirmed", Email: "new@lanternjaw.example", Unverified: true, Groups: []string{"owners"}},
		provider.Person{Subject: "12", Name: "The editor", Email: "editor@lanternjaw.example", Groups: []string{"readers"}})
	_, me, _ := s.signOn("7")
	require.NotNil(t, me)
	assert.Equal(t, api.RoleEditor, me.Role)
	assert.False(t, me.Limited, "one of the groups is for all clients")
	assert.False(t, me.MustAddFactor, "that is the provider's to ask")
	assert.True(t, *me.SignedOn)
	_, me, _ = s.signOn("8")
	require.NotNil(t, me)
	assert.Equal(t, api.RoleEditor, me.Role, "the widest role")
	require.Len(t, me.Clients, 1, "for the clients of that role")
	assert.Equal(t, "Holmvik Ferries", me.Clients[0].Name)
	assert.False(t, me.Prices || me.Documents)
	_, me, _ = s.signOn("9")
	require.NotNil(t, me)
	assert.Equal(t, api.RoleGuest, me.Role)
	assert.Equal(t, "nell@orrery.example", me.Name)
	for who, says := range map[string]string{"10": "None of your groups", "11": "no confirmed e-mail address", "nobody": "refused: access_denied"} {
		_, me, said := s.signOn(who)
		assert.Nil(t, me, who)
		assert.Contains(t, said, says)
	}
	_, me, _ = s.signOn("12")
	require.NotNil(t, me)
	people := must(s.admin.ListPeopleWithResponse(ctx))(t).JSON200.Items
	editors := 0
	for _, one := range people {
		if one.Email == "editor@lanternjaw.example" {
			editors++
			assert.Equal(t, api.RoleViewer, one.Role, "the account that was here follows the groups now")
		}
	}
	assert.Equal(t, 1, editors)

	// Groups change, and an account is closed.
	freya.Groups = []string{"readers"}
	p.Know(tomas, freya)
	_, me, _ = s.signOn("8")
	assert.Equal(t, api.RoleViewer, me.Role)
	assert.False(t, me.Limited)
	session := s.asOwner()
	closed := must(session.ChangePersonWithResponse(ctx, me.Id, api.PersonChange{Closed: ptr(true)}))(t)
	require.NotNil(t, closed.JSON200, "%s", closed.Body)
	_, me, said := s.signOn("8")
	assert.Nil(t, me)
	assert.Contains(t, said, "Your account is closed")
	in := must(s.Client(t, "").SignInWithResponse(ctx, api.SignIn{Email: "tomas@lanternjaw.example", Password: ""}))(t)
	assert.Equal(t, http.StatusUnauthorized, in.StatusCode(), "nobody signs in with a password that there is not")
	log := ""
	for _, e := range s.entries() {
		log += e.Person + "|" + e.Action + "|" + e.Subject + "|" + e.Outcome + "\n"
	}
	assert.Contains(t, log, "Tomas Lindqvist <tomas@lanternjaw.example>|signed in|by sign-on|done")
	assert.Contains(t, log, "|signed in|by sign-on|no-group")
}

// asOwner is a client of the admin whose session needs no second factor: its token.
func (s *studio) asOwner() *api.ClientWithResponses { return s.admin }

// TestASignOnThatIsTamperedWith answers with another state, a code that was used, a nonce of
// another sign-in, from a provider that is not there.
func TestASignOnThatIsTamperedWith(t *testing.T) {
	s, p := signedOnStudio(t, provider.Person{Subject: "7", Name: "Tomas Lindqvist", Email: "tomas@lanternjaw.example", Groups: []string{"studio"}})
	_, me, said := s.signOn("7", func(u *url.URL) {
		if u.Path == signon.Callback {
			q := u.Query()
			q.Set("state", "another")
			u.RawQuery = q.Encode()
		}
	})
	assert.Nil(t, me)
	assert.Contains(t, said, "was not begun here")
	_, me, said = s.signOn("7", func(u *url.URL) {
		if u.Path == signon.Callback {
			q := u.Query()
			q.Set("code", "made-up")
			u.RawQuery = q.Encode()
		}
	})
	assert.Nil(t, me)
	assert.Contains(t, said, "did not confirm")
	p.Confuse("of another sign-in")
	_, me, said = s.signOn("7")
	assert.Nil(t, me)
	assert.Contains(t, said, "could not be verified")
	p.Confuse("")
	_, me, _ = s.signOn("7")
	assert.NotNil(t, me)
	r := request(t, http.DefaultClient, "GET", s.Address+signon.Callback+"?code=x&state=", "")
	assert.Equal(t, http.StatusOK, r.StatusCode, "leads to the page for signing in")

	l, err := net.Listen("tcp", "127.0.0.1:0") //nolint:noctx // closed at once
	require.NoError(t, err)
	gone := "http://" + l.Addr().String()
	require.NoError(t, l.Close())
	silent := &studio{servicetest.Start(t, nil, func(o *service.Options) { o.SignOn = signon.Config{Issuer: gone, ClientID: "x"} }), t, nil}
	_, me, said = silent.signOn("")
	assert.Nil(t, me)
	assert.Contains(t, said, "does not answer")
	none := open(t)
	_, _, said = none.signOn("")
	assert.Contains(t, said, "knows no sign-on provider")
}

// TestTheProviderEndsSessions has the provider tell that somebody signed out there: their
// session here ends, nobody else's does, and what only looks like such a message ends nothing.
func TestTheProviderEndsSessions(t *testing.T) {
	s, p := signedOnStudio(t, provider.Person{Subject: "7", Name: "Tomas Lindqvist", Email: "tomas@lanternjaw.example", Groups: []string{"studio"}},
		provider.Person{Subject: "8", Name: "Freya Lund", Email: "freya@lanternjaw.example", Groups: []string{"readers"}})
	tell := func(subject string, claims map[string]any) int {
		token, err := p.LogoutToken(subject, claims)
		require.NoError(t, err)
		return request(t, http.DefaultClient, "POST", s.Address+"/oidc/ended", url.Values{"logout_token": {token}}.Encode(), "Content-Type", "application/x-www-form-urlencoded").StatusCode
	}
	in := func(jar http.CookieJar) bool {
		return request(t, &http.Client{Jar: jar}, "GET", s.Address+"/api/v1/session", "").StatusCode == http.StatusOK
	}
	tomas, _, _ := s.signOn("7")
	freya, _, _ := s.signOn("8")
	old := time.Now().Add(-10 * time.Minute).Unix()
	for what, claims := range map[string]map[string]any{
		"an identity token": {"events": nil, "nonce": "x"}, "one with a nonce": {"nonce": "x"}, "another event": {"events": map[string]any{"https://else.example": struct{}{}}},
		"for another service": {"aud": "another"}, "of another provider": {"iss": "https://else.example"}, "an old one": {"iat": old}, "nobody's": {"sub": ""},
	} {
		assert.Equal(t, http.StatusBadRequest, tell("7", claims), what)
	}
	r := request(t, http.DefaultClient, "POST", s.Address+"/oidc/ended", "logout_token=abc.def.ghi", "Content-Type", "application/x-www-form-urlencoded")
	assert.Equal(t, http.StatusBadRequest, r.StatusCode)
	assert.True(t, in(tomas) && in(freya))
	assert.Equal(t, http.StatusOK, tell("unknown", nil))
	assert.True(t, in(tomas) && in(freya))
	assert.Equal(t, http.StatusOK, tell("7", nil))
	assert.False(t, in(tomas))
	assert.True(t, in(freya))
	assert.Equal(t, http.StatusOK, tell("", map[string]any{"sid": provider.SessionOf("8")}))
	assert.False(t, in(freya))
	log := ""
	for _, e := range s.entries() {
		log += e.Person + "|" + e.Action + "|" + e.Outcome + "\n"
	}
	assert.Contains(t, log, "Tomas Lindqvist <tomas@lanternjaw.example>|ended sessions|done")
	assert.Contains(t, log, "|ended sessions|bad-logout-token")
	none := open(t)
	assert.Equal(t, http.StatusNotFound, request(t, http.DefaultClient, "POST", none.Address+"/oidc/ended", "logout_token=x", "Content-Type", "application/x-www-form-urlencoded").StatusCode)
	for range 60 {
		r = request(t, http.DefaultClient, "POST", s.Address+"/oidc/ended", "logout_token=x", "Content-Type", "application/x-www-form-urlencoded")
	}
	assert.Equal(t, http.StatusTooManyRequests, r.StatusCode, "nobody fills the audit log")
}

// TestRulesForGroups reads rules, right and wrong ones.
func TestRulesForGroups(t *testing.T) {
	r, err := signon.ReadRule(" type team = editor : Holmvik Ferries , Orrery Hall ")
	require.NoError(t, err)
	assert.Equal(t, signon.Rule{Group: "type team", Role: api.RoleEditor, Clients: []string{"Holmvik Ferries", "Orrery Hall"}}, r)
	for _, bad := range []string{"", "x", "=viewer", "x=owner", "x=viewer:", "x=admin:Holmvik", "x=guest", "x=guest:A,B"} {
		_, err := signon.ReadRule(bad)
		require.Error(t, err, bad)
	}
}

// TestSigningOnInTheBrowser clicks through a sign-on and out again.
func TestSigningOnInTheBrowser(t *testing.T) {
	s, _ := signedOnStudio(t, provider.Person{Subject: "7", Name: "Tomas Lindqvist", Email: "tomas@lanternjaw.example", Groups: []string{"studio"}},
		provider.Person{Subject: "10", Name: "Nobody's", Email: "else@lanternjaw.example", Groups: []string{"kitchen"}})
	ctx := tab(t, "")
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families"), browsertest.Visible("#email"), browsertest.Click(`//a[normalize-space()="Studio account"]`),
		browsertest.Until(`document.body.innerText.includes("Who are you?")`), browsertest.Click(`//a[contains(.,"Nobody")]`), browsertest.Visible("#email"),
		browsertest.Until(`document.querySelector("[role=alert]")?.innerText.includes("None of your groups")`), browsertest.Click(`//a[normalize-space()="Studio account"]`),
		browsertest.Click(`//a[contains(.,"Tomas")]`), browsertest.Visible("header nav"), browsertest.Until(`document.querySelector("header").innerText.includes("Tomas Lindqvist")`),
		press("Sign out"), browsertest.Visible("#email"))
	assert.Equal(t, s.Address+"/", browsertest.Eval[string](t, ctx, `location.href`), "by way of the provider")
}
