package browsertest_test

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"unicode"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/lint"
	"sparecrate/font/table"
	"sparecrate/internal/browsertest"
)

// setAll sets the same text in several files, the first of which the others are
// made from; null stands for a file the browser refuses, else the number of
// pixels that differ from the first that was taken.
const setAll = `(async (urls, text) => {
	const out = [];
	let base = null;
	for (const [i, url] of urls.entries()) {
		try {
			const face = await new FontFace("f" + i, "url(" + url + ")").load();
			document.fonts.add(face);
			const canvas = Object.assign(document.createElement("canvas"), {width: 1200, height: 200});
			const ink = canvas.getContext("2d", {willReadFrequently: true});
			ink.font = "48px 'f" + i + "'";
			text.forEach((line, k) => ink.fillText(line, 10, 80 + 90 * k));
			const data = ink.getImageData(0, 0, 1200, 200).data;
			document.fonts.delete(face);
			base ??= data;
			let other = 0;
			for (let p = 3; p < data.length; p += 4) other += data[p] !== base[p];
			out.push(other);
		} catch (e) { out.push(null); }
	}
	return out;
})(%s, %s)`

// largest bounds what is written as WOFF2 here; Brotli at its best takes seconds
// for each megabyte.
const largest = 1 << 18

// TestCorpus takes every font file below the folder SPARECRATE_FONTS, writes it
// into every format, and compares what the browser draws. Files of which the
// browser refuses the original are told, with what the rules say of them.
func TestCorpus(t *testing.T) {
	folder := os.Getenv("SPARECRATE_FONTS")
	if folder == "" {
		t.Skip("SPARECRATE_FONTS names no folder")
	}
	groups := map[string][]string{}
	require.NoError(t, filepath.WalkDir(folder, func(path string, d fs.DirEntry, err error) error {
		ext := strings.ToLower(filepath.Ext(path))
		if err == nil && d.Type().IsRegular() && slices.Contains([]string{".ttf", ".otf", ".ttc", ".woff", ".woff2", ".eot", ".otb"}, ext) {
			rel, _ := filepath.Rel(folder, path)
			top, _, _ := strings.Cut(filepath.ToSlash(rel), "/")
			for chunk := 0; ; chunk++ { // a browser is patient with so many files and no more
				key := fmt.Sprintf("%s-%d", top, chunk)
				if len(groups[key]) < 20 {
					groups[key] = append(groups[key], path)
					break
				}
			}
		}
		return err
	}))
	c := &corpus{served: map[string][]byte{}}
	c.server = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if b, ok := c.served[r.URL.Path]; ok {
			_, _ = w.Write(b)
			return
		}
		w.Header().Set("Content-Type", "text/html")
		_, _ = fmt.Fprint(w, "<!doctype html><title>Corpus</title>")
	}))
	defer c.server.Close()
	for _, group := range sortedKeys(groups) {
		t.Run(group, func(t *testing.T) {
			ctx := browsertest.New(t, "")
			browsertest.Do(t, ctx, chromedp.Navigate(c.server.URL))
			for _, path := range groups[group] {
				c.file(t, path, func(urls, text []string) []*int {
					u, _ := json.Marshal(urls)
					s, _ := json.Marshal(text)
					return browsertest.Eval[[]*int](t, ctx, fmt.Sprintf(setAll, u, s))
				})
			}
		})
	}
	t.Logf("%d files read, %d not; %d faces, %d outputs taken by the browser with the same picture, %d not; %d originals refused by the browser",
		c.files, c.unread, c.faces, c.same, c.bad, c.refused)
}

func sortedKeys[K cmp.Ordered, V any](m map[K]V) []K {
	keys := make([]K, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}

type corpus struct {
	server               *httptest.Server
	served               map[string][]byte
	files, faces, same   int
	unread, refused, bad int
}

func (c *corpus) file(t *testing.T, path string, set func(urls, text []string) []*int) {
	b, err := os.ReadFile(path)
	require.NoError(t, err)
	opened, err := font.Open(b)
	if err != nil {
		c.unread++
		t.Logf("not read: %s: %v", filepath.Base(path), err)
		return
	}
	c.files++
	for i, face := range opened.Faces[:min(len(opened.Faces), 2)] {
		c.faces++
		clear(c.served)
		text := sample(face.Table(table.TagCmap))
		var names []string
		add := func(name string, data []byte) {
			c.served["/"+name] = data
			names = append(names, name)
		}
		if len(opened.Faces) == 1 && opened.Container != font.EOT {
			add("original", b)
		}
		for _, to := range []font.Container{font.TTF, font.OTF, font.WOFF, font.WOFF2} {
			if to == font.WOFF2 && len(b) > largest {
				continue
			}
			made, err := opened.Make(i, to)
			if errors.Is(err, font.ErrContainer) {
				continue
			}
			require.NoError(t, err, path)
			add(string(to), made)
			if to == font.WOFF2 {
				back, err := font.Open(made)
				require.NoError(t, err, path)
				again, err := font.Make(back.Faces[0], font.WOFF)
				require.NoError(t, err)
				add("woff2-as-woff", again)
			}
		}
		name := fmt.Sprintf("%s, face %d", filepath.Base(path), i)
		results := set(names, text)
		if results[0] == nil {
			c.refused++
			t.Logf("the browser refuses the original: %s: %s; outputs: %s", name, said(b), taken(names[1:], results[1:]))
			continue
		}
		for k, r := range results[1:] {
			switch {
			case r == nil:
				c.bad++
				t.Errorf("the browser refuses %s as %s", name, names[k+1])
			case *r != 0:
				c.bad++
				t.Errorf("%s as %s: %d pixels differ", name, names[k+1], *r)
			default:
				c.same++
			}
		}
	}
}

// sample returns two lines of characters from all over the face's map.
func sample(cmap []byte) []string {
	runs, _ := table.ParseCmap(cmap)
	var all []rune
	for _, run := range runs {
		for i := range run.Count {
			if r := run.First + rune(i); !unicode.Is(unicode.C, r) || unicode.Is(unicode.Co, r) {
				all = append(all, r)
			}
		}
	}
	lines := []string{"", ""}
	for i := range 60 {
		if len(all) > 0 {
			lines[i%2] += string(all[i*len(all)/60])
		}
	}
	return lines
}

func said(b []byte) string {
	r, err := lint.Check(b)
	if err != nil {
		return err.Error()
	}
	if len(r.Findings) == 0 {
		return "no rule broken"
	}
	f := r.Findings[0]
	return fmt.Sprintf("%s %s %s", f.Severity, f.Table, f.Message)
}

func taken(names []string, results []*int) string {
	var out []string
	for i, r := range results {
		if r != nil {
			out = append(out, names[i])
		}
	}
	if len(out) == 0 {
		return "none taken"
	}
	return strings.Join(out, ", ") + " taken"
}
