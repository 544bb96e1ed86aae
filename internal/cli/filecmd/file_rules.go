package filecmd

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/jedib0t/go-pretty/v6/text"
	"github.com/urfave/cli/v3"

	"sparecrate/font/lint"
	"sparecrate/internal/cli/terminal"
)

// tested is the JSON of `file check`: a file's report, or why it cannot be read.
type tested struct {
	Path       string `json:"path"`
	Unreadable string `json:"unreadable,omitempty"`
	*lint.Report
}

func testFiles(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() == 0 {
		return terminal.Misused("file check needs the PATH of at least one font file")
	}
	all, stopped := spread(ctx, c, "testing", func(path string) tested {
		b, err := load(path)
		if err != nil {
			return tested{Path: path, Unreadable: err.Error()}
		}
		r, err := lint.Check(b)
		if err != nil {
			return tested{Path: path, Unreadable: err.Error()}
		}
		if c.Bool("errors") {
			r.Findings = slices.DeleteFunc(r.Findings, func(f lint.Finding) bool { return f.Severity != lint.Error })
		}
		return tested{Path: path, Report: r}
	})
	failed := 0
	for _, t := range all {
		if t.Unreadable != "" || t.Errors() > 0 {
			failed++
		}
	}
	err := terminal.Show(c, all, func(w io.Writer) {
		clean := 0
		for _, t := range all {
			showTested(w, t)
			if t.Unreadable == "" && len(t.Findings) == 0 {
				clean++
			}
		}
		if len(all) > 1 {
			_, _ = fmt.Fprintf(w, "\n%s: %d without findings, %d with warnings only, %d with errors or unreadable.\n", terminal.Count(len(all), "file"), clean, len(all)-clean-failed, failed)
		}
	})
	return outcome(err, stopped, failed > 0)
}

func showTested(w io.Writer, t tested) {
	const indent = 13
	if t.Unreadable != "" {
		_, _ = fmt.Fprintf(w, "%s\n  unreadable %s\n", t.Path, strings.TrimPrefix(t.Unreadable, t.Path+": "))
		return
	}
	if len(t.Findings) == 0 {
		_, _ = fmt.Fprintf(w, "%s  (%s) keeps the rules\n", t.Path, strings.ToUpper(string(t.Container)))
		return
	}
	errors := t.Errors()
	_, _ = fmt.Fprintf(w, "%s  (%s) %s, %s\n", t.Path, strings.ToUpper(string(t.Container)), counted(errors, "error"), counted(len(t.Findings)-errors, "warning"))
	for _, f := range t.Findings {
		where := f.Table
		if t.Faces > 1 {
			where = strings.TrimSpace(fmt.Sprintf("face %d %s", f.Face, where))
		}
		if where == "" {
			where = "file"
		}
		for i, line := range strings.Split(text.WrapSoft(fmt.Sprintf("%s: %s (%s)", where, f.Message, f.Code), width()-indent), "\n") {
			mark := string(f.Severity)
			if i > 0 {
				mark = ""
			}
			_, _ = fmt.Fprintf(w, "  %-*s %s\n", indent-3, mark, strings.TrimRight(line, " "))
		}
	}
}

func counted(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}
