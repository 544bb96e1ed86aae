package scripts_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/pack/scripts"
)

// TestHostileNamesAreNames installs and removes fonts whose names are written for a shell.
func TestHostileNamesAreNames(t *testing.T) {
	t.Parallel()
	names := []string{"it's $(touch hurt) `touch hurt`.ttf", `"; touch hurt; ".ttf`, "-rf.otf", "$HOME.ttf", "’; New-Item hurt; ‘.ttf"}
	p := scripts.Pack{Of: "A site\ntouch hurt", Own: "a-client", Folder: "fonts"}
	folder, home := t.TempDir(), t.TempDir()
	require.NoError(t, os.Mkdir(filepath.Join(folder, "fonts"), 0o700))
	for _, n := range names {
		require.NoError(t, os.WriteFile(filepath.Join(folder, "fonts", n), []byte(n), 0o600))
		p.Fonts = append(p.Fonts, scripts.Font{File: n, Full: "Full " + n + "\r\nNew-Item hurt"})
	}
	all := map[string]string{}
	for _, f := range scripts.Of(p) {
		all[f.Path] = f.Text
		require.NoError(t, os.WriteFile(filepath.Join(folder, f.Path), []byte(f.Text), 0o600))
	}
	require.Len(t, all, 6)
	run := func(script string) {
		cmd := exec.CommandContext(t.Context(), "sh", filepath.Join(folder, script))
		cmd.Env, cmd.Dir = []string{"HOME=" + home, "PATH=" + os.Getenv("PATH")}, home
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, "%s", out)
	}
	for _, system := range []struct{ name, own string }{{"linux.sh", ".local/share/fonts/a-client"}, {"mac.command", "Library/Fonts/a-client"}} {
		run("install-" + system.name)
		for _, n := range names {
			b, err := os.ReadFile(filepath.Join(home, system.own, n))
			require.NoError(t, err)
			assert.Equal(t, n, string(b))
		}
		kept := filepath.Join(home, system.own, "kept.ttf")
		require.NoError(t, os.WriteFile(kept, nil, 0o600))
		run("remove-" + system.name)
		left, err := os.ReadDir(filepath.Join(home, system.own))
		require.NoError(t, err)
		require.Len(t, left, 1, "what somebody else put there stays")
		require.NoError(t, os.Remove(kept))
		run("remove-" + system.name)
	}
	assert.NoFileExists(t, filepath.Join(home, "hurt"))

	for name, text := range all {
		if !strings.HasSuffix(name, ".ps1") {
			continue
		}
		assert.True(t, strings.HasPrefix(text, "\ufeff# "))
		for line := range strings.Lines(text) {
			assert.False(t, strings.HasPrefix(line, "New-Item hurt"), line)
			// Out of quotes there is nothing but what the script says itself.
			bare, in := "", false
			for _, r := range strings.TrimRight(line, "\r\n") {
				if strings.ContainsRune("'‘’‚‛", r) {
					in = !in
				} else if !in {
					bare += string(r)
				}
			}
			if !strings.HasPrefix(line, "\ufeff") {
				assert.NotContains(t, bare, "hurt", line)
				assert.False(t, in, "a quote is not closed: %s", line)
			}
		}
	}
}
