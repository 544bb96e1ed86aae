// Package sitecmd is what deals with sites: `site`, `builder`, `pack`, `file URLs`, `pages` and
// `sign-offs`.
package sitecmd

import (
	"context"
	"fmt"
	"io"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/font/reshape"
	"sparecrate/internal/cli/catalogcmd"
	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/license"
)

// SiteCommand is `site`.
func SiteCommand() *cli.Command {
	return &cli.Command{
		Name: "site", Usage: "sites: families, roles, replacements, sign-offs, outlets",
		Description: terminal.Example("A site is a web site or an app for a client; it has a builder and uses families.", "sparecrate site add-family 'Holmvik timetable' 'Skerrow Sans'"),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list sites", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("Shows each site's families with their verdicts.", "sparecrate site list"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, _, err := terminal.Begin(c)
					if err != nil {
						return err
					}
					found, err := terminal.AllSites(ctx, s, false)
					if err != nil {
						return err
					}
					return terminal.Show(c, found, func(w io.Writer) {
						var rows [][]any
						for _, v := range found {
							rows = append(rows, []any{v.Id, v.Name, v.Client.Name, v.Builder.Kind, strings.Join(v.Domains, ", "), usedLine(v)})
						}
						terminal.Grid(w, []any{"No.", "Site", "Client", "Builder", "Domains", "Families"}, []string{"No."}, rows)
					})
				},
			},
			{
				Name: "add", Usage: "add a site", ArgsUsage: "NAME",
				Description: terminal.Example("`sparecrate builder list` shows the kinds of builders.",
					"sparecrate site add --client 'Holmvik Ferries' --builder self-hosted --domain crew.holmvik.example 'Holmvik crew pages'"),
				Flags: []cli.Flag{
					terminal.JSONFlag,
					&cli.StringFlag{Name: "client", Usage: "`CLIENT` it is for, by name or number", Required: true},
					&cli.StringFlag{Name: "builder", Usage: "kind of builder", Value: "self-hosted"},
					&cli.StringSliceFlag{Name: "domain", Usage: "a `DOMAIN` of the site; may be repeated"},
				},
				Action: addSite,
			},
			siteAction("show", "show a site and what may be done with its families", "SITE", "sparecrate site show 'Holmvik timetable'", nil, func(ctx context.Context, s *api.Client, site int64, _ []string) (*api.Site, error) {
				return terminal.Call[api.Site](s.GetSite(ctx, site))
			}),
			addSiteFamilyCommand(),
			siteAction("remove-family", "remove a family from a site", "SITE FAMILY", "sparecrate site remove-family 'Orrery Hall visitor site' 'Umbrisk Display'", []string{"a FAMILY, by number or name"}, func(ctx context.Context, s *api.Client, site int64, args []string) (*api.Site, error) {
				family, err := terminal.FindFamily(ctx, s, args[0])
				if err != nil {
					return nil, err
				}
				return terminal.Call[api.Site](s.RemoveSiteFamily(ctx, site, family))
			}),
			changeSiteCommand(), placeCommand(), rolesCommand(), unplaceCommand(), swapCommand(), unswapCommand(), signOffCommand(), liveCommand(), outletsCommand(),
		},
	}
}

// siteAction is a command on one site that answers with the site.
func siteAction(name, about, usage, line string, more []string, do func(context.Context, *api.Client, int64, []string) (*api.Site, error)) *cli.Command {
	return &cli.Command{
		Name: name, Usage: about, ArgsUsage: usage, Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("SITE and FAMILY are numbers or whole names. Prints the site with the verdict on each family.", line),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, append([]string{"a SITE, by number or name"}, more...)...)
			if err != nil {
				return err
			}
			site, err := terminal.FindSite(ctx, s, args[0])
			if err != nil {
				return err
			}
			v, err := do(ctx, s, site, args[1:])
			if err != nil {
				return err
			}
			return terminal.Show(c, v, func(w io.Writer) { showSite(w, v) })
		},
	}
}

func usedLine(v api.Site) string {
	var out []string
	for _, f := range v.Families {
		out = append(out, fmt.Sprintf("%s (%s)", f.Family.Name, license.State(f.Verdict).Words()))
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
	terminal.Pairs(w, [2]string{"builder", v.Builder.Name}, [2]string{"domains", strings.Join(v.Domains, ", ")}, [2]string{"environments", strings.Join(where, ", ")}, [2]string{"words", v.SampleText})
	if v.OutletOf != nil {
		terminal.Pairs(w, [2]string{"outlet of", fmt.Sprintf("%s, site %d; families and roles are the site's", v.OutletOf.Name, v.OutletOf.Id)})
	} else {
		for _, o := range v.Outlets {
			terminal.Pairs(w, [2]string{"outlet", fmt.Sprintf("%s, %s (site %d)", o.Name, o.Builder.Name, o.Id)})
		}
	}
	for _, f := range v.Families {
		_, _ = fmt.Fprintf(w, "\n%s: %s\n", f.Family.Name, license.State(f.Verdict).Words())
		if len(f.Hosts) > 0 {
			terminal.Pairs(w, [2]string{"served by", strings.Join(f.Hosts, ", ") + ", at each page view; nothing of it is in packs"}, [2]string{"stylesheet", strings.Join(f.Sheets, " ")})
		}
		if f.Reshaped != nil {
			terminal.Pairs(w, [2]string{"in packs", *f.Reshaped})
		}
		for _, r := range f.Reasons {
			terminal.Pairs(w, [2]string{string(r.State), r.Message + " [" + r.Evidence + "]"})
		}
		if o := f.SignOff; o != nil {
			terminal.Pairs(w, [2]string{"signed off", fmt.Sprintf("by %s on %s%s: %s", o.By, terminal.When(o.At), terminal.UntilDay(o), o.Reason)})
		}
	}
	showRoles(w, v)
}

func addSite(ctx context.Context, c *cli.Command) error {
	s, args, err := terminal.Begin(c, "the NAME of the site")
	if err != nil {
		return err
	}
	client, err := terminal.FindClient(ctx, s, c.String("client"))
	if err != nil {
		return err
	}
	domains := c.StringSlice("domain")
	v, err := terminal.Call[api.Site](s.AddSite(ctx, api.SiteTerms{Name: args[0], Client: client, Builder: c.String("builder"), Domains: &domains}))
	if err != nil {
		return err
	}
	return terminal.Show(c, v, func(w io.Writer) { showSite(w, v) })
}

// showSizes says how large the files of a family would be by a recipe, once they are made.
func showSizes(ctx context.Context, c *cli.Command, s *api.Client, site, family int64, body api.FamilyOnSite) error {
	v, err := whole(ctx, func() (*api.RecipeSizes, error) {
		return terminal.Call[api.RecipeSizes](s.SizeSiteFamily(ctx, site, family, body))
	}, func(v *api.RecipeSizes) bool { return v.Pending })
	if err != nil {
		return err
	}
	return terminal.Show(c, v, func(w io.Writer) {
		var rows [][]any
		for _, one := range v.Items {
			rows = append(rows, []any{one.Style, terminal.Size(one.Before), terminal.Size(one.After), saving(one.Before, one.After)})
		}
		rows = append(rows, []any{"Together", terminal.Size(v.Before), terminal.Size(v.After), saving(v.Before, v.After)})
		terminal.Grid(w, []any{"Face", "Now", "Then", "Saves"}, []string{"Now", "Then", "Saves"}, rows)
	})
}

// saving says how much smaller files become, in bytes and as a share, or how much larger.
func saving(before, after int64) string {
	switch {
	case before == after || before == 0:
		return "-"
	case after > before:
		return fmt.Sprintf("%s more", terminal.Size(after-before))
	}
	return fmt.Sprintf("%s, %d %%", terminal.Size(before-after), 100*(before-after)/before)
}

func addSiteFamilyCommand() *cli.Command {
	return &cli.Command{
		Name: "add-family", Usage: "add a family to a site, or set the changes made to its files", ArgsUsage: "SITE FAMILY",
		Description: terminal.Example("SITE and FAMILY are numbers or full names. Packs include the family unchanged, or\nsubset, instanced, converted and renamed as chosen, in one file per face or in parts that a\nbrowser loads as it needs them (--split), with local fonts that hold its place\n(--against). Said again, it replaces what was said before. Prints the site with the verdict on each family;\nwith --sizes only how large its files would be.",
			"sparecrate site add-family --keep latin 'Holmvik timetable' 'Skerrow Sans'"),
		Flags: append([]cli.Flag{
			terminal.JSONFlag,
			&cli.StringSliceFlag{Name: "split", Usage: "split into a file for each of these `SETS` of characters; rest means all others"},
			&cli.StringSliceFlag{Name: "against", Usage: "fallback `FONTS` with matching metrics, like arial"},
			&cli.StringFlag{Name: "language", Usage: "`LANGUAGE` of the text, as a tag like de", Value: "en"},
			&cli.BoolFlag{Name: "sizes", Usage: "show the file sizes, and change nothing"},
			&cli.IntFlag{Name: "groups", Usage: "up to `N` groups of letters with separate sizes, so that lines break alike"},
		}, catalogcmd.RecipeFlags()...),
		Action: func(ctx context.Context, c *cli.Command) error {
			recipe, err := catalogcmd.RecipeOf(c)
			if err != nil {
				return err
			}
			recipe.Split = c.StringSlice("split")
			if against := c.StringSlice("against"); len(against) > 0 {
				recipe.Fallback = &reshape.Fallback{Against: against, Language: c.String("language"), Groups: c.Int("groups")}
			}
			s, args, err := terminal.Begin(c, "a SITE, by number or name", "a FAMILY, by number or name")
			if err != nil {
				return err
			}
			site, err := terminal.FindSite(ctx, s, args[0])
			if err != nil {
				return err
			}
			family, err := terminal.FindFamily(ctx, s, args[1])
			if err != nil {
				return err
			}
			body := api.FamilyOnSite{}
			if !recipe.Empty() {
				body.Recipe = recipe
			}
			if c.Bool("sizes") {
				return showSizes(ctx, c, s, site, family, body)
			}
			v, err := terminal.Call[api.Site](s.AddSiteFamily(ctx, site, family, body))
			if err != nil {
				return err
			}
			return terminal.Show(c, v, func(w io.Writer) { showSite(w, v) })
		},
	}
}
