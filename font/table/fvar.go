package table

import "sparecrate/font/sfnt"

// TagFvar marks a variable font.
var TagFvar = sfnt.MakeTag("fvar")

// Axis is one axis of a variable font, in user coordinates.
type Axis struct {
	Tag               sfnt.Tag
	Min, Default, Max Fixed
	Name              NameID
	Hidden            bool // not meant for people (flag HIDDEN_AXIS)
}

// Instance is a named place in the space of the axes.
type Instance struct {
	Name, PostScript NameID // PostScript is 0xFFFF where there is none
	Coordinates      []Fixed
}

// Fvar is the font variations table (`fvar`).
type Fvar struct {
	Axes      []Axis
	Instances []Instance
}

const (
	fvarHeader = 16
	hiddenAxis = 1
	axisSize   = 20
	// maxAxes is a good deal more than any font known to us has.
	maxAxes = 64
	// maxInstances is ten times what the richest families name.
	maxInstances = 4096
)

// ParseFvar reads axes and instances. The error wraps ErrShort.
func ParseFvar(b []byte) (*Fvar, error) {
	if len(b) < fvarHeader {
		return nil, short("fvar", len(b), fvarHeader)
	}
	v := sfnt.View(b)
	c := v.Cursor()
	fixed := func(at int) Fixed { return Fixed(c.U32(at)) }
	first, axes, stride := c.Count(4), c.Count(8), c.Count(10)
	instances, instanceSize := c.Count(12), c.Count(14)
	if axes > maxAxes || stride < axisSize {
		return nil, short("fvar", len(b), first+axisSize*axes)
	}
	if instanceSize < 4+4*axes {
		instances = 0
	}
	f := &Fvar{}
	for i := range axes {
		at := first + stride*i
		if _, ok := v.Sub(at, axisSize); !ok {
			return nil, short("fvar", len(b), at+axisSize)
		}
		f.Axes = append(f.Axes, Axis{sfnt.Tag(c.U32(at)), fixed(at + 4), fixed(at + 8), fixed(at + 12), NameID(c.U16(at + 18)), c.Count(at+16)&hiddenAxis != 0})
	}
	for i := range min(instances, maxInstances) {
		at := first + stride*axes + instanceSize*i
		if _, ok := v.Sub(at, instanceSize); !ok {
			break
		}
		one := Instance{Name: NameID(c.U16(at)), PostScript: 0xFFFF}
		for a := range axes {
			one.Coordinates = append(one.Coordinates, fixed(at+4+4*a))
		}
		if instanceSize >= 6+4*axes {
			one.PostScript = NameID(c.U16(at + 4 + 4*axes))
		}
		f.Instances = append(f.Instances, one)
	}
	return f, c.Err()
}

// Encode writes the table; instances carry names for PostScript where one of
// them has one.
func (f *Fvar) Encode() []byte {
	size := 4 + 4*len(f.Axes)
	named := false
	for _, i := range f.Instances {
		named = named || i.PostScript != 0xFFFF
	}
	if named {
		size += 2
	}
	var w writer
	w.u32(0x00010000)
	for _, n := range []int{fvarHeader, 2, len(f.Axes), axisSize, len(f.Instances), size} {
		w.u16(n)
	}
	for _, a := range f.Axes {
		w.u32(uint32(a.Tag))
		for _, x := range []Fixed{a.Min, a.Default, a.Max} {
			w.u32(uint32(x))
		}
		flags := 0
		if a.Hidden {
			flags = hiddenAxis
		}
		w.u16(flags)
		w.u16(int(a.Name))
	}
	for _, i := range f.Instances {
		w.u16(int(i.Name))
		w.u16(0)
		for _, x := range i.Coordinates {
			w.u32(uint32(x))
		}
		if named {
			w.u16(int(i.PostScript))
		}
	}
	return w
}
