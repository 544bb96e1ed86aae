package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"time"

	"filippo.io/age"
	"github.com/dustin/go-humanize"
	"github.com/urfave/cli/v3"

	"sparecrate/internal/app"
	"sparecrate/internal/backup"
	"sparecrate/internal/backups"
	"sparecrate/internal/bucket"
	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/service"
	"sparecrate/internal/store/schema"
)

// besideFlags say where the records and files of a service are, as its configuration does.
func besideFlags(f *configFile, more ...cli.Flag) []cli.Flag {
	return append(append(f.from(append([]cli.Flag{
		dataFlag(),
		&cli.StringFlag{Name: "bucket", Usage: "where the service's files lie, as `serve --bucket` has it", Sources: cli.EnvVars("SPARECRATE_BUCKET")},
		&cli.StringFlag{Name: "key-file", Usage: "`FILE` with the service's key for secrets, if not in --data", Sources: cli.EnvVars("SPARECRATE_KEY_FILE")},
	}, databaseFlags()...)), terminal.JSONFlag), more...)
}

func identityFlag() cli.Flag {
	return &cli.StringSliceFlag{Name: "identity", Usage: "`FILE` with your age identity, for a backup that is encrypted", Sources: cli.EnvVars("SPARECRATE_BACKUP_IDENTITY")}
}

func fromFlag() cli.Flag {
	return &cli.StringFlag{Name: "from", Usage: "`PLACE` of the backups: a folder, or s3://NAME?endpoint=URL", Required: true, Sources: cli.EnvVars("SPARECRATE_BACKUP")}
}

func atFlag() cli.Flag {
	return &cli.StringFlag{Name: "at", Usage: "the backup's `TIME`, as `backup list` shows it; without it, the newest"}
}

// recipients reads whom backups are encrypted for.
func recipients(c *cli.Command) (out []age.Recipient, err error) {
	out, err = parsedRecipients("recipient", c.StringSlice("recipient"))
	if err != nil {
		return nil, err
	}
	for _, path := range c.StringSlice("recipients-file") {
		f, err := os.Open(path) //nolint:gosec // the file that the caller names
		if err != nil {
			return nil, fmt.Errorf("read whom the backup is for: %w", err)
		}
		found, err := age.ParseRecipients(f)
		if err = errors.Join(err, f.Close()); err != nil {
			return nil, fmt.Errorf("%s is no list of age recipients: %w", path, err)
		}
		out = append(out, found...)
	}
	return out, nil
}

// parsedRecipients are the recipients that a flag names.
func parsedRecipients(flag string, texts []string) (out []age.Recipient, err error) {
	for _, text := range texts {
		r, err := age.ParseX25519Recipient(text)
		if err != nil {
			return nil, terminal.Misused("--%s is an age recipient, like age1..., not %q", flag, text)
		}
		out = append(out, r)
	}
	return out, nil
}

// backupEvery are how often a service may be backed up by itself.
var backupEvery = map[string]time.Duration{"day": 24 * time.Hour, "week": 7 * 24 * time.Hour}

// backupPlan reads how a service backs itself up.
func backupPlan(c *cli.Command, f *configFile) (plan app.BackupPlan, err error) {
	plan = app.BackupPlan{Place: c.String("backup"), Every: backupEvery[c.String("backup-every")], Keep: c.Int("backup-keep")}
	if plan.Every == 0 {
		return plan, terminal.Misused("--backup-every is day or week, not %q", c.String("backup-every"))
	}
	if plan.Keep < 0 {
		return plan, terminal.Misused("--backup-keep is a number of backups, 0 for all")
	}
	plan.Recipients, err = parsedRecipients("backup-recipient", f.list(c, "backup-recipient"))
	return plan, err
}

func identities(c *cli.Command) (out []age.Identity, err error) {
	for _, path := range c.StringSlice("identity") {
		f, err := os.Open(path) //nolint:gosec // the file that the caller names
		if err != nil {
			return nil, fmt.Errorf("read the identity: %w", err)
		}
		found, err := age.ParseIdentities(f)
		if err = errors.Join(err, f.Close()); err != nil {
			return nil, fmt.Errorf("%s has no age identity", path)
		}
		out = append(out, found...)
	}
	return out, nil
}

// inPlace runs do over a place of backups.
func inPlace(ctx context.Context, address string, create bool, do func(*bucket.Place) error) error {
	place, err := bucket.OpenPlace(ctx, address, create)
	if err != nil {
		return err
	}
	return errors.Join(do(place), place.Close())
}

func backupCommand() *cli.Command {
	f := &configFile{}
	return &cli.Command{
		Name:  "backup",
		Usage: "copy all records and files of a service to another place",
		Description: terminal.Example("Works on the data folder itself, with or without a running service. Files and parts of\ntables that the place has already are not sent again. With --recipient everything is\nencrypted with age, and the key for secrets goes along; without it, keep secrets.key of\nthe data folder apart. `restore` makes a service of it again.",
			"sparecrate backup --data .build/demo --out backups"),
		Flags: besideFlags(f,
			&cli.StringFlag{Name: "out", Usage: "`PLACE` to keep it in: a folder, or s3://NAME?endpoint=URL", Sources: cli.EnvVars("SPARECRATE_BACKUP")},
			&cli.StringSliceFlag{Name: "recipient", Usage: "encrypt it for an age `RECIPIENT`, like age1...; may be given several times", Sources: cli.EnvVars("SPARECRATE_BACKUP_RECIPIENT")},
			&cli.StringSliceFlag{Name: "recipients-file", Usage: "encrypt it for those in a `FILE`"},
			&cli.IntFlag{Name: "keep", Usage: "keep the newest `NUMBER` of backups in the place, remove the others; 0 for all", Sources: cli.EnvVars("SPARECRATE_BACKUP_KEEP")}),
		Action: func(ctx context.Context, c *cli.Command) error {
			if _, err := terminal.Arguments(c); err != nil {
				return err
			}
			if c.String("out") == "" {
				return terminal.Misused("name the place with --out")
			}
			if c.Int("keep") < 0 {
				return terminal.Misused("--keep is a number of backups, 0 for all")
			}
			to, err := recipients(c)
			if err != nil {
				return err
			}
			o, err := beside(c, f)
			if err != nil {
				return err
			}
			var made *backup.Made
			err = inPlace(ctx, c.String("out"), true, func(place *bucket.Place) error {
				return service.Beside(ctx, o, func(from backup.Source) error {
					made, err = backups.Make(ctx, from, place, backup.Options{Recipients: to, Keep: c.Int("keep"), Now: time.Now})
					return err
				})
			})
			if made == nil {
				return err
			}
			err = errors.Join(err, terminal.Show(c, made, func(w io.Writer) {
				how := "not encrypted"
				if made.Encrypted {
					how = "encrypted"
				}
				_, _ = fmt.Fprintf(w, "Backup %s in %s, %s: %s records, %s of %s; %s were new.\n", made.Name, made.Place, how,
					humanize.Comma(made.Made.Rows), terminal.Count(made.Made.Files, "file"), terminal.Size(made.Made.Bytes), terminal.Size(made.Made.NewBytes))
				if len(made.Dropped) > 0 {
					_, _ = fmt.Fprintf(w, "Removed older ones: %s.\n", strings.Join(made.Dropped, ", "))
				}
			}))
			return err
		},
		Commands: []*cli.Command{backupListCommand(), backupCheckCommand()},
	}
}

// listed is a backup in a list.
type listed struct {
	Name      string `json:"name"`
	Encrypted bool   `json:"encrypted"`
}

func backupListCommand() *cli.Command {
	return &cli.Command{
		Name: "list", Usage: "list the backups of a place, the newest first",
		Description: terminal.Example("", "sparecrate backup list --from backups"),
		Flags:       []cli.Flag{terminal.JSONFlag, fromFlag()},
		Action: func(ctx context.Context, c *cli.Command) error {
			if _, err := terminal.Arguments(c); err != nil {
				return err
			}
			all := []listed{}
			err := inPlace(ctx, c.String("from"), false, func(place *bucket.Place) error {
				names, sealed, err := backup.Names(ctx, place)
				for _, n := range names {
					all = append(all, listed{n, sealed[n]})
				}
				return err
			})
			if err != nil {
				return err
			}
			return terminal.Show(c, all, func(w io.Writer) {
				if len(all) == 0 {
					_, _ = fmt.Fprintln(w, "There are no backups here.")
				}
				for _, b := range all {
					how := ""
					if b.Encrypted {
						how = "  encrypted"
					}
					_, _ = fmt.Fprintf(w, "%s%s\n", b.Name, how)
				}
			})
		},
	}
}

// checked is a backup that was opened.
type checked struct {
	Name    string             `json:"name"`
	At      time.Time          `json:"at"`
	Studio  string             `json:"studio"`
	Program string             `json:"program"`
	Made    backup.MadeOfParts `json:"made"`
	Lost    []string           `json:"lost,omitempty"`
}

func backupCheckCommand() *cli.Command {
	return &cli.Command{
		Name: "check", Usage: "read a backup through and hold it against its hashes",
		Description: terminal.Example("Reads every record and file of it. What is missing or damaged is named.", "sparecrate backup check --from backups"),
		Flags:       []cli.Flag{terminal.JSONFlag, fromFlag(), atFlag(), identityFlag()},
		Action: func(ctx context.Context, c *cli.Command) error {
			if _, err := terminal.Arguments(c); err != nil {
				return err
			}
			return opened(ctx, c, func(b *backup.Backup) error {
				if err := b.Check(ctx); err != nil {
					return err
				}
				return said(c, b, "is whole")
			})
		},
	}
}

// opened runs do over the backup that the flags name.
func opened(ctx context.Context, c *cli.Command, do func(*backup.Backup) error) error {
	keys, err := identities(c)
	if err != nil {
		return err
	}
	return inPlace(ctx, c.String("from"), false, func(place *bucket.Place) error {
		b, err := backup.Open(ctx, place, c.String("at"), keys)
		if err != nil {
			return err
		}
		return do(b)
	})
}

func said(c *cli.Command, b *backup.Backup, what string) error {
	m := b.Manifest
	return terminal.Show(c, checked{b.Name, m.At, m.Studio, m.Program, m.Made, m.Lost}, func(w io.Writer) {
		_, _ = fmt.Fprintf(w, "Backup %s of %s %s: %s records, %s of %s.\n", b.Name, m.Studio, what, humanize.Comma(m.Made.Rows), terminal.Count(m.Made.Files, "file"), terminal.Size(m.Made.Bytes))
		if len(m.Lost) > 0 {
			_, _ = fmt.Fprintf(w, "Missing or damaged in the service when it was made: %s.\n", terminal.Count(len(m.Lost), "file"))
		}
	})
}

func restoreCommand() *cli.Command {
	f := &configFile{}
	return &cli.Command{
		Name: "restore", Usage: "make a service of a backup",
		Description: terminal.Example("Fills an empty data folder, or an empty database and bucket of yours, which need not be\nof the kind that was backed up. Everybody signs in again. A restore that was broken off is\nbegun anew when it is asked for again; no service starts on half of one.",
			"sparecrate restore --from backups --data restored"),
		Flags: besideFlags(f, fromFlag(), atFlag(), identityFlag()),
		Action: func(ctx context.Context, c *cli.Command) error {
			if _, err := terminal.Arguments(c); err != nil {
				return err
			}
			dsn, err := databaseOf(c, f)
			if err != nil {
				return err
			}
			folder, err := filepath.Abs(c.String("data"))
			if err != nil {
				return err
			}
			where := folder
			if dsn != "" {
				where = "the database"
			}
			o := service.Options{Data: folder, Database: dsn, Bucket: c.String("bucket"), KeyFile: c.String("key-file"), Log: quietLog()}
			return opened(ctx, c, func(b *backup.Backup) error {
				if err := service.Restore(ctx, o, b); errors.Is(err, schema.ErrNotEmpty) {
					return fmt.Errorf("%s is not empty; name an empty place with --data, or with --database-file and --bucket", where)
				} else if err != nil {
					return err
				}
				return said(c, b, "is restored in "+folder)
			})
		},
	}
}
