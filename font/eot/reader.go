package eot

import (
	"encoding/binary"
	"fmt"
	"strings"
	"unicode/utf16"

	"sparecrate/font/sfnt"
)

// Decode reads an EOT file. Tables of plain data are slices of b. The error
// wraps sfnt.ErrDamaged, ErrCompressed, or what package sfnt says of the font inside.
func Decode(b []byte) (*File, error) {
	if !Is(b) {
		return nil, fmt.Errorf("%w: it ends inside its header", errDamaged)
	}
	size, data := int(binary.LittleEndian.Uint32(b)), int(binary.LittleEndian.Uint32(b[4:]))
	version, flags := binary.LittleEndian.Uint32(b[8:]), binary.LittleEndian.Uint32(b[12:])
	switch {
	case version != version1 && version != version21 && version != version22:
		return nil, fmt.Errorf("%w: its header is of the unknown version 0x%08X", errDamaged, version)
	case size > len(b) || size < fixedSize:
		return nil, fmt.Errorf("%w: it says it has %d bytes and has %d", errDamaged, size, len(b))
	case data > size-fixedSize:
		return nil, fmt.Errorf("%w: the font in it should have %d bytes, more than the file", errDamaged, data)
	case flags&flagCompressed != 0:
		return nil, ErrCompressed
	}
	f := &File{Subset: flags&flagSubset != 0, Encrypted: flags&flagEncrypted != 0}
	h := header{b: b[:size-data], at: fixedSize, ok: true}
	h.text() // family, style, version and full name: the font says them again
	for range 3 {
		h.skip(2)
		h.text()
	}
	if version != version1 {
		h.skip(2)
		if roots := h.text(); roots != "" {
			f.Roots = strings.Split(strings.TrimRight(roots, "\x00"), "\x00")
		}
	}
	if version == version22 {
		h.skip(4 + 4 + 2) // checksum of the roots, code page, padding
		h.text()          // signature
		h.skip(4)         // flags
		h.long()          // a font of the user's own characters
	}
	if !h.ok {
		return nil, fmt.Errorf("%w: its header runs into the font", errDamaged)
	}
	font := b[size-data : size]
	if f.Encrypted {
		plain := make([]byte, len(font))
		for i, c := range font {
			plain[i] = c ^ xorKey
		}
		font = plain
	}
	var err error
	if f.Fonts, err = sfnt.Parse(font); err != nil {
		return nil, fmt.Errorf("inside the EOT file: %w", err)
	}
	return f, nil
}

// header reads the variable part.
type header struct {
	b  []byte
	at int
	ok bool
}

func (h *header) skip(n int) {
	h.at += n
	h.ok = h.ok && h.at <= len(h.b)
}

// long passes over a length of four bytes and as much data.
func (h *header) long() {
	if h.skip(4); h.ok {
		h.skip(int(binary.LittleEndian.Uint32(h.b[h.at-4:])))
	}
}

// text reads a length in bytes and as much UTF-16.
func (h *header) text() string {
	if !h.ok || h.at+2 > len(h.b) {
		h.ok = false
		return ""
	}
	n := int(binary.LittleEndian.Uint16(h.b[h.at:]))
	from := h.at + 2
	h.skip(2 + n)
	if !h.ok {
		return ""
	}
	units := make([]uint16, n/2)
	for i := range units {
		units[i] = binary.LittleEndian.Uint16(h.b[from+2*i:])
	}
	return string(utf16.Decode(units))
}
