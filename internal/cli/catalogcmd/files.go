package catalogcmd

import (
	"context"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// fileCommands are the commands of `family` on the files of faces: which are in use, and
// which go.
func fileCommands() []*cli.Command {
	face := &cli.StringFlag{Name: "face", Usage: "the face with this `STYLE`, if several have a file of that name"}
	anyway := &cli.BoolFlag{Name: "anyway", Usage: "skip the confirmation, even if sites use it"}
	const listed = "FILE is the name or number of a file that `sparecrate family versions` lists. "
	return []*cli.Command{
		{
			Name: "use-file", Usage: "choose which file of a face packs use", ArgsUsage: "FAMILY FILE",
			Description: terminal.Example(listed+"It stays until\n`family use-newest` ends the choice, whatever comes later.", "sparecrate family use-file 'Skerrow Sans' SkerrowSans-Bold.ttf"),
			Flags:       []cli.Flag{terminal.JSONFlag, face},
			Action: onFile(func(ctx context.Context, _ *cli.Command, s *api.Client, at *fileOf) (*api.Family, error) {
				return terminal.Call[api.Family](s.UseFile(ctx, at.face, api.FileInUse{File: at.file.Id}))
			}),
		},
		{
			Name: "use-newest", Usage: "let packs use the newest complete file again", ArgsUsage: "FAMILY STYLE",
			Description: terminal.Example("STYLE is the face's style.", "sparecrate family use-newest 'Skerrow Sans' Bold"),
			Flags:       []cli.Flag{terminal.JSONFlag},
			Action: onFace(func(ctx context.Context, _ *cli.Command, s *api.Client, face int64) (*api.Family, error) {
				return terminal.Call[api.Family](s.UseNewestFile(ctx, face))
			}),
		},
		{
			Name: "resolve", Usage: "choose between several files with the same version number", ArgsUsage: "FAMILY FILE",
			Description: terminal.Example(listed+"It counts for its\nversion; a newer version takes its place all the same.", "sparecrate family resolve 'Tidegarth Poster' tidegarth.ttf"),
			Flags:       []cli.Flag{terminal.JSONFlag, face},
			Action: onFile(func(ctx context.Context, _ *cli.Command, s *api.Client, at *fileOf) (*api.Family, error) {
				return terminal.Call[api.Family](s.SettleConflict(ctx, at.face, at.file.Id))
			}),
		},
		{
			Name: "record-as", Usage: "record a file under another style than its name says", ArgsUsage: "FAMILY FILE STYLE",
			Description: terminal.Example(listed+"STYLE is the style\nwith a word for its weight, or a weight from 1 to 1000.", "sparecrate family record-as 'Tidegarth Poster' tidegarth.ttf Black"),
			Flags:       []cli.Flag{terminal.JSONFlag, face},
			Action: onFile(func(ctx context.Context, c *cli.Command, s *api.Client, at *fileOf) (*api.Family, error) {
				return terminal.Call[api.Family](s.RecordFileAs(ctx, at.face, at.file.Id, api.RecordAs{Style: c.Args().Get(2)}))
			}, "a STYLE"),
		},
		{
			Name: "remove-file", Usage: "remove a file of a face; it can be restored for 30 days", ArgsUsage: "FAMILY FILE",
			Description: terminal.Example(listed+"Where sites use it,\nthat is said first.", "sparecrate family remove-file --anyway 'Tidegarth Poster' tidegarth.ttf"),
			Flags:       []cli.Flag{terminal.JSONFlag, face, anyway},
			Action: onFile(func(ctx context.Context, c *cli.Command, s *api.Client, at *fileOf) (*api.Family, error) {
				return confirmed(c, func(anyway bool) (*api.Family, error) {
					return terminal.Call[api.Family](s.RemoveFile(ctx, at.face, at.file.Id, &api.RemoveFileParams{Anyway: &anyway}))
				})
			}),
		},
		{
			Name: "remove-face", Usage: "remove all files of a face; they can be restored for 30 days", ArgsUsage: "FAMILY STYLE",
			Description: terminal.Example("STYLE is the face's style. Where sites use the family, that is said first.", "sparecrate family remove-face 'Skerrow Sans' Bold"),
			Flags:       []cli.Flag{terminal.JSONFlag, anyway},
			Action: onFace(func(ctx context.Context, c *cli.Command, s *api.Client, face int64) (*api.Family, error) {
				return confirmed(c, func(anyway bool) (*api.Family, error) {
					return terminal.Call[api.Family](s.RemoveFace(ctx, face, &api.RemoveFaceParams{Anyway: &anyway}))
				})
			}),
		},
		{
			Name: "restore-file", Usage: "restore a removed file", ArgsUsage: "FAMILY FILE",
			Description: terminal.Example("FILE is its name or number; `sparecrate family` lists what was removed.", "sparecrate family restore-file 'Tidegarth Poster' tidegarth.ttf"),
			Flags:       []cli.Flag{terminal.JSONFlag, face},
			Action: onFile(func(ctx context.Context, _ *cli.Command, s *api.Client, at *fileOf) (*api.Family, error) {
				return terminal.Call[api.Family](s.RestoreFile(ctx, at.face, at.file.Id))
			}),
		},
	}
}

// fileOf is a file of a face that a command is about.
type fileOf struct {
	face int64
	file api.File
}

// onFile runs a command on a file of a family and shows what became of it; more are the
// arguments behind the file.
func onFile(do func(ctx context.Context, c *cli.Command, s *api.Client, at *fileOf) (*api.Family, error), more ...string) cli.ActionFunc {
	return func(ctx context.Context, c *cli.Command) error {
		s, args, err := terminal.Begin(c, append([]string{"a FAMILY, by number or name", "a FILE, by name or number"}, more...)...)
		if err != nil {
			return err
		}
		f, err := familyNamed(ctx, s, args[0])
		if err != nil {
			return err
		}
		at, err := findFile(c, f, args[1])
		if err != nil {
			return err
		}
		changed, err := do(ctx, c, s, at)
		if err != nil {
			return err
		}
		return terminal.Show(c, changed, func(w io.Writer) { toldOf(w, changed, at) })
	}
}

// onFace runs a command on a face of a family and shows what became of it.
func onFace(do func(ctx context.Context, c *cli.Command, s *api.Client, face int64) (*api.Family, error)) cli.ActionFunc {
	return func(ctx context.Context, c *cli.Command) error {
		s, args, err := terminal.Begin(c, "a FAMILY, by number or name", "a STYLE")
		if err != nil {
			return err
		}
		f, err := familyNamed(ctx, s, args[0])
		if err != nil {
			return err
		}
		var faces []terminal.Named
		for _, face := range f.Faces {
			faces = append(faces, terminal.Named{ID: face.Id, Name: face.Style, More: face.Metadata.Names.Full})
		}
		id, err := terminal.Choose(args[1], "face", faces)
		if err != nil {
			return err
		}
		changed, err := do(ctx, c, s, id)
		if err != nil {
			return err
		}
		return terminal.Show(c, changed, func(w io.Writer) {
			for _, face := range changed.Faces {
				if face.Id == id {
					_, _ = fmt.Fprintf(w, "Packs use %s for %s %s.\n", inUse(&face), changed.Name, face.Style)
					return
				}
			}
			_, _ = fmt.Fprintf(w, "%s %s is removed. Its files can be restored for 30 days with `sparecrate family restore-file`.\n", changed.Name, args[1])
		})
	}
}

// familyNamed returns the family that a text names.
func familyNamed(ctx context.Context, s *api.Client, text string) (*api.Family, error) {
	id, err := terminal.FindFamily(ctx, s, text)
	if err != nil {
		return nil, err
	}
	return terminal.Call[api.Family](s.GetFamily(ctx, id))
}

// findFile finds a file of a family, removed ones included.
func findFile(c *cli.Command, f *api.Family, text string) (*fileOf, error) {
	var named []terminal.Named
	found := map[int64]*fileOf{} // by number
	again := ""
	add := func(face int64, style string, files []api.File) {
		if only := c.String("face"); only != "" && !strings.EqualFold(style, only) {
			return
		}
		for _, file := range files {
			if found[file.Id] != nil && (strings.EqualFold(text, file.Name) || text == strconv.FormatInt(file.Id, 10)) {
				again = file.Name
			}
			named = append(named, terminal.Named{ID: file.Id, Name: file.Name, More: style + ", " + file.Version})
			found[file.Id] = &fileOf{face, file}
		}
	}
	for _, face := range f.Faces {
		add(face.Id, face.Style, face.Files)
		if face.Removed != nil {
			add(face.Id, face.Style, *face.Removed)
		}
	}
	for _, face := range f.Removed {
		add(face.Id, face.Style, face.Files)
	}
	if again != "" {
		return nil, terminal.Misused("%s is a collection and holds several faces of %s; say which with --face", again, f.Name)
	}
	id, err := terminal.Choose(text, "file", named)
	if err != nil {
		return nil, err
	}
	return found[id], nil
}

// standing says what a file of a face is, behind its name.
func standing(f *api.File) string {
	switch {
	case f.Unsettled != nil && f.Current:
		return ", packs use this one until it is finished"
	case f.Beside != nil:
		return ", packs use this part"
	case f.Current && f.Range != nil:
		return ", packs use this part, with the basic letters"
	case f.Current && f.Chosen != nil:
		return ", packs use this one: it was chosen"
	case f.Current:
		return ", packs use this one"
	case f.Unsettled != nil && f.Outcome != nil:
		return ", " + string(*f.Outcome) + ", to be finished"
	case f.Outcome != nil:
		return ", " + string(*f.Outcome)
	}
	return ""
}

// removedLine says of a removed file who removed it and until when it can be brought back.
func removedLine(f *api.File) string {
	return fmt.Sprintf("%s (by %s, can be restored until %s)", f.Name, *f.RemovedBy, f.GoneAt.Format(time.DateOnly))
}

// inUse names the files that packs use of a face.
func inUse(face *api.Face) string {
	name, parts := "", 0
	for _, file := range face.Files {
		if file.Current {
			name = file.Name
		}
		if file.Beside != nil {
			parts++
		}
	}
	if parts > 0 {
		name = fmt.Sprintf("%s and %d parts beside it", name, parts)
	}
	return name
}

// toldOf says what is in use of the face that a file belongs to now.
func toldOf(w io.Writer, f *api.Family, at *fileOf) {
	var in *api.Face
	var is *api.File
	for i := range f.Faces {
		face := &f.Faces[i]
		for k := range face.Files {
			if face.Files[k].Id == at.file.Id && (in == nil || face.Id == at.face) {
				in, is = face, &face.Files[k]
			}
		}
	}
	if in == nil {
		_, _ = fmt.Fprintf(w, "%s is removed. It can be restored for 30 days with `sparecrate family restore-file`.\n", at.file.Name)
		return
	}
	_, _ = fmt.Fprintf(w, "Packs use %s for %s %s.\n", inUse(in), f.Name, in.Style)
	if !is.Current && is.Why != nil {
		_, _ = fmt.Fprintf(w, "%s: %s\n", is.Name, *is.Why)
	}
}

// confirmed does something that sites stand against after somebody said so.
func confirmed(c *cli.Command, do func(anyway bool) (*api.Family, error)) (*api.Family, error) {
	f, err := do(c.Bool("anyway"))
	if !terminal.IsProblem(err, "in-use") {
		return f, err
	}
	yes, unheard := terminal.Ask(c, err.Error()+". Remove it?")
	switch {
	case errors.Is(unheard, terminal.ErrNobody):
		return nil, fmt.Errorf("%w. Say --anyway to remove it all the same", err)
	case unheard != nil:
		return nil, unheard
	case !yes:
		return nil, errors.New("nothing was removed")
	}
	return do(true)
}
