package pack_test

import (
	"archive/zip"
	"bytes"
	"crypto/sha1"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"io"
	"regexp"
	"runtime"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/coverage"
	"sparecrate/font/fallback"
	"sparecrate/font/metadata"
	"sparecrate/internal/builder"
	"sparecrate/internal/css"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
)

func rules(t testing.TB, kind string) *builder.Rules {
	t.Helper()
	r, ok := builder.ShippedOf(kind)
	require.True(t, ok)
	return r
}

func input(t testing.TB, kind string) pack.Input {
	t.Helper()
	r := rules(t, kind)
	face := func(style, full string, weight int, slope metadata.Slope) pack.Face {
		f := pack.Face{
			Style:    style,
			Metadata: metadata.Face{Names: metadata.Names{Full: full, PostScript: "PS" + style, Copyright: "© the maker"}, Style: metadata.Style{Weight: weight, WidthPercent: 100, Slope: slope}},
		}
		for _, c := range r.Formats() {
			f.Files = append(f.Files, pack.File{Format: c, Blob: pack.BlobOf([]byte(string(c) + " of " + style))})
		}
		return f
	}
	return pack.Input{
		Site: "Fähre & Co.", Client: "Holmvik </style> Ferries", Domains: []string{"holmvik.example"}, Rules: r,
		Families: []pack.Family{{
			Name:     `Example "Sans"`,
			Faces:    []pack.Face{face("Bold", "Example Bold", 700, metadata.Upright), face("Regular", "Example Regular", 400, metadata.Upright), face("Regular ", "Example Regular", 400, metadata.Italic)},
			Verdict:  license.Verdict{State: license.Review, Reasons: []license.Reason{{State: license.Review, Code: "no-evidence", Message: "No document.", Evidence: "license 1"}}},
			Licenses: []pack.License{{Name: "license 1"}}, SignOff: &pack.SignOff{By: "Ines", At: "2026-11-24T10:00:00Z", Reason: "Order is on its way"},
		}},
	}
}

func read(t testing.TB, b pack.Blob) []byte {
	t.Helper()
	r, err := b.Open()
	require.NoError(t, err)
	data, err := io.ReadAll(r)
	require.NoError(t, err)
	return data
}

func assemble(t testing.TB, in pack.Input) (map[string][]byte, *pack.Packed) {
	t.Helper()
	packed, err := pack.Assemble(in)
	require.NoError(t, err)
	out := map[string][]byte{}
	for _, e := range packed.Entries {
		assert.NotContains(t, out, e.Path, "a path twice")
		assert.NotEmpty(t, e.Why)
		out[e.Path] = read(t, e.Blob)
	}
	return out, packed
}

func codes(warnings []pack.Warning) []string {
	var out []string
	for _, w := range warnings {
		out = append(out, w.Code)
	}
	return out
}

func TestSelfHosted(t *testing.T) {
	files, _ := assemble(t, input(t, "self-hosted"))
	sheet := string(files["fonts.css"])
	for _, path := range []string{"fonts/example-sans-regular.woff2", "fonts/example-sans-regular-2.woff2", "fonts/example-sans-bold.woff"} {
		assert.Contains(t, files, path)
		assert.Contains(t, sheet, `url("`+path+`")`)
	}
	assert.Equal(t, 3, strings.Count(sheet, "@font-face"))
	assert.Less(t, strings.Index(sheet, "regular.woff2"), strings.Index(sheet, "bold.woff2"), "lighter faces first")
	assert.Contains(t, sheet, `font-family: "Example \"Sans\""`)
	slip := string(files["upload-slip.html"])
	assert.Contains(t, slip, "&lt;link rel=&#34;stylesheet&#34; href=&#34;/fonts.css&#34;&gt;")
	assert.NotContains(t, slip, "Holmvik </style>", "names are escaped")
	note := string(files["license-note.txt"])
	assert.Contains(t, note, "needs review: No document. [license 1]")
	assert.Contains(t, note, "Signed off by Ines on 2026-11-24T10:00:00Z: Order is on its way")
	assert.Contains(t, note, "© the maker")
}

// TestPartsAndReplacements has a face in two files by characters, with a local font
// that holds its place, and one for which none can.
func TestPartsAndReplacements(t *testing.T) {
	in := input(t, "self-hosted")
	in.Families[0].Faces = in.Families[0].Faces[:2]
	split, lone := &in.Families[0].Faces[0], &in.Families[0].Faces[1]
	split.Parts = []pack.Part{{Name: "latin", Range: "U+20-7E", Files: split.Files}, {Name: "script:Greek", Range: "U+370-3FF", Files: split.Files}}
	split.Files, split.LocalFonts = nil, css.Fallbacks(split.Metadata, []string{"Arial"}, []fallback.Group{{}, {Characters: coverage.OfText("ab")}})
	lone.NoReplacement = "Too few letters. */"
	files, _ := assemble(t, in)
	sheet := string(files["fonts.css"])
	for _, part := range []string{"fonts/example-sans-bold-latin.woff2", "fonts/example-sans-bold-script-greek.woff", "fonts/example-sans-regular.woff2"} {
		assert.Contains(t, files, part)
		assert.Contains(t, sheet, part)
	}
	assert.Equal(t, 1, strings.Count(sheet, "unicode-range: U+370-3FF;"))
	assert.Equal(t, 2, strings.Count(sheet, `font-family: "Example \"Sans\" Fallback";`))
	assert.Contains(t, sheet, "Regular: Too few letters. * / */")
	assert.Contains(t, sheet, "unicode-range: U+0061-0062;")
	slip := string(files["upload-slip.html"])
	assert.Equal(t, 2, strings.Count(slip, "<br><code>font-family"), "a face has one line, however many files it has")
	assert.Contains(t, slip, "characters: latin")
	assert.Contains(t, slip, `\&#34; Fallback&#34;, sans-serif`)
	assert.Contains(t, string(files["manifest.json"]), `"characters": "U+20-7E"`)
}

func TestUploadFormWantsFullNames(t *testing.T) {
	in := input(t, "upload-form")
	in.RoleAssignments = []pack.RoleAssignment{{Role: builder.Heading1, Family: in.Families[0].Name, Weight: 700}, {Role: builder.Quotes, Family: in.Families[0].Name, Weight: 400}}
	files, packed := assemble(t, in)
	assert.Contains(t, files, "fonts/Example Regular.woff2")
	assert.Contains(t, files, "fonts/Example Regular 2.woff2", "two faces of one full name do not meet")
	assert.NotContains(t, files, "fonts.css", "nothing to do with it there")
	slip := string(files["upload-slip.html"])
	assert.Contains(t, slip, `<kbd data-field="Font name">Example Bold</kbd>`)
	assert.Contains(t, slip, `<td class="mind"><kbd data-field="Weight">700</kbd>`)
	assert.Contains(t, slip, `data-choose="Title font"`)
	assert.Contains(t, codes(packed.Warnings), "role-unknown", "it has no field for quotes")
}

// TestRoles has the stylesheet set roles, after what loads the fonts.
func TestRoles(t *testing.T) {
	in := input(t, "self-hosted")
	name := in.Families[0].Name
	in.RoleAssignments = []pack.RoleAssignment{
		{Role: builder.Heading1, Family: name, Weight: 700, Stack: []string{"Georgia", "serif"}},
		{Role: builder.Body, Family: name, Weight: 400, Override: true},
		{Role: "timetable", Name: "Timetable */ cells", Selector: ".timetable td", Family: name, Weight: 400, Slope: metadata.Italic},
	}
	files, packed := assemble(t, in)
	sheet := string(files["fonts.css"])
	assert.Contains(t, sheet, "h1 {\n  font-family: \"Example \\\"Sans\\\"\", \"Georgia\", serif;\n  font-weight: 700;\n  font-style: normal;\n}")
	assert.Contains(t, sheet, "body, p, li, dt, dd, td, th, input, select, textarea {\n  font-family: \"Example \\\"Sans\\\"\", sans-serif !important;")
	assert.Contains(t, sheet, ".timetable td {")
	assert.Contains(t, sheet, "Timetable * / cells")
	assert.Less(t, strings.LastIndex(sheet, "@font-face"), strings.Index(sheet, "h1 {"), "loaded before it is used")
	assert.Less(t, strings.Index(sheet, "body, p"), strings.Index(sheet, "h1 {"))
	assert.Equal(t, []string{"also-catches"}, codes(packed.Warnings), "all styles are sent, and the body text overrules the page")
	assert.Contains(t, string(files["sample.html"]), "The roles together")
}

func TestWarnings(t *testing.T) {
	name := input(t, "self-hosted").Families[0].Name
	place := func(p ...pack.RoleAssignment) pack.Input {
		in := input(t, "self-hosted")
		in.Families[0].Faces = in.Families[0].Faces[1:2] // the regular alone
		for i := range p {
			if p[i].Family == "" {
				p[i].Family = name
			}
		}
		in.RoleAssignments = p
		return in
	}
	for title, one := range map[string]struct {
		in   pack.Input
		want []string
		says string
	}{
		"nothing to say":        {place(pack.RoleAssignment{Role: builder.Heading1, Weight: 400}), nil, ""},
		"bold is smeared":       {place(pack.RoleAssignment{Role: builder.Heading1, Weight: 700}), []string{"fake-bold"}, "the heaviest included face"},
		"slanted":               {place(pack.RoleAssignment{Role: builder.Heading1, Weight: 400, Slope: metadata.Italic}), []string{"fake-italic"}, "will be faux italic"},
		"other weight":          {place(pack.RoleAssignment{Role: builder.Heading1, Weight: 500}), []string{"other-weight"}, "nearest included face"},
		"mates in running text": {place(pack.RoleAssignment{Role: builder.Body, Weight: 400}), []string{"mate-missing", "mate-missing"}, "Bold text in body text will be faux bold"},
		"lists and navigation":  {place(pack.RoleAssignment{Role: builder.Lists, Weight: 400}), []string{"mate-missing", "mate-missing", "also-catches"}, "navigation built from lists"},
		"links and buttons":     {place(pack.RoleAssignment{Role: builder.Links, Weight: 400}), []string{"also-catches"}, "links styled as buttons"},
		"buttons placed":        {place(pack.RoleAssignment{Role: builder.Links, Weight: 400}, pack.RoleAssignment{Role: builder.Buttons, Weight: 400}), []string{"also-catches"}, "links in headings"},
		"navigation placed":     {place(pack.RoleAssignment{Role: "menu", Name: "Menu", Selector: "ul li", Weight: 400}, pack.RoleAssignment{Role: builder.Navigation, Weight: 400}), nil, ""},
		"table headings":        {place(pack.RoleAssignment{Role: "board", Name: "Board", Selector: "td, th", Weight: 400}), []string{"also-catches"}, "table headings, which turn regular"},
		"bold table headings":   {place(pack.RoleAssignment{Role: "board", Name: "Board", Selector: "th", Weight: 700}), []string{"fake-bold"}, ""},
		"any of some":           {place(pack.RoleAssignment{Role: "field", Name: "Field", Selector: ":is(input, select)", Weight: 400}), []string{"also-catches"}, "form fields"},
		"a class of them":       {place(pack.RoleAssignment{Role: "field", Name: "Field", Selector: "input.search, a[href^=\"tel:\"], #menu li", Weight: 400}), nil, ""},
		"icons, overruled":      {place(pack.RoleAssignment{Role: builder.Buttons, Weight: 400, Override: true}), []string{"also-catches"}, "icon fonts on such elements"},
		"icons, left alone":     {place(pack.RoleAssignment{Role: builder.Buttons, Weight: 400}), nil, ""},
		"everything, overruled": {place(pack.RoleAssignment{Role: "all", Name: "All", Selector: "*", Weight: 400, Override: true}), []string{"also-catches"}, "icon fonts on such elements"},
		"body text, overruled":  {place(pack.RoleAssignment{Role: builder.Body, Weight: 400, Override: true}), []string{"mate-missing", "mate-missing", "also-catches"}, "table headings, which turn regular"},
		"without rules of ours": {func() pack.Input {
			in := place(pack.RoleAssignment{Role: builder.Links, Weight: 400})
			in.Rules = rules(t, "android-app")
			return in
		}(), nil, ""},
		"bold words in lists": {place(pack.RoleAssignment{Role: "lead", Name: "Lead", Selector: "strong", Weight: 400}), []string{"also-catches"}, "bold words in lists"},
		"within something":    {place(pack.RoleAssignment{Role: "lead", Name: "Lead", Selector: ".lead strong", Weight: 400}), nil, ""},
		"another family":      {place(pack.RoleAssignment{Role: builder.Heading1, Weight: 400, Family: "Other"}), []string{"family-missing"}, "not on this site"},
		"not of this platform's": {func() pack.Input {
			in := place(pack.RoleAssignment{Role: builder.Code, Weight: 400})
			in.Rules = rules(t, "fields-only")
			return in
		}(), []string{"role-unknown"}, "no field for code"},
	} {
		t.Run(title, func(t *testing.T) {
			found := pack.Warnings(one.in)
			assert.Equal(t, one.want, codes(found))
			if one.says != "" {
				assert.Contains(t, fmt.Sprint(found), one.says)
			}
		})
	}
	in := place(pack.RoleAssignment{Role: builder.Heading1, Weight: 400, Stack: []string{"Arial"}})
	in.Replacements = []pack.Replacement{{Name: "Arial", Family: name, Weight: 400}}
	found := pack.Warnings(in)
	require.Equal(t, []string{"swaps-all"}, codes(found))
	assert.Contains(t, found[0].Message, "Here heading 1 falls back to it")
	files, _ := assemble(t, in)
	assert.Contains(t, string(files["fonts.css"]), "@font-face {\n  font-family: \"Arial\";\n  src: url(\"fonts/")
}

func TestNeeded(t *testing.T) {
	var faces []*metadata.Face
	for _, w := range []int{300, 400, 500, 700, 900} {
		for _, s := range []metadata.Slope{metadata.Upright, metadata.Italic} {
			faces = append(faces, &metadata.Face{Style: metadata.Style{Weight: w, WidthPercent: 100, Slope: s}})
		}
	}
	names := func(assignments ...pack.RoleAssignment) (out []string) {
		for _, n := range pack.Needed(nil, faces, assignments) {
			out = append(out, fmt.Sprintf("%d %s: %s", faces[n.Index].Style.Weight, faces[n.Index].Style.Slope, n.Why))
		}
		return out
	}
	assert.Len(t, names(), 10, "nothing is said of roles")
	assert.Equal(t, []string{"400 upright: body text", "400 italic: italic in body text", "700 upright: bold in body text", "900 upright: heading 1"},
		names(pack.RoleAssignment{Role: builder.Body, Weight: 400}, pack.RoleAssignment{Role: builder.Heading1, Weight: 800}))
	assert.Equal(t, []string{"700 upright: heading 1, heading 2"}, names(pack.RoleAssignment{Role: builder.Heading1, Weight: 700}, pack.RoleAssignment{Role: builder.Heading2, Weight: 700}), "of ten faces one is needed")
}

// TestFileURLs has a platform that gives addresses only after the upload.
func TestFileURLs(t *testing.T) {
	in := input(t, "linked-stylesheet")
	files, packed := assemble(t, in)
	assert.NotContains(t, files, "fonts.css", "an unfinished stylesheet would be uploaded as it is")
	assert.Len(t, packed.Awaits, 6)
	assert.Empty(t, packed.Styles)
	assert.Contains(t, string(files["upload-slip.html"]), "file-urls add")
	in.FileURLs = map[string]pack.FileURLs{}
	for i, e := range packed.Entries {
		if e.Place >= 0 {
			in.FileURLs[e.Path] = pack.FileURLs{Address: fmt.Sprintf("https://files.example/%d", i), SHA256: e.SHA256}
		}
	}
	files, packed = assemble(t, in)
	assert.Empty(t, packed.Awaits)
	assert.True(t, packed.Sheet)
	assert.Equal(t, 6, strings.Count(string(files["fonts.css"]), `url("https://files.example/`))
	in.FileURLs["fonts.css"] = pack.FileURLs{Address: "https://files.example/sheet"}
	_, packed = assemble(t, in)
	assert.False(t, packed.Sheet)
	require.Len(t, packed.Pastes, 1)
	assert.Equal(t, "https://files.example/sheet", packed.Pastes[0].Text)
	in.Families[0].Faces[0].Files[0].Blob = pack.BlobOf([]byte("a newer version"))
	_, packed = assemble(t, in)
	require.Len(t, packed.Awaits, 1, "what has not changed is reused")
	for _, e := range packed.Entries {
		assert.Equal(t, e.Path == packed.Awaits[0], e.Changed)
	}
}

// TestInline has the forms of styles that are pasted.
func TestInline(t *testing.T) {
	land := func(kind string) (string, map[string][]byte) {
		in := input(t, kind)
		in.FileURLs = map[string]pack.FileURLs{}
		_, packed := assemble(t, in)
		for _, path := range packed.Awaits {
			for _, e := range packed.Entries {
				if e.Path == path {
					in.FileURLs[path] = pack.FileURLs{Address: "https://x.example/" + string(e.Format), SHA256: e.SHA256}
				}
			}
		}
		files, packed := assemble(t, in)
		return packed.Styles, files
	}
	box, files := land("style-box")
	assert.True(t, strings.HasPrefix(box, "/*"))
	assert.NotContains(t, box, "<")
	assert.Equal(t, box, string(files["styles-to-paste.css"]))
	block, _ := land("page-block")
	assert.Contains(t, block, "<p class=\"fonts-of-this-site\">Fonts of Fähre &amp; Co.")
	assert.Equal(t, 1, strings.Count(block, "</style>"), "no name ends the style element early")
	script, _ := land("course-script")
	assert.Contains(t, script, "document.createElement('style')")
	assert.NotContains(t, script, "</style>")
	swaps, _ := land("prototype")
	assert.Contains(t, swaps, "Example Bold\thttps://x.example/woff2\n")
}

func TestApps(t *testing.T) {
	files, _ := assemble(t, input(t, "apple-app"))
	assert.Contains(t, string(files["Info-fonts.plist"]), "<string>PSBold.ttf</string>")
	assert.Contains(t, string(files["FontNames.swift"]), `static let exampleSansBold = "PSBold"`)
	files, _ = assemble(t, input(t, "android-app"))
	var family struct {
		Fonts []struct {
			Font   string `xml:"font,attr"`
			Weight int    `xml:"fontWeight,attr"`
			Style  string `xml:"fontStyle,attr"`
		} `xml:"font"`
	}
	require.NoError(t, xml.Unmarshal(files["res/font/example_sans.xml"], &family))
	require.Len(t, family.Fonts, 3)
	assert.Equal(t, "@font/example_sans_bold", family.Fonts[2].Font)
	assert.Contains(t, files, "res/font/example_sans_bold.ttf")
	assert.Equal(t, 700, family.Fonts[2].Weight)
}

// TestEachAlone has a platform without weights: both shapes are there.
func TestEachAlone(t *testing.T) {
	in := input(t, "self-hosted")
	in.Rules.Families = builder.FamilyEach
	in.RoleAssignments = []pack.RoleAssignment{{Role: builder.Heading1, Family: in.Families[0].Name, Weight: 700}}
	files, _ := assemble(t, in)
	sheet := string(files["fonts.css"])
	assert.Contains(t, sheet, "font-family: \"Example Bold\";")
	assert.Contains(t, sheet, "font-weight: 700;\n  font-style: normal;\n  font-display", "and as one family")
	assert.Contains(t, sheet, "h1 {\n  font-family: \"Example Bold\", sans-serif;\n  font-weight: normal;")
}

func TestOldBrowsers(t *testing.T) {
	in := input(t, "self-hosted")
	in.Rules = in.Rules.WithOld()
	for i := range in.Families[0].Faces {
		f := &in.Families[0].Faces[i]
		f.Files = nil
		for _, c := range in.Rules.Formats() {
			f.Files = append(f.Files, pack.File{Format: c, Blob: pack.BlobOf([]byte(string(c) + f.Style))})
		}
	}
	files, _ := assemble(t, in)
	assert.Contains(t, string(files["fonts.css"]), "src: url(\"fonts/example-sans-bold.eot\");\n  src: url(\"fonts/example-sans-bold.eot?#iefix\") format(\"embedded-opentype\"),\n       url(\"fonts/example-sans-bold.woff2\") format(\"woff2\"),")
	assert.Contains(t, string(files["fonts.css"]), `url("fonts/example-sans-bold.eot?#iefix") format("embedded-opentype")`)
	assert.Contains(t, string(files["upload-slip.html"]), "for Internet Explorer")
}

func TestManifestNamesEveryFile(t *testing.T) {
	files, _ := assemble(t, input(t, "bundler"))
	var m struct {
		Builder  string
		Families []struct {
			Verdict string
			SignOff *pack.SignOff
		}
		Files []struct {
			Path, SHA256, PostScript string
			Bytes                    int
		}
	}
	require.NoError(t, json.Unmarshal(files["manifest.json"], &m))
	assert.Equal(t, "bundler", m.Builder)
	assert.Equal(t, "review", m.Families[0].Verdict)
	assert.Equal(t, "Ines", m.Families[0].SignOff.By)
	require.Len(t, m.Files, len(files)-1, "all but itself")
	for _, f := range m.Files {
		sum := sha256.Sum256(files[f.Path])
		assert.Equal(t, hex.EncodeToString(sum[:]), f.SHA256, f.Path)
		assert.Equal(t, len(files[f.Path]), f.Bytes)
	}
}

func TestSPDX(t *testing.T) {
	in := input(t, "self-hosted")
	in.Families[0].Licenses = append(in.Families[0].Licenses, pack.License{Name: "SIL Open Font License", SPDX: "OFL-1.1"})
	files, _ := assemble(t, in)
	var d struct {
		Version  string `json:"spdxVersion"`
		Packages []struct{ LicenseDeclared, LicenseConcluded, CopyrightText string }
		Files    []struct {
			FileName  string
			Checksums []struct{ Algorithm, ChecksumValue string }
		}
		Extracted []struct{ LicenseID, Name string } `json:"hasExtractedLicensingInfos"`
	}
	require.NoError(t, json.Unmarshal(files["licenses.spdx.json"], &d))
	assert.Equal(t, "SPDX-2.3", d.Version)
	assert.Equal(t, "LicenseRef-1 OR OFL-1.1", d.Packages[0].LicenseDeclared)
	assert.Equal(t, "license 1", d.Extracted[0].Name)
	require.Len(t, d.Files, 6)
	for _, f := range d.Files {
		sum := sha1.Sum(files[strings.TrimPrefix(f.FileName, "./")])
		assert.Equal(t, hex.EncodeToString(sum[:]), f.Checksums[0].ChecksumValue)
	}
}

func TestZipIsTheSameEachTime(t *testing.T) {
	var zips [2]bytes.Buffer
	for i := range zips {
		packed, err := pack.Assemble(input(t, "self-hosted"))
		require.NoError(t, err)
		require.NoError(t, pack.Zip(&zips[i], packed.Entries))
	}
	assert.Equal(t, zips[0].Bytes(), zips[1].Bytes())
	z, err := zip.NewReader(bytes.NewReader(zips[0].Bytes()), int64(zips[0].Len()))
	require.NoError(t, err)
	want, _ := assemble(t, input(t, "self-hosted"))
	require.Len(t, z.File, len(want))
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		got, err := io.ReadAll(r)
		require.NoError(t, err)
		assert.Equal(t, want[f.Name], got, f.Name)
		assert.Equal(t, strings.HasPrefix(f.Name, "fonts/"), f.Method == zip.Store)
	}
}

// TestMatch has the rules of CSS Fonts Level 4, section 5.2.
func TestMatch(t *testing.T) {
	face := func(weight int, slope metadata.Slope) *metadata.Face {
		return &metadata.Face{Style: metadata.Style{Weight: weight, WidthPercent: 100, Slope: slope}}
	}
	variable := face(400, metadata.Upright)
	variable.Axes = []metadata.Axis{{Tag: "wght", Min: 300, Max: 800}}
	for _, one := range []struct {
		have   []int
		want   int
		chosen int
	}{
		{[]int{300, 500, 700}, 400, 500}, {[]int{300, 600, 700}, 400, 300}, {[]int{300, 400, 700}, 500, 400}, {[]int{300, 600}, 500, 300},
		{[]int{300, 400, 700}, 600, 700}, {[]int{300, 400}, 700, 400}, {[]int{100, 300, 400}, 200, 100}, {[]int{300, 400}, 200, 300},
	} {
		var faces []*metadata.Face
		for _, w := range one.have {
			faces = append(faces, face(w, metadata.Upright))
		}
		assert.Equal(t, one.chosen, faces[pack.Match(faces, one.want, "")].Style.Weight, "%v for %d", one.have, one.want)
	}
	assert.Equal(t, -1, pack.Match(nil, 400, ""))
	assert.Equal(t, 1, pack.Match([]*metadata.Face{face(400, metadata.Upright), face(900, metadata.Italic)}, 400, metadata.Italic), "slope before weight")
	assert.Equal(t, 1, pack.Match([]*metadata.Face{face(900, metadata.Upright), variable}, 800, ""), "a variable font reaches it")
}

// zeros is content of a size that nothing holds.
func zeros(name string, n int64) pack.Blob {
	return pack.Blob{SHA256: fmt.Sprintf("%064x", name), Bytes: n, Open: func() (io.ReadCloser, error) { return io.NopCloser(io.LimitReader(none{}, n)), nil }}
}

type none struct{}

func (none) Read(p []byte) (int, error) {
	clear(p)
	return len(p), nil
}

// TestMemoryDoesNotGrowWithThePack lays out and zips packs of small and of large
// fonts: what is allocated is the same.
func TestMemoryDoesNotGrowWithThePack(t *testing.T) {
	allocated := func(size int64) uint64 {
		in := input(t, "self-hosted")
		for i := range in.Families[0].Faces {
			for k := range in.Families[0].Faces[i].Files {
				in.Families[0].Faces[i].Files[k].Blob = zeros(fmt.Sprint(i, k, size), size)
			}
		}
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		packed, err := pack.Assemble(in)
		require.NoError(t, err)
		require.NoError(t, pack.Zip(io.Discard, packed.Entries))
		runtime.ReadMemStats(&after)
		return after.TotalAlloc - before.TotalAlloc
	}
	allocated(1000) // what is made once
	small, large := allocated(10_000), allocated(20_000_000)
	assert.Less(t, large, small+1_000_000, "six files of 20 MB took %d bytes, of 10 kB %d", large, small)
}

// TestFoldersOfInstalledFontsDoNotMeet packs for clients whose names have no letters that a
// folder's name is made of.
func TestFoldersOfInstalledFontsDoNotMeet(t *testing.T) {
	folders := map[string]bool{}
	for _, client := range []string{"港口", "渡轮", "Café", "Cafe", "Quay & Pier"} {
		in := input(t, "desktop")
		in.Site, in.Client = client, client
		files, _ := assemble(t, in)
		folder := regexp.MustCompile(`(?m)^to=(.*)$`).FindStringSubmatch(string(files["install-linux.sh"]))[1]
		assert.False(t, folders[folder], folder)
		folders[folder] = true
	}
	assert.True(t, folders[`"${XDG_DATA_HOME:-$HOME/.local/share}/fonts"/'cafe'`], "where nothing of the name is lost, it is the name")
}

// TestLicenseTextsOfTheSameName puts three families on a site whose names are alike in small
// letters: each license text has its own file.
func TestLicenseTextsOfTheSameName(t *testing.T) {
	in := input(t, "self-hosted")
	one := in.Families[0]
	one.Licenses = []pack.License{{Name: "license 1", SPDX: "OFL-1.1", Text: "The text of it."}}
	in.Families = nil
	for _, name := range []string{"Example Sans", "Example-Sans", "example sans", "Example Serif"} {
		one.Name = name
		in.Families = append(in.Families, one)
	}
	files, _ := assemble(t, in)
	var texts []string
	for path := range files {
		if strings.HasSuffix(path, ".txt") && strings.Contains(path, "-license") {
			texts = append(texts, path)
		}
	}
	slices.Sort(texts)
	assert.Equal(t, []string{"fonts/example-sans-license-2.txt", "fonts/example-sans-license-3.txt", "fonts/example-sans-license.txt", "fonts/example-serif-license.txt"}, texts)
	for _, path := range texts {
		assert.Contains(t, string(files[path]), "The text of it.", path)
	}
}
