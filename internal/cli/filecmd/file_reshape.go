package filecmd

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/font"
	"sparecrate/font/fallback"
	"sparecrate/font/metadata"
	"sparecrate/font/reshape"
	"sparecrate/font/sfnt"
	"sparecrate/font/shape"
	"sparecrate/font/specimen"
	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/css"
)

var (
	// FineFlag asks for a finer grid.
	FineFlag = &cli.BoolFlag{Name: "fine", Usage: "round new outlines on a finer grid: more precise, larger file"}
	// PosedFlag draws a variable font at places on its axes.
	PosedFlag = &cli.StringSliceFlag{Name: "at", Usage: "draw at `AXES` values, like wght=700,wdth=80"}
	// SwitchesFlag switches layout features on and off.
	SwitchesFlag = &cli.StringSliceFlag{Name: "features", Usage: "layout `FEATURES` to switch on, or off with a minus, like smcp,-liga"}
	// WholeFlag asks for the font's own grid.
	WholeFlag = &cli.BoolFlag{Name: "whole", Usage: "round outlines on the font's own grid: smaller file, up to half a unit less precise"}
)

var faceFlag = &cli.IntFlag{Name: "face", Usage: "which face of a collection, counted from `0`"}

// OutFlag says where a file is written to.
func OutFlag(usage string) *cli.StringFlag {
	return &cli.StringFlag{Name: "out", Usage: usage, Required: true}
}

// OutFormat says what --out takes where the ending is the format.
const OutFormat = "`FILE` to write; its ending is the format: woff2, woff, ttf, otf, eot or svg"

// reshapeCommands are the verbs on a local face.
func reshapeCommands() []*cli.Command {
	return []*cli.Command{
		{
			Name: "subset", Usage: "subset a font to some characters", ArgsUsage: "PATH",
			Description: terminal.Example("Keeps the characters asked for, every glyph that layout rules make of them, and\nthe rules themselves; a variable font stays variable. Sets are the customary ones\nof the web (latin, latin-ext, cyrillic, greek, vietnamese, arabic ...), languages\n(pl, Polish) and scripts (script:Cherokee). With --split each set becomes a file\nof its own, with the stylesheet that lets a browser take those it needs.",
				"sparecrate file subset --keep latin --text \"€ 25\" --out small.woff2 SkerrowSans-Regular.ttf"),
			Flags: []cli.Flag{
				terminal.JSONFlag, faceFlag,
				&cli.StringSliceFlag{Name: "keep", Usage: "`SETS` of characters to keep"},
				&cli.StringFlag{Name: "text", Usage: "`TEXT` whose characters to keep"},
				&cli.StringSliceFlag{Name: "range", Usage: "`RANGES` of characters to keep, like U+20AC or U+0400-045F"},
				&cli.StringSliceFlag{Name: "features", Usage: "layout `FEATURES` to keep: keep, basic, or their tags", Value: []string{"keep"}},
				&cli.BoolFlag{Name: "split", Usage: "write one file for each set of --keep, and a stylesheet, to the folder --out. `rest` means all other characters"},
				OutFlag(OutFormat + "; with --split a folder"),
			},
			Action: trimFile,
		},
		{
			Name: "instance", Usage: "make a static instance of a variable font, or limit its axes", ArgsUsage: "PATH",
			Description: terminal.Example("Fixes axes at a value (wght=700), limits them to a range (wght=400:700), or makes a\nnamed instance. With all axes fixed the font is static, with the names of that style.",
				"sparecrate file instance --at wght=600 --out SkerrowSans-SemiBold.ttf SkerrowSans-Variable.ttf"),
			Flags: []cli.Flag{
				terminal.JSONFlag, faceFlag,
				&cli.StringSliceFlag{Name: "at", Usage: "`AXES` with their values, like wght=700,wdth=75:100"},
				&cli.StringFlag{Name: "instance", Usage: "`NAME` of a named instance"},
				&cli.BoolFlag{Name: "rest", Usage: "fix all other axes at their defaults"},
				FineFlag, WholeFlag,
				OutFlag(OutFormat),
			},
			Action: pinFile,
		},
		{
			Name: "rename", Usage: "rename a font's family in all its name records", ArgsUsage: "PATH",
			Description: terminal.Example("Changes every record that follows from family and style, and the names inside\nPostScript outlines. Copyright, trademark and license stay as they are.",
				"sparecrate file rename --family \"Pier Sans\" --out PierSans-Bold.ttf SkerrowSans-Bold.ttf"),
			Flags: []cli.Flag{
				terminal.JSONFlag, faceFlag,
				&cli.StringFlag{Name: "family", Usage: "the new family `NAME`"},
				&cli.StringFlag{Name: "style", Usage: "a new style `NAME` within the family"},
				&cli.BoolFlag{Name: "alone", Usage: "make the face its own family, for platforms that take one face per family"},
				&cli.StringFlag{Name: "postscript", Usage: "the PostScript `NAME`; default: made from the other names"},
				OutFlag(OutFormat),
			},
			Action: renameFile,
		},
		{
			Name: "fallback", Usage: "write fallback font metrics, so that text does not move when the font loads", ArgsUsage: "PATH",
			Description: terminal.Example("Prints an @font-face rule for each local font with the metrics of the font at PATH,\nwith size-adjust and the metric overrides of CSS. Known fonts: "+knownSystems()+";\nthe path of any font file can be given instead.",
				"sparecrate file fallback --against arial,georgia SkerrowSans-Regular.ttf"),
			Flags: []cli.Flag{
				terminal.JSONFlag, faceFlag,
				&cli.StringSliceFlag{Name: "against", Usage: "fallback `FONTS`: names of system fonts, or paths", Value: []string{"arial"}},
				&cli.StringFlag{Name: "language", Usage: "`LANGUAGE` of the text, as a tag like de", Value: "en"},
				&cli.IntFlag{Name: "groups", Usage: "up to `N` groups of letters with separate sizes, so that lines break alike"},
			},
			Action: fallbackFile,
		},
		{
			Name: "preview", Usage: "draw a preview of text in a font", ArgsUsage: "PATH",
			Description: terminal.Example("Draws text with the kerning and ligatures of the font, at one size or several, and\na chart of its glyphs where asked.",
				"sparecrate file preview --text \"Saltmarsh Seed Exchange\" --size 96,48 --out seeds.png tidegarth.ttf"),
			Flags: []cli.Flag{
				terminal.JSONFlag, faceFlag,
				&cli.StringFlag{Name: "text", Usage: "`TEXT` to draw; \\n starts another line"},
				&cli.FloatSliceFlag{Name: "size", Usage: "`SIZES` in pixels", Value: []float64{72}},
				&cli.IntFlag{Name: "glyphs", Usage: "add a chart of up to `N` glyphs"},
				&cli.IntFlag{Name: "width", Usage: "line width in `PIXELS`; default: as wide as needed"},
				&cli.BoolFlag{Name: "dark", Usage: "draw light text on a dark background"},
				PosedFlag, SwitchesFlag,
				OutFlag("`FILE` to write; ends in png or svg"),
			},
			Action: showFile,
		},
	}
}

func knownSystems() string {
	names := slices.DeleteFunc(fallback.Systems(), func(n string) bool { return strings.HasSuffix(n, "-bold") })
	var lines []string
	for len(names) > 0 { // help texts are as wide as a terminal
		n := min(5, len(names))
		lines = append(lines, strings.Join(names[:n], ", "))
		names = names[n:]
	}
	return strings.Join(lines, ",\n")
}

// theFace opens the one file of a command and picks its face.
func theFace(c *cli.Command, path string) (*sfnt.Font, int, error) {
	b, err := load(path)
	if err != nil {
		return nil, 0, err
	}
	opened, err := font.Open(b)
	if err != nil {
		return nil, 0, fmt.Errorf("%s: %w", path, err)
	}
	n := c.Int("face")
	if n < 0 || n >= len(opened.Faces) {
		return nil, 0, terminal.Misused("%s has %d faces, counted from 0; there is no face %d", path, len(opened.Faces), n)
	}
	return opened.Faces[n], len(b), nil
}

// reshaped is what a verb wrote.
type reshaped struct {
	Out     string   `json:"out"`
	From    int      `json:"fromBytes"`
	Bytes   int      `json:"bytes"`
	Glyphs  int      `json:"glyphs,omitempty"`
	Before  int      `json:"glyphsBefore,omitempty"`
	Missing string   `json:"missing,omitempty"`
	Dropped []string `json:"droppedTables,omitempty"`
	Style   string   `json:"style,omitempty"`
	Family  string   `json:"family,omitempty"`
	Full    string   `json:"fullName,omitempty"`
	Post    string   `json:"postScriptName,omitempty"`
	Ranges  string   `json:"unicodeRange,omitempty"`
	Units   int      `json:"unitsPerEm,omitempty"` // where the grid became finer
	Coarser int      `json:"unitsPerEmBefore,omitempty"`
}

// written makes the format that a path's ending names. TrueType outlines are
// made where a TTF is asked for.
func written(f *sfnt.Font, out string, fine bool) (int, error) {
	to := font.Container(strings.TrimPrefix(strings.ToLower(filepath.Ext(out)), "."))
	if !slices.Contains(font.Makeable, to) {
		return 0, terminal.Misused("--out must end in %s, not %q", font.Listed(font.Makeable), filepath.Ext(out))
	}
	f, err := fitting(f, to, fine)
	if err != nil {
		return 0, err
	}
	data, err := font.Make(f, to)
	if err != nil {
		return 0, err
	}
	_, err = terminal.WriteWhole(out, bytes.NewReader(data))
	return len(data), err
}

// fitting retypes a face with PostScript outlines where a TTF is asked for, on a
// fine grid where that is.
func fitting(f *sfnt.Font, to font.Container, fine bool) (*sfnt.Font, error) {
	if to != font.TTF {
		return f, nil
	}
	r := reshape.Recipe{ToTrueType: true, Fine: fine}
	out, _, err := r.Apply(f)
	return out, err
}

// reshapeFile applies a recipe to the file of a command.
func reshapeFile(c *cli.Command, recipe reshape.Recipe) error {
	names, err := terminal.Arguments(c, "PATH")
	if err != nil {
		return err
	}
	if err := sameFile(names[0], c.String("out")); err != nil {
		return err
	}
	f, size, err := theFace(c, names[0])
	if err != nil {
		return err
	}
	made, outcome, err := recipe.Apply(f)
	if err != nil {
		return fmt.Errorf("%s: %w", names[0], err)
	}
	n, err := written(made, c.String("out"), recipe.Fine)
	if err != nil {
		return err
	}
	r := reshaped{Out: c.String("out"), From: size, Bytes: n, Missing: string(outcome.Missing)}
	if t := outcome.Subset; t != nil {
		r.Glyphs, r.Before, r.Dropped = t.Glyphs, t.GlyphsBefore, t.Dropped
	}
	if p := outcome.Instance; p != nil {
		r.Style = p.Style
	}
	now := metadata.One(made)
	r.Family, r.Full, r.Post = now.Names.FamilyName(), now.Names.Full, now.Names.PostScript
	if before := metadata.One(f).UnitsPerEm; before != now.UnitsPerEm {
		r.Units, r.Coarser = now.UnitsPerEm, before
	}
	return terminal.Show(c, r, func(w io.Writer) { r.print(w) })
}

func sameFile(path, out string) error {
	a, err := filepath.Abs(path)
	if err != nil {
		return err
	}
	b, err := filepath.Abs(out)
	if err == nil && a == b {
		err = terminal.Misused("%s would be written over itself; choose another name with --out", path)
	}
	return err
}

func (r *reshaped) print(w io.Writer) {
	rows := [][2]string{{"Written", fmt.Sprintf("%s, %s (from %s)", r.Out, terminal.Size(int64(r.Bytes)), terminal.Size(int64(r.From)))}}
	if r.Before > 0 {
		rows = append(rows, [2]string{"Glyphs", fmt.Sprintf("%d of %d", r.Glyphs, r.Before)})
	}
	if r.Style != "" {
		rows = append(rows, [2]string{"Style", r.Style})
	}
	rows = append(rows, [2]string{"Family", r.Family}, [2]string{"Full name", r.Full}, [2]string{"PostScript", r.Post})
	if r.Units != 0 {
		rows = append(rows, [2]string{"Grid", fmt.Sprintf("%d units in an em, %d before, so that rounding is not seen", r.Units, r.Coarser)})
	}
	if r.Missing != "" {
		rows = append(rows, [2]string{"Not in the font", r.Missing})
	}
	if len(r.Dropped) > 0 {
		rows = append(rows, [2]string{"Removed tables", strings.Join(r.Dropped, ", ")})
	}
	terminal.Pairs(w, rows...)
}

func trimFile(_ context.Context, c *cli.Command) error {
	t := reshape.Subset{Keep: c.StringSlice("keep"), Text: c.String("text"), Ranges: c.StringSlice("range"), Features: c.StringSlice("features")}
	if c.Bool("split") {
		return splitFile(c, t)
	}
	return reshapeFile(c, reshape.Recipe{Subset: &t})
}

// splitFile writes a file for each set, and the stylesheet.
func splitFile(c *cli.Command, t reshape.Subset) error {
	names, err := terminal.Arguments(c, "PATH")
	if err != nil {
		return err
	}
	if len(t.Keep) == 0 || t.Text != "" || len(t.Ranges) > 0 {
		return terminal.Misused("--split takes the sets of --keep, each for a file, and no --text or --range")
	}
	f, _, err := theFace(c, names[0])
	if err != nil {
		return err
	}
	parts, err := reshape.Split(f, t.Keep, t.Features)
	if err != nil {
		return fmt.Errorf("%s: %w", names[0], err)
	}
	face := metadata.One(f)
	folder := c.String("out")
	if err := os.MkdirAll(folder, 0o755); err != nil { //nolint:gosec // a folder of the user's, as any tool makes it
		return err
	}
	var made []reshaped
	var rules []css.Face
	base := stem(names[0])
	for _, p := range parts {
		name := base + "-" + strings.ReplaceAll(strings.ToLower(p.Name), ":", "-") + ".woff2"
		n, err := written(p.Font, filepath.Join(folder, name), false)
		if err != nil {
			return err
		}
		made = append(made, reshaped{Out: filepath.Join(folder, name), Bytes: n, Glyphs: p.Result.Glyphs, Before: p.Result.GlyphsBefore, Ranges: p.Characters.String()})
		rule := css.Of(face)
		rule.Sources = []css.Source{{URL: name, Format: "woff2"}}
		rule.Range = p.Characters.String()
		rules = append(rules, rule)
	}
	sheet := filepath.Join(folder, base+".css")
	if _, err := terminal.WriteWhole(sheet, strings.NewReader(css.Sheet(rules))); err != nil {
		return err
	}
	return terminal.Show(c, made, func(w io.Writer) {
		var rows [][]any
		for i, m := range made {
			rows = append(rows, []any{parts[i].Name, m.Glyphs, terminal.Size(int64(m.Bytes)), filepath.Base(m.Out)})
		}
		terminal.Grid(w, []any{"Set", "Glyphs", "Size", "File"}, []string{"Glyphs", "Size"}, rows)
		_, _ = fmt.Fprintf(w, "\nWritten to %s, with the stylesheet %s.\n", filepath.Clean(folder), filepath.Base(sheet))
	})
}

func pinFile(_ context.Context, c *cli.Command) error {
	at, err := AxesOf(c)
	if err != nil {
		return err
	}
	p := reshape.Instance{At: at, Named: c.String("instance"), Rest: c.Bool("rest")}
	r := reshape.Recipe{Instance: &p, Fine: c.Bool("fine"), Whole: c.Bool("whole")}
	if err := r.Check(); err != nil {
		return err
	}
	return reshapeFile(c, r)
}

func renameFile(_ context.Context, c *cli.Command) error {
	r := reshape.Rename{Family: c.String("family"), Style: c.String("style"), Alone: c.Bool("alone"), PostScript: c.String("postscript")}
	if r == (reshape.Rename{}) {
		return terminal.Misused("give the new name with --family, or use --alone to give the face its own family")
	}
	return reshapeFile(c, reshape.Recipe{Rename: &r})
}

// replacement is a local font made to measure.
type replacement struct {
	Against string `json:"against"`
	Source  string `json:"source"`
	*fallback.Overrides
	CSS string `json:"css"`
}

func fallbackFile(_ context.Context, c *cli.Command) error {
	names, err := terminal.Arguments(c, "PATH")
	if err != nil {
		return err
	}
	f, _, err := theFace(c, names[0])
	if err != nil {
		return err
	}
	face := metadata.One(f)
	web, err := fallback.Face(f)
	if err != nil {
		return fmt.Errorf("%s: %w", names[0], err)
	}
	all := []replacement{}
	for _, against := range c.StringSlice("against") {
		measure, local, err := replacementOf(against, face.Style.Weight >= 600)
		if err != nil {
			return err
		}
		groups, err := fallback.Groups(web, measure, c.String("language"), c.Int("groups"))
		if err != nil {
			return fmt.Errorf("%s against %s: %w", names[0], against, err)
		}
		all = append(all, replacement{against, measure.Source, &groups[0].Overrides, css.Sheet(css.Fallbacks(face, local, groups))})
	}
	return terminal.Show(c, all, func(w io.Writer) {
		for i, s := range all {
			if i > 0 {
				_, _ = fmt.Fprintln(w)
			}
			_, _ = fmt.Fprintf(w, "/* against %s; its widths are %s */\n%s", s.Against, s.Source, s.CSS)
		}
		_, _ = fmt.Fprintf(w, "\n/* Add it to the font stack after the font itself: */\n/* font-family: %s, %s; */\n", css.Quote(face.Names.FamilyName()), css.Quote(face.Names.FamilyName()+" Fallback"))
	})
}

// replacementOf finds a system font by name, or measures a file.
func replacementOf(against string, bold bool) (*fallback.Measure, []string, error) {
	m, err := fallback.System(against, bold)
	if err == nil {
		return m, []string{m.Name}, nil
	}
	if _, missing := os.Stat(against); missing != nil {
		return nil, nil, err
	}
	b, err := load(against)
	if err != nil {
		return nil, nil, err
	}
	opened, err := font.Open(b)
	if err != nil {
		return nil, nil, fmt.Errorf("%s: %w", against, err)
	}
	if m, err = fallback.Face(opened.Faces[0]); err != nil {
		return nil, nil, fmt.Errorf("%s: %w", against, err)
	}
	names := metadata.One(opened.Faces[0]).Names
	m.Source = "those of " + filepath.Base(against)
	return m, []string{names.Full, names.PostScript}, nil
}

// shown is a picture that was drawn.
type shown struct {
	Out     string `json:"out"`
	Width   int    `json:"width"`
	Height  int    `json:"height"`
	Missing string `json:"missing,omitempty"`
}

func showFile(_ context.Context, c *cli.Command) error {
	names, err := terminal.Arguments(c, "PATH")
	if err != nil {
		return err
	}
	f, _, err := theFace(c, names[0])
	if err != nil {
		return err
	}
	o := specimen.Options{Glyphs: c.Int("glyphs"), Width: c.Int("width"), Dark: c.Bool("dark"), Options: shape.Options{}}
	if o.Features, err = shape.Switches(c.StringSlice("features")); err != nil {
		return terminal.Misused("%v", err)
	}
	text := c.String("text")
	if text == "" && o.Glyphs == 0 {
		text = metadata.One(f).Names.Full
	}
	if text != "" {
		for _, size := range c.FloatSlice("size") {
			for line := range strings.SplitSeq(strings.ReplaceAll(text, `\n`, "\n"), "\n") {
				o.Lines = append(o.Lines, specimen.Line{Text: line, Size: size})
			}
		}
	}
	at, err := reshape.Places(strings.Join(c.StringSlice("at"), ","))
	if err != nil {
		return terminal.Misused("%v", err)
	}
	if f, err = reshape.Posed(f, at, ""); err != nil {
		return fmt.Errorf("%s: %w", names[0], err)
	}
	p, err := specimen.Draw(f, o)
	if err != nil {
		return fmt.Errorf("%s: %w", names[0], err)
	}
	out := c.String("out")
	var data []byte
	switch strings.ToLower(filepath.Ext(out)) {
	case ".png":
		if data, err = p.PNG(); err != nil {
			return err
		}
	case ".svg":
		data = p.SVG()
	default:
		return terminal.Misused("--out must end in png or svg, not %q", filepath.Ext(out))
	}
	if _, err := terminal.WriteWhole(out, bytes.NewReader(data)); err != nil {
		return err
	}
	s := shown{out, p.Width, p.Height, string(p.Missing)}
	return terminal.Show(c, s, func(w io.Writer) {
		_, _ = fmt.Fprintf(w, "Written to %s: %d by %d pixels.\n", s.Out, s.Width, s.Height)
		if s.Missing != "" {
			_, _ = fmt.Fprintf(w, "The font has no glyph for %s.\n", s.Missing)
		}
	})
}
