package catalogcmd

import (
	"context"
	"fmt"
	"io"
	"net/url"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// FamiliesCommand is `families`.
func FamiliesCommand() *cli.Command {
	return &cli.Command{
		Name: "families", Usage: "search families by text and by their properties", ArgsUsage: "[TEXT]",
		Description: terminal.Example("Looks for words that begin like those of TEXT among families, faces, PostScript, full and\n"+
			"file names, designers, foundries, clients and tags; a word misspelt by a letter is still\n"+
			"found. What is asked of faces must be met by one face as a whole.",
			"sparecrate families --language Polish --weight 600- --permission installable skerow"),
		Flags: append([]cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "like", Usage: "find families whose outlines match a font `FILE`, whatever its name"}}, searchFlags()...),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, err := terminal.Connect()
			if err != nil {
				return err
			}
			if path := c.String("like"); path != "" {
				return showAlike(ctx, c, s, path)
			}
			q, err := asked(ctx, c, s)
			if err != nil {
				return err
			}
			if c.Bool("count") {
				one, yes := 1, true
				q.Limit, q.Total = &one, &yes
				page, err := terminal.Call[api.FamilyPage](s.ListFamilies(ctx, q))
				if err != nil {
					return err
				}
				return terminal.Show(c, map[string]int{"families": *page.Total}, func(w io.Writer) { _, _ = fmt.Fprintln(w, *page.Total) })
			}
			found, err := terminal.AllFamilies(ctx, s, *q, func(m api.MeantWord) {
				terminal.Note(c, "No results for %q; showing results for %s.", m.Typed, strings.Join(m.Words, ", "))
			})
			if err != nil {
				return err
			}
			return terminal.Show(c, found, func(w io.Writer) { listFamilies(w, found) })
		},
	}
}

// showAlike prints the faces of the catalog that draw what a font file draws.
func showAlike(ctx context.Context, c *cli.Command, s *api.Client, path string) error {
	if c.Args().Len() > 0 {
		return terminal.Misused("--like looks for what FILE draws, so no TEXT goes with it")
	}
	body, kind, err := terminal.Form(path, nil)
	if err != nil {
		return err
	}
	defer func() { _ = body.Close() }()
	found, err := terminal.Call[api.AlikeList](s.FindAlikeWithBody(ctx, kind, body))
	if err != nil {
		return err
	}
	return terminal.Show(c, found.Items, func(w io.Writer) {
		if len(found.Items) == 0 {
			_, _ = fmt.Fprintln(w, "No family in the catalog matches it.")
			return
		}
		var rows [][]any
		for _, a := range found.Items {
			rows = append(rows, []any{a.Family.Id, strings.TrimSpace(a.Family.Name + " " + a.Style), a.Client, a.Relation, fmt.Sprintf("%.1f %%", 100*a.Closeness), a.Why})
		}
		terminal.Grid(w, []any{"No.", "Face", "Client", "Relation", "Alike", "Why"}, []string{"No.", "Alike"}, rows)
	})
}

func listFamilies(w io.Writer, found []api.FamilySummary) {
	if len(found) == 0 {
		_, _ = fmt.Fprintln(w, "No family matches. Try fewer letters, or fewer filters.")
		return
	}
	var rows [][]any
	for _, f := range found {
		meets := 0
		for _, face := range f.Faces {
			if face.Meets {
				meets++
			}
		}
		faces := fmt.Sprint(len(f.Faces))
		if meets < len(f.Faces) {
			faces = fmt.Sprintf("%d of %d", meets, len(f.Faces))
		}
		if f.InParts > 0 {
			faces += fmt.Sprintf(" (%d in parts)", f.InParts)
		}
		if f.Unsettled > 0 {
			faces += fmt.Sprintf(" (%s to resolve)", terminal.Count(f.Unsettled, "file"))
		}
		rows = append(rows, []any{f.Id, f.Name, f.Client.Name, strings.Join(append([]string{string(f.Origin)}, f.Hosts...), ", "), faces, f.Permission, f.Licenses, f.Sites})
	}
	terminal.Grid(w, []any{"No.", "Family", "Client", "Origin", "Faces", "Permission", "Licenses", "Sites"}, []string{"No.", "Faces", "Licenses", "Sites"}, rows)
}

// searchFlags are the filters of a search.
func searchFlags() []cli.Flag {
	list := func(name, usage string) cli.Flag { return &cli.StringSliceFlag{Name: name, Usage: usage} }
	return []cli.Flag{
		&cli.StringFlag{Name: "client", Usage: "only families of this client, by `NAME` or number"},
		list("origin", "came from: `bought|client|open|commissioned|hosted|unknown`"),
		list("permission", "some face says: `installable|editable|preview-print|restricted|not-stated`"),
		list("license", "stands with its licenses: `none|in-force|ending|lapsed|unproven`"),
		list("format", "came in as `ttf|otf|ttc|woff|woff2|eot`"),
		&cli.StringFlag{Name: "weight", Usage: "a `NUMBER` or range, such as 300-500 or 600-"},
		&cli.StringFlag{Name: "width", Usage: "width in percent, a `NUMBER` or range"},
		list("slope", "`upright|italic|oblique`"),
		list("kind", "looks like `sans|serif|mono|script|display`, measured from outlines"),
		&cli.StringFlag{Name: "stem", Usage: "thickness of stems in percent of the cap height, a `NUMBER` or range, such as 8-12"},
		&cli.StringFlag{Name: "contrast", Usage: "thick strokes to thin ones, a `NUMBER` or range; 1 is no contrast"},
		&cli.StringFlag{Name: "x-height", Usage: "x-height in percent of the cap height, a `NUMBER` or range"},
		&cli.StringFlag{Name: "letter-width", Usage: "mean width of small letters in percent of the x-height, a `NUMBER` or range"},
		&cli.StringFlag{Name: "roundness", Usage: "a `NUMBER` or range: 100 for elliptic bowls, 0 for rectangular ones"},
		&cli.StringFlag{Name: "slant", Usage: "slant of stems in degrees, a `NUMBER` or range"},
		&cli.BoolFlag{Name: "variable", Usage: "only variable fonts; --variable=false for static ones"},
		&cli.BoolFlag{Name: "color", Usage: "only color fonts; --color=false for the others"},
		list("script", "has letters of a `SCRIPT`, such as Greek"),
		list("language", "can set a `LANGUAGE`, by name or code; each of several"),
		list("feature", "has a layout feature, by `TAG`; each of several"),
		list("problem", "has a problem, by `CODE`, or any"),
		list("tag", "carries a `TAG`; each of several"),
		&cli.BoolFlag{Name: "used", Usage: "only families used on a site; --used=false for unused ones"},
		&cli.StringFlag{Name: "shortlist", Usage: "only families on a shortlist, by `NAME` or number"},
		&cli.StringFlag{Name: "status", Usage: "`active|retired|deleted`"},
		&cli.StringFlag{Name: "sort", Usage: "`best|name|newest|changed|faces`"},
		&cli.StringFlag{Name: "saved", Usage: "start from the saved search `NAME`; other filters are added to it"},
		&cli.BoolFlag{Name: "count", Usage: "print only the number of families"},
	}
}

// asked reads the filters of a call into what the service is asked. They go by way
// of an address, the form in which searches are saved.
func asked(ctx context.Context, c *cli.Command, s *api.Client) (*api.ListFamiliesParams, error) {
	values, err := savedQuery(ctx, s, c.String("saved"))
	if err != nil {
		return nil, err
	}
	named, err := flagQuery(ctx, c, s)
	if err != nil {
		return nil, err
	}
	for name, v := range named {
		values[name] = v
	}
	return readQuery(values), nil
}

// flagQuery returns the filters that were named, by the contract's names.
func flagQuery(ctx context.Context, c *cli.Command, s *api.Client) (url.Values, error) {
	values := url.Values{}
	for _, f := range searchFlags() {
		name := f.Names()[0]
		switch f.(type) {
		case *cli.StringSliceFlag:
			if c.IsSet(name) {
				values[contractName(name)] = c.StringSlice(name)
			}
		case *cli.BoolFlag:
			if c.IsSet(name) && name != "count" {
				values.Set(name, fmt.Sprint(c.Bool(name)))
			}
		default:
			if c.IsSet(name) && name != "saved" {
				values.Set(contractName(name), c.String(name))
			}
		}
	}
	if text := strings.Join(c.Args().Slice(), " "); text != "" {
		values.Set("q", text)
	}
	if text := values.Get("shortlist"); text != "" {
		l, err := findShortlist(ctx, s, text)
		if err != nil {
			return nil, err
		}
		values.Set("shortlist", strconv.FormatInt(l.Id, 10))
	}
	return values, nil
}

// contractName returns a flag's name as the contract writes it: xHeight for x-height.
func contractName(flag string) string {
	words := strings.Split(flag, "-")
	for i, w := range words[1:] {
		words[i+1] = strings.ToUpper(w[:1]) + w[1:]
	}
	return strings.Join(words, "")
}

func readQuery(values url.Values) *api.ListFamiliesParams {
	text := func(name string) *string {
		if v := values.Get(name); v != "" {
			return &v
		}
		return nil
	}
	truth := func(name string) *bool {
		v := values.Get(name) == "true"
		if values.Get(name) == "" {
			return nil
		}
		return &v
	}
	var shortlist *int64
	if id, err := strconv.ParseInt(values.Get("shortlist"), 10, 64); err == nil {
		shortlist = &id
	}
	return &api.ListFamiliesParams{
		Shortlist: shortlist,
		Q:         text("q"), Client: text("client"), Weight: text("weight"), Width: text("width"), Variable: truth("variable"), Color: truth("color"), Used: truth("used"),
		Stem: text("stem"), Contrast: text("contrast"), XHeight: text("xHeight"), LetterWidth: text("letterWidth"), Roundness: text("roundness"), Slant: text("slant"),
		Kind:   several[api.FaceKind](values["kind"]),
		Status: (*api.FamilyStatus)(text("status")), Sort: (*api.FamilySort)(text("sort")),
		Format: several[string](values["format"]), Script: several[string](values["script"]), Language: several[string](values["language"]),
		Feature: several[string](values["feature"]), Problem: several[string](values["problem"]), Tag: several[string](values["tag"]),
		Origin: several[api.Origin](values["origin"]), Permission: several[api.PermissionLevel](values["permission"]),
		License: several[api.LicenseState](values["license"]), Slope: several[api.ListFamiliesParamsSlope](values["slope"]),
	}
}

func several[T ~string](values []string) *[]T {
	if len(values) == 0 {
		return nil
	}
	out := make([]T, len(values))
	for i, v := range values {
		out[i] = T(v)
	}
	return &out
}

// familyOnShelves returns the family of a name or number on one of some statuses;
// what says in words which families those are.
func familyOnShelves(ctx context.Context, s *api.Client, text, what string, shelves ...api.FamilyStatus) (*api.Family, error) {
	var all []terminal.Named
	for _, status := range shelves {
		found, err := terminal.AllFamilies(ctx, s, api.ListFamiliesParams{Status: &status})
		if err != nil {
			return nil, err
		}
		for _, f := range found {
			all = append(all, terminal.Named{ID: f.Id, Name: f.Name, More: f.Client.Name})
		}
	}
	id, err := terminal.Choose(text, what, all)
	if err != nil {
		return nil, err
	}
	return terminal.Call[api.Family](s.GetFamily(ctx, id))
}

// SearchesCommand is `searches`.
func SearchesCommand() *cli.Command {
	return &cli.Command{
		Name: "searches", Usage: "saved searches: list, save, delete",
		Description: terminal.Example("`sparecrate families --saved NAME` shows what one finds.", "sparecrate searches list"),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list your saved searches and shared ones", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("By name.", "sparecrate searches list"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, _, err := terminal.Begin(c)
					if err != nil {
						return err
					}
					found, err := terminal.Call[api.SavedSearchList](s.ListSearches(ctx))
					if err != nil {
						return err
					}
					return terminal.Show(c, found.Items, func(w io.Writer) {
						var rows [][]any
						for _, f := range found.Items {
							rows = append(rows, []any{f.Id, f.Name, f.Query, f.Person})
						}
						terminal.Grid(w, []any{"No.", "Search", "Query", "Of"}, []string{"No."}, rows)
					})
				},
			},
			{
				Name: "save", Usage: "save a search", ArgsUsage: "NAME [TEXT]",
				Description: terminal.Example("With the filters of `sparecrate families`.", "sparecrate searches save --share --license none --used 'Loose ends'"),
				Flags:       append([]cli.Flag{terminal.JSONFlag, &cli.BoolFlag{Name: "share", Usage: "share it with everybody"}}, searchFlags()...),
				Action: func(ctx context.Context, c *cli.Command) error {
					if c.Args().Len() < 1 {
						return terminal.Misused("`%s` needs a NAME", c.FullName())
					}
					s, err := terminal.Connect()
					if err != nil {
						return err
					}
					values, err := flagQuery(ctx, c, s)
					if err != nil {
						return err
					}
					values.Del("q")
					if text := strings.Join(c.Args().Slice()[1:], " "); text != "" {
						values.Set("q", text)
					}
					shared := c.Bool("share")
					saved, err := terminal.Call[api.SavedSearch](s.SaveSearch(ctx, api.NewSavedSearch{Name: c.Args().First(), Query: values.Encode(), Shared: &shared}))
					if err != nil {
						return err
					}
					return terminal.Show(c, saved, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Saved %q: %s\n", saved.Name, saved.Query) })
				},
			},
			{
				Name: "delete", Usage: "delete one of your saved searches", ArgsUsage: "NAME", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("By name or number.", "sparecrate searches delete 'Loose ends'"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, args, err := terminal.Begin(c, "the NAME of a search")
					if err != nil {
						return err
					}
					found, err := findSearch(ctx, s, args[0])
					if err != nil {
						return err
					}
					if _, err := terminal.Call[terminal.Nothing](s.DeleteSearch(ctx, found.Id)); err != nil {
						return err
					}
					return terminal.Show(c, map[string]string{"dropped": found.Name}, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Deleted %q.\n", found.Name) })
				},
			},
		},
	}
}

func findSearch(ctx context.Context, s *api.Client, text string) (*api.SavedSearch, error) {
	found, err := terminal.Call[api.SavedSearchList](s.ListSearches(ctx))
	if err != nil {
		return nil, err
	}
	all := make([]terminal.Named, len(found.Items))
	for i, f := range found.Items {
		all[i] = terminal.Named{ID: f.Id, Name: f.Name, More: f.Person}
	}
	id, err := terminal.Choose(text, "saved search", all)
	for i := range found.Items {
		if found.Items[i].Id == id {
			return &found.Items[i], err
		}
	}
	return nil, err
}

// savedQuery returns the query of a saved search, an empty one for no name.
func savedQuery(ctx context.Context, s *api.Client, name string) (url.Values, error) {
	if name == "" {
		return url.Values{}, nil
	}
	found, err := findSearch(ctx, s, name)
	if err != nil {
		return nil, err
	}
	return url.ParseQuery(found.Query)
}
