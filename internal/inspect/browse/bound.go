package browse

import (
	"unicode/utf8"

	"sparecrate/internal/inspect"
)

// The bounds of what is told of a page, whatever it names its elements and families.
const (
	longestName = 500 // bytes
	longestURL  = 2000
	longestText = 4000
	mostTold    = 500 // findings of a page, the worst first
)

// cut shortens a text to so many bytes, at the end of a character.
func cut(s *string, most int) {
	if len(*s) <= most {
		return
	}
	for most > 0 && !utf8.RuneStart((*s)[most]) {
		most--
	}
	*s = (*s)[:most] + "…"
}

// bound shortens what a page can make as long as it likes.
func bound(p *inspect.Page) {
	cut(&p.URL, longestURL)
	cut(&p.Final, longestURL)
	cut(&p.Title, longestName)
	for i := range p.Fonts {
		f := &p.Fonts[i]
		for _, s := range []*string{&f.Failed, &f.Type, &f.Cache, &f.CORS, &f.Family, &f.Style, &f.PostScript, &f.Version} {
			cut(s, longestName)
		}
		cut(&f.URL, longestURL)
		cut(&f.Initiator, longestURL)
	}
	boxes := map[string]inspect.Box{}
	for i := range p.Runs {
		r := &p.Runs[i]
		box, has := p.Boxes[r.Selector]
		for _, s := range []*string{&r.Selector, &r.Asked, &r.Style, &r.Used, &r.PostScript, &r.Sample} {
			cut(s, longestName)
		}
		if has {
			boxes[r.Selector] = box
		}
	}
	p.Boxes = boxes
	for i := range p.Families {
		cut(&p.Families[i].Family, longestName)
	}
	for i := range p.Faces {
		cut(&p.Faces[i].Family, longestName)
		cut(&p.Faces[i].PostScript, longestName)
	}
	for i := range p.Sheets {
		s := &p.Sheets[i]
		cut(&s.URL, longestURL)
		s.Faces = s.Faces[:min(len(s.Faces), mostTold)]
		for n := range s.Faces {
			cut(&s.Faces[n], longestName)
		}
	}
	p.Declared = p.Declared[:min(len(p.Declared), mostTold)]
	for i := range p.Declared {
		d := &p.Declared[i]
		for _, s := range []*string{&d.Family, &d.Weight, &d.Style, &d.Stretch, &d.Range, &d.Display, &d.Source} {
			cut(s, longestName)
		}
	}
	p.Findings = p.Findings[:min(len(p.Findings), mostTold)]
	for i := range p.Findings {
		f := &p.Findings[i]
		cut(&f.Selector, longestName)
		cut(&f.URL, longestURL)
		for _, s := range []*string{&f.Message, &f.Fix, &f.Evidence} {
			cut(s, longestText)
		}
	}
}
