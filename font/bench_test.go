package font_test

import (
	"bytes"
	"crypto/sha256"
	"encoding/binary"
	"io"
	"os"
	"testing"
	"time"

	"github.com/andybalholm/brotli"
	"github.com/stretchr/testify/require"
	xsfnt "golang.org/x/image/font/sfnt"

	"sparecrate/font"
	"sparecrate/font/memorytest"
	"sparecrate/font/metadata"
	"sparecrate/font/sfnt"
)

// ratio times two ways of the same work in turn and reports how many times as
// long the first takes.
func ratio(b *testing.B, ours, theirs func()) {
	b.Helper()
	var a, c time.Duration
	for b.Loop() {
		start := time.Now()
		ours()
		middle := time.Now()
		theirs()
		a += middle.Sub(start)
		c += time.Since(middle)
	}
	b.ReportMetric(float64(a)/float64(c), "ratio")
}

// BenchmarkMetadata compares reading all metadata of real fonts with another library
// parsing the same bytes and reading eight names. To reach: 2. With
// SPARECRATE_FONTS it takes the TTF and OTF files of that folder.
func BenchmarkMetadata(b *testing.B) {
	files := plainFonts(b)
	ratio(b, func() {
		for _, f := range files {
			opened, err := font.Open(f)
			require.NoError(b, err)
			metadata.Of(opened)
		}
	}, func() {
		for _, f := range files {
			p, err := xsfnt.Parse(f)
			require.NoError(b, err)
			var buf xsfnt.Buffer
			for id := xsfnt.NameIDCopyright; id < 8; id++ {
				_, _ = p.Name(&buf, id)
			}
		}
	})
}

// BenchmarkChecksums compares checking the sums of all tables with hashing the
// same bytes, which import does anyway.
func BenchmarkChecksums(b *testing.B) {
	files := plainFonts(b)
	ratio(b, func() {
		for _, f := range files {
			opened, err := font.Open(f)
			require.NoError(b, err)
			sfnt.WrongChecksums(opened.Faces)
		}
	}, func() {
		for _, f := range files {
			sha256.Sum256(f)
		}
	})
}

// plainFonts are the bytes of real fonts both libraries read.
func plainFonts(b *testing.B) [][]byte {
	b.Helper()
	paths := realFonts(b)
	if folder := os.Getenv("SPARECRATE_FONTS"); folder != "" {
		paths = corpus(b, folder, ".ttf", ".otf")
	}
	var files [][]byte
	for _, path := range paths {
		data, err := os.ReadFile(path)
		require.NoError(b, err)
		_, err = xsfnt.Parse(data)
		if _, ours := font.Open(data); err == nil && ours == nil {
			files = append(files, data)
		}
	}
	b.ReportMetric(float64(len(files)), "files")
	return files
}

// aFont is a real font of middling size.
func aFont(b *testing.B) (*font.File, []byte) {
	b.Helper()
	data, err := os.ReadFile("/usr/share/fonts/truetype/liberation2/LiberationSans-Regular.ttf")
	require.NoError(b, err)
	opened, err := font.Open(data)
	require.NoError(b, err)
	made, err := font.Make(opened.Faces[0], font.WOFF2)
	require.NoError(b, err)
	return opened, made
}

// stream returns the Brotli stream of a WOFF2 file, and what it unpacks to. The
// stream lies behind the directory and before the padding.
func stream(b *testing.B, woff2 []byte) (packed, plain []byte) {
	b.Helper()
	size := int(binary.BigEndian.Uint32(woff2[20:]))
	end := len(woff2)
	for pad := range 4 {
		packed = woff2[end-pad-size : end-pad]
		plain, err := io.ReadAll(brotli.NewReader(bytes.NewReader(packed)))
		if err == nil {
			return packed, plain
		}
	}
	b.Fatal("no stream found")
	return nil, nil
}

// BenchmarkWOFF2Encode compares with Brotli alone on the same transformed bytes.
// To reach: 1.1.
func BenchmarkWOFF2Encode(b *testing.B) {
	opened, made := aFont(b)
	_, plain := stream(b, made)
	ratio(b, func() {
		_, err := font.Make(opened.Faces[0], font.WOFF2)
		require.NoError(b, err)
	}, func() {
		w := brotli.NewWriterLevel(io.Discard, brotli.BestCompression)
		_, _ = w.Write(plain)
		_ = w.Close()
	})
}

// BenchmarkWOFF2Decode compares with Brotli's decode alone. To reach: 1.5.
func BenchmarkWOFF2Decode(b *testing.B) {
	_, made := aFont(b)
	packed, _ := stream(b, made)
	ratio(b, func() {
		_, err := font.Open(made)
		require.NoError(b, err)
	}, func() {
		_, err := io.ReadAll(brotli.NewReader(bytes.NewReader(packed)))
		require.NoError(b, err)
	})
}

// BenchmarkWOFF2Memory reports the most memory that writing and reading a WOFF2
// file takes at a time, in times the font: ours with Brotli's own, and Brotli's
// alone. To reach: 6, where the font is large enough that Brotli's fixed tables
// do not count. With SPARECRATE_FONT it takes that file.
func BenchmarkWOFF2Memory(b *testing.B) {
	path := os.Getenv("SPARECRATE_FONT")
	if path == "" {
		path = "/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf"
	}
	data, err := os.ReadFile(path)
	require.NoError(b, err)
	opened, err := font.Open(data)
	require.NoError(b, err)
	size := 0
	for _, t := range opened.Faces[0].Tables {
		size += len(t.Data)
	}
	made, err := font.Make(opened.Faces[0], font.WOFF2)
	require.NoError(b, err)
	_, plain := stream(b, made)
	for b.Loop() {
		b.ReportMetric(float64(memorytest.Heap(func() { _, err = font.Make(opened.Faces[0], font.WOFF2) }))/float64(size), "write/font")
		b.ReportMetric(float64(memorytest.Heap(func() {
			w := brotli.NewWriterLevel(io.Discard, brotli.BestCompression)
			_, _ = w.Write(plain)
			_ = w.Close()
		}))/float64(size), "brotli/font")
		b.ReportMetric(float64(memorytest.Heap(func() { _, err = font.Open(made) }))/float64(size), "read/font")
		require.NoError(b, err)
	}
}
