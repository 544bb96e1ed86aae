package inspect

import (
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"

	"sparecrate/font/coverage"
	"sparecrate/font/subset"
	"sparecrate/internal/css"
	"sparecrate/internal/pack"
)

// The bounds of what visitors notice.
const (
	noticed    = 600 * time.Millisecond // text that is invisible for longer
	shifted    = 0.02                   // layout shift by fonts
	movedPart  = 0.1                    // part of the text's height
	movedMost  = 48.0                   // CSS pixels
	boldFrom   = 600                    // browsers make up a bold from here (CSS Fonts 4, section 5.2)
	mostListed = 12                     // characters that a message lists
)

// shown judges what text is set in.
func (j *judge) shown() { reading{j}.shown() }

// reading judges what text is set in.
type reading struct{ *judge }

func (j reading) shown() {
	for i := range j.Runs {
		r := &j.Runs[i]
		if r.Invisible {
			continue
		}
		j.faux(r)
		j.missing(r)
		j.icons(r)
	}
	j.noFallback()
	j.waiting()
	j.moves()
}

// face returns the face that a run is set in, of those that the page declares: the first
// family asked for that has come, and of it the face nearest in slope and weight (CSS
// Fonts Level 4, section 5.2).
func (j *judge) face(r *Run) *Face {
	if !slices.ContainsFunc(r.Fonts, func(u Used) bool { return u.Sent }) {
		return nil
	}
	for _, family := range r.Asked {
		var of []*Face
		for i := range j.Faces {
			if f := &j.Faces[i]; sameName(f.Family, family) && f.Status == "loaded" {
				of = append(of, f)
			}
		}
		if len(of) > 0 {
			return nearest(of, r.Weight, r.Style)
		}
	}
	return nil
}

func nearest(of []*Face, weight int, style string) *Face {
	slope := func(f *Face) string {
		word, _, _ := strings.Cut(f.Style, " ")
		return word
	}
	order := map[string][]string{"normal": {"normal", "oblique", "italic"}, "italic": {"italic", "oblique", "normal"}, "oblique": {"oblique", "italic", "normal"}}[style]
	for _, s := range order {
		var same []*Face
		for _, f := range of {
			if slope(f) == s {
				same = append(same, f)
			}
		}
		if len(same) > 0 {
			return slices.MinFunc(same, func(a, b *Face) int { return far(a, weight) - far(b, weight) })
		}
	}
	return of[0]
}

// far orders faces by weight: those that a browser takes first have less.
func far(f *Face, weight int) int {
	low, high := weightsOf(f.Weight)
	return pack.Distance(low, high, weight)
}

// faux finds styles that the browser makes up.
func (j reading) faux(r *Run) {
	f := j.face(r)
	if f == nil {
		return
	}
	bold, slant := r.Faux(f)
	if bold {
		low, _ := weightsOf(f.Weight)
		j.add(Finding{Code: "faux-bold", Selector: r.Selector, Message: fmt.Sprintf("%s asks for weight %d of %s; the heaviest that comes is %d, which the browser thickens.", r.Selector, r.Weight, f.Family, low),
			Fix: fmt.Sprintf("@font-face { font-family: %s; font-weight: %d; src: url(\"…\") format(\"woff2\"); }", css.Quote(f.Family), r.Weight), Evidence: fmt.Sprintf("%d characters in %s", r.Characters, postScript(r))})
	}
	if slant {
		j.add(Finding{Code: "faux-italic", Selector: r.Selector, Message: fmt.Sprintf("%s asks for %s of %s; only an upright one comes, which the browser slants.", r.Selector, r.Style, f.Family),
			Fix: fmt.Sprintf("@font-face { font-family: %s; font-style: italic; font-weight: %d; src: url(\"…\") format(\"woff2\"); }", css.Quote(f.Family), r.Weight), Evidence: fmt.Sprintf("%d characters in %s", r.Characters, postScript(r))})
	}
}

// Faux says what the browser makes up where it sets a run in a face.
func (r *Run) Faux(f *Face) (bold, slant bool) {
	_, high := weightsOf(f.Weight)
	return r.MayBold && r.Weight >= boldFrom && high < boldFrom, r.MaySlant && r.Style != "normal" && strings.HasPrefix(f.Style, "normal")
}

func postScript(r *Run) string {
	for _, f := range r.Fonts {
		if f.Sent {
			return f.PostScript
		}
	}
	return "no font of the page"
}

// files returns the fonts that have come for a family.
func (j *judge) files(family string) []*Request {
	var out []*Request
	for i := range j.Requests {
		r := &j.Requests[i]
		if r.Kind != FontKind || r.Font == nil {
			continue
		}
		if x := j.ruleFor(r); x != nil && sameName(x.Family, family) {
			out = append(out, r)
			continue
		}
		for _, f := range j.Faces {
			if f.Scripted && sameName(f.Family, family) && f.Source != "" && strings.Contains(f.Source, lastPart(r.URL)) {
				out = append(out, r)
				break
			}
		}
	}
	return out
}

func lastPart(u string) string {
	u, _, _ = strings.Cut(u, "?")
	return u[strings.LastIndexByte(u, '/')+1:]
}

// missing finds characters that fall to another font than asked for.
func (j reading) missing(r *Run) {
	if len(r.Asked) == 0 {
		return
	}
	first := r.Asked[0]
	files := j.files(first)
	if len(files) == 0 {
		return
	}
	var has coverage.Characters
	for _, family := range r.Asked {
		for _, f := range j.files(family) {
			if c, err := subset.Has(f.Font.Face); err == nil {
				has = has.Plus(c)
			}
		}
	}
	// What comes only when it is needed was not needed, or would have come.
	for i := range j.rules {
		x := &j.rules[i]
		if x.Range != "" && !j.wanted(x) && slices.ContainsFunc(r.Asked, func(a string) bool { return sameName(a, x.Family) }) {
			if c, err := coverage.ParseRanges(x.Range); err == nil && !slices.ContainsFunc(j.Faces, func(f Face) bool { return sameName(f.Family, x.Family) && f.Status == "error" }) {
				has = has.Plus(c.And(coverage.All))
			}
		}
	}
	scripts := scriptsOf(files)
	deliberate := slices.ContainsFunc(r.Asked[1:], func(a string) bool { return !plain(a) && !j.families[strings.ToLower(a)] })
	var lost []rune
	for _, c := range r.Text {
		if has.Has(c) || unicode.Is(unicode.Mn, c) || emoji(c) {
			continue
		}
		if s := script(c); s != "" && !scripts[s] && deliberate && s != "Latin" && s != "Greek" && s != "Cyrillic" {
			continue // a script that another family of the list is there for
		}
		lost = append(lost, c)
	}
	if len(lost) == 0 {
		return
	}
	listed := string(lost[:min(len(lost), mostListed)])
	j.add(Finding{Code: "missing-characters", Selector: r.Selector, Message: fmt.Sprintf("%s has no %s; in %s they fall to whatever font a visitor's system has for them.", first, strings.Join(strings.Split(listed, ""), " "), r.Selector),
		Evidence: fmt.Sprintf("%d of the characters there; %s", len(lost), codePoints(lost)), Fix: "Send a version of the font that has them, or name a second family for them: font-family: " + css.Quote(first) + ", \"…\";"})
}

func codePoints(of []rune) string {
	var out []string
	for _, c := range of[:min(len(of), mostListed)] {
		out = append(out, fmt.Sprintf("U+%04X", c))
	}
	return strings.Join(out, " ")
}

func emoji(c rune) bool {
	return c >= 0x1F000 && c <= 0x1FAFF || c >= 0x2600 && c <= 0x27BF || c >= 0xFE00 && c <= 0xFE0F || c == 0x20E3
}

func script(c rune) string {
	for name, table := range unicode.Scripts {
		if name != "Common" && name != "Inherited" && unicode.Is(table, c) {
			return name
		}
	}
	return ""
}

func scriptsOf(files []*Request) map[string]bool {
	out := map[string]bool{}
	for _, f := range files {
		for _, s := range f.Font.Metadata.Coverage.Scripts {
			out[s.Name] = true
		}
	}
	return out
}

// icons finds icons that screen readers read out: characters for private use, or words
// that a ligature draws as a picture.
func (j reading) icons(r *Run) {
	if r.Hidden {
		return
	}
	all := r.Text != ""
	for _, c := range r.Text {
		if !unicode.Is(unicode.Co, c) {
			all = false
		}
	}
	if all {
		j.add(Finding{Code: "icon-read-aloud", Selector: r.Selector, Message: fmt.Sprintf("%s shows an icon as a character for private use, which screen readers read as nonsense or not at all.", r.Selector),
			Evidence: codePoints([]rune(r.Text)), Fix: "<span aria-hidden=\"true\">…</span>, with the meaning in words beside it for screen readers."})
	}
}

// noFallback finds lists of families that end without a general one.
func (j reading) noFallback() {
	for i := range j.Runs {
		r := &j.Runs[i]
		if len(r.Asked) == 0 || generic[strings.ToLower(r.Asked[len(r.Asked)-1])] || privateUse(r.Text) || slices.ContainsFunc(r.Asked, func(a string) bool { return generic[strings.ToLower(a)] || safe[strings.ToLower(a)] }) {
			continue
		}
		if !j.families[strings.ToLower(r.Asked[0])] {
			continue
		}
		j.add(Finding{Code: "no-fallback", Selector: r.Selector, Message: fmt.Sprintf("The families of %s end without a general one, so that browsers fall to their own default, mostly a serif.", r.Selector),
			Fix: "font-family: " + quoted(r.Asked) + ", sans-serif;"})
		return
	}
}

func quoted(names []string) string {
	out := make([]string, len(names))
	for i, n := range names {
		if out[i] = css.Quote(n); generic[strings.ToLower(n)] {
			out[i] = n
		}
	}
	return strings.Join(out, ", ")
}

func privateUse(text string) bool {
	return strings.ContainsFunc(text, func(c rune) bool { return unicode.Is(unicode.Co, c) })
}

// waiting finds text that is invisible while its font loads.
func (j reading) waiting() {
	for i := range j.Requests {
		r := &j.Requests[i]
		rule := j.ruleFor(r)
		if r.Kind != FontKind || rule == nil || rule.Display != "" && rule.Display != "auto" && rule.Display != "block" || rule.sheet.Frame {
			continue
		}
		hidden := min(r.Took, 3*time.Second)
		if hidden < noticed || privateUseOnly(j.asks(rule.Family)) {
			continue
		}
		j.add(rule.place(Finding{Code: "text-invisible", Message: fmt.Sprintf("Text in %s was invisible for %.1f seconds while %s loaded.", rule.Family, hidden.Seconds(), lastPart(r.URL)), Evidence: r.URL, Fix: "font-display: swap;"}))
	}
}

func privateUseOnly(runs []*Run) bool {
	return len(runs) > 0 && !slices.ContainsFunc(runs, func(r *Run) bool { return !privateUse(r.Text) })
}

// moves finds pages that move when their fonts come.
func (j reading) moves() {
	score := 0.0
	for _, s := range j.Moments.Shifts {
		if s.Font {
			score += s.Score
		}
	}
	found := false
	for _, s := range j.Swaps {
		if s.Adjusted || s.Height == 0 || s.Before < 1 || s.Before-s.After < s.Before/2 {
			continue
		}
		if score < shifted && (s.Before < movedMost || s.Before/s.Height < movedPart) {
			continue
		}
		found = true
		f := Finding{Code: "fallback-shift", Message: fmt.Sprintf("When %s comes in place of %s, text changes its height by %.0f pixels in all; with a fallback adjusted to its metrics it would be %.0f.", s.Family, s.Fallback, s.Before, s.After), Fix: s.Rule,
			Evidence: fmt.Sprintf("layout shift by fonts while it was looked at: %.3f", score)}
		for i := range j.rules {
			if sameName(j.rules[i].Family, s.Family) {
				f = j.rules[i].place(f)
				break
			}
		}
		j.add(f)
	}
	if !found && score >= 0.1 {
		j.add(Finding{Code: "fallback-shift", URL: j.Final, Message: fmt.Sprintf("The page moves when its fonts load: a layout shift of %.2f.", score), Fix: "Give the fallback the family's measure: size-adjust, ascent-override and descent-override in an @font-face rule with src: local()."})
	}
}
