package subset

import (
	"slices"
	"sync"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"sparecrate/font/coverage"
	"sparecrate/font/table"
)

// companions returns the characters that programs put in place of those asked for
// when they set text, or beside them:
//
//   - a space, which stands for what is invisible;
//   - the parts of vowel signs that are written around a letter, of letters with
//     a dot, and of the Thai and Lao "am";
//   - letters with their points as one, as Hebrew fonts of old have them;
//   - the dotted circle that carries a sign without a letter.
//
// Composed letters of a text come with OfText.
func companions(want coverage.Characters) coverage.Characters {
	runs := []table.Run{{First: ' ', Count: 1}}
	add := func(r rune) { runs = append(runs, table.Run{First: r, Count: 1}) }
	signs := false
	each(want, func(r rune) {
		if complexScript(r) {
			signs = signs || unicode.Is(unicode.M, r)
			for _, part := range norm.NFD.String(string(r)) {
				add(part)
			}
		}
		switch {
		case r == 0x0E33:
			add(0x0E4D)
			add(0x0E32)
		case r == 0x0EB3:
			add(0x0ECD)
			add(0x0EB2)
		case r == 0x17BE || r == 0x17BF || r == 0x17C0 || r == 0x17C4 || r == 0x17C5:
			add(0x17C1)
		case r >= 0x05B0 && r <= 0x05C2:
			runs = append(runs, table.Run{First: 0xFB1D, Count: 0xFB4F - 0xFB1D + 1})
		case r == 0x09BC && want.Has(0x09AF):
			add(0x09DF) // which composition leaves apart and Bengali joins
		case r == 0x2011:
			add(0x2010)
		}
	})
	if signs {
		add(0x25CC)
	}
	return coverage.NewCharacters(runs)
}

// presentationForms returns the joined forms by code point of Arabic letters in the
// set, which programs take where a font has no rules for joining.
func presentationForms(want coverage.Characters) coverage.Characters {
	var runs []table.Run
	for _, f := range joinedForms() {
		if !slices.ContainsFunc(f.parts, func(part rune) bool { return !want.Has(part) }) {
			runs = append(runs, table.Run{First: f.form, Count: 1})
		}
	}
	return coverage.NewCharacters(runs)
}

// joinedForms lists the joined forms that have a code point, with the letters they are
// forms of.
var joinedForms = sync.OnceValue(func() []joinedForm {
	var out []joinedForm
	for _, block := range [][2]rune{{0xFB50, 0xFDFB}, {0xFE70, 0xFEFC}} {
		for r := block[0]; r <= block[1]; r++ {
			if parts := []rune(norm.NFKD.String(string(r))); !slices.Contains(parts, r) {
				out = append(out, joinedForm{r, parts})
			}
		}
	}
	return out
})

type joinedForm struct {
	form  rune
	parts []rune
}

// complexScript reports whether a character is of a script whose signs are
// moved and taken apart.
func complexScript(r rune) bool {
	return r >= 0x0900 && r <= 0x109F || r >= 0x1700 && r <= 0x1CFF || r >= 0xA800 && r <= 0xABFF || r >= 0x10A00 && r <= 0x11FFF
}

// each goes through a set as far as the scripts with signs go.
func each(c coverage.Characters, do func(rune)) {
	const end = 0x12000
	for _, run := range c {
		for r := run.First; r < min(run.First+rune(run.Count), end); r++ {
			do(r)
		}
	}
}

func isMark(r rune) bool { return unicode.Is(unicode.M, r) }

func isJoining(r rune) bool {
	return unicode.In(r, unicode.Arabic, unicode.Syriac, unicode.Mongolian, unicode.Nko)
}

// has reports whether a character of some kind stays.
func (t *trimmer) has(kind func(rune) bool) bool {
	for _, p := range t.pairs {
		if kind(p.Rune) {
			return true
		}
	}
	return false
}
