package pack

import (
	"bytes"
	"embed"
	"fmt"
	"html/template"
	"slices"
	"strings"

	"sparecrate/internal/builder"
	"sparecrate/internal/css"
)

//go:embed templates/*.html
var files embed.FS

var templates = template.Must(template.New("").Funcs(template.FuncMap{"kb": kilobytes, "quote": css.Quote, "shell": shell}).ParseFS(files, "templates/*.html"))

func html(s string) string { return template.HTMLEscapeString(s) }

// shell quotes a word for a command line.
func shell(s string) string { return "'" + strings.ReplaceAll(s, "'", `'\''`) + "'" }

// shownFace is a face as the pages of a pack show it.
type shownFace struct {
	Family, Fallback, Style, Full, PostScript string
	Weight, CSSStyle, WeightWord              string
	Changed, Why                              string
	Sample                                    string
	Declarations                              template.CSS
	Files                                     []shownFile
	Fields                                    []typedField
}

type shownFile struct {
	Name    string
	Format  string
	Bytes   int64
	Why     string
	Address string
	Replace bool // another went up under this name
	Keep    bool // it is up already
}

type typedField struct {
	Label, Value string
	Same         bool
	Mind         bool // not what forms begin with
}

// shownRole is a role as the pages show it.
type shownRole struct {
	Title, Choose, Family, Full, Style string
	Weight                             int
	CSSStyle                           string
	Fallbacks                          string
	Declarations                       template.CSS
	Tag                                string
	Words                              string
}

const pangram = "Quick zephyrs blow, vexing daft Jim: 0123456789"

// samples write the pages of a pack that show its faces.
type samples struct{ *layout }

// faces returns the faces of the pack in order, each with its files.
func (l samples) faces() []shownFace {
	var out []shownFace
	last := -1
	for _, f := range l.fonts {
		if f.Place != last {
			last = f.Place
			out = append(out, l.shown(f))
		}
		one := &out[len(out)-1]
		one.Files = append(one.Files, shownFile{f.name(), strings.ToUpper(string(f.Format)), f.Bytes, f.Why, f.Address, f.Changed, f.Address != ""})
	}
	return out
}

func (l samples) shown(f fontEntry) shownFace {
	rule := css.Of(f.face.Metadata)
	n := f.face.Metadata.Names
	one := shownFace{
		Family: l.cssFamily(f.family, f.face), Fallback: f.family.fallbackName(), Style: f.face.Style, Full: n.Full, PostScript: n.PostScript,
		Weight: rule.Weight, WeightWord: builder.WeightWord(f.face.Metadata.Style.Weight), CSSStyle: rule.Style, Changed: f.face.Changed, Why: f.face.Why, Sample: n.SampleText,
	}
	if l.Words != "" {
		one.Sample = l.Words
	}
	if one.Sample == "" {
		one.Sample = pangram
	}
	stack := cssString(f.family.Name)
	if one.Fallback != "" {
		stack += ", " + cssString(one.Fallback)
	}
	one.Declarations = template.CSS(fmt.Sprintf("font-family: %s; font-weight: %s; font-style: %s; font-stretch: %g%%", //nolint:gosec // quoted by cssString
		stack, strings.Fields(rule.Weight)[0], rule.Style, f.face.Metadata.Style.WidthPercent))
	if form := l.Rules.Form; form != nil {
		for _, field := range form.Fields {
			value := field.Typed(f.family.Name, f.family.generic(), &f.face.Metadata)
			mind := field.Value == builder.ValueWeight && value != "400" || field.Value == builder.ValueWeightWord && value != "Regular" || field.Value == builder.ValueSlope && value != "normal"
			one.Fields = append(one.Fields, typedField{field.Label, value, field.Same, mind})
		}
	}
	return one
}

// roles returns the roles of the site, those that are read first at the top.
func (l samples) roles() []shownRole {
	var out []shownRole
	for i := range l.placed {
		p := &l.placed[i]
		if p.face == nil {
			continue
		}
		r := shownRole{Title: p.Title(), Family: l.cssFamily(p.family, p.face), Full: p.face.Metadata.Names.Full, Style: p.face.Style, Weight: p.Weight, CSSStyle: slopeWord(p.Slope), Tag: "p", Words: l.Words}
		if r.Words == "" {
			r.Words = pangram
		}
		for _, known := range l.Rules.Roles {
			if known.Role == p.Role {
				r.Choose = known.Choose
			}
		}
		behind := p.Stack
		if len(behind) == 0 {
			behind = []string{p.family.generic()}
		}
		r.Fallbacks = strings.Join(behind, ", ")
		if strings.HasPrefix(string(p.Role), "heading-") {
			r.Tag = "h" + strings.TrimPrefix(string(p.Role), "heading-")
		}
		var d []string
		for _, one := range l.declarations(p) {
			value := one[1]
			if one[0] == "font-family" {
				value = l.safeStack(p)
			}
			d = append(d, one[0]+": "+value)
		}
		r.Declarations = template.CSS(strings.Join(d, "; ")) //nolint:gosec // quoted by safeStack
		out = append(out, r)
	}
	slices.SortStableFunc(out, func(a, b shownRole) int { return strings.Compare(tagOrder(a.Tag), tagOrder(b.Tag)) })
	return out
}

func tagOrder(tag string) string {
	if tag == "p" {
		return "z"
	}
	return tag
}

// safeStack is the stack of a placement as a style attribute may hold it.
func (l samples) safeStack(p *placed) string {
	names := []string{cssString(l.cssFamily(p.family, p.face))}
	for _, name := range p.Stack {
		if slices.Contains(Generics, name) {
			names = append(names, name)
		} else {
			names = append(names, cssString(name))
		}
	}
	return strings.Join(names, ", ")
}

// page writes a page of a pack out of what is laid out of it by then; styleFile is the
// last of its files that hold styles.
func (l samples) page(name string, of *Packed, styleFile string) ([]byte, error) {
	texts := terms(l).licenseTexts()
	faces, roles, delivered := l.faces(), l.roles(), of.Delivered()
	sheet := "sample.css"
	if l.Rules.Styles.Form == builder.StylesStylesheet {
		sheet = sheetName
	}
	var out bytes.Buffer
	err := templates.ExecuteTemplate(&out, name, map[string]any{
		"In": l.Input, "Rules": l.Rules, "Faces": faces, "Roles": roles, "Folder": l.Rules.Files.Folder, "Delivered": delivered,
		"SlowSeconds": fmt.Sprintf("%.1f", max(0.1, SlowSeconds(delivered))), "Sheet": sheet, "StyleFile": styleFile, "Missing": len(of.Awaits) > 0,
		"Call": sheets(l).call(sheets(l).sheetAddress()), "SheetUp": l.FileURLs[sheetName].Address, "Sheets": l.sheetRows(), "PerFace": l.Rules.Styles.PerFace, "Swaps": sheets(l).swapRows(), "Upload": string(l.Rules.Files.Upload), "Form": string(l.Rules.Styles.Form),
		"Minds": slices.ContainsFunc(faces, func(f shownFace) bool {
			return slices.ContainsFunc(f.Fields, func(t typedField) bool { return t.Mind })
		}),
		"Families": l.familyLines(), "Texts": each(texts, func(t *textFile) string { return t.path }), "TextsWhere": terms(l).where(texts), "Warnings": of.Warnings, "Each": l.Rules.Families == builder.FamilyEach, "Choosing": slices.ContainsFunc(roles, func(r shownRole) bool { return r.Choose != "" }),
	})
	return out.Bytes(), err
}

// sheetRow is a line of the table of stylesheets that are called one by one.
type sheetRow struct{ File, Family, Call string }

// sheetRows give the stylesheets of single faces with the family that each declares.
func (l samples) sheetRows() []sheetRow {
	if !l.Rules.Styles.PerFace {
		return nil
	}
	var out []sheetRow
	row := func(path, family string) {
		one := sheetRow{File: path, Family: family}
		if at := l.FileURLs[path].Address; at != "" {
			one.Call = sheets(l).call(at)
		}
		out = append(out, one)
	}
	for i, f := range l.fonts {
		if i == 0 || l.fonts[i-1].face != f.face {
			row(sheets(l).sheetOf(f), l.cssFamily(f.family, f.face))
		}
	}
	if len(l.roleRules()) > 0 || len(l.Replacements) > 0 || len(l.imports()) > 0 {
		row(faceSheets+"/roles.css", "")
	}
	return out
}

// familyLine names a family for code.
type familyLine struct{ Name, Resource string }

func (l samples) familyLines() []familyLine {
	var out []familyLine
	for i := range l.Families {
		if f := &l.Families[i]; !f.elsewhere() {
			out = append(out, familyLine{f.Name, l.familyResource(f)})
		}
	}
	return out
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
