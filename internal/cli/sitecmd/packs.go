package sitecmd

import (
	"context"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/schollz/progressbar/v3"
	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/license"
)

var environmentFlag = &cli.StringFlag{Name: "environment", Usage: "`NAME` of the site's environment; default: the first"}

// PackCommand is `pack`.
func PackCommand() *cli.Command {
	return &cli.Command{
		Name: "pack", Usage: "upload packs: plan, choose, build, list",
		Description: terminal.Example("A pack holds the fonts of a site as its builder wants them, the styles in the form it takes,\nand the upload slip that says what to do with them.", "sparecrate pack plan 'Holmvik timetable'"),
		Commands: []*cli.Command{
			{
				Name: "plan", Usage: "show what a pack will contain, without building it", ArgsUsage: "SITE", Flags: []cli.Flag{terminal.JSONFlag, environmentFlag},
				Description: terminal.Example("Lists every file with its final name, the changes made to each face, the verdicts, the font weight\nof a page, and what excluding or subsetting a face would save.", "sparecrate pack plan 'Holmvik timetable'"),
				Action: siteShows(func(ctx context.Context, c *cli.Command, s *api.Client, site int64) (*api.Plan, error) {
					return wholePlan(ctx, s, site, terminal.Given(c, "environment"))
				}, showPlan),
			},
			choosePackCommand(),
			{
				Name: "build", Usage: "build a site's pack and save it", ArgsUsage: "SITE",
				Description: terminal.Example("Parts that are made are taken as they are; the others are made on all cores of the service.\nWhat may not go out stops it, and the reason is said.", "sparecrate pack build --out holmvik.zip 'Holmvik timetable'"),
				Flags:       []cli.Flag{terminal.JSONFlag, environmentFlag, &cli.StringFlag{Name: "out", Usage: "`FILE` to save the zip as; default: the pack's name"}},
				Action:      buildPack,
			},
			familyPackCommand(), clientPackCommand(), everywhereCommand(),
			{
				Name: "list", Usage: "list the packs built for a site", ArgsUsage: "SITE", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("Newest first.", "sparecrate pack list 'Holmvik timetable'"),
				Action: siteShows(func(ctx context.Context, _ *cli.Command, s *api.Client, site int64) (*[]api.Pack, error) {
					found, err := terminal.Call[api.PackList](s.ListPacks(ctx, site))
					if err != nil {
						return nil, err
					}
					return &found.Items, nil
				}, func(w io.Writer, packs *[]api.Pack) {
					var rows [][]any
					for _, p := range *packs {
						rows = append(rows, []any{p.Id, p.Name, p.Environment, terminal.Size(p.Bytes), terminal.When(p.CreatedAt), p.CreatedBy, p.Sha256[:12]})
					}
					terminal.Grid(w, []any{"No.", "Pack", "Environment", "Size", "Built", "By", "SHA-256"}, []string{"No.", "Size"}, rows)
				}),
			},
		},
	}
}

func familyPackCommand() *cli.Command {
	return &cli.Command{
		Name: "family", Usage: "build a pack of one family for a builder, without a site", ArgsUsage: "FAMILY",
		Description: terminal.Example("Every face of it, for its own client: to install on a designer's machine, say, or to try a\nbuilder. What may not go out stops it, unless it is signed off for that builder\n(`sign-offs add`).", "sparecrate pack family --builder desktop --out skerrow.zip 'Skerrow Sans Variable'"),
		Flags: []cli.Flag{
			terminal.JSONFlag,
			&cli.StringFlag{Name: "builder", Usage: "`KIND` of builder", Required: true},
			&cli.StringFlag{Name: "out", Usage: "`FILE` to save the zip as", Required: true},
		},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "a FAMILY, by number or name")
			if err != nil {
				return err
			}
			family, err := terminal.FindFamily(ctx, s, args[0])
			if err != nil {
				return err
			}
			r, err := s.GetFamilyPack(ctx, family, &api.GetFamilyPackParams{Builder: c.String("builder")})
			n, err := terminal.Download(r, err, c.String("out"))
			if err != nil {
				return err
			}
			return terminal.Show(c, map[string]any{"file": c.String("out"), "bytes": n}, func(w io.Writer) {
				saved(w, c.String("out"), n, "upload-slip.html")
			})
		},
	}
}

// saved says where a zip is and what to open of it.
func saved(w io.Writer, file string, bytes int64, first string) {
	_, _ = fmt.Fprintf(w, "Saved %s (%s).\nUnpack it and open %s.\n", file, terminal.Size(bytes), first)
}

// siteShows is what a command on one site does that asks for something and prints it.
func siteShows[T any](ask func(ctx context.Context, c *cli.Command, s *api.Client, site int64) (*T, error), plain func(io.Writer, *T)) cli.ActionFunc {
	return func(ctx context.Context, c *cli.Command) error {
		s, site, err := onSite(ctx, c)
		if err != nil {
			return err
		}
		v, err := ask(ctx, c, s, site)
		if err != nil {
			return err
		}
		return terminal.Show(c, v, func(w io.Writer) { plain(w, v) })
	}
}

// onSite begins a command on one site.
func onSite(ctx context.Context, c *cli.Command) (*api.Client, int64, error) {
	s, args, err := terminal.Begin(c, "a SITE, by number or name")
	if err != nil {
		return nil, 0, err
	}
	site, err := terminal.FindSite(ctx, s, args[0])
	return s, site, err
}

func choosePackCommand() *cli.Command {
	return &cli.Command{
		Name: "choose", Usage: "choose what the packs of a site include", ArgsUsage: "SITE",
		Description: terminal.Example("Faces are named by their full name. What no flag names stays; --fresh begins with nothing decided.",
			"sparecrate pack choose --include 'Skerrow Sans Light' 'Holmvik timetable'"),
		Flags: []cli.Flag{
			terminal.JSONFlag,
			&cli.StringSliceFlag{Name: "include", Usage: "include the `FACE` although no role needs it; may be repeated"},
			&cli.StringSliceFlag{Name: "only", Usage: "include only this `FACE` of its family; may be repeated"},
			&cli.StringSliceFlag{Name: "exclude", Usage: "exclude the `FACE` although a role needs it; may be repeated"},
			&cli.BoolFlag{Name: "legacy-formats", Usage: "also include legacy formats (EOT, SVG, WOFF) for Internet Explorer and early phones"},
			&cli.StringFlag{Name: "load", Usage: "how pages load the stylesheet: link, import or url"},
			&cli.IntSliceFlag{Name: "fixed-weight", Usage: "`WEIGHT` of the static instance where variable fonts are not accepted; may be repeated"},
			&cli.StringFlag{Name: "source", Usage: "which `FILES` to include: supplied, converted or smaller; '' for the default"},
			&cli.StringSliceFlag{Name: "pin", Usage: "pin a face to a file: `FACE=FILE`, by name or version; FACE= to follow the catalog; may be repeated"},
			&cli.BoolFlag{Name: "fresh", Usage: "reset all choices first"},
		},
		Action: choosePack,
	}
}

func choosePack(ctx context.Context, c *cli.Command) error {
	s, site, err := onSite(ctx, c)
	if err != nil {
		return err
	}
	plan, err := terminal.Call[api.Plan](s.PlanPack(ctx, site, &api.PlanPackParams{}))
	if err != nil {
		return err
	}
	choices := plan.Site.Choices
	if c.Bool("fresh") {
		choices = api.PackChoices{}
	}
	sent, left := listOf(choices.Include), listOf(choices.Exclude)
	move := func(flag string, to, from *[]int64) error {
		for _, name := range c.StringSlice(flag) {
			id, err := faceNamed(plan, name)
			if err != nil {
				return err
			}
			*from = slices.DeleteFunc(*from, func(o int64) bool { return o == id })
			if !slices.Contains(*to, id) {
				*to = append(*to, id)
			}
		}
		return nil
	}
	if err := move("include", &sent, &left); err != nil {
		return err
	}
	if err := only(plan, c.StringSlice("only"), &sent, &left); err != nil {
		return err
	}
	if err := move("exclude", &left, &sent); err != nil {
		return err
	}
	choices.Include, choices.Exclude = &sent, &left
	if c.IsSet("legacy-formats") {
		old := c.Bool("legacy-formats")
		choices.LegacyFormats = &old
	}
	if v := terminal.Given(c, "load"); v != nil {
		how := api.PackChoicesLoad(*v)
		choices.Load = &how
	}
	if c.IsSet("fixed-weight") {
		at := c.IntSlice("fixed-weight")
		choices.Weights = &at
	}
	if v := terminal.Given(c, "source"); v != nil {
		supply := api.PackChoicesSource(*v)
		choices.Source = &supply
	}
	if c.IsSet("pin") {
		stay, err := stayOn(plan, choices.Pinned, c.StringSlice("pin"))
		if err != nil {
			return err
		}
		choices.Pinned = &stay
	}
	if _, err := terminal.Call[api.Site](s.SetChoices(ctx, site, &api.SetChoicesParams{IfMatch: plan.Site.Etag}, choices)); err != nil {
		return err
	}
	if plan, err = wholePlan(ctx, s, site, nil); err != nil {
		return err
	}
	return terminal.Show(c, plan, func(w io.Writer) { showPlan(w, plan) })
}

// only has of the families of some faces these sent and all others left.
func only(plan *api.Plan, names []string, sent, left *[]int64) error {
	chosen, families := map[int64]bool{}, map[int64]bool{}
	for _, name := range names {
		id, err := faceNamed(plan, name)
		if err != nil {
			return err
		}
		chosen[id] = true
		for _, f := range plan.Faces {
			if f.Face == id {
				families[f.Family.Id] = true
			}
		}
	}
	for _, f := range plan.Faces {
		if !families[f.Family.Id] {
			continue
		}
		for _, list := range []*[]int64{sent, left} {
			*list = slices.DeleteFunc(*list, func(id int64) bool { return id == f.Face })
		}
		if chosen[f.Face] {
			*sent = append(*sent, f.Face)
		} else {
			*left = append(*left, f.Face)
		}
	}
	return nil
}

// faceNamed finds the face of a plan that a text names: by number, by its family and style,
// or by the full name that the font says.
func faceNamed(plan *api.Plan, text string) (int64, error) {
	var full []terminal.Named
	for _, f := range plan.Faces {
		if strings.EqualFold(strings.TrimSpace(f.Family.Name+" "+f.Style), text) {
			return f.Face, nil
		}
		full = append(full, terminal.Named{ID: f.Face, Name: f.Full, More: f.Family.Name + " " + f.Style})
	}
	return terminal.Choose(text, "face", full)
}

// stayOn adds to the files that a site stays on what flags say.
func stayOn(plan *api.Plan, was *[]api.PinnedFile, said []string) ([]api.PinnedFile, error) {
	out := []api.PinnedFile{}
	if was != nil {
		out = slices.Clone(*was)
	}
	for _, text := range said {
		name, file, ok := strings.Cut(text, "=")
		if !ok {
			return nil, terminal.Misused("--pin needs FACE=FILE, like 'Skerrow Sans Bold=old.ttf', not %q", text)
		}
		id, err := faceNamed(plan, name)
		if err != nil {
			return nil, err
		}
		out = slices.DeleteFunc(out, func(s api.PinnedFile) bool { return s.Face == id })
		if file == "" {
			continue
		}
		face := plan.Faces[slices.IndexFunc(plan.Faces, func(f api.PlanFace) bool { return f.Face == id })]
		var files []terminal.Named
		for _, f := range append(face.OtherFiles, face.File) {
			files = append(files, terminal.Named{ID: f.Id, Name: f.Name, More: f.Version})
		}
		on, err := terminal.Choose(file, "file", files)
		if err != nil {
			return nil, err
		}
		out = append(out, api.PinnedFile{Face: id, File: on})
	}
	return out, nil
}

func listOf(ids *[]int64) []int64 {
	if ids == nil {
		return []int64{}
	}
	return slices.Clone(*ids)
}

func buildPack(ctx context.Context, c *cli.Command) error {
	s, site, err := onSite(ctx, c)
	if err != nil {
		return err
	}
	stop := watchParts(ctx, c, s, site)
	built, err := terminal.Call[api.Pack](s.BuildPack(ctx, site, &api.BuildPackParams{Environment: terminal.Given(c, "environment")}))
	stop()
	if err != nil {
		return err
	}
	path := c.String("out")
	if path == "" {
		path = built.Name
	}
	r, err := s.GetPackContent(ctx, built.Id)
	if _, err := terminal.Download(r, err, path); err != nil {
		return fmt.Errorf("pack %d is built but could not be saved: %w", built.Id, err)
	}
	return terminal.Show(c, built, func(w io.Writer) {
		_, _ = fmt.Fprintf(w, "Saved %s (%s, SHA-256 %s).\nUnpack it and open upload-slip.html.\nAfter the upload, check the pages with `sparecrate inspections start --wait %d`.\n", path, terminal.Size(built.Bytes), built.Sha256, built.Site.Id)
	})
}

// watchParts draws how many parts of a pack are made until it is stopped.
func watchParts(ctx context.Context, c *cli.Command, s *api.Client, site int64) (stop func()) {
	if !terminal.Progress(c) {
		return func() {}
	}
	ctx, cancel := context.WithCancel(ctx)
	done := make(chan struct{})
	go func() {
		defer close(done)
		var bar *progressbar.ProgressBar
		for {
			parts, err := terminal.Call[api.PartCount](s.CountParts(ctx, site))
			if err == nil && bar == nil && parts.Of > parts.Made {
				bar = progressbar.NewOptions(parts.Of, progressbar.OptionSetWriter(os.Stderr), progressbar.OptionSetDescription("making parts"), progressbar.OptionClearOnFinish(), progressbar.OptionShowCount())
			}
			if err == nil && bar != nil {
				_ = bar.Set(parts.Made)
			}
			select {
			case <-ctx.Done():
				if bar != nil {
					_ = bar.Finish()
				}
				return
			case <-time.After(200 * time.Millisecond):
			}
		}
	}()
	return func() { cancel(); <-done }
}

// whole asks until nothing of an answer is being made any more.
func whole[T any](ctx context.Context, ask func() (*T, error), pending func(*T) bool) (*T, error) {
	for {
		v, err := ask()
		if err != nil || !pending(v) {
			return v, err
		}
		select {
		case <-ctx.Done():
			return nil, ctx.Err()
		case <-time.After(300 * time.Millisecond):
		}
	}
}

// wholePlan returns the plan of a pack once all files in it are made.
func wholePlan(ctx context.Context, s *api.Client, site int64, environment *string) (*api.Plan, error) {
	return whole(ctx, func() (*api.Plan, error) {
		return terminal.Call[api.Plan](s.PlanPack(ctx, site, &api.PlanPackParams{Environment: environment}))
	}, func(p *api.Plan) bool {
		return p.Pending > 0 || slices.ContainsFunc(p.Faces, func(f api.PlanFace) bool { return f.Measuring != nil && *f.Measuring })
	})
}

func showPlan(w io.Writer, plan *api.Plan) {
	where := ""
	if plan.Environment != "" {
		where = ", " + plan.Environment
	}
	_, _ = fmt.Fprintf(w, "%s  (site %d, %s%s)\n  for %s\n\n", plan.Site.Name, plan.Site.Id, plan.Site.Client.Name, where, plan.Site.Builder.Name)
	var rows [][]any
	for _, f := range plan.Faces {
		state, saves := "included", "-"
		if !f.Included {
			state = "not included"
		}
		if f.SubsetSaves != nil {
			saves = terminal.Size(*f.SubsetSaves)
		}
		bytes := "-"
		if f.Bytes > 0 {
			bytes = terminal.Size(f.Bytes)
		}
		rows = append(rows, []any{f.Full, state, orDash(f.Needed), bytes, saves, license.State(f.Verdict).Words(), orDash(f.Changes)})
	}
	terminal.Grid(w, []any{"Face", "", "Needed for", "Delivered", "Subsetting saves", "Verdict", "Changes made to the file"}, []string{"Delivered", "Subsetting saves"}, rows)
	_, _ = fmt.Fprintln(w)
	rows = nil
	for _, f := range plan.Files {
		note := f.Why
		switch {
		case f.Url != nil:
			note += "; uploaded as " + *f.Url
		case f.Replace != nil && *f.Replace:
			note += "; replaces the uploaded file"
		}
		rows = append(rows, []any{f.Path, terminal.Size(f.Bytes), note})
	}
	terminal.Grid(w, []any{"File", "Size", "Why"}, []string{"Size"}, rows)
	switch plan.For {
	case "web":
		_, _ = fmt.Fprintf(w, "\nFont weight of a page: %s, about %.1f s on slow mobile (1.6 Mbit/s).\n", terminal.Size(plan.Delivered), max(0.1, plan.SlowSeconds))
	case "app":
		_, _ = fmt.Fprintf(w, "\nThe app grows by %s.\n", terminal.Size(plan.Delivered))
	}
	if n := len(plan.MissingUrls); n > 0 {
		_, _ = fmt.Fprintf(w, "The styles need the file URLs of %s: upload them, then run `sparecrate file-urls add`.\n", terminal.Count(n, "file"))
	}
	if plan.MissingStylesheetUrl {
		_, _ = fmt.Fprintln(w, "Only the URL of fonts.css itself is missing.")
	}
	showWarnings(w, plan.Warnings)
	for _, f := range plan.Site.Families {
		if f.MayGoOut {
			continue
		}
		_, _ = fmt.Fprintf(w, "\n%s %s:\n", f.Family.Name, license.State(f.Verdict).Is())
		for _, r := range f.Reasons {
			_, _ = fmt.Fprintf(w, "  %s [%s]\n", r.Message, r.Evidence)
		}
	}
	if !plan.Ready {
		_, _ = fmt.Fprintln(w, "\nIt cannot be built yet: see the verdicts.")
	}
}

func orDash(s string) string {
	if strings.TrimSpace(s) == "" {
		return "-"
	}
	return s
}
