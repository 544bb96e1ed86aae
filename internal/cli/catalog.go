package cli

import (
	"context"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
)

// form streams a file as multipart/form-data behind some fields.
func form(path string, fields [][2]string) (io.ReadCloser, string, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, "", err
	}
	if info, err := f.Stat(); err == nil && info.IsDir() {
		_ = f.Close()
		return nil, "", fmt.Errorf("%s is a folder; name the files in it", path)
	}
	r, w := io.Pipe()
	m := multipart.NewWriter(w)
	go func() {
		defer func() { _ = f.Close() }()
		for _, field := range fields {
			if err := m.WriteField(field[0], field[1]); err != nil {
				_ = w.CloseWithError(err)
				return
			}
		}
		part, err := m.CreateFormFile("file", filepath.Base(path))
		if err == nil {
			_, err = io.Copy(part, f)
		}
		if err == nil {
			err = m.Close()
		}
		_ = w.CloseWithError(err)
	}()
	return r, m.FormDataContentType(), nil
}

func familiesCommand() *cli.Command {
	return &cli.Command{
		Name: "families", Usage: "list families, those that match some text", ArgsUsage: "[TEXT]",
		Description: example("Looks for every word of TEXT among families, faces, PostScript names, file names,\ndesigners and clients.", "sparecrate families skerrow"),
		Flags:       []cli.Flag{jsonFlag, &cli.StringFlag{Name: "client", Usage: "only those of this client, by `NAME` or number"}},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, err := connect()
			if err != nil {
				return err
			}
			found, err := families(ctx, s, strings.Join(c.Args().Slice(), " "), c.String("client"))
			if err != nil {
				return err
			}
			return show(c, found, func(w io.Writer) {
				var rows [][]any
				for _, f := range found {
					rows = append(rows, []any{f.Id, f.Name, f.Client.Name, f.Origin, len(f.Faces), f.Permission, f.Licenses, f.Sites})
				}
				grid(w, []any{"No.", "Family", "Client", "Origin", "Faces", "Permission", "Licenses", "Sites"}, []string{"No.", "Faces", "Licenses", "Sites"}, rows)
			})
		},
	}
}

// families gives all pages of a search.
func families(ctx context.Context, s *api.Client, text, client string) ([]api.FamilySummary, error) {
	limit := 200
	q := api.ListFamiliesParams{Q: &text, Client: &client, Limit: &limit}
	found := []api.FamilySummary{}
	for {
		page, err := call[api.FamilyPage](s.ListFamilies(ctx, &q))
		if err != nil {
			return nil, err
		}
		found = append(found, page.Items...)
		if page.Next == nil {
			return found, nil
		}
		q.Cursor = page.Next
	}
}

// named is anything with a number and a name.
type named struct {
	id   int64
	name string
	more string // what tells it from others of its name
}

// choose finds the one thing a text names: by number, or by its whole name
// without regard to case.
func choose(text, what string, all []named) (int64, error) {
	var hits []named
	for _, n := range all {
		if strings.EqualFold(n.name, text) || strconv.FormatInt(n.id, 10) == text {
			hits = append(hits, n)
		}
	}
	switch len(hits) {
	case 1:
		return hits[0].id, nil
	case 0:
		return 0, fmt.Errorf("there is no %s %q", what, text)
	}
	lines := make([]string, len(hits))
	for i, h := range hits {
		lines[i] = fmt.Sprintf("%d (%s)", h.id, h.more)
	}
	return 0, fmt.Errorf("there are several of the name %q; name one by its number: %s", text, strings.Join(lines, ", "))
}

func findFamily(ctx context.Context, s *api.Client, text string) (int64, error) {
	if id, err := strconv.ParseInt(text, 10, 64); err == nil {
		return id, nil
	}
	found, err := families(ctx, s, text, "")
	if err != nil {
		return 0, err
	}
	all := make([]named, len(found))
	for i, f := range found {
		all[i] = named{f.Id, f.Name, f.Client.Name}
	}
	return choose(text, "family", all)
}

func findClient(ctx context.Context, s *api.Client, text string) (int64, error) {
	found, err := call[api.ClientList](s.ListClients(ctx))
	if err != nil {
		return 0, err
	}
	all := make([]named, len(found.Items))
	for i, k := range found.Items {
		all[i] = named{k.Id, k.Name, ""}
	}
	return choose(text, "client", all)
}

func familyCommand() *cli.Command {
	return &cli.Command{
		Name: "family", Usage: "show a family: faces, names, permission, files, licenses, sites", ArgsUsage: "FAMILY",
		Description: example("FAMILY is a number or a whole name.", "sparecrate family 'Skerrow Sans'"),
		Flags:       []cli.Flag{jsonFlag},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := begin(c, "a FAMILY, by number or name")
			if err != nil {
				return err
			}
			id, err := findFamily(ctx, s, args[0])
			if err != nil {
				return err
			}
			f, err := call[api.Family](s.GetFamily(ctx, id))
			if err != nil {
				return err
			}
			return show(c, f, func(w io.Writer) { showFamily(w, f) })
		},
	}
}

func moveCommand() *cli.Command {
	return &cli.Command{
		Name: "move", Usage: "move faces of a family into another, all of them to merge the two", ArgsUsage: "FAMILY",
		Description: example("Mends where fonts went, splits a family, or merges two of one client. Fonts that\nname the family go to the other one when they come again. Sites that use the one\nuse the other too; a new family has the same licenses.",
			"sparecrate move --into 'Skerrow Signs' --face Bold 'Skerrow Sans'"),
		Flags: []cli.Flag{
			jsonFlag,
			&cli.StringFlag{Name: "into", Usage: "`NAME` of the family they go into; started where there is none", Required: true},
			&cli.StringSliceFlag{Name: "face", Usage: "`STYLES` of the faces; all without it"},
		},
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := begin(c, "a FAMILY, by number or name")
			if err != nil {
				return err
			}
			id, err := findFamily(ctx, s, args[0])
			if err != nil {
				return err
			}
			move := api.FaceMove{Into: c.String("into")}
			if styles := c.StringSlice("face"); len(styles) > 0 {
				f, err := call[api.Family](s.GetFamily(ctx, id))
				if err != nil {
					return err
				}
				var faces []int64
				for _, style := range styles {
					i := slices.IndexFunc(f.Faces, func(face api.Face) bool { return strings.EqualFold(face.Style, style) })
					if i < 0 {
						return misused("%s has no face %q", f.Name, style)
					}
					faces = append(faces, f.Faces[i].Id)
				}
				move.Faces = &faces
			}
			f, err := call[api.Family](s.MoveFaces(ctx, id, move))
			if err != nil {
				return err
			}
			return show(c, f, func(w io.Writer) { showFamily(w, f) })
		},
	}
}

func showFamily(w io.Writer, f *api.Family) {
	_, _ = fmt.Fprintf(w, "%s  (family %d, %s, origin %s)\n", f.Name, f.Id, f.Client.Name, f.Origin)
	if f.Note != "" {
		_, _ = fmt.Fprintf(w, "  %s\n", f.Note)
	}
	for _, face := range f.Faces {
		n := face.Facts.Names
		_, _ = fmt.Fprintf(w, "\n%s\n", face.Style)
		pairs(w, [2]string{"stylesheet", fmt.Sprintf("font-family: %q; font-weight: %d;", f.Name, face.Facts.Style.Weight)},
			[2]string{"full name", n.Full}, [2]string{"PostScript", n.PostScript}, [2]string{"version", n.Version},
			[2]string{"permission", face.Permission})
		for _, file := range face.Files {
			mark := ""
			if file.Current {
				mark = ", packs use this one"
			}
			pairs(w, [2]string{"file", fmt.Sprintf("%s (%s, %s%s)", file.Name, strings.ToUpper(string(file.Container)), size(file.Bytes), mark)})
		}
		pairs(w, [2]string{"containers", containers(face.Containers)})
		for _, p := range face.Facts.Problems {
			pairs(w, [2]string{"problem", p.Message})
		}
	}
	_, _ = fmt.Fprintln(w)
	if len(f.Licenses) == 0 {
		pairs(w, [2]string{"license", "none recorded"})
	}
	for _, l := range f.Licenses {
		pairs(w, [2]string{"license", licenseLine(l)})
	}
	for _, p := range f.Papers {
		pairs(w, [2]string{"paper", fmt.Sprintf("%s (paper %d, %s)", p.Name, p.Id, size(p.Bytes))})
	}
	for _, s := range f.Sites {
		pairs(w, [2]string{"site", fmt.Sprintf("%s (site %d)", s.Name, s.Id)})
	}
}

// containers says in a line which containers of a face are there.
func containers(all []api.MadeContainer) string {
	var out []string
	for _, m := range all {
		name := strings.ToUpper(string(m.Container))
		switch {
		case m.Bytes != nil:
			name += " " + size(*m.Bytes)
		case m.State == api.Failed:
			name += " cannot be made"
		case m.State == api.OnRequest:
			name += " on request"
		default:
			name += " on its way"
		}
		out = append(out, name)
	}
	return strings.Join(out, ", ")
}

func clientCommand() *cli.Command {
	return &cli.Command{
		Name: "client", Usage: "the studio's clients: list, add",
		Description: example("A client is a brand or organisation the studio works for.", "sparecrate client list"),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list the studio and its clients", Flags: []cli.Flag{jsonFlag},
				Description: example("The studio comes first.", "sparecrate client list"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, _, err := begin(c)
					if err != nil {
						return err
					}
					found, err := call[api.ClientList](s.ListClients(ctx))
					if err != nil {
						return err
					}
					return show(c, found.Items, func(w io.Writer) {
						var rows [][]any
						for _, k := range found.Items {
							note := ""
							if k.Studio {
								note = "the studio itself"
							}
							rows = append(rows, []any{k.Id, k.Name, note})
						}
						grid(w, []any{"No.", "Client", ""}, []string{"No."}, rows)
					})
				},
			},
			{
				Name: "add", Usage: "add a client", ArgsUsage: "NAME", Flags: []cli.Flag{jsonFlag},
				Description: example("Names are used once.", "sparecrate client add 'Tern Point Lighthouse'"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, args, err := begin(c, "the NAME of the client")
					if err != nil {
						return err
					}
					k, err := call[api.StudioClient](s.AddClient(ctx, api.NewStudioClient{Name: args[0]}))
					if err != nil {
						return err
					}
					return show(c, k, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Added %s (client %d).\n", k.Name, k.Id) })
				},
			},
		},
	}
}

// download writes an answer's bytes to a file, whole or not at all.
func download(r *http.Response, err error, path string) (int64, error) {
	if err != nil || r.StatusCode >= http.StatusMultipleChoices {
		_, err = answer(r, err)
		return 0, err
	}
	defer func() { _ = r.Body.Close() }()
	return writeWhole(path, r.Body)
}

// writeWhole writes a file beside its place first and moves it there when it is
// complete.
func writeWhole(path string, r io.Reader) (int64, error) {
	f, err := os.CreateTemp(filepath.Dir(path), ".sparecrate-*")
	if err != nil {
		return 0, err
	}
	defer func() { _ = os.Remove(f.Name()) }()
	n, err := io.Copy(f, r)
	if err == nil {
		err = f.Chmod(0o644)
	}
	if closing := f.Close(); err == nil {
		err = closing
	}
	if err == nil {
		err = os.Rename(f.Name(), path)
	}
	return n, err
}
