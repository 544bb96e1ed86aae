package browse

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"sync"

	"sparecrate/font"
	"sparecrate/font/fallback"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/internal/demo/foundry"
)

// keptFamily is a family of the machine.
type keptFamily struct {
	family, system string
	answers        []string // names of fonts whose place it takes
	generic        []string
}

// The machine that pages are looked at on has three families, drawn by the project's own
// foundry and as wide and high as the fonts that common systems have, so that text takes
// the room there that it takes for most visitors until the page's own fonts come.
var kept = []keptFamily{
	{"Inspection Sans", "arial", []string{"Arial", "ArialMT", "Helvetica", "Liberation Sans"}, []string{"sans-serif", "system-ui", "ui-sans-serif", "cursive", "fantasy"}},
	{"Inspection Serif", "times-new-roman", []string{"Times New Roman", "TimesNewRomanPSMT", "Times", "Georgia", "Liberation Serif"}, []string{"serif", "ui-serif"}},
	{"Inspection Mono", "courier-new", []string{"Courier New", "CourierNewPSMT", "Courier", "Liberation Mono"}, []string{"monospace", "ui-monospace"}},
}

// keptFonts are the files of the machine's fonts, by file name.
var keptFonts = sync.OnceValues(func() (map[string][]byte, error) {
	out := map[string][]byte{}
	designs := foundry.Signage()
	for _, k := range kept {
		for _, bold := range []bool{false, true} {
			style := map[bool]string{false: "Regular", true: "Bold"}[bold]
			at := slices.IndexFunc(designs, func(d *foundry.Design) bool { return d.Style == style })
			if at < 0 {
				return nil, fmt.Errorf("the foundry draws no %s", style)
			}
			d := *designs[at]
			d.Family, d.PostScript, d.License, d.LicenseURL = k.family, sfntName(k.family, d.Style), "", ""
			b, err := foundry.Build(&d, font.TTF)
			if err != nil {
				return nil, err
			}
			measure, err := fallback.System(k.system, bold)
			if err != nil {
				return nil, err
			}
			if b, err = fitted(b, measure); err != nil {
				return nil, err
			}
			out[d.PostScript+".ttf"] = b
		}
	}
	return out, nil
})

func sfntName(family, style string) string {
	out := make([]rune, 0, len(family)+len(style))
	for _, r := range family {
		if r != ' ' {
			out = append(out, r)
		}
	}
	return string(out) + "-" + style
}

// fitted gives a font the widths and heights of another one; letters stand in the middle
// of their new widths.
func fitted(b []byte, measure *fallback.Measure) ([]byte, error) {
	opened, err := font.Open(b)
	if err != nil {
		return nil, err
	}
	f := opened.Faces[0]
	head, err := table.ParseHead(f.Table(table.TagHead))
	if err != nil {
		return nil, err
	}
	hhea, err := table.ParseHhea(f.Table(table.TagHhea))
	if err != nil {
		return nil, err
	}
	maxp, err := table.ParseMaxp(f.Table(table.TagMaxp))
	if err != nil {
		return nil, err
	}
	os2, err := table.ParseOS2(f.Table(table.TagOS2))
	if err != nil {
		return nil, err
	}
	runs, err := table.ParseCmap(f.Table(table.TagCmap))
	if err != nil {
		return nil, err
	}
	metrics := table.ParseHmtx(f.Table(table.TagHmtx), int(hhea.LongMetrics), int(maxp.Glyphs))
	em := float64(head.UnitsPerEm)
	for _, run := range runs {
		for i := range run.Count {
			advance, known := measure.Advance(run.First + rune(i)) //nolint:gosec // a code point
			at := int(run.Glyph) + i
			if !known || at >= len(metrics) {
				continue
			}
			wide := uint16(advance*em + 0.5)
			metrics[at].Left += int16((int(wide) - int(metrics[at].Advance)) / 2) //nolint:gosec // within an em
			metrics[at].Advance = wide
		}
	}
	hmtx, long := table.EncodeMetrics(metrics)
	hhea.LongMetrics = uint16(long) //nolint:gosec // glyphs
	hhea.Ascent, hhea.Descent, hhea.LineGap = int16(measure.Ascent*em), int16(-measure.Descent*em), int16(measure.LineGap*em)
	os2.WinAscent, os2.WinDescent = uint16(measure.Ascent*em), uint16(measure.Descent*em)
	os2.TypoAscender, os2.TypoDescender, os2.TypoLineGap = hhea.Ascent, hhea.Descent, hhea.LineGap
	out := &sfnt.Font{Flavor: f.Flavor}
	for _, t := range f.Tables {
		switch t.Tag {
		case table.TagHmtx:
			t.Data = hmtx
		case table.TagHhea:
			t.Data = hhea.Encode()
		case table.TagOS2:
			t.Data = os2.Encode()
		case table.TagGPOS, table.TagGSUB: // pairs were moved for other widths
			continue
		}
		out.Tables = append(out.Tables, t)
	}
	return sfnt.Write(sfnt.Settle(out)), nil
}

// furnish writes the fonts of the machine and their configuration into a folder, and
// returns the path of the latter.
func furnish(folder string) (string, error) {
	files, err := keptFonts()
	if err != nil {
		return "", fmt.Errorf("draw the fonts of the machine: %w", err)
	}
	fonts := filepath.Join(folder, "fonts")
	if err := os.MkdirAll(filepath.Join(folder, "cache"), 0o755); err != nil { //nolint:gosec // the browser is somebody else
		return "", err
	}
	if err := os.MkdirAll(fonts, 0o755); err != nil { //nolint:gosec // the browser is somebody else
		return "", err
	}
	for name, b := range files {
		if err := os.WriteFile(filepath.Join(fonts, name), b, 0o644); err != nil { //nolint:gosec // read by the browser
			return "", err
		}
	}
	conf := `<?xml version="1.0"?>
<!DOCTYPE fontconfig SYSTEM "fonts.dtd">
<fontconfig>
<dir>` + fonts + `</dir>
<cachedir>` + filepath.Join(folder, "cache") + `</cachedir>
`
	for _, k := range kept {
		for i, name := range k.answers {
			if i == 0 { // local() finds it under that name too
				for _, style := range []string{"Regular", "Bold"} {
					full := name
					if style == "Bold" {
						full += " Bold"
					}
					conf += fmt.Sprintf(`<match target="scan"><test name="postscriptname"><string>%s</string></test><edit name="fullname" mode="append"><string>%s</string></edit></match>
`, sfntName(k.family, style), full)
				}
			}
			conf += fmt.Sprintf(`<alias binding="same"><family>%s</family><prefer><family>%s</family></prefer></alias>
`, name, k.family)
		}
		for _, name := range k.generic {
			conf += fmt.Sprintf(`<alias binding="same"><family>%s</family><prefer><family>%s</family></prefer></alias>
`, name, k.family)
		}
	}
	conf += "</fontconfig>\n"
	path := filepath.Join(folder, "fonts.conf")
	return path, os.WriteFile(path, []byte(conf), 0o644) //nolint:gosec // read by the browser
}
