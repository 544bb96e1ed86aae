package table_test

import (
	"fmt"
	"testing"

	"sparecrate/font"
	"sparecrate/font/fonttest"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// read makes a reader of a function that reads a table and one that describes it.
func read[T any](parse func([]byte) (T, error), say func(T) string) fonttest.Reader {
	return func(b []byte) (string, error) {
		v, err := parse(b)
		if err != nil {
			return "", err
		}
		return say(v), nil
	}
}

// again describes what was read and how it is written.
func again[T interface{ Encode() []byte }](v T) string {
	return fmt.Sprintf("%+v %x", v, v.Encode())
}

func sayNames(n *table.Name) string {
	out := fmt.Sprint(n.Texts(), " ")
	for i := range n.Records {
		r := &n.Records[i]
		out += fmt.Sprint(r.Text(), r.Bytes(), r.Rank(), n.LanguageTag(r), ";")
	}
	for id := range table.NameID(30) {
		out += fmt.Sprint(n.Best(id), ",")
	}
	return out + fmt.Sprintf("%x", n.Encode())
}

// TestTablesAsApproved tries the tables of one face of the demo studio, whole and
// damaged.
func TestTablesAsApproved(t *testing.T) {
	t.Parallel()
	b, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	if err != nil {
		t.Fatal(err)
	}
	f, still := foundrytest.Parsed(t, b), foundrytest.Face(t, foundry.Signage()[0], font.TTF)
	var cases []fonttest.Case
	for _, one := range []struct {
		tag  string
		from *sfnt.Font
		step int
		read fonttest.Reader
	}{
		{"head", still, 1, read(table.ParseHead, again)},
		{"hhea", still, 1, read(table.ParseHhea, again)},
		{"maxp", still, 1, read(table.ParseMaxp, again)},
		{"OS/2", still, 1, read(table.ParseOS2, again)},
		{"name", still, 3, read(table.ParseName, sayNames)},
		{"post", still, 7, read(table.ParsePost, func(p *table.Post) string { return fmt.Sprintf("%+v", *p) })},
		{"cmap", still, 5, read(table.ParseCmap, func(r []table.Run) string { return fmt.Sprint(r) })},
		{"fvar", f, 1, read(table.ParseFvar, again)},
		{"STAT", f, 1, read(table.ParseStat, func(s *table.Stat) string { return fmt.Sprintf("%+v %x", *s, s.Encode(2)) })},
		{"GSUB", still, 1, read(func(b []byte) ([]byte, error) { return b, nil }, func(b []byte) string {
			return fmt.Sprint(table.LayoutFeatures(b), table.LayoutLanguages(b))
		})},
		{"hmtx", still, 13, read(func(b []byte) ([]byte, error) { return b, nil }, func(b []byte) string {
			metrics := table.ParseHmtx(b, len(b)/8, len(b)/5)
			packed, long := table.EncodeMetrics(metrics)
			return fmt.Sprintf("%v %x %d %x", metrics, packed, long, table.EncodeHmtx(metrics))
		})},
	} {
		data := one.from.Table(sfnt.MakeTag(one.tag))
		if data == nil {
			t.Fatalf("there is no %s", one.tag)
		}
		cases = append(cases, fonttest.Case{Name: one.tag, Bytes: data, Step: one.step, Read: one.read})
	}
	post := still.Table(table.TagPost)
	cases = append(cases, fonttest.Case{Name: "post, trimmed", Bytes: post, Step: 11, Read: func(b []byte) (string, error) {
		return fmt.Sprintf("%x", table.TrimPost(b, []table.GlyphID{0, 3, 40, 41, 200})), nil
	}})
	fonttest.Approve(t, "tables", nil, cases...)
}

// TestCharacterMapsAsApproved tries maps of every format, and those of selectors.
func TestCharacterMapsAsApproved(t *testing.T) {
	t.Parallel()
	head := func(platform, encoding byte) []byte { return []byte{0, 0, 0, 1, 0, platform, 0, encoding, 0, 0, 0, 12} }
	selectors := &table.Cmap{
		Pairs: []table.Mapping{{Rune: 0x2603, Glyph: 4}, {Rune: 0x8FBA, Glyph: 5}, {Rune: 0x1F600, Glyph: 6}},
		Selectors: []table.Selector{
			{Selector: 0xFE0F, Default: []table.Run{{First: 0x2603, Count: 1}}},
			{Selector: 0xE0100, Default: []table.Run{{First: 0x8FBA, Count: 2}}, Special: []table.Mapping{{Rune: 0x8FBB, Glyph: 77}}},
		},
	}
	low := make([]byte, 256)
	low['A'], low['B'], low[0x8A] = 3, 4, 5
	all := func(b []byte) (string, error) {
		runs, err := table.ParseCmap(b)
		if err != nil {
			return "", err
		}
		covered, err := table.AppendCoverage([]table.Run{{First: 1, Count: 9}}, b)
		again := &table.Cmap{Selectors: table.ParseSelectors(b)}
		for _, m := range expand(runs) {
			if len(again.Pairs) < 2000 {
				again.Pairs = append(again.Pairs, m)
			}
		}
		return fmt.Sprintf("%v %v %v %v %v %x", runs, covered, err != nil, table.SymbolCmap(b), again.Selectors, again.Encode()), nil
	}
	fonttest.Approve(t, "characters", all,
		fonttest.Case{Name: "format 0", Bytes: append(head(1, 0), append([]byte{0, 0, 1, 6, 0, 0}, low...)...), Step: 3},
		fonttest.Case{Name: "format 4 by differences", Bytes: append(head(3, 1), 0, 4, 0, 32, 0, 0, 0, 4, 0, 0, 0, 0, 0, 0, 0, 67, 0xFF, 0xFF, 0, 0, 0, 65, 0xFF, 0xFF, 0xFF, 0xC0, 0, 1, 0, 0, 0, 0)},
		fonttest.Case{Name: "format 4 by a list", Bytes: append(head(3, 0), 0, 4, 0, 38, 0, 0, 0, 4, 0, 0, 0, 0, 0, 0, 0, 67, 0xFF, 0xFF, 0, 0, 0, 65, 0xFF, 0xFF, 0, 1, 0, 1, 0, 4, 0, 0, 0, 8, 0, 0, 0, 5)},
		fonttest.Case{Name: "format 6", Bytes: append(head(3, 1), 0, 6, 0, 14, 0, 0, 0, 65, 0, 2, 0, 7, 0, 0)},
		fonttest.Case{Name: "format 10", Bytes: append(head(3, 10), 0, 10, 0, 0, 0, 0, 0, 24, 0, 0, 0, 0, 0, 1, 0xF6, 0, 0, 0, 0, 2, 0, 7, 0, 9)},
		fonttest.Case{Name: "format 12", Bytes: append(head(3, 10), 0, 12, 0, 0, 0, 0, 0, 28, 0, 0, 0, 0, 0, 0, 0, 1, 0, 1, 0xF6, 0, 0, 1, 0xF6, 1, 0, 0, 0, 5)},
		fonttest.Case{Name: "format 13", Bytes: append(head(3, 10), 0, 13, 0, 0, 0, 0, 0, 28, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 65, 0, 0, 0, 70, 0, 0, 0, 5)},
		fonttest.Case{Name: "selectors", Bytes: selectors.Encode()})
}

// TestScalesAsApproved tries avar, and names that other tables use.
func TestScalesAsApproved(t *testing.T) {
	t.Parallel()
	bent := []byte{0, 1, 0, 0, 0, 0, 0, 2, 0, 2, 0xC0, 0, 0xC0, 0, 0x40, 0, 0x40, 0, 0, 2, 0x20, 0, 0x30, 0, 0x40, 0, 0x40, 0}
	fonttest.Approve(t, "scales", read(table.ParseAvar, func(b []bool) string { return fmt.Sprint(b) }), fonttest.Case{Name: "avar", Bytes: bent})
}

// TestWrittenAsApproved holds kerning and ligatures as they are written.
func TestWrittenAsApproved(t *testing.T) {
	t.Parallel()
	kerning := &table.Kerning{Left: map[table.GlyphID]int{3: 1, 4: 1, 5: 2}, Right: map[table.GlyphID]int{3: 1, 7: 2}, Adjust: map[[2]int]int{{1, 1}: -10, {1, 2}: -20, {2, 2}: 30}}
	fonttest.Lines(t, "written",
		fmt.Sprintf("kerning: %x", kerning.Encode()),
		fmt.Sprintf("two ligatures: %x", table.EncodeLigatures([]table.Ligature{{From: []table.GlyphID{10, 11}, To: 40}, {From: []table.GlyphID{10, 12, 11}, To: 41}}, nil)),
		fmt.Sprintf("but not in Turkish: %x", table.EncodeLigatures([]table.Ligature{{From: []table.GlyphID{10, 11}, To: 40}}, []string{"TRK ", "AZE "})))
}
