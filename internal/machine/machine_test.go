package machine

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestWithinAContainer reads what a container may use.
func TestWithinAContainer(t *testing.T) {
	const memory = 8 << 30
	file := filepath.Join(t.TempDir(), "memory.max")
	assert.EqualValues(t, memory, within(memory, file), "there is no container")
	for text, want := range map[string]int64{"max\n": memory, "1073741824\n": 1 << 30, "99999999999999\n": memory, "0\n": memory, "much\n": memory} {
		require.NoError(t, os.WriteFile(file, []byte(text), 0o600))
		assert.Equal(t, want, within(memory, file), text)
	}
	assert.Greater(t, Memory(), int64(64<<20))
}
