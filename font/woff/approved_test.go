package woff_test

import (
	"fmt"
	"testing"

	"sparecrate/font/fonttest"
	"sparecrate/font/woff"
)

// TestFilesAsApproved unpacks a file whole and damaged, and packs it again.
func TestFilesAsApproved(t *testing.T) {
	t.Parallel()
	read := func(b []byte) (string, error) {
		f, err := woff.Decode(b)
		if err != nil {
			return "", err
		}
		again, err := woff.Encode(f)
		return fmt.Sprintf("%s %q %x %x %v", fonttest.Written(f.Font), f.Metadata, f.Private, again, err != nil), nil
	}
	fonttest.Approve(t, "files", read, fonttest.Case{Name: "with both blocks", Bytes: encoded(t, &woff.File{Font: tiny(), Blocks: woff.Blocks{Metadata: []byte("<metadata/>"), Private: []byte{1, 2, 3}}})},
		fonttest.Case{Name: "with neither", Bytes: encoded(t, &woff.File{Font: tiny()})})
}
