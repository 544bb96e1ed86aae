package metadata

import (
	"fmt"
	"slices"
	"strings"

	"sparecrate/font/table"
)

// LineSet is one of the three places a font states its line height in.
type LineSet string

// The three sets of line metrics.
const (
	LinesHhea LineSet = "hhea" // hhea.ascender, descender, lineGap
	LinesTypo LineSet = "typo" // OS/2.sTypoAscender, sTypoDescender, sTypoLineGap
	// LinesWin is OS/2.usWinAscent and usWinDescent; the gap is what hhea asks for
	// beyond them (OpenType, "Recommendations", "Baseline to baseline distances").
	LinesWin LineSet = "win"
)

// LineMetrics is one set, font units.
type LineMetrics struct {
	Set     LineSet `json:"set"`
	Ascent  int     `json:"ascent"`
	Descent int     `json:"descent"` // negative below the baseline
	Gap     int     `json:"gap"`
}

// Lines are all the line metrics a font states, and which a system takes.
type Lines struct {
	Sets    []LineMetrics `json:"sets"`
	UseTypo bool          `json:"useTypo"` // OS/2.fsSelection, bit 7
	// Systems name the set each one takes: apple, windows, and other for systems
	// on FreeType (Linux, Android).
	Systems map[string]LineSet `json:"systems"`
}

// Set returns the metrics of one set, false where the font does not state it.
func (l *Lines) Set(set LineSet) (LineMetrics, bool) {
	i := slices.IndexFunc(l.Sets, func(m LineMetrics) bool { return m.Set == set })
	if i < 0 {
		return LineMetrics{}, false
	}
	return l.Sets[i], true
}

// readMeasures fills units, glyph count, line metrics and heights.
func (r *reading) readMeasures() {
	if r.head != nil {
		r.out.UnitsPerEm = int(r.head.UnitsPerEm)
	}
	if r.maxp != nil {
		r.out.Glyphs = int(r.maxp.Glyphs)
	}
	r.readLines()
	m := &r.out.Metrics
	if r.os2 != nil && r.os2.HasHeights {
		m.XHeight, m.CapHeight = int(r.os2.XHeight), int(r.os2.CapHeight)
	}
	for _, set := range []LineSet{LinesTypo, LinesHhea} {
		if set == LinesTypo && !r.out.Lines.UseTypo {
			continue
		}
		if l, ok := r.out.Lines.Set(set); ok {
			m.Ascent, m.Descent, m.LineGap = l.Ascent, l.Descent, l.Gap
			return
		}
	}
	r.problem(ProblemNoMetrics, "The font states no line height (no `hhea` table); text set in it will sit differently everywhere.")
}

func (r *reading) readLines() {
	l := &r.out.Lines
	if h := r.hhea; h != nil {
		l.Sets = append(l.Sets, LineMetrics{LinesHhea, int(h.Ascent), int(h.Descent), int(h.LineGap)})
		l.Systems["apple"], l.Systems["windows"], l.Systems["other"] = LinesHhea, LinesHhea, LinesHhea
	}
	if o := r.os2; o != nil && o.HasTypo {
		win := LineMetrics{LinesWin, int(o.WinAscent), -int(o.WinDescent), 0}
		if h := r.hhea; h != nil {
			win.Gap = max(0, int(h.LineGap)-(win.Ascent-win.Descent-(int(h.Ascent)-int(h.Descent))))
		}
		l.Sets = append(l.Sets, LineMetrics{LinesTypo, int(o.TypoAscender), int(o.TypoDescender), int(o.TypoLineGap)}, win)
		l.Systems["windows"] = LinesWin
		if h := r.hhea; h == nil || h.Ascent == 0 && h.Descent == 0 {
			l.Systems["other"] = LinesTypo
			if o.TypoAscender == 0 && o.TypoDescender == 0 {
				l.Systems["other"] = LinesWin
			}
		}
		if l.UseTypo = o.Selection&table.SelectUseTypo != 0; l.UseTypo {
			l.Systems["windows"], l.Systems["other"] = LinesTypo, LinesTypo
		}
	}
	r.judgeLines()
}

// lineSystems are the systems in the order they are spoken of.
var lineSystems = []struct{ key, name string }{{"windows", "Windows"}, {"apple", "Apple"}, {"other", "Linux and Android"}}

// judgeLines reports a difference of more than a hundredth of an em between what
// two systems take.
func (r *reading) judgeLines() {
	l := &r.out.Lines
	var taken [3]LineMetrics
	differs := false
	for i, s := range lineSystems {
		m, ok := l.Set(l.Systems[s.key])
		if !ok {
			return
		}
		taken[i] = m
		first := taken[0]
		differs = differs || max(abs(m.Ascent-first.Ascent), abs(m.Descent-first.Descent), abs(m.Gap-first.Gap)) > r.out.UnitsPerEm/100
	}
	if !differs {
		return
	}
	var said []string
	for i, s := range lineSystems {
		said = append(said, fmt.Sprintf("%s takes %d up, %d down, %d between", s.name, taken[i].Ascent, -taken[i].Descent, taken[i].Gap))
	}
	r.problem(ProblemLines, fmt.Sprintf("Lines will sit differently from system to system: %s (of %d units an em). State the line height in the stylesheet.",
		strings.Join(said, "; "), r.out.UnitsPerEm))
}

func abs(n int) int { return max(n, -n) }
