// Package browse visits pages for inspections, in headless Chromium on a machine that has
// no fonts but a few of the project's own, with a clean profile for each page. What is
// loaded goes through a guarded proxy: no private networks unless they are allowed,
// bounded bytes, bounded time. The browser runs without privileges, and ends with its
// children when the visit or this process ends.
package browse

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"github.com/chromedp/chromedp"

	"sparecrate/internal/fetch"
	"sparecrate/internal/inspect"
)

// The bounds of a visit.
const (
	mostBytes  = 64 << 20  // that a page may load
	mostMemory = 350 << 20 // of a page's process, beside what it shares
	mostScript = 1024      // MB of a page's scripts
	watchEvery = 200 * time.Millisecond
	nobody     = 65534
)

// Options say how pages are visited.
type Options struct {
	Private bool // pages of private networks and of this machine may be visited
	// Elsewhere are hosts and ports that are reached at another address: of simulated sites.
	Elsewhere map[string]string
	// Anyone accepts certificates that nobody vouches for: of simulated sites.
	Anyone bool
	// Patience is how long a visit may take; 0 stands for 45 seconds.
	Patience time.Duration
}

// ErrNoBrowser says that Chromium is not installed.
var ErrNoBrowser = errors.New("Chromium is not installed; install the package chromium to inspect pages") //nolint:staticcheck // a name

// Program returns the path of the browser: the headless shell of Chromium, which is the same
// without the windows and takes two thirds of the time and memory, or else Chromium itself.
func Program() (string, error) {
	for _, name := range []string{"chromium-headless-shell", "chromium"} {
		if path, err := exec.LookPath(name); err == nil {
			return path, nil
		}
	}
	return "", ErrNoBrowser
}

// Browser is a running browser. Its methods may be called from several goroutines.
type Browser struct {
	options Options
	ctx     context.Context
	proxy   *fetch.Proxy
	client  *http.Client // through the proxy
	end     func()
	process int
	killed  atomic.Int64 // when a page's process was last ended for its memory, Unix nanoseconds
}

// Start starts a browser. Close it.
func Start(ctx context.Context, options Options) (*Browser, error) {
	path, err := Program()
	if err != nil {
		return nil, err
	}
	if options.Patience == 0 {
		options.Patience = 45 * time.Second
	}
	root := os.Geteuid() == 0
	home, err := makeHome(root)
	if err != nil {
		return nil, err
	}
	remove := func() { _ = os.RemoveAll(home) }
	configuration, err := furnish(home)
	if err != nil {
		remove()
		return nil, err
	}
	proxy, err := fetch.NewProxy(options.Private, mostBytes, options.Elsewhere)
	if err != nil {
		remove()
		return nil, err
	}
	profile := filepath.Join(home, "profile")
	if err := os.Mkdir(profile, 0o700); err != nil {
		proxy.Close()
		remove()
		return nil, err
	}
	if root {
		for _, folder := range []string{home, profile, filepath.Join(home, "cache")} {
			if err := os.Chown(folder, nobody, nobody); err != nil {
				proxy.Close()
				remove()
				return nil, err
			}
		}
	}
	b := &Browser{options: options, proxy: proxy, client: &http.Client{Timeout: options.Patience / 8, Transport: &http.Transport{
		Proxy:           http.ProxyURL(&url.URL{Scheme: "http", Host: proxy.Address}),
		TLSClientConfig: &tls.Config{InsecureSkipVerify: options.Anyone, MinVersion: tls.VersionTLS12}, //nolint:gosec // simulated sites alone
	}}}
	flags := []chromedp.ExecAllocatorOption{
		chromedp.ExecPath(path), chromedp.UserDataDir(profile), chromedp.WindowSize(1280, 800), chromedp.Headless, chromedp.NoSandbox,
		chromedp.DisableGPU, chromedp.NoFirstRun, chromedp.NoInheritEnv,
		chromedp.Env("HOME="+home, "FONTCONFIG_FILE="+configuration, "PATH=/usr/bin:/bin", "TMPDIR="+home, "TZ=UTC", "LANG=C.UTF-8"),
		chromedp.ProxyServer("http://" + proxy.Address), chromedp.Flag("proxy-bypass-list", "<-loopback>"),
		chromedp.Flag("force-webrtc-ip-handling-policy", "disable_non_proxied_udp"),
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-background-networking", true), chromedp.Flag("disable-component-update", true),
		chromedp.Flag("disable-sync", true), chromedp.Flag("hide-scrollbars", true), chromedp.Flag("disable-dev-shm-usage", true),
		chromedp.Flag("disable-background-timer-throttling", true), chromedp.Flag("disable-backgrounding-occluded-windows", true),
		chromedp.Flag("disable-renderer-backgrounding", true), chromedp.Flag("disable-extensions", true), chromedp.Flag("mute-audio", true),
		chromedp.Flag("disable-breakpad", true), chromedp.Flag("font-render-hinting", "none"), chromedp.Flag("disable-notifications", true), chromedp.Flag("disable-client-side-phishing-detection", true),
		chromedp.Flag("js-flags", "--max-old-space-size="+strconv.Itoa(mostScript)),
		// Frames of other sites are drawn by the same process, where they can be asked.
		chromedp.Flag("disable-features", "IsolateOrigins,site-per-process,Translate,MediaRouter,OptimizationHints,SpareRendererForSitePerProcess,AutofillServerCommunication"),
		chromedp.Flag("disable-site-isolation-trials", true),
		chromedp.ModifyCmdFunc(func(cmd *exec.Cmd) {
			if cmd.SysProcAttr == nil {
				cmd.SysProcAttr = &syscall.SysProcAttr{}
			}
			cmd.Dir = home
			cmd.SysProcAttr.Setpgid, cmd.SysProcAttr.Pdeathsig = true, syscall.SIGKILL
			if root {
				cmd.SysProcAttr.Credential = &syscall.Credential{Uid: nobody, Gid: nobody}
			}
		}),
	}
	if options.Anyone {
		flags = append(flags, chromedp.IgnoreCertErrors)
	}
	allocated, cancel := chromedp.NewExecAllocator(context.WithoutCancel(ctx), flags...)
	browsing, stop := chromedp.NewContext(allocated)
	watching, rest := context.WithCancel(context.WithoutCancel(ctx))
	b.end = sync.OnceFunc(func() {
		rest()
		b.kill()
		stop()
		cancel()
		proxy.Close()
		remove()
	})
	if err := chromedp.Do(browsing); err != nil {
		b.end()
		return nil, fmt.Errorf("start Chromium: %w", err)
	}
	b.ctx = browsing
	if p := chromedp.FromContext(browsing).Browser.Process(); p != nil {
		b.process = p.Pid
	}
	go b.watch(watching)
	context.AfterFunc(ctx, b.end)
	return b, nil
}

// Close ends the browser and all its processes.
func (b *Browser) Close() { b.end() }

// kill ends the processes of the browser, those that its children have left as well.
func (b *Browser) kill() {
	if b.process == 0 {
		return
	}
	for _, p := range family(b.process) {
		_ = syscall.Kill(p, syscall.SIGKILL)
	}
	_ = syscall.Kill(-b.process, syscall.SIGKILL)
}

// watch ends processes of pages that take too much memory.
func (b *Browser) watch(ctx context.Context) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(watchEvery):
		}
		for _, p := range family(b.process) {
			command, err := os.ReadFile(fmt.Sprintf("/proc/%d/cmdline", p))
			if err == nil && strings.Contains(string(command), "--type=renderer") && private(p) > mostMemory {
				b.killed.Store(time.Now().UnixNano())
				_ = syscall.Kill(p, syscall.SIGKILL)
			}
		}
	}
}

// private returns the memory that only one process has, bytes.
func private(process int) int64 {
	b, err := os.ReadFile(fmt.Sprintf("/proc/%d/statm", process))
	if err != nil {
		return 0
	}
	var size, resident, shared int64
	if _, err := fmt.Sscan(string(b), &size, &resident, &shared); err != nil {
		return 0
	}
	return (resident - shared) * int64(os.Getpagesize())
}

// family returns a process and all that descend from it.
func family(process int) []int {
	children := map[int][]int{}
	entries, err := os.ReadDir("/proc")
	if err != nil {
		return []int{process}
	}
	for _, e := range entries {
		id, err := strconv.Atoi(e.Name())
		if err != nil {
			continue
		}
		b, err := os.ReadFile(filepath.Join("/proc", e.Name(), "stat"))
		if err != nil {
			continue
		}
		var state string
		var parent int
		if _, err := fmt.Sscan(string(b[strings.LastIndexByte(string(b), ')')+1:]), &state, &parent); err == nil {
			children[parent] = append(children[parent], id)
		}
	}
	out := []int{process}
	for at := 0; at < len(out); at++ {
		out = append(out, children[out[at]]...)
	}
	return out
}

// homes begins the names of the folders that browsers have for themselves; old is the age at
// which one is left over from a process that was killed.
const (
	homes = "sparecrate-inspection-"
	old   = 24 * time.Hour
)

// makeHome makes a folder for a browser where it can be reached without privileges, and
// removes those that were left over.
func makeHome(root bool) (string, error) {
	in := os.TempDir()
	if root && !open(in) {
		in = "/tmp"
	}
	left, _ := filepath.Glob(filepath.Join(in, homes+"*")) // the pattern is sound
	for _, folder := range left {
		i, err := os.Lstat(folder)
		if err != nil || !i.IsDir() || time.Since(i.ModTime()) < old {
			continue
		}
		if of, is := i.Sys().(*syscall.Stat_t); is && (int(of.Uid) == os.Geteuid() || root && of.Uid == nobody) {
			_ = os.RemoveAll(folder)
		}
	}
	return os.MkdirTemp(in, homes)
}

// open reports whether anybody can reach what is in a folder.
func open(folder string) bool {
	for at, err := filepath.Abs(folder); ; at = filepath.Dir(at) {
		if err != nil {
			return false
		}
		i, statErr := os.Stat(at)
		if statErr != nil || i.Mode().Perm()&0o001 == 0 {
			return false
		}
		if at == filepath.Dir(at) {
			return true
		}
	}
}

// Plan is what is known of a page beforehand.
type Plan struct {
	// Known tells for each font that came what the catalog knows of it; nil without one.
	Known func(context.Context, *inspect.Visit) error
	Roles []inspect.Role // of the site
	Packs []inspect.Pack // of the site
	// Domains are those of the site.
	Domains []string
}

// Inspect visits a page and says what is wrong with it.
func (b *Browser) Inspect(ctx context.Context, address string, plan Plan) (*inspect.Page, error) {
	at := time.Now()
	v, err := b.Visit(ctx, address, plan.Roles...)
	if err != nil {
		return nil, err
	}
	v.Measure()
	v.Packs, v.Domains = plan.Packs, plan.Domains
	if plan.Known != nil {
		if err := plan.Known(ctx, v); err != nil {
			return nil, err
		}
	}
	p := inspect.Report(v, at)
	bound(p)
	return p, nil
}
