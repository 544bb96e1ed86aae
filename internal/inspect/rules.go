package inspect

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"sparecrate/font/coverage"
	"sparecrate/font/metadata"
	"sparecrate/font/subset"
	"sparecrate/internal/css"
)

// sheets judges what stands in stylesheets, read as text: what browsers drop.
func (j *judge) sheets() {
	done := map[string]bool{}
	for i := range j.Sheets {
		s := &j.Sheets[i]
		if s.Frame || s.Off || done[s.URL+s.Text] {
			continue
		}
		done[s.URL+s.Text] = true
		at := func(line int) Finding {
			if s.Inline {
				line += s.Line - 1
			}
			return Finding{URL: s.URL, Line: line}
		}
		for _, m := range css.MisspelledRules(s.Text) {
			f := at(m.Line)
			f.Code, f.Message, f.Fix, f.Evidence = "rule-dropped", fmt.Sprintf("Browsers ignore the rule that begins with %s: the correct spelling is @font-face.", m.Name), "@font-face {", short(m.Text)
			j.add(f)
		}
		for _, line := range css.CurlyLines(s.Text) {
			f := at(line)
			f.Code, f.Message, f.Fix = "rule-dropped", "Curly quotes are used where code needs straight ones; browsers read them as part of the name or ignore the declaration.", "Write \" or ' in place of them."
			lines := strings.Split(s.Text, "\n")
			if line <= len(lines) {
				f.Evidence = short(lines[line-1])
				f.Fix = short(css.Curly.ReplaceAllString(strings.TrimSpace(lines[line-1]), `"`))
			}
			j.add(f)
		}
	}
	for i := range j.rules {
		j.dropped(&j.rules[i])
	}
	for _, l := range j.Losing {
		if plain(l.Family) {
			continue
		}
		where := l.By
		if l.BySheet != "" && l.BySheet != l.Sheet {
			where += " in " + l.BySheet
		}
		fix := l.Selector + " { font-family: " + css.Quote(l.Family) + " !important; }"
		if l.Inline {
			where = "a style attribute"
		}
		if !l.Important && !l.Inline && !strings.Contains(l.By, ",") {
			fix = fmt.Sprintf(":root %s { font-family: %s; }", l.By, css.Quote(l.Family)) // more specific than the one that wins
		}
		j.add(Finding{Code: "rule-overridden", URL: l.Sheet, Line: l.Line, Selector: l.Selector, Fix: fix,
			Message:  fmt.Sprintf("The rule for %s asks for %s, and %s wins over it everywhere with %s.", l.Selector, l.Family, where, l.ByFamily),
			Evidence: fmt.Sprintf("%s, line %d", l.By, l.ByLine)})
	}
}

// dropped says why browsers drop a rule.
func (j *judge) dropped(r *rule) {
	why, fix := "", ""
	switch {
	case r.Family == "":
		why, fix = "it has no font-family that can be read", "font-family: \"Name of the family\";"
	case !r.Source:
		why, fix = "it has no src", "src: url(\"file.woff2\") format(\"woff2\");"
	case len(r.Files)+len(r.Local)+r.Embedded == 0:
		why, fix = "its src holds no url() that can be read", "src: url(\"file.woff2\") format(\"woff2\");"
	case !slices.ContainsFunc(r.Files, func(f css.HostedFile) bool { return readable(f.Format) }) && len(r.Local)+r.Embedded == 0:
		why, fix = "its src names formats only that browsers do not know", "format(\"woff2\")"
	case !r.Nested && !r.sheet.Frame && !r.sheet.Built && len(j.Faces) > 0 && !slices.ContainsFunc(j.Faces, func(f Face) bool { return sameName(f.Family, r.Family) }):
		why, fix = "something before it or in it cannot be read", "Look at the line before the rule: a brace or semicolon is missing."
	default:
		return
	}
	j.add(r.place(Finding{Code: "rule-dropped", Message: fmt.Sprintf("Browsers ignore the rule of %s: %s.", orUnnamed(r.Family), why), Fix: fix, Evidence: short(r.Text)}))
}

func orUnnamed(s string) string {
	if s == "" {
		return "a font"
	}
	return s
}

// readable reports whether current browsers read a format.
func readable(format string) bool {
	format, _, _ = strings.Cut(format, "-variations")
	return slices.Contains([]string{"", "woff2", "woff", "truetype", "opentype", "collection", "woff2-variations"}, strings.Trim(format, `"' `))
}

func sameName(a, b string) bool { return strings.EqualFold(strings.TrimSpace(a), strings.TrimSpace(b)) }

// plain reports whether a family is a general one, or one that most systems have.
func plain(family string) bool {
	f := strings.ToLower(family)
	return generic[f] || safe[f]
}

var generic = words("serif,sans-serif,monospace,cursive,fantasy,system-ui,ui-serif,ui-sans-serif,ui-monospace,ui-rounded,math,emoji,fangsong,inherit,initial,unset,revert,-apple-system,blinkmacsystemfont")

// safe are families that most systems have, or a like one in their place.
var safe = words("arial,helvetica,helvetica neue,times,times new roman,courier,courier new,georgia,verdana,tahoma,trebuchet ms,palatino,palatino linotype,book antiqua,lucida grande,lucida sans unicode,geneva,monaco,menlo,consolas,lucida console,arial black,impact,comic sans ms,liberation sans,liberation serif,liberation mono,dejavu sans,dejavu serif,dejavu sans mono,noto sans,noto serif,roboto")

// systems are families that belong to one system or program: with others they are the
// stack that means "as the system does it".
var systems = union(scripted, "segoe ui,segoe ui variable,san francisco,sf pro,sf pro text,sf pro display,sf mono,ubuntu,cantarell,oxygen,fira sans,droid sans,cascadia code,cascadia mono,source code pro,new york,cambria,charter,iowan old style,optima,avenir,avenir next,gill sans,futura,calibri,candara,corbel,constantia,hoefler text,didot,baskerville,copperplate,rockwell,franklin gothic medium,century gothic,inter")

// scripted are families of systems that are there for the characters of a script.
var scripted = words("noto sans cjk jp,noto sans cjk sc,noto sans cjk tc,noto sans cjk kr,noto serif cjk jp,noto serif cjk sc,noto sans jp,noto serif jp,hiragino sans,hiragino kaku gothic pron,hiragino kaku gothic pro,hiragino mincho pron,yu gothic,yu mincho,meiryo,ms pgothic,ms gothic,ms mincho,osaka,pingfang sc,pingfang tc,pingfang hk,microsoft yahei,microsoft jhenghei,heiti sc,heiti tc,stheiti,simsun,simhei,songti sc,kaiti,apple sd gothic neo,malgun gothic,nanum gothic,batang,gulim,dotum,noto sans kr,noto sans sc,noto sans tc,noto sans arabic,noto naskh arabic,noto kufi arabic,geeza pro,arabic typesetting,traditional arabic,simplified arabic,noto sans hebrew,noto serif hebrew,arial hebrew,noto sans devanagari,kohinoor devanagari,mangal,nirmala ui,noto sans thai,thonburi,leelawadee ui,noto sans symbols,apple color emoji,segoe ui emoji,segoe ui symbol,noto color emoji")

func union(of map[string]bool, list string) map[string]bool {
	out := words(list)
	maps.Copy(out, of)
	return out
}

func words(list string) map[string]bool {
	out := map[string]bool{}
	for _, w := range strings.Split(list, ",") {
		out[w] = true
	}
	return out
}

// near reports whether two names differ only in what people overlook: spaces, hyphens,
// underscores, quotes, capitals.
func near(a, b string) bool {
	fold := func(s string) string {
		return strings.Map(func(r rune) rune {
			if unicode.IsLetter(r) || unicode.IsDigit(r) {
				return unicode.ToLower(r)
			}
			return -1
		}, s)
	}
	a, b = fold(a), fold(b)
	if a == "" || b == "" {
		return false
	}
	return a == b || len(a) > 5 && len(b) > 5 && oneApart(a, b)
}

// oneApart reports whether one letter added, left out, exchanged or changed makes one word
// of the other.
func oneApart(a, b string) bool {
	x, y := []rune(a), []rune(b)
	if len(x) > len(y) {
		x, y = y, x
	}
	if len(y)-len(x) > 1 {
		return false
	}
	i := 0
	for i < len(x) && x[i] == y[i] {
		i++
	}
	if len(x) == len(y) {
		if i+1 < len(x) && x[i] == y[i+1] && x[i+1] == y[i] && string(x[i+2:]) == string(y[i+2:]) {
			return true
		}
		return i < len(x) && string(x[i+1:]) == string(y[i+1:])
	}
	return string(x[i:]) == string(y[i+1:])
}

// declarations judges rules against the files that they ask for, and against the text.
func (j *judge) declarations() {
	formats := []string{"embedded-opentype", "svg"}
	var silent []*rule
	for i := range j.rules {
		r := &j.rules[i]
		if r.sheet.Frame || r.Family == "" || !r.Source {
			continue
		}
		for _, f := range r.Files {
			ending := strings.ToLower(strings.SplitN(strings.SplitN(f.Address, "?", 2)[0], "#", 2)[0])
			if slices.Contains(formats, f.Format) || strings.HasSuffix(ending, ".eot") || strings.HasSuffix(ending, ".svg") {
				j.add(r.place(Finding{Code: "legacy-format", Message: fmt.Sprintf("The rule of %s lists %s, which no current browser reads.", r.Family, f.Address),
					Fix: "Keep only WOFF2 in the rule: src: url(\"…\") format(\"woff2\");"}))
				break
			}
		}
		if len(r.Files) > 0 && r.Display == "" {
			silent = append(silent, r)
		}
		for _, other := range j.rules[:i] {
			if !r.Nested && !other.Nested && !other.sheet.Frame && sameName(other.Family, r.Family) && other.WeightMin == r.WeightMin && other.WeightMax == r.WeightMax && other.Style == r.Style && other.Stretch == r.Stretch && other.Range == r.Range &&
				len(r.Files) > 0 && len(other.Files) > 0 {
				j.add(r.place(Finding{Code: "rule-duplicate", Message: fmt.Sprintf("Two rules declare %s in weight %d, %s; the later one counts.", r.Family, r.WeightMin, r.Style),
					Evidence: fmt.Sprintf("the other is in %s, line %d", other.sheet.URL, other.line()), Fix: "Keep one of them, and give the other the weight and style of its file."}))
				break
			}
		}
		if len(r.Local) > 0 && len(r.Files)+r.Embedded == 0 && !r.Adjusted && len(j.asks(r.Family)) > 0 {
			j.add(r.place(Finding{Code: "local-only", Message: fmt.Sprintf("The rule of %s takes a font of the visitor's own machine (%s) and nothing else: most visitors do not have it.", r.Family, r.Local[0]),
				Selector: j.asks(r.Family)[0].Selector, Fix: "Add the file: src: local(" + css.Quote(r.Local[0]) + "), url(\"…\") format(\"woff2\");"}))
		}
	}
	if len(silent) > 0 {
		names := []string{}
		for _, r := range silent {
			if !slices.Contains(names, r.Family) {
				names = append(names, r.Family)
			}
		}
		j.add(silent[0].place(Finding{Code: "no-font-display", Message: fmt.Sprintf("The rules of %s do not say what is shown until the font is there; browsers then hide text for up to three seconds.", strings.Join(names, ", ")),
			Evidence: fmt.Sprintf("%d rules", len(silent)), Fix: "font-display: swap;"}))
	}
	for i := range j.Requests {
		if r := &j.Requests[i]; r.Kind == FontKind && r.Font != nil {
			j.labels(r)
		}
	}
	j.unused()
	j.undeclared()
}

// labels compares a file with the rule that asks for it.
func (j *judge) labels(r *Request) {
	rule := j.ruleFor(r)
	if rule == nil {
		return
	}
	f := &r.Font.Metadata
	if len(f.Axes) == 0 {
		weight := f.Style.Weight
		// A family of one face that is named like it has that face at every weight, on purpose.
		alone := sameName(rule.Family, f.Names.Full)
		for n := range j.rules {
			alone = alone && (j.rules[n].Family != rule.Family || j.rules[n].WeightMin == rule.WeightMin)
		}
		if d := max(rule.WeightMin-weight, weight-rule.WeightMax); d >= 150 && !alone {
			j.add(rule.place(Finding{Code: "weight-mislabeled", Message: fmt.Sprintf("The rule of %s says weight %d, and its file is %s, weight %d.", rule.Family, rule.WeightMin, f.Names.Full, weight),
				Evidence: r.URL, Fix: fmt.Sprintf("font-weight: %d;", weight)}))
		}
		italic := f.Style.Slope != metadata.Upright
		if said := rule.Style != "normal"; said != italic {
			style := map[bool]string{true: "italic", false: "normal"}[italic]
			j.add(rule.place(Finding{Code: "style-mislabeled", Message: fmt.Sprintf("The rule of %s says %s, and its file is %s.", rule.Family, rule.Style, f.Names.Full), Evidence: r.URL, Fix: "font-style: " + style + ";"}))
		}
	}
	if rule.Range == "" {
		return
	}
	promised, err := coverage.ParseRanges(rule.Range)
	if err != nil {
		return
	}
	has, err := subset.Has(r.Font.Face)
	if err != nil || len(promised) == 0 {
		return
	}
	if promised.And(has).Len() == 0 {
		j.add(rule.place(Finding{Code: "range-wrong", Message: fmt.Sprintf("The rule of %s says that its file has %s, and it has none of that.", rule.Family, css.ShortRange(rule.Range)), Evidence: r.URL, Fix: "Give the rule the unicode-range that belongs to its file, or the file that belongs to its range."}))
	}
}

// broken reports whether the browser says that a face of a rule could not be loaded.
func (j *judge) broken(r *rule) bool {
	return r != nil && slices.ContainsFunc(j.Faces, func(f Face) bool { return sameName(f.Family, r.Family) && f.Status == "error" })
}

// unused finds faces that are declared and never used.
func (j *judge) unused() {
	unused := map[string][]string{}
	first := map[string]*rule{}
	var order []string
	for i := range j.rules {
		r := &j.rules[i]
		if r.sheet.Frame || r.Nested || r.Family == "" || len(r.Files)+r.Embedded == 0 || r.Adjusted || r.Range != "" || j.onCanvas(r.Family) || css.Curly.MatchString(r.Text) || j.wanted(r) || j.twin(i) {
			continue
		}
		at := slices.IndexFunc(j.Faces, func(f Face) bool {
			low, high := weightsOf(f.Weight)
			return !f.Scripted && sameName(f.Family, r.Family) && f.Status == "unloaded" && low == r.WeightMin && high == r.WeightMax && strings.HasPrefix(f.Style, r.Style)
		})
		if at < 0 {
			continue
		}
		face := fmt.Sprint(r.WeightMin)
		if r.Style != "normal" {
			face += " " + r.Style
		}
		if unused[r.Family] == nil {
			order, first[r.Family] = append(order, r.Family), r
		}
		unused[r.Family] = append(unused[r.Family], face)
	}
	for _, family := range order {
		j.add(first[family].place(Finding{Code: "declared-unused", Message: fmt.Sprintf("%s is declared in %s and not used on this page.", family, strings.Join(unused[family], ", ")),
			Fix: "Take the rules out, and the files from the site, unless another page needs them.", Evidence: "document.fonts says unloaded"}))
	}
}

// wanted reports whether a file of a rule was asked for.
func (j *judge) wanted(r *rule) bool {
	for i := range j.Requests {
		if j.Requests[i].Kind == FontKind && j.ruleFor(&j.Requests[i]) == r {
			return true
		}
	}
	return false
}

// twin reports whether a later rule declares the same face.
func (j *judge) twin(at int) bool {
	r := &j.rules[at]
	return slices.ContainsFunc(j.rules[at+1:], func(o rule) bool {
		return sameName(o.Family, r.Family) && o.WeightMin == r.WeightMin && o.WeightMax == r.WeightMax && o.Style == r.Style && o.Stretch == r.Stretch && o.Range == r.Range
	})
}

func weightsOf(s string) (low, high int) {
	one := func(w string) int {
		switch w {
		case "normal":
			return 400
		case "bold":
			return 700
		}
		n, _ := strconv.ParseFloat(w, 64)
		return int(n)
	}
	a, b, found := strings.Cut(s, " ")
	if !found {
		return one(a), one(a)
	}
	return one(a), one(b)
}

// undeclared finds families that text asks for and that no rule declares.
func (j *judge) undeclared() {
	seen := map[string]*Finding{}
	// Each family is told of once, with all places that ask for it.
	tell := func(family string, f Finding) {
		key := f.Code + strings.ToLower(family)
		if have := seen[key]; have != nil {
			if f.Selector != have.Selector && !strings.Contains(have.Evidence, f.Selector) {
				have.Evidence += ", also " + f.Selector
			}
			return
		}
		seen[key] = &f
	}
	defer func() {
		for _, key := range slices.Sorted(maps.Keys(seen)) {
			j.add(*seen[key])
		}
	}()
	for i := range j.Runs {
		r := &j.Runs[i]
		if len(r.Asked) == 0 || r.Invisible {
			continue
		}
		first := r.Asked[0]
		if j.families[strings.ToLower(first)] || plain(first) || css.Curly.MatchString(first) {
			continue
		}
		like := ""
		for f := range j.families {
			if near(f, first) {
				like = f
			}
		}
		if like != "" {
			for _, x := range j.rules {
				if strings.EqualFold(x.Family, like) {
					like = x.Family
				}
			}
			tell(first, Finding{Code: "family-not-declared", Selector: r.Selector, Message: fmt.Sprintf("%s asks for “%s”; what is declared is “%s”, another name to a browser.", r.Selector, first, like),
				Fix: "font-family: " + css.Quote(like) + ";", Evidence: "set in " + setIn(r)})
			continue
		}
		if scripted[strings.ToLower(first)] && generic[strings.ToLower(r.Asked[len(r.Asked)-1])] {
			continue // which of them it is matters little: all have the script's characters
		}
		if systems[strings.ToLower(first)] && slices.ContainsFunc(r.Asked[1:], func(a string) bool {
			return !generic[strings.ToLower(a)] && (systems[strings.ToLower(a)] || safe[strings.ToLower(a)]) || a == "-apple-system" || strings.EqualFold(a, "system-ui") || strings.EqualFold(a, "BlinkMacSystemFont")
		}) {
			continue // a list of what systems have
		}
		// A list may name a family first that is declared later on.
		if !systems[strings.ToLower(first)] {
			tell(first, Finding{Code: "family-not-declared", Selector: r.Selector, Message: fmt.Sprintf("%s asks for “%s”, which no rule of the page declares.", r.Selector, first),
				Fix: "@font-face { font-family: " + css.Quote(first) + "; src: url(\"…\") format(\"woff2\"); font-display: swap; }", Evidence: "set in " + setIn(r)})
		}
		tell(first, Finding{Code: "local-only", Selector: r.Selector, Message: fmt.Sprintf("“%s” for %s shows only on machines where it is installed; a machine without it sets the text in %s.", first, r.Selector, setIn(r)),
			Fix: "Send the font with the page: build a pack for the site and declare it."})
	}
}

// setIn names the fonts that a run is set in.
func setIn(r *Run) string {
	var out []string
	for _, f := range r.Fonts {
		name := f.Family
		if !f.Sent {
			name = "a font of the system"
		}
		if !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	return strings.Join(out, " and ")
}
