package font

import (
	"sparecrate/font/sfnt"
	"sparecrate/font/woff"
	"sparecrate/font/woff2"
)

// HeadSize is how many bytes of a file UnpackedSize wants to see.
const HeadSize = 48

// UnpackedSize returns how many bytes of tables a file of so many bytes says it unpacks
// to, from its first HeadSize bytes. It is what Open will take at most, beside the file.
func UnpackedSize(head []byte, size int64) int64 {
	if !woff.Is(head) && !woff2.Is(head) {
		return size
	}
	// totalSfntSize: WOFF 1.0, section 3; WOFF 2.0, section 4.1. A file may state less
	// than it holds, so the least is what such files usually come to.
	const usual, at = 4, 16
	stated, _ := sfnt.View(head).U32(at)
	return max(int64(min(stated, woff.MaxFont)), min(usual*size, woff.MaxFont))
}
