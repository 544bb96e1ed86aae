package variation_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/variation"
)

// grid is a place of the format, in steps of 1/16384.
func grid(x float64) float64 { return math.Round(x*16384) / 16384 }

func randomTent(r *rand.Rand) variation.Tent {
	p := []float64{grid(r.Float64()), grid(r.Float64()), grid(r.Float64())}
	a, b, c := min(p[0], p[1], p[2]), p[0]+p[1]+p[2]-min(p[0], p[1], p[2])-max(p[0], p[1], p[2]), max(p[0], p[1], p[2])
	switch r.IntN(4) {
	case 0:
		return variation.Tent{}
	case 1:
		return variation.Tent{Start: 0, Peak: 1, End: 1}
	case 2:
		return variation.Tent{Start: -grid(c), Peak: -grid(b), End: -a}
	}
	return variation.Tent{Start: a, Peak: grid(b), End: c}
}

// TestAChangeKeepsWhatRegionsSay changes axes at random: at every place that is
// left, the terms of a region add up to what the region was there.
func TestAChangeKeepsWhatRegionsSay(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 11))
	for range 2000 {
		axes := 1 + r.IntN(3)
		region := make(variation.Region, axes)
		change := make(variation.Change, axes)
		for i := range region {
			region[i] = randomTent(r)
			switch r.IntN(3) {
			case 0:
				change[i] = variation.AxisChange{Pinned: true, At: grid(2*r.Float64() - 1)}
			case 1:
				low, high := grid(2*r.Float64()-1), grid(2*r.Float64()-1)
				low, high = min(low, high), max(low, high)
				change[i] = variation.AxisChange{Limited: true, Min: low, Default: grid(low + r.Float64()*(high-low)), Max: high}
			}
		}
		terms := change.Region(region)
		for range 20 {
			var before, after []float64
			for _, a := range change {
				x := grid(2*r.Float64() - 1)
				switch {
				case a.Pinned:
					x = a.At
				case a.Limited:
					x = a.Min + r.Float64()*(a.Max-a.Min)
					after = append(after, a.Place(x))
				default:
					after = append(after, x)
				}
				before = append(before, x)
			}
			sum := 0.0
			for _, term := range terms {
				if term.Region == nil {
					sum += term.Weight
				} else {
					sum += term.Weight * term.Region.At(after)
				}
			}
			require.InDelta(t, region.At(before), sum, 0.01, "region %v, change %v, at %v", region, change, before)
		}
	}
}

func randomStore(r *rand.Rand) *variation.Store {
	s := &variation.Store{Axes: 2}
	for range 1 + r.IntN(4) {
		s.Regions = append(s.Regions, variation.Region{{Start: 0, Peak: grid(0.1 + 0.9*r.Float64()), End: 1}, {Start: -1, Peak: grid(-0.1 - 0.9*r.Float64()), End: 0}})
	}
	for range 1 + r.IntN(3) {
		set := variation.Set{}
		for i := range s.Regions {
			set.Regions = append(set.Regions, i)
		}
		for range 1 + r.IntN(20) {
			row := make([]int32, len(set.Regions))
			for k := range row {
				size := []int{1, 100, 30000, 3000000}[r.IntN(4)]
				row[k] = int32(r.IntN(2*size+1) - size)
			}
			set.Rows = append(set.Rows, row)
		}
		s.Sets = append(s.Sets, set)
	}
	return s
}

// TestStoresComeBack writes stores and reads them again; every row adds the same
// at any place, also of a store of some rows only.
func TestStoresComeBack(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	for range 200 {
		s := randomStore(r)
		got, err := variation.ParseStore(s.Encode())
		require.NoError(t, err)
		used := map[uint32]bool{}
		for outer, set := range s.Sets {
			for inner := range set.Rows {
				place := []float64{r.Float64(), -r.Float64()}
				assert.InDelta(t, s.Delta(outer, inner, place), got.Delta(outer, inner, place), 1e-6)
				used[variation.Index(outer, inner)] = r.IntN(2) == 0
			}
		}
		for k, on := range used {
			if !on {
				delete(used, k)
			}
		}
		less, to := s.Only(used)
		for k := range used {
			place := []float64{r.Float64(), -r.Float64()}
			now := to[k]
			assert.InDelta(t, s.Delta(int(k>>16), int(k&0xFFFF), place), less.Delta(int(now>>16), int(now&0xFFFF), place), 1e-9)
		}
	}
}

func TestMapsComeBack(t *testing.T) {
	for name, m := range map[string][]uint32{
		"rows of one set": {variation.Index(0, 3), variation.Index(0, 1), variation.Index(0, 200)},
		"several sets":    {variation.Index(2, 3), variation.Index(700, 60000), variation.NoVariation},
		"all the same":    {variation.Index(0, 0), variation.Index(0, 0)},
	} {
		got, err := variation.ParseMap(variation.EncodeMap(m))
		require.NoError(t, err, name)
		for i, want := range m {
			assert.Equal(t, want, got[min(i, len(got)-1)], name)
		}
	}
}

// TestTuplesComeBack packs points and deltas of all sizes and reads them again.
func TestTuplesComeBack(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 9))
	for range 200 {
		points := 5 + r.IntN(400)
		var tuples []variation.Tuple
		for range 1 + r.IntN(4) {
			tuple := variation.Tuple{Region: variation.Region{{Start: 0, Peak: 1, End: 1}}}
			if r.IntN(2) == 0 {
				tuple.Region = variation.Region{{Start: grid(0.1), Peak: grid(0.4), End: grid(0.9)}}
			}
			n := points
			if r.IntN(2) == 0 {
				for p := range points {
					if r.IntN(3) == 0 {
						tuple.Points = append(tuple.Points, p)
					}
				}
				if n = len(tuple.Points); n == 0 {
					continue
				}
			}
			for range n {
				size := []int{0, 0, 100, 100, 20000}[r.IntN(5)]
				tuple.X, tuple.Y = append(tuple.X, float64(r.IntN(2*size+1)-size)), append(tuple.Y, float64(r.IntN(2*size+1)-size))
			}
			tuples = append(tuples, tuple)
		}
		b, err := variation.EncodeGvar(2, 1, func(g int) ([]variation.Tuple, error) { return [][]variation.Tuple{nil, tuples}[g], nil })
		require.NoError(t, err)
		g, err := variation.ParseGvar(b)
		require.NoError(t, err)
		got, err := g.Tuples(1, points)
		require.NoError(t, err)
		place := []float64{grid(0.6)}
		sum := func(list []variation.Tuple) (total float64) {
			for _, tuple := range list {
				x, y := tuple.Spread(points, variation.Outline{})
				for i := range x {
					total += tuple.Region.At(place) * (x[i]*float64(i+1) + y[i])
				}
			}
			return total
		}
		assert.InDelta(t, sum(tuples), sum(got), 1e-3)
	}
}

// TestInferredDeltas follows the specification's rules: between two named
// neighbours in proportion, outside as the nearer one.
func TestInferredDeltas(t *testing.T) {
	tuple := variation.Tuple{Points: []int{0, 2}, X: []float64{10, 20}, Y: []float64{0, 0}}
	x, _ := tuple.Spread(8, variation.Outline{X: []float64{0, 50, 100, 200}, Y: []float64{0, 0, 0, 0}, Ends: []int{3}})
	assert.Equal(t, []float64{10, 15, 20, 20, 0, 0, 0, 0}, x)
}

func TestScales(t *testing.T) {
	s := variation.Scale{{-1, -1}, {0, 0}, {0.5, 0.25}, {1, 1}}
	for from, to := range map[float64]float64{-1: -1, 0: 0, 0.25: 0.125, 0.5: 0.25, 0.75: 0.625, 1: 1} {
		assert.InDelta(t, to, s.Map(from), 1e-9)
	}
	got, err := variation.ParseAvar(variation.EncodeAvar([]variation.Scale{s}))
	require.NoError(t, err)
	assert.Equal(t, s, got[0])
	assert.Nil(t, variation.EncodeAvar([]variation.Scale{{{-1, -1}, {0, 0}, {1, 1}}}), "a straight scale says nothing")
	_, err = variation.ParseAvar([]byte{0, 2, 0, 0, 0, 0, 0, 0})
	assert.ErrorIs(t, err, variation.ErrAvar2)
}
