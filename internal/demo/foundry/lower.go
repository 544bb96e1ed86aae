package foundry

// bowl draws the round part of b, d, p, q: a ring that grows thin where it
// leaves the stem on the given side of the letter's width w.
func (p *pen) bowl(w, y0, y1 float64, stemLeft bool) {
	v, h := p.d.V, p.d.H
	outer, inner := box{0, y0, w, y1}, box{v, y0 + h, w - v, y1 - h}
	if stemLeft {
		outer.x0, inner.x0 = 0.3*v, 0.62*v
	} else {
		outer.x1, inner.x1 = w-0.3*v, w-0.62*v
	}
	p.ring(outer, inner)
}

// shoulder draws an n's arch from the stem at x0 to the leg that ends at x1.
func (p *pen) shoulder(x0, x1, top float64) {
	v, h := p.d.V, p.d.H
	low := top - (x1-x0)*0.86
	p.arch(box{x0 + 0.3*v, low, x1, top}, box{x0 + 0.62*v, low, x1 - v, top - h}, false)
	p.bar(x1-v, 0, x1, (low+top)/2)
}

func lowercase(d *Design) map[rune]drawing {
	v, h, x, o := d.V, d.H, d.X, d.Overshoot
	asc, desc := d.Ascender, d.Descender
	n := d.wide(430)
	round := d.wide(470)
	mid := x / 2
	return map[rune]drawing{
		'a': {func(p *pen) {
			w := d.wide(415)
			r := w - v/2
			p.path(r, 0).to(r, x*0.62).up(w*0.49, x+o-h/2).level(v*0.4, x*0.72).cut(0.62).stroke(v, h)
			ym := x * 0.55
			p.path(r, ym).to(w*0.46, ym).level(v/2, (ym-o)/2+h*0.02).up(w*0.44, h/2-o).level(r-v*0.03, x*0.32).stroke(v, h*0.94)
		}, "os"},
		'b': {func(p *pen) { p.bar(0, 0, v, asc); p.bowl(round, -o, x+o, true) }, "so"},
		'c': {func(p *pen) { p.open(d.wide(430), x, 0.66) }, "oc"},
		'd': {func(p *pen) { p.bar(round-v, 0, round, asc); p.bowl(round, -o, x+o, false) }, "os"},
		'e': {func(p *pen) {
			w := d.wide(455)
			l, r, c := v/2, w-v/2, w/2
			p.path(r, mid).up(c, x+o-h/2).level(l, mid).up(c, h/2-o).level(r-v*0.1, mid*0.92).cut(0.64).stroke(v, h)
			p.bar(l, mid-h*0.45, w, mid+h*0.45)
		}, "oc"},
		'f': {func(p *pen) {
			s := d.wide(120)
			r := d.wide(150)
			p.path(s, 0).to(s, asc-r*0.9).up(s+r, asc-h/2).stroke(v, h)
			p.bar(0, x-h, s+r*0.95, x)
		}, "tf"},
		'g': {func(p *pen) {
			r := round - v/2
			p.bowl(round, -o, x+o, false)
			p.path(r, x).to(r, desc+(round-v)*0.44).up(round*0.47, desc+h/2).level(v*0.6, desc+(round-v)*0.42).cut(0.55).stroke(v, h)
		}, "os"},
		'h': {func(p *pen) { p.bar(0, 0, v, asc); p.shoulder(0, n, x+o) }, "sn"},
		'i': {func(p *pen) { p.bar(0, 0, v, x); p.dot(v/2, d.dotHeight(), d.Dot) }, "ss"},
		'ı': {func(p *pen) { p.bar(0, 0, v, x) }, "ss"},
		'j': {func(p *pen) { p.hookedJ(); p.dot(v/2, d.dotHeight(), d.Dot) }, "js"},
		'ȷ': {func(p *pen) { p.hookedJ() }, "js"},
		'k': {func(p *pen) {
			w := d.wide(410)
			p.bar(0, 0, v, asc)
			p.diagonal(v*0.9, x*0.36, w-v*0.62, x, d.Thin)
			p.diagonal(w-v*0.55, 0, v+w*0.17, x*0.58, d.Thick)
		}, "sv"},
		'l': {func(p *pen) { p.bar(0, 0, v, asc) }, "ss"},
		'm': {func(p *pen) {
			w := d.wide(390)
			p.bar(0, 0, v, x)
			p.shoulder(0, w, x+o)
			p.shoulder(w-v, 2*w-v, x+o)
		}, "sn"},
		'n': {func(p *pen) { p.bar(0, 0, v, x); p.shoulder(0, n, x+o) }, "sn"},
		'o': {func(p *pen) { p.round(round, x) }, "oo"},
		'p': {func(p *pen) { p.bar(0, desc, v, x); p.bowl(round, -o, x+o, true) }, "so"},
		'q': {func(p *pen) { p.bar(round-v, desc, round, x); p.bowl(round, -o, x+o, false) }, "os"},
		'r': {func(p *pen) {
			w := d.wide(270)
			p.bar(0, 0, v, x)
			p.branch(0, w, x-w*1.05, x+o)
		}, "sf"},
		's': {func(p *pen) { p.ess(d.wide(375), x, h) }, "ee"},
		't': {func(p *pen) {
			s, r := d.wide(115), d.wide(150)
			p.path(s, x*1.27).to(s, r*0.85-o).up(s+r, h/2-o).stroke(v, h)
			p.bar(0, x-h, s+r*0.98, x)
		}, "tf"},
		'u': {func(p *pen) {
			low := -o
			high := low + n*0.86
			p.arch(box{0, low, n - 0.3*v, high}, box{v, low + h, n - 0.62*v, high}, true)
			p.bar(0, (low+high)/2, v, x)
			p.bar(n-v, 0, n, x)
		}, "ns"},
		'v': {func(p *pen) { p.vee(d.wide(440), 0, x, 0) }, "vv"},
		'w': {func(p *pen) { w := d.wide(360); p.vee(w, 0, x, 0); p.vee(w, 0, x, w-v*0.95) }, "vv"},
		'x': {func(p *pen) { p.ex(d.wide(425), x) }, "vv"},
		'y': {func(p *pen) {
			w := d.wide(440)
			p.vee(w, 0, x, 0)
			// The right stroke runs on below the line, at the same slope.
			half := d.Thin * 0.55
			foot := (w/2 - half) / x * desc
			p.diagonal(w/2+foot*0.98, desc, w/2, 0, d.Thin)
			p.bar(w/2+foot-d.Thin*0.5-w*0.16, desc, w/2+foot*0.98, desc+h)
		}, "vv"},
		'z': {func(p *pen) { p.zed(d.wide(380), x, h) }, "tt"},
		'ß': {func(p *pen) {
			w := d.wide(460)
			s := v / 2
			top := asc
			p.path(s, 0).to(s, top-w*0.38).up(w*0.47, top-h/2).level(w*0.86-v/2, top-(top-x)*0.66-h*0.2).up(w*0.52, x*0.98).stroke(v, h)
			p.path(w*0.5, x*0.98).level(w-v/2, x*0.5).up(w*0.56, h/2-o).level(w*0.30, h*0.75).cut(0.8).stroke(v, h)
		}, "so"},
		'æ': {func(p *pen) {
			w := d.wide(380)
			r := w - v/2
			p.path(r, mid).up(w*0.49, x+o-h/2).level(v*0.4, x*0.72).cut(0.62).stroke(v, h)
			ym := x * 0.55
			p.path(r, ym).to(w*0.46, ym).level(v/2, (ym-o)/2).up(w*0.44, h/2-o).level(r, mid).stroke(v, h*0.94)
			shift := w - v
			e := d.wide(440)
			l, rr, c := shift+v/2, shift+e-v/2, shift+e/2
			p.path(rr, mid).up(c, x+o-h/2).level(l, mid).up(c, h/2-o).level(rr-v*0.1, mid*0.92).cut(0.64).stroke(v, h)
			p.bar(l, mid-h*0.45, shift+e, mid+h*0.45)
		}, "oc"},
		'œ': {func(p *pen) {
			p.round(round, x)
			shift := round - v
			e := d.wide(440)
			l, rr, c := shift+v/2, shift+e-v/2, shift+e/2
			p.path(rr, mid).up(c, x+o-h/2).level(l, mid).up(c, h/2-o).level(rr-v*0.1, mid*0.92).cut(0.64).stroke(v, h)
			p.bar(l, mid-h*0.45, shift+e, mid+h*0.45)
		}, "oc"},
		'ð': {func(p *pen) {
			p.ring(box{0, -o, round, x*0.93 + o}, box{v, h - o, round - v, x*0.93 + o - h})
			p.path(round-v/2, x*0.46).up(round*0.28, asc-h*0.6).stroke(v, h)
			p.path(round*0.2, x*1.14).to(round*0.9, x*1.38).stroke(v*0.62, h*0.62)
		}, "oo"},
		'þ': {func(p *pen) { p.bar(0, desc, v, asc); p.bowl(round, -o, x+o, true) }, "so"},
	}
}

// hookedJ draws a j without its dot.
func (p *pen) hookedJ() {
	d := p.d
	r := d.wide(130)
	p.path(d.V/2, d.X).to(d.V/2, d.Descender+r*0.9).up(d.V/2-r, d.Descender+d.H/2).stroke(d.V, d.H)
}

// round draws an o or O: width w, height y.
func (p *pen) round(w, y float64) {
	d := p.d
	p.ring(box{0, -d.Overshoot, w, y + d.Overshoot}, box{d.V, d.H - d.Overshoot, w - d.V, y + d.Overshoot - d.H})
}

// open draws a c or C: width w, height y, its ends cut at t of the last quarters.
func (p *pen) open(w, y, t float64) {
	d := p.d
	l, r, c, m := d.V/2, w-d.V/2, w*0.53, y/2
	p.path(r, m*1.06).up(c, y+d.Overshoot-d.H/2).level(l, m).up(c, d.H/2-d.Overshoot).level(r, m*0.94).cut(t).cutStart(1-t).stroke(d.V, d.H)
}

// ess draws an s or S: width w, height y.
func (p *pen) ess(w, y, h float64) {
	d := p.d
	v, o := d.V, d.Overshoot
	l, r := v/2, w-v/2
	top, bottom := y+o-h/2, h/2-o
	yl, yr := y*0.735, y*0.265
	pull := (yl - yr) * 0.62
	p.path(r-v*0.1, yl+h*0.2).up(w*0.51, top).level(l+v*0.08, yl).
		curve(pt(l+v*0.08, yl-pull), pt(r, yr+pull), pt(r, yr)).
		up(w*0.49, bottom).level(l, yr-h*0.2).cut(0.66).cutStart(0.34).stroke(v*0.98, h)
}

// vee draws a v shifted right by dx: its strokes run from top to base.
func (p *pen) vee(w, base, top, dx float64) {
	d := p.d
	p.diagonal(dx+w/2, base, dx+d.Thick*0.55, top, d.Thick)
	p.diagonal(dx+w/2, base, dx+w-d.Thin*0.55, top, d.Thin)
}

func (p *pen) ex(w, y float64) {
	d := p.d
	p.diagonal(w-d.Thick*0.62, 0, d.Thick*0.62, y, d.Thick)
	p.diagonal(d.Thin*0.62, 0, w-d.Thin*0.62, y, d.Thin)
}

// zed draws a z or Z.
func (p *pen) zed(w, y, h float64) {
	d := p.d
	p.bar(0, 0, w, h)
	p.bar(w*0.02, y-h, w*0.98, y)
	t := d.Thick * 0.62
	p.diagonal(t, h*0.5, w-t, y-h*0.5, d.Thick*0.95)
}
