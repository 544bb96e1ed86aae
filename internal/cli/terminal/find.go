package terminal

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

// Form streams a file as multipart/form-data behind some fields.
func Form(path string, fields [][2]string) (io.ReadCloser, string, error) {
	var f *os.File
	if path != "" {
		var err error
		if f, err = os.Open(path); err != nil {
			return nil, "", err
		}
		if info, err := f.Stat(); err == nil && info.IsDir() {
			_ = f.Close()
			return nil, "", fmt.Errorf("%s is a folder; name the files in it", path)
		}
	}
	r, w := io.Pipe()
	m := multipart.NewWriter(w)
	go func() {
		if f != nil {
			defer func() { _ = f.Close() }()
		}
		for _, field := range fields {
			if err := m.WriteField(field[0], field[1]); err != nil {
				_ = w.CloseWithError(err)
				return
			}
		}
		var err error
		if f != nil {
			var part io.Writer
			if part, err = m.CreateFormFile("file", filepath.Base(path)); err == nil {
				_, err = io.Copy(part, f)
			}
		}
		if err == nil {
			err = m.Close()
		}
		_ = w.CloseWithError(err)
	}()
	return r, m.FormDataContentType(), nil
}

// Named is anything with a number and a name.
type Named struct {
	ID   int64
	Name string
	More string // what tells it from others of its name
}

// Choose finds the one thing a text names: by number, or by its whole name
// without regard to case.
func Choose(text, what string, all []Named) (int64, error) {
	var hits []Named
	for _, n := range all {
		if strings.EqualFold(n.Name, text) || strconv.FormatInt(n.ID, 10) == text {
			hits = append(hits, n)
		}
	}
	switch len(hits) {
	case 1:
		return hits[0].ID, nil
	case 0:
		return 0, fmt.Errorf("there is no %s %q", what, text)
	}
	lines := make([]string, len(hits))
	for i, h := range hits {
		lines[i] = fmt.Sprintf("%d (%s)", h.ID, h.More)
	}
	return 0, fmt.Errorf("there are several of the name %q; name one by its number: %s", text, strings.Join(lines, ", "))
}

// ofClient returns the families of a client that a text names before a slash, and what is
// left of the text; all of them where it names none. A family whose name has the slash
// goes first.
func ofClient(text string, all []Named) (string, []Named) {
	client, name, ok := strings.Cut(text, "/")
	if !ok || slices.ContainsFunc(all, func(n Named) bool { return strings.EqualFold(n.Name, text) }) {
		return text, all
	}
	client, name = strings.TrimSpace(client), strings.TrimSpace(name)
	return name, slices.DeleteFunc(slices.Clone(all), func(n Named) bool { return !strings.EqualFold(n.More, client) })
}

// FindFamily finds the family that a text names, by number or name.
func FindFamily(ctx context.Context, s *api.Client, text string) (int64, error) {
	if id, err := strconv.ParseInt(text, 10, 64); err == nil {
		return id, nil
	}
	found, err := AllFamilies(ctx, s, api.ListFamiliesParams{Q: new(strings.ReplaceAll(text, "/", " "))})
	if err != nil {
		return 0, err
	}
	all := make([]Named, len(found))
	for i, f := range found {
		all[i] = Named{ID: f.Id, Name: f.Name, More: f.Client.Name}
	}
	name, of := ofClient(text, all)
	id, err := Choose(name, "family", of)
	if err != nil && len(of) > 1 && slices.ContainsFunc(of, func(n Named) bool { return strings.EqualFold(n.Name, name) }) {
		err = fmt.Errorf("%w; or with its client, like %q", err, of[len(of)-1].More+"/"+name)
	}
	return id, err
}

// GivenClient returns the number of the client that --client names, nil where it is not given.
func GivenClient(ctx context.Context, s *api.Client, c *cli.Command) (*int64, error) {
	if !c.IsSet("client") {
		return nil, nil //nolint:nilnil // no client is one of the answers
	}
	id, err := FindClient(ctx, s, c.String("client"))
	return &id, err
}

// FindClient finds the client that a text names, by number or name.
func FindClient(ctx context.Context, s *api.Client, text string) (int64, error) {
	found, err := Call[api.ClientList](s.ListClients(ctx))
	if err != nil {
		return 0, err
	}
	all := make([]Named, len(found.Items))
	for i, k := range found.Items {
		all[i] = Named{ID: k.Id, Name: k.Name, More: ""}
	}
	return Choose(text, "client", all)
}

// Download writes an answer's bytes to a file, whole or not at all.
func Download(r *http.Response, err error, path string) (int64, error) {
	if err != nil || r.StatusCode >= http.StatusMultipleChoices {
		_, err = Answer(r, err)
		return 0, err
	}
	defer func() { _ = r.Body.Close() }()
	return WriteWhole(path, r.Body)
}

// WriteWhole writes a file beside its place first and moves it there when it is
// complete.
func WriteWhole(path string, r io.Reader) (int64, error) {
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

// WithFamily begins a call that names a family.
func WithFamily(ctx context.Context, c *cli.Command) (*api.Client, *api.Family, error) {
	s, args, err := Begin(c, "a FAMILY, by number or name")
	if err != nil {
		return nil, nil, err
	}
	id, err := FindFamily(ctx, s, args[0])
	if err != nil {
		return nil, nil, err
	}
	f, err := Call[api.Family](s.GetFamily(ctx, id))
	return s, f, err
}

// AllFamilies returns all pages of a search, and tells of words that were read as others.
func AllFamilies(ctx context.Context, s *api.Client, q api.ListFamiliesParams, meant ...func(api.MeantWord)) ([]api.FamilySummary, error) {
	limit, total := 200, false
	q.Limit, q.Total = &limit, &total
	found := []api.FamilySummary{}
	for {
		page, err := Call[api.FamilyPage](s.ListFamilies(ctx, &q))
		if err != nil {
			return nil, err
		}
		if q.Cursor == nil {
			for _, tell := range meant {
				for _, m := range page.Meant {
					tell(m)
				}
			}
		}
		found = append(found, page.Items...)
		if page.Next == nil {
			return found, nil
		}
		q.Cursor = page.Next
	}
}

// AllSites lists all sites of the studio; those of closed clients too where that is asked for.
func AllSites(ctx context.Context, s *api.Client, closed bool) ([]api.Site, error) {
	limit := 200
	q := api.ListSitesParams{Limit: &limit, Closed: &closed}
	found := []api.Site{}
	for {
		page, err := Call[api.SitePage](s.ListSites(ctx, &q))
		if err != nil {
			return nil, err
		}
		found = append(found, page.Items...)
		if q.Cursor = page.Next; page.Next == nil {
			return found, nil
		}
	}
}

// FindSite finds the site that a text names, by number or name.
func FindSite(ctx context.Context, s *api.Client, text string) (int64, error) {
	found, err := AllSites(ctx, s, true)
	if err != nil {
		return 0, err
	}
	all := make([]Named, len(found))
	for i, v := range found {
		all[i] = Named{ID: v.Id, Name: v.Name, More: v.Client.Name}
	}
	return Choose(text, "site", all)
}
