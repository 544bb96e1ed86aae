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

// BenchmarkPack compares laying out and zipping a pack of 12 faces whose fonts
// are made with copying the same bytes, hashed on the way.
func BenchmarkPack(b *testing.B) {
	in := input(b, "self-hosted")
	noise := rand.NewChaCha8([32]byte{})
	face := in.Families[0].Faces[0]
	in.Families[0].Faces = nil
	for i := range 12 {
		face.Style = fmt.Sprintf("Style %d", i)
		face.Files = nil
		for format, n := range map[font.Container]int{font.WOFF2: 60_000, font.WOFF: 80_000} {
			data := make([]byte, n)
			_, _ = noise.Read(data)
			face.Files = append(face.Files, pack.File{Format: format, Blob: pack.BlobOf(data)})
		}
		in.Families[0].Faces = append(in.Families[0].Faces, face)
	}
	var ours, copying time.Duration
	for b.Loop() {
		start := time.Now()
		packed, err := pack.Assemble(in)
		require.NoError(b, err)
		require.NoError(b, pack.Zip(io.Discard, packed.Entries))
		ours += time.Since(start)
	}
	packed, err := pack.Assemble(in)
	require.NoError(b, err)
	for range b.N {
		start := time.Now()
		var out bytes.Buffer
		for _, e := range packed.Entries {
			data := read(b, e.Blob)
			sum := sha256.Sum256(data)
			out.Write(data)
			out.Write(sum[:])
		}
		copying += time.Since(start)
	}
	b.ReportMetric(float64(ours)/float64(copying), "ratio")
}
