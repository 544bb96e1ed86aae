package inspectcmd

import (
	"context"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/inspect"
	"sparecrate/internal/inspect/browse"
	"sparecrate/internal/inspect/survey"
)

// The bounds of a survey.
const (
	usualPages = 30
	mostPages  = 500
	usualPause = time.Second
)

// SurveyCommand returns `survey`.
func SurveyCommand() *cli.Command {
	return &cli.Command{
		Name: "survey", Usage: "inspect the pages of a whole site, with a summary of its fonts", ArgsUsage: "DOMAIN",
		Description: terminal.Example("Follows the sitemaps and links of a site as far as its robots.txt allows, inspects page\n"+
			"by page, and says which families are on which pages, which servers send them, what they\n"+
			"weigh, which pages differ, and how the site could be recorded. Needs no service; with\n"+
			"--site or --catalog it asks the service which fonts these are.",
			"sparecrate survey --pages 3 --allow-private-addresses http://127.0.0.1:8481/brackmoor"),
		Flags: append([]cli.Flag{
			&cli.IntFlag{Name: "pages", Value: usualPages, Usage: fmt.Sprintf("`NUMBER` of pages to inspect at most, up to %d", mostPages)},
			&cli.DurationFlag{Name: "pause", Value: usualPause, Usage: "`TIME` between two pages; robots.txt may ask for more"},
		}, flags()...),
		Action: surveySite,
	}
}

func surveySite(ctx context.Context, c *cli.Command) error {
	args, err := terminal.Arguments(c, "DOMAIN")
	if err != nil {
		return err
	}
	limit, err := severity(c)
	if err != nil {
		return err
	}
	if n := c.Int("pages"); n < 1 || n > mostPages {
		return terminal.Misused("--pages takes a number from 1 to %d", mostPages)
	}
	plan, err := planned(ctx, c)
	if err != nil {
		return err
	}
	b, err := browse.Start(ctx, opened(c))
	if err != nil {
		return err
	}
	defer b.Close()
	o := survey.Options{Pages: c.Int("pages"), Pause: c.Duration("pause"), Fetch: b.Fetch,
		Inspect: func(ctx context.Context, address string) (*inspect.Page, error) { return b.Inspect(ctx, address, plan) }}
	if terminal.Progress(c) {
		o.Told = func(done, known int, address string) {
			_, _ = fmt.Fprintf(c.Root().ErrWriter, "page %d of %d that are known: %s\n", done+1, known, address)
		}
	}
	found, err := survey.Run(ctx, args[0], o)
	if err != nil {
		return err
	}
	if err := files(c, found.Pages, limit); err != nil {
		return err
	}
	if err := terminal.Show(c, found, func(w io.Writer) { showSurvey(w, found) }); err != nil {
		return err
	}
	return outcome(append(slices.Clone(found.Pages), &inspect.Page{Findings: found.Findings}), limit)
}

// showSurvey prints what was found on a site.
func showSurvey(w io.Writer, r *survey.Result) {
	_, _ = fmt.Fprintf(w, "%s: %s, fonts of %s loaded in all\n", r.Start, terminal.Count(len(r.Pages), "page"), terminal.Size(r.Bytes))
	if len(r.Families) > 0 {
		_, _ = fmt.Fprintln(w)
		var rows [][]any
		for _, f := range r.Families {
			from := "sent, " + terminal.Size(f.Bytes)
			if !f.Sent {
				from = "in place of a font of the visitor's system"
			}
			if f.Known != nil {
				from += knownAs(f.Known)
			}
			rows = append(rows, []any{f.Family, fmt.Sprintf("%d of %d", len(f.Pages), len(r.Pages)), f.Characters, from})
		}
		terminal.Grid(w, []any{"Family", "Pages", "Characters", "From"}, []string{"Pages", "Characters"}, rows)
	}
	for _, s := range r.Servers {
		if !s.Own {
			_, _ = fmt.Fprintf(w, "\nFonts come from %s, a third-party server, on %s.\n", s.Host, terminal.Count(s.Pages, "page"))
		}
	}
	if len(r.Pages) > 0 {
		_, _ = fmt.Fprintln(w)
		var rows [][]any
		for _, p := range r.Pages {
			counts := map[inspect.Severity]int{}
			for _, f := range p.Findings {
				counts[f.Severity]++
			}
			rows = append(rows, []any{p.Final, len(p.Fonts), terminal.Size(p.Bytes), counts[inspect.Error], counts[inspect.Warning], counts[inspect.Note]})
		}
		terminal.Grid(w, []any{"Page", "Fonts", "Size", "Errors", "Warnings", "Notes"}, []string{"Fonts", "Size", "Errors", "Warnings", "Notes"}, rows)
	}
	told := map[string]inspect.Finding{}
	for _, p := range r.Pages {
		for _, f := range p.Findings {
			if _, has := told[f.Code]; !has {
				told[f.Code] = f
			}
		}
	}
	for _, f := range r.Findings {
		finding(w, f, "")
	}
	for _, code := range slices.Sorted(maps.Keys(told)) {
		finding(w, told[code], fmt.Sprintf(" on %d of %d pages, as on this one", r.Faults[code], len(r.Pages)))
	}
	if len(told)+len(r.Findings) == 0 && len(r.Pages) > 0 {
		_, _ = fmt.Fprintln(w, "\nNothing is wrong with the fonts of these pages.")
	}
	if len(r.Site.Roles) > 0 {
		_, _ = fmt.Fprintln(w, "\nThe site as it could be recorded")
		var rows [][]any
		for _, role := range r.Site.Roles {
			rows = append(rows, []any{role.Role, role.Selector, role.Family, role.Weight, role.Style})
		}
		terminal.Grid(w, []any{"Role", "Selector", "Family", "Weight", "Style"}, []string{"Weight"}, rows)
	}
	const most = 10
	for _, l := range r.Left[:min(len(r.Left), most)] {
		_, _ = fmt.Fprintf(w, "\nNot inspected: %s: %s", l.URL, strings.TrimSuffix(l.Why, "."))
	}
	if len(r.Left) > 0 {
		_, _ = fmt.Fprintln(w)
	}
	if more := len(r.Left) - most; more > 0 {
		_, _ = fmt.Fprintf(w, "and %d more\n", more)
	}
}
