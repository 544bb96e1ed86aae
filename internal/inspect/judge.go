package inspect

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"sparecrate/internal/css"
)

// judge gathers the findings of one page.
type judge struct {
	*Visit
	rules    []rule
	families map[string]bool // declared, in small letters
	findings []Finding
	weighed  map[string]bool // families of the catalog whose verdict was told
}

// rule is an @font-face rule and the sheet it stands in.
type rule struct {
	css.FontRule
	sheet *Sheet
}

// line is where the rule stands in the file that its sheet is of.
func (r rule) line() int {
	if r.sheet.Inline {
		return r.sheet.Line + r.Line - 1
	}
	return r.Line
}

// Judge returns what is wrong with a page: errors first, each fault once.
func Judge(v *Visit) []Finding {
	j := &judge{Visit: v, families: map[string]bool{}, weighed: map[string]bool{}}
	for _, t := range v.Trouble {
		j.add(Finding{Code: t.Code, Message: t.Message, URL: v.URL, Fix: troubleFix[t.Code]})
	}
	if v.Status >= 400 {
		j.add(Finding{Code: "page-error", Message: fmt.Sprintf("The server answers %d in place of the page.", v.Status), URL: v.Final, Fix: "Look whether the address is right and the page is published."})
	}
	seen := map[string]bool{}
	for i := range v.Sheets {
		s := &v.Sheets[i]
		if s.Off {
			continue
		}
		for _, r := range css.FontRules(s.Text, s.URL) {
			key := fmt.Sprint(s.URL, s.Inline, r.Line, r.Text)
			if !seen[key] {
				seen[key] = true
				j.rules = append(j.rules, rule{r, s})
			}
		}
	}
	for _, r := range j.rules {
		if r.Family != "" {
			j.families[strings.ToLower(r.Family)] = true
		}
	}
	for _, f := range v.Faces {
		j.families[strings.ToLower(f.Family)] = true
	}
	j.imp()
	j.sheets()
	j.declarations()
	j.shown()
	j.weight()
	j.permissions()
	j.plan()
	j.packed()
	reading{j}.elsewhere()
	slices.SortStableFunc(j.findings, func(a, b Finding) int { return cmp.Compare(Rank(a.Severity), Rank(b.Severity)) })
	return j.findings
}

// Rank orders severities, the worst first.
func Rank(s Severity) int { return slices.Index([]Severity{Error, Warning, Note}, s) }

// troubleFix says what to do about what ended a visit.
var troubleFix = map[string]string{
	"page-unreachable": "Open the address in a browser, and give the one that it ends at.",
	"redirect-circle":  "Correct the rule that passes the page on, in the settings of the site or of its server.",
	"page-never-ends":  "Look for the request that stays open in the network panel of a browser; fonts after it may never load.",
	"page-hangs":       "Find the script that never ends, with the performance panel of a browser.",
	"page-too-heavy":   "Find what grows without end, with the memory panel of a browser.",
	"page-too-long":    "Inspect pages that are shorter, or the parts of this one.",
}

// IsTrouble reports whether findings of a code keep a page from being seen whole.
func IsTrouble(code string) bool { return troubleFix[code] != "" }

// add keeps a finding, once for each place.
func (j *judge) add(f Finding) {
	f.Severity = cmp.Or(f.Severity, SeverityOf(f.Code))
	for _, have := range j.findings {
		if have.Code == f.Code && have.URL == f.URL && have.Line == f.Line && (have.Selector == f.Selector || f.Selector == "") && (have.Message == f.Message || f.Line > 0 && f.Selector != "") {
			return
		}
	}
	j.findings = append(j.findings, f)
}

// asks returns the runs that ask for a family first, or at all.
func (j *judge) asks(family string) []*Run {
	var out []*Run
	for i := range j.Runs {
		if slices.ContainsFunc(j.Runs[i].Asked, func(a string) bool { return strings.EqualFold(a, family) }) {
			out = append(out, &j.Runs[i])
		}
	}
	return out
}

// onCanvas reports whether a script draws with a family on a canvas.
func (j *judge) onCanvas(family string) bool {
	return family != "" && slices.ContainsFunc(j.Canvas, func(font string) bool { return strings.Contains(strings.ToLower(font), strings.ToLower(family)) })
}

// ruleFor returns the rule that asks for a URL.
func (j *judge) ruleFor(r *Request) *rule {
	asked := append([]string{r.URL}, r.Through...)
	for i := range j.rules {
		for _, f := range j.rules[i].Files {
			address, _, _ := strings.Cut(f.Address, "#")
			if slices.ContainsFunc(asked, func(u string) bool { u, _, _ = strings.Cut(u, "#"); return u == address }) {
				return &j.rules[i]
			}
		}
	}
	return nil
}

// place gives a finding the place of a rule.
func (r *rule) place(f Finding) Finding {
	if r != nil {
		f.URL, f.Line = r.sheet.URL, r.line()
	}
	return f
}

// kB writes a size.
func kB(bytes int64) string {
	if bytes < 1000 {
		return fmt.Sprintf("%d bytes", bytes)
	}
	if bytes < 10_000 {
		return fmt.Sprintf("%.1f kB", float64(bytes)/1000)
	}
	return fmt.Sprintf("%d kB", (bytes+500)/1000)
}
