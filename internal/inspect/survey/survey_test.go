package survey

import (
	"bytes"
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/inspect"
)

// site is a site in memory: pages with their links, and other files.
type site struct {
	links map[string][]string
	moved map[string]string // where pages lead to
	files map[string]string
	set   map[string]string // family of h1, by page
	seen  []string
	times []time.Time
}

func (s *site) options(pages int) Options {
	return Options{Pages: pages,
		Inspect: func(_ context.Context, address string) (*inspect.Page, error) {
			s.seen, s.times = append(s.seen, address), append(s.times, time.Now())
			links, has := s.links[address]
			if !has && s.moved[address] == "" {
				return nil, errors.New("there is no such page")
			}
			p := &inspect.Page{URL: address, Final: address, Links: links}
			if to := s.moved[address]; to != "" {
				p.Final = to
			}
			family := s.set[address]
			if family == "" {
				family = "Skerrow Sans"
			}
			p.Runs = []inspect.ShownRun{{Selector: "main h1.title", Width: 390, Used: "Narrow", Characters: 99}, {Selector: "main h1.title", Width: 1280, Used: family, Sent: family != "Serif", Weight: 700, Style: "normal", Characters: 10}}
			p.Families = []inspect.ShownFamily{{Family: family, Sent: family != "Serif", Characters: 10}}
			p.Fonts = []inspect.LoadedFont{{Family: family, SHA256: family, Size: 1000}}
			p.Servers, p.Bytes = []string{"www.harbour.example", "type.example"}, 1200
			return p, nil
		},
		Fetch: func(_ context.Context, address string, _ int64) ([]byte, string, error) {
			if body, has := s.files[address]; has {
				return []byte(body), address, nil
			}
			return nil, "", errors.New("404")
		}}
}

const at = "https://www.harbour.example"

func TestPagesOfASite(t *testing.T) {
	s := &site{
		links: map[string][]string{
			at + "/":       {at + "/fares", at + "/fares#top", at + "/staff/rota", "https://elsewhere.example/", at + "/table.pdf", at + "/gone", at + "/away"},
			at + "/fares":  {at + "/", at + "/news"},
			at + "/news":   {},
			at + "/hidden": {},
		},
		moved: map[string]string{"https://harbour.example/": at + "/", at + "/away": "https://elsewhere.example/"},
		files: map[string]string{"https://harbour.example/robots.txt": "User-agent: *\nDisallow: /staff/\nAllow: /\n",
			at + "/sitemap.xml": "<urlset><url><loc> " + at + "/hidden </loc></url><url><loc>https://elsewhere.example/x</loc></url><url><loc>" + at + "/cut"},
	}
	s.links["https://harbour.example/"] = s.links[at+"/"]
	r, err := Run(t.Context(), "harbour.example", s.options(20))
	require.NoError(t, err)
	var pages []string
	for _, p := range r.Pages {
		pages = append(pages, p.Final)
		assert.Nil(t, p.Links)
	}
	assert.Equal(t, []string{at + "/", at + "/hidden", at + "/fares", at + "/news"}, pages, "elsewhere, what is no page, and each twice are left out")
	why := map[string]string{}
	for _, l := range r.Left {
		why[l.URL] = l.Why
	}
	assert.Contains(t, why[at+"/staff/rota"], "robots.txt")
	assert.Contains(t, why[at+"/gone"], "no such page")
	assert.Contains(t, why[at+"/away"], "elsewhere.example")
	assert.NotContains(t, s.seen, at+"/staff/rota")
	assert.Equal(t, "www.harbour.example", r.Site.Domain)
	assert.EqualValues(t, 4*1200, r.Bytes)
	assert.Equal(t, []Server{{"type.example", false, 4}, {"www.harbour.example", true, 4}}, r.Servers)
	require.Len(t, r.Families, 1)
	assert.EqualValues(t, 1000, r.Families[0].Bytes, "a file counts once")
	assert.Equal(t, []Role{{"heading-1", "h1", "Skerrow Sans", 700, "normal"}}, r.Site.Roles)
	assert.Empty(t, r.Findings)
}

func TestPagesThatDiffer(t *testing.T) {
	s := &site{links: map[string][]string{at + "/": {at + "/a", at + "/b", at + "/c"}, at + "/a": {}, at + "/b": {}, at + "/c": {}}, set: map[string]string{at + "/b": "Serif"}}
	r, err := Run(t.Context(), at, s.options(20))
	require.NoError(t, err)
	require.Len(t, r.Findings, 1)
	assert.Equal(t, "pages-differ", r.Findings[0].Code)
	assert.Equal(t, at+"/b", r.Findings[0].URL)
	assert.Contains(t, r.Findings[0].Message, "Skerrow Sans on 3 of 4 pages")
	// Where pages are of two minds nothing is usual.
	s.set[at+"/c"] = "Serif"
	r, err = Run(t.Context(), at, s.options(20))
	require.NoError(t, err)
	assert.Empty(t, r.Findings)
}

func TestASurveyHasItsBounds(t *testing.T) {
	// A site without end, that asks for a pause.
	s := &site{links: map[string][]string{}, files: map[string]string{at + "/robots.txt": "User-agent: sparecrate\nCrawl-delay: 0.1\n"}}
	for i := range 50 {
		s.links[fmt.Sprintf("%s/%d", at, i)] = []string{fmt.Sprintf("%s/%d", at, i+1)}
	}
	r, err := Run(t.Context(), at+"/0", s.options(4))
	require.NoError(t, err)
	assert.Len(t, r.Pages, 4)
	require.Len(t, r.Left, 1)
	assert.Contains(t, r.Left[0].Why, "4 pages")
	for i := 1; i < len(s.times); i++ {
		assert.GreaterOrEqual(t, s.times[i].Sub(s.times[i-1]), 90*time.Millisecond)
	}
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err = Run(ctx, at, s.options(4))
	require.ErrorIs(t, err, context.Canceled)
	for _, wrong := range []string{"", "ftp://harbour.example", "https://", "https:///x"} {
		_, err = Run(t.Context(), wrong, s.options(4))
		assert.ErrorContains(t, err, "harbour.example", wrong)
	}
}

func TestSitemaps(t *testing.T) {
	var packed bytes.Buffer
	w := gzip.NewWriter(&packed)
	_, _ = w.Write([]byte("<urlset><url><loc>" + at + "/packed</loc></url></urlset>"))
	require.NoError(t, w.Close())
	s := &site{links: map[string][]string{at + "/": {}, at + "/packed": {}, at + "/plain": {}},
		files: map[string]string{at + "/robots.txt": "Sitemap: " + at + "/index.xml\nSitemap: https://elsewhere.example/map.xml\n",
			at + "/index.xml": "<sitemapindex><sitemap><loc>" + at + "/a.xml.gz</loc></sitemap><sitemap><loc>" + at + "/b.xml</loc></sitemap></sitemapindex>",
			at + "/a.xml.gz":  packed.String(), at + "/b.xml": "<urlset><url><loc>" + at + "/plain</loc><lastmod>2026-01-01</lastmod></url></urlset>"}}
	r, err := Run(t.Context(), at+"/", s.options(9))
	require.NoError(t, err)
	assert.Len(t, r.Pages, 3)
	assert.Equal(t, []string{at + "/", at + "/packed", at + "/plain"}, s.seen)
}
