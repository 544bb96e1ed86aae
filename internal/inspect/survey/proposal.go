package survey

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"sparecrate/internal/inspect"
)

// roles are the kinds of text that sites have, by the element it stands in.
var roles = []Role{
	{Role: "body", Selector: "p"}, {Role: "heading-1", Selector: "h1"}, {Role: "heading-2", Selector: "h2"}, {Role: "heading-3", Selector: "h3"},
	{Role: "heading-4", Selector: "h4"}, {Role: "heading-5", Selector: "h5"}, {Role: "heading-6", Selector: "h6"}, {Role: "links", Selector: "a"},
	{Role: "buttons", Selector: "button"}, {Role: "navigation", Selector: "nav"}, {Role: "lists", Selector: "li"}, {Role: "quotes", Selector: "blockquote"},
	{Role: "captions", Selector: "figcaption"}, {Role: "code", Selector: "code"},
}

// element is the element that a selector of a run ends with.
func element(selector string) string {
	last := selector[strings.LastIndexByte(selector, ' ')+1:]
	if at := strings.IndexAny(last, ".#:"); at >= 0 {
		last = last[:at]
	}
	return last
}

// look is how text of one kind is set.
type look struct {
	family string
	weight int
	style  string
	sent   bool
}

// looks counts, for each kind of text of a page, the characters in each look.
func looks(p *inspect.Page) map[string]map[look]int {
	widest := 0
	for _, r := range p.Runs {
		widest = max(widest, r.Width)
	}
	out := map[string]map[look]int{}
	for _, r := range p.Runs {
		if r.Width != widest {
			continue
		}
		kind := element(r.Selector)
		if out[kind] == nil {
			out[kind] = map[look]int{}
		}
		first, _, _ := strings.Cut(r.Used, ", ")
		out[kind][look{first, r.Weight, r.Style, r.Sent}] += r.Characters
	}
	return out
}

// leading returns the look with most characters.
func leading(of map[look]int) look {
	all := slices.SortedFunc(maps.Keys(of), func(a, b look) int {
		return cmp.Or(of[b]-of[a], strings.Compare(a.family, b.family), a.weight-b.weight, strings.Compare(a.style, b.style))
	})
	return all[0]
}

// propose says how the site could be recorded.
func (r *Result) propose() {
	p := &r.Site
	p.Families, p.Roles, p.Pages = []string{}, []Role{}, []string{}
	all := map[string]map[look]int{}
	for _, page := range r.Pages {
		if len(page.Fonts) > 0 {
			p.Pages = append(p.Pages, page.Final)
		}
		for kind, of := range looks(page) {
			if all[kind] == nil {
				all[kind] = map[look]int{}
			}
			for l, n := range of {
				all[kind][l] += n
			}
		}
	}
	for _, f := range r.Families {
		if f.Sent {
			p.Families = append(p.Families, f.Family)
		}
	}
	for _, role := range roles {
		if of := all[role.Selector]; len(of) > 0 {
			if l := leading(of); l.sent {
				role.Family, role.Weight, role.Style = l.family, l.weight, l.style
				p.Roles = append(p.Roles, role)
			}
		}
	}
}

// enough is how many pages show what is usual, and usual how many of them must agree.
const (
	enough = 3
	usual  = 0.6
)

// differ finds kinds of text that some pages set in another family than most.
func (r *Result) differ() {
	r.Findings = []inspect.Finding{}
	for _, role := range roles {
		pages := map[string][]string{}
		n := 0
		for _, page := range r.Pages {
			if of := looks(page)[role.Selector]; len(of) > 0 {
				l := leading(of)
				if !l.sent {
					l.family = "a font of the visitor's system"
				}
				pages[l.family] = append(pages[l.family], page.Final)
				n++
			}
		}
		if n < enough || len(pages) < 2 {
			continue
		}
		most := slices.MaxFunc(slices.Sorted(maps.Keys(pages)), func(a, b string) int { return len(pages[a]) - len(pages[b]) })
		if float64(len(pages[most])) < usual*float64(n) {
			continue
		}
		for _, other := range slices.Sorted(maps.Keys(pages)) {
			if other == most {
				continue
			}
			r.Findings = append(r.Findings, inspect.Finding{Code: "pages-differ", Severity: inspect.Warning, Selector: role.Selector, URL: pages[other][0],
				Message:  fmt.Sprintf("%s is set in %s on %d of %d pages, and in %s on %s.", role.Selector, most, len(pages[most]), n, other, count(len(pages[other]))),
				Evidence: strings.Join(pages[other][:min(len(pages[other]), 10)], " "), Fix: "Put the styles where all pages have them, or the block on these pages too."})
		}
	}
}

func count(n int) string {
	if n == 1 {
		return "one"
	}
	return fmt.Sprint(n)
}
