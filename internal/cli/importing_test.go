package cli_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/demo"
)

// fails runs a command that is refused and gives what it says.
func (s *shell) fails(code int, args ...string) string {
	s.t.Helper()
	_, errs, got := s.run(args...)
	require.Equal(s.t, code, got, "%v: %s", args, errs)
	return errs
}

// TestBuilderCommands copies, edits, imports, tries and takes away builder rules.
func TestBuilderCommands(t *testing.T) {
	s := demoShell(t)
	fonts, err := demo.Fonts()
	require.NoError(t, err)
	for _, f := range fonts {
		s.write(f.Name, f.Data)
	}
	assert.Contains(t, s.ok("builder", "show", "upload-form"), "Font name: full, must be the file's and the font's name")
	assert.Contains(t, s.fails(1, "builder", "show", "nobody"), `There are no builder rules "nobody"; there are android-app`)
	s.ok("builder", "copy", "--as", "harbour-cms", "--name", "Harbour CMS", "upload-form")
	assert.Contains(t, s.fails(1, "builder", "copy", "--as", "harbour-cms", "--name", "Again", "upload-form"), "already")
	s.ok("builder", "export", "--out", "rules.json", "harbour-cms")
	path := filepath.Join(s.folder, "rules.json")
	text, err := os.ReadFile(path)
	require.NoError(t, err)
	var rules map[string]any
	require.NoError(t, json.Unmarshal(text, &rules))
	rules["files"].(map[string]any)["named"] = "hyphens"
	changed, err := json.Marshal(rules)
	require.NoError(t, err)
	s.write("rules.json", changed)
	assert.Contains(t, s.ok("builder", "import", "rules.json"), "small letters, digits and hyphens")
	assert.Contains(t, s.ok("builder", "versions", "harbour-cms"), "files.named: full → hyphens")
	rules["kind"], rules["name"] = "quay-cms", "Quay CMS"
	fresh, err := json.Marshal(rules)
	require.NoError(t, err)
	s.write("rules.json", fresh)
	assert.Contains(t, s.ok("builder", "import", "rules.json"), "Quay CMS  (quay-cms, 1, your own)")
	rules["styles"] = map[string]any{"form": "sideways"}
	wrong, err := json.Marshal(rules)
	require.NoError(t, err)
	s.write("rules.json", wrong)
	assert.Contains(t, s.fails(1, "builder", "import", "rules.json"), "“styles.form”")
	s.write("rules.json", []byte("{"))
	assert.Contains(t, s.fails(1, "builder", "import", "rules.json"), "is no JSON")
	assert.Contains(t, s.ok("builder", "schema"), `"title": "Builder rules"`)
	out, _, code := s.run("builder", "try", "upload-form", "SkerrowSans-Bold.ttf", "SkerrowSans-Light.ttf")
	assert.Equal(t, 1, code)
	assert.Contains(t, out, "SkerrowSans-Bold.ttf: refused")
	assert.Contains(t, out, "This file is TTF; the platform accepts woff2.")
	assert.Contains(t, out, "Upload one file at a time")
	assert.Contains(t, s.ok("builder", "try", "desktop", "SkerrowSans-Bold.ttf"), "SkerrowSans-Bold.ttf: taken")
	assert.Contains(t, s.fails(2, "builder", "try", "desktop"), "at least one FILE")
	assert.Contains(t, s.fails(2, "builder", "try", "--field", "Weight", "desktop", "SkerrowSans-Bold.ttf"), "LABEL=TEXT")
	s.ok("builder", "delete", "quay-cms")
	assert.Contains(t, s.fails(1, "builder", "delete", "desktop"), "came with the service and stays")
}

// TestPlacingAndPacking places families, decides about the pack, builds it, brings
// addresses back and ticks pages.
func TestPlacingAndPacking(t *testing.T) {
	s := demoShell(t)
	const members = "Holmvik members' pages"
	placed := s.ok("site", "assign", "--weight", "700", "--selector", ".fares td", "--name", "Fare table", "--fallback", "Georgia", "--fallback", "serif", members, "fare-table", "Skerrow Sans")
	assert.Regexp(t, `Fare table +Skerrow Sans Bold +700 +normal +Georgia, serif +\.fares td`, placed)
	assert.Contains(t, s.fails(1, "site", "assign", members, "fare-table", "Skerrow Sans"), "needs a selector")
	assert.Regexp(t, `Quotes +Skerrow Sans Light +300`, s.ok("site", "assign", "--face", "Skerrow Sans Light", members, "quotes", "Skerrow Sans"))
	assert.Contains(t, s.fails(1, "site", "assign", "--face", "Ultra", members, "quotes", "Skerrow Sans"), `no face "Ultra"`)
	s.ok("site", "unassign", members, "quotes")
	many := s.ok("site", "roles", members, "body=Skerrow Sans", "headings,navigation=Skerrow Sans:Bold", "heading-2=Skerrow Sans:300")
	assert.Regexp(t, `Heading 6 +Skerrow Sans Bold +700`, many)
	assert.Regexp(t, `Heading 2 +Skerrow Sans Light +300`, many)
	assert.Regexp(t, `Navigation +Skerrow Sans Bold +700`, many)
	assert.Contains(t, many, "Fare table", "what is not named stays")
	assert.NotContains(t, s.ok("site", "roles", members, "headings,navigation="), "Heading")
	s.ok("site", "roles", "--fallback", "Arial", "--fallback", "sans-serif", members, "body=Skerrow Sans:400", "heading-1=Skerrow Sans:700")
	assert.Contains(t, s.fails(1, "site", "roles", members, "body=Skerrow Sans:Ultra"), `no face "Ultra"`)
	assert.Contains(t, s.fails(2, "site", "roles", members, "body"), "names no role")
	assert.Contains(t, s.fails(2, "site", "roles", members), "at least one ROLE=")
	assert.Contains(t, s.fails(1, "site", "unassign", members, "code"), "has no font there")
	assert.NotContains(t, s.ok("site", "unassign", members, "fare-table"), "Fare table")
	assert.Contains(t, s.ok("site", "replace", members, "Pilothouse Draft", "Skerrow Sans"), `The name "Pilothouse Draft" becomes Skerrow Sans`)
	assert.Contains(t, s.fails(1, "site", "remove-replacement", members, "Helmsman"), "is not replaced there")
	s.ok("site", "remove-replacement", members, "Pilothouse Draft")
	assert.Contains(t, s.ok("site", "change", "--environment", "live", "--environment", "quiet=/q/", "--sample-text", "All aboard", members), "live, quiet at /q/")

	onlyLight := s.ok("pack", "choose", "--only", "Skerrow Sans Light", members)
	assert.Regexp(t, `Skerrow Sans Light +included`, onlyLight)
	assert.Regexp(t, `Skerrow Sans Bold +not included`, onlyLight)
	assert.Regexp(t, `Skerrow Sans Regular +not included`, onlyLight)
	s.ok("pack", "choose", "--fresh", members)
	plan := s.ok("pack", "choose", "--include", "Skerrow Sans Light", "--exclude", "Skerrow Sans Bold", members)
	assert.Regexp(t, `Skerrow Sans Light +included`, plan)
	assert.Regexp(t, `Skerrow Sans Bold +not included`, plan)
	assert.Contains(t, plan, "will be faux bold")
	assert.Contains(t, s.fails(1, "pack", "choose", "--include", "Skerrow Sans Ultra", members), `no face "Skerrow Sans Ultra"`)
	assert.Regexp(t, `Skerrow Sans Light +not included`, s.ok("pack", "choose", "--fresh", members))
	assert.Contains(t, s.ok("pack", "plan", "--environment", "quiet", members), "quiet)")
	assert.Contains(t, s.fails(1, "pack", "plan", "--environment", "moon", members), "choose one of live, quiet")
	assert.Contains(t, s.ok("pack", "plan", "Holmvik timetable app"), "The app grows by")
	s.ok("pack", "build", "--out", "members.zip", members)
	assert.Contains(t, s.ok("pack", "list", members), "holmvik-members-pages-live-fonts.zip")
	s.ok("pack", "family", "--builder", "apple-app", "--out", "app.zip", "Skerrow Sans")
	z, err := zip.OpenReader(filepath.Join(s.folder, "app.zip"))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	assert.Contains(t, s.fails(1, "pack", "family", "--builder", "page-block", "--out", "x.zip", "Skerrow Sans"), "put Skerrow Sans on a site")
	assert.NoFileExists(t, filepath.Join(s.folder, "x.zip"), "nothing half-done stays")

	assert.Contains(t, s.fails(1, "file-urls", "styles", members), "2 file URLs are missing")
	s.write("addresses.txt", []byte("regular: https://files.example/1/skerrow-sans-regular.woff2\nand “https://files.example/2/skerrow-sans-bold.woff2”\n"))
	assert.Contains(t, s.ok("file-urls", "add", members, "addresses.txt"), "HTML block, to put in the HTML box of the page")
	styles := s.ok("file-urls", "styles", members)
	assert.Contains(t, styles, `url("https://files.example/2/skerrow-sans-bold.woff2")`)
	c := s.command("file-urls", "add", "--in-order", "--environment", "quiet", members, "-")
	c.Stdin = bytes.NewBufferString("https://files.example/a\nhttps://files.example/b\n")
	said, err := c.CombinedOutput()
	require.NoError(t, err, "%s", said)
	assert.Contains(t, string(said), "https://files.example/b")
	assert.Contains(t, s.ok("file-urls", "remove", members), "Missing:")
	assert.Contains(t, s.fails(1, "file-urls", "add", "Holmvik timetable", "https://files.example/x.woff2"), "needs no addresses back")

	assert.Contains(t, s.ok("pages", "add", members, "news", "/tickets"), "/news")
	assert.Contains(t, s.ok("pages", "done", members, "/news"), "1 of 4 done.")
	assert.Contains(t, s.ok("pages", "done", members, "/news", "/tickets"), "2 of 4 done.")
	assert.Contains(t, s.fails(1, "pages", "undone", members, "/news", "/moon"), `no page "/moon"`)
	assert.Contains(t, s.ok("pages", "done", members, "/news"), "2 of 4 done.", "nothing was changed")
	assert.Contains(t, s.ok("pages", "undone", members, "/news", "/tickets"), "0 of 4 done.")
	assert.Contains(t, s.fails(1, "pages", "done", members, "/moon"), `no page "/moon"`)
	assert.NotContains(t, s.ok("pages", "remove", members, "/news"), "/news")

	assert.Contains(t, s.ok("pack", "everywhere", "Skerrow Sans"), "No site carries an old version of Skerrow Sans.")
	assert.Contains(t, s.fails(1, "pack", "everywhere", "--out", "all.zip", "Skerrow Sans"), "No site carries an old version")
	assert.NoFileExists(t, filepath.Join(s.folder, "all.zip"))

	// The site moves on: its pack is out of date, on the site and on the due list.
	s.ok("site", "assign", "--weight", "300", members, "heading-1", "Skerrow Sans")
	assert.Contains(t, s.ok("site", "show", members), "Heading 1 is Skerrow Sans, weight 300 now")
	assert.Contains(t, s.ok("due"), "is out of date")
	assert.Contains(t, s.ok("family", "Skerrow Sans"), "Body text")
}
