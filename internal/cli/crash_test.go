package cli_test

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/internal/demo/foundry"
)

// variants draws a font and gives so many files of it that differ in their bytes
// only.
func variants(t *testing.T, n int) [][]byte {
	b, err := foundry.Build(foundry.Signage()[1], font.TTF)
	require.NoError(t, err)
	out := make([][]byte, n)
	for i := range out {
		out[i] = append(bytes.Clone(b), byte(i), 0, 0, 0)
	}
	return out
}

// blobs lists the files of a bucket, those of the database left out.
func blobs(folder string) (paths []string) {
	_ = filepath.WalkDir(folder, func(path string, d fs.DirEntry, err error) error {
		if err == nil && d.Type().IsRegular() && len(d.Name()) == 64 {
			paths = append(paths, path)
		}
		return nil //nolint:nilerr // files come and go
	})
	return paths
}

// TestAnImportGoesOnAfterACrash kills the service, then the database with it, in
// the middle of a import of loose files and a zip. Gone on with, everything is
// there once, and every blob is what its name says.
func TestAnImportGoesOnAfterACrash(t *testing.T) {
	const loose, packed = 24, 24
	s := newShell(t)
	lines, process := s.serve("serve", "--studio", "Lanternjaw Studio", "--admin-email", "ines@lanternjaw.example")
	once := s.write("once", []byte(regexp.MustCompile(`one-time password (\S+) and`).FindStringSubmatch(lines[0])[1]+"\n"))
	address := regexp.MustCompile(`http://\S+`)
	s.ok("sign-in", "--email", "ines@lanternjaw.example", "--password-file", once, "--new-password-file", s.write("own", []byte("harbour lights at dusk")), address.FindString(lines[1]))
	token := strings.SplitN(s.ok("tokens", "add", "crash"), "\n", 2)[0]
	token = regexp.MustCompile(`sc_\S+`).FindString(token)
	require.NotEmpty(t, token)
	env := s.env
	point := func(lines []string) {
		s.env = append(append([]string{}, env...), "SPARECRATE_ADDRESS="+address.FindString(strings.Join(lines, " ")), "SPARECRATE_TOKEN="+token)
	}
	point(lines[1:])

	folder := filepath.Join(s.folder, "fonts")
	require.NoError(t, os.Mkdir(folder, 0o700))
	var shop bytes.Buffer
	z := zip.NewWriter(&shop)
	for i, b := range variants(t, loose+packed) {
		name := fmt.Sprintf("skerrow-%03d.ttf", i)
		if i < loose {
			require.NoError(t, os.WriteFile(filepath.Join(folder, name), b, 0o600))
			continue
		}
		w, err := z.Create("in/" + name)
		require.NoError(t, err)
		_, err = w.Write(b)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	bundle := s.write("shop.zip", shop.Bytes())

	// until sends the import and strikes when so many blobs are there.
	until := func(count int, strike func(), args ...string) {
		c := s.command(append([]string{"add", "--yes"}, args...)...)
		require.NoError(t, c.Start())
		require.Eventually(t, func() bool { return len(blobs(s.folder+"/data")) >= count }, time.Minute, 2*time.Millisecond)
		strike()
		assert.Error(t, c.Wait(), "it was in the middle of it")
	}
	until(loose/3, func() {
		require.NoError(t, process.Process.Kill())
		_ = process.Wait()
	}, folder, bundle)
	lines, process = s.serve("serve")
	point(lines)
	until(loose+packed/3, func() {
		pids, err := filepath.Glob(s.folder + "/data/*/server.pid")
		require.NoError(t, err)
		more, _ := filepath.Glob(s.folder + "/data/*/*/server.pid")
		pids = append(pids, more...)
		require.Len(t, pids, 1)
		text, err := os.ReadFile(pids[0])
		require.NoError(t, err)
		pid, err := strconv.Atoi(strings.TrimSpace(string(text)))
		require.NoError(t, err)
		require.NoError(t, syscall.Kill(pid, syscall.SIGKILL))
		require.NoError(t, process.Process.Kill())
		_ = process.Wait()
	}, "--into", "1", folder, bundle)
	lines, _ = s.serve("serve")
	point(lines)
	s.ok("add", "--yes", "--into", "1", folder, bundle)

	var d struct {
		State string
		Items []struct {
			Path, Kind string
			Taken      bool
		}
	}
	s.json(&d, 2, "imports", "show", "1")
	seen := map[string]int{}
	for _, it := range d.Items {
		seen[it.Path]++
		assert.Equal(t, it.Kind == "font", it.Taken, it.Path)
	}
	assert.Len(t, seen, loose+packed+1, "and the zip")
	assert.Equal(t, "finished", d.State)
	var family struct {
		Faces []struct {
			Files []struct{ Name string }
		}
	}
	s.json(&family, 1, "family", "Skerrow Sans")
	require.Len(t, family.Faces, 1)
	names := map[string]int{}
	for _, f := range family.Faces[0].Files {
		names[f.Name]++
	}
	assert.Len(t, names, loose+packed)
	for name, n := range names {
		assert.Equal(t, 1, n, name)
	}
	for _, path := range blobs(s.folder + "/data") {
		b, err := os.ReadFile(path) //nolint:gosec // found a moment ago
		require.NoError(t, err)
		sum := sha256.Sum256(b)
		assert.Equal(t, filepath.Base(path), hex.EncodeToString(sum[:]))
	}
}
