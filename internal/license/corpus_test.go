package license_test

import (
	"bytes"
	"compress/gzip"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/license"
)

// shortNames gives the identifier that a short name in a machine-readable copyright
// file of Debian means; the first pattern that matches counts.
var shortNames = []struct {
	pattern *regexp.Regexp
	id      string
}{
	{regexp.MustCompile(`(?i)^a?gpl.*(?:,| (?:and|or) )|\blgpl|^(?:gpl|ofl).* or |dual`), ""}, // several at once
	{regexp.MustCompile(`(?i)^agpl-?v?3.*(?:exception|fe)`), "AGPL-3.0-only WITH Font-exception-2.0"},
	{regexp.MustCompile(`(?i)^gpl-?v?2(?:\.0)?(?:\+|-or-later).*(?:font|fe|exception)`), "GPL-2.0-or-later WITH Font-exception-2.0"},
	{regexp.MustCompile(`(?i)^gpl-?v?2.*(?:font|fe|exception)`), "GPL-2.0-only WITH Font-exception-2.0"},
	{regexp.MustCompile(`(?i)^gpl-?v?3(?:\.0)?(?:\+|-or-later).*(?:font|fe|exception)`), "GPL-3.0-or-later WITH Font-exception-2.0"},
	{regexp.MustCompile(`(?i)^gpl-?v?3.*(?:font|fe|exception)`), "GPL-3.0-only WITH Font-exception-2.0"},
	{regexp.MustCompile(`(?i)^gpl-?v?2(?:\.0)?(?:\+|-or-later)$`), "GPL-2.0-or-later"},
	{regexp.MustCompile(`(?i)^gpl-?v?2(?:\.0)?$`), "GPL-2.0-only"},
	{regexp.MustCompile(`(?i)^gpl-?v?3(?:\.0)?(?:\+|-or-later)$`), "GPL-3.0-or-later"},
	{regexp.MustCompile(`(?i)^gpl-?v?3(?:\.0)?$`), "GPL-3.0-only"},
	{regexp.MustCompile(`(?i)^(?:sil[- ])?(?:open font licen[cs]e|ofl)[- ]?v?1\.0`), "OFL-1.0"},
	{regexp.MustCompile(`(?i)^(?:sil[- ]?)?(?:open font licen[cs]e|ofl|sil)(?:[- ]?v?1\.1|$)`), "OFL-1.1"},
	{regexp.MustCompile(`(?i)^apache`), "Apache-2.0"},
	{regexp.MustCompile(`(?i)^(?:mit|expat)$`), "MIT"},
	{regexp.MustCompile(`(?i)^cc0`), "CC0-1.0"},
	{regexp.MustCompile(`(?i)^lppl-1\.3`), "LPPL-1.3c"},
	{regexp.MustCompile(`(?i)^bitstream`), "Bitstream-Vera"},
	{regexp.MustCompile(`(?i)^arphic`), "Arphic-1999"},
	{regexp.MustCompile(`(?i)^ipa`), "IPA"},
	{regexp.MustCompile(`(?i)^bsd-3`), "BSD-3-Clause"},
	{regexp.MustCompile(`(?i)^bsd-2`), "BSD-2-Clause"},
	{regexp.MustCompile(`(?i)^ubuntu`), "Ubuntu-font-1.0"},
	{regexp.MustCompile(`(?i)^cc-by-sa-4`), "CC-BY-SA-4.0"},
	{regexp.MustCompile(`(?i)^cc-by-sa-3`), "CC-BY-SA-3.0"},
	{regexp.MustCompile(`(?i)^cc-by-4`), "CC-BY-4.0"},
	{regexp.MustCompile(`(?i)^cc-by-3`), "CC-BY-3.0"},
	{regexp.MustCompile(`(?i)^wtfpl`), "WTFPL"},
}

// TestCorpusLicenses reads the license texts of the packages unpacked below
// SPARECRATE_FONTS, each folder a package with its usr/share/doc, and compares with
// what their copyright files say they are.
func TestCorpusLicenses(t *testing.T) {
	root := os.Getenv("SPARECRATE_FONTS")
	if root == "" {
		t.Skip("SPARECRATE_FONTS names no folder of unpacked packages")
	}
	files, err := filepath.Glob(filepath.Join(root, "*", "usr/share/doc", "*", "copyright"))
	require.NoError(t, err)
	require.NotEmpty(t, files)
	right, total, warned := 0, 0, 0
	for _, path := range files {
		b, err := os.ReadFile(path)
		require.NoError(t, err)
		for _, paragraph := range regexp.MustCompile(`\n\s*\n`).Split(string(b), -1) {
			m := regexp.MustCompile(`(?m)^License:[ \t]*(\S.*)\n((?:[ \t].*\n?)+)`).FindStringSubmatch(paragraph + "\n")
			if m == nil || len(m[2]) < 150 {
				continue
			}
			want := ""
			for _, s := range shortNames {
				if s.pattern.MatchString(strings.TrimSpace(m[1])) {
					want = s.id
					break
				}
			}
			if want == "" {
				continue
			}
			body := strings.ReplaceAll(m[2], "\n .\n", "\n\n")
			total++
			found := license.Read(license.Text{Source: filepath.Base(filepath.Dir(path)), Body: body})
			got := license.Propose(found)
			if len(got) > 0 && got[0].License == want {
				right++
			} else {
				ids := []string{}
				for _, g := range got {
					ids = append(ids, g.License)
				}
				t.Logf("%s: says %q, read as %v: %.160q", filepath.Base(filepath.Dir(path)), m[1], ids, strings.Join(strings.Fields(body), " "))
			}
			for _, w := range license.Warnings(found) {
				warned++
				t.Logf("%s: warning %s in a text of %s: %s", filepath.Base(filepath.Dir(path)), w.Signal, want, w.Quote)
			}
		}
	}
	t.Logf("%d of %d license texts in %d packages are read as what they are; %d warnings in them", right, total, len(files), warned)
	assert.GreaterOrEqual(t, float64(right), 0.97*float64(total))
	assert.LessOrEqual(t, float64(warned), 0.02*float64(total))
}

// readCommon reads a license text that Debian keeps for all packages.
func readCommon(name string) (string, error) {
	b, err := os.ReadFile(filepath.Join("/usr/share/common-licenses", name))
	return string(b), err
}

// TestCorpusWarnings reads every text that comes with the packages unpacked below
// SPARECRATE_FONTS: fonts that Debian passes on are free, so that each warning is a
// false alarm unless the text is about another font.
func TestCorpusWarnings(t *testing.T) {
	root := os.Getenv("SPARECRATE_FONTS")
	if root == "" {
		t.Skip("SPARECRATE_FONTS names no folder of unpacked packages")
	}
	texts, warned := 0, 0
	require.NoError(t, filepath.WalkDir(root, func(path string, d os.DirEntry, err error) error {
		if err != nil || !d.Type().IsRegular() || strings.HasPrefix(d.Name(), "changelog") || strings.HasPrefix(d.Name(), "NEWS") {
			return err
		}
		b, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		if strings.HasSuffix(path, ".gz") {
			r, err := gzip.NewReader(bytes.NewReader(b))
			if err != nil {
				return err
			}
			if b, err = io.ReadAll(io.LimitReader(r, 1<<20)); err != nil {
				return err
			}
		}
		if len(b) > 1<<20 || !utf8.Valid(b) || bytes.IndexByte(b, 0) >= 0 {
			return nil
		}
		texts++
		name, _ := filepath.Rel(root, path)
		for _, w := range license.Warnings(license.Read(license.Text{Source: name, Body: string(b)})) {
			if strings.HasPrefix(name, "fonts-unfonts") && w.Signal == license.Personal {
				continue // it quotes a maker who grants what is not commercial alone
			}
			warned++
			t.Logf("%s, %s: %s: %q in %s", name, w.Place, w.Signal, w.Phrase, w.Quote)
		}
		return nil
	}))
	t.Logf("%d warnings in %d texts", warned, texts)
	assert.NotZero(t, texts)
	assert.Zero(t, warned)
}
