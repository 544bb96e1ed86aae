package cli

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"

	"github.com/schollz/progressbar/v3"
	"github.com/urfave/cli/v3"

	"sparecrate/font"
	"sparecrate/font/facts"
	"sparecrate/font/sfnt"
)

// progress draws a bar on a terminal, and nothing elsewhere or with --json.
func progress(c *cli.Command, total int, doing string) *progressbar.ProgressBar {
	if total < 2 || c.Bool("json") || !stderrIsTerminal() {
		return progressbar.NewOptions(total, progressbar.OptionSetWriter(io.Discard))
	}
	return progressbar.NewOptions(total, progressbar.OptionSetWriter(os.Stderr), progressbar.OptionSetDescription(doing),
		progressbar.OptionShowCount(), progressbar.OptionClearOnFinish(), progressbar.OptionSetWidth(30))
}

func fileCommand() *cli.Command {
	return &cli.Command{
		Name: "file", Usage: "local font files: read, make other containers; needs no service",
		Description: example("Works on files of this machine; nothing leaves it.", "sparecrate file read *.ttf"),
		Commands: []*cli.Command{
			{
				Name: "read", Usage: "say what font files are and what they say of themselves", ArgsUsage: "PATH...", Flags: []cli.Flag{jsonFlag},
				Description: example("Prints names, style, embedding permission, metrics, coverage and problems of every face.", "sparecrate file read --json SkerrowSans-Bold.ttf"),
				Action:      readFiles,
			},
			{
				Name: "make", Usage: "write font files into other containers", ArgsUsage: "PATH...",
				Description: example("Writes every face of every file into each container asked for, without changing\nit. A file that fails does not stop the others and makes the exit code 1.",
					"sparecrate file make --to woff2,woff --out web SkerrowSans-*.ttf"),
				Flags: []cli.Flag{
					jsonFlag,
					&cli.StringSliceFlag{Name: "to", Usage: "`CONTAINERS` to write: woff2, woff, ttf, otf", Required: true},
					&cli.StringFlag{Name: "out", Usage: "`FOLDER` to write to; made if missing", Value: "."},
				},
				Action: makeFiles,
			},
		},
	}
}

// fileFace is the JSON of `file read`.
type fileFace struct {
	Path   string `json:"path"`
	SHA256 string `json:"sha256"`
	Bytes  int    `json:"bytes"`
	facts.Face
}

// load reads a file that is no larger than a font may be.
func load(path string) ([]byte, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer func() { _ = f.Close() }()
	info, err := f.Stat()
	if err != nil {
		return nil, err
	}
	if info.IsDir() {
		return nil, fmt.Errorf("%s is a folder; name the files in it", path)
	}
	b, err := io.ReadAll(io.LimitReader(f, font.MaxFile+1))
	if err == nil && len(b) > font.MaxFile {
		err = fmt.Errorf("%s is larger than %d MB; no font is", path, font.MaxFile>>20)
	}
	return b, err
}

func readFiles(_ context.Context, c *cli.Command) error {
	if c.Args().Len() == 0 {
		return misused("file read needs the PATH of at least one font file")
	}
	all := []fileFace{}
	failed := false
	for _, path := range c.Args().Slice() {
		b, err := load(path)
		var faces []facts.Face
		if err == nil {
			faces, err = facts.Read(b)
			if err != nil {
				err = fmt.Errorf("%s: %w", path, err)
			}
		}
		if err != nil {
			_, _ = fmt.Fprintf(c.Root().ErrWriter, "sparecrate: %v\n", err)
			failed = true
			continue
		}
		sum := sha256.Sum256(b)
		for _, f := range faces {
			all = append(all, fileFace{path, hex.EncodeToString(sum[:]), len(b), f})
		}
	}
	err := show(c, all, func(w io.Writer) {
		for i, f := range all {
			if i > 0 {
				_, _ = fmt.Fprintln(w)
			}
			showFace(w, f)
		}
	})
	if err == nil && failed {
		err = errReported
	}
	return err
}

func showFace(w io.Writer, f fileFace) {
	n, s, m := f.Names, f.Style, f.Metrics
	_, _ = fmt.Fprintf(w, "%s\n", f.Path)
	place := ""
	if f.Container == font.TTC {
		place = fmt.Sprintf(", face %d", f.Index)
	}
	pairs(w,
		[2]string{"is", fmt.Sprintf("%s, %s outlines, %s%s", strings.ToUpper(string(f.Container)), f.Outlines, size(int64(f.Bytes)), place)},
		[2]string{"family", n.FamilyName()}, [2]string{"style", n.StyleName()}, [2]string{"full name", n.Full}, [2]string{"PostScript", n.PostScript},
		[2]string{"version", n.Version},
		[2]string{"as numbers", fmt.Sprintf("weight %d, width %g %%, %s", s.Weight, s.WidthPercent, s.Slope)},
		[2]string{"permission", f.Embedding.Words()},
		[2]string{"designer", n.Designer}, [2]string{"manufacturer", n.Manufacturer}, [2]string{"copyright", brief(n.Copyright)},
		[2]string{"license", brief(n.License)}, [2]string{"license URL", n.LicenseURL},
		[2]string{"holds", fmt.Sprintf("%d glyphs for %d characters", f.Glyphs, f.Coverage.Codepoints)},
		[2]string{"features", strings.Join(f.Features, " ")},
		[2]string{"lines", fmt.Sprintf("%d up, %d down, %d between, of %d units an em", m.Ascent, -m.Descent, m.LineGap, f.UnitsPerEm)},
	)
	for _, a := range f.Axes {
		pairs(w, [2]string{"axis", fmt.Sprintf("%s (%s) from %g to %g, %g unless set", a.Name, a.Tag, a.Min, a.Max, a.Default)})
	}
	for _, p := range f.Problems {
		pairs(w, [2]string{"problem", p.Message})
	}
}

// brief shortens a long text to its first line; the whole is in the JSON.
func brief(s string) string {
	const longest = 160
	line, rest, more := strings.Cut(strings.TrimSpace(s), "\n")
	line = strings.TrimSpace(line)
	if r := []rune(line); len(r) > longest {
		line, more = string(r[:longest]), true
	}
	if more && (rest != "" || len(s) > len(line)) {
		return line + " … (all of it with --json)"
	}
	return line
}

// made is one file written.
type made struct {
	Path      string         `json:"path"`
	Out       string         `json:"out"`
	Container font.Container `json:"container"`
	From      int            `json:"fromBytes"`
	Bytes     int            `json:"bytes"`
}

func makeFiles(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() == 0 {
		return misused("file make needs the PATH of at least one font file")
	}
	var to []font.Container
	for _, name := range c.StringSlice("to") {
		k := font.Container(strings.ToLower(strings.TrimSpace(name)))
		if !slices.Contains(font.Makeable, k) {
			return misused("--to takes woff2, woff, ttf and otf, not %q", name)
		}
		to = append(to, k)
	}
	if err := os.MkdirAll(c.String("out"), 0o755); err != nil { //nolint:gosec // a folder of the user's, as any tool makes it
		return err
	}
	j := &makeJob{to: to, out: c.String("out"), taken: map[string]string{}}
	bar := progress(c, c.Args().Len(), "making")
	paths := make(chan string)
	var workers sync.WaitGroup
	for range min(runtime.NumCPU(), c.Args().Len()) {
		workers.Go(func() {
			for path := range paths {
				j.file(path)
				_ = bar.Add(1)
			}
		})
	}
	for _, path := range c.Args().Slice() {
		if ctx.Err() != nil {
			break
		}
		paths <- path
	}
	close(paths)
	workers.Wait()
	_ = bar.Finish()
	slices.SortFunc(j.made, func(a, b made) int { return strings.Compare(a.Out, b.Out) })
	slices.Sort(j.failed)
	err := show(c, append([]made{}, j.made...), func(w io.Writer) {
		var rows [][]any
		for _, m := range j.made {
			rows = append(rows, []any{m.Out, m.Container, size(int64(m.From)), size(int64(m.Bytes)), fmt.Sprintf("%d %%", m.Bytes*100/max(m.From, 1))})
		}
		grid(w, []any{"File", "Container", "From", "Size", "Share"}, []string{"From", "Size", "Share"}, rows)
	})
	for _, f := range j.failed {
		_, _ = fmt.Fprintf(c.Root().ErrWriter, "sparecrate: %s\n", f)
	}
	if err == nil && ctx.Err() != nil {
		err = ctx.Err()
	}
	if err == nil && len(j.failed) > 0 {
		err = errReported
	}
	return err
}

// makeJob writes files from several workers.
type makeJob struct {
	to  []font.Container
	out string

	mu     sync.Mutex
	taken  map[string]string // file name to the input it is for
	made   []made
	failed []string
}

func (j *makeJob) fail(err error) {
	j.mu.Lock()
	defer j.mu.Unlock()
	j.failed = append(j.failed, err.Error())
}

func (j *makeJob) file(path string) {
	b, err := load(path)
	if err != nil {
		j.fail(err)
		return
	}
	opened, err := font.Open(b)
	if err != nil {
		j.fail(fmt.Errorf("%s: %w", path, err))
		return
	}
	for i, face := range opened.Faces {
		base := strings.TrimSuffix(filepath.Base(path), filepath.Ext(path))
		if len(opened.Faces) > 1 {
			base = fmt.Sprintf("%s-%d", base, i)
		}
		for _, k := range j.to {
			if err := j.write(path, filepath.Join(j.out, base+"."+string(k)), k, face, len(b)); err != nil {
				j.fail(fmt.Errorf("%s: %w", path, err))
			}
		}
	}
}

func (j *makeJob) write(path, out string, k font.Container, face *sfnt.Font, from int) error {
	if same, err := filepath.Abs(path); err == nil {
		if target, err := filepath.Abs(out); err == nil && same == target {
			return fmt.Errorf("it would be written over itself; choose another folder with --out")
		}
	}
	j.mu.Lock()
	first, taken := j.taken[out]
	if !taken {
		j.taken[out] = path
	}
	j.mu.Unlock()
	if taken {
		return fmt.Errorf("%s is made from %s already; two inputs of the same name need two folders", out, first)
	}
	data, err := font.Make(face, k)
	if err != nil {
		return err
	}
	if _, err := writeWhole(out, bytes.NewReader(data)); err != nil {
		return err
	}
	j.mu.Lock()
	defer j.mu.Unlock()
	j.made = append(j.made, made{path, out, k, from, len(data)})
	return nil
}
