package cli

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/changes"
)

// changesCommand is `file changes`.
func changesCommand() *cli.Command {
	return &cli.Command{
		Name: "changes", Usage: "say what a new version of a font changed", ArgsUsage: "OLD NEW", Flags: []cli.Flag{jsonFlag},
		Description: example("Compares the first faces of two files: characters, widths, drawings, measures, names,\nlayout features, bytes. Lengths are thousandths of an em.", "sparecrate file changes SkerrowSans-Regular.ttf SkerrowSans-Bold.ttf"),
		Action: func(_ context.Context, c *cli.Command) error {
			args, err := arguments(c, "the OLD file", "the NEW file")
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
			found := changes.Between(opened[0].Faces[0], opened[1].Faces[0])
			return show(c, found, func(w io.Writer) { showChanges(w, found) })
		},
	}
}

func showChanges(w io.Writer, c *changes.Changes) {
	if c.None() {
		_, _ = fmt.Fprintln(w, "Nothing changed.")
		return
	}
	list := func(name string, k changes.Characters) {
		if k.Count > 0 {
			pairs(w, [2]string{name, fmt.Sprintf("%d characters: %s", k.Count, spaced(k.Text, 60))})
		}
	}
	list("added", c.Added)
	list("gone", c.Gone)
	if c.Widened > 0 {
		var out []string
		for _, k := range c.Widths[:min(len(c.Widths), 12)] {
			out = append(out, fmt.Sprintf("%s %g → %g", k.Character, k.From, k.To))
		}
		pairs(w, [2]string{"other widths", fmt.Sprintf("%d characters: %s", c.Widened, more(strings.Join(out, ", "), c.Widened-len(out)))})
	}
	if c.RedrawnOf > 0 {
		pairs(w, [2]string{"drawn anew", fmt.Sprintf("%d characters: %s", c.RedrawnOf, spaced(strings.Join(c.Redrawn, ""), 60))})
	}
	pairs(w, [2]string{"drawings", c.Uncompared})
	for _, v := range c.Values {
		_, _ = fmt.Fprintf(w, "  %-14s %s → %s\n", v.Name, quiet(v.From), quiet(v.To))
	}
	if len(c.Tables) > 0 {
		var out []string
		for _, t := range c.Tables {
			out = append(out, fmt.Sprintf("%s %d → %d", strings.TrimSpace(t.Tag), t.From, t.To))
		}
		pairs(w, [2]string{"bytes", strings.Join(out, ", ")})
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

// versionsCommand is `family versions`.
func versionsCommand() *cli.Command {
	return &cli.Command{
		Name: "versions", Usage: "list the versions of a family's faces, what changed, and which sites carry an old one", ArgsUsage: "FAMILY",
		Description: example("Each version is compared with the one before it; siblings in another container are\nnot versions of their own.", "sparecrate family versions 'Skerrow Sans'"),
		Flags:       []cli.Flag{jsonFlag, &cli.StringFlag{Name: "face", Usage: "only the face of this `STYLE`"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, f, err := withFamily(ctx, c)
			if err != nil {
				return err
			}
			out, err := versions(ctx, s, f, c.String("face"))
			if err != nil {
				return err
			}
			return show(c, out, func(w io.Writer) { showVersions(w, out) })
		},
	}
}

// versionOf is a version of a face, newest first.
type versionOf struct {
	Style   string           `json:"style"`
	Version string           `json:"version"`
	File    api.File         `json:"file"`
	Changes *changes.Changes `json:"changes,omitempty"` // since the one before; nil for the first
}

func versions(ctx context.Context, s *api.Client, f *api.Family, style string) ([]versionOf, error) {
	out := []versionOf{}
	for _, face := range f.Faces {
		if style != "" && !strings.EqualFold(face.Style, style) {
			continue
		}
		files := slices.Clone(face.Files)
		slices.SortStableFunc(files, func(a, b api.File) int {
			if a.Current != b.Current && a.Current {
				return -1
			}
			return b.AddedAt.Compare(a.AddedAt)
		})
		for i, file := range files {
			v := versionOf{Style: face.Style, Version: file.Version, File: file}
			for _, before := range files[i+1:] {
				if before.Version == file.Version && before.Container != file.Container {
					continue // a sibling
				}
				found, err := call[changes.Changes](s.CompareVersions(ctx, face.Id, &api.CompareVersionsParams{From: before.Id, To: file.Id}))
				if err != nil {
					return nil, err
				}
				v.Changes = found
				break
			}
			out = append(out, v)
		}
	}
	return out, nil
}

func showVersions(w io.Writer, all []versionOf) {
	for _, v := range all {
		mark := ""
		if v.File.Current {
			mark = ", packs use this one"
		}
		_, _ = fmt.Fprintf(w, "\n%s, %s  (%s%s)\n", v.Style, v.Version, v.File.Name, mark)
		var sites []string
		for _, s := range v.File.CarriedBy {
			sites = append(sites, s.Name)
		}
		carried := strings.Join(sites, ", ")
		if carried != "" && !v.File.Current {
			carried += " (an old version: build another pack)"
		}
		pairs(w, [2]string{"carried by", carried})
		if v.Changes != nil {
			showChanges(w, v.Changes)
		}
	}
}
