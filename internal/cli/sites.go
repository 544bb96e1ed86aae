package cli

import (
	"context"
	"fmt"
	"io"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
)

func siteCommand() *cli.Command {
	return &cli.Command{
		Name: "site", Usage: "what is delivered: list, add, show, change, use, drop, place, swap, sign-off, live",
		Description: example("A site is a web site or an app for a client; it has a builder and uses families.", "sparecrate site use 'Holmvik timetable' 'Skerrow Sans'"),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list sites", Flags: []cli.Flag{jsonFlag},
				Description: example("Shows each site's families with their verdicts.", "sparecrate site list"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, _, err := begin(c)
					if err != nil {
						return err
					}
					found, err := sites(ctx, s)
					if err != nil {
						return err
					}
					return show(c, found, func(w io.Writer) {
						var rows [][]any
						for _, v := range found {
							rows = append(rows, []any{v.Id, v.Name, v.Client.Name, v.Builder.Kind, strings.Join(v.Domains, ", "), usedLine(v)})
						}
						grid(w, []any{"No.", "Site", "Client", "Builder", "Domains", "Families"}, []string{"No."}, rows)
					})
				},
			},
			{
				Name: "add", Usage: "add a site", ArgsUsage: "NAME",
				Description: example("`sparecrate builder list` shows the kinds of builders.",
					"sparecrate site add --client 'Holmvik Ferries' --builder self-hosted --domain crew.holmvik.example 'Holmvik crew pages'"),
				Flags: []cli.Flag{
					jsonFlag,
					&cli.StringFlag{Name: "client", Usage: "`CLIENT` it is for, by name or number", Required: true},
					&cli.StringFlag{Name: "builder", Usage: "kind of builder", Value: "self-hosted"},
					&cli.StringSliceFlag{Name: "domain", Usage: "`DOMAIN` it answers on"},
				},
				Action: addSite,
			},
			siteAction("show", "show a site and what may be done with its families", "SITE", "sparecrate site show 'Holmvik timetable'", nil, func(ctx context.Context, s *api.Client, site int64, _ []string) (*api.Site, error) {
				return call[api.Site](s.GetSite(ctx, site))
			}),
			useFamilyCommand(),
			siteAction("drop", "say that a site no longer uses a family", "SITE FAMILY", "sparecrate site drop 'Orrery Hall visitor site' 'Umbrisk Display'", []string{"a FAMILY, by number or name"}, func(ctx context.Context, s *api.Client, site int64, args []string) (*api.Site, error) {
				family, err := findFamily(ctx, s, args[0])
				if err != nil {
					return nil, err
				}
				return call[api.Site](s.DropFamily(ctx, site, family))
			}),
			changeSiteCommand(), placeCommand(), unplaceCommand(), swapCommand(), unswapCommand(), signOffCommand(), liveCommand(),
		},
	}
}

// siteAction is a command on one site that answers with the site.
func siteAction(name, about, usage, line string, more []string, do func(context.Context, *api.Client, int64, []string) (*api.Site, error)) *cli.Command {
	return &cli.Command{
		Name: name, Usage: about, ArgsUsage: usage, Flags: []cli.Flag{jsonFlag},
		Description: example("SITE and FAMILY are numbers or whole names. Prints the site with the verdict on each family.", line),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := begin(c, append([]string{"a SITE, by number or name"}, more...)...)
			if err != nil {
				return err
			}
			site, err := findSite(ctx, s, args[0])
			if err != nil {
				return err
			}
			v, err := do(ctx, s, site, args[1:])
			if err != nil {
				return err
			}
			return show(c, v, func(w io.Writer) { showSite(w, v) })
		},
	}
}

func sites(ctx context.Context, s *api.Client) ([]api.Site, error) {
	limit := 200
	q := api.ListSitesParams{Limit: &limit}
	found := []api.Site{}
	for {
		page, err := call[api.SitePage](s.ListSites(ctx, &q))
		if err != nil {
			return nil, err
		}
		found = append(found, page.Items...)
		if q.Cursor = page.Next; page.Next == nil {
			return found, nil
		}
	}
}

func findSite(ctx context.Context, s *api.Client, text string) (int64, error) {
	found, err := sites(ctx, s)
	if err != nil {
		return 0, err
	}
	all := make([]named, len(found))
	for i, v := range found {
		all[i] = named{v.Id, v.Name, v.Client.Name}
	}
	return choose(text, "site", all)
}

func usedLine(v api.Site) string {
	var out []string
	for _, f := range v.Families {
		out = append(out, fmt.Sprintf("%s (%s)", f.Family.Name, f.Verdict))
	}
	return strings.Join(out, ", ")
}

func showSite(w io.Writer, v *api.Site) {
	_, _ = fmt.Fprintf(w, "%s  (site %d, %s)\n", v.Name, v.Id, v.Client.Name)
	var where []string
	for _, e := range v.Environments {
		if e.Prefix != nil {
			e.Name += " at " + *e.Prefix
		}
		where = append(where, e.Name)
	}
	pairs(w, [2]string{"builder", v.Builder.Name}, [2]string{"domains", strings.Join(v.Domains, ", ")}, [2]string{"environments", strings.Join(where, ", ")}, [2]string{"words", v.Words})
	for _, f := range v.Families {
		_, _ = fmt.Fprintf(w, "\n%s: %s\n", f.Family.Name, f.Verdict)
		if len(f.Hosts) > 0 {
			pairs(w, [2]string{"served by", strings.Join(f.Hosts, ", ") + ", at each page view; nothing of it is in packs"})
		}
		if f.Reshaped != nil {
			pairs(w, [2]string{"in packs", *f.Reshaped})
		}
		for _, r := range f.Reasons {
			pairs(w, [2]string{string(r.State), r.Message + " [" + r.Evidence + "]"})
		}
		if o := f.SignOff; o != nil {
			pairs(w, [2]string{"signed off", fmt.Sprintf("by %s on %s%s: %s", o.By, when(o.At), untilDay(o), o.Reason)})
		}
	}
	showRoles(w, v)
}

func addSite(ctx context.Context, c *cli.Command) error {
	s, args, err := begin(c, "the NAME of the site")
	if err != nil {
		return err
	}
	client, err := findClient(ctx, s, c.String("client"))
	if err != nil {
		return err
	}
	domains := c.StringSlice("domain")
	v, err := call[api.Site](s.AddSite(ctx, api.SiteTerms{Name: args[0], Client: client, Builder: c.String("builder"), Domains: &domains}))
	if err != nil {
		return err
	}
	return show(c, v, func(w io.Writer) { showSite(w, v) })
}
