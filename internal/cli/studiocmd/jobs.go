package studiocmd

import (
	"context"
	"fmt"
	"io"
	"strconv"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// JobsCommand is `jobs`.
func JobsCommand() *cli.Command {
	return &cli.Command{
		Name: "jobs", Usage: "background jobs: list, retry",
		Description: terminal.Example("Formats are made and files read again by jobs, each once, by whichever process\nof the service is free.", "sparecrate jobs list"),
		Commands: []*cli.Command{
			{
				Name: "list", Usage: "list jobs, newest first",
				Description: terminal.Example("Failed jobs show the reason.", "sparecrate jobs list --state failed"),
				Flags: []cli.Flag{
					terminal.JSONFlag,
					&cli.StringFlag{Name: "state", Usage: "only those `waiting`, running, done or failed"},
					&cli.IntFlag{Name: "limit", Usage: "how many to list", Value: 30},
				},
				Action: func(ctx context.Context, c *cli.Command) error {
					s, _, err := terminal.Begin(c)
					if err != nil {
						return err
					}
					limit := c.Int("limit")
					q := api.ListJobsParams{Limit: &limit}
					if v := api.JobState(c.String("state")); v != "" {
						q.State = &v
					}
					found, err := terminal.Call[api.JobPage](s.ListJobs(ctx, &q))
					if err != nil {
						return err
					}
					return terminal.Show(c, found, func(w io.Writer) { showJobs(w, found) })
				},
			},
			{
				Name: "retry", Usage: "retry a failed job", ArgsUsage: "JOB",
				Description: terminal.Example("JOB is its number in the list.", "sparecrate jobs retry 17"),
				Flags:       []cli.Flag{terminal.JSONFlag},
				Action: func(ctx context.Context, c *cli.Command) error {
					s, args, err := terminal.Begin(c, "a JOB, by its number")
					if err != nil {
						return err
					}
					id, err := strconv.ParseInt(args[0], 10, 64)
					if err != nil {
						return terminal.Misused("%q is not the number of a job; see `sparecrate jobs list`", args[0])
					}
					job, err := terminal.Call[api.Job](s.RetryJob(ctx, id))
					if err != nil {
						return err
					}
					return terminal.Show(c, job, func(w io.Writer) { _, _ = fmt.Fprintf(w, "%s waits to be done again.\n", job.Title) })
				},
			},
		},
	}
}

func showJobs(w io.Writer, p *api.JobPage) {
	var rows [][]any
	for _, j := range p.Items {
		how := string(j.State)
		if j.State == api.JobRunning && j.Total > 0 {
			how = fmt.Sprintf("running, %d of %d", j.Done, j.Total)
		}
		if j.Why != nil {
			how += ": " + *j.Why
		}
		rows = append(rows, []any{j.Id, terminal.When(j.CreatedAt), j.Title, how})
	}
	terminal.Grid(w, []any{"No.", "Asked for", "Job", "State"}, []string{"No."}, rows)
	_, _ = fmt.Fprintf(w, "\n%d waiting, %d running, %d failed.\n", p.Waiting, p.Running, p.Failed)
}
