package imports

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"sparecrate/font/coverage"
	"sparecrate/font/identity"
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

// related is evidence of so many common characters, and how many only the file in use
// and only the arrived one have.
func related(how identity.Relation, common, lacks, adds int) *identity.Evidence {
	e := &identity.Evidence{Relation: how, Common: common}
	if lacks > 0 {
		e.OnlyA = coverage.Characters{{First: 0x100, Count: lacks}}
	}
	if adds > 0 {
		e.OnlyB = coverage.Characters{{First: 0x1000, Count: adds}}
	}
	return e
}

// TestWhichFilePacksTake says which of a face's files becomes the current one.
func TestWhichFilePacksTake(t *testing.T) {
	there := func(container, version string) store.FaceHead {
		return headOf([]store.FaceFile{{Current: true, Version: version, File: store.File{Container: container}}})
	}
	for _, test := range []struct {
		name, container, version string
		there                    store.FaceHead
		judged                   *identity.Evidence
		outcome                  string
		takes                    bool
	}{
		{"the first", "ttf", "1.0", headOf(nil), nil, "new", true},
		{"newer", "ttf", "1.1", there("ttf", "1.0"), nil, "newer", true},
		{"newer, though compressed", "woff", "1.1", there("ttf", "1.0"), nil, "newer", true},
		{"older", "ttf", "0.9", there("ttf", "1.0"), nil, "older", false},
		{"compressed beside plain", "woff2", "1.0", there("ttf", "1.0"), nil, "sibling", false},
		{"plain beside compressed", "otf", "1.0", there("woff2", "1.0"), nil, "sibling", true},
		{"other bytes of the same version", "ttf", "1.0", there("ttf", "1.0"), nil, "newer", true},
		{"a part of the same version", "ttf", "1.0", there("ttf", "1.0"), related(identity.Part, 60, 230, 0), "part", false},
		{"a part in a container of its own", "woff2", "1.0", there("ttf", "1.0"), related(identity.Part, 60, 230, 0), "part", false},
		{"the whole behind a part", "ttf", "1.0", there("ttf", "1.0"), related(identity.Part, 60, 0, 230), "whole", true},
		{"the whole of an older version behind a part", "ttf", "0.9", there("ttf", "1.0"), related(identity.Part, 60, 0, 230), "whole", true},
		{"a newer version with some characters more", "ttf", "1.1", there("ttf", "1.0"), related(identity.Part, 230, 0, 60), "newer", true},
		{"a newer version that drops a character", "ttf", "1.1", there("ttf", "1.0"), related(identity.Part, 230, 1, 0), "newer", true},
		{"a part that calls itself newer", "ttf", "1.1", there("ttf", "1.0"), related(identity.Part, 60, 230, 0), "part", false},
		{"an older version with a character more", "ttf", "0.9", there("ttf", "1.0"), related(identity.Part, 230, 0, 1), "older", false},
		{"parts that meet, the smaller", "woff2", "1.0", there("woff2", "1.0"), related(identity.Part, 20, 90, 30), "part", false},
		{"parts that meet, the larger", "woff2", "1.0", there("woff2", "1.0"), related(identity.Part, 20, 30, 90), "whole", true},
		{"another design under the names", "ttf", "2.0", there("ttf", "1.0"), related(identity.Different, 200, 0, 0), "mislabeled", false},
		{"too little to tell", "ttf", "1.0", there("ttf", "1.0"), related(identity.Different, 2, 0, 0), "newer", true},
		{"redrawn in the next version", "ttf", "1.1", there("ttf", "1.0"), related(identity.Version, 200, 0, 5), "newer", true},
	} {
		outcome, takes := weigh("Version "+test.version, test.container, test.there, test.judged)
		assert.EqualValues(t, test.outcome, outcome, test.name)
		assert.Equal(t, test.takes, takes, test.name)
	}
}
