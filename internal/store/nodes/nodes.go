// Package nodes connects to a MariaDB server, or to the nodes of a cluster of them, and says
// which of their answers mean that something is to be tried again.
package nodes

import (
	"context"
	"database/sql/driver"
	"errors"
	"fmt"
	"io"
	"net"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/go-sql-driver/mysql"
)

// Numbers of errors MariaDB answers with.
const (
	// NotPrepared is of a node of a cluster that has no majority, or is not level with it.
	NotPrepared     = 1047
	deadlock        = 1213
	lockWaitTimeout = 1205
	recordChanged   = 1020 // also a failed certification in a cluster
)

const attempts = 5

// Again says whether a transaction that failed so would do better at another try.
func Again(err error) bool {
	var e *mysql.MySQLError
	return errors.As(err, &e) && (e.Number == deadlock || e.Number == lockWaitTimeout || e.Number == recordChanged)
}

// Retry does something that the database gives up for a deadlock, or in a cluster for a
// conflict, until it does not, a few times.
func Retry(ctx context.Context, do func() error) (err error) {
	for attempt := range attempts {
		if err = do(); !Again(err) {
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(time.Duration(10<<attempt) * time.Millisecond):
		}
	}
	return fmt.Errorf("the database gave up after %d attempts: %w", attempts, err)
}

// Lost says whether a statement failed with the connection or the node it went to: another node
// may take it.
func Lost(err error) bool {
	var told *mysql.MySQLError
	if errors.As(err, &told) {
		return slices.Contains(leaving, told.Number)
	}
	var network net.Error
	return errors.Is(err, driver.ErrBadConn) || errors.Is(err, mysql.ErrInvalidConn) || errors.Is(err, mysql.ErrMalformPkt) ||
		errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, net.ErrClosed) || errors.As(err, &network) && !errors.Is(err, context.DeadlineExceeded)
}

// Full says whether a statement failed because the node that it went to has no room.
func Full(err error) bool {
	var told *mysql.MySQLError
	return errors.As(err, &told) && slices.Contains(noRoom, told.Number)
}

var noRoom = []uint16{1021, 1114}

// leaving are the answers of a node that stops serving.
var leaving = []uint16{NotPrepared, 1053, 1077, 1079, 1927}

var severalNodes = regexp.MustCompile(`@tcp\(([^()]*,[^()]*)\)`)

// Of returns the configurations of a data source name: one for each address of
// tcp(HOST:PORT,HOST:PORT), in their order.
func Of(dsn string) (all []*mysql.Config, err error) {
	written := []string{dsn}
	if m := severalNodes.FindStringSubmatchIndex(dsn); m != nil {
		written = nil
		for address := range strings.SplitSeq(dsn[m[2]:m[3]], ",") {
			written = append(written, dsn[:m[2]]+strings.TrimSpace(address)+dsn[m[3]:])
		}
	}
	for _, one := range written {
		c, err := mysql.ParseDSN(one)
		if err != nil {
			return nil, fmt.Errorf("the database address cannot be read (it looks like user:password@tcp(host:3306)/name, or with several hosts of a cluster, tcp(host:3306,host:3306)): %w", err)
		}
		all = append(all, c)
	}
	return all, nil
}
