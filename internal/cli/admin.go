package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"strings"

	"github.com/go-sql-driver/mysql"
	"github.com/urfave/cli/v3"

	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/service"
)

// databaseFlags say which database, for commands of the service's own machine.
func databaseFlags() []cli.Flag {
	return []cli.Flag{
		&cli.StringFlag{Name: "database", Usage: "your MariaDB server, as `DSN` user@tcp(host:3306)/name; use --database-file for a password. Default: a private server", Sources: cli.EnvVars("SPARECRATE_DATABASE")},
		&cli.StringFlag{Name: "database-file", Usage: "`FILE` with the DSN of your MariaDB server: user:password@tcp(host:3306)/name", Sources: cli.EnvVars("SPARECRATE_DATABASE_FILE")},
	}
}

// databaseOf returns the data source name that a command was given; empty for the
// private server. A password on the command line is refused, as every user of the
// machine sees it in the list of processes.
func databaseOf(c *cli.Command, f *configFile) (string, error) {
	dsn := c.String("database")
	if path := c.String("database-file"); path != "" {
		if dsn != "" {
			return "", terminal.Misused("give either --database or --database-file")
		}
		b, err := os.ReadFile(path) //nolint:gosec // the file that the caller names
		if err != nil {
			return "", fmt.Errorf("read the database's address: %w", err)
		}
		return strings.TrimSpace(string(b)), nil
	}
	if dsn == "" || dsn == os.Getenv("SPARECRATE_DATABASE") || dsn == f.load()["database"] {
		return dsn, nil
	}
	parsed, err := mysql.ParseDSN(dsn)
	if err != nil {
		return "", terminal.Misused("--database looks like user@tcp(host:3306)/name")
	}
	if parsed.Passwd != "" {
		return "", terminal.Misused("a password in --database shows in the list of processes; write the DSN into a file and give that with --database-file")
	}
	return dsn, nil
}

func dataFlag() cli.Flag {
	return &cli.StringFlag{Name: "data", Usage: "the service's data `FOLDER`", Value: dataFolder("sparecrate"), Sources: cli.EnvVars("SPARECRATE_DATA")}
}

// beside returns where the records and files of a service are, for commands that work on
// them whether or not it runs.
func beside(c *cli.Command, f *configFile) (service.Options, error) {
	dsn, err := databaseOf(c, f)
	if err != nil {
		return service.Options{}, err
	}
	if f.err != nil {
		return service.Options{}, f.err
	}
	o := service.Options{Data: c.String("data"), Database: dsn, Bucket: c.String("bucket"), KeyFile: c.String("key-file"), Log: quietLog()}
	if _, err := os.Stat(o.Data); dsn == "" && errors.Is(err, os.ErrNotExist) {
		return o, fmt.Errorf("there is no data folder %s; name the service's with --data", o.Data)
	}
	return o, nil
}

// quietLog is where commands write that run what a service logs of.
func quietLog() *slog.Logger { return slog.New(slog.DiscardHandler) }

func adminCommand() *cli.Command {
	f := &configFile{}
	flags := besideFlags(f)
	return &cli.Command{
		Name:        "admin",
		Usage:       "help yourself on the machine that the service runs on",
		Description: terminal.Example("Needs no account, but the service's data folder or its database.", "sparecrate admin reset ines@lanternjaw.example"),
		Commands: []*cli.Command{{
			Name:      "reset",
			Usage:     "give an admin who is locked out a one-time password",
			ArgsUsage: "[EMAIL]",
			Description: terminal.Example("Works on the data folder itself, with or without a running service, for whoever may\nread that folder. The admin's account is opened if it was closed; all of its sessions,\ntokens and calendar links end. EMAIL is needed when there are several admins.",
				"sparecrate admin reset ines@lanternjaw.example"),
			Flags: flags,
			Action: func(ctx context.Context, c *cli.Command) error {
				if c.Args().Len() > 1 {
					return terminal.Misused("`%s` takes one e-mail address", c.FullName())
				}
				o, err := beside(c, f)
				if err != nil {
					return err
				}
				email, password, err := service.ResetAdmin(ctx, o, c.Args().First())
				if err != nil {
					return err
				}
				return terminal.Show(c, started{Email: email, OneTimePassword: password}, func(w io.Writer) {
					_, _ = fmt.Fprintf(w, "Sign in as %s with the one-time password %s and set your own.\n", email, password)
				})
			},
		}},
	}
}
