package bucket_test

import (
	"context"
	"io"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"testing/iotest"
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
			whole, err := b.Whole(ctx, s.Hash, 100)
			require.NoError(t, err)
			piece := make([]byte, 5)
			_, err = whole.ReadAt(piece, 5)
			require.NoError(t, err)
			assert.Equal(t, "bytes", string(piece))
			whole.Close()
			_, err = b.Read(ctx, s.Hash)
			require.NoError(t, err, "closing it takes nothing away")
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
	left, err := os.ReadDir(os.Getenv("TMPDIR"))
	require.NoError(t, err)
	assert.Empty(t, left)
	assert.Empty(t, gathered(t, folder))
}

// gathered lists the files that are being gathered in a bucket's folder.
func gathered(t *testing.T, folder string) []string {
	t.Helper()
	found, err := filepath.Glob(filepath.Join(folder, ".staging", "*", "sparecrate-*"))
	require.NoError(t, err)
	return found
}

// TestWhatACrashLeftIsCleared leaves a file behind while it is gathered, in a process
// that dies; what another process gathers stays.
func TestWhatACrashLeftIsCleared(t *testing.T) {
	if folder := os.Getenv("BUCKET_TEST_FOLDER"); folder != "" {
		b, err := bucket.Open(folder)
		require.NoError(t, err)
		_, err = b.Stage(strings.NewReader("half"), 100)
		require.NoError(t, err)
		return // and nothing closed
	}
	folder := t.TempDir()
	b, err := bucket.Open(folder)
	require.NoError(t, err)
	s, err := b.Stage(strings.NewReader("half"), 100)
	require.NoError(t, err)
	defer s.Close()
	child := exec.Command(os.Args[0], "-test.run=TestWhatACrashLeftIsCleared") //nolint:gosec // this very test
	child.Env = append(os.Environ(), "BUCKET_TEST_FOLDER="+folder)
	out, err := child.CombinedOutput()
	require.NoError(t, err, string(out))
	require.Len(t, gathered(t, folder), 2)
	_, err = bucket.Open(folder)
	require.NoError(t, err)
	assert.Len(t, gathered(t, folder), 1, "this process is still gathering the other")
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
		assert.True(t, e.IsDir() || e.Name() == "lock", "%s was left", path)
		return nil
	}))
}

// TestDamagedFileNeverLeaves damages files in several ways: no reader sees their end,
// and the same bytes put again heal them.
func TestDamagedFileNeverLeaves(t *testing.T) {
	ctx := t.Context()
	whole := strings.Repeat("as it was ", 10_000)
	for name, damage := range map[string]func(path string) error{
		"a byte is flipped":  func(path string) error { return os.WriteFile(path, []byte("A"+whole[1:]), 0o600) },
		"the end is lost":    func(path string) error { return os.Truncate(path, 50_000) },
		"something is added": func(path string) error { return os.WriteFile(path, []byte(whole+"!"), 0o600) },
		"it is empty":        func(path string) error { return os.Truncate(path, 0) },
		"it is lost":         os.Remove,
	} {
		t.Run(name, func(t *testing.T) {
			folder := t.TempDir()
			b, err := bucket.Open(folder)
			require.NoError(t, err)
			var told []bucket.Hash
			b.OnBroken = func(e *bucket.Broken) { told = append(told, e.Hash) }
			b.OnHealed = func(h bucket.Hash) { told = append(told, h) }
			h, err := b.PutBytes(ctx, []byte(whole))
			require.NoError(t, err)
			require.NoError(t, b.Check(ctx, h))
			require.NoError(t, damage(filepath.Join(folder, string(h[:2]), string(h))))

			var broken *bucket.Broken
			_, err = b.Read(ctx, h)
			require.ErrorAs(t, err, &broken)
			assert.Equal(t, h, broken.Hash)
			if r, size, err := b.Open(ctx, h); err == nil {
				got, err := io.ReadAll(iotest.OneByteReader(r))
				require.ErrorIs(t, err, bucket.ErrDamaged)
				assert.Less(t, int64(len(got)), max(size, 1), "the end of a damaged file is seen")
			}
			sound, err := b.Sound(ctx, h)
			require.NoError(t, err)
			assert.False(t, sound)
			assert.NotEmpty(t, told)

			again, err := b.PutBytes(ctx, []byte(whole))
			require.NoError(t, err)
			assert.Equal(t, h, again)
			require.NoError(t, b.Check(ctx, h), "it is healed")
		})
	}
}

// TestSweepRemovesWhatNobodyNames keeps what is named and what is new.
func TestSweepRemovesWhatNobodyNames(t *testing.T) {
	ctx := t.Context()
	b, err := bucket.Open(t.TempDir())
	require.NoError(t, err)
	var all []bucket.Hash
	for _, s := range []string{"named", "old", "new"} {
		h, err := b.PutBytes(ctx, []byte(s))
		require.NoError(t, err)
		all = append(all, h)
	}
	named := func(context.Context, []bucket.Hash) (map[bucket.Hash]bool, error) {
		return map[bucket.Hash]bool{all[0]: true}, nil
	}
	n, err := b.Sweep(ctx, time.Now().Add(-time.Hour), named)
	require.NoError(t, err)
	assert.Zero(t, n, "all are new")
	cut := time.Now().Add(time.Hour)
	n, err = b.Sweep(ctx, cut, named)
	require.NoError(t, err)
	assert.Equal(t, 2, n)
	require.NoError(t, b.Check(ctx, all[0]))
	require.ErrorIs(t, b.Check(ctx, all[1]), bucket.ErrMissing)
}

// TestReadinessOfAFolder takes the folder away.
func TestReadinessOfAFolder(t *testing.T) {
	folder := filepath.Join(t.TempDir(), "files")
	b, err := bucket.Open(folder)
	require.NoError(t, err)
	require.NoError(t, b.Ready())
	require.NoError(t, os.RemoveAll(folder))
	require.ErrorIs(t, b.Ready(), bucket.ErrUnavailable)
	_, err = b.PutBytes(t.Context(), []byte("x"))
	require.ErrorIs(t, err, bucket.ErrUnavailable)
}
