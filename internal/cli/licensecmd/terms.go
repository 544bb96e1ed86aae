package licensecmd

import (
	"context"
	"fmt"
	"io"
	"math"
	"regexp"
	"strconv"
	"strings"

	openapi "github.com/oapi-codegen/runtime/types"
	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// termFlags are the flags by which a license's terms are said.
func termFlags() []cli.Flag {
	return []cli.Flag{
		&cli.StringFlag{Name: "client", Usage: "`CLIENT` it is granted to, by name or number"},
		&cli.StringFlag{Name: "like", Usage: "start from the template `NAME`"},
		&cli.StringFlag{Name: "kind", Usage: "bought, client, open or commissioned; default: bought"},
		&cli.StringSliceFlag{Name: "use", Usage: "`USE` it allows: web, web-hosted, desktop, app, document, server; several with commas"},
		&cli.StringFlag{Name: "from", Usage: "first `DAY`, like 2026-03-01"},
		&cli.StringFlag{Name: "until", Usage: "last `DAY`; default: perpetual"},
		&cli.StringFlag{Name: "licensor", Usage: "the licensor"},
		&cli.StringFlag{Name: "reference", Usage: "order `NUMBER` or other reference"},
		&cli.StringFlag{Name: "note", Usage: "a note"},
		&cli.StringSliceFlag{Name: "allow", Usage: "`CHANGES` it allows: subset, outlines, name, format"},
		&cli.StringSliceFlag{Name: "forbid", Usage: "`CHANGES` it forbids"},
		&cli.StringSliceFlag{Name: "domain", Usage: "only for `DOMAIN` and its subdomains; may be repeated"},
		&cli.StringSliceFlag{Name: "face", Usage: "only the face with this `STYLE`, of each family covered; may be repeated"},
		&cli.Int64Flag{Name: "page-views", Usage: "at most `N` page views a month"},
		&cli.Int64Flag{Name: "seats", Usage: "at most `N` seats"},
		&cli.Int64Flag{Name: "apps", Usage: "at most `N` apps"},
		&cli.StringFlag{Name: "price", Usage: "price with currency, like '180.00 EUR'"},
		&cli.StringFlag{Name: "renewal", Usage: "renewal at its end: none, by-hand or automatic"},
		&cli.StringFlag{Name: "spdx", Usage: "SPDX `IDENTIFIER` of an open license"},
		&cli.StringSliceFlag{Name: "document", Usage: "`FILE` to add as a document"},
	}
}

var priceForm = regexp.MustCompile(`^([0-9]+(?:[.,][0-9]{1,2})?) ?([A-Za-z]{3})$`)

// readTerms puts what the flags say into terms; what they do not name stays.
func readTerms(ctx context.Context, s *api.Client, c *cli.Command, t *api.LicenseTerms) error {
	if c.IsSet("client") {
		id, err := terminal.FindClient(ctx, s, c.String("client"))
		if err != nil {
			return err
		}
		t.GrantedTo = id
	}
	if c.IsSet("kind") {
		t.Kind = api.LicenseKind(c.String("kind"))
	}
	if c.IsSet("use") {
		t.Uses = nil
		for _, u := range c.StringSlice("use") {
			t.Uses = append(t.Uses, api.Use(strings.TrimSpace(u)))
		}
	}
	for flag, to := range map[string]**openapi.Date{"from": &t.From, "until": &t.Until} {
		if c.IsSet(flag) {
			d, err := terminal.DayFlag(c, flag)
			if err != nil {
				return err
			}
			*to = d
		}
	}
	for flag, to := range map[string]**string{"licensor": &t.Licensor, "reference": &t.Reference, "note": &t.Note, "spdx": &t.Spdx} {
		if c.IsSet(flag) {
			*to = terminal.Given(c, flag)
		}
	}
	for flag, to := range map[string]**int64{"page-views": &t.PageViews, "seats": &t.Seats, "apps": &t.Apps} {
		if c.IsSet(flag) {
			n := c.Int64(flag)
			*to = &n
		}
	}
	if c.IsSet("domain") {
		domains := c.StringSlice("domain")
		t.Domains = &domains
	}
	if c.IsSet("renewal") {
		t.Renewal = (*api.Renewal)(terminal.Given(c, "renewal"))
	}
	if c.IsSet("price") {
		cents, currency, err := priceOf(c)
		if err != nil {
			return err
		}
		t.Price, t.Currency = &cents, &currency
	}
	if c.IsSet("allow") || c.IsSet("forbid") {
		if t.Changes == nil {
			t.Changes = &api.LicensedChanges{}
		}
		for flag, consent := range map[string]api.Consent{"allow": api.ConsentYes, "forbid": api.ConsentNo} {
			for _, change := range c.StringSlice(flag) {
				to, ok := map[string]**api.Consent{"subset": &t.Changes.Subset, "outlines": &t.Changes.Outlines, "name": &t.Changes.Name, "format": &t.Changes.Format}[strings.TrimSpace(change)]
				if !ok {
					return terminal.Misused("--%s takes subset, outlines, name and format, not %q", flag, change)
				}
				*to = &consent
			}
		}
	}
	return facesOf(ctx, s, c, t)
}

// priceOf reads --price.
func priceOf(c *cli.Command) (cents int64, currency string, err error) {
	m := priceForm.FindStringSubmatch(strings.TrimSpace(c.String("price")))
	if m == nil {
		return 0, "", terminal.Misused("--price takes an amount with its currency, like '180.00 EUR', not %q", c.String("price"))
	}
	amount, _ := strconv.ParseFloat(strings.ReplaceAll(m[1], ",", "."), 64)
	return int64(math.Round(amount * 100)), strings.ToUpper(m[2]), nil
}

// facesOf finds the faces that --face names in the families covered.
func facesOf(ctx context.Context, s *api.Client, c *cli.Command, t *api.LicenseTerms) error {
	if !c.IsSet("face") {
		return nil
	}
	ids := []int64{}
	for _, style := range c.StringSlice("face") {
		had := len(ids)
		for _, id := range t.Families {
			f, err := terminal.Call[api.Family](s.GetFamily(ctx, id))
			if err != nil {
				return err
			}
			for _, face := range f.Faces {
				if strings.EqualFold(face.Style, style) {
					ids = append(ids, face.Id)
				}
			}
		}
		if len(ids) == had {
			return fmt.Errorf("none of the families covered has a face %q", style)
		}
	}
	t.Faces = &ids
	return nil
}

func addLicense(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() == 0 {
		return terminal.Misused("license add needs at least one FAMILY, by number or name")
	}
	for _, flag := range []string{"client", "use"} {
		if !c.IsSet(flag) && (flag == "client" || !c.IsSet("like")) {
			return terminal.Misused("license add needs --%s", flag)
		}
	}
	s, err := terminal.Connect()
	if err != nil {
		return err
	}
	t := api.LicenseTerms{Kind: api.KindBought}
	if c.IsSet("like") {
		if err := fromTemplate(ctx, s, c.String("like"), &t); err != nil {
			return err
		}
	}
	for _, name := range c.Args().Slice() {
		id, err := terminal.FindFamily(ctx, s, name)
		if err != nil {
			return err
		}
		t.Families = append(t.Families, id)
	}
	if err := readTerms(ctx, s, c, &t); err != nil {
		return err
	}
	return record(ctx, s, c, t)
}

// record records a license and keeps its documents.
func record(ctx context.Context, s *api.Client, c *cli.Command, t api.LicenseTerms) error {
	l, err := terminal.Call[api.License](s.AddLicense(ctx, t))
	if err != nil {
		return err
	}
	if err := attachAll(ctx, s, c, l); err != nil {
		return err
	}
	return terminal.Show(c, l, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Recorded license %s.\n", LicenseLine(*l)) })
}

func attachAll(ctx context.Context, s *api.Client, c *cli.Command, l *api.License) error {
	for _, path := range c.StringSlice("document") {
		d, err := attach(ctx, s, l.Id, path)
		if err != nil {
			return fmt.Errorf("license %d is recorded, but its document was not added: %w; repeat with `sparecrate license attach %d FILE`", l.Id, err, l.Id)
		}
		l.Documents = append(l.Documents, *d)
	}
	return nil
}
