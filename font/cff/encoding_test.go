package cff

import (
	"fmt"
	"testing"

	"sparecrate/font/fonttest"
)

// TestStandardEncoding holds the names of the codes of the standard encoding (TN 5176, appendix
// B) and of the standard strings against what was approved.
func TestStandardEncoding(t *testing.T) {
	var lines []string
	for code := range 256 {
		sid := -1
		for _, r := range standardRanges {
			if code >= r[0] && code < r[0]+r[1] {
				sid = r[2] + code - r[0]
			}
		}
		lines = append(lines, fmt.Sprintf("%d %d", code, sid))
	}
	fonttest.Lines(t, "standard-encoding", lines...)
}
