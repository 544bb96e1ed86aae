package pack_test

import (
	"bytes"
	"crypto/sha256"
	"fmt"
	"io"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/internal/pack"
)

// BenchmarkPack compares laying out and zipping a pack whose fonts are made
// with hashing and copying the same bytes, which any pack with a manifest must.
func BenchmarkPack(b *testing.B) {
	in := input(b, "self-hosted")
	noise := rand.NewChaCha8([32]byte{})
	for len(in.Families[0].Faces) < 18 {
		f := in.Families[0].Faces[0]
		f.Style = fmt.Sprintf("Style %d", len(in.Families[0].Faces))
		f.Files = map[font.Container][]byte{font.WOFF2: make([]byte, 60_000), font.WOFF: make([]byte, 80_000)}
		for _, data := range f.Files {
			_, _ = noise.Read(data)
		}
		in.Families[0].Faces = append(in.Families[0].Faces, f)
	}
	entries, err := pack.Assemble(in)
	require.NoError(b, err)
	var ours, copying time.Duration
	for b.Loop() {
		start := time.Now()
		entries, err := pack.Assemble(in)
		require.NoError(b, err)
		require.NoError(b, pack.Zip(io.Discard, entries))
		ours += time.Since(start)
	}
	for range b.N {
		start := time.Now()
		var out bytes.Buffer
		for _, e := range entries {
			sum := sha256.Sum256(e.Data)
			out.Write(e.Data)
			out.Write(sum[:])
		}
		copying += time.Since(start)
	}
	b.ReportMetric(float64(ours)/float64(copying), "ratio")
}
