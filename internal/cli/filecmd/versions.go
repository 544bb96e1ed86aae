package filecmd

import (
	"context"
	"fmt"
	"io"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/font"
	"sparecrate/font/diff"
	"sparecrate/internal/cli/terminal"
)

// changesCommand is `file diff`.
func changesCommand() *cli.Command {
	return &cli.Command{
		Name: "diff", Usage: "show what a new version of a font changed", ArgsUsage: "OLD NEW", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("Compares the first faces of two files: characters, widths, drawings, measures, names,\nlayout features, bytes. Lengths are thousandths of an em.", "sparecrate file diff SkerrowSans-Regular.ttf SkerrowSans-Bold.ttf"),
		Action: func(_ context.Context, c *cli.Command) error {
			args, err := terminal.Arguments(c, "the OLD file", "the NEW file")
			if err != nil {
				return err
			}
			var opened []*font.File
			for _, path := range args {
				b, err := load(path)
				if err != nil {
					return err
				}
				f, err := font.Open(b)
				if err != nil {
					return fmt.Errorf("%s: %w", path, err)
				}
				opened = append(opened, f)
			}
			found := diff.Between(opened[0].Faces[0], opened[1].Faces[0])
			return terminal.Show(c, found, func(w io.Writer) { ShowChanges(w, found) })
		},
	}
}

// ShowChanges prints what one version of a font changed of another.
func ShowChanges(w io.Writer, c *diff.Changes) {
	if c.None() {
		_, _ = fmt.Fprintln(w, "No changes.")
		return
	}
	list := func(name string, k diff.Characters) {
		if k.Count > 0 {
			terminal.Pairs(w, [2]string{name, fmt.Sprintf("%d characters: %s", k.Count, spaced(k.Text, 60))})
		}
	}
	list("added", c.Added)
	list("gone", c.Gone)
	if c.Widened > 0 {
		var out []string
		for _, k := range c.Widths[:min(len(c.Widths), 12)] {
			out = append(out, fmt.Sprintf("%s %g → %g", k.Character, k.From, k.To))
		}
		terminal.Pairs(w, [2]string{"other widths", fmt.Sprintf("%d characters: %s", c.Widened, more(strings.Join(out, ", "), c.Widened-len(out)))})
	}
	if c.RedrawnOf > 0 {
		terminal.Pairs(w, [2]string{"redrawn", fmt.Sprintf("%d characters: %s", c.RedrawnOf, spaced(strings.Join(c.Redrawn, ""), 60))})
	}
	terminal.Pairs(w, [2]string{"drawings", c.Uncompared})
	for _, v := range c.Values {
		_, _ = fmt.Fprintf(w, "  %-14s %s → %s\n", v.Name, quiet(v.From), quiet(v.To))
	}
	if len(c.Tables) > 0 {
		var out []string
		for _, t := range c.Tables {
			out = append(out, fmt.Sprintf("%s %d → %d", strings.TrimSpace(t.Tag), t.From, t.To))
		}
		terminal.Pairs(w, [2]string{"bytes", strings.Join(out, ", ")})
	}
}

// quiet writes a value of text in one short line.
func quiet(s string) string {
	s = strings.Join(strings.Fields(s), " ")
	if s == "" {
		return "nothing"
	}
	const most = 70
	if r := []rune(s); len(r) > most {
		return string(r[:most]) + " …"
	}
	return s
}

// spaced writes characters apart, at most so many.
func spaced(text string, most int) string {
	r := []rune(text)
	out := make([]string, 0, most)
	for _, c := range r[:min(len(r), most)] {
		out = append(out, string(c))
	}
	return more(strings.Join(out, " "), len(r)-len(out))
}

func more(text string, n int) string {
	if n <= 0 {
		return text
	}
	return fmt.Sprintf("%s and %d more", text, n)
}
