package cli

import (
	"context"
	"fmt"
	"io"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"
	"github.com/urfave/cli/v3"

	"sparecrate/api"
)

// termFlags are the flags by which a license's terms are said.
func termFlags() []cli.Flag {
	return []cli.Flag{
		&cli.StringFlag{Name: "client", Usage: "`CLIENT` it is granted to, by name or number"},
		&cli.StringFlag{Name: "like", Usage: "begin with the terms of the template `NAME`"},
		&cli.StringFlag{Name: "kind", Usage: "bought, client, open or commissioned; bought without it"},
		&cli.StringSliceFlag{Name: "use", Usage: "`USE` it allows: web, web-hosted, desktop, app, document, server; several with commas"},
		&cli.StringFlag{Name: "from", Usage: "first `DAY`, as 2026-03-01"},
		&cli.StringFlag{Name: "until", Usage: "last `DAY`; without it the license is perpetual"},
		&cli.StringFlag{Name: "licensor", Usage: "`WHO` grants it"},
		&cli.StringFlag{Name: "reference", Usage: "order `NUMBER` or the like"},
		&cli.StringFlag{Name: "note", Usage: "a remark"},
		&cli.StringSliceFlag{Name: "allow", Usage: "`CHANGES` it allows: subset, outlines, name"},
		&cli.StringSliceFlag{Name: "forbid", Usage: "`CHANGES` it forbids"},
		&cli.StringSliceFlag{Name: "domain", Usage: "only for `DOMAIN` and what is below it; may be repeated"},
		&cli.StringSliceFlag{Name: "face", Usage: "only the face with this `STYLE`, of each family covered; may be repeated"},
		&cli.Int64Flag{Name: "page-views", Usage: "at most `N` page views a month"},
		&cli.Int64Flag{Name: "seats", Usage: "at most `N` seats"},
		&cli.Int64Flag{Name: "apps", Usage: "at most `N` apps"},
		&cli.StringFlag{Name: "price", Usage: "what it costs, with the currency, as '180.00 EUR'"},
		&cli.StringFlag{Name: "renewal", Usage: "at its end: none, by-hand or automatic"},
		&cli.StringFlag{Name: "spdx", Usage: "SPDX `IDENTIFIER` of an open license"},
		&cli.StringSliceFlag{Name: "document", Usage: "`FILE` to keep as evidence"},
	}
}

// dayFlag reads a day, nil where none is given.
func dayFlag(c *cli.Command, name string) (*openapi.Date, error) {
	v := c.String(name)
	if v == "" {
		return nil, nil //nolint:nilnil // no day is no error
	}
	d, err := time.Parse(time.DateOnly, v)
	if err != nil {
		return nil, misused("--%s takes a day like 2026-03-01, not %q", name, v)
	}
	return &openapi.Date{Time: d}, nil
}

var priceForm = regexp.MustCompile(`^([0-9]+(?:[.,][0-9]{1,2})?) ?([A-Za-z]{3})$`)

// readTerms puts what the flags say into terms; what they do not name stays.
func readTerms(ctx context.Context, s *api.Client, c *cli.Command, t *api.LicenseTerms) error {
	if c.IsSet("client") {
		id, err := findClient(ctx, s, c.String("client"))
		if err != nil {
			return err
		}
		t.GrantedTo = id
	}
	if c.IsSet("kind") {
		t.Kind = api.LicenseKind(c.String("kind"))
	}
	if c.IsSet("use") {
		t.Uses = nil
		for _, u := range c.StringSlice("use") {
			t.Uses = append(t.Uses, api.Use(strings.TrimSpace(u)))
		}
	}
	for flag, to := range map[string]**openapi.Date{"from": &t.From, "until": &t.Until} {
		if c.IsSet(flag) {
			d, err := dayFlag(c, flag)
			if err != nil {
				return err
			}
			*to = d
		}
	}
	for flag, to := range map[string]**string{"licensor": &t.Licensor, "reference": &t.Reference, "note": &t.Note, "spdx": &t.Spdx} {
		if c.IsSet(flag) {
			*to = given(c, flag)
		}
	}
	for flag, to := range map[string]**int64{"page-views": &t.PageViews, "seats": &t.Seats, "apps": &t.Apps} {
		if c.IsSet(flag) {
			n := c.Int64(flag)
			*to = &n
		}
	}
	if c.IsSet("domain") {
		domains := c.StringSlice("domain")
		t.Domains = &domains
	}
	if c.IsSet("renewal") {
		t.Renewal = (*api.Renewal)(given(c, "renewal"))
	}
	if c.IsSet("price") {
		m := priceForm.FindStringSubmatch(strings.TrimSpace(c.String("price")))
		if m == nil {
			return misused("--price takes an amount with its currency, like '180.00 EUR', not %q", c.String("price"))
		}
		amount, _ := strconv.ParseFloat(strings.ReplaceAll(m[1], ",", "."), 64)
		cents, currency := int64(math.Round(amount*100)), strings.ToUpper(m[2])
		t.Price, t.Currency = &cents, &currency
	}
	if c.IsSet("allow") || c.IsSet("forbid") {
		if t.Changes == nil {
			t.Changes = &api.LicensedChanges{}
		}
		for flag, consent := range map[string]api.Consent{"allow": api.ConsentYes, "forbid": api.ConsentNo} {
			for _, change := range c.StringSlice(flag) {
				to, ok := map[string]**api.Consent{"subset": &t.Changes.Subset, "outlines": &t.Changes.Outlines, "name": &t.Changes.Name}[strings.TrimSpace(change)]
				if !ok {
					return misused("--%s takes subset, outlines and name, not %q", flag, change)
				}
				*to = &consent
			}
		}
	}
	return facesOf(ctx, s, c, t)
}

// facesOf finds the faces that --face names in the families covered.
func facesOf(ctx context.Context, s *api.Client, c *cli.Command, t *api.LicenseTerms) error {
	if !c.IsSet("face") {
		return nil
	}
	ids := []int64{}
	for _, style := range c.StringSlice("face") {
		had := len(ids)
		for _, id := range t.Families {
			f, err := call[api.Family](s.GetFamily(ctx, id))
			if err != nil {
				return err
			}
			for _, face := range f.Faces {
				if strings.EqualFold(face.Style, style) {
					ids = append(ids, face.Id)
				}
			}
		}
		if len(ids) == had {
			return fmt.Errorf("none of the families covered has a face %q", style)
		}
	}
	t.Faces = &ids
	return nil
}

// fromTemplate begins terms with those of a template.
func fromTemplate(ctx context.Context, s *api.Client, name string, t *api.LicenseTerms) error {
	found, err := call[api.TemplateList](s.ListTemplates(ctx))
	if err != nil {
		return err
	}
	i := slices.IndexFunc(found.Items, func(one api.Template) bool { return strings.EqualFold(one.Name, name) })
	if i < 0 {
		return fmt.Errorf("there is no template %q; `sparecrate license templates` lists them", name)
	}
	from := found.Items[i].Terms
	if from.Kind != nil {
		t.Kind = *from.Kind
	}
	if from.Uses != nil {
		t.Uses = *from.Uses
	}
	t.Licensor, t.Changes, t.PageViews, t.Seats, t.Apps, t.Renewal, t.Note = from.Licensor, from.Changes, from.PageViews, from.Seats, from.Apps, from.Renewal, from.Note
	if from.Months != nil {
		today := time.Now().UTC().Truncate(24 * time.Hour)
		t.From, t.Until = &openapi.Date{Time: today}, &openapi.Date{Time: today.AddDate(0, *from.Months, -1)}
	}
	return nil
}

func addLicense(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() == 0 {
		return misused("license add needs at least one FAMILY, by number or name")
	}
	for _, flag := range []string{"client", "use"} {
		if !c.IsSet(flag) && (flag == "client" || !c.IsSet("like")) {
			return misused("license add needs --%s", flag)
		}
	}
	s, err := connect()
	if err != nil {
		return err
	}
	t := api.LicenseTerms{Kind: api.KindBought}
	if c.IsSet("like") {
		if err := fromTemplate(ctx, s, c.String("like"), &t); err != nil {
			return err
		}
	}
	for _, name := range c.Args().Slice() {
		id, err := findFamily(ctx, s, name)
		if err != nil {
			return err
		}
		t.Families = append(t.Families, id)
	}
	if err := readTerms(ctx, s, c, &t); err != nil {
		return err
	}
	return record(ctx, s, c, t)
}

// record records a license and keeps its documents.
func record(ctx context.Context, s *api.Client, c *cli.Command, t api.LicenseTerms) error {
	l, err := call[api.License](s.AddLicense(ctx, t))
	if err != nil {
		return err
	}
	if err := attachAll(ctx, s, c, l); err != nil {
		return err
	}
	return show(c, l, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Recorded license %s.\n", licenseLine(*l)) })
}

func attachAll(ctx context.Context, s *api.Client, c *cli.Command, l *api.License) error {
	for _, path := range c.StringSlice("document") {
		d, err := attach(ctx, s, l.Id, path)
		if err != nil {
			return fmt.Errorf("license %d is recorded, but its document was not kept: %w; repeat with `sparecrate license attach %d FILE`", l.Id, err, l.Id)
		}
		l.Documents = append(l.Documents, *d)
	}
	return nil
}

// withLicense begins a call that names a license.
func withLicense(ctx context.Context, c *cli.Command, more ...string) (*api.Client, *api.License, []string, error) {
	s, args, err := begin(c, append([]string{"the NUMBER of the license"}, more...)...)
	if err != nil {
		return nil, nil, nil, err
	}
	id, err := number(args[0], "license")
	if err != nil {
		return nil, nil, nil, err
	}
	l, err := call[api.License](s.GetLicense(ctx, id))
	return s, l, args[1:], err
}

// termsOf gives the terms of a license as they are recorded again.
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
		Name: "show", Usage: "show a license with its limits and who uses it", ArgsUsage: "NUMBER", Flags: []cli.Flag{jsonFlag},
		Description: example("NUMBER is the one that `license list` shows.", "sparecrate license show 1"),
		Action: func(ctx context.Context, c *cli.Command) error {
			_, l, _, err := withLicense(ctx, c)
			if err != nil {
				return err
			}
			return show(c, l, func(w io.Writer) { showLicense(w, l) })
		},
	}
}

func showLicense(w io.Writer, l *api.License) {
	_, _ = fmt.Fprintf(w, "License %d: %s, granted to %s (%s)\n", l.Id, l.Kind, l.GrantedTo.Name, l.State)
	var families, documents []string
	for _, f := range l.Families {
		families = append(families, f.Name)
	}
	for _, d := range l.Documents {
		documents = append(documents, fmt.Sprintf("%d: %s, %s, SHA-256 %s…", d.Id, d.Name, size(d.Bytes), d.Sha256[:12]))
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
	pairs(w, [2]string{"covers", strings.Join(families, ", ")}, [2]string{"faces", faces}, [2]string{"uses", uses(*l)}, [2]string{"term", runs(*l)}, [2]string{"domains", strings.Join(l.Domains, ", ")},
		[2]string{"open license", spdx}, [2]string{"licensor", l.Licensor}, [2]string{"reference", l.Reference}, [2]string{"price", price}, [2]string{"renewal", renewal}, [2]string{"note", l.Note})
	for _, n := range l.Limits {
		said := fmt.Sprintf("%s of %s", thousands(n.Used), thousands(n.Cap))
		if n.When != nil {
			said += " in " + *n.When
		}
		if n.Reached != nil && n.Used <= n.Cap {
			said += "; passed in " + *n.Reached + " if it goes on like this"
		}
		pairs(w, [2]string{string(n.Measure), said})
	}
	for _, p := range l.Places {
		pairs(w, [2]string{strings.TrimSuffix(string(p.Measure), "s"), fmt.Sprintf("%d: %s, since %s", p.Id, p.Name, when(p.Since))})
	}
	for _, d := range documents {
		pairs(w, [2]string{"document", d})
	}
	if len(documents) == 0 {
		pairs(w, [2]string{"document", "none is kept; nothing proves it"})
	}
	pairs(w, [2]string{"recorded", fmt.Sprintf("by %s on %s", l.CreatedBy, when(l.CreatedAt))})
}

func changeLicenseCommand() *cli.Command {
	return &cli.Command{
		Name: "change", Usage: "change the terms of a license; what they were is kept", ArgsUsage: "NUMBER", Flags: append([]cli.Flag{jsonFlag, &cli.StringSliceFlag{Name: "family", Usage: "`FAMILY` it covers, in place of those now; may be repeated"}}, termFlags()...),
		Description: example("Only what is named is changed. An empty value takes away: `--until ''` makes it perpetual.", "sparecrate license change --note 'Signs included.' 1"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, _, err := withLicense(ctx, c)
			if err != nil {
				return err
			}
			t := termsOf(l)
			if c.IsSet("family") {
				t.Families = nil
				for _, name := range c.StringSlice("family") {
					id, err := findFamily(ctx, s, name)
					if err != nil {
						return err
					}
					t.Families = append(t.Families, id)
				}
			}
			if err := readTerms(ctx, s, c, &t); err != nil {
				return err
			}
			if l, err = call[api.License](s.ChangeLicense(ctx, l.Id, &api.ChangeLicenseParams{IfMatch: l.Etag}, t)); err != nil {
				return err
			}
			if err := attachAll(ctx, s, c, l); err != nil {
				return err
			}
			return show(c, l, func(w io.Writer) { showLicense(w, l) })
		},
	}
}

func copyLicenseCommand() *cli.Command {
	return &cli.Command{
		Name: "copy", Usage: "record a license like another one, for the next client or term", ArgsUsage: "NUMBER", Flags: append([]cli.Flag{jsonFlag}, termFlags()...),
		Description: example("Takes over all but documents, reference and seats; flags say what is different.", "sparecrate license copy --client 'Saltmarsh Seed Exchange' --domain almanac.saltmarsh.example --reference N-90400 1"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, _, err := withLicense(ctx, c)
			if err != nil {
				return err
			}
			t := termsOf(l)
			t.Reference = nil
			if err := readTerms(ctx, s, c, &t); err != nil {
				return err
			}
			return record(ctx, s, c, t)
		},
	}
}

func proposeCommand() *cli.Command {
	return &cli.Command{
		Name: "propose", Usage: "what the files of a family say of a license; confirm an open one", ArgsUsage: "FAMILY",
		Description: example("Reads name records and the papers that came along, quotes what they say and where, and\nproposes the open license they point to. --confirm records it, with what says so as evidence.", "sparecrate license propose 'Tidegarth Poster'"),
		Flags:       []cli.Flag{jsonFlag, &cli.StringFlag{Name: "confirm", Usage: "SPDX `IDENTIFIER` of the proposal that is right"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, f, err := withFamily(ctx, c)
			if err != nil {
				return err
			}
			if id := c.String("confirm"); id != "" {
				l, err := call[api.License](s.ConfirmProposal(ctx, f.Id, api.Confirmation{Spdx: id}))
				if err != nil {
					return err
				}
				return show(c, l, func(w io.Writer) { showLicense(w, l) })
			}
			found, err := call[api.ProposalList](s.ListProposals(ctx, f.Id))
			if err != nil {
				return err
			}
			return show(c, found, func(w io.Writer) {
				for _, p := range found.Items {
					state := fmt.Sprintf("`--confirm '%s'` records it", p.Spdx)
					if p.License != nil {
						state = "recorded as " + p.License.Name
					}
					_, _ = fmt.Fprintf(w, "%s, %s: %.0f %% sure; %s\n", p.Spdx, p.Title, p.Confidence*100, state)
					pairs(w, [2]string{"it asks", p.Copies}, [2]string{"reserved", strings.Join(p.Reserved, ", ")})
					for _, one := range p.Findings {
						pairs(w, [2]string{"says so", one.Source + ": “" + one.Quote + "”"})
					}
				}
				if len(found.Items) == 0 {
					_, _ = fmt.Fprintf(w, "Nothing in %s or in the papers beside it speaks of an open license.\n", f.Name)
				}
				for _, one := range found.Warnings {
					pairs(w, [2]string{"mind", one.Source + ": “" + one.Quote + "”"})
				}
			})
		},
	}
}

func giveCommand() *cli.Command {
	return &cli.Command{
		Name: "give", Usage: "give a seat of a license to a person, or count an app", ArgsUsage: "NUMBER NAME",
		Description: example("NAME is the person's, or with --app the app's.", "sparecrate license give 1 'Marit Sund'"),
		Flags:       []cli.Flag{jsonFlag, &cli.BoolFlag{Name: "app", Usage: "NAME is an app"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, args, err := withLicense(ctx, c, "the NAME of the person or app")
			if err != nil {
				return err
			}
			n := api.NewPlace{Measure: api.MeasureSeats, Name: args[0]}
			if c.Bool("app") {
				n.Measure = api.MeasureApps
			}
			if l, err = call[api.License](s.AddPlace(ctx, l.Id, n)); err != nil {
				return err
			}
			return show(c, l, func(w io.Writer) { showLicense(w, l) })
		},
	}
}

func takeCommand() *cli.Command {
	return &cli.Command{
		Name: "take", Usage: "take a seat or an app away from a license", ArgsUsage: "NUMBER NAME", Flags: []cli.Flag{jsonFlag},
		Description: example("NAME is that of the person or app, or the number that `license show` shows with it.", "sparecrate license take 1 'Marit Sund'"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, args, err := withLicense(ctx, c, "the NAME of the person or app")
			if err != nil {
				return err
			}
			var all []named
			for _, p := range l.Places {
				all = append(all, named{p.Id, p.Name, string(p.Measure)})
			}
			id, err := choose(args[0], "seat or app", all)
			if err != nil {
				return err
			}
			if l, err = call[api.License](s.DropPlace(ctx, l.Id, id)); err != nil {
				return err
			}
			return show(c, l, func(w io.Writer) { showLicense(w, l) })
		},
	}
}

func licenseVersionsCommand() *cli.Command {
	return &cli.Command{
		Name: "versions", Usage: "what was changed of a license, when and by whom", ArgsUsage: "NUMBER", Flags: []cli.Flag{jsonFlag},
		Description: example("Each change with what it was before; nothing is ever overwritten.", "sparecrate license versions 1"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, _, err := withLicense(ctx, c)
			if err != nil {
				return err
			}
			found, err := call[api.LicenseVersionList](s.ListLicenseVersions(ctx, l.Id))
			if err != nil {
				return err
			}
			return show(c, found.Items, func(w io.Writer) {
				for _, v := range found.Items {
					_, _ = fmt.Fprintf(w, "Version %d, %s, %s\n", v.Version, when(v.At), v.By)
					for _, ch := range v.Changed {
						pairs(w, [2]string{ch.Field, fmt.Sprintf("%q, was %q", ch.To, ch.From)})
					}
					if len(v.Changed) == 0 {
						pairs(w, [2]string{"terms", v.Terms})
					}
				}
				if len(found.Items) == 0 {
					_, _ = fmt.Fprintln(w, "It was not changed since versions are kept.")
				}
			})
		},
	}
}

func endingCommand() *cli.Command {
	return &cli.Command{
		Name: "ending", Usage: "what must come off if a license ends: families, sites, packs", ArgsUsage: "NUMBER", Flags: []cli.Flag{jsonFlag},
		Description: example("What another license covers is left out.", "sparecrate license ending 2"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, _, err := withLicense(ctx, c)
			if err != nil {
				return err
			}
			e, err := call[api.Ending](s.EndLicense(ctx, l.Id))
			if err != nil {
				return err
			}
			return show(c, e, func(w io.Writer) {
				any := false
				for _, f := range e.Families {
					for _, site := range f.Sites {
						any = true
						_, _ = fmt.Fprintf(w, "%s must come off %s, %s\n", f.Family.Name, site.Site.Name, site.Client)
						pairs(w, [2]string{"domains", strings.Join(site.Domains, ", ")})
						for _, p := range site.Packs {
							pairs(w, [2]string{"pack", fmt.Sprintf("%d: %s", p.Id, p.Name)})
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
		Name: "find", Usage: "find documents of licenses and papers of families by what is in them", ArgsUsage: "WORDS", Flags: []cli.Flag{jsonFlag},
		Description: example("Looks in the text of PDFs, web pages and text files, and in names.", "sparecrate license find Licensee"),
		Action: func(ctx context.Context, c *cli.Command) error {
			if !c.Args().Present() {
				return misused("license find needs WORDS to look for")
			}
			s, err := connect()
			if err != nil {
				return err
			}
			found, err := call[api.DocumentHits](s.FindDocuments(ctx, &api.FindDocumentsParams{Q: strings.Join(c.Args().Slice(), " ")}))
			if err != nil {
				return err
			}
			return show(c, found.Items, func(w io.Writer) {
				for _, d := range found.Items {
					of := ""
					if d.License != nil {
						of = fmt.Sprintf("license %d", *d.License)
					} else if d.Family != nil {
						of = fmt.Sprintf("came with family %d", *d.Family)
					}
					_, _ = fmt.Fprintf(w, "%s (%s), %s\n", d.Name, size(d.Bytes), of)
					pairs(w, [2]string{"", d.Quote})
				}
				if len(found.Items) == 0 {
					_, _ = fmt.Fprintln(w, "No document holds these words.")
				}
			})
		},
	}
}

func templatesCommand() *cli.Command {
	return &cli.Command{
		Name: "templates", Usage: "the studio's usual kinds of licenses: list, save, drop",
		Description: example("`license add --like NAME` begins with one.", "sparecrate license templates"),
		Flags: append([]cli.Flag{jsonFlag, &cli.StringFlag{Name: "save", Usage: "keep what the other flags say as the template `NAME`"}, &cli.StringFlag{Name: "drop", Usage: "drop the template `NAME`"},
			&cli.IntFlag{Name: "months", Usage: "how long such a license lasts"}}, slices.DeleteFunc(termFlags(), func(f cli.Flag) bool {
			return slices.Contains([]string{"client", "like", "from", "until", "reference", "document", "domain", "face", "price", "spdx"}, f.Names()[0])
		})...),
		Action: templates,
	}
}

func templates(ctx context.Context, c *cli.Command) error {
	s, _, err := begin(c)
	if err != nil {
		return err
	}
	if c.IsSet("save") {
		var t api.LicenseTerms
		if err := readTerms(ctx, s, c, &t); err != nil {
			return err
		}
		terms := api.TemplateTerms{Licensor: t.Licensor, Changes: t.Changes, PageViews: t.PageViews, Seats: t.Seats, Apps: t.Apps, Renewal: t.Renewal, Note: t.Note}
		if t.Kind != "" {
			terms.Kind = &t.Kind
		}
		if t.Uses != nil {
			terms.Uses = &t.Uses
		}
		if c.IsSet("months") {
			months := c.Int("months")
			terms.Months = &months
		}
		made, err := call[api.Template](s.SaveTemplate(ctx, api.NewTemplate{Name: c.String("save"), Terms: terms}))
		if err != nil {
			return err
		}
		return show(c, made, func(w io.Writer) {
			_, _ = fmt.Fprintf(w, "Kept the template %s: %s.\n", made.Name, templateLine(made.Terms))
		})
	}
	found, err := call[api.TemplateList](s.ListTemplates(ctx))
	if err != nil {
		return err
	}
	if c.IsSet("drop") {
		var all []named
		for _, t := range found.Items {
			all = append(all, named{t.Id, t.Name, t.CreatedBy})
		}
		id, err := choose(c.String("drop"), "template", all)
		if err != nil {
			return err
		}
		if _, err := call[nothing](s.DropTemplate(ctx, id)); err != nil {
			return err
		}
		_, _ = fmt.Fprintln(c.Root().Writer, "Dropped; licenses made from it stay.")
		return nil
	}
	return show(c, found.Items, func(w io.Writer) {
		var rows [][]any
		for _, t := range found.Items {
			rows = append(rows, []any{t.Id, t.Name, templateLine(t.Terms), t.CreatedBy})
		}
		grid(w, []any{"No.", "Template", "Terms", "By"}, []string{"No."}, rows)
	})
}

func templateLine(t api.TemplateTerms) string {
	var parts []string
	if t.Kind != nil {
		parts = append(parts, string(*t.Kind))
	}
	if t.Uses != nil {
		parts = append(parts, uses(api.License{Uses: *t.Uses}))
	}
	if t.Months != nil {
		parts = append(parts, fmt.Sprintf("%d months", *t.Months))
	}
	for _, n := range []struct {
		what string
		of   *int64
	}{{"page views a month", t.PageViews}, {"seats", t.Seats}, {"apps", t.Apps}} {
		if n.of != nil {
			parts = append(parts, thousands(*n.of)+" "+n.what)
		}
	}
	return strings.Join(parts, "; ")
}
