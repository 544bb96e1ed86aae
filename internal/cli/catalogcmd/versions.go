package catalogcmd

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/font/changes"
	"sparecrate/internal/cli/filecmd"
	"sparecrate/internal/cli/terminal"
)

// versionsCommand is `family versions`.
func versionsCommand() *cli.Command {
	return &cli.Command{
		Name: "versions", Usage: "list the versions of a family's faces, what changed, and which sites carry an old one", ArgsUsage: "FAMILY",
		Description: terminal.Example("Each version is compared with the one before it; siblings in another container are\nnot versions of their own.", "sparecrate family versions 'Skerrow Sans'"),
		Flags:       []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "face", Usage: "only the face of this `STYLE`"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, f, err := terminal.WithFamily(ctx, c)
			if err != nil {
				return err
			}
			out, err := versions(ctx, s, f, c.String("face"))
			if err != nil {
				return err
			}
			return terminal.Show(c, out, func(w io.Writer) { showVersions(w, out) })
		},
	}
}

// useFileCommand is `family use-file`.
func useFileCommand() *cli.Command {
	return &cli.Command{
		Name: "use-file", Usage: "choose which file of a face packs use", ArgsUsage: "FAMILY FILE",
		Description: terminal.Example("FILE is the name or number of a file that `sparecrate family versions` lists. Fonts of the\nface that come later take over by their version, as they would have without it.", "sparecrate family use-file 'Skerrow Sans' SkerrowSans-Bold.ttf"),
		Flags:       []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "face", Usage: "the face of this `STYLE`, where several have a file of the name"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "a FAMILY, by number or name", "a FILE, by name or number")
			if err != nil {
				return err
			}
			family, err := terminal.FindFamily(ctx, s, args[0])
			if err != nil {
				return err
			}
			f, err := terminal.Call[api.Family](s.GetFamily(ctx, family))
			if err != nil {
				return err
			}
			var named []terminal.Named
			faces := map[int64]int64{} // by file
			for _, face := range f.Faces {
				if style := c.String("face"); style != "" && !strings.EqualFold(face.Style, style) {
					continue
				}
				for _, file := range face.Files {
					if _, again := faces[file.Id]; again && (args[1] == file.Name || args[1] == strconv.FormatInt(file.Id, 10)) {
						return terminal.Misused("%s is a collection and holds several faces of %s; say which with --face", file.Name, f.Name)
					}
					named = append(named, terminal.Named{ID: file.Id, Name: file.Name, More: face.Style + ", " + file.Version})
					faces[file.Id] = face.Id
				}
			}
			id, err := terminal.Choose(args[1], "file", named)
			if err != nil {
				return err
			}
			changed, err := terminal.Call[api.Family](s.UseFile(ctx, faces[id], api.FileInUse{File: id}))
			if err != nil {
				return err
			}
			return terminal.Show(c, changed, func(w io.Writer) {
				for _, face := range changed.Faces {
					if face.Id == faces[id] {
						_, _ = fmt.Fprintf(w, "Packs use %s for %s %s.\n", args[1], changed.Name, face.Style)
					}
				}
			})
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
				found, err := terminal.Call[changes.Changes](s.CompareVersions(ctx, face.Id, &api.CompareVersionsParams{From: before.Id, To: file.Id}))
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
		_, _ = fmt.Fprintf(w, "\n%s, %s  (%d: %s%s)\n", v.Style, v.Version, v.File.Id, v.File.Name, mark)
		var sites []string
		for _, s := range v.File.CarriedBy {
			sites = append(sites, s.Name)
		}
		carried := strings.Join(sites, ", ")
		if carried != "" && !v.File.Current {
			carried += " (an old version: build another pack)"
		}
		why := ""
		if v.File.Why != nil {
			why = *v.File.Why
		}
		terminal.Pairs(w, [2]string{"when it came", why}, [2]string{"carried by", carried})
		if v.Changes != nil {
			filecmd.ShowChanges(w, v.Changes)
		}
	}
}
