package foundry

// joint is how far a joined letter's exit reaches to the next one.
func (d *Design) joint(r rune) float64 {
	switch r {
	case 'g', 'j', 'ȷ', 'y', 'q', 'ß', 'þ':
		return d.wide(50)
	case 'b', 'o', 'p', 'ð', 'v', 'w', 'r':
		return d.wide(110)
	}
	return d.wide(120)
}

// exit draws the stroke that leads from a small letter of a script to the next: from the
// bottom of a bowl, the foot of a stem, or the top of a round.
func exit(p *pen, r rune) {
	d := p.d
	b := extent(p.contours)
	half, bottom, top := d.V/2, d.H/2-d.Overshoot, d.X+d.Overshoot-d.H/2
	to, meets, w, h := b.x1+d.joint(r)+half*0.5, d.X*0.52, d.V*0.94, d.H*0.94
	switch r {
	case 'c', 'e', 's', 'æ', 'œ':
		from := b.x1 - (b.x1-b.x0)*0.48
		if r == 'æ' || r == 'œ' {
			from = b.x1 - d.wide(220)
		}
		p.path(from, bottom).curve(pt(b.x1-half, bottom), pt(to-d.joint(r)*0.45, meets*0.35), pt(to, meets)).stroke(w, h)
	case 'o', 'ð', 'b', 'p':
		from := b.x1 - (b.x1-b.x0)*0.5
		p.path(from, top).curve(pt(b.x1-half, top), pt(b.x1+d.joint(r)*0.2, d.X*0.66), pt(to, d.X*0.72)).stroke(w, h)
	case 'v', 'w', 'r':
		p.path(b.x1-half*1.4, top).curve(pt(b.x1+half*0.4, top), pt(b.x1+d.joint(r)*0.3, d.X*0.66), pt(to, d.X*0.72)).stroke(w, h)
	case 'g', 'j', 'ȷ', 'y', 'q', 'þ', 'ß':
		p.path(b.x1-half, d.X*0.2).curve(pt(b.x1-half*0.5, d.X*0.24), pt(to-half, d.X*0.36), pt(to, meets)).stroke(w*0.8, h*0.8)
	case 'x', 'z', 'k':
		p.path(b.x1-half*2, bottom+d.Overshoot).curve(pt(b.x1+half, bottom+d.Overshoot), pt(to-d.joint(r)*0.4, meets*0.35), pt(to, meets)).stroke(w, h)
	case 't', 'f':
		p.path(b.x1-half*2.4, bottom).curve(pt(b.x1, bottom), pt(to-d.joint(r)*0.4, meets*0.35), pt(to, meets)).stroke(w, h)
	default:
		p.path(b.x1-half, d.X*0.34).curve(pt(b.x1-half, bottom-d.H*0.2), pt(b.x1+d.joint(r)*0.5, bottom), pt(to, meets)).stroke(w, h)
	}
}
