package foundry

// punctuation draws everything that is neither letter nor digit.
func punctuation(d *Design) map[rune]drawing {
	v, h, y, x, o := d.V, d.H, d.Cap, d.X, d.Overshoot
	dot := d.Dot
	asc, desc := d.Ascender, d.Descender
	fig := d.wide(450)
	axis := y * 0.43 // the height signs of arithmetic are centred on
	m := h * 0.94
	comma := func(p *pen, cx, base float64) {
		p.dot(cx, base+dot, dot)
		p.diagonal(cx-dot*0.55, base-dot*1.5, cx+dot*0.42, base+dot*0.9, dot*0.95)
	}
	quote := func(p *pen, cx float64) { comma(p, cx, y-dot*2) }
	opening := func(p *pen, cx float64) {
		p.dot(cx, y-dot*2.4, dot)
		p.diagonal(cx-dot*0.42, y-dot*2.3, cx+dot*0.55, y+dot*0.1, dot*0.95)
	}
	guillemet := func(p *pen, at float64, right bool) {
		w, half := fig*0.34, x*0.3
		mid := x * 0.5
		a, b := at, at+w
		if right {
			a, b = b, a
		}
		p.diagonal(a, mid, b, mid+half, m)
		p.diagonal(b, mid-half, a, mid, m)
	}
	gap := dot * 2.9
	signs := map[rune]drawing{
		'.':  {func(p *pen) { p.dot(dot, dot, dot) }, "pp"},
		',':  {func(p *pen) { comma(p, dot, 0) }, "pp"},
		':':  {func(p *pen) { p.dot(dot, dot, dot); p.dot(dot, x-dot, dot) }, "pp"},
		';':  {func(p *pen) { comma(p, dot, 0); p.dot(dot, x-dot, dot) }, "pp"},
		'…':  {func(p *pen) { p.dot(dot, dot, dot); p.dot(dot+fig*0.55, dot, dot); p.dot(dot+fig*1.1, dot, dot) }, "pp"},
		'·':  {func(p *pen) { p.dot(dot, axis, dot) }, "pp"},
		'•':  {func(p *pen) { p.dot(dot*2, axis, dot*2) }, "pp"},
		'!':  {func(p *pen) { p.dot(v/2, dot, dot); p.bar(0, y*0.27, v, y) }, "ss"},
		'¡':  {func(p *pen) { p.dot(v/2, x-dot, dot); p.bar(0, x-y, v, x-y*0.27) }, "ss"},
		'?':  {func(p *pen) { p.query(fig*0.92, 0, 1) }, "ee"},
		'¿':  {func(p *pen) { p.query(fig*0.92, x, -1) }, "ee"},
		'\'': {func(p *pen) { p.bar(0, y*0.66, v*0.86, y) }, "pp"},
		'"':  {func(p *pen) { p.bar(0, y*0.66, v*0.86, y); p.bar(v*1.7, y*0.66, v*2.56, y) }, "pp"},
		'’':  {func(p *pen) { quote(p, 0) }, "pp"},
		'”':  {func(p *pen) { quote(p, 0); quote(p, gap) }, "pp"},
		'‘':  {func(p *pen) { opening(p, 0) }, "pp"},
		'“':  {func(p *pen) { opening(p, 0); opening(p, gap) }, "pp"},
		'‚':  {func(p *pen) { comma(p, 0, 0) }, "pp"},
		'„':  {func(p *pen) { comma(p, 0, 0); comma(p, gap, 0) }, "pp"},
		'‹':  {func(p *pen) { guillemet(p, 0, false) }, "pp"},
		'›':  {func(p *pen) { guillemet(p, 0, true) }, "pp"},
		'«':  {func(p *pen) { guillemet(p, 0, false); guillemet(p, fig*0.34+m, false) }, "pp"},
		'»':  {func(p *pen) { guillemet(p, 0, true); guillemet(p, fig*0.34+m, true) }, "pp"},
		'(':  {func(p *pen) { p.paren(1) }, "pp"},
		')':  {func(p *pen) { p.paren(-1) }, "pp"},
		'[':  {func(p *pen) { p.bracket(1) }, "sp"},
		']':  {func(p *pen) { p.bracket(-1) }, "ps"},
		'{':  {func(p *pen) { p.brace(1) }, "pp"},
		'}':  {func(p *pen) { p.brace(-1) }, "pp"},
		'/':  {func(p *pen) { p.diagonal(0, desc*0.7, fig*0.72, asc, m) }, "vv"},
		'\\': {func(p *pen) { p.diagonal(fig*0.72, desc*0.7, 0, asc, m) }, "vv"},
		'|':  {func(p *pen) { p.bar(0, desc, v*0.8, asc) }, "ss"},
		'¦':  {func(p *pen) { p.bar(0, desc, v*0.8, axis-h); p.bar(0, axis+h, v*0.8, asc) }, "ss"},
		'-':  {func(p *pen) { p.bar(0, x*0.46-h/2, fig*0.58, x*0.46+h/2) }, "pp"},
		'–':  {func(p *pen) { p.bar(0, x*0.46-h/2, 440, x*0.46+h/2) }, "pp"},
		'—':  {func(p *pen) { p.bar(0, x*0.46-h/2, 840, x*0.46+h/2) }, "pp"},
		'_':  {func(p *pen) { p.bar(0, -h*1.6, 500, -h*0.7) }, "xx"},
		'+': {func(p *pen) {
			p.bar(0, axis-m/2, fig, axis+m/2)
			p.bar(fig/2-v*0.47, axis-fig/2, fig/2+v*0.47, axis+fig/2)
		}, "##"},
		'−': {func(p *pen) { p.bar(0, axis-m/2, fig, axis+m/2) }, "##"},
		'=': {func(p *pen) { p.bar(0, axis+m*0.55, fig, axis+m*1.5); p.bar(0, axis-m*1.5, fig, axis-m*0.55) }, "##"},
		'±': {func(p *pen) {
			p.bar(0, axis-m/2+h, fig, axis+m/2+h)
			p.bar(fig/2-v*0.47, axis-fig*0.4+h, fig/2+v*0.47, axis+fig*0.4+h)
			p.bar(0, 0, fig, m)
		}, "##"},
		'×': {func(p *pen) {
			e := fig * 0.4
			p.diagonal(fig/2-e, axis-e, fig/2+e, axis+e, m)
			p.diagonal(fig/2+e, axis-e, fig/2-e, axis+e, m)
		}, "##"},
		'÷': {func(p *pen) {
			p.bar(0, axis-m/2, fig, axis+m/2)
			p.dot(fig/2, axis+fig*0.36, dot*0.9)
			p.dot(fig/2, axis-fig*0.36, dot*0.9)
		}, "##"},
		'<': {func(p *pen) {
			p.diagonal(m*0.7, axis, fig, axis+fig*0.45, m)
			p.diagonal(fig, axis-fig*0.45, m*0.7, axis, m)
		}, "##"},
		'>': {func(p *pen) {
			p.diagonal(fig-m*0.7, axis, 0, axis+fig*0.45, m)
			p.diagonal(0, axis-fig*0.45, fig-m*0.7, axis, m)
		}, "##"},
		'¬': {func(p *pen) { p.bar(0, axis-m/2, fig, axis+m/2); p.bar(fig-v*0.9, axis-fig*0.35, fig, axis) }, "##"},
		'^': {func(p *pen) { p.diagonal(m*0.6, y*0.55, fig/2, y, m); p.diagonal(fig-m*0.6, y*0.55, fig/2, y, m) }, "##"},
		'~': {func(p *pen) {
			p.path(0, axis-h*0.4).curve(pt(fig*0.2, axis+h*1.7), pt(fig*0.42, axis+h*0.9), pt(fig*0.5, axis)).
				curve(pt(fig*0.58, axis-h*0.9), pt(fig*0.8, axis-h*1.7), pt(fig, axis+h*0.4)).stroke(v*0.9, m)
		}, "##"},
		'*': {func(p *pen) {
			c, r := fig*0.34, y*0.2
			p.bar(c-m*0.4, y-2*r, c+m*0.4, y)
			p.diagonal(c-r*0.87, y-r*1.5, c+r*0.87, y-r*0.5, m*0.8)
			p.diagonal(c+r*0.87, y-r*1.5, c-r*0.87, y-r*0.5, m*0.8)
		}, "pp"},
		'#': {func(p *pen) {
			p.diagonal(fig*0.24, 0, fig*0.40, y, m*0.86)
			p.diagonal(fig*0.62, 0, fig*0.78, y, m*0.86)
			p.bar(0, y*0.30-m*0.43, fig, y*0.30+m*0.43)
			p.bar(fig*0.03, y*0.68-m*0.43, fig*1.03, y*0.68+m*0.43)
		}, "##"},
		'%': {func(p *pen) { p.percent(1) }, "ee"},
		'‰': {func(p *pen) { p.percent(2) }, "ee"},
		'&': {func(p *pen) {
			w := d.wide(590)
			p.path(w-d.Thick*0.5, 0).to(w*0.30, y*0.62).stroke(v, h)
			p.path(w*0.315, y*0.61).curve(pt(w*0.16, y*0.82), pt(w*0.2, y-h/2+o), pt(w*0.42, y-h/2+o)).
				level(w*0.66-v*0.2, y*0.8).curve(pt(w*0.66-v*0.2, y*0.62), pt(v/2, y*0.52), pt(v/2, y*0.23)).
				up(w*0.38, h/2-o).curve(pt(w*0.66, h/2-o), pt(w*0.86, y*0.2), pt(w*0.9, y*0.44)).stroke(v*0.96, h)
		}, "ev"},
		'@': {func(p *pen) {
			w, low := d.wide(760), -y*0.12
			l, r, t := v*0.4, w-v*0.4, y
			cy := (low + t) / 2
			t2 := h * 0.8
			p.path(w*0.78, low+t2/2).to(w*0.5, low+t2/2).level(l, cy).up(w*0.5, t-t2/2).level(r, cy*1.05).up(w*0.84, y*0.24).stroke(v*0.74, t2)
			p.ring(box{w * 0.25, y * 0.2, w * 0.7, y * 0.72}, box{w*0.25 + v*0.8, y*0.2 + t2, w*0.7 - v*0.8, y*0.72 - t2})
			p.bar(w*0.7-v*0.8, y*0.22, w*0.7, y*0.72)
			p.bar(w*0.7-v*0.4, y*0.2, w*0.86, y*0.2+t2)
		}, "oo"},
		'$': {func(p *pen) { p.ess(fig, y, h); p.bar(fig/2-v*0.38, -y*0.12, fig/2+v*0.38, y*1.12) }, "##"},
		'§': {func(p *pen) {
			w := fig * 0.86
			p.path(w-v*0.6, y*0.88).up(w*0.5, y-h/2).level(v/2, y*0.82).curve(pt(v/2, y*0.64), pt(w-v/2, y*0.66), pt(w-v/2, y*0.45)).up(w*0.62, y*0.28).stroke(v*0.86, h*0.9)
			p.path(v*0.6, y*0.0).up(w*0.5, -y*0.12+h/2).level(w-v/2, y*0.06).curve(pt(w-v/2, y*0.24), pt(v/2, y*0.22), pt(v/2, y*0.43)).up(w*0.38, y*0.6).stroke(v*0.86, h*0.9)
		}, "ee"},
		'€': {func(p *pen) {
			w := fig * 1.1
			l, r, c := v*1.1, w-v*0.4, w*0.62
			p.path(r, y*0.5).up(c, y+o-h/2).level(l, y*0.5).up(c, h/2-o).level(r, y*0.5).cut(0.6).cutStart(0.4).stroke(v*0.96, h)
			p.bar(0, y*0.56-m*0.42, w*0.72, y*0.56+m*0.42)
			p.bar(0, y*0.40-m*0.42, w*0.72, y*0.40+m*0.42)
		}, "##"},
		'£': {func(p *pen) {
			w := fig
			p.path(w*0.98-v*0.4, y*0.78).up(w*0.62, y+o-h/2).level(w*0.3, y*0.72).to(w*0.3, h*0.5).stroke(v*0.96, h)
			p.bar(0, 0, w, h)
			p.bar(w*0.06, y*0.42-m*0.42, w*0.76, y*0.42+m*0.42)
		}, "##"},
		'¥': {func(p *pen) {
			p.bar(fig/2-v*0.48, 0, fig/2+v*0.48, y*0.45)
			p.vee(fig*1.06, y*0.38, y, -fig*0.03)
			p.bar(fig*0.08, y*0.36-m*0.4, fig*0.92, y*0.36+m*0.4)
			p.bar(fig*0.08, y*0.19-m*0.4, fig*0.92, y*0.19+m*0.4)
		}, "##"},
		'¢': {func(p *pen) { p.open(fig*0.95, x, 0.64); p.bar(fig*0.5-v*0.36, -x*0.18, fig*0.5+v*0.36, x*1.18) }, "##"},
		'¤': {func(p *pen) {
			r := fig * 0.36
			c := fig / 2
			p.ring(box{c - r, axis - r, c + r, axis + r}, box{c - r + v*0.8, axis - r + h*0.8, c + r - v*0.8, axis + r - h*0.8})
			for _, s := range [][2]float64{{-1, -1}, {1, 1}, {-1, 1}, {1, -1}} {
				p.diagonal(c+s[0]*r*0.62, axis+s[1]*r*0.62, c+s[0]*r*1.3, axis+s[1]*r*1.3, m*0.8)
			}
		}, "##"},
		'°': {func(p *pen) {
			p.ring(box{0, y * 0.55, fig * 0.62, y}, box{v * 0.82, y*0.55 + h*0.82, fig*0.62 - v*0.82, y - h*0.82})
		}, "pp"},
		'µ': {func(p *pen) {
			n := d.wide(430)
			p.arch(box{0, -o, n - 0.3*v, n*0.86 - o}, box{v, h - o, n - 0.62*v, n*0.86 - o}, true)
			p.bar(0, desc, v, x)
			p.bar(n-v, 0, n, x)
		}, "ns"},
		'¶': {func(p *pen) {
			w := fig
			p.bar(w-v*0.7, desc*0.6, w, y)
			p.bar(w*0.62-v*0.7, desc*0.6, w*0.62, y)
			p.poly(pt(w*0.6, y), pt(w*0.34, y), pt(w*0.08, y*0.9), pt(0, y*0.72), pt(w*0.08, y*0.54), pt(w*0.34, y*0.44), pt(w*0.6, y*0.44))
			p.bar(w*0.3, y-h*0.8, w, y)
		}, "es"},
		'©': {func(p *pen) { p.badge('C') }, "oo"},
		'®': {func(p *pen) { p.badge('R') }, "oo"},
		'™': {func(p *pen) { p.scaled('T', 0, y*0.5, 0.5); p.scaled('M', d.wide(300), y*0.5, 0.5) }, "pp"},
		'ª': {func(p *pen) { p.scaled('a', 0, y-x*0.62, 0.62); p.bar(0, y*0.42-h*0.6, d.wide(290), y*0.42) }, "pp"},
		'º': {func(p *pen) { p.scaled('o', 0, y-x*0.62, 0.62); p.bar(0, y*0.42-h*0.6, d.wide(300), y*0.42) }, "pp"},
		'†': {func(p *pen) { p.bar(fig*0.35-v/2, desc*0.5, fig*0.35+v/2, y); p.bar(0, x-h*0.4, fig*0.7, x+h*0.6) }, "pp"},
	}
	for r, digit := range map[rune]rune{'¹': '1', '²': '2', '³': '3'} {
		signs[r] = drawing{func(p *pen) { p.scaled(digit, 0, y*0.42, 0.58) }, "pp"}
	}
	for r, parts := range map[rune][2]rune{'¼': {'1', '4'}, '½': {'1', '2'}, '¾': {'3', '4'}} {
		signs[r] = drawing{func(p *pen) {
			p.scaled(parts[0], 0, y*0.42, 0.58)
			p.diagonal(fig*0.42, 0, fig*1.02, y, m*0.7)
			p.scaled(parts[1], fig*0.86, 0, 0.58)
		}, "pp"}
	}
	return signs
}

// query draws a question mark, or with sign -1 one turned upside down that
// hangs from base.
func (p *pen) query(w, base, sign float64) {
	d := p.d
	at := func(y float64) float64 { return base + sign*y }
	mirror := func(x float64) float64 {
		if sign < 0 {
			return w - x
		}
		return x
	}
	y := d.Cap
	p.dot(mirror(w*0.48), at(d.Dot), d.Dot)
	p.path(mirror(d.V/2), at(y*0.72)).up(mirror(w*0.5), at(y+d.Overshoot-d.H/2)).level(mirror(w-d.V/2), at(y*0.745)).
		curve(pt(mirror(w-d.V/2), at(y*0.52)), pt(mirror(w*0.48), at(y*0.5)), pt(mirror(w*0.48), at(y*0.26))).cutStart(0.3).stroke(d.V, d.H)
}

func (p *pen) paren(side float64) {
	d := p.d
	w := d.wide(130)
	top, low := d.Ascender+d.H*0.3, d.Descender*0.75
	x0, x1 := w, 0.0
	if side < 0 {
		x0, x1 = 0, w
	}
	p.path(x0, top).curve(pt(x1, top-(top-low)*0.22), pt(x1, low+(top-low)*0.22), pt(x0, low)).stroke(d.V*0.86, d.H*0.86)
}

func (p *pen) bracket(side float64) {
	d := p.d
	w, top, low := d.wide(150), d.Ascender+d.H*0.3, d.Descender*0.75
	stem := 0.0
	if side < 0 {
		stem = w - d.V*0.86
	}
	p.bar(stem, low, stem+d.V*0.86, top)
	p.bar(0, low, w, low+d.H*0.86)
	p.bar(0, top-d.H*0.86, w, top)
}

func (p *pen) brace(side float64) {
	d := p.d
	w, top, low := d.wide(220), d.Ascender+d.H*0.3, d.Descender*0.75
	mid := (top + low) / 2
	x := func(v float64) float64 {
		if side < 0 {
			return w - v
		}
		return v
	}
	v, h := d.V*0.84, d.H*0.84
	r := w * 0.5
	p.path(x(w), top-h/2).level(x(r), top-r).to(x(r), mid+r).up(x(0), mid).stroke(v, h)
	p.path(x(w), low+h/2).level(x(r), low+r).to(x(r), mid-r).up(x(0), mid).stroke(v, h)
}

func (p *pen) percent(after int) {
	d := p.d
	y, w := d.Cap, d.wide(270)
	v, h := d.V*0.8, d.H*0.8
	ring := func(x, base float64) {
		p.ring(box{x, base, x + w, base + y*0.46}, box{x + v, base + h, x + w - v, base + y*0.46 - h})
	}
	gap := w * 1.34
	ring(0, y*0.54)
	p.diagonal(w*0.44, 0, gap+w*0.34, y, h)
	for i := range after {
		ring(gap+float64(i)*w*1.1, 0)
	}
}

// badge draws a letter inside a thin ring.
func (p *pen) badge(letter rune) {
	d := p.d
	w := d.Cap * 1.06
	t := d.H * 0.62
	p.ring(box{0, -d.Cap * 0.03, w, d.Cap * 1.03}, box{t, t - d.Cap*0.03, w - t, d.Cap*1.03 - t})
	q := p.miniature(letter, 0.52)
	b := extent(q)
	p.place(q, w/2-(b.x0+b.x1)/2, d.Cap/2-(b.y0+b.y1)/2)
}
