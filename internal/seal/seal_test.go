package seal_test

import (
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/seal"
)

// TestSecretsAreSealed seals a secret and opens it, with the right and the wrong key, for the
// right and the wrong purpose, whole and altered at each place.
func TestSecretsAreSealed(t *testing.T) {
	k := seal.New()
	sealed := k.Seal("JBSWY3DPEHPK3PXP", "totp 7")
	assert.NotContains(t, sealed, "JBSWY3DPEHPK3PXP")
	assert.NotEqual(t, sealed, k.Seal("JBSWY3DPEHPK3PXP", "totp 7"), "no two are alike")
	got, err := k.Open(sealed, "totp 7")
	require.NoError(t, err)
	assert.Equal(t, "JBSWY3DPEHPK3PXP", got)
	_, err = k.Open(sealed, "totp 8")
	require.ErrorIs(t, err, seal.ErrUnreadable)
	_, err = seal.New().Open(sealed, "totp 7")
	require.ErrorIs(t, err, seal.ErrUnreadable)
	for i := len("sealed:1:"); i < len(sealed); i++ {
		other := "A"
		if sealed[i] == 'A' {
			other = "Q"
		}
		altered := sealed[:i] + other + sealed[i+1:]
		if got, err := k.Open(altered, "totp 7"); err == nil {
			// The last digit of base64 holds bits that no byte has.
			assert.Equal(t, len(sealed)-1, i, "altered at %d and opened as %q", i, got)
		}
		_, err := k.Open(sealed[:i], "totp 7")
		require.ErrorIs(t, err, seal.ErrUnreadable, "cut at %d", i)
	}
	plain, err := k.Open("of an older version", "totp 7")
	require.NoError(t, err)
	assert.Equal(t, "of an older version", plain)
}

// TestKeyFile makes a key file by many at once, which all have the same key, and refuses files
// that hold something else.
func TestKeyFile(t *testing.T) {
	path := filepath.Join(t.TempDir(), "key")
	keys := make([]*seal.Key, 20)
	var all sync.WaitGroup
	for i := range keys {
		all.Go(func() { keys[i], _ = seal.Open(path) })
	}
	all.Wait()
	sealed := keys[0].Seal("a secret", "test")
	for _, k := range keys {
		got, err := k.Open(sealed, "test")
		require.NoError(t, err)
		assert.Equal(t, "a secret", got)
	}
	info, err := os.Stat(path)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	left, err := os.ReadDir(filepath.Dir(path))
	require.NoError(t, err)
	assert.Len(t, left, 1, "nothing half-done stays")
	for _, bad := range []string{"", "abc", strings.Repeat("0", 63), strings.Repeat("g", 64), strings.Repeat("0", 66)} {
		require.NoError(t, os.WriteFile(path, []byte(bad), 0o600))
		_, err := seal.Open(path)
		require.ErrorContains(t, err, "is not 64 hexadecimal digits", "%q", bad)
	}
	_, err = seal.Open(filepath.Join(path, "below-a-file"))
	require.Error(t, err)
}
