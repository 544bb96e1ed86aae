package store_test

import (
	"errors"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/store"
)

// TestAFrozenNodeIsLeft freezes the node that a statement and a transaction are under way on: both
// go on elsewhere, or end, long before the node would have been waited for.
func TestAFrozenNodeIsLeft(t *testing.T) {
	dsn := mariadbtest.New(t)
	first, second := mariadbtest.NewNode(t, dsn).Run(), mariadbtest.NewNode(t, dsn).Run()
	s := open(t, mariadbtest.Through(t, dsn, first, second))
	ctx := t.Context()
	require.NoError(t, s.Ready(ctx))
	defer first.Thaw()
	begun := time.Now()
	tries := 0
	require.NoError(t, s.Tx(ctx, func(tx *store.Store) error {
		if tries++; tries == 1 {
			first.Freeze()
		}
		return tx.On(ctx).Exec("REPLACE INTO readiness (id, at) VALUES (1, NOW(6))").Error
	}))
	assert.Greater(t, tries, 1, "the first try was on the frozen node")
	assert.Less(t, time.Since(begun), 10*time.Second)
	assert.Greater(t, second.Served.Load(), int32(1))
	require.NoError(t, s.Ready(ctx))
}

// TestWhatIsLostIsDoneElsewhere kills the node under a transaction: what was not committed is done
// once, on the other node. What fails by itself is not tried again.
func TestWhatIsLostIsDoneElsewhere(t *testing.T) {
	dsn := mariadbtest.New(t)
	first, second := mariadbtest.NewNode(t, dsn).Run(), mariadbtest.NewNode(t, dsn).Run()
	s := open(t, mariadbtest.Through(t, dsn, first, second))
	ctx := t.Context()
	tries := 0
	require.NoError(t, s.Tx(ctx, func(tx *store.Store) error {
		err := tx.On(ctx).Exec("INSERT INTO change_slots (slot, n) VALUES (1000, 1)").Error
		if tries++; err == nil && tries == 1 {
			first.Kill()
			err = tx.On(ctx).Exec("UPDATE change_slots SET n = 2 WHERE slot = 1000").Error
		}
		return err
	}))
	assert.Equal(t, 2, tries)
	var changes int
	require.NoError(t, s.On(ctx).Raw("SELECT n FROM change_slots WHERE slot = 1000").Scan(&changes).Error)
	assert.Equal(t, 1, changes, "the second try found nothing of the first")
	tries = 0
	other := errors.New("of its own")
	require.ErrorIs(t, s.Tx(ctx, func(*store.Store) error { tries++; return other }), other)
	assert.Equal(t, 1, tries)

	second.Kill()
	begun := time.Now()
	require.Error(t, s.Tx(ctx, func(tx *store.Store) error { return tx.On(ctx).Exec("SELECT 1").Error }))
	assert.Less(t, time.Since(begun), 15*time.Second, "where no node is left, that is said")
	first.Run()
	require.Eventually(t, func() bool { return s.Ready(ctx) == nil }, 10*time.Second, 50*time.Millisecond, "one that comes back serves")
}

// TestClocksThatAreApartAreTold opens a database whose clock is another day's.
func TestClocksThatAreApartAreTold(t *testing.T) {
	dsn := mariadbtest.New(t)
	require.NoError(t, open(t, dsn).Ready(t.Context()))
	for said, at := range map[string]time.Time{"ahead of": time.Now().Add(-26 * time.Hour), "behind": time.Now().Add(3 * time.Hour)} {
		apart := open(t, dsn+"?timestamp="+strconv.FormatInt(at.Unix(), 10))
		err := apart.Ready(t.Context())
		require.ErrorContains(t, err, "this machine's clock is ")
		require.ErrorContains(t, err, said+" the database's; have both set by NTP")
		assert.True(t, store.IsUnavailable(err))
	}
}

// TestTheOnlyNodeIsNotWaitedFor says at once what is wrong with a server that has no others.
func TestTheOnlyNodeIsNotWaitedFor(t *testing.T) {
	dsn := mariadbtest.New(t)
	only := mariadbtest.NewNode(t, dsn).Run()
	s := open(t, mariadbtest.Through(t, dsn, only))
	only.Kill()
	tries := 0
	err := s.Tx(t.Context(), func(tx *store.Store) error {
		tries++
		return tx.On(t.Context()).Exec("SELECT 1").Error
	})
	require.Error(t, err)
	assert.True(t, store.IsUnavailable(err), "%v", err)
	assert.LessOrEqual(t, tries, 1)
}
