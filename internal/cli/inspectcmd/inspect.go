// Package inspectcmd holds the command that inspects published pages, and the
// one that surveys whole sites. They need no service, and ask one what it
// knows where that is wanted.
package inspectcmd

import (
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"github.com/jedib0t/go-pretty/v6/text"
	"github.com/urfave/cli/v3"

	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/inspect"
	"sparecrate/internal/inspect/browse"
	"sparecrate/internal/inspect/export"
	"sparecrate/internal/version"
)

// exitFound is for pages with findings as bad as --fail-on says, or worse.
const exitFound = 3

// Command returns `inspect`.
func Command() *cli.Command {
	return &cli.Command{
		Name: "inspect", Usage: "inspect the fonts that published pages load and show", ArgsUsage: "URL...",
		Description: terminal.Example("Opens each page in Chromium on a machine that has no fonts but a few plain ones, as a\n"+
			"phone and as a desktop, scrolls to its end, and says which fonts came and which text is\n"+
			"set in which, with each fault and its fix. Needs no service; with --site or --catalog\n"+
			"it asks the service which fonts these are, and whether they may be there.\n"+
			"With --fail-on the exit code is 3 where a finding is as bad as that, or worse.",
			"sparecrate inspect --allow-private-addresses --junit fonts.xml http://127.0.0.1:8481/brackmoor"),
		Flags:  flags(),
		Action: inspectPages,
	}
}

// flags are those of both commands.
func flags() []cli.Flag {
	return []cli.Flag{
		&cli.BoolFlag{Name: "json", Usage: "print JSON instead of a table"},
		&cli.StringFlag{Name: "site", Usage: "`SITE` of the catalog to compare the pages with"},
		&cli.BoolFlag{Name: "catalog", Usage: "look the fonts up in the catalog, with verdicts"},
		&cli.StringFlag{Name: "fail-on", Usage: "exit with code 3 at this `SEVERITY` or above: error, warning or note"},
		&cli.StringFlag{Name: "sarif", Usage: "`FILE` to write the findings to as SARIF, for code scanning"},
		&cli.StringFlag{Name: "junit", Usage: "`FILE` to write the findings to as JUnit XML, for pipelines"},
		&cli.StringFlag{Name: "pictures", Usage: "`FOLDER` for pictures of the pages"},
		&cli.BoolFlag{Name: "insecure", Usage: "accept invalid certificates, as on staging servers"},
		&cli.BoolFlag{Name: "allow-private-addresses", Usage: "also inspect pages on this machine and on private networks"},
	}
}

// opened are the options that pages are opened with.
func opened(c *cli.Command) browse.Options {
	return browse.Options{Private: c.Bool("allow-private-addresses"), Anyone: c.Bool("insecure")}
}

// severity reads --fail-on.
func severity(c *cli.Command) (inspect.Severity, error) {
	limit := inspect.Severity(c.String("fail-on"))
	switch limit {
	case "", inspect.Error, inspect.Warning, inspect.Note:
		return limit, nil
	}
	return "", terminal.Misused("--fail-on takes error, warning or note, not %q", limit)
}

func inspectPages(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() == 0 {
		return terminal.Misused("inspect needs the URL of at least one page")
	}
	limit, err := severity(c)
	if err != nil {
		return err
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
	var pages []*inspect.Page
	for _, address := range c.Args().Slice() {
		if terminal.Progress(c) {
			_, _ = fmt.Fprintf(c.Root().ErrWriter, "inspecting %s ...\n", address)
		}
		p, err := b.Inspect(ctx, address, plan)
		if err != nil {
			return err
		}
		pages = append(pages, p)
	}
	if err := files(c, pages, limit); err != nil {
		return err
	}
	if err := terminal.Show(c, export.Result{Pages: pages}, func(w io.Writer) {
		for i, p := range pages {
			if i > 0 {
				_, _ = fmt.Fprintln(w)
			}
			show(w, p)
		}
	}); err != nil {
		return err
	}
	return outcome(pages, limit)
}

// outcome is the exit code for what was found.
func outcome(pages []*inspect.Page, limit inspect.Severity) error {
	for _, p := range pages {
		for _, f := range p.Findings {
			if f.Code == "page-unreachable" {
				return terminal.ErrReported
			}
		}
	}
	if limit != "" && export.AtLeast(export.Worst(pages), limit) {
		return terminal.Answered(exitFound)
	}
	return nil
}

// files writes the files that were asked for.
func files(c *cli.Command, pages []*inspect.Page, limit inspect.Severity) error {
	if path := c.String("sarif"); path != "" {
		if err := whole(path, func(w io.Writer) error { return export.SARIF(w, pages, version.String()) }); err != nil {
			return err
		}
	}
	if limit == "" {
		limit = inspect.Warning
	}
	if path := c.String("junit"); path != "" {
		if err := whole(path, func(w io.Writer) error { return export.JUnit(w, pages, limit) }); err != nil {
			return err
		}
	}
	folder := c.String("pictures")
	if folder == "" {
		return nil
	}
	if err := os.MkdirAll(folder, 0o755); err != nil { //nolint:gosec // a folder of whoever asks for it
		return err
	}
	for i, p := range pages {
		if p.Picture == nil {
			continue
		}
		path := filepath.Join(folder, fmt.Sprintf("page-%d.png", i+1))
		if err := whole(path, func(w io.Writer) error { _, err := w.Write(p.Picture); return err }); err != nil {
			return err
		}
	}
	return nil
}

// whole writes a file whole or not at all.
func whole(path string, write func(io.Writer) error) error {
	r, w := io.Pipe()
	go func() { _ = w.CloseWithError(write(w)) }()
	_, err := terminal.WriteWhole(path, r)
	return err
}

// show prints what was found on a page.
func show(w io.Writer, p *inspect.Page) {
	_, _ = fmt.Fprintln(w, p.Final)
	if p.Title != "" {
		_, _ = fmt.Fprintf(w, "  %s\n", p.Title)
	}
	if len(p.Fonts) > 0 {
		_, _ = fmt.Fprintf(w, "\nFonts that it asks for: %d, %s\n", len(p.Fonts), terminal.Size(p.Bytes))
		known := false
		var rows [][]any
		for _, f := range p.Fonts {
			state := fmt.Sprint(f.Status)
			if f.Failed != "" && f.Status == 0 {
				state = f.Failed
			}
			name := strings.TrimSpace(f.Family + " " + f.Style)
			if name == "" {
				name = "no font"
			}
			shown := "not shown"
			if f.Used {
				shown = terminal.Count(f.Characters, "character")
			}
			if k := f.Known; k != nil {
				known = true
				shown += knownAs(k)
			}
			rows = append(rows, []any{name, f.URL, state, terminal.Size(f.Bytes), shown})
		}
		head := "Shown"
		if known {
			head = "Shown, and what the catalog knows"
		}
		terminal.Grid(w, []any{"Font", "URL", "Answer", "Size", head}, []string{"Size"}, rows)
	}
	if len(p.Families) > 0 {
		_, _ = fmt.Fprintln(w, "\nWhat text is set in")
		var rows [][]any
		for _, f := range p.Families {
			from := "sent by the page"
			if !f.Sent {
				from = "in place of a font of the visitor's system"
			}
			rows = append(rows, []any{f.Family, from, f.Characters})
		}
		terminal.Grid(w, []any{"Family", "From", "Characters"}, []string{"Characters"}, rows)
	}
	if len(p.Findings) == 0 {
		_, _ = fmt.Fprintln(w, "\nNothing is wrong with the fonts of this page.")
		return
	}
	_, _ = fmt.Fprintf(w, "\n%s\n", terminal.Count(len(p.Findings), "finding"))
	for _, f := range p.Findings {
		finding(w, f, "")
	}
}

// finding prints one finding; about stands behind its code.
func finding(w io.Writer, f inspect.Finding, about string) {
	_, _ = fmt.Fprintf(w, "\n  %-8s %s%s\n", f.Severity, f.Code, about)
	lines(w, f.Message)
	if f.URL != "" {
		at := f.URL
		if f.Line > 0 {
			at += fmt.Sprintf(", line %d", f.Line)
		}
		lines(w, "at "+at)
	}
	if f.Evidence != "" {
		lines(w, "seen: "+f.Evidence)
	}
	lines(w, "fix: "+f.Fix)
}

// knownAs says what the catalog knows of a font.
func knownAs(k *inspect.Known) string {
	if k.Family == 0 {
		return ", not known"
	}
	how := map[string]string{"part": "a part of ", "version": "another version of ", "instance": "a style of "}[k.Relation]
	return fmt.Sprintf(", %s%s (%s)", how, strings.TrimSpace(k.FamilyName+" "+k.Style), k.Verdict)
}

// lines prints a sentence, wrapped.
func lines(w io.Writer, s string) {
	const indent, wide = 11, 100
	for _, line := range strings.Split(text.WrapSoft(s, wide-indent), "\n") {
		_, _ = fmt.Fprintf(w, "%*s%s\n", indent, "", strings.TrimRight(line, " "))
	}
}
