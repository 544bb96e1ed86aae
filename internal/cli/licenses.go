package cli

import (
	"context"
	"fmt"
	"io"
	"strings"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"
	"github.com/urfave/cli/v3"

	"sparecrate/api"
)

func licenseCommand() *cli.Command {
	return &cli.Command{
		Name: "license", Usage: "the license register: list, add, attach a document",
		Description: example("A license says what a client may do with which families, until when, and keeps\nthe paper that proves it.", "sparecrate license list"),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list licenses, newest first", Flags: []cli.Flag{jsonFlag},
				Description: example("Shows who may do what with which families, until when, and how many documents prove it.", "sparecrate license list"),
				Action:      listLicenses,
			},
			{
				Name: "add", Usage: "record a license", ArgsUsage: "FAMILY...",
				Description: example("Records a license for one or more families, by number or name.",
					"sparecrate license add --client 'Orrery Hall' --use web --until 2027-06-30 --reference N-90114 'Umbrisk Display'"),
				Flags: []cli.Flag{
					jsonFlag,
					&cli.StringFlag{Name: "client", Usage: "`CLIENT` it is granted to, by name or number", Required: true},
					&cli.StringFlag{Name: "kind", Usage: "bought, client, open or commissioned", Value: "bought"},
					&cli.StringSliceFlag{Name: "use", Usage: "`USE` it allows: web, web-hosted, desktop, app, document, server; several with commas", Required: true},
					&cli.StringFlag{Name: "from", Usage: "first `DAY`, as 2026-03-01"},
					&cli.StringFlag{Name: "until", Usage: "last `DAY`; without it the license is perpetual"},
					&cli.StringFlag{Name: "licensor", Usage: "`WHO` grants it"},
					&cli.StringFlag{Name: "reference", Usage: "order `NUMBER` or the like"},
					&cli.StringFlag{Name: "note", Usage: "a remark"},
					&cli.StringSliceFlag{Name: "allow", Usage: "`CHANGES` it allows: subset, outlines, name"},
					&cli.StringSliceFlag{Name: "forbid", Usage: "`CHANGES` it forbids"},
					&cli.StringSliceFlag{Name: "document", Usage: "`FILE` to keep as evidence"},
				},
				Action: addLicense,
			},
			{
				Name: "keep", Usage: "keep a paper that came with a family as evidence of a license", ArgsUsage: "NUMBER PAPER", Flags: []cli.Flag{jsonFlag, &cli.StringFlag{Name: "family", Usage: "the `FAMILY` it came with, where it is named and not numbered"}},
				Description: example("PAPER is the number that `sparecrate family` shows with it, or its name and --family.", "sparecrate license keep --family 'Zenithar Sans' 1 license.txt"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, args, err := begin(c, "the NUMBER of the license", "a PAPER, by its number")
					if err != nil {
						return err
					}
					id, err := number(args[0], "license")
					if err != nil {
						return err
					}
					paper, err := findPaper(ctx, s, args[1], c.String("family"))
					if err != nil {
						return err
					}
					d, err := call[api.Document](s.KeepPaper(ctx, id, api.KeepPaperJSONRequestBody{Paper: paper}))
					if err != nil {
						return err
					}
					return show(c, d, func(w io.Writer) {
						_, _ = fmt.Fprintf(w, "Kept %s (%s, SHA-256 %s).\n", d.Name, size(d.Bytes), d.Sha256)
					})
				},
			},
			{
				Name: "attach", Usage: "keep a document as evidence of a license", ArgsUsage: "NUMBER FILE", Flags: []cli.Flag{jsonFlag},
				Description: example("Any file: a PDF, a text, a letter. It is kept under its SHA-256.", "sparecrate license attach 1 README.md"),
				Action: func(ctx context.Context, c *cli.Command) error {
					args, err := arguments(c, "the NUMBER of the license", "a FILE")
					if err != nil {
						return err
					}
					id, err := number(args[0], "license")
					if err != nil {
						return err
					}
					s, err := connect()
					if err != nil {
						return err
					}
					d, err := attach(ctx, s, id, args[1])
					if err != nil {
						return err
					}
					return show(c, d, func(w io.Writer) {
						_, _ = fmt.Fprintf(w, "Kept %s (%s, SHA-256 %s).\n", d.Name, size(d.Bytes), d.Sha256)
					})
				},
			},
		},
	}
}

func listLicenses(ctx context.Context, c *cli.Command) error {
	s, _, err := begin(c)
	if err != nil {
		return err
	}
	limit := 200
	q := api.ListLicensesParams{Limit: &limit}
	found := []api.License{}
	for {
		page, err := call[api.LicensePage](s.ListLicenses(ctx, &q))
		if err != nil {
			return err
		}
		found = append(found, page.Items...)
		if q.Cursor = page.Next; page.Next == nil {
			break
		}
	}
	return show(c, found, func(w io.Writer) {
		var rows [][]any
		for _, l := range found {
			var names []string
			for _, f := range l.Families {
				names = append(names, f.Name)
			}
			rows = append(rows, []any{l.Id, l.GrantedTo.Name, strings.Join(names, ", "), uses(l), runs(l), l.Kind, len(l.Documents)})
		}
		grid(w, []any{"No.", "Granted to", "Families", "Uses", "Term", "Kind", "Documents"}, []string{"No.", "Documents"}, rows)
	})
}

// licensed reads what the license says of changing the font.
func licensed(c *cli.Command, t *api.LicenseTerms) error {
	said := api.LicensedChanges{}
	for flag, consent := range map[string]api.Consent{"allow": api.ConsentYes, "forbid": api.ConsentNo} {
		for _, change := range c.StringSlice(flag) {
			to, ok := map[string]**api.Consent{"subset": &said.Subset, "outlines": &said.Outlines, "name": &said.Name}[strings.TrimSpace(change)]
			if !ok {
				return misused("--%s takes subset, outlines and name, not %q", flag, change)
			}
			*to = &consent
		}
	}
	t.Changes = &said
	return nil
}

func uses(l api.License) string {
	out := make([]string, len(l.Uses))
	for i, u := range l.Uses {
		out[i] = string(u)
	}
	return strings.Join(out, ", ")
}

func runs(l api.License) string {
	switch {
	case l.Until == nil && l.From == nil:
		return "perpetual"
	case l.Until == nil:
		return "from " + l.From.String()
	case l.From == nil:
		return "until " + l.Until.String()
	}
	return l.From.String() + " to " + l.Until.String()
}

func licenseLine(l api.License) string {
	parts := []string{fmt.Sprintf("%d: %s for %s", l.Id, l.Kind, l.GrantedTo.Name), uses(l), runs(l)}
	if l.Reference != "" {
		parts = append(parts, l.Reference)
	}
	switch len(l.Documents) {
	case 0:
		parts = append(parts, "no document kept")
	case 1:
		parts = append(parts, "1 document")
	default:
		parts = append(parts, fmt.Sprintf("%d documents", len(l.Documents)))
	}
	return strings.Join(parts, "; ")
}

func addLicense(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() == 0 {
		return misused("license add needs at least one FAMILY, by number or name")
	}
	t := api.LicenseTerms{Kind: api.LicenseKind(c.String("kind"))}
	for _, u := range c.StringSlice("use") {
		t.Uses = append(t.Uses, api.Use(strings.TrimSpace(u)))
	}
	for flag, to := range map[string]**openapi.Date{"from": &t.From, "until": &t.Until} {
		if v := c.String(flag); v != "" {
			d, err := time.Parse(time.DateOnly, v)
			if err != nil {
				return misused("--%s takes a day like 2026-03-01, not %q", flag, v)
			}
			*to = &openapi.Date{Time: d}
		}
	}
	for flag, to := range map[string]**string{"licensor": &t.Licensor, "reference": &t.Reference, "note": &t.Note} {
		if v := c.String(flag); v != "" {
			*to = &v
		}
	}
	if err := licensed(c, &t); err != nil {
		return err
	}
	s, err := connect()
	if err != nil {
		return err
	}
	if t.GrantedTo, err = findClient(ctx, s, c.String("client")); err != nil {
		return err
	}
	for _, name := range c.Args().Slice() {
		id, err := findFamily(ctx, s, name)
		if err != nil {
			return err
		}
		t.Families = append(t.Families, id)
	}
	l, err := call[api.License](s.AddLicense(ctx, t))
	if err != nil {
		return err
	}
	for _, path := range c.StringSlice("document") {
		d, err := attach(ctx, s, l.Id, path)
		if err != nil {
			return fmt.Errorf("license %d is recorded, but its document was not kept: %w; repeat with `sparecrate license attach %d FILE`", l.Id, err, l.Id)
		}
		l.Documents = append(l.Documents, *d)
	}
	return show(c, l, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Recorded license %s.\n", licenseLine(*l)) })
}

func attach(ctx context.Context, s *api.Client, license int64, path string) (*api.Document, error) {
	body, kind, err := form(path, nil)
	if err != nil {
		return nil, err
	}
	defer func() { _ = body.Close() }()
	return call[api.Document](s.AddDocumentWithBody(ctx, license, kind, body))
}

// findPaper gives the number of a paper that came with a family.
func findPaper(ctx context.Context, s *api.Client, text, family string) (int64, error) {
	if family == "" {
		return number(text, "paper; name its family with --family to give its name")
	}
	id, err := findFamily(ctx, s, family)
	if err != nil {
		return 0, err
	}
	f, err := call[api.Family](s.GetFamily(ctx, id))
	if err != nil {
		return 0, err
	}
	all := make([]named, len(f.Papers))
	for i, p := range f.Papers {
		all[i] = named{p.Id, p.Name, size(p.Bytes)}
	}
	return choose(text, "paper", all)
}
