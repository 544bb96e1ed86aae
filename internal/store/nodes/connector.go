package nodes

import (
	"context"
	"database/sql/driver"
	"errors"
	"fmt"
	"net"
	"sync"
	"sync/atomic"
	"time"

	"github.com/go-sql-driver/mysql"
)

// How soon a node that does not answer is left. A node that refuses connections is left at the
// first look.
var (
	lookEvery    = 500 * time.Millisecond
	lookPatience = time.Second
)

const (
	tries = 2 // looks in a row that have to fail
	// avoided is for how long a node is left that answers, but has no room.
	avoided = 15 * time.Second
)

// What a node is good for, better ones first.
const (
	serving int32 = iota // or not looked at yet
	giving               // it hands its data to another node: only where no other serves
	out
)

// Connector connects to the first node of a cluster that serves, beginning with the one that
// did last. Where there are several it looks after them: what is under way on a node that
// stops answering, or that has lost the others, ends at once instead of waiting for it.
type Connector struct {
	all  []*node
	last atomic.Int32
	stop context.CancelFunc
	done sync.WaitGroup
	left func() // called after a node was left
}

// node is one of the servers.
type node struct {
	driver.Connector
	look  driver.Connector // for connections that only look
	state atomic.Int32
	full  atomic.Int64 // until when it is taken to have no room, Unix nanoseconds

	mu   sync.Mutex
	open map[*tracked]struct{}
	stay context.Context // ends when the node is left
	end  context.CancelFunc
}

// New returns a connector to the nodes of some configurations. left is called each time that a
// node is left: connections that wait for their next use are better made anew.
func New(of []*mysql.Config, left func()) (*Connector, error) {
	ctx, stop := context.WithCancel(context.Background())
	n := &Connector{stop: stop, left: left}
	for _, c := range of {
		one := &node{open: map[*tracked]struct{}{}}
		one.stay, one.end = context.WithCancel(ctx)
		looking, serves := c.Clone(), c.Clone()
		looking.Params, looking.Timeout, looking.ReadTimeout, looking.WriteTimeout = nil, lookPatience, lookPatience, lookPatience
		if len(of) > 1 {
			serves.DialFunc = one.dial
		}
		var err error
		if one.Connector, err = mysql.NewConnector(serves); err == nil {
			one.look, err = mysql.NewConnector(looking)
		}
		if err != nil {
			stop()
			return nil, fmt.Errorf("reach the database at %s: %w", c.Addr, err)
		}
		n.all = append(n.all, one)
	}
	if len(n.all) > 1 {
		for _, one := range n.all {
			n.done.Go(func() { n.watch(ctx, one) })
		}
	}
	return n, nil
}

// Close ends looking after the nodes; sql.DB calls it.
func (n *Connector) Close() error {
	n.stop()
	n.done.Wait()
	return nil
}

// Several says whether there is another node where one is lost.
func (n *Connector) Several() bool { return len(n.all) > 1 }

// Connect returns a connection to a node that takes statements.
func (n *Connector) Connect(ctx context.Context) (driver.Conn, error) {
	var failed error
	first := int(n.last.Load())
	// Those that were left are tried last: the look at them may be of half a second ago.
	for want := serving; want <= out; want++ {
		for i := range n.all {
			at := (first + i) % len(n.all)
			if n.all[at].state.Load() != want {
				continue
			}
			c, err := n.all[at].connect(ctx, len(n.all) > 1)
			if err == nil {
				n.last.Store(int32(at)) //nolint:gosec // a few
				return c, nil
			}
			failed = errors.Join(failed, err)
		}
	}
	if failed == nil { // their states changed meanwhile
		failed = driver.ErrBadConn
	}
	return nil, failed
}

// connect returns a connection, which in a cluster is one that takes statements: a node that has
// lost the others takes connections only.
func (n *node) connect(ctx context.Context, cluster bool) (driver.Conn, error) {
	c, err := n.Connector.Connect(ctx)
	if err != nil || !cluster {
		return c, err
	}
	state, err := stateOf(ctx, c)
	if err == nil && state == out {
		err = &mysql.MySQLError{Number: NotPrepared, Message: "a node of the cluster has no majority"}
	}
	if err != nil {
		_ = c.Close()
		return nil, err
	}
	return c, nil
}

// stateOf asks a node what it is good for. SHOW is what it answers also without a majority. A
// server of no cluster serves.
func stateOf(ctx context.Context, c driver.Conn) (int32, error) {
	q, is := c.(driver.QueryerContext)
	if !is {
		return serving, nil
	}
	rows, err := q.QueryContext(ctx, "SHOW STATUS WHERE Variable_name IN ('wsrep_ready', 'wsrep_local_state_comment') AND @@GLOBAL.wsrep_on", nil)
	if err != nil {
		return out, err
	}
	defer func() { _ = rows.Close() }()
	state, row := serving, make([]driver.Value, 2)
	for rows.Next(row) == nil {
		switch fmt.Sprintf("%s", row[1]) {
		case "OFF":
			return out, nil
		case "Donor/Desynced":
			state = giving
		}
	}
	return state, nil
}

// dial makes a connection that ends with the node's serving.
func (n *node) dial(ctx context.Context, network, address string) (net.Conn, error) {
	n.mu.Lock()
	stay := n.stay
	n.mu.Unlock()
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	defer context.AfterFunc(stay, cancel)()
	c, err := (&net.Dialer{}).DialContext(ctx, network, address)
	tcp, is := c.(*net.TCPConn)
	if err != nil || !is {
		return c, err
	}
	t := &tracked{TCPConn: tcp, of: n}
	n.mu.Lock()
	n.open[t] = struct{}{}
	n.mu.Unlock()
	return t, nil
}

// tracked is a connection that its node knows of. What the driver asks of a TCP connection, it
// answers.
type tracked struct {
	*net.TCPConn
	of *node
}

// Close ends the connection.
func (t *tracked) Close() error {
	t.of.mu.Lock()
	delete(t.of.open, t)
	t.of.mu.Unlock()
	return t.TCPConn.Close()
}

// Avoid has the node that connections are made to at present left for a while, as one that has no
// room: it answers, so that looking at it does not show that.
func (n *Connector) Avoid() {
	if len(n.all) == 1 {
		return
	}
	one := n.all[n.last.Load()]
	one.full.Store(time.Now().Add(avoided).UnixNano())
	if one.state.Swap(out) != out {
		go n.left()
	}
}

// leave ends all that is under way on a node.
func (n *node) leave(ctx context.Context) {
	n.mu.Lock()
	defer n.mu.Unlock()
	n.end()
	n.stay, n.end = context.WithCancel(ctx)
	for t := range n.open {
		_ = t.TCPConn.Close()
	}
	clear(n.open)
}

// watch looks at a node again and again.
func (n *Connector) watch(ctx context.Context, one *node) {
	var looking driver.Conn
	failed := 0
	for {
		state, err := serving, error(nil)
		looked, cancel := context.WithTimeout(ctx, lookPatience)
		if looking == nil {
			looking, err = one.look.Connect(looked)
		}
		if err == nil {
			state, err = stateOf(looked, looking)
		}
		timely := looked.Err() == nil
		cancel()
		switch {
		case err == nil:
			failed = 0
		case timely && looking == nil: // refused
			failed, state = tries, out
		default:
			if failed++; failed < tries {
				state = one.state.Load()
			} else {
				state = out
			}
		}
		if time.Now().UnixNano() < one.full.Load() {
			state = out
		}
		if err != nil && looking != nil {
			_ = looking.Close()
			looking = nil
		}
		if before := one.state.Swap(state); ctx.Err() == nil && (state == out && before != out || state == giving) {
			if state == out {
				one.leave(ctx)
			}
			n.left()
		}
		select {
		case <-ctx.Done():
			if looking != nil {
				_ = looking.Close()
			}
			return
		case <-time.After(lookEvery):
		}
	}
}

// Driver returns the driver of the connections.
func (n *Connector) Driver() driver.Driver { return n.all[0].Driver() }
