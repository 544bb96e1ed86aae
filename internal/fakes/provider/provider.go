// Package provider is a stand-in for an agency's sign-on provider: it speaks OpenID Connect
// (Core 1.0 and Discovery 1.0, the code flow with PKCE, signing out by the client) and asks
// for no password: whoever comes chooses whom to be.
package provider

import (
	"crypto/rand"
	"crypto/rsa"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"html/template"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"time"

	"github.com/go-jose/go-jose/v4"
	"github.com/go-jose/go-jose/v4/jwt"
)

// Person is somebody whom the provider knows.
type Person struct {
	Subject, Name, Email string
	Unverified           bool // the address was never confirmed
	Groups               []string
}

// Provider is the stand-in; it is an http.Handler.
type Provider struct {
	Issuer           string // its own address, before it answers
	ClientID, Secret string
	Back             []string // where it sends people back to, whole or up to a path

	mu     sync.Mutex
	people []Person
	codes  map[string]asked
	key    *rsa.PrivateKey
	nonce  string // in place of the right one, to see that it is refused
}

// asked is what a code was given for.
type asked struct {
	person                     Person
	nonce, challenge, redirect string
}

// New returns a provider that knows one client and some people.
func New(clientID, secret string, people ...Person) (*Provider, error) {
	key, err := rsa.GenerateKey(rand.Reader, 2048)
	return &Provider{ClientID: clientID, Secret: secret, people: people, codes: map[string]asked{}, key: key}, err
}

// Know replaces the people.
func (p *Provider) Know(people ...Person) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.people = people
}

// Confuse has identity tokens carry another nonce; the right one again for an empty text.
func (p *Provider) Confuse(nonce string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.nonce = nonce
}

// ServeHTTP answers.
func (p *Provider) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	switch r.URL.Path {
	case "/.well-known/openid-configuration":
		answer(w, map[string]any{
			"issuer": p.Issuer, "authorization_endpoint": p.Issuer + "/authorize", "token_endpoint": p.Issuer + "/token", "jwks_uri": p.Issuer + "/keys",
			"end_session_endpoint": p.Issuer + "/end", "response_types_supported": []string{"code"}, "subject_types_supported": []string{"public"},
			"id_token_signing_alg_values_supported": []string{"RS256"}, "code_challenge_methods_supported": []string{"S256"},
		})
	case "/keys":
		answer(w, jose.JSONWebKeySet{Keys: []jose.JSONWebKey{{Key: p.key.Public(), KeyID: "one", Algorithm: "RS256", Use: "sig"}}})
	case "/authorize":
		p.authorize(w, r)
	case "/token":
		p.token(w, r)
	case "/end":
		back := r.URL.Query().Get("post_logout_redirect_uri")
		if !p.known(back) {
			http.Error(w, "this address is not registered", http.StatusBadRequest)
			return
		}
		http.Redirect(w, r, back, http.StatusSeeOther)
	default:
		http.NotFound(w, r)
	}
}

func answer(w http.ResponseWriter, v any) {
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(v)
}

// known says whether people are sent to an address.
func (p *Provider) known(to string) bool {
	for _, back := range p.Back {
		if strings.HasPrefix(to, back) {
			return true
		}
	}
	return false
}

var page = template.Must(template.New("").Parse(`<!doctype html><html lang="en"><meta charset="utf-8"><title>Sign-on of the demo studio</title>
<style>body{font:16px/1.5 system-ui,sans-serif;max-width:32rem;margin:4rem auto;padding:0 1rem}a{display:block;padding:.6rem 1rem;margin:.4rem 0;border:1px solid #888;border-radius:6px;color:inherit}small{color:#555}</style>
<h1>Who are you?</h1><p>A stand-in for a sign-on provider: it asks for no password.</p>
{{range .}}<a href="{{.Link}}">{{.Name}} <small>{{.Email}}, {{.Groups}}</small></a>{{end}}</html>`))

func (p *Provider) authorize(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	if q.Get("client_id") != p.ClientID || q.Get("response_type") != "code" || !p.known(q.Get("redirect_uri")) || q.Get("code_challenge_method") != "S256" {
		http.Error(w, "this request is not one of the client's", http.StatusBadRequest)
		return
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	back, err := url.Parse(q.Get("redirect_uri"))
	if err != nil {
		http.Error(w, "this address cannot be read", http.StatusBadRequest)
		return
	}
	given := url.Values{"state": {q.Get("state")}}
	switch who := q.Get("who"); who {
	case "":
		type line struct{ Link, Name, Email, Groups string }
		var lines []line
		for _, one := range p.people {
			q.Set("who", one.Subject)
			lines = append(lines, line{"/authorize?" + q.Encode(), one.Name, one.Email, strings.Join(one.Groups, ", ")})
		}
		_ = page.Execute(w, lines)
		return
	case "nobody":
		given.Set("error", "access_denied")
	default:
		for _, one := range p.people {
			if one.Subject == who {
				code := rand.Text()
				p.codes[code] = asked{one, q.Get("nonce"), q.Get("code_challenge"), q.Get("redirect_uri")}
				given.Set("code", code)
			}
		}
	}
	back.RawQuery = given.Encode()
	http.Redirect(w, r, back.String(), http.StatusSeeOther)
}

func (p *Provider) token(w http.ResponseWriter, r *http.Request) {
	id, secret, basic := r.BasicAuth()
	if basic { // which are encoded as in a form (RFC 6749, section 2.3.1)
		id, _ = url.QueryUnescape(id)
		secret, _ = url.QueryUnescape(secret)
	} else {
		id, secret = r.PostFormValue("client_id"), r.PostFormValue("client_secret")
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	given, is := p.codes[r.PostFormValue("code")]
	delete(p.codes, r.PostFormValue("code")) // a code is for once
	sum := sha256.Sum256([]byte(r.PostFormValue("code_verifier")))
	if id != p.ClientID || secret != p.Secret || !is || base64.RawURLEncoding.EncodeToString(sum[:]) != given.challenge || r.PostFormValue("redirect_uri") != given.redirect {
		w.WriteHeader(http.StatusBadRequest)
		answer(w, map[string]string{"error": "invalid_grant"})
		return
	}
	nonce := given.nonce
	if p.nonce != "" {
		nonce = p.nonce
	}
	token, err := p.signed(given.person.Subject, map[string]any{
		"nonce": nonce, "name": given.person.Name, "email": given.person.Email, "email_verified": !given.person.Unverified, "groups": given.person.Groups, "sid": SessionOf(given.person.Subject),
	})
	if err != nil {
		http.Error(w, err.Error(), http.StatusInternalServerError)
		return
	}
	answer(w, map[string]any{"access_token": rand.Text(), "token_type": "Bearer", "expires_in": 3600, "id_token": token})
}

// SessionOf names the session of somebody at the provider.
func SessionOf(subject string) string { return "session of " + subject }

// signed returns a token about somebody, for the client.
func (p *Provider) signed(subject string, claims map[string]any) (string, error) {
	signer, err := jose.NewSigner(jose.SigningKey{Algorithm: jose.RS256, Key: jose.JSONWebKey{Key: p.key, KeyID: "one"}}, nil)
	if err != nil {
		return "", err
	}
	now := time.Now()
	return jwt.Signed(signer).Claims(jwt.Claims{Issuer: p.Issuer, Subject: subject, Audience: jwt.Audience{p.ClientID}, Expiry: jwt.NewNumericDate(now.Add(time.Hour)), IssuedAt: jwt.NewNumericDate(now)}).
		Claims(claims).Serialize()
}

// LogoutToken returns what the provider tells the client when somebody has signed out there
// (OpenID Connect Back-Channel Logout 1.0, section 2.4). Claims come on top, or in place of it.
func (p *Provider) LogoutToken(subject string, claims map[string]any) (string, error) {
	all := map[string]any{"events": map[string]any{"http://schemas.openid.net/event/backchannel-logout": struct{}{}}, "jti": rand.Text()}
	for k, v := range claims {
		all[k] = v
	}
	return p.signed(subject, all)
}
