package cli_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/demo"
)

// TestAccountsOnTheCommandLine adds somebody, gives another role and a new password,
// closes the account and opens it again.
func TestAccountsOnTheCommandLine(t *testing.T) {
	s := demoShell(t)

	assert.Contains(t, s.ok("people", "add", "--email", "mads@lanternjaw.example", "Mads Birk"), "Mads Birk can sign in as mads@lanternjaw.example with the one-time password ")
	assert.Contains(t, s.ok("people", "list"), "one-time password")
	assert.Equal(t, "Mads Birk (mads@lanternjaw.example): editor, sees all clients.\n", s.ok("people", "change", "--role", "editor", "MADS@lanternjaw.example"))
	assert.Contains(t, s.ok("people", "password", "--password-file", s.password, "mads@lanternjaw.example"), "one-time password ")
	assert.Equal(t, "The account of Mads Birk (mads@lanternjaw.example) is closed.\n", s.ok("people", "close", "mads@lanternjaw.example"))
	assert.Regexp(t, `Mads Birk +mads@lanternjaw.example +editor +all clients +closed`, s.ok("people", "list"))
	assert.Equal(t, "The account of Mads Birk (mads@lanternjaw.example) is open.\n", s.ok("people", "open", "mads@lanternjaw.example"))
	assert.Contains(t, s.ok("people", "change", "--json", "--name", "Mads Sund", "mads@lanternjaw.example"), `"name": "Mads Sund"`)
	assert.Contains(t, s.ok("people", "change", "--role", "admin", "--password-file", s.password, "mads@lanternjaw.example"), ": admin, sees all clients")
	assert.Contains(t, s.ok("people", "change", "--role", "viewer", "mads@lanternjaw.example"), ": viewer, sees all clients")
	assert.Contains(t, s.ok("tokens", "add", "pipeline"), "Keep it now", "narrower than the token of this machine")
	assert.Contains(t, s.ok("tokens", "add", "--scope", "admin", "--password-file", s.password, "provisioning"), "Keep it now")
	_, errs, code := s.run("tokens", "add", "--scope", "admin", "provisioning")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "makes only tokens with a narrower scope, not admin")
	for _, wrong := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{"close", "nobody@lanternjaw.example"}, 1, "`sparecrate people list` shows who there is"},
		{[]string{"close", demo.Email}, 1, "is the only admin"},
		{[]string{"change", "mads@lanternjaw.example"}, 2, "--name or --role"},
		{[]string{"change", "--role", "owner", "mads@lanternjaw.example"}, 1, "choose guest, viewer, editor or admin"},
		{[]string{"password"}, 2, "WHO it is about"},
		{[]string{"password", "mads@lanternjaw.example"}, 2, "A token cannot set a password. Sign in with your own password: there is no terminal to ask for a password; give it with --password-file"},
		{[]string{"password", "--password-file", s.write("wrong", []byte("not the password")), "mads@lanternjaw.example"}, 1, "wrong"},
		{[]string{"change", "--role", "admin", "mads@lanternjaw.example"}, 2, "A token cannot make a person an admin"},
	} {
		_, errs, code := s.run(append([]string{"people"}, wrong.args...)...)
		require.Equal(t, wrong.code, code, "%v: %s", wrong.args, errs)
		assert.Contains(t, errs, wrong.says)
	}
}

// TestTheStudioOnTheCommandLine reads how the service is set up and who is signed in, renames
// a client, and assigns what needs attention.
func TestTheStudioOnTheCommandLine(t *testing.T) {
	s := demoShell(t)
	assert.Regexp(t, `mail server +none; no e-mail is sent`, s.ok("settings"))
	assert.Regexp(t, `originals +\d+ files`, s.ok("settings"))
	assert.Contains(t, s.ok("settings", "--json"), `"idleMinutes": 480`)
	assert.Equal(t, "No browser is signed in.\n", s.ok("sessions", "list"))
	assert.Equal(t, "Client 2 is Holmvik Line now.\n", s.ok("client", "rename", "2", "Holmvik Line"))
	assert.Contains(t, s.ok("client", "list"), "Holmvik Line")
	var due api.DueList
	require.NoError(t, json.Unmarshal([]byte(s.ok("due", "--json")), &due))
	key := due.Items[0].Key[:8]
	var me api.Owner
	for _, line := range strings.Split(s.ok("people", "list"), "\n") {
		if strings.Contains(line, demo.Email) {
			me.Name = strings.TrimSpace(strings.Split(strings.TrimLeft(line, " 0123456789"), "  ")[0])
		}
	}
	assert.Equal(t, "Assigned to "+me.Name+".\n", s.ok("due", "assign", key, strings.ToUpper(demo.Email)))
	assert.Contains(t, s.ok("due", "--owner", "me"), "key "+key+", assigned to "+me.Name)
	assert.NotContains(t, s.ok("due", "--owner", "none"), "key "+key)
	assert.Equal(t, "The item is unassigned.\n", s.ok("due", "assign", key))
	for _, wrong := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{"due", "assign", "zzz"}, 1, "`sparecrate due` shows the keys"},
		{[]string{"due", "assign"}, 2, "takes a KEY and an E-MAIL"},
		{[]string{"due", "assign", key, "nobody@lanternjaw.example"}, 1, "there are " + demo.Email},
		{[]string{"sessions", "end", "99"}, 1, "no such session"},
		{[]string{"sessions", "end", "x"}, 2, "number"},
		{[]string{"client", "rename", "2"}, 2, "NAME"},
		{[]string{"client", "rename", "Nobody", "X"}, 1, "Nobody"},
	} {
		_, errs, code := s.run(wrong.args...)
		assert.Equal(t, wrong.code, code, "%v: %s", wrong.args, errs)
		assert.Contains(t, errs, wrong.says)
	}
}
