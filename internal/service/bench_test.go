package service_test

import (
	"bytes"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"fmt"
	"mime/multipart"
	"os"
	"path/filepath"
	"testing"
	"time"

	_ "github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/rename"
	"sparecrate/font/sfnt"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/service/servicetest"
)

// BenchmarkAdding sends fonts into a delivery over HTTP, and compares with hashing
// the same bytes, writing them with fsync, and one insert each, in turn. To reach:
// 2, for both together. It also says how long taking them in takes, in the same measure; that writes
// file, face, family and activity for each, and asks for its containers.
func BenchmarkAdding(b *testing.B) {
	const files = 200
	s := servicetest.Start(b, nil)
	admin := s.Client(b, api.RoleAdmin)
	var faces []*sfnt.Font
	for _, d := range foundry.Signage() {
		data, err := foundry.Build(d, font.TTF)
		require.NoError(b, err)
		opened, err := font.Open(data)
		require.NoError(b, err)
		faces = append(faces, opened.Faces[0])
	}
	db, err := sql.Open("mysql", mariadbtest.New(b))
	require.NoError(b, err)
	defer func() { _ = db.Close() }()
	_, err = db.Exec("CREATE TABLE files (id BIGINT PRIMARY KEY AUTO_INCREMENT, sha256 CHAR(64) NOT NULL UNIQUE, name VARCHAR(250) NOT NULL)")
	require.NoError(b, err)
	folder := b.TempDir()
	n := 0
	next := func() []byte { // families of three faces each
		face, _, err := rename.Face(faces[n%len(faces)], rename.Options{Family: fmt.Sprintf("Bench %d", n/len(faces))})
		require.NoError(b, err)
		n++
		return sfnt.Write(face)
	}
	var ours, taking, theirs time.Duration
	for b.Loop() {
		opened, err := admin.OpenDeliveryWithResponse(b.Context(), api.NewDelivery{})
		require.NoError(b, err)
		id := opened.JSON201.Id
		for i := range files {
			data := next()
			start := time.Now()
			var body bytes.Buffer
			m := multipart.NewWriter(&body)
			require.NoError(b, m.WriteField("path", fmt.Sprintf("%d.ttf", i)))
			part, err := m.CreateFormFile("file", "x")
			require.NoError(b, err)
			_, _ = part.Write(data)
			_ = m.Close()
			r, err := admin.AddDeliveryItemWithBodyWithResponse(b.Context(), id, m.FormDataContentType(), &body)
			require.NoError(b, err)
			require.NotNil(b, r.JSON200)
			middle := time.Now()
			bare(b, db, folder, append(data, 0, 0, 0, 0))
			ours += middle.Sub(start)
			theirs += time.Since(middle)
		}
		start := time.Now()
		_, err = admin.AcceptDeliveryWithResponse(b.Context(), id)
		require.NoError(b, err)
		for {
			d, err := admin.GetDeliveryWithResponse(b.Context(), id)
			require.NoError(b, err)
			if d.JSON200.State == api.DeliverySettled {
				break
			}
			time.Sleep(10 * time.Millisecond)
		}
		taking += time.Since(start)
	}
	b.ReportMetric(float64(ours)/float64(theirs), "adding/bare")
	b.ReportMetric(float64(taking)/float64(theirs), "taking/bare")
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
