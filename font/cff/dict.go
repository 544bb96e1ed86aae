package cff

import (
	"fmt"
	"math"

	"sparecrate/font/sfnt"
)

// index is an INDEX: a list of byte strings (TN 5176, section 5).
type index struct {
	v            sfnt.View
	count, size  int
	offsets, end int // of the list of offsets, and of the byte before the data
}

// readIndex reads the frame of an INDEX and gives the offset behind it; wide is
// for the 32-bit count of CFF2.
func readIndex(v sfnt.View, at int, wide bool) (index, int, error) {
	damaged := fmt.Errorf("%w: a list in it runs past its end", errDamaged)
	var count int
	if wide {
		n, ok := v.U32(at)
		if !ok {
			return index{}, 0, damaged
		}
		count, at = int(n), at+4
	} else {
		n, ok := v.U16(at)
		if !ok {
			return index{}, 0, damaged
		}
		count, at = int(n), at+2
	}
	if count == 0 {
		return index{}, at, nil
	}
	size, ok := v.U8(at)
	if !ok || size < 1 || size > 4 || count >= len(v)/int(size) {
		return index{}, 0, damaged
	}
	x := index{v: v, count: count, size: int(size), offsets: at + 1, end: at + int(size)*(count+1)}
	last := x.offset(count)
	if _, ok := v.Sub(x.end+1, last-1); !ok {
		return index{}, 0, damaged
	}
	return x, x.end + last, nil
}

func (x index) offset(i int) int {
	n := 0
	for k := range x.size {
		b, _ := x.v.U8(x.offsets + i*x.size + k)
		n = n<<8 | int(b)
	}
	return n
}

// at returns item i, false where it lies outside.
func (x index) at(i int) ([]byte, bool) {
	if i < 0 || i >= x.count {
		return nil, false
	}
	from, to := x.offset(i), x.offset(i+1)
	if from < 1 {
		return nil, false
	}
	return x.v.Sub(x.end+from, to-from)
}

// dict is a DICT: operands by operator (TN 5176, section 4).
type dict map[int][]float64

func (d dict) number(op int, otherwise float64) float64 {
	if n := d[op]; len(n) > 0 {
		return n[len(n)-1]
	}
	return otherwise
}

// offset is a place in the table, 0 for none.
func (d dict) offset(op int) int {
	n := d.number(op, 0)
	if n < 0 || n > math.MaxInt32 {
		return 0
	}
	return int(n)
}

func readDict(b []byte) (dict, error) {
	entries, err := splitDict(b)
	if err != nil {
		return nil, err
	}
	d := dict{}
	for _, e := range entries {
		d[e.op] = e.operands
	}
	return d, nil
}

// integer reads an operand of a dictionary that starts at offset at.
func integer(v sfnt.View, at int) (n, next int, ok bool) {
	c, _ := v.U8(at)
	b, _ := v.U8(at + 1)
	switch {
	case c >= 32 && c <= 246:
		return int(c) - 139, at + 1, true
	case c >= 247 && c <= 250:
		_, ok := v.Sub(at, 2)
		return (int(c)-247)*256 + int(b) + 108, at + 2, ok
	case c >= 251 && c <= 254:
		_, ok := v.Sub(at, 2)
		return -(int(c)-251)*256 - int(b) - 108, at + 2, ok
	case c == 28:
		n, ok := v.I16(at + 1)
		return int(n), at + 3, ok
	case c == 29:
		n, ok := v.U32(at + 1)
		return int(int32(n)), at + 5, ok
	}
	return 0, at, false
}

// realNumber reads a number written in nibbles (TN 5176, section 4, table 5).
func realNumber(v sfnt.View, at int) (float64, int) {
	var mantissa, scale, exponent, exponentSign float64 = 0, 0, 0, 0
	sign, fraction, inExponent := 1.0, false, false
	for {
		b, ok := v.U8(at)
		at++
		if !ok {
			break
		}
		done := false
		for _, nibble := range []byte{b >> 4, b & 15} {
			switch {
			case nibble <= 9 && inExponent:
				exponent = min(exponent*10+float64(nibble), 300)
			case nibble <= 9:
				mantissa = mantissa*10 + float64(nibble)
				if fraction {
					scale++
				}
			case nibble == 10:
				fraction = true
			case nibble == 11:
				inExponent, exponentSign = true, 1
			case nibble == 12:
				inExponent, exponentSign = true, -1
			case nibble == 14:
				sign = -1
			case nibble == 15:
				done = true
			}
			if done {
				break
			}
		}
		if done {
			break
		}
	}
	return sign * mantissa * math.Pow(10, exponentSign*exponent-scale), at
}

// dictEntry is an operator of a dictionary with its operands, as bytes too.
type dictEntry struct {
	op       int
	operands []float64
	raw      []byte
	placed   bool // the operands are a place, which is filled in when it is known
}

// splitDict takes a dictionary apart in its order.
func splitDict(b []byte) ([]dictEntry, error) {
	v := sfnt.View(b)
	var out []dictEntry
	var operands []float64
	from := 0
	for at := 0; at < len(b); {
		c := b[at]
		switch {
		case c <= 27:
			op := int(c)
			at++
			if c == csEscape {
				next, ok := v.U8(at)
				if !ok {
					return nil, fmt.Errorf("%w: a dictionary ends inside an operator", errDamaged)
				}
				op = csEscape<<8 | int(next)
				at++
			}
			out = append(out, dictEntry{op: op, operands: operands, raw: b[from:at]})
			if len(out) > maxDictEntries {
				return nil, fmt.Errorf("%w: a dictionary has too many entries", errDamaged)
			}
			operands, from = nil, at
		case c == 30:
			n, next := realNumber(v, at+1)
			operands, at = append(operands, n), min(next, len(b))
		default:
			n, next, ok := integer(v, at)
			if !ok {
				return nil, fmt.Errorf("%w: a dictionary cannot be read", errDamaged)
			}
			operands, at = append(operands, float64(n)), next
		}
	}
	return out, nil
}

// join writes a dictionary; place gives the operands of entries that are placed.
func join(entries []dictEntry, place func(op int) []byte) []byte {
	var out []byte
	for _, e := range entries {
		if !e.placed {
			out = append(out, e.raw...)
			continue
		}
		out = appendOperator(append(out, place(e.op)...), e.op)
	}
	return out
}

func appendOperator(out []byte, op int) []byte {
	if op > 0xFF {
		return append(out, csEscape, byte(op))
	}
	return append(out, byte(op))
}
