package eot_test

import (
	"fmt"
	"testing"

	"sparecrate/font/eot"
	"sparecrate/font/fonttest"
	"sparecrate/font/sfnt"
)

// TestFilesAsApproved reads files of each version, whole and damaged.
func TestFilesAsApproved(t *testing.T) {
	t.Parallel()
	read := func(b []byte) (string, error) {
		f, err := eot.Decode(b)
		if err != nil {
			return "", err
		}
		out := fmt.Sprint(f.Roots, f.Subset, f.Encrypted)
		for _, face := range f.Fonts {
			out += " " + fonttest.Written(face)
		}
		return out, nil
	}
	small := sfnt.Write(&sfnt.Font{Flavor: 0x00010000, Tables: []sfnt.Table{{Tag: sfnt.MakeTag("head"), Data: make([]byte, 54)}, {Tag: sfnt.MakeTag("test"), Data: []byte("a table")}}})
	var cases []fonttest.Case
	for _, version := range []uint32{0x00010000, 0x00020001, 0x00020002} {
		cases = append(cases, fonttest.Case{Name: fmt.Sprintf("version %x", version), Bytes: file(small, version, 0, "https://holmvik.example\x00")},
			fonttest.Case{Name: fmt.Sprintf("version %x, changed byte by byte", version), Bytes: file(xored(small), version, 0x10000000, "")})
	}
	fonttest.Approve(t, "files", read, cases...)
}

// xored returns bytes as the flag for it says they are.
func xored(b []byte) []byte {
	out := make([]byte, len(b))
	for i := range b {
		out[i] = b[i] ^ 0x50
	}
	return out
}
