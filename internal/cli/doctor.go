package cli

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"

	"github.com/urfave/cli/v3"

	"sparecrate/internal/backup"
	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/doctor"
	"sparecrate/internal/service"
)

func doctorCommand() *cli.Command {
	f := &configFile{}
	return &cli.Command{
		Name: "doctor", Usage: "look at everything about a service, and say what to do",
		Description: terminal.Example("Run it as the account of the service, with the settings of `serve`: programs, folders and\ntheir rights, database, files, jobs, address, certificate, mail, sign-on, second factors,\nbackups. Ends with 1 if something is at fault.",
			"sparecrate doctor --data .build/demo --backups backups"),
		Flags: append(serveCommandFlags(f), &cli.StringFlag{Name: "backups", Usage: "`PLACE` of the backups", Sources: cli.EnvVars("SPARECRATE_BACKUP")}),
		Action: func(ctx context.Context, c *cli.Command) error {
			o, err := serveOptions(c, f)
			if err != nil {
				return err
			}
			o.Log = quietLog()
			found := doctor.Look(ctx, doctor.Service{
				Data: o.Data, KeyFile: service.KeyFile(o), Private: o.Database == "", Listen: o.Listen, Address: o.Address, TLSCert: o.TLSCert, Mail: o.Mail.Server,
				Issuer: o.SignOn.Issuer, Backups: cmp.Or(c.String("backups"), c.String("backup")),
				Open: func(ctx context.Context, do func(backup.Source) error) error { return service.Beside(ctx, o, do) },
			})
			if err := terminal.Show(c, found, func(w io.Writer) {
				for _, one := range found {
					_, _ = fmt.Fprintf(w, "%-8s %s: %s\n", one.State, one.What, one.Said)
					if one.Do != "" {
						_, _ = fmt.Fprintf(w, "         %s\n", one.Do)
					}
				}
			}); err != nil {
				return err
			}
			for _, one := range found {
				if one.State == doctor.Fault {
					return errors.New("something is at fault: see above")
				}
			}
			return nil
		},
	}
}
