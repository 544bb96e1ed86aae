package cli

import (
	"context"
	"fmt"
	"io"
	"time"

	"github.com/urfave/cli/v3"

	"sparecrate/internal/backup"
	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/export"
	"sparecrate/internal/service"
)

func exportCommand() *cli.Command {
	f := &configFile{}
	return &cli.Command{
		Name: "export", Usage: "write everything in open formats, to read without a service",
		Description: terminal.Example("Works on the data folder itself, with or without a running service. Writes font files and\ndocuments as they came, under the names of clients and families, all records as CSV, and\nindex.html, which leads to them. FOLDER must not be there yet. It is no backup: `backup` is.",
			"sparecrate export --data .build/demo --out exported"),
		Flags: besideFlags(f, &cli.StringFlag{Name: "out", Usage: "`FOLDER` to write into"}),
		Action: func(ctx context.Context, c *cli.Command) error {
			if _, err := terminal.Arguments(c); err != nil {
				return err
			}
			if c.String("out") == "" {
				return terminal.Misused("name the folder with --out")
			}
			o, err := beside(c, f)
			if err != nil {
				return err
			}
			var r *export.Report
			if err := service.Beside(ctx, o, func(from backup.Source) (err error) {
				r, err = export.Write(ctx, from.Store, from.Bucket, c.String("out"), time.Now())
				return err
			}); err != nil {
				return err
			}
			if err := terminal.Show(c, r, func(w io.Writer) {
				_, _ = fmt.Fprintf(w, "%s, %s and %d records in %s; open index.html in it.\n", terminal.Count(r.Fonts, "font file"), terminal.Count(r.Documents, "document"), r.Records, r.Folder)
			}); err != nil {
				return err
			}
			if len(r.Lost) > 0 {
				return fmt.Errorf("missing or damaged in the service, and not exported: %s; `sparecrate verify` names what is wrong", terminal.Count(len(r.Lost), "file"))
			}
			return nil
		},
	}
}
