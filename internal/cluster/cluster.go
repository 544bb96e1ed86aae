package main

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	_ "github.com/go-sql-driver/mysql" // the driver by its name
	"golang.org/x/sync/errgroup"
)

// nodes is how many there are of the databases and of the services.
const nodes = 3

// Cluster is everything that runs.
type Cluster struct {
	folder, programs, older string
	lan                     Lan
	databases               []*Member
	gateways                []*Member
	services                []*Member
	balancer                *Member
	store                   string // what the gateways share
	password, access, key   string // of the database, and of the bucket
	SignIn                  SignIn

	mu  sync.Mutex
	old map[string]bool // services that still run the older program
}

// SignIn is what the demo studio is signed in with.
type SignIn struct {
	Email    string `json:"email"`
	Password string `json:"password"`
}

// New returns a cluster that keeps everything in a folder.
func New(folder, programs, older string) *Cluster {
	return &Cluster{folder: folder, programs: programs, older: older, password: rand.Text(), access: "crate", key: rand.Text(), old: map[string]bool{}}
}

func (c *Cluster) path(parts ...string) string {
	return filepath.Join(append([]string{c.folder}, parts...)...)
}

func (c *Cluster) all() []*Member {
	all := append(append(append([]*Member(nil), c.databases...), c.gateways...), c.services...)
	if c.balancer != nil {
		all = append(all, c.balancer)
	}
	return all
}

// add makes a member with its network and disk.
func (c *Cluster) add(ctx context.Context, name string, number int, env []string, args func(m *Member) []string) (*Member, error) {
	m := &Member{Name: name, Address: fmt.Sprintf("%s%d", network, number), folder: c.path(name), log: c.path("logs", name+".log"), env: env}
	m.args = func() []string { return args(m) }
	space, err := c.lan.Add(ctx, name, m.Address)
	if err != nil {
		return nil, err
	}
	m.space = space
	return m, m.disk()
}

// Start starts everything and fills in the demo studio.
func (c *Cluster) Start(ctx context.Context) error {
	if err := c.clear(ctx); err != nil {
		return err
	}
	if err := os.MkdirAll(c.path("logs"), 0o700); err != nil {
		return err
	}
	if err := c.lan.Start(ctx); err != nil {
		return err
	}
	for _, start := range []func(context.Context) error{c.startDatabases, c.startGateways, c.startBalancer, c.startServices} {
		if err := start(ctx); err != nil {
			return err
		}
	}
	return nil
}

// clear removes what an earlier cluster left in the folder.
func (c *Cluster) clear(ctx context.Context) error {
	if err := c.lan.Clear(ctx); err != nil {
		return err
	}
	found, err := os.ReadDir(c.folder)
	if err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	for _, e := range found {
		for syscall.Unmount(c.path(e.Name()), 0) == nil { // also where one lies over another
			continue
		}
	}
	return os.RemoveAll(c.folder)
}

// End ends all programs and removes the networks; the logs stay.
func (c *Cluster) End() error {
	var ends errgroup.Group
	for _, m := range c.services {
		ends.Go(m.Stop)
	}
	bad := ends.Wait()
	for _, m := range c.all() {
		bad = errors.Join(bad, m.Kill())
	}
	bad = errors.Join(bad, c.lan.Clear(context.Background()))
	for _, m := range c.all() {
		bad = errors.Join(bad, syscall.Unmount(m.folder, syscall.MNT_DETACH))
	}
	if c.store != "" {
		bad = errors.Join(bad, syscall.Unmount(c.store, syscall.MNT_DETACH))
	}
	return bad
}

const databaseName = "sparecrate"

// DSN is the address of the database as the services take it.
func (c *Cluster) DSN() string {
	var all []string
	for _, m := range c.databases {
		all = append(all, m.Address+":3306")
	}
	return fmt.Sprintf("crate:%s@tcp(%s)/%s", c.password, strings.Join(all, ","), databaseName)
}

// How soon a node is taken for gone: the cluster waits for one that is silent. One that cannot keep
// up, as for a full disk, holds the others up only when it is far behind: they write on one node.
const providerOptions = "gcache.size=64M;gcs.fc_limit=5000;gcs.fc_single_primary=yes;evs.keepalive_period=PT0.3S;evs.inactive_check_period=PT0.3S;evs.suspect_timeout=PT2S;evs.inactive_timeout=PT4S;evs.install_timeout=PT4S;gmcast.peer_timeout=PT3S;pc.recovery=true;gcomm.thread_prio=rr:2"

func (c *Cluster) startDatabases(ctx context.Context) error {
	tools, err := transferTools()
	if err != nil {
		return err
	}
	var addresses []string
	for i := range nodes {
		addresses = append(addresses, fmt.Sprintf("%s%d", network, 11+i))
	}
	for i := range nodes {
		m, err := c.add(ctx, fmt.Sprintf("db%d", i+1), 11+i, []string{"PATH=" + tools + ":" + os.Getenv("PATH")}, func(m *Member) []string {
			peers := "gcomm://" + strings.Join(addresses, ",")
			if len(c.databases) == 1 { // the first start of the first
				peers = "gcomm://"
			}
			return []string{"nice", "-n", "-10", "mariadbd", "--defaults-file=" + filepath.Join(m.folder, "my.cnf"), "--wsrep-cluster-address=" + peers}
		})
		if err != nil {
			return err
		}
		c.databases = append(c.databases, m)
		if err := os.WriteFile(filepath.Join(m.folder, "my.cnf"), []byte(c.databaseSettings(m)), 0o600); err != nil {
			return err
		}
		if i == 0 {
			if out, err := exec.CommandContext(ctx, "mariadb-install-db", "--no-defaults", "--user=root", "--auth-root-authentication-method=normal", "--skip-test-db", "--datadir="+filepath.Join(m.folder, "data")).CombinedOutput(); err != nil { //nolint:gosec // our own arguments
				return fmt.Errorf("make the data folder of the database: %w: %s", err, out)
			}
		} else if err := os.Mkdir(filepath.Join(m.folder, "data"), 0o700); err != nil {
			return err
		}
		if err := m.Start(); err != nil {
			return err
		}
		if err := eventually(ctx, time.Minute, m.Name+" joins the cluster", func(ctx context.Context) error { return c.synced(ctx, m) }); err != nil {
			return err
		}
		if i > 0 {
			continue
		}
		for _, statement := range []string{
			"CREATE DATABASE " + databaseName + " CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci",
			"CREATE USER crate@'" + network + "%' IDENTIFIED BY '" + c.password + "'", "GRANT ALL ON " + databaseName + ".* TO crate@'" + network + "%'",
			"CREATE USER transfer@localhost IDENTIFIED BY '" + c.password + "'", "GRANT ALL ON *.* TO transfer@localhost",
		} {
			if _, err := c.ask(ctx, m, statement); err != nil {
				return err
			}
		}
	}
	return nil
}

// databaseSettings is the file of settings of a node; [sst] is of the scripts that hand its data
// to another, which say what they do in its log.
func (c *Cluster) databaseSettings(m *Member) string {
	return fmt.Sprintf(`[mysqld]
user = root
datadir = %[1]s/data
socket = %[1]s/socket
pid-file = %[1]s/pid
bind-address = 0.0.0.0
skip-name-resolve
binlog-format = ROW
innodb-autoinc-lock-mode = 2
innodb-log-file-size = 48M
wsrep-on = ON
wsrep-provider = /usr/lib/galera/libgalera_smm.so
wsrep-provider-options = "%[4]s"
wsrep-cluster-name = sparecrate
wsrep-node-name = %[2]s
wsrep-node-address = %[3]s
wsrep-sst-method = mariabackup
wsrep-sst-auth = transfer:%[5]s
wsrep-sst-donor = db3,
wsrep-retry-autocommit = 4
[sst]
sst-syslog = -1
sst-log-archive = 0
`, m.folder, m.Name, m.Address, providerOptions, c.password)
}

// transferTools is the folder of the scripts that hand the data of one node to another.
func transferTools() (string, error) {
	for _, name := range []string{"mariadbd", "mariadb-install-db", "haproxy", "mariabackup", "socat", "ip"} {
		if _, err := exec.LookPath(name); err != nil {
			return "", fmt.Errorf("%s is missing; run scripts/setup cluster", name)
		}
	}
	if path, err := exec.LookPath("wsrep_sst_mariabackup"); err == nil {
		return filepath.Dir(path), nil
	}
	own, err := filepath.Abs(".build/galera/usr/bin")
	if _, bad := os.Stat(filepath.Join(own, "wsrep_sst_mariabackup")); err != nil || bad != nil {
		return "", errors.New("wsrep_sst_mariabackup is missing; run scripts/setup cluster")
	}
	return own, nil
}

// ask runs a statement on a node, as its own administrator, and returns the last column of the
// first row, if any.
func (c *Cluster) ask(ctx context.Context, m *Member, statement string) (string, error) {
	db, err := sql.Open("mysql", "root@unix("+filepath.Join(m.folder, "socket")+")/?timeout=1s&readTimeout=20s")
	if err != nil {
		return "", err
	}
	defer func() { _ = db.Close() }()
	rows, err := db.QueryContext(ctx, statement)
	if err != nil {
		return "", fmt.Errorf("%s: %w", m.Name, err)
	}
	defer func() { _ = rows.Close() }()
	if !rows.Next() {
		return "", rows.Err()
	}
	columns, err := rows.Columns()
	if err != nil {
		return "", err
	}
	values := make([]any, len(columns))
	for i := range values {
		values[i] = new(sql.NullString)
	}
	if err := rows.Scan(values...); err != nil {
		return "", err
	}
	return values[len(values)-1].(*sql.NullString).String, nil
}

// synced says why a node is not level with the cluster.
func (c *Cluster) synced(ctx context.Context, m *Member) error {
	for name, want := range map[string]string{"wsrep_local_state_comment": "Synced", "wsrep_cluster_status": "Primary", "wsrep_cluster_size": strconv.Itoa(len(c.databases))} {
		if is, err := c.ask(ctx, m, "SHOW STATUS LIKE '"+name+"'"); err != nil || is != want {
			return errors.Join(err, fmt.Errorf("%s of %s is %s, not %s", name, m.Name, is, want))
		}
	}
	return nil
}

const gatewayPort = "9000"

func (c *Cluster) startGateways(ctx context.Context) error {
	c.store = c.path("store")
	shared := &Member{folder: c.store}
	if err := shared.disk(); err != nil {
		return err
	}
	for _, name := range []string{"objects/fonts", "meta"} {
		if err := os.MkdirAll(filepath.Join(c.store, name), 0o700); err != nil {
			return err
		}
	}
	for i := range 2 {
		m, err := c.add(ctx, fmt.Sprintf("s3-%d", i+1), 21+i, nil, func(m *Member) []string {
			return []string{
				filepath.Join(c.programs, "versitygw"), "--access", c.access, "--secret", c.key, "--region", "us-east-1", "--port", net.JoinHostPort(m.Address, gatewayPort), "--health", "/health", "--quiet",
				"posix", "--sidecar", filepath.Join(c.store, "meta"), filepath.Join(c.store, "objects"),
			}
		})
		if err != nil {
			return err
		}
		c.gateways = append(c.gateways, m)
		if err := m.Start(); err != nil {
			return err
		}
	}
	return nil
}

const (
	balancerNumber = 40
	balancerConf   = "haproxy.cfg"
	balancerDoor   = "door"
	servicePort    = "8480"
)

// Door is the socket by which the load balancer is reached from this machine.
func (c *Cluster) Door() string { return filepath.Join(c.balancer.folder, balancerDoor) }

func (c *Cluster) startBalancer(ctx context.Context) error {
	m, err := c.add(ctx, "lb", balancerNumber, nil, func(m *Member) []string {
		return []string{"haproxy", "-f", filepath.Join(m.folder, balancerConf), "-db"}
	})
	if err != nil {
		return err
	}
	c.balancer = m
	if err := os.WriteFile(filepath.Join(m.folder, balancerConf), []byte(balancing(m.Address, c.Door(), addressesOf("s3-", 2, 21), addressesOf("app", nodes, 31))), 0o600); err != nil {
		return err
	}
	return m.Start()
}

// addressesOf returns names with addresses.
func addressesOf(name string, count, from int) [][2]string {
	var out [][2]string
	for i := range count {
		out = append(out, [2]string{fmt.Sprintf("%s%d", name, i+1), fmt.Sprintf("%s%d", network, from+i)})
	}
	return out
}

// balancing returns the configuration of the load balancer. Services that are ready get the
// requests; where none is, as for the moment in which the database changes nodes, those that live
// do, and have them wait. Reading is tried on another service where one fails.
func balancing(address, door string, gateways, services [][2]string) string {
	var b strings.Builder
	_, _ = fmt.Fprintf(&b, `global
  maxconn 4000
defaults
  mode http
  timeout connect 1s
  timeout client 120s
  timeout server 60s
  timeout queue 4s
  timeout check 800ms
  retries 3
  option redispatch 1
  default-server inter 300ms fall 2 rise 1 on-marked-down shutdown-sessions
frontend crate
  bind %s mode 666
  bind %s:%s
  option forwardfor
  use_backend living if { nbsrv(ready) eq 0 }
  default_backend ready
`, door, address, servicePort)
	for _, one := range [][2]string{{"ready", "/readyz"}, {"living", "/healthz"}} {
		_, _ = fmt.Fprintf(&b, "backend %s\n  balance leastconn\n  option httpchk GET %s\n  http-request disable-l7-retry if !{ method GET HEAD }\n  retry-on conn-failure empty-response 503\n", one[0], one[1])
		for _, s := range services {
			_, _ = fmt.Fprintf(&b, "  server %s %s:%s check\n", s[0], s[1], servicePort)
		}
	}
	_, _ = fmt.Fprintf(&b, "frontend objects\n  bind %s:%s\n  default_backend gateways\nbackend gateways\n  balance leastconn\n  option httpchk GET /health\n  http-request disable-l7-retry if !{ method GET HEAD }\n  retry-on conn-failure empty-response\n", address, gatewayPort)
	for _, g := range gateways {
		_, _ = fmt.Fprintf(&b, "  server %s %s:%s check\n", g[0], g[1], gatewayPort)
	}
	return b.String()
}

// Bucket is the address of the bucket as the services take it.
func (c *Cluster) Bucket() string {
	return fmt.Sprintf("s3://fonts?endpoint=http://%s%d:%s&region=us-east-1", network, balancerNumber, gatewayPort)
}

// program is what a service runs.
func (c *Cluster) program(name string) string {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.old[name] {
		return c.older
	}
	return filepath.Join(c.programs, "sparecrate")
}

// arguments are of a service, and of what looks at its data.
func (c *Cluster) arguments(m *Member) []string {
	return []string{"--data", filepath.Join(m.folder, "data"), "--database-file", c.path("dsn"), "--bucket", c.Bucket(), "--key-file", c.path("secrets.key")}
}

func (c *Cluster) bucketKeys() []string {
	return []string{"AWS_ACCESS_KEY_ID=" + c.access, "AWS_SECRET_ACCESS_KEY=" + c.key, "AWS_EC2_METADATA_DISABLED=true"}
}

func (c *Cluster) startServices(ctx context.Context) error {
	if err := os.WriteFile(c.path("dsn"), []byte(c.DSN()), 0o600); err != nil {
		return err
	}
	for i := range nodes {
		m, err := c.add(ctx, fmt.Sprintf("app%d", i+1), 31+i, c.bucketKeys(), func(m *Member) []string {
			return append([]string{c.program(m.Name), "serve", "--listen", net.JoinHostPort(m.Address, servicePort), "--trusted-proxies", network + "0/24"}, c.arguments(m)...)
		})
		if err != nil {
			return err
		}
		c.old[m.Name] = c.older != ""
		c.services = append(c.services, m)
	}
	if err := c.fillDemo(ctx, c.services[0]); err != nil {
		return err
	}
	for _, m := range c.services {
		if err := m.Start(); err != nil {
			return err
		}
	}
	return eventually(ctx, time.Minute, "the services answer", c.answers)
}

// fillDemo runs a service that fills in the demo studio, until it has.
func (c *Cluster) fillDemo(ctx context.Context, m *Member) error {
	args := append([]string{"netns", "exec", m.space, c.program(m.Name), "demo", "--small", "--json", "--listen", net.JoinHostPort(m.Address, servicePort)}, c.arguments(m)...)
	cmd := exec.CommandContext(ctx, "ip", args...) //nolint:gosec // our own arguments
	cmd.Env = append(os.Environ(), m.env...)
	log, err := os.Create(c.path("logs", "demo.log"))
	if err != nil {
		return err
	}
	defer func() { _ = log.Close() }()
	cmd.Stderr = log
	out, err := cmd.StdoutPipe()
	if err != nil {
		return err
	}
	if err := cmd.Start(); err != nil {
		return err
	}
	err = json.NewDecoder(out).Decode(&c.SignIn)
	_ = cmd.Process.Signal(syscall.SIGTERM)
	_ = cmd.Wait()
	if err != nil {
		return fmt.Errorf("fill in the demo studio (logs/demo.log says more): %w", err)
	}
	return nil
}

// client returns an HTTP client whose requests go to the load balancer, whatever their address.
func (c *Cluster) client(patience time.Duration) *http.Client {
	return &http.Client{Timeout: patience, Transport: &http.Transport{
		DialContext: func(ctx context.Context, _, _ string) (net.Conn, error) {
			return (&net.Dialer{}).DialContext(ctx, "unix", c.Door())
		},
		MaxIdleConnsPerHost: 32,
	}}
}

// balanced is the address that requests by the door have.
const balanced = "http://crate.example"

// answers says why the load balancer has no ready service.
func (c *Cluster) answers(ctx context.Context) error {
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, balanced+"/readyz", nil)
	if err != nil {
		return err
	}
	answer, err := c.client(2 * time.Second).Do(r)
	if err != nil {
		return err
	}
	defer func() { _ = answer.Body.Close() }()
	if said, _ := io.ReadAll(io.LimitReader(answer.Body, 1000)); answer.StatusCode != http.StatusOK {
		return fmt.Errorf("%s: %s", answer.Status, said)
	}
	return nil
}

// show passes an address of this machine on to the load balancer until it is interrupted.
func (c *Cluster) show(ctx context.Context, address string) error {
	l, err := (&net.ListenConfig{}).Listen(ctx, "tcp", address)
	if err != nil {
		return err
	}
	defer context.AfterFunc(ctx, func() { _ = l.Close() })()
	fmt.Printf("\n  Spare Crate on a cluster:  http://%s\n  Sign in as                 %s\n  with the password          %s\n\n  Ctrl-C ends it.\n", l.Addr(), c.SignIn.Email, c.SignIn.Password)
	for {
		in, err := l.Accept()
		if err != nil {
			if ctx.Err() != nil {
				return nil
			}
			return err
		}
		go func() {
			defer func() { _ = in.Close() }()
			out, err := net.Dial("unix", c.Door()) //nolint:noctx // on this machine
			if err != nil {
				return
			}
			defer func() { _ = out.Close() }()
			go func() { _, _ = io.Copy(out, in); _ = out.(*net.UnixConn).CloseWrite() }()
			_, _ = io.Copy(in, out)
		}()
	}
}
