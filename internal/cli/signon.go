package cli

import (
	"context"
	"fmt"
	"net"
	"net/url"
	"os"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/demo"
	"sparecrate/internal/fakes/provider"
	"sparecrate/internal/service"
	"sparecrate/internal/signon"
)

// signOnFlags say which provider people sign on by.
func signOnFlags() []cli.Flag {
	return []cli.Flag{
		&cli.StringFlag{Name: "oidc-issuer", Usage: "`URL` of an OpenID Connect provider that people sign on by", Sources: cli.EnvVars("SPARECRATE_OIDC_ISSUER")},
		&cli.StringFlag{Name: "oidc-client-id", Usage: "what the provider knows this service as", Sources: cli.EnvVars("SPARECRATE_OIDC_CLIENT_ID")},
		&cli.StringFlag{Name: "oidc-client-secret-file", Usage: "`FILE` with the secret for the provider", Sources: cli.EnvVars("SPARECRATE_OIDC_CLIENT_SECRET_FILE")},
		&cli.StringFlag{Name: "oidc-name", Usage: "what the console calls the provider", Value: "Single sign-on", Sources: cli.EnvVars("SPARECRATE_OIDC_NAME")},
		&cli.StringFlag{Name: "oidc-groups-claim", Usage: "the claim that has the groups", Value: "groups", Sources: cli.EnvVars("SPARECRATE_OIDC_GROUPS_CLAIM")},
		&cli.StringSliceFlag{Name: "oidc-group", Usage: "what a group may do, as `GROUP=ROLE` or GROUP=ROLE:CLIENT; may be given several times", Sources: cli.EnvVars("SPARECRATE_OIDC_GROUP")},
	}
}

// signOnConfig reads the flags of the provider.
func signOnConfig(c *cli.Command, f *configFile) (signon.Config, error) {
	o := signon.Config{Issuer: strings.TrimSuffix(c.String("oidc-issuer"), "/"), ClientID: c.String("oidc-client-id"), Name: c.String("oidc-name"), Claim: c.String("oidc-groups-claim")}
	if o.Issuer == "" {
		return o, nil
	}
	if u, err := url.Parse(o.Issuer); err != nil || u.Scheme != "https" && !net.ParseIP(u.Hostname()).IsLoopback() {
		return o, terminal.Misused("--oidc-issuer is an address that begins with https://, not %q", o.Issuer)
	}
	if o.ClientID == "" {
		return o, terminal.Misused("--oidc-issuer needs --oidc-client-id")
	}
	if path := c.String("oidc-client-secret-file"); path != "" {
		b, err := os.ReadFile(path)
		if err != nil {
			return o, fmt.Errorf("the secret for the sign-on provider: %w", err)
		}
		o.Secret = strings.TrimRight(string(b), "\r\n")
	}
	for _, text := range f.list(c, "oidc-group") {
		r, err := signon.ReadRule(text)
		if err != nil {
			return o, terminal.Misused("--oidc-group: %v", err)
		}
		o.Rules = append(o.Rules, r)
	}
	if len(o.Rules) == 0 {
		return o, terminal.Misused("--oidc-issuer needs --oidc-group: without a rule nobody may come in")
	}
	return o, nil
}

// demoSignOn runs a stand-in for a sign-on provider beside the demo, which knows some people
// of the studio and of a client.
func demoSignOn(ctx context.Context, o *service.Options) (address string, stop func(), err error) {
	if o.SignOn.Issuer != "" {
		return o.SignOn.Issuer, func() {}, nil
	}
	const client = "spare-crate"
	p, err := provider.New(client, "demo",
		provider.Person{Subject: "1", Name: "Tomas Lindqvist", Email: "tomas@lanternjaw.example", Groups: []string{"studio"}},
		provider.Person{Subject: "2", Name: "Freya Lund", Email: "freya@lanternjaw.example", Groups: []string{"ferries"}},
		provider.Person{Subject: "3", Name: "Marit Sund", Email: "marit@holmvik.example", Groups: []string{"ferries-guests"}},
		provider.Person{Subject: "4", Name: "Odd Kvist", Email: "odd@lanternjaw.example", Groups: []string{"kitchen"}})
	if err != nil {
		return "", nil, err
	}
	address, stop, err = actAside(ctx, o.Listen, 4, "sign-on provider", p)
	if err != nil {
		return "", nil, err
	}
	p.Issuer, p.Back = address, []string{"http://" + o.Listen, o.Address + "/"}
	if o.Address == "" {
		p.Back = p.Back[:1]
	}
	if _, port, err := net.SplitHostPort(o.Listen); err == nil && port == "0" {
		p.Back = append(p.Back, "http://127.0.0.1:") // whichever port it takes
	}
	o.SignOn = signon.Config{Issuer: address, ClientID: client, Secret: "demo", Name: "Studio account"}
	for _, text := range []string{"studio=editor", "ferries=editor:" + demo.Ferries, "ferries-guests=guest:" + demo.Ferries} {
		r, err := signon.ReadRule(text)
		if err != nil {
			return "", nil, err
		}
		o.SignOn.Rules = append(o.SignOn.Rules, r)
	}
	return address, stop, nil
}
