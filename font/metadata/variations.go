package metadata

import "sparecrate/font/table"

// nameOf returns the value of any name ID, as axes and instances refer to them.
func (r *reading) nameOf(id table.NameID) string {
	if r.byID == nil && r.name != nil {
		r.byID = map[table.NameID]int{}
		for i := range r.name.Records {
			rec := &r.name.Records[i]
			best, known := r.byID[rec.ID]
			if r.out.Records[i].Value != "" && (!known || rec.Rank() > r.name.Records[best].Rank()) {
				r.byID[rec.ID] = i
			}
		}
	}
	if i, ok := r.byID[id]; ok {
		return Printable(r.out.Records[i].Value)
	}
	return ""
}

// readVariations fills axes and instances from fvar and avar, and the names of
// places on the family's axes from STAT.
func (r *reading) readVariations() {
	r.readStyleAttributes()
	f := parse(r, table.TagFvar, table.ParseFvar)
	if f == nil {
		return
	}
	var bent []bool
	if b := r.font.Table(table.TagAvar); b != nil {
		var err error
		if bent, err = table.ParseAvar(b); err != nil {
			r.unreadable(err)
		}
	}
	for i, a := range f.Axes {
		r.out.Axes = append(r.out.Axes, Axis{
			Tag: a.Tag.String(), Min: a.Min.Float(), Default: a.Default.Float(), Max: a.Max.Float(),
			Name: r.nameOf(a.Name), Hidden: a.Hidden, Bent: i < len(bent) && bent[i],
		})
	}
	for _, in := range f.Instances {
		one := Instance{Name: r.nameOf(in.Name), PostScript: r.nameOf(in.PostScript), Coordinates: map[string]float64{}}
		for i, c := range in.Coordinates {
			one.Coordinates[f.Axes[i].Tag.String()] = c.Float()
		}
		r.out.Instances = append(r.out.Instances, one)
	}
}

func (r *reading) readStyleAttributes() {
	s := parse(r, table.TagSTAT, table.ParseStat)
	if s == nil {
		return
	}
	for i, a := range s.Axes {
		out := StyleAttribute{Tag: a.Tag.String(), Name: r.nameOf(a.Name), Values: []StyleValue{}}
		for _, v := range s.Values {
			if v.Axis != i {
				continue
			}
			value := StyleValue{Name: r.nameOf(v.Name), Value: v.Value.Float(), Min: v.Min.Float(), Max: v.Max.Float(), Elidable: v.Elidable}
			if v.HasLinked {
				linked := v.Linked.Float()
				value.Linked = &linked
			}
			out.Values = append(out.Values, value)
		}
		r.out.StyleAttributes = append(r.out.StyleAttributes, out)
	}
}
