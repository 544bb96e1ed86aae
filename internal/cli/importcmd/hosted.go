package importcmd

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/css"
)

// HostedCommand is `hosted`.
func HostedCommand() *cli.Command {
	return &cli.Command{
		Name: "hosted", Usage: "hosted families: read, add, remove, self-host",
		Description: terminal.Example("CODE is a link tag, an @import rule, the URL of a stylesheet or @font-face rules;\n- reads it from standard input.", "sparecrate hosted read http://127.0.0.1:8481/sheets/all.css"),
		Commands:    []*cli.Command{readHostedCommand(), addHostedCommand(), removeHostedCommand(), selfHostCommand()},
	}
}

// pasted returns the code of a call, from its arguments or standard input.
func pasted(c *cli.Command) (string, error) {
	text := strings.Join(c.Args().Slice(), " ")
	switch text {
	case "":
		return "", terminal.Misused("`%s` needs the CODE, or - for standard input", c.FullName())
	case "-":
		const most = 1 << 20
		b, err := io.ReadAll(io.LimitReader(os.Stdin, most))
		return string(b), err
	}
	return text, nil
}

func readHostedCommand() *cli.Command {
	return &cli.Command{
		Name: "read", Usage: "list the hosted families in pasted code", ArgsUsage: "CODE", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("Nothing is recorded. Curly quotes and misspelled rules are corrected and reported.", "sparecrate hosted read '@improt url(“http://127.0.0.1:8481/sheets/all.css”);'"),
		Action: func(ctx context.Context, c *cli.Command) error {
			text, err := pasted(c)
			if err != nil {
				return err
			}
			s, err := terminal.Connect()
			if err != nil {
				return err
			}
			read, err := terminal.Call[api.HostedReading](s.ReadHosted(ctx, api.PastedCode{Text: text}))
			if err != nil {
				return err
			}
			err = terminal.Show(c, read, func(w io.Writer) { showReading(w, read) })
			if err == nil && !slices.ContainsFunc(read.Sheets, func(h api.HostedStylesheet) bool { return len(h.Families) > 0 }) {
				err = terminal.ErrReported // nothing could be read, which is said
			}
			return err
		},
	}
}

func showReading(w io.Writer, read *api.HostedReading) {
	for _, n := range read.Notes {
		_, _ = fmt.Fprintln(w, n)
	}
	for _, sheet := range read.Sheets {
		_, _ = fmt.Fprintf(w, "\n%s\n", firstOf(sheet.Url, "Rules with files at "+sheet.Host))
		if sheet.Trouble != nil {
			_, _ = fmt.Fprintf(w, "  %s\n", *sheet.Trouble)
		}
		var rows [][]any
		for _, f := range sheet.Families {
			for _, face := range f.Faces {
				rows = append(rows, []any{f.Name, weightRange(face), face.Style, firstOf(css.ShortRange(deref(face.Range)), "all"), formats(face)})
			}
		}
		if len(rows) > 0 {
			terminal.Grid(w, []any{"Family", "Weight", "Style", "Characters", "Files"}, []string{"Weight"}, rows)
		}
	}
}

func firstOf(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

func deref(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}

func weightRange(f api.HostedFace) string {
	if f.WeightMin == f.WeightMax {
		return fmt.Sprint(f.WeightMin)
	}
	return fmt.Sprintf("%d-%d", f.WeightMin, f.WeightMax)
}

func formats(f api.HostedFace) string {
	out := make([]string, len(f.Files))
	for i, file := range f.Files {
		out[i] = firstOf(file.Format, "not said")
	}
	return strings.Join(out, ", ")
}

func addHostedCommand() *cli.Command {
	return &cli.Command{
		Name: "add", Usage: "record the hosted families in pasted code", ArgsUsage: "CODE",
		Description: terminal.Example("A family that the client already has gets the URL as another source.", "sparecrate hosted add --client 'Orrery Hall' http://127.0.0.1:8481/sheets/brackmoor-sans.css"),
		Flags: []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "client", Usage: "the client, by `NAME` or number; default: the studio"},
			&cli.StringSliceFlag{Name: "family", Usage: "`NAMES` of the families to record; default: all"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			text, err := pasted(c)
			if err != nil {
				return err
			}
			s, err := terminal.Connect()
			if err != nil {
				return err
			}
			n := api.NewHosted{Text: text, Client: terminal.Given(c, "client")}
			if names := c.StringSlice("family"); len(names) > 0 {
				n.Families = &names
			}
			added, err := terminal.Call[api.AddedHosted](s.AddHosted(ctx, n))
			if err != nil {
				return err
			}
			return terminal.Show(c, added, func(w io.Writer) {
				for _, note := range added.Notes {
					_, _ = fmt.Fprintln(w, note)
				}
				for _, f := range added.Families {
					_, _ = fmt.Fprintf(w, "Added %s as a hosted family (family %d).\n", f.Name, f.Id)
				}
			})
		},
	}
}

var sourceFlag = &cli.IntFlag{Name: "source", Usage: "`NUMBER` of a source, if the family has several"}

func removeHostedCommand() *cli.Command {
	return &cli.Command{
		Name: "remove", Usage: "remove a hosted source of a family", ArgsUsage: "FAMILY", Flags: []cli.Flag{terminal.JSONFlag, sourceFlag},
		Description: terminal.Example("`sparecrate family` shows the numbers of sources.", "sparecrate hosted remove --source 2 'Brackmoor Sans'"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "a FAMILY, by number or name")
			if err != nil {
				return err
			}
			f, err := hostedFamily(ctx, s, args[0], int64(c.Int("source")))
			if err != nil {
				return err
			}
			source := f.Hosted[0]
			if len(f.Hosted) > 1 {
				return terminal.Misused("%s has %d sources; name one with --source", f.Name, len(f.Hosted))
			}
			f, err = terminal.Call[api.Family](s.RemoveHostedStylesheet(ctx, f.Id, source.Id))
			if err != nil {
				return err
			}
			return terminal.Show(c, f, func(w io.Writer) {
				_, _ = fmt.Fprintf(w, "Removed %[2]s as a source of %[1]s.\n", f.Name, source.Host)
			})
		},
	}
}

// hostedFamily returns a family that has sources; with a number, only that one of
// them. Of several families of the name it takes the one with that source.
func hostedFamily(ctx context.Context, s *api.Client, text string, source int64) (*api.Family, error) {
	found, err := terminal.AllFamilies(ctx, s, api.ListFamiliesParams{Q: new(strings.ReplaceAll(text, "/", " "))})
	if err != nil {
		return nil, err
	}
	var all []terminal.Named
	hosted := map[int64]*api.Family{}
	for _, f := range found {
		if len(f.Hosts) == 0 || !strings.EqualFold(f.Name, text) && !strings.EqualFold(f.Client.Name+"/"+f.Name, text) {
			continue
		}
		whole, err := terminal.Call[api.Family](s.GetFamily(ctx, f.Id))
		if err != nil {
			return nil, err
		}
		whole.Hosted = onlySource(whole.Hosted, source)
		if len(whole.Hosted) > 0 {
			hosted[f.Id] = whole
			all = append(all, terminal.Named{ID: f.Id, Name: f.Name, More: f.Client.Name})
		}
	}
	if len(all) == 0 {
		if id, err := terminal.Number(text, "family"); err == nil {
			whole, err := terminal.Call[api.Family](s.GetFamily(ctx, id))
			if err != nil {
				return nil, err
			}
			if whole.Hosted = onlySource(whole.Hosted, source); len(whole.Hosted) > 0 {
				return whole, nil
			}
		}
		return nil, errors.New("there is no such family that is hosted elsewhere; `sparecrate families --origin hosted` lists them")
	}
	id, err := terminal.Choose(text, "family", all)
	if err != nil {
		return nil, err
	}
	return hosted[id], nil
}

func onlySource(all []api.HostedSource, id int64) []api.HostedSource {
	if id == 0 {
		return all
	}
	var out []api.HostedSource
	for _, h := range all {
		if h.Id == id {
			out = append(out, h)
		}
	}
	return out
}

func selfHostCommand() *cli.Command {
	return &cli.Command{
		Name: "self-host", Usage: "fetch the font files of a hosted family into an import", ArgsUsage: "FAMILY",
		Description: terminal.Example("Review them like any import: `sparecrate imports show` lists them with\nwhat happens to each, `imports accept` adds them to the catalog.", "sparecrate hosted self-host --source 1 --origin open 'Brackmoor Sans'"),
		Flags:       []cli.Flag{terminal.JSONFlag, sourceFlag, &cli.StringFlag{Name: "origin", Usage: "their origin: `bought|client|open|commissioned|unknown`"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "a FAMILY, by number or name")
			if err != nil {
				return err
			}
			source := int64(c.Int("source"))
			f, err := hostedFamily(ctx, s, args[0], source)
			if err != nil {
				return err
			}
			b := api.SelfHost{Origin: (*api.Origin)(terminal.Given(c, "origin"))}
			if source != 0 {
				b.Source = &source
			}
			d, err := terminal.Call[api.Import](s.SelfHostFamily(ctx, f.Id, b))
			if err != nil {
				return err
			}
			if d, err = settled(ctx, c, s, d.Id, "fetching"); err != nil {
				return err
			}
			return terminal.Show(c, d, func(w io.Writer) {
				_, _ = fmt.Fprintf(w, "Import %d: %d fonts, %d selected, %d unreadable. Review it with `sparecrate imports show %d`.\n", d.Id, d.Counts.Fonts, d.Counts.Marked, d.Counts.Refused, d.Id)
			})
		},
	}
}
