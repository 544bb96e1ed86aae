package pack

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/internal/builder"
	"sparecrate/internal/css"
)

// layout is a pack with its fonts under their final names.
type layout struct {
	*Input
	fonts  []fontEntry
	placed []placed
}

// fontEntry ties a font file to its face.
type fontEntry struct {
	Entry
	family *Family
	face   *Face
	part   *Part // nil for the whole face
}

// layOut orders the faces by family, width, weight and slope, names the files,
// and finds the face of each placement. Names that would meet are told apart by
// a number.
func (in *Input) layOut() *layout {
	l := &layout{Input: in}
	taken := map[string]bool{}
	place := 0
	for fi := range in.Families {
		family := &in.Families[fi]
		slices.SortStableFunc(family.Faces, func(a, b Face) int {
			x, y := a.Metadata.Style, b.Metadata.Style
			return cmp.Or(cmp.Compare(x.WidthPercent, y.WidthPercent), cmp.Compare(x.Weight, y.Weight), cmp.Compare(y.Slope, x.Slope))
		})
		if family.elsewhere() {
			continue
		}
		for i := range family.Faces {
			face := &family.Faces[i]
			base := in.Rules.FileBase(family.Name, face.Style, face.Came, &face.Metadata)
			joint := "-"
			switch in.Rules.Files.Named {
			case builder.NamedUnderscores:
				joint = "_"
			case builder.NamedFull, builder.NamedAsIs:
				joint = " "
			case builder.NamedPostScript, builder.NamedHyphens:
			}
			for n, first := 2, base; taken[strings.ToLower(base)]; n++ {
				base = fmt.Sprintf("%s%s%d", first, joint, n)
			}
			taken[strings.ToLower(base)] = true
			add := func(base, why string, files []File, part *Part) {
				for _, f := range files {
					e := fontEntry{
						Entry: Entry{Path: in.inFolder(base + "." + string(f.Format)), Why: in.why(f.Format) + because(reshaped(face, f)) + why + f.origin(), Blob: f.Blob, Supplied: f.Supplied, Reshaped: reshaped(face, f),
							Family: family.Name, Style: face.Style, Face: face.ID, Format: f.Format, Place: place, Pending: f.Pending},
						family: family, face: face, part: part,
					}
					if up, ok := in.FileURLs[e.Path]; ok && !f.Pending {
						e.Changed = up.SHA256 != e.SHA256
						if !e.Changed {
							e.Address = up.Address
						}
					}
					l.fonts = append(l.fonts, e)
				}
			}
			for k := range face.Parts {
				p := &face.Parts[k]
				add(base+"-"+builder.Plain(p.Name), "; characters: "+p.Name, p.Files, p)
			}
			if len(face.Parts) == 0 {
				add(base, "", face.Files, nil)
			}
			place++
		}
	}
	l.place()
	return l
}

func (in *Input) inFolder(name string) string {
	if in.Rules.Files.Folder == "" {
		return name
	}
	return in.Rules.Files.Folder + "/" + name
}

// why says what a format is there for.
func (in *Input) why(c font.Container) string {
	switch {
	case in.Rules.For == "desktop":
		return "to install"
	case in.Rules.For == "app":
		return "for the app"
	case len(in.Rules.Formats()) == 1:
		return "what the platform takes"
	}
	switch c {
	case font.WOFF2:
		return "for every current browser"
	case font.WOFF:
		return "for browsers from before 2018"
	case font.EOT:
		return "for Internet Explorer"
	case font.SVG:
		return "for the first phones"
	case font.TTF, font.OTF, font.TTC:
	}
	return "for browsers and programs that take no web font"
}

// origin says where a file's bytes come from, where that is not the service.
func (f File) origin() string {
	if f.Supplied {
		return "; as its supplier made it"
	}
	return ""
}

// reshaped says what was done to a file of a face.
func reshaped(face *Face, f File) string {
	return strings.TrimPrefix(strings.TrimSuffix(face.Changed+"; "+f.Changed, "; "), "; ")
}

func because(changed string) string {
	if changed != "" {
		return "; " + changed
	}
	return ""
}

// cssFamily is the name a face goes by in styles.
func (in *Input) cssFamily(family *Family, face *Face) string {
	if in.alone(family) {
		return face.Metadata.Names.Full
	}
	return family.Name
}

// alone reports whether each face of a family is a family of its own to the platform.
func (in *Input) alone(family *Family) bool {
	return in.Rules.Families == builder.FamilyEach && !family.elsewhere()
}

// formats are the words of CSS Fonts Level 4, section 4.3.1, for formats.
var formats = map[font.Container]string{font.TTF: "truetype", font.OTF: "opentype", font.EOT: "embedded-opentype"}

// rules returns the @font-face rules for the fonts of a pack; at gives the
// address of a file. Where every face is a family of its own, they come in both
// shapes: so, and as one family with weights.
func (l *layout) rules(at func(fontEntry) string) []css.Face {
	var out []css.Face
	for i := 0; i < len(l.fonts); {
		f := l.fonts[i]
		rule := css.Of(f.face.Metadata)
		rule.Family = f.family.Name
		rule.Range = f.face.Range
		if f.part != nil {
			rule.Range = f.part.Range
		}
		for ; i < len(l.fonts) && l.fonts[i].face == f.face && l.fonts[i].part == f.part; i++ {
			format := formats[l.fonts[i].Format]
			if format == "" {
				format = string(l.fonts[i].Format)
			}
			rule.Sources = append(rule.Sources, css.Source{URL: at(l.fonts[i]), Format: format})
		}
		if l.Rules.Families == builder.FamilyEach {
			alone := rule
			alone.Family = f.face.Metadata.Names.Full
			alone.Weight, alone.Style, alone.Stretch = "normal", "normal", ""
			out = append(out, alone)
			if alone.Family == rule.Family {
				continue
			}
		}
		out = append(out, rule)
	}
	return out
}

// inPack is the address of a file relative to the pack.
func inPack(f fontEntry) string { return urlPath(f.Path) }

// delivered is the address of a file where the platform has it.
func (l *layout) delivered(f fontEntry) string {
	a := l.Rules.URLs
	prefix := cmp.Or(l.Prefix, a.Prefix)
	switch {
	case a.After:
		return f.Address
	case prefix == "" || a.Relative && l.Prefix == "":
		return urlPath(f.Path)
	}
	return strings.TrimSuffix(prefix, "/") + "/" + urlPath(f.name())
}

// urlPath writes a path of the pack as a relative address.
func urlPath(path string) string {
	parts := strings.Split(path, "/")
	for i, p := range parts {
		var s strings.Builder
		for _, c := range []byte(p) {
			if c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || strings.IndexByte("-._~", c) >= 0 {
				s.WriteByte(c)
			} else {
				fmt.Fprintf(&s, "%%%02X", c)
			}
		}
		parts[i] = s.String()
	}
	return strings.Join(parts, "/")
}

// bold is the weight from which a face counts as bold.
const bold = 600

// weights returns the weights a face has: one, or those its axis reaches.
func weights(f *metadata.Face) (low, high int) {
	for _, a := range f.Axes {
		if a.Tag == "wght" {
			return int(a.Min), int(a.Max)
		}
	}
	return f.Style.Weight, f.Style.Weight
}

// Match finds the face a browser takes for a weight and a slope (CSS Fonts
// Level 4, section 5.2), of faces of any width the one nearest to normal; -1
// where there is none.
func Match(faces []*metadata.Face, weight int, slope metadata.Slope) int {
	best, least := -1, [3]int{}
	for i, f := range faces {
		width := int(10 * max(f.Style.WidthPercent-100, 100-f.Style.WidthPercent))
		lean := 0
		if (f.Style.Slope == metadata.Upright) != (slope == metadata.Upright || slope == "") {
			lean = 2
		} else if f.Style.Slope != slope && slope != "" {
			lean = 1
		}
		low, high := weights(f)
		if rank := [3]int{width, lean, Distance(low, high, weight)}; best < 0 || slices.Compare(rank[:], least[:]) < 0 {
			best, least = i, rank
		}
	}
	return best
}

// Distance orders faces of a range of weights by the weight wanted, as browsers do.
func Distance(low, high, want int) int {
	w := max(low, min(want, high))
	switch {
	case w == want:
		return 0
	case want >= 400 && want <= 500:
		if w > want && w <= 500 {
			return w - want
		}
		if w < want {
			return 1000 + want - w
		}
		return 2000 + w - want
	case want < 400:
		if w < want {
			return want - w
		}
		return 1000 + w - want
	case w > want:
		return w - want
	}
	return 1000 + want - w
}
