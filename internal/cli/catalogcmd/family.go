package catalogcmd

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"sparecrate/font/metadata"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/licensecmd"
	"sparecrate/internal/cli/terminal"
)

// FamilyCommand is `family`.
func FamilyCommand() *cli.Command {
	return &cli.Command{
		Name: "family", Usage: "show, change, retire or delete a family", ArgsUsage: "FAMILY",
		Description: terminal.Example("FAMILY is a number or a whole name.", "sparecrate family 'Skerrow Sans'"),
		Flags:       []cli.Flag{terminal.JSONFlag},
		Commands:    append([]*cli.Command{versionsCommand(), similarCommand(), pairingsCommand(), changeFamilyCommand(), retireCommand(), deleteCommand(), restoreCommand()}, fileCommands()...),
		Action: func(ctx context.Context, c *cli.Command) error {
			_, f, err := terminal.WithFamily(ctx, c)
			if err != nil {
				return err
			}
			return terminal.Show(c, f, func(w io.Writer) { showFamily(w, f) })
		},
	}
}

func changeFamilyCommand() *cli.Command {
	return &cli.Command{
		Name: "change", Usage: "change a family's client, origin, designer, foundry, tags or note", ArgsUsage: "FAMILY",
		Description: terminal.Example("Only what is named is changed. --tag replaces all tags; `--tag ''` leaves none.", "sparecrate family change --tag signage --tag 'wide range' 'Skerrow Sans'"),
		Flags: []cli.Flag{
			terminal.JSONFlag,
			&cli.StringFlag{Name: "client", Usage: "the `CLIENT` it belongs to, by name or number"},
			&cli.StringFlag{Name: "origin", Usage: "its origin: `bought|client|open|commissioned|hosted|unknown`"},
			&cli.StringFlag{Name: "designer", Usage: "`NAME` of the designer"},
			&cli.StringFlag{Name: "foundry", Usage: "`NAME` of the foundry"},
			&cli.StringSliceFlag{Name: "tag", Usage: "a `WORD` to find it by; may be repeated"},
			&cli.StringFlag{Name: "note", Usage: "a note for other people"},
		},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, f, err := terminal.WithFamily(ctx, c)
			if err != nil {
				return err
			}
			ch := api.FamilyChange{Origin: (*api.Origin)(terminal.Given(c, "origin")), Designer: terminal.Given(c, "designer"), Foundry: terminal.Given(c, "foundry"), Note: terminal.Given(c, "note")}
			if c.IsSet("tag") {
				tags := c.StringSlice("tag")
				ch.Tags = &tags
			}
			of, err := terminal.GivenClient(ctx, s, c)
			if err != nil {
				return err
			}
			ch.Client = of
			if ch == (api.FamilyChange{}) {
				return terminal.Misused("say what is to be changed, such as --tag or --designer")
			}
			if f, err = changeFamily(ctx, s, f, ch); err != nil {
				return err
			}
			return terminal.Show(c, f, func(w io.Writer) { showFamily(w, f) })
		},
	}
}

func changeFamily(ctx context.Context, s *api.Client, f *api.Family, ch api.FamilyChange) (*api.Family, error) {
	return terminal.Call[api.Family](s.ChangeFamily(ctx, f.Id, &api.ChangeFamilyParams{IfMatch: f.Etag}, ch))
}

func retireCommand() *cli.Command {
	return &cli.Command{
		Name: "retire", Usage: "retire a family: hide it from lists; sites that use it keep it", ArgsUsage: "FAMILY", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("`sparecrate families --status retired` lists retired families; `family restore` restores them.", "sparecrate family retire 'Tidegarth Poster'"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, f, err := terminal.WithFamily(ctx, c)
			if err != nil {
				return err
			}
			yes := true
			if f, err = changeFamily(ctx, s, f, api.FamilyChange{Retired: &yes}); err != nil {
				return err
			}
			return terminal.Show(c, f, func(w io.Writer) {
				_, _ = fmt.Fprintf(w, "%s is retired.%s\n", f.Name, usedBy(f, " These go on using it: %s."))
			})
		},
	}
}

// usedBy says what uses a family, in a sentence; nothing where nothing does.
func usedBy(f *api.Family, sentence string) string {
	var out []string
	for _, s := range f.Sites {
		out = append(out, "site "+s.Name)
	}
	for _, l := range f.Shortlists {
		out = append(out, "shortlist "+l.Name)
	}
	for _, l := range f.Licenses {
		out = append(out, licensecmd.LicenseLine(l))
	}
	if len(out) == 0 {
		return ""
	}
	return fmt.Sprintf(sentence, strings.Join(out, "; "))
}

func deleteCommand() *cli.Command {
	return &cli.Command{
		Name: "delete", Usage: "delete a family; it can be restored for 30 days", ArgsUsage: "FAMILY",
		Description: terminal.Example("Shows what uses the family and asks for confirmation; --yes skips that. Sites that use it\nget no pack until it is restored or removed from them.", "sparecrate family delete --yes 'Tidegarth Poster'"),
		Flags:       []cli.Flag{terminal.JSONFlag, &cli.BoolFlag{Name: "yes", Usage: "skip the confirmation"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "a FAMILY, by number or name")
			if err != nil {
				return err
			}
			f, err := familyOnShelves(ctx, s, args[0], "family", api.StatusActive, api.StatusRetired)
			if err != nil {
				return err
			}
			if !c.Bool("yes") {
				question := fmt.Sprintf("Delete %s of %s (faces: %d)?%s It can be restored for 30 days.", f.Name, f.Client.Name, len(f.Faces), usedBy(f, " It is used by: %s."))
				ok, err := terminal.Ask(c, question)
				if errors.Is(err, terminal.ErrNobody) {
					return terminal.Misused("there is no terminal for the question; use --yes to confirm. The question was: %s", question)
				}
				if err != nil || !ok {
					return err
				}
			}
			gone, err := terminal.Call[api.Family](s.DeleteFamily(ctx, f.Id, &api.DeleteFamilyParams{IfMatch: f.Etag}))
			if err != nil {
				return err
			}
			return terminal.Show(c, gone, func(w io.Writer) {
				_, _ = fmt.Fprintf(w, "%s is deleted.%s Until %s, `sparecrate family restore %d` undoes it.\n", f.Name, usedBy(f, " It was used by: %s."), gone.GoneAt.Format(time.DateOnly), f.Id)
			})
		},
	}
}

func restoreCommand() *cli.Command {
	return &cli.Command{
		Name: "restore", Usage: "restore a retired or deleted family", ArgsUsage: "FAMILY", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("With all that was its own: faces, files, licenses, sites, tags.", "sparecrate family restore 'Tidegarth Poster'"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "a FAMILY, by number or name")
			if err != nil {
				return err
			}
			f, err := familyOnShelves(ctx, s, args[0], "retired or deleted family", api.StatusDeleted, api.StatusRetired)
			if err != nil {
				return err
			}
			if f.Status == api.StatusRetired {
				no := false
				f, err = changeFamily(ctx, s, f, api.FamilyChange{Retired: &no})
			} else {
				f, err = terminal.Call[api.Family](s.RestoreFamily(ctx, f.Id))
			}
			if err != nil {
				return err
			}
			return terminal.Show(c, f, func(w io.Writer) { _, _ = fmt.Fprintf(w, "%s is back in the catalog.\n", f.Name) })
		},
	}
}

// MoveCommand is `move`.
func MoveCommand() *cli.Command {
	return &cli.Command{
		Name: "move", Usage: "move faces to another family, or merge two families", ArgsUsage: "FAMILY",
		Description: terminal.Example("Moves fonts, splits a family, or merges two families of one client. Later imports of\nthe same fonts go to the new family too. Sites that use one family use the other\ntoo; a new family gets the same licenses.",
			"sparecrate move --into 'Skerrow Signs' --face Bold 'Skerrow Sans'"),
		Flags: []cli.Flag{
			terminal.JSONFlag,
			&cli.StringFlag{Name: "into", Usage: "`NAME` of the target family; created if it does not exist", Required: true},
			&cli.StringSliceFlag{Name: "face", Usage: "`STYLES` of the faces; default: all"},
		},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, f, err := terminal.WithFamily(ctx, c)
			if err != nil {
				return err
			}
			move := api.FaceMove{Into: c.String("into")}
			if styles := c.StringSlice("face"); len(styles) > 0 {
				var faces []int64
				for _, style := range styles {
					i := slices.IndexFunc(f.Faces, func(face api.Face) bool { return strings.EqualFold(face.Style, style) })
					if i < 0 {
						return terminal.Misused("%s has no face %q", f.Name, style)
					}
					faces = append(faces, f.Faces[i].Id)
				}
				move.Faces = &faces
			}
			if f, err = terminal.Call[api.Family](s.MoveFaces(ctx, f.Id, move)); err != nil {
				return err
			}
			return terminal.Show(c, f, func(w io.Writer) { showFamily(w, f) })
		},
	}
}

func showFamily(w io.Writer, f *api.Family) {
	_, _ = fmt.Fprintf(w, "%s  (family %d, %s, origin %s)\n", f.Name, f.Id, f.Client.Name, f.Origin)
	if f.Status != api.StatusActive {
		_, _ = fmt.Fprintf(w, "  %s by %s on %s\n", strings.ToUpper(string(f.Status)), *f.StatusBy, f.StatusAt.Format(time.DateOnly))
	}
	terminal.Pairs(w, [2]string{"designer", f.Designer}, [2]string{"foundry", f.Foundry}, [2]string{"tags", strings.Join(f.Tags, ", ")}, [2]string{"note", f.Note})
	for _, h := range f.Hosted {
		_, _ = fmt.Fprintf(w, "\nHosted at %s (source %d), %d faces\n  %s\n", h.Host, h.Id, len(h.Faces), h.Notice)
		for _, form := range h.Snippets {
			terminal.Pairs(w, [2]string{strings.ToLower(form.Name), strings.ReplaceAll(form.Text, "\n", "\n"+strings.Repeat(" ", 17))})
		}
	}
	for _, face := range f.Faces {
		n := face.Metadata.Names
		_, _ = fmt.Fprintf(w, "\n%s\n", face.Style)
		terminal.Pairs(w, [2]string{"stylesheet", stylesheetLine(f.Name, &face)},
			[2]string{"full name", n.Full}, [2]string{"PostScript", n.PostScript}, [2]string{"app code", fmt.Sprintf("UIFont(name: %q, size: 17)", n.PostScript)}, [2]string{"version", n.Version},
			[2]string{"permission", face.Permission})
		for _, file := range face.Files {
			mark := standing(&file)
			terminal.Pairs(w, [2]string{"file", fmt.Sprintf("%s (%s, %s%s)", file.Name, strings.ToUpper(string(file.Format)), terminal.Size(file.Bytes), mark)})
		}
		if face.Removed != nil {
			for _, file := range *face.Removed {
				terminal.Pairs(w, [2]string{"removed", removedLine(&file)})
			}
		}
		terminal.Pairs(w, [2]string{"formats", formats(face.Formats)})
		for _, p := range face.Metadata.Problems {
			terminal.Pairs(w, [2]string{"problem", p.Message})
		}
	}
	for _, face := range f.Removed {
		_, _ = fmt.Fprintf(w, "\n%s, removed\n", face.Style)
		for _, file := range face.Files {
			terminal.Pairs(w, [2]string{"file", removedLine(&file)})
		}
	}
	_, _ = fmt.Fprintln(w)
	if len(f.Licenses) == 0 {
		terminal.Pairs(w, [2]string{"license", "none recorded"})
	}
	for _, l := range f.Licenses {
		terminal.Pairs(w, [2]string{"license", licensecmd.LicenseLine(l)})
	}
	for _, p := range f.Documents {
		terminal.Pairs(w, [2]string{"document", fmt.Sprintf("%s (document %d, %s)", p.Name, p.Id, terminal.Size(p.Bytes))})
	}
	for _, s := range f.Sites {
		does := ""
		if len(s.Roles) > 0 {
			does = ": " + strings.Join(s.Roles, ", ")
		}
		terminal.Pairs(w, [2]string{"site", fmt.Sprintf("%s (site %d)%s", s.Name, s.Id, does)})
	}
}

// stylesheetLine is what a stylesheet says of text in a face.
func stylesheetLine(family string, face *api.Face) string {
	line := fmt.Sprintf("font-family: %q; font-weight: %d;", family, face.Metadata.Style.Weight)
	if slope := face.Metadata.Style.Slope; slope != metadata.Upright {
		line += fmt.Sprintf(" font-style: %s;", slope)
	}
	return line
}

// formats says in a line which formats of a face are there.
func formats(all []api.FaceFormat) string {
	var out []string
	for _, m := range all {
		name := strings.ToUpper(string(m.Format))
		switch {
		case m.Bytes != nil:
			name += " " + terminal.Size(*m.Bytes)
		case m.State == api.Failed:
			name += " cannot be made"
		case m.State == api.OnRequest:
			name += " on request"
		default:
			name += " on its way"
		}
		out = append(out, name)
	}
	return strings.Join(out, ", ")
}
