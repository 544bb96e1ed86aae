package versions_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"sparecrate/font/identity"
	"sparecrate/internal/versions"
)

func TestVersionsAreComparedAsVersions(t *testing.T) {
	ordered := []string{"", "Version 0.9", "Version 1.000", "Version 1.000; build 2", "Version 1.90", "Version 1.101", "2.0", "Version 10.1"}
	for i, a := range ordered {
		for j, b := range ordered {
			got := versions.Compare(a, b)
			assert.Equal(t, i < j, got < 0, "%q and %q", a, b)
			assert.Equal(t, i > j, got > 0, "%q and %q", a, b)
		}
	}
	assert.Zero(t, versions.Compare("Version 1.000", "v1.0"), "1.000 and 1.0 are one version")
}

// drawn measures a design by number that has the characters of a text; redrawn are
// characters that it draws otherwise than the design of that number does.
func drawn(design int16, text, redrawn string) *identity.Print {
	runes := []rune(text)
	slices.Sort(runes)
	p := &identity.Print{}
	for _, r := range slices.Compact(runes) {
		n := int16(r%97) * 7
		s := identity.Shape{Rune: r, Advance: 1500 + n, Left: 100, Right: 900 + n, Top: 1000 + n, Area: 900 + n, X: 500 + n/2, Y: 500, Ink: [identity.Lines]uint8{20, 20, uint8(20 + 9*design), 20, 20}}
		s.Right, s.Top, s.Area = s.Right+180*design, s.Top+90*design, s.Area+200*design
		if strings.ContainsRune(redrawn, r) {
			s.Top += 60
		}
		p.Shapes = append(p.Shapes, s)
	}
	return p
}

func content(p *identity.Print) *identity.Print {
	p.Content = 7
	return p
}

const (
	latin    = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789.,;:!?"
	greek    = "ΑΒΓΔΕΖΗΘΙΚΛΜΝΞΟΠΡΣΤΥΦΧΨΩαβγδεζηθικλμνξοπρστυφχψω"
	cyrillic = "АБВГДЕЖЗИЙКЛМНОПРСТУФХЦЧШЩЪЫЬЭЮЯабвгдежзийклмнопрстуфхцчшщъыьэюя"
	whole    = latin + greek + cyrillic
)

// shown writes what every file is: the one in use first.
func shown(files []versions.File, c *versions.Choice) string {
	var out []string
	for i, f := range files {
		s := f.Name + " " + string(c.States[i])
		if c.Unsure[i] {
			s += "?"
		}
		out = append(out, s)
	}
	slices.Sort(out)
	used := make([]string, len(c.Used))
	for n, i := range c.Used {
		used[n] = files[i].Name
	}
	return strings.Join(used, "+") + ": " + strings.Join(out, ", ")
}

// TestWhichFilesAreInUse says of sets of files what each is, in whatever order they come.
func TestWhichFilesAreInUse(t *testing.T) {
	f := func(name, format, version string, p *identity.Print, more ...func(*versions.File)) versions.File {
		out := versions.File{Name: name, Format: format, Version: version, Print: p}
		for _, change := range more {
			change(&out)
		}
		return out
	}
	inUse, chosen := func(f *versions.File) { f.InUse = true }, func(f *versions.File) { f.Chosen = true }
	preferred := func(n int64) func(*versions.File) { return func(f *versions.File) { f.Preferred = n } }
	served := func(f *versions.File) { f.Range = "U+1-2" }
	for name, test := range map[string]struct {
		files []versions.File
		want  string
	}{
		"one": {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin, ""))}, "a: a used"},
		"newer": {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin, ""), inUse), f("b", "ttf", "1.1", drawn(0, latin, "AB"))},
			"b: a older, b used"},
		"newer, compressed":      {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin, ""), inUse), f("b", "woff", "1.1", drawn(0, latin, ""))}, "b: a older, b used"},
		"newer with more":        {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin, ""), inUse), f("b", "ttf", "1.1", drawn(0, whole, ""))}, "b: a older, b used"},
		"newer that drops a few": {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin, ""), inUse), f("b", "ttf", "1.1", drawn(0, latin[2:], ""))}, "b: a older, b used"},
		"newer that drops many":  {[]versions.File{f("a", "ttf", "1.0", drawn(0, whole, ""), inUse), f("b", "ttf", "1.1", drawn(0, latin, ""))}, "a: a used, b part"},
		"formats":                {[]versions.File{f("a", "woff2", "1.0", drawn(0, latin, ""), inUse), f("b", "otf", "1.0", drawn(0, latin, "")), f("c", "eot", "1.0", drawn(0, latin, ""))}, "b: a sibling, b used, c sibling"},
		"a part and the whole":   {[]versions.File{f("a", "woff2", "1.0", drawn(0, latin, ""), inUse), f("b", "ttf", "1.0", drawn(0, whole, ""))}, "b: a part, b used"},
		"a newer part and the older whole": {[]versions.File{f("a", "ttf", "1.1", drawn(0, latin, ""), inUse), f("b", "ttf", "1.0", drawn(0, whole, ""))},
			"b: a part, b used"},
		"parts": {[]versions.File{f("g", "woff2", "1.0", drawn(0, greek+" ", "")), f("l", "woff2", "1.0", drawn(0, latin+" ", "")), f("c", "woff2", "1.0", drawn(0, cyrillic+" ", ""))},
			"l+c+g: c piece, g piece, l used"},
		"parts and the whole": {[]versions.File{f("g", "woff2", "1.0", drawn(0, greek, "")), f("w", "woff", "1.0", drawn(0, whole, "")), f("c", "woff2", "1.0", drawn(0, cyrillic, ""))},
			"w: c part, g part, w used"},
		"parts of two versions": {[]versions.File{f("l1", "woff2", "1.0", drawn(0, latin, ""), inUse), f("g1", "woff2", "1.0", drawn(0, greek, ""), inUse), f("l2", "woff2", "2.0", drawn(0, latin, ""))},
			"l1+g1: g1 piece, l1 used, l2 part"},
		"all parts of the next version": {[]versions.File{f("l1", "woff2", "1.0", drawn(0, latin, ""), inUse), f("g1", "woff2", "1.0", drawn(0, greek, ""), inUse), f("l2", "woff2", "2.0", drawn(0, latin, "")), f("g2", "woff2", "2.0", drawn(0, greek, ""))},
			"l2+g2: g1 older, g2 piece, l1 older, l2 used"},
		"an overlap that adds little": {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin+greek, "")), f("b", "ttf", "1.0", drawn(0, latin+"Жя", ""))}, "a: a used, b part"},
		"the same, served for it":     {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin+greek, ""), served), f("b", "ttf", "1.0", drawn(0, latin+"Жя", ""), served)}, "a+b: a used, b piece"},
		"other content": {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin, ""), inUse), f("b", "ttf", "1.0", drawn(0, latin, "AB"))},
			"a: a used, b conflict"},
		"other content, nothing in use": {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin, "")), f("b", "ttf", "1.0", drawn(0, latin, "AB"))},
			"a: a used?, b conflict?"},
		"other content, redrawn in another format": {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin, ""), inUse), f("b", "woff2", "1.0", drawn(0, latin, "ABCDEFGHIJ"))},
			"a: a used, b conflict"},
		"one release in two formats":   {[]versions.File{f("a", "otf", "Version 1.200;PS 001.200;hotconv 1.0.88", drawn(0, latin, ""), inUse), f("b", "ttf", "Version 1.200", drawn(0, latin, ""))}, "b: a sibling, b used"},
		"a later build":                {[]versions.File{f("a", "ttf", "1.000", drawn(0, latin, ""), inUse), f("b", "ttf", "1.000; build 2", drawn(0, latin, "A"))}, "b: a older, b used"},
		"an earlier patch":             {[]versions.File{f("a", "ttf", "1.1.3", drawn(0, latin, ""), inUse), f("b", "ttf", "1.1.2", drawn(0, latin, ""))}, "a: a used, b older"},
		"the same font in other bytes": {[]versions.File{f("a", "ttf", "1.0", content(drawn(0, latin, "")), inUse), f("b", "ttf", "1.0", content(drawn(0, latin, "")))}, "a: a used, b sibling"},
		"two webfonts beside one":      {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin, "")), f("b", "woff2", "1.0", drawn(0, latin, "")), f("c", "woff2", "1.0", drawn(0, latin, ""))}, "a: a used, b sibling?, c conflict?"},
		"finished for the new one":     {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin, ""), inUse), f("b", "ttf", "1.0", drawn(0, latin, "AB"), preferred(1))}, "b: a set-aside, b used"},
		"finished for the one in use":  {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin, ""), inUse), f("b", "ttf", "1.0", drawn(0, latin, "AB"), preferred(-1))}, "a: a used, b set-aside"},
		"finished, and a newer comes":  {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin, ""), inUse, preferred(1)), f("b", "ttf", "1.0", drawn(0, latin, "AB")), f("c", "ttf", "1.1", drawn(0, latin, ""))}, "c: a older, b older, c used"},
		"chosen, and a newer comes":    {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin, ""), chosen), f("b", "ttf", "1.1", drawn(0, latin, ""), inUse)}, "a: a used, b newer"},
		"a part chosen":                {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin, ""), chosen), f("b", "ttf", "1.0", drawn(0, whole, ""), inUse)}, "a: a used, b whole"},
		"one of two parts chosen":      {[]versions.File{f("g", "ttf", "1.0", drawn(0, greek, ""), chosen), f("l", "ttf", "1.0", drawn(0, latin, ""), inUse)}, "g+l: g used, l piece"},
		"mislabeled":                   {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin, ""), inUse), f("b", "ttf", "2.0", drawn(1, whole, ""))}, "a: a used, b mislabeled"},
		"mislabeled, nothing in use":   {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin, "")), f("b", "ttf", "2.0", drawn(1, whole, ""))}, "b: a mislabeled?, b used?"},
		"mislabeled, finished for it":  {[]versions.File{f("a", "ttf", "1.0", drawn(0, latin, ""), inUse), f("b", "ttf", "1.0", drawn(1, latin, ""), preferred(1))}, "b: a mislabeled, b used"},
		"too little to tell":           {[]versions.File{f("a", "ttf", "1.0", drawn(0, "ab"+greek, ""), inUse), f("b", "ttf", "1.0", drawn(1, "ab"+cyrillic, ""))}, "b+a: a piece, b used"},
		"not measured, newer":          {[]versions.File{f("a", "ttf", "1.0", nil, inUse), f("b", "ttf", "1.1", nil)}, "b: a older, b used"},
		"not measured, other content":  {[]versions.File{f("a", "ttf", "1.0", nil, inUse), f("b", "ttf", "1.0", nil), f("c", "woff", "1.0", nil)}, "a: a used, b conflict, c sibling"},
	} {
		for i := range test.files {
			test.files[i].ID = int64(i)
		}
		for turn := range 6 {
			files := slices.Clone(test.files)
			random := rand.New(rand.NewPCG(1, uint64(turn)))
			random.Shuffle(len(files), func(i, j int) { files[i], files[j] = files[j], files[i] })
			c := versions.Choose(files)
			assert.Equal(t, test.want, shown(files, c), name)
			for i := range files {
				said := c.Say(files, i, "Skerrow Sans Regular")
				assert.NotContains(t, said, "%!", name)
				assert.Equal(t, len(files) == 1, said == "", "%s: %s", name, said)
			}
		}
	}
	assert.Empty(t, versions.Choose(nil).Used)
}

// TestWhatIsSaid reads the sentences that name numbers and other files.
func TestWhatIsSaid(t *testing.T) {
	files := []versions.File{
		{ID: 1, Name: "whole.ttf", Format: "ttf", Version: "1.0", Print: drawn(0, whole, ""), InUse: true},
		{ID: 2, Name: "latin.woff2", Format: "woff2", Version: "1.0", Print: drawn(0, latin, "")},
		{ID: 3, Name: "other.ttf", Format: "ttf", Version: "1.0", Print: drawn(0, whole, "ABCDEFGHIJ")},
		{ID: 4, Name: "bold.ttf", Format: "ttf", Version: "1.0", Print: drawn(3, whole, "")},
		{ID: 5, Name: "old.ttf", Format: "ttf", Version: "0.9", Print: drawn(0, latin, "")},
		{ID: 6, Name: "new.ttf", Format: "ttf", Version: "1.1", Print: drawn(0, latin, "")},
	}
	c := versions.Choose(files)
	var out []string
	for i := range files {
		out = append(out, c.Say(files, i, "X"))
	}
	gaps := len([]rune(greek + cyrillic))
	assert.Equal(t, []string{
		"It is the newest complete file.",
		fmt.Sprintf("A part of X: it is missing %d characters. It is kept; packs still use whole.ttf.", gaps),
		"It has the same version number as whole.ttf but different content (drawn or spaced differently: A B C D E F G H ...). Choose which of the two to use; until then packs use whole.ttf.",
		"It is called X and draws another design than whole.ttf, a bolder one (upright strokes are 2.35 times as thick). It is kept and not used; one of the two is named wrongly.",
		"An older version of X (0.9). It is kept; packs go on using the newer one.",
		fmt.Sprintf("By its version number it is newer than X (1.1), but it is missing %d characters. It is kept; packs still use whole.ttf.", gaps),
	}, out)
	looks := func(stems float64, weight int) int {
		return versions.LooksLike(&identity.Evidence{Stems: stems}, weight)
	}
	assert.Equal(t, []int{700, 300, 0, 400, 0, 900}, []int{looks(1.6, 400), looks(0.78, 400), looks(1.05, 400), looks(0.6, 700), looks(0, 400), looks(1.4, 700)})
}

// TestWhichOfAlikeFilesCounts has two files of the same content that differ in one thing; the
// one that counts is taken whichever of them comes first, and what is said before outweighs
// what is said after.
func TestWhichOfAlikeFilesCounts(t *testing.T) {
	plain := versions.File{Name: "a.woff", Version: "Version 2.000", Format: "woff", Print: drawn(1, latin, "")}
	changed := func(change func(f *versions.File)) versions.File {
		f := plain
		change(&f)
		return f
	}
	ranked := []struct {
		name string
		file versions.File
	}{
		{"chosen by a person", changed(func(f *versions.File) { f.Chosen = true })},
		{"preferred the most", changed(func(f *versions.File) { f.Preferred = 2 })},
		{"preferred", changed(func(f *versions.File) { f.Preferred = 1 })},
		{"a plainer format", changed(func(f *versions.File) { f.Format, f.Name = "ttf", "a.ttf" })},
		{"a later build", changed(func(f *versions.File) { f.Version = "Version 2.000; build 3" })},
		{"in use", changed(func(f *versions.File) { f.InUse = true })},
		{"one like any other", plain},
		{"not to count", changed(func(f *versions.File) { f.Preferred = -1 })},
	}
	for i := range ranked {
		for k := i + 1; k < len(ranked); k++ {
			for _, swapped := range []bool{false, true} {
				first, second := ranked[i].file, ranked[k].file
				if swapped {
					first, second = second, first
				}
				first.ID, second.ID = 1, 2
				want := 0
				if swapped {
					want = 1
				}
				got := versions.Choose([]versions.File{first, second})
				assert.Equal(t, []int{want}, got.Used, "%s before %s, swapped %t", ranked[i].name, ranked[k].name, swapped)
			}
		}
	}
	first, second := plain, plain
	first.ID, second.ID = 9, 4
	assert.Equal(t, []int{1}, versions.Choose([]versions.File{first, second}).Used, "of two that are alike in all, the one that came first")
}
