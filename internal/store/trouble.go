package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"io"
	"net"
	"slices"
	"strings"
	"syscall"
	"time"

	"github.com/go-sql-driver/mysql"

	"sparecrate/internal/store/nodes"
)

// Every call of the database ends after a while, also where the server is frozen or
// its network gone.
const (
	connectPatience = 5 * time.Second
	answerPatience  = 20 * time.Second // of one statement; waiting for a lock ends before
	lockWait        = 10               // seconds
	clusterIdle     = 3                // seconds that a transaction may stand still in a cluster
	nodePatience    = 4 * time.Second  // until another node of a cluster serves
	nodeAgain       = 200 * time.Millisecond
)

// Numbers of MariaDB's errors that speak of the server and not of the statement.
var (
	serverTrouble = []uint16{
		1030,             // a storage engine's error
		1040,             // too many connections
		1047,             // a node without majority
		1053, 1077, 1079, // shutting down
		1129, 1130, 1203, // this host or account has too many connections or errors
		1180,       // a commit failed, as when a cluster falls apart
		1205, 1213, // a lock or deadlock that outlasted all attempts
		1290, 1792, 1836, // read-only
		1317, 1927, 1928, 1969, 3024, // ended by somebody or for taking too long
	}
	unfit = []uint16{
		1264, 1406, // out of range, too long
		1292, 1366, 1411, // a value that is none, characters that cannot be stored
		3854, 4025, // a check
	}
)

// IsUnavailable reports whether an error is the database's trouble rather than the
// caller's: it cannot be reached, does not answer in time, or takes no changes.
func IsUnavailable(err error) bool {
	var told *mysql.MySQLError
	if errors.As(err, &told) {
		return slices.Contains(serverTrouble, told.Number)
	}
	var network *net.OpError
	return errors.Is(err, mysql.ErrInvalidConn) || errors.Is(err, driver.ErrBadConn) || errors.Is(err, sql.ErrConnDone) ||
		errors.As(err, &network) && (network.Net == socketNetwork || network.Op == "dial") || errors.Is(err, mysql.ErrMalformPkt) || strings.Contains(err.Error(), "sql: database is closed") || errors.Is(err, errNotReady)
}

// socketNetwork is the network of the private server's socket.
const socketNetwork = "unix"

// IsFull reports whether an error says that a disk is full, the database's or ours.
func IsFull(err error) bool {
	return nodes.Full(err) || errors.Is(err, syscall.ENOSPC) || errors.Is(err, syscall.EDQUOT)
}

// IsUnfit reports whether the database refused a value as too long, out of range or not
// storable. Values of requests are checked before; this is the last line.
func IsUnfit(err error) bool {
	var told *mysql.MySQLError
	return errors.As(err, &told) && slices.Contains(unfit, told.Number)
}

var errNotReady = errors.New("the database is not ready")

// Ready reports whether the database takes changes: it writes one.
func (s *Store) Ready(ctx context.Context) error {
	err := s.On(ctx).Exec("REPLACE INTO readiness (id, at) VALUES (1, NOW(6))").Error
	var told *mysql.MySQLError
	switch {
	case err == nil:
		return s.clocksAgree(ctx)
	case errors.As(err, &told) && slices.Contains([]uint16{1290, 1792, 1836}, told.Number):
		return fmt.Errorf("%w: it is read-only", errNotReady)
	case errors.As(err, &told) && told.Number == 1047:
		return fmt.Errorf("%w: its node has no majority of the cluster", errNotReady)
	case IsFull(err):
		return fmt.Errorf("%w: its disk is full", errNotReady)
	case errors.Is(err, context.DeadlineExceeded), errors.Is(err, io.EOF):
		return fmt.Errorf("%w: it does not answer", errNotReady)
	}
	return fmt.Errorf("%w: %w", errNotReady, err)
}

// clocksApart is how far the clocks of the service and the database may be apart: what ends at a
// time, like a session, is written by one and read by another.
const clocksApart = time.Minute

// clocksAgree says where this machine's clock and the database's are apart.
func (s *Store) clocksAgree(ctx context.Context) error {
	var theirs time.Time
	before := time.Now()
	if err := s.On(ctx).Raw("SELECT NOW(6)").Row().Scan(&theirs); err != nil {
		return fmt.Errorf("%w: %w", errNotReady, err)
	}
	ahead, how := before.Sub(theirs), "ahead of"
	if after := time.Since(theirs); after < 0 {
		ahead, how = -after, "behind"
	}
	if ahead > clocksApart {
		return fmt.Errorf("%w: this machine's clock is %s %s the database's; have both set by NTP", errNotReady, ahead.Round(time.Second), how)
	}
	return nil
}
