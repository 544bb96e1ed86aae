// Package nodes connects to a MariaDB server, or to the nodes of a cluster of them, and says
// which of their answers mean that something is to be tried again.
package nodes

import (
	"context"
	"database/sql/driver"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"sync/atomic"
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

// Connector connects to the first node of a cluster that answers, beginning with the one that
// did last.
type Connector struct {
	all  []driver.Connector
	last atomic.Int32
}

// New returns a connector to the nodes of some configurations.
func New(of []*mysql.Config) (*Connector, error) {
	n := &Connector{}
	for _, c := range of {
		one, err := mysql.NewConnector(c)
		if err != nil {
			return nil, fmt.Errorf("reach the database at %s: %w", c.Addr, err)
		}
		n.all = append(n.all, one)
	}
	return n, nil
}

// Connect returns a connection to a node that takes statements.
func (n *Connector) Connect(ctx context.Context) (driver.Conn, error) {
	var failed error
	first := int(n.last.Load())
	for i := range n.all {
		at := (first + i) % len(n.all)
		c, err := n.all[at].Connect(ctx)
		if err == nil && len(n.all) > 1 {
			// A node that has lost the others takes connections and no statements.
			if err = prepared(ctx, c); err != nil {
				_ = c.Close()
			}
		}
		if err == nil {
			n.last.Store(int32(at)) //nolint:gosec // a few
			return c, nil
		}
		failed = errors.Join(failed, err)
	}
	return nil, failed
}

// prepared refuses a node of a cluster that has no majority or is not level with it. SHOW is what
// such a node still answers.
func prepared(ctx context.Context, c driver.Conn) error {
	q, is := c.(driver.QueryerContext)
	if !is {
		return nil
	}
	rows, err := q.QueryContext(ctx, "SHOW STATUS WHERE Variable_name = 'wsrep_ready' AND Value = 'OFF' AND @@GLOBAL.wsrep_on", nil)
	if err != nil {
		return err
	}
	defer func() { _ = rows.Close() }()
	if rows.Next(make([]driver.Value, len(rows.Columns()))) == nil {
		return &mysql.MySQLError{Number: NotPrepared, Message: "a node of the cluster has no majority"}
	}
	return nil
}

// Driver returns the driver of the connections.
func (n *Connector) Driver() driver.Driver { return n.all[0].Driver() }
