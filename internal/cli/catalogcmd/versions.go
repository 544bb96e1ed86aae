package catalogcmd

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/font/diff"
	"sparecrate/internal/cli/filecmd"
	"sparecrate/internal/cli/terminal"
)

// versionsCommand is `family versions`.
func versionsCommand() *cli.Command {
	return &cli.Command{
		Name: "versions", Usage: "list versions of a family's faces, what changed, and which sites use an old one", ArgsUsage: "FAMILY",
		Description: terminal.Example("Each version is compared with the one before it; siblings in another format are\nnot versions of their own.", "sparecrate family versions 'Skerrow Sans'"),
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

// versionOf is a version of a face, newest first.
type versionOf struct {
	Style   string        `json:"style"`
	Version string        `json:"version"`
	File    api.File      `json:"file"`
	Changes *diff.Changes `json:"changes,omitempty"` // since the one before; nil for the first
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
				if before.Version == file.Version && before.Format != file.Format {
					continue // a sibling
				}
				found, err := terminal.Call[diff.Changes](s.CompareVersions(ctx, face.Id, &api.CompareVersionsParams{From: before.Id, To: file.Id}))
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
		mark := standing(&v.File)
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
		looks, characters := "", ""
		if v.File.LooksLike != nil {
			looks = *v.File.LooksLike
		}
		if v.File.Range != nil {
			characters = *v.File.Range
		}
		terminal.Pairs(w, [2]string{"it is", why}, [2]string{"looks like", looks}, [2]string{"characters", characters}, [2]string{"carried by", carried})
		if v.Changes != nil {
			filecmd.ShowChanges(w, v.Changes)
		}
	}
}
