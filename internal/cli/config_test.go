package cli_test

import (
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestSettingsFromAFile takes settings from a file, a variable and a flag, each of which counts
// more than the one before, and says what is wrong with files that are.
func TestSettingsFromAFile(t *testing.T) {
	t.Parallel()
	s := newShell(t)
	file := s.write("crate.toml", []byte("listen = \"127.0.0.1:8599\"\naudit-days = 400\nsecond-factor = \"admins\"\nsecure = true\n"+
		"trusted-proxies = [\"10.0.0.0/8\", \"192.0.2.0/24\"]\noidc-group = [\"type=editor:Holmvik Ferries,Orrery Hall\"]\ndatabase = \"crate:hidden@tcp(127.0.0.1:1)/crate\"\n"))
	assert.Contains(t, s.ok("config", "check", "--config", file), "The configuration is right ("+file+")")
	s.env = append(s.env, "SPARECRATE_AUDIT_DAYS=30", "SPARECRATE_CONFIG="+file)
	shown := s.ok("config", "show", "--second-factor", "everybody")
	for _, line := range []string{
		`listen = "127.0.0.1:8599" # file ` + file, `audit-days = 30 # variable SPARECRATE_AUDIT_DAYS`, `second-factor = "everybody" # flag`, `secure = true # file ` + file,
		`trusted-proxies = ["10.0.0.0/8", "192.0.2.0/24"] # file ` + file, `oidc-group = ["type=editor:Holmvik Ferries,Orrery Hall"] # file ` + file, `log-level = "info" # default`,
	} {
		assert.Contains(t, strings.Join(strings.Fields(shown), " "), line)
	}
	assert.NotContains(t, shown, "hidden")
	again := s.write("again.toml", []byte(strings.ReplaceAll(shown, "crate:***@", "crate@")))
	s.ok("config", "check", "--config", again)
	for text, says := range map[string]string{
		`lisen = "x"`:                       `unknown key "lisen"; did you mean "listen"?`,
		"[mail]\nserver = \"x\"":            `unknown key "mail"; ` + "`sparecrate config show`",
		"data = 3":                          "data is a text in quotes",
		`audit-days = "x"`:                  "audit-days is a whole number",
		`secure = "yes"`:                    "secure is true or false",
		`trusted-proxies = "10.0.0.0/8"`:    "trusted-proxies is a list of texts",
		"listen = ":                         "cannot be read: line 1",
		`second-factor = "some"`:            "nobody, admins or everybody",
		`trusted-proxies = ["10/8"]`:        "takes networks like 10.0.0.0/8",
		`tls-cert = "none.pem"`:             "--tls-cert and --tls-key belong together",
		"tls-cert = \"a\"\ntls-key = \"b\"": "no such file",
		`json = true`:                       `unknown key "json"`,
	} {
		bad := s.write("bad.toml", []byte(text))
		for _, command := range [][]string{{"config", "check"}, {"serve", "--listen", "127.0.0.1:0", "--data", s.folder + "/none"}} {
			_, errs, code := s.run(append(command, "--config", bad)...)
			assert.NotZero(t, code, text)
			assert.Contains(t, errs, says, text)
		}
	}
	_, errs, code := s.run("serve", "--debug-listen", "192.0.2.1:6060", "--listen", "127.0.0.1:0", "--data", s.folder+"/none")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "profiles are answered on this machine only")
	_, errs, _ = s.run("verify", "--config", s.folder+"/none.toml", "--data", s.folder)
	assert.Contains(t, errs, "no such file")
}

// TestUnderSystemd starts the service as systemd does: with a socket that is there already, and
// one to which it says that it is ready and that it stops.
func TestUnderSystemd(t *testing.T) {
	t.Parallel()
	s := newShell(t)
	l, err := net.Listen("tcp", "127.0.0.1:0") //nolint:noctx // closed below
	require.NoError(t, err)
	held, err := l.(*net.TCPListener).File()
	require.NoError(t, err)
	require.NoError(t, l.Close())
	defer func() { _ = held.Close() }()
	socket := filepath.Join(t.TempDir(), "notify")
	told, err := net.ListenUnixgram("unixgram", &net.UnixAddr{Name: socket, Net: "unixgram"})
	require.NoError(t, err)
	defer func() { _ = told.Close() }()
	says := func() string {
		require.NoError(t, told.SetReadDeadline(time.Now().Add(time.Minute)))
		b := make([]byte, 200)
		n, err := told.Read(b)
		require.NoError(t, err)
		return string(b[:n])
	}
	c := exec.Command("sh", "-c", `LISTEN_PID=$$ LISTEN_FDS=1 exec "$0" serve --listen 127.0.0.1:1 --data "$1"`, binary, s.folder+"/data") //nolint:noctx // ended below
	c.Env, c.ExtraFiles = append(s.env, "NOTIFY_SOCKET="+socket), []*os.File{held}
	require.NoError(t, c.Start())
	assert.Equal(t, "READY=1", says())
	r, err := http.Get("http://" + l.Addr().String() + "/readyz") //nolint:noctx // of a test
	require.NoError(t, err)
	assert.Equal(t, http.StatusOK, r.StatusCode)
	require.NoError(t, r.Body.Close())
	require.NoError(t, c.Process.Signal(syscall.SIGTERM))
	assert.Equal(t, "STOPPING=1", says())
	require.NoError(t, c.Wait())
}
