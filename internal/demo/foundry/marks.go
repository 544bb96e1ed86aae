package foundry

import (
	"fmt"
	"strings"
)

// Marks stand at private places while they are drawn: they are parts of
// composed letters, and spacing accents of Latin-1 where those exist.
const (
	grave      = '\u0060'
	acute      = '\u00B4'
	circumflex = '\u02C6'
	tilde      = '\u02DC'
	dieresis   = '\u00A8'
	ring       = '\u02DA'
	caron      = '\u02C7'
	breve      = '\u02D8'
	macron     = '\u00AF'
	dotabove   = '\u02D9'
	dbacute    = '\u02DD'
	cedilla    = '\u00B8'
	ogonek     = '\u02DB'
	sidecaron  = '\u02BC' // the caron of d, t and L stands beside them
)

// marks are drawn where they sit over a lowercase letter.
func marks(d *Design) map[rune]drawing {
	v, h := d.V*0.82, d.H*0.8
	base := d.X + max((d.Cap-d.X)*0.42, d.H*0.6)
	top := base + max((d.Cap-d.X)*0.78, d.H)
	mid := (base + top) / 2
	t := d.Thin*0.5 + d.H*0.3
	slant := d.wide(95)
	wide := d.wide(240)
	return map[rune]drawing{
		grave: {func(p *pen) { p.diagonal(slant, base, 0, top, t) }, "pp"},
		acute: {func(p *pen) { p.diagonal(0, base, slant, top, t) }, "pp"},
		circumflex: {func(p *pen) {
			p.diagonal(0, base, wide*0.42, top, t)
			p.diagonal(wide*0.84, base, wide*0.42, top, t)
		}, "pp"},
		caron: {func(p *pen) {
			p.diagonal(wide*0.42, base, 0, top, t)
			p.diagonal(wide*0.42, base, wide*0.84, top, t)
		}, "pp"},
		tilde: {func(p *pen) {
			a := h * 0.9
			p.path(0, mid-a*0.5).curve(pt(wide*0.2, mid+a*1.6), pt(wide*0.4, mid+a*0.8), pt(wide*0.5, mid)).
				curve(pt(wide*0.6, mid-a*0.8), pt(wide*0.8, mid-a*1.6), pt(wide, mid+a*0.5)).stroke(v*0.9, h*0.9)
		}, "pp"},
		dieresis: {func(p *pen) {
			r := d.Dot * 0.9
			p.dot(r, mid, r)
			p.dot(wide*0.82-r+r, mid, r)
		}, "pp"},
		ring: {func(p *pen) {
			r := (top-base)*0.5 + h*0.35
			p.ring(box{0, mid - r, 2 * r, mid + r}, box{v * 0.74, mid - r + h*0.74, 2*r - v*0.74, mid + r - h*0.74})
		}, "pp"},
		breve: {func(p *pen) {
			p.arch(box{0, base, wide * 0.92, top + (top - base)}, box{v * 0.8, base + h, wide*0.92 - v*0.8, top + (top - base)}, true)
		}, "pp"},
		macron:   {func(p *pen) { p.bar(0, mid-h*0.45, wide*0.95, mid+h*0.45) }, "pp"},
		dotabove: {func(p *pen) { p.dot(d.Dot, mid, d.Dot) }, "pp"},
		dbacute: {func(p *pen) {
			p.diagonal(0, base, slant, top, t)
			p.diagonal(t*1.7, base, slant+t*1.7, top, t)
		}, "pp"},
		cedilla: {func(p *pen) {
			w := wide * 0.62
			low := d.Descender
			p.path(w*0.42, 0).to(w*0.42, low*0.3).stroke(v*0.8, h)
			p.path(w*0.34, low*0.32).level(w-v*0.4, low*0.62).up(w*0.34, low+h*0.4).to(0, low+h*0.4).stroke(v*0.8, h*0.8)
		}, "pp"},
		ogonek: {func(p *pen) {
			w := wide * 0.62
			low := d.Descender
			p.path(w*0.72, h*0.3).curve(pt(w*0.3, low*0.25), pt(v*0.4, low*0.5), pt(v*0.4, low*0.66)).up(w*0.62, low+h*0.4).to(w, low+h*0.4).stroke(v*0.8, h*0.8)
		}, "pp"},
		sidecaron: {func(p *pen) { p.diagonal(0, d.Cap*0.7, d.Dot*0.8, d.Ascender, d.Dot*1.1) }, "pp"},
	}
}

// accent is a letter made of a base and a mark.
type accent struct {
	rune, base, mark rune
}

// accents lists the composed letters.
func accents(_ *Design) []accent {
	var all []accent
	for _, row := range []string{
		"` ÀA ÈE ÌI ÒO ÙU àa èe ìı òo ùu",
		"´ ÁA ÉE ÍI ÓO ÚU ÝY áa ée íı óo úu ýy ĆC ćc ŃN ńn ŚS śs ŹZ źz ĹL ĺl ŔR ŕr",
		"ˆ ÂA ÊE ÎI ÔO ÛU âa êe îı ôo ûu ŴW ŵw ŶY ŷy",
		"˜ ÃA ÑN ÕO ãa ñn õo",
		"¨ ÄA ËE ÏI ÖO ÜU ŸY äa ëe ïı öo üu ÿy",
		"˚ ÅA åa ŮU ůu",
		"ˇ ČC čc ĎD ĚE ěe ŇN ňn ŘR řr ŠS šs ŤT ŽZ žz",
		"˘ ĞG ğg ĂA ăa",
		"¯ ĀA āa ĒE ēe ĪI īı ŌO ōo ŪU ūu",
		"˙ İI ŻZ żz ĊC ċc ĖE ėe",
		"˝ ŐO őo ŰU űu",
		"¸ ÇC çc ŞS şs",
		"˛ ĄA ąa ĘE ęe",
		"ʼ ďd ťt ľl ĽL",
		"/ ØO øo ŁL łl",
		"- đd ĐD",
	} {
		fields := strings.Fields(row)
		mark := []rune(fields[0])[0]
		for _, f := range fields[1:] {
			pair := []rune(f)
			all = append(all, accent{pair[0], pair[1], mark})
		}
	}
	return all
}

// compose places a mark on its base. Slashes and bars are drawn with the base;
// everything else is a base glyph and a mark glyph, shifted.
func (d *Design) compose(a accent, ready map[rune]glyph) glyph {
	base := ready[a.base]
	b := extent(base.contours)
	switch a.mark {
	case '/', '-':
		return d.struck(a, base, b)
	}
	mark := ready[a.mark]
	m := extent(mark.contours)
	x, y := (b.x0+b.x1)/2-(m.x0+m.x1)/2, 0.0
	g := glyph{rune: a.rune, advance: base.advance}
	capital := b.y1 > d.X*1.15 && a.base != 'ı'
	switch a.mark {
	case cedilla:
		x += d.V * 0.1
	case ogonek:
		x = b.x1 - m.x1 + d.V*0.2
	case sidecaron:
		x = b.x1 - m.x0 + d.Dot*0.5
		if a.base == 'L' {
			x = (b.x0+b.x1)/2 - m.x0 + d.Dot
		}
		if a.base == 't' {
			x = b.x1 - m.x0 - d.Dot*0.4
		}
		if a.base != 'L' {
			g.advance += nearest(m.x1 - m.x0 - d.Dot*0.2)
		}
	default:
		if capital {
			y = d.Cap - d.X - d.H*0.25
		}
	}
	g.parts = []part{{a.base, 0, 0}, {a.mark, nearest(x), nearest(y)}}
	p := &pen{d: d}
	p.place(base.contours, 0, 0)
	p.place(mark.contours, float64(nearest(x)), float64(nearest(y)))
	g.contours = p.contours
	return g
}

// struck draws a slash or a bar through a letter.
func (d *Design) struck(a accent, base glyph, b box) glyph {
	p := &pen{d: d}
	p.place(base.contours, 0, 0)
	t := d.Thin*0.5 + d.H*0.3
	cx, cy := (b.x0+b.x1)/2, (b.y0+b.y1)/2
	switch a.base {
	case 'O', 'o':
		w := (b.x1 - b.x0) * 0.5
		p.diagonal(cx-w*0.86, b.y0-d.H*0.3, cx+w*0.86, b.y1+d.H*0.3, t*0.9)
	case 'L':
		p.path(b.x0-d.V*0.7, d.Cap*0.34).to(b.x0+d.V*2.2, d.Cap*0.58).stroke(t*0.9, t*0.9)
	case 'l':
		p.path(cx-d.V*0.9-d.Extra*0.2-30, cy-d.V*0.4-20).to(cx+d.V*0.9+d.Extra*0.2+30, cy+d.V*0.6+20).stroke(t*0.9, t*0.9)
	case 'd':
		p.bar(b.x1-d.V*2.4, d.X+(d.Ascender-d.X)*0.42-t/2, b.x1+d.V*0.6, d.X+(d.Ascender-d.X)*0.42+t/2)
	case 'D':
		p.bar(b.x0-d.V*0.7, cy-t/2, b.x0+d.V*2.4, cy+t/2)
	}
	return glyph{rune: a.rune, advance: base.advance, contours: p.contours}
}

// glyphName returns the name for production in the form uniXXXX (Adobe Glyph List
// specification, section 2), or the plain letter for ASCII letters.
func glyphName(r rune) string {
	if r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' {
		return string(r)
	}
	if r == ' ' {
		return "space"
	}
	return fmt.Sprintf("uni%04X", r)
}
