package foundry

import (
	"errors"
	"fmt"
	"math"

	"sparecrate/font"
	"sparecrate/font/cff"
	"sparecrate/font/curve"
	"sparecrate/font/glyf"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/font/variation"
)

// errDesigns says that designs cannot become one another.
var errDesigns = errors.New("the designs are not drawn of the same pieces")

// BuildVariable draws designs of one family, from light to heavy, and writes them
// as one font that varies in weight, starting at the one called Regular: as a
// TTF, or with the outlines of `CFF2` as an OTF.
func BuildVariable(designs []*Design, as font.Container) ([]byte, error) {
	v := &variable{}
	for _, d := range designs {
		if d.Style == "Regular" {
			v.regular = d
		}
	}
	v.order = append(v.order, v.regular)
	for _, d := range designs {
		if d != v.regular {
			v.order = append(v.order, d)
		}
		v.low, v.high = min(v.low, d.Weight-v.regular.Weight), max(v.high, d.Weight-v.regular.Weight)
	}
	named := *v.regular
	named.Family += " Variable"
	named.PostScript = "SkerrowSansVariable-Regular"
	b, err := Build(&named, font.TTF)
	if err != nil {
		return nil, err
	}
	opened, err := font.Open(b)
	if err != nil {
		return nil, err
	}
	v.font = opened.Faces[0]
	for _, d := range v.order {
		v.drawn = append(v.drawn, d.draw())
	}
	if err := v.outlines(as); err != nil {
		return nil, err
	}
	return font.Make(v.font, as)
}

type variable struct {
	regular   *Design
	order     []*Design // Regular first
	drawn     [][]glyph // by design
	low, high int       // weights from Regular
	font      *sfnt.Font
}

// region is the region of a design other than Regular: all of its side.
func (v *variable) region(design int) variation.Region {
	if v.order[design].Weight < v.regular.Weight {
		return variation.Region{{Start: -1, Peak: -1, End: 0}}
	}
	return variation.Region{{Start: 0, Peak: 1, End: 1}}
}

func (v *variable) set(tag sfnt.Tag, b []byte) {
	for i := range v.font.Tables {
		if v.font.Tables[i].Tag == tag {
			v.font.Tables[i].Data = b
			return
		}
	}
	v.font.Tables = append(v.font.Tables, sfnt.Table{Tag: tag, Data: b})
}

func (v *variable) outlines(as font.Container) error {
	store := &variation.Store{Axes: 1}
	for i := range v.order[1:] {
		store.Regions = append(store.Regions, v.region(i+1))
		store.Sets = []variation.Set{{}}
	}
	rows := variation.Set{}
	for i := range store.Regions {
		rows.Regions = append(rows.Regions, i)
	}
	for g := range v.drawn[0] {
		row := make([]int32, len(store.Regions))
		for i := range row {
			row[i] = int32(v.drawn[i+1][g].advance - v.drawn[0][g].advance)
		}
		rows.Rows = append(rows.Rows, row)
	}
	store.Sets[0] = rows
	v.set(variation.TagHVAR, (&variation.Metrics{Store: store, Maps: make([][]uint32, 3)}).Encode())
	if as == font.OTF {
		if err := v.postScript(store.Regions); err != nil {
			return err
		}
	} else if err := v.trueType(); err != nil {
		return err
	}
	v.names()
	return nil
}

func (v *variable) postScript(regions []variation.Region) error {
	designs := make([][][]curve.Contour, len(v.drawn))
	for i, glyphs := range v.drawn {
		for _, g := range glyphs {
			designs[i] = append(designs[i], g.contours)
		}
	}
	set := variation.Set{}
	for i := range regions {
		set.Regions = append(set.Regions, i)
	}
	b, err := cff.EncodeVariable(designs, &variation.Store{Axes: 1, Regions: regions, Sets: []variation.Set{set}})
	if err != nil {
		return err
	}
	var kept []sfnt.Table
	for _, t := range v.font.Tables {
		if t.Tag != table.TagGlyf && t.Tag != table.TagLoca {
			kept = append(kept, t)
		}
	}
	v.font.Tables = kept
	v.font.Flavor = uint32(sfnt.VersionCFF)
	v.set(table.TagCFF2, b)
	v.set(table.TagMaxp, (&table.Maxp{Glyphs: uint16(len(v.drawn[0]))}).Encode())
	return nil
}

// trueType draws each glyph of the same points in every design.
func (v *variable) trueType() error {
	var data []byte
	offsets := []int{0}
	tuples := make([][]variation.Tuple, len(v.drawn[0]))
	profile := table.Maxp{TrueType: true, Glyphs: uint16(len(v.drawn[0]))}
	old, err := glyf.Locate(v.font.Table(table.TagGlyf), v.font.Table(table.TagLoca), true)
	head, herr := table.ParseHead(v.font.Table(table.TagHead))
	if herr == nil && !head.LongLoca {
		old, err = glyf.Locate(v.font.Table(table.TagGlyf), v.font.Table(table.TagLoca), false)
	}
	if err = errors.Join(err, herr); err != nil {
		return err
	}
	metrics := make([]table.Metric, len(v.drawn[0]))
	for g := range v.drawn[0] {
		if len(v.drawn[0][g].parts) > 0 {
			data = append(data, old[g]...)
			tuples[g] = v.partTuples(g)
			metrics[g] = table.Metric{Advance: uint16(v.drawn[0][g].advance), Left: glyf.BoundsOf(old[g]).XMin}
			profile.Components, profile.Depth = max(profile.Components, uint16(len(v.drawn[0][g].parts))), 1
		} else {
			simple, list, err := v.simple(g)
			if err != nil {
				return err
			}
			if len(simple.Ends) > 0 {
				data = simple.Append(data)
			}
			tuples[g] = list
			metrics[g] = table.Metric{Advance: uint16(v.drawn[0][g].advance), Left: simple.Bounds.XMin}
			profile.Points, profile.Contours = max(profile.Points, uint16(len(simple.Points))), max(profile.Contours, uint16(len(simple.Ends)))
			profile.CompositePoints, profile.CompositeContours = 2*profile.Points, 2*profile.Contours
		}
		for len(data)%4 != 0 {
			data = append(data, 0)
		}
		offsets = append(offsets, len(data))
	}
	head.LongLoca = true
	v.set(table.TagHead, head.Encode())
	v.set(table.TagGlyf, data)
	v.set(table.TagLoca, glyf.Index(offsets, true))
	v.set(table.TagMaxp, profile.Encode())
	v.set(table.TagHmtx, table.EncodeHmtx(metrics))
	b, err := variation.EncodeGvar(len(tuples), 1, func(g int) ([]variation.Tuple, error) { return tuples[g], nil })
	v.set(variation.TagGvar, b)
	return err
}

// phantom returns the shift of the phantom points of a glyph: only the advance
// changes.
func (v *variable) phantom(design, g int) []float64 {
	return []float64{0, float64(v.drawn[design][g].advance - v.drawn[0][g].advance), 0, 0}
}

func (v *variable) partTuples(g int) []variation.Tuple {
	var out []variation.Tuple
	for i := 1; i < len(v.drawn); i++ {
		t := variation.Tuple{Region: v.region(i)}
		for k, p := range v.drawn[i][g].parts {
			base := v.drawn[0][g].parts[k]
			t.X, t.Y = append(t.X, float64(p.x-base.x)), append(t.Y, float64(p.y-base.y))
		}
		t.X = append(t.X, v.phantom(i, g)...)
		t.Y = append(t.Y, 0, 0, 0, 0)
		out = append(out, t)
	}
	return out
}

// simple draws a glyph of contours: curves become as many quadratics as the
// design that needs most asks for.
func (v *variable) simple(g int) (*glyf.Simple, []variation.Tuple, error) {
	all := make([][]curve.Point, len(v.drawn))
	out := &glyf.Simple{Overlap: true}
	for c := range v.drawn[0][g].contours {
		rings, on, err := v.rings(g, c)
		if err != nil {
			return nil, nil, err
		}
		for i := range rings {
			all[i] = append(all[i], rings[i]...)
		}
		for k, p := range rings[0] {
			out.Points = append(out.Points, glyf.Point{X: int(math.Round(p.X)), Y: int(math.Round(p.Y)), On: on[k]})
		}
		out.Ends = append(out.Ends, len(out.Points)-1)
	}
	out.Bounds = out.Measure()
	var tuples []variation.Tuple
	for i := 1; i < len(all); i++ {
		t := variation.Tuple{Region: v.region(i)}
		for k, p := range all[i] {
			t.X = append(t.X, math.Round(p.X)-float64(out.Points[k].X))
			t.Y = append(t.Y, math.Round(p.Y)-float64(out.Points[k].Y))
		}
		t.X = append(t.X, v.phantom(i, g)...)
		t.Y = append(t.Y, 0, 0, 0, 0)
		tuples = append(tuples, t)
	}
	return out, tuples, nil
}

// rings returns the points of one contour in each design.
func (v *variable) rings(g, c int) (rings [][]curve.Point, on []bool, err error) {
	contours := make([]curve.Contour, len(v.drawn))
	for i := range v.drawn {
		if c >= len(v.drawn[i][g].contours) {
			return nil, nil, fmt.Errorf("%w: %s", errDesigns, v.drawn[0][g].name)
		}
		contours[i] = v.drawn[i][g].contours[c].Reverse()
		if len(contours[i].Segments) != len(contours[0].Segments) {
			return nil, nil, fmt.Errorf("%w: %s", errDesigns, v.drawn[0][g].name)
		}
	}
	rings = make([][]curve.Point, len(contours))
	last := make([]curve.Point, len(contours))
	for i, k := range contours {
		rings[i], last[i] = []curve.Point{k.From}, k.From
	}
	on = []bool{true}
	for n, s := range contours[0].Segments {
		pieces := 1
		for i, k := range contours {
			if k.Segments[n].Line != s.Line {
				return nil, nil, fmt.Errorf("%w: %s", errDesigns, v.drawn[0][g].name)
			}
			if !s.Line {
				pieces = max(pieces, len(curve.Quads(last[i], k.Segments[n].Cubic(last[i]), glyf.Tolerance)))
			}
		}
		for i, k := range contours {
			seg := k.Segments[n]
			if s.Line {
				rings[i] = append(rings[i], seg.To)
			} else {
				for _, q := range curve.QuadsOf(last[i], seg.Cubic(last[i]), pieces) {
					rings[i] = append(rings[i], q.C, q.To)
				}
			}
			last[i] = seg.To
		}
		if s.Line {
			on = append(on, true)
		} else {
			for range pieces {
				on = append(on, false, true)
			}
		}
	}
	closed := true
	for i := range rings {
		closed = closed && rings[i][0] == rings[i][len(rings[i])-1]
	}
	if closed {
		for i := range rings {
			rings[i] = rings[i][:len(rings[i])-1]
		}
		on = on[:len(on)-1]
	}
	return rings, on, nil
}

// names writes the axis, its instances and the styles.
func (v *variable) names() {
	n, err := table.ParseName(v.font.Table(table.TagName))
	if err != nil {
		return // it was written a moment ago
	}
	next := table.NameID(256)
	add := func(id table.NameID, text string) {
		n.Records = append(n.Records, table.NameRecord{Platform: table.PlatformWindows, Encoding: 1, Language: 0x0409, ID: id, Value: text})
	}
	name := func(text string) table.NameID {
		next++
		add(next-1, text)
		return next - 1
	}
	add(table.NameVariationsPrefix, "SkerrowSans")
	weight := table.MakeFixed
	axis := name("Weight")
	wght := sfnt.MakeTag("wght")
	f := &table.Fvar{Axes: []table.Axis{{Tag: wght, Min: weight(v.regular.Weight + v.low), Default: weight(v.regular.Weight), Max: weight(v.regular.Weight + v.high), Name: axis}}}
	s := &table.Stat{Axes: []table.StyleAxis{{Tag: wght, Name: axis}}}
	var regular table.NameID
	for _, d := range Signage() {
		id := name(d.Style)
		f.Instances = append(f.Instances, table.Instance{Name: id, PostScript: name("SkerrowSans-" + d.Style), Coordinates: []table.Fixed{weight(d.Weight)}})
		value := table.StyleValue{Name: id, Value: weight(d.Weight)}
		if d.Style == "Regular" {
			regular = id
			value.Elidable, value.HasLinked, value.Linked = true, true, weight(700)
		}
		s.Values = append(s.Values, value)
	}
	v.set(table.TagName, n.Encode())
	v.set(table.TagFvar, f.Encode())
	v.set(table.TagSTAT, s.Encode(regular))
}
