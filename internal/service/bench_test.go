package service_test

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	_ "github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/rename"
	"sparecrate/font/sfnt"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/service/servicetest"
)

// BenchmarkAdding sends fonts into a import over HTTP, as the command line does, and
// compares with hashing the same bytes, writing them with fsync, and one insert each. To reach:
// 2, for both together. It also says how long taking them in takes, in the same measure; that writes
// file, face, family and activity for each, and asks for its formats.
func BenchmarkAdding(b *testing.B) {
	const files = 200
	const atOnce = 4 // as the command line sends them
	s := servicetest.Start(b, nil)
	admin := s.Client(b, api.RoleAdmin)
	next := manyFonts(b)
	db := bareDatabase(b)
	folder := b.TempDir()
	var ours, taking, theirs time.Duration
	for b.Loop() {
		opened, err := admin.StartImportWithResponse(b.Context(), api.NewImport{})
		require.NoError(b, err)
		id := opened.JSON201.Id
		batch := make([][]byte, files)
		for i := range batch {
			batch[i] = next()
		}
		begin := time.Now()
		g, ctx := errgroup.WithContext(b.Context())
		g.SetLimit(atOnce)
		for i, data := range batch {
			g.Go(func() error {
				kind, body := upload(b, "x", data, "path", fmt.Sprintf("%d.ttf", i))
				r, err := admin.AddImportItemWithBodyWithResponse(ctx, id, kind, body)
				if err == nil && r.JSON200 == nil {
					err = errors.New(string(r.Body))
				}
				return err
			})
		}
		require.NoError(b, g.Wait())
		ours += time.Since(begin)
		begin = time.Now()
		for _, data := range batch {
			bare(b, db, folder, append(data, 0, 0, 0, 0))
		}
		theirs += time.Since(begin)
		start := time.Now()
		_, err = admin.AcceptImportWithResponse(b.Context(), id)
		require.NoError(b, err)
		for {
			d, err := admin.ListImportsWithResponse(b.Context(), &api.ListImportsParams{Limit: new(1)})
			require.NoError(b, err)
			if d.JSON200.Items[0].State == api.ImportFinished {
				break
			}
			time.Sleep(20 * time.Millisecond)
		}
		taking += time.Since(start)
		for { // what was asked for in the background is no part of the next round
			jobs, err := admin.ListJobsWithResponse(b.Context(), &api.ListJobsParams{})
			require.NoError(b, err)
			if jobs.JSON200.Waiting+jobs.JSON200.Running == 0 {
				break
			}
			time.Sleep(100 * time.Millisecond)
		}
	}
	b.ReportMetric(float64(ours)/float64(theirs), "adding/bare")
	b.ReportMetric(float64(taking)/float64(theirs), "taking/bare")
}

// manyFonts returns a function that makes a new font with each call, three of each family.
func manyFonts(b *testing.B) func() []byte {
	b.Helper()
	var faces []*sfnt.Font
	for _, d := range foundry.Signage() {
		data, err := foundry.Build(d, font.TTF)
		require.NoError(b, err)
		opened, err := font.Open(data)
		require.NoError(b, err)
		faces = append(faces, opened.Faces[0])
	}
	n := 0
	return func() []byte {
		face, _, err := rename.Face(faces[n%len(faces)], rename.Options{Family: fmt.Sprintf("Bench %d", n/len(faces))})
		require.NoError(b, err)
		n++
		return sfnt.Write(face)
	}
}

// bareDatabase is where bare notes files.
func bareDatabase(b *testing.B) *sql.DB {
	b.Helper()
	db, err := sql.Open("mysql", mariadbtest.New(b))
	require.NoError(b, err)
	b.Cleanup(func() { _ = db.Close() })
	_, err = db.ExecContext(b.Context(), "CREATE TABLE files (id BIGINT PRIMARY KEY AUTO_INCREMENT, sha256 CHAR(64) NOT NULL UNIQUE, name VARCHAR(250) NOT NULL)")
	require.NoError(b, err)
	return db
}

// bare is the least that keeping a file takes.
func bare(b *testing.B, db *sql.DB, folder string, data []byte) {
	b.Helper()
	sum := sha256.Sum256(data)
	name := hex.EncodeToString(sum[:])
	f, err := os.Create(filepath.Join(folder, name)) //nolint:gosec // a folder of the test's own
	require.NoError(b, err)
	_, err = f.Write(data)
	require.NoError(b, err)
	require.NoError(b, f.Sync())
	require.NoError(b, f.Close())
	_, err = db.ExecContext(context.Background(), "INSERT INTO files (sha256, name) VALUES (?, ?)", name, "x.ttf")
	require.NoError(b, err)
}
