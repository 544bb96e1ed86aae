package sitecmd

import (
	"context"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// FileURLsCommand is `file URLs`.
func FileURLsCommand() *cli.Command {
	return &cli.Command{
		Name: "file-urls", Usage: "file URLs of uploaded files: list, add, remove",
		Description: terminal.Example("Some platforms assign file URLs only after the upload. Add the URLs here, and the finished\nstyles are printed, with nothing to edit by hand.", "sparecrate file-urls list \"Holmvik members' pages\""),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list a site's file URLs, and those still missing", ArgsUsage: "SITE", Flags: []cli.Flag{terminal.JSONFlag, environmentFlag},
				Description: terminal.Example("Shows which file has changed since its upload.", "sparecrate file-urls list \"Holmvik members' pages\""),
				Action: siteShows(func(ctx context.Context, c *cli.Command, s *api.Client, site int64) (*api.FileURLList, error) {
					return terminal.Call[api.FileURLList](s.ListFileURLs(ctx, site, &api.ListFileURLsParams{Environment: terminal.Given(c, "environment")}))
				}, showFileURLs),
			},
			{
				Name: "add", Usage: "add file URLs from text, a file or a page", ArgsUsage: "SITE FILE|URL...",
				Description: terminal.Example("From a FILE that holds them in any form (- for what is piped in), or as they stand. They are\nmatched to the files by name; --in-order takes nameless ones in the order of the slip.",
					"sparecrate file-urls add \"Holmvik members' pages\" https://files.example/u/3f9a/skerrow-sans-regular.woff2"),
				Flags:  []cli.Flag{terminal.JSONFlag, environmentFlag, &cli.BoolFlag{Name: "in-order", Usage: "they are in the order of the upload slip"}, &cli.StringFlag{Name: "file", Usage: "it is the URL of this `FILE` of the pack"}},
				Action: addFileURLs,
			},
			{
				Name: "styles", Usage: "print the code to paste into the platform, when all file URLs are known", ArgsUsage: "SITE",
				Description: terminal.Example("With --out into a file.", "sparecrate file-urls styles 'Holmvik timetable'"),
				Flags:       []cli.Flag{terminal.JSONFlag, environmentFlag, &cli.StringFlag{Name: "out", Usage: "`FILE` to write"}},
				Action: func(ctx context.Context, c *cli.Command) error {
					s, site, err := onSite(ctx, c)
					if err != nil {
						return err
					}
					plan, err := terminal.Call[api.Plan](s.PlanPack(ctx, site, &api.PlanPackParams{Environment: terminal.Given(c, "environment")}))
					if err != nil {
						return err
					}
					if n := len(plan.MissingUrls); n > 0 {
						return fmt.Errorf("%d file URLs are missing, the first is that of %s; add them with `sparecrate file-urls add`", n, plan.MissingUrls[0])
					}
					if !plan.Ready {
						return fmt.Errorf("what is on %s may not go out as it is; see the verdicts with `sparecrate site show`", plan.Site.Name)
					}
					if plan.Styles == "" {
						return fmt.Errorf("%s takes no styles; the upload slip says what to choose", plan.Site.Builder.Name)
					}
					if path := c.String("out"); path != "" {
						if _, err := terminal.WriteWhole(path, strings.NewReader(plan.Styles)); err != nil {
							return err
						}
						return terminal.Show(c, map[string]string{"file": path}, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Wrote %s.\n", path) })
					}
					return terminal.Show(c, map[string]string{"styles": plan.Styles}, func(w io.Writer) { _, _ = io.WriteString(w, plan.Styles) })
				},
			},
			{
				Name: "remove", Usage: "remove the URL of a file, or all file URLs of a site", ArgsUsage: "SITE",
				Description: terminal.Example("When files were taken down there.", "sparecrate file-urls remove --file fonts/skerrow-sans-regular.woff2 \"Holmvik members' pages\""),
				Flags:       []cli.Flag{terminal.JSONFlag, environmentFlag, &cli.StringFlag{Name: "file", Usage: "only the URL of this `FILE` of the pack"}},
				Action: siteShows(func(ctx context.Context, c *cli.Command, s *api.Client, site int64) (*api.FileURLList, error) {
					return terminal.Call[api.FileURLList](s.RemoveFileURLs(ctx, site, &api.RemoveFileURLsParams{Environment: terminal.Given(c, "environment"), File: terminal.Given(c, "file")}))
				}, showFileURLs),
			},
		},
	}
}

func addFileURLs(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() < 2 {
		return terminal.Misused("`%s` needs a SITE and a FILE with URLs, or URLs", c.FullName())
	}
	s, err := terminal.Connect()
	if err != nil {
		return err
	}
	site, err := terminal.FindSite(ctx, s, c.Args().First())
	if err != nil {
		return err
	}
	var text strings.Builder
	for _, a := range c.Args().Slice()[1:] {
		switch {
		case a == "-":
			if _, err := io.Copy(&text, io.LimitReader(os.Stdin, 1<<20)); err != nil {
				return err
			}
		case strings.Contains(a, "//") || strings.HasPrefix(a, "/") && !isFile(a):
			text.WriteString(a)
		default:
			b, err := os.ReadFile(a) //nolint:gosec // the user names it
			if err != nil {
				return err
			}
			text.Write(b)
		}
		text.WriteByte('\n')
	}
	inOrder := c.Bool("in-order")
	found, err := terminal.Call[api.FileURLList](s.AddFileURLs(ctx, site, api.NewFileURLs{Text: text.String(), Environment: terminal.Given(c, "environment"), File: terminal.Given(c, "file"), InOrder: &inOrder}))
	if err != nil {
		return err
	}
	return terminal.Show(c, found, func(w io.Writer) { showFileURLs(w, found) })
}

func isFile(path string) bool {
	_, err := os.Stat(path)
	return err == nil
}

func showFileURLs(w io.Writer, found *api.FileURLList) {
	var rows [][]any
	for _, f := range found.Items {
		state := "up"
		if f.Replaced {
			state = "to be replaced"
		}
		rows = append(rows, []any{f.File, state, f.Url, f.Person})
	}
	if len(rows) > 0 {
		terminal.Grid(w, []any{"File", "", "URL", "Added by"}, nil, rows)
	}
	for _, n := range found.Notes {
		_, _ = fmt.Fprintf(w, "%s\n", n)
	}
	if len(found.Missing) > 0 {
		_, _ = fmt.Fprintln(w, "Missing:")
		for _, f := range found.Missing {
			_, _ = fmt.Fprintf(w, "  %s\n", f)
		}
		return
	}
	for _, p := range found.Pastes {
		_, _ = fmt.Fprintf(w, "\n%s, to put %s:\n\n%s\n", p.Name, p.Where, p.Text)
	}
}

// PagesCommand is `pages`.
func PagesCommand() *cli.Command {
	tick := func(name, about, line string, done bool) *cli.Command {
		return pageCommand(name, about, line, func(ctx context.Context, s *api.Client, site, page int64) (*api.SitePageList, error) {
			return terminal.Call[api.SitePageList](s.MarkSitePage(ctx, site, page, api.PageMark{Done: done}))
		})
	}
	return &cli.Command{
		Name: "pages", Usage: "pages of a site: list, add, mark as done",
		Description: terminal.Example("A list to tick: who did which page, and when.", "sparecrate pages list \"Holmvik members' pages\""),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list the pages of a site", ArgsUsage: "SITE", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("Pages done before a newer pack are marked.", "sparecrate pages list \"Holmvik members' pages\""),
				Action: siteShows(func(ctx context.Context, _ *cli.Command, s *api.Client, site int64) (*api.SitePageList, error) {
					return terminal.Call[api.SitePageList](s.ListSitePages(ctx, site))
				}, showPages),
			},
			{
				Name: "add", Usage: "add pages to a site", ArgsUsage: "SITE URL...", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("Pages that are there stay as they are.", "sparecrate pages add \"Holmvik members' pages\" /news /prices"),
				Action: func(ctx context.Context, c *cli.Command) error {
					if c.Args().Len() < 2 {
						return terminal.Misused("`%s` needs a SITE and at least one URL", c.FullName())
					}
					s, err := terminal.Connect()
					if err != nil {
						return err
					}
					site, err := terminal.FindSite(ctx, s, c.Args().First())
					if err != nil {
						return err
					}
					in := api.NewSitePages{}
					for _, a := range c.Args().Slice()[1:] {
						in.Pages = append(in.Pages, api.NewSitePage{Url: a})
					}
					found, err := terminal.Call[api.SitePageList](s.AddSitePages(ctx, site, in))
					if err != nil {
						return err
					}
					return terminal.Show(c, found, func(w io.Writer) { showPages(w, found) })
				},
			},
			tick("done", "mark pages as done", "sparecrate pages done \"Holmvik members' pages\" /news /tickets", true),
			tick("undone", "mark pages as not done", "sparecrate pages undone \"Holmvik members' pages\" /news", false),
			pageCommand("remove", "remove pages from a site", "sparecrate pages remove \"Holmvik members' pages\" /news", func(ctx context.Context, s *api.Client, site, page int64) (*api.SitePageList, error) {
				return terminal.Call[api.SitePageList](s.RemoveSitePage(ctx, site, page))
			}),
		},
	}
}

// pageCommand is a command on pages of a site, one or many.
func pageCommand(name, about, line string, do func(context.Context, *api.Client, int64, int64) (*api.SitePageList, error)) *cli.Command {
	return &cli.Command{
		Name: name, Usage: about, ArgsUsage: "SITE URL...", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("Pages are given by their URLs or numbers.", line),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "a SITE, by number or name", "the URL of a page...")
			if err != nil {
				return err
			}
			site, err := terminal.FindSite(ctx, s, args[0])
			if err != nil {
				return err
			}
			pages, err := terminal.Call[api.SitePageList](s.ListSitePages(ctx, site))
			if err != nil {
				return err
			}
			var all []terminal.Named
			for _, p := range pages.Items {
				all = append(all, terminal.Named{ID: p.Id, Name: p.Url, More: p.Title})
			}
			var ids []int64
			for _, arg := range args[1:] { // all are found before one is changed
				id, err := terminal.Choose(arg, "page", all)
				if err != nil {
					return err
				}
				ids = append(ids, id)
			}
			var found *api.SitePageList
			for _, id := range ids {
				if found, err = do(ctx, s, site, id); err != nil {
					return err
				}
			}
			return terminal.Show(c, found, func(w io.Writer) { showPages(w, found) })
		},
	}
}

func showPages(w io.Writer, found *api.SitePageList) {
	var rows [][]any
	done := 0
	for _, p := range found.Items {
		state, by := "to do", ""
		if p.Done {
			done++
			state, by = "done", *p.DoneBy+", "+terminal.When(*p.DoneAt)
		}
		if p.Behind != nil {
			state = *p.Behind
		}
		rows = append(rows, []any{p.Id, p.Url, p.Title, state, by})
	}
	terminal.Grid(w, []any{"No.", "Page", "Title", "", "By"}, []string{"No."}, rows)
	if !found.EachPage {
		_, _ = fmt.Fprintln(w, "This site's builder wants nothing on each page; the list is for your own use.")
	} else if len(rows) > 0 {
		_, _ = fmt.Fprintf(w, "%d of %d done.\n", done, len(rows))
	}
}
