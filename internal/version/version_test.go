package version

import (
	"runtime/debug"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestVersions(t *testing.T) {
	commit := []debug.BuildSetting{{Key: "vcs.revision", Value: "0123456789abcdef0123"}}
	changed := append(commit, debug.BuildSetting{Key: "vcs.modified", Value: "true"}) //nolint:gocritic // another list on purpose
	for want, info := range map[string]debug.BuildInfo{
		"v1.2.0":                        {Main: debug.Module{Version: "v1.2.0"}, Settings: commit},
		"0123456789ab":                  {Main: debug.Module{Version: "(devel)"}, Settings: commit},
		"0123456789ab+":                 {Settings: changed},
		"built without version control": {},
	} {
		assert.Equal(t, want, of(&info))
	}
	assert.NotEmpty(t, String())
}
