package cli

import (
	"context"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
)

func siteCommand() *cli.Command {
	return &cli.Command{
		Name: "site", Usage: "what is delivered: list, add, show, use, drop, sign-off, live",
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
				Description: example("The kinds of builders: self-hosted, bundler, upload-form.",
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
			signOffCommand(), liveCommand(),
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
	pairs(w, [2]string{"builder", v.Builder.Name}, [2]string{"domains", strings.Join(v.Domains, ", ")})
	for _, f := range v.Families {
		_, _ = fmt.Fprintf(w, "\n%s: %s\n", f.Family.Name, f.Verdict)
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

func packCommand() *cli.Command {
	return &cli.Command{
		Name: "pack", Usage: "build a site's pack and save it", ArgsUsage: "SITE",
		Description: example("Builds the upload-ready pack of a site: fonts, stylesheet, sample page, upload slip,\nlicense note and manifest. With --plan it only shows what the pack would hold.\nWhat may not go out stops it, and the reason is said.",
			"sparecrate pack --out holmvik.zip 'Holmvik timetable'"),
		Flags: []cli.Flag{
			jsonFlag,
			&cli.StringFlag{Name: "out", Usage: "`FILE` to save the zip as; the pack's own name without it"},
			&cli.BoolFlag{Name: "plan", Usage: "show what the pack would hold, and build nothing"},
		},
		Action: buildPack,
	}
}

func buildPack(ctx context.Context, c *cli.Command) error {
	s, args, err := begin(c, "a SITE, by number or name")
	if err != nil {
		return err
	}
	site, err := findSite(ctx, s, args[0])
	if err != nil {
		return err
	}
	if c.Bool("plan") {
		plan, err := call[api.Plan](s.PlanPack(ctx, site, nil))
		if err != nil {
			return err
		}
		return show(c, plan, func(w io.Writer) { showPlan(w, plan) })
	}
	built, err := call[api.Pack](s.BuildPack(ctx, site, nil))
	if err != nil {
		return err
	}
	path := c.String("out")
	if path == "" {
		path = built.Name
	}
	r, err := s.GetPackContent(ctx, built.Id)
	if _, err := download(r, err, path); err != nil {
		return fmt.Errorf("pack %d is built but could not be saved: %w", built.Id, err)
	}
	return show(c, built, func(w io.Writer) {
		_, _ = fmt.Fprintf(w, "Saved %s (%s, SHA-256 %s).\nUnpack it and open upload-slip.html.\n", path, size(built.Bytes), built.Sha256)
	})
}

func showPlan(w io.Writer, plan *api.Plan) {
	showSite(w, &plan.Site)
	_, _ = fmt.Fprintln(w)
	var rows [][]any
	for _, f := range plan.Files {
		rows = append(rows, []any{f.Path, size(f.Bytes), f.Why})
	}
	grid(w, []any{"File", "Size", "Why"}, []string{"Size"}, rows)
	_, _ = fmt.Fprintf(w, "\nA visitor downloads %s when a page uses every face.\n", size(plan.Delivered))
	if !plan.Ready {
		_, _ = fmt.Fprintln(w, "It cannot be built yet; see the verdicts above.")
	}
}

// stderrIsTerminal says whether progress can be drawn.
func stderrIsTerminal() bool {
	info, err := os.Stderr.Stat()
	return err == nil && info.Mode()&os.ModeCharDevice != 0
}
