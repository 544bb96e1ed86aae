package pack_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/metadata"
	"sparecrate/internal/builder"
	"sparecrate/internal/css"
	"sparecrate/internal/pack"
)

// away is a family that is served from two places: by a stylesheet, and by rules that
// somebody pasted.
func away() pack.Family {
	face := func(style string, weight int) pack.Face {
		return pack.Face{Style: style, Metadata: metadata.Face{Names: metadata.Names{Full: "Kraka " + style}, Style: metadata.Style{Weight: weight, WidthPercent: 100, Slope: metadata.Upright}}}
	}
	return pack.Family{
		Name: "Kraka", Faces: []pack.Face{face("Bold", 700), face("Regular", 400)},
		Elsewhere: []pack.Sheet{
			{Host: "fonts.example", Address: "https://fonts.example/kraka.css?a=1&b=\"2\""},
			{Host: "files.example", Rules: []css.Face{{Family: "Kraka", Weight: "300", Style: "normal", Sources: []css.Source{{URL: "https://files.example/light.woff2", Format: "woff2"}}}}},
		},
	}
}

// TestServedFromElsewhere has a heading in such a family, for platforms of every kind.
func TestServedFromElsewhere(t *testing.T) {
	for kind, form := range map[string]struct {
		path  string // of the styles in the pack; empty where there are none
		warns string
	}{
		"self-hosted": {"fonts.css", "calls-elsewhere"}, "bundler": {"fonts.css", "calls-elsewhere"}, "style-box": {"styles-to-paste.css", "calls-elsewhere"},
		"linked-stylesheet": {"fonts.css", "calls-elsewhere"},
		"page-block":        {"block-to-paste.html", "calls-elsewhere"}, "course-script": {"script-to-paste.js", "calls-elsewhere"},
		"fields-only": {"", "only-elsewhere"}, "apple-app": {"", "only-elsewhere"}, "android-app": {"", "only-elsewhere"}, "desktop": {"", "only-elsewhere"},
	} {
		t.Run(kind, func(t *testing.T) {
			in := input(t, kind)
			before, _ := assemble(t, input(t, kind))
			in.Families = append(in.Families, away())
			in.RoleAssignments = []pack.RoleAssignment{{Role: builder.Heading1, Family: "Kraka", Weight: 700, Slope: metadata.Upright}}
			in.Replacements = []pack.Replacement{{Name: "Meridian", Family: "Kraka", Weight: 700, Slope: metadata.Upright}}
			if in.Rules.URLs.After { // they are known, so that styles are finished
				_, packed := assemble(t, in)
				in.FileURLs = map[string]pack.FileURLs{}
				for i, e := range packed.Entries {
					if e.Place >= 0 {
						in.FileURLs[e.Path] = pack.FileURLs{Address: fmt.Sprintf("https://file-urls.example/%d", i), SHA256: e.SHA256}
					}
				}
			}
			files, packed := assemble(t, in)
			for path := range files {
				assert.NotContains(t, strings.ToLower(path), "kraka", "nothing of it is in the pack")
			}
			fonts := func(all map[string][]byte) (n int) {
				for path := range all {
					if strings.HasPrefix(path, in.Rules.Files.Folder+"/") {
						n++
					}
				}
				return n
			}
			assert.Equal(t, fonts(before), fonts(files), "fonts of other families are")
			assert.Contains(t, codes(packed.Warnings), form.warns)
			assert.Contains(t, codes(packed.Warnings), "swap-elsewhere")
			assert.NotContains(t, codes(packed.Warnings), "fake-bold")
			assert.Contains(t, string(files["license-note.txt"]), "Kraka\n  Not in this pack: served by fonts.example and files.example")
			assert.NotContains(t, string(files["licenses.spdx.json"]), "Kraka")
			assert.Contains(t, string(files["manifest.json"]), `"files.example"`)
			if form.path == "" {
				return
			}
			require.Contains(t, files, form.path)
			text := string(files[form.path])
			first, rest := strings.Index(text, "@import url("), strings.Index(text, "@font-face")
			assert.Positive(t, first)
			assert.Greater(t, rest, first, "what loads others comes first")
			assert.Equal(t, 1, strings.Count(text, "@import"))
			assert.Contains(t, text, `https://files.example/light.woff2`)
			assert.NotContains(t, text, "becomes Kraka", "nothing is swapped for what cannot be renamed")
			if in.Rules.Families == builder.FamilyEach {
				assert.NotContains(t, text, "Kraka Bold", "the sheet elsewhere knows one family")
			}
		})
	}
}

// TestOnlyFromElsewhere has nothing to send: the slip speaks of the styles alone.
func TestOnlyFromElsewhere(t *testing.T) {
	for kind, says := range map[string]string{"self-hosted": "<strong>Upload</strong> the file <kbd>fonts.css</kbd>", "bundler": "<strong>Copy</strong> the file <kbd>fonts.css</kbd> into the source tree", "style-box": "<strong>Paste</strong> all of"} {
		in := input(t, kind)
		in.Families = []pack.Family{away()}
		in.RoleAssignments = []pack.RoleAssignment{{Role: builder.Heading1, Family: "Kraka", Weight: 700, Slope: metadata.Upright}}
		files, _ := assemble(t, in)
		slip := string(files["upload-slip.html"])
		assert.Contains(t, slip, says, kind)
		for _, no := range []string{"the folder <kbd>", "<kbd></kbd>", "data-step=\"urls\"", "Font weight of a page"} {
			assert.NotContains(t, slip, no, kind)
		}
		assert.NotContains(t, string(files["fonts.css"]), "beside the folder")
	}
}

// TestReplacementsByHostedFonts replaces a name of the design, in two weights, by a family that
// somebody else serves: stylesheets have the rules under that name with the URLs of its fonts,
// a table of names has the URL of its stylesheet to type.
func TestReplacementsByHostedFonts(t *testing.T) {
	hosted := away()
	for _, weight := range []string{"400", "700"} {
		hosted.Elsewhere[0].Rules = append(hosted.Elsewhere[0].Rules, css.Face{Family: "Kraka", Weight: weight, Style: "normal", Range: "U+0-FF", Sources: []css.Source{{URL: "https://fonts.example/" + weight + ".woff2", Format: "woff2"}}},
			css.Face{Family: "Kraka", Weight: weight, Style: "normal", Range: "U+100-2FF", Sources: []css.Source{{URL: "https://fonts.example/" + weight + "-more.woff2", Format: "woff2"}}})
	}
	with := func(kind string) pack.Input {
		in := input(t, kind)
		in.Families = append(in.Families, hosted)
		in.Pages = []pack.Page{{Title: "Prices", Address: "/prices"}}
		in.RoleAssignments = []pack.RoleAssignment{{Role: builder.Heading1, Family: "Kraka", Weight: 700, Slope: metadata.Upright, Stack: []string{"Meridian", "serif"}}}
		in.Replacements = []pack.Replacement{{Name: "Meridian", Family: "Kraka", Weight: 400, Slope: metadata.Upright}, {Name: "Meridian", Family: "Kraka", Weight: 700, Slope: metadata.Upright}}
		return in
	}
	files, packed := assemble(t, with("self-hosted"))
	text := string(files["fonts.css"])
	assert.Equal(t, 4, strings.Count(text, `font-family: "Meridian"`), text)
	for _, file := range []string{"400.woff2", "400-more.woff2", "700.woff2", "700-more.woff2"} {
		assert.Contains(t, text, "https://fonts.example/"+file)
	}
	assert.Equal(t, 1, strings.Count(strings.Join(codes(packed.Warnings), " "), "swaps-all"), "said once for a name")
	for _, w := range packed.Warnings {
		if w.Code == "swaps-all" {
			assert.Contains(t, w.Message, "Here heading 1 falls back to it. Check the pages Prices.")
		}
	}
	assert.Contains(t, codes(packed.Warnings), "swap-hosted")

	assert.Contains(t, string(files["upload-slip.html"]), `<tr data-replaced="Meridian Bold"><td>Meridian Bold</td><td>Kraka Bold</td><td><code>https://fonts.example/kraka.css`)
	files, _ = assemble(t, with("prototype"))
	slip := string(files["upload-slip.html"])
	for _, name := range []string{"Meridian Regular", "Meridian Bold"} {
		assert.Contains(t, slip, `<kbd>`+name+`</kbd>`)
	}
	assert.Contains(t, slip, `https://fonts.example/kraka.css?a=1&amp;b=&#34;2&#34;`)
}
