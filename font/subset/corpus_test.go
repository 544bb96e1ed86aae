package subset_test

import (
	"bytes"
	"io/fs"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/lint"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
)

// TestCorpus trims every font under SPARECRATE_FONTS to what it has of Latin,
// or else to a part of what it has: the rules find nothing new in the outcome,
// and trimming it again changes nothing.
func TestCorpus(t *testing.T) {
	root := os.Getenv("SPARECRATE_FONTS")
	if root == "" {
		t.Skip("SPARECRATE_FONTS names no folder of fonts")
	}
	latin, err := coverage.Named("latin")
	require.NoError(t, err)
	trimmed := 0
	require.NoError(t, filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || d.Type()&fs.ModeSymlink != 0 {
			return err
		}
		b, err := os.ReadFile(path) //nolint:gosec // the tester's own folder
		require.NoError(t, err)
		opened, err := font.Open(b)
		if err != nil {
			return nil //nolint:nilerr // what is no font is tested elsewhere
		}
		for i, face := range opened.Faces {
			if i > 1 {
				break
			}
			checkTrim(t, path, face, latin)
			trimmed++
		}
		return nil
	}))
	t.Logf("%d faces trimmed", trimmed)
	require.NotZero(t, trimmed)
}

func codes(t *testing.T, f *sfnt.Font) map[string]string {
	r, err := lint.Check(sfnt.Write(f))
	require.NoError(t, err)
	out := map[string]string{}
	for _, finding := range r.Findings {
		out[finding.Table+" "+finding.Code] = finding.Message
	}
	return out
}

func checkTrim(t *testing.T, path string, face *sfnt.Font, latin coverage.Characters) {
	have, err := subset.Has(face)
	if !assert.NoError(t, err, path) || len(have) == 0 {
		return
	}
	want := latin
	if len(have.And(latin)) < 2 {
		want = have[:(len(have)+1)/2]
	}
	out, _, err := subset.Face(face, subset.Options{Characters: want})
	if err != nil {
		t.Logf("%s: %v", path, err)
		t.Fail()
		return
	}
	before := codes(t, face)
	for code, message := range codes(t, out) {
		if _, old := before[code]; !old {
			t.Errorf("%s: new: %s: %s", path, code, message)
		}
	}
	again, _, err := subset.Face(out, subset.Options{Characters: want})
	if !assert.NoError(t, err, path) {
		return
	}
	for _, table := range out.Tables {
		if !bytes.Equal(table.Data, again.Table(table.Tag)) {
			t.Errorf("%s: %s: trimmed twice it is another: %d bytes, then %d", path, table.Tag, len(table.Data), len(again.Table(table.Tag)))
		}
	}
}
