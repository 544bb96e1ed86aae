package font_test

import (
	"io/fs"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
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
