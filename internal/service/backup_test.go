package service_test

import (
	"context"
	"database/sql"
	"fmt"
	"log/slog"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/backup"
	"sparecrate/internal/bucket"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/service"
	"sparecrate/internal/service/servicetest"
	"sparecrate/internal/verify"
)

// beside runs do over the records and files of a service.
func (s *studio) beside(do func(backup.Source) error) {
	require.NoError(s.t, service.Beside(s.t.Context(), service.Options{Data: s.Data, Database: s.Database, Log: slog.New(slog.DiscardHandler)}, do))
}

// TestARestoreDrill backs a service up while people work in it, makes another of the backup, and
// finds there whatever was done before the backup began, and nothing half: records, fonts,
// documents, packs, who may come in, the audit log.
func TestARestoreDrill(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	b := s.furnish("Amberly", foundry.Signage()[0])
	at := filepath.Join(t.TempDir(), "backups")
	place, err := bucket.OpenPlace(ctx, at, true)
	require.NoError(t, err)
	defer func() { _ = place.Close() }()
	working, stop := context.WithCancel(ctx)
	var work sync.WaitGroup
	added := 0
	work.Go(func() {
		for i := 0; working.Err() == nil; i++ {
			design := *foundry.Poster()
			design.Family, design.PostScript = fmt.Sprintf("Written Meanwhile %d", i), fmt.Sprintf("WrittenMeanwhile%d-Regular", i)
			s.family(&design, "client", "Amberly Works", "origin", "bought")
			added++
		}
	})
	var made *backup.Made
	for range 3 {
		s.beside(func(from backup.Source) (err error) {
			made, err = backup.Make(ctx, from, place, backup.Options{Now: time.Now})
			return err
		})
		require.Empty(t, made.Lost)
		time.Sleep(100 * time.Millisecond)
	}
	stop()
	work.Wait()
	require.Positive(t, added)

	from, err := backup.Open(ctx, place, "", nil)
	require.NoError(t, err)
	restored := service.Options{Data: filepath.Join(t.TempDir(), "restored"), Database: mariadbtest.New(t), Log: slog.New(slog.DiscardHandler)}
	require.NoError(t, service.Restore(ctx, restored, from))
	again := &studio{servicetest.Start(t, nil, func(o *service.Options) { o.Data, o.Database = restored.Data, restored.Database }), t, nil}
	again.Data, again.Database = restored.Data, restored.Database
	as := func(address string, role api.Role) *api.ClientWithResponses {
		c, err := api.NewClientWithResponses(address+"/api/v1", api.WithRequestEditorFn(func(_ context.Context, r *http.Request) error {
			r.Header.Set("Authorization", "Bearer "+s.As(role).Token)
			return nil
		}))
		require.NoError(t, err)
		return c
	}
	before, after := as(s.Address, api.RoleAdmin), as(again.Address, api.RoleAdmin)
	one, other := must(before.GetPackContentWithResponse(ctx, b.of["packs"]))(t), must(after.GetPackContentWithResponse(ctx, b.of["packs"]))(t)
	require.Equal(t, http.StatusOK, other.StatusCode(), "%s", other.Body)
	assert.Equal(t, one.Body, other.Body)
	oneSite, otherSite := must(before.GetSiteWithResponse(ctx, b.of["sites"]))(t), must(after.GetSiteWithResponse(ctx, b.of["sites"]))(t)
	assert.JSONEq(t, string(oneSite.Body), string(otherSite.Body))
	oneLicense, otherLicense := must(before.GetLicenseWithResponse(ctx, b.of["licenses"]))(t), must(after.GetLicenseWithResponse(ctx, b.of["licenses"]))(t)
	assert.JSONEq(t, string(oneLicense.Body), string(otherLicense.Body))
	doc := must(after.GetDocumentContentWithResponse(ctx, b.of["documents"], nil))(t)
	assert.Equal(t, "Order of Amberly", string(doc.Body))
	built := must(after.BuildPackWithResponse(ctx, b.of["sites"], nil))(t)
	assert.Less(t, built.StatusCode(), 300, "what was converted is converted again: %s", built.Body)
	families := must(after.ListFamiliesWithResponse(ctx, nil))(t).JSON200
	meanwhile := 0
	for _, f := range families.Items {
		if strings.HasPrefix(f.Name, "Written Meanwhile") {
			meanwhile++
			page := must(after.GetFamilyWithResponse(ctx, f.Id))(t).JSON200
			require.Len(t, page.Faces, 1)
			assert.Len(t, page.Faces[0].Files, 1, "whole or not there")
		}
	}
	assert.LessOrEqual(t, meanwhile, added)
	again.beside(func(from backup.Source) error {
		r, err := verify.Service(ctx, from.Store, from.Bucket, false)
		require.NoError(t, err)
		assert.Empty(t, r.Findings)
		assert.Positive(t, r.Entries)
		return nil
	})
}

// TestVerifyFindsAndRepairs spoils a service in every way that is looked for.
func TestVerifyFindsAndRepairs(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	b := s.furnish("Amberly", foundry.Signage()[0])
	look := func(repair bool) (r *verify.Report) {
		t.Helper()
		s.beside(func(from backup.Source) (err error) {
			r, err = verify.Service(ctx, from.Store, from.Bucket, repair)
			return err
		})
		return r
	}
	require.Empty(t, look(false).Findings)
	db, err := sql.Open("mysql", s.Database)
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	hash := func(query string) (h string) {
		require.NoError(t, db.QueryRowContext(ctx, query).Scan(&h))
		return h
	}
	path := func(h string) string { return filepath.Join(s.Data, "files", h[:2], h) }
	font, document, derived := hash("SELECT sha256 FROM files"), hash("SELECT sha256 FROM documents"), hash("SELECT MIN(hash) FROM derived")
	flipped, err := os.ReadFile(path(font))
	require.NoError(t, err)
	whole := append([]byte(nil), flipped...)
	flipped[100] ^= 1
	require.NoError(t, os.WriteFile(path(font), flipped, 0o600))
	require.NoError(t, os.Remove(path(document)))
	require.NoError(t, os.Truncate(path(derived), 10))
	orphan := strings.Repeat("cd", 32)
	require.NoError(t, os.MkdirAll(filepath.Dir(path(orphan)), 0o700))
	require.NoError(t, os.WriteFile(path(orphan), []byte("of nobody"), 0o600))
	old := time.Now().Add(-48 * time.Hour)
	require.NoError(t, os.Chtimes(path(orphan), old, old))
	for _, spoil := range []string{"UPDATE families SET face_count = 7", "UPDATE audit_entries SET address = '192.0.2.1' ORDER BY seq DESC LIMIT 1"} {
		_, err := db.ExecContext(ctx, spoil)
		require.NoError(t, err)
	}
	kinds := func(r *verify.Report) string {
		var out []string
		for _, f := range r.Findings {
			line := f.Kind + " " + strings.Join(f.Names, "+")
			if f.Repaired {
				line += " repaired"
			}
			out = append(out, line)
		}
		return strings.Join(out, "; ")
	}
	name := must(s.admin.GetFamilyWithResponse(ctx, b.of["families"]))(t).JSON200
	face := name.Name + " " + name.Faces[0].Style
	assert.ElementsMatch(t, []string{"damaged " + face, "missing Amberly order.txt", "damaged ", "orphans ", "listing Amberly Serif", "audit-log "}, strings.Split(kinds(look(false)), "; "))
	r := look(true)
	assert.False(t, r.Sound())
	assert.ElementsMatch(t, []string{"damaged " + face, "missing Amberly order.txt", "damaged  repaired", "orphans  repaired", "listing Amberly Serif repaired", "audit-log "}, strings.Split(kinds(r), "; "))
	assert.ElementsMatch(t, []string{"damaged " + face, "missing Amberly order.txt", "audit-log "}, strings.Split(kinds(look(true)), "; "), "what cannot be made again stays")
	for _, f := range r.Findings {
		assert.True(t, f.Repaired || f.Advice != "", "%s", f.What)
	}
	require.NoError(t, os.WriteFile(path(font), whole, 0o600))
	require.NoError(t, os.WriteFile(path(document), []byte("Order of Amberly"), 0o600))
	assert.Equal(t, "audit-log ", kinds(look(false)))
	built := must(s.admin.BuildPackWithResponse(ctx, b.of["sites"], nil))(t)
	assert.Less(t, built.StatusCode(), 300, "what was taken away is made again: %s", built.Body)
}
