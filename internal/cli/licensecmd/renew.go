package licensecmd

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

func renewCommand() *cli.Command {
	return &cli.Command{
		Name: "renew", Usage: "renew a license: dates, price and document in one step", ArgsUsage: "NUMBER",
		Description: terminal.Example("The next term begins on the day after the last one and is as long, unless flags say something\nelse. Uses, limits, families, seats and apps go on. The license before it stays, with its documents.",
			"sparecrate license renew --until 2029-12-31 --price '260.00 EUR' --document README.md 2"),
		Flags: []cli.Flag{terminal.JSONFlag,
			&cli.StringFlag{Name: "from", Usage: "first `DAY`; default: the day after the current term"},
			&cli.StringFlag{Name: "until", Usage: "last `DAY`; default: the same length as the current term"},
			&cli.BoolFlag{Name: "perpetual", Usage: "it has no end date"},
			&cli.StringFlag{Name: "price", Usage: "price of the term, like '180.00 EUR'"},
			&cli.StringFlag{Name: "reference", Usage: "new order `NUMBER` or other reference"},
			&cli.StringFlag{Name: "licensor", Usage: "new licensor"},
			&cli.StringFlag{Name: "note", Usage: "a note"},
			&cli.Int64Flag{Name: "page-views", Usage: "new limit of `N` page views a month"},
			&cli.Int64Flag{Name: "seats", Usage: "at most `N` seats"}, &cli.Int64Flag{Name: "apps", Usage: "at most `N` apps"},
			&cli.StringFlag{Name: "document", Usage: "`FILE` to add as its document"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, l, _, err := withLicense(ctx, c)
			if err != nil {
				return err
			}
			body, kind, err := renewing(c)
			if err != nil {
				return err
			}
			defer func() { _ = body.Close() }()
			next, err := terminal.Call[api.License](s.RenewLicenseWithBody(ctx, l.Id, kind, body))
			if err != nil {
				return err
			}
			return terminal.Show(c, next, func(w io.Writer) {
				_, _ = fmt.Fprintf(w, "Renewed license %d, which stays as it is (%s).\n", l.Id, runs(*l))
				showLicense(w, next)
			})
		},
	}
}

// renewing returns the form that the flags of `license renew` fill in.
func renewing(c *cli.Command) (io.ReadCloser, string, error) {
	var terms api.Renewing
	var err error
	if c.IsSet("from") {
		if terms.From, err = terminal.DayFlag(c, "from"); err != nil {
			return nil, "", err
		}
	}
	if c.IsSet("until") {
		if terms.Until, err = terminal.DayFlag(c, "until"); err != nil {
			return nil, "", err
		}
	}
	if c.Bool("perpetual") {
		yes := true
		terms.Perpetual = &yes
	}
	if c.IsSet("price") {
		cents, currency, err := priceOf(c)
		if err != nil {
			return nil, "", err
		}
		terms.Price, terms.Currency = &cents, &currency
	}
	terms.Reference, terms.Licensor, terms.Note = terminal.Given(c, "reference"), terminal.Given(c, "licensor"), terminal.Given(c, "note")
	for flag, to := range map[string]**int64{"page-views": &terms.PageViews, "seats": &terms.Seats, "apps": &terms.Apps} {
		if c.IsSet(flag) {
			n := c.Int64(flag)
			*to = &n
		}
	}
	b, err := json.Marshal(terms)
	if err != nil {
		return nil, "", err
	}
	return terminal.Form(c.String("document"), [][2]string{{"terms", string(b)}})
}

func readCommand() *cli.Command {
	return &cli.Command{
		Name: "read", Usage: "read the terms in a license document, each with its quote", ArgsUsage: "FILE", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("A PDF, a web page or a text: who it is granted to, for what, until when, how many page views,\nseats and apps, what it costs. Nothing is recorded; the command that records it is printed.", "sparecrate license read README.md"),
		Action: func(ctx context.Context, c *cli.Command) error {
			args, err := terminal.Arguments(c, "a FILE")
			if err != nil {
				return err
			}
			s, err := terminal.Connect()
			if err != nil {
				return err
			}
			body, kind, err := terminal.Form(args[0], nil)
			if err != nil {
				return err
			}
			defer func() { _ = body.Close() }()
			found, err := terminal.Call[api.StatedTerms](s.ReadLicenseDocumentWithBody(ctx, kind, body))
			if err != nil {
				return err
			}
			return terminal.Show(c, found, func(w io.Writer) { showStated(w, found, args[0]) })
		},
	}
}

// statedFields are the fields of a license in the words of lists, and the flags that say them.
var statedFields = map[api.StatedTermField][2]string{
	api.StatedGrantee: {"granted to", "client"}, api.StatedLicensor: {"licensor", "licensor"}, api.StatedReference: {"reference", "reference"},
	api.StatedUse: {"use", "use"}, api.StatedNoUse: {"not for", ""}, api.StatedFrom: {"from", "from"}, api.StatedUntil: {"until", "until"},
	api.StatedPageViews: {"page views", "page-views"}, api.StatedSeats: {"seats", "seats"}, api.StatedApps: {"apps", "apps"},
	api.StatedDomain: {"domain", "domain"}, api.StatedPrice: {"price", "price"},
}

func showStated(w io.Writer, found *api.StatedTerms, path string) {
	if len(found.Terms) == 0 && found.Spdx == nil {
		_, _ = fmt.Fprintf(w, "%s states no terms that could be read. Enter them by hand.\n", found.Name)
	}
	command := []string{"sparecrate", "license", "add"}
	for _, t := range found.Terms {
		field, value := statedFields[t.Field], ""
		switch {
		case t.Value != nil:
			value = *t.Value
		case t.Open != nil:
			value = "open: " + *t.Open
		}
		_, _ = fmt.Fprintf(w, "%s: %s\n", field[0], value)
		at := ""
		if t.Where != "" {
			at = t.Where + ": "
		}
		terminal.Pairs(w, [2]string{"", at + "“" + t.Quote + "”"})
		usable := t.Value != nil && field[1] != "" && value != "perpetual" && (t.Field != api.StatedGrantee || found.Client != nil)
		if usable {
			command = append(command, "--"+field[1]+"="+shellWord(value))
		}
	}
	if found.Spdx != nil {
		_, _ = fmt.Fprintf(w, "open license: %s\n", *found.Spdx)
		command = append(command, "--kind=open", "--spdx="+shellWord(*found.Spdx))
	}
	for _, f := range found.Warnings {
		terminal.Pairs(w, [2]string{"warning", f.Source + ": “" + f.Quote + "”"})
	}
	if found.Client == nil {
		command = append(command, "--client", "CLIENT")
	}
	command = append(command, "--document", shellWord(path))
	for _, f := range found.Families {
		command = append(command, shellWord(f.Name))
	}
	if len(found.Families) == 0 {
		command = append(command, "FAMILY")
	}
	if len(found.Terms) > 0 {
		_, _ = fmt.Fprintf(w, "\nAfter you have compared it with the document, record it:\n  %s\n", strings.Join(command, " "))
	}
}

// shellWord quotes a word for a POSIX shell.
func shellWord(s string) string {
	if s != "" && !strings.ContainsFunc(s, func(r rune) bool {
		return !(r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r >= '0' && r <= '9' || strings.ContainsRune("._-/:@", r))
	}) && s[0] != '-' {
		return s
	}
	return "'" + strings.ReplaceAll(s, "'", `'\''`) + "'"
}

func proofCommand() *cli.Command {
	return &cli.Command{
		Name: "proof", Usage: "save the proof of a family as a zip: licenses, documents, uses, counts, sign-offs", ArgsUsage: "FAMILY",
		Description: terminal.Example("A zip with proof.html, which prints on A4, the documents of its licenses, and checksums. The\nfonts themselves are not in it; their checksums are.", "sparecrate license proof --out skerrow-proof.zip 'Skerrow Sans'"),
		Flags:       []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "out", Usage: "`FILE` to save the zip as", Required: true}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, f, err := terminal.WithFamily(ctx, c)
			if err != nil {
				return err
			}
			r, err := s.GetFamilyProof(ctx, f.Id)
			n, err := terminal.Download(r, err, c.String("out"))
			if err != nil {
				return err
			}
			return terminal.Show(c, map[string]any{"file": c.String("out"), "bytes": n}, func(w io.Writer) {
				_, _ = fmt.Fprintf(w, "Saved %s (%s). proof.html in it is the page to print.\n", c.String("out"), terminal.Size(n))
			})
		},
	}
}
