package sitecmd

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"os"
	"path/filepath"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// BuilderCommand is `builder`.
func BuilderCommand() *cli.Command {
	return &cli.Command{
		Name: "builder", Usage: "builder rules: list, show, copy, export, import, try",
		Description: terminal.Example("Builder rules say what a platform of fonts accepts, how files and forms want to be named,\nand where styles go. Shipped ones can be changed and copied.", "sparecrate builder list"),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list builder rules", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("Shows the kind, which sites and packs name, and what is sent there.", "sparecrate builder list"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, _, err := terminal.Begin(c)
					if err != nil {
						return err
					}
					found, err := terminal.Call[api.BuilderList](s.ListBuilders(ctx))
					if err != nil {
						return err
					}
					return terminal.Show(c, found.Items, func(w io.Writer) {
						var rows [][]any
						for _, b := range found.Items {
							rows = append(rows, []any{b.Rules.Kind, b.Rules.Name, listed(b.Rules.Files.Formats), b.Rules.Styles.Form, origin(b), len(b.Sites)})
						}
						terminal.Grid(w, []any{"Kind", "Builder", "Takes", "Styles", "Version", "Sites"}, []string{"Sites"}, rows)
					})
				},
			},
			{
				Name: "show", Usage: "show builder rules in words", ArgsUsage: "KIND", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("With --json the whole record, rules included.", "sparecrate builder show upload-form"),
				Action: func(ctx context.Context, c *cli.Command) error {
					_, b, err := onBuilder(ctx, c)
					if err != nil {
						return err
					}
					return terminal.Show(c, b, func(w io.Writer) { showBuilder(w, b) })
				},
			},
			copyBuilderCommand(),
			{
				Name: "export", Usage: "write builder rules to a file", ArgsUsage: "KIND",
				Description: terminal.Example("The file is JSON by the schema that `builder schema` prints; edit it and import it again.", "sparecrate builder export --out harbour-cms.json harbour-cms"),
				Flags:       []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "out", Usage: "`FILE` to write; default: the terminal"}},
				Action: func(ctx context.Context, c *cli.Command) error {
					_, b, err := onBuilder(ctx, c)
					if err != nil {
						return err
					}
					if c.String("out") == "" {
						_, err = c.Root().Writer.Write(b.Rules.JSON())
						return err
					}
					if _, err := terminal.WriteWhole(c.String("out"), bytes.NewReader(b.Rules.JSON())); err != nil {
						return err
					}
					return terminal.Show(c, b.Rules, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Wrote %s.\n", c.String("out")) })
				},
			},
			{
				Name: "import", Usage: "add or change builder rules from a file", ArgsUsage: "FILE", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("Rules of a kind that is there are changed; the ones before stay as a version.", "sparecrate builder import harbour-cms.json"),
				Action:      importBuilder,
			},
			tryCommand(),
			{
				Name: "versions", Usage: "show the history of builder rules", ArgsUsage: "KIND", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("Newest first, each with what it changed.", "sparecrate builder versions harbour-cms"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, args, err := terminal.Begin(c, "the KIND of builder")
					if err != nil {
						return err
					}
					found, err := terminal.Call[api.BuilderVersionList](s.ListBuilderVersions(ctx, args[0]))
					if err != nil {
						return err
					}
					return terminal.Show(c, found.Items, func(w io.Writer) {
						for _, v := range found.Items {
							day := ""
							if !v.At.IsZero() {
								day = ", " + terminal.When(v.At)
							}
							_, _ = fmt.Fprintf(w, "version %d  (%s%s)\n", v.Version, v.Person, day)
							for _, ch := range v.Changes {
								_, _ = fmt.Fprintf(w, "  %s: %s → %s\n", ch.Field, orNothing(ch.From), orNothing(ch.To))
							}
						}
					})
				},
			},
			{
				Name: "schema", Usage: "print the JSON Schema of builder rules", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("For editors that check and complete as one types.", "sparecrate builder schema"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, _, err := terminal.Begin(c)
					if err != nil {
						return err
					}
					text, err := terminal.Answer(s.GetBuilderSchema(ctx))
					if err != nil {
						return err
					}
					var out bytes.Buffer
					if err := json.Indent(&out, text, "", "  "); err != nil {
						return err
					}
					_, err = fmt.Fprintln(c.Root().Writer, out.String())
					return err
				},
			},
			{
				Name: "delete", Usage: "delete builder rules of your own", ArgsUsage: "KIND", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("Only rules that no site uses; shipped ones stay.", "sparecrate builder delete harbour-cms"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, args, err := terminal.Begin(c, "the KIND of builder")
					if err != nil {
						return err
					}
					if _, err := terminal.Answer(s.DeleteBuilder(ctx, args[0])); err != nil {
						return err
					}
					return terminal.Show(c, map[string]string{"gone": args[0]}, func(w io.Writer) { _, _ = fmt.Fprintf(w, "%s is gone.\n", args[0]) })
				},
			},
		},
	}
}

// onBuilder begins a command on builder rules.
func onBuilder(ctx context.Context, c *cli.Command) (*api.Client, *api.BuilderRecord, error) {
	s, args, err := terminal.Begin(c, "the KIND of builder")
	if err != nil {
		return nil, nil, err
	}
	b, err := terminal.Call[api.BuilderRecord](s.GetBuilder(ctx, args[0]))
	return s, b, err
}

func listed[T ~string](items []T) string {
	out := make([]string, len(items))
	for i, s := range items {
		out[i] = string(s)
	}
	return strings.Join(out, ", ")
}

func orNothing(s string) string {
	if s == "" {
		return "nothing"
	}
	return s
}

func origin(b api.BuilderRecord) string {
	switch {
	case b.Shipped && b.Version == 1:
		return "as shipped"
	case b.Shipped:
		return fmt.Sprintf("%d, changed", b.Version)
	}
	return fmt.Sprintf("%d, your own", b.Version)
}

func showBuilder(w io.Writer, b *api.BuilderRecord) {
	r := b.Rules
	_, _ = fmt.Fprintf(w, "%s  (%s, %s)\n%s\n\n", r.Name, r.Kind, origin(*b), r.About)
	send := "all of them"
	if r.Files.Include == "best" {
		send = "the best only"
	}
	upload := map[string]string{"folder": "as a folder", "one": "one file at a time", "face": "all files of a face at a time", "many": "many at once", "project": "copied into the project", "install": "installed"}[string(r.Files.Upload)]
	names := map[string]string{"full": "exactly as the font's full name", "postscript": "by the PostScript name", "hyphens": "small letters, digits and hyphens", "underscores": "small letters, digits and underscores", "as-is": "as they came"}[string(r.Files.Named)]
	limit := ""
	if r.Files.MaxBytes > 0 {
		limit = terminal.Size(r.Files.MaxBytes) + " a file"
	}
	taken := map[bool]string{true: "taken", false: "not taken"}
	terminal.Pairs(w, [2]string{"formats", listed(r.Files.Formats) + "; " + send}, [2]string{"upload", upload}, [2]string{"at most", limit}, [2]string{"variable", taken[r.Files.Variable]},
		[2]string{"parts", taken[r.Files.Parts]}, [2]string{"file names", names})
	if r.Form != nil {
		for _, f := range r.Form.Fields {
			same := ""
			if f.Same {
				same = ", must be the file's and the font's name"
			}
			terminal.Pairs(w, [2]string{"form", f.Label + ": " + string(f.Value) + same})
		}
		terminal.Pairs(w, [2]string{"button", r.Form.Save})
	}
	shape := "one, with weights"
	if r.Families == "each" {
		shape = "one for every face"
	}
	styles := string(r.Styles.Form)
	if r.Styles.PerFace {
		styles += ", a stylesheet for each face"
	}
	if r.Styles.Where != "" {
		styles += ", " + r.Styles.Where
	}
	if r.Styles.EachPage {
		styles += "; on every page"
	}
	if r.Styles.Override {
		styles += "; its own styles are overruled"
	}
	addresses := "relative to the stylesheet"
	switch {
	case r.URLs.After:
		addresses = "only after the upload"
	case r.URLs.Prefix != "":
		addresses = "behind " + r.URLs.Prefix
	case !r.URLs.Relative:
		addresses = ""
	}
	terminal.Pairs(w, [2]string{"families", shape}, [2]string{"styles", styles}, [2]string{"called by", listed(r.Styles.Load)}, [2]string{"addresses", addresses})
	for _, role := range r.Roles {
		terminal.Pairs(w, [2]string{"role", strings.TrimSpace(string(role.Role) + "  " + role.Selector + role.Choose)})
	}
	var sites []string
	for _, s := range b.Sites {
		sites = append(sites, s.Name)
	}
	terminal.Pairs(w, [2]string{"sites", strings.Join(sites, ", ")})
}

func copyBuilderCommand() *cli.Command {
	return &cli.Command{
		Name: "copy", Usage: "copy builder rules to a new kind", ArgsUsage: "KIND",
		Description: terminal.Example("Begin your own rules with ones that are nearly right.", "sparecrate builder copy --as harbour-cms --name 'Harbour town CMS' upload-form"),
		Flags: []cli.Flag{
			terminal.JSONFlag,
			&cli.StringFlag{Name: "as", Usage: "the new `KIND`: lower-case letters, digits, hyphens", Required: true},
			&cli.StringFlag{Name: "name", Usage: "its `NAME` for people", Required: true},
		},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, b, err := onBuilder(ctx, c)
			if err != nil {
				return err
			}
			b.Rules.Kind, b.Rules.Name = c.String("as"), c.String("name")
			added, err := terminal.Call[api.BuilderRecord](s.AddBuilderWithBody(ctx, "application/json", bytes.NewReader(b.Rules.JSON())))
			if err != nil {
				return err
			}
			return terminal.Show(c, added, func(w io.Writer) { showBuilder(w, added) })
		},
	}
}

func importBuilder(ctx context.Context, c *cli.Command) error {
	s, args, err := terminal.Begin(c, "the FILE with builder rules")
	if err != nil {
		return err
	}
	text, err := os.ReadFile(args[0])
	if err != nil {
		return err
	}
	var head struct {
		Kind string `json:"kind"`
	}
	if err := json.Unmarshal(text, &head); err != nil {
		return fmt.Errorf("%s is no JSON: %w", args[0], err)
	}
	found, err := terminal.Call[api.BuilderList](s.ListBuilders(ctx))
	if err != nil {
		return err
	}
	var b *api.BuilderRecord
	for _, there := range found.Items {
		if there.Rules.Kind == head.Kind {
			b, err = terminal.Call[api.BuilderRecord](s.ChangeBuilderWithBody(ctx, head.Kind, &api.ChangeBuilderParams{IfMatch: there.Etag}, "application/json", bytes.NewReader(text)))
		}
	}
	if b == nil && err == nil {
		b, err = terminal.Call[api.BuilderRecord](s.AddBuilderWithBody(ctx, "application/json", bytes.NewReader(text)))
	}
	if err != nil {
		return err
	}
	return terminal.Show(c, b, func(w io.Writer) { showBuilder(w, b) })
}

func tryCommand() *cli.Command {
	return &cli.Command{
		Name: "try", Usage: "check whether a platform would accept an upload", ArgsUsage: "KIND FILE...",
		Description: terminal.Example("Says for each file, offered in one go, what the platform would say. --field is what is\ntyped into its form with the file; then it holds for one file. Exit code 1 where one is refused.",
			"sparecrate builder try desktop SkerrowSans-Bold.ttf"),
		Flags: []cli.Flag{terminal.JSONFlag, &cli.StringSliceFlag{Name: "field", Usage: "`LABEL=TEXT` of the form; may be repeated"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Args().Len() < 2 {
				return terminal.Misused("`%s` needs the KIND of builder and at least one FILE", c.FullName())
			}
			s, err := terminal.Connect()
			if err != nil {
				return err
			}
			body, kind, err := offers(c.Args().Slice()[1:], c.StringSlice("field"))
			if err != nil {
				return err
			}
			found, err := terminal.Call[api.UploadAnswerList](s.TryUploadWithBody(ctx, c.Args().First(), kind, body))
			if err != nil {
				return err
			}
			refused := false
			err = terminal.Show(c, found.Items, func(w io.Writer) {
				for _, a := range found.Items {
					word := "taken"
					if !a.Taken {
						word = "refused"
					}
					_, _ = fmt.Fprintf(w, "%s: %s\n", a.Name, word)
					for _, line := range a.Says {
						_, _ = fmt.Fprintf(w, "  %s\n", line)
					}
				}
			})
			for _, a := range found.Items {
				refused = refused || !a.Taken
			}
			if err == nil && refused {
				err = terminal.ErrReported
			}
			return err
		},
	}
}

// offers writes files as the parts of an upload.
func offers(paths, fields []string) (io.Reader, string, error) {
	var b bytes.Buffer
	m := multipart.NewWriter(&b)
	if len(fields) > 0 {
		typed := map[string]string{}
		for _, f := range fields {
			label, text, ok := strings.Cut(f, "=")
			if !ok {
				return nil, "", terminal.Misused("--field takes LABEL=TEXT, not %q", f)
			}
			typed[label] = text
		}
		text, err := json.Marshal(typed)
		if err != nil {
			return nil, "", err
		}
		if err := m.WriteField("fields", string(text)); err != nil {
			return nil, "", err
		}
	}
	for _, p := range paths {
		part, err := m.CreateFormFile("file", filepath.Base(p))
		if err != nil {
			return nil, "", err
		}
		f, err := os.Open(p)
		if err != nil {
			return nil, "", err
		}
		_, err = io.Copy(part, f)
		if err = errors.Join(err, f.Close()); err != nil {
			return nil, "", err
		}
	}
	return &b, m.FormDataContentType(), m.Close()
}
