package backup_test

import (
	"bytes"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"filippo.io/age"
	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/backup"
	"sparecrate/internal/bucket"
	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/store"
	"sparecrate/internal/store/dumpdb"
	"sparecrate/internal/store/schema"
)

func TestMain(m *testing.M) { mariadbtest.Main(m) }

// crate is a small service: some records, some files.
type crate struct {
	backup.Source
	dsn string
	db  *sql.DB
}

func newCrate(t *testing.T) *crate {
	t.Helper()
	c := &crate{dsn: mariadbtest.New(t)}
	records, err := store.Open(t.Context(), c.dsn)
	require.NoError(t, err)
	t.Cleanup(func() { _ = records.Close() })
	c.Store, c.Bucket, c.KeyFile = records, bucket.InMemory(), filepath.Join(t.TempDir(), "secrets.key")
	require.NoError(t, os.WriteFile(c.KeyFile, []byte(strings.Repeat("ab", 32)), 0o600))
	config, err := mysql.ParseDSN(c.dsn)
	require.NoError(t, err)
	config.Params = map[string]string{"foreign_key_checks": "0"} // a pack needs no site here
	c.db, err = sql.Open("mysql", config.FormatDSN())
	require.NoError(t, err)
	t.Cleanup(func() { _ = c.db.Close() })
	c.run(t, "INSERT INTO clients (id, name, studio) VALUES (1, 'Lanternjaw Studio', TRUE), (9, ?, FALSE)", "Holmvik \"Ferries\"\n\u2028 \U0001F58B \\ '")
	c.run(t, "INSERT INTO prints (sha256, place, measurer, packed) VALUES (?, 0, 1, ?)", strings.Repeat("0", 64), []byte{0, 0xff, 0xfe, '"', '\n', 0x80})
	c.run(t, "INSERT INTO activities (at, person, action, subject, detail) VALUES ('2026-11-30 23:59:59.123456', 'Ines', 'added', 'x', '')")
	c.add(t, "a font, as it were")
	return c
}

func (c *crate) run(t *testing.T, statement string, args ...any) {
	t.Helper()
	_, err := c.db.ExecContext(t.Context(), statement, args...)
	require.NoError(t, err, statement)
}

// add adds a file that a record names.
func (c *crate) add(t *testing.T, text string) string {
	t.Helper()
	h, err := c.Bucket.PutBytes(t.Context(), []byte(text))
	require.NoError(t, err)
	c.run(t, "INSERT INTO packs (site_id, name, sha256, bytes, created_at, created_by) VALUES (1, 'a.zip', ?, ?, NOW(6), 'Ines')", string(h), len(text))
	return string(h)
}

// rows returns a digest of every table.
func rows(t *testing.T, s *store.Store) map[string]string {
	t.Helper()
	out := map[string]string{}
	require.NoError(t, dumpdb.In(s).Snapshot(t.Context(), func(s dumpdb.Snapshot) error {
		tables, err := s.Tables()
		require.NoError(t, err)
		for i := range tables {
			sum, n := sha256.New(), 0
			require.NoError(t, s.Rows(&tables[i], func(row []sql.RawBytes) error {
				n++
				_, err := fmt.Fprintf(sum, "%q\n", row)
				return err
			}))
			out[tables[i].Name] = fmt.Sprintf("%d rows, next %d, %s", n, tables[i].Auto, hex.EncodeToString(sum.Sum(nil)[:8]))
		}
		return nil
	}))
	return out
}

func place(t *testing.T) (*bucket.Place, string) {
	t.Helper()
	folder := filepath.Join(t.TempDir(), "backups")
	p, err := bucket.OpenPlace(t.Context(), folder, true)
	require.NoError(t, err)
	t.Cleanup(func() { _ = p.Close() })
	return p, folder
}

// again opens the records of a restored database.
func again(t *testing.T, dsn string) *store.Store {
	t.Helper()
	s, err := store.Open(t.Context(), dsn)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s
}

// TestBackUpAndRestore backs records and files up, plain and encrypted, and makes the same of it
// elsewhere: every row, every number that comes next, every byte.
func TestBackUpAndRestore(t *testing.T) {
	key, err := age.GenerateX25519Identity()
	require.NoError(t, err)
	other, err := age.GenerateX25519Identity()
	require.NoError(t, err)
	for name, to := range map[string][]age.Recipient{"plain": nil, "encrypted": {key.Recipient()}} {
		t.Run(name, func(t *testing.T) {
			c := newCrate(t)
			p, folder := place(t)
			made, err := backup.Make(t.Context(), c.Source, p, backup.Options{Recipients: to, Now: time.Now})
			require.NoError(t, err)
			assert.Equal(t, 1, made.Made.Files)
			assert.Equal(t, name == "encrypted", made.Encrypted)
			found := false
			require.NoError(t, filepath.WalkDir(folder, func(path string, d os.DirEntry, err error) error {
				if err == nil && !d.IsDir() {
					text, err := os.ReadFile(path)
					require.NoError(t, err)
					found = found || bytes.Contains(text, []byte("a font, as it were")) || bytes.Contains(text, []byte("Lanternjaw"))
				}
				return err
			}))
			assert.Equal(t, name == "plain", found)
			if name == "encrypted" {
				_, err = backup.Open(t.Context(), p, "", nil)
				require.ErrorContains(t, err, "give the file with your age identity")
				_, err = backup.Open(t.Context(), p, "", []age.Identity{other})
				require.ErrorContains(t, err, "encrypted for another identity")
			}
			b, err := backup.Open(t.Context(), p, "", []age.Identity{other, key})
			require.NoError(t, err)
			assert.Equal(t, "Lanternjaw Studio", b.Manifest.Studio)
			require.NoError(t, b.Check(t.Context()))
			to := backup.Target{DSN: mariadbtest.New(t), Bucket: bucket.InMemory(), KeyFile: filepath.Join(t.TempDir(), "secrets.key")}
			require.NoError(t, b.Restore(t.Context(), to))
			assert.Equal(t, rows(t, c.Store), rows(t, again(t, to.DSN)))
			for _, f := range b.Manifest.Files {
				require.NoError(t, to.Bucket.Check(t.Context(), bucket.Hash(f.SHA256)))
			}
			text, err := os.ReadFile(to.KeyFile)
			if name == "encrypted" {
				require.NoError(t, err)
				assert.Equal(t, strings.Repeat("ab", 32), string(text))
			} else {
				require.ErrorIs(t, err, os.ErrNotExist, "the key goes nowhere in the clear")
			}
			require.ErrorIs(t, b.Restore(t.Context(), to), schema.ErrNotEmpty)
		})
	}
}

// TestOnlyWhatIsNewIsSent backs up again after a little was added, keeps two, and finds the
// second as it was after the first is gone.
func TestOnlyWhatIsNewIsSent(t *testing.T) {
	c := newCrate(t)
	p, folder := place(t)
	options := backup.Options{Now: time.Now, Keep: 2}
	first, err := backup.Make(t.Context(), c.Source, p, options)
	require.NoError(t, err)
	same, err := backup.Make(t.Context(), c.Source, p, options)
	require.NoError(t, err)
	assert.NotEqual(t, first.Name, same.Name, "also within one second")
	assert.Zero(t, same.Made.NewFiles)
	c.add(t, "another font")
	before := rows(t, c.Store)
	second, err := backup.Make(t.Context(), c.Source, p, options)
	require.NoError(t, err)
	assert.Equal(t, 2, second.Made.NewFiles, "the font, and the table that names it")
	assert.Equal(t, []string{first.Name}, second.Dropped)
	c.run(t, "DELETE FROM packs")
	third, err := backup.Make(t.Context(), c.Source, p, options)
	require.NoError(t, err)
	assert.Zero(t, third.Made.Files)
	names, _, err := backup.Names(t.Context(), p)
	require.NoError(t, err)
	assert.Equal(t, []string{third.Name, second.Name}, names)
	b, err := backup.Open(t.Context(), p, second.Name, nil)
	require.NoError(t, err)
	require.NoError(t, b.Check(t.Context()))
	to := backup.Target{DSN: mariadbtest.New(t), Bucket: bucket.InMemory()}
	require.NoError(t, b.Restore(t.Context(), to))
	assert.Equal(t, before, rows(t, again(t, to.DSN)))
	_, err = backup.Make(t.Context(), c.Source, p, backup.Options{Now: time.Now, Keep: 1})
	require.NoError(t, err)
	left, err := filepath.Glob(filepath.Join(folder, "objects", "*", "*"))
	require.NoError(t, err)
	for _, path := range left {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		assert.NotContains(t, string(text), "another font", "what no backup has is removed")
	}
	_, err = backup.Open(t.Context(), p, second.Name, nil)
	require.ErrorIs(t, err, backup.ErrNoBackup)
}

// TestBackupsForOthers backs up for one recipient and then for another, into the same place: each
// opens all of the backup that is for them.
func TestBackupsForOthers(t *testing.T) {
	c := newCrate(t)
	p, _ := place(t)
	one, err := age.GenerateX25519Identity()
	require.NoError(t, err)
	other, err := age.GenerateX25519Identity()
	require.NoError(t, err)
	for _, to := range [][]age.Recipient{{one.Recipient()}, {other.Recipient()}, {one.Recipient(), other.Recipient()}, {other.Recipient(), one.Recipient()}, nil} {
		made, err := backup.Make(t.Context(), c.Source, p, backup.Options{Recipients: to, Now: time.Now})
		require.NoError(t, err)
		for _, key := range []*age.X25519Identity{one, other} {
			b, err := backup.Open(t.Context(), p, made.Name, []age.Identity{key})
			if len(to) == 1 && to[0].(*age.X25519Recipient).String() != key.Recipient().String() { //nolint:forcetypeassert // it is
				require.Error(t, err)
				continue
			}
			require.NoError(t, err)
			require.NoError(t, b.Check(t.Context()))
		}
	}
	last, err := backup.Make(t.Context(), c.Source, p, backup.Options{Recipients: []age.Recipient{one.Recipient()}, Now: time.Now})
	require.NoError(t, err)
	assert.Zero(t, last.Made.NewFiles, "what is there for them is not sent again")
}

// TestDamagedBackupsAreFoundOut alters, cuts and removes each file of a backup: the check names
// it, and a restore of it ends with an error and with no service on half of it.
func TestDamagedBackupsAreFoundOut(t *testing.T) {
	c := newCrate(t)
	p, folder := place(t)
	_, err := backup.Make(t.Context(), c.Source, p, backup.Options{Now: time.Now})
	require.NoError(t, err)
	paths, err := filepath.Glob(filepath.Join(folder, "objects", "*", "*"))
	require.NoError(t, err)
	require.Greater(t, len(paths), 5)
	for _, path := range paths {
		whole, err := os.ReadFile(path)
		require.NoError(t, err)
		flipped := bytes.Clone(whole)
		flipped[len(flipped)/2] ^= 0x20
		for what, data := range map[string][]byte{"altered": flipped, "cut": whole[:len(whole)-1], "empty": {}, "gone": nil} {
			if data == nil {
				require.NoError(t, os.Remove(path))
			} else {
				require.NoError(t, os.WriteFile(path, data, 0o600))
			}
			b, err := backup.Open(t.Context(), p, "", nil)
			require.NoError(t, err)
			err = b.Check(t.Context())
			require.Error(t, err, "%s %s", path, what)
			hash, _, _ := strings.Cut(filepath.Base(path), ".")
			assert.Contains(t, err.Error(), hash, what)
		}
		require.NoError(t, os.WriteFile(path, whole, 0o600))
	}
	b, err := backup.Open(t.Context(), p, "", nil)
	require.NoError(t, err)
	require.NoError(t, b.Check(t.Context()))

	// A restore that does not come to its end, and the next.
	parts := b.Manifest.Tables[len(b.Manifest.Tables)-1].Parts
	for i := len(b.Manifest.Tables) - 1; len(parts) == 0; i-- {
		parts = b.Manifest.Tables[i].Parts
	}
	last := filepath.Join(folder, "objects", parts[0].SHA256[:2], parts[0].SHA256+".gz")
	whole, err := os.ReadFile(last)
	require.NoError(t, err)
	require.NoError(t, os.Remove(last))
	to := backup.Target{DSN: mariadbtest.New(t), Bucket: bucket.InMemory()}
	require.ErrorContains(t, b.Restore(t.Context(), to), "is not whole")
	_, err = store.Open(t.Context(), to.DSN)
	require.ErrorContains(t, err, "half of a restore")
	require.NoError(t, os.WriteFile(last, whole, 0o600))
	require.NoError(t, b.Restore(t.Context(), to))
	assert.Equal(t, rows(t, c.Store), rows(t, again(t, to.DSN)))

	require.NoError(t, p.Put(t.Context(), "backups/2020-01-01T00-00-00Z.json", func(w io.Writer) error {
		_, err := io.WriteString(w, `{"format": 2, "program": "v99"}`)
		return err
	}))
	_, err = backup.Open(t.Context(), p, "2020-01-01T00-00-00Z", nil)
	require.ErrorContains(t, err, "it was made by v99")
	b.Manifest.Migrations = append(b.Manifest.Migrations, "9999-later")
	require.ErrorContains(t, b.Restore(t.Context(), backup.Target{DSN: mariadbtest.New(t), Bucket: bucket.InMemory()}), "of a newer version")
}

// TestAnOlderBackupIsBroughtUpToDate restores a backup of the time before the last migrations.
func TestAnOlderBackupIsBroughtUpToDate(t *testing.T) {
	c := newCrate(t)
	p, _ := place(t)
	_, err := backup.Make(t.Context(), c.Source, p, backup.Options{Now: time.Now})
	require.NoError(t, err)
	b, err := backup.Open(t.Context(), p, "", nil)
	require.NoError(t, err)
	m := &b.Manifest
	m.Migrations = m.Migrations[:len(m.Migrations)-2]
	m.Tables = slices.DeleteFunc(m.Tables, func(t backup.Table) bool { return t.Name == "backups" })
	for i := range m.Tables { // those have no rows here
		if m.Tables[i].Name == "totps" || m.Tables[i].Name == "recovery_codes" {
			m.Tables[i].Columns = m.Tables[i].Columns[:2]
		}
	}
	to := backup.Target{DSN: mariadbtest.New(t), Bucket: bucket.InMemory()}
	require.NoError(t, b.Restore(t.Context(), to))
	assert.Equal(t, rows(t, c.Store), rows(t, again(t, to.DSN)))
}

// TestWhatIsLostIsSaid backs up a service that has lost a file: everything else is in the backup.
// One that an older backup has is still there.
func TestWhatIsLostIsSaid(t *testing.T) {
	c := newCrate(t)
	p, _ := place(t)
	hash := c.add(t, "will be lost")
	require.NoError(t, c.Bucket.Drop(context.Background(), bucket.Hash(hash)))
	made, err := backup.Make(t.Context(), c.Source, p, backup.Options{Now: time.Now})
	require.NoError(t, err)
	assert.Equal(t, []string{hash}, made.Lost)
	assert.Equal(t, 1, made.Made.Files)
	_, err = c.Bucket.PutBytes(t.Context(), []byte("will be lost"))
	require.NoError(t, err)
	_, err = backup.Make(t.Context(), c.Source, p, backup.Options{Now: time.Now})
	require.NoError(t, err)
	require.NoError(t, c.Bucket.Drop(t.Context(), bucket.Hash(hash)))
	made, err = backup.Make(t.Context(), c.Source, p, backup.Options{Now: time.Now})
	require.NoError(t, err)
	assert.Empty(t, made.Lost)
	b, err := backup.Open(t.Context(), p, made.Name, nil)
	require.NoError(t, err)
	to := backup.Target{DSN: mariadbtest.New(t), Bucket: bucket.InMemory()}
	require.NoError(t, b.Restore(t.Context(), to))
	require.NoError(t, to.Bucket.Check(t.Context(), bucket.Hash(hash)))
	_, err = bucket.OpenPlace(t.Context(), filepath.Join(t.TempDir(), "nowhere"), false)
	require.ErrorContains(t, err, "there is no folder")
}
