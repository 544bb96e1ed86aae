package inspectcmd

import (
	"context"
	"fmt"
	"io"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/inspect"
	"sparecrate/internal/inspect/export"
)

// KeptCommand is `inspections`: those that the service does and keeps.
func KeptCommand() *cli.Command {
	return &cli.Command{
		Name: "inspections", Usage: "inspections of sites by the service: start, list, findings, schedule",
		Description: terminal.Example("The service opens the published pages of a site, keeps what it finds, and says what is new\nsince the last time. `inspect` looks at any page without a service.", "sparecrate inspections list 'Holmvik timetable'"),
		Commands:    []*cli.Command{startCommand(), listCommand(), showCommand(), findingsCommand(), acceptCommand(), reopenCommand(), scheduleCommand(), saveCommand()},
	}
}

// onSite reads the site that a command is about.
func onSite(ctx context.Context, c *cli.Command) (*api.Client, int64, error) {
	s, args, err := terminal.Begin(c, "a SITE, by number or name")
	if err != nil {
		return nil, 0, err
	}
	site, err := terminal.FindSite(ctx, s, args[0])
	return s, site, err
}

// numbered reads the number of the thing that a command is about.
func numbered(c *cli.Command, what string) (*api.Client, int64, error) {
	s, args, err := terminal.Begin(c, "the number of the "+what)
	if err != nil {
		return nil, 0, err
	}
	id, err := terminal.Number(args[0], what)
	return s, id, err
}

func startCommand() *cli.Command {
	return &cli.Command{
		Name: "start", Usage: "inspect published pages of a site", ArgsUsage: "SITE",
		Description: terminal.Example("Without --page the pages that the site and its outlets name are inspected, or the first one of\nits domain. With --survey links are followed from the first page on. With --wait the command\nends when the inspection has, and prints what it found.",
			"sparecrate inspections start --wait 'Holmvik timetable'"),
		Flags: []cli.Flag{
			terminal.JSONFlag, &cli.StringSliceFlag{Name: "page", Usage: "`URL` or path of a page; may be repeated"},
			&cli.IntFlag{Name: "survey", Usage: "follow sitemaps and links to at most this `NUMBER` of pages"},
			&cli.BoolFlag{Name: "wait", Usage: "wait until it is finished"}, &cli.StringFlag{Name: "fail-on", Usage: "with --wait, exit with code 3 at this `SEVERITY` or above: error, warning or note"},
		},
		Action: func(ctx context.Context, c *cli.Command) error {
			limit, err := severity(c)
			if err != nil {
				return err
			}
			if limit != "" && !c.Bool("wait") {
				return terminal.Misused("--fail-on needs --wait: there is nothing to fail on before the end")
			}
			s, site, err := onSite(ctx, c)
			if err != nil {
				return err
			}
			var in api.NewInspection
			if pages := c.StringSlice("page"); len(pages) > 0 {
				in.Pages = &pages
			}
			if n := c.Int("survey"); n > 0 {
				in.Survey = &n
			}
			started, err := terminal.Call[api.Inspection](s.StartInspection(ctx, site, in))
			if err != nil {
				return err
			}
			if !c.Bool("wait") {
				return terminal.Show(c, started, func(w io.Writer) {
					_, _ = fmt.Fprintf(w, "Inspection %d of %s is under way. `sparecrate inspections show %d` says what it finds.\n", started.Id, started.Site.Name, started.Id)
				})
			}
			found, err := ended(ctx, s, started.Id)
			if err != nil {
				return err
			}
			if err := terminal.Show(c, found, func(w io.Writer) { showKept(w, found) }); err != nil {
				return err
			}
			if found.Inspection.State == api.InspectionFailed {
				return terminal.ErrReported
			}
			for _, f := range found.Findings {
				if limit != "" && f.State == api.FindingOpen && export.AtLeast(inspect.Severity(f.Severity), limit) {
					return terminal.Answered(exitFound)
				}
			}
			return nil
		},
	}
}

// ended waits for the end of an inspection.
func ended(ctx context.Context, s *api.Client, id int64) (*api.InspectionResult, error) {
	for wait := 300 * time.Millisecond; ; wait = min(2*wait, 3*time.Second) {
		found, err := terminal.Call[api.InspectionResult](s.GetInspection(ctx, id))
		if err != nil {
			return nil, err
		}
		if state := found.Inspection.State; state == api.InspectionDone || state == api.InspectionFailed {
			return found, nil
		}
		select {
		case <-ctx.Done():
			return nil, ctx.Err()
		case <-time.After(wait):
		}
	}
}

func listCommand() *cli.Command {
	return &cli.Command{
		Name: "list", Usage: "list inspections of a site, newest first", ArgsUsage: "SITE",
		Description: terminal.Example("New are findings that the inspection before did not have, gone those that only it had.", "sparecrate inspections list 'Holmvik timetable'"),
		Flags:       []cli.Flag{terminal.JSONFlag},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, site, err := onSite(ctx, c)
			if err != nil {
				return err
			}
			found, err := terminal.Call[api.InspectionList](s.ListInspections(ctx, site))
			if err != nil {
				return err
			}
			return terminal.Show(c, found, func(w io.Writer) { showList(w, found) })
		},
	}
}

func showList(w io.Writer, found *api.InspectionList) {
	if len(found.Items) > 0 {
		var rows [][]any
		for _, i := range found.Items {
			by := i.AskedBy
			if i.Scheduled {
				by = "its schedule"
			}
			rows = append(rows, []any{i.Id, terminal.When(i.AskedAt), by, i.State, i.Pages, i.Errors, i.Warnings, i.Notes, i.Fresh, i.Gone})
		}
		terminal.Grid(w, []any{"No.", "Asked for", "By", "State", "Pages", "Errors", "Warnings", "Notes", "New", "Gone"}, []string{"No.", "Pages", "Errors", "Warnings", "Notes", "New", "Gone"}, rows)
	} else {
		_, _ = fmt.Fprintln(w, "Nothing has been inspected yet.")
	}
	if n := found.Schedule.Next; n != nil {
		_, _ = fmt.Fprintf(w, "Inspected each %s; the next time is %s.\n", found.Schedule.Every, terminal.When(*n))
	}
	if len(found.Pages) > 0 {
		_, _ = fmt.Fprintf(w, "Pages: %s\n", strings.Join(found.Pages, " "))
	}
}

func showCommand() *cli.Command {
	return &cli.Command{
		Name: "show", Usage: "show an inspection, and what changed since the previous one", ArgsUsage: "INSPECTION",
		Description: terminal.Example("INSPECTION is its number in the list.", "sparecrate inspections show 1"),
		Flags:       []cli.Flag{terminal.JSONFlag},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, id, err := numbered(c, "inspection")
			if err != nil {
				return err
			}
			found, err := terminal.Call[api.InspectionResult](s.GetInspection(ctx, id))
			if err != nil {
				return err
			}
			return terminal.Show(c, found, func(w io.Writer) { showKept(w, found) })
		},
	}
}

// showKept prints an inspection that the service keeps.
func showKept(w io.Writer, r *api.InspectionResult) {
	i := r.Inspection
	_, _ = fmt.Fprintf(w, "Inspection %d of %s, %s: %s\n", i.Id, i.Site.Name, terminal.When(i.AskedAt), i.State)
	if i.Error != nil {
		lines(w, *i.Error)
		return
	}
	if len(r.Pages) > 0 {
		_, _ = fmt.Fprintln(w)
		var rows [][]any
		for _, p := range r.Pages {
			rows = append(rows, []any{p.Url, terminal.Size(p.Bytes), p.Errors, p.Warnings, p.Notes})
		}
		terminal.Grid(w, []any{"Page", "Fonts", "Errors", "Warnings", "Notes"}, []string{"Fonts", "Errors", "Warnings", "Notes"}, rows)
	}
	if len(r.Families) > 0 {
		_, _ = fmt.Fprintln(w)
		var rows [][]any
		for _, f := range r.Families {
			from := "in place of a font of the visitor's system"
			if f.WebFont {
				from = "sent by the pages"
				if f.Verdict != nil {
					from += ", not known"
				}
			}
			if f.Family != nil {
				from = fmt.Sprintf("%s (%s)", f.Family.Name, *f.Verdict)
			}
			rows = append(rows, []any{f.Name, from, f.Pages, f.Characters})
		}
		terminal.Grid(w, []any{"Family", "From", "Pages", "Characters"}, []string{"Pages", "Characters"}, rows)
	}
	if i.State != api.InspectionDone {
		return
	}
	if len(r.Findings) == 0 {
		_, _ = fmt.Fprintln(w, "\nNothing is wrong with the fonts of these pages.")
	}
	showFindings(w, r.Findings)
	for _, f := range r.Gone {
		_, _ = fmt.Fprintf(w, "\n  gone     %s, no. %d\n", f.Code, f.Id)
		lines(w, f.Message)
	}
}

func showFindings(w io.Writer, found []api.SiteFinding) {
	for _, f := range found {
		about := fmt.Sprintf(", no. %d", f.Id)
		if f.Page != "" {
			about += ", on " + f.Page
		}
		switch {
		case f.Fresh:
			about += ", new"
		case f.State != api.FindingOpen:
			about += ", " + string(f.State)
		}
		if a := f.Acceptance; a != nil && f.State == api.FindingAccepted {
			about += fmt.Sprintf(" by %s: %s", a.By, a.Reason)
			if a.Until != nil {
				about += ", until " + a.Until.String()
			}
		}
		one := inspect.Finding{Code: f.Code, Severity: inspect.Severity(f.Severity), Message: f.Message, Fix: f.Fix}
		for to, given := range map[*string]*string{&one.Selector: f.Selector, &one.URL: f.Url, &one.Evidence: f.Evidence} {
			if given != nil {
				*to = *given
			}
		}
		if f.Line != nil {
			one.Line = *f.Line
		}
		finding(w, one, about)
	}
}

func findingsCommand() *cli.Command {
	return &cli.Command{
		Name: "findings", Usage: "list findings of a site, worst first", ArgsUsage: "SITE",
		Description: terminal.Example("Open findings are in the newest inspection and not accepted.", "sparecrate inspections findings 'Holmvik timetable'"),
		Flags:       []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "state", Usage: "only findings in this `STATE`: open, accepted or gone"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, site, err := onSite(ctx, c)
			if err != nil {
				return err
			}
			found, err := terminal.Call[api.FindingList](s.ListFindings(ctx, site, &api.ListFindingsParams{State: (*api.FindingState)(terminal.Given(c, "state"))}))
			if err != nil {
				return err
			}
			return terminal.Show(c, found, func(w io.Writer) {
				if len(found.Items) == 0 {
					_, _ = fmt.Fprintln(w, "There are none.")
				}
				showFindings(w, found.Items)
			})
		},
	}
}

func acceptCommand() *cli.Command {
	return &cli.Command{
		Name: "accept", Usage: "accept a finding, so that it no longer needs attention", ArgsUsage: "FINDING REASON",
		Description: terminal.Example("FINDING is its number. With --until it is due again after that day.", "sparecrate inspections accept --until 2030-12-31 1 'The client wants it so'"),
		Flags:       []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "until", Usage: "last `DAY`, like 2027-03-31"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "the number of the finding", "the REASON in writing")
			if err != nil {
				return err
			}
			id, err := terminal.Number(args[0], "finding")
			if err != nil {
				return err
			}
			in := api.NewAcceptance{Reason: args[1]}
			if in.Until, err = terminal.DayFlag(c, "until"); err != nil {
				return err
			}
			f, err := terminal.Call[api.SiteFinding](s.AcceptFinding(ctx, id, in))
			if err != nil {
				return err
			}
			return terminal.Show(c, f, func(w io.Writer) { showFindings(w, []api.SiteFinding{*f}) })
		},
	}
}

func reopenCommand() *cli.Command {
	return &cli.Command{
		Name: "reopen", Usage: "reopen an accepted finding", ArgsUsage: "FINDING",
		Description: terminal.Example("FINDING is its number.", "sparecrate inspections reopen 1"),
		Flags:       []cli.Flag{terminal.JSONFlag},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, id, err := numbered(c, "finding")
			if err != nil {
				return err
			}
			f, err := terminal.Call[api.SiteFinding](s.ReopenFinding(ctx, id))
			if err != nil {
				return err
			}
			return terminal.Show(c, f, func(w io.Writer) { showFindings(w, []api.SiteFinding{*f}) })
		},
	}
}

func scheduleCommand() *cli.Command {
	return &cli.Command{
		Name: "schedule", Usage: "schedule inspections of a site: day, week or never", ArgsUsage: "SITE EVERY",
		Description: terminal.Example("EVERY is day, week or never. It is done at night; what is new comes on the due list and into\nthe weekly e-mail.", "sparecrate inspections schedule 'Holmvik timetable' week"),
		Flags:       []cli.Flag{terminal.JSONFlag, &cli.IntFlag{Name: "survey", Usage: "follow sitemaps and links to at most this `NUMBER` of pages"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "a SITE, by number or name", "EVERY: day, week or never")
			if err != nil {
				return err
			}
			site, err := terminal.FindSite(ctx, s, args[0])
			if err != nil {
				return err
			}
			found, err := terminal.Call[api.InspectionList](s.ScheduleInspections(ctx, site, api.InspectionSchedule{Every: api.InspectionScheduleEvery(args[1]), Survey: c.Int("survey")}))
			if err != nil {
				return err
			}
			return terminal.Show(c, found, func(w io.Writer) {
				if found.Schedule.Next == nil {
					_, _ = fmt.Fprintln(w, "It is no longer inspected automatically.")
					return
				}
				_, _ = fmt.Fprintf(w, "Inspected each %s; the next time is %s.\n", found.Schedule.Every, terminal.When(*found.Schedule.Next))
			})
		},
	}
}

func saveCommand() *cli.Command {
	return &cli.Command{
		Name: "save", Usage: "save an inspection as a file: JSON, SARIF or JUnit XML", ArgsUsage: "INSPECTION FILE",
		Description: terminal.Example("INSPECTION is its number in the list; the ending of FILE says the format: .json, .sarif or .xml.", "sparecrate inspections save 1 holmvik.sarif"),
		Flags:       []cli.Flag{terminal.JSONFlag},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "the number of the inspection", "the FILE to write")
			if err != nil {
				return err
			}
			id, err := terminal.Number(args[0], "inspection")
			if err != nil {
				return err
			}
			format, has := map[string]api.GetInspectionFileParamsFormat{"json": api.InspectionJSON, "sarif": api.InspectionSARIF, "xml": api.InspectionJUnit}[args[1][strings.LastIndexByte(args[1], '.')+1:]]
			if !has {
				return terminal.Misused("the ending of %q says no format; choose .json, .sarif or .xml (JUnit)", args[1])
			}
			r, err := s.GetInspectionFile(ctx, id, &api.GetInspectionFileParams{Format: format})
			n, err := terminal.Download(r, err, args[1]) //nolint:bodyclose // Download closes it
			if err != nil {
				return err
			}
			saved := struct {
				File  string `json:"file"`
				Bytes int64  `json:"bytes"`
			}{args[1], n}
			return terminal.Show(c, saved, func(w io.Writer) { _, _ = fmt.Fprintf(w, "%s, %s\n", saved.File, terminal.Size(n)) })
		},
	}
}
