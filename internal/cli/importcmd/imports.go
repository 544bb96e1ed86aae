package importcmd

import (
	"context"
	"fmt"
	"io"
	"strconv"
	"strings"

	wrapped "github.com/jedib0t/go-pretty/v6/text"
	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// ImportsCommand is `imports`.
func ImportsCommand() *cli.Command {
	return &cli.Command{
		Name: "imports", Usage: "imports: list, show, select, accept, discard",
		Description: terminal.Example("An import is a set of files that came in together. Nothing is added to the catalog until\nits selected fonts are accepted.", "sparecrate imports list"),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list imports, newest first",
				Description: terminal.Example("Shows how many fonts of each are selected and imported.", "sparecrate imports list"),
				Flags:       []cli.Flag{terminal.JSONFlag, &cli.IntFlag{Name: "limit", Usage: "how many to list", Value: 30}},
				Action: func(ctx context.Context, c *cli.Command) error {
					s, _, err := terminal.Begin(c)
					if err != nil {
						return err
					}
					limit := c.Int("limit")
					found, err := terminal.Call[api.ImportPage](s.ListImports(ctx, &api.ListImportsParams{Limit: &limit}))
					if err != nil {
						return err
					}
					return terminal.Show(c, found, func(w io.Writer) {
						var rows [][]any
						for _, d := range found.Items {
							rows = append(rows, []any{d.Id, d.Title, d.Client.Name, d.Origin, d.State, d.Counts.Fonts, d.Counts.Marked, d.Counts.Taken, d.CreatedBy})
						}
						terminal.Grid(w, []any{"No.", "Import", "Client", "Origin", "State", "Fonts", "Marked", "Taken", "By"}, []string{"No.", "Fonts", "Marked", "Taken"}, rows)
					})
				},
			},
			{
				Name: "show", Usage: "show the files of an import and what happens to each", ArgsUsage: "IMPORT",
				Description: terminal.Example("IMPORT is its number in the list.", "sparecrate imports show 1"),
				Flags:       []cli.Flag{terminal.JSONFlag},
				Action: importAction(func(ctx context.Context, _ *cli.Command, s *api.Client, id int64, _ []string) (*api.Import, error) {
					return terminal.Call[api.Import](s.GetImport(ctx, id))
				}),
			},
			{
				Name: "select", Usage: "select fonts of an import, and set their client and family", ArgsUsage: "IMPORT [FONT...]",
				Description: terminal.Example("FONT is a number from `imports show`; without any, all fonts that are not imported yet\nare changed. The chosen family is remembered for later imports of the same fonts.",
					"sparecrate imports select --origin client --add 1"),
				Flags: []cli.Flag{
					terminal.JSONFlag,
					&cli.BoolFlag{Name: "skip", Usage: "do not add them to the catalog"},
					&cli.BoolFlag{Name: "add", Usage: "add them to the catalog when the import is accepted"},
					&cli.StringFlag{Name: "client", Usage: "`NAME` or number of the client"},
					&cli.StringFlag{Name: "origin", Usage: "bought, client, open, commissioned, hosted or unknown"},
					&cli.StringFlag{Name: "family", Usage: "`NAME` of the family to add them to; '' for the one the fonts name"},
					&cli.StringSliceFlag{Name: "tag", Usage: "a tag for their families; may be repeated, '' for none"},
					&cli.StringFlag{Name: "resolve", Usage: "resolve a conflict: `use` these files, or keep the others"},
				},
				Action: importAction(markItems),
			},
			{
				Name: "accept", Usage: "accept an import: add its selected fonts to the catalog", ArgsUsage: "IMPORT",
				Description: terminal.Example("Waits until everything is read and added. Documents in the same folders are added to their families.", "sparecrate imports accept 1"),
				Flags:       []cli.Flag{terminal.JSONFlag},
				Action: importAction(func(ctx context.Context, c *cli.Command, s *api.Client, id int64, _ []string) (*api.Import, error) {
					if _, err := settled(ctx, c, s, id, "reading"); err != nil {
						return nil, err
					}
					if _, err := terminal.Call[api.Import](s.AcceptImport(ctx, id)); err != nil {
						return nil, err
					}
					return settled(ctx, c, s, id, "taking in")
				}),
			},
			{
				Name: "discard", Usage: "discard an import: nothing more is added to the catalog", ArgsUsage: "IMPORT",
				Description: terminal.Example("Stops running work, too. Fonts that were imported stay in the catalog.", "sparecrate imports discard 1"),
				Flags:       []cli.Flag{terminal.JSONFlag},
				Action: importAction(func(ctx context.Context, _ *cli.Command, s *api.Client, id int64, _ []string) (*api.Import, error) {
					return terminal.Call[api.Import](s.DiscardImport(ctx, id))
				}),
			},
		},
	}
}

// allFamilies adds the later pages of an import's families to it.
func allFamilies(ctx context.Context, s *api.Client, d *api.Import) error {
	for d.NextFamilies != nil {
		page, err := terminal.Call[api.ImportFamilyPage](s.ListImportFamilies(ctx, d.Id, &api.ListImportFamiliesParams{Cursor: d.NextFamilies}))
		if err != nil {
			return err
		}
		d.Families, d.NextFamilies = append(d.Families, page.Items...), page.Next
	}
	return nil
}

// importAction runs a command on one import and shows what it is then.
func importAction(do func(ctx context.Context, c *cli.Command, s *api.Client, id int64, more []string) (*api.Import, error)) cli.ActionFunc {
	const what = "a DELIVERY, by its number"
	return func(ctx context.Context, c *cli.Command) error {
		args := c.Args().Slice()
		if c.Name != "select" {
			var err error
			if args, err = terminal.Arguments(c, what); err != nil {
				return err
			}
		} else if len(args) == 0 {
			return terminal.Misused("`%s` needs %s", c.FullName(), what)
		}
		id, err := strconv.ParseInt(args[0], 10, 64)
		if err != nil {
			return terminal.Misused("%q is no number of an import", args[0])
		}
		s, err := terminal.Connect()
		if err != nil {
			return err
		}
		d, err := do(ctx, c, s, id, args[1:])
		if err != nil {
			return err
		}
		if err := allFamilies(ctx, s, d); err != nil {
			return err
		}
		items, err := importItems(ctx, s, id)
		if err != nil {
			return err
		}
		return terminal.Show(c, arrived{Import: d, Items: items}, func(w io.Writer) { showImport(w, d, items) })
	}
}

func markItems(ctx context.Context, c *cli.Command, s *api.Client, id int64, more []string) (*api.Import, error) {
	var change api.ImportChange
	if len(more) > 0 {
		items := make([]int64, len(more))
		for i, text := range more {
			n, err := strconv.ParseInt(text, 10, 64)
			if err != nil {
				return nil, terminal.Misused("%q is no number of a font in an import", text)
			}
			items[i] = n
		}
		change.Items = &items
	}
	leave, take := c.Bool("skip"), c.Bool("add")
	if leave && take {
		return nil, terminal.Misused("use either --skip or --add")
	}
	if leave || take {
		change.Mark = &take
	}
	if v := c.String("client"); v != "" {
		change.Client = &v
	}
	if v := api.Origin(c.String("origin")); v != "" {
		change.Origin = &v
	}
	if c.IsSet("family") {
		v := c.String("family")
		change.Family = &v
	}
	if c.IsSet("tag") {
		tags := c.StringSlice("tag")
		change.Tags = &tags
	}
	if c.IsSet("resolve") {
		v := api.Settle(c.String("resolve"))
		change.Settle = &v
	}
	return terminal.Call[api.Import](s.ChangeImportItems(ctx, id, change))
}

// importItems returns all things of an import.
func importItems(ctx context.Context, s *api.Client, id int64) ([]api.ImportItem, error) {
	return itemsOf(ctx, s, id, "")
}

// itemsOf returns the things of an import of one kind, or of all where it is empty.
func itemsOf(ctx context.Context, s *api.Client, id int64, kind api.ImportKind) ([]api.ImportItem, error) {
	limit := 200
	q := api.ListImportItemsParams{Limit: &limit}
	if kind != "" {
		q.Kind = &kind
	}
	all := []api.ImportItem{}
	for {
		page, err := terminal.Call[api.ImportItemPage](s.ListImportItems(ctx, id, &q))
		if err != nil {
			return nil, err
		}
		all = append(all, page.Items...)
		if page.Next == nil {
			return all, nil
		}
		q.Cursor = page.Next
	}
}

// showImport prints an import: families, fonts, documents, and what is left out.
func showImport(w io.Writer, d *api.Import, items []api.ImportItem) {
	_, _ = fmt.Fprintf(w, "Import %d, %s, for %s (%s): %s\n\n", d.Id, d.Title, d.Client.Name, d.Origin, d.State)
	var rest []string
	const width, indent = 92, "               "
	say := func(text string) {
		for line := range strings.Lines(wrapped.WrapSoft(text, width-len(indent))) {
			_, _ = fmt.Fprintf(w, "%s%s\n", indent, strings.TrimRight(line, " \n"))
		}
	}
	for _, it := range items {
		switch it.Kind {
		case api.ItemFont:
			mark := "left"
			switch {
			case it.Taken:
				mark = "taken"
			case it.Undecided != nil:
				mark = "decide"
			case it.Marked:
				mark = "marked"
			}
			outcome := ""
			if it.Outcome != nil {
				outcome = string(*it.Outcome)
			}
			_, _ = fmt.Fprintf(w, "  %4d  %-6s  %-10s  %s (%s)\n", it.Id, mark, outcome, it.Path, strings.Join(it.Faces, ", "))
			say(it.Why)
			if it.Outcome != nil && *it.Outcome != api.OutcomeSame {
				for _, p := range it.Problems {
					say("Mind: " + p)
				}
			}
		case api.ItemDocument:
			rest = append(rest, fmt.Sprintf("  %-9s %s, %s", "document", it.Path, terminal.Size(it.Bytes)))
		case api.ItemLeftOut, api.ItemRefused:
			rest = append(rest, fmt.Sprintf("  %-9s %s: %s", it.Kind, it.Path, it.Why))
		}
	}
	for i, f := range d.Families {
		if i == 0 {
			_, _ = fmt.Fprintln(w)
		}
		what := "a new family"
		if f.Family != nil {
			what = fmt.Sprintf("family %d", f.Family.Id)
		}
		_, _ = fmt.Fprintf(w, "%s for %s, %s: %s\n", f.Name, f.Client.Name, what, strings.Join(f.Styles, ", "))
		for _, warning := range f.Warnings {
			_, _ = fmt.Fprintf(w, "  %s\n", warning)
		}
	}
	if len(rest) > 0 {
		_, _ = fmt.Fprintf(w, "\n%s\n", strings.Join(rest, "\n"))
	}
	undecided(w, d, items)
}

// undecided says how fonts are finished that wait for that.
func undecided(w io.Writer, d *api.Import, items []api.ImportItem) {
	var waiting []string
	for _, it := range items {
		if it.Undecided != nil && it.Marked {
			waiting = append(waiting, strconv.FormatInt(it.Id, 10))
		}
	}
	if len(waiting) > 0 {
		_, _ = fmt.Fprintf(w, "\nSomebody has to say of %s which file counts, with\n`sparecrate imports select --resolve use %d %s`, or with --resolve keep for the others.\n",
			terminal.Count(len(waiting), "font"), d.Id, strings.Join(waiting[:min(len(waiting), 6)], " "))
	}
}
