// Package signon lets people in by an OpenID Connect provider (OpenID Connect Core 1.0, the
// authorization code flow with PKCE, RFC 7636): the provider says who somebody is and which
// groups they are in, and rules say what these groups may do here. Accounts are made at the
// first sign-in, and follow the groups at each.
package signon

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net/http"
	"net/mail"
	"net/url"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/coreos/go-oidc/v3/oidc"
	"golang.org/x/oauth2"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/auth"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
)

// Config is the provider, and what its groups may do. Without Issuer there is none.
type Config struct {
	Issuer           string
	ClientID, Secret string
	Name             string // what the console calls it
	Claim            string // of the identity that has the groups
	Rules            []Rule
}

// Rule says what a group may do: a role, for all clients or for some, by name.
type Rule struct {
	Group   string
	Role    api.Role
	Clients []string
}

// ReadRule reads a rule as GROUP=ROLE or GROUP=ROLE:CLIENT,CLIENT.
func ReadRule(s string) (Rule, error) {
	group, rest, ok := strings.Cut(s, "=")
	role, clients, limited := strings.Cut(rest, ":")
	r := Rule{Group: strings.TrimSpace(group), Role: api.Role(strings.TrimSpace(role))}
	for _, c := range strings.Split(clients, ",") {
		if c = strings.TrimSpace(c); c != "" {
			r.Clients = append(r.Clients, c)
		}
	}
	switch {
	case !ok || r.Group == "" || !r.Role.Valid():
		return r, fmt.Errorf("a rule for a group is GROUP=ROLE or GROUP=ROLE:CLIENT,CLIENT with the role guest, viewer, editor or admin, not %q", s)
	case limited && len(r.Clients) == 0:
		return r, fmt.Errorf("the rule %q names no client behind the colon", s)
	case limited && r.Role == api.RoleAdmin:
		return r, fmt.Errorf("the rule %q limits an admin, who sees everything", s)
	case r.Role == api.RoleGuest && len(r.Clients) != 1:
		return r, fmt.Errorf("the rule %q is for guests, who belong to one client: GROUP=guest:CLIENT", s)
	}
	return r, nil
}

// Service signs people on.
type Service struct {
	config  Config
	address string
	auth    *auth.Auth
	store   *store.Store
	http    *http.Client

	mu       sync.Mutex
	provider *oidc.Provider // once it has answered
}

// patience is how long the provider may take.
const patience = 10 * time.Second

// New returns sign-on by a provider for a service that people reach at an address.
func New(c Config, s *store.Store, a *auth.Auth, address string) *Service {
	if c.Claim == "" {
		c.Claim = "groups"
	}
	if c.Name == "" {
		c.Name = "Single sign-on"
	}
	return &Service{config: c, address: address, auth: a, store: s, http: &http.Client{Timeout: patience}}
}

// Offered returns what the console calls the provider; empty where there is none.
func (s *Service) Offered() string {
	if s.config.Issuer == "" {
		return ""
	}
	return s.config.Name
}

// known returns the provider, which is asked until it has answered.
func (s *Service) known(ctx context.Context) (*oidc.Provider, error) {
	if s.config.Issuer == "" {
		return nil, app.Problem(app.Missing, "no-provider", "This service knows no sign-on provider.")
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.provider == nil {
		p, err := oidc.NewProvider(oidc.ClientContext(context.WithoutCancel(ctx), s.http), s.config.Issuer)
		if err != nil {
			return nil, app.Problem(app.Unavailable, "provider-silent", "The sign-on provider does not answer as it should: %s", sentence.Of(err))
		}
		s.provider = p
	}
	return s.provider, nil
}

func (s *Service) client(p *oidc.Provider) *oauth2.Config {
	return &oauth2.Config{ClientID: s.config.ClientID, ClientSecret: s.config.Secret, Endpoint: p.Endpoint(), RedirectURL: s.address + Callback, Scopes: []string{oidc.ScopeOpenID, "profile", "email", "groups"}}
}

// Callback is the path that the provider sends people back to.
const Callback = "/oidc/callback"

// Ceremony is what the answer of the provider is held against.
type Ceremony struct{ State, Nonce, Verifier string }

// Start returns where somebody is sent to sign in, and what to keep until they are back.
func (s *Service) Start(ctx context.Context) (where string, c Ceremony, err error) {
	p, err := s.known(ctx)
	if err != nil {
		return "", c, err
	}
	c = Ceremony{State: rand.Text(), Nonce: rand.Text(), Verifier: oauth2.GenerateVerifier()}
	return s.client(p).AuthCodeURL(c.State, oidc.Nonce(c.Nonce), oauth2.S256ChallengeOption(c.Verifier)), c, nil
}

// identity is what the provider says of somebody.
type identity struct {
	Email    string `json:"email"`
	Verified any    `json:"email_verified"` // some write it as text
	Name     string `json:"name"`
	Nick     string `json:"preferred_username"`
	Session  string `json:"sid"`
}

func refused(code, format string, args ...any) error {
	return app.Problem(app.Unauthenticated, code, format, args...)
}

// Proof is what is kept of a sign-on: the identity token for signing out, and a hash of the
// provider's own session.
type Proof struct{ Token, Session string }

// Finish returns the person whom the provider has sent back, with what their groups may do by
// now.
func (s *Service) Finish(ctx context.Context, c Ceremony, answer url.Values) (*store.Person, Proof, error) {
	p, err := s.known(ctx)
	if err != nil {
		return nil, Proof{}, err
	}
	if c.State == "" || answer.Get("state") != c.State {
		return nil, Proof{}, refused("wrong-state", "This sign-in was not begun here, or it took too long. Start again.")
	}
	if why := answer.Get("error"); why != "" {
		return nil, Proof{}, refused("provider-refused", "The sign-on provider refused: %s. Ask whoever runs it.", app.Shorten(why+" "+answer.Get("error_description"), 200))
	}
	ctx, cancel := context.WithTimeout(oidc.ClientContext(ctx, s.http), patience)
	defer cancel()
	token, err := s.client(p).Exchange(ctx, answer.Get("code"), oauth2.VerifierOption(c.Verifier))
	if err != nil {
		return nil, Proof{}, refused("provider-refused", "The sign-on provider did not confirm the sign-in. Start again.")
	}
	raw, _ := token.Extra("id_token").(string)
	id, err := p.VerifierContext(ctx, &oidc.Config{ClientID: s.config.ClientID}).Verify(ctx, raw)
	if err != nil || id.Nonce != c.Nonce {
		return nil, Proof{}, refused("bad-identity", "What the sign-on provider says could not be verified. Start again; if it happens again, tell whoever runs the service.")
	}
	var who identity
	var all map[string]any
	if err := errors.Join(id.Claims(&who), id.Claims(&all)); err != nil {
		return nil, Proof{}, refused("bad-identity", "What the sign-on provider says could not be read.")
	}
	verified := who.Verified == true || who.Verified == "true"
	if a, err := mail.ParseAddress(who.Email); err != nil || a.Address != who.Email || !verified {
		return nil, Proof{}, refused("no-address", "The sign-on provider gives no confirmed e-mail address for you. Ask whoever runs it.")
	}
	name := who.Name
	if strings.TrimSpace(name) == "" {
		name = who.Nick
	}
	if strings.TrimSpace(name) == "" {
		name = who.Email
	}
	arrives := auth.Arrival{Subject: subjectHash(id.Issuer, id.Subject), Name: name, Email: who.Email}
	if err := s.allow(ctx, &arrives, groupsIn(all[s.config.Claim])); err != nil {
		return nil, Proof{}, err
	}
	person, err := s.auth.Arrive(ctx, arrives)
	return person, Proof{raw, sessionHash(id.Issuer, who.Session)}, err
}

// groupsIn reads groups as providers write them: a list, or one text.
func groupsIn(claim any) (out []string) {
	switch v := claim.(type) {
	case string:
		return []string{v}
	case []any:
		for _, one := range v {
			if s, is := one.(string); is {
				out = append(out, s)
			}
		}
	}
	return out
}

// allow sets what somebody in some groups may do: the widest role of those that rules give,
// for the clients of all rules that give it.
func (s *Service) allow(ctx context.Context, a *auth.Arrival, groups []string) error {
	order := []api.Role{api.RoleGuest, api.RoleViewer, api.RoleEditor, api.RoleAdmin}
	best, names, all := -1, []string(nil), false
	for _, r := range s.config.Rules {
		if !slices.Contains(groups, r.Group) {
			continue
		}
		at := slices.Index(order, r.Role)
		if at < best {
			continue
		}
		if at > best {
			best, names, all = at, nil, false
		}
		names = append(names, r.Clients...)
		all = all || len(r.Clients) == 0
	}
	if best < 0 {
		return refused("no-group", "None of your groups may come in here. Ask an admin of the studio.")
	}
	a.Role, a.Limited = order[best], !all
	if all {
		return nil
	}
	for _, name := range names {
		c, err := s.store.ClientByName(ctx, name)
		if errors.Is(err, store.ErrNotFound) {
			continue // one that is not there yet limits nobody to anything
		}
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(a.Clients, func(o store.Client) bool { return o.ID == c.ID }) {
			a.Clients = append(a.Clients, *c)
		}
	}
	if len(a.Clients) == 0 {
		return refused("no-client", "Your groups are for %s, which the catalog does not have. Ask an admin of the studio.", strings.Join(names, ", "))
	}
	if a.Role == api.RoleGuest {
		a.Clients = a.Clients[:1]
	}
	return nil
}

// Out returns where somebody who has signed out here is sent to sign out of the provider as
// well (OpenID Connect RP-Initiated Logout 1.0); empty where it has no such place.
func (s *Service) Out(ctx context.Context, identityToken string) string {
	p, err := s.known(ctx)
	if err != nil {
		return ""
	}
	var more struct {
		End string `json:"end_session_endpoint"`
	}
	if p.Claims(&more) != nil || more.End == "" {
		return ""
	}
	u, err := url.Parse(more.End)
	if err != nil {
		return ""
	}
	q := u.Query()
	q.Set("client_id", s.config.ClientID)
	q.Set("post_logout_redirect_uri", s.address+"/")
	if identityToken != "" {
		q.Set("id_token_hint", identityToken)
	}
	u.RawQuery = q.Encode()
	return u.String()
}
