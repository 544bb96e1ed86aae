package studiocmd

import (
	"context"
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"strings"

	openapi "github.com/oapi-codegen/runtime/types"
	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// narrowed are the flags that narrow the audit log.
func narrowed() []cli.Flag {
	return []cli.Flag{
		&cli.StringFlag{Name: "person", Usage: "`NAME <E-MAIL>` of who did it, as the log has it"},
		&cli.StringFlag{Name: "action", Usage: "what was done, like `'downloaded pack'`"},
		&cli.StringFlag{Name: "find", Usage: "`TEXT` in what it was done to, in its details or in the network address"},
		&cli.StringFlag{Name: "from", Usage: "first `DAY`, like 2026-09-01"},
		&cli.StringFlag{Name: "to", Usage: "last `DAY`, like 2026-09-30"},
	}
}

// AuditCommand is `audit`.
func AuditCommand() *cli.Command {
	return &cli.Command{
		Name: "audit", Usage: "the audit log: list, verify, export (admins)",
		Description: terminal.Example("Who signed in or failed to, which fonts, packs and documents left the house, and who\nchanged what others may do; from where, by which session or token.", "sparecrate audit list --action 'downloaded pack'"),
		Commands:    []*cli.Command{auditList(), auditVerify(), auditExport()},
	}
}

func auditList() *cli.Command {
	return &cli.Command{
		Name: "list", Usage: "list entries, newest first", Flags: append(narrowed(), terminal.JSONFlag, &cli.IntFlag{Name: "limit", Usage: "how many entries", Value: 30}),
		Description: terminal.Example("Options narrow the list.", "sparecrate audit list --find 127.0.0.1 --limit 5"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, _, err := terminal.Begin(c)
			if err != nil {
				return err
			}
			from, to, err := days(c)
			if err != nil {
				return err
			}
			limit := c.Int("limit")
			found, err := terminal.Call[api.AuditPage](s.ListAudit(ctx, &api.ListAuditParams{
				Limit: &limit, Person: terminal.Given(c, "person"), Action: terminal.Given(c, "action"), Q: terminal.Given(c, "find"), From: from, To: to}))
			if err != nil {
				return err
			}
			return terminal.Show(c, found.Items, func(w io.Writer) {
				if len(found.Items) == 0 {
					_, _ = fmt.Fprintln(w, "No entry matches.")
					return
				}
				var rows [][]any
				for _, e := range found.Items {
					what := e.Action
					if e.Outcome != "done" {
						what = "refused: " + what + " (" + e.Outcome + ")"
					}
					rows = append(rows, []any{e.Number, terminal.When(e.At), e.Person, what, strings.TrimSpace(e.Subject + " " + e.Detail), e.Via, e.Address})
				}
				terminal.Grid(w, []any{"No.", "When", "Who", "What", "Of", "By", "From"}, []string{"No."}, rows)
			})
		},
	}
}

// errNotWhole ends a verification that found a fault.
var errNotWhole = errors.New("the audit log is not whole")

func auditVerify() *cli.Command {
	return &cli.Command{
		Name: "verify", Usage: "check that no entry was changed, taken out or moved",
		Flags:       []cli.Flag{terminal.JSONFlag, &cli.StringFlag{Name: "noted", Usage: "`HEAD` that was noted earlier, which the log must still go through"}},
		Description: terminal.Example("Reads every entry and its hash, and ends with an error where something is wrong.\nPrints the head of the log: keep it elsewhere, and give it with --noted later, which shows\nwhether somebody wrote the whole log anew. The service says it in its own log every day.", "sparecrate audit verify"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, _, err := terminal.Begin(c)
			if err != nil {
				return err
			}
			r, err := terminal.Call[api.AuditReport](s.CheckAudit(ctx, &api.CheckAuditParams{Noted: terminal.Given(c, "noted")}))
			if err != nil {
				return err
			}
			err = terminal.Show(c, r, func(w io.Writer) {
				if r.Whole {
					_, _ = fmt.Fprintf(w, "%d entries, %d to %d, are whole.\nHead  %s\n", r.Entries, r.First, r.Last, r.Head)
				}
			})
			if err == nil && !r.Whole {
				err = fmt.Errorf("%w: %s", errNotWhole, *r.Fault)
			}
			return err
		},
	}
}

func auditExport() *cli.Command {
	return &cli.Command{
		Name: "export", Usage: "save the log to a file", ArgsUsage: "FILE", Flags: append(narrowed(), terminal.JSONFlag),
		Description: terminal.Example("A FILE that ends with .csv is a table (RFC 4180), any other has a line of JSON for each\nentry. The oldest comes first; options narrow it.", "sparecrate audit export audit.jsonl"),
		Action: func(ctx context.Context, c *cli.Command) error {
			s, args, err := terminal.Begin(c, "the FILE to write")
			if err != nil {
				return err
			}
			from, to, err := days(c)
			if err != nil {
				return err
			}
			format := api.AuditLines
			if strings.EqualFold(filepath.Ext(args[0]), ".csv") {
				format = api.AuditTable
			}
			r, err := s.GetAuditFile(ctx, &api.GetAuditFileParams{Format: &format, Person: terminal.Given(c, "person"), Action: terminal.Given(c, "action"), Q: terminal.Given(c, "find"), From: from, To: to})
			n, err := terminal.Download(r, err, args[0])
			if err != nil {
				return err
			}
			return terminal.Show(c, map[string]any{"file": args[0], "bytes": n}, func(w io.Writer) { _, _ = fmt.Fprintf(w, "Saved %s (%s).\n", args[0], terminal.Size(n)) })
		},
	}
}

// days returns the first and the last day that a command gives.
func days(c *cli.Command) (from, to *openapi.Date, err error) {
	if from, err = terminal.DayFlag(c, "from"); err != nil {
		return nil, nil, err
	}
	to, err = terminal.DayFlag(c, "to")
	return from, to, err
}
