package imports

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"sparecrate/internal/app"
	"sparecrate/internal/library"
	"sparecrate/internal/store"
)

func TestVersionsAreComparedAsVersions(t *testing.T) {
	ordered := []string{"", "Version 0.9", "Version 1.000", "Version 1.000; build 2", "Version 1.90", "Version 1.101", "2.0", "Version 10.1"}
	for i, a := range ordered {
		for j, b := range ordered {
			got := library.CompareVersions(a, b)
			assert.Equal(t, i < j, got < 0, "%q and %q", a, b)
			assert.Equal(t, i > j, got > 0, "%q and %q", a, b)
		}
	}
	assert.Zero(t, library.CompareVersions("Version 1.000", "v1.0"), "1.000 and 1.0 are one version")
}

func TestFileNamesAreOnlyNames(t *testing.T) {
	for in, want := range map[string]string{
		"A B.ttf": "A B.ttf", "../../etc/passwd": "passwd", `C:\fonts\x.otf`: "x.otf", "": "font", "/": "font", "..": "..", "a\x00b\n.ttf": "ab.ttf", "字.ttf": "字.ttf",
	} {
		assert.Equal(t, want, app.FileName(in), "%q", in)
	}
}

// TestWhichFilePacksTake says which of a face's files becomes the current one.
func TestWhichFilePacksTake(t *testing.T) {
	there := func(container, version string) store.FaceHead {
		return headOf([]store.FaceFile{{Current: true, Version: version, File: store.File{Container: container}}})
	}
	for _, test := range []struct {
		name, container, version string
		there                    store.FaceHead
		outcome                  string
		takes                    bool
	}{
		{"the first", "ttf", "1.0", headOf(nil), "new", true},
		{"newer", "ttf", "1.1", there("ttf", "1.0"), "newer", true},
		{"newer, though compressed", "woff", "1.1", there("ttf", "1.0"), "newer", true},
		{"older", "ttf", "0.9", there("ttf", "1.0"), "older", false},
		{"compressed beside plain", "woff2", "1.0", there("ttf", "1.0"), "sibling", false},
		{"plain beside compressed", "otf", "1.0", there("woff2", "1.0"), "sibling", true},
		{"other bytes of the same version", "ttf", "1.0", there("ttf", "1.0"), "newer", true},
	} {
		outcome, takes := weigh("Version "+test.version, test.container, test.there)
		assert.EqualValues(t, test.outcome, outcome, test.name)
		assert.Equal(t, test.takes, takes, test.name)
	}
}
