// Package cli is the command line: the service's start commands, the client of
// a running service, and local commands over the font core.
//
// Every command prints a table, or JSON with --json. Errors go to stderr; the
// exit code is 1 for what failed and 2 for a call that makes no sense; `verdict`
// answers with 3 for a query and 4 for a bar, and `serve` ends with 5 when its private
// database cannot be kept running.
package cli

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"

	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/jedib0t/go-pretty/v6/text"
	"github.com/urfave/cli/v3"
	"golang.org/x/term"

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

// misuse is a call that makes no sense.
type misuse struct{ error }

func misused(format string, args ...any) error { return misuse{fmt.Errorf(format, args...)} }

// answered is an exit code that is an answer and no failure.
type answered int

func (o answered) Error() string { return fmt.Sprintf("exit code %d", int(o)) }

// errReported says that everything about a failure was printed already.
var errReported = errors.New("reported")

// Run runs a command line and gives the exit code.
func Run(ctx context.Context, args []string, stdout, stderr io.Writer) int {
	stdout, stderr = &shielded{to: stdout}, &shielded{to: stderr}
	root := tree()
	root.Writer, root.ErrWriter = stdout, stderr
	err := root.Run(ctx, args)
	var wrong misuse
	var said answered
	switch {
	case err == nil:
		return 0
	case errors.As(err, &said):
		return int(said)
	case errors.As(err, &wrong):
		_, _ = fmt.Fprintf(stderr, "sparecrate: %v\nSee the command with --help.\n", err)
		return exitMisuse
	case !errors.Is(err, errReported):
		_, _ = fmt.Fprintf(stderr, "sparecrate: %v\n", err)
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
		Usage:   "a studio's shared crate of fonts: read them, know what they may be used for, and pack them ready to upload",
		Description: "Start with `sparecrate demo`, or with `sparecrate serve` and `sparecrate sign-in`.\n" +
			"The commands under `file` need no service.",
		EnableShellCompletion: true,
		Suggest:               true,
		Commands: []*cli.Command{
			serveCommand(), demoCommand(), adminCommand(), signInCommand(), signOutCommand(),
			addCommand(), deliveriesCommand(), familiesCommand(), searchesCommand(), shortlistCommand(), hostedCommand(), familyCommand(), moveCommand(), clientCommand(), licenseCommand(), verdictCommand(), dueCommand(), registerCommand(), builderCommand(), siteCommand(), viewsCommand(), signOffsCommand(), packCommand(), landedCommand(), pagesCommand(), reshapeCommand(), pictureCommand(),
			activityCommand(), jobsCommand(), tokensCommand(), peopleCommand(), fileCommand(),
		},
		ExitErrHandler: func(context.Context, *cli.Command, error) {},
		Action: func(_ context.Context, c *cli.Command) error {
			if c.Args().Present() {
				return misused("there is no command %q", c.Args().First())
			}
			return cli.ShowRootCommandHelp(c)
		},
	}
	prepare(root)
	return root
}

// prepare gives every command below c what all have: misuse told apart from
// failure, and help where only a group was named.
func prepare(c *cli.Command) {
	c.OnUsageError = func(_ context.Context, _ *cli.Command, err error, _ bool) error { return misuse{err} }
	for _, sub := range c.Commands {
		prepare(sub)
	}
	if len(c.Commands) > 0 && c.Action == nil {
		c.Action = func(_ context.Context, c *cli.Command) error {
			if c.Args().Present() {
				return misused("`%s` has no command %q", c.FullName(), c.Args().First())
			}
			return cli.ShowSubcommandHelp(c)
		}
	}
}

var jsonFlag = &cli.BoolFlag{Name: "json", Usage: "print JSON instead of a table"}

// example is the part of a help text that works as it stands.
func example(about, line string) string { return about + "\n\nExample:\n   " + line }

// show prints v as JSON where that was asked for, and otherwise what plain does.
func show(c *cli.Command, v any, plain func(w io.Writer)) error {
	w := c.Root().Writer
	if !c.Bool("json") {
		plain(w)
		return nil
	}
	e := json.NewEncoder(w)
	e.SetEscapeHTML(false)
	e.SetIndent("", "  ")
	return e.Encode(v)
}

// grid prints rows under a head; columns named in right are numbers.
func grid(w io.Writer, head []any, right []string, rows [][]any) {
	t := table.NewWriter()
	t.SetOutputMirror(w)
	t.SetStyle(table.StyleLight)
	t.Style().Options.DrawBorder = false
	t.Style().Options.SeparateColumns = false
	t.Style().Format.Header = text.FormatDefault
	t.AppendHeader(head)
	var columns []table.ColumnConfig
	for _, name := range right {
		columns = append(columns, table.ColumnConfig{Name: name, Align: text.AlignRight, AlignHeader: text.AlignRight})
	}
	t.SetColumnConfigs(columns)
	for _, r := range rows {
		t.AppendRow(r)
	}
	if len(rows) == 0 {
		_, _ = fmt.Fprintln(w, "Nothing here yet.")
		return
	}
	t.Render()
}

// pairs prints names and values under each other, leaving out empty values.
func pairs(w io.Writer, rows ...[2]string) {
	for _, r := range rows {
		if r[1] != "" {
			_, _ = fmt.Fprintf(w, "  %-14s %s\n", r[0], r[1])
		}
	}
}

// size writes bytes for people.
func size(n int64) string {
	switch {
	case n < 1000:
		return fmt.Sprintf("%d B", n)
	case n < 1_000_000:
		return fmt.Sprintf("%.1f kB", float64(n)/1e3)
	}
	return fmt.Sprintf("%.1f MB", float64(n)/1e6)
}

// arguments checks how many arguments a call has; names say what they are.
func arguments(c *cli.Command, names ...string) ([]string, error) {
	if c.Args().Len() < len(names) {
		return nil, misused("`%s` needs %s", c.FullName(), names[c.Args().Len()])
	}
	if c.Args().Len() > len(names) {
		return nil, misused("`%s` does not take %q", c.FullName(), c.Args().Get(len(names)))
	}
	return c.Args().Slice(), nil
}

// given gives the text of a flag that was named, nil for one that was not.
func given(c *cli.Command, name string) *string {
	if !c.IsSet(name) {
		return nil
	}
	v := c.String(name)
	return &v
}

// errNobody says that nobody can be asked.
var errNobody = errors.New("there is no terminal to ask in")

// ask asks a question in the terminal; anything but yes is no.
func ask(c *cli.Command, question string) (bool, error) {
	if !term.IsTerminal(int(os.Stdin.Fd())) {
		return false, errNobody
	}
	_, _ = fmt.Fprint(c.Root().ErrWriter, question, " [y/N] ")
	answer, err := bufio.NewReader(os.Stdin).ReadString('\n')
	if err != nil && !errors.Is(err, io.EOF) {
		return false, err
	}
	return slices.Contains([]string{"y", "yes"}, strings.ToLower(strings.TrimSpace(answer))), nil
}
