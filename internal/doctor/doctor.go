// Package doctor looks at everything about a service that whoever runs it would look at, and says
// what to do.
package doctor

import (
	"context"
	"crypto/x509"
	"encoding/json"
	"encoding/pem"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"strings"
	"syscall"
	"time"

	"sparecrate/internal/backup"
	"sparecrate/internal/bucket"
	"sparecrate/internal/inspect/browse"
	"sparecrate/internal/store/verifydb"
)

// What a look found.
const (
	Good    = "good"
	Warning = "warning"
	Fault   = "fault"
)

// Bounds of what is good.
const (
	patience     = 5 * time.Second
	certificate  = 21 * 24 * time.Hour // that it holds at least
	clocksApart  = 2 * time.Second
	waiting      = time.Hour // that a job waits at most
	lastBackup   = 48 * time.Hour
	smallFolder  = 1 << 30 // bytes free
	privateFiles = 0o077
)

// Finding is what one look found.
type Finding struct {
	What  string `json:"what"`
	State string `json:"state"`
	Said  string `json:"said"`
	Do    string `json:"do,omitempty"`
}

// Service is what is known of the service before it is looked at.
type Service struct {
	Data, KeyFile   string
	Private         bool // a database of its own
	Listen, Address string
	TLSCert         string
	Mail            string // the mail server, HOST:PORT
	Issuer          string // of sign-on
	Backups         string // where backups lie; empty where nobody said
	// Open opens its records and files.
	Open func(context.Context, func(backup.Source) error) error
}

type look struct {
	Service
	found []Finding
}

func (l *look) good(what, format string, args ...any) {
	l.found = append(l.found, Finding{What: what, State: Good, Said: fmt.Sprintf(format, args...)})
}

func (l *look) bad(what, state, do, format string, args ...any) {
	l.found = append(l.found, Finding{what, state, fmt.Sprintf(format, args...), do})
}

// Look looks at a service.
func Look(ctx context.Context, s Service) []Finding {
	l := &look{Service: s}
	l.programs()
	if !l.folder() {
		return l.found // to open it would be to make one
	}
	l.key()
	if err := s.Open(ctx, func(from backup.Source) error { return l.inside(ctx, from) }); err != nil {
		l.bad("records", Fault, "Look at the sentence, put it right, and run this again.", "%v", err)
	}
	l.answers(ctx)
	l.reached(ctx)
	l.encrypted()
	l.mail(ctx)
	l.signOn(ctx)
	l.backups(ctx)
	return l.found
}

// programs looks for those that the service starts.
func (l *look) programs() {
	if path, err := browse.Program(); err == nil {
		l.good("browser", "%s inspects pages", path)
	} else {
		l.bad("browser", Warning, "Install it: apt-get install chromium-headless-shell", "there is no Chromium, so pages cannot be inspected")
	}
	if !l.Private {
		return
	}
	for _, name := range []string{"mariadbd", "mariadb-install-db", "my_print_defaults"} {
		if _, err := exec.LookPath(name); err != nil {
			l.bad("database program", Fault, "Install it: apt-get install mariadb-server-core mariadb-client-core", "%s is missing", name)
			return
		}
	}
	l.good("database program", "MariaDB is installed")
}

// folder looks at the data folder, and says whether there is one.
func (l *look) folder() bool {
	info, err := os.Stat(l.Data)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		l.bad("data folder", Fault, "Name the service's with --data; the first start of `sparecrate serve` makes it.", "%s is not there", l.Data)
		return false
	case err != nil:
		l.bad("data folder", Fault, "Run this as the account that the service runs as.", "%v", err)
		return false
	case info.Mode().Perm()&privateFiles != 0:
		l.bad("data folder", Warning, "chmod 700 "+l.Data, "others on this machine can look into %s", l.Data)
	default:
		l.good("data folder", "%s is for its owner only", l.Data)
	}
	if owner, is := info.Sys().(*syscall.Stat_t); is && int(owner.Uid) != os.Getuid() && os.Getuid() != 0 {
		l.bad("data folder", Fault, "Run this as the account that the service runs as.", "it belongs to another account")
	}
	var disk syscall.Statfs_t
	if syscall.Statfs(l.Data, &disk) == nil {
		free := int64(disk.Bavail) * disk.Bsize //nolint:gosec // less than 2^63 bytes
		if free < smallFolder {
			l.bad("disk", Warning, "Make room, or move the files to another disk or a bucket.", "only %d MB are free", free>>20)
		} else {
			l.good("disk", "%d GB are free", free>>30)
		}
	}
	return true
}

// key looks at the key for secrets.
func (l *look) key() {
	info, err := os.Stat(l.KeyFile)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		l.bad("key for secrets", Warning, "It is made at the next start. If there was one, put it back before: without it, authenticator apps are set up anew.", "%s is not there", l.KeyFile)
	case err != nil:
		l.bad("key for secrets", Fault, "Run this as the account that the service runs as.", "%v", err)
	case info.Mode().Perm()&privateFiles != 0:
		l.bad("key for secrets", Fault, "chmod 600 "+l.KeyFile, "others on this machine can read %s", l.KeyFile)
	default:
		l.good("key for secrets", "%s is for its owner only; keep a copy elsewhere", l.KeyFile)
	}
}

// inside looks at records and files.
func (l *look) inside(ctx context.Context, from backup.Source) error {
	q := verifydb.In(from.Store)
	server, err := q.Server(ctx)
	if err != nil {
		return err
	}
	where := "MariaDB " + server.Version
	if server.Cluster > 0 {
		where += fmt.Sprintf(", %d nodes", server.Cluster)
	}
	l.good("records", "%s answers, and its tables are of this version", where)
	if server.Cluster == 2 || server.Cluster == 1 {
		l.bad("cluster", Warning, "Bring the other nodes back: with three, one can be away.", "only %d of its nodes have found each other", server.Cluster)
	}
	if apart := time.Since(server.Now).Abs(); apart > clocksApart {
		l.bad("clocks", Warning, "Let both machines take their time from a time server.", "the clock of the database is %s apart from this one", apart.Round(time.Second))
	} else {
		l.good("clocks", "the clocks of database and machine agree")
	}
	if err := from.Bucket.Ready(); err != nil {
		l.bad("files", Fault, "See that the place is there, has room, and may be written by the service.", "%v", err)
	} else {
		l.good("files", "%s can be written", from.Bucket.Where())
	}
	jobs, err := q.Backlog(ctx)
	if err != nil {
		return err
	}
	switch {
	case jobs.Failed > 0:
		l.bad("jobs", Warning, "`sparecrate jobs list --state failed` says why; `sparecrate jobs retry` runs them again.", "failed: %d", jobs.Failed)
	case jobs.Oldest != nil && time.Since(*jobs.Oldest) > waiting:
		l.bad("jobs", Warning, "Is the service running? If it is, it needs more cores, or more processes of it.", "%d wait, the first since %s", jobs.Waiting, jobs.Oldest.Format(time.DateTime))
	default:
		l.good("jobs", "none failed, %d wait", jobs.Waiting)
	}
	names, err := q.AdminsWithoutFactor(ctx)
	switch {
	case err != nil:
		return err
	case len(names) > 0:
		l.bad("admins", Warning, "Ask them to set one up in Settings, and everybody with --second-factor admins.", "these sign in with a password alone: %s", strings.Join(names, ", "))
	default:
		l.good("admins", "all have a second factor or sign on by the provider")
	}
	return nil
}

// answers looks whether the service runs.
func (l *look) answers(ctx context.Context) {
	scheme := "http://"
	if l.TLSCert != "" {
		scheme = "https://"
	}
	status, said, err := get(ctx, scheme+l.Listen+"/readyz", l.TLSCert != "")
	switch {
	case err != nil:
		l.bad("service", Warning, "Start it: `sparecrate serve`, or systemctl start sparecrate.", "nothing answers at %s", scheme+l.Listen)
	case status != http.StatusOK:
		l.bad("service", Fault, "Put that part right; the service comes back by itself.", "it runs and is not ready: %s", said)
	default:
		l.good("service", "it runs at %s and is ready", scheme+l.Listen)
	}
}

// reached looks at the address that people use.
func (l *look) reached(ctx context.Context) {
	u, err := url.Parse(l.Address)
	switch {
	case l.Address == "":
		l.bad("address", Warning, "Set --address to what people enter, for e-mails, passkeys and sign-on.", "there is none but %s", l.Listen)
		return
	case err != nil || u.Hostname() == "":
		l.bad("address", Fault, "--address looks like https://fonts.lanternjaw.example", "%q is no address", l.Address)
		return
	}
	if ip := net.ParseIP(u.Hostname()); u.Scheme != "https" && (ip == nil || !ip.IsLoopback()) && u.Hostname() != "localhost" {
		l.bad("address", Warning, "Answer by HTTPS: --tls-cert and --tls-key, or a proxy with --secure.", "%s is not encrypted", l.Address)
	}
	if status, _, err := get(ctx, strings.TrimSuffix(l.Address, "/")+"/healthz", false); err != nil || status != http.StatusOK {
		l.bad("address", Warning, "See that name, proxy and certificate lead to the service.", "the service is not reached at %s from here", l.Address)
		return
	}
	l.good("address", "the service is reached at %s", l.Address)
}

// encrypted looks at the certificate.
func (l *look) encrypted() {
	if l.TLSCert == "" {
		return
	}
	text, err := os.ReadFile(l.TLSCert)
	if err != nil {
		l.bad("certificate", Fault, "Name the right file with --tls-cert.", "%v", err)
		return
	}
	block, _ := pem.Decode(text)
	if block == nil {
		l.bad("certificate", Fault, "Name the right file with --tls-cert.", "%s is no certificate in PEM", l.TLSCert)
		return
	}
	c, err := x509.ParseCertificate(block.Bytes)
	switch {
	case err != nil:
		l.bad("certificate", Fault, "Name the right file with --tls-cert.", "%s cannot be read: %v", l.TLSCert, err)
	case time.Until(c.NotAfter) < 0:
		l.bad("certificate", Fault, "Renew it; the service reads it again when it changes.", "it ended on %s", c.NotAfter.Format(time.DateOnly))
	case time.Until(c.NotAfter) < certificate:
		l.bad("certificate", Warning, "Renew it; the service reads it again when it changes.", "it ends on %s", c.NotAfter.Format(time.DateOnly))
	default:
		l.good("certificate", "it holds until %s", c.NotAfter.Format(time.DateOnly))
	}
}

// mail looks whether the mail server answers.
func (l *look) mail(ctx context.Context) {
	if l.Mail == "" {
		l.bad("mail", Warning, "Set --mail-server, so that invitations and weekly e-mails leave.", "there is no mail server")
		return
	}
	c, err := (&net.Dialer{Timeout: patience}).DialContext(ctx, "tcp", l.Mail)
	if err != nil {
		l.bad("mail", Fault, "See that --mail-server is right, and that the network lets it through.", "%s does not answer", l.Mail)
		return
	}
	defer func() { _ = c.Close() }()
	_ = c.SetReadDeadline(time.Now().Add(patience))
	line := make([]byte, 3)
	if _, err := io.ReadFull(c, line); err == nil && string(line) != "220" {
		l.bad("mail", Fault, "See that --mail-server is right.", "%s is no mail server", l.Mail)
		return
	}
	l.good("mail", "%s answers", l.Mail)
}

// signOn looks whether the provider is the one that is meant.
func (l *look) signOn(ctx context.Context) {
	if l.Issuer == "" {
		return
	}
	status, said, err := get(ctx, strings.TrimSuffix(l.Issuer, "/")+"/.well-known/openid-configuration", false)
	var known struct{ Issuer string }
	switch {
	case err != nil || status != http.StatusOK:
		l.bad("sign-on", Fault, "See that --oidc-issuer is right, and that the network lets it through.", "the provider %s does not answer", l.Issuer)
	case json.Unmarshal([]byte(said), &known) != nil || strings.TrimSuffix(known.Issuer, "/") != strings.TrimSuffix(l.Issuer, "/"):
		l.bad("sign-on", Fault, "Set --oidc-issuer to what the provider calls itself.", "the provider calls itself %q", known.Issuer)
	default:
		l.good("sign-on", "the provider %s answers", l.Issuer)
	}
}

// backups looks how old the last one is.
func (l *look) backups(ctx context.Context) {
	const again = "Run `sparecrate backup` daily, from cron or a systemd timer."
	if l.Backups == "" {
		l.bad("backup", Warning, "Run `sparecrate backup` daily, and say here where to with --backups.", "nobody said where the backups are")
		return
	}
	place, err := bucket.OpenPlace(ctx, l.Backups, false)
	if err != nil {
		l.bad("backup", Fault, again, "%v", err)
		return
	}
	defer func() { _ = place.Close() }()
	names, _, err := backup.Names(ctx, place)
	switch {
	case err != nil:
		l.bad("backup", Fault, again, "%v", err)
		return
	case len(names) == 0:
		l.bad("backup", Fault, again, "there is none in %s", place.Where())
		return
	}
	at, err := backup.TimeOf(names[0])
	if err != nil || time.Since(at) > lastBackup {
		l.bad("backup", Warning, again, "the last one is of %s", names[0])
		return
	}
	l.good("backup", "the last of %d is of %s", len(names), at.Format(time.DateTime))
}

// get asks an address of our own or of somebody that the settings name.
func get(ctx context.Context, address string, own bool) (status int, said string, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, address, http.NoBody)
	if err != nil {
		return 0, "", err
	}
	answer, err := client(own).Do(r)
	if err != nil {
		return 0, "", err
	}
	defer func() { _ = answer.Body.Close() }()
	b, err := io.ReadAll(io.LimitReader(answer.Body, 1<<20))
	return answer.StatusCode, strings.TrimSpace(string(b)), err
}
