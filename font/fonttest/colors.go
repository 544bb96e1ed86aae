package fonttest

import "encoding/binary"

// paints puts a color table together: paints at places that are told, so that
// others can name them.
type paints struct{ b []byte }

func (p *paints) add(parts ...any) (at int) {
	at = len(p.b)
	for _, part := range parts {
		switch n := part.(type) {
		case byte:
			p.b = append(p.b, n)
		case int: // 16 bits
			p.b = binary.BigEndian.AppendUint16(p.b, uint16(n))
		case uint32:
			p.b = binary.BigEndian.AppendUint32(p.b, n)
		case toward: // 24 bits, counted from the start of this part
			d := int(n) - at
			p.b = append(p.b, byte(d>>16), byte(d>>8), byte(d))
		}
	}
	return at
}

type toward int

// Colors is a table COLR, version 1, with a paint of every kind that varies and some that
// do not, over a store of variations whose rows the paints count from the first on. Glyphs
// 1 to 15 have paints of their own; 7 and 9 are drawn by paints. It comes with the place
// of each part.
func Colors(store []byte) (b []byte, places map[string]int) {
	const none = uint32(0xFFFFFFFF)
	// Inner parts have to lie behind what names them, so they are put in two rounds:
	// places do not depend on what is written there.
	var p paints
	places = map[string]int{}
	build := func() {
		p.b = nil
		put := func(name string, parts ...any) { places[name] = p.add(parts...) }
		to := func(name string) toward { return toward(places[name]) }
		put("header", 1, 0, uint32(0), uint32(0), 0, uint32(34), uint32(places["layers"]), uint32(places["clips"]), uint32(0), uint32(places["store"]))
		list := len(p.b)
		roots := []string{"gradient", "radial", "sweep", "translate", "scale", "around", "uniform", "uniformAround", "rotate", "rotateAround", "skew", "skewAround", "transform", "both", "still"}
		p.add(uint32(len(roots)))
		for i, name := range roots {
			p.add(i+1, uint32(places[name]-list))
		}
		put("layers", uint32(1), uint32(places["solid"]-places["layers"]))
		put("gradient", byte(5), to("line"), 100, 200, 300, 400, 500, 600, uint32(0))
		put("radial", byte(7), to("line"), 100, 200, 300, 400, 500, 600, uint32(0))
		put("sweep", byte(9), to("line"), 100, 200, 300, 400, uint32(0))
		put("translate", byte(15), to("solid"), 100, 200, uint32(0))
		put("scale", byte(17), to("solid"), 100, 200, uint32(0))
		put("around", byte(19), to("solid"), 100, 200, 300, 400, uint32(0))
		put("uniform", byte(21), to("solid"), 100, uint32(0))
		put("uniformAround", byte(23), to("solid"), 100, 200, 300, uint32(0))
		put("rotate", byte(25), to("solid"), 100, uint32(0))
		put("rotateAround", byte(27), to("solid"), 100, 200, 300, uint32(0))
		put("skew", byte(29), to("solid"), 100, 200, uint32(0))
		put("skewAround", byte(31), to("solid"), 100, 200, 300, 400, uint32(0))
		put("transform", byte(13), to("solid"), to("affine"))
		put("both", byte(32), to("solid"), byte(3), to("glyph"))
		put("still", byte(14), to("deep"), 100, 200)
		put("deep", byte(10), to("solidToo"), 7)
		put("glyph", byte(10), to("solid"), 9)
		put("solid", byte(3), 2, 0x1000, uint32(0))
		put("solidToo", byte(3), 2, 0x1000, none)
		put("line", byte(0), 2, 0x0000, 1, 0x1000, uint32(0), 0x2000, 2, 0x1000, uint32(2))
		put("affine", uint32(1<<16), uint32(0), uint32(0), uint32(1<<16), uint32(5), uint32(6), uint32(0))
		put("clips", byte(1), uint32(1), 1, 1, byte(0), byte(0), byte(12))
		put("box", byte(2), 10, 20, 30, 40, uint32(0))
		places["store"] = len(p.b)
		p.b = append(p.b, store...)
	}
	build()
	build() // now that all places are known
	return p.b, places
}
