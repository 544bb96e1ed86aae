package bucket_test

import (
	"bytes"
	"context"
	"crypto/rand"
	"fmt"
	"io"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"testing/iotest"
	"time"

	"github.com/aws/aws-sdk-go-v2/service/s3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/bucket"
	"sparecrate/internal/bucket/buckettest"
)

// onEachKind runs a test on a folder, on memory, and on a server that speaks S3, where its program is
// built (make s3).
func onEachKind(t *testing.T, test func(t *testing.T, b *bucket.Bucket)) {
	t.Helper()
	kinds := map[string]func(t *testing.T) (*bucket.Bucket, error){
		"folder": func(t *testing.T) (*bucket.Bucket, error) {
			return bucket.OpenURL(t.Context(), filepath.Join(t.TempDir(), "made", "on", "the", "way"), "")
		},
		"memory": func(*testing.T) (*bucket.Bucket, error) { return bucket.InMemory(), nil },
	}
	if buckettest.Program() != "" {
		kinds["s3"] = func(t *testing.T) (*bucket.Bucket, error) {
			return bucket.OpenURL(t.Context(), buckettest.Start(t).URL(), t.TempDir())
		}
	}
	for name, open := range kinds {
		t.Run(name, func(t *testing.T) {
			b, err := open(t)
			require.NoError(t, err)
			defer func() { _ = b.Close() }()
			test(t, b)
		})
	}
}

// TestEveryKind puts files, reads them in every way, and finds what is not there missing.
func TestEveryKind(t *testing.T) {
	onEachKind(t, func(t *testing.T, b *bucket.Bucket) {
		ctx := t.Context()
		require.NoError(t, b.Ready())
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
		large := bytes.Repeat([]byte("many bytes, in several parts. "), 400_000) // 12 MB
		hash, err = b.PutBytes(ctx, large)
		require.NoError(t, err)
		got, err = b.Read(ctx, hash)
		require.NoError(t, err)
		assert.True(t, bytes.Equal(large, got))
		empty, err := b.PutBytes(ctx, nil)
		require.NoError(t, err)
		got, err = b.Read(ctx, empty)
		require.NoError(t, err)
		assert.Empty(t, got)
		require.NoError(t, b.Drop(ctx, hash))
		require.NoError(t, b.Drop(ctx, hash), "twice is once")
		require.ErrorIs(t, b.Check(ctx, hash), bucket.ErrMissing)
		for _, bad := range []bucket.Hash{"", "abc", bucket.Hash(strings.Repeat("../", 21) + "x")} {
			require.ErrorIs(t, b.Check(ctx, bad), bucket.ErrMissing, bad)
		}
	})
}

// TestManyPutTheSame puts the same and other files from many sides at once.
func TestManyPutTheSame(t *testing.T) {
	onEachKind(t, func(t *testing.T, b *bucket.Bucket) {
		var all sync.WaitGroup
		for i := range 12 {
			all.Go(func() {
				data := []byte(fmt.Sprint("file ", i%3))
				h, err := b.PutBytes(t.Context(), data)
				if assert.NoError(t, err) {
					got, err := b.Read(t.Context(), h)
					assert.NoError(t, err)
					assert.Equal(t, data, got)
				}
			})
		}
		all.Wait()
	})
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
	whole := strings.Repeat("as it was ", 10_000)
	onEachKind(t, func(t *testing.T, b *bucket.Bucket) {
		for name, damaged := range map[string][]byte{
			"a byte is flipped":  []byte("A" + whole[1:]),
			"the end is lost":    []byte(whole[:50_000]),
			"something is added": []byte(whole + "!"),
			"it is empty":        {},
			"it is lost":         nil,
		} {
			ctx := t.Context()
			var told []bucket.Hash
			b.OnBroken = func(e *bucket.Broken) { told = append(told, e.Hash) }
			b.OnHealed = func(h bucket.Hash) { told = append(told, h) }
			h, err := b.PutBytes(ctx, []byte(whole))
			require.NoError(t, err, name)
			require.NoError(t, b.Check(ctx, h), name)
			require.NoError(t, b.Alter(ctx, h, damaged), name)

			var broken *bucket.Broken
			_, err = b.Read(ctx, h)
			require.ErrorAs(t, err, &broken, name)
			assert.Equal(t, h, broken.Hash, name)
			if r, size, err := b.Open(ctx, h); err == nil {
				got, err := io.ReadAll(iotest.OneByteReader(r))
				require.ErrorIs(t, err, bucket.ErrDamaged, name)
				assert.Less(t, int64(len(got)), max(size, 1), "%s: the end of a damaged file is seen", name)
				require.NoError(t, r.Close(), name)
			}
			sound, err := b.Sound(ctx, h)
			require.NoError(t, err, name)
			assert.False(t, sound, name)
			assert.NotEmpty(t, told, name)

			again, err := b.PutBytes(ctx, []byte(whole))
			require.NoError(t, err, name)
			assert.Equal(t, h, again, name)
			require.NoError(t, b.Check(ctx, h), "%s: it is healed", name)
		}
	})
}

// TestSweepRemovesWhatNobodyNames keeps what is named and what is new.
func TestSweepRemovesWhatNobodyNames(t *testing.T) {
	onEachKind(t, func(t *testing.T, b *bucket.Bucket) {
		ctx := t.Context()
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
		time.Sleep(1100 * time.Millisecond) // a server knows times by the second
		cut := time.Now()
		time.Sleep(1100 * time.Millisecond)
		_, err = b.PutBytes(ctx, []byte("new"))
		require.NoError(t, err, "it counts as new again")
		n, err = b.Sweep(ctx, cut, named)
		require.NoError(t, err)
		assert.Equal(t, 1, n)
		require.NoError(t, b.Check(ctx, all[0]))
		require.ErrorIs(t, b.Check(ctx, all[1]), bucket.ErrMissing)
		require.NoError(t, b.Check(ctx, all[2]))
	})
}

// TestAServerGoesAway kills the server while a file is on its way, and starts it again: nothing of
// the file is there, until it is put again. What lies around of uploads that were given up is
// removed.
func TestAServerGoesAway(t *testing.T) {
	if buckettest.Program() == "" {
		t.Skip("no server is built; run make s3")
	}
	ctx := t.Context()
	g := buckettest.Start(t)
	b, err := bucket.OpenURL(ctx, g.URL(), t.TempDir())
	require.NoError(t, err)
	defer func() { _ = b.Close() }()
	s, err := b.Stage(io.LimitReader(rand.Reader, 40<<20), 64<<20)
	require.NoError(t, err)
	defer s.Close()
	killed := make(chan struct{})
	go func() {
		time.Sleep(60 * time.Millisecond)
		g.Kill()
		close(killed)
	}()
	bounded, cancel := context.WithTimeout(ctx, 5*time.Second)
	err = b.Put(bounded, s)
	cancel()
	<-killed
	require.ErrorIs(t, err, bucket.ErrUnavailable)
	assert.NotContains(t, err.Error(), "a key for tests only")
	require.ErrorIs(t, b.Ready(), bucket.ErrUnavailable)
	g.Run(t)
	require.Eventually(t, func() bool { return b.Ready() == nil }, 10*time.Second, 50*time.Millisecond)
	require.ErrorIs(t, b.Check(ctx, s.Hash), bucket.ErrMissing)
	keys, err := g.Keys(ctx)
	require.NoError(t, err)
	assert.Equal(t, []string{"ready"}, keys)
	require.NoError(t, b.Put(ctx, s))
	require.NoError(t, b.Check(ctx, s.Hash))

	parts := func() int {
		list, err := g.Client.ListMultipartUploads(ctx, &s3.ListMultipartUploadsInput{Bucket: &g.Name})
		require.NoError(t, err)
		return len(list.Uploads)
	}
	begun := parts()
	ourKey := "ab/" + strings.Repeat("ab", 32)
	for _, k := range []string{ourKey, "of another program"} {
		_, err = g.Client.CreateMultipartUpload(ctx, &s3.CreateMultipartUploadInput{Bucket: &g.Name, Key: &k})
		require.NoError(t, err)
	}
	require.NoError(t, b.DropParts(ctx, time.Now().Add(-time.Hour)))
	assert.Equal(t, begun+2, parts(), "those of today stay")
	require.NoError(t, b.DropParts(ctx, time.Now().Add(time.Hour)))
	assert.Equal(t, 1, parts(), "what is not ours stays")
}

// TestAddressesOfBuckets reads addresses that are none, and buckets that are not there or not ours.
func TestAddressesOfBuckets(t *testing.T) {
	t.Setenv("AWS_EC2_METADATA_DISABLED", "true")
	for _, bad := range []string{"http://fonts", "s3://", "s3://fonts/below", "s3://user:secret@fonts", "mem://", "s3://fonts?colour=red"} {
		_, err := bucket.OpenURL(t.Context(), bad, t.TempDir())
		require.Error(t, err, bad)
	}
	if buckettest.Program() == "" {
		return
	}
	g := buckettest.Start(t)
	elsewhere, err := bucket.OpenURL(t.Context(), strings.Replace(g.URL(), "fonts", "elsewhere", 1), t.TempDir())
	require.NoError(t, err)
	require.ErrorContains(t, elsewhere.Ready(), "there is no such bucket")
	t.Setenv("AWS_SECRET_ACCESS_KEY", "wrong")
	locked, err := bucket.OpenURL(t.Context(), g.URL(), t.TempDir())
	require.NoError(t, err)
	require.ErrorContains(t, locked.Ready(), "it refuses our keys")
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
