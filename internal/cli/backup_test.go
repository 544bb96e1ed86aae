package cli_test

import (
	"os"
	"path/filepath"
	"testing"

	"filippo.io/age"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestBackupsOnTheCommandLine backs a data folder up for a recipient, while no service runs on it,
// lists, checks and restores the backup, and says what is wrong with what cannot be done.
func TestBackupsOnTheCommandLine(t *testing.T) {
	t.Parallel()
	s := newShell(t)
	_, process := s.serve("serve", "--studio", "Lanternjaw Studio", "--admin-email", "ines@lanternjaw.example")
	require.NoError(t, process.Process.Signal(os.Interrupt))
	require.NoError(t, process.Wait())
	key, err := age.GenerateX25519Identity()
	require.NoError(t, err)
	identity, data, places := s.write("identity", []byte(key.String()+"\n")), s.folder+"/data", s.folder+"/backups"
	for _, wrong := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{"backup", "--data", data}, 2, "name the place with --out"},
		{[]string{"backup", "--data", data, "--out", places, "--keep", "-1"}, 2, "--keep is a number"},
		{[]string{"backup", "--data", data, "--out", places, "--recipient", "me"}, 2, "is an age recipient"},
		{[]string{"backup", "--data", data, "--out", "ftp://elsewhere"}, 1, "a bucket is a folder, or looks like s3://"},
		{[]string{"backup", "--data", s.folder + "/nothing", "--out", places}, 1, "there is no data folder"},
		{[]string{"backup", "list", "--from", s.folder + "/nothing"}, 1, "there is no folder"},
		{[]string{"backup", "list"}, 2, `"from" not set`},
		{[]string{"restore", "--from", s.folder, "--data", s.folder + "/new"}, 1, "there is no such backup in"},
		{[]string{"verify", "--data", s.folder + "/nothing"}, 1, "there is no data folder"},
		{[]string{"verify", "--data", filepath.Dir(identity)}, 1, "holds no service"},
	} {
		_, errs, code := s.run(wrong.args...)
		assert.Equal(t, wrong.code, code, "%v: %s", wrong.args, errs)
		assert.Contains(t, errs, wrong.says)
	}
	assert.Contains(t, s.ok("backup", "--data", data, "--out", places, "--recipient", key.Recipient().String()), "encrypted")
	assert.Contains(t, s.ok("backup", "list", "--from", places), "encrypted")
	_, errs, code := s.run("backup", "check", "--from", places)
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "give the file with your age identity with --identity")
	assert.Contains(t, s.ok("backup", "check", "--from", places, "--identity", identity), "of Lanternjaw Studio is whole")
	restored := s.folder + "/restored"
	// As a restore leaves it that was killed before it had a database.
	require.NoError(t, os.MkdirAll(restored, 0o700))
	require.NoError(t, os.WriteFile(restored+"/restoring", nil, 0o600))
	for _, args := range [][]string{{"serve", "--listen", "127.0.0.1:0"}, {"verify"}, {"backup", "--out", places}} {
		_, errs, code = s.run(append(args, "--data", restored)...)
		assert.Equal(t, 1, code, "%v", args)
		assert.Contains(t, errs, "was broken off; run `sparecrate restore` into it again")
	}
	assert.NoDirExists(t, restored+"/mariadb")
	assert.Contains(t, s.ok("restore", "--from", places, "--identity", identity, "--data", restored), "is restored in")
	before, err := os.ReadFile(filepath.Join(data, "secrets.key"))
	require.NoError(t, err)
	after, err := os.ReadFile(filepath.Join(restored, "secrets.key"))
	require.NoError(t, err)
	assert.Equal(t, before, after)
	assert.Contains(t, s.ok("verify", "--data", restored), "Everything is sound.")
	_, errs, code = s.run("restore", "--from", places, "--identity", identity, "--data", restored)
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "is not empty")
	looked := s.ok("doctor", "--data", restored, "--backups", places)
	for _, says := range []string{"good     records: MariaDB", "good     clocks:", "good     files: " + restored + "/files can be written", "good     jobs:", "warning  admins: these sign in with a password alone: Admin", "good     backup: the last of 1"} {
		assert.Contains(t, looked, says)
	}
	s.ok("admin", "reset", "ines@lanternjaw.example", "--data", restored)
}
