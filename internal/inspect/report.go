package inspect

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"sparecrate/internal/css"
)

// Page is what an inspection says of a page. It holds no bytes of fonts.
type Page struct {
	URL       string         `json:"url"`
	Final     string         `json:"final"` // after redirects
	Title     string         `json:"title"`
	Inspected time.Time      `json:"inspected"`
	Status    int            `json:"status"`
	Bytes     int64          `json:"bytes"` // of its fonts, over the network
	FirstText int            `json:"firstTextMs"`
	FinalText int            `json:"finalTextMs"`
	Shift     float64        `json:"fontShift"` // layout shift that fonts caused
	Servers   []string       `json:"servers"`   // that fonts and their stylesheets come from
	Fonts     []LoadedFont   `json:"fonts"`
	Runs      []ShownRun     `json:"runs"`
	Families  []ShownFamily  `json:"families"`
	Faces     []ShownFace    `json:"faces"`    // what is set in each face, in the widest window
	Roles     []RoleShown    `json:"roles"`    // of the site, where it is known
	Sheets    []LoadedSheet  `json:"sheets"`   // with what they declare
	Declared  []Face         `json:"declared"` // document.fonts, when all was loaded
	Swaps     []FontSwap     `json:"swaps"`    // what moves when a family comes in place of its fallback
	Findings  []Finding      `json:"findings"`
	Shown     []Shown        `json:"-"` // its fonts with the characters that show
	Links     []string       `json:"-"` // URLs of other pages
	Picture   []byte         `json:"-"` // PNG
	Size      [2]int         `json:"-"` // of the picture
	Boxes     map[string]Box `json:"-"` // places in the picture, by selector
}

// LoadedFont is a font that a page asked for.
type LoadedFont struct {
	URL        string `json:"url"`
	Status     int    `json:"status"`
	Failed     string `json:"failed,omitempty"`
	Type       string `json:"type"`
	Protocol   string `json:"protocol"`
	Cache      string `json:"cache"`
	CORS       string `json:"cors"`
	Initiator  string `json:"initiator"`
	Preload    bool   `json:"preload"`
	Bytes      int64  `json:"bytes"` // over the network
	Size       int64  `json:"size"`  // unpacked
	Ms         int    `json:"ms"`
	Format     string `json:"format"`
	Family     string `json:"family"`
	Style      string `json:"style"`
	PostScript string `json:"postscript"`
	Version    string `json:"version"`
	SHA256     string `json:"sha256"`
	Used       bool   `json:"used"`
	Characters int    `json:"characters"` // that are set in it
	Known      *Known `json:"known,omitempty"`
}

// ShownRun is text of one look.
type ShownRun struct {
	Selector   string `json:"selector"`
	Width      int    `json:"width"`
	Asked      string `json:"asked"` // list of families
	Weight     int    `json:"weight"`
	Style      string `json:"style"`
	Used       string `json:"used"` // families that it is set in, those with most characters first
	PostScript string `json:"postscript"`
	Sent       bool   `json:"sent"` // by the page; else of the system
	Characters int    `json:"characters"`
	Faux       string `json:"faux"` // bold, italic, bold italic, or nothing
	Sample     string `json:"sample"`
}

// ShownFace sums up what is set in a face.
type ShownFace struct {
	Family     string `json:"family"`
	PostScript string `json:"postscript"`
	Sent       bool   `json:"sent"`
	Characters int    `json:"characters"`
}

// RoleShown is what the text of a role is set in.
type RoleShown struct {
	Title    string   `json:"title"`
	Selector string   `json:"selector"`
	Assigned string   `json:"assigned"` // family
	Used     []string `json:"used"`     // families
	Elements int      `json:"elements"`
}

// LoadedSheet is a stylesheet of a page with the faces that it declares.
type LoadedSheet struct {
	URL    string   `json:"url"`
	Inline bool     `json:"inline"`
	Script bool     `json:"script"` // a script built it
	Bytes  int      `json:"bytes"`
	Faces  []string `json:"faces"` // families of its @font-face rules, one for each rule
}

// FontSwap is how much text changes its height when a family comes.
type FontSwap struct {
	Family   string  `json:"family"`
	Fallback string  `json:"fallback"`
	Moves    float64 `json:"moves"`    // CSS pixels
	Adjusted float64 `json:"adjusted"` // the same with a fallback of the family's measure
}

// ShownFamily sums up what is set in a family.
type ShownFamily struct {
	Family     string `json:"family"`
	Sent       bool   `json:"sent"`
	Characters int    `json:"characters"`
}

// Report says what was found on a page.
func Report(v *Visit, at time.Time) *Page {
	p := &Page{URL: v.URL, Final: cmp.Or(v.Final, v.URL), Title: v.Title, Inspected: at.UTC().Truncate(time.Second), Status: v.Status, Links: v.Links, Picture: v.Picture, Size: [2]int{v.PictureWidth, v.PictureHeight},
		FirstText: int(v.Moments.FirstText.Milliseconds()), FinalText: int(v.Moments.FinalText.Milliseconds()),
		Servers: []string{}, Fonts: []LoadedFont{}, Runs: []ShownRun{}, Families: []ShownFamily{}, Faces: []ShownFace{}, Roles: []RoleShown{}, Sheets: []LoadedSheet{}, Declared: append([]Face{}, v.Faces...), Swaps: []FontSwap{}, Shown: v.shownFonts(), Findings: []Finding{}, Boxes: map[string]Box{}}
	j := &judge{Visit: v}
	for i := range v.Requests {
		r := &v.Requests[i]
		if r.Kind != FontKind {
			continue
		}
		f := LoadedFont{URL: r.URL, Status: r.Status, Failed: r.Failed, Type: r.Type, Protocol: r.Protocol, Cache: r.Cache, CORS: r.CORS, Initiator: r.Initiator, Preload: r.Preload, Bytes: r.Wire, Size: int64(len(r.Body)), Ms: int(r.Took.Milliseconds())}
		p.Bytes += r.Wire
		if host := hostOf(r.URL); host != "" && !slices.Contains(p.Servers, host) {
			p.Servers = append(p.Servers, host)
		}
		if r.Font != nil {
			n := r.Font.Metadata.Names
			f.Format, f.Family, f.Style, f.PostScript, f.Version, f.SHA256, f.Known = r.Font.Format, n.FamilyName(), n.StyleName(), n.PostScript, n.Version, r.Font.SHA256, r.Font.Known
			for _, run := range v.UsedIn(r.Font) {
				for _, u := range run.Fonts {
					if r.Font.Is(u) && run.Width == v.widest() {
						f.Characters += u.Characters
					}
				}
				f.Used = true
			}
		}
		p.Fonts = append(p.Fonts, f)
	}
	for _, s := range v.Moments.Shifts {
		if s.Font {
			p.Shift += s.Score
		}
	}
	v.declares(p)
	sums, faces := map[ShownFamily]int{}, map[ShownFace]int{}
	for i := range v.Runs {
		r := &v.Runs[i]
		if r.Invisible {
			continue
		}
		fonts := slices.Clone(r.Fonts)
		slices.SortStableFunc(fonts, func(a, b Used) int { return b.Characters - a.Characters })
		out := ShownRun{Selector: r.Selector, Width: r.Width, Asked: strings.Join(r.Asked, ", "), Weight: r.Weight, Style: r.Style, Characters: r.Characters, Sample: r.Text, PostScript: fonts[0].PostScript, Sent: fonts[0].Sent}
		var used []string
		for _, u := range fonts {
			if !slices.Contains(used, u.Family) {
				used = append(used, u.Family)
			}
			if r.Width == v.widest() {
				sums[ShownFamily{Family: u.Family, Sent: u.Sent}] += u.Characters
				faces[ShownFace{Family: u.Family, PostScript: u.PostScript, Sent: u.Sent}] += u.Characters
			}
		}
		out.Used = strings.Join(used, ", ")
		if f := j.face(r); f != nil {
			bold, slant := r.Faux(f)
			out.Faux = strings.TrimSpace(map[bool]string{true: "bold"}[bold] + " " + map[bool]string{true: "italic"}[slant])
		}
		if _, has := p.Boxes[r.Selector]; !has && r.Width == v.widest() {
			p.Boxes[r.Selector] = r.Box
		}
		p.Runs = append(p.Runs, out)
	}
	for f, n := range sums {
		f.Characters = n
		p.Families = append(p.Families, f)
	}
	slices.SortFunc(p.Families, func(a, b ShownFamily) int {
		return cmp.Or(b.Characters-a.Characters, strings.Compare(a.Family, b.Family))
	})
	for f, n := range faces {
		f.Characters = n
		p.Faces = append(p.Faces, f)
	}
	slices.SortFunc(p.Faces, func(a, b ShownFace) int {
		return cmp.Or(b.Characters-a.Characters, strings.Compare(a.Family, b.Family), strings.Compare(a.PostScript, b.PostScript))
	})
	p.Findings = append(p.Findings, Judge(v)...)
	return p
}

// declares tells what the stylesheets of the page declare, what its site's roles are set in, and
// what moves when its fonts come.
func (v *Visit) declares(p *Page) {
	for i := range v.Sheets {
		s := &v.Sheets[i]
		one := LoadedSheet{URL: s.URL, Inline: s.Inline, Script: s.Built, Bytes: len(s.Text), Faces: []string{}}
		for _, r := range css.FontRules(s.Text, s.URL) {
			one.Faces = append(one.Faces, r.Family)
		}
		p.Sheets = append(p.Sheets, one)
	}
	for _, r := range v.Roles {
		one := RoleShown{Title: r.Title, Selector: r.Selector, Assigned: r.Family, Used: []string{}, Elements: r.Elements}
		for _, u := range r.Fonts {
			if !slices.Contains(one.Used, u.Family) {
				one.Used = append(one.Used, u.Family)
			}
		}
		p.Roles = append(p.Roles, one)
	}
	for _, s := range v.Swaps {
		p.Swaps = append(p.Swaps, FontSwap{Family: s.Family, Fallback: s.Fallback, Moves: s.Before, Adjusted: s.After})
	}
}

// widest returns the width of the window that the picture was taken in.
func (v *Visit) widest() int {
	out := 0
	for i := range v.Runs {
		out = max(out, v.Runs[i].Width)
	}
	return out
}
