package classify

import (
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestTheListOfMembersIsBounded reads as much as is allowed, and not a byte more, until the
// list of members is whole.
func TestTheListOfMembersIsBounded(t *testing.T) {
	d := &directoryReader{r: strings.NewReader(strings.Repeat("a", 100)), left: 10}
	read := func(n int) (int, error) { return d.ReadAt(make([]byte, n), 0) }
	n, err := read(4)
	require.NoError(t, err)
	assert.Equal(t, 4, n)
	n, err = read(6)
	require.NoError(t, err, "ten in all are allowed")
	assert.Equal(t, 6, n)
	n, err = read(1)
	require.ErrorIs(t, err, io.ErrUnexpectedEOF)
	assert.Zero(t, n)
	d.whole = true
	n, err = read(50)
	require.NoError(t, err)
	assert.Equal(t, 50, n)
}
