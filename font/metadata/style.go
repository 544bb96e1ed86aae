package metadata

import (
	"slices"
	"strings"

	"sparecrate/font/table"
)

// weightWords are the customary words for weights; longer ones first, since
// "ExtraBold" holds "Bold".
var weightWords = []struct {
	word   string
	weight int
}{
	{"extrablack", 950}, {"ultrablack", 950}, {"extrabold", 800}, {"ultrabold", 800}, {"semibold", 600}, {"demibold", 600},
	{"extralight", 200}, {"ultralight", 200}, {"semilight", 350}, {"hairline", 100}, {"thin", 100}, {"light", 300},
	{"regular", 400}, {"normal", 400}, {"book", 400}, {"medium", 500}, {"demi", 600}, {"black", 900}, {"heavy", 900}, {"bold", 700},
}

// widthPercents are the percentages of OS/2.usWidthClass 1 to 9.
var widthPercents = [...]float64{50, 62.5, 75, 87.5, 100, 112.5, 125, 150, 200}

// styleTailWords are the words the four-style rule puts behind a family's name
// in ID 1: "Example Light", "Example Condensed Black". A word for more or less
// may stand before them, joined or not.
var (
	styleTailWords = []string{"thin", "hairline", "light", "book", "medium", "demi", "bold", "black", "heavy",
		"condensed", "narrow", "compressed", "expanded", "extended"}
	styleTailMore = []string{"extra", "ultra", "semi", "demi"}
)

// splitStyleWords takes style words off the end of a family's name; a name made
// of nothing else stays whole.
func splitStyleWords(family string) (base, words string) {
	at := len(family)
	for {
		cut := strings.LastIndexAny(family[:at], " -")
		if cut <= 0 || !isTail(family[cut+1:at]) {
			break
		}
		at = cut
		if more := strings.LastIndexAny(family[:at], " -"); more > 0 && oneOf(styleTailMore, family[more+1:at]) {
			at = more
		}
	}
	if at == len(family) {
		return family, ""
	}
	return family[:at], strings.TrimLeft(family[at:], " -")
}

func isTail(word string) bool {
	for _, more := range styleTailMore {
		if len(word) > len(more) && strings.EqualFold(word[:len(more)], more) && oneOf(styleTailWords, word[len(more):]) {
			return true
		}
	}
	return oneOf(styleTailWords, word)
}

func oneOf(words []string, word string) bool {
	return slices.ContainsFunc(words, func(w string) bool { return strings.EqualFold(w, word) })
}

// widthWords are the customary words for widths, longer ones first, with their
// percentages.
var widthWords = []struct {
	word    string
	percent float64
}{
	{"ultracondensed", 50}, {"extracondensed", 62.5}, {"semicondensed", 87.5}, {"ultraexpanded", 200}, {"extraexpanded", 150}, {"semiexpanded", 112.5},
	{"condensed", 75}, {"compressed", 62.5}, {"narrow", 75}, {"expanded", 125}, {"extended", 125}, {"wide", 125},
}

var withoutGaps = strings.NewReplacer(" ", "", "-", "")

// WeightOf returns the weight a style's name speaks of, false where it speaks of none.
func WeightOf(style string) (int, bool) {
	plain := withoutGaps.Replace(strings.ToLower(style))
	for _, w := range weightWords {
		if strings.Contains(plain, w.word) {
			return w.weight, true
		}
	}
	return 0, false
}

// widthOf returns the width a style's name speaks of, 100 where it speaks of none.
func widthOf(style string) float64 {
	plain := withoutGaps.Replace(strings.ToLower(style))
	for _, w := range widthWords {
		if strings.Contains(plain, w.word) {
			return w.percent
		}
	}
	return 100
}

// readStyle fills weight, width and slope. The number in OS/2 counts; where it
// is out of range or missing, or says regular of what is called and marked bold,
// the words of the style's name do, and without those head.macStyle.
func (r *reading) readStyle() {
	s := &r.out.Style
	*s = Style{Weight: 400, WidthPercent: 100, Slope: Upright}
	style := r.styleWords()
	words, worded := WeightOf(style)
	bold := r.head != nil && r.head.MacStyle&table.MacBold != 0
	switch {
	case r.os2 != nil && r.os2.WeightClass >= 1 && r.os2.WeightClass <= 1000:
		s.Weight = int(r.os2.WeightClass)
		// Old makers counted weights from 1 to 9.
		if s.Weight < 10 {
			s.Weight *= 100
		}
		if s.Weight == 400 && words >= 600 && bold && r.os2.Selection&table.SelectBold != 0 {
			s.Weight = words
		}
	case worded:
		s.Weight = words
	case bold:
		s.Weight = 700
	}
	if r.os2 != nil && r.os2.WidthClass >= 1 && int(r.os2.WidthClass) <= len(widthPercents) {
		s.WidthPercent = widthPercents[r.os2.WidthClass-1]
	} else {
		s.WidthPercent = widthOf(style)
	}
	oblique := strings.Contains(strings.ToLower(style), "oblique")
	switch {
	case r.os2 != nil && r.os2.Version >= 4 && r.os2.Selection&table.SelectOblique != 0:
		s.Slope = Oblique
	case r.os2 != nil && r.os2.Selection&table.SelectItalic != 0,
		r.head != nil && r.head.MacStyle&table.MacItalic != 0,
		r.post != nil && r.post.ItalicAngle != 0:
		s.Slope = Italic
		if oblique {
			s.Slope = Oblique
		}
	}
	r.judgeStyle()
}

// styleWords is the name that holds words for weight, width and slope: the WWS
// one, which holds nothing else, where the font has it.
func (r *reading) styleWords() string {
	if wws := r.out.Names.WWSSubfamily; wws != "" {
		return wws
	}
	return r.style
}
