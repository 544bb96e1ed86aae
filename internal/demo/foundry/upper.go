package foundry

// lobe draws the round part of D, P, B and R: the right half of a ring that
// leaves a stem at x = 0 with straight arms.
func (p *pen) lobe(x1, y0, y1 float64) {
	v, h := p.d.V*1.04, p.d.H
	// The arms run level as far as they can while the curve keeps its shape.
	c := x1 - (y1-y0)*0.52
	if c < x1*0.42 {
		c = x1 * 0.42
	}
	m := (y0 + y1) / 2
	p.path(v*0.5, y1-h/2).to(c, y1-h/2).level(x1-v/2, m).up(c, y0+h/2).to(v*0.5, y0+h/2).stroke(v, h)
}

func uppercase(d *Design) map[rune]drawing {
	v, h, y, o := d.V*1.06, d.H, d.Cap, d.Overshoot
	thick, thin := d.Thick, d.Thin
	mid := y * 0.5
	return map[rune]drawing{
		'A': {func(p *pen) {
			w := d.wide(600)
			p.diagonal(thin*0.55, 0, w/2, y, thin)
			p.diagonal(w-thick*0.55, 0, w/2, y, thick)
			p.bar(w*0.20, y*0.22, w*0.80, y*0.22+h*0.92)
		}, "vv"},
		'B': {func(p *pen) {
			w := d.wide(500)
			p.bar(0, 0, v, y)
			p.lobe(w*0.94, y*0.515-h*0.45, y)
			p.lobe(w, 0, y*0.515+h*0.45)
		}, "so"},
		'C': {func(p *pen) { p.open(d.wide(580), y, 0.66) }, "oc"},
		'D': {func(p *pen) { p.bar(0, 0, v, y); p.lobe(d.wide(570), 0, y) }, "so"},
		'E': {func(p *pen) {
			w := d.wide(430)
			p.bar(0, 0, v, y)
			p.bar(0, 0, w, h)
			p.bar(0, mid-h*0.45, w*0.9, mid+h*0.5)
			p.bar(0, y-h, w*0.98, y)
		}, "st"},
		'F': {func(p *pen) {
			w := d.wide(420)
			p.bar(0, 0, v, y)
			p.bar(0, y*0.47-h*0.45, w*0.9, y*0.47+h*0.5)
			p.bar(0, y-h, w, y)
		}, "sf"},
		'G': {func(p *pen) {
			w := d.wide(610)
			l, r, c := d.V/2, w-d.V/2, w*0.52
			p.path(r-d.V*0.1, mid*1.1).up(c, y+o-h/2).level(l, mid).up(c, h/2-o).level(r, mid*0.86).cutStart(0.34).stroke(d.V, h)
			p.bar(w*0.56, mid-h*0.5, w, mid+h*0.5)
			p.bar(w-d.V, mid*0.7, w, mid+h*0.5)
		}, "os"},
		'H': {func(p *pen) {
			w := d.wide(550)
			p.bar(0, 0, v, y)
			p.bar(w-v, 0, w, y)
			p.bar(0, mid-h*0.5, w, mid+h*0.5)
		}, "ss"},
		'I': {func(p *pen) { p.bar(0, 0, v, y) }, "ss"},
		'J': {func(p *pen) {
			w := d.wide(340)
			r := w - v/2
			p.path(r, y).to(r, w*0.5).up(w*0.45, h/2-o).level(d.V*0.45, w*0.56).cut(0.72).stroke(v, h)
		}, "es"},
		'K': {func(p *pen) {
			w := d.wide(530)
			p.bar(0, 0, v, y)
			p.diagonal(v*0.9, y*0.34, w-thin*0.65, y, thin)
			p.diagonal(w-thick*0.62, 0, v+w*0.19, y*0.58, thick)
		}, "sv"},
		'L': {func(p *pen) { p.bar(0, 0, v, y); p.bar(0, 0, d.wide(410), h) }, "st"},
		'M': {func(p *pen) {
			w := d.wide(650)
			p.bar(0, 0, v, y)
			p.bar(w-v, 0, w, y)
			p.diagonal(w/2, y*0.12, v*0.6, y, thick*0.96)
			p.diagonal(w/2, y*0.12, w-v*0.6, y, thin*0.96)
		}, "ss"},
		'N': {func(p *pen) {
			w := d.wide(560)
			p.bar(0, 0, v, y)
			p.bar(w-v, 0, w, y)
			p.diagonal(w-v*0.62, 0, v*0.62, y, thick)
		}, "ss"},
		'O': {func(p *pen) { p.round(d.wide(640), y) }, "oo"},
		'P': {func(p *pen) { p.bar(0, 0, v, y); p.lobe(d.wide(480), y*0.43, y) }, "so"},
		'Q': {func(p *pen) {
			w := d.wide(640)
			p.round(w, y)
			p.diagonal(w*0.92, -y*0.13, w*0.62, y*0.2, d.Thick*0.95)
		}, "oo"},
		'R': {func(p *pen) {
			w := d.wide(500)
			p.bar(0, 0, v, y)
			p.lobe(w*0.97, y*0.44, y)
			p.diagonal(w-thick*0.42, 0, w*0.52, y*0.44+h*0.5, thick)
		}, "sv"},
		'S': {func(p *pen) { p.ess(d.wide(490), y, h) }, "ee"},
		'T': {func(p *pen) {
			w := d.wide(510)
			p.bar(0, y-h, w, y)
			p.bar(w/2-v/2, 0, w/2+v/2, y)
		}, "TT"},
		'U': {func(p *pen) {
			w := d.wide(550)
			l, r, c := v/2, w-v/2, w/2
			turn := w * 0.46
			p.path(l, y).to(l, turn).up(c, h/2-o).level(r, turn).to(r, y).stroke(v, h)
		}, "ss"},
		'V': {func(p *pen) { p.vee(d.wide(590), 0, y, 0) }, "vv"},
		'W': {func(p *pen) { w := d.wide(490); p.vee(w, 0, y, 0); p.vee(w, 0, y, w-d.Thick) }, "vv"},
		'X': {func(p *pen) { p.ex(d.wide(560), y) }, "vv"},
		'Y': {func(p *pen) {
			w := d.wide(560)
			p.bar(w/2-v/2, 0, w/2+v/2, y*0.45)
			p.vee(w, y*0.36, y, 0)
		}, "vv"},
		'Z': {func(p *pen) { p.zed(d.wide(500), y, h) }, "tt"},
		'Æ': {func(p *pen) {
			w := d.wide(590)
			p.diagonal(thin*0.55, 0, w*0.62, y, thin)
			p.bar(w*0.26, y*0.22, w*0.62, y*0.22+h*0.92)
			p.bar(w*0.62-v/2, 0, w*0.62+v/2, y)
			e := w * 0.62
			p.bar(e, 0, e+d.wide(360), h)
			p.bar(e, mid-h*0.45, e+d.wide(330), mid+h*0.5)
			p.bar(e-v*0.3, y-h, e+d.wide(350), y)
		}, "vt"},
		'Œ': {func(p *pen) {
			w := d.wide(600)
			p.ring(box{0, -o, w, y + o}, box{d.V, h - o, w - d.V*0.9, y + o - h})
			e := w - v*0.8
			p.bar(e-v*0.3, 0, e+v*0.7, y)
			p.bar(w*0.5, 0, e+d.wide(360), h)
			p.bar(e, mid-h*0.45, e+d.wide(330), mid+h*0.5)
			p.bar(w*0.5, y-h, e+d.wide(350), y)
		}, "ot"},
		'Ð': {func(p *pen) {
			p.bar(0, 0, v, y)
			p.lobe(d.wide(570), 0, y)
			p.bar(-v*0.75, mid-h*0.45, d.wide(300), mid+h*0.45)
		}, "to"},
		'Þ': {func(p *pen) { p.bar(0, 0, v, y); p.lobe(d.wide(480), y*0.2, y*0.78) }, "so"},
		'ẞ': {func(p *pen) {
			w := d.wide(520)
			p.path(v/2, 0).to(v/2, y-w*0.4).up(w*0.48, y-h/2).level(w*0.9-v/2, y*0.78).up(w*0.5, y*0.56).stroke(v, h)
			p.path(w*0.48, y*0.56).level(w-v/2, y*0.29).up(w*0.54, h/2-o).level(w*0.3, h*0.75).cut(0.8).stroke(v, h)
		}, "so"},
	}
}

// digits all take the same width, so that timetables line up.
func digits(d *Design) map[rune]drawing {
	v, h, y, o := d.V, d.H, d.Cap, d.Overshoot
	w := d.wide(450)
	l, r, c := v/2, w-v/2, w/2
	return map[rune]drawing{
		'0': {func(p *pen) { p.ring(box{0, -o, w, y + o}, box{v, h - o, w - v, y + o - h}) }, "##"},
		'1': {func(p *pen) {
			s := w * 0.56
			p.bar(s-v/2, 0, s+v/2, y)
			p.diagonal(w*0.10, y*0.76, s-v*0.1, y-h*0.1, d.Thin*0.95)
		}, "##"},
		'2': {func(p *pen) {
			p.path(l, y*0.68).up(c, y+o-h/2).level(r, y*0.72).curve(pt(r, y*0.5), pt(w*0.32, y*0.34), pt(l+w*0.04, h*0.4)).cutStart(0.3).stroke(v, h)
			p.bar(0, 0, w, h)
		}, "##"},
		'3': {func(p *pen) {
			m := y * 0.53
			p.path(l, y*0.70).up(c, y+o-h/2).level(r-w*0.04, y*0.765).up(w*0.42, m).cutStart(0.32).stroke(v, h)
			p.path(w*0.42, m).level(r, y*0.265).up(c*0.98, h/2-o).level(l*0.8, y*0.29).cut(0.68).stroke(v, h)
		}, "##"},
		'4': {func(p *pen) {
			s := w * 0.72
			p.bar(s-v/2, 0, s+v/2, y)
			p.bar(0, y*0.2, w*1.02, y*0.2+h)
			p.diagonal(d.Thin*0.55, y*0.2+h*0.5, s-v*0.05, y, d.Thin)
		}, "##"},
		'5': {func(p *pen) {
			p.bar(w*0.08, y-h, w*0.94, y)
			p.bar(w*0.08, y*0.47, w*0.08+v*0.9, y)
			p.path(l+v*0.1, y*0.5).up(w*0.47, y*0.635-h/2).level(r, y*0.31).up(c*0.96, h/2-o).level(l*0.7, y*0.27).cut(0.66).stroke(v, h)
		}, "##"},
		'6': {func(p *pen) {
			p.ring(box{0, -o, w, y*0.62 + o}, box{v, h - o, w - v, y*0.62 + o - h})
			p.path(l, y*0.31).to(l, y*0.45).up(c*1.06, y+o-h/2).level(r, y*0.73).cut(0.6).stroke(v, h)
		}, "##"},
		'7': {func(p *pen) {
			p.bar(0, y-h, w, y)
			p.diagonal(w*0.32, 0, w-d.Thick*0.62, y-h*0.5, d.Thick)
		}, "##"},
		'8': {func(p *pen) {
			m := y * 0.53
			in := w * 0.04
			p.ring(box{in, m - h*0.5, w - in, y + o}, box{in + v*0.94, m + h*0.45, w - in - v*0.94, y + o - h})
			p.ring(box{0, -o, w, m + h*0.5}, box{v, h - o, w - v, m - h*0.45})
		}, "##"},
		'9': {func(p *pen) {
			p.ring(box{0, y*0.38 - o, w, y + o}, box{v, y*0.38 - o + h, w - v, y + o - h})
			p.path(r, y*0.69).to(r, y*0.55).up(c*0.94, h/2-o).level(l, y*0.27).cut(0.6).stroke(v, h)
		}, "##"},
	}
}
