// Package service puts the parts together into the running service: database,
// bucket, catalog and HTTP server, started in that order and stopped in the
// other.
package service

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/netip"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"github.com/coreos/go-systemd/v22/activation"
	"github.com/coreos/go-systemd/v22/daemon"
	"github.com/go-sql-driver/mysql"

	"sparecrate/console"
	"sparecrate/internal/app"
	"sparecrate/internal/certificate"
	"sparecrate/internal/mail"
	"sparecrate/internal/mariadb"
	"sparecrate/internal/rooms"
	"sparecrate/internal/seal"
	"sparecrate/internal/server"
	"sparecrate/internal/signon"
	"sparecrate/internal/store"
	"sparecrate/internal/traces"
	"sparecrate/internal/version"
)

// Options say how to run. Zero values of Listen, Studio, AdminName and
// AdminEmail take the defaults below.
type Options struct {
	Listen          string // host:port
	Data            string // folder for the bucket and, without Database, for a private MariaDB
	Database        string // data source name; empty for a private server
	Studio          string // the studio's name, for the first start
	AdminName       string // the first admin's name and address, for the first start
	AdminEmail      string
	Secure          bool           // cookies only over HTTPS
	Proxies         []netip.Prefix // of proxies in front of the service
	TLSCert, TLSKey string         // files to answer by HTTPS with; both or none
	Bucket          string         // where files lie: a folder or s3://NAME; empty for a folder among the data
	Debug           string         // where profiles of the process are answered, HOST:PORT on this machine; empty for nowhere
	Traces          string         // URL of a collector of OpenTelemetry traces; empty for none
	KeyFile         string         // with the key for secrets; empty for the one among the data
	Private         bool           // addresses that people give may lead into private networks
	Mail            mail.Config
	SecondFactor    app.FactorPolicy // whom a second factor is asked of; nobody when empty
	SignOn          signon.Config    // the provider that people sign on by
	Backup          app.BackupPlan   // where and how often the service is backed up by itself
	AuditKept       time.Duration    // how long the audit log keeps its entries, 0 for good
	Address         string           // under which people reach the service, for e-mails; http:// and Listen when empty
	Log             *slog.Logger
	// OwnTemp has the whole process keep its temporary files under Data, where they are
	// swept: for a process that does nothing else.
	OwnTemp bool
	// Prepare runs once all is up but before requests are answered, with the
	// one-time password of a first start.
	Prepare func(ctx context.Context, c *rooms.Rooms, oneTimePassword string) error
	// Ready is called with the address once requests are answered.
	Ready func(address string)
}

// The defaults.
const (
	DefaultListen = "127.0.0.1:8480"
	DefaultStudio = "Our studio"
	DefaultName   = "Admin"
	DefaultEmail  = "admin@studio.example"
)

// ErrDatabaseLost is returned by Run when the private database ended and could not be
// started again.
var ErrDatabaseLost = errors.New("the service ends because it has no database")

// DatabaseFolder is where the private database lies in a data folder.
func DatabaseFolder(data string) string { return filepath.Join(data, "mariadb") }

// GCPercent is how much more memory than is in use may be taken until unused memory is collected,
// in percent: twice the usual, as pages of large studios take a lot for a moment.
const GCPercent = 200

// LogDriver has a log take what the database's driver says, for the whole process; before
// Run.
func LogDriver(log *slog.Logger) { _ = mysql.SetLogger(driverLog{log}) } // the error is for no logger

// driverLog passes what the database's driver says to the log.
type driverLog struct{ log *slog.Logger }

// Print writes a line; connections that end are no errors of the service.
func (l driverLog) Print(v ...any) { l.log.Debug("database driver", "line", fmt.Sprint(v...)) }

// Run runs the service until ctx ends.
func Run(ctx context.Context, o Options) (err error) {
	if o.Listen == "" {
		o.Listen = DefaultListen
	}
	if o.Studio == "" {
		o.Studio = DefaultStudio
	}
	if o.AdminName == "" {
		o.AdminName = DefaultName
	}
	if o.AdminEmail == "" {
		o.AdminEmail = DefaultEmail
	}
	// The port comes first: starting a database only to find the port taken helps nobody.
	l, err := listen(ctx, o.Listen)
	if err != nil {
		return err
	}
	defer func() { _ = l.Close() }()
	if o.Debug != "" {
		stop, err := debugging(ctx, o.Debug, o.Log)
		if err != nil {
			return err
		}
		defer stop()
	}
	if o.Traces != "" {
		end, err := traces.Send(ctx, o.Traces, version.String())
		if err != nil {
			return err
		}
		defer end()
	}
	scheme, encrypted := "http://", (*tls.Config)(nil)
	if o.TLSCert != "" {
		if encrypted, err = certificate.Config(o.TLSCert, o.TLSKey, o.Log); err != nil {
			return err
		}
		scheme, o.Secure = "https://", true
	}
	if err := os.MkdirAll(o.Data, 0o700); err != nil {
		return fmt.Errorf("make the data folder: %w", err)
	}
	if err := halfRestored(o); err != nil {
		return err
	}
	// Requests are answered from here on: at first with what the service waits for.
	entrance := server.NewEntrance()
	serving, stopServing := context.WithCancel(ctx)
	served := make(chan error, 1)
	go func() { served <- server.Serve(serving, l, entrance, encrypted, o.Log) }()
	defer func() {
		stopServing()
		if bad := <-served; err == nil {
			err = bad
		}
	}()
	dsn := o.Database
	if dsn == "" {
		var db *mariadb.Server
		if db, err = mariadb.Open(ctx, DatabaseFolder(o.Data), o.Log); err != nil {
			return err
		}
		defer func() { err = errors.Join(err, db.Close()) }()
		dsn = db.DSN("")
		// Without its database the service is of no use: it ends and says why.
		watched, giveUp := context.WithCancelCause(ctx)
		defer giveUp(nil)
		go func() {
			select {
			case bad := <-db.Failed():
				giveUp(fmt.Errorf("%w: %w", ErrDatabaseLost, bad))
			case <-watched.Done():
			}
		}()
		defer func() {
			if lost := context.Cause(watched); errors.Is(lost, ErrDatabaseLost) {
				err = lost
			}
		}()
		ctx = watched
	}
	records, err := openRecords(ctx, dsn, o, entrance)
	if err != nil && ctx.Err() != nil {
		return nil // it was told to end meanwhile
	}
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, records.Close()) }()
	kept, err := files(ctx, o)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, kept.Close()) }()
	if o.OwnTemp {
		if err := os.Setenv("TMPDIR", kept.TempFolder()); err != nil {
			return err
		}
	}
	limits := app.DefaultLimits
	if limits.Secrets, err = seal.Open(KeyFile(o)); err != nil {
		return err
	}
	limits.Backup = o.Backup
	limits.Backup.KeyFile = KeyFile(o)
	limits.Private, limits.Mail, limits.AuditKept, limits.SecondFactor, limits.Address = o.Private, o.Mail, o.AuditKept, o.SecondFactor, strings.TrimSuffix(o.Address, "/")
	if limits.Address == "" {
		limits.Address = scheme + l.Addr().String()
	}
	c := rooms.New(records, kept, func() time.Time { return time.Now().UTC().Truncate(time.Microsecond) }, limits, o.Log)
	password, err := c.Auth.FirstStart(ctx, o.Studio, o.AdminName, o.AdminEmail)
	if err != nil {
		return err
	}
	if err := c.Factors.SealAll(ctx); err != nil {
		return err
	}
	if o.Prepare != nil {
		if err := o.Prepare(ctx, c, password); err != nil {
			return err
		}
	}
	// What measures the jobs is there before the first of them.
	handler := server.Handler(server.Config{
		Catalog: c, Store: records, Console: console.Files(), Log: o.Log, Secure: o.Secure, Proxies: o.Proxies, SignOn: o.SignOn, Address: limits.Address,
	})
	// Jobs come to their end, or are put back, before bucket and database are closed.
	working, stopWorking := context.WithCancel(ctx)
	ended := make(chan error, 1)
	go func() { ended <- c.Work(working) }()
	defer func() {
		stopWorking()
		if bad := <-ended; !errors.Is(bad, context.Canceled) {
			err = errors.Join(err, bad)
		}
	}()
	entrance.Open(handler)
	if o.Ready != nil {
		o.Ready(scheme + l.Addr().String())
	}
	o.Log.Info("ready", "address", scheme+l.Addr().String())
	_, _ = daemon.SdNotify(false, daemon.SdNotifyReady) // which does nothing without systemd
	defer func() { _, _ = daemon.SdNotify(false, daemon.SdNotifyStopping) }()
	defer context.AfterFunc(ctx, stopServing)() // also where the database is lost
	err = <-served
	served <- nil
	return err
}

// waitEvery is how long it takes until a database that does not answer is tried again.
const waitEvery = 2 * time.Second

// openRecords opens the database. One of others that does not answer is waited for, and what is
// waited for is said.
func openRecords(ctx context.Context, dsn string, o Options, entrance *server.Entrance) (*store.Store, error) {
	for said := false; ; said = true {
		records, err := store.Open(ctx, dsn)
		if err == nil || o.Database == "" || !store.IsUnavailable(err) || ctx.Err() != nil {
			if err == nil && said {
				o.Log.Info("the database answers")
			}
			return records, err
		}
		if !said {
			o.Log.Error("waiting for the database", "error", err)
		}
		entrance.Wait("its database does not answer")
		_, _ = daemon.SdNotify(false, fmt.Sprintf("STATUS=waiting for the database\nEXTEND_TIMEOUT_USEC=%d", time.Minute.Microseconds()))
		select {
		case <-ctx.Done():
			return nil, ctx.Err()
		case <-time.After(waitEvery):
		}
	}
}

// KeyFile is where the key for secrets is: among the data, unless it is named.
func KeyFile(o Options) string {
	if o.KeyFile != "" {
		return o.KeyFile
	}
	return filepath.Join(o.Data, "secrets.key")
}

// listen returns what requests come by: the socket that systemd holds for the service
// (sd_listen_fds), or one of its own.
func listen(ctx context.Context, address string) (net.Listener, error) {
	if given, err := activation.Listeners(); err == nil && len(given) > 0 && given[0] != nil {
		return given[0], nil
	}
	l, err := (&net.ListenConfig{}).Listen(ctx, "tcp", address)
	if errors.Is(err, syscall.EADDRINUSE) {
		return nil, fmt.Errorf("the address %s is taken by another program; stop that one or choose another with --listen", address)
	}
	if err != nil {
		return nil, fmt.Errorf("listen on %s: %w", address, err)
	}
	return l, nil
}
