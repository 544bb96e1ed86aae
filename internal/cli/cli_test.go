package cli_test

import (
	"archive/zip"
	"bufio"
	"bytes"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/demo"
	"sparecrate/internal/mariadb/mariadbtest"
)

var binary string

func TestMain(m *testing.M) {
	folder, err := os.MkdirTemp("", "sparecrate-bin-")
	if err != nil {
		panic(err)
	}
	binary = filepath.Join(folder, "sparecrate")
	build := exec.Command("go", "build", "-o", binary, "sparecrate/cmd/sparecrate") //nolint:gosec // our own program
	build.Stderr = os.Stderr
	if err := build.Run(); err != nil {
		panic(err)
	}
	code := mariadbtest.Run(m.Run)
	_ = os.RemoveAll(folder)
	os.Exit(code)
}

// shell runs commands of one person: its own settings, its own folder.
type shell struct {
	t      testing.TB
	folder string
	env    []string
	// password is the file of the password of whom demoShell signs in.
	password string
}

func newShell(t testing.TB) *shell {
	t.Helper()
	folder := t.TempDir()
	return &shell{t: t, folder: folder, env: append(os.Environ(), "XDG_CONFIG_HOME="+folder+"/settings", "HOME="+folder)}
}

func (s *shell) command(args ...string) *exec.Cmd {
	c := exec.Command(binary, args...) //nolint:gosec // our own program
	c.Dir, c.Env = s.folder, s.env
	return c
}

func (s *shell) run(args ...string) (stdout, stderr string, code int) {
	s.t.Helper()
	var out, errs bytes.Buffer
	c := s.command(args...)
	c.Stdout, c.Stderr = &out, &errs
	_ = c.Run()
	return out.String(), errs.String(), c.ProcessState.ExitCode()
}

// ok runs a command that must go well and gives what it prints.
func (s *shell) ok(args ...string) string {
	s.t.Helper()
	out, errs, code := s.run(args...)
	require.Zero(s.t, code, "%v: %s", args, errs)
	return out
}

// json runs a command with --json behind its name and reads what it prints.
func (s *shell) json(to any, words int, args ...string) {
	s.t.Helper()
	args = append(append(append([]string{}, args[:words]...), "--json"), args[words:]...)
	require.NoError(s.t, json.Unmarshal([]byte(s.ok(args...)), to), "%v", args)
}

func (s *shell) write(name string, data []byte) string {
	s.t.Helper()
	path := filepath.Join(s.folder, name)
	require.NoError(s.t, os.WriteFile(path, data, 0o600))
	return path
}

// serve starts a service of its own, with a private database, and gives the
// lines it printed until it was ready.
func (s *shell) serve(args ...string) (lines []string, process *exec.Cmd) {
	s.t.Helper()
	c := s.command(append(args, "--listen", "127.0.0.1:0", "--data", s.folder+"/data")...)
	pipe, err := c.StdoutPipe()
	require.NoError(s.t, err)
	var log bytes.Buffer
	c.Stderr = &log
	require.NoError(s.t, c.Start())
	s.t.Cleanup(func() {
		if c.ProcessState == nil {
			_ = c.Process.Signal(syscall.SIGTERM)
			_ = c.Wait()
		}
	})
	scanner := bufio.NewScanner(pipe)
	for scanner.Scan() {
		lines = append(lines, scanner.Text())
		if strings.Contains(scanner.Text(), "answers at") || strings.Contains(scanner.Text(), "with the password") {
			return lines, c
		}
	}
	s.t.Fatalf("the service did not start: %s", log.String())
	return nil, nil
}

func TestFromFontToPackOnTheCommandLine(t *testing.T) {
	t.Parallel()
	s := newShell(t)
	lines, process := s.serve("serve", "--studio", "Lanternjaw Studio", "--admin-email", "ines@lanternjaw.example")
	m := regexp.MustCompile(`^First start\. Sign in as (\S+) with the one-time password (\S+) and`).FindStringSubmatch(lines[0])
	require.NotNil(t, m, lines)
	address := regexp.MustCompile(`http://\S+`).FindString(lines[1])
	once := s.write("once", []byte(m[2]+"\n"))
	own := s.write("own", []byte("harbour lights at dusk"))

	_, errs, code := s.run("families")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "not signed in")
	assert.Contains(t, s.ok("sign-in", "--email", m[1], "--password-file", once, "--new-password-file", own, address), "Signed in to "+address+" as Admin (admin).")

	fonts, err := demo.Fonts()
	require.NoError(t, err)
	light, bold := s.write(fonts[0].Name, fonts[0].Data), s.write(fonts[2].Name, fonts[2].Data)
	page := s.write("download.ttf", []byte("<!doctype html>"))
	s.ok("client", "add", "Holmvik Ferries")
	out, errs, code := s.run("add", "--client", "Holmvik Ferries", "--origin", "commissioned", "--yes", light, page, bold)
	assert.Equal(t, 1, code, "one of three was refused")
	assert.Contains(t, out, "New: Skerrow Sans Light.")
	assert.Contains(t, out, "New: Skerrow Sans Bold.")
	assert.Contains(t, errs, "download.ttf: This is a web page saved as a font")
	assert.Contains(t, s.ok("add", "--yes", bold), "Duplicate of SkerrowSans-Bold.ttf")

	var families []struct {
		ID    int
		Name  string
		Faces []any
	}
	s.json(&families, 1, "families", "skerrow")
	require.Len(t, families, 1)
	assert.Len(t, families[0].Faces, 2)
	shown := s.ok("family", "skerrow sans")
	for _, want := range []string{"SkerrowSans-Bold", "font-weight: 700;", "(fsType 0)", "none recorded"} {
		assert.Contains(t, shown, want)
	}

	doc := s.write("order.pdf", []byte("%PDF-1.4 order"))
	assert.Contains(t, s.ok("license", "add", "--client", "Holmvik Ferries", "--use", "web,app", "--until", "2099-12-31", "--reference", "A-7", "--document", doc, "Skerrow Sans"), "1 document")
	assert.Contains(t, s.ok("license", "list"), "until 2099-12-31")
	s.ok("site", "add", "--client", "Holmvik Ferries", "--domain", "holmvik.example", "Timetable")
	_, errs, code = s.run("pack", "build", "Timetable")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "uses no family yet")
	assert.Contains(t, s.ok("site", "add-family", "Timetable", "Skerrow Sans"), "Skerrow Sans: cleared")
	assert.Contains(t, s.ok("pack", "plan", "Timetable"), "fonts/skerrow-sans-bold.woff2")
	assert.Regexp(t, `Together +[\d.]+ kB +[\d.]+ kB +[\d.]+ kB, \d+ %`, s.ok("site", "add-family", "--sizes", "--text", "Timetable", "Timetable", "Skerrow Sans"))
	s.ok("pack", "build", "--out", s.folder+"/a.zip", "Timetable")
	s.ok("pack", "build", "--out", s.folder+"/b.zip", "1")
	a, err := os.ReadFile(s.folder + "/a.zip")
	require.NoError(t, err)
	b, err := os.ReadFile(s.folder + "/b.zip")
	require.NoError(t, err)
	assert.True(t, bytes.Equal(a, b), "the same zip each time")
	z, err := zip.NewReader(bytes.NewReader(a), int64(len(a)))
	require.NoError(t, err)
	assert.Len(t, z.File, 2*2+6)

	token := strings.SplitN(s.ok("tokens", "add", "pipeline"), "\n", 2)[0]
	other := newShell(t)
	other.env = append(other.env, "SPARECRATE_ADDRESS="+address, "SPARECRATE_TOKEN="+token)
	assert.Contains(t, other.ok("site", "list"), "Timetable")
	assert.Contains(t, s.ok("activity"), "Admin built pack: Timetable")
	s.ok("sign-out")
	_, _, code = s.run("families")
	assert.Equal(t, 1, code)

	require.NoError(t, process.Process.Signal(syscall.SIGTERM))
	require.NoError(t, process.Wait(), "an asked stop is no failure")
	left, err := exec.Command("pgrep", "-f", s.folder+"/data/mariadb").Output()
	assert.Error(t, err, "the database stopped too: %s", left)
	_, errs, code = other.run("families")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "cannot be reached")
}

// TestKilledServiceComesBack kills the service outright and starts it again.
func TestKilledServiceComesBack(t *testing.T) {
	s := newShell(t)
	lines, process := s.serve("demo", "--small")
	said := strings.Join(lines, "\n")
	require.NoError(t, process.Process.Kill())
	_ = process.Wait()
	began := time.Now()
	lines, _ = s.serve("demo", "--small")
	t.Logf("ready again after %s", time.Since(began).Round(time.Millisecond))
	again := strings.Join(lines, "\n")
	password := regexp.MustCompile(`harbour-\w+`)
	require.NotEmpty(t, password.FindString(said))
	assert.Equal(t, password.FindString(said), password.FindString(again), "the demo is as it was")
	address := regexp.MustCompile(`http://\S+`).FindString(again)
	s.ok("sign-in", "--email", demo.Email, "--password-file", s.write("pw", []byte(password.FindString(again))), address)
	listed := s.ok("families")
	for _, name := range []string{"Tidegarth Poster", "Skerrow Sans", "Umbrisk Display"} {
		assert.Contains(t, listed, name)
	}
	_, errs, code := s.run("pack", "build", "Growers' almanac")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "Tidegarth Poster is blocked")
	assert.Contains(t, s.ok("site", "sign-off", "Growers' almanac", "Tidegarth Poster", "The foundry agreed by letter"), "signed off")
}

func TestReadFiles(t *testing.T) {
	t.Parallel()
	s := newShell(t)
	fonts, err := demo.Fonts()
	require.NoError(t, err)
	otf := s.write(fonts[3].Name, fonts[3].Data)
	var faces []map[string]any
	s.json(&faces, 2, "file", "info", otf, "/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf")
	require.Len(t, faces, 2)
	assert.Equal(t, otf, faces[0]["path"])
	assert.Equal(t, "otf", faces[0]["format"])
	assert.Equal(t, "cff", faces[0]["outlines"])
	assert.InDelta(t, len(fonts[3].Data), faces[0]["bytes"], 0)
	assert.Equal(t, "UmbriskDisplay-Rg", faces[0]["names"].(map[string]any)["postscript"])
	assert.Equal(t, map[string]any{"fsType": float64(0x108), "level": "editable", "noSubsetting": true, "bitmapOnly": false}, faces[0]["embedding"])
	for _, key := range []string{"sha256", "index", "style", "unitsPerEm", "glyphs", "metrics", "axes", "instances", "features", "color", "coverage", "problems"} {
		assert.Contains(t, faces[1], key)
	}
	out, errs, code := s.run("file", "info", s.write("x.ttf", nil), otf)
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "x.ttf: this file is empty")
	assert.Contains(t, out, "Umbrisk Display", "the others are read all the same")
	line := strings.Join(strings.Fields(out), " ")
	assert.Contains(t, line, "(fsType 264)")
	assert.Contains(t, line, `the font's full name is "Umbrisk Display Regular"`, "the file's name is told to be another")
	assert.NotContains(t, out, "WINDOWS")
	out = s.ok("file", "info", "--records", "--language", "de-CH", otf)
	assert.Contains(t, out, "NAME RECORDS")
	assert.Contains(t, out, "en-US, Umbrisk Display")
}

// TestTestFiles checks a file that is right, one that is not, and one that is
// no font.
func TestTestFiles(t *testing.T) {
	t.Parallel()
	s := newShell(t)
	fonts, err := demo.Fonts()
	require.NoError(t, err)
	right := s.write("right.ttf", fonts[0].Data)
	wrong := bytes.Clone(fonts[0].Data)
	copy(wrong[12+4:], "sum!")
	copy(wrong[bytes.Index(wrong, []byte{0x5F, 0x0F, 0x3C, 0xF5}):], "none")
	assert.Contains(t, s.ok("file", "check", right), "(TTF) keeps the rules")
	out, _, code := s.run("file", "check", right, s.write("wrong.ttf", wrong), s.write("page.ttf", []byte("<html>")))
	assert.Equal(t, 1, code)
	assert.Contains(t, out, "error      head: The magic number is 0x6E6F6E65")
	assert.Regexp(t, `unreadable this is a web page saved as a\s+font`, out)
	assert.Contains(t, out, "3 files: 1 without findings, 0 with warnings only, 2 with errors or unreadable.")
	stdout, _, code := s.run("file", "check", "--json", "--errors", s.folder+"/wrong.ttf", s.folder+"/page.ttf")
	assert.Equal(t, 1, code)
	var reports []struct {
		Path, Unreadable, Format string
		Findings                 []struct{ Severity, Table, Code, Message string }
	}
	require.NoError(t, json.Unmarshal([]byte(stdout), &reports))
	require.Len(t, reports, 2)
	require.Len(t, reports[0].Findings, 1, "warnings are left out")
	assert.Equal(t, "head-magic", reports[0].Findings[0].Code)
	assert.Contains(t, reports[1].Unreadable, "a web page")
}

func TestMakeFiles(t *testing.T) {
	t.Parallel()
	s := newShell(t)
	fonts, err := demo.Fonts()
	require.NoError(t, err)
	var paths []string
	for _, f := range fonts[:3] {
		paths = append(paths, s.write(f.Name, f.Data))
	}
	paths = append(paths, s.write("broken.ttf", fonts[0].Data[:500]))
	_, errs, code := s.run(append([]string{"file", "convert", "--to", "woff2,woff", "--out", s.folder + "/web"}, paths...)...)
	assert.Equal(t, 1, code, "one of four is broken")
	assert.Contains(t, errs, "broken.ttf: the font file is damaged")
	made, err := filepath.Glob(s.folder + "/web/*")
	require.NoError(t, err)
	assert.Len(t, made, 6, "the others are made, and nothing half-done is left")
	var back []struct{ Out, Format string }
	s.json(&back, 2, "file", "convert", "--to", "ttf", "--out", s.folder+"/back", s.folder+"/web/SkerrowSans-Bold.woff")
	require.Len(t, back, 1)
	got, err := os.ReadFile(back[0].Out)
	require.NoError(t, err)
	assert.True(t, bytes.Equal(fonts[2].Data, got), "there and back is the same file")
	_, errs, code = s.run("file", "convert", "--to", "ttf", paths[0])
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "it would be written over itself")
	_, errs, code = s.run("file", "convert", "--to", "otf", "--out", "x", paths[0])
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "the outlines of this face belong into TTF, not OTF")
	all := s.ok("file", "convert", "--to", "woff2,woff,eot,svg,ttf,otf", "--out", s.folder+"/all", paths[0], s.write(fonts[3].Name, fonts[3].Data))
	assert.Contains(t, all, "SVG fonts are for the first phones")
	assert.Contains(t, all, "all 2")
	made, err = filepath.Glob(s.folder + "/all/*")
	require.NoError(t, err)
	assert.Len(t, made, 10, "each face went into the one of TTF and OTF that fits its outlines")
	require.NoError(t, os.Mkdir(s.folder+"/other", 0o700))
	same := s.folder + "/other/" + filepath.Base(paths[0])
	require.NoError(t, os.WriteFile(same, fonts[1].Data, 0o600))
	_, errs, code = s.run("file", "convert", "--to", "woff", "--out", s.folder+"/twice", paths[0], same)
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, same+": SkerrowSans-Light is made from "+paths[0]+" already; two inputs of the same name need two folders")
}

func TestMisuseAndHelp(t *testing.T) {
	t.Parallel()
	s := newShell(t)
	for _, args := range [][]string{
		{"nonsense"}, {"family"}, {"family", "a", "b"}, {"file", "convert", "a.ttf"}, {"file", "convert", "--to", "bmp", "a.ttf"}, {"add"},
		{"license", "nonsense"}, {"license", "add", "--client", "x", "--use", "web"}, {"families", "--nonsense"}, {"serve", "--log-level", "loud"}, {"sign-in"},
	} {
		out, errs, code := s.run(args...)
		assert.Equal(t, 2, code, "%v: %s%s", args, out, errs)
		assert.Contains(t, errs, "sparecrate: ", "%v", args)
	}
	leaves := 0
	var look func(args []string)
	look = func(args []string) {
		help := s.ok(append(append([]string{}, args...), "--help")...)
		if len(args) > 0 {
			assert.Contains(t, help, "Example:\n      sparecrate "+args[0], "%v", args)
		}
		names := subcommands(help)
		if names == nil {
			leaves++
			assert.Contains(t, help, "--json", "%v", args)
		}
		for _, name := range names {
			look(append(append([]string{}, args...), name))
		}
	}
	look(nil)
	assert.Greater(t, leaves, 20)
	assert.Contains(t, s.ok("completion", "bash"), "complete")
	page := s.ok("man")
	assert.Contains(t, page, ".TH sparecrate 1")
	for _, command := range []string{"families", "pack", "file-urls", "inspections"} {
		assert.Contains(t, page, ".SH "+command, "every command has its part")
	}
}

// subcommands returns the commands that a help text lists, without their
// aliases, and nil for a command that has none.
func subcommands(help string) []string {
	_, below, ok := strings.Cut(help, "COMMANDS:\n")
	if !ok {
		return nil
	}
	below, _, _ = strings.Cut(below, "OPTIONS:")
	names := []string{}
	for line := range strings.Lines(below) {
		words := strings.Fields(line)
		if len(words) < 2 || words[0] == "GLOBAL" {
			continue // the heading of a group, or a line between groups
		}
		if name, _, _ := strings.Cut(words[0], ","); !slices.Contains([]string{"help", "completion", "man"}, name) {
			names = append(names, name)
		}
	}
	return names
}

// TestExamplesWorkAsTheyStand runs the example of every help text against the
// demo studio.
func TestExamplesWorkAsTheyStand(t *testing.T) {
	t.Parallel()
	s := newShell(t)
	lines, _ := s.serve("demo", "--small")
	said := strings.Join(lines, "\n")
	address := regexp.MustCompile(`http://\S+`).FindString(said)
	s.ok("sign-in", "--email", demo.Email, "--password-file", s.write("pw", []byte(regexp.MustCompile(`harbour-\w+`).FindString(said))), address)
	hosting := strings.TrimSuffix(regexp.MustCompile(`A fake font host:\s+(\S+)`).FindStringSubmatch(said)[1], "/sheets/brackmoor-sans.css")
	fonts, err := demo.Fonts()
	require.NoError(t, err)
	for _, f := range fonts {
		s.write(f.Name, f.Data)
	}
	s.write("README.md", []byte("# Order"))
	require.NoError(t, os.Mkdir(filepath.Join(s.folder, ".build"), 0o700))
	require.NoError(t, os.Symlink(filepath.Join(s.folder, "data"), filepath.Join(s.folder, ".build", "demo")))
	s.write("views.csv", []byte("Day,Views\n2026-09-01,600\n2026-09-02,640\n"))
	s.env = append(s.env, "PATH="+filepath.Dir(binary)+":"+os.Getenv("PATH"))
	// These start a service, ask for a password, end what the others need, or need something that failed.
	skip := regexp.MustCompile(`^sparecrate (serve|demo|admin|sign-in|sign-out|jobs retry|imports discard|people password|family remove-face)\b`)
	ran := 0
	var look func(args []string)
	look = func(args []string) {
		help := s.ok(append(append([]string{}, args...), "--help")...)
		if m := regexp.MustCompile(`Example:\n\s+(sparecrate .*)`).FindStringSubmatch(help); m != nil && !skip.MatchString(m[1]) {
			// The demo of the examples listens on the usual ports, this one on any.
			c := exec.Command("bash", "-c", strings.ReplaceAll(m[1], "http://127.0.0.1:8481", hosting)) //nolint:gosec // our own examples
			c.Dir, c.Env = s.folder, s.env
			out, err := c.CombinedOutput()
			assert.NoError(t, err, "%s\n%s", m[1], out)
			ran++
		}
		for _, name := range subcommands(help) {
			look(append(append([]string{}, args...), name))
		}
	}
	look(nil)
	assert.Greater(t, ran, 25)
}

func TestThingsAreNamedByNumberOrWholeName(t *testing.T) {
	t.Parallel()
	s := newShell(t)
	lines, _ := s.serve("demo", "--small")
	said := strings.Join(lines, "\n")
	address := regexp.MustCompile(`http://\S+`).FindString(said)
	password := s.write("pw", []byte(regexp.MustCompile(`harbour-\w+`).FindString(said)))
	for _, wrong := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{"sign-in", "--email", demo.Email, "--password-file", password, "nowhere"}, 2, "is not a URL"},
		{[]string{"sign-in", "--email", demo.Email, "--password-file", password, "http://127.0.0.1:1"}, 1, "cannot be reached"},
		{[]string{"sign-in", "--email", demo.Email, "--password-file", s.write("no", []byte("guess")), address}, 1, "The e-mail address or the password is wrong"},
		{[]string{"sign-in", "--email", demo.Email, "--password-file", "missing", address}, 1, "no such file"},
		{[]string{"sign-in", "--email", demo.Email, address}, 2, "give it with --password-file"},
	} {
		_, errs, code := s.run(wrong.args...)
		assert.Equal(t, wrong.code, code, errs)
		assert.Contains(t, errs, wrong.says)
	}
	s.ok("sign-in", "--email", demo.Email, "--password-file", password, address)
	fonts, err := demo.Fonts()
	require.NoError(t, err)
	// The same family once more, for another client: its name alone no longer says which.
	changed := append([]byte{}, fonts[4].Data...)
	changed[len(changed)-1] ^= 1
	s.ok("add", "--client", "Orrery Hall", "--yes", s.write("again.ttf", changed))
	_, errs, code := s.run("family", "Tidegarth Poster")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "there are several of the name")
	assert.Contains(t, errs, "(Orrery Hall)")
	assert.Contains(t, s.ok("family", "3"), "Saltmarsh Seed Exchange")
	for _, missing := range [][]string{{"family", "Nothing"}, {"family", "999"}, {"site", "show", "Nothing"}, {"license", "add", "--client", "Nobody", "--use", "web", "1"}, {"license", "attach", "999", password}, {"add", "missing.ttf"}, {"imports", "show", "999"}} {
		_, errs, code := s.run(missing...)
		assert.Equal(t, 1, code, "%v", missing)
		assert.Regexp(t, `^sparecrate: .*([Tt]here is no|no such file)`, errs, "%v", missing)
	}
	for _, odd := range [][]string{{"license", "add", "--client", "1", "--use", "web", "--until", "soon", "1"}, {"license", "attach", "one", password}, {"tokens", "revoke", "x"}, {"sign-out", "now"}, {"pack", "plan", "a", "b"}} {
		_, errs, code := s.run(odd...)
		assert.Equal(t, 2, code, "%v: %s", odd, errs)
	}
	var built struct {
		Name, SHA256 string
		Bytes        int64
	}
	s.json(&built, 2, "pack", "build", "--out", s.folder+"/p.zip", "Orrery Hall visitor site")
	info, err := os.Stat(s.folder + "/p.zip")
	require.NoError(t, err)
	assert.Equal(t, built.Bytes, info.Size())
	var plan struct{ Ready bool }
	s.json(&plan, 2, "pack", "plan", "3")
	assert.False(t, plan.Ready)
}

// TestADeliveryIsPlayed runs the script that plays a import from end to end.
func TestADeliveryIsPlayed(t *testing.T) {
	script, err := filepath.Abs("../../scripts/play")
	require.NoError(t, err)
	c := exec.CommandContext(t.Context(), script)
	c.Env = append(os.Environ(), "SPARECRATE_BIN="+binary)
	said, err := c.CombinedOutput()
	require.NoError(t, err, "%s", said)
	for _, want := range []string{"The styles need the file URLs of 2 files", "HTML block, to put in the HTML box of the page", "2 of 4 done.", "published"} {
		assert.Contains(t, string(said), want)
	}
	assert.Equal(t, 4, len(regexp.MustCompile(`(?m)^/(prices)? loads http://127\.0\.0\.1:\d+/u/\w+/skerrow-sans-(regular|bold)\.woff2: 97\d\d bytes$`).FindAllString(string(said), -1)), "two fonts on two pages: %s", said)
}
