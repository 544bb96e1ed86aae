package filecmd

import (
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/internal/cli/terminal"
)

// AxesOf reads places on axes.
func AxesOf(c *cli.Command) (map[string]string, error) {
	out := map[string]string{}
	for _, one := range c.StringSlice("at") {
		tag, value, ok := strings.Cut(one, "=")
		if !ok {
			return nil, terminal.Misused("--at needs an axis and its value, like wght=700; %q has no =", one)
		}
		out[strings.TrimSpace(tag)] = strings.TrimSpace(value)
	}
	return out, nil
}
