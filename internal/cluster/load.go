package main

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"math/rand/v2"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"time"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/demo/foundry"
)

const (
	workers  = 6
	pause    = 150 * time.Millisecond // between two requests of one
	patience = 20 * time.Second       // longer than any request may take
)

// signIn returns a client of the API that acts as the demo's admin, by a token, at an address;
// over is what it asks by.
func (c *Cluster) signIn(ctx context.Context) (token string, err error) {
	over := c.client(patience)
	if over.Jar, err = cookiejar.New(nil); err != nil {
		return "", err
	}
	session, err := api.NewClientWithResponses(balanced+"/api/v1", api.WithHTTPClient(over))
	if err != nil {
		return "", err
	}
	in, err := session.SignInWithResponse(ctx, api.SignIn{Email: c.SignIn.Email, Password: c.SignIn.Password})
	if err != nil || in.JSON200 == nil {
		return "", errors.Join(errors.New("sign in"), err, told(in, err))
	}
	scope := api.ScopeAdmin
	added, err := session.AddTokenWithResponse(ctx, api.NewToken{Name: "cluster", Scope: &scope})
	if err != nil || added.JSON201 == nil {
		return "", errors.Join(errors.New("add a token"), err, told(added, err))
	}
	return added.JSON201.Secret, nil
}

// acting returns a client of the API by a token.
func acting(address, token string, over *http.Client) (*api.ClientWithResponses, error) {
	return api.NewClientWithResponses(address+"/api/v1", api.WithHTTPClient(over), api.WithRequestEditorFn(func(_ context.Context, r *http.Request) error {
		r.Header.Set("Authorization", "Bearer "+token)
		return nil
	}))
}

// answer is what the generated client's answers have.
type answer interface {
	Status() string
	StatusCode() int
	GetBody() []byte
}

// told returns what an answer says that is none of the wanted.
func told(a answer, err error) error {
	if err != nil {
		return err
	}
	return fmt.Errorf("%s: %s", a.Status(), bytes.TrimSpace(a.GetBody()[:min(300, len(a.GetBody()))]))
}

// outcome says what became of a change.
func outcome(a answer, err error, made bool) Outcome {
	switch {
	case made:
		return Made
	case err == nil && a.StatusCode() < http.StatusInternalServerError:
		return Refused
	}
	return Unknown
}

// load asks for things as several people at once, each request once, until ctx ends.
type load struct {
	client *api.ClientWithResponses
	ledger *Ledger
	home   int64 // the client that things are made for
	site   int64 // that packs are built for
	listID int64 // the shortlist that all change
}

// person is one who asks.
type person struct {
	*load
	number, made int
	failing      map[string]time.Time
	rng          *rand.Rand
}

// prepare finds what the load works on.
func (c *Cluster) prepare(ctx context.Context, ledger *Ledger, token string) (*load, error) {
	client, err := acting(balanced, token, c.client(patience))
	if err != nil {
		return nil, err
	}
	l := &load{client: client, ledger: ledger}
	home, err := client.AddClientWithResponse(ctx, api.NewStudioClient{Name: "Harbour Trials"})
	if err != nil || home.JSON201 == nil {
		return nil, told(home, err)
	}
	l.home = home.JSON201.Id
	sites, err := client.ListSitesWithResponse(ctx, &api.ListSitesParams{})
	if err != nil || sites.JSON200 == nil || len(sites.JSON200.Items) == 0 {
		return nil, errors.Join(errors.New("the demo has no site"), told(sites, err))
	}
	for _, s := range sites.JSON200.Items {
		// One that packs may be built for.
		if a, err := client.BuildPackWithResponse(ctx, s.Id, &api.BuildPackParams{}); err == nil && a.JSON201 != nil {
			l.site = s.Id
		}
	}
	if l.site == 0 {
		return nil, errors.New("no pack can be built for any site of the demo")
	}
	list, err := client.AddShortlistWithResponse(ctx, api.NewShortlist{Name: "Changed by all"})
	if err != nil || list.JSON201 == nil {
		return nil, told(list, err)
	}
	l.listID = list.JSON201.Id
	return l, nil
}

// run asks until ctx ends.
func (p *person) run(ctx context.Context) {
	asks := []struct {
		kind string
		ask  func(context.Context, string) error
	}{
		{"read", p.read}, {"read", p.read}, {"read", p.read}, {"font", p.font}, {"client", p.addClient}, {"license", p.license},
		{"site", p.addSite}, {"pack", p.pack}, {"counter", p.count}, {"import", p.imports},
	}
	for ctx.Err() == nil {
		one := asks[p.rng.IntN(len(asks))]
		// One that has failed is asked for again, so that the time without an answer is that.
		for _, a := range asks {
			if !p.failing[a.kind].IsZero() {
				one = a
			}
		}
		p.made++
		start := time.Now()
		err := one.ask(ctx, fmt.Sprintf("%s %d-%d", one.kind, p.number, p.made))
		if ctx.Err() == nil {
			p.failing[one.kind] = p.ledger.Asked(one.kind, start, p.failing[one.kind], err)
		}
		select {
		case <-ctx.Done():
		case <-time.After(pause):
		}
	}
}

// note notes what became of something made, and returns the failure.
func (p *person) note(kind, name, hash string, id int64, a answer, err error, made bool) error {
	p.ledger.Note(Entry{Kind: kind, Name: name, Hash: hash, ID: id, Outcome: outcome(a, err, made)})
	if made {
		return nil
	}
	return told(a, err)
}

func (p *person) read(ctx context.Context, _ string) error {
	var a answer
	var err error
	switch p.rng.IntN(4) {
	case 0:
		a, err = p.client.ListFamiliesWithResponse(ctx, &api.ListFamiliesParams{})
	case 1:
		a, err = p.client.ListDueWithResponse(ctx, &api.ListDueParams{})
	case 2:
		a, err = p.client.GetSiteWithResponse(ctx, p.site)
	default:
		a, err = p.client.ListJobsWithResponse(ctx, &api.ListJobsParams{})
	}
	if err != nil || a.StatusCode() != http.StatusOK {
		return told(a, err)
	}
	return nil
}

// drawn returns a font of a family of its own.
func drawn(family string) (data []byte, hash string, err error) {
	d := *foundry.Poster()
	d.Family, d.PostScript = family, fmt.Sprintf("F%x-Regular", sha256.Sum256([]byte(family)))[:20]
	if data, err = foundry.Build(&d, font.TTF); err != nil {
		return nil, "", err
	}
	sum := sha256.Sum256(data)
	return data, hex.EncodeToString(sum[:]), nil
}

// form returns an upload.
func form(name string, data []byte, fields ...string) (kind string, body *bytes.Buffer, err error) {
	body = &bytes.Buffer{}
	m := multipart.NewWriter(body)
	for i := 0; i+1 < len(fields); i += 2 {
		err = errors.Join(err, m.WriteField(fields[i], fields[i+1]))
	}
	part, bad := m.CreateFormFile("file", name)
	if bad == nil {
		_, bad = part.Write(data)
	}
	return m.FormDataContentType(), body, errors.Join(err, bad, m.Close())
}

func (p *person) font(ctx context.Context, name string) error {
	data, hash, err := drawn("Skerrow " + name)
	if err != nil {
		return err
	}
	kind, body, err := form("font.ttf", data)
	if err != nil {
		return err
	}
	a, err := p.client.AddFileWithBodyWithResponse(ctx, kind, body)
	made := err == nil && a.JSON200 != nil
	var id int64
	if made {
		id = a.JSON200.Family.Id
	}
	return p.note("font", "Skerrow "+name, hash, id, a, err, made)
}

func (p *person) addClient(ctx context.Context, name string) error {
	a, err := p.client.AddClientWithResponse(ctx, api.NewStudioClient{Name: name})
	return p.note("client", name, "", 0, a, err, err == nil && a.JSON201 != nil)
}

func (p *person) addSite(ctx context.Context, name string) error {
	a, err := p.client.AddSiteWithResponse(ctx, api.SiteTerms{Name: name, Client: p.home, Builder: "self-hosted"})
	return p.note("site", name, "", 0, a, err, err == nil && a.JSON201 != nil)
}

func (p *person) license(ctx context.Context, name string) error {
	a, err := p.client.AddLicenseWithResponse(ctx, api.LicenseTerms{Kind: api.KindBought, GrantedTo: p.home, Uses: []api.Use{api.UseWeb}, Families: []int64{1}, Reference: &name})
	return p.note("license", name, "", 0, a, err, err == nil && a.JSON201 != nil)
}

// count changes what all change; each change counts up, and one that was overtaken is refused.
func (p *person) count(ctx context.Context, name string) error {
	list, err := p.client.GetShortlistWithResponse(ctx, p.listID)
	if err != nil || list.JSON200 == nil {
		return told(list, err)
	}
	note := list.JSON200.Note + "."
	a, err := p.client.ChangeShortlistWithResponse(ctx, p.listID, &api.ChangeShortlistParams{IfMatch: list.JSON200.Etag}, api.ShortlistChange{Note: &note})
	if err == nil && a.StatusCode() == http.StatusPreconditionFailed {
		return nil
	}
	return p.note("counter", name, "", 0, a, err, err == nil && a.JSON200 != nil)
}

func (p *person) pack(ctx context.Context, _ string) error {
	a, err := p.client.BuildPackWithResponse(ctx, p.site, &api.BuildPackParams{})
	if err != nil || a.JSON201 == nil {
		return told(a, err)
	}
	got, err := p.client.GetPackContentWithResponse(ctx, a.JSON201.Id)
	if err != nil || got.StatusCode() != http.StatusOK {
		return told(got, err)
	}
	return nil
}

// imports begins an import and has it accepted; that it comes to its end is looked at later.
func (p *person) imports(ctx context.Context, name string) error {
	title := name
	begun, err := p.client.StartImportWithResponse(ctx, api.NewImport{Title: &title})
	if err != nil || begun.JSON201 == nil {
		return told(begun, err)
	}
	data, hash, err := drawn("Skerrow " + name)
	if err != nil {
		return err
	}
	kind, body, err := form("font.ttf", data, "path", "fonts/font.ttf")
	if err != nil {
		return err
	}
	if put, err := p.client.AddImportItemWithBodyWithResponse(ctx, begun.JSON201.Id, kind, body); err != nil || put.StatusCode() >= http.StatusBadRequest {
		return told(put, err)
	}
	a, err := p.client.AcceptImportWithResponse(ctx, begun.JSON201.Id)
	return p.note("import", "Skerrow "+name, hash, 0, a, err, err == nil && a.JSON202 != nil)
}
