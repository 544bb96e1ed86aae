package cli

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"os"
	"path/filepath"
	"runtime/debug"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"sparecrate/internal/app"
	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/demo"
	sheets "sparecrate/internal/fakes/hosting"
	"sparecrate/internal/fakes/platform"
	"sparecrate/internal/fakes/published"
	"sparecrate/internal/machine"
	"sparecrate/internal/mail"
	"sparecrate/internal/rooms"
	"sparecrate/internal/service"
)

func dataFolder(name string) string {
	base, err := os.UserHomeDir()
	if err != nil {
		base = "."
	}
	return filepath.Join(base, ".local", "share", name)
}

func serveFlags(f *configFile, data string, more ...cli.Flag) []cli.Flag {
	return append([]cli.Flag{&cli.BoolFlag{Name: "json", Usage: "print URL and sign-in as one line of JSON"}}, f.from(append(append(append(signOnFlags(), databaseFlags()...), []cli.Flag{
		&cli.StringFlag{Name: "listen", Usage: "listen on `HOST:PORT`", Value: service.DefaultListen, Sources: cli.EnvVars("SPARECRATE_LISTEN")},
		&cli.StringFlag{Name: "data", Usage: "`FOLDER` for files and, without --database, the private database", Value: data, Sources: cli.EnvVars("SPARECRATE_DATA")},
		&cli.StringFlag{Name: "bucket", Usage: "where fonts and documents lie: a folder, or `s3://NAME` with ?endpoint=URL&region=NAME; without it, the folder files in --data", Sources: cli.EnvVars("SPARECRATE_BUCKET")},
		&cli.BoolFlag{Name: "secure", Usage: "send the session cookie over HTTPS only; set it behind a proxy that terminates HTTPS", Sources: cli.EnvVars("SPARECRATE_SECURE")},
		&cli.StringSliceFlag{Name: "trusted-proxies", Usage: "`NETWORKS` of proxies in front of the service, like 10.0.0.0/8, whose X-Forwarded-For says where people come from", Sources: cli.EnvVars("SPARECRATE_TRUSTED_PROXIES")},
		&cli.BoolFlag{Name: "allow-private-addresses", Usage: "also fetch stylesheets and fonts from private networks and this machine", Sources: cli.EnvVars("SPARECRATE_ALLOW_PRIVATE_ADDRESSES")},
		&cli.StringFlag{Name: "address", Usage: "public `URL` of the service, for e-mails and calendars, like https://fonts.lanternjaw.example", Sources: cli.EnvVars("SPARECRATE_PUBLIC_ADDRESS")},
		&cli.StringFlag{Name: "mail-server", Usage: "SMTP server for e-mails, as `HOST:PORT`; without it no e-mail is sent", Sources: cli.EnvVars("SPARECRATE_MAIL_SERVER")},
		&cli.StringFlag{Name: "mail-from", Usage: "sender `ADDRESS` of e-mails", Value: "crate@localhost.example", Sources: cli.EnvVars("SPARECRATE_MAIL_FROM")},
		&cli.StringFlag{Name: "mail-user", Usage: "`NAME` to sign in to the mail server", Sources: cli.EnvVars("SPARECRATE_MAIL_USER")},
		&cli.StringFlag{Name: "mail-password-file", Usage: "`FILE` with the password for the mail server", Sources: cli.EnvVars("SPARECRATE_MAIL_PASSWORD_FILE")},
		&cli.BoolFlag{Name: "mail-plain", Usage: "send mail without encryption, to a server on this machine", Sources: cli.EnvVars("SPARECRATE_MAIL_PLAIN")},
		&cli.StringFlag{Name: "tls-cert", Usage: "`FILE` with the certificate to answer by HTTPS with, PEM; read again when it changes", Sources: cli.EnvVars("SPARECRATE_TLS_CERT")},
		&cli.StringFlag{Name: "tls-key", Usage: "`FILE` with its key", Sources: cli.EnvVars("SPARECRATE_TLS_KEY")},
		&cli.StringFlag{Name: "key-file", Usage: "`FILE` with the key for secrets of authenticator apps, made where it is missing; without it, secrets.key in the data folder. Services on several machines need the same", Sources: cli.EnvVars("SPARECRATE_KEY_FILE")},
		&cli.StringFlag{Name: "second-factor", Usage: "whom a second factor is asked of: nobody, admins or everybody", Value: string(app.FactorForNobody), Sources: cli.EnvVars("SPARECRATE_SECOND_FACTOR")},
		&cli.IntFlag{Name: "audit-days", Usage: "keep entries of the audit log for this `NUMBER` of days; 0 for good", Sources: cli.EnvVars("SPARECRATE_AUDIT_DAYS")},
		&cli.StringFlag{Name: "backup", Usage: "make backups by itself in a `PLACE`: a folder, or s3://NAME?endpoint=URL", Sources: cli.EnvVars("SPARECRATE_BACKUP")},
		&cli.StringFlag{Name: "backup-every", Usage: "how often: day or week", Value: "day", Sources: cli.EnvVars("SPARECRATE_BACKUP_EVERY")},
		&cli.IntFlag{Name: "backup-keep", Usage: "keep the newest `NUMBER` of them; 0 for all", Sources: cli.EnvVars("SPARECRATE_BACKUP_KEEP")},
		&cli.StringSliceFlag{Name: "backup-recipient", Usage: "encrypt them for an age `RECIPIENT`, like age1...; may be given several times", Sources: cli.EnvVars("SPARECRATE_BACKUP_RECIPIENT")},
		&cli.StringFlag{Name: "debug-listen", Usage: "answer profiles of the process (pprof) on `HOST:PORT` of this machine", Sources: cli.EnvVars("SPARECRATE_DEBUG_LISTEN")},
		&cli.StringFlag{Name: "traces", Usage: "send traces to an OpenTelemetry collector at `URL`, like http://127.0.0.1:4318 (OTLP over HTTP)", Sources: cli.EnvVars("SPARECRATE_TRACES")},
		&cli.StringFlag{Name: "log-format", Usage: "text or json", Value: "text", Sources: cli.EnvVars("SPARECRATE_LOG_FORMAT")},
		&cli.StringFlag{Name: "log-level", Usage: "debug, info, warn or error", Value: "info", Sources: cli.EnvVars("SPARECRATE_LOG_LEVEL")},
	}...), more...))...)
}

// serveCommandFlags are the flags of serve.
func serveCommandFlags(f *configFile) []cli.Flag {
	return serveFlags(f, dataFolder("sparecrate"),
		&cli.StringFlag{Name: "studio", Usage: "the studio's `NAME`, for the first start", Value: service.DefaultStudio, Sources: cli.EnvVars("SPARECRATE_STUDIO")},
		&cli.StringFlag{Name: "admin-name", Usage: "the first admin's `NAME`, for the first start", Value: service.DefaultName, Sources: cli.EnvVars("SPARECRATE_ADMIN_NAME")},
		&cli.StringFlag{Name: "admin-email", Usage: "the first admin's `ADDRESS`, for the first start", Value: service.DefaultEmail, Sources: cli.EnvVars("SPARECRATE_ADMIN_EMAIL")})
}

// memoryGoal is what the collector of memory works harder to stay under while large imports are
// taken in: a sixteenth of the machine's, and no less than leastGoal. GOMEMLIMIT sets another. It is
// no bound: what is needed is had.
func memoryGoal() int64 { return max(leastGoal, machine.Memory()/16) }

const leastGoal = 140 << 20

// serveOptions reads the flags of a command that runs the service.
func serveOptions(c *cli.Command, f *configFile) (service.Options, error) {
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(memoryGoal())
	}
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(service.GCPercent)
	}
	if _, err := terminal.Arguments(c); err != nil {
		return service.Options{}, err
	}
	if err := f.check(c.Flags); err != nil {
		return service.Options{}, err
	}
	var level slog.Level
	if err := level.UnmarshalText([]byte(c.String("log-level"))); err != nil {
		return service.Options{}, terminal.Misused("--log-level is debug, info, warn or error, not %q", c.String("log-level"))
	}
	options := &slog.HandlerOptions{Level: level}
	var handler slog.Handler
	switch c.String("log-format") {
	case "text":
		handler = slog.NewTextHandler(c.Root().ErrWriter, options)
	case "json":
		handler = slog.NewJSONHandler(c.Root().ErrWriter, options)
	default:
		return service.Options{}, terminal.Misused("--log-format is text or json, not %q", c.String("log-format"))
	}
	dsn, err := databaseOf(c, f)
	if err != nil {
		return service.Options{}, err
	}
	var proxies []netip.Prefix
	for _, s := range f.list(c, "trusted-proxies") {
		p, err := netip.ParsePrefix(s)
		if err != nil {
			return service.Options{}, terminal.Misused("--trusted-proxies takes networks like 10.0.0.0/8, not %q", s)
		}
		proxies = append(proxies, p.Masked())
	}
	policy := app.FactorPolicy(c.String("second-factor"))
	if !slices.Contains([]app.FactorPolicy{app.FactorForNobody, app.FactorForAdmins, app.FactorForAll}, policy) {
		return service.Options{}, terminal.Misused("--second-factor is nobody, admins or everybody, not %q", policy)
	}
	if (c.String("tls-cert") == "") != (c.String("tls-key") == "") {
		return service.Options{}, terminal.Misused("--tls-cert and --tls-key belong together")
	}
	provider, err := signOnConfig(c, f)
	if err != nil {
		return service.Options{}, err
	}
	if c.Int("audit-days") < 0 {
		return service.Options{}, terminal.Misused("--audit-days is a number of days, 0 for good, not %d", c.Int("audit-days"))
	}
	plan, err := backupPlan(c, f)
	if err != nil {
		return service.Options{}, err
	}
	post := mail.Config{Server: c.String("mail-server"), From: c.String("mail-from"), User: c.String("mail-user"), Plain: c.Bool("mail-plain")}
	if path := c.String("mail-password-file"); path != "" {
		b, err := os.ReadFile(path)
		if err != nil {
			return service.Options{}, fmt.Errorf("the password for the mail server: %w", err)
		}
		post.Password = strings.TrimRight(string(b), "\r\n")
	}
	return service.Options{
		Mail: post, Address: c.String("address"), Listen: c.String("listen"), Data: c.String("data"), Bucket: c.String("bucket"), Database: dsn, Secure: c.Bool("secure"), Log: slog.New(handler),
		SignOn: provider, TLSCert: c.String("tls-cert"), TLSKey: c.String("tls-key"), KeyFile: c.String("key-file"), Debug: c.String("debug-listen"), SecondFactor: policy, AuditKept: time.Duration(c.Int("audit-days")) * 24 * time.Hour,
		Backup: plan, Traces: c.String("traces"), Private: c.Bool("allow-private-addresses"), Proxies: proxies, OwnTemp: true,
	}, nil
}

// started is what a start command says once requests are answered.
type started struct {
	Address         string `json:"address,omitempty"`
	Email           string `json:"email,omitempty"`
	OneTimePassword string `json:"oneTimePassword,omitempty"`
	Password        string `json:"password,omitempty"`
	Hosting         string `json:"hosting,omitempty"`  // the demo's server of hosted fonts
	Site            string `json:"site,omitempty"`     // the demo's published site of a client
	SignOn          string `json:"signOn,omitempty"`   // the demo's sign-on provider
	Platform        string `json:"platform,omitempty"` // the demo's platform of fonts
}

func serveCommand() *cli.Command {
	f := &configFile{}
	return &cli.Command{
		Name:  "serve",
		Usage: "run the service",
		Description: terminal.Example("Runs the service until it is interrupted. The first start makes an admin and\nprints a one-time password. Every flag can be set by the variable named beside it.",
			"sparecrate serve --studio 'Lanternjaw Studio' --admin-email ines@lanternjaw.example"),
		Flags: serveCommandFlags(f),
		Action: func(ctx context.Context, c *cli.Command) error {
			o, err := serveOptions(c, f)
			if err != nil {
				return err
			}
			o.Studio, o.AdminName, o.AdminEmail = c.String("studio"), c.String("admin-name"), c.String("admin-email")
			var said started
			o.Prepare = func(_ context.Context, _ *rooms.Rooms, password string) error {
				if password != "" {
					said.Email, said.OneTimePassword = o.AdminEmail, password
				}
				return nil
			}
			o.Ready = func(address string) {
				said.Address = address
				_ = terminal.Show(c, said, func(w io.Writer) {
					if said.OneTimePassword != "" {
						_, _ = fmt.Fprintf(w, "First start. Sign in as %s with the one-time password %s and set your own.\n", said.Email, said.OneTimePassword)
					}
					_, _ = fmt.Fprintf(w, "Spare Crate answers at %s\n", address)
				})
			}
			service.LogDriver(o.Log)
			return service.Run(ctx, o)
		},
	}
}

func demoCommand() *cli.Command {
	f := &configFile{named: true} // not the settings of the machine's own service
	return &cli.Command{
		Name:  "demo",
		Usage: "run the service with a demo studio",
		Description: terminal.Example("Fills an empty data folder with a made-up studio, its clients, fonts, licenses\nand sites, then runs the service. A second run finds everything as it was left.",
			"sparecrate demo"),
		Flags: append(serveFlags(f, dataFolder("sparecrate-demo")),
			&cli.BoolFlag{Name: "small", Usage: "fill in four families and five sites only, which starts faster"}),
		Action: func(ctx context.Context, c *cli.Command) error {
			o, err := serveOptions(c, f)
			if err != nil {
				return err
			}
			o.Studio, o.AdminName, o.AdminEmail = demo.Studio, demo.Name, demo.Email
			fonts, err := sheets.New()
			if err != nil {
				return err
			}
			hosting, stop, err := actAside(ctx, o.Listen, 1, "server of hosted fonts", fonts)
			if err != nil {
				return err
			}
			defer stop()
			members, err := platform.New("page-block")
			if err != nil {
				return err
			}
			desk, stop, err := actAside(ctx, o.Listen, 2, "membership platform", platform.Desk(members))
			if err != nil {
				return err
			}
			defer stop()
			pages, err := published.New(hosting + sheets.SheetPath)
			if err != nil {
				return err
			}
			site, stop, err := actAside(ctx, o.Listen, 3, "published site of a client", pages)
			if err != nil {
				return err
			}
			defer stop()
			signOn, stop, err := demoSignOn(ctx, &o)
			if err != nil {
				return err
			}
			defer stop()
			o.Private = true // the stand-ins for servers of others are on this machine
			var in *demo.SignIn
			o.Prepare = func(ctx context.Context, crate *rooms.Rooms, password string) (err error) {
				in, err = demo.Fill(ctx, crate, o.Data, password)
				if err != nil || password == "" {
					return err
				}
				if err := in.Mark(o.Data, false); err != nil {
					return err
				}
				if err := demo.Hosted(ctx, crate, in, hosting); err != nil {
					return err
				}
				if err := demo.Published(ctx, crate, in, site); err != nil {
					return err
				}
				if !c.Bool("small") {
					if err := demo.More(ctx, crate, in); err != nil {
						return err
					}
					if err := demo.PublishedMembers(ctx, crate, in, site); err != nil {
						return err
					}
				}
				return in.Mark(o.Data, true)
			}
			o.Ready = func(address string) {
				_ = terminal.Show(c, started{Address: address, Email: in.Email, Password: in.Password, Hosting: hosting, Platform: desk, Site: site, SignOn: signOn}, func(w io.Writer) {
					_, _ = fmt.Fprintf(w, "\n  Spare Crate, with the demo studio:  %s\n  A fake font host:                   %s\n  A fake publishing platform:         %s\n  A client's published site:          %s\n  A fake sign-on provider:            %s\n  Sign in as                          %s\n  with the password                   %s\n\n", address, hosting+sheets.SheetPath, desk+platform.DeskPath, site+published.Home, signOn, in.Email, in.Password)
				})
			}
			service.LogDriver(o.Log)
			return service.Run(ctx, o)
		},
	}
}

// actAside runs a stand-in for an outside server until stop is called, some ports
// after the service's own, so that its address stays the same. A service that takes
// any port has stand-ins that do.
func actAside(ctx context.Context, beside string, after int, what string, answers http.Handler) (address string, stop func(), err error) {
	host, port, err := net.SplitHostPort(beside)
	if err != nil {
		return "", nil, terminal.Misused("%q is not an address to listen on; it looks like %s", beside, service.DefaultListen)
	}
	if n, err := strconv.Atoi(port); err == nil && n > 0 {
		port = strconv.Itoa(n + after)
	}
	l, err := (&net.ListenConfig{}).Listen(ctx, "tcp", net.JoinHostPort(host, port))
	if err != nil {
		return "", nil, fmt.Errorf("the demo's %s needs the port %s, after the service's own: %w; choose another with --listen", what, port, err)
	}
	server := &http.Server{Handler: answers, ReadHeaderTimeout: 10 * time.Second}
	go func() { _ = server.Serve(l) }()
	return "http://" + l.Addr().String(), func() { _ = server.Close() }, nil
}
