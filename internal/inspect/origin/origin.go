// Package origin says whose server a URL is of.
package origin

import (
	"net/url"
	"strings"

	"golang.org/x/net/publicsuffix"
)

// OtherServer reports whether a URL is of somebody else's server than the page: of another
// registrable domain, or for addresses without names of another host or port.
func OtherServer(page, other string) bool {
	a, err := url.Parse(page)
	if err != nil {
		return false
	}
	b, err := url.Parse(other)
	if err != nil || b.Host == "" {
		return false
	}
	one, is := site(a)
	two, too := site(b)
	if !is || !too {
		return !strings.EqualFold(a.Host, b.Host)
	}
	return one != two
}

// site returns the registrable domain of a URL's host; false for addresses and names
// that have none.
func site(u *url.URL) (string, bool) {
	name := strings.ToLower(strings.TrimSuffix(u.Hostname(), "."))
	domain, err := publicsuffix.EffectiveTLDPlusOne(name)
	return domain, err == nil && strings.ContainsFunc(name[strings.LastIndex(name, ".")+1:], func(r rune) bool { return r < '0' || r > '9' })
}
