package rooms_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
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
	{"store/nodes", "seal", "traces", "machine"},
	{"bucket", "store/scope", "store/schema", "fetch", "mail", "password", "inspect/origin"},
	{"store"},
	{"inspect"},
	{"inspect/browse", "inspect/export", "inspect/recognize", "inspect/survey"},
	{"store/accountdb", "store/importdb", "store/facedb", "store/familydb", "store/finddb", "store/inspectiondb", "store/jobdb", "store/licensedb", "store/packdb", "store/reportdb", "store/shortlistdb", "store/sitedb", "store/studiodb", "store/usagedb", "store/auditdb", "store/sessiondb", "store/factordb", "store/backupdb"},
	{"store/librarydb", "store/ownerdb", "store/dumpdb", "store/verifydb", "store/exportdb"},
	{"work", "backup", "export"},
	{"app"},
	{"auth", "usage", "audit"},
	{"verify", "doctor", "backups"},
	{"factors", "signon", "fingerprint", "conversion", "licensing", "measures"},
	{"library", "packaging", "handover", "studio"},
	{"catalogsearch", "imports"},
	{"shortlists"},
	{"sites", "reports"},
	{"inspections"},
	{"rooms"},
	{"server/edge"},
	{"server/streams"},
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
			for _, path := range importsOf(t, file) {
				below, ours := strings.CutPrefix(path, "sparecrate/internal/")
				if to, is := layer[below]; ours && is {
					assert.Less(t, to, at, "%s imports %s", file, below)
				}
			}
		}
	}
}

// statements are the records that each package reads and writes.
var statements = map[string][]string{
	"audit":         {"auditdb"},
	"backups":       {"backupdb"},
	"auth":          {"accountdb", "factordb", "sessiondb"},
	"factors":       {"factordb"},
	"fingerprint":   {"packdb"},
	"conversion":    {"familydb", "jobdb"},
	"backup":        {"dumpdb"},
	"doctor":        {"verifydb"},
	"export":        {"exportdb"},
	"verify":        {"dumpdb", "familydb", "verifydb"},
	"catalogsearch": {"familydb", "finddb", "librarydb", "shortlistdb"},
	"handover":      {"familydb", "librarydb", "licensedb", "packdb", "sitedb", "usagedb"},
	"imports":       {"facedb", "familydb", "importdb", "librarydb", "licensedb"},
	"inspections":   {"familydb", "inspectiondb", "jobdb", "packdb", "sitedb"},
	"library":       {"accountdb", "facedb", "familydb", "importdb", "jobdb", "librarydb", "licensedb", "packdb", "usagedb"},
	"licensing":     {"familydb", "licensedb", "packdb", "sitedb", "usagedb"},
	"measures":      {"librarydb"},
	"packaging":     {"familydb", "licensedb", "packdb", "sitedb"},
	"reports":       {"accountdb", "backupdb", "importdb", "inspectiondb", "reportdb"},
	"server/edge":   {"ownerdb", "sessiondb"},
	"shortlists":    {"familydb", "finddb", "shortlistdb"},
	"sites":         {"familydb", "packdb", "sitedb"},
	"usage":         {"familydb", "librarydb", "licensedb", "packdb", "sitedb", "usagedb"},
	"rooms":         {"ownerdb", "verifydb"},
	"studio":        {"backupdb", "studiodb"},
	"signon":        {"accountdb", "sessiondb"}, // whose a session is that the provider ends
	"work":          {"jobdb"},
}

// TestWhoReadsWhichRecords holds each package to the statements that it is said to run.
func TestWhoReadsWhichRecords(t *testing.T) {
	found := map[string][]string{}
	files, err := filepath.Glob("../*/*.go")
	require.NoError(t, err)
	below, err := filepath.Glob("../*/*/*.go")
	require.NoError(t, err)
	files = slices.DeleteFunc(append(files, below...), func(f string) bool { return strings.HasPrefix(f, "../store/") })
	for _, file := range files {
		if strings.HasSuffix(file, "_test.go") {
			continue
		}
		name := strings.TrimPrefix(filepath.Dir(file), "../")
		for _, path := range importsOf(t, file) {
			if subject, is := strings.CutPrefix(path, "sparecrate/internal/store/"); is && subject != "scope" && subject != "schema" && !slices.Contains(found[name], subject) {
				found[name] = append(found[name], subject)
			}
		}
		slices.Sort(found[name])
	}
	for name, subjects := range statements {
		assert.Equal(t, subjects, found[name], name)
	}
	for name, subjects := range found {
		if len(subjects) > 0 {
			assert.Contains(t, statements, name)
		}
	}
}

// importsOf returns the paths that a file imports.
func importsOf(t *testing.T, file string) []string {
	t.Helper()
	f, err := parser.ParseFile(token.NewFileSet(), file, nil, parser.ImportsOnly)
	require.NoError(t, err)
	var out []string
	for _, i := range f.Imports {
		path, err := strconv.Unquote(i.Path.Value)
		require.NoError(t, err)
		out = append(out, path)
	}
	return out
}

// TestTheCoreKnowsNoService reads what the packages that only compute import.
func TestTheCoreKnowsNoService(t *testing.T) {
	files, err := filepath.Glob("../../font/*/*.go")
	require.NoError(t, err)
	for _, pure := range []string{"../../font/*.go", "../license/*.go", "../stated/*.go", "../css/*.go", "../pack/*.go", "../builder/*.go", "../classify/*.go", "../versions/*.go", "../password/*.go"} {
		more, err := filepath.Glob(pure)
		require.NoError(t, err)
		require.NotEmpty(t, more, pure)
		files = append(files, more...)
	}
	for _, file := range files {
		if strings.HasSuffix(file, "_test.go") {
			continue
		}
		for _, path := range importsOf(t, file) {
			for _, not := range slices.Concat(layers[1:]...) {
				assert.NotEqual(t, "sparecrate/internal/"+not, path, file)
			}
			for _, not := range []string{"sparecrate/internal/store", "sparecrate/internal/bucket", "sparecrate/api", "net/http", "gorm.io/gorm"} {
				assert.NotEqual(t, not, path, file)
			}
		}
	}
}

// TestRoomsCanBeOverlooked holds packages to 2,500 lines and types to 30
// methods, but for what is made from the contract.
func TestRoomsCanBeOverlooked(t *testing.T) {
	lines, methods := map[string]int{}, map[string]int{}
	count := func(file string, _ fs.DirEntry, err error) error {
		if err != nil || filepath.Ext(file) != ".go" || strings.HasSuffix(file, "_test.go") || strings.HasSuffix(file, ".gen.go") {
			return err
		}
		set := token.NewFileSet()
		f, err := parser.ParseFile(set, file, nil, parser.SkipObjectResolution)
		if err != nil {
			return err
		}
		lines[filepath.Dir(file)] += set.File(f.Pos()).LineCount()
		for _, d := range f.Decls {
			if fn, is := d.(*ast.FuncDecl); is && fn.Recv != nil {
				of := fn.Recv.List[0].Type
				if pointer, is := of.(*ast.StarExpr); is {
					of = pointer.X
				}
				if name, is := of.(*ast.Ident); is {
					methods[filepath.Dir(file)+"."+name.Name]++
				}
			}
		}
		return nil
	}
	require.NoError(t, filepath.WalkDir("..", count))
	require.NoError(t, filepath.WalkDir("../../font", count))
	require.Greater(t, len(lines), 90)
	for name, n := range lines {
		assert.LessOrEqual(t, n, 2500, name)
	}
	delete(methods, "../server.handlers") // one for each call of the contract, as generated code wants it
	for name, n := range methods {
		assert.LessOrEqual(t, n, 30, name)
	}
}

// TestWhatOnlyComputesStartsNoGoroutine reads the packages whose own tests run without
// the race detector: nothing in them runs beside anything else, or waits for it.
func TestWhatOnlyComputesStartsNoGoroutine(t *testing.T) {
	b, err := os.ReadFile("../../Makefile")
	require.NoError(t, err)
	_, line, found := strings.Cut(string(b), "\nPURE := ")
	require.True(t, found)
	line, _, _ = strings.Cut(line, "\n")
	var files []string
	for _, pattern := range strings.Fields(line) {
		folder, below := strings.CutSuffix(pattern, "/...")
		require.NoError(t, filepath.WalkDir(filepath.Join("../..", folder), func(path string, d fs.DirEntry, err error) error {
			switch {
			case err != nil:
				return err
			case d.IsDir():
				if strings.HasSuffix(path, "test") || !below && path != filepath.Join("../..", folder) {
					return filepath.SkipDir
				}
			case strings.HasSuffix(path, ".go") && !strings.HasSuffix(path, "_test.go"):
				files = append(files, path)
			}
			return nil
		}))
	}
	require.Greater(t, len(files), 100)
	for _, path := range files {
		f, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.SkipObjectResolution)
		require.NoError(t, err)
		ast.Inspect(f, func(n ast.Node) bool {
			switch n.(type) {
			case *ast.GoStmt, *ast.SelectStmt, *ast.ChanType:
				t.Errorf("%s runs beside others", path)
			}
			return true
		})
	}
}
