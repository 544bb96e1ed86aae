package table

import (
	"slices"

	"sparecrate/font/sfnt"
)

// maxLayoutRecords bounds the scripts and features listed from one table.
const maxLayoutRecords = 4096

// LayoutFeatures lists the feature tags of a GSUB or GPOS table in its order;
// the same tag may come several times. What lies outside the table is left out.
func LayoutFeatures(b []byte) []sfnt.Tag {
	v := sfnt.View(b)
	at, ok := v.U16(6)
	if !ok {
		return nil
	}
	count, _ := v.U16(int(at))
	tags := make([]sfnt.Tag, 0, min(int(count), len(b)/6))
	for i := range min(int(count), maxLayoutRecords) {
		tag, ok := v.U32(int(at) + 2 + 6*i)
		if !ok {
			break
		}
		tags = append(tags, sfnt.Tag(tag))
	}
	return tags
}

// LayoutLanguage is a script that GSUB or GPOS has rules for, or one of its
// languages that has rules of its own; OpenType tags, Language 0 for the script.
type LayoutLanguage struct{ Script, Language sfnt.Tag }

// LayoutLanguages lists the scripts and languages of a GSUB or GPOS table in its
// order. What lies outside the table is left out.
func LayoutLanguages(b []byte) []LayoutLanguage {
	v := sfnt.View(b)
	list, ok := v.U16(4)
	if !ok {
		return nil
	}
	count, _ := v.U16(int(list))
	out := make([]LayoutLanguage, 0, 16)
	for i := range int(count) {
		script, _ := v.U32(int(list) + 2 + 6*i)
		offset, ok := v.U16(int(list) + 6 + 6*i)
		if !ok || len(out) >= maxLayoutRecords {
			break
		}
		out = append(out, LayoutLanguage{Script: sfnt.Tag(script)})
		at := int(list) + int(offset)
		languages, _ := v.U16(at + 2)
		for k := range int(languages) {
			tag, ok := v.U32(at + 4 + 6*k)
			if !ok || len(out) >= maxLayoutRecords {
				break
			}
			out = append(out, LayoutLanguage{sfnt.Tag(script), sfnt.Tag(tag)})
		}
	}
	return out
}

// Ligature says that a run of glyphs is drawn as one.
type Ligature struct {
	From []GlyphID // two or more
	To   GlyphID
}

// EncodeLigatures writes a GSUB table with the feature `liga` for the default
// and Latin scripts, but not for the languages in except (four-letter OpenType
// tags), where an f joined to an i would hide which i it is.
func EncodeLigatures(ligatures []Ligature, except []string) []byte {
	byFirst := map[GlyphID][]Ligature{}
	for _, l := range ligatures {
		byFirst[l.From[0]] = append(byFirst[l.From[0]], l)
	}
	first := make([]GlyphID, 0, len(byFirst))
	for g := range byFirst {
		first = append(first, g)
	}
	slices.Sort(first)

	var sub writer
	sub.u16(1)
	sub.u16(0) // coverage, set below
	sub.u16(len(first))
	offsets := len(sub)
	for range first {
		sub.u16(0)
	}
	for i, g := range first {
		sub.setU16(offsets+2*i, len(sub))
		set := len(sub)
		// Longer ligatures come first, or a shorter one would always win.
		slices.SortStableFunc(byFirst[g], func(a, b Ligature) int { return len(b.From) - len(a.From) })
		sub.u16(len(byFirst[g]))
		for range byFirst[g] {
			sub.u16(0)
		}
		for j, l := range byFirst[g] {
			sub.setU16(set+2+2*j, len(sub)-set)
			sub.u16(int(l.To))
			sub.u16(len(l.From))
			for _, c := range l.From[1:] {
				sub.u16(int(c))
			}
		}
	}
	sub.setU16(2, len(sub))
	sub = append(sub, encodeCoverage(first)...)
	return encodeLayout("liga", 4, sub, except)
}

// Kerning is pair adjustment by classes: a left and a right class of each
// glyph, 0 for none, and the adjustment of each pair of classes in font units.
type Kerning struct {
	Left, Right map[GlyphID]int
	Adjust      map[[2]int]int // {left class, right class} to units added to the advance
}

// Encode writes a GPOS table with the feature `kern` for the default and Latin
// scripts.
func (k *Kerning) Encode() []byte {
	count := func(classes map[GlyphID]int) int {
		n := 0
		for _, c := range classes {
			n = max(n, c)
		}
		return n + 1
	}
	lefts, rights := count(k.Left), count(k.Right)
	covered := make([]GlyphID, 0, len(k.Left))
	for g := range k.Left {
		covered = append(covered, g)
	}
	slices.Sort(covered)

	var sub writer
	sub.u16(2)
	sub.u16(0) // coverage, set below
	sub.u16(0x0004)
	sub.u16(0)
	sub.u16(0)
	sub.u16(0)
	sub.u16(lefts)
	sub.u16(rights)
	for l := range lefts {
		for r := range rights {
			sub.u16(k.Adjust[[2]int{l, r}])
		}
	}
	sub.setU16(2, len(sub))
	sub = append(sub, encodeCoverage(covered)...)
	sub.setU16(8, len(sub))
	sub = append(sub, encodeClasses(k.Left)...)
	sub.setU16(10, len(sub))
	sub = append(sub, encodeClasses(k.Right)...)
	return encodeLayout("kern", 2, sub, nil)
}

func encodeCoverage(glyphs []GlyphID) []byte {
	var w writer
	w.u16(1)
	w.u16(len(glyphs))
	for _, g := range glyphs {
		w.u16(int(g))
	}
	return w
}

func encodeClasses(classes map[GlyphID]int) []byte {
	glyphs := make([]GlyphID, 0, len(classes))
	for g := range classes {
		glyphs = append(glyphs, g)
	}
	slices.Sort(glyphs)
	var w writer
	w.u16(2)
	w.u16(len(glyphs))
	for _, g := range glyphs {
		w.u16(int(g))
		w.u16(int(g))
		w.u16(classes[g])
	}
	return w
}

// encodeLayout frames one lookup with one subtable as the one feature of the
// scripts DFLT and latn; languages in except get no feature at all.
func encodeLayout(feature string, lookupType int, subtable []byte, except []string) []byte {
	const (
		header     = 10
		noRequired = 0xFFFF
	)
	langSys := func(w *writer, on bool) {
		w.u16(0)
		w.u16(noRequired)
		if on {
			w.u16(1)
			w.u16(0)
		} else {
			w.u16(0)
		}
	}
	var scripts writer
	scripts.u16(2)
	scripts.tag("DFLT")
	scripts.u16(14)
	scripts.tag("latn")
	scripts.u16(14 + 4 + 8)
	scripts.u16(4)
	scripts.u16(0)
	langSys(&scripts, true)
	slices.Sort(except)
	scripts.u16(4 + 6*len(except))
	scripts.u16(len(except))
	for i, language := range except {
		scripts.tag(language)
		scripts.u16(4 + 6*len(except) + 8 + 6*i)
	}
	langSys(&scripts, true)
	for range except {
		langSys(&scripts, false)
	}

	var w writer
	w.u32(0x00010000)
	w.u16(header)
	w.u16(header + len(scripts))
	w.u16(header + len(scripts) + 14)
	w = append(w, scripts...)
	w.u16(1) // feature list: one feature with one lookup
	w.tag(feature)
	w.u16(8)
	w.u16(0)
	w.u16(1)
	w.u16(0)
	w.u16(1) // lookup list: one lookup with one subtable
	w.u16(4)
	w.u16(lookupType)
	w.u16(0)
	w.u16(1)
	w.u16(8)
	return append(w, subtable...)
}
