package licensecmd

import (
	"context"
	"fmt"
	"io"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// withLicense begins a call that names a license.
func withLicense(ctx context.Context, c *cli.Command, more ...string) (*api.Client, *api.License, []string, error) {
	s, args, err := terminal.Begin(c, append([]string{"the NUMBER of the license"}, more...)...)
	if err != nil {
		return nil, nil, nil, err
	}
	id, err := terminal.Number(args[0], "license")
	if err != nil {
		return nil, nil, nil, err
	}
	l, err := terminal.Call[api.License](s.GetLicense(ctx, id))
	return s, l, args[1:], err
}

// termsOf returns the terms of a license as they are recorded again.
func termsOf(l *api.License) api.LicenseTerms {
	t := api.LicenseTerms{Kind: l.Kind, GrantedTo: l.GrantedTo.Id, Licensor: &l.Licensor, Reference: &l.Reference, Uses: l.Uses, From: l.From, Until: l.Until, Note: &l.Note,
		Changes: &l.Changes, Domains: &l.Domains, Faces: &l.Faces, PageViews: l.PageViews, Seats: l.Seats, Apps: l.Apps, Price: l.Price, Currency: l.Currency, Renewal: l.Renewal, Spdx: l.Spdx}
	for _, f := range l.Families {
		t.Families = append(t.Families, f.Id)
	}
	return t
}

func showLicenseCommand() *cli.Command {
	return &cli.Command{
		Name: "show", Usage: "show a license with its limits, seats and apps", ArgsUsage: "NUMBER", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("NUMBER is the one that `license list` shows.", "sparecrate license show 1"),
		Action: func(ctx context.Context, c *cli.Command) error {
			_, l, _, err := withLicense(ctx, c)
			if err != nil {
				return err
			}
			return terminal.Show(c, l, func(w io.Writer) { showLicense(w, l) })
		},
	}
}

func approveLicenseCommand() *cli.Command {
	return &cli.Command{
		Name: "approve", Usage: "approve a license that an editor recorded (admin)", ArgsUsage: "NUMBER", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("Look at its documents first. A license that no admin recorded or approved does not\nallow what a font itself forbids.", "sparecrate license approve 1"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, _, err := withLicense(ctx, c)
			if err != nil {
				return err
			}
			l, err = terminal.Call[api.License](s.ApproveLicense(ctx, l.Id, &api.ApproveLicenseParams{IfMatch: l.Etag}))
			if err != nil {
				return err
			}
			return terminal.Show(c, l, func(w io.Writer) { showLicense(w, l) })
		},
	}
}

// approvalOf says who approved a license.
func approvalOf(l *api.License) string {
	if l.ApprovedAt == nil || l.ApprovedBy == nil {
		return "not approved by an admin; see `license approve`"
	}
	return "approved by " + *l.ApprovedBy + ", " + terminal.When(*l.ApprovedAt)
}

func showLicense(w io.Writer, l *api.License) {
	_, _ = fmt.Fprintf(w, "License %d: %s, granted to %s (%s)\n", l.Id, l.Kind, l.GrantedTo.Name, l.State)
	var families, documents []string
	for _, f := range l.Families {
		families = append(families, f.Name)
	}
	for _, d := range l.Documents {
		documents = append(documents, fmt.Sprintf("%d: %s, %s, SHA-256 %s…", d.Id, d.Name, terminal.Size(d.Bytes), d.Sha256[:12]))
	}
	price, renewal, spdx := "", "", ""
	if l.Price != nil && l.Currency != nil {
		price = fmt.Sprintf("%d.%02d %s", *l.Price/100, *l.Price%100, *l.Currency)
	}
	if l.Renewal != nil {
		renewal = string(*l.Renewal)
	}
	if l.Spdx != nil {
		spdx = *l.Spdx
	}
	faces := ""
	if len(l.Faces) > 0 {
		faces = fmt.Sprintf("only %d of them", len(l.Faces))
	}
	terminal.Pairs(w, [2]string{"covers", strings.Join(families, ", ")}, [2]string{"faces", faces}, [2]string{"uses", uses(*l)}, [2]string{"term", runs(*l)}, [2]string{"domains", strings.Join(l.Domains, ", ")},
		[2]string{"open license", spdx}, [2]string{"licensor", l.Licensor}, [2]string{"reference", l.Reference}, [2]string{"price", price}, [2]string{"renewal", renewal}, [2]string{"note", l.Note})
	for _, n := range l.Limits {
		said := fmt.Sprintf("%s of %s", thousands(n.Used), thousands(n.Cap))
		if n.When != nil {
			said += " in " + *n.When
		}
		if n.Reached != nil && n.Used <= n.Cap {
			said += "; passed in " + *n.Reached + " if it goes on like this"
		}
		terminal.Pairs(w, [2]string{string(n.Measure), said})
	}
	for _, p := range l.Allocations {
		terminal.Pairs(w, [2]string{strings.TrimSuffix(string(p.Measure), "s"), fmt.Sprintf("%d: %s, since %s", p.Id, p.Name, terminal.When(p.Since))})
	}
	for _, d := range documents {
		terminal.Pairs(w, [2]string{"document", d})
	}
	if len(documents) == 0 {
		terminal.Pairs(w, [2]string{"document", "no document"})
	}
	if l.Renews != nil {
		terminal.Pairs(w, [2]string{"renews", fmt.Sprintf("license %d, the term before", *l.Renews)})
	}
	if l.RenewedBy != nil {
		terminal.Pairs(w, [2]string{"renewed by", fmt.Sprintf("license %d, the next term", *l.RenewedBy)})
	}
	terminal.Pairs(w, [2]string{"recorded", fmt.Sprintf("by %s on %s", l.CreatedBy, terminal.When(l.CreatedAt))}, [2]string{"approval", approvalOf(l)})
}

func changeLicenseCommand() *cli.Command {
	return &cli.Command{
		Name: "change", Usage: "change the terms of a license; earlier terms are kept", ArgsUsage: "NUMBER", Flags: append([]cli.Flag{terminal.JSONFlag, &cli.StringSliceFlag{Name: "family", Usage: "a `FAMILY` it covers; replaces the current list; may be repeated"}}, termFlags()...),
		Description: terminal.Example("Only what is named is changed. An empty value takes away: `--until ''` makes it perpetual.", "sparecrate license change --note 'Signs included.' 1"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, _, err := withLicense(ctx, c)
			if err != nil {
				return err
			}
			t := termsOf(l)
			if c.IsSet("family") {
				t.Families = nil
				for _, name := range c.StringSlice("family") {
					id, err := terminal.FindFamily(ctx, s, name)
					if err != nil {
						return err
					}
					t.Families = append(t.Families, id)
				}
			}
			if err := readTerms(ctx, s, c, &t); err != nil {
				return err
			}
			if l, err = terminal.Call[api.License](s.ChangeLicense(ctx, l.Id, &api.ChangeLicenseParams{IfMatch: l.Etag}, t)); err != nil {
				return err
			}
			if err := attachAll(ctx, s, c, l); err != nil {
				return err
			}
			return terminal.Show(c, l, func(w io.Writer) { showLicense(w, l) })
		},
	}
}

func copyLicenseCommand() *cli.Command {
	return &cli.Command{
		Name: "duplicate", Usage: "duplicate a license for another client or term", ArgsUsage: "NUMBER", Flags: append([]cli.Flag{terminal.JSONFlag}, termFlags()...),
		Description: terminal.Example("Takes over all but documents, reference and who has seats, and for another client all but\nthe domains; flags say what is different.", "sparecrate license duplicate --client 'Saltmarsh Seed Exchange' --domain almanac.saltmarsh.example --reference N-90400 1"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, _, err := withLicense(ctx, c)
			if err != nil {
				return err
			}
			t := termsOf(l)
			t.Reference = nil
			if c.IsSet("client") {
				t.Domains = nil // they are the other client's
			}
			if err := readTerms(ctx, s, c, &t); err != nil {
				return err
			}
			return record(ctx, s, c, t)
		},
	}
}

func proposeCommand() *cli.Command {
	return &cli.Command{
		Name: "propose", Usage: "show license proposals from a family's files, and confirm an open license", ArgsUsage: "FAMILY",
		Description: terminal.Example("Reads name records and documents, quotes them, and proposes the open license that they\nmention. --confirm records it, with the quoted document.", "sparecrate license propose 'Tidegarth Poster'"),
		Flags:       []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "confirm", Usage: "SPDX `IDENTIFIER` of the proposal to confirm"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, f, err := terminal.WithFamily(ctx, c)
			if err != nil {
				return err
			}
			if id := c.String("confirm"); id != "" {
				l, err := terminal.Call[api.License](s.ConfirmProposal(ctx, f.Id, api.Confirmation{Spdx: id}))
				if err != nil {
					return err
				}
				return terminal.Show(c, l, func(w io.Writer) { showLicense(w, l) })
			}
			found, err := terminal.Call[api.ProposalList](s.ListProposals(ctx, f.Id))
			if err != nil {
				return err
			}
			return terminal.Show(c, found, func(w io.Writer) {
				for _, p := range found.Items {
					state := fmt.Sprintf("`--confirm '%s'` records it", p.Spdx)
					if p.License != nil {
						state = "recorded as " + p.License.Name
					}
					_, _ = fmt.Fprintf(w, "%s, %s: %.0f %% sure; %s\n", p.Spdx, p.Title, p.Confidence*100, state)
					terminal.Pairs(w, [2]string{"it asks", p.Copies}, [2]string{"reserved", strings.Join(p.Reserved, ", ")})
					for _, one := range p.Findings {
						terminal.Pairs(w, [2]string{"evidence", one.Source + ": “" + one.Quote + "”"})
					}
				}
				if len(found.Items) == 0 {
					_, _ = fmt.Fprintf(w, "Nothing in %s or in its documents mentions an open license.\n", f.Name)
				}
				for _, one := range found.Warnings {
					terminal.Pairs(w, [2]string{"mind", one.Source + ": “" + one.Quote + "”"})
				}
			})
		},
	}
}

func giveCommand() *cli.Command {
	return &cli.Command{
		Name: "assign", Usage: "assign a seat to a person, or an app to the license", ArgsUsage: "NUMBER NAME",
		Description: terminal.Example("NAME is the person's, or with --app the app's.", "sparecrate license assign 1 'Marit Sund'"),
		Flags:       []cli.Flag{terminal.JSONFlag, &cli.BoolFlag{Name: "app", Usage: "NAME is an app, not a person"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, args, err := withLicense(ctx, c, "the NAME of the person or app")
			if err != nil {
				return err
			}
			n := api.NewAllocation{Measure: api.MeasureSeats, Name: args[0]}
			if c.Bool("app") {
				n.Measure = api.MeasureApps
			}
			if l, err = terminal.Call[api.License](s.AddAllocation(ctx, l.Id, n)); err != nil {
				return err
			}
			return terminal.Show(c, l, func(w io.Writer) { showLicense(w, l) })
		},
	}
}

func takeCommand() *cli.Command {
	return &cli.Command{
		Name: "unassign", Usage: "unassign a seat or an app", ArgsUsage: "NUMBER NAME", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("NAME is that of the person or app, or the number that `license show` shows with it.", "sparecrate license unassign 1 'Marit Sund'"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, args, err := withLicense(ctx, c, "the NAME of the person or app")
			if err != nil {
				return err
			}
			var all []terminal.Named
			for _, p := range l.Allocations {
				all = append(all, terminal.Named{ID: p.Id, Name: p.Name, More: string(p.Measure)})
			}
			id, err := terminal.Choose(args[0], "seat or app", all)
			if err != nil {
				return err
			}
			if l, err = terminal.Call[api.License](s.RemoveAllocation(ctx, l.Id, id)); err != nil {
				return err
			}
			return terminal.Show(c, l, func(w io.Writer) { showLicense(w, l) })
		},
	}
}

func licenseVersionsCommand() *cli.Command {
	return &cli.Command{
		Name: "versions", Usage: "show the history of a license", ArgsUsage: "NUMBER", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("Each change with the previous value; nothing is overwritten.", "sparecrate license versions 1"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, _, err := withLicense(ctx, c)
			if err != nil {
				return err
			}
			found, err := terminal.Call[api.LicenseVersionList](s.ListLicenseVersions(ctx, l.Id))
			if err != nil {
				return err
			}
			return terminal.Show(c, found.Items, func(w io.Writer) {
				for _, v := range found.Items {
					_, _ = fmt.Fprintf(w, "Version %d, %s, %s\n", v.Version, terminal.When(v.At), v.By)
					for _, ch := range v.Changed {
						terminal.Pairs(w, [2]string{ch.Field, fmt.Sprintf("%q, was %q", ch.To, ch.From)})
					}
					if len(v.Changed) == 0 {
						terminal.Pairs(w, [2]string{"terms", v.Terms})
					}
				}
				if len(found.Items) == 0 {
					_, _ = fmt.Fprintln(w, "It has no earlier versions.")
				}
			})
		},
	}
}

func endingCommand() *cli.Command {
	return &cli.Command{
		Name: "ending", Usage: "show what depends on a license: families, sites, pages, packs", ArgsUsage: "NUMBER", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("Families covered by another license are not listed.", "sparecrate license ending 2"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, _, err := withLicense(ctx, c)
			if err != nil {
				return err
			}
			e, err := terminal.Call[api.Ending](s.EndLicense(ctx, l.Id))
			if err != nil {
				return err
			}
			return terminal.Show(c, e, func(w io.Writer) {
				any := false
				for _, f := range e.Families {
					for _, site := range f.Sites {
						any = true
						_, _ = fmt.Fprintf(w, "%s must come off %s, %s\n", f.Family.Name, site.Site.Name, site.Client)
						terminal.Pairs(w, [2]string{"domains", strings.Join(site.Domains, ", ")})
						terminal.Pairs(w, [2]string{"roles", strings.Join(site.Roles, ", ")}, [2]string{"pages", strings.Join(site.Pages, ", ")})
						for _, p := range site.Packs {
							terminal.Pairs(w, [2]string{"pack", fmt.Sprintf("%d: %s", p.Id, p.Name)})
						}
					}
				}
				if !any {
					_, _ = fmt.Fprintln(w, "Nothing: what it covers is in use nowhere, or other licenses cover it too.")
				}
			})
		},
	}
}

func findDocumentsCommand() *cli.Command {
	return &cli.Command{
		Name: "find", Usage: "search the text of license and family documents", ArgsUsage: "WORDS", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("Looks in the text of PDFs, web pages and text files, and in names.", "sparecrate license find Licensee"),
		Action: func(ctx context.Context, c *cli.Command) error {
			if !c.Args().Present() {
				return terminal.Misused("license find needs WORDS to look for")
			}
			s, err := terminal.Connect()
			if err != nil {
				return err
			}
			found, err := terminal.Call[api.DocumentHits](s.FindDocuments(ctx, &api.FindDocumentsParams{Q: strings.Join(c.Args().Slice(), " ")}))
			if err != nil {
				return err
			}
			return terminal.Show(c, found.Items, func(w io.Writer) {
				for _, d := range found.Items {
					of := ""
					if d.License != nil {
						of = fmt.Sprintf("license %d", *d.License)
					} else if d.Family != nil {
						of = fmt.Sprintf("came with family %d", *d.Family)
					}
					_, _ = fmt.Fprintf(w, "%s (%s), %s\n", d.Name, terminal.Size(d.Bytes), of)
					terminal.Pairs(w, [2]string{"", d.Quote})
				}
				if len(found.Items) == 0 {
					_, _ = fmt.Fprintln(w, "No document holds these words.")
				}
			})
		},
	}
}
