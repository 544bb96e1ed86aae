package sitecmd

import (
	"context"
	"fmt"
	"io"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

func outletsCommand() *cli.Command {
	return &cli.Command{
		Name: "outlets", Usage: "outlets: other platforms of a site",
		Description: terminal.Example("The pages of a site take a stylesheet, its member posts an HTML block, its app a bundle: each\nfurther way is an outlet with a builder, pages, file URLs and packs of its own. Families and\nroles are the site's. In other commands an outlet is named like a site: 'SITE · OUTLET'.",
			"sparecrate site outlets list 'Holmvik timetable'"),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list the outlets of a site", ArgsUsage: "SITE", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("The site itself is the first of them.", "sparecrate site outlets list 'Holmvik timetable'"),
				Action: func(ctx context.Context, c *cli.Command) error {
					_, v, _, err := withSite(ctx, c)
					if err != nil {
						return err
					}
					return terminal.Show(c, v.Outlets, func(w io.Writer) { showOutlets(w, v) })
				},
			},
			{
				Name: "add", Usage: "add an outlet to a site", ArgsUsage: "SITE NAME",
				Description: terminal.Example("It begins with the site's families and roles, and follows them.", "sparecrate site outlets add --builder android-app 'Holmvik timetable' App"),
				Flags:       []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "builder", Usage: "`KIND` of builder", Required: true}},
				Action: func(ctx context.Context, c *cli.Command) error {
					s, site, args, err := withSite(ctx, c, "the NAME of the outlet")
					if err != nil {
						return err
					}
					v, err := terminal.Call[api.Site](s.AddOutlet(ctx, site.Id, api.NewOutlet{Name: args[0], Builder: c.String("builder")}))
					if err != nil {
						return err
					}
					return terminal.Show(c, v, func(w io.Writer) { showSite(w, v) })
				},
			},
			{
				Name: "delete", Usage: "delete an outlet with its pages, file URLs and packs", ArgsUsage: "SITE OUTLET", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("OUTLET is its name on the site, or its number. This cannot be undone.", "sparecrate site outlets delete 'Holmvik timetable' App"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, v, args, err := withSite(ctx, c, "the OUTLET")
					if err != nil {
						return err
					}
					all := make([]terminal.Named, len(v.Outlets))
					for i, o := range v.Outlets {
						all[i] = terminal.Named{ID: o.Id, Name: o.Name, More: o.Builder.Name}
					}
					id, err := terminal.Choose(args[0], "outlet", all)
					if err != nil {
						return err
					}
					site := v.Id
					if v.OutletOf != nil {
						site = v.OutletOf.Id
					}
					if _, err := terminal.Answer(s.DeleteOutlet(ctx, site, id)); err != nil {
						return err
					}
					if v, err = terminal.Call[api.Site](s.GetSite(ctx, site)); err != nil {
						return err
					}
					return terminal.Show(c, v, func(w io.Writer) { showOutlets(w, v) })
				},
			},
		},
	}
}

// withSite begins a call that names a site.
func withSite(ctx context.Context, c *cli.Command, more ...string) (*api.Client, *api.Site, []string, error) {
	s, args, err := terminal.Begin(c, append([]string{"a SITE, by number or name"}, more...)...)
	if err != nil {
		return nil, nil, nil, err
	}
	id, err := terminal.FindSite(ctx, s, args[0])
	if err != nil {
		return nil, nil, nil, err
	}
	v, err := terminal.Call[api.Site](s.GetSite(ctx, id))
	return s, v, args[1:], err
}

func showOutlets(w io.Writer, v *api.Site) {
	rows := [][]any{}
	if v.OutletOf == nil {
		rows = append(rows, []any{v.Id, "(the site)", v.Builder.Name})
	} else {
		rows = append(rows, []any{v.OutletOf.Id, "(the site)", ""})
	}
	for _, o := range v.Outlets {
		rows = append(rows, []any{o.Id, o.Name, o.Builder.Name})
	}
	terminal.Grid(w, []any{"No.", "Outlet", "Builder"}, []string{"No."}, rows)
	if len(v.Outlets) == 0 {
		_, _ = fmt.Fprintln(w, "No further outlets.")
	}
}
