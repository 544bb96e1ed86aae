package survey

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"sparecrate/internal/inspect"
)

// mostTogether bounds the fonts that are held until all pages were seen.
const mostTogether = 60

// Together is what several pages of a site load and show. It holds each font once, and no
// pages.
type Together struct {
	pages int
	fonts []*inspect.Shown
	byKey map[string]*inspect.Shown
}

// Add takes what a page shows, and lets the page go of it.
func (t *Together) Add(p *inspect.Page) {
	t.pages++
	if t.byKey == nil {
		t.byKey = map[string]*inspect.Shown{}
	}
	for _, s := range p.Shown {
		one := t.byKey[s.SHA256]
		if one == nil {
			if len(t.fonts) >= mostTogether {
				continue
			}
			one = &s
			t.byKey[s.SHA256] = one
			t.fonts = append(t.fonts, one)
			continue
		}
		one.Text = inspect.Once(one.Text, s.Text)
	}
	p.Shown = nil
}

// Findings returns what only several pages together show: what subsets of the characters that
// all of them show would save, and versions of one face. What single pages say of subsets is
// taken off them, since another page may need what they do not.
func (t *Together) Findings(pages []*inspect.Page) []inspect.Finding {
	if t.pages < 2 {
		return nil
	}
	for _, p := range pages {
		p.Findings = slices.DeleteFunc(p.Findings, func(f inspect.Finding) bool { return f.Code == "subset-would-save" })
	}
	var out []inspect.Finding
	for _, s := range t.fonts {
		trimmed := inspect.Subset(s.Face, s.Text)
		if trimmed > 0 && inspect.Worthwhile(s.Size, trimmed) {
			f := inspect.Saving(s.URL, s.Size, trimmed, fmt.Sprintf("none of the %d pages shows", t.pages), s.NoSubset)
			f.Severity = inspect.SeverityOf(f.Code)
			out = append(out, f)
		}
	}
	said := map[string]bool{}
	for i, s := range t.fonts {
		for _, o := range t.fonts[:i] {
			key := s.Name + "\x00" + s.Style
			if s.Name != o.Name || s.Style != o.Style || s.Variable != o.Variable || s.Version == o.Version || said[key] {
				continue
			}
			said[key] = true
			f := inspect.Finding{Code: "several-versions", URL: s.URL, Message: fmt.Sprintf("The pages load %s in two versions: %s and %s.", strings.TrimSpace(s.Name+" "+s.Style), o.Version, s.Version), Evidence: o.URL, Fix: "Have all pages load the same file: put one up, and write its URL into every stylesheet."}
			f.Severity = inspect.SeverityOf(f.Code)
			out = append(out, f)
		}
	}
	return out
}

// Absent finds the families of the newest packs that none of some pages loads. Pages that
// could not be seen whole tell nothing.
func Absent(pages []*inspect.Page, packs []inspect.Pack) []inspect.Finding {
	loaded := map[int64]bool{}
	looked := 0
	for _, p := range pages {
		whole := !slices.ContainsFunc(p.Findings, func(f inspect.Finding) bool { return inspect.IsTrouble(f.Code) || f.Code == "page-error" })
		if !whole {
			return nil
		}
		looked++
		for _, f := range p.Fonts {
			for i := range packs {
				if packs[i].Files[f.SHA256] != "" {
					for id := range packs[i].Families {
						if f.Known == nil || f.Known.Family == 0 || f.Known.Family == id {
							loaded[id] = true
						}
					}
				}
			}
			if f.Known != nil {
				loaded[f.Known.Family] = true
			}
		}
	}
	var out []inspect.Finding
	said := map[int64]bool{}
	for _, p := range packs {
		if !p.Newest || looked == 0 {
			continue
		}
		for _, id := range slices.Sorted(maps.Keys(p.Families)) {
			if loaded[id] || said[id] {
				continue
			}
			said[id] = true
			out = append(out, inspect.Finding{Code: "pack-missing", Severity: inspect.SeverityOf("pack-missing"), Message: fmt.Sprintf("%s is in the pack of %s, and none of the inspected pages loads it.", p.Families[id], p.Built.Format(time.DateOnly)), Evidence: p.Name,
				Fix: "Put up the files of the pack and its styles; or take the family off the site."})
		}
	}
	return out
}
