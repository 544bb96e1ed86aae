package specimen

import (
	"image/color"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// layers are the colored layers of glyphs (OpenType, `COLR` version 0 and
// `CPAL`).
type layers struct {
	colr, cpal sfnt.View
}

// layer is a glyph in a color, or in that of the text.
type layer struct {
	glyph table.GlyphID
	color color.NRGBA
	ink   bool
}

// maxLayers bounds the layers of one glyph.
const maxLayers = 256

func layersOf(f *sfnt.Font) *layers {
	return &layers{sfnt.View(f.Table(sfnt.MakeTag("COLR"))), sfnt.View(f.Table(sfnt.MakeTag("CPAL")))}
}

func (l *layers) of(g table.GlyphID) []layer {
	count, _ := l.colr.U16(2)
	bases, _ := l.colr.U32(4)
	list, ok := l.colr.U32(8)
	if !ok {
		return nil
	}
	low, high := 0, int(count)
	for low < high {
		mid := (low + high) / 2
		if id, _ := l.colr.U16(int(bases) + 6*mid); table.GlyphID(id) < g {
			low = mid + 1
		} else {
			high = mid
		}
	}
	if id, ok := l.colr.U16(int(bases) + 6*low); !ok || low >= int(count) || table.GlyphID(id) != g {
		return nil
	}
	first, _ := l.colr.U16(int(bases) + 6*low + 2)
	n, _ := l.colr.U16(int(bases) + 6*low + 4)
	var out []layer
	for i := range min(int(n), maxLayers) {
		at := int(list) + 4*(int(first)+i)
		id, _ := l.colr.U16(at)
		entry, ok := l.colr.U16(at + 2)
		if !ok {
			break
		}
		one := layer{glyph: table.GlyphID(id), ink: entry == 0xFFFF}
		if !one.ink {
			one.color, one.ink = l.color(int(entry))
		}
		out = append(out, one)
	}
	return out
}

// color returns an entry of the first palette; that of the text where there is
// none.
func (l *layers) color(entry int) (color.NRGBA, bool) {
	records, _ := l.cpal.U32(8)
	first, _ := l.cpal.U16(12)
	b, ok := l.cpal.Sub(int(records)+4*(int(first)+entry), 4)
	if !ok {
		return color.NRGBA{}, true
	}
	return color.NRGBA{b[2], b[1], b[0], b[3]}, false
}
