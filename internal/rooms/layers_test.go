package rooms_test

import (
	"go/parser"
	"go/token"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// layers are the packages of the service from the lowest up. A package may import those
// of layers below its own.
var layers = [][]string{
	{"bucket", "store", "fetch", "mail", "password"},
	{"work"},
	{"app"},
	{"auth", "usage"},
	{"conversion", "licensing"},
	{"library", "packaging"},
	{"finding", "imports"},
	{"shortlists"},
	{"sites", "reports"},
	{"rooms"},
	{"server", "demo"},
	{"service"},
	{"cli"},
}

// TestArrowsRunDown reads what each package imports.
func TestArrowsRunDown(t *testing.T) {
	layer := map[string]int{}
	for i, packages := range layers {
		for _, name := range packages {
			layer[name] = i
		}
	}
	for name, at := range layer {
		files, err := filepath.Glob("../" + name + "/*.go")
		require.NoError(t, err)
		files = slices.DeleteFunc(files, func(f string) bool { return strings.HasSuffix(f, "_test.go") })
		require.NotEmpty(t, files, name)
		for _, file := range files {
			f, err := parser.ParseFile(token.NewFileSet(), file, nil, parser.ImportsOnly)
			require.NoError(t, err)
			for _, i := range f.Imports {
				path, err := strconv.Unquote(i.Path.Value)
				require.NoError(t, err)
				below, ours := strings.CutPrefix(path, "sparecrate/internal/")
				if to, is := layer[below]; ours && is {
					assert.Less(t, to, at, "%s imports %s", file, below)
				}
			}
		}
	}
}

// TestTheCoreKnowsNoService reads what the packages that only compute import.
func TestTheCoreKnowsNoService(t *testing.T) {
	files, err := filepath.Glob("../../font/*/*.go")
	require.NoError(t, err)
	for _, pure := range []string{"../../font/*.go", "../license/*.go", "../css/*.go", "../pack/*.go", "../builder/*.go", "../delivery/*.go", "../password/*.go"} {
		more, err := filepath.Glob(pure)
		require.NoError(t, err)
		require.NotEmpty(t, more, pure)
		files = append(files, more...)
	}
	for _, file := range files {
		if strings.HasSuffix(file, "_test.go") {
			continue
		}
		f, err := parser.ParseFile(token.NewFileSet(), file, nil, parser.ImportsOnly)
		require.NoError(t, err)
		for _, i := range f.Imports {
			for _, not := range slices.Concat(layers[1:]...) {
				assert.NotEqual(t, strconv.Quote("sparecrate/internal/"+not), i.Path.Value, file)
			}
			for _, not := range []string{"sparecrate/internal/store", "sparecrate/internal/bucket", "sparecrate/api", "net/http", "gorm.io/gorm"} {
				assert.NotEqual(t, strconv.Quote(not), i.Path.Value, file)
			}
		}
	}
}
