package woff2

import (
	"encoding/binary"

	"sparecrate/font/sfnt"
)

// The variable-length numbers of sections 3.2 and 5.2.

const (
	oneMoreByteCode1 = 255
	oneMoreByteCode2 = 254
	wordCode         = 253
	lowestCode       = 253
)

// append255 writes a 255UInt16 (section 3.2).
func append255(out []byte, n int) []byte {
	switch {
	case n < lowestCode:
		return append(out, byte(n))
	case n < lowestCode+256:
		return append(out, oneMoreByteCode1, byte(n-lowestCode))
	case n < 2*lowestCode+256:
		return append(out, oneMoreByteCode2, byte(n-2*lowestCode))
	}
	return binary.BigEndian.AppendUint16(append(out, wordCode), uint16(n))
}

// stream is a part of the transformed table that is read from its start to its end.
type stream struct {
	v  sfnt.View
	at int
	ok bool // nothing was read past the end so far
}

func (s *stream) u8() int {
	n, ok := s.v.U8(s.at)
	s.at++
	s.ok = s.ok && ok
	return int(n)
}

func (s *stream) u16() int {
	n, ok := s.v.U16(s.at)
	s.at += 2
	s.ok = s.ok && ok
	return int(n)
}

func (s *stream) take(n int) []byte {
	b, ok := s.v.Sub(s.at, n)
	s.at += n
	s.ok = s.ok && ok
	return b
}

func (s *stream) u255() int {
	switch code := s.u8(); code {
	case wordCode:
		return s.u16()
	case oneMoreByteCode1:
		return s.u8() + lowestCode
	case oneMoreByteCode2:
		return s.u8() + 2*lowestCode
	default:
		return code
	}
}

// appendTriplet writes the step to a point: a flag, and one to four bytes of
// coordinates (section 5.2, "Triplet encoding").
func appendTriplet(flags, coordinates []byte, dx, dy int, on bool) (newFlags, newCoordinates []byte) {
	ax, ay := max(dx, -dx), max(dy, -dy)
	flag := 0
	if !on {
		flag = 128
	}
	xSign, ySign := 0, 0
	if dx >= 0 {
		xSign = 1
	}
	if dy >= 0 {
		ySign = 1
	}
	signs := xSign + 2*ySign
	switch {
	case dx == 0 && ay < 1280:
		flag += ay&0xF00>>7 + ySign
		coordinates = append(coordinates, byte(ay))
	case dy == 0 && ax < 1280:
		flag += 10 + ax&0xF00>>7 + xSign
		coordinates = append(coordinates, byte(ax))
	case ax < 65 && ay < 65 && ax > 0 && ay > 0:
		flag += 20 + (ax-1)&0x30 + (ay-1)&0x30>>2 + signs
		coordinates = append(coordinates, byte((ax-1)&0xF<<4|(ay-1)&0xF))
	case ax < 769 && ay < 769 && ax > 0 && ay > 0:
		flag += 84 + 12*((ax-1)&0x300>>8) + (ay-1)&0x300>>6 + signs
		coordinates = append(coordinates, byte(ax-1), byte(ay-1))
	case ax < 4096 && ay < 4096:
		flag += 120 + signs
		coordinates = append(coordinates, byte(ax>>4), byte(ax&0xF<<4|ay>>8), byte(ay))
	default:
		flag += 124 + signs
		coordinates = append(coordinates, byte(ax>>8), byte(ax), byte(ay>>8), byte(ay))
	}
	return append(flags, byte(flag)), coordinates
}

// triplet reads the step to a point.
func triplet(flag int, s *stream) (dx, dy int) {
	signed := func(positive, n int) int {
		if positive&1 != 0 {
			return n
		}
		return -n
	}
	switch {
	case flag < 10:
		return 0, signed(flag, flag&14<<7+s.u8())
	case flag < 20:
		return signed(flag, (flag-10)&14<<7+s.u8()), 0
	case flag < 84:
		f, b := flag-20, s.u8()
		return signed(flag, 1+f&0x30+b>>4), signed(flag>>1, 1+f&0x0C<<2+b&0x0F)
	case flag < 120:
		f := flag - 84
		x, y := s.u8(), s.u8()
		return signed(flag, 1+f/12<<8+x), signed(flag>>1, 1+f%12>>2<<8+y)
	case flag < 124:
		a, b, c := s.u8(), s.u8(), s.u8()
		return signed(flag, a<<4+b>>4), signed(flag>>1, b&0x0F<<8+c)
	}
	x, y := s.u16(), s.u16()
	return signed(flag, x), signed(flag>>1, y)
}
