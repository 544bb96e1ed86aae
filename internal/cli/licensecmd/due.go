// Package licensecmd is what deals with licenses: `license`, `verdict`, `due`, `register`
// and `views`.
package licensecmd

import (
	"context"
	"fmt"
	"io"
	"os"
	"regexp"
	"strings"
	"time"

	"github.com/jedib0t/go-pretty/v6/text"
	openapi "github.com/oapi-codegen/runtime/types"
	"github.com/urfave/cli/v3"
	"golang.org/x/term"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// wholeKey is the key of an item, not only its beginning.
var wholeKey = regexp.MustCompile(`^[0-9a-f]{64}$`)

// mostItems is how many items a list has at most.
const mostItems = 5000

// DueCommand is `due`.
func DueCommand() *cli.Command {
	return &cli.Command{
		Name: "due", Usage: "list what needs attention: renewals, limits, missing licenses, blocked fonts",
		Description: terminal.Example("The heaviest comes first, then the soonest.", "sparecrate due --within 30"),
		Flags: []cli.Flag{
			terminal.JSONFlag,
			&cli.IntFlag{Name: "within", Usage: "how many `DAYS` ahead to look", Value: 90},
			&cli.StringFlag{Name: "client", Usage: "only this `CLIENT`, by name or number"},
			&cli.BoolFlag{Name: "snoozed", Usage: "also show snoozed items"},
			&cli.StringFlag{Name: "owner", Usage: "only items assigned to this `PERSON`: an e-mail address, me, or none"},
		},
		Commands: []*cli.Command{
			{
				Name: "snooze", Usage: "hide an item until a day, or show it again", ArgsUsage: "KEY [DAY]",
				Description: terminal.Example("KEY is the beginning of an item's key, as `sparecrate due` shows it. Without DAY the item is shown again.", "sparecrate due snooze --help"),
				Flags:       []cli.Flag{terminal.JSONFlag},
				Action:      snooze,
			},
			{
				Name: "assign", Usage: "assign an item to a person, or unassign it", ArgsUsage: "KEY [E-MAIL]",
				Description: terminal.Example("KEY is the beginning of an item's key, as `sparecrate due` shows it. Without E-MAIL the item is unassigned.", "sparecrate due assign --help"),
				Flags:       []cli.Flag{terminal.JSONFlag},
				Action:      assign,
			},
			{
				Name: "mail", Usage: "send yourself the weekly e-mail, subscribe or unsubscribe",
				Description: terminal.Example("Without a flag it is sent now. The service needs a mail server for it.", "sparecrate due mail --stop"),
				Flags:       []cli.Flag{&cli.BoolFlag{Name: "order", Usage: "subscribe to it"}, &cli.BoolFlag{Name: "stop", Usage: "unsubscribe"}},
				Action: func(ctx context.Context, c *cli.Command) error {
					s, _, err := terminal.Begin(c)
					if err != nil {
						return err
					}
					if c.Bool("order") || c.Bool("stop") {
						me, err := terminal.Call[api.Person](s.SetWeekly(ctx, api.SetWeeklyJSONRequestBody{Weekly: c.Bool("order")}))
						if err != nil {
							return err
						}
						said := "gets the due list by e-mail each week"
						if !me.Weekly {
							said = "gets no weekly e-mail"
						}
						_, _ = fmt.Fprintf(c.Root().Writer, "%s %s.\n", me.Email, said)
						return nil
					}
					if _, err := terminal.Call[terminal.Nothing](s.SendDue(ctx)); err != nil {
						return err
					}
					_, _ = fmt.Fprintln(c.Root().Writer, "The due list is on its way to you.")
					return nil
				},
			},
			{
				Name: "calendar", Usage: "calendar feeds of due dates: create, list or revoke",
				Description: terminal.Example("Anyone who has the URL reads the list with your rights. It is shown once.", "sparecrate due calendar"),
				Flags:       []cli.Flag{terminal.JSONFlag, &cli.BoolFlag{Name: "list", Usage: "list your feeds"}, &cli.StringFlag{Name: "revoke", Usage: "revoke the feed with this `NUMBER`"}},
				Action:      calendar,
			},
		},
		Action: listDue,
	}
}

// shortKey is how much of a key is shown; it tells the items of a list apart.
const shortKey = 8

// withItem begins a call that takes the beginning of an item's key and one more argument,
// which may be missing.
func withItem(ctx context.Context, c *cli.Command, other string) (s *api.Client, key string, args []string, err error) {
	args = c.Args().Slice()
	if len(args) < 1 || len(args) > 2 {
		return nil, "", nil, terminal.Misused("`%s` takes a KEY and %s", c.FullName(), other)
	}
	if s, err = terminal.Connect(); err != nil {
		return nil, "", nil, err
	}
	key, err = keyFor(ctx, s, args[0])
	return s, key, args, err
}

func snooze(ctx context.Context, c *cli.Command) error {
	s, key, args, err := withItem(ctx, c, "a DAY")
	if err != nil {
		return err
	}
	if len(args) == 1 {
		if _, err := terminal.Call[terminal.Nothing](s.WakeDue(ctx, key)); err != nil {
			return err
		}
		return terminal.Show(c, map[string]string{"key": key}, func(w io.Writer) { _, _ = fmt.Fprintln(w, "The item is shown again.") })
	}
	day, err := time.Parse(time.DateOnly, args[1])
	if err != nil {
		return terminal.Misused("DAY is a day like 2027-03-31, not %q", args[1])
	}
	if _, err := terminal.Call[terminal.Nothing](s.SnoozeDue(ctx, key, api.NewSnooze{Until: openapi.Date{Time: day}})); err != nil {
		return err
	}
	return terminal.Show(c, map[string]string{"key": key, "until": args[1]}, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Snoozed until %s.\n", args[1]) })
}

// keyFor returns the key of the item of the due list whose key begins like that.
func keyFor(ctx context.Context, s *api.Client, begins string) (string, error) {
	if wholeKey.MatchString(begins) {
		return begins, nil
	}
	found, err := terminal.Call[api.DueList](s.ListDue(ctx, &api.ListDueParams{Within: new(366), Snoozed: new(true), Limit: new(mostItems)}))
	if err != nil {
		return "", err
	}
	key := ""
	for _, i := range found.Items {
		if strings.HasPrefix(i.Key, strings.ToLower(begins)) {
			if key != "" {
				return "", terminal.Misused("several items begin with %q; type more of the key", begins)
			}
			key = i.Key
		}
	}
	if key == "" {
		return "", fmt.Errorf("no item begins with %q; `sparecrate due` shows the keys", begins)
	}
	return key, nil
}

func assign(ctx context.Context, c *cli.Command) error {
	s, key, args, err := withItem(ctx, c, "an E-MAIL")
	if err != nil {
		return err
	}
	if len(args) == 1 {
		if _, err := terminal.Call[terminal.Nothing](s.UnassignDue(ctx, key)); err != nil {
			return err
		}
		return terminal.Show(c, map[string]string{"key": key}, func(w io.Writer) { _, _ = fmt.Fprintln(w, "The item is unassigned.") })
	}
	people, err := terminal.Call[api.OwnerList](s.ListOwners(ctx))
	if err != nil {
		return err
	}
	for _, o := range people.Items {
		if strings.EqualFold(o.Email, args[1]) {
			if _, err := terminal.Call[terminal.Nothing](s.AssignDue(ctx, key, api.NewOwner{Person: o.Id})); err != nil {
				return err
			}
			return terminal.Show(c, map[string]any{"key": key, "owner": o}, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Assigned to %s.\n", o.Name) })
		}
	}
	known := make([]string, 0, len(people.Items))
	for _, o := range people.Items {
		known = append(known, o.Email)
	}
	return fmt.Errorf("no editor or admin has the e-mail address %q; there are %s", args[1], strings.Join(known, ", "))
}

func calendar(ctx context.Context, c *cli.Command) error {
	s, _, err := terminal.Begin(c)
	if err != nil {
		return err
	}
	switch {
	case c.IsSet("revoke"):
		id, err := terminal.Number(c.String("revoke"), "feed")
		if err != nil {
			return err
		}
		if _, err := terminal.Call[terminal.Nothing](s.RevokeFeed(ctx, id)); err != nil {
			return err
		}
		_, _ = fmt.Fprintf(c.Root().Writer, "Feed %d is revoked.\n", id)
		return nil
	case c.Bool("list"):
		found, err := terminal.Call[api.FeedList](s.ListFeeds(ctx))
		if err != nil {
			return err
		}
		return terminal.Show(c, found.Items, func(w io.Writer) {
			var rows [][]any
			for _, f := range found.Items {
				read := "never"
				if f.ReadAt != nil {
					read = terminal.When(*f.ReadAt)
				}
				rows = append(rows, []any{f.Id, terminal.When(f.CreatedAt), read})
			}
			terminal.Grid(w, []any{"No.", "Made", "Last read"}, []string{"No."}, rows)
		})
	}
	made, err := terminal.Call[api.NewFeed](s.AddFeed(ctx))
	if err != nil {
		return err
	}
	full, err := terminal.SecretAddress(made.Feed.Id, made.Path)
	if err != nil {
		return err
	}
	return terminal.Show(c, full, func(w io.Writer) {
		_, _ = fmt.Fprintf(w, "%s\nGive this to your calendar program. It is not shown again; `sparecrate due calendar --revoke %d` ends it.\n", full.Address, full.Number)
	})
}

func listDue(ctx context.Context, c *cli.Command) error {
	if c.Args().Present() {
		return terminal.Misused("`%s` has no command %q", c.FullName(), c.Args().First())
	}
	s, err := terminal.Connect()
	if err != nil {
		return err
	}
	within := c.Int("within")
	q := api.ListDueParams{Within: &within, Limit: new(mostItems)}
	if c.Bool("snoozed") {
		q.Snoozed = new(true)
	}
	if c.IsSet("owner") {
		q.Owner = new(c.String("owner"))
	}
	of, err := terminal.GivenClient(ctx, s, c)
	if err != nil {
		return err
	}
	q.Client = of
	found, err := terminal.Call[api.DueList](s.ListDue(ctx, &q))
	if err != nil {
		return err
	}
	return terminal.Show(c, found, func(w io.Writer) {
		if found.AsOf != nil {
			_, _ = fmt.Fprintf(w, "As of %s; what has changed since is being worked out.\n", terminal.When(*found.AsOf))
		}
		if len(found.Items) == 0 {
			_, _ = fmt.Fprintf(w, "Nothing needs attention within %d days.\n", found.Within)
			return
		}
		width := 100
		if n, _, err := term.GetSize(int(os.Stdout.Fd())); err == nil && n > 40 {
			width = min(n, 120)
		}
		last := api.VerdictState("")
		for _, i := range found.Items {
			if i.State != last {
				last = i.State
				_, _ = fmt.Fprintf(w, "%s\n", map[api.VerdictState]string{api.Blocked: "Blocked", api.Review: "Needs review", api.Cleared: "Coming up"}[last])
			}
			when := "now"
			switch {
			case i.Days == nil:
			case *i.Days < 0:
				when = fmt.Sprintf("%d days ago", -*i.Days)
			default:
				when = fmt.Sprintf("in %d days", *i.Days)
			}
			message := i.Message
			if i.Client != nil && !strings.Contains(message, i.Client.Name) {
				message += " (" + i.Client.Name + ")"
			}
			for n, line := range strings.Split(text.WrapSoft(message, width-16), "\n") {
				if n > 0 {
					when = ""
				}
				_, _ = fmt.Fprintf(w, "  %-12s  %s\n", when, strings.TrimRight(line, " "))
			}
			note := i.Key[:shortKey]
			if i.Owner != nil {
				note += ", assigned to " + i.Owner.Name
			}
			if i.SnoozedUntil != nil {
				note += ", snoozed until " + i.SnoozedUntil.Format(time.DateOnly)
			}
			_, _ = fmt.Fprintf(w, "  %-12s  key %s\n", "", note)
		}
		if n := found.Total - len(found.Items); n > 0 {
			_, _ = fmt.Fprintf(w, "And %s; name a --client, an --owner or fewer days with --within.\n", terminal.Count(n, "more item"))
		}
		if found.Snoozed > 0 && !c.Bool("snoozed") {
			_, _ = fmt.Fprintf(w, "%s snoozed; --snoozed shows them.\n", terminal.Count(found.Snoozed, "item"))
		}
	})
}

// RegisterCommand is `register`.
func RegisterCommand() *cli.Command {
	return &cli.Command{
		Name: "register", Usage: "the license register: licenses, uses, documents and gaps of each family",
		Description: terminal.Example("With --out it is saved as .csv or .xlsx; the console has it as a page to print.", "sparecrate register --out register.xlsx"),
		Flags: []cli.Flag{
			terminal.JSONFlag,
			&cli.StringFlag{Name: "client", Usage: "only this `CLIENT`, by name or number"},
			&cli.StringFlag{Name: "out", Usage: "`FILE` to export to, .csv or .xlsx"},
		},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, _, err := terminal.Begin(c)
			if err != nil {
				return err
			}
			client, err := terminal.GivenClient(ctx, s, c)
			if err != nil {
				return err
			}
			if out := c.String("out"); out != "" {
				form := api.GetRegisterFileParamsFormat(strings.ToLower(out[strings.LastIndex(out, ".")+1:]))
				if form != api.RegisterCSV && form != api.RegisterXLSX {
					return terminal.Misused("--out ends with .csv or .xlsx, which says the form; %q does not", out)
				}
				r, err := s.GetRegisterFile(ctx, &api.GetRegisterFileParams{Format: form, Client: client})
				n, err := terminal.Download(r, err, out)
				if err != nil {
					return err
				}
				_, _ = fmt.Fprintf(c.Root().Writer, "Saved %s (%s).\n", out, terminal.Size(n))
				return nil
			}
			found, err := terminal.Call[api.Register](s.GetRegister(ctx, &api.GetRegisterParams{Client: client}))
			if err != nil {
				return err
			}
			return terminal.Show(c, found, func(w io.Writer) {
				for n, r := range found.Items {
					if n > 0 {
						_, _ = fmt.Fprintln(w)
					}
					_, _ = fmt.Fprintf(w, "%s  (family %d, %s, %s): %s\n", r.Family.Name, r.Family.Id, r.Client.Name, r.Origin, r.Verdict)
					for _, part := range []struct {
						what string
						of   []string
					}{{"licensed", r.Licenses}, {"used on", r.Sites}, {"evidence", r.Evidence}, {"missing", r.Missing}} {
						for _, line := range part.of {
							terminal.Pairs(w, [2]string{part.what, line})
						}
					}
				}
				if len(found.Items) == 0 {
					_, _ = fmt.Fprintln(w, "The register is empty.")
				}
			})
		},
	}
}
