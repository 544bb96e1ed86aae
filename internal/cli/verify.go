package cli

import (
	"context"
	"fmt"
	"io"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/internal/backup"
	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/service"
	"sparecrate/internal/verify"
)

func verifyCommand() *cli.Command {
	f := &configFile{}
	return &cli.Command{
		Name: "verify", Usage: "look whether all records and files of a service are sound",
		Description: terminal.Example("Works on the data folder itself, with or without a running service. Reads every file and\nholds it against its hash, looks for files that no record names, for families that are\ncounted or listed wrongly, and whether the audit log was changed. --repair puts right what\ncan be made again; what cannot is named, with what to do.",
			"sparecrate verify --data .build/demo"),
		Flags: besideFlags(f, &cli.BoolFlag{Name: "repair", Usage: "repair what can be made again"}),
		Action: func(ctx context.Context, c *cli.Command) error {
			if _, err := terminal.Arguments(c); err != nil {
				return err
			}
			o, err := beside(c, f)
			if err != nil {
				return err
			}
			var r *verify.Report
			if err := service.Beside(ctx, o, func(from backup.Source) (err error) {
				r, err = verify.Service(ctx, from.Store, from.Bucket, c.Bool("repair"))
				return err
			}); err != nil {
				return err
			}
			if err := terminal.Show(c, r, func(w io.Writer) { showReport(w, r) }); err != nil {
				return err
			}
			if !r.Sound() {
				return fmt.Errorf("not everything is sound: see above")
			}
			return nil
		},
	}
}

func showReport(w io.Writer, r *verify.Report) {
	_, _ = fmt.Fprintf(w, "%s read, %d entries of the audit log.\n", terminal.Count(r.Files, "file"), r.Entries)
	if len(r.Findings) == 0 {
		_, _ = fmt.Fprintln(w, "Everything is sound.")
	}
	for _, f := range r.Findings {
		line := f.Kind + ": " + f.What
		if len(f.Names) > 0 {
			line += " (" + strings.Join(f.Names, ", ") + ")"
		}
		if f.SHA256 != "" {
			line += " " + f.SHA256[:12]
		}
		if f.Repaired {
			line += " - repaired"
		}
		_, _ = fmt.Fprintln(w, line)
		if f.Advice != "" {
			_, _ = fmt.Fprintln(w, "  "+f.Advice)
		}
	}
}
