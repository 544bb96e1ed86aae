package cli

import (
	"context"
	"fmt"

	docs "github.com/urfave/cli-docs/v3"
	"github.com/urfave/cli/v3"

	"sparecrate/internal/cli/terminal"
)

// manCommand is `man`.
func manCommand() *cli.Command {
	return &cli.Command{
		Name: "man", Usage: "print the manual page of all commands",
		Description: terminal.Example("Prints sparecrate(1) as man reads it. Save it as sparecrate.1 in a folder man1.", "sparecrate man"),
		Action: func(_ context.Context, c *cli.Command) error {
			if _, err := terminal.Arguments(c); err != nil {
				return err
			}
			page, err := docs.ToManWithSection(tree(), 1)
			if err != nil {
				return fmt.Errorf("make the manual page: %w", err)
			}
			_, err = fmt.Fprint(c.Root().Writer, page)
			return err
		},
	}
}
