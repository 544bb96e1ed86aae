package survey

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/xml"
	"io"
	"net/url"
	"strings"
	"time"

	"github.com/temoto/robotstxt"
)

// rules are what a robots.txt asks of us.
type rules struct {
	group    *robotstxt.Group
	delay    time.Duration
	sitemaps []string
}

// robots reads the robots.txt of a site; without one all may be read.
func robots(ctx context.Context, site *url.URL, fetch func(context.Context, string, int64) ([]byte, string, error)) *rules {
	at := *site
	at.Path, at.RawQuery, at.Fragment = "/robots.txt", "", ""
	body, _, err := fetch(ctx, at.String(), mostRobots)
	if err != nil {
		return &rules{}
	}
	data, err := robotstxt.FromBytes(body)
	if err != nil {
		return &rules{}
	}
	group := data.FindGroup(agent)
	return &rules{group: group, delay: group.CrawlDelay, sitemaps: data.Sitemaps}
}

// allow reports whether a page may be read.
func (r *rules) allow(address string) bool {
	if r.group == nil {
		return true
	}
	u, err := url.Parse(address)
	return err == nil && r.group.Test(u.RequestURI())
}

// The bounds of sitemaps (sitemaps.org allows more, which no survey reads).
const (
	mostMaps = 6
	mostMap  = 4 << 20 // bytes
)

// sitemaps puts the pages of a site's sitemaps in the queue.
func (c *crawl) sitemaps(ctx context.Context, page string) {
	left := c.rules.sitemaps
	if u, err := url.Parse(page); err == nil && len(left) == 0 {
		u.Path, u.RawQuery = "/sitemap.xml", ""
		left = append(left, u.String())
	}
	for read := 0; len(left) > 0 && read < mostMaps; read++ {
		address := left[0]
		left = left[1:]
		if !c.own(address) {
			continue
		}
		body, _, err := c.Fetch(ctx, address, mostMap)
		if err != nil {
			continue
		}
		if bytes.HasPrefix(body, []byte{0x1F, 0x8B}) {
			packed, err := gzip.NewReader(bytes.NewReader(body))
			if err != nil {
				continue
			}
			if body, err = io.ReadAll(io.LimitReader(packed, mostMap)); err != nil {
				continue
			}
		}
		pages, more := sitemap(body)
		for _, p := range pages {
			c.add(p)
		}
		left = append(left, more...)
	}
}

// sitemap reads a sitemap, or an index of sitemaps; what is cut off counts as far as it
// goes.
func sitemap(body []byte) (pages, maps []string) {
	d := xml.NewDecoder(bytes.NewReader(body))
	d.Strict = false
	within, address := "", false
	for {
		t, err := d.Token()
		if err != nil {
			return pages, maps
		}
		switch t := t.(type) {
		case xml.StartElement:
			switch t.Name.Local {
			case "url", "sitemap":
				within = t.Name.Local
			case "loc":
				address = true
			}
		case xml.EndElement:
			address = false
		case xml.CharData:
			if at := strings.TrimSpace(string(t)); address && at != "" {
				if within == "sitemap" {
					maps = append(maps, at)
				} else {
					pages = append(pages, at)
				}
			}
		}
	}
}
