// Package filecmd is `file`: reading, making and reshaping font files, without a service.
package filecmd

import (
	"context"
	"fmt"
	"io"
	"os"
	"runtime"
	"sync"

	"github.com/schollz/progressbar/v3"
	"github.com/urfave/cli/v3"

	"sparecrate/font"
	"sparecrate/internal/cli/terminal"
)

// progress draws a bar on a terminal, and nothing elsewhere or with --json.
func progress(c *cli.Command, total int, doing string) *progressbar.ProgressBar {
	if total < 2 || !terminal.Progress(c) {
		return progressbar.NewOptions(total, progressbar.OptionSetWriter(io.Discard))
	}
	return progressbar.NewOptions(total, progressbar.OptionSetWriter(os.Stderr), progressbar.OptionSetDescription(doing),
		progressbar.OptionShowCount(), progressbar.OptionClearOnFinish(), progressbar.OptionSetWidth(30))
}

// BytesBar is a bar that counts bytes and tells their speed.
func BytesBar(c *cli.Command, total int64, doing string) *progressbar.ProgressBar {
	if !terminal.Progress(c) {
		return progressbar.NewOptions64(total, progressbar.OptionSetWriter(io.Discard))
	}
	return progressbar.NewOptions64(total, progressbar.OptionSetWriter(os.Stderr), progressbar.OptionSetDescription(doing),
		progressbar.OptionShowBytes(true), progressbar.OptionClearOnFinish(), progressbar.OptionSetWidth(30))
}

// FileCommand is `file`.
func FileCommand() *cli.Command {
	return &cli.Command{
		Name: "file", Usage: "work with local font files; needs no service",
		Description: terminal.Example("Works on files of this machine; nothing leaves it.", "sparecrate file info *.ttf"),
		Commands: append([]*cli.Command{
			{
				Name: "info", Usage: "show font info: names, embedding permission, axes, supported languages", ArgsUsage: "PATH...",
				Description: terminal.Example("Prints a page for every face: names to copy, embedding permission, style, supported\nlanguages, layout features, line metrics, and problems. Names are those of\nthe reader's language, taken from LANG unless --language says another.",
					"sparecrate file info SkerrowSans-Bold.ttf"),
				Flags: []cli.Flag{
					terminal.JSONFlag,
					&cli.StringFlag{Name: "language", Usage: "show names in `LANGUAGE`, as a tag like de or pt-BR"},
					&cli.BoolFlag{Name: "records", Usage: "also list every record of the name table"},
				},
				Action: readFiles,
			},
			{
				Name: "convert", Usage: "convert font files to other formats, with a stylesheet and a sample page on request", ArgsUsage: "PATH...",
				Description: terminal.Example("Writes every face of every file into each format asked for, without changing\nits tables, on all cores. A file that fails does not stop the others and makes the exit\ncode 1. PostScript outlines become TrueType ones where a ttf is asked for; asked\nfor both ttf and otf, each face is written into the one that fits its outlines.\n\n"+
					"woff2 is for every current browser, woff for those before; ttf and otf are for\ninstalling and apps, eot for Internet Explorer alone, svg for the first phones.\n\n"+
					"--css adds all that a page needs: fonts.css with a rule for each face, sample.html that\nshows them, and the license text of open fonts. Files of one style become parts, each\nfor its characters.",
					"sparecrate file convert --to woff2,woff --css --out web SkerrowSans-*.ttf"),
				Flags: []cli.Flag{
					terminal.JSONFlag,
					&cli.StringSliceFlag{Name: "to", Usage: "`FORMATS` to write: " + font.Listed(font.Makeable) + "; woff2 and woff with --css"},
					&cli.BoolFlag{Name: "css", Usage: "also write a stylesheet and a sample page"},
					&cli.StringFlag{Name: "sample-text", Usage: "sample `TEXT` of the sample page"},
					&cli.StringFlag{Name: "out", Usage: "`FOLDER` to write to; created if missing", Value: "."},
					FineFlag,
				},
				Action: makeFiles,
			},
			{
				Name: "check", Usage: "check font files against the rules of their formats", ArgsUsage: "PATH...",
				Description: terminal.Example("Says what breaks a rule: an error is what readers stumble over, a warning what\nthey let pass. The exit code is 1 where there is an error or a file that cannot\nbe read.",
					"sparecrate file check *.ttf"),
				Flags:  []cli.Flag{terminal.JSONFlag, &cli.BoolFlag{Name: "errors", Usage: "show errors only"}},
				Action: testFiles,
			},
			changesCommand(), diffCommand(),
		}, reshapeCommands()...),
	}
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

// spread does something for each argument on all cores and gives the results in
// the order of the arguments.
// Where ctx ends, the rest is left out and the error says so.
func spread[T any](ctx context.Context, c *cli.Command, doing string, do func(path string) T) ([]T, error) {
	paths := c.Args().Slice()
	out := make([]T, len(paths))
	bar := progress(c, len(paths), doing)
	next := make(chan int)
	var workers sync.WaitGroup
	for range min(runtime.NumCPU(), len(paths)) {
		workers.Go(func() {
			for i := range next {
				out[i] = do(paths[i])
				_ = bar.Add(1)
			}
		})
	}
	done := len(paths)
	for i := range paths {
		if ctx.Err() != nil {
			done = i
			break
		}
		next <- i
	}
	close(next)
	workers.Wait()
	_ = bar.Finish()
	return out[:done], ctx.Err()
}

// outcome is what a command over many files ends with: trouble with printing,
// an interruption, or files that failed and were reported.
func outcome(printing, stopped error, failed bool) error {
	switch {
	case printing != nil:
		return printing
	case stopped != nil:
		return stopped
	case failed:
		return terminal.ErrReported
	}
	return nil
}
