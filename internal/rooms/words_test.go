package rooms_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// oldWords are phrases that people had to decipher, which plain words have replaced.
var oldWords = regexp.MustCompile(`(?i)\b(intakes?|turned? down|barred|landed|stand-ins?|by now|taken in|take in|on the shelf|speaks? of|mended|what hangs on|` +
	`set in what|go up|goes up|went up|brought back|bring back|bring-back|bring-in|in-house|awaited|retyped|the maker|maker's|a query|look closer|` +
	`what becomes of|left at home|papers?|sent of them|withdraws?|withdrawn|deliveries|what lacks)\b`)

// TestOldWordsAreGone reads what people read - the console, the command line, the contract and
// the guides - for phrases that were replaced.
func TestOldWordsAreGone(t *testing.T) {
	read := 0
	check := func(where, text string) {
		read++
		if found := oldWords.FindString(text); found != "" {
			assert.Fail(t, "an old word", "%q in %s: %s", found, where, strings.TrimSpace(text))
		}
	}
	lines := func(path string) {
		b, err := os.ReadFile(path)
		require.NoError(t, err)
		for i, line := range strings.Split(string(b), "\n") {
			check(path+":"+strconv.Itoa(i+1), line)
		}
	}
	for _, path := range []string{"README.md", "docs/GUIDE.md", "docs/OPERATIONS.md", "docs/SECURITY.md", "docs/INSPECTION.md", "api/openapi.yaml"} {
		lines(filepath.Join("..", "..", path))
	}
	walk := func(root, ending string, do func(path string)) {
		require.NoError(t, filepath.WalkDir(filepath.Join("..", "..", root), func(path string, _ fs.DirEntry, err error) error {
			if err == nil && strings.HasSuffix(path, ending) && !strings.HasSuffix(path, "_test.go") {
				do(path)
			}
			return err
		}))
	}
	walk("console/src", ".vue", func(path string) {
		b, err := os.ReadFile(path)
		require.NoError(t, err)
		_, template, _ := strings.Cut(string(b), "\n<template>")
		check(path, template)
	})
	walk("internal/cli", ".go", func(path string) {
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
		require.NoError(t, err)
		ast.Inspect(file, func(n ast.Node) bool {
			if s, ok := n.(*ast.BasicLit); ok && s.Kind == token.STRING && strings.Contains(s.Value, " ") {
				check(path, s.Value)
			}
			return true
		})
	})
	assert.Greater(t, read, 3000)
}
