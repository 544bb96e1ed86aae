package pack

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"sparecrate/font/metadata"
	"sparecrate/internal/builder"
)

// apple writes the fragment of an app's property list that names the fonts, and
// their PostScript names for code.
func (l *layout) apple() []textFile {
	var list, code strings.Builder
	list.WriteString("<!-- Copy what stands between <dict> and </dict> into the app's Info.plist. -->\n" +
		"<!DOCTYPE plist PUBLIC \"-//Apple//DTD PLIST 1.0//EN\" \"http://www.apple.com/DTDs/PropertyList-1.0.dtd\">\n<plist version=\"1.0\">\n<dict>\n" +
		"\t<key>UIAppFonts</key>\n\t<array>\n")
	code.WriteString("// The fonts of " + lineComment(l.Site) + ", by the names code calls them.\nenum FontName {\n")
	taken := map[string]bool{}
	for _, f := range l.fonts {
		fmt.Fprintf(&list, "\t\t<string>%s</string>\n", html(f.name()))
		base := builder.Identifier(f.family.Name + " " + f.face.Style)
		name := base
		for n := 2; taken[name]; n++ {
			name = fmt.Sprintf("%s%d", base, n)
		}
		taken[name] = true
		fmt.Fprintf(&code, "    static let %s = %s\n", name, codeString(f.face.Metadata.Names.PostScript))
	}
	fmt.Fprintf(&list, "\t</array>\n\t<key>ATSApplicationFontsPath</key>\n\t<string>%s</string>\n</dict>\n</plist>\n", html(l.Rules.Files.Folder))
	code.WriteString("}\n")
	return []textFile{
		{"Info-fonts.plist", "what the app's property list says of the fonts", list.String()},
		{"FontNames.swift", "the PostScript names, for code", code.String()},
	}
}

// android writes a family file for each family: its fonts with weight and style.
func (l *layout) android() []textFile {
	var out []textFile
	for i := range l.Families {
		family := &l.Families[i]
		if family.elsewhere() {
			continue
		}
		var s strings.Builder
		s.WriteString("<?xml version=\"1.0\" encoding=\"utf-8\"?>\n<font-family xmlns:android=\"http://schemas.android.com/apk/res/android\">\n")
		for _, f := range l.fonts {
			if f.family == family {
				slope := "normal"
				if f.face.Metadata.Style.Slope != metadata.Upright {
					slope = "italic"
				}
				fmt.Fprintf(&s, "    <font android:fontStyle=\"%s\" android:fontWeight=\"%d\" android:font=\"@font/%s\" />\n", slope, f.face.Metadata.Style.Weight, resource(f.name()))
			}
		}
		s.WriteString("</font-family>\n")
		out = append(out, textFile{l.inFolder(l.familyResource(family) + ".xml"), "holds the faces of " + family.Name + " together", s.String()})
	}
	return out
}

func resource(name string) string { return strings.TrimSuffix(name, path.Ext(name)) }

// familyResource names the family file, so that it meets no font and no other family.
func (l *layout) familyResource(family *Family) string {
	taken := map[string]bool{}
	for i := range l.Families {
		base := builder.Resource(l.Families[i].Name)
		name := base
		for n := 1; taken[name] || l.meets(name); n++ {
			if name = base + "_family"; n > 1 {
				name = fmt.Sprintf("%s_family_%d", base, n)
			}
		}
		taken[name] = true
		if &l.Families[i] == family {
			return name
		}
	}
	return ""
}

func (l *layout) meets(name string) bool {
	return slices.ContainsFunc(l.fonts, func(f fontEntry) bool { return resource(f.name()) == name })
}

func lineComment(s string) string { return strings.Join(strings.Fields(s), " ") }

func codeString(s string) string {
	return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`, "\n", " ").Replace(s) + `"`
}
