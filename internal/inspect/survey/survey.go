// Package survey inspects the pages of a whole site: those that its sitemaps and links
// name, as far as its robots.txt lets them be read (RFC 9309), one after the other and not
// too fast, and sums up what they are set in. What it needs of the outside is handed in.
package survey

import (
	"cmp"
	"context"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"sparecrate/internal/inspect"
)

// Options say how a site is surveyed.
type Options struct {
	Pages int           // at most so many
	Pause time.Duration // between the starts of two pages; a site may ask for more
	// Inspect inspects a page, and Fetch reads a file: at most so many bytes, and where it
	// was at last.
	Inspect func(ctx context.Context, url string) (*inspect.Page, error)
	Fetch   func(ctx context.Context, url string, limit int64) (body []byte, final string, err error)
	// Told hears of each page before it is inspected; it may be nil.
	Told func(done, known int, url string)
}

// Result is what a survey found.
type Result struct {
	Start    string            `json:"start"`
	Pages    []*inspect.Page   `json:"pages"`
	Left     []Left            `json:"left"` // pages that were not inspected
	Bytes    int64             `json:"bytes"`
	Servers  []Server          `json:"servers"`
	Families []Family          `json:"families"`
	Findings []inspect.Finding `json:"findings"` // of the site as a whole
	Site     Proposal          `json:"site"`
	Faults   map[string]int    `json:"faults"` // pages with a finding, by its code
}

// Left is a page that was not inspected.
type Left struct {
	URL string `json:"url"`
	Why string `json:"why"`
}

// Server is one that fonts come from.
type Server struct {
	Host  string `json:"host"`
	Own   bool   `json:"own"` // the site's own
	Pages int    `json:"pages"`
}

// Family is what text of the site is set in.
type Family struct {
	Family     string   `json:"family"`
	Sent       bool     `json:"sent"` // by the pages; else of the visitor's system
	Characters int      `json:"characters"`
	Pages      []string `json:"pages"`
	Bytes      int64    `json:"bytes"` // of its files, each counted once
	// Known is what the catalog knows of it; nil where it was not asked.
	Known *inspect.Known `json:"known,omitempty"`
}

// Proposal is the site as it could be recorded.
type Proposal struct {
	Domain   string   `json:"domain"`
	Families []string `json:"families"`
	Roles    []Role   `json:"roles"`
	Pages    []string `json:"pages"` // that load fonts, and so need their rules
}

// Role is what text of one kind is set in.
type Role struct {
	Role     string `json:"role"` // as sites name it: body, heading-1, links and so on
	Selector string `json:"selector"`
	Family   string `json:"family"`
	Weight   int    `json:"weight"`
	Style    string `json:"style"`
}

// most and the like bound what a site can make a survey do.
const (
	mostKnown  = 5000
	mostPause  = 10 * time.Second
	agent      = "sparecrate"
	mostRobots = 500 << 10 // RFC 9309, section 2.5
)

// Run surveys a site from one of its pages. The error is the context's, or says why there
// is nothing to survey.
func Run(ctx context.Context, start string, o Options) (*Result, error) {
	if !strings.Contains(start, "://") {
		start = "https://" + start
	}
	u, err := url.Parse(start)
	if err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" {
		return nil, fmt.Errorf("%q is no site; it looks like harbour.example or https://www.harbour.example/", start)
	}
	if u.Path == "" {
		u.Path = "/"
	}
	out := &Result{Start: u.String(), Pages: []*inspect.Page{}, Left: []Left{}}
	c := &crawl{Options: o, rules: robots(ctx, u, o.Fetch), seen: map[string]bool{}}
	c.add(u.String())
	var together Together
	for len(c.queue) > 0 && len(out.Pages) < o.Pages {
		address := c.queue[0]
		c.queue = c.queue[1:]
		if !c.rules.allow(address) {
			out.Left = append(out.Left, Left{address, "robots.txt asks not to read it"})
			continue
		}
		if o.Told != nil {
			o.Told(len(out.Pages), len(c.seen), address)
		}
		if err := c.wait(ctx); err != nil {
			return nil, err
		}
		p, err := o.Inspect(ctx, address)
		if err != nil {
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			out.Left = append(out.Left, Left{address, err.Error()})
			continue
		}
		if c.host == "" { // the site is where the first page is at last
			if final, err := url.Parse(p.Final); err == nil {
				c.host = final.Host
			}
			c.seen[p.Final] = true
			defer func() { out.Site.Domain, _, _ = strings.Cut(c.host, ":") }()
			c.sitemaps(ctx, p.Final)
		} else if !c.own(p.Final) {
			out.Left = append(out.Left, Left{address, "it leads to another site, " + p.Final})
			continue
		}
		for _, l := range p.Links {
			c.add(l)
		}
		p.Picture, p.Links = nil, nil
		together.Add(p)
		out.Pages = append(out.Pages, p)
	}
	for _, address := range c.queue[:min(len(c.queue), mostListed)] {
		out.Left = append(out.Left, Left{address, fmt.Sprintf("only %d pages were to be inspected", o.Pages)})
	}
	ofAll := together.Findings(out.Pages)
	out.sum(c.host)
	out.Findings = append(out.Findings, ofAll...)
	return out, nil
}

// mostListed bounds the pages that are listed as left.
const mostListed = 200

// crawl is the way through a site.
type crawl struct {
	Options
	rules *rules
	host  string // of the site, with its port; empty until the first page was seen
	queue []string
	seen  map[string]bool
	last  time.Time
}

// own reports whether a URL is of the site.
func (c *crawl) own(address string) bool {
	u, err := url.Parse(address)
	return err == nil && (c.host == "" || strings.EqualFold(u.Host, c.host)) && (u.Scheme == "http" || u.Scheme == "https")
}

// files are endings of what is no page.
var files = []string{".pdf", ".zip", ".png", ".jpg", ".jpeg", ".gif", ".svg", ".webp", ".avif", ".ico", ".css", ".js", ".json", ".xml", ".txt", ".mp3", ".mp4", ".webm", ".doc", ".docx", ".xls", ".xlsx", ".woff", ".woff2", ".ttf", ".otf", ".eot", ".ics", ".csv", ".gz"}

// add puts a page in the queue, once.
func (c *crawl) add(address string) {
	u, err := url.Parse(address)
	if err != nil || !c.own(address) || len(c.seen) >= mostKnown {
		return
	}
	u.Fragment = ""
	if u.Path == "" {
		u.Path = "/"
	}
	if slices.ContainsFunc(files, func(ending string) bool { return strings.HasSuffix(strings.ToLower(u.Path), ending) }) {
		return
	}
	if key := u.String(); !c.seen[key] {
		c.seen[key] = true
		c.queue = append(c.queue, key)
	}
}

// wait keeps to the pause.
func (c *crawl) wait(ctx context.Context) error {
	pause := max(c.Pause, min(c.rules.delay, mostPause))
	if left := pause - time.Since(c.last); !c.last.IsZero() && left > 0 {
		select {
		case <-time.After(left):
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	c.last = time.Now()
	return ctx.Err()
}

// sum adds up what the pages are set in.
func (r *Result) sum(host string) {
	r.Faults = map[string]int{}
	families, servers := map[string]*Family{}, map[string]*Server{}
	counted := map[string]bool{}
	for _, p := range r.Pages {
		r.Bytes += p.Bytes
		codes := map[string]bool{}
		for _, f := range p.Findings {
			codes[f.Code] = true
		}
		for code := range codes {
			r.Faults[code]++
		}
		for _, h := range p.Servers {
			if servers[h] == nil {
				servers[h] = &Server{Host: h, Own: strings.EqualFold(h, host)}
			}
			servers[h].Pages++
		}
		for _, f := range p.Families {
			key := fmt.Sprint(f.Family, f.Sent)
			if families[key] == nil {
				families[key] = &Family{Family: f.Family, Sent: f.Sent}
			}
			families[key].Characters += f.Characters
			families[key].Pages = append(families[key].Pages, p.Final)
		}
		for _, f := range p.Fonts {
			if of := families[fmt.Sprint(f.Family, true)]; of != nil && f.SHA256 != "" && !counted[f.SHA256] {
				counted[f.SHA256] = true
				of.Bytes += f.Size
				if of.Known == nil {
					of.Known = f.Known
				}
			}
		}
	}
	r.Families, r.Servers = []Family{}, []Server{}
	for _, f := range families {
		r.Families = append(r.Families, *f)
	}
	slices.SortFunc(r.Families, func(a, b Family) int {
		return cmp.Or(b.Characters-a.Characters, strings.Compare(a.Family, b.Family))
	})
	for _, s := range servers {
		r.Servers = append(r.Servers, *s)
	}
	slices.SortFunc(r.Servers, func(a, b Server) int { return cmp.Or(b.Pages-a.Pages, strings.Compare(a.Host, b.Host)) })
	r.propose()
	r.differ()
}
