package offsets

import "sparecrate/font/table"

// Coverage writes a coverage table of ascending glyphs in the shorter form.
func Coverage(glyphs []table.GlyphID) *Node {
	var ranges [][3]int
	for i, g := range glyphs {
		if n := len(ranges); n > 0 && ranges[n-1][1]+1 == int(g) {
			ranges[n-1][1] = int(g)
			continue
		}
		ranges = append(ranges, [3]int{int(g), int(g), i})
	}
	n := &Node{}
	if 6*len(ranges) < 2*len(glyphs) {
		n.U16(2, len(ranges))
		for _, r := range ranges {
			n.U16(r[0], r[1], r[2])
		}
		return n
	}
	n.U16(1, len(glyphs))
	n.Glyphs(glyphs)
	return n
}

// Classes writes a class definition of glyphs in ascending order in the
// shorter form; nil where all are of class 0. Glyphs out of order, which only
// damaged tables have, are left out.
func Classes(glyphs []table.GlyphID, class []int) *Node {
	var ranges [][3]int
	for i, g := range glyphs {
		if class[i] == 0 || len(ranges) > 0 && int(g) <= ranges[len(ranges)-1][1] {
			continue
		}
		if n := len(ranges); n > 0 && ranges[n-1][1]+1 == int(g) && ranges[n-1][2] == class[i] {
			ranges[n-1][1] = int(g)
			continue
		}
		ranges = append(ranges, [3]int{int(g), int(g), class[i]})
	}
	if len(ranges) == 0 {
		return nil
	}
	n := &Node{}
	first, last := ranges[0][0], ranges[len(ranges)-1][1]
	if 6+2*(last-first+1) < 4+6*len(ranges) {
		n.U16(1, first, last-first+1)
		list := make([]int, last-first+1)
		for _, r := range ranges {
			for g := r[0]; g <= r[1]; g++ {
				list[g-first] = r[2]
			}
		}
		n.U16(list...)
		return n
	}
	n.U16(2, len(ranges))
	for _, r := range ranges {
		n.U16(r[0], r[1], r[2])
	}
	return n
}

// NoClasses is a class definition without glyphs, for where one must stand.
func NoClasses() *Node {
	n := &Node{}
	n.U16(2, 0)
	return n
}
