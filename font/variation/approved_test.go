package variation_test

import (
	"fmt"
	"testing"

	"sparecrate/font/fonttest"
	"sparecrate/font/table"
	"sparecrate/font/variation"
)

// asked are changes of two axes: pinned, limited, left.
var asked = []variation.Change{
	{{Pinned: true, At: 0.5}, {Pinned: true, At: -0.75}},
	{{Pinned: true, At: 1}, {}},
	{{}, {Limited: true, Min: -1, Default: -0.5, Max: 0}},
	{{Limited: true, Min: -0.5, Default: 0.25, Max: 0.75}, {Pinned: true, At: -1}},
}

// drawnStore is a store of two axes with rows of every width.
func drawnStore() *variation.Store {
	return &variation.Store{Axes: 2,
		Regions: []variation.Region{{{Start: 0, Peak: 1, End: 1}, {}}, {{Start: 0, Peak: 0.5, End: 1}, {Start: -1, Peak: -0.5, End: 0}}, {{}, {Start: -1, Peak: -1, End: 0}}},
		Sets: []variation.Set{
			{Regions: []int{0, 1}, Rows: [][]int32{{10, -20}, {300, 4}, {0, 0}}},
			{Regions: []int{2, 0, 1}, Rows: [][]int32{{70000, 3, -1}, {-5, 1000, 127}}},
		}}
}

func readStore(b []byte) (string, error) {
	s, err := variation.ParseStore(b)
	if err != nil {
		return "", err
	}
	out := fmt.Sprintf("%+v\n%x\n", *s, s.Encode())
	used := map[uint32]bool{variation.Index(0, 1): true, variation.Index(1, 0): true}
	less, to := s.Only(used)
	out += fmt.Sprintln(*less, to[variation.Index(0, 1)], to[variation.Index(1, 0)])
	for _, place := range [][]float64{{0, 0}, {0.5, -0.5}, {1, -1}, {0.25, 0.3}} {
		out += fmt.Sprintf("%.4f %.4f %.4f\n", s.Delta(0, 0, place), s.Delta(1, 1, place), s.Delta(9, 9, place))
	}
	for _, change := range asked {
		changed, fixed := change.Store(s)
		settle := change.Settle(s)
		out += fmt.Sprintf("%+v %.4f %d %d %v %v\n", *changed, fixed, settle.Fixed(0, 1), settle.Fixed(1, 0), settle.Varies(0, 1), settle.Varies(7, 7))
	}
	return out, nil
}

// TestStoresAsApproved tries stores of deltas whole and damaged.
func TestStoresAsApproved(t *testing.T) {
	t.Parallel()
	fonttest.Approve(t, "stores", readStore, fonttest.Case{Name: "a store", Bytes: drawnStore().Encode()})
}

// TestMetricsAsApproved tries tables of metrics that vary, with and without maps.
func TestMetricsAsApproved(t *testing.T) {
	t.Parallel()
	store := drawnStore().Encode()
	plain := append([]byte{0, 1, 0, 0, 0, 0, 0, 20, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}, store...)
	number := variation.EncodeMap([]uint32{variation.Index(0, 1), variation.Index(1, 0), variation.Index(0, 0)})
	at := byte(20 + len(store))
	mapped := append(append([]byte{0, 1, 0, 0, 0, 0, 0, 20, 0, 0, 0, at, 0, 0, 0, 0, 0, 0, 0, at}, store...), number...)
	read := func(b []byte) (string, error) {
		m, err := variation.ParseMetrics(b, variation.TagHVAR)
		if err != nil {
			return "", err
		}
		out := fmt.Sprintf("%x %x\n", m.Encode(), m.Trim([]table.GlyphID{0, 2}).Encode())
		for _, change := range asked {
			changed, fixed := m.Change(change, 3)
			if changed != nil {
				out += fmt.Sprintf("%x", changed.Encode())
			}
			out += fmt.Sprintf(" %.4f\n", fixed)
		}
		return out, nil
	}
	fonttest.Approve(t, "metrics", read, fonttest.Case{Name: "a row a glyph", Bytes: plain}, fonttest.Case{Name: "by a map", Bytes: mapped})
}

// TestOutlinesAsApproved tries deltas of points: of all, of some, between regions.
func TestOutlinesAsApproved(t *testing.T) {
	t.Parallel()
	first := variation.Region{{Start: 0, Peak: 1, End: 1}, {}}
	between := variation.Region{{Start: 0.25, Peak: 0.5, End: 0.75}, {Start: -1, Peak: -1, End: 0}}
	glyphs := [][]variation.Tuple{
		{{Region: first, X: []float64{1, 2, 3, 4, 0, 0, 0, 0}, Y: []float64{0, 0, 0, 0, 300, -300, 0, 0}}},
		nil,
		{{Region: first, Points: []int{0, 2}, X: []float64{10, 20}, Y: []float64{0, 5}}, {Region: between, Points: []int{1, 3, 5}, X: []float64{-7, 0, 200}, Y: []float64{0, 0, 1}}},
	}
	b, err := variation.EncodeGvar(3, 2, func(g int) ([]variation.Tuple, error) { return glyphs[g], nil })
	if err != nil {
		t.Fatal(err)
	}
	outline := variation.Outline{X: []float64{0, 50, 100, 200}, Y: []float64{0, 10, 10, 0}, Ends: []int{1, 3}}
	read := func(b []byte) (string, error) {
		g, err := variation.ParseGvar(b)
		if err != nil {
			return "", err
		}
		var out string
		for i := range table.GlyphID(4) {
			tuples, err := g.Tuples(i, 8)
			out += fmt.Sprintf("%+v %v\n", tuples, err != nil)
			for _, tuple := range tuples {
				x, y := tuple.Spread(8, outline)
				out += fmt.Sprintf("%.3f %.3f\n", x, y)
			}
		}
		less, err := variation.TrimGvar(b, []table.GlyphID{0, 2})
		return out + fmt.Sprintf("%x %v", less, err != nil), nil
	}
	cvar := variation.EncodeCvar([]variation.Tuple{{Region: first, X: []float64{10, -20, 30}}, {Region: between, Points: []int{2}, X: []float64{500}}})
	fonttest.Approve(t, "outlines", read, fonttest.Case{Name: "gvar", Bytes: b}, fonttest.Case{Name: "cvar", Bytes: cvar, Read: func(b []byte) (string, error) {
		tuples, err := variation.ParseCvar(b, 2, 3)
		if err != nil {
			return "", err
		}
		return fmt.Sprintf("%+v %x", tuples, variation.EncodeCvar(tuples)), nil
	}})
}

// TestMapsAsApproved tries maps of glyphs to rows, and scales.
func TestMapsAsApproved(t *testing.T) {
	t.Parallel()
	maps := func(b []byte) (string, error) {
		m, err := variation.ParseMap(b)
		if err != nil {
			return "", err
		}
		return fmt.Sprintf("%x %x", m, variation.EncodeMap(m)), nil
	}
	scales := func(b []byte) (string, error) {
		s, err := variation.ParseAvar(b)
		if err != nil {
			return "", err
		}
		out := fmt.Sprintf("%x", variation.EncodeAvar(s))
		for _, scale := range s {
			for _, x := range []float64{-2, -1, -0.3, 0, 0.3, 0.6, 1, 2} {
				out += fmt.Sprintf(" %.4f", scale.Map(x))
			}
		}
		return out, nil
	}
	long := make([]uint32, 300)
	for i := range long {
		long[i] = variation.Index(i%3, i*211%60000)
	}
	fonttest.Approve(t, "maps", maps,
		fonttest.Case{Name: "rows of one set", Bytes: variation.EncodeMap([]uint32{variation.Index(0, 3), variation.Index(0, 1), variation.Index(0, 200)})},
		fonttest.Case{Name: "several sets", Bytes: variation.EncodeMap([]uint32{variation.Index(2, 3), variation.Index(700, 60000), variation.NoVariation})},
		fonttest.Case{Name: "many glyphs", Bytes: variation.EncodeMap(long), Step: 17},
		fonttest.Case{Name: "scales", Bytes: variation.EncodeAvar([]variation.Scale{{{-1, -1}, {0, 0}, {1, 1}}, {{-1, -1}, {-0.5, -0.25}, {0, 0}, {0.5, 0.75}, {1, 1}}}), Read: scales})
}
