package filecmd

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"

	"github.com/jedib0t/go-pretty/v6/text"
	"github.com/urfave/cli/v3"
	"golang.org/x/term"

	"sparecrate/font"
	"sparecrate/font/appearance"
	"sparecrate/font/coverage"
	"sparecrate/font/metadata"
	"sparecrate/internal/cli/terminal"
)

// fileFace is the JSON of `file info`.
type fileFace struct {
	Path   string `json:"path"`
	SHA256 string `json:"sha256"`
	Bytes  int    `json:"bytes"`
	metadata.Face
	// Appearance is missing where the face has no Latin letters or no outlines.
	Appearance *appearance.Appearance `json:"appearance,omitempty"`
}

func readFiles(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() == 0 {
		return terminal.Misused("file info needs the PATH of at least one font file")
	}
	type result struct {
		faces []fileFace
		err   error
	}
	results, stopped := spread(ctx, c, "reading", func(path string) (r result) {
		b, err := load(path)
		if err != nil {
			return result{err: err}
		}
		faces, err := metadata.Read(b)
		if err != nil {
			return result{err: fmt.Errorf("%s: %w", path, err)}
		}
		sum := sha256.Sum256(b)
		for _, f := range faces {
			if p, differs := f.NameDiffers(path); differs {
				f.Problems = append(f.Problems, p)
			}
			r.faces = append(r.faces, fileFace{path, hex.EncodeToString(sum[:]), len(b), f, looks(b, f.Index)})
		}
		return r
	})
	all := []fileFace{}
	failed := false
	for _, r := range results {
		if r.err != nil {
			_, _ = fmt.Fprintf(c.Root().ErrWriter, "sparecrate: %v\n", r.err)
			failed = true
		}
		all = append(all, r.faces...)
	}
	language := c.String("language")
	if language == "" {
		language = readersLanguage(os.Getenv)
	}
	err := terminal.Show(c, all, func(w io.Writer) {
		for i := range all {
			if i > 0 {
				_, _ = fmt.Fprintln(w)
			}
			p := &page{w: w, wide: width(), face: &all[i], names: all[i].NamesIn(language)}
			p.print(c.Bool("records"))
		}
	})
	return outcome(err, stopped, failed)
}

// looks measures how a face of a file looks, nil where that cannot be measured.
func looks(b []byte, index int) *appearance.Appearance {
	f, err := font.Open(b)
	if err != nil || index >= len(f.Faces) {
		return nil
	}
	a, err := appearance.Of(f.Faces[index])
	if err != nil {
		return nil
	}
	return a
}

// readersLanguage turns the variables of the locale into a language tag.
func readersLanguage(get func(string) string) string {
	for _, name := range []string{"LC_ALL", "LC_MESSAGES", "LANG"} {
		if v := get(name); v != "" {
			tag, _, _ := strings.Cut(v, ".")
			tag, _, _ = strings.Cut(tag, "@")
			if tag == "C" || tag == "POSIX" {
				return "en"
			}
			return strings.ReplaceAll(tag, "_", "-")
		}
	}
	return "en"
}

// width is how many characters fit on a line of the terminal.
func width() int {
	const usual, most = 100, 120
	if w, _, err := term.GetSize(int(os.Stdout.Fd())); err == nil && w > 40 {
		return min(w, most)
	}
	return usual
}

// page prints one face.
type page struct {
	w     io.Writer
	wide  int
	face  *fileFace
	names metadata.Names
}

const labelWide = 14

func (p *page) line(format string, args ...any) { _, _ = fmt.Fprintf(p.w, format+"\n", args...) }

// row prints a label and a value, the value wrapped below itself; nothing for
// an empty value.
func (p *page) row(label, value string) {
	if value == "" {
		return
	}
	for i, line := range strings.Split(text.WrapSoft(value, p.wide-labelWide-5), "\n") {
		if i > 0 {
			label = ""
		}
		p.line("    %-*s %s", labelWide, label, strings.TrimRight(line, " "))
	}
}

func (p *page) section(title string) { p.line("\n  %s", strings.ToUpper(title)) }

func (p *page) print(records bool) {
	f, n := p.face, p.names
	p.line("%s", f.Path)
	p.line("%s", strings.Repeat("─", min(p.wide, max(24, text.StringWidthWithoutEscSequences(f.Path)))))
	title := strings.TrimSpace(n.FamilyName() + " " + n.StyleName())
	if title == "Regular" {
		title = "A font without a name"
	}
	p.line("  %s, %s", title, p.kind())
	p.line("  weight %d, width %g %%, %s", f.Style.Weight, f.Style.WidthPercent, f.Style.Slope)

	p.section("Names to copy")
	p.row("family", n.FamilyName())
	p.row("style", n.StyleName())
	p.row("full name", n.Full)
	p.row("PostScript", n.PostScript)
	if n.Family != n.FamilyName() {
		p.row("old family", n.Family+" / "+n.Subfamily)
	}
	p.row("version", n.Version)

	p.section("License and embedding")
	p.row("permission", f.Embedding.Words())
	p.row("license", brief(n.License))
	p.row("license URL", n.LicenseURL)
	p.row("copyright", brief(n.Copyright))
	p.row("trademark", brief(n.Trademark))

	p.section("Credits")
	p.row("designer", joined(n.Designer, n.DesignerURL))
	p.row("manufacturer", joined(n.Manufacturer, n.VendorURL))
	p.row("vendor", strings.TrimSpace(f.Vendor))
	p.row("made", p.dates())

	if a := f.Appearance; a != nil {
		p.section("Appearance, measured from outlines")
		p.row("kind", a.Kind.Words())
		p.row("proportions", fmt.Sprintf("x-height %.0f %% of the cap height, stems %.1f %%, letters %.0f %% as wide as they are tall", a.XHeight, a.Stem, a.Width))
		p.row("drawing", fmt.Sprintf("stroke contrast %.1f to 1, roundness %.0f of 100, slant %.1f°", a.Contrast, a.Roundness, a.Slant))
	}

	p.section("Supported languages")
	p.coverage()
	p.variations()
	p.layout()
	p.lines()
	if records {
		p.records()
	}
	p.problems()
}

func joined(a, b string) string {
	if a == "" || b == "" {
		return a + b
	}
	return a + ", " + b
}

// kind says what the file is, in one line.
func (p *page) kind() string {
	f := p.face
	outlines := map[metadata.Outlines]string{
		metadata.TrueType: "TrueType outlines", metadata.CFF: "PostScript outlines", metadata.CFF2: "PostScript outlines (CFF2)",
		metadata.Bitmap: "bitmaps", metadata.None: "no outlines",
	}[f.Outlines]
	hinting := map[metadata.Hinting]string{
		metadata.HintingNone: "not hinted", metadata.HintingInstructions: "hinted (TrueType instructions)", metadata.HintingZones: "hinted (alignment zones)",
	}[f.Hinting]
	out := fmt.Sprintf("%s of %s, %s, %s", strings.ToUpper(string(f.Container)), terminal.Size(int64(f.Bytes)), outlines, hinting)
	if f.Container == font.TTC || f.Index > 0 {
		out += fmt.Sprintf(", face %d", f.Index)
	}
	if len(f.Color) > 0 {
		out += ", color by " + strings.Join(f.Color, " and ")
	}
	return out
}

func (p *page) dates() string {
	const day = "2 January 2006"
	f := p.face
	var out []string
	if f.Created != nil {
		out = append(out, "created "+f.Created.Format(day))
	}
	if f.Modified != nil && (f.Created == nil || !f.Modified.Equal(*f.Created)) {
		out = append(out, "changed "+f.Modified.Format(day))
	}
	return strings.Join(out, ", ")
}

func (p *page) coverage() {
	f := p.face
	p.row("glyphs", fmt.Sprintf("%d, for %d characters", f.Glyphs, f.Coverage.Codepoints))
	var scripts []string
	for _, s := range f.Coverage.Scripts {
		scripts = append(scripts, fmt.Sprintf("%s %d of %d", s.Name, s.Covered, s.Of))
	}
	p.row("scripts", shortened(scripts, 6))
	p.languages()
	p.row("sample", brief(p.names.SampleText))
}

// languages tells how many are complete, which of those most people write are,
// and which need a few letters more.
func (p *page) languages() {
	complete := p.face.Coverage.Languages
	if len(complete) == 0 {
		return
	}
	var has, nearly []string
	for _, code := range coverage.Widely {
		if _, ok := slices.BinarySearch(complete, code); ok {
			has = append(has, coverage.LanguageName(code))
		}
	}
	for _, n := range p.face.Coverage.Nearly {
		nearly = append(nearly, fmt.Sprintf("%s (missing %s)", coverage.LanguageName(n.Code), strings.Join(strings.Split(n.Missing, ""), " ")))
	}
	if len(has) == 0 { // a font for other languages than those
		for _, code := range complete {
			has = append(has, coverage.LanguageName(code))
		}
	}
	p.row("languages", fmt.Sprintf("%d complete, among them %s", len(complete), shortened(has, 40)))
	p.row("incomplete", strings.Join(nearly, ", "))
}

// shortened lists the first so many.
func shortened(all []string, most int) string {
	if len(all) <= most {
		return strings.Join(all, ", ")
	}
	return fmt.Sprintf("%s and %d more (all of it with --json)", strings.Join(all[:most], ", "), len(all)-most)
}

func (p *page) variations() {
	f := p.face
	if len(f.Axes) == 0 {
		return
	}
	p.section("Variable font axes")
	for _, a := range f.Axes {
		more := ""
		if a.Hidden {
			more += ", not for display"
		}
		if a.Bent {
			more += ", on an uneven scale"
		}
		p.row(a.Tag, fmt.Sprintf("%s, %g to %g, %g unless set%s", a.Name, a.Min, a.Max, a.Default, more))
	}
	var styles []string
	for _, in := range f.Instances {
		styles = append(styles, in.Name)
	}
	p.row("named styles", shortened(styles, 20))
}

func (p *page) layout() {
	f := p.face
	if len(f.Features) == 0 && len(f.LayoutScripts) == 0 {
		return
	}
	p.section("Layout features")
	p.row("features", strings.Join(f.Features, " "))
	var scripts []string
	for _, s := range f.LayoutScripts {
		one := strings.TrimSpace(s.Tag)
		if len(s.Languages) > 0 {
			one += " (" + strings.Join(trimmed(s.Languages), " ") + ")"
		}
		scripts = append(scripts, one)
	}
	p.row("for scripts", shortened(scripts, 12))
}

// trimmed takes the spaces off that fill short tags up to four letters.
func trimmed(tags []string) []string {
	out := make([]string, len(tags))
	for i, t := range tags {
		out[i] = strings.TrimSpace(t)
	}
	return out
}

func (p *page) lines() {
	f := p.face
	if len(f.Lines.Sets) == 0 {
		return
	}
	p.section(fmt.Sprintf("Line metrics (%d units per em)", f.UnitsPerEm))
	for _, s := range []struct{ key, name string }{{"windows", "Windows"}, {"apple", "Apple"}, {"other", "Linux, Android"}} {
		if m, ok := f.Lines.Set(f.Lines.Systems[s.key]); ok {
			p.row(s.name, fmt.Sprintf("ascent %d, descent %d, line gap %d (%s)", m.Ascent, -m.Descent, m.Gap, setName[m.Set]))
		}
	}
	if f.Metrics.XHeight > 0 {
		p.row("letters", fmt.Sprintf("x-height %d, capitals %d", f.Metrics.XHeight, f.Metrics.CapHeight))
	}
}

var setName = map[metadata.LineSet]string{metadata.LinesHhea: "hhea", metadata.LinesTypo: "OS/2 typographic", metadata.LinesWin: "OS/2 Windows"}

func (p *page) records() {
	p.section("Name records")
	for _, r := range p.face.Records {
		platform := map[int]string{0: "Unicode", 1: "Mac", 3: "Windows"}[r.Platform]
		p.row(fmt.Sprintf("%d %s", r.ID, platform), joined(r.Language, brief(r.Value)))
	}
}

func (p *page) problems() {
	f := p.face
	if len(f.Problems) == 0 {
		p.line("\n  No problems found.")
		return
	}
	p.section(fmt.Sprintf("Problems (%d)", len(f.Problems)))
	for _, problem := range f.Problems {
		for i, line := range strings.Split(text.WrapSoft(problem.Message, p.wide-8), "\n") {
			mark := "!"
			if i > 0 {
				mark = " "
			}
			p.line("    %s %s", mark, strings.TrimRight(line, " "))
		}
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
