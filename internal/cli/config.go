package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"slices"
	"strings"

	"github.com/BurntSushi/toml"
	"github.com/agnivade/levenshtein"
	"github.com/go-sql-driver/mysql"
	"github.com/urfave/cli/v3"

	"sparecrate/internal/certificate"
	"sparecrate/internal/cli/terminal"
)

// DefaultConfig is the configuration file that is read where none is named, if it is there.
const DefaultConfig = "/etc/sparecrate/sparecrate.toml"

// configFile is a configuration file: TOML 1.0, with the names of flags as keys. It is read when
// the first flag asks for it, after --config is known.
type configFile struct {
	path   string // as it was named; empty for none
	named  bool   // it is read only where it is named
	read   bool
	values map[string]any
	err    error
}

// from adds a file to where flags take their values: the flag itself comes first, then its
// variable, then the file. A list is not asked for here, as its parts may hold commas.
func (f *configFile) from(flags []cli.Flag) []cli.Flag {
	for _, one := range flags {
		switch flag := one.(type) {
		case *cli.StringFlag:
			flag.Sources.Append(cli.NewValueSourceChain(&configValue{f, flag.Name, func(v any) bool { _, is := v.(string); return is }}))
		case *cli.BoolFlag:
			if flag.Name != "json" {
				flag.Sources.Append(cli.NewValueSourceChain(&configValue{f, flag.Name, func(v any) bool { _, is := v.(bool); return is }}))
			}
		case *cli.IntFlag:
			flag.Sources.Append(cli.NewValueSourceChain(&configValue{f, flag.Name, func(v any) bool { _, is := v.(int64); return is }}))
		}
	}
	// First in line, so that it is known when the others are asked.
	return append([]cli.Flag{&cli.StringFlag{Name: "config", Usage: "`FILE` with settings, TOML; without it, " + DefaultConfig + " if it is there", Destination: &f.path, Sources: cli.EnvVars("SPARECRATE_CONFIG")}}, flags...)
}

// load reads the file once.
func (f *configFile) load() map[string]any {
	if f.read {
		return f.values
	}
	f.read = true
	path := f.path
	if path == "" && f.named {
		return nil
	}
	if path == "" {
		path = DefaultConfig
	}
	text, err := os.ReadFile(path) //nolint:gosec // the file that the caller names
	if errors.Is(err, fs.ErrNotExist) && f.path == "" {
		return nil
	}
	if err != nil {
		f.err = fmt.Errorf("read the configuration: %w", err)
		return nil
	}
	f.path = path
	if err := toml.Unmarshal(text, &f.values); err != nil {
		var at toml.ParseError
		if errors.As(err, &at) {
			err = fmt.Errorf("line %d: %s", at.Position.Line, at.Message)
		}
		f.values, f.err = nil, fmt.Errorf("the configuration %s cannot be read: %w", path, err)
	}
	return f.values
}

// check refuses keys that are no flags of a command, and values of another kind than the flag's.
func (f *configFile) check(flags []cli.Flag) error {
	f.load()
	if f.err != nil {
		return f.err
	}
	known := map[string]cli.Flag{}
	for _, one := range flags {
		known[one.Names()[0]] = one
	}
	for _, unknown := range []string{"config", "json", "help"} {
		delete(known, unknown)
	}
	for _, key := range sortedKeys(f.values) {
		flag := known[key]
		want, right := "", false
		switch v := f.values[key]; flag.(type) {
		case *cli.StringFlag:
			_, right = v.(string)
			want = "a text in quotes"
		case *cli.BoolFlag:
			_, right = v.(bool)
			want = "true or false"
		case *cli.IntFlag:
			_, right = v.(int64)
			want = "a whole number"
		case *cli.StringSliceFlag:
			_, right = textsIn(v)
			want = "a list of texts"
		default:
			return fmt.Errorf("the configuration %s has an unknown key %q%s", f.path, key, nearest(key, sortedKeys(known)))
		}
		if !right {
			return fmt.Errorf("the configuration %s: %s is %s", f.path, key, want)
		}
	}
	return nil
}

func sortedKeys[T any](of map[string]T) []string {
	keys := make([]string, 0, len(of))
	for k := range of {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}

// nearest returns a question with the name that is nearest to what was written.
func nearest(written string, names []string) string {
	best, least := "", 3
	for _, n := range names {
		if d := levenshtein.ComputeDistance(written, n); d < least {
			best, least = n, d
		}
	}
	if best == "" {
		return "; `sparecrate config show` prints all that there are"
	}
	return fmt.Sprintf("; did you mean %q?", best)
}

func textsIn(v any) (out []string, is bool) {
	all, is := v.([]any)
	if !is {
		return nil, false
	}
	for _, one := range all {
		s, is := one.(string)
		if !is {
			return nil, false
		}
		out = append(out, s)
	}
	return out, true
}

// list returns the values of a flag that may be given several times.
func (f *configFile) list(c *cli.Command, name string) []string {
	if c.IsSet(name) {
		return c.StringSlice(name)
	}
	all, _ := textsIn(f.load()[name])
	return all
}

// configValue is a value of the file, as the source of a flag.
type configValue struct {
	file *configFile
	key  string
	fits func(any) bool // whether a value is of the flag's kind; check refuses others
}

// Lookup returns the value as text.
func (v *configValue) Lookup() (string, bool) {
	found, is := v.file.load()[v.key]
	if !is || !v.fits(found) {
		return "", false
	}
	return fmt.Sprint(found), true
}

func (v *configValue) String() string   { return "configuration file" }
func (v *configValue) GoString() string { return "configValue(" + v.key + ")" }

// setting is a setting of the service, with where it comes from.
type setting struct {
	Name  string `json:"name"`
	Value any    `json:"value"`
	From  string `json:"from"`
}

// settings returns all settings of a command as they count.
func settings(c *cli.Command, f *configFile, flags []cli.Flag) (out []setting) {
	for _, one := range flags {
		name := one.Names()[0]
		if name == "config" || name == "json" {
			continue
		}
		s := setting{Name: name, Value: one.Get(), From: "default"}
		if _, is := one.(*cli.StringSliceFlag); is {
			s.Value = append([]string{}, f.list(c, name)...)
		}
		if _, is := f.load()[name]; is {
			s.From = "file " + f.path
		}
		if env, is := one.(interface{ GetEnvVars() []string }); is {
			for _, v := range env.GetEnvVars() {
				if _, is := os.LookupEnv(v); is {
					s.From = "variable " + v
				}
			}
		}
		if slices.ContainsFunc(os.Args, func(a string) bool { return a == "--"+name || strings.HasPrefix(a, "--"+name+"=") }) {
			s.From = "flag"
		}
		if dsn, is := s.Value.(string); is && name == "database" && dsn != "" {
			s.Value = withoutPassword(dsn)
		}
		out = append(out, s)
	}
	return out
}

// withoutPassword returns a data source name without what nobody is to see.
func withoutPassword(dsn string) string {
	c, err := mysql.ParseDSN(dsn)
	if err != nil {
		return "(cannot be read)"
	}
	if c.Passwd != "" {
		c.Passwd = "***"
	}
	return c.FormatDSN()
}

func configCommand() *cli.Command {
	f := &configFile{}
	check := serveCommandFlags(f)
	g := &configFile{}
	show := serveCommandFlags(g)
	return &cli.Command{
		Name: "config", Usage: "check and show the settings of the service",
		Description: terminal.Example("Settings are flags of `serve`. What is not given as a flag comes from its variable, and\nwhat has none from the configuration file, whose keys are the names of the flags.",
			"sparecrate config show"),
		Commands: []*cli.Command{{
			Name: "check", Usage: "look whether a configuration is right, without starting anything",
			Description: terminal.Example("Ends with 0 if `serve` would start with it.", "sparecrate config check"),
			Flags:       check,
			Action: func(_ context.Context, c *cli.Command) error {
				o, err := serveOptions(c, f)
				if err != nil {
					return err
				}
				if o.TLSCert != "" {
					if _, err := certificate.Config(o.TLSCert, o.TLSKey, o.Log); err != nil {
						return err
					}
				}
				where := f.path
				if where == "" {
					where = "flags and variables"
				}
				return terminal.Show(c, map[string]any{"right": true, "config": f.path}, func(w io.Writer) {
					_, _ = fmt.Fprintf(w, "The configuration is right (%s).\n", where)
				})
			},
		}, {
			Name: "show", Usage: "print all settings as they count, and where each comes from",
			Description: terminal.Example("Prints TOML that can be a configuration file.", "sparecrate config show"),
			Flags:       show,
			Action: func(_ context.Context, c *cli.Command) error {
				if _, err := terminal.Arguments(c); err != nil {
					return err
				}
				if err := g.check(show); err != nil {
					return err
				}
				all := settings(c, g, show)
				return terminal.Show(c, all, func(w io.Writer) {
					for _, s := range all {
						var line strings.Builder
						if err := toml.NewEncoder(&line).Encode(map[string]any{s.Name: s.Value}); err != nil {
							continue
						}
						_, _ = fmt.Fprintf(w, "%-46s # %s\n", strings.TrimRight(line.String(), "\n"), s.From)
					}
				})
			},
		}},
	}
}
