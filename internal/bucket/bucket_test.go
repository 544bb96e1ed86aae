package bucket_test

import (
	"context"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/bucket"
)

// TestEveryKind runs the same checks on a folder and on memory.
func TestEveryKind(t *testing.T) {
	folder, err := bucket.Open(filepath.Join(t.TempDir(), "made", "on", "the", "way"))
	require.NoError(t, err)
	for name, b := range map[string]*bucket.Bucket{"folder": folder, "memory": bucket.InMemory()} {
		t.Run(name, func(t *testing.T) {
			ctx := context.Background()
			s, err := b.Stage(strings.NewReader("some bytes"), 100)
			require.NoError(t, err)
			defer s.Close()
			assert.Len(t, string(s.Hash), 64)
			assert.EqualValues(t, 10, s.Size)
			_, err = b.Read(ctx, s.Hash)
			require.ErrorIs(t, err, bucket.ErrMissing)
			require.NoError(t, b.Put(ctx, s))
			require.NoError(t, b.Put(ctx, s), "twice is once")
			got, err := b.Read(ctx, s.Hash)
			require.NoError(t, err)
			assert.Equal(t, "some bytes", string(got))
			r, size, err := b.Open(ctx, s.Hash)
			require.NoError(t, err)
			assert.EqualValues(t, 10, size)
			streamed, err := io.ReadAll(r)
			require.NoError(t, err)
			require.NoError(t, r.Close())
			assert.Equal(t, got, streamed)
			hash, err := b.PutBytes(ctx, []byte("some bytes"))
			require.NoError(t, err)
			assert.Equal(t, s.Hash, hash)
			require.NoError(t, b.Close())
		})
	}
}

func TestStageRefusesTooMuchAndLeavesNothing(t *testing.T) {
	t.Setenv("TMPDIR", t.TempDir())
	folder := t.TempDir()
	b, err := bucket.Open(folder)
	require.NoError(t, err)
	for _, b := range []*bucket.Bucket{b, bucket.InMemory()} {
		_, err := b.Stage(strings.NewReader(strings.Repeat("x", 101)), 100)
		require.ErrorIs(t, err, bucket.ErrTooLarge)
	}
	for _, where := range []string{os.Getenv("TMPDIR"), filepath.Join(folder, ".staging")} {
		left, err := os.ReadDir(where)
		require.NoError(t, err)
		assert.Empty(t, left)
	}
}

// TestWhatACrashLeftIsCleared leaves a file behind while it is gathered.
func TestWhatACrashLeftIsCleared(t *testing.T) {
	folder := t.TempDir()
	b, err := bucket.Open(folder)
	require.NoError(t, err)
	for range 2 {
		_, err = b.Stage(strings.NewReader("half"), 100)
		require.NoError(t, err)
	}
	staging := filepath.Join(folder, ".staging")
	left, err := os.ReadDir(staging)
	require.NoError(t, err)
	require.Len(t, left, 2)
	old := time.Now().Add(-25 * time.Hour)
	require.NoError(t, os.Chtimes(filepath.Join(staging, left[0].Name()), old, old))
	_, err = bucket.Open(folder)
	require.NoError(t, err)
	left, err = os.ReadDir(staging)
	require.NoError(t, err)
	assert.Len(t, left, 1, "another process may be gathering the other")
}

// TestInterruptedWriteLeavesNothing breaks off a write half-way.
func TestInterruptedWriteLeavesNothing(t *testing.T) {
	folder := t.TempDir()
	b, err := bucket.Open(folder)
	require.NoError(t, err)
	s, err := b.Stage(strings.NewReader("whole"), 100)
	require.NoError(t, err)
	s.Close() // the staged bytes are gone before they are put
	require.Error(t, b.Put(context.Background(), s))
	require.NoError(t, filepath.WalkDir(folder, func(path string, e fs.DirEntry, err error) error {
		require.NoError(t, err)
		assert.True(t, e.IsDir(), "%s was left", path)
		return nil
	}))
}

func TestDamagedFileIsNoticed(t *testing.T) {
	folder := t.TempDir()
	b, err := bucket.Open(folder)
	require.NoError(t, err)
	h, err := b.PutBytes(context.Background(), []byte("as it was"))
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(folder, string(h[:2]), string(h)), []byte("as it is"), 0o600))
	_, err = b.Read(context.Background(), h)
	require.ErrorContains(t, err, "damaged")
}
