package cff_test

import (
	"fmt"
	"testing"

	"sparecrate/font/cff"
	"sparecrate/font/curve"
	"sparecrate/font/fonttest"
	"sparecrate/font/variation"
)

// all is all that this package does with a table.
func all(b []byte) (string, error) {
	table, err := cff.Parse(b)
	if err != nil {
		return "", err
	}
	out := fmt.Sprintln(table.Version, table.Name, table.CID, table.Hinted(), table.Glyphs(), table.Names())
	n := min(table.Glyphs(), 8)
	for g := range n {
		contours, advance, err := table.Glyph(g)
		parts, bad := table.Parts(g)
		out += fmt.Sprintln(table.GlyphName(g), drawn(contours), advance, parts, err != nil, bad != nil)
	}
	for _, keep := range [][]int{{0}, {0, 1}, {0, n - 1}, {0, 1, 2, 3, 4}} {
		made, err := table.Subset(keep)
		out += fmt.Sprintf("%x %v\n", made, err != nil)
	}
	static := &cff.Static{PostScript: "Example-Bold", Full: "Example Bold", Family: "Example", Names: []string{".notdef", "A", "long.name", "B", "C"}[:min(5, max(0, n))], Advances: []int{500, 600, -7, 1200, 4000}}
	for _, change := range []variation.Change{{{Pinned: true, At: 1}}, {{Pinned: true, At: 0.3}}, {{Limited: true, Min: 0, Default: 0.25, Max: 0.5}}} {
		made, err := table.Pin(change, static, false)
		out += fmt.Sprintf("%x %v\n", made, err != nil)
		fine, err := table.Pin(change, nil, true)
		out += fmt.Sprintf("%x %v\n", fine, err != nil)
	}
	renamed, err := cff.Rename(b, "Other-Regular", "Other Regular", "Other")
	return out + fmt.Sprintf("%x %v", renamed, err != nil), nil
}

// TestTablesAsApproved tries tables of both versions, with glyphs by name and by number,
// whole and damaged.
func TestTablesAsApproved(t *testing.T) {
	t.Parallel()
	esc := func(op byte) []byte { return []byte{12, op} }
	line := code(1, 0, 0, byte(21), -107, byte(10), byte(14))
	local, global := [][]byte{code(5, byte(6), byte(11))}, [][]byte{code(7, byte(7), -107, byte(10), byte(14))}
	private := code(
		-10, 10, 60, 10, 0, 0, 20, 0, 4, byte(23), byte(6),
		[]byte{30, 0x0A, 0x04, 0xFF}, []byte{30, 0x0A, 0x02, 0xFF}, 1, byte(23), byte(12), byte(9),
		50, 40, 1, byte(23), byte(10), 80, byte(11), 7, 30, 30, 1, byte(23), byte(12), byte(12))
	encoded := cff.Font{PostScript: "Example-Regular", Family: "Example", Full: "Example Regular", Weight: "Regular", Notice: "None", Glyphs: []cff.Glyph{
		{Name: ".notdef", Advance: 500}, {Name: "a", Advance: 510, Contours: []curve.Contour{{From: pt(0, 0), Segments: []curve.Segment{
			{To: pt(100, 0), Line: true}, {C1: pt(100, 50), C2: pt(50, 100), To: pt(0, 1131.5)}, {To: pt(-1132, -108), Line: true}}}}},
		{Name: "odd", Advance: 1700, Contours: []curve.Contour{{From: pt(5, 9), Segments: []curve.Segment{
			{C1: pt(5, 50), C2: pt(50, 100), To: pt(70, 100)}, {C1: pt(90, 100), C2: pt(120, 70), To: pt(120, 9)}, {To: pt(5, 9), Line: true}}}}},
	}}
	fonttest.Approve(t, "tables", all,
		fonttest.Case{Name: "curves and subroutines", Bytes: assembled(local, global,
			code(7, 1, 2, byte(21), 3, 4, 5, 6, byte(5), byte(14)),
			code(0, 0, byte(21), 1, 2, 3, 4, 5, 6, 7, 8, byte(31), 9, 1, 2, 3, 4, byte(26), -107, byte(10), byte(14)),
			code(0, 0, byte(21), 1, 2, 3, 4, 5, 6, 7, 8, 9, esc(36), -107, byte(29)))},
		fonttest.Case{Name: "hints and arithmetic", Bytes: assembled(local, global,
			code(7, 1, 2, 3, 4, 5, 6, 7, 8, byte(18), 1, 2, 3, 4, 5, 6, 7, 8, 9, 9, byte(19), byte(0xFF), byte(0x80), 1, 1, byte(21), 2, byte(6), byte(14)),
			code(0, 0, byte(21), 4, 5, esc(10), 9, 2, esc(11), 3, 4, esc(24), 9, 2, esc(12), byte(5), byte(14)),
			code(0, 0, byte(21), 1, 2, esc(28), esc(27), 1, esc(29), 4, 1, esc(30), byte(5), byte(14)),
			code(0, 0, byte(21), 8, 3, esc(20), 3, esc(21), 1, 2, 3, 4, esc(22), byte(5), byte(14)))},
		fonttest.Case{Name: "more curves", Bytes: assembled(local, global,
			code(0, 0, byte(21), 9, 1, 9, 1, 9, 1, 9, 1, 9, 1, 9, esc(37), byte(14)),
			code(0, 0, byte(21), 1, 2, 3, 4, 5, byte(30), 7, 8, 1, 2, 3, 4, 5, 6, byte(25), 9, 1, 2, 3, 4, byte(27), byte(14)),
			code(3, byte(22), 1, 2, 3, byte(6), 4, 5, byte(7), 1, 1, 1, 1, 1, 1, 2, 2, 2, 2, 2, 2, 50, esc(35), 1, 2, 3, 4, 5, 6, 7, esc(34), byte(14)))},
		fonttest.Case{Name: "accented letters", Bytes: assembled(nil, nil, code(1, 1, byte(21), 2, byte(6), byte(14)), code(3, 3, byte(21), 4, byte(7), byte(14)), code(10, 20, 65, 66, byte(14)))},
		fonttest.Case{Name: "numbered, a byte a glyph", Bytes: keyed([]byte{0, 0, 0, 1}, line, line)},
		fonttest.Case{Name: "numbered, in ranges", Bytes: keyed([]byte{3, 0, 2, 0, 0, 0, 0, 2, 1, 0, 4}, line, line, line)},
		fonttest.Case{Name: "varying outlines and hints", Bytes: varying(code(10, 20, 1, 2, 2, byte(16), byte(21), 30, 5, 1, byte(16), byte(6)), private)},
		fonttest.Case{Name: "as written", Bytes: encoded.Encode()})
}
