package store_test

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/metadata"
	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/importdb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/store/sessiondb"
)

func TestMain(m *testing.M) { mariadbtest.Main(m) }

func open(t testing.TB, dsn string) *store.Store {
	t.Helper()
	s, err := store.Open(context.Background(), dsn)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s
}

// TestProcessesStartTogether brings the tables of one database up to date from
// several processes at once, and again afterwards.
func TestProcessesStartTogether(t *testing.T) {
	dsn := mariadbtest.New(t)
	var all sync.WaitGroup
	for range 4 {
		all.Go(func() {
			s, err := store.Open(context.Background(), dsn)
			if assert.NoError(t, err) {
				assert.NoError(t, s.Close())
			}
		})
	}
	all.Wait()
	require.NoError(t, open(t, dsn).AddClient(t.Context(), &store.Client{Name: "Holmvik Ferries"}))
}

// TestReadinessTellsTheTruth asks a database that is read-only, frozen and gone.
func TestReadinessTellsTheTruth(t *testing.T) {
	s := open(t, mariadbtest.New(t))
	require.NoError(t, s.Ready(t.Context()))

	pid := mariadbtest.PID()
	require.NoError(t, syscall.Kill(pid, syscall.SIGSTOP))
	require.Eventually(t, func() bool { // a signal takes a moment to reach all threads
		tasks, err := filepath.Glob(fmt.Sprintf("/proc/%d/task/*/stat", pid))
		for _, task := range tasks {
			if stat, err := os.ReadFile(task); err == nil && !strings.Contains(string(stat), ") T ") {
				return false
			}
		}
		return err == nil && len(tasks) > 0
	}, 5*time.Second, time.Millisecond)
	ctx, cancel := context.WithTimeout(t.Context(), 300*time.Millisecond)
	err := s.Ready(ctx)
	cancel()
	require.NoError(t, syscall.Kill(pid, syscall.SIGCONT))
	require.ErrorContains(t, err, "does not answer")
	assert.True(t, store.IsUnavailable(err))
	require.NoError(t, s.Ready(t.Context()))

	require.NoError(t, s.Close())
	assert.Error(t, s.Ready(t.Context()))
}

// TestErrorsAreToldApart holds errors of the server against those of statements.
func TestErrorsAreToldApart(t *testing.T) {
	for number, want := range map[uint16]bool{1047: true, 1290: true, 1040: true, 1053: true, 1062: false, 1064: false, 1146: false} {
		assert.Equal(t, want, store.IsUnavailable(&mysql.MySQLError{Number: number}), number)
	}
	_, err := store.Open(t.Context(), "x:y@unix("+filepath.Join(t.TempDir(), "none")+")/z")
	assert.True(t, store.IsUnavailable(err), "%v", err)
	_, err = store.Open(t.Context(), "x:y@tcp(127.0.0.1:1)/z")
	assert.True(t, store.IsUnavailable(err), "%v", err)
	assert.True(t, store.IsFull(&os.PathError{Err: syscall.ENOSPC}))
	assert.True(t, store.IsFull(&mysql.MySQLError{Number: 1114}))
	assert.False(t, store.IsFull(&os.PathError{Err: syscall.ENOENT}))
}

// TestDeadlockIsTriedAgain makes two transactions wait for each other: the one
// the database gives up is run again, and both end well.
func TestDeadlockIsTriedAgain(t *testing.T) {
	s := open(t, mariadbtest.New(t))
	ctx := t.Context()
	client := store.Client{Name: "Holmvik Ferries"}
	require.NoError(t, s.AddClient(ctx, &client))
	ids := make([]int64, 2)
	for i, name := range []string{"A", "B"} {
		f := store.Family{ClientID: client.ID, Name: name, Version: 1, CreatedAt: time.Now()}
		require.NoError(t, familydb.In(s).AddFamily(ctx, &f))
		ids[i] = f.ID
	}
	var met sync.WaitGroup
	met.Add(2)
	attempts := make([]int, 2)
	var both sync.WaitGroup
	for i := range 2 {
		both.Go(func() {
			assert.NoError(t, s.Tx(context.Background(), func(tx *store.Store) error {
				attempts[i]++
				if err := familydb.In(tx).Recount(ctx, ids[i], time.Now(), 1); err != nil {
					return err
				}
				if attempts[i] == 1 { // both hold one row before either asks for the other
					met.Done()
					met.Wait()
				}
				return familydb.In(tx).Recount(ctx, ids[1-i], time.Now(), 2)
			}))
		})
	}
	both.Wait()
	assert.Equal(t, 3, attempts[0]+attempts[1], "one of the two ran twice")
}

// TestThingsGoIntoOpenImportsOnly puts fonts into a import in one statement,
// from many sides, and into one that is being taken in.
func TestThingsGoIntoOpenImportsOnly(t *testing.T) {
	s := open(t, mariadbtest.New(t))
	ctx := t.Context()
	client := store.Client{Name: "Holmvik Ferries"}
	require.NoError(t, s.AddClient(ctx, &client))
	d := store.Import{ClientID: client.ID, Title: "Signs", Origin: "client", State: importdb.ImportOpen, CreatedAt: time.Now()}
	require.NoError(t, importdb.In(s).AddImport(ctx, &d))
	thing := func(path, family string) *store.ImportItem {
		return &store.ImportItem{
			ImportID: d.ID, Path: path, Kind: importdb.ItemFont, SHA256: "ab", Bytes: 7, Marked: true,
			Summary: store.ItemSummary{Format: "ttf", Faces: []store.ItemFace{{Family: family}}},
		}
	}
	var all sync.WaitGroup
	var added atomic.Int32
	for range 8 { // one of them is the first
		all.Go(func() {
			put, err := importdb.In(s).PutInOpen(context.Background(), thing("signs/bold.ttf", "Skerrow Sans"))
			if assert.NoError(t, err) && put {
				added.Add(1)
			}
		})
	}
	all.Wait()
	assert.EqualValues(t, 1, added.Load())
	first := thing("signs/light.ttf", "Skerrow’s “Sans”\\")
	put, err := importdb.In(s).PutInOpen(ctx, first)
	require.NoError(t, err)
	require.True(t, put)
	kept, err := importdb.In(s).ImportItem(ctx, first.ID)
	require.NoError(t, err)
	assert.Equal(t, first, kept)

	require.NoError(t, importdb.In(s).SetImportState(ctx, d.ID, importdb.ImportAccepting))
	put, err = importdb.In(s).PutInOpen(ctx, thing("signs/late.ttf", "Skerrow Sans"))
	require.NoError(t, err)
	assert.False(t, put)
	m, err := importdb.In(s).Meets(ctx, thing("signs/late.ttf", "Skerrow Sans"), client.ID, "Skerrow Sans")
	require.NoError(t, err)
	assert.Equal(t, store.Meeting{Twice: true}, m)
	require.NoError(t, familydb.In(s).AddFamily(ctx, &store.Family{ClientID: client.ID, Name: "Skerrow Sans", Version: 1, CreatedAt: time.Now()}))
	m, err = importdb.In(s).Meets(ctx, thing("signs/bold.ttf", "SKERROW SANS"), client.ID, "SKERROW SANS")
	require.NoError(t, err)
	assert.Equal(t, store.Meeting{There: true, Twice: true, Named: true}, m)
}

func TestFailedTransactionLeavesNothing(t *testing.T) {
	s := open(t, mariadbtest.New(t))
	ctx := t.Context()
	err := s.Tx(ctx, func(tx *store.Store) error {
		require.NoError(t, tx.AddClient(ctx, &store.Client{Name: "Half"}))
		return tx.AddClient(ctx, &store.Client{Name: "half"}) // names are compared without regard to case
	})
	require.ErrorIs(t, err, store.ErrTaken)
	clients, err := s.Clients(ctx)
	require.NoError(t, err)
	assert.Empty(t, clients)
}

func TestWhatIsKeptComesBack(t *testing.T) {
	s := open(t, mariadbtest.New(t))
	ctx := t.Context()
	now := time.Now().UTC().Truncate(time.Microsecond)
	client := store.Client{Name: "Orrery Hall", Studio: true}
	require.NoError(t, s.AddClient(ctx, &client))
	family := store.Family{ClientID: client.ID, Name: "Umbrisk", Origin: "bought", Version: 1, CreatedAt: now}
	require.NoError(t, familydb.In(s).AddFamily(ctx, &family))
	face := store.Face{FamilyID: family.ID, FaceKey: "k", Style: "Regular", Width: 87.5, Weight: 400, Slope: "upright"}
	require.NoError(t, familydb.In(s).AddFace(ctx, &face))
	file := store.File{SHA256: "0123456789abcdef0123456789abcdef0123456789abcdef0123456789abcdef", Bytes: 7, Format: "otf", Name: "字 ß.otf", AddedAt: now, AddedBy: "Ines"}
	require.NoError(t, familydb.In(s).AddFile(ctx, &file))
	read := metadata.Face{Names: metadata.Names{Family: "Umbrisk", Designer: "Zoë 𝔘"}, Features: []string{"kern"}, Problems: []metadata.Problem{}}
	require.NoError(t, familydb.In(s).AddFaceFile(ctx, &store.FaceFile{FaceID: face.ID, FileID: file.ID, Version: "1", Current: true, Metadata: read}))
	got, err := familydb.In(s).Family(ctx, family.ID)
	require.NoError(t, err)
	assert.Equal(t, now, got.CreatedAt)
	assert.Equal(t, client, got.Client)
	assert.Equal(t, read, got.Faces[0].Files[0].Metadata)
	assert.Equal(t, file, got.Faces[0].Files[0].File)

	got.Note = "changed"
	require.NoError(t, librarydb.In(s).ChangeFamily(ctx, got))
	require.ErrorIs(t, librarydb.In(s).ChangeFamily(ctx, got), store.ErrStale, "the version read is not the one that stands")
	_, err = familydb.In(s).Family(ctx, 999)
	require.ErrorIs(t, err, store.ErrNotFound)
}

func TestSessionsRunOut(t *testing.T) {
	s := open(t, mariadbtest.New(t))
	ctx := t.Context()
	now := time.Now().UTC()
	require.NoError(t, sessiondb.In(s).SaveSession(ctx, &store.Session{Token: "a", Data: []byte{1}, Expiry: now.Add(time.Hour)}))
	require.NoError(t, sessiondb.In(s).SaveSession(ctx, &store.Session{Token: "a", Data: []byte{2}, Expiry: now.Add(time.Hour)}))
	got, err := sessiondb.In(s).Session(ctx, "a", now)
	require.NoError(t, err)
	assert.Equal(t, []byte{2}, got.Data)
	_, err = sessiondb.In(s).Session(ctx, "a", now.Add(2*time.Hour))
	require.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, sessiondb.In(s).DeleteSession(ctx, "other", now.Add(2*time.Hour)))
	_, err = sessiondb.In(s).Session(ctx, "a", now)
	require.ErrorIs(t, err, store.ErrNotFound, "those that ran out are swept away")
}

// TestASessionThatEndedStaysEnded writes a session once more after it was ended, as a
// request does that began before.
func TestASessionThatEndedStaysEnded(t *testing.T) {
	s := open(t, mariadbtest.New(t))
	ctx, now := t.Context(), time.Now().UTC()
	session := &store.Session{Token: "a", Data: []byte{1}, Expiry: now.Add(24 * time.Hour)}
	require.NoError(t, sessiondb.In(s).SaveSession(ctx, session))
	require.NoError(t, sessiondb.In(s).DeleteSession(ctx, "a", now))
	require.NoError(t, sessiondb.In(s).SaveSession(ctx, session))
	_, err := sessiondb.In(s).Session(ctx, "a", now)
	require.ErrorIs(t, err, store.ErrNotFound)
	// What is kept of it goes in time.
	require.NoError(t, sessiondb.In(s).DeleteSession(ctx, "b", now.Add(2*time.Hour)))
	require.NoError(t, sessiondb.In(s).SaveSession(ctx, session))
	_, err = sessiondb.In(s).Session(ctx, "a", now)
	require.NoError(t, err)
}

func TestAddressThatCannotBeRead(t *testing.T) {
	_, err := store.Open(t.Context(), "nonsense")
	require.ErrorContains(t, err, "it looks like user:password@tcp(host:3306)/name")
	_, err = store.Open(t.Context(), "a:b@tcp(127.0.0.1:1)/x")
	require.ErrorContains(t, err, "reach the database at 127.0.0.1:1")
}

// TestManyFontsOfAFamilyArePassedOver lists the families of an import in which most
// fonts name one of them, in several spellings.
func TestManyFontsOfAFamilyArePassedOver(t *testing.T) {
	dsn := mariadbtest.New(t)
	s, ctx := open(t, dsn), t.Context()
	client := &store.Client{Name: "Holmvik Ferries"}
	require.NoError(t, s.AddClient(ctx, client))
	d := &store.Import{ClientID: client.ID, Title: "all", State: importdb.ImportOpen, CreatedAt: time.Now()}
	require.NoError(t, importdb.In(s).AddImport(ctx, d))
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	_, err = db.ExecContext(ctx, `INSERT INTO import_items (import_id, path, path_hash, kind, why, sha256, bytes, summary, origin, family, marked, taken, outcome, unpacked, said, face_key, faces)
		SELECT ?, seq, SHA2(seq, 256), 'font', '', SHA2(seq, 256), 1, '{}', '', '', TRUE, FALSE, '', FALSE,
		IF(seq < 2500, IF(seq % 2, 'Mora', 'MORA'), CONCAT('Family ', LPAD(seq DIV 3, 5, '0'))), seq % 7, 1 FROM seq_1_to_3100`, d.ID)
	require.NoError(t, err)
	var all []string
	for page := (store.Page{Limit: 60}); ; {
		names, err := importdb.In(s).ArrivedNames(ctx, d.ID, page)
		require.NoError(t, err)
		require.LessOrEqual(t, len(names), 60)
		all = append(all, names...)
		if len(names) < 60 {
			break
		}
		page.AfterName = names[len(names)-1]
	}
	assert.Len(t, all, 202)
	assert.Equal(t, "Family 00833", all[0])
	assert.Equal(t, "mora", strings.ToLower(all[201]))
	faces, err := importdb.In(s).ArrivedFaces(ctx, d.ID, all[200:])
	require.NoError(t, err)
	assert.Len(t, faces, 2+7, "one of each face")
}
