package schema

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"sparecrate/internal/store/nodes"
)

// How the tables are owned while they are updated: by one process, for as long as it says
// every few seconds that it lives.
var (
	ownedFor   = 20 * time.Second
	renewEvery = 4 * time.Second
)

const (
	// lockPatience is how long a process waits for another one that updates the tables.
	lockPatience = 10 * time.Minute
	askEvery     = 250 * time.Millisecond
	ownerTable   = "migration_owner"
)

// errLost ends an update whose process has not been able to say that it lives.
var errLost = errors.New("the database did not answer for too long while its tables were updated; start again")

// owning runs do while no other process updates the tables. A lock of the server (GET_LOCK)
// would do on one server and is local to a node in a cluster, so the owner is a row: whoever
// changes it first has it, on whichever node. One that died is followed by another when its
// time has run out.
func owning(ctx context.Context, db *gorm.DB, do func(ctx context.Context) error) error {
	me := rand.Text()
	for _, statement := range []string{
		"CREATE TABLE IF NOT EXISTS " + ownerTable + " (id INT PRIMARY KEY, holder VARCHAR(40) NOT NULL, until DATETIME(6) NOT NULL)",
		"INSERT IGNORE INTO " + ownerTable + " VALUES (1, '', NOW(6))",
	} {
		if err := nodes.Retry(ctx, func() error { return db.WithContext(ctx).Exec(statement).Error }); err != nil {
			return fmt.Errorf("take turns with other processes in updating the tables: %w", err)
		}
	}
	change := func(ctx context.Context, where string) (bool, error) {
		r := db.WithContext(ctx).Exec("UPDATE "+ownerTable+" SET holder = @me, until = NOW(6) + INTERVAL @seconds SECOND WHERE id = 1 AND "+where,
			map[string]any{"me": me, "seconds": int(ownedFor.Seconds())})
		return r.RowsAffected == 1, r.Error
	}
	for start := time.Now(); ; {
		mine, err := change(ctx, "(holder = '' OR until < NOW(6))")
		if mine && err == nil {
			break
		}
		if err != nil && !nodes.Again(err) {
			return fmt.Errorf("wait for another process to update the tables: %w", err)
		}
		if time.Since(start) > lockPatience {
			return errors.New("wait for another process to update the tables: it takes too long")
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(askEvery):
		}
	}
	owned, lose := context.WithCancelCause(ctx)
	renewed := make(chan struct{})
	go func() {
		defer close(renewed)
		last := time.Now()
		for {
			select {
			case <-owned.Done():
				return
			case <-time.After(renewEvery):
			}
			mine, err := change(owned, "holder = @me")
			switch {
			case err == nil && mine:
				last = time.Now()
			case err == nil, time.Since(last) > ownedFor-renewEvery:
				lose(errLost)
				return
			}
		}
	}()
	err := do(owned)
	if lost := context.Cause(owned); errors.Is(lost, errLost) {
		err = lost
	}
	lose(nil)
	<-renewed
	// Also after an interrupt: whoever waits goes on at once.
	_ = db.WithContext(context.WithoutCancel(ctx)).Exec("UPDATE "+ownerTable+" SET holder = '' WHERE id = 1 AND holder = ?", me).Error
	return err
}
