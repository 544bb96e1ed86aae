package cli

import (
	"context"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"os"
	"path/filepath"
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
	found, err := families(ctx, s, api.ListFamiliesParams{Q: &text})
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
