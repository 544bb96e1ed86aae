package store_test

import (
	"context"
	"database/sql"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/scope"
)

// texts returns the first column of what a statement finds.
func texts(t *testing.T, db interface {
	QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error)
}, ctx context.Context, query string) (out []string) { //nolint:revive // t first
	t.Helper()
	rows, err := db.QueryContext(ctx, query)
	require.NoError(t, err, query)
	defer func() { _ = rows.Close() }()
	for rows.Next() {
		var text string
		require.NoError(t, rows.Scan(&text))
		out = append(out, text)
	}
	require.NoError(t, rows.Err())
	return out
}

// TestEveryTableIsLimitedOrShared holds the tables of the database against those that
// somebody decided about: what is new is seen by nobody who is limited until it is said
// whose it is.
func TestEveryTableIsLimitedOrShared(t *testing.T) {
	dsn := mariadbtest.New(t)
	open(t, dsn)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	found := texts(t, db, t.Context(), "SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE() AND table_type = 'BASE TABLE'")
	limited, shared := scope.Known()
	said := slices.Concat(limited, shared)
	slices.Sort(said)
	slices.Sort(found)
	assert.Equal(t, said, found)
	for _, name := range limited { // each can be read so, with and without a lock
		for _, lock := range []string{"", " FOR UPDATE", " LOCK IN SHARE MODE"} {
			assert.Equal(t, []string{"0"}, texts(t, scope.Pool{DB: db}, scope.Limited(t.Context(), []int64{1, 2}), "SELECT COUNT(*) FROM "+name+lock), name+lock)
		}
	}
}

// twoClients makes a studio with a family, and two clients with one each.
func twoClients(t *testing.T) (s *store.Store, clients, families []int64) {
	t.Helper()
	s = open(t, mariadbtest.New(t))
	for _, name := range []string{"Studio", "Amberly", "Birkfold"} {
		c := store.Client{Name: name, Studio: name == "Studio"}
		require.NoError(t, s.AddClient(t.Context(), &c))
		f := store.Family{ClientID: c.ID, Name: name + " Sans", Version: 1, Status: "active", CreatedAt: time.Now(), ChangedAt: time.Now()}
		require.NoError(t, store.Add(t.Context(), s, &f))
		clients, families = append(clients, c.ID), append(families, f.ID)
	}
	return s, clients, families
}

func names(t *testing.T, ctx context.Context, s *store.Store) []string { //nolint:revive // t first
	t.Helper()
	var out []string
	require.NoError(t, s.On(ctx).Table("families").Order("name").Pluck("name", &out).Error)
	return out
}

// TestWhoIsLimitedSeesLess reads families as several people see them, within and without a
// transaction.
func TestWhoIsLimitedSeesLess(t *testing.T) {
	s, clients, families := twoClients(t)
	ctx := scope.Limited(t.Context(), clients[1:2])
	assert.Equal(t, []string{"Amberly Sans", "Birkfold Sans", "Studio Sans"}, names(t, t.Context(), s))
	assert.Equal(t, []string{"Amberly Sans"}, names(t, ctx, s))
	assert.Equal(t, []string{"Amberly Sans", "Birkfold Sans"}, names(t, scope.Limited(t.Context(), []int64{clients[2], clients[1], clients[2]}), s))
	assert.Empty(t, names(t, scope.Limited(t.Context(), nil), s), "limited to nothing")
	assert.Len(t, names(t, scope.Everything(ctx), s), 3)
	const own = "WITH one AS (SELECT * FROM families) SELECT COUNT(*) FROM one"
	var n int64
	require.NoError(t, s.On(t.Context()).Raw(own).Scan(&n).Error)
	assert.Equal(t, int64(3), n)
	require.Error(t, s.On(ctx).Raw(own).Scan(&n).Error, "what cannot be limited is not read")
	require.NoError(t, s.Tx(ctx, func(tx *store.Store) error {
		assert.Equal(t, []string{"Amberly Sans"}, names(t, ctx, tx))
		return nil
	}))
	_, err := store.First[store.Family](s.On(ctx).Where("id = ?", families[2]))
	require.ErrorIs(t, err, store.ErrNotFound)

	site := store.Site{ClientID: clients[1], Name: "Pages", Builder: "self-hosted", Domains: []string{}, Version: 1}
	require.NoError(t, store.Add(t.Context(), s, &site))
	require.NoError(t, s.On(t.Context()).Exec("INSERT INTO site_families (site_id, family_id, recipe) VALUES (?, ?, '')", site.ID, families[0]).Error)
	assert.Equal(t, []string{"Amberly Sans", "Studio Sans"}, names(t, ctx, s), "what its site uses is seen")
	_, err = familydb.In(s).FamilyByName(ctx, clients[0], "Studio Sans")
	require.ErrorIs(t, err, store.ErrNotFound, "but not taken to be changed")
	_, err = familydb.In(s).FamilyByName(ctx, clients[1], "Amberly Sans")
	require.NoError(t, err)
}

// TestWhatIsTakenStaysTaken locks a family as somebody limited does: others wait for it, and
// for no other.
func TestWhatIsTakenStaysTaken(t *testing.T) {
	s, clients, families := twoClients(t)
	ctx := scope.Limited(t.Context(), clients[1:])
	require.NoError(t, s.Tx(ctx, func(tx *store.Store) error {
		if _, err := familydb.In(tx).FamilyByName(ctx, clients[1], "Amberly Sans"); err != nil {
			return err
		}
		var got int64
		err := s.On(t.Context()).Raw("SELECT id FROM families WHERE id = ? FOR UPDATE NOWAIT", families[1]).Scan(&got).Error
		assert.True(t, store.Again(err), "%v", err)
		return s.On(t.Context()).Raw("SELECT id FROM families WHERE id = ? FOR UPDATE NOWAIT", families[2]).Scan(&got).Error
	}))
}

// TestLimitsAreToldApart compares what is kept for one limit and for another.
func TestLimitsAreToldApart(t *testing.T) {
	none := scope.Of(t.Context())
	one, two := scope.Of(scope.Limited(t.Context(), []int64{7})), scope.Of(scope.Limited(t.Context(), []int64{7, 9}))
	assert.Nil(t, none)
	assert.NotEqual(t, one.Key(), two.Key())
	assert.NotEqual(t, none.Key(), scope.Of(scope.Limited(t.Context(), nil)).Key())
	assert.Equal(t, two.Key(), scope.Of(scope.Limited(t.Context(), []int64{9, 7, 9})).Key())
	assert.True(t, none.Has(3) && one.Has(7) && two.Has(9))
	assert.False(t, one.Has(9))
	assert.Zero(t, scope.Concerned(t.Context()))
	assert.Equal(t, int64(5), scope.Concerned(scope.About(t.Context(), 5)))
}
