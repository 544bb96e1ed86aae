// Package shape sets a line of text in a face: which glyphs, and where. It maps
// characters, composes letters with marks, finds the direction (Unicode
// Bidirectional Algorithm), gives Arabic letters their joined forms, and applies
// GSUB and GPOS, or the old table `kern`.
//
// It is for pictures of text, not for a browser's place: signs of Indic and
// South-East Asian scripts stay in the order they are typed, and variable faces
// are set in their default design.
package shape

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/bidi"
	"golang.org/x/text/unicode/norm"

	"sparecrate/font/layout"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// What a caller may want to tell apart.
var (
	// ErrFeature says that a word names no layout feature.
	ErrFeature = errors.New("this is no layout feature")
)

var tagKern = sfnt.MakeTag("kern")

// maxLine bounds a line, in characters.
const maxLine = 4096

// Face is a face opened for setting text. It is for one goroutine.
type Face struct {
	UnitsPerEm int
	Ascent     int // font units above the baseline
	Descent    int // and below it, positive
	metrics    []table.Metric
	runs       []table.Run
	gsub, gpos *layout.Table
	defs       *layout.Definitions
	kern       map[uint32]int
	symbol     bool
}

// Glyph is a glyph in its place, font units from the start of the line, y
// upwards.
type Glyph struct {
	ID   table.GlyphID
	X, Y int
}

// Line is text that is set.
type Line struct {
	Glyphs  []Glyph
	Advance int    // how long the line is, font units
	Missing []rune // characters the face has no glyph for, each once
}

// Options say how text is set.
type Options struct {
	// Language is an OpenType language tag, 0 for the usual one.
	Language sfnt.Tag
	// Features switches features on or off by tag, beyond the usual ones.
	Features map[string]bool
}

// Switches reads features as they are typed: "smcp" is switched on, "-liga" off.
func Switches(words []string) (map[string]bool, error) {
	out := map[string]bool{}
	for _, one := range words {
		tag, off := strings.CutPrefix(strings.TrimSpace(one), "-")
		if len(tag) != 4 {
			return nil, fmt.Errorf("%w: %q; they have four letters, like smcp, and a minus before them to switch them off", ErrFeature, one)
		}
		out[tag] = !off
	}
	return out, nil
}

// Open reads what setting text needs. The error wraps sfnt.ErrDamaged.
func Open(f *sfnt.Font) (*Face, error) {
	head, err := table.ParseHead(f.Table(table.TagHead))
	if err != nil {
		return nil, sfnt.Damage(err)
	}
	hhea, err := table.ParseHhea(f.Table(table.TagHhea))
	if err != nil {
		return nil, sfnt.Damage(err)
	}
	if head.UnitsPerEm == 0 {
		return nil, fmt.Errorf("%w: it has no units in an em", sfnt.ErrDamaged)
	}
	a := &Face{UnitsPerEm: int(head.UnitsPerEm), Ascent: int(hhea.Ascent), Descent: -int(hhea.Descent)}
	maxp, err := table.ParseMaxp(f.Table(table.TagMaxp))
	if err != nil {
		return nil, sfnt.Damage(err)
	}
	a.metrics = table.ParseHmtx(f.Table(table.TagHmtx), int(hhea.LongMetrics), int(maxp.Glyphs))
	b := f.Table(table.TagCmap)
	if a.runs, err = table.ParseCmap(b); err != nil {
		return nil, sfnt.Damage(err)
	}
	a.symbol = table.SymbolCmap(b)
	// Rules that cannot be read are done without, as readers do.
	a.gsub, _ = layout.Open(f.Table(table.TagGSUB), table.TagGSUB)
	a.gpos, _ = layout.Open(f.Table(table.TagGPOS), table.TagGPOS)
	if a.defs, err = layout.OpenDefinitions(f.Table(layout.TagGDEF)); err != nil {
		a.defs, _ = layout.OpenDefinitions(nil)
	}
	// Beside PostScript outlines the old table is passed over, as the specification
	// asks.
	if !f.Has(table.TagCFF) && !f.Has(table.TagCFF2) {
		a.kern = kerning(sfnt.View(f.Table(tagKern)))
	}
	return a, nil
}

// kerning reads the pairs of the old table (format 0, horizontal).
func kerning(v sfnt.View) map[uint32]int {
	out := map[uint32]int{}
	if version, ok := v.U16(0); !ok || version != 0 {
		return out
	}
	tables, _ := v.U16(2)
	at := 4
	for range int(tables) {
		length, _ := v.U16(at + 2)
		coverage, _ := v.U16(at + 4)
		pairs, ok := v.U16(at + 6)
		if !ok || length == 0 {
			break
		}
		for i := range int(pairs) {
			pair, ok := v.U32(at + 14 + 6*i)
			value, ok2 := v.I16(at + 18 + 6*i)
			if !ok || !ok2 || coverage&0xFF01 != 1 {
				break
			}
			out[pair] = int(value)
		}
		at += int(length)
	}
	return out
}

// Glyph returns the glyph of a character, 0 for none.
func (a *Face) Glyph(r rune) table.GlyphID {
	i, found := slices.BinarySearchFunc(a.runs, r, func(run table.Run, r rune) int { return int(run.First - r) })
	if !found {
		i--
	}
	if i >= 0 && r < a.runs[i].First+rune(a.runs[i].Count) {
		return a.runs[i].Glyph + table.GlyphID(r-a.runs[i].First)
	}
	if a.symbol && r < 0x100 {
		return a.Glyph(0xF000 + r)
	}
	return 0
}

// Advance returns a glyph's advance, font units.
func (a *Face) Advance(g table.GlyphID) int {
	if int(g) < len(a.metrics) {
		return int(a.metrics[g].Advance)
	}
	return 0
}

// Set sets one line; what is beyond a few thousand characters is left out.
func (a *Face) Set(text string, o Options) *Line {
	line := &Line{}
	runes := []rune(norm.NFC.String(text))
	runes = runes[:min(len(runes), maxLine)]
	for _, piece := range directions(runes) {
		a.piece(line, piece.runes, piece.rightToLeft, o)
	}
	return line
}

// piece is a run of text of one direction and script.
type piece struct {
	runes       []rune
	rightToLeft bool
}

// directions takes a line apart, in the order it is seen.
func directions(runes []rune) []piece {
	var p bidi.Paragraph
	if _, err := p.SetString(string(runes)); err != nil {
		return []piece{{runes, false}}
	}
	order, err := p.Order()
	if err != nil || order.NumRuns() == 0 {
		return []piece{{runes, false}}
	}
	var out []piece
	for i := range order.NumRuns() {
		run := order.Run(i)
		back := run.Direction() == bidi.RightToLeft
		pieces := scripts([]rune(run.String()))
		if back != fromRight(runes) { // seen the other way round than the runs are
			slices.Reverse(pieces)
		}
		for _, one := range pieces {
			out = append(out, piece{one, back})
		}
	}
	if fromRight(runes) {
		slices.Reverse(out)
	}
	return out
}

// fromRight reports whether a line starts at the right: by its first letter that
// has a direction (Unicode Bidirectional Algorithm, P2).
func fromRight(runes []rune) bool {
	for _, r := range runes {
		p, _ := bidi.LookupString(string(r))
		switch p.Class() {
		case bidi.L:
			return false
		case bidi.R, bidi.AL:
			return true
		}
	}
	return false
}

// scriptTags are the OpenType tags of scripts with rules of their own here.
var scriptTags = []struct {
	of  *unicode.RangeTable
	tag string
}{
	{unicode.Latin, "latn"}, {unicode.Cyrillic, "cyrl"}, {unicode.Greek, "grek"}, {unicode.Hebrew, "hebr"}, {unicode.Arabic, "arab"},
	{unicode.Armenian, "armn"}, {unicode.Georgian, "geor"}, {unicode.Thai, "thai"}, {unicode.Lao, "lao "}, {unicode.Devanagari, "dev2"},
	{unicode.Bengali, "bng2"}, {unicode.Tamil, "tml2"}, {unicode.Han, "hani"}, {unicode.Hiragana, "kana"}, {unicode.Katakana, "kana"},
	{unicode.Hangul, "hang"}, {unicode.Khmer, "khmr"}, {unicode.Ethiopic, "ethi"},
}

func scriptOf(r rune) string {
	for _, s := range scriptTags {
		if unicode.Is(s.of, r) {
			return s.tag
		}
	}
	return ""
}

// scripts takes a run apart where its script changes; signs and spaces go with
// what is before them.
func scripts(runes []rune) [][]rune {
	var out [][]rune
	start, now := 0, ""
	for i, r := range runes {
		tag := scriptOf(r)
		if tag != "" && now != "" && tag != now {
			out = append(out, runes[start:i])
			start = i
		}
		if tag != "" {
			now = tag
		}
	}
	return append(out, runes[start:])
}

// usual are the features that are on without being asked for.
var usual = []string{"ccmp", "locl", "rlig", "calt", "clig", "liga", "rclt", "rvrn", "kern", "mark", "mkmk", "isol", "fina", "medi", "init", "dist", "abvm", "blwm"}

func (a *Face) piece(line *Line, runes []rune, back bool, o Options) {
	script := ""
	for _, r := range runes {
		if script = scriptOf(r); script != "" {
			break
		}
	}
	forms := joinedForms(runes)
	glyphs := make([]layout.Glyph, 0, len(runes))
	for i, r := range runes {
		if unicode.Is(unicode.Cf, r) || unicode.Is(unicode.Variation_Selector, r) {
			continue
		}
		if back {
			r = mirrored(r)
		}
		g := a.Glyph(r)
		if g == 0 && !slices.Contains(line.Missing, r) {
			line.Missing = append(line.Missing, r)
		}
		glyphs = append(glyphs, layout.Glyph{ID: g, Cluster: i, Form: forms[i]})
	}
	on := func(tag sfnt.Tag) bool {
		name := tag.String()
		if asked, ok := o.Features[name]; ok {
			return asked
		}
		return slices.Contains(usual, name)
	}
	limited := func(tag sfnt.Tag) bool {
		name := tag.String()
		return name == "init" || name == "medi" || name == "fina" || name == "isol"
	}
	if a.gsub != nil {
		glyphs = layout.NewSetter(a.gsub, a.defs, sfnt.MakeTag(script), o.Language, on, limited).Set(glyphs)
	}
	for i := range glyphs {
		glyphs[i].Advance = a.Advance(glyphs[i].ID)
	}
	// The old table kerns what the rules have no kerning for.
	old := on(tagKern)
	if a.gpos != nil {
		s := layout.NewSetter(a.gpos, a.defs, sfnt.MakeTag(script), o.Language, on, limited)
		glyphs = s.Set(glyphs)
		old = old && !s.Offers(tagKern)
	}
	if old {
		for i := range max(len(glyphs)-1, 0) {
			glyphs[i].Advance += a.kern[uint32(glyphs[i].ID)<<16|uint32(glyphs[i+1].ID)]
		}
	}
	a.place(line, glyphs, back)
}

// place puts glyphs behind a line. A glyph that a rule put on another takes no
// room; it stands where that one does, whichever way the line runs.
func (a *Face) place(line *Line, glyphs []layout.Glyph, back bool) {
	width := 0
	for i := range glyphs {
		if _, on := glyphs[i].On(); on {
			glyphs[i].Advance = 0
		}
		width += glyphs[i].Advance
	}
	pen := line.Advance
	if back {
		pen += width
	}
	first := len(line.Glyphs)
	for i := range glyphs {
		g := &glyphs[i]
		if back {
			pen -= g.Advance
		}
		at := Glyph{g.ID, pen + g.X, g.Y}
		if k, on := g.On(); on {
			base := line.Glyphs[first+k]
			at.X, at.Y = base.X+g.X, base.Y+g.Y
		}
		line.Glyphs = append(line.Glyphs, at)
		if !back {
			pen += g.Advance
		}
	}
	line.Advance += width
}

// mirrored returns the bracket that faces the other way.
func mirrored(r rune) rune {
	const pairs = "()[]{}<>«»‹›"
	all := []rune(pairs)
	if i := slices.Index(all, r); i >= 0 {
		return all[i^1]
	}
	return r
}
