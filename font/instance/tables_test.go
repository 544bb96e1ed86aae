package instance_test

import (
	"encoding/binary"
	"maps"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/fonttest"
	"sparecrate/font/instance"
	"sparecrate/font/metadata"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/font/variation"
)

// with returns a face with other tables.
func with(f *sfnt.Font, tables map[string][]byte) *sfnt.Font {
	out := &sfnt.Font{Flavor: f.Flavor}
	for _, t := range f.Tables {
		if b, other := tables[t.Tag.String()]; other {
			t = sfnt.Table{Tag: t.Tag, Data: b}
			delete(tables, t.Tag.String())
		}
		out.Tables = append(out.Tables, t)
	}
	for _, tag := range slices.Sorted(maps.Keys(tables)) {
		out.Tables = append(out.Tables, sfnt.Table{Tag: sfnt.MakeTag(tag), Data: tables[tag]})
	}
	return out
}

// rows is a store whose rows grow towards the heavy end of the one axis: by the
// numbers given, each a row.
func rows(deltas ...int32) []byte {
	s := variation.Store{Axes: 1, Regions: []variation.Region{{{Start: 0, Peak: 1, End: 1}}}, Sets: []variation.Set{{Regions: []int{0}}}}
	for _, d := range deltas {
		s.Sets[0].Rows = append(s.Sets[0].Rows, []int32{d})
	}
	return s.Encode()
}

// heavy pins the heavy end; upper limits the axis
// to its upper half.
var (
	heavy = at("wght", 700, 700)
	upper = at("wght", 550, 700)
)

// TestMeasuresOfTheFaceVary pins what `MVAR` says of the height of letters and the
// line under them.
func TestMeasuresOfTheFaceVary(t *testing.T) {
	f := variable(t, font.TTF)
	was := metadata.One(f)
	mvar := []byte{0, 1, 0, 0, 0, 0, 0, 8, 0, 3, 0, 36}
	for i, tag := range []string{"undo", "unds", "xhgt"} {
		mvar = append(append(mvar, tag...), 0, 0, 0, byte(i))
	}
	f = with(f, map[string][]byte{"MVAR": append(mvar, rows(-40, 20, 30)...)})
	height := func(f *sfnt.Font) (xHeight, under, thick int) {
		os2, post := f.Table(table.TagOS2), f.Table(table.TagPost)
		number := func(b []byte, at int) int { return int(int16(binary.BigEndian.Uint16(b[at:]))) }
		return number(os2, 86), number(post, 8), number(post, 10)
	}
	x, under, thick := height(f)
	require.NotZero(t, was.UnitsPerEm)
	out, _, err := instance.Face(f, heavy)
	require.NoError(t, err)
	assert.False(t, out.Has(variation.TagMVAR))
	a, b, c := height(out)
	assert.Equal(t, [3]int{x + 30, under - 40, thick + 20}, [3]int{a, b, c})

	some, _, err := instance.Face(f, upper)
	require.NoError(t, err)
	a, b, c = height(some)
	assert.Equal(t, [3]int{x + 15, under - 20, thick + 10}, [3]int{a, b, c}, "where the axis now starts")
	rest, _, err := instance.Face(some, heavy)
	require.NoError(t, err)
	a, b, c = height(rest)
	assert.Equal(t, [3]int{x + 30, under - 40, thick + 20}, [3]int{a, b, c}, "in two steps the same")
	for _, bad := range [][]byte{{0}, mvar[:11], mvar[:30], append(mvar[:36:36], 1, 2, 3)} {
		_, _, err := instance.Face(with(f, map[string][]byte{"MVAR": bad}), heavy)
		assert.ErrorIs(t, err, sfnt.ErrDamaged)
	}
}

// TestControlValuesVary pins the values that hints go by.
func TestControlValuesVary(t *testing.T) {
	values := []byte{0, 100, 0, 200, 1, 44}
	region := variation.Region{{Start: 0, Peak: 1, End: 1}}
	cvar := variation.EncodeCvar([]variation.Tuple{
		{Region: region, X: []float64{10, -20, 30}},
		{Region: region, Points: []int{2}, X: []float64{5}},
	})
	f := with(variable(t, font.TTF), map[string][]byte{"cvt ": values, "cvar": cvar})
	numbers := func(o instance.Options) []int {
		out, _, err := instance.Face(f, o)
		require.NoError(t, err)
		var all []int
		for b := out.Table(sfnt.MakeTag("cvt ")); len(b) > 1; b = b[2:] {
			all = append(all, int(int16(binary.BigEndian.Uint16(b))))
		}
		assert.Equal(t, len(o.At) > 0 && o.At["wght"].Min < o.At["wght"].Max, out.Has(variation.TagCvar))
		return all
	}
	assert.Equal(t, []int{110, 180, 335}, numbers(heavy))
	assert.Equal(t, []int{105, 190, 318}, numbers(upper))
	assert.Equal(t, []int{100, 200, 300}, numbers(at("wght", 300, 300)), "nothing varies on this side")
	_, _, err := instance.Face(with(f, map[string][]byte{"cvar": cvar[:7]}), heavy)
	require.ErrorIs(t, err, sfnt.ErrDamaged)
}

// TestColorsThatVaryArePinned pins every kind of paint that varies, a color line,
// a transform and a clip box.
func TestColorsThatVaryArePinned(t *testing.T) {
	const none = uint32(variation.NoVariation)
	whole, places := fonttest.Colors(rows(10, 20, 30, 40, 50, 60))
	f := with(variable(t, font.TTF), map[string][]byte{"COLR": whole})
	out, _, err := instance.Face(f, heavy)
	require.NoError(t, err)
	b := out.Table(sfnt.MakeTag("COLR"))
	assert.Less(t, len(b), len(whole), "the store of variations is gone")
	numbers := func(b []byte, name string, skip, n int) []int {
		var all []int
		for i := range n {
			all = append(all, int(int16(binary.BigEndian.Uint16(b[places[name]+skip+2*i:]))))
		}
		return all
	}
	grown := []int{110, 220, 330, 440, 550, 660}
	for name, n := range map[string]int{
		"gradient": 6, "radial": 6, "sweep": 4, "translate": 2, "scale": 2, "around": 4, "uniform": 1, "uniformAround": 3, "rotate": 1, "rotateAround": 3, "skew": 2, "skewAround": 4,
	} {
		assert.Equal(t, grown[:n], numbers(b, name, 4, n), name)
		assert.Equal(t, none, binary.BigEndian.Uint32(b[places[name]+4+2*n:]), "%s varies no more", name)
	}
	assert.Equal(t, []int{0x1000 + 10}, numbers(b, "solid", 3, 1), "one that many name is changed once")
	assert.Equal(t, []int{0x1000}, numbers(b, "solidToo", 3, 1), "one that does not vary stays")
	assert.Equal(t, []int{100, 200}, numbers(b, "still", 4, 2))
	assert.Equal(t, []int{10, 1, 0x1000 + 20}, numbers(b, "line", 3, 3))
	assert.Equal(t, []int{0x2000 + 30, 2, 0x1000 + 40}, numbers(b, "line", 13, 3), "rows that follow one another")
	for i, want := range []uint32{1<<16 + 10, 20, 30, 1<<16 + 40, 55, 66, none} {
		assert.Equal(t, want, binary.BigEndian.Uint32(b[places["affine"]+4*i:]), "number %d of the transform", i)
	}
	assert.Equal(t, []int{20, 40, 60, 80}, numbers(b, "box", 1, 4))

	some, _, err := instance.Face(f, upper)
	require.NoError(t, err)
	assert.Equal(t, []int{105, 210}, numbers(some.Table(sfnt.MakeTag("COLR")), "translate", 4, 2))
	later, _, err := instance.Face(some, heavy)
	require.NoError(t, err)
	assert.Equal(t, grown, numbers(later.Table(sfnt.MakeTag("COLR")), "gradient", 4, 6), "in two steps the same")
	for n := 1; n < len(whole); n += 3 { // what is cut off is refused or left; nothing else happens
		_, _, err := instance.Face(with(f, map[string][]byte{"COLR": whole[:n]}), heavy)
		if err != nil {
			assert.ErrorIs(t, err, sfnt.ErrDamaged)
		}
	}
}
