package studiocmd

import (
	"context"
	"fmt"
	"io"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// SettingsCommand is `settings`.
func SettingsCommand() *cli.Command {
	return &cli.Command{
		Name: "settings", Usage: "how the service is set up: e-mail, storage, schedules, sign-in (admins)", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("They are set where the service is started; `sparecrate serve --help` lists the flags.", "sparecrate settings"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, _, err := terminal.Begin(c)
			if err != nil {
				return err
			}
			found, err := terminal.Call[api.Settings](s.GetSettings(ctx))
			if err != nil {
				return err
			}
			return terminal.Show(c, found, func(w io.Writer) { writeSettings(w, found) })
		},
	}
}

func writeSettings(w io.Writer, s *api.Settings) {
	server := "none; no e-mail is sent"
	if s.Mail.Server != "" {
		server = s.Mail.Server + ", encrypted"
		if !s.Mail.Encrypted {
			server = s.Mail.Server + ", not encrypted"
		}
	}
	terminal.Pairs(w, [2]string{"address", s.Address}, [2]string{"mail server", server}, [2]string{"mail sender", s.Mail.From},
		[2]string{"weekly e-mail", terminal.Count(s.Mail.Weekly, "subscriber")})
	for _, k := range s.Stored {
		terminal.Pairs(w, [2]string{string(k.What), fmt.Sprintf("%s, %s", terminal.Count(k.Files, "file"), terminal.Size(k.Bytes))})
	}
	if s.Free != nil {
		terminal.Pairs(w, [2]string{"free", terminal.Size(*s.Free)})
	}
	terminal.Pairs(w, [2]string{"largest", fmt.Sprintf("font %s, document %s, archive %s", terminal.Size(s.Limits.FontBytes), terminal.Size(s.Limits.DocumentBytes), terminal.Size(s.Limits.ArchiveBytes))})
	for _, k := range s.Schedules {
		line := k.Name + ", " + k.Every
		if k.Next != nil {
			line += ", next " + terminal.When(*k.Next)
		}
		terminal.Pairs(w, [2]string{"schedule", line})
	}
	if b := s.Backup; b != nil {
		how := "not encrypted"
		if b.Encrypted {
			how = "encrypted"
		}
		terminal.Pairs(w, [2]string{"last backup", fmt.Sprintf("%s in %s, %s, %s, %s", terminal.When(b.At), b.Place, terminal.Count(b.Files, "file"), terminal.Size(b.Bytes), how)})
	}
	how := []string{fmt.Sprintf("a session ends %d hours after its last use", s.SignIn.IdleMinutes/60), fmt.Sprintf("at the latest after %d days", s.SignIn.LongestMinutes/60/24)}
	if s.SignIn.Secure {
		how = append(how, "cookies over HTTPS only")
	}
	terminal.Pairs(w, [2]string{"sign-in", strings.Join(how, ", ")})
}

// SessionsCommand is `sessions`.
func SessionsCommand() *cli.Command {
	everyone := &cli.BoolFlag{Name: "everyone", Usage: "everybody's sessions (admins)"}
	return &cli.Command{
		Name: "sessions", Usage: "where you are signed in with a browser, and end sessions",
		Description: terminal.Example("Command lines sign in with tokens; `sparecrate tokens` has those.", "sparecrate sessions list"),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list sessions, the last used first", Flags: []cli.Flag{terminal.JSONFlag, everyone},
				Description: terminal.Example("Shows browser, network address and when a session was last used.", "sparecrate sessions list --everyone"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, _, err := terminal.Begin(c)
					if err != nil {
						return err
					}
					found, err := terminal.Call[api.SignedInList](s.ListSessions(ctx, &api.ListSessionsParams{Everyone: new(c.Bool("everyone"))}))
					if err != nil {
						return err
					}
					return terminal.Show(c, found.Items, func(w io.Writer) {
						if len(found.Items) == 0 {
							_, _ = fmt.Fprintln(w, "No browser is signed in.")
							return
						}
						var rows [][]any
						for _, i := range found.Items {
							rows = append(rows, []any{i.Id, i.Person.Name, i.Browser, i.Address, terminal.When(i.StartedAt), terminal.When(i.SeenAt)})
						}
						terminal.Grid(w, []any{"No.", "Person", "Browser", "Address", "Started", "Last used"}, []string{"No."}, rows)
					})
				},
			},
			{
				Name: "end", Usage: "end a session", ArgsUsage: "NUMBER", Flags: []cli.Flag{terminal.JSONFlag},
				Description: terminal.Example("Who uses it has to sign in again. Admins end anybody's.", "sparecrate sessions end --help"),
				Action: func(ctx context.Context, c *cli.Command) error {
					s, args, err := terminal.Begin(c, "the NUMBER of a session")
					if err != nil {
						return err
					}
					id, err := terminal.Number(args[0], "session")
					if err != nil {
						return err
					}
					if _, err := terminal.Call[terminal.Nothing](s.EndSession(ctx, id)); err != nil {
						return err
					}
					return terminal.Show(c, map[string]int64{"ended": id}, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Session %d has ended.\n", id) })
				},
			},
		},
	}
}
