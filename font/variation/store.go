package variation

import (
	"encoding/binary"
	"math"
	"slices"

	"sparecrate/font/sfnt"
)

// Store is an item variation store: rows of deltas, each over the regions of
// its set. A row is named by the number of its set (outer) and its own (inner).
type Store struct {
	Axes    int
	Regions []Region
	Sets    []Set
}

// Set is one ItemVariationData.
type Set struct {
	Regions []int // numbers in Store.Regions
	Rows    [][]int32
}

// NoVariation is the index that stands for no row.
const NoVariation = 0xFFFFFFFF

// ParseStore reads a store. The error wraps sfnt.ErrDamaged.
func ParseStore(b []byte) (*Store, error) {
	v := sfnt.View(b)
	format, ok := v.U16(0)
	list, ok2 := v.U32(2)
	count, ok3 := v.U16(6)
	if !ok || !ok2 || !ok3 || format != 1 {
		return nil, damaged("a store of variations has no header")
	}
	s := &Store{}
	axes, _ := v.U16(int(list))
	regions, ok := v.U16(int(list) + 2)
	if _, fits := v.Sub(int(list)+4, 6*int(axes)*int(regions)); !ok || !fits || int(axes) > MaxAxes || int(regions) > maxRegions {
		return nil, damaged("a list of regions lies outside its table")
	}
	s.Axes = int(axes)
	for i := range int(regions) {
		r := make(Region, axes)
		for k := range r {
			r[k] = tentAt(v, int(list)+4+6*(i*int(axes)+k))
		}
		s.Regions = append(s.Regions, r)
	}
	work := workPerByte*len(b) + workBase
	for i := range int(count) {
		at, ok := v.U32(8 + 4*i)
		if !ok {
			return nil, damaged("a store of variations ends inside its list")
		}
		if at == 0 {
			s.Sets = append(s.Sets, Set{})
			continue
		}
		set, err := parseSet(v, int(at), len(s.Regions), &work)
		if err != nil {
			return nil, err
		}
		s.Sets = append(s.Sets, set)
	}
	return s, nil
}

func tentAt(v sfnt.View, at int) Tent {
	a, _ := v.I16(at)
	b, _ := v.I16(at + 2)
	c, _ := v.I16(at + 4)
	return Tent{fromF2(a), fromF2(b), fromF2(c)}
}

func parseSet(v sfnt.View, at, regions int, work *int) (Set, error) {
	rows, _ := v.U16(at)
	words, _ := v.U16(at + 2)
	count, ok := v.U16(at + 4)
	if _, fits := v.Sub(at+6, 2*int(count)); !ok || !fits {
		return Set{}, damaged("a set of variations lies outside its table")
	}
	long := words&0x8000 != 0
	wide := min(int(words&0x7FFF), int(count))
	s := Set{Regions: make([]int, count)}
	for i := range s.Regions {
		n, _ := v.U16(at + 6 + 2*i)
		if int(n) >= regions {
			return Set{}, damaged("a set of variations names a region that is not there")
		}
		s.Regions[i] = int(n)
	}
	size, wideSize := 1, 2
	if long {
		size, wideSize = 2, 4
	}
	row := wide*wideSize + (int(count)-wide)*size
	data, fits := v.Sub(at+6+2*int(count), row*int(rows))
	if *work -= (int(count) + 1) * int(rows); !fits || *work < 0 {
		return Set{}, damaged("a set of variations runs past the end of its table")
	}
	all := make([]int32, int(count)*int(rows))
	s.Rows = make([][]int32, rows)
	for i := range s.Rows {
		s.Rows[i] = all[i*int(count) : (i+1)*int(count)]
		place := i * row
		for k := range s.Rows[i] {
			n := size
			if k < wide {
				n = wideSize
			}
			switch n {
			case 1:
				b, _ := data.U8(place)
				s.Rows[i][k] = int32(int8(b))
			case 2:
				b, _ := data.I16(place)
				s.Rows[i][k] = int32(b)
			default:
				b, _ := data.U32(place)
				s.Rows[i][k] = int32(b)
			}
			place += n
		}
	}
	return s, nil
}

// row returns a row and its regions, false where there is none.
func (s *Store) row(outer, inner int) (Set, []int32, bool) {
	if outer >= len(s.Sets) || inner >= len(s.Sets[outer].Rows) {
		return Set{}, nil, false
	}
	return s.Sets[outer], s.Sets[outer].Rows[inner], true
}

// Delta returns what a row adds at a place.
func (s *Store) Delta(outer, inner int, place []float64) float64 {
	set, row, ok := s.row(outer, inner)
	if !ok {
		return 0
	}
	sum := 0.0
	for i, d := range row {
		if d != 0 {
			sum += float64(d) * s.Regions[set.Regions[i]].At(place)
		}
	}
	return sum
}

// Encode writes the store. Regions that no set names are left out, and columns
// without a delta; those of a set without rows stay.
func (s *Store) Encode() []byte {
	used := map[int]int{}
	var regions []int
	var sets [][]byte
	for _, set := range s.Sets {
		sets = append(sets, set.encode(func(region int) int {
			to, ok := used[region]
			if !ok {
				to = len(regions)
				used[region] = to
				regions = append(regions, region)
			}
			return to
		}))
	}
	out := binary.BigEndian.AppendUint16(nil, 1)
	listAt := 8 + 4*len(sets)
	out = binary.BigEndian.AppendUint32(out, uint32(listAt))
	out = binary.BigEndian.AppendUint16(out, uint16(len(sets)))
	at := listAt + 4 + 6*s.Axes*len(regions)
	for _, b := range sets {
		out = binary.BigEndian.AppendUint32(out, uint32(at))
		at += len(b)
	}
	out = binary.BigEndian.AppendUint16(out, uint16(s.Axes))
	out = binary.BigEndian.AppendUint16(out, uint16(len(regions)))
	for _, r := range regions {
		for _, t := range s.Regions[r] {
			for _, x := range []float64{t.Start, t.Peak, t.End} {
				out = binary.BigEndian.AppendUint16(out, toF2(x))
			}
		}
	}
	for _, b := range sets {
		out = append(out, b...)
	}
	return out
}

func (s *Set) encode(region func(int) int) []byte {
	// Columns by how many bytes they need: wide ones come first.
	width := make([]int, len(s.Regions))
	long := false
	if len(s.Rows) == 0 {
		for k := range width {
			width[k] = 1 // CFF2 names the regions and keeps the deltas itself
		}
	}
	for _, row := range s.Rows {
		for k, d := range row {
			n := 0
			switch {
			case d == 0:
			case d >= math.MinInt8 && d <= math.MaxInt8:
				n = 1
			case d >= math.MinInt16 && d <= math.MaxInt16:
				n = 2
			default:
				n = 4
				long = true
			}
			width[k] = max(width[k], n)
		}
	}
	var columns []int
	narrow := 1
	if long {
		narrow = 2
	}
	for k, w := range width {
		if w > narrow {
			columns = append(columns, k)
		}
	}
	wide := len(columns)
	for k, w := range width {
		if w > 0 && w <= narrow {
			columns = append(columns, k)
		}
	}
	words := wide
	if long {
		words |= 0x8000
	}
	out := binary.BigEndian.AppendUint16(nil, uint16(len(s.Rows)))
	out = binary.BigEndian.AppendUint16(out, uint16(words))
	out = binary.BigEndian.AppendUint16(out, uint16(len(columns)))
	for _, k := range columns {
		out = binary.BigEndian.AppendUint16(out, uint16(region(s.Regions[k])))
	}
	for _, row := range s.Rows {
		for i, k := range columns {
			switch {
			case long && i < wide:
				out = binary.BigEndian.AppendUint32(out, uint32(row[k]))
			case long || i < wide:
				out = binary.BigEndian.AppendUint16(out, uint16(row[k]))
			default:
				out = append(out, byte(row[k]))
			}
		}
	}
	return out
}

// Index joins the two numbers of a row.
func Index(outer, inner int) uint32 { return uint32(outer)<<16 | uint32(inner) }

// Only returns a store of the rows used (by Index), and where each has gone. Sets
// without rows go.
func (s *Store) Only(used map[uint32]bool) (*Store, map[uint32]uint32) {
	keys := make([]uint32, 0, len(used))
	for k := range used {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	out := &Store{Axes: s.Axes, Regions: s.Regions}
	to := map[uint32]uint32{}
	last := -1
	for _, k := range keys {
		set, row, ok := s.row(int(k>>16), int(k&0xFFFF))
		if !ok {
			to[k] = NoVariation
			continue
		}
		if int(k>>16) != last {
			last = int(k >> 16)
			out.Sets = append(out.Sets, Set{Regions: set.Regions})
		}
		one := &out.Sets[len(out.Sets)-1]
		to[k] = Index(len(out.Sets)-1, len(one.Rows))
		one.Rows = append(one.Rows, row)
	}
	return out, to
}

// ParseMap reads a DeltaSetIndexMap into an index an item; items past its end
// take the last. The error wraps sfnt.ErrDamaged.
func ParseMap(b []byte) ([]uint32, error) {
	v := sfnt.View(b)
	format, _ := v.U8(0)
	entry, ok := v.U8(1)
	count, at := 0, 4
	if format == 0 {
		n, _ := v.U16(2)
		count = int(n)
	} else {
		n, _ := v.U32(2)
		count, at = int(n), 6
	}
	size := int(entry>>4&3) + 1
	data, fits := v.Sub(at, count*size)
	if !ok || !fits || format > 1 || count > maxRows {
		return nil, damaged("a map of variations runs past the end of its table")
	}
	innerBits := int(entry&0x0F) + 1
	out := make([]uint32, count)
	for i := range out {
		n := uint32(0)
		for _, b := range data[i*size : (i+1)*size] {
			n = n<<8 | uint32(b)
		}
		out[i] = Index(int(n>>innerBits), int(n&(1<<innerBits-1)))
	}
	return out, nil
}

// EncodeMap writes a DeltaSetIndexMap, as short as it can be.
func EncodeMap(m []uint32) []byte {
	for len(m) > 1 && m[len(m)-1] == m[len(m)-2] {
		m = m[:len(m)-1]
	}
	inner, outer := 1, 0
	for _, k := range m {
		for k&0xFFFF>>inner != 0 {
			inner++
		}
		for k>>16>>outer != 0 {
			outer++
		}
	}
	size := max(1, (inner+outer+7)/8)
	out := []byte{0, byte((size-1)<<4 | (inner - 1))}
	out = binary.BigEndian.AppendUint16(out, uint16(len(m)))
	for _, k := range m {
		n := k>>16<<inner | k&0xFFFF
		for i := size - 1; i >= 0; i-- {
			out = append(out, byte(n>>(8*i)))
		}
	}
	return out
}
