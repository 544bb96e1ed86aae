package variation

import (
	"encoding/binary"
	"errors"
	"slices"

	"sparecrate/font/sfnt"
)

// ErrAvar2 says that axes bend each other (`avar` version 2), which is not
// undone here.
var ErrAvar2 = errors.New("its axes depend on each other (table `avar`, version 2), so no exact instance can be made")

// Scale bends one axis: places before, in order, and after.
type Scale [][2]float64

// ParseAvar reads the scales of the axes. The error wraps sfnt.ErrDamaged or ErrAvar2.
func ParseAvar(b []byte) ([]Scale, error) {
	v := sfnt.View(b)
	version, _ := v.U16(0)
	count, ok := v.U16(6)
	if !ok || int(count) > MaxAxes {
		return nil, damaged("the scales of axes have no header")
	}
	if version != 1 {
		return nil, ErrAvar2
	}
	at := 8
	out := make([]Scale, count)
	for i := range out {
		n, ok := v.U16(at)
		list, fits := v.Sub(at+2, 4*int(n))
		if !ok || !fits {
			return nil, damaged("a scale of an axis runs past the end of its table")
		}
		for k := range int(n) {
			from, _ := list.I16(4 * k)
			to, _ := list.I16(4*k + 2)
			out[i] = append(out[i], [2]float64{fromF2(from), fromF2(to)})
		}
		if !slices.IsSortedFunc(out[i], func(a, b [2]float64) int {
			if a[0] < b[0] {
				return -1
			}
			return 1
		}) {
			out[i] = nil // readers take such a scale for straight
		}
		at += 2 + 4*int(n)
	}
	return out, nil
}

// Map bends a coordinate.
func (s Scale) Map(x float64) float64 {
	if len(s) < 2 {
		return x
	}
	if x <= s[0][0] {
		return s[0][1]
	}
	for i := 1; i < len(s); i++ {
		if x <= s[i][0] {
			a, b := s[i-1], s[i]
			if b[0] == a[0] {
				return b[1]
			}
			return a[1] + (b[1]-a[1])*(x-a[0])/(b[0]-a[0])
		}
	}
	return s[len(s)-1][1]
}

// EncodeAvar writes the scales, nil where none bends.
func EncodeAvar(scales []Scale) []byte {
	bent := false
	out := binary.BigEndian.AppendUint32(nil, 0x00010000)
	out = binary.BigEndian.AppendUint16(out, 0)
	out = binary.BigEndian.AppendUint16(out, uint16(len(scales)))
	for _, s := range scales {
		out = binary.BigEndian.AppendUint16(out, uint16(len(s)))
		for _, p := range s {
			out = binary.BigEndian.AppendUint16(out, toF2(p[0]))
			out = binary.BigEndian.AppendUint16(out, toF2(p[1]))
			bent = bent || toF2(p[0]) != toF2(p[1])
		}
	}
	if !bent {
		return nil
	}
	return out
}
