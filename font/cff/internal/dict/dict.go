// Package dict reads and writes what the tables of PostScript outlines are made
// of: the lists (INDEX) and dictionaries (DICT) of Adobe's Technical Note 5176,
// sections 4 and 5, and the wider lists of CFF2.
package dict

import (
	"fmt"
	"math"

	"sparecrate/font/sfnt"
)

// ErrDamaged says that outlines do not follow their specification; it wraps sfnt.ErrDamaged.
var ErrDamaged = sfnt.Damaged("the PostScript outlines are damaged")

const (
	escape         = 12 // begins an operator of two bytes
	maxDictEntries = 512
)

// Index is an INDEX: a list of byte strings (TN 5176, section 5).
type Index struct {
	v            sfnt.View
	Count, size  int
	offsets, end int // of the list of offsets, and of the byte before the data
}

// ReadIndex reads the frame of an INDEX and gives the offset behind it; wide is
// for the 32-bit count of CFF2.
func ReadIndex(v sfnt.View, at int, wide bool) (Index, int, error) {
	damaged := fmt.Errorf("%w: a list in it runs past its end", ErrDamaged)
	var count int
	if wide {
		n, ok := v.U32(at)
		if !ok {
			return Index{}, 0, damaged
		}
		count, at = int(n), at+4
	} else {
		n, ok := v.U16(at)
		if !ok {
			return Index{}, 0, damaged
		}
		count, at = int(n), at+2
	}
	if count == 0 {
		return Index{}, at, nil
	}
	size, ok := v.U8(at)
	if !ok || size < 1 || size > 4 || count >= len(v)/int(size) {
		return Index{}, 0, damaged
	}
	x := Index{v: v, Count: count, size: int(size), offsets: at + 1, end: at + int(size)*(count+1)}
	last := x.offset(count)
	if _, ok := v.Sub(x.end+1, last-1); !ok {
		return Index{}, 0, damaged
	}
	return x, x.end + last, nil
}

func (x Index) offset(i int) int {
	n := 0
	for k := range x.size {
		b, _ := x.v.U8(x.offsets + i*x.size + k)
		n = n<<8 | int(b)
	}
	return n
}

// At returns item i, false where it lies outside.
func (x Index) At(i int) ([]byte, bool) {
	if i < 0 || i >= x.Count {
		return nil, false
	}
	from, to := x.offset(i), x.offset(i+1)
	if from < 1 {
		return nil, false
	}
	return x.v.Sub(x.end+from, to-from)
}

// Dict is a DICT: operands by operator (TN 5176, section 4).
type Dict map[int][]float64

// Number is the last operand of an operator, or otherwise where it has none.
func (d Dict) Number(op int, otherwise float64) float64 {
	if n := d[op]; len(n) > 0 {
		return n[len(n)-1]
	}
	return otherwise
}

// Offset is a place in the table, 0 for none.
func (d Dict) Offset(op int) int {
	n := d.Number(op, 0)
	if n < 0 || n > math.MaxInt32 {
		return 0
	}
	return int(n)
}

// Read reads a dictionary. The error wraps sfnt.ErrDamaged.
func Read(b []byte) (Dict, error) {
	entries, err := Split(b)
	if err != nil {
		return nil, err
	}
	d := Dict{}
	for _, e := range entries {
		d[e.Op] = e.Operands
	}
	return d, nil
}

// Integer reads an operand of a dictionary that starts at offset at.
func Integer(v sfnt.View, at int) (n, next int, ok bool) {
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

// Entry is an operator of a dictionary with its operands, as bytes too.
type Entry struct {
	Op       int
	Operands []float64
	Raw      []byte
	Placed   bool // the operands are a place, which is filled in when it is known
}

// Split takes a dictionary apart in its order.
func Split(b []byte) ([]Entry, error) {
	v := sfnt.View(b)
	var out []Entry
	var operands []float64
	from := 0
	for at := 0; at < len(b); {
		c := b[at]
		switch {
		case c <= 27:
			op := int(c)
			at++
			if c == escape {
				next, ok := v.U8(at)
				if !ok {
					return nil, fmt.Errorf("%w: a dictionary ends inside an operator", ErrDamaged)
				}
				op = escape<<8 | int(next)
				at++
			}
			out = append(out, Entry{Op: op, Operands: operands, Raw: b[from:at]})
			if len(out) > maxDictEntries {
				return nil, fmt.Errorf("%w: a dictionary has too many entries", ErrDamaged)
			}
			operands, from = nil, at
		case c == 30:
			n, next := realNumber(v, at+1)
			operands, at = append(operands, n), min(next, len(b))
		default:
			n, next, ok := Integer(v, at)
			if !ok {
				return nil, fmt.Errorf("%w: a dictionary cannot be read", ErrDamaged)
			}
			operands, at = append(operands, float64(n)), next
		}
	}
	return out, nil
}

// Join writes a dictionary; place gives the operands of entries that are placed.
func Join(entries []Entry, place func(op int) []byte) []byte {
	var out []byte
	for _, e := range entries {
		if !e.Placed {
			out = append(out, e.Raw...)
			continue
		}
		out = AppendOperator(append(out, place(e.Op)...), e.Op)
	}
	return out
}

// AppendOperator writes an operator of one or two bytes.
func AppendOperator(out []byte, op int) []byte {
	if op > 0xFF {
		return append(out, escape, byte(op))
	}
	return append(out, byte(op))
}
