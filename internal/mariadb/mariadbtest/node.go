package mariadbtest

import (
	"fmt"
	"io"
	"net"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/go-sql-driver/mysql"
)

// Node is an address by which a server is reached, as a node of a cluster is: it can be killed,
// frozen and begun later.
type Node struct {
	Address string
	Served  atomic.Int32 // connections so far
	to      *mysql.Config
	t       testing.TB

	mu       sync.Mutex
	listener net.Listener
	open     []net.Conn
	flowing  sync.RWMutex
}

// NewNode returns an address of the server that a data source name is of. Nobody listens there
// until Run.
func NewNode(t testing.TB, dsn string) *Node {
	t.Helper()
	c, err := mysql.ParseDSN(dsn)
	if err != nil {
		t.Fatal(err)
	}
	l, err := net.Listen("tcp", "127.0.0.1:0") //nolint:noctx // closed at once
	if err != nil {
		t.Fatal(err)
	}
	n := &Node{Address: l.Addr().String(), to: c, t: t}
	_ = l.Close()
	t.Cleanup(n.Kill)
	return n
}

// Through returns the data source name by some nodes, in their order.
func Through(t testing.TB, dsn string, nodes ...*Node) string {
	t.Helper()
	var all []string
	for _, n := range nodes {
		all = append(all, n.Address)
	}
	c := nodes[0].to
	out := strings.Replace(dsn, c.Net+"("+c.Addr+")", fmt.Sprintf("tcp(%s)", strings.Join(all, ", ")), 1)
	if out == dsn {
		t.Fatalf("%s has no address", dsn)
	}
	return out
}

// Run passes connections on to the server, until Kill.
func (n *Node) Run() *Node {
	l, err := net.Listen("tcp", n.Address) //nolint:noctx // closed by Kill
	if err != nil {
		n.t.Fatal(err)
	}
	n.mu.Lock()
	n.listener = l
	n.mu.Unlock()
	go func() {
		for {
			in, err := l.Accept()
			if err != nil {
				return
			}
			out, err := net.Dial("unix", n.to.Addr) //nolint:noctx // closed by Kill
			if err != nil {
				_ = in.Close()
				return
			}
			n.Served.Add(1)
			n.mu.Lock()
			n.open = append(n.open, in, out)
			n.mu.Unlock()
			go n.pass(out, in)
			go n.pass(in, out)
		}
	}()
	return n
}

// pass copies until one end is closed; while the node is frozen nothing moves.
func (n *Node) pass(to, from net.Conn) {
	for piece := make([]byte, 64<<10); ; {
		k, err := from.Read(piece)
		n.flowing.RLock()
		if k > 0 && err == nil {
			_, err = to.Write(piece[:k])
		}
		n.flowing.RUnlock()
		if err != nil {
			if err != io.EOF { //nolint:errorlint // what Read returns
				_ = from.Close()
			}
			_ = to.Close()
			return
		}
	}
}

// Freeze stops everything where it is; new connections are taken and not served.
func (n *Node) Freeze() { n.flowing.Lock() }

// Thaw lets it go on.
func (n *Node) Thaw() { n.flowing.Unlock() }

// Kill ends the node and its connections.
func (n *Node) Kill() {
	n.mu.Lock()
	defer n.mu.Unlock()
	if n.listener != nil {
		_ = n.listener.Close()
	}
	for _, one := range n.open {
		_ = one.Close()
	}
	n.open = nil
}
