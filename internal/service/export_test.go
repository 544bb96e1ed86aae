package service_test

import (
	"encoding/csv"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/backup"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/export"
)

// TestEverythingIsExported exports a service with names that would leave their folder, act in a
// page, or meet each other: every font and document is there with its bytes, each link of the
// page leads to one, and the records can be read.
func TestEverythingIsExported(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	b := s.furnish("Amberly", foundry.Signage()[0])
	hostile := must(s.admin.AddClientWithResponse(ctx, api.NewStudioClient{Name: `../../<b>out</b> & "up"`}))(t)
	require.NotNil(t, hostile.JSON201, "%s", hostile.Body)
	design := *foundry.Poster()
	design.Family = "=HYPERLINK(1) ..%2F.."
	s.family(&design, "client", hostile.JSON201.Name, "origin", "bought")
	for _, name := range []string{"Order.txt", "order.TXT", "...", strings.Repeat("ü", 200) + ".txt"} {
		kind, body := upload(t, name, []byte("It says "+name))
		added := must(s.admin.AddDocumentWithBodyWithResponse(ctx, b.of["licenses"], kind, body))(t)
		require.NotNil(t, added.JSON201, "%s", added.Body)
	}
	out := filepath.Join(t.TempDir(), "exported")
	s.beside(func(from backup.Source) error {
		r, err := export.Write(ctx, from.Store, from.Bucket, out, time.Now())
		require.NoError(t, err)
		assert.Equal(t, 2, r.Fonts)
		assert.Equal(t, 5, r.Documents)
		assert.Empty(t, r.Lost)
		_, err = export.Write(ctx, from.Store, from.Bucket, out, time.Now())
		require.ErrorContains(t, err, "is not empty")
		return nil
	})
	text, err := os.ReadFile(filepath.Join(out, "index.html"))
	require.NoError(t, err)
	assert.NotContains(t, string(text), "<b>out")
	links := regexp.MustCompile(`href="([^"]+)"`).FindAllStringSubmatch(string(text), -1)
	var said []string
	for _, l := range links {
		path, err := url.PathUnescape(l[1])
		require.NoError(t, err)
		data, err := os.ReadFile(filepath.Join(out, filepath.FromSlash(path)))
		require.NoError(t, err, l[1])
		if strings.HasPrefix(string(data), "It says ") {
			said = append(said, string(data))
		}
	}
	assert.Len(t, said, 4, "also those whose names differ by case only")
	assert.Greater(t, len(links), 18)
	beside, err := os.ReadDir(filepath.Dir(out))
	require.NoError(t, err)
	assert.Len(t, beside, 1, "nothing is written elsewhere, and nothing half-done stays")
	files, err := filepath.Glob(filepath.Join(out, "records", "*.csv"))
	require.NoError(t, err)
	assert.Greater(t, len(files), 10)
	for _, path := range files {
		f, err := os.Open(path)
		require.NoError(t, err)
		rows, err := csv.NewReader(f).ReadAll()
		require.NoError(t, err, path)
		require.NoError(t, f.Close())
		for _, row := range rows {
			for _, cell := range row {
				assert.NotRegexp(t, `^[=+@-]`, cell, path)
				assert.NotContains(t, cell, "argon2", "no secret")
			}
		}
	}
	fonts, err := filepath.Glob(filepath.Join(out, "fonts", "*", "*", "*"))
	require.NoError(t, err)
	assert.Len(t, fonts, 2)

	hash := must(s.admin.GetFamilyWithResponse(ctx, b.of["families"]))(t).JSON200.Faces[0].Files[0].Sha256
	require.NoError(t, os.Remove(filepath.Join(s.Data, "files", hash[:2], hash)))
	s.beside(func(from backup.Source) error {
		r, err := export.Write(ctx, from.Store, from.Bucket, out+"2", time.Now())
		require.NoError(t, err)
		assert.Len(t, r.Lost, 1)
		return nil
	})
	text, err = os.ReadFile(filepath.Join(out+"2", "index.html"))
	require.NoError(t, err)
	assert.Contains(t, string(text), "(missing or damaged)")
}
