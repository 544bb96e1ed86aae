package layout_test

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"sparecrate/font/fonttest"
	"sparecrate/font/layout"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// lines are set by each table: letters, marks behind them, and what rules make of them.
var lines = [][]int{{12, 10, 11, 10}, {10, 13, 11, 13, 14}, {11, 13, 13, 12, 10, 14, 11, 20, 21, 10, 10, 30}}

// setLines describes what a table makes of the lines.
func setLines(l *layout.Table, d *layout.Definitions, language string) string {
	var out strings.Builder
	setter := layout.NewSetter(l, d, sfnt.MakeTag("latn"), sfnt.MakeTag(language), everything, nothing)
	for _, line := range lines {
		var glyphs []layout.Glyph
		for i, g := range line {
			glyphs = append(glyphs, layout.Glyph{ID: table.GlyphID(g), Cluster: i, Advance: 500})
		}
		for _, g := range setter.Set(glyphs) {
			on, is := g.On()
			fmt.Fprint(&out, g.ID, g.Cluster, g.X, g.Y, g.Advance, on, is, ";")
		}
		out.WriteByte('\n')
	}
	return out.String()
}

// does is all that this package does with a table, for a few glyphs that stay.
func does(tag sfnt.Tag, definitions []byte) fonttest.Reader {
	return func(b []byte) (string, error) {
		l, err := layout.Open(b, tag)
		if err != nil {
			return "", err
		}
		d, err := layout.OpenDefinitions(definitions)
		if err != nil {
			return "", err
		}
		out := fmt.Sprintln(l.FeatureTags()) + setLines(l, d, "TRK ")
		keep := set(10, 11, 13)
		if err := layout.Close(l, keep, func(t sfnt.Tag) bool { return t.String() != "gone" }); err != nil {
			return out + "not closed", nil //nolint:nilerr // said in the text
		}
		out += fmt.Sprintln(numbers(keep))
		for _, p := range []layout.Plan{
			{},
			{Keep: keep, Number: func(g table.GlyphID) table.GlyphID { return g - 5 }, Feature: func(t sfnt.Tag) bool { return t.String() != "gone" }},
			{Keep: set(10, 12, 14), Scale: 3, Always: true, Present: everything, Vary: func(outer, inner int) (int, int, int, bool) { return 7 * outer, outer, inner + 1, inner%2 == 0 }},
		} {
			made, err := layout.Rewrite(l, p)
			out += fmt.Sprintf("%x %v\n", made, err != nil)
		}
		return out, nil
	}
}

// following are rules in a context without what goes before or comes after: 10 before 11
// becomes what lookup 1 says.
func following() map[string][]byte {
	return map[string][]byte{
		"by glyphs":    join(u16(1, 8, 1, 14), covers(10), u16(1, 4), u16(2, 1, 11, 0, 1)),
		"by coverages": join(u16(3, 2, 1, 14, 20, 0, 1), covers(10), covers(11)),
		"by classes":   join(u16(2, 12, 18, 2, 0, 34), covers(10), u16(1, 10, 3, 1, 2, 0), []byte{0, 0, 0, 0}, u16(1, 4), u16(2, 1, 2, 0, 1)),
	}
}

// TestSubstitutionAsApproved tries every kind of substitution whole and damaged: in
// contexts, behind extensions, passing over marks.
func TestSubstitutionAsApproved(t *testing.T) {
	t.Parallel()
	var cases []fonttest.Case
	add := func(name string, lookups ...lookup) {
		cases = append(cases, fonttest.Case{Name: name, Bytes: rules(lookups...)})
	}
	add("one for one", lookup{1, 0, single})
	add("one for one, by a list, over ranges", lookup{1, 0, join(u16(2, 10, 2, 25, 20), u16(2, 1, 10, 11, 0))})
	add("one for many", lookup{2, 0, multiple})
	add("one of several", lookup{3, 0, alternate})
	add("a ligature over marks", lookup{4, 8, ligature})
	add("a ligature over all marks but of a class", lookup{4, 0x100, ligature})
	add("a ligature over marks that are not of a set", lookup{4, 0x10, join(u16(0), ligature)})
	listed := []int{}
	for i := range 90 {
		listed = append(listed, 10+i*2+i/9)
	}
	many := u16(append([]int{2, 6 + 2*len(listed), len(listed)}, listed...)...)
	ranges := u16(2, 4, 10, 11, 0, 13, 13, 2, 15, 40, 3, 60, 117, 29)
	add("many glyphs, in ranges", lookup{1, 0, join(many, ranges)})
	add("many ligatures", lookup{4, 0, join(u16(1, 42, 2, 10, 30), u16(2, 6, 14), u16(40, 3, 11, 12), u16(41, 2, 13), u16(1, 4), u16(42, 3, 10, 11), covers(10, 12))})
	add("many alternates", lookup{3, 0, join(u16(1, 24, 2, 10, 18), u16(3, 30, 31, 32), u16(2, 33, 34), covers(10, 11))})
	add("from the end, by two on each side", lookup{8, 0, join(u16(1, 22, 2, 28, 34, 1, 40, 1, 50), []byte{0, 0, 0, 0}, covers(10), covers(12), covers(11), covers(13))})
	add("from the end", lookup{8, 0, reverse})
	add("an extension", lookup{7, 0, join(u16(1, 1), u32(8), single)})
	add("an extension of a ligature", lookup{7, 0, join(u16(1, 4), u32(8), ligature)})
	chained, plain := chains(), following()
	for _, name := range slices.Sorted(maps.Keys(chained)) {
		add("a chain "+name, lookup{6, 0, chained[name]}, lookup{1, 0, single})
		add("a chain over bases "+name, lookup{6, 2, chained[name]}, lookup{2, 0, multiple})
		add("a context "+name, lookup{5, 0, plain[name]}, lookup{1, 0, single})
		add("a context over marks "+name, lookup{5, 8, plain[name]}, lookup{4, 8, ligature})
	}
	fonttest.Approve(t, "substitution", does(table.TagGSUB, definitions()), cases...)
}

// TestPositionsAsApproved does the same with every kind of positioning.
func TestPositionsAsApproved(t *testing.T) {
	t.Parallel()
	anchor := func(x, y int) []byte { return u16(1, x, y) }
	varies := join(u16(3, 50, 200, 10, 16), u16(0, 2, 0x8000), u16(1, 3, 0x8000))
	var cases []fonttest.Case
	add := func(name string, lookups ...lookup) {
		cases = append(cases, fonttest.Case{Name: name, Bytes: rules(lookups...)})
	}
	add("one alone", lookup{1, 0, join(u16(1, 14, 0x0F, 1, 2, 3, 4), covers(10, 13))})
	add("each its own", lookup{1, 0, join(u16(2, 16, 5, 2, 5, 25, 7, 35), covers(10, 12))})
	add("one that varies", lookup{1, 0, join(u16(1, 16, 0x44, 30, 10), u16(2, 7, 0x8000), covers(10))})
	add("pixels at sizes", lookup{1, 0, join(u16(1, 18, 0x44, 30, 10), u16(11, 14, 2, 0x1F10), covers(10))})
	add("pairs of glyphs", lookup{2, 0, join(u16(1, 30, 4, 1, 2, 14, 22), u16(1, 11, 0xFFD8, 9), u16(1, 12, 5, 6), covers(10, 12))})
	add("pairs of glyphs over marks", lookup{2, 8, join(u16(1, 18, 4, 0, 1, 12), u16(1, 11, 0xFFD8), covers(10))})
	add("pairs of classes", lookup{2, 0, join(u16(2, 40, 4, 4, 48, 58, 2, 2), u16(0, 0, 1, 2), u16(3, 4, 0xFFD8, 5), []byte{0, 0, 0, 0, 0, 0, 0, 0}, covers(10, 12), u16(2, 1, 10, 10, 1), u16(2, 1, 11, 11, 1))})
	add("classes in ranges", lookup{2, 0, join(u16(2, 46, 4, 1, 52, 74, 3, 3), u16(0, 0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16)[:30], covers(10), u16(1, 10, 9, 1, 2, 0, 1, 1, 2, 0, 0, 1), u16(2, 3, 10, 10, 1, 11, 13, 2, 20, 30, 1))})
	add("letters joined", lookup{3, 0, join(u16(1, 44, 3, 0, 18, 24, 30, 0, 0), anchor(500, 20), anchor(0, 30), u16(2, 400, 10, 6), make([]byte, 6), covers(10, 11, 12))})
	add("letters joined from the right", lookup{3, 1, join(u16(1, 44, 3, 0, 18, 24, 30, 24, 0), anchor(500, 20), anchor(0, 30), u16(2, 400, 10, 6), make([]byte, 6), covers(10, 11, 12))})
	add("marks on bases", lookup{4, 0, join(u16(1, 52, 60, 2, 12, 38), u16(2, 0, 10, 1, 16), anchor(100, 0), u16(2, 50, 5, 6), []byte{0, 0}, u16(1, 6, 0), anchor(250, 600), []byte{0, 0}, covers(13, 14), covers(10))})
	add("marks on ligatures", lookup{5, 0, join(u16(1, 12, 18, 1, 24, 36), covers(13), covers(11), u16(1, 0, 6), anchor(50, 0), u16(1, 4), u16(2, 6, 12), anchor(200, 700), anchor(600, 720))})
	add("marks on marks", lookup{6, 0, join(u16(1, 12, 18, 1, 24, 36), covers(14), covers(13), u16(1, 0, 6), anchor(50, 0), u16(1, 4), varies)})
	chained, plain := chains(), following()
	alone := lookup{1, 0, join(u16(1, 8, 4, 25), covers(10))}
	for _, name := range slices.Sorted(maps.Keys(chained)) {
		add("a chain "+name, lookup{8, 0, chained[name]}, alone)
		add("a context "+name, lookup{7, 0, plain[name]}, alone)
	}
	add("an extension", lookup{9, 0, join(u16(1, 2), u32(8), u16(1, 18, 4, 0, 1, 12), u16(1, 11, 0xFFD8), covers(10))})
	fonttest.Approve(t, "positions", does(table.TagGPOS, definitions()), cases...)
}

// TestDefinitionsAsApproved does the same with what is said of glyphs themselves.
func TestDefinitionsAsApproved(t *testing.T) {
	t.Parallel()
	varies := join(u16(22, 1, 6), u16(1, 4), u16(3, 600, 6), u16(1, 7, 0x8000), covers(11))
	read := func(b []byte) (string, error) {
		d, err := layout.OpenDefinitions(b)
		if err != nil {
			return "", err
		}
		var out string
		for g := range table.GlyphID(20) {
			out += fmt.Sprint(d.Class(g), d.HoldsMark(set(int(g))), " ")
		}
		out += fmt.Sprintf("%x\n", d.Store())
		for _, p := range []layout.Plan{
			{},
			{Keep: set(11, 13), Number: func(g table.GlyphID) table.GlyphID { return g - 9 }, Scale: 4},
			{Vary: func(outer, inner int) (int, int, int, bool) { return 25 * outer, inner, outer, inner > 7 }},
		} {
			made, err := layout.RewriteDefinitions(d, p, []byte{1, 2, 3})
			out += fmt.Sprintf("%x %v\n", made, err != nil)
		}
		ligature, err := layout.Open(rules(lookup{4, 8, ligature}), table.TagGSUB)
		if err != nil {
			return "", err
		}
		return out + setLines(ligature, d, "NLD "), nil
	}
	fonttest.Approve(t, "definitions", read,
		fonttest.Case{Name: "classes, points, places of a cursor, sets", Bytes: definitions()},
		fonttest.Case{Name: "a cursor that varies", Bytes: join(u16(1, 0, 0, 0, 12, 0), varies)},
		fonttest.Case{Name: "classes of attachment", Bytes: join(u16(1, 0, 12, 0, 0, 22), u16(2, 1, 13, 14, 3), u16(1, 13, 2, 1, 2))},
		fonttest.Case{Name: "a store", Bytes: join(u16(1, 3, 18, 0, 0, 0, 0), u32(28), u16(2, 1, 13, 14, 3), []byte("store"))})
}

// TestVariationsOfRulesAsApproved does the same with features that call other rules in
// parts of the design space, by script and language.
func TestVariationsOfRulesAsApproved(t *testing.T) {
	t.Parallel()
	read := does(table.TagGSUB, definitions())
	conditions := func(b []byte) (string, error) {
		out, err := read(b)
		if err != nil {
			return "", err
		}
		l, err := layout.Open(b, table.TagGSUB)
		if err != nil {
			return "", err
		}
		for _, first := range []layout.Holds{layout.Somewhere, layout.Everywhere, layout.Nowhere} {
			made, err := layout.Rewrite(l, layout.Plan{Conditions: func(c layout.Condition) (layout.Condition, layout.Holds) {
				if c.Axis == 0 {
					return layout.Condition{Axis: c.Axis, Min: c.Min / 2, Max: c.Max}, first
				}
				return c, layout.Somewhere
			}})
			out += fmt.Sprintf("%x %v\n", made, err != nil)
		}
		return out, nil
	}
	fonttest.Approve(t, "variations", conditions, fonttest.Case{Name: "two conditions", Bytes: varied()},
		fonttest.Case{Name: "scripts and languages", Bytes: languages()})
}

// languages is a table with two scripts and a language, which share features.
func languages() []byte {
	plain := rules(lookup{1, 0, single}, lookup{1, 0, listed})
	lookups := plain[int(plain[8])<<8|int(plain[9]):]
	features := join(u16(3), []byte("gone"), u16(20), []byte("liga"), u16(26), []byte("rlig"), u16(32), u16(0, 1, 0), u16(0, 1, 1), u16(0, 2, 0, 1))
	system := func(required int, of ...int) []byte { return u16(append([]int{0, required, len(of)}, of...)...) }
	latin := join(u16(10, 1), []byte("TRK "), u16(20), system(0xFFFF, 0, 1), system(2, 1))
	scripts := join(u16(2), []byte("DFLT"), u16(14), []byte("latn"), u16(24), u16(4, 0), system(1), latin)
	return join(u16(1, 0, 10, 10+len(scripts), 10+len(scripts)+len(features)), scripts, features, lookups)
}
