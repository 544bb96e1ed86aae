package font

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestWhatLooksLikeText tells text by its characters: a piece of it may end within one.
func TestWhatLooksLikeText(t *testing.T) {
	for _, text := range []string{"", "plain", "lines\r\nand\ttabs", "größer", "語", strings.Repeat("a", 400) + "語"[:1], strings.Repeat("a", 400) + "語"[:2], "a" + "😀"[:3]} {
		assert.True(t, looksLikeText([]byte(text)), "%q", text)
	}
	for _, other := range []string{"\x00", "a\x01b", "a\x1fb", "bell\a", "\xff\xfe\x00\x00", "ab\x80cdef", "\xc3(abc)"} {
		assert.False(t, looksLikeText([]byte(other)), "%q", other)
	}
}

// TestForksAndBitmapsOfOldSystems knows them by their first bytes, and by these alone.
func TestForksAndBitmapsOfOldSystems(t *testing.T) {
	fork := []byte{0, 0, 0, 16, 0, 0, 0, 20, 0, 0, 0, 4, 0, 0, 0, 2, 1, 2, 3, 4, 9, 9}
	assert.True(t, isResourceFork(fork))
	assert.False(t, isResourceFork(fork[:21]), "its end is missing")
	assert.False(t, isResourceFork(fork[:15]))
	for _, at := range []int{3, 7, 11, 15} {
		other := append([]byte{}, fork...)
		other[at]++
		assert.False(t, isResourceFork(other), "byte %d", at)
	}
	bare := make([]byte, 118)
	bare[1], bare[2] = 2, 118
	assert.True(t, isWindowsBitmaps(bare))
	bare[1] = 3
	assert.True(t, isWindowsBitmaps(bare))
	bare[1] = 4
	assert.False(t, isWindowsBitmaps(bare))
	bare[1], bare[2] = 2, 117
	assert.False(t, isWindowsBitmaps(bare))
	assert.False(t, isWindowsBitmaps(bare[:117]))
	program := append([]byte("MZ"), make([]byte, 5000)...)
	assert.False(t, isWindowsBitmaps(program))
	copy(program[4089:], "FONTRES")
	assert.True(t, isWindowsBitmaps(program))
	copy(program[4089:], "       ")
	copy(program[4090:], "FONTRES")
	assert.False(t, isWindowsBitmaps(program), "it is looked for near the start alone")
}
