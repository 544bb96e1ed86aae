package shape

import (
	"unicode"

	"sparecrate/font/sfnt"
)

// Features of joined forms.
var (
	formIsolated = sfnt.MakeTag("isol")
	formInitial  = sfnt.MakeTag("init")
	formMedial   = sfnt.MakeTag("medi")
	formFinal    = sfnt.MakeTag("fina")
)

// joinsBefore are letters of Arabic that join the one before but not the one
// behind them (Unicode, ArabicShaping: joining type R).
var joinsBefore = &unicode.RangeTable{R16: []unicode.Range16{
	{Lo: 0x0622, Hi: 0x0625, Stride: 1}, {Lo: 0x0627, Hi: 0x0627, Stride: 1}, {Lo: 0x0629, Hi: 0x0629, Stride: 1}, {Lo: 0x062F, Hi: 0x0632, Stride: 1},
	{Lo: 0x0648, Hi: 0x0648, Stride: 1}, {Lo: 0x0671, Hi: 0x0673, Stride: 1}, {Lo: 0x0675, Hi: 0x0677, Stride: 1}, {Lo: 0x0688, Hi: 0x0699, Stride: 1},
	{Lo: 0x06C0, Hi: 0x06C0, Stride: 1}, {Lo: 0x06C3, Hi: 0x06CB, Stride: 1}, {Lo: 0x06CD, Hi: 0x06CD, Stride: 1}, {Lo: 0x06CF, Hi: 0x06CF, Stride: 1},
	{Lo: 0x06D2, Hi: 0x06D3, Stride: 1}, {Lo: 0x06D5, Hi: 0x06D5, Stride: 1}, {Lo: 0x06EE, Hi: 0x06EF, Stride: 1},
}}

// joinsBoth are letters that join on both sides (joining type D), and the line
// that lengthens a join (C).
var joinsBoth = &unicode.RangeTable{R16: []unicode.Range16{
	{Lo: 0x0620, Hi: 0x0620, Stride: 1}, {Lo: 0x0626, Hi: 0x0626, Stride: 1}, {Lo: 0x0628, Hi: 0x0628, Stride: 1}, {Lo: 0x062A, Hi: 0x062E, Stride: 1},
	{Lo: 0x0633, Hi: 0x0647, Stride: 1}, {Lo: 0x0649, Hi: 0x064A, Stride: 1}, {Lo: 0x066E, Hi: 0x066F, Stride: 1}, {Lo: 0x0678, Hi: 0x0687, Stride: 1},
	{Lo: 0x069A, Hi: 0x06BF, Stride: 1}, {Lo: 0x06C1, Hi: 0x06C2, Stride: 1}, {Lo: 0x06CC, Hi: 0x06CC, Stride: 1}, {Lo: 0x06CE, Hi: 0x06CE, Stride: 1},
	{Lo: 0x06D0, Hi: 0x06D1, Stride: 1}, {Lo: 0x06FA, Hi: 0x06FC, Stride: 1}, {Lo: 0x06FF, Hi: 0x06FF, Stride: 1}, {Lo: 0x0750, Hi: 0x0758, Stride: 1},
	{Lo: 0x075C, Hi: 0x076A, Stride: 1}, {Lo: 0x076D, Hi: 0x0770, Stride: 1}, {Lo: 0x0772, Hi: 0x0772, Stride: 1}, {Lo: 0x0775, Hi: 0x0777, Stride: 1},
	{Lo: 0x077A, Hi: 0x077F, Stride: 1},
}}

// joinedForms returns the form of each letter: alone, at the start, in the middle
// or at the end of letters that join. Marks are looked past.
func joinedForms(runes []rune) []sfnt.Tag {
	forms := make([]sfnt.Tag, len(runes))
	const zwj = '\u200d'
	forward := func(r rune) bool { return unicode.Is(joinsBoth, r) || r == zwj }
	back := func(r rune) bool { return forward(r) || unicode.Is(joinsBefore, r) }
	last := -1
	for i, r := range runes {
		if unicode.Is(unicode.M, r) {
			continue
		}
		if back(r) && r != zwj {
			forms[i] = formIsolated
			if last >= 0 && forward(runes[last]) {
				forms[i] = formFinal
			}
		}
		if last >= 0 && back(r) && forward(runes[last]) {
			switch forms[last] {
			case formIsolated:
				forms[last] = formInitial
			case formFinal:
				forms[last] = formMedial
			}
		}
		last = i
	}
	return forms
}
