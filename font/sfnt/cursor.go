package sfnt

import "fmt"

// Cursor reads numbers of a View one after the other without a check at each: the first
// that lies outside is remembered, gives 0 as all after it, and Err tells of it at the end.
type Cursor struct {
	v    View
	lost int // offset of the first number that lies outside
	err  bool
}

// Cursor returns a cursor over v.
func (v View) Cursor() *Cursor { return &Cursor{v: v} }

// Err returns an error that wraps ErrDamaged if a number that was read lies outside.
func (c *Cursor) Err() error {
	if !c.err {
		return nil
	}
	return fmt.Errorf("%w: it ends after %d bytes, and a number of it stands at %d", ErrDamaged, len(c.v), c.lost)
}

// read keeps what was read at an offset if it was there and nothing was lost before.
func read[T uint8 | uint16 | int16 | uint32](c *Cursor, at int, n T, ok bool) T {
	if !ok && !c.err {
		c.lost, c.err = at, true
	}
	if c.err {
		return 0
	}
	return n
}

// U8 reads one byte.
func (c *Cursor) U8(at int) uint8 { n, ok := c.v.U8(at); return read(c, at, n, ok) }

// U16 reads an unsigned 16-bit number.
func (c *Cursor) U16(at int) uint16 { n, ok := c.v.U16(at); return read(c, at, n, ok) }

// I16 reads a signed 16-bit number.
func (c *Cursor) I16(at int) int16 { n, ok := c.v.I16(at); return read(c, at, n, ok) }

// U24 reads an unsigned 24-bit number.
func (c *Cursor) U24(at int) int { return int(c.U8(at))<<16 | int(c.U16(at+1)) }

// U32 reads an unsigned 32-bit number.
func (c *Cursor) U32(at int) uint32 { n, ok := c.v.U32(at); return read(c, at, n, ok) }

// Count reads an unsigned 16-bit number that counts or is an offset.
func (c *Cursor) Count(at int) int { return int(c.U16(at)) }

// Offset reads an unsigned 32-bit number that is a size or an offset.
func (c *Cursor) Offset(at int) int { return int(c.U32(at)) }
