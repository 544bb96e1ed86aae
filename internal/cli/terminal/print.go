// Package terminal is what all commands share: asking the service, finding things by
// name, and printing tables, JSON and errors.
package terminal

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/dustin/go-humanize"
	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/jedib0t/go-pretty/v6/text"
	openapi "github.com/oapi-codegen/runtime/types"
	"github.com/urfave/cli/v3"
	"golang.org/x/term"

	"sparecrate/api"
)

// Misuse is a call that makes no sense.
type Misuse struct{ error }

// Misused says what makes no sense in a call.
func Misused(format string, args ...any) error { return Misuse{fmt.Errorf(format, args...)} }

// Answered is an exit code that is an answer and no failure.
type Answered int

func (o Answered) Error() string { return fmt.Sprintf("exit code %d", int(o)) }

// ErrReported says that everything about a failure was printed already.
var ErrReported = errors.New("reported")

// JSONFlag asks for JSON instead of a table.
var JSONFlag = &cli.BoolFlag{Name: "json", Usage: "print JSON instead of a table"}

// Example is the part of a help text that works as it stands.
func Example(about, line string) string { return about + "\n\nExample:\n   " + line }

// Show prints v as JSON where that was asked for, and otherwise what plain does.
func Show(c *cli.Command, v any, plain func(w io.Writer)) error {
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

// Grid prints rows under a head; columns named in right are numbers.
func Grid(w io.Writer, head []any, right []string, rows [][]any) {
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

// Pairs prints names and values under each other, leaving out empty values.
func Pairs(w io.Writer, rows ...[2]string) {
	for _, r := range rows {
		if r[1] != "" {
			_, _ = fmt.Fprintf(w, "  %-14s %s\n", r[0], r[1])
		}
	}
}

// Size writes bytes for people.
func Size(n int64) string { return humanize.SIWithDigits(float64(n), 1, "B") }

// Arguments checks how many arguments a call has; names say what they are. A last name that
// ends with "..." stands for one argument or more.
func Arguments(c *cli.Command, names ...string) ([]string, error) {
	many := len(names) > 0 && strings.HasSuffix(names[len(names)-1], "...")
	if c.Args().Len() < len(names) {
		return nil, Misused("`%s` needs %s", c.FullName(), strings.TrimSuffix(names[c.Args().Len()], "..."))
	}
	if c.Args().Len() > len(names) && !many {
		return nil, Misused("`%s` does not take %q", c.FullName(), c.Args().Get(len(names)))
	}
	return c.Args().Slice(), nil
}

// Given returns the text of a flag that was named, nil for one that was not.
func Given(c *cli.Command, name string) *string {
	if !c.IsSet(name) {
		return nil
	}
	v := c.String(name)
	return &v
}

// ErrNobody says that nobody can be asked.
var ErrNobody = errors.New("there is no terminal to ask in")

// Ask asks a question in the terminal; anything but yes is no.
func Ask(c *cli.Command, question string) (bool, error) {
	if !term.IsTerminal(int(os.Stdin.Fd())) {
		return false, ErrNobody
	}
	_, _ = fmt.Fprint(c.Root().ErrWriter, question, " [y/N] ")
	answer, err := bufio.NewReader(os.Stdin).ReadString('\n')
	if err != nil && !errors.Is(err, io.EOF) {
		return false, err
	}
	return slices.Contains([]string{"y", "yes"}, strings.ToLower(strings.TrimSpace(answer))), nil
}

// Count writes a number of things: 1 font, 2 fonts.
func Count(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// When writes a time as people read it.
func When(t time.Time) string { return t.Local().Format("2006-01-02 15:04") }

// UntilDay writes the day until which something holds.
func UntilDay(o *api.SignOff) string {
	if o.Until == nil {
		return ""
	}
	return " until " + o.Until.String()
}

// Progress reports whether progress is drawn: on a terminal, and neither with --json nor with
// --quiet.
func Progress(c *cli.Command) bool {
	return !c.Bool("json") && !c.Bool("quiet") && term.IsTerminal(int(os.Stderr.Fd()))
}

// Note writes a note to standard error, but not with --quiet.
func Note(c *cli.Command, format string, args ...any) {
	if !c.Bool("quiet") {
		_, _ = fmt.Fprintf(c.Root().ErrWriter, format+"\n", args...)
	}
}

// DayFlag reads a day, nil where none is given.
func DayFlag(c *cli.Command, name string) (*openapi.Date, error) {
	v := c.String(name)
	if v == "" {
		return nil, nil //nolint:nilnil // no day is no error
	}
	d, err := time.Parse(time.DateOnly, v)
	if err != nil {
		return nil, Misused("--%s takes a day like 2026-03-01, not %q", name, v)
	}
	return &openapi.Date{Time: d}, nil
}
