package identity

import (
	"strings"

	"sparecrate/font/metadata"
	"sparecrate/font/sfnt"
)

// More relations, of two faces with what they are called and how they vary.
const (
	// Renamed is one design with the same characters under other names.
	Renamed Relation = "renamed"
	// InstanceOf is a static face that stands at a place in the design space of the other.
	InstanceOf Relation = "instance"
)

// Relations lists all relations, from the nearest to none.
var Relations = []Relation{Same, Renamed, Part, InstanceOf, Version, Different}

// Difference is how two faces relate, what they are called taken into account.
type Difference struct {
	Relation Relation
	Evidence *Evidence
	// OtherNames says that they are of another family, or another style of it.
	OtherNames bool
	// Mislabeled says that two different designs have the same names.
	Mislabeled bool
	// Place is where the one stands in the design space of the other, for an instance.
	Place *Place
	// Of says which of the two varies: 0 the first, 1 the second.
	Of int
}

// Face is a face with its measures and what it says of itself.
type Face struct {
	Font     *sfnt.Font
	Print    *Print
	Metadata *metadata.Face
}

// Read measures a face and reads what it says of itself. The error is that of Measure.
func Read(f *sfnt.Font) (*Face, error) {
	p, err := Measure(f)
	if err != nil {
		return nil, err
	}
	said := metadata.One(f)
	return &Face{f, p, &said}, nil
}

// Between says how two faces relate.
func Between(a, b *Face) *Difference {
	d := &Difference{Evidence: Compare(a.Print, b.Print), OtherNames: otherNames(&a.Metadata.Names, &b.Metadata.Names)}
	d.Relation = d.Evidence.Relation
	switch {
	case len(a.Print.Axes) > 0 && len(b.Print.Axes) == 0:
		d.instance(b, a, 0)
	case len(b.Print.Axes) > 0 && len(a.Print.Axes) == 0:
		d.instance(a, b, 1)
	}
	switch {
	case d.Relation == Same && d.OtherNames:
		d.Relation = Renamed
	case d.Relation == Version && d.OtherNames:
		d.Relation = Different
	}
	d.Mislabeled = d.Relation == Different && !d.OtherNames && d.Evidence.Sure()
	return d
}

func (d *Difference) instance(static, varies *Face, of int) {
	if place, is := Placed(static.Print, varies.Print, varies.Font); is {
		d.Relation, d.Place, d.Of = InstanceOf, place, of
	}
}

// otherNames reports whether two faces call themselves differently: another family, or
// another style. One that does not say has no other name.
func otherNames(a, b *metadata.Names) bool {
	other := func(x, y string) bool {
		x, y = plain(x), plain(y)
		return x != "" && y != "" && x != y
	}
	return other(a.FamilyName(), b.FamilyName()) || other(a.StyleName(), b.StyleName())
}

// plain is a name without what tools add, drop or write otherwise: spaces, hyphens,
// capitals.
func plain(s string) string {
	return strings.Map(func(r rune) rune {
		if r == ' ' || r == '-' || r == '_' {
			return -1
		}
		return r
	}, strings.ToLower(s))
}

// Nearer orders evidence of several faces about one: less than 0 where a is nearer than b.
// What draws more of the common characters alike is nearer; then what has more of
// them; then what differs less.
func Nearer(a, b *Evidence) int {
	share := func(e *Evidence) int {
		if e.Common == 0 {
			return 0
		}
		return 1000 * e.Alike / e.Common
	}
	if x, y := share(a), share(b); x != y {
		return y - x
	}
	if a.Alike != b.Alike {
		return b.Alike - a.Alike
	}
	// Of faces that both hold all that is asked for, the smaller is the nearer.
	return a.OnlyB.Len() - b.OnlyB.Len()
}
