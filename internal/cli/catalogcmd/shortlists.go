package catalogcmd

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// ShortlistCommand is `shortlist`.
func ShortlistCommand() *cli.Command {
	return &cli.Command{
		Name: "shortlist", Usage: "shortlists of families, to share with clients",
		Description: terminal.Example("Families on a client's shortlists come first wherever one is chosen for its sites.", "sparecrate shortlist list"),
		Commands: []*cli.Command{
			listShortlistsCommand(), addShortlistCommand(), showShortlistCommand(), changeShortlistCommand(), shareCommand(), revokeShareCommand(), deleteShortlistCommand(),
		},
	}
}

func allShortlists(ctx context.Context, s *api.Client, client string) ([]api.Shortlist, error) {
	limit := 200
	q := api.ListShortlistsParams{Limit: &limit, Client: &client}
	out := []api.Shortlist{}
	for {
		page, err := terminal.Call[api.ShortlistPage](s.ListShortlists(ctx, &q))
		if err != nil {
			return nil, err
		}
		out = append(out, page.Items...)
		if page.Next == nil {
			return out, nil
		}
		q.Cursor = page.Next
	}
}

func findShortlist(ctx context.Context, s *api.Client, text string) (*api.Shortlist, error) {
	found, err := allShortlists(ctx, s, "")
	if err != nil {
		return nil, err
	}
	all := make([]terminal.Named, len(found))
	for i, l := range found {
		all[i] = terminal.Named{ID: l.Id, Name: l.Name, More: l.Client.Name}
	}
	id, err := terminal.Choose(text, "shortlist", all)
	if err != nil {
		return nil, err
	}
	return &found[slices.IndexFunc(found, func(l api.Shortlist) bool { return l.Id == id })], nil
}

// withShortlist begins a call that names a shortlist.
func withShortlist(ctx context.Context, c *cli.Command, more ...string) (*api.Client, *api.Shortlist, []string, error) {
	s, args, err := terminal.Begin(c, append([]string{"a SHORTLIST, by number or name"}, more...)...)
	if err != nil {
		return nil, nil, nil, err
	}
	l, err := findShortlist(ctx, s, args[0])
	return s, l, args[1:], err
}

func onIt(l *api.Shortlist) string {
	out := make([]string, len(l.Families))
	for i, f := range l.Families {
		out[i] = f.Name
	}
	return strings.Join(out, ", ")
}

func showShortlist(w io.Writer, l *api.Shortlist) {
	_, _ = fmt.Fprintf(w, "%s  (shortlist %d, %s)\n", l.Name, l.Id, l.Client.Name)
	terminal.Pairs(w, [2]string{"note", l.Note})
	for i, f := range l.Families {
		_, _ = fmt.Fprintf(w, "%4d  %s\n", i+1, f.Name)
	}
	for _, h := range l.Shares {
		words := ""
		if h.SampleText != "" {
			words = fmt.Sprintf(", set in %q", h.SampleText)
		}
		terminal.Pairs(w, [2]string{"link", fmt.Sprintf("%d, %s, until %s, opened %d times, by %s%s", h.Id, h.State, h.EndsAt.Format(time.DateOnly), h.Views, h.CreatedBy, words)})
	}
}

func listShortlistsCommand() *cli.Command {
	return &cli.Command{
		Name: "list", Usage: "list shortlists", Flags: []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "client", Usage: "only families of this client, by `NAME` or number"}},
		Description: terminal.Example("By name.", "sparecrate shortlist list"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, _, err := terminal.Begin(c)
			if err != nil {
				return err
			}
			found, err := allShortlists(ctx, s, c.String("client"))
			if err != nil {
				return err
			}
			return terminal.Show(c, found, func(w io.Writer) {
				var rows [][]any
				for _, l := range found {
					rows = append(rows, []any{l.Id, l.Name, l.Client.Name, onIt(&l), len(l.Shares)})
				}
				terminal.Grid(w, []any{"No.", "Shortlist", "Client", "Families", "Links"}, []string{"No.", "Links"}, rows)
			})
		},
	}
}

func showShortlistCommand() *cli.Command {
	return &cli.Command{
		Name: "show", Usage: "show a shortlist, its families in order, and its links", ArgsUsage: "SHORTLIST", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("SHORTLIST is a number or a whole name.", "sparecrate shortlist show 'Winter timetable'"),
		Action: func(ctx context.Context, c *cli.Command) error {
			_, l, _, err := withShortlist(ctx, c)
			if err != nil {
				return err
			}
			return terminal.Show(c, l, func(w io.Writer) { showShortlist(w, l) })
		},
	}
}

// familyNumbers finds families by name or number, in order.
func familyNumbers(ctx context.Context, s *api.Client, names []string) (*[]int64, error) {
	out := []int64{}
	for _, n := range names {
		id, err := terminal.FindFamily(ctx, s, n)
		if err != nil {
			return nil, err
		}
		out = append(out, id)
	}
	return &out, nil
}

func addShortlistCommand() *cli.Command {
	return &cli.Command{
		Name: "add", Usage: "add a shortlist", ArgsUsage: "NAME [FAMILY...]",
		Description: terminal.Example("The families are listed in the order given.", "sparecrate shortlist add --client 'Holmvik Ferries' 'Spring signs' 'Skerrow Sans' 'Umbrisk Display'"),
		Flags:       []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "client", Usage: "the client, by `NAME` or number; default: the studio"}, &cli.StringFlag{Name: "note", Usage: "a note for readers"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Args().Len() < 1 {
				return terminal.Misused("`%s` needs a NAME", c.FullName())
			}
			s, err := terminal.Connect()
			if err != nil {
				return err
			}
			n := api.NewShortlist{Name: c.Args().First()}
			if n.Families, err = familyNumbers(ctx, s, c.Args().Slice()[1:]); err != nil {
				return err
			}
			n.Client, n.Note = terminal.Given(c, "client"), terminal.Given(c, "note")
			l, err := terminal.Call[api.Shortlist](s.AddShortlist(ctx, n))
			if err != nil {
				return err
			}
			return terminal.Show(c, l, func(w io.Writer) { showShortlist(w, l) })
		},
	}
}

func changeShortlistCommand() *cli.Command {
	return &cli.Command{
		Name: "change", Usage: "change a shortlist's name, note, families or order", ArgsUsage: "SHORTLIST",
		Description: terminal.Example("--family, repeated, gives all families in their order; --add puts one at the end,\n--remove takes one off.", "sparecrate shortlist change --add 'Skerrow Sans Variable' 'Winter timetable'"),
		Flags: []cli.Flag{
			terminal.JSONFlag, &cli.StringFlag{Name: "name", Usage: "the new `NAME`"}, &cli.StringFlag{Name: "note", Usage: "the new note"},
			&cli.StringSliceFlag{Name: "family", Usage: "all `FAMILIES`, in order"}, &cli.StringSliceFlag{Name: "add", Usage: "a `FAMILY` to add"}, &cli.StringSliceFlag{Name: "remove", Usage: "a `FAMILY` to remove"},
		},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, _, err := withShortlist(ctx, c)
			if err != nil {
				return err
			}
			ch := api.ShortlistChange{Name: terminal.Given(c, "name"), Note: terminal.Given(c, "note")}
			if ch.Families, err = reordered(ctx, c, s, l); err != nil {
				return err
			}
			if ch == (api.ShortlistChange{}) {
				return terminal.Misused("say what is to be changed, such as --add or --family")
			}
			if l, err = terminal.Call[api.Shortlist](s.ChangeShortlist(ctx, l.Id, &api.ChangeShortlistParams{IfMatch: l.Etag}, ch)); err != nil {
				return err
			}
			return terminal.Show(c, l, func(w io.Writer) { showShortlist(w, l) })
		},
	}
}

// reordered returns the families of a changed shortlist, nil where they stay.
func reordered(ctx context.Context, c *cli.Command, s *api.Client, l *api.Shortlist) (*[]int64, error) {
	if !c.IsSet("family") && !c.IsSet("add") && !c.IsSet("remove") {
		return nil, nil
	}
	now := []int64{}
	for _, f := range l.Families {
		now = append(now, f.Id)
	}
	if c.IsSet("family") {
		all, err := familyNumbers(ctx, s, c.StringSlice("family"))
		if err != nil {
			return nil, err
		}
		now = *all
	}
	added, err := familyNumbers(ctx, s, c.StringSlice("add"))
	if err != nil {
		return nil, err
	}
	removed, err := familyNumbers(ctx, s, c.StringSlice("remove"))
	if err != nil {
		return nil, err
	}
	now = slices.DeleteFunc(append(now, *added...), func(id int64) bool { return slices.Contains(*removed, id) })
	return &now, nil
}

func shareCommand() *cli.Command {
	return &cli.Command{
		Name: "share", Usage: "create a link that shows a shortlist to people without an account", ArgsUsage: "SHORTLIST",
		Description: terminal.Example("The page sets the words in each family: as fonts where the license is clear for the\nclient's web, as pictures where it is not. The link ends by itself.", "sparecrate shortlist share --sample-text 'Next boat 16:35' --days 7 'Winter timetable'"),
		Flags:       []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "sample-text", Usage: "sample `TEXT` to show; default: each font's own"}, &cli.IntFlag{Name: "days", Usage: "how many `DAYS` the link is valid", Value: 14}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, _, err := withShortlist(ctx, c)
			if err != nil {
				return err
			}
			words, days := c.String("sample-text"), c.Int("days")
			added, err := terminal.Call[api.AddedShare](s.ShareShortlist(ctx, l.Id, api.NewShare{SampleText: &words, Days: &days}))
			if err != nil {
				return err
			}
			r, err := terminal.WhereTo()
			if err != nil {
				return err
			}
			address := strings.TrimSuffix(r.Address, "/") + added.Path
			out := struct {
				Address string    `json:"address"`
				Link    int64     `json:"link"`
				EndsAt  time.Time `json:"endsAt"`
			}{address, added.Share.Id, added.Share.EndsAt}
			return terminal.Show(c, out, func(w io.Writer) {
				_, _ = fmt.Fprintf(w, "%s\nValid until %s. This URL is not shown again. Revoke it with `sparecrate shortlist revoke %d %d`.\n", address, added.Share.EndsAt.Format(time.DateOnly), l.Id, added.Share.Id)
			})
		},
	}
}

func revokeShareCommand() *cli.Command {
	return &cli.Command{
		Name: "revoke", Usage: "revoke a link to a shortlist", ArgsUsage: "SHORTLIST LINK", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("`sparecrate shortlist show` lists the links by number.", "sparecrate shortlist revoke 'Winter timetable' 1"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, rest, err := withShortlist(ctx, c, "the number of a LINK")
			if err != nil {
				return err
			}
			id, err := terminal.Number(rest[0], "link")
			if err != nil {
				return err
			}
			if _, err := terminal.Call[terminal.Nothing](s.RevokeShare(ctx, l.Id, id)); err != nil {
				return err
			}
			return terminal.Show(c, map[string]int64{"revoked": id}, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Link %d no longer works.\n", id) })
		},
	}
}

func deleteShortlistCommand() *cli.Command {
	return &cli.Command{
		Name: "delete", Usage: "delete a shortlist and its links; the families stay", ArgsUsage: "SHORTLIST", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("SHORTLIST is a number or a whole name.", "sparecrate shortlist delete 'Winter timetable'"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, _, err := withShortlist(ctx, c)
			if err != nil {
				return err
			}
			if _, err := terminal.Call[terminal.Nothing](s.DeleteShortlist(ctx, l.Id)); err != nil {
				return err
			}
			return terminal.Show(c, map[string]string{"dropped": l.Name}, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Deleted %s.\n", l.Name) })
		},
	}
}
