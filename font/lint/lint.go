// Package lint checks a font file against the structure rules of its formats:
// OpenType 1.9.1 for the font, and WOFF 1.0, WOFF 2.0 or EOT for what it is
// wrapped in. It says what breaks a rule, not what is inconvenient; for that
// see the problems of package metadata.
//
// An error is what readers stumble over: browsers may refuse the file, leave
// something out, or draw something else than was meant. A warning is against
// the rules too, but every reader we know of lets it pass. Programs of glyphs
// (hinting) are not run, and layout rules are checked for their frame, their
// references and their coverage, not for their sense.
package lint

import (
	"cmp"
	"fmt"
	"slices"

	"sparecrate/font"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// Severity is how much a finding matters.
type Severity string

// The severities.
const (
	Error   Severity = "error"
	Warning Severity = "warning"
)

var rank = map[Severity]int{Error: 0, Warning: 1}

// Finding is a rule that is broken.
type Finding struct {
	Severity Severity `json:"severity"`
	Face     int      `json:"face"`  // place within a collection
	Table    string   `json:"table"` // the table at fault, empty for the file
	Code     string   `json:"code"`  // stable
	Message  string   `json:"message"`
}

// Report is what a check found.
type Report struct {
	Container font.Container `json:"format"`
	Faces     int            `json:"faces"`
	Findings  []Finding      `json:"findings"`
}

// Errors counts the findings that are errors.
func (r *Report) Errors() int {
	n := 0
	for _, f := range r.Findings {
		if f.Severity == Error {
			n++
		}
	}
	return n
}

const (
	// maxFindings bounds what is reported of one face; a file so broken needs no
	// longer list.
	maxFindings = 200
	// workPerByte bounds the steps taken through lists that may name the same
	// bytes over and over; honest fonts take less than one a byte.
	workPerByte = 16
)

// Check reads a file and checks it. Where it cannot be opened at all, the error
// is the one of font.Open.
func Check(b []byte) (*Report, error) {
	opened, err := font.Open(b)
	if err != nil {
		return nil, err
	}
	r := &Report{Container: opened.Container, Faces: len(opened.Faces), Findings: []Finding{}}
	r.Findings = append(r.Findings, checkWrapping(b, opened)...)
	drawn, work := map[[2]*byte]bool{}, workPerByte*len(b)+1<<16
	wrongSums := sfnt.WrongChecksums(opened.Faces)
	for i, f := range opened.Faces {
		c := &checker{font: f, face: i, container: opened.Container, wrongSums: wrongSums[i], drawn: drawn, work: &work}
		c.run()
		r.Findings = append(r.Findings, c.findings...)
	}
	// Errors first, otherwise in the order of the checks.
	slices.SortStableFunc(r.Findings, func(a, b Finding) int { return cmp.Compare(rank[a.Severity], rank[b.Severity]) })
	return r, nil
}

// checker goes through one face. Numbers that several tables must agree on are
// kept from the first check that reads them.
type checker struct {
	font      *sfnt.Font
	face      int
	container font.Container
	wrongSums []sfnt.Tag
	findings  []Finding

	head   *table.Head
	maxp   *table.Maxp
	hhea   *table.Hhea
	glyphs int  // maxp.numGlyphs, 0 where it is not known
	work   *int // steps left, for all faces together
	axes   int
	drawn  map[[2]*byte]bool // outlines that were checked with an earlier face
}

func (c *checker) run() {
	for _, check := range []func(){
		c.checkFrame, c.checkHead, c.checkMaxp, c.checkHhea, c.checkOS2, c.checkPost, c.checkName,
		c.checkCmap, c.checkOutlines, c.checkVariations, c.checkLayout, c.checkKern, c.checkColor,
	} {
		if len(c.findings) >= maxFindings {
			return
		}
		check()
	}
}

func (c *checker) add(s Severity, tag sfnt.Tag, code, format string, args ...any) {
	name := ""
	if tag != 0 {
		name = tag.String()
	}
	c.findings = append(c.findings, Finding{s, c.face, name, code, fmt.Sprintf(format, args...)})
}

func (c *checker) wrong(tag sfnt.Tag, code, format string, args ...any) {
	c.add(Error, tag, code, format, args...)
}

func (c *checker) odd(tag sfnt.Tag, code, format string, args ...any) {
	c.add(Warning, tag, code, format, args...)
}

// spend takes steps from the work allowed, false where none is left; that is
// said once.
func (c *checker) spend(steps int, tag sfnt.Tag) bool {
	if *c.work < 0 {
		return false
	}
	if *c.work -= steps; *c.work < 0 {
		c.wrong(tag, "repeats", "Its lists name the same bytes over and over, as no honest font does; it was not checked to the end.")
	}
	return *c.work >= 0
}

// tally gathers findings of one kind over many glyphs into one.
type tally struct {
	first string
	count int
}

func (t *tally) add(format string, args ...any) {
	if t.count == 0 {
		t.first = fmt.Sprintf(format, args...)
	}
	t.count++
}

// sum returns the sentence: the first case, and how many more there are.
func (t *tally) sum() string {
	if t.count > 1 {
		return fmt.Sprintf("%s There are %d more of this kind.", t.first, t.count-1)
	}
	return t.first
}

func (c *checker) report(s Severity, tag sfnt.Tag, code string, t *tally) {
	if t.count > 0 {
		c.add(s, tag, code, "%s", t.sum())
	}
}
