package service_test

import (
	"database/sql"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/service/servicetest"
)

// BenchmarkDue asks for the due list of a studio with 10,000 faces in use on 200 sites,
// each family judged for each site, and reads the same rows with plain statements, in
// turn. To reach: 3.
func BenchmarkDue(b *testing.B) {
	db, viewer := crateInUse(b, 10_000)
	var ours, theirs []time.Duration
	items := 0
	for b.Loop() {
		start := time.Now()
		r, err := viewer.ListDueWithResponse(b.Context(), &api.ListDueParams{})
		middle := time.Now()
		require.NoError(b, err)
		require.NotNil(b, r.JSON200, string(r.Body))
		items = len(r.JSON200.Items)
		require.GreaterOrEqual(b, plainRows(b, db), 10_000)
		theirs = append(theirs, time.Since(middle))
		ours = append(ours, middle.Sub(start))
	}
	slices.Sort(ours)
	slices.Sort(theirs)
	b.ReportMetric(float64(ours[len(ours)/2])/float64(theirs[len(theirs)/2]), "of-plain-SQL")
	b.ReportMetric(float64(ours[len(ours)/2])/1e6, "ours-ms")
	b.ReportMetric(float64(items), "items")
	b.ReportMetric(0, "ns/op")
}

// crateInUse starts a service whose faces are all in use, on two hundred sites.
func crateInUse(b *testing.B, faces int) (*sql.DB, *api.ClientWithResponses) {
	b.Helper()
	s := servicetest.Start(b, nil)
	db := s.FillCrate(b, faces)
	_, err := db.ExecContext(b.Context(), "INSERT IGNORE INTO site_families (site_id, family_id, recipe) SELECT 1000 + id % 200, id, '' FROM families WHERE id >= 1000")
	require.NoError(b, err)
	return db, s.Client(b, api.RoleViewer)
}

// plainRows reads what the verdicts are made of, row by row, and counts the faces.
func plainRows(b *testing.B, db *sql.DB) int {
	b.Helper()
	read := func(query string, columns int) int {
		rows, err := db.QueryContext(b.Context(), query)
		require.NoError(b, err)
		defer func() { _ = rows.Close() }()
		row := make([]any, columns)
		for i := range row {
			row[i] = new(sql.RawBytes)
		}
		n := 0
		for rows.Next() {
			require.NoError(b, rows.Scan(row...))
			n++
		}
		require.NoError(b, rows.Err())
		return n
	}
	read("SELECT f.id, f.name, f.origin, u.site_id, s.name, s.domains, c.name FROM site_families u JOIN families f ON f.id = u.family_id JOIN sites s ON s.id = u.site_id JOIN clients c ON c.id = s.client_id", 7)
	read("SELECT l.id, l.kind, l.uses, l.begins, l.ends, c.name, k.family_id, (SELECT COUNT(*) FROM documents d WHERE d.license_id = l.id) FROM licenses l JOIN license_families k ON k.license_id = l.id JOIN clients c ON c.id = l.granted_to_id", 8)
	return read("SELECT a.id, a.family_id, a.full_name, e.body FROM faces a JOIN bearings e ON e.id = a.bearing WHERE a.family_id IN (SELECT family_id FROM site_families) ORDER BY a.family_id, a.width, a.weight, a.slope DESC, a.id", 4)
}
