package schema_test

import (
	"database/sql"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/store/packdb"
	"sparecrate/internal/store/schema"
	"sparecrate/internal/store/sitedb"
)

func TestMain(m *testing.M) { mariadbtest.Main(m) }

func open(t testing.TB, dsn string) *store.Store {
	t.Helper()
	s, err := store.Open(t.Context(), dsn)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s
}

// TestDatabasesThatDoNotFitAreRefused opens databases that a newer version wrote,
// that are another program's, and of which parts are missing. None is changed.
func TestDatabasesThatDoNotFitAreRefused(t *testing.T) {
	for _, c := range []struct {
		name   string
		fresh  bool // no tables of ours
		spoil  []string
		reason string
	}{
		{"newer", false, []string{"INSERT INTO migrations VALUES ('9999-later')", "UPDATE written_by SET version = 'v9.8.7'"}, "version v9.8.7 or a newer one"},
		{"a migration left out", false, []string{"DELETE FROM migrations WHERE id = '0005-search'"}, "its update is not whole"},
		{"a table missing", false, []string{"DROP TABLE live_stylesheets"}, "its table live_stylesheets is missing"},
		{"a column missing", false, []string{"ALTER TABLE people DROP COLUMN turn"}, "the column turn of its table people is missing"},
		{"another program's", true, []string{"CREATE TABLE orders (id INT)"}, "tables of another program (orders among them)"},
		{"another program's with migrations", true, []string{"CREATE TABLE migrations (id INT, name TEXT)"}, "tables of another program"},
	} {
		t.Run(c.name, func(t *testing.T) {
			dsn := mariadbtest.New(t)
			if !c.fresh {
				open(t, dsn)
			}
			db, err := sql.Open("mysql", dsn)
			require.NoError(t, err)
			defer func() { _ = db.Close() }()
			for _, statement := range c.spoil {
				_, err := db.ExecContext(t.Context(), statement)
				require.NoError(t, err)
			}
			tables := func() (n int) {
				require.NoError(t, db.QueryRowContext(t.Context(), "SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = DATABASE()").Scan(&n))
				return n
			}
			before := tables()
			_, err = store.Open(t.Context(), dsn)
			require.ErrorIs(t, err, schema.Err)
			require.ErrorContains(t, err, c.reason)
			assert.Equal(t, before, tables())
		})
	}
}

// TestInterruptedMigrationIsFinished runs each statement of the migrations as often as
// crashes would have it.
func TestInterruptedMigrationIsFinished(t *testing.T) {
	dsn := mariadbtest.New(t)
	require.NoError(t, schema.MigrateTo(t.Context(), dsn, "", true))
	s := open(t, dsn)
	require.NoError(t, s.AddActivity(t.Context(), &store.Activity{At: time.Now(), Person: "Ines", Action: "began"}))
}

// TestPackedTextsBecomeColumns opens a database of the time when the formats of a face
// and the families of a pack were texts.
func TestPackedTextsBecomeColumns(t *testing.T) {
	dsn := mariadbtest.New(t)
	require.NoError(t, schema.MigrateTo(t.Context(), dsn, "0014-hardening", false))
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	run := func(statements ...string) {
		t.Helper()
		for _, one := range statements {
			_, err := db.ExecContext(t.Context(), one)
			require.NoError(t, err, one)
		}
	}
	run("INSERT INTO clients (id, name, studio) VALUES (7, 'Holmvik Ferries', FALSE)",
		"INSERT IGNORE INTO families (id, client_id, name, created_at) VALUES (7, 7, 'Skerrow Sans', NOW(6)), (8, 7, 'Skerrow Serif', NOW(6))",
		"INSERT IGNORE INTO faces (id, family_id, face_key, style, width, weight, slope, containers) VALUES (7, 7, 'a', 'Bold', 100, 700, 'upright', ',ttf,woff2,'), (8, 7, 'b', 'Thin', 100, 100, 'upright', '')",
		"INSERT IGNORE INTO sites (id, client_id, name, domains, builder, version) VALUES (7, 7, 'Timetable', '[]', 'self-hosted', 1)",
		"INSERT IGNORE INTO packs (id, site_id, name, sha256, bytes, families, created_at, created_by) VALUES (7, 7, 'a.zip', 'x', 1, '[8, 7]', NOW(6), 'x'), (8, 7, 'b.zip', 'x', 1, '[]', NOW(6), 'x')")
	s := open(t, dsn)
	{
		packs, err := packdb.In(s).Packs(t.Context(), 7)
		require.NoError(t, err)
		require.Len(t, packs, 2)
		assert.Empty(t, packs[0].Families)
		assert.Equal(t, []int64{7, 8}, packs[1].Families)
		face, err := familydb.In(s).Face(t.Context(), 7)
		require.NoError(t, err)
		assert.Equal(t, store.Formats{"ttf", "woff2"}, face.Listing.Formats)
		bare, err := familydb.In(s).Face(t.Context(), 8)
		require.NoError(t, err)
		assert.Empty(t, bare.Listing.Formats)
	}
	run("DELETE FROM faces")
	require.NoError(t, librarydb.In(s).ShareUses(t.Context(), 7, 9, false))
	require.NoError(t, librarydb.In(s).EndFamily(t.Context(), 7, 9))
	pack, err := packdb.In(s).Pack(t.Context(), 7)
	require.NoError(t, err)
	assert.Equal(t, []int64{8, 9}, pack.Families, "what a family was in, the one that it was joined to is in")
}

// TestOldWordsBecomeNew opens a database of the time when records had other words for what
// they hold.
func TestOldWordsBecomeNew(t *testing.T) {
	dsn := mariadbtest.New(t)
	require.NoError(t, schema.MigrateTo(t.Context(), dsn, "0023-inspections", false))
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	recipe := `{"pin":{"at":{"wght":"700"},"instance":"Bold"},"trim":{"keep":["latin"]},"retype":true}`
	for _, s := range []string{
		"INSERT INTO clients (id, name, studio) VALUES (7, 'Holmvik Ferries', FALSE)",
		"INSERT INTO families (id, client_id, name, origin, note, version, created_at) VALUES (7, 7, 'Skerrow Sans', 'bought', '', 1, NOW(6))",
		"INSERT INTO sites (id, client_id, name, domains, builder, version, environments, choices, words) VALUES (7, 7, 'Timetable', '[]', 'called-sheet', 1, '[]', '" +
			`{"send":[1],"leave":[2],"oldBrowsers":true,"call":"address","supply":"made","stay":[{"face":1,"file":2}]}` + "', 'Next ferry')",
		"INSERT INTO site_families (site_id, family_id, recipe) VALUES (7, 7, '" + recipe + "')",
		"INSERT INTO placements (site_id, family_id, role, name, selector, weight, slope, stack, override) VALUES (7, 7, 'body', '', '', 400, 'normal', '[]', FALSE)",
		"INSERT INTO stand_ins (site_id, family_id, name, weight, slope) VALUES (7, 7, 'Georgia', 400, 'normal')",
		"INSERT INTO landed (site_id, environment, path, sha256, address, at, person) VALUES (7, 'live', 'a.woff2', 'x', 'https://cdn.holmvik.example/a', NOW(6), 'Ines')",
		"INSERT INTO sign_offs (site_id, family_id, builder, state, grounds, reason, person, at) VALUES (7, 7, '', 'barred', 'x', 'asked', 'Ines', NOW(6))",
		"INSERT INTO builders (kind, name, rules, version, changed_at, changed_by) VALUES ('ours', 'Ours', '" +
			`{"kind":"ours","files":{"containers":["woff2"],"send":"best"},"styles":{"form":"called","place":"in the head","call":["link","address"]},"addresses":{"after":true}}` + "', 1, NOW(6), 'Ines')",
		"INSERT INTO deliveries (id, title, client_id, origin, state, created_at, created_by) VALUES (7, 'Signs', 7, 'client', 'turned-down', NOW(6), 'Ines')",
	} {
		_, err := db.ExecContext(t.Context(), s)
		require.NoError(t, err, s)
	}
	s := open(t, dsn)
	site, err := sitedb.In(s).Site(t.Context(), 7)
	require.NoError(t, err)
	assert.Equal(t, store.Choices{Include: []int64{1}, Exclude: []int64{2}, LegacyFormats: true, Load: "url", Source: store.SourceConverted, Pinned: []store.PinnedFile{{Face: 1, File: 2}}}, site.Choices)
	assert.Equal(t, "linked-stylesheet", site.Builder)
	assert.Equal(t, "Next ferry", site.SampleText)
	require.Len(t, site.RoleAssignments, 1)
	require.Len(t, site.Replacements, 1)
	require.Len(t, site.Families, 1)
	assert.Equal(t, store.Active, site.Families[0].Status)
	urls, err := packdb.In(s).FileURLsOf(t.Context(), 7)
	require.NoError(t, err)
	require.Len(t, urls, 1)
	assert.Equal(t, "https://cdn.holmvik.example/a", urls[0].URL)
	value := func(query string) (v string) {
		t.Helper()
		require.NoError(t, db.QueryRowContext(t.Context(), query).Scan(&v))
		return v
	}
	assert.JSONEq(t, `{"instance":{"at":{"wght":"700"},"named":"Bold"},"subset":{"keep":["latin"]},"toTrueType":true}`, value("SELECT recipe FROM site_families"))
	assert.JSONEq(t, `{"kind":"ours","files":{"formats":["woff2"],"include":"preferred"},"styles":{"form":"linked","where":"in the head","load":["link","url"]},"urls":{"after":true}}`,
		value("SELECT rules FROM builders WHERE kind = 'ours'"))
	assert.Equal(t, "blocked", value("SELECT state FROM sign_offs"))
	assert.Equal(t, "discarded", value("SELECT state FROM imports"))
}
