package sitecmd

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/font/metadata"
	"sparecrate/internal/cli/terminal"
)

// faceFlags say which face of a family is meant.
func faceFlags() []cli.Flag {
	return []cli.Flag{
		terminal.JSONFlag,
		&cli.IntFlag{Name: "weight", Usage: "`WEIGHT` from 1 to 1000; 400 is regular, 700 bold", Value: 400},
		&cli.StringFlag{Name: "style", Usage: "normal, italic or oblique", Value: "normal"},
	}
}

// setSite changes what families do on a site, from what it is now.
func setSite(ctx context.Context, c *cli.Command, s *api.Client, text string, change func(*api.RoleAssignments) error) error {
	id, err := terminal.FindSite(ctx, s, text)
	if err != nil {
		return err
	}
	site, err := terminal.Call[api.Site](s.GetSite(ctx, id))
	if err != nil {
		return err
	}
	in := api.RoleAssignments{Assignments: []api.RoleAssignment{}, Replacements: append([]api.Replacement{}, site.Replacements...)}
	for _, r := range site.Roles {
		in.Assignments = append(in.Assignments, r.Assignment)
	}
	if err := change(&in); err != nil {
		return err
	}
	v, err := terminal.Call[api.Site](s.AssignRoles(ctx, id, &api.AssignRolesParams{IfMatch: site.Etag}, in))
	if err != nil {
		return err
	}
	return terminal.Show(c, v, func(w io.Writer) { showSite(w, v) })
}

func placeCommand() *cli.Command {
	return &cli.Command{
		Name: "assign", Usage: "assign a font to a role on a site", ArgsUsage: "SITE ROLE FAMILY",
		Description: terminal.Example("The roles: body, heading-1 to heading-6, links, buttons, navigation, captions, lists, quotes,\ncode, or one of your own with its --selector. Warnings say what will look different than intended.",
			"sparecrate site assign --weight 300 --fallback Arial --fallback sans-serif 'Holmvik timetable' quotes 'Skerrow Sans'"),
		Flags: append(faceFlags(),
			&cli.StringSliceFlag{Name: "fallback", Usage: "fallback `FONT` or generic family; may be repeated. Known system fonts get matching metrics"},
			&cli.StringFlag{Name: "face", Usage: "this `FACE` of the family, by style or full name"},
			&cli.StringFlag{Name: "selector", Usage: "CSS `SELECTOR` instead of the usual one"},
			&cli.StringFlag{Name: "name", Usage: "display `NAME` of a custom role"},
			&cli.BoolFlag{Name: "override", Usage: "override platform styles"},
		),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "a SITE, by number or name", "a ROLE, like body", "a FAMILY, by number or name")
			if err != nil {
				return err
			}
			family, err := terminal.FindFamily(ctx, s, args[2])
			if err != nil {
				return err
			}
			p := api.RoleAssignment{Role: args[1], Family: family, Weight: c.Int("weight"), Slope: api.FaceSlope(c.String("style")), Fallbacks: append([]string{}, c.StringSlice("fallback")...),
				Override: c.Bool("override"), Selector: terminal.Given(c, "selector"), Name: terminal.Given(c, "name")}
			if name := c.String("face"); name != "" {
				f, err := terminal.Call[api.Family](s.GetFamily(ctx, family))
				if err != nil {
					return err
				}
				id, err := terminal.Choose(name, "face", facesNamed(f, name))
				if err != nil {
					return err
				}
				p.Face = &id
			}
			return setSite(ctx, c, s, args[0], func(in *api.RoleAssignments) error {
				at := slices.IndexFunc(in.Assignments, func(o api.RoleAssignment) bool { return o.Role == p.Role })
				if at < 0 {
					in.Assignments = append(in.Assignments, p)
					return nil
				}
				in.Assignments[at] = p
				return nil
			})
		},
	}
}

// facesNamed are the faces of a family as something that is named chooses among them: by
// style where it is one, else by full name.
func facesNamed(f *api.Family, name string) []terminal.Named {
	all := make([]terminal.Named, len(f.Faces))
	for i, face := range f.Faces {
		all[i] = terminal.Named{ID: face.Id, Name: face.Metadata.Names.Full, More: face.Style}
		if strings.EqualFold(face.Style, name) {
			all[i] = terminal.Named{ID: face.Id, Name: face.Style, More: face.Metadata.Names.Full}
		}
	}
	return all
}

func rolesCommand() *cli.Command {
	return &cli.Command{
		Name: "roles", Usage: "set all roles of a site at once", ArgsUsage: "SITE ROLE=FAMILY:STYLE...",
		Description: terminal.Example("ROLE is body, heading-1 to heading-6, headings for all six of them, links, buttons, navigation,\ncaptions, lists, quotes or code; several with commas between them. STYLE is a face, like Bold, or a\nweight, like 700; without it the regular. Roles that are not named stay as they are, also what is\nbehind them; ROLE= says that nothing does it any more.",
			"sparecrate site roles 'Holmvik timetable' body='Skerrow Sans' headings,navigation='Skerrow Sans:700' heading-1='Skerrow Sans:300'"),
		Flags: []cli.Flag{
			terminal.JSONFlag, &cli.StringSliceFlag{Name: "fallback", Usage: "fallback `FONT` or generic family for each; may be repeated"},
			&cli.BoolFlag{Name: "override", Usage: "override platform styles"},
		},
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Args().Len() < 2 {
				return terminal.Misused("site roles needs a SITE and at least one ROLE=FAMILY:STYLE, like body='Skerrow Sans:Regular'")
			}
			s, err := terminal.Connect()
			if err != nil {
				return err
			}
			families := map[string]*api.Family{}
			return setSite(ctx, c, s, c.Args().First(), func(in *api.RoleAssignments) error {
				for _, arg := range c.Args().Tail() {
					roles, face, is := strings.Cut(arg, "=")
					if !is || roles == "" {
						return terminal.Misused("%q names no role; write it like body='Skerrow Sans:Regular'", arg)
					}
					for _, role := range rolesOf(roles) {
						in.Assignments = slices.DeleteFunc(in.Assignments, func(p api.RoleAssignment) bool { return face == "" && p.Role == role })
						if face == "" {
							continue
						}
						p, err := faceFor(ctx, s, families, face)
						if err != nil {
							return err
						}
						at := slices.IndexFunc(in.Assignments, func(o api.RoleAssignment) bool { return o.Role == role })
						if at < 0 {
							at = len(in.Assignments)
							in.Assignments = append(in.Assignments, api.RoleAssignment{Role: role, Fallbacks: []string{}})
						}
						o := &in.Assignments[at]
						o.Family, o.Face, o.Weight, o.Slope = p.Family, p.Face, p.Weight, p.Slope
						if c.IsSet("fallback") {
							o.Fallbacks = c.StringSlice("fallback")
						}
						if c.IsSet("override") {
							o.Override = c.Bool("override")
						}
					}
				}
				return nil
			})
		},
	}
}

// rolesOf are the roles that a list of them names.
func rolesOf(text string) []string {
	var out []string
	for one := range strings.SplitSeq(text, ",") {
		if one = strings.TrimSpace(one); one != "headings" {
			out = append(out, one)
			continue
		}
		for n := 1; n <= 6; n++ {
			out = append(out, fmt.Sprintf("heading-%d", n))
		}
	}
	return out
}

// faceFor finds the face that FAMILY:STYLE names, as a placement of no role; families that
// were read before are kept.
func faceFor(ctx context.Context, s *api.Client, families map[string]*api.Family, text string) (*api.RoleAssignment, error) {
	name, style := text, ""
	if i := strings.LastIndexByte(text, ':'); i >= 0 {
		name, style = strings.TrimSpace(text[:i]), strings.TrimSpace(text[i+1:])
	}
	f := families[name]
	if f == nil {
		id, err := terminal.FindFamily(ctx, s, name)
		if err != nil {
			return nil, err
		}
		if f, err = terminal.Call[api.Family](s.GetFamily(ctx, id)); err != nil {
			return nil, err
		}
		families[name] = f
	}
	p := &api.RoleAssignment{Family: f.Id, Weight: 400, Slope: api.FaceSlope("normal")}
	if style == "" {
		return p, nil
	}
	if weight, err := strconv.Atoi(style); err == nil {
		p.Weight = weight
		return p, nil
	}
	id, err := terminal.Choose(style, "face", facesNamed(f, style))
	if err != nil {
		return nil, err
	}
	for _, face := range f.Faces {
		if face.Id == id {
			p.Face, p.Weight = &id, face.Metadata.Style.Weight
			if face.Metadata.Style.Slope != metadata.Upright {
				p.Slope = api.FaceSlope(face.Metadata.Style.Slope)
			}
		}
	}
	return p, nil
}

func unplaceCommand() *cli.Command {
	return &cli.Command{
		Name: "unassign", Usage: "unassign a role on a site", ArgsUsage: "SITE ROLE", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("The family stays on the site.", "sparecrate site unassign 'Holmvik timetable' quotes"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "a SITE, by number or name", "a ROLE, like body")
			if err != nil {
				return err
			}
			return setSite(ctx, c, s, args[0], func(in *api.RoleAssignments) error {
				at := slices.IndexFunc(in.Assignments, func(o api.RoleAssignment) bool { return o.Role == args[1] })
				if at < 0 {
					return fmt.Errorf("the role %q has no font there", args[1])
				}
				in.Assignments = slices.Delete(in.Assignments, at, at+1)
				return nil
			})
		},
	}
}

func swapCommand() *cli.Command {
	return &cli.Command{
		Name: "replace", Usage: "replace a font named in the design with a family", ArgsUsage: "SITE NAME FAMILY",
		Description: terminal.Example("For designs that name another font because the real one could not be installed there. Several\nweights and styles are named with --also. It hits every text in that name on the site; --check\nreads the published pages and lists what else they set in the names that are replaced.",
			"sparecrate site replace --weight 400 --also 700 --also '400 italic' 'Holmvik timetable' 'Pilothouse Draft' 'Skerrow Sans'"),
		Flags: append(faceFlags(), &cli.StringSliceFlag{Name: "also", Usage: "further `WEIGHT`, or '700 italic'; may be repeated"},
			&cli.BoolFlag{Name: "check", Usage: "change nothing; show where the published pages use the replaced names"}),
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Bool("check") {
				return checkReplacements(ctx, c)
			}
			s, args, err := terminal.Begin(c, "a SITE, by number or name", "the NAME the design has", "a FAMILY, by number or name")
			if err != nil {
				return err
			}
			family, err := terminal.FindFamily(ctx, s, args[2])
			if err != nil {
				return err
			}
			all := []api.Replacement{{Name: args[1], Family: family, Weight: c.Int("weight"), Slope: api.FaceSlope(c.String("style"))}}
			for _, style := range c.StringSlice("also") {
				weight, slope, _ := strings.Cut(strings.TrimSpace(style), " ")
				n, err := strconv.Atoi(weight)
				if err != nil {
					return terminal.Misused("--also takes a weight, like 700 or '700 italic', not %q", style)
				}
				if slope == "" {
					slope = string(api.StyleNormal)
				}
				all = append(all, api.Replacement{Name: args[1], Family: family, Weight: n, Slope: api.FaceSlope(slope)})
			}
			return setSite(ctx, c, s, args[0], func(in *api.RoleAssignments) error {
				in.Replacements = slices.DeleteFunc(in.Replacements, func(o api.Replacement) bool { return strings.EqualFold(o.Name, args[1]) })
				in.Replacements = append(in.Replacements, all...)
				return nil
			})
		},
	}
}

func checkReplacements(ctx context.Context, c *cli.Command) error {
	s, site, _, err := withSite(ctx, c)
	if err != nil {
		return err
	}
	found, err := terminal.Call[api.ReplacementCheck](s.CheckReplacements(ctx, site.Id))
	if err != nil {
		return err
	}
	return terminal.Show(c, found, func(w io.Writer) {
		for _, i := range found.Items {
			_, _ = fmt.Fprintln(w, i.Name)
			if len(i.Roles)+len(i.Pages) == 0 {
				terminal.Pairs(w, [2]string{"", "no role uses it, and no page that was read sets text in it"})
			}
			terminal.Pairs(w, [2]string{"roles", strings.Join(i.Roles, ", ")})
			for _, p := range i.Pages {
				terminal.Pairs(w, [2]string{"page", p.Url + ": " + strings.Join(p.Selectors, "; ")})
			}
		}
		_, _ = fmt.Fprintf(w, "Pages read: %d\n", len(found.Pages))
		for _, u := range found.Unread {
			terminal.Pairs(w, [2]string{"not read", u.Url + ": " + u.Why})
		}
	})
}

func unswapCommand() *cli.Command {
	return &cli.Command{
		Name: "remove-replacement", Usage: "remove a replacement", ArgsUsage: "SITE NAME", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("The family stays on the site.", "sparecrate site remove-replacement 'Holmvik timetable' 'Pilothouse Draft'"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "a SITE, by number or name", "the NAME the design has")
			if err != nil {
				return err
			}
			return setSite(ctx, c, s, args[0], func(in *api.RoleAssignments) error {
				n := len(in.Replacements)
				in.Replacements = slices.DeleteFunc(in.Replacements, func(o api.Replacement) bool { return strings.EqualFold(o.Name, args[1]) })
				if len(in.Replacements) == n {
					return fmt.Errorf("%q is not replaced there", args[1])
				}
				return nil
			})
		},
	}
}

func changeSiteCommand() *cli.Command {
	return &cli.Command{
		Name: "change", Usage: "change a site", ArgsUsage: "SITE",
		Description: terminal.Example("What no flag names stays. --environment is NAME=PREFIX, where the prefix says where the files\nwill be, or NAME alone; all environments are named again.",
			"sparecrate site change --sample-text 'Next ferry to Skerry: 16:35' 'Holmvik timetable'"),
		Flags: []cli.Flag{
			terminal.JSONFlag,
			&cli.StringFlag{Name: "name", Usage: "its new `NAME`"},
			&cli.StringFlag{Name: "builder", Usage: "`KIND` of builder"},
			&cli.StringSliceFlag{Name: "domain", Usage: "a `DOMAIN` of the site; replaces the current list; may be repeated"},
			&cli.StringSliceFlag{Name: "environment", Usage: "`NAME=PREFIX`; may be repeated"},
			&cli.StringFlag{Name: "sample-text", Usage: "`TEXT` in the client's own words, for pages that show the fonts"},
		},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "a SITE, by number or name")
			if err != nil {
				return err
			}
			id, err := terminal.FindSite(ctx, s, args[0])
			if err != nil {
				return err
			}
			site, err := terminal.Call[api.Site](s.GetSite(ctx, id))
			if err != nil {
				return err
			}
			t := api.SiteTerms{Name: site.Name, Client: site.Client.Id, Builder: site.Builder.Kind, Domains: &site.Domains, SampleText: terminal.Given(c, "words")}
			if v := terminal.Given(c, "name"); v != nil {
				t.Name = *v
			}
			if v := terminal.Given(c, "builder"); v != nil {
				t.Builder = *v
			}
			if c.IsSet("domain") {
				domains := c.StringSlice("domain")
				t.Domains = &domains
			}
			if c.IsSet("environment") {
				t.Environments = &[]api.SiteEnvironment{}
				for _, e := range c.StringSlice("environment") {
					name, prefix, ok := strings.Cut(e, "=")
					one := api.SiteEnvironment{Name: name}
					if ok {
						one.Prefix = &prefix
					}
					*t.Environments = append(*t.Environments, one)
				}
			}
			v, err := terminal.Call[api.Site](s.ChangeSite(ctx, id, &api.ChangeSiteParams{IfMatch: site.Etag}, t))
			if err != nil {
				return err
			}
			return terminal.Show(c, v, func(w io.Writer) { showSite(w, v) })
		},
	}
}

// showRoles prints what does what on a site, and what to mind.
func showRoles(w io.Writer, v *api.Site) {
	if len(v.Roles) > 0 {
		_, _ = fmt.Fprintln(w)
		var rows [][]any
		for _, r := range v.Roles {
			over := ""
			if r.Assignment.Override {
				over = "yes"
			}
			rows = append(rows, []any{r.Title, strings.TrimSpace(r.Family.Name + " " + r.Face), r.Assignment.Weight, r.Assignment.Slope, strings.Join(r.Assignment.Fallbacks, ", "), r.Selector, over})
		}
		terminal.Grid(w, []any{"Role", "Face", "Weight", "Style", "Fallback fonts", "Selector", "Overrules"}, []string{"Weight"}, rows)
	}
	for _, s := range v.Replacements {
		for _, f := range v.Families {
			if f.Family.Id == s.Family {
				_, _ = fmt.Fprintf(w, "\nThe name %q becomes %s, weight %d.\n", s.Name, f.Family.Name, s.Weight)
			}
		}
	}
	showWarnings(w, v.Warnings)
	for _, o := range v.Outdated {
		where := ""
		if o.Environment != "" {
			where = " for " + o.Environment
		}
		_, _ = fmt.Fprintf(w, "\nThe pack%s of %s is out of date:\n", where, terminal.When(o.BuiltAt))
		for _, line := range o.Changes {
			_, _ = fmt.Fprintf(w, "  %s\n", line)
		}
	}
}

func showWarnings(w io.Writer, warnings []api.SiteWarning) {
	if len(warnings) == 0 {
		return
	}
	_, _ = fmt.Fprintln(w, "\nWarnings:")
	for _, one := range warnings {
		_, _ = fmt.Fprintf(w, "  %s\n", one.Message)
	}
}
