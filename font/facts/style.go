package facts

import (
	"regexp"
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

// styleTail matches the weight and width words the four-style rule puts behind
// a family's name in ID 1: "Example Light", "Example Condensed Black".
var styleTail = regexp.MustCompile(`(?i)^(.*?\S)((?:[ -](?:extra|ultra|semi|demi)?[ -]?(?:thin|hairline|light|book|medium|demi|bold|black|heavy|condensed|narrow|compressed|expanded|extended))+)$`)

func splitStyleWords(family string) (base, words string) {
	m := styleTail.FindStringSubmatch(family)
	if m == nil {
		return family, ""
	}
	return m[1], strings.TrimLeft(m[2], " -")
}

// weightOf gives the weight a style's name speaks of, 0 where it speaks of none.
func weightOf(style string) int {
	plain := strings.NewReplacer(" ", "", "-", "").Replace(strings.ToLower(style))
	for _, w := range weightWords {
		if strings.Contains(plain, w.word) {
			return w.weight
		}
	}
	return 0
}

// readStyle fills weight, width and slope. The number in OS/2 counts; where it
// is out of range or missing, the words of the style's name do, and without
// those head.macStyle.
func (r *reading) readStyle() {
	s := &r.out.Style
	*s = Style{Weight: 400, WidthPercent: 100, Slope: Upright}
	words := weightOf(r.out.Names.StyleName())
	switch {
	case r.os2 != nil && r.os2.WeightClass >= 1 && r.os2.WeightClass <= 1000:
		s.Weight = int(r.os2.WeightClass)
		// Old makers counted weights from 1 to 9.
		if s.Weight < 10 {
			s.Weight *= 100
		}
	case words != 0:
		s.Weight = words
	case r.head != nil && r.head.MacStyle&table.MacBold != 0:
		s.Weight = 700
	}
	if r.os2 != nil && r.os2.WidthClass >= 1 && int(r.os2.WidthClass) <= len(widthPercents) {
		s.WidthPercent = widthPercents[r.os2.WidthClass-1]
	}
	oblique := strings.Contains(strings.ToLower(r.out.Names.StyleName()), "oblique")
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
}
