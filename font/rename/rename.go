// Package rename gives a face other names, all in step: the records of the table
// `name` that follow from family and style (1 to 4, 6, 16 to 18, 21, 22 and 25),
// the names of a variable font's instances for PostScript, and those inside the
// tables `CFF ` (OpenType 1.9.1, `name`; Technical Note 5176).
//
// Copyright, trademark, license and all other records stay: they say whose work
// it is, which a new name does not change. Names in other languages than English
// go where they hold the old name.
package rename

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"sparecrate/font/cff"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// What a caller may want to tell apart.
var (
	// ErrName says that a name cannot be given; the message says why.
	ErrName = errors.New("this name cannot be given")
)

const (
	// maxFamily bounds a family's name, in characters: systems cut longer ones.
	maxFamily = 63
	// maxPostScript is what PostScript takes (OpenType, `name`, name ID 6).
	maxPostScript = 63
	languageUS    = 0x0409
)

// Options are the new names.
type Options struct {
	// Family is the family's name, as style sheets and menus show it. Empty
	// keeps the one there is.
	Family string
	// Style is the face's name within the family, such as "SemiBold Italic".
	// Empty keeps it, and which faces it is the bold or italic of.
	Style string
	// Alone makes the face a family of its own, named by family and style
	// together, with the style Regular: for receivers that take one face a
	// family.
	Alone bool
	// PostScript is the PostScript name; empty derives it from the others.
	PostScript string
}

// Names are those of a face after renaming.
type Names struct {
	Family, Style, Full, PostScript string
}

// Face renames a face, which is not changed. The error wraps ErrName or
// sfnt.ErrDamaged and is a sentence for people.
func Face(f *sfnt.Font, o Options) (*sfnt.Font, *Names, error) {
	n, err := table.ParseName(f.Table(table.TagName))
	if err != nil {
		return nil, nil, fmt.Errorf("%w: its names cannot be read: %w", sfnt.ErrDamaged, err)
	}
	if len(n.Tags) > 0 {
		// Records that name their language by a tag say in another language what English says; the tags are not kept.
		n.Records = slices.DeleteFunc(n.Records, func(r table.NameRecord) bool { return r.Language >= 0x8000 })
	}
	r, err := plan(n, o)
	if err != nil {
		return nil, nil, err
	}
	out := &sfnt.Font{Flavor: f.Flavor}
	for _, t := range f.Tables {
		switch t.Tag {
		case table.TagName:
			t.Data = r.records(n, instanceNames(f)).Encode()
		case table.TagCFF:
			if t.Data, err = cff.Rename(t.Data, r.PostScript, r.Full, r.Family); err != nil {
				return nil, nil, sfnt.Damage(err)
			}
		case tagDSIG:
			continue
		}
		out.Tables = append(out.Tables, sfnt.Table{Tag: t.Tag, Data: t.Data})
	}
	return out, &r.Names, nil
}

var tagDSIG = sfnt.MakeTag("DSIG")

// renaming is what the records become.
type renaming struct {
	Names
	linkFamily, linkStyle string // name IDs 1 and 2
	oldPostScript         string
	oldPrefix, newPrefix  string // of PostScript names: what stands before the style
}

func first(values ...string) string {
	for _, v := range values {
		if v != "" {
			return v
		}
	}
	return ""
}

func plan(n *table.Name, o Options) (*renaming, error) {
	oldFamily := first(n.Best(table.NameTypographicFamily), n.Best(table.NameFamily))
	oldStyle := first(n.Best(table.NameTypographicSubfamily), n.Best(table.NameSubfamily), "Regular")
	r := &renaming{oldPostScript: n.Best(table.NamePostScript)}
	r.Family, r.Style = first(strings.TrimSpace(o.Family), oldFamily), first(strings.TrimSpace(o.Style), oldStyle)
	r.linkStyle = first(n.Best(table.NameSubfamily), "Regular")
	if o.Style != "" {
		r.linkStyle = linked(r.Style)
	}
	if o.Alone {
		r.Family, r.Style, r.linkStyle = withoutRegular(r.Family+" "+r.Style), "Regular", "Regular"
	}
	if err := check(r.Family, "family"); err != nil {
		return nil, err
	}
	if err := check(r.Style, "style"); err != nil {
		return nil, err
	}
	r.linkFamily = r.Family
	if rest := apart(r.Style, r.linkStyle); rest != "" {
		r.linkFamily = r.Family + " " + rest
	}
	r.Full = r.Family + " " + r.Style
	if old := n.Best(table.NameFull); r.Style == "Regular" && !strings.HasSuffix(old, "Regular") {
		r.Full = r.Family
	}
	r.oldPrefix, _, _ = strings.Cut(first(n.Best(table.NameVariationsPrefix), r.oldPostScript), "-")
	r.newPrefix = PostScript(r.Family)
	r.PostScript = o.PostScript
	if r.PostScript == "" {
		if r.newPrefix == "" {
			return nil, fmt.Errorf("%w: the PostScript name is made of the letters A to Z and digits of the family's name, and %q has none", ErrName, r.Family)
		}
		r.PostScript = r.newPrefix + "-" + first(PostScript(r.Style), "Regular")
		if len(r.PostScript) > maxPostScript {
			r.PostScript = r.PostScript[:maxPostScript]
		}
	} else if PostScript(r.PostScript) != strings.ReplaceAll(r.PostScript, "-", "") || len(r.PostScript) > maxPostScript {
		return nil, fmt.Errorf("%w: %q is no PostScript name: up to %d letters A to Z, digits and a hyphen", ErrName, r.PostScript, maxPostScript)
	}
	return r, nil
}

func check(name, what string) error {
	switch {
	case name == "":
		return fmt.Errorf("%w: the %s has no name", ErrName, what)
	case len([]rune(name)) > maxFamily:
		return fmt.Errorf("%w: the name of the %s has %d characters; systems cut it after %d", ErrName, what, len([]rune(name)), maxFamily)
	case strings.ContainsFunc(name, func(r rune) bool { return !unicode.IsPrint(r) }):
		return fmt.Errorf("%w: the name of the %s holds a line end or a control character", ErrName, what)
	}
	return nil
}

// PostScript returns the letters and digits that a name leaves for a PostScript
// name; letters with marks leave the letter.
func PostScript(name string) string {
	return strings.Map(func(r rune) rune {
		if r >= 'A' && r <= 'Z' || r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
			return r
		}
		return -1
	}, norm.NFKD.String(name))
}

// linked returns the style that a style's name stands for in a family of four:
// Regular, Bold, Italic or Bold Italic.
func linked(style string) string {
	bold, italic := false, false
	words := strings.Fields(strings.ToLower(style))
	for _, w := range words {
		bold = bold || w == "bold"
		italic = italic || w == "italic" || w == "oblique"
	}
	others := len(apartWords(words, []string{"bold", "italic", "oblique", "regular"})) > 0
	switch {
	case italic && bold && !others:
		return "Bold Italic"
	case italic:
		return "Italic"
	case bold && !others:
		return "Bold"
	}
	return "Regular"
}

// apart returns the words of a style that its linked style does not say.
func apart(style, link string) string {
	return strings.Join(apartWords(strings.Fields(style), append(strings.Fields(strings.ToLower(link)), "regular")), " ")
}

func apartWords(words, without []string) []string {
	var out []string
	for _, w := range words {
		low := strings.ToLower(w)
		if low == "oblique" && slices.Contains(without, "italic") {
			continue
		}
		if !slices.Contains(without, low) {
			out = append(out, w)
		}
	}
	return out
}

func withoutRegular(name string) string {
	return strings.TrimSpace(strings.TrimSuffix(name, " Regular"))
}

// instanceNames are the names of a variable font's instances for PostScript.
func instanceNames(f *sfnt.Font) map[table.NameID]bool {
	v, err := table.ParseFvar(f.Table(table.TagFvar))
	if err != nil {
		return nil
	}
	out := map[table.NameID]bool{}
	for _, i := range v.Instances {
		out[i.PostScript] = true
	}
	return out
}

// ours are the records that are written anew.
var ours = []table.NameID{
	table.NameFamily, table.NameSubfamily, table.NameUnique, table.NameFull, table.NamePostScript, table.NameTypographicFamily,
	table.NameTypographicSubfamily, table.NameCompatibleFull, 20, table.NameWWSFamily, table.NameWWSSubfamily, table.NameVariationsPrefix,
}

func (r *renaming) records(n *table.Name, instances map[table.NameID]bool) *table.Name {
	had := func(id table.NameID) bool { return n.Best(id) != "" }
	values := map[table.NameID]string{
		table.NameFamily: r.linkFamily, table.NameSubfamily: r.linkStyle, table.NameFull: r.Full, table.NamePostScript: r.PostScript,
		table.NameUnique: r.unique(n),
	}
	if r.linkFamily != r.Family || r.linkStyle != r.Style {
		values[table.NameTypographicFamily], values[table.NameTypographicSubfamily] = r.Family, r.Style
	}
	if had(table.NameWWSFamily) || had(table.NameWWSSubfamily) {
		// These leave out of the style what is neither weight, width nor slope, which the family then says.
		wws := first(n.Best(table.NameWWSSubfamily), r.Style)
		values[table.NameWWSSubfamily] = wws
		values[table.NameWWSFamily] = r.Family
		if rest := apart(r.Style, strings.ToLower(wws)); rest != "" {
			values[table.NameWWSFamily] = r.Family + " " + rest
		}
	}
	if had(table.NameVariationsPrefix) {
		values[table.NameVariationsPrefix] = r.newPrefix
	}
	out := &table.Name{}
	platforms := map[[3]uint16]bool{}
	for _, one := range n.Records {
		place := [3]uint16{one.Platform, one.Encoding, one.Language}
		english := one.Platform == table.PlatformWindows && one.Language == languageUS || one.Platform == table.PlatformMacintosh && one.Language == 0 && one.Encoding == 0 ||
			one.Platform == table.PlatformUnicode
		if english {
			platforms[place] = true
		}
		if slices.Contains(ours, one.ID) {
			continue
		}
		if instances[one.ID] && one.ID >= 256 && r.oldPrefix != "" {
			if text := one.Text(); strings.HasPrefix(text, r.oldPrefix) {
				one = table.NameRecord{Platform: one.Platform, Encoding: one.Encoding, Language: one.Language, ID: one.ID, Value: r.newPrefix + text[len(r.oldPrefix):]}
			}
		}
		out.Records = append(out.Records, one)
	}
	if len(platforms) == 0 {
		platforms[[3]uint16{table.PlatformWindows, 1, languageUS}] = true
	}
	for place := range platforms {
		for id, value := range values {
			if place[0] == table.PlatformMacintosh && !macRoman(value) {
				continue
			}
			out.Records = append(out.Records, table.NameRecord{Platform: place[0], Encoding: place[1], Language: place[2], ID: id, Value: value})
		}
	}
	return out
}

// macRoman reports whether a name can be written for the old Macintosh without
// question marks.
func macRoman(s string) bool {
	for _, r := range s {
		if r > 0x7E {
			return false
		}
	}
	return true
}

// unique is the identifier of the face (name ID 3): the old one with the new
// PostScript name where it holds the old, else made of version and name.
func (r *renaming) unique(n *table.Name) string {
	old := n.Best(table.NameUnique)
	if r.oldPostScript != "" && strings.Contains(old, r.oldPostScript) {
		return strings.ReplaceAll(old, r.oldPostScript, r.PostScript)
	}
	version, _, _ := strings.Cut(strings.TrimPrefix(first(n.Best(table.NameVersion), "1.0"), "Version "), ";")
	return version + ";" + r.PostScript
}
