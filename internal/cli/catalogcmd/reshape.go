package catalogcmd

import (
	"context"
	"fmt"
	"io"
	"path/filepath"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/reshape"
	"sparecrate/internal/cli/filecmd"
	"sparecrate/internal/cli/terminal"
)

// RecipeFlags say what is to become of a face.
func RecipeFlags() []cli.Flag {
	return []cli.Flag{
		&cli.StringSliceFlag{Name: "keep", Usage: "subset to `SETS` of characters"},
		&cli.StringFlag{Name: "text", Usage: "subset to the characters of `TEXT`"},
		&cli.StringSliceFlag{Name: "range", Usage: "subset to `RANGES` of characters, like U+20AC or U+0400-045F"},
		&cli.StringSliceFlag{Name: "features", Usage: "layout `FEATURES` to keep when subsetting: keep, basic, or their tags"},
		&cli.StringSliceFlag{Name: "at", Usage: "fix `AXES`, like wght=700,wdth=75:100"},
		&cli.StringFlag{Name: "instance", Usage: "fix all axes at the named instance `NAME`"},
		&cli.BoolFlag{Name: "to-truetype", Usage: "convert PostScript outlines to TrueType"},
		filecmd.FineFlag,
		filecmd.WholeFlag,
		&cli.StringFlag{Name: "family", Usage: "rename the family to `NAME`"},
		&cli.BoolFlag{Name: "alone", Usage: "give each face its own family name"},
	}
}

// RecipeOf reads those flags.
func RecipeOf(c *cli.Command) (*reshape.Recipe, error) {
	r := &reshape.Recipe{ToTrueType: c.Bool("to-truetype"), Fine: c.Bool("fine"), Whole: c.Bool("whole")}
	if t := (reshape.Subset{Keep: c.StringSlice("keep"), Text: c.String("text"), Ranges: c.StringSlice("range")}); len(t.Keep) > 0 || t.Text != "" || len(t.Ranges) > 0 {
		t.Features = c.StringSlice("features")
		r.Subset = &t
	}
	at, err := filecmd.AxesOf(c)
	if err != nil {
		return nil, err
	}
	if len(at) > 0 || c.String("instance") != "" {
		r.Instance = &reshape.Instance{At: at, Named: c.String("instance")}
	}
	if n := (reshape.Rename{Family: c.String("family"), Alone: c.Bool("alone")}); n != (reshape.Rename{}) {
		r.Rename = &n
	}
	return r, nil
}

// ReshapeCommand and pictureCommand do with a face of the catalog what the file
// commands do with a file.
func ReshapeCommand() *cli.Command {
	return &cli.Command{
		Name: "reshape", Usage: "subset, instance, convert or rename a font of the catalog", ArgsUsage: "FAMILY",
		Description: terminal.Example("Makes an instance, a subset, TrueType outlines and a new name, in this order, and saves\nthe file. Changes that the font or its license forbids are refused with the reason.",
			"sparecrate reshape --face Regular --keep latin --out skerrow-latin.woff2 'Skerrow Sans'"),
		Flags: append([]cli.Flag{
			terminal.JSONFlag,
			&cli.StringFlag{Name: "face", Usage: "`STYLE` of the face; default: the first of the family"},
			filecmd.OutFlag(filecmd.OutFormat),
		}, RecipeFlags()...),
		Action: func(ctx context.Context, c *cli.Command) error {
			recipe, err := RecipeOf(c)
			if err != nil {
				return err
			}
			to := font.Container(strings.TrimPrefix(strings.ToLower(filepath.Ext(c.String("out"))), "."))
			if !slices.Contains(font.Makeable, to) {
				return terminal.Misused("--out must end in %s, not %q", font.Listed(font.Makeable), filepath.Ext(c.String("out")))
			}
			s, face, err := catalogFace(ctx, c)
			if err != nil {
				return err
			}
			file, place := currentFile(face)
			v, err := terminal.Call[api.Reshaped](s.ReshapeFile(ctx, file, api.ReshapeOrder{Place: &place, Format: api.FileFormat(to), Recipe: *recipe}))
			if err != nil {
				return err
			}
			r, err := s.GetReshapedContent(ctx, file, v.Hash)
			if _, err := terminal.Download(r, err, c.String("out")); err != nil {
				return err
			}
			return terminal.Show(c, v, func(w io.Writer) {
				rows := [][2]string{
					{"Written", fmt.Sprintf("%s, %s (from %s)", c.String("out"), terminal.Size(v.Bytes), terminal.Size(v.From))}, {"Glyphs", fmt.Sprintf("%d of %d", v.Glyphs, v.GlyphsBefore)},
					{"Family", v.Family}, {"Full name", v.FullName}, {"PostScript", v.PostScriptName},
				}
				if v.Missing != "" {
					rows = append(rows, [2]string{"Not in the font", v.Missing})
				}
				if len(v.Dropped) > 0 {
					rows = append(rows, [2]string{"Removed tables", strings.Join(v.Dropped, ", ")})
				}
				for _, r := range v.Reasons {
					rows = append(rows, [2]string{string(r.State), r.Message + " [" + r.Evidence + "]"})
				}
				terminal.Pairs(w, rows...)
			})
		},
	}
}

// PreviewCommand is `picture`.
func PreviewCommand() *cli.Command {
	return &cli.Command{
		Name: "preview", Usage: "save a preview picture of a font in the catalog", ArgsUsage: "FAMILY",
		Description: terminal.Example("Draws text, with the kerning and ligatures of the font; for those who may see a\nfont but not have it, too.",
			"sparecrate preview --text 'Next ferry 16:35' --out ferry.png 'Skerrow Sans'"),
		Flags: []cli.Flag{
			terminal.JSONFlag,
			&cli.StringFlag{Name: "face", Usage: "`STYLE` of the face; default: the first of the family"},
			&cli.StringFlag{Name: "text", Usage: "`TEXT` to draw; default: the full name of the face"},
			&cli.FloatFlag{Name: "size", Usage: "`PIXELS`", Value: 72},
			&cli.IntFlag{Name: "glyphs", Usage: "add a chart of up to `N` glyphs"},
			&cli.BoolFlag{Name: "dark", Usage: "draw light text on a dark background"},
			filecmd.PosedFlag, filecmd.SwitchesFlag,
			filecmd.OutFlag("PNG `FILE` to write"),
		},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, face, err := catalogFace(ctx, c)
			if err != nil {
				return err
			}
			file, place := currentFile(face)
			pixels, glyphs, dark := float32(c.Float("size")), c.Int("glyphs"), c.Bool("dark")
			q := api.DrawSpecimenParams{Place: &place, Size: &pixels, Glyphs: &glyphs, Dark: &dark}
			if text := c.String("text"); text != "" {
				q.Text = &text
			}
			if at := strings.Join(c.StringSlice("at"), ","); at != "" {
				q.At = &at
			}
			if features := strings.Join(c.StringSlice("features"), ","); features != "" {
				q.Features = &features
			}
			r, err := s.DrawSpecimen(ctx, file, &q)
			n, err := terminal.Download(r, err, c.String("out"))
			if err != nil {
				return err
			}
			return terminal.Show(c, map[string]any{"out": c.String("out"), "bytes": n}, func(w io.Writer) {
				_, _ = fmt.Fprintf(w, "Written to %s, %s.\n", c.String("out"), terminal.Size(n))
			})
		},
	}
}

// catalogFace finds the face that a command names by family and style.
func catalogFace(ctx context.Context, c *cli.Command) (*api.Client, *api.Face, error) {
	s, f, err := terminal.WithFamily(ctx, c)
	if err != nil {
		return nil, nil, err
	}
	var styles []string
	for i := range f.Faces {
		if style := c.String("face"); style == "" || strings.EqualFold(style, f.Faces[i].Style) {
			return s, &f.Faces[i], nil
		}
		styles = append(styles, f.Faces[i].Style)
	}
	if len(styles) == 0 {
		return nil, nil, fmt.Errorf("%s has no face yet", f.Name)
	}
	return nil, nil, terminal.Misused("%s has no face %q; it has %s", f.Name, c.String("face"), strings.Join(styles, ", "))
}

// currentFile returns the file of a face that packs are made of, and the face's
// place in it.
func currentFile(face *api.Face) (int64, int) {
	for _, f := range face.Files {
		if f.Current {
			return f.Id, face.Metadata.Index
		}
	}
	return face.Files[0].Id, face.Metadata.Index
}
