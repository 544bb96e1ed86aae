package fileurls_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"sparecrate/internal/fileurls"
)

var files = []string{"skerrow-sans-regular.woff2", "skerrow-sans-regular.woff", "skerrow-sans-bold.woff2", "skerrow-sans-bold.woff", "skerrow-sans-bold-italic.woff2"}

// TestRead has addresses as people paste them.
func TestRead(t *testing.T) {
	for name, one := range map[string]struct {
		text    string
		inOrder bool
		want    map[string]string
		note    string
	}{
		"a list": {"https://x.example/a/skerrow-sans-regular.woff2\nhttps://x.example/a/skerrow-sans-bold.woff2", false,
			map[string]string{files[0]: "https://x.example/a/skerrow-sans-regular.woff2", files[2]: "https://x.example/a/skerrow-sans-bold.woff2"}, ""},
		"a stylesheet": {`@font-face { src: url("https://x.example/f/Skerrow%20Sans%20Bold.woff2?v=3") format("woff2"), url('//cdn.example/skerrow-sans-bold.woff') }`, false,
			map[string]string{files[2]: "https://x.example/f/Skerrow%20Sans%20Bold.woff2?v=3", files[3]: "//cdn.example/skerrow-sans-bold.woff"}, ""},
		"a whole tag": {`<a href="https://x.example/u?file=skerrow-sans-regular&amp;kind=.woff2">copy</a>`, false,
			map[string]string{files[0]: "https://x.example/u?file=skerrow-sans-regular&kind=.woff2"}, ""},
		"marks around names": {"https://x.example/77af_skerrow_sans_bold_9c.woff2, https://x.example/skerrow_sans_bold_italic-1.woff2.", false,
			map[string]string{files[2]: "https://x.example/77af_skerrow_sans_bold_9c.woff2", files[4]: "https://x.example/skerrow_sans_bold_italic-1.woff2"}, ""},
		"from the root":        {"/media/skerrow-sans-regular.woff", false, map[string]string{files[1]: "/media/skerrow-sans-regular.woff"}, ""},
		"curly quotes":         {"“https://x.example/skerrow-sans-bold.woff”", false, map[string]string{files[3]: "https://x.example/skerrow-sans-bold.woff"}, ""},
		"no names, in order":   {"https://x.example/1\nhttps://x.example/2\nhttps://x.example/3\nhttps://x.example/4\nhttps://x.example/5", true, map[string]string{files[0]: "https://x.example/1", files[4]: "https://x.example/5"}, ""},
		"no names":             {"https://x.example/1", false, nil, "does not match the name of a file"},
		"too few":              {"https://x.example/1", true, nil, "1 URL is left for 5 files"},
		"wrong order":          {strings.Repeat("", 1) + "https://x.example/1.woff\nhttps://x.example/2.woff\nhttps://x.example/3\nhttps://x.example/4\nhttps://x.example/5", true, nil, "Check the order"},
		"another file":         {"https://x.example/logo.woff2", false, nil, "does not match the name of a file"},
		"nothing":              {"I have uploaded them all", false, nil, "no URL in the pasted text"},
		"on the own machine":   {"file:///home/me/skerrow-sans-bold.woff2", false, nil, "on your computer"},
		"the site":             {"https://x.example/", false, nil, "the URL of a site"},
		"not of the web":       {"ftp://x.example/skerrow-sans-bold.woff2", false, nil, "is not a web URL"},
		"the newest is longer": {"https://x.example/skerrow-sans-bold-italic.woff2", false, map[string]string{files[4]: "https://x.example/skerrow-sans-bold-italic.woff2"}, ""},
	} {
		t.Run(name, func(t *testing.T) {
			got := fileurls.Read(one.text, files, one.inOrder)
			found := map[string]string{}
			for _, f := range got.Found {
				found[f.File] = f.Address
			}
			for file, a := range one.want {
				assert.Equal(t, a, found[file], file)
			}
			if len(one.want) > 0 && !one.inOrder {
				assert.Len(t, found, len(one.want))
			}
			if one.note == "" {
				assert.Empty(t, got.Notes)
			} else {
				assert.Contains(t, strings.Join(got.Notes, " "), one.note)
			}
		})
	}
}

func FuzzRead(f *testing.F) {
	f.Add("https://x.example/skerrow-sans-bold.woff2", true)
	f.Fuzz(func(t *testing.T, text string, inOrder bool) {
		given := map[string]bool{}
		for _, one := range fileurls.Read(text, files, inOrder).Found {
			assert.False(t, given[one.File], "a file has one address")
			given[one.File] = true
			assert.NoError(t, fileurls.Check(one.Address))
			assert.NotContains(t, one.Address, `"`)
		}
	})
}
