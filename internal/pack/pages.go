package pack

import (
	"bytes"
	"embed"
	"fmt"
	"html/template"
	"strings"

	"sparecrate/font"
	"sparecrate/internal/css"
)

//go:embed templates/*.html
var files embed.FS

var templates = template.Must(template.New("").Funcs(template.FuncMap{"kb": kilobytes, "quote": css.Quote}).ParseFS(files, "templates/*.html"))

func kilobytes(n int) string { return fmt.Sprintf("%.1f kB", float64(n)/1000) }

// shownFace is a face as the pages of a pack show it.
type shownFace struct {
	Family, Fallback, Style, Full, PostScript string
	Weight, CSSStyle                          string
	Sample                                    string
	Declarations                              template.CSS
	Files                                     []shownFile
}

type shownFile struct {
	Name      string
	Container string
	Bytes     int
	Why       string
}

func (in *Input) page(name string, fonts []fontEntry) ([]byte, error) {
	var faces []shownFace
	delivered := 0
	rules := in.rules(fonts)
	for i := 0; i < len(fonts); i += len(Containers) {
		f, rule := fonts[i], rules[i/len(Containers)]
		one := shownFace{
			Family: f.family.Name, Fallback: f.family.fallbackName(), Style: f.face.Style, Full: f.face.Facts.Names.Full, PostScript: f.face.Facts.Names.PostScript,
			Weight: rule.Weight, CSSStyle: rule.Style, Sample: f.face.Facts.Names.SampleText,
		}
		if one.Sample == "" {
			one.Sample = "Quick zephyrs blow, vexing daft Jim: 0123456789"
		}
		stack := cssString(f.family.Name)
		if one.Fallback != "" {
			stack += ", " + cssString(one.Fallback)
		}
		weight := strings.Fields(rule.Weight)[0]
		one.Declarations = template.CSS(fmt.Sprintf("font-family: %s; font-weight: %s; font-style: %s; font-stretch: %g%%", //nolint:gosec // quoted by cssString
			stack, weight, rule.Style, f.face.Facts.Style.WidthPercent))
		for _, e := range fonts[i : i+len(Containers)] {
			one.Files = append(one.Files, shownFile{strings.TrimPrefix(e.Path, Folder+"/"), strings.ToUpper(string(e.container)), len(e.Data), e.Why})
			if e.container == font.WOFF2 {
				delivered += len(e.Data)
			}
		}
		if i > 0 && f.face == fonts[i-1].face { // another part of the same
			last := &faces[len(faces)-1]
			last.Files = append(last.Files, one.Files...)
			continue
		}
		faces = append(faces, one)
	}
	var out bytes.Buffer
	err := templates.ExecuteTemplate(&out, name, map[string]any{
		"In": in, "Faces": faces, "Folder": Folder, "Delivered": delivered,
		// 1.6 Mbit/s is the customary picture of a slow mobile link.
		"SlowSeconds": fmt.Sprintf("%.1f", float64(delivered)*8/1.6e6),
	})
	return out.Bytes(), err
}

// cssString quotes a name for a style attribute, all but letters, digits and
// spaces escaped.
func cssString(s string) string {
	var b strings.Builder
	b.WriteByte('\'')
	for _, r := range s {
		if r == ' ' || r >= '0' && r <= '9' || r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' {
			b.WriteRune(r)
		} else {
			fmt.Fprintf(&b, "\\%x ", r)
		}
	}
	b.WriteByte('\'')
	return b.String()
}
