package studiocmd

import (
	"context"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/api"
	"sparecrate/internal/cli/terminal"
)

// limitFlags say what a person or a token sees.
func limitFlags(whose string) []cli.Flag {
	return []cli.Flag{
		&cli.StringSliceFlag{Name: "client", Usage: "limit " + whose + " to this `CLIENT`; may be given several times"},
		&cli.BoolWithInverseFlag{Name: "prices", Usage: "see what licenses cost"},
		&cli.BoolWithInverseFlag{Name: "documents", Usage: "see the documents of licenses and families"},
	}
}

// clientsGiven returns the numbers of the clients that a command names; nil for none.
func clientsGiven(ctx context.Context, c *cli.Command, s *api.Client) (*[]int64, error) {
	if !c.IsSet("client") {
		return nil, nil
	}
	out := []int64{}
	for _, name := range c.StringSlice("client") {
		id, err := terminal.FindClient(ctx, s, name)
		if err != nil {
			return nil, err
		}
		out = append(out, id)
	}
	return &out, nil
}

// rightGiven returns what a flag says of a right; nil where it says nothing.
func rightGiven(c *cli.Command, name string) *bool {
	if !c.IsSet(name) {
		return nil
	}
	yes := c.Bool(name)
	return &yes
}

// seesWhat says what a person or a token sees.
func seesWhat(limited bool, clients []api.Ref, prices, documents bool) string {
	said := "all clients"
	if limited {
		var names []string
		for _, c := range clients {
			names = append(names, c.Name)
		}
		if said = strings.Join(names, ", "); said == "" {
			said = "no client"
		}
	}
	if !prices {
		said += ", no prices"
	}
	if !documents {
		said += ", no documents"
	}
	return said
}
