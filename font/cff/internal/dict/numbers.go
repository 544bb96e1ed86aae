package dict

import (
	"encoding/binary"
	"math"
	"strconv"
)

// AppendInt writes an operand of a dictionary (TN 5176, section 4).
func AppendInt(out []byte, n int) []byte {
	switch {
	case n >= -107 && n <= 107:
		return append(out, byte(n+139))
	case n >= 108 && n <= 1131:
		n -= 108
		return append(out, byte(n>>8+247), byte(n))
	case n >= -1131 && n <= -108:
		n = -n - 108
		return append(out, byte(n>>8+251), byte(n))
	case n >= math.MinInt16 && n <= math.MaxInt16:
		return append(out, 28, byte(n>>8), byte(n))
	}
	return AppendInt32(out, n)
}

// AppendNumber writes an operand of a dictionary, in nibbles where it is not whole
// (TN 5176, section 4, table 5).
func AppendNumber(out []byte, x float64) []byte {
	if x == math.Trunc(x) && math.Abs(x) <= math.MaxInt32 {
		return AppendInt(out, int(x))
	}
	const end, point, minus = 15, 10, 14
	nibbles := make([]byte, 0, 16)
	for _, c := range strconv.FormatFloat(x, 'f', -1, 32) {
		switch c {
		case '-':
			nibbles = append(nibbles, minus)
		case '.':
			nibbles = append(nibbles, point)
		default:
			nibbles = append(nibbles, byte(c-'0'))
		}
	}
	nibbles = append(nibbles, end)
	if len(nibbles)%2 == 1 {
		nibbles = append(nibbles, end)
	}
	out = append(out, 30)
	for i := 0; i < len(nibbles); i += 2 {
		out = append(out, nibbles[i]<<4|nibbles[i+1])
	}
	return out
}

// AppendInt32 writes an operand of a dictionary in five bytes whatever it is: a place to be filled in.
func AppendInt32(out []byte, n int) []byte {
	return append(out, 29, byte(n>>24), byte(n>>16), byte(n>>8), byte(n))
}

// EncodeIndex writes an INDEX (TN 5176, section 5), with offsets as short as they can be.
func EncodeIndex(items [][]byte) []byte {
	out := binary.BigEndian.AppendUint16(nil, uint16(len(items)))
	if len(items) == 0 {
		return out
	}
	total := 1
	for _, it := range items {
		total += len(it)
	}
	size := 1
	for total>>(8*size) > 0 {
		size++
	}
	out = append(out, byte(size))
	at := 1
	offset := func() {
		for i := size - 1; i >= 0; i-- {
			out = append(out, byte(at>>(8*i)))
		}
	}
	offset()
	for _, it := range items {
		at += len(it)
		offset()
	}
	for _, it := range items {
		out = append(out, it...)
	}
	return out
}
