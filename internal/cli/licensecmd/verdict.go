package licensecmd

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/license"
)

// The exit codes by which a build pipeline knows a verdict.
const (
	exitReview  = 3
	exitBlocked = 4
)

// VerdictCommand is `verdict`.
func VerdictCommand() *cli.Command {
	return &cli.Command{
		Name: "verdict", Usage: "show whether a family may be used, and why", ArgsUsage: "FAMILY",
		Description: terminal.Example("For a site, its client and domains count, and what its packs change unless --change says\notherwise. The exit code is 0 if cleared or signed off, 3 if it needs review and 4 if\nblocked, for use in builds.", "sparecrate verdict --site 'Holmvik timetable' 'Skerrow Sans'"),
		Flags: []cli.Flag{
			terminal.JSONFlag,
			&cli.StringFlag{Name: "use", Usage: "`USE`: web, web-hosted, desktop, app, document or server; default: the site's, or web"},
			&cli.StringFlag{Name: "site", Usage: "on this `SITE`, by number or name"},
			&cli.StringFlag{Name: "client", Usage: "for this `CLIENT`, by name or number; default: the family's own"},
			&cli.StringFlag{Name: "face", Usage: "only this `STYLE` of the family, such as Bold"},
			&cli.StringSliceFlag{Name: "change", Usage: "`CHANGES` made to the file: subset, outlines, name, format; separated by commas"},
			&cli.StringFlag{Name: "day", Usage: "on this `DAY`, like 2027-03-31; default: today"},
		},
		Action: giveVerdict,
	}
}

func giveVerdict(ctx context.Context, c *cli.Command) error {
	var q api.GetVerdictParams
	if use := api.Use(c.String("use")); use != "" {
		q.Use = &use
	}
	var err error
	if q.Day, err = terminal.DayFlag(c, "day"); err != nil {
		return err
	}
	if c.IsSet("change") {
		changes := []api.GetVerdictParamsChange{}
		for _, text := range c.StringSlice("change") {
			change := api.GetVerdictParamsChange(strings.TrimSpace(text))
			switch change {
			case "":
				continue
			case "trim":
				change = api.ChangeSubset
			case "pin", "to-truetype":
				change = api.ChangeOutlines
			case "convert":
				change = api.ChangeFormat
			case "rename":
				change = api.ChangeName
			}
			changes = append(changes, change)
		}
		q.Change = &changes
	}
	s, f, err := terminal.WithFamily(ctx, c)
	if err != nil {
		return err
	}
	if c.IsSet("site") {
		id, err := terminal.FindSite(ctx, s, c.String("site"))
		if err != nil {
			return err
		}
		q.Site = &id
	}
	of, err := terminal.GivenClient(ctx, s, c)
	if err != nil {
		return err
	}
	q.Client = of
	if style := c.String("face"); style != "" {
		i := slices.IndexFunc(f.Faces, func(face api.Face) bool { return strings.EqualFold(face.Style, style) })
		if i < 0 {
			var styles []string
			for _, face := range f.Faces {
				styles = append(styles, face.Style)
			}
			return fmt.Errorf("%s has no face %q; it has %s", f.Name, style, strings.Join(styles, ", "))
		}
		q.Face = &f.Faces[i].Id
	}
	v, err := terminal.Call[api.Verdict](s.GetVerdict(ctx, f.Id, &q))
	if err != nil {
		return err
	}
	if err := terminal.Show(c, v, func(w io.Writer) { showVerdict(w, v) }); err != nil {
		return err
	}
	switch {
	case v.MayGoOut:
		return nil
	case v.State == api.Review:
		return terminal.Answered(exitReview)
	}
	return terminal.Answered(exitBlocked)
}

func showVerdict(w io.Writer, v *api.Verdict) {
	where := "for " + v.Client.Name
	if v.Site != nil {
		where = "on " + v.Site.Name + ", " + v.Client.Name
	}
	_, _ = fmt.Fprintf(w, "%s, %s, %s, on %s: %s\n", v.Family.Name, v.Use, where, v.Day, license.State(v.State).Words())
	for _, r := range v.Reasons {
		terminal.Pairs(w, [2]string{license.State(r.State).Words(), r.Message + " [" + r.Evidence + "]"})
	}
	if o := v.SignOff; o != nil {
		terminal.Pairs(w, [2]string{"signed off", fmt.Sprintf("by %s on %s%s: %s", o.By, terminal.When(o.At), terminal.UntilDay(o), o.Reason)})
	}
}
