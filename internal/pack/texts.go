package pack

import (
	"fmt"
	"slices"
	"strings"

	"sparecrate/font/metadata"
	"sparecrate/internal/builder"
	"sparecrate/internal/license"
)

// terms write what of a pack speaks of licenses.
type terms struct{ *layout }

// licenseTexts are the texts that open licenses ask to go along with their fonts: for each
// family the notices of its makers, what was changed, and each license in full. They lie
// beside the fonts where a folder of them goes out, so that they go with it.
func (l terms) licenseTexts() []textFile {
	var out []textFile
	taken := map[string]bool{}
	for i := range l.Families {
		f := &l.Families[i]
		path := l.textPath(f)
		if path == "" {
			continue
		}
		for n := 2; taken[path]; n++ {
			path = strings.TrimSuffix(l.textPath(f), ".txt") + fmt.Sprintf("-%d.txt", n)
		}
		taken[path] = true
		out = append(out, textFile{path, "the license of " + f.Name + " and the notices of its makers; it goes wherever the fonts go", l.licenseText(f)})
	}
	return out
}

// textPath is where the license text of a family lies in the pack; empty where it has none
// to go along.
func (l terms) textPath(f *Family) string {
	if f.elsewhere() || len(f.Faces) == 0 || !slices.ContainsFunc(f.Licenses, func(one License) bool { return one.open() && one.Text != "" }) {
		return ""
	}
	return l.textFolder() + builder.Plain(f.Name) + "-license.txt"
}

// textFolder is the folder of license texts, with its slash: that of the fonts where it
// goes out as it is; resource folders of apps and forms take nothing but fonts.
func (l terms) textFolder() string {
	switch {
	case l.Rules.Files.Folder == "" || l.Rules.Styles.Form == builder.StylesAndroid:
	case l.Rules.Files.Upload == builder.UploadFolder || l.Rules.Files.Upload == builder.UploadInto || l.Rules.Files.Upload == builder.UploadHand:
		return l.Rules.Files.Folder + "/"
	}
	return "licenses/"
}

func (l terms) licenseText(f *Family) string {
	var s strings.Builder
	fmt.Fprintf(&s, "%s\n", f.Name)
	notices := license.NoticesOf(each(f.Faces, func(one *Face) *metadata.Face { return &one.Metadata }))
	for _, text := range notices.Copyright {
		fmt.Fprintf(&s, "%s\n", text)
	}
	reserved := notices.Reserved
	for _, one := range f.Licenses {
		for _, name := range one.Reserved {
			if !slices.Contains(reserved, name) {
				reserved = append(reserved, name)
			}
		}
	}
	if len(reserved) > 0 {
		fmt.Fprintf(&s, "Reserved font names: %s\n", strings.Join(reserved, ", "))
	}
	var changed []string
	for _, e := range l.fonts {
		if e.family == f && e.Reshaped != "" {
			changed = append(changed, fmt.Sprintf("  %s: %s", e.name(), e.Reshaped))
		}
	}
	if len(changed) > 0 {
		fmt.Fprintf(&s, "Changed from the original:\n%s\n", strings.Join(changed, "\n"))
	}
	had := map[string]bool{}
	for i := range f.Licenses {
		one := &f.Licenses[i]
		if !one.open() || one.Text == "" || had[one.Text] {
			continue
		}
		had[one.Text] = true
		title := one.SPDX
		if known, ok := license.KnownLicense(one.SPDX); ok {
			title = known.Title + " (" + known.ID + ")"
		}
		fmt.Fprintf(&s, "\nLicense: %s\n\n%s\n%s", title, strings.Repeat("-", 72), strings.TrimRight(one.Text, "\n")+"\n")
	}
	return s.String()
}

// passing says whether a family may be passed on.
func (l terms) passing(f *Family) string {
	for i := range f.Licenses {
		one := &f.Licenses[i]
		if !one.open() {
			continue
		}
		if one.Unconfirmed {
			return fmt.Sprintf("Its own words point to %s, under which it may be passed on together with %s; nobody has confirmed that yet.", one.SPDX, l.textPath(f))
		}
		if path := l.textPath(f); path != "" {
			return fmt.Sprintf("It may be passed on under %s, together with %s.", one.SPDX, path)
		}
		return fmt.Sprintf("It may be passed on as %s says, whose text is not kept here.", one.SPDX)
	}
	return "It is for this use only and may not be passed on."
}

// where says what to do with the license texts, in a sentence; empty where there are none.
func (l terms) where(texts []textFile) string {
	if len(texts) == 0 {
		return ""
	}
	switch {
	case l.Rules.For == "app":
		return "Open licenses ask for their text with every copy of the font: show these texts where the app lists what it is made of."
	case l.textFolder() == "licenses/":
		return "Open licenses ask for their text with every copy of the font. A form takes fonts alone: keep these texts with the documents of the site, and give them along with the fonts."
	}
	return "Open licenses ask for their text with every copy of the font: these lie beside the fonts and stay there."
}
