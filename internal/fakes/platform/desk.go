package platform

import (
	"errors"
	"fmt"
	"html/template"
	"io"
	"net/http"
	"strings"
)

// DeskPath is where the people of a site work; visitors see all else.
const DeskPath = "/desk"

var desk = template.Must(template.New("desk").Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>The desk of a membership platform</title><link rel="icon" href="data:,">
<style>body { font: 16px/1.5 sans-serif; margin: 0 auto; max-width: 46rem; padding: 1.5rem; } section { border: 1px solid #bbb; padding: .6rem 1rem; margin: 1rem 0; } textarea { width: 100%; }</style></head>
<body><h1>The desk of a membership platform</h1>
<p>A stand-in for a platform of fonts. It takes WOFF2, one file at a time, and says the address afterwards; every page has an HTML box of its own; nothing shows before it is published.</p>
<section><h2>Assets</h2><form method="post" action="/desk/upload" enctype="multipart/form-data"><input type="file" name="file" aria-label="File"> <button>Upload</button></form>
<ul>{{range .Files}}<li><code>{{.}}</code></li>{{end}}</ul></section>
{{range .Pages}}<section><h2>Page {{.}}</h2><form method="post" action="/desk/page?at={{.}}"><textarea name="html" rows="4" aria-label="HTML box of {{.}}"></textarea> <button>Save</button></form></section>
{{end}}<form method="post" action="/desk/publish"><button>Publish</button></form>
</body></html>`))

// Desk serves a platform with its desk: a page with forms, and the same for
// programs, which answers in plain text.
func Desk(r *Platform) http.Handler {
	const most = 8 << 20
	mux := http.NewServeMux()
	mux.Handle("/", r)
	mux.HandleFunc("GET "+DeskPath, func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		_ = desk.Execute(w, map[string]any{"Pages": Pages, "Files": r.addresses()})
	})
	answer := func(path string, do func(*http.Request) (string, error)) {
		mux.HandleFunc("POST "+DeskPath+path, func(w http.ResponseWriter, req *http.Request) {
			req.Body = http.MaxBytesReader(w, req.Body, most)
			w.Header().Set("Content-Type", "text/plain; charset=utf-8")
			text, err := do(req)
			var refused Refused
			switch {
			case errors.As(err, &refused):
				w.WriteHeader(http.StatusUnprocessableEntity)
				text = refused.Error()
			case err != nil:
				w.WriteHeader(http.StatusBadRequest)
				text = err.Error()
			}
			_, _ = fmt.Fprintln(w, text)
		})
	}
	answer("/upload", func(req *http.Request) (string, error) {
		part, head, err := req.FormFile("file")
		if err != nil {
			return "", err
		}
		data, err := io.ReadAll(part)
		if err != nil {
			return "", err
		}
		at, err := r.Upload([]File{{head.Filename, data}}, nil)
		return "http://" + req.Host + strings.Join(at, "\n"), err
	})
	answer("/page", func(req *http.Request) (string, error) {
		text := req.PostFormValue("html")
		return "saved", r.PageBox(req.URL.Query().Get("at"), text)
	})
	answer("/publish", func(*http.Request) (string, error) {
		r.Publish()
		return "published", nil
	})
	return mux
}

func (r *Platform) addresses() []string {
	r.mu.Lock()
	defer r.mu.Unlock()
	var out []string
	for at := range r.files {
		out = append(out, at)
	}
	return out
}
