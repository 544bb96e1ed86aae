package font_test

import (
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/metadata"
)

// corpus lists the files of a folder that end in one of the endings, for
// measuring over far more fonts than are kept with the code.
func corpus(t testing.TB, folder string, endings ...string) []string {
	t.Helper()
	var paths []string
	require.NoError(t, filepath.WalkDir(folder, func(path string, d fs.DirEntry, err error) error {
		if err == nil && d.Type().IsRegular() && slices.Contains(endings, strings.ToLower(filepath.Ext(path))) {
			paths = append(paths, path)
		}
		return err
	}))
	return paths
}

// corpusFolder is the folder SPARECRATE_FONTS names; tests over it are skipped
// where there is none.
func corpusFolder(t testing.TB) string {
	t.Helper()
	folder := os.Getenv("SPARECRATE_FONTS")
	if folder == "" {
		t.Skip("SPARECRATE_FONTS names no folder")
	}
	return folder
}

// eachFile does something with every file on all cores.
func eachFile(t testing.TB, paths []string, do func(path string, b []byte)) {
	t.Helper()
	next := make(chan string)
	var workers sync.WaitGroup
	for range runtime.NumCPU() {
		workers.Go(func() {
			for path := range next {
				if b, err := os.ReadFile(path); assert.NoError(t, err) {
					do(path, b)
				}
			}
		})
	}
	for _, path := range paths {
		next <- path
	}
	close(next)
	workers.Wait()
}

// TestCorpusIsReadOrRefusedWithAReason reads every file, writes every face into
// the containers that take no time, and expects its tables back. It prints how
// many were read by package and container, and each reason for the rest.
func TestCorpusIsReadOrRefusedWithAReason(t *testing.T) {
	folder := corpusFolder(t)
	var mu sync.Mutex
	read, refused, packages := map[font.Container]int{}, map[string]int{}, map[string]int{}
	faces, problems := 0, map[string]int{}
	eachFile(t, corpus(t, folder, ".ttf", ".otf", ".ttc", ".woff", ".woff2", ".eot", ".otb", ".svg", ".pfb", ".t1", ".afm", ".fon"), func(path string, b []byte) {
		rel, err := filepath.Rel(folder, path)
		require.NoError(t, err)
		top, _, _ := strings.Cut(filepath.ToSlash(rel), "/")
		opened, err := font.Open(b)
		if err != nil {
			mu.Lock()
			defer mu.Unlock()
			refused[fmt.Sprintf("%s: %v", filepath.Ext(path), err)]++
			packages[top]++
			return
		}
		all := metadata.Of(opened)
		for i := range opened.Faces {
			for _, to := range []font.Container{font.TTF, font.OTF, font.WOFF, font.EOT} {
				made, err := opened.Make(i, to)
				if err != nil {
					continue
				}
				back, err := font.Open(made)
				if assert.NoError(t, err, path) {
					sameTables(t, opened.Faces[i], back.Faces[0], to)
				}
			}
		}
		mu.Lock()
		defer mu.Unlock()
		read[opened.Container]++
		packages[top]++
		faces += len(all)
		for _, f := range all {
			for _, p := range f.Problems {
				problems[p.Code]++
			}
		}
	})
	t.Logf("%d packages, %d faces; read: %v; problems: %v", len(packages), faces, read, problems)
	t.Logf("packages and files in them: %v", packages)
	for reason, n := range refused {
		t.Logf("refused %d: %s", n, reason)
	}
}

// TestCorpusWOFF2IsNoLargerThanTheMakers writes the tables of every WOFF2 file
// again and compares the sizes: the same font, the same version.
func TestCorpusWOFF2IsNoLargerThanTheMakers(t *testing.T) {
	folder := corpusFolder(t)
	var mu sync.Mutex
	theirs, ours, smaller, count := 0, 0, 0, 0
	eachFile(t, corpus(t, folder, ".woff2"), func(path string, b []byte) {
		opened, err := font.Open(b)
		if err != nil || opened.Collection {
			return
		}
		made, err := opened.Make(0, font.WOFF2)
		require.NoError(t, err)
		back, err := font.Open(made)
		require.NoError(t, err)
		sameTables(t, opened.Faces[0], back.Faces[0], font.WOFF2)
		mu.Lock()
		defer mu.Unlock()
		count++
		theirs += len(b)
		ours += len(made)
		if len(made) <= len(b) {
			smaller++
		} else {
			t.Logf("larger: %s, %d bytes for %d", path, len(made), len(b))
		}
	})
	t.Logf("%d files: %d bytes, theirs %d; no larger: %d", count, ours, theirs, smaller)
	assert.LessOrEqual(t, ours, theirs)
	assert.GreaterOrEqual(t, 10*smaller, 9*count)
}
