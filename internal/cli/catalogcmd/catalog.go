// Package catalogcmd is what deals with the catalog: searching, families and their files,
// shortlists and reshaping.
package catalogcmd

import (
	"context"
	"fmt"
	"io"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// ClientCommand is `client`.
func ClientCommand() *cli.Command {
	return &cli.Command{
		Name: "client", Usage: "the studio's clients: list, add",
		Description: terminal.Example("A client is a brand or organisation the studio works for.", "sparecrate client list"),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list the studio and its clients", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("The studio comes first.", "sparecrate client list"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, _, err := terminal.Begin(c)
					if err != nil {
						return err
					}
					found, err := terminal.Call[api.ClientList](s.ListClients(ctx))
					if err != nil {
						return err
					}
					return terminal.Show(c, found.Items, func(w io.Writer) {
						var rows [][]any
						for _, k := range found.Items {
							note := ""
							if k.Studio {
								note = "the studio itself"
							}
							rows = append(rows, []any{k.Id, k.Name, note})
						}
						terminal.Grid(w, []any{"No.", "Client", ""}, []string{"No."}, rows)
					})
				},
			},
			{
				Name: "add", Usage: "add a client", ArgsUsage: "NAME", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("Names are used once.", "sparecrate client add 'Tern Point Lighthouse'"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, args, err := terminal.Begin(c, "the NAME of the client")
					if err != nil {
						return err
					}
					k, err := terminal.Call[api.StudioClient](s.AddClient(ctx, api.NewStudioClient{Name: args[0]}))
					if err != nil {
						return err
					}
					return terminal.Show(c, k, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Added %s (client %d).\n", k.Name, k.Id) })
				},
			},
		},
	}
}
