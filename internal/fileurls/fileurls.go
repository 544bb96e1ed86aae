// Package fileurls finds out which address belongs to which uploaded file, out of
// whatever people paste: a list, a page's source, a stylesheet, a table. It is
// pure.
package fileurls

import (
	"cmp"
	"fmt"
	"html"
	"net/url"
	"path"
	"regexp"
	"slices"
	"strings"
	"unicode"
)

// Found is a file with the address it got.
type Found struct{ File, Address string }

// Outcome says what became of a text.
type Outcome struct {
	Found []Found
	// Notes are sentences on what could not be used, and what to do.
	Notes []string
}

// address matches what may be one: with a scheme, with two slashes, or from the
// root of a site.
var address = regexp.MustCompile(`(?i)(?:[a-z][a-z0-9+.-]*:)?//[^\s"'<>()“”‘’„{}|\\^` + "`" + `]+|/[^\s"'<>()“”‘’„{}|\\^` + "`" + `]*\.(?:woff2?|ttf|otf|eot|svg|css)[^\s"'<>()“”‘’„]*`)

// Addresses finds the addresses in a text, each once, in order. Tags, quotes
// and what ends a sentence are left out.
func Addresses(text string) []string {
	var out []string
	for _, a := range address.FindAllString(html.UnescapeString(text), -1) {
		a = strings.TrimRight(a, ".,;:!?]")
		a, _, _ = strings.Cut(a, "#")
		a = strings.TrimSuffix(a, "?")
		if a != "" && !slices.Contains(out, a) {
			out = append(out, a)
		}
	}
	return out
}

// Check refuses what cannot be the address of an uploaded file, with a sentence.
func Check(a string) error {
	u, err := url.Parse(a)
	switch {
	case err != nil || strings.ContainsAny(a, " \t\n\"'<>()\\"):
		return fmt.Errorf("“%s” is not a URL; paste it as the browser shows it", a)
	case u.Scheme == "file" || u.Scheme == "blob" || u.Scheme == "data":
		return fmt.Errorf("“%s” is on your computer or in your browser only; use the URL that the platform shows", a)
	case u.Scheme != "" && u.Scheme != "https" && u.Scheme != "http":
		return fmt.Errorf("“%s” is not a web URL; it starts with https://", a)
	case u.Host == "" && !strings.HasPrefix(u.Path, "/"):
		return fmt.Errorf("“%s” is incomplete; copy it from its beginning, https://", a)
	case u.Scheme != "" && u.Hostname() == "":
		return fmt.Errorf("“%s” names no server", a)
	case u.Path == "" || u.Path == "/":
		return fmt.Errorf("“%s” is the URL of a site, not of a file", a)
	}
	return nil
}

// Read matches the addresses in a text to files, by their names. Where no name
// is left in them and inOrder is set, they are taken in the order of the files.
func Read(text string, files []string, inOrder bool) Outcome {
	var out Outcome
	var good []string
	for _, a := range Addresses(text) {
		if err := Check(a); err != nil {
			out.Notes = append(out.Notes, err.Error()+".")
			continue
		}
		good = append(good, a)
	}
	if len(good) == 0 {
		if len(out.Notes) == 0 {
			out.Notes = []string{"There is no URL in the pasted text. URLs start with https://."}
		}
		return out
	}
	type pair struct {
		address, file string
		score         int
	}
	var pairs []pair
	for _, a := range good {
		for _, f := range files {
			if s := score(a, f); s > 0 {
				pairs = append(pairs, pair{a, f, s})
			}
		}
	}
	slices.SortStableFunc(pairs, func(a, b pair) int { return cmp.Compare(b.score, a.score) })
	taken, given := map[string]bool{}, map[string]bool{}
	for _, p := range pairs {
		if taken[p.address] {
			continue
		}
		if given[p.file] {
			continue
		}
		if slices.ContainsFunc(pairs, func(o pair) bool {
			return o.file == p.file && o.address != p.address && o.score == p.score && !taken[o.address] && path.Base(o.address) != path.Base(p.address)
		}) && p.score < named {
			continue // two fit equally well
		}
		taken[p.address], given[p.file] = true, true
		out.Found = append(out.Found, Found{p.file, p.address})
	}
	left := slices.DeleteFunc(slices.Clone(good), func(a string) bool { return taken[a] })
	open := slices.DeleteFunc(slices.Clone(files), func(f string) bool { return given[f] })
	out.settle(left, open, inOrder)
	slices.SortStableFunc(out.Found, func(a, b Found) int { return slices.Index(files, a.File) - slices.Index(files, b.File) })
	return out
}

// settle gives the addresses that bear no name of a file to the files that are
// left, where that is meant or cannot be otherwise.
func (o *Outcome) settle(left, open []string, inOrder bool) {
	if len(left) == 0 {
		return
	}
	fit := len(left) == len(open)
	for i := range left {
		if fit && !sameEnding(left[i], open[i]) {
			fit = false
		}
	}
	switch {
	case inOrder && fit:
		for i, a := range left {
			o.Found = append(o.Found, Found{open[i], a})
		}
	case inOrder && len(left) != len(open):
		o.Notes = append(o.Notes, fmt.Sprintf("%s left for %s. Enter one URL for each file, in the order of the upload slip.", some(len(left), "URL is", "URLs are"), some(len(open), "file", "files")))
	case inOrder:
		o.Notes = append(o.Notes, "The extensions of the URLs do not match the files in the order of the upload slip. Check the order.")
	default:
		for _, a := range left {
			o.Notes = append(o.Notes, fmt.Sprintf("“%s” does not match the name of a file without a URL. Choose the file, or enter all URLs in the order of the upload slip.", a))
		}
	}
}

// named is the score from which an address bears a file's whole name.
const named = 10000

// score says how well an address fits a file: 0 not at all.
func score(a, file string) int {
	u, err := url.Parse(a)
	if err != nil {
		return 0
	}
	if !sameEnding(a, file) {
		return 0
	}
	base := path.Base(u.Path)
	if base == file {
		return 2 * named
	}
	want := letters(stem(file))
	got := letters(stem(base))
	switch {
	case want == "":
		return 0
	case got == want:
		return named
	case strings.Contains(got, want):
		return 1000 + len(want)
	case strings.Contains(letters(u.Path+u.RawQuery), want):
		return len(want)
	}
	return 0
}

// sameEnding reports whether the address may hold a file of the ending: many
// have none.
func sameEnding(a, file string) bool {
	u, err := url.Parse(a)
	if err != nil {
		return false
	}
	ext := strings.ToLower(path.Ext(u.Path))
	if !slices.Contains([]string{".woff2", ".woff", ".ttf", ".otf", ".eot", ".svg", ".css"}, ext) {
		return true
	}
	return ext == strings.ToLower(path.Ext(file))
}

func stem(name string) string { return strings.TrimSuffix(name, path.Ext(name)) }

// letters keeps the letters and digits of a name, small.
func letters(s string) string {
	if plain, err := url.PathUnescape(s); err == nil {
		s = plain
	}
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return unicode.ToLower(r)
		}
		return -1
	}, s)
}

// some writes a number of things.
func some(n int, one, more string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, more)
}
