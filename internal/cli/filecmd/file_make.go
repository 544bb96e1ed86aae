package filecmd

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"

	"github.com/urfave/cli/v3"

	"sparecrate/font"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/internal/cli/terminal"
)

// made is one file written.
type made struct {
	Path   string         `json:"path"`
	Face   int            `json:"face"`
	Out    string         `json:"out"`
	Format font.Container `json:"format"`
	From   int            `json:"fromBytes"`
	Bytes  int            `json:"bytes"`
}

func makeFiles(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() == 0 {
		return terminal.Misused("file convert needs the PATH of at least one font file")
	}
	to := c.StringSlice("to")
	switch {
	case len(to) == 0 && !c.Bool("css"):
		return terminal.Misused("file convert needs --to with the formats to write: %s", font.Listed(font.Makeable))
	case len(to) == 0:
		to = []string{"woff2", "woff"}
	}
	j := &makeJob{out: c.String("out"), fine: c.Bool("fine"), taken: map[string]string{}, slots: make(chan struct{}, runtime.NumCPU()), bases: map[string]string{}}
	for _, name := range to {
		k := font.Container(strings.ToLower(strings.TrimSpace(name)))
		if !slices.Contains(font.Makeable, k) {
			return terminal.Misused("--to can be %s, not %q", font.Listed(font.Makeable), name)
		}
		if !slices.Contains(j.to, k) {
			j.to = append(j.to, k)
		}
	}
	if err := os.MkdirAll(j.out, 0o755); err != nil { //nolint:gosec // a folder of the user's, as any tool makes it
		return err
	}
	for _, path := range c.Args().Slice() { // the first of two inputs of the same name is the one written, whoever is faster
		if _, there := j.bases[stem(path)]; !there {
			j.bases[stem(path)] = path
		}
	}
	results, stopped := spread(ctx, c, "making", j.file)
	files := []made{}
	var failed []string
	for _, r := range results {
		files = append(files, r.made...)
		for _, err := range r.failed {
			failed = append(failed, err.Error())
		}
	}
	var kit []string
	if c.Bool("css") && len(files) > 0 && stopped == nil {
		slices.SortStableFunc(j.to, func(a, b font.Container) int { return slices.Index(font.Makeable, a) - slices.Index(font.Makeable, b) })
		var err error
		if kit, err = j.writeKit(files, c.String("sample-text")); err != nil {
			failed = append(failed, err.Error())
		}
	}
	err := terminal.Show(c, kitOf(c, files, kit), func(w io.Writer) {
		j.table(w, files)
		for _, path := range kit {
			_, _ = fmt.Fprintln(w, path)
		}
	})
	for _, f := range failed {
		_, _ = fmt.Fprintf(c.Root().ErrWriter, "sparecrate: %s\n", f)
	}
	return outcome(err, stopped, len(failed) > 0)
}

// kitOf is the JSON of what was written: a list of fonts, and with --css the files beside them.
func kitOf(c *cli.Command, files []made, kit []string) any {
	if !c.Bool("css") {
		return files
	}
	return struct {
		Fonts []made   `json:"fonts"`
		Kit   []string `json:"kit"` // stylesheet, sample page, license texts
	}{files, append([]string{}, kit...)}
}

// stem is a file's name without folder and ending.
func stem(path string) string { return strings.TrimSuffix(filepath.Base(path), filepath.Ext(path)) }

// table shows a row a face and a column a format, with what all come to.
func (j *makeJob) table(w io.Writer, files []made) {
	if len(files) == 0 {
		return
	}
	head, right := []any{"Face", "From"}, []string{"From"}
	for _, k := range j.to {
		head, right = append(head, strings.ToUpper(string(k))), append(right, strings.ToUpper(string(k)))
	}
	var rows [][]any
	from, sums := 0, map[font.Container]int{}
	cell := func(sizes map[font.Container]int, k font.Container) any {
		if n, ok := sizes[k]; ok {
			return terminal.Size(int64(n))
		}
		return "–"
	}
	for i := 0; i < len(files); {
		first := files[i]
		sizes := map[font.Container]int{}
		for ; i < len(files) && files[i].Path == first.Path && files[i].Face == first.Face; i++ {
			sizes[files[i].Format] = files[i].Bytes
			sums[files[i].Format] += files[i].Bytes
		}
		from += first.From
		row := []any{stem(first.Out), terminal.Size(int64(first.From))}
		for _, k := range j.to {
			row = append(row, cell(sizes, k))
		}
		rows = append(rows, row)
	}
	if len(rows) > 1 {
		row := []any{fmt.Sprintf("all %d", len(rows)), terminal.Size(int64(from))}
		for _, k := range j.to {
			row = append(row, cell(sums, k))
		}
		rows = append(rows, row)
	}
	terminal.Grid(w, head, right, rows)
	_, _ = fmt.Fprintf(w, "\nWritten to %s.\n", filepath.Clean(j.out))
	for _, note := range []struct {
		of   font.Container
		says string
	}{
		{font.EOT, "EOT is read by Internet Explorer alone."},
		{font.SVG, "SVG fonts are for the first phones; kerning, ligatures and hinting are not in them."},
	} {
		if slices.Contains(j.to, note.of) {
			_, _ = fmt.Fprintln(w, note.says)
		}
	}
}

// makeJob writes files from several workers.
type makeJob struct {
	fine  bool // round retyped outlines on a fine grid
	to    []font.Container
	out   string
	bases map[string]string // stem to the input that is written under it
	slots chan struct{}     // one for each core

	mu    sync.Mutex
	taken map[string]string // file name to the input it is for
}

// makeResult is what became of one input.
type makeResult struct {
	made   []made
	failed []error
}

func (j *makeJob) file(path string) (r makeResult) {
	fail := func(err error) { r.failed = append(r.failed, err) }
	if first := j.bases[stem(path)]; first != path {
		fail(fmt.Errorf("%s: %s is made from %s already; two inputs of the same name need two folders", path, stem(path), first))
		return r
	}
	b, err := load(path)
	if err != nil {
		fail(err)
		return r
	}
	opened, err := font.Open(b)
	if err != nil {
		fail(fmt.Errorf("%s: %w", path, err))
		return r
	}
	var mu sync.Mutex
	var all sync.WaitGroup
	for i := range opened.Faces {
		base := stem(path)
		if len(opened.Faces) > 1 {
			base = fmt.Sprintf("%s-%d", base, i)
		}
		for _, k := range j.to {
			all.Go(func() {
				j.slots <- struct{}{}
				defer func() { <-j.slots }()
				out := filepath.Join(j.out, base+"."+string(k))
				n, err := j.write(path, out, k, opened, i)
				mu.Lock()
				defer mu.Unlock()
				switch {
				case errors.Is(err, font.ErrContainer) && j.either(k):
				case err != nil:
					fail(fmt.Errorf("%s: %w", path, err))
				default:
					r.made = append(r.made, made{path, i, out, k, len(b), n})
				}
			})
		}
	}
	all.Wait()
	slices.SortFunc(r.made, func(a, b made) int {
		if a.Face != b.Face {
			return a.Face - b.Face
		}
		return slices.Index(j.to, a.Format) - slices.Index(j.to, b.Format)
	})
	slices.SortFunc(r.failed, func(a, b error) int { return strings.Compare(a.Error(), b.Error()) })
	return r
}

// either reports whether a format is one of ttf and otf and both were asked
// for: the outlines decide then, and nothing has failed.
func (j *makeJob) either(k font.Container) bool {
	return (k == font.TTF || k == font.OTF) && slices.Contains(j.to, font.TTF) && slices.Contains(j.to, font.OTF)
}

func (j *makeJob) write(path, out string, k font.Container, opened *font.File, face int) (int, error) {
	if same, err := filepath.Abs(path); err == nil {
		if target, err := filepath.Abs(out); err == nil && same == target {
			return 0, fmt.Errorf("it would be written over itself; choose another folder with --out")
		}
	}
	j.mu.Lock()
	first, taken := j.taken[out]
	if !taken {
		j.taken[out] = path
	}
	j.mu.Unlock()
	if taken {
		return 0, fmt.Errorf("%s is made from %s already; two inputs of the same name need two folders", out, first)
	}
	file := opened
	if k == font.TTF && !j.either(k) && len(opened.Faces[face].Table(table.TagGlyf)) == 0 {
		retyped, err := fitting(opened.Faces[face], k, j.fine)
		if err != nil {
			return 0, err
		}
		file, face = &font.File{Faces: []*sfnt.Font{retyped}}, 0
	}
	data, err := file.Make(face, k)
	if err != nil {
		return 0, err
	}
	_, err = terminal.WriteWhole(out, bytes.NewReader(data))
	return len(data), err
}
