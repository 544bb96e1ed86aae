// Package instance takes freedom from a variable font: each axis is pinned to a place,
// limited to a range, or left as it is. With all axes pinned the face is static.
// It follows the OpenType specification 1.9.1: `fvar`, `avar`, `gvar`, `cvar`,
// `HVAR`, `VVAR`, `MVAR`, `STAT`, `CFF2`, `COLR` and the variations of layout tables.
//
// The outcome draws what the variable font drew at the same coordinates, but for
// rounding to whole font units. Names, weight, width and slope become those a
// static font of that style has.
package instance

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/font/variation"
)

// What a caller may want to tell apart.
var (
	// ErrStatic says that the face does not vary.
	ErrStatic = errors.New("this font has no axes; it is static already")
	// ErrAsked says that the face cannot be pinned as asked; the message says why.
	ErrAsked = errors.New("no instance can be made of this font")
)

// Range limits an axis, in user coordinates. Where Min and Max are the same, the
// axis is pinned there.
type Range struct{ Min, Max float64 }

// Options say where to pin.
type Options struct {
	// At are the axes to pin or limit, by tag.
	At map[string]Range
	// Instance is the name of a named instance; axes of At come before it.
	Instance string
	// Rest pins all axes that are not named to their defaults.
	Rest bool
	// Step is what advances of a static font are multiples of, 0 for 1. Readers
	// round the advances of a variable font to whole units; on a finer grid (package
	// grid) those units are so many.
	Step int
	// Fine keeps parts of units in PostScript outlines that go on varying.
	Fine bool
}

// Result says what became of the face.
type Result struct {
	Style string            // the style's name, where all axes are pinned
	Axes  map[string]string // what became of each axis, in words
}

// Face pins a face, which is not changed. The error wraps ErrStatic, ErrAsked or
// sfnt.ErrDamaged, or is variation.ErrAvar2, and is a sentence for people.
func Face(f *sfnt.Font, o Options) (*sfnt.Font, *Result, error) {
	if !f.Has(table.TagFvar) {
		return nil, nil, ErrStatic
	}
	p := &pinner{font: f, made: map[sfnt.Tag][]byte{}, result: &Result{Axes: map[string]string{}}}
	if err := p.open(o); err != nil {
		return nil, nil, err
	}
	for _, step := range []func() error{p.outlines, p.metrics, p.layout, p.values, p.colors, styling{p}.axes, styling{p}.styles} {
		if err := step(); err != nil {
			return nil, nil, err
		}
	}
	return p.face()
}

// pinner pins one face.
type pinner struct {
	font   *sfnt.Font
	fvar   *table.Fvar
	scales []variation.Scale
	limits []limit
	change variation.Change
	static bool
	step   float64 // of advances
	fine   bool
	place  []float64 // where a static font lies, normalized
	glyphs int
	made   map[sfnt.Tag][]byte // tables written anew; nil ones go
	flavor uint32
	result *Result
}

// limit is what is asked of one axis, in user coordinates.
type limit struct {
	given             bool
	min, max, usually float64
}

func damaged(what string, err error) error {
	return fmt.Errorf("%w: %s: %w", sfnt.ErrDamaged, what, err)
}

func (p *pinner) open(o Options) error {
	var err error
	if p.fvar, err = table.ParseFvar(p.font.Table(table.TagFvar)); err != nil {
		return damaged("its axes cannot be read", err)
	}
	if len(p.fvar.Axes) == 0 {
		return ErrStatic
	}
	maxp, err := table.ParseMaxp(p.font.Table(table.TagMaxp))
	if err != nil {
		return damaged("the number of glyphs cannot be read", err)
	}
	p.glyphs, p.flavor = int(maxp.Glyphs), p.font.Flavor
	if b := p.font.Table(table.TagAvar); len(b) > 0 {
		if p.scales, err = variation.ParseAvar(b); err != nil {
			return err
		}
	}
	if err := p.ask(o); err != nil {
		return err
	}
	p.static, p.step, p.fine = true, 1, o.Fine
	for i, l := range p.limits {
		one := variation.AxisChange{}
		switch {
		case !l.given:
			p.static = false
		case l.min == l.max:
			one = variation.AxisChange{Pinned: true, At: p.normal(i, l.min)}
		default:
			p.static = false
			one = variation.AxisChange{Limited: true, Min: p.normal(i, l.min), Default: p.normal(i, l.usually), Max: p.normal(i, l.max)}
		}
		p.change = append(p.change, one)
		p.place = append(p.place, p.normal(i, l.usually))
	}
	if p.static {
		p.step = float64(max(1, o.Step))
	}
	return nil
}

// Exact reports whether all that varies is asked for where it is drawn, at the
// default or the end of each axis, so that pinning has nothing to round. Places
// that cannot be pinned count as exact.
func Exact(f *sfnt.Font, o Options) bool {
	p := &pinner{font: f, made: map[sfnt.Tag][]byte{}, result: &Result{Axes: map[string]string{}}}
	if !f.Has(table.TagFvar) || p.open(o) != nil {
		return true
	}
	whole := func(x float64) bool { return x == math.Trunc(x) }
	return !slices.ContainsFunc(p.change, func(a variation.AxisChange) bool {
		return a.Pinned && !whole(a.At) || a.Limited && !(whole(a.Min) && whole(a.Default) && whole(a.Max))
	})
}

// ask settles what is asked of each axis.
func (p *pinner) ask(o Options) error {
	known := make([]string, len(p.fvar.Axes))
	for i, a := range p.fvar.Axes {
		known[i] = strings.TrimSpace(a.Tag.String())
		p.limits = append(p.limits, limit{usually: a.Default.Float(), min: a.Min.Float(), max: a.Max.Float()})
	}
	if o.Instance != "" {
		at, err := p.instance(o.Instance)
		if err != nil {
			return err
		}
		for i, x := range at {
			p.limits[i] = limit{true, x.Float(), x.Float(), x.Float()}
		}
	}
	for tag, r := range o.At {
		i := slices.Index(known, tag)
		if i < 0 {
			return fmt.Errorf("%w: this font has no axis `%s`; it has %s", ErrAsked, tag, p.listed())
		}
		a := p.fvar.Axes[i]
		low, high := a.Min.Float(), a.Max.Float()
		if r.Min > r.Max {
			return fmt.Errorf("%w: the range of `%s` goes from %g down to %g; write the lower end first", ErrAsked, tag, r.Min, r.Max)
		}
		if r.Min < low || r.Max > high {
			return fmt.Errorf("%w: the axis `%s` goes from %g to %g; %s lies outside", ErrAsked, tag, low, high, r)
		}
		p.limits[i] = limit{true, r.Min, r.Max, max(r.Min, min(a.Default.Float(), r.Max))}
	}
	given := false
	for i := range p.limits {
		l := &p.limits[i]
		if !l.given && o.Rest {
			*l = limit{true, l.usually, l.usually, l.usually}
		}
		given = given || l.given
		p.result.Axes[known[i]] = l.words()
	}
	if !given {
		return fmt.Errorf("%w: say where; this font has %s", ErrAsked, p.listed())
	}
	return nil
}

// String writes a range as it is typed.
func (r Range) String() string {
	if r.Min == r.Max {
		return fmt.Sprintf("%g", r.Min)
	}
	return fmt.Sprintf("%g:%g", r.Min, r.Max)
}

func (l limit) words() string {
	switch {
	case !l.given:
		return fmt.Sprintf("left, %g to %g", l.min, l.max)
	case l.min == l.max:
		return fmt.Sprintf("fixed at %g", l.min)
	}
	return fmt.Sprintf("limited, %g to %g", l.min, l.max)
}

// listed names the axes and instances for a message.
func (p *pinner) listed() string {
	axes := make([]string, len(p.fvar.Axes))
	for i, a := range p.fvar.Axes {
		axes[i] = fmt.Sprintf("`%s` from %g to %g", strings.TrimSpace(a.Tag.String()), a.Min.Float(), a.Max.Float())
	}
	out := "the axes " + strings.Join(axes, ", ")
	if len(axes) == 1 {
		out = "the axis " + axes[0]
	}
	if names := p.instanceNames(); len(names) > 0 {
		out += " and the instances " + strings.Join(names, ", ")
	}
	return out
}

func (p *pinner) instanceNames() []string {
	n, err := table.ParseName(p.font.Table(table.TagName))
	if err != nil {
		return nil
	}
	var out []string
	for _, i := range p.fvar.Instances {
		if name := n.Best(i.Name); name != "" {
			out = append(out, name)
		}
	}
	return out
}

// instance finds the coordinates of a named instance; capitals and gaps do not
// matter.
func (p *pinner) instance(name string) ([]table.Fixed, error) {
	plain := func(s string) string {
		return strings.NewReplacer(" ", "", "-", "").Replace(strings.ToLower(s))
	}
	n, err := table.ParseName(p.font.Table(table.TagName))
	if err != nil {
		return nil, damaged("its names cannot be read", err)
	}
	for _, i := range p.fvar.Instances {
		if plain(n.Best(i.Name)) == plain(name) {
			return i.Coordinates, nil
		}
	}
	return nil, fmt.Errorf("%w: this font has no instance %q; it has %s", ErrAsked, name, p.listed())
}

// straight returns the normalized coordinate of a user coordinate before `avar`.
func (p *pinner) straight(axis int, x float64) float64 {
	a := p.fvar.Axes[axis]
	low, usual, high := a.Min.Float(), a.Default.Float(), a.Max.Float()
	switch {
	case x < usual && low < usual:
		return max(-1, (x-usual)/(usual-low))
	case x > usual && high > usual:
		return min(1, (x-usual)/(high-usual))
	}
	return 0
}

// normal returns the normalized coordinate of a user coordinate, as the tables of
// variations count it: in steps of 1/16384.
func (p *pinner) normal(axis int, x float64) float64 {
	n := p.straight(axis, x)
	if axis < len(p.scales) {
		n = p.scales[axis].Map(quantized(n))
	}
	return quantized(n)
}

func quantized(x float64) float64 {
	n := x * 16384
	if n < 0 {
		return float64(int(n-0.5)) / 16384
	}
	return float64(int(n+0.5)) / 16384
}

// advance rounds an advance.
func (p *pinner) advance(x float64) uint16 { return uint16(max(0, math.Round(x/p.step)*p.step)) }

// put sets a table to be written; nil leaves it out.
func (p *pinner) put(tag sfnt.Tag, b []byte) { p.made[tag] = b }

// table returns a table as it is by now.
func (p *pinner) table(tag sfnt.Tag) []byte {
	if b, ok := p.made[tag]; ok {
		return b
	}
	return p.font.Table(tag)
}

// open to change: a copy of a table that steps write into.
func (p *pinner) editable(tag sfnt.Tag, size int) []byte {
	b := p.table(tag)
	if len(b) < size {
		return nil
	}
	if _, ours := p.made[tag]; !ours {
		b = slices.Clone(b)
		p.made[tag] = b
	}
	return b
}

var tagDSIG = sfnt.MakeTag("DSIG")

func (p *pinner) face() (*sfnt.Font, *Result, error) {
	out := &sfnt.Font{Flavor: p.flavor}
	seen := map[sfnt.Tag]bool{tagDSIG: true}
	add := func(tag sfnt.Tag) {
		if b := p.table(tag); len(b) > 0 && !seen[tag] {
			out.Tables = append(out.Tables, sfnt.Table{Tag: tag, Data: b})
		}
		seen[tag] = true
	}
	for _, t := range p.font.Tables {
		add(t.Tag)
	}
	for _, tag := range []sfnt.Tag{table.TagCFF} { // the one table that may be new
		add(tag)
	}
	return out, p.result, nil
}
