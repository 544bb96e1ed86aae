package license

import (
	"iter"
	"path"
	"regexp"
	"slices"
	"strings"
)

// warnings returns the warnings of a text, the first of each kind. Questions and answers
// about a license warn only where an answer speaks against professional use; a text that
// is a license, or names one, has terms. Sure is the surest sign of one.
func (t *text) warnings(source string, sure float64) []Finding {
	var safe [][]int
	looked, answers := false, t.answers(source)
	within := func(m []int) bool {
		if !looked {
			safe, looked = slices.DeleteFunc(harmless().FindAllStringIndex(t.plain, -1), t.takenBack), true
			if answers {
				safe = append(safe, question.FindAllStringIndex(t.plain, -1)...)
			}
		}
		return slices.ContainsFunc(safe, func(s []int) bool { return m[0] < s[1] && s[0] < m[1] })
	}
	var out []Finding
	had := map[Signal]bool{}
	for _, w := range warnings {
		if had[w.signal] || answers && !w.signal.personal() || w.signal.settled(sure) {
			continue
		}
		for m := range t.matches(w) {
			if within(m) {
				continue
			}
			at := t.place(m[0], m[1], 0)
			phrase := t.body[at.from:at.to]
			out = append(out, Finding{Source: source, Place: t.line(at.from), Signal: w.signal, Phrase: trimPhrase(phrase), Quote: t.quote(at.from, at.to)})
			had[w.signal] = true
			break
		}
	}
	return out
}

// takenBack reports whether what follows something harmless about commercial use takes it
// back.
func (t *text) takenBack(span []int) bool {
	harmless := t.plain[span[0]:span[1]]
	return commerce.MatchString(harmless) && !strings.HasSuffix(harmless, "contributor") && taken.MatchString(t.plain[span[1]:min(len(t.plain), span[1]+120)])
}

// finished reports whether a license that is named so surely answers what a signal asks.
func (s Signal) settled(sure float64) bool {
	switch s {
	case FreeWithout:
		return sure > 0
	case Donation:
		return sure >= ofTitle
	case Unknown, AskFirst:
		return sure >= ofBody
	}
	return false
}

// matches returns where a warning's pattern matches. It is looked for around its hints
// only: most of a long text is about other things.
func (t *text) matches(w warning) iter.Seq[[]int] {
	const around, most = 150, 50
	return func(yield func([]int) bool) {
		for count, from := 0, 0; count < most; {
			at := len(t.plain)
			for _, hint := range w.hints {
				if i := strings.Index(t.plain[from:], hint); i >= 0 {
					at = min(at, from+i)
				}
			}
			if at == len(t.plain) {
				return
			}
			lo, hi := t.word(at-around), t.word(at+around)
			for _, m := range w.pattern().FindAllStringIndex(t.plain[lo:hi], most) {
				if count++; !yield([]int{lo + m[0], lo + m[1]}) {
					return
				}
			}
			from = min(len(t.plain), max(at+1, t.word(at+around/2)))
		}
	}
}

// word returns the place before a word, at or before a place, within the text.
func (t *text) word(at int) int {
	if at <= 0 {
		return 0
	}
	if at >= len(t.plain) {
		return len(t.plain)
	}
	const longest = 60 // of a word; texts without spaces are cut between letters
	if i := strings.LastIndexByte(t.plain[max(0, at-longest):at], ' '); i >= 0 {
		return max(0, at-longest) + i
	}
	for at > 0 && !startsRune(t.plain[at]) {
		at--
	}
	return at
}

var (
	faqName = regexp.MustCompile(`(?i)(?:^|[^a-z])faqs?(?:[^a-z]|$)`)
	faqHead = regexp.MustCompile(`\bfaqs?\b|frequently asked questions|questions and answers|häufig gestellte fragen|foire aux questions|preguntas frecuentes|domande frequenti|perguntas frequentes|veelgestelde vragen`)
	asked   = regexp.MustCompile(`(?im)^[ \t>*#-]*(?:\d+(?:\.\d+)*[.):]?[ \t]+)?(?:q(?:uestion)?(?: ?\d+)?[:.)]|[^\n?]{8,200}\?[ \t]*$)`)
)

// answers reports whether a text is questions and answers about a license: by its file's
// name, by its heading, or because much of it is questions. It is not the license.
func (t *text) answers(source string) bool {
	if faqName.MatchString(path.Base(source)) || faqHead.MatchString(t.plain[:min(len(t.plain), 300)]) {
		return true
	}
	const several = 4
	return len(asked.FindAllStringIndex(t.body, several)) == several
}

// trimPhrase has a phrase stand in one line.
func trimPhrase(s string) string { return strings.Join(strings.Fields(s), " ") }
