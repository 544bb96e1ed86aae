// Package cli is the command line: the service's start commands, signing in, and the
// tree of all other commands, which are in the packages below it by what they deal
// with (terminal has what they share).
//
// Every command prints a table, or JSON with --json. Errors go to stderr; the
// exit code is 1 for what failed and 2 for a call that makes no sense; `verdict`
// answers with 3 for what needs review and 4 for what is blocked, and `serve` ends with 5 when its private
// database cannot be kept running.
package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"

	"github.com/agnivade/levenshtein"
	"github.com/urfave/cli/v3"

	"sparecrate/internal/cli/catalogcmd"
	"sparecrate/internal/cli/filecmd"
	"sparecrate/internal/cli/importcmd"
	"sparecrate/internal/cli/inspectcmd"
	"sparecrate/internal/cli/licensecmd"
	"sparecrate/internal/cli/sitecmd"
	"sparecrate/internal/cli/studiocmd"
	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/service"
	"sparecrate/internal/version"
)

const (
	exitFailed = 1
	exitMisuse = 2
	// exitDatabase is for a service that ended because its private database could not
	// be kept running.
	exitDatabase = 5
)

// Run runs a command line and gives the exit code.
func Run(ctx context.Context, args []string, stdout, stderr io.Writer) int {
	stdout, stderr = &terminal.Shielded{To: stdout}, &terminal.Shielded{To: stderr}
	root := tree()
	root.Writer, root.ErrWriter = stdout, stderr
	err := root.Run(ctx, args)
	var wrong terminal.Misuse
	var said terminal.Answered
	switch {
	case err == nil:
		return 0
	case errors.As(err, &said):
		return int(said)
	case errors.As(err, &wrong):
		terminal.Fail(stderr, args, err, "\nRun the command with --help to see how it is used.")
		return exitMisuse
	case !errors.Is(err, terminal.ErrReported):
		terminal.Fail(stderr, args, err, "")
	}
	if errors.Is(err, service.ErrDatabaseLost) {
		return exitDatabase
	}
	return exitFailed
}

func tree() *cli.Command {
	root := &cli.Command{
		Name:    "sparecrate",
		Version: version.String(),
		Usage:   "a shared catalog of a studio's fonts: font info, licenses, sites and packs ready to upload",
		Description: "Start with `sparecrate demo`, or with `sparecrate serve` and `sparecrate sign-in`.\n" +
			"The commands under `file` need no service.",
		EnableShellCompletion: true,
		Suggest:               true,
		Flags:                 []cli.Flag{&cli.BoolFlag{Name: "quiet", Usage: "no progress and no notes on standard error, only errors"}},
		Commands: slices.Concat(
			group("Catalog", importcmd.AddCommand(), importcmd.ImportsCommand(), catalogcmd.FamiliesCommand(), catalogcmd.FamilyCommand(), catalogcmd.SearchesCommand(),
				catalogcmd.ShortlistCommand(), importcmd.HostedCommand(), importcmd.GapsCommand(), catalogcmd.MoveCommand(), catalogcmd.ReshapeCommand(), catalogcmd.PreviewCommand(), catalogcmd.ClientCommand()),
			group("Licensing", licensecmd.LicenseCommand(), licensecmd.VerdictCommand(), sitecmd.SignOffsCommand(), licensecmd.ViewsCommand(), licensecmd.DueCommand(), licensecmd.RegisterCommand()),
			group("Sites", sitecmd.SiteCommand(), sitecmd.PagesCommand(), sitecmd.BuilderCommand()),
			group("Packs", sitecmd.PackCommand(), sitecmd.FileURLsCommand()),
			group("Inspection", inspectcmd.Command(), inspectcmd.SurveyCommand(), inspectcmd.KeptCommand()),
			group("Files", filecmd.FileCommand()),
			group("Administration", serveCommand(), demoCommand(), adminCommand(), configCommand(), backupCommand(), restoreCommand(), verifyCommand(), exportCommand(), doctorCommand(), signInCommand(), signOutCommand(), studiocmd.TokensCommand(), studiocmd.SessionsCommand(), studiocmd.PeopleCommand(), studiocmd.SettingsCommand(), studiocmd.JobsCommand(), studiocmd.ActivityCommand(), studiocmd.AuditCommand(), manCommand()),
		),
		ExitErrHandler: func(context.Context, *cli.Command, error) {},
		Action: func(_ context.Context, c *cli.Command) error {
			if c.Args().Present() {
				return terminal.Misused("there is no command %q%s", c.Args().First(), like(c))
			}
			return cli.ShowRootCommandHelp(c)
		},
	}
	prepare(root)
	return root
}

// like returns a question with the command whose name is nearest to the first argument,
// "" if none is near.
func like(c *cli.Command) string {
	typed, best, least := c.Args().First(), "", 3
	for _, sub := range c.VisibleCommands() {
		if d := levenshtein.ComputeDistance(typed, sub.Name); d < least && d < len(sub.Name) {
			best, least = sub.Name, d
		}
	}
	if best == "" {
		return ""
	}
	return fmt.Sprintf("; did you mean %q?", best)
}

// group returns commands listed under a heading of the help.
func group(heading string, commands ...*cli.Command) []*cli.Command {
	for _, c := range commands {
		c.Category = heading
	}
	return commands
}

// prepare gives every command below c what all have: misuse told apart from
// failure, and help where only a group was named.
func prepare(c *cli.Command) {
	c.OnUsageError = func(_ context.Context, _ *cli.Command, err error, _ bool) error { return terminal.Misused("%w", err) }
	for _, sub := range c.Commands {
		prepare(sub)
	}
	if len(c.Commands) > 0 && c.Action == nil {
		c.Action = func(_ context.Context, c *cli.Command) error {
			if c.Args().Present() {
				return terminal.Misused("`%s` has no command %q%s", c.FullName(), c.Args().First(), like(c))
			}
			return cli.ShowSubcommandHelp(c)
		}
	}
}
