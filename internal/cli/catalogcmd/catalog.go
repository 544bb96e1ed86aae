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
		Name: "client", Usage: "list and manage clients",
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
							if k.ClosedAt != nil {
								note = "closed " + terminal.When(*k.ClosedAt)
							} else if k.ArchivedAt != nil {
								note = "archived " + terminal.When(*k.ArchivedAt)
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
			{
				Name: "rename", Usage: "rename a client, or the studio itself (admin)", ArgsUsage: "CLIENT NAME", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("Everything of the client shows the new name; packs and archives that were built keep the old one.", "sparecrate client rename 'Tern Point Lighthouse' 'Tern Point Harbor'"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, args, err := terminal.Begin(c, "a CLIENT, by number or name", "its new NAME")
					if err != nil {
						return err
					}
					id, err := terminal.FindClient(ctx, s, args[0])
					if err != nil {
						return err
					}
					k, err := terminal.Call[api.StudioClient](s.ChangeClient(ctx, id, api.NewStudioClient{Name: args[1]}))
					if err != nil {
						return err
					}
					return terminal.Show(c, k, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Client %d is %s now.\n", k.Id, k.Name) })
				},
			},
			{
				Name: "archive", Usage: "save all of a client as a zip: fonts, documents, licenses, sites, packs", ArgsUsage: "CLIENT",
				Description: terminal.Example("index.html in it is for reading, index.json for programs; SHA256SUMS has the checksum of every\nfile. Files of other clients' families are not included, with the reason.", "sparecrate client archive --out saltmarsh.zip 'Saltmarsh Seed Exchange'"),
				Flags:       []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "out", Usage: "`FILE` to save the zip as", Required: true}},
				Action: func(ctx context.Context, c *cli.Command) error {
					s, id, err := withClient(ctx, c)
					if err != nil {
						return err
					}
					r, err := s.ArchiveClient(ctx, id)
					n, err := terminal.Download(r, err, c.String("out"))
					if err != nil {
						return err
					}
					return terminal.Show(c, map[string]any{"file": c.String("out"), "bytes": n}, func(w io.Writer) {
						_, _ = fmt.Fprintf(w, "Saved %s (%s). Open index.html in it first.\n", c.String("out"), terminal.Size(n))
					})
				},
			},
			closingCommand("close", "close a client that was archived (admin)", "Its families are retired, its sites get no packs, nothing of it is due. What is published goes on.\nOpening it brings all of it back.",
				func(ctx context.Context, s *api.Client, id int64) (*api.StudioClient, error) {
					return terminal.Call[api.StudioClient](s.CloseClient(ctx, id))
				}),
			closingCommand("open", "open a client that was closed (admin)", "Its families are back in the catalog, and its sites as they were.",
				func(ctx context.Context, s *api.Client, id int64) (*api.StudioClient, error) {
					return terminal.Call[api.StudioClient](s.OpenClient(ctx, id))
				}),
		},
	}
}

// withClient begins a call that names a client.
func withClient(ctx context.Context, c *cli.Command) (*api.Client, int64, error) {
	s, args, err := terminal.Begin(c, "a CLIENT, by number or name")
	if err != nil {
		return nil, 0, err
	}
	id, err := terminal.FindClient(ctx, s, args[0])
	return s, id, err
}

func closingCommand(name, about, more string, do func(context.Context, *api.Client, int64) (*api.StudioClient, error)) *cli.Command {
	return &cli.Command{
		Name: name, Usage: about, ArgsUsage: "CLIENT", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example(more, "sparecrate client "+name+" 'Saltmarsh Seed Exchange'"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, id, err := withClient(ctx, c)
			if err != nil {
				return err
			}
			k, err := do(ctx, s, id)
			if err != nil {
				return err
			}
			return terminal.Show(c, k, func(w io.Writer) {
				_, _ = fmt.Fprintf(w, "%s is %s.\n", k.Name, map[bool]string{true: "closed", false: "open"}[k.ClosedAt != nil])
			})
		},
	}
}
