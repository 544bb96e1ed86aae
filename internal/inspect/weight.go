package inspect

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"sparecrate/font/metadata"
)

// The bounds of what fonts may weigh.
const (
	worthTrimming = 20_000  // bytes that a subset saves
	worthPart     = 0.4     // of what comes
	heavy         = 400_000 // bytes of a page's fonts
	embedded      = 8_000   // characters of a stylesheet that are a font
)

// weight judges what fonts cost.
func (j *judge) weight() { scale{j}.weigh() }

// scale judges what the fonts of a page cost.
type scale struct{ *judge }

func (j scale) weigh() {
	var total int64
	byHash := map[string]*Request{}
	byFace := map[string]*Request{}
	for _, r := range j.Sent() {
		total += max(r.Wire, int64(len(r.Body)))
		if first := byHash[r.Font.SHA256]; first != nil {
			if first.URL != r.URL {
				j.add(Finding{Code: "font-twice", URL: r.URL, Message: fmt.Sprintf("The same font comes from %s and from %s.", first.URL, r.URL), Fix: fmt.Sprintf("src: url(%q)", first.URL)})
			} else if first.Preload != r.Preload {
				j.add(Finding{Code: "preload-twice", URL: r.URL, Message: fmt.Sprintf("The font %s is loaded twice: its preload does not say crossorigin, and rules ask for fonts with that.", r.URL), Fix: fmt.Sprintf(`<link rel="preload" href="%s" as="font" type="font/%s" crossorigin>`, r.URL, r.Font.Format)})
			}
			continue
		}
		byHash[r.Font.SHA256] = r
		f := &r.Font.Metadata
		key := f.Names.FamilyName() + "\x00" + f.Names.StyleName() + "\x00" + fmt.Sprint(len(f.Axes) > 0)
		if other := byFace[key]; other != nil && other.Font.Metadata.Names.Version != f.Names.Version {
			j.add(Finding{Code: "several-versions", URL: r.URL, Message: fmt.Sprintf("%s is loaded in two versions: %s and %s.", f.Names.Full, other.Font.Metadata.Names.Version, f.Names.Version), Evidence: other.URL, Fix: fmt.Sprintf("src: url(%q)", newer(other, r).URL)})
		}
		byFace[key] = r
		j.format(r)
		j.trimmable(r)
		j.lonely(r)
	}
	j.loadedUnused()
	j.preloads()
	j.inSheets()
	if total > heavy {
		j.add(Finding{Code: "too-heavy", URL: j.Final, Message: fmt.Sprintf("The fonts of the page come to %s, which takes %d seconds on a slow connection (1.6 Mbit/s).", kB(total), total*8/1_600_000),
			Fix: "Send fewer faces, as WOFF2, with the characters that the pages use."})
	}
}

func newer(a, b *Request) *Request {
	if a.Font.Metadata.Revision > b.Font.Metadata.Revision {
		return a
	}
	return b
}

// format judges what a font comes in.
func (j scale) format(r *Request) {
	size := int64(len(r.Body))
	saved := ""
	if r.Font.Compressed > 0 {
		saved = fmt.Sprintf("; as WOFF2 it is %s instead of %s", kB(r.Font.Compressed), kB(size))
	}
	fix := fmt.Sprintf("sparecrate file convert --to woff2 %s, and src: url(\"%s\") format(\"woff2\");", lastPart(r.URL), strings.TrimSuffix(r.URL, "."+r.Font.Format)+".woff2")
	switch r.Font.Format {
	case "ttf", "otf", "ttc":
		if r.Encoding != "" {
			saved += " (the server packs it as " + r.Encoding + ")"
		}
		j.add(Finding{Code: "uncompressed", URL: r.URL, Message: fmt.Sprintf("%s is sent as a %s file%s.", lastPart(r.URL), strings.ToUpper(r.Font.Format), saved), Fix: fix})
	case "woff":
		j.add(Finding{Code: "woff2-missing", URL: r.URL, Message: fmt.Sprintf("%s is sent as WOFF, which current browsers do not need%s.", lastPart(r.URL), saved), Fix: fix})
	}
}

// trimmable judges how much of a font is shown.
func (j scale) trimmable(r *Request) {
	now := cmp.Or(min(int64(len(r.Body)), r.Font.Compressed), int64(len(r.Body)))
	if Worthwhile(now, r.Font.Trimmed) {
		j.add(Saving(r.URL, now, r.Font.Trimmed, "this page does not show", r.Font.Metadata.Embedding.NoSubsetting))
	}
}

// lonely finds variable fonts that are sent for one weight.
func (j scale) lonely(r *Request) {
	if !slices.ContainsFunc(r.Font.Metadata.Axes, func(a metadata.Axis) bool { return a.Tag == "wght" }) {
		return
	}
	if len(r.Font.Metadata.Axes) > 1 {
		return // it may be there for what else varies
	}
	weights := map[int]bool{}
	for _, run := range j.UsedIn(r.Font) {
		weights[run.Weight] = true
	}
	if len(weights) != 1 || len(j.Canvas) > 0 {
		return
	}
	for w := range weights {
		j.add(Finding{Code: "variable-for-one", URL: r.URL, Message: fmt.Sprintf("%s varies in weight, and the page uses weight %d alone: a static one is smaller.", lastPart(r.URL), w), Fix: fmt.Sprintf("sparecrate file instance --at wght=%d --out static.woff2 %s", w, lastPart(r.URL))})
	}
}

// loadedUnused finds fonts that came and that no text is set in.
func (j scale) loadedUnused() {
	reported := map[string]bool{}
	for _, r := range j.Sent() {
		if reported[r.Font.SHA256] || len(j.UsedIn(r.Font)) > 0 {
			continue
		}
		family := r.Font.Metadata.Names.FamilyName()
		if x := j.ruleFor(r); x != nil {
			if x.sheet.Frame {
				continue
			}
			family = x.Family
		} else if r.Preload {
			continue // said of the preload
		}
		if j.onCanvas(family) || slices.ContainsFunc(j.Faces, func(f Face) bool {
			return f.Scripted && f.Source != "" && strings.Contains(f.Source, lastPart(r.URL)) && j.onCanvas(f.Family)
		}) {
			continue
		}
		if j.nameless(family) {
			continue
		}
		reported[r.Font.SHA256] = true
		j.add(Finding{Code: "loaded-unused", URL: r.URL, Message: fmt.Sprintf("%s is loaded (%s), and no text of the page is set in it.", lastPart(r.URL), kB(int64(len(r.Body)))), Fix: "Take out what asks for it: a rule, a preload, or a script."})
	}
}

// nameless reports whether text that asks for a family is set in a font of the page that
// goes by none of the names of those that came: names were taken out of some.
func (j scale) nameless(family string) bool {
	sent := j.Sent()
	return slices.ContainsFunc(j.asks(family), func(r *Run) bool {
		return slices.ContainsFunc(r.Fonts, func(u Used) bool {
			return u.Sent && !slices.ContainsFunc(sent, func(s *Request) bool { return s.Font.Is(u) })
		})
	})
}

// preloads judges links that ask for fonts early.
func (j scale) preloads() {
	for _, p := range j.Preloads {
		used := false
		for i := range j.Requests {
			r := &j.Requests[i]
			if r.Kind != FontKind || r.URL != p.URL && !slices.Contains(r.Through, p.URL) {
				continue
			}
			if r.Font != nil && (len(j.UsedIn(r.Font)) > 0 || j.onCanvas(r.Font.Metadata.Names.FamilyName())) && j.ruleOrScript(r) {
				used = true
			}
		}
		if p.As != "" && p.As != "font" {
			j.add(Finding{Code: "preload-unused", URL: p.URL, Message: fmt.Sprintf("The preload of %s says as=%q, so that browsers do not use it for the font.", p.URL, p.As), Fix: fmt.Sprintf(`<link rel="preload" href="%s" as="font" crossorigin>`, p.URL)})
			continue
		}
		if !used {
			j.add(Finding{Code: "preload-unused", URL: p.URL, Message: fmt.Sprintf("%s is asked for early, and the page does not use it.", lastPart(p.URL)), Fix: "Preload the file that rules ask for, as WOFF2, or take the link out."})
			continue
		}
		if !p.CORS {
			j.add(Finding{Code: "preload-twice", URL: p.URL, Message: fmt.Sprintf("The preload of %s does not say crossorigin, so that browsers load the font again for the rule.", lastPart(p.URL)), Fix: fmt.Sprintf(`<link rel="preload" href="%s" as="font" crossorigin>`, p.URL)})
		}
	}
}

// ruleOrScript reports whether a rule or a script of the page asks for a font.
func (j scale) ruleOrScript(r *Request) bool {
	return j.ruleFor(r) != nil || slices.ContainsFunc(j.Faces, func(f Face) bool { return f.Scripted && strings.Contains(f.Source, lastPart(r.URL)) })
}

// inSheets finds fonts that stand in stylesheets themselves.
func (j scale) inSheets() {
	for i := range j.rules {
		r := &j.rules[i]
		if r.Embedded > 0 && len(r.Text) > embedded && !r.sheet.Frame {
			j.add(r.place(Finding{Code: "font-embedded", Message: fmt.Sprintf("The font %s is embedded in the stylesheet (%s): the page waits for it before it shows anything, and browsers cannot cache it separately.", r.Family, kB(int64(len(r.Text)))), Fix: "Send it as a file: src: url(\"…\") format(\"woff2\");"}))
		}
	}
}
