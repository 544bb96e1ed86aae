package pack

import (
	"fmt"
	"slices"
	"strings"

	"sparecrate/internal/builder"
	"sparecrate/internal/css"
)

// The names of files that hold styles.
const (
	sheetName  = "fonts.css"
	boxName    = "styles-to-paste.css"
	blockName  = "block-to-paste.html"
	scriptName = "script-to-paste.js"
	swapsName  = "swapped-fonts.txt"
	faceSheets = "styles" // the folder of stylesheets for single faces
)

type textFile struct{ path, why, text string }

// sheets write what of a layout a browser reads: stylesheets, scripts and what is pasted.
type sheets struct{ *layout }

// styles returns the styles in the form the platform takes, empty where it takes
// none.
func (l sheets) styles() string {
	switch l.Rules.Styles.Form {
	case builder.StylesLinked:
		var s strings.Builder
		for _, sheet := range l.calledSheets() {
			if l.Rules.Styles.PerFace {
				fmt.Fprintf(&s, "/* %s */\n", comment(sheet.path))
			}
			s.WriteString(sheet.text)
		}
		return s.String()
	case builder.StylesStylesheet, builder.StylesBox:
		return l.sheet(l.delivered)
	case builder.StylesBlock:
		return l.block()
	case builder.StylesScript:
		return l.script()
	case builder.StylesURLs:
		return l.swaps()
	case builder.StylesApple, builder.StylesAndroid, builder.StylesNone:
	}
	return ""
}

// styleFiles are the files of a pack that hold styles, text in the form the platform
// takes. Where an address that it needs is not known yet, it is not finished and there
// are none: an unfinished stylesheet would be uploaded as it is.
func (l sheets) styleFiles(text string, finished bool) []textFile {
	switch l.Rules.Styles.Form {
	case builder.StylesApple:
		return l.apple()
	case builder.StylesAndroid:
		return l.android()
	case builder.StylesNone:
		return nil
	case builder.StylesStylesheet, builder.StylesLinked, builder.StylesBox, builder.StylesBlock, builder.StylesScript, builder.StylesURLs:
	}
	if !finished {
		return nil
	}
	switch l.Rules.Styles.Form {
	case builder.StylesLinked:
		return l.calledSheets()
	case builder.StylesStylesheet:
		return []textFile{{sheetName, "the stylesheet that loads the fonts and sets the roles", text}}
	case builder.StylesBox:
		return []textFile{{boxName, "the styles to paste into the box", text}}
	case builder.StylesBlock:
		return []textFile{{blockName, "the block to paste into every page", text}}
	case builder.StylesScript:
		return []textFile{{scriptName, "the script to paste", text}}
	case builder.StylesURLs:
		return []textFile{{swapsName, "the names and addresses to enter", text}}
	case builder.StylesApple, builder.StylesAndroid, builder.StylesNone:
	}
	return nil
}

// calledSheets are the stylesheets that are uploaded by themselves and called by their URLs:
// one, or one for each face and one for what is set in them.
func (l sheets) calledSheets() []textFile {
	if !l.Rules.Styles.PerFace {
		return []textFile{{sheetName, "the stylesheet that loads the fonts and sets the roles", l.sheet(l.delivered)}}
	}
	var out []textFile
	for i, f := range l.fonts {
		if i > 0 && l.fonts[i-1].face == f.face {
			continue
		}
		rules := l.rulesOf(f.face, l.delivered)
		if l.Rules.Families == builder.FamilyEach {
			rules = l.aloneOf(f.face, l.delivered)
		}
		out = append(out, textFile{l.sheetOf(f), "the stylesheet of " + f.face.Metadata.Names.Full, "/* " + comment(rules[0].Family) + ", of " + comment(l.of()) + ". */\n\n" + css.Sheet(rules)})
	}
	if rest := l.imports() + l.served() + l.replacements() + l.swapRules(l.delivered) + l.roleRules(); strings.TrimSpace(rest) != "" {
		out = append(out, textFile{faceSheets + "/roles.css", "the stylesheet of what is set in the fonts; it is called last", "/* Of " + comment(l.of()) + ". Call it after the others. */\n" + rest})
	}
	return out
}

// sheetOf returns the path of the stylesheet of a face, which is called like its font file.
func (l sheets) sheetOf(f fontEntry) string {
	base := strings.TrimSuffix(f.name(), "."+string(f.Format))
	if f.part != nil {
		base = strings.TrimSuffix(base, "-"+builder.Plain(f.part.Name))
	}
	if base == "roles" {
		base = "roles-font"
	}
	return faceSheets + "/" + base + ".css"
}

// sheet writes the stylesheet: what loads the fonts first, then what uses them.
func (l sheets) sheet(at func(fontEntry) string) string {
	head := "/* Fonts of " + comment(l.of()) + ".\n"
	if l.Rules.URLs.Relative && l.Prefix == "" && l.Rules.Files.Folder != "" && len(l.fonts) > 0 {
		head += "   Keep this file beside the folder " + comment(l.Rules.Files.Folder) + "; the addresses below are relative to it.\n"
	}
	return head + "   Load it before any rule that names one of the families. */\n\n" + l.imports() + css.Sheet(l.rules(at)) + l.served() + l.replacements() + l.swapRules(at) + l.roleRules()
}

// of says what the fonts are of, and for whom where that is known.
func (l sheets) of() string {
	if l.Client == "" {
		return l.Site
	}
	return l.Site + " for " + l.Client
}

// sampleSheet is the stylesheet of the sample page, where files lie beside it.
func (l sheets) sampleSheet() string {
	return css.Sheet(l.rules(inPack)) + l.replacements()
}

// replacements writes the rules of local fonts that hold a place.
func (l sheets) replacements() string {
	var s strings.Builder
	for i := range l.Families {
		f := &l.Families[i]
		name := f.fallbackName()
		if name != "" {
			fmt.Fprintf(&s, "\n/* Fallback fonts with the metrics of %s, so that text does not move when the\n   font loads. Add them to the font stack: font-family: %s, %s; */\n",
				comment(f.Name), comment(css.Quote(f.Name)), comment(css.Quote(name)))
		}
		for _, face := range f.Faces {
			if face.NoReplacement != "" {
				fmt.Fprintf(&s, "\n/* There is no fallback font for %s %s: %s */\n", comment(f.Name), comment(face.Style), comment(face.NoReplacement))
			}
			for _, rule := range face.LocalFonts {
				rule.Family = name
				s.WriteString("\n" + rule.String())
			}
		}
	}
	return s.String()
}

// swapRules gives the faces of replacements the name that the design has them under. Those of
// somebody else's server are written with its URLs: a stylesheet of theirs has only its own name.
func (l sheets) swapRules(at func(fontEntry) string) string {
	var s strings.Builder
	had := map[string]bool{}
	said := ""
	for _, one := range l.Replacements {
		family, face := l.faceOf(one.Family, one.Weight, one.Slope)
		if face == nil {
			continue
		}
		rules := l.rulesOf(face, at)
		if family.elsewhere() {
			rules = family.rulesLike(face)
		}
		if len(rules) > 0 && said != one.Name {
			said = one.Name
			fmt.Fprintf(&s, "\n/* Every text set in %s becomes %s. */\n", comment(one.Name), comment(family.Name))
		}
		for _, rule := range rules {
			rule.Family = one.Name
			if text := rule.String(); !had[text] { // two styles may find one face
				had[text] = true
				s.WriteString(text)
			}
		}
	}
	return s.String()
}

// rulesOf returns the rules of one face, in the shape of one family with weights.
func (l sheets) rulesOf(face *Face, at func(fontEntry) string) []css.Face {
	rules := l.allRulesOf(face, at)
	if l.Rules.Families == builder.FamilyEach {
		rules = slices.DeleteFunc(rules, func(r css.Face) bool { return r.Weight == "normal" })
	}
	return rules
}

// aloneOf returns the rules of one face as a family of its own.
func (l sheets) aloneOf(face *Face, at func(fontEntry) string) []css.Face {
	return slices.DeleteFunc(l.allRulesOf(face, at), func(r css.Face) bool { return r.Weight != "normal" })
}

func (l sheets) allRulesOf(face *Face, at func(fontEntry) string) []css.Face {
	one := &layout{Input: l.Input}
	for _, f := range l.fonts {
		if f.face == face {
			one.fonts = append(one.fonts, f)
		}
	}
	return one.rules(at)
}

// block writes an HTML block that says what it is where blocks are edited, and
// is not seen on the page.
func (l sheets) block() string {
	label := html("Fonts of " + l.Site + ". Keep this block at the top of the page; it is not seen there.")
	return "<!-- " + strings.ReplaceAll(label, "--", "-") + " -->\n" +
		"<p class=\"fonts-of-this-site\">" + label + "</p>\n<style>\n.fonts-of-this-site { display: none !important; }\n\n" +
		l.sheet(l.delivered) + "</style>\n"
}

// script writes a script that adds the styles, once however often it runs.
func (l sheets) script() string {
	text := l.sheet(l.delivered)
	return "/* Fonts of " + comment(l.of()) + ". Runs on every slide; adds the styles once. */\n" +
		"(function () {\n  var id = 'fonts-of-this-site'\n  var style = document.getElementById(id) || document.createElement('style')\n" +
		"  style.id = id\n  style.textContent = " + css.ScriptString(text) + "\n  document.head.appendChild(style)\n})()\n"
}

// swaps writes the names and addresses for a table of swapped fonts.
func (l sheets) swaps() string {
	var s strings.Builder
	for _, row := range l.swapRows() {
		fmt.Fprintf(&s, "%s\t%s\n", row.Name, row.Address)
	}
	return s.String()
}

// swapRow is a line of a table of replaced fonts: the name in the design, what it becomes, and
// the URL of a font file, or of the stylesheet where somebody else serves it.
type swapRow struct {
	Name, Face, File, Address string
	Sheet, Replaced           bool
}

// swapRows give for each replacement the URL of its face, and for each face without one its
// own name.
func (l sheets) swapRows() []swapRow {
	var out []swapRow
	done := map[*Face]bool{}
	row := func(name string, face *Face) {
		for _, f := range l.fonts {
			if f.face == face {
				out = append(out, swapRow{Name: name, Face: face.Metadata.Names.Full, File: f.name(), Address: f.Address})
				return
			}
		}
	}
	for i := range l.Replacements {
		s := &l.Replacements[i]
		family, face := l.faceOf(s.Family, s.Weight, s.Slope)
		switch {
		case face == nil:
		case family.elsewhere():
			out = append(out, swapRow{Name: l.nameInDesign(s), Face: family.Name + " " + face.Style, Address: family.sheetOf(), Sheet: true})
		default:
			row(l.nameInDesign(s), face)
			done[face] = true
		}
	}
	for i := range out {
		out[i].Replaced = true
	}
	for _, f := range l.fonts {
		if !done[f.face] {
			done[f.face] = true
			row(f.face.Metadata.Names.Full, f.face)
		}
	}
	return out
}

// nameInDesign returns the name of a replaced font as a table has it: with its style where
// several styles of the font are replaced.
func (l *layout) nameInDesign(s *Replacement) string {
	several := 0
	for _, o := range l.Replacements {
		if strings.EqualFold(o.Name, s.Name) {
			several++
		}
	}
	if several < 2 {
		return s.Name
	}
	return s.Name + " " + builder.StyleWords(s.Weight, slopeWord(s.Slope))
}

// pastes are the texts put into the platform by hand, styles in the form it takes.
func (l sheets) pastes(styles string) []Paste {
	s := l.Rules.Styles
	switch s.Form {
	case builder.StylesStylesheet:
		return []Paste{{"The line that loads the stylesheet", s.Where, l.call(l.sheetAddress())}}
	case builder.StylesBox:
		return []Paste{{"Styles", s.Where, styles}}
	case builder.StylesBlock:
		return []Paste{{"HTML block", s.Where, styles}}
	case builder.StylesScript:
		return []Paste{{"Script", s.Where, styles}}
	case builder.StylesLinked:
		var out []Paste
		for _, sheet := range l.calledSheets() {
			if at := l.FileURLs[sheet.path].Address; at != "" {
				name := "The address of the stylesheet"
				if s.PerFace {
					name = "The URL of " + sheet.path
				}
				out = append(out, Paste{name, s.Where, l.call(at)})
			}
		}
		return out
	case builder.StylesURLs:
		var out []Paste
		for _, r := range l.swapRows() {
			out = append(out, Paste{"Font named " + r.Name, s.Where, r.Address})
		}
		return out
	case builder.StylesApple, builder.StylesAndroid, builder.StylesNone:
	}
	return nil
}

// sheetAddress is where the stylesheet will be.
func (l sheets) sheetAddress() string {
	switch {
	case l.FileURLs[sheetName].Address != "":
		return l.FileURLs[sheetName].Address
	case l.Prefix != "":
		return strings.TrimSuffix(l.Prefix, "/") + "/" + sheetName
	}
	return "/" + sheetName
}

// call writes how the stylesheet is put to work.
func (l sheets) call(address string) string {
	how := l.Call
	if !slices.Contains(l.Rules.Styles.Load, how) {
		how = builder.LoadLink
		if len(l.Rules.Styles.Load) > 0 {
			how = l.Rules.Styles.Load[0]
		}
	}
	switch how {
	case builder.LoadImport:
		if !l.Rules.URLs.After && l.Prefix == "" {
			address = "./" + strings.TrimPrefix(address, "/")
		}
		return "@import url(" + css.Quote(address) + ");"
	case builder.LoadURL:
		return address
	case builder.LoadLink:
	}
	return `<link rel="stylesheet" href="` + html(address) + `">`
}
