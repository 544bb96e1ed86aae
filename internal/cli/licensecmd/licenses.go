package licensecmd

import (
	"context"
	"fmt"
	"io"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// LicenseCommand is `license`.
func LicenseCommand() *cli.Command {
	return &cli.Command{
		Name: "license", Usage: "record, change, renew and prove licenses",
		Description: terminal.Example("A license says what a client may do with which families, until when, and keeps\nthe document that proves it.", "sparecrate license list"),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list licenses, newest first", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("Shows who may do what with which families, until when, and how many documents prove it.", "sparecrate license list"),
				Action:      listLicenses,
			},
			{
				Name: "add", Usage: "record a license", ArgsUsage: "FAMILY...",
				Description: terminal.Example("Records a license for one or more families, by number or name.",
					"sparecrate license add --client 'Orrery Hall' --use web --until 2027-06-30 --reference N-90114 'Umbrisk Display'"),
				Flags:  append([]cli.Flag{terminal.JSONFlag}, termFlags()...),
				Action: addLicense,
			},
			showLicenseCommand(), changeLicenseCommand(), approveLicenseCommand(), renewCommand(), readCommand(), proofCommand(), copyLicenseCommand(), proposeCommand(), giveCommand(), takeCommand(), licenseVersionsCommand(), endingCommand(), findDocumentsCommand(), templatesCommand(),
			{
				Name: "use-document", Usage: "add a document of a family to a license", ArgsUsage: "NUMBER DOCUMENT", Flags: []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "family", Usage: "the `FAMILY` it came with, if DOCUMENT is a name"}},
				Description: terminal.Example("DOCUMENT is the number that `sparecrate family` shows with it, or its name and --family.", "sparecrate license use-document --family 'Zenithar Sans' 1 license.txt"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, args, err := terminal.Begin(c, "the NUMBER of the license", "a DOCUMENT, by its number")
					if err != nil {
						return err
					}
					id, err := terminal.Number(args[0], "license")
					if err != nil {
						return err
					}
					doc, err := findFamilyDocument(ctx, s, args[1], c.String("family"))
					if err != nil {
						return err
					}
					d, err := terminal.Call[api.Document](s.AttachFamilyDocument(ctx, id, api.AttachFamilyDocumentJSONRequestBody{Document: doc}))
					if err != nil {
						return err
					}
					return terminal.Show(c, d, func(w io.Writer) {
						_, _ = fmt.Fprintf(w, "Added %s (%s, SHA-256 %s).\n", d.Name, terminal.Size(d.Bytes), d.Sha256)
					})
				},
			},
			{
				Name: "attach", Usage: "add a document to a license", ArgsUsage: "NUMBER FILE", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("Any file: a PDF, a text, a letter.", "sparecrate license attach 1 README.md"),
				Action: func(ctx context.Context, c *cli.Command) error {
					args, err := terminal.Arguments(c, "the NUMBER of the license", "a FILE")
					if err != nil {
						return err
					}
					id, err := terminal.Number(args[0], "license")
					if err != nil {
						return err
					}
					s, err := terminal.Connect()
					if err != nil {
						return err
					}
					d, err := attach(ctx, s, id, args[1])
					if err != nil {
						return err
					}
					return terminal.Show(c, d, func(w io.Writer) {
						_, _ = fmt.Fprintf(w, "Added %s (%s, SHA-256 %s).\n", d.Name, terminal.Size(d.Bytes), d.Sha256)
					})
				},
			},
		},
	}
}

func listLicenses(ctx context.Context, c *cli.Command) error {
	s, _, err := terminal.Begin(c)
	if err != nil {
		return err
	}
	limit := 200
	q := api.ListLicensesParams{Limit: &limit}
	found := []api.License{}
	for {
		page, err := terminal.Call[api.LicensePage](s.ListLicenses(ctx, &q))
		if err != nil {
			return err
		}
		found = append(found, page.Items...)
		if q.Cursor = page.Next; page.Next == nil {
			break
		}
	}
	return terminal.Show(c, found, func(w io.Writer) {
		var rows [][]any
		for _, l := range found {
			var names []string
			for _, f := range l.Families {
				names = append(names, f.Name)
			}
			rows = append(rows, []any{l.Id, l.GrantedTo.Name, strings.Join(names, ", "), uses(l), runs(l), l.Kind, len(l.Documents)})
		}
		terminal.Grid(w, []any{"No.", "Granted to", "Families", "Uses", "Term", "Kind", "Documents"}, []string{"No.", "Documents"}, rows)
	})
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

// LicenseLine says in a line what a license grants.
func LicenseLine(l api.License) string {
	parts := []string{fmt.Sprintf("%d: %s for %s", l.Id, l.Kind, l.GrantedTo.Name), uses(l), runs(l)}
	if l.Reference != "" {
		parts = append(parts, l.Reference)
	}
	for _, n := range l.Limits {
		parts = append(parts, fmt.Sprintf("%s of %s %s", thousands(n.Used), thousands(n.Cap), n.Measure))
	}
	switch len(l.Documents) {
	case 0:
		parts = append(parts, "no document")
	case 1:
		parts = append(parts, "1 document")
	default:
		parts = append(parts, fmt.Sprintf("%d documents", len(l.Documents)))
	}
	return strings.Join(parts, "; ")
}

func attach(ctx context.Context, s *api.Client, license int64, path string) (*api.Document, error) {
	body, kind, err := terminal.Form(path, nil)
	if err != nil {
		return nil, err
	}
	defer func() { _ = body.Close() }()
	return terminal.Call[api.Document](s.AddDocumentWithBody(ctx, license, kind, body))
}

// findFamilyDocument returns the number of a document that came with a family.
func findFamilyDocument(ctx context.Context, s *api.Client, text, family string) (int64, error) {
	if family == "" {
		return terminal.Number(text, "document; name its family with --family to give its name")
	}
	id, err := terminal.FindFamily(ctx, s, family)
	if err != nil {
		return 0, err
	}
	f, err := terminal.Call[api.Family](s.GetFamily(ctx, id))
	if err != nil {
		return 0, err
	}
	all := make([]terminal.Named, len(f.Documents))
	for i, p := range f.Documents {
		all[i] = terminal.Named{ID: p.Id, Name: p.Name, More: terminal.Size(p.Bytes)}
	}
	return terminal.Choose(text, "document", all)
}
