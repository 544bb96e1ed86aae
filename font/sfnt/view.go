package sfnt

// View is a piece of a font seen through checks: every read says whether the
// bytes were there. All numbers in fonts are big-endian.
type View []byte

// Sub returns n bytes at offset at, false where they do not fit.
func (v View) Sub(at, n int) (View, bool) {
	if at < 0 || n < 0 || at > len(v) || n > len(v)-at {
		return nil, false
	}
	return v[at : at+n : at+n], true
}

// From returns all bytes from offset at.
func (v View) From(at int) (View, bool) {
	if at < 0 || at > len(v) {
		return nil, false
	}
	return v[at:], true
}

// U8 reads one byte.
func (v View) U8(at int) (uint8, bool) {
	if at < 0 || at >= len(v) {
		return 0, false
	}
	return v[at], true
}

// U16 reads an unsigned 16-bit number.
func (v View) U16(at int) (uint16, bool) {
	if at < 0 || at > len(v)-2 {
		return 0, false
	}
	return uint16(v[at])<<8 | uint16(v[at+1]), true
}

// I16 reads a signed 16-bit number.
func (v View) I16(at int) (int16, bool) {
	u, ok := v.U16(at)
	return int16(u), ok
}

// U32 reads an unsigned 32-bit number.
func (v View) U32(at int) (uint32, bool) {
	if at < 0 || at > len(v)-4 {
		return 0, false
	}
	return uint32(v[at])<<24 | uint32(v[at+1])<<16 | uint32(v[at+2])<<8 | uint32(v[at+3]), true
}
