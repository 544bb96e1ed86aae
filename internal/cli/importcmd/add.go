// Package importcmd holds the commands by which fonts come in: files, imports, families served
// from elsewhere, and what families lack afterwards.
package importcmd

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/schollz/progressbar/v3"
	"github.com/urfave/cli/v3"
	"golang.org/x/sync/errgroup"

	"sparecrate/api"
	"sparecrate/internal/classify"
	"sparecrate/internal/cli/filecmd"
	"sparecrate/internal/cli/terminal"
)

// AddCommand is `add`.
func AddCommand() *cli.Command {
	return &cli.Command{
		Name: "add", Usage: "import fonts from files, folders and zips", ArgsUsage: "PATH...",
		Description: terminal.Example("Uploads the files as one import, unpacks zips, reads every font, and shows what happens\nto each before anything is added. License texts and other documents in the same folders\nare added to their families; what is neither is listed and left\nout. The same bytes a second time change nothing. A file that is refused does not\nstop the others and makes the exit code 1.\n\nWithout --yes it asks. Interrupted, it goes on with --into and the number that it\nprinted: what was sent is there.",
			"sparecrate add --client 'Holmvik Ferries' --origin commissioned --yes SkerrowSans-Bold.ttf"),
		Flags: []cli.Flag{
			terminal.JSONFlag,
			&cli.StringFlag{Name: "client", Usage: "`NAME` or number of the client; default: the studio"},
			&cli.StringFlag{Name: "origin", Usage: "bought, client, open, commissioned, hosted or unknown", Value: "unknown"},
			&cli.BoolFlag{Name: "yes", Usage: "import every new font without asking"},
			&cli.IntFlag{Name: "into", Usage: "`NUMBER` of an open import to add to"},
		},
		Action: addFiles,
	}
}

// thing is a file to send: where it is, and what it is called in the import.
type thing struct {
	path, name string
	size       int64
}

// things lists the files of paths; what no import wants of folders is left out
// at once and counted, and symbolic links in them are not followed but named.
func things(paths []string) (list []thing, left int, links []string, err error) {
	for _, root := range paths {
		root = filepath.Clean(root)
		info, err := os.Stat(root)
		if err != nil {
			return nil, 0, nil, err
		}
		if !info.IsDir() {
			list = append(list, thing{root, filepath.Base(root), info.Size()})
			continue
		}
		whole, err := filepath.Abs(root) // so that `.` has a name
		if err != nil {
			return nil, 0, nil, err
		}
		err = filepath.WalkDir(whole, func(path string, d fs.DirEntry, err error) error {
			if err == nil && d.Type()&fs.ModeSymlink != 0 {
				links = append(links, path)
			}
			if err != nil || !d.Type().IsRegular() {
				return err
			}
			info, err := d.Info()
			if err != nil {
				return err
			}
			rel, err := filepath.Rel(filepath.Dir(whole), path)
			if err != nil {
				return err
			}
			head, err := headOf(path)
			if err != nil {
				return err
			}
			name := filepath.ToSlash(rel)
			if kind, _ := classify.Sort(name, head, info.Size()); kind == classify.LeftOut {
				left++
				return nil
			}
			list = append(list, thing{path, name, info.Size()})
			return nil
		})
		if err != nil {
			return nil, 0, nil, err
		}
	}
	return list, left, links, nil
}

func headOf(path string) ([]byte, error) {
	f, err := os.Open(path) //nolint:gosec // a file of the user's own choice
	if err != nil {
		return nil, err
	}
	defer func() { _ = f.Close() }()
	head := make([]byte, classify.HeadSize)
	n, err := io.ReadFull(f, head)
	if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
		err = nil
	}
	return head[:n], err
}

// arrived is what add prints as JSON.
type arrived struct {
	*api.Import
	Items   []api.ImportItem  `json:"items"`
	LeftOut int               `json:"notSent"`
	Failed  map[string]string `json:"failed,omitempty"`
}

func addFiles(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() == 0 {
		return terminal.Misused("add needs the PATH of at least one font file, folder or zip")
	}
	list, left, links, err := things(c.Args().Slice())
	if err != nil {
		return err
	}
	for _, path := range links {
		_, _ = fmt.Fprintf(c.Root().ErrWriter, "sparecrate: %s is a symbolic link and skipped; name the file that it leads to\n", path)
	}
	if len(list) == 0 {
		return fmt.Errorf("there is no font, zip or document in %s", strings.Join(c.Args().Slice(), ", "))
	}
	s, err := terminal.Connect()
	if err != nil {
		return err
	}
	d, err := into(ctx, c, s)
	if err != nil {
		return err
	}
	out := arrived{LeftOut: left, Failed: map[string]string{}}
	out.Failed, err = send(ctx, c, s, d.Id, list)
	if err != nil {
		return fmt.Errorf("%w; files sent so far are kept: continue with --into %d", err, d.Id)
	}
	if out.Import, err = settled(ctx, c, s, d.Id, "reading"); err != nil {
		return err
	}
	take := c.Bool("yes")
	if !take && !c.Bool("json") {
		if err := out.look(ctx, c, s); err != nil {
			return err
		}
		if out.Counts.Marked > 0 {
			if take, err = terminal.Ask(c, fmt.Sprintf("Import %d fonts?", out.Counts.Marked)); err != nil && !errors.Is(err, terminal.ErrNobody) {
				return err
			}
		}
	}
	// With nothing new in it an import is closed, and the documents beside fonts are kept.
	if take || out.Counts.Marked == 0 && out.Counts.Fonts > 0 {
		_, err := terminal.Call[api.Import](s.AcceptImport(ctx, d.Id))
		if err != nil && !(out.Counts.Marked == 0 && terminal.IsProblem(err, "nothing-marked")) {
			return err
		}
		if out.Import, err = settled(ctx, c, s, d.Id, "taking in"); err != nil {
			return err
		}
	}
	large := out.Counts.Fonts > manyFonts && !c.Bool("json")
	if large { // the whole list would be waited for and never read
		out.Items, err = itemsOf(ctx, s, d.Id, api.ItemRefused)
	} else if out.Items, err = importItems(ctx, s, d.Id); err == nil {
		err = allFamilies(ctx, s, out.Import)
	}
	if err != nil {
		return err
	}
	err = terminal.Show(c, out, func(w io.Writer) {
		if large {
			_, _ = fmt.Fprintf(w, "%d fonts, %d in the catalog, %d refused. See `sparecrate imports show %d` for each.\n", out.Counts.Fonts, out.Counts.Taken, out.Counts.Refused, d.Id)
		}
		if take || out.Counts.Marked == 0 {
			out.outcomes(w)
		}
		if left > 0 {
			_, _ = fmt.Fprintf(w, "Skipped in the folders: %s, neither font nor document.\n", wereFiles(left))
		}
		if out.Counts.Marked > 0 {
			if out.Counts.Taken == 0 {
				_, _ = fmt.Fprintf(w, "Nothing is in the catalog yet. Add it with `sparecrate imports accept %d`.\n", d.Id)
			}
			if take {
				undecided(w, out.Import, out.Items)
			}
		}
	})
	return errors.Join(err, out.refused(c))
}

// manyFonts is how many fonts are told of one by one.
const manyFonts = 500

// into opens an import, or finds the one that is to be gone on with.
func into(ctx context.Context, c *cli.Command, s *api.Client) (*api.Import, error) {
	if id := c.Int("into"); id > 0 {
		return terminal.Call[api.Import](s.GetImport(ctx, int64(id)))
	}
	client, origin := c.String("client"), api.Origin(c.String("origin"))
	title := filepath.Base(filepath.Clean(c.Args().First()))
	if n := c.Args().Len(); n > 1 {
		title = fmt.Sprintf("%s and %d more", title, n-1)
	}
	return terminal.Call[api.Import](s.StartImport(ctx, api.NewImport{Title: &title, Client: &client, Origin: &origin}))
}

// atOnce is how many files are sent at the same time.
const atOnce = 4

// send puts files into an import, a few at a time. What the service refuses is
// told by path; a service that is gone ends it.
func send(ctx context.Context, c *cli.Command, s *api.Client, id int64, list []thing) (map[string]string, error) {
	total := int64(0)
	for _, t := range list {
		total += t.size
	}
	bar := filecmd.BytesBar(c, total, fmt.Sprintf("sending %s", terminal.Count(len(list), "file")))
	failed := map[string]string{}
	var keep sync.Mutex
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(atOnce)
	for _, t := range list {
		g.Go(func() error {
			if err := ctx.Err(); err != nil {
				return err
			}
			body, kind, err := terminal.Form(t.path, [][2]string{{"path", t.name}})
			if err == nil {
				_, err = terminal.Call[api.ImportItem](s.AddImportItemWithBody(ctx, id, kind, io.TeeReader(body, counting{bar})))
				_ = body.Close()
			}
			if terminal.IsRefusal(err) {
				keep.Lock()
				failed[t.path] = err.Error()
				keep.Unlock()
				return nil
			}
			return err
		})
	}
	if err := g.Wait(); err != nil {
		_ = bar.Exit()
		return failed, err
	}
	return failed, bar.Finish()
}

// counting moves a bar on by what is written to it, which with the frame of an
// upload is a little more than the bar is long.
type counting struct{ bar *progressbar.ProgressBar }

func (w counting) Write(p []byte) (int, error) {
	_ = w.bar.Add64(min(int64(len(p)), w.bar.GetMax64()-w.bar.State().CurrentNum))
	return len(p), nil
}

// finished waits until nothing of an import is being worked on.
func settled(ctx context.Context, c *cli.Command, s *api.Client, id int64, doing string) (*api.Import, error) {
	bar := progressbar.NewOptions(-1, progressbar.OptionSetWriter(io.Discard))
	if terminal.Progress(c) {
		bar = progressbar.NewOptions(-1, progressbar.OptionSetWriter(os.Stderr), progressbar.OptionSetDescription(doing), progressbar.OptionClearOnFinish(), progressbar.OptionShowCount())
	}
	for wait := 20 * time.Millisecond; ; wait = min(2*wait, time.Second) {
		d, err := terminal.Call[api.Import](s.GetImport(ctx, id))
		if err != nil {
			return nil, err
		}
		if d.Unpacking == 0 && d.State != api.ImportAccepting {
			return d, bar.Finish()
		}
		_ = bar.Set(d.Counts.Taken + d.Counts.Fonts)
		select {
		case <-ctx.Done():
			return nil, fmt.Errorf("%w; the service goes on: see `sparecrate imports show %d`", ctx.Err(), id)
		case <-time.After(wait):
		}
	}
}

// look prints what would become of everything.
func (a *arrived) look(ctx context.Context, c *cli.Command, s *api.Client) error {
	if a.Counts.Fonts > manyFonts {
		_, _ = fmt.Fprintf(c.Root().Writer, "%d fonts, %d selected, %d unreadable. See `sparecrate imports show %d` for each.\n", a.Counts.Fonts, a.Counts.Marked, a.Counts.Refused, a.Id)
		return nil
	}
	items, err := importItems(ctx, s, a.Id)
	if err != nil {
		return err
	}
	if err := allFamilies(ctx, s, a.Import); err != nil {
		return err
	}
	showImport(c.Root().Writer, a.Import, items)
	return nil
}

// outcomes prints a line for each font.
func (a *arrived) outcomes(w io.Writer) {
	for _, it := range a.Items {
		if it.Kind != api.ItemFont {
			continue
		}
		family := ""
		if it.FamilyId != nil {
			family = fmt.Sprintf(" (family %d)", *it.FamilyId)
		}
		_, _ = fmt.Fprintf(w, "%s: %s%s\n", it.Path, it.Why, family)
	}
	for _, f := range a.Families {
		for _, warning := range f.Warnings {
			_, _ = fmt.Fprintf(w, "%s: %s\n", f.Name, warning)
		}
	}
}

// refused tells what was refused and why; the error makes the exit code 1.
func (a *arrived) refused(c *cli.Command) error {
	some := false
	for _, it := range a.Items {
		if it.Kind == api.ItemRefused {
			some = true
			_, _ = fmt.Fprintf(c.Root().ErrWriter, "sparecrate: %s: %s\n", it.Path, it.Why)
		}
	}
	for path, why := range a.Failed {
		some = true
		_, _ = fmt.Fprintf(c.Root().ErrWriter, "sparecrate: %s: %s\n", path, why)
	}
	if some {
		return terminal.ErrReported
	}
	return nil
}

// wereFiles says that a number of files were something.
func wereFiles(n int) string {
	if n == 1 {
		return "1 file was"
	}
	return fmt.Sprintf("%d files were", n)
}
