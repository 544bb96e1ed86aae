package shape

import (
	"fmt"
	"testing"

	"sparecrate/font/fonttest"
)

// TestJoining holds the forms of letters that join against what was approved: each letter of the
// blocks that join, alone and between two letters that join on both sides.
func TestJoining(t *testing.T) {
	const beh = 0x0628
	var lines []string
	for _, block := range [][2]rune{{0x0600, 0x06FF}, {0x0700, 0x074F}, {0x0750, 0x077F}, {0x08A0, 0x08FF}, {0x1800, 0x18AF}, {0xA840, 0xA87F}, {0x10AC0, 0x10AEF}, {0x1E900, 0x1E95F}} {
		for r := block[0]; r <= block[1]; r++ {
			lines = append(lines, fmt.Sprintf("%04X %q %q", r, joinedForms([]rune{r}), joinedForms([]rune{beh, r, beh})))
		}
	}
	fonttest.Lines(t, "joining", lines...)
}
