// Package browsertest starts headless Chromium for tests: pages as people see
// them, and fonts as a browser takes them.
package browsertest

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/browser"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
)

// How long a test in the browser may take, and a group of its steps.
const (
	patience     = 5 * time.Minute
	stepPatience = 2 * time.Minute
)

// shared is the browser that the tests of a process share, nil where each has its own.
var shared context.Context

// Run runs the tests of a package with one browser, which starts at once; call it from
// TestMain. Each test still has a profile of its own. The result is that of run.
func Run(run func() int) int {
	ctx, end, err := start(context.Background())
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer end()
	ctx, cancel := chromedp.NewContext(ctx)
	defer cancel()
	if err := chromedp.Do(ctx); err != nil { // the browser lives as long as the context it is first used with
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	shared = ctx
	return run()
}

// start returns a context whose first use starts a browser, with a profile that end removes.
func start(ctx context.Context) (_ context.Context, end func(), err error) {
	path, err := exec.LookPath("chromium")
	if err != nil {
		return nil, nil, errors.New("Chromium is not installed; run make setup") //nolint:staticcheck // a name
	}
	profile, err := os.MkdirTemp("", "sparecrate-profile-")
	if err != nil {
		return nil, nil, err
	}
	ctx, cancel := chromedp.NewExecAllocator(ctx,
		chromedp.ExecPath(path), chromedp.UserDataDir(profile), chromedp.WindowSize(1280, 800), chromedp.Headless, chromedp.NoSandbox,
		chromedp.DisableGPU, chromedp.NoFirstRun, chromedp.Flag("disable-quic", true), chromedp.Flag("disable-background-networking", true),
		chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-sync", true), chromedp.Flag("hide-scrollbars", true),
		chromedp.Flag("disable-dev-shm-usage", true),
		// Tabs of tests beside each other are all as if looked at.
		chromedp.Flag("disable-background-timer-throttling", true), chromedp.Flag("disable-backgrounding-occluded-windows", true),
		chromedp.Flag("disable-renderer-backgrounding", true),
		// A page of a test is used for seconds: code that is compiled well for it is never run often enough.
		chromedp.Flag("js-flags", "--no-opt --no-maglev"),
		// Nothing moves while it is clicked, and the console is seen as people see it who ask for that.
		chromedp.Flag("force-prefers-reduced-motion", true))
	return ctx, func() { cancel(); _ = os.RemoveAll(profile) }, nil
}

// New opens a tab in a fresh profile; downloads go to the folder given, none
// are taken where it is empty. Errors on the console of a page fail the test.
func New(t testing.TB, downloads string) context.Context {
	t.Helper()
	listen := chromedp.WithListener(func(event any) {
		switch e := event.(type) {
		case *runtime.EventExceptionThrown:
			t.Errorf("the page failed: %+v", e.ExceptionDetails)
		case *runtime.EventConsoleAPICalled:
			if e.Type == runtime.ConsoleAPICalledTypeError || e.Type == runtime.ConsoleAPICalledTypeWarning {
				for _, a := range e.Args {
					t.Errorf("the page complained: %s %s", a.Value, a.Description)
				}
			}
		}
	})
	options := []chromedp.ContextOption{listen}
	browserContext := shared
	if browserContext != nil {
		options = append(options, chromedp.WithNewBrowserContext())
	} else {
		own, end, err := start(context.Background())
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(end)
		browserContext = own
	}
	ctx, cancel := context.WithTimeout(browserContext, patience)
	t.Cleanup(cancel)
	ctx, cancel = chromedp.NewContext(ctx, options...)
	t.Cleanup(cancel)
	// The viewport is the window without its frame.
	if err := chromedp.Do(ctx, chromedp.EmulateViewport(1280, 800)); err != nil {
		t.Fatal(err)
	}
	if _, err := chromedp.Call(ctx, emulation.SetFocusEmulationEnabled, emulation.SetFocusEmulationEnabledParams{Enabled: true}); err != nil {
		t.Fatal(err)
	}
	if downloads != "" {
		events := true
		if _, err := chromedp.Call(ctx, browser.SetDownloadBehavior, browser.SetDownloadBehaviorParams{
			Behavior: browser.SetDownloadBehaviorBehaviorAllow, DownloadPath: downloads, EventsEnabled: &events,
			BrowserContextID: chromedp.FromContext(ctx).BrowserContextID,
		}); err != nil {
			t.Fatal(err)
		}
	}
	return ctx
}

// Step is something to do in a tab.
type Step = chromedp.Action[chromedp.Void]

// Do does one step after the other and fails the test where the browser cannot.
func Do(t testing.TB, ctx context.Context, steps ...Step) { //nolint:revive // t first, as in testing
	t.Helper()
	bounded, cancel := context.WithTimeout(ctx, stepPatience)
	defer cancel()
	if err := chromedp.Do(bounded, steps...); err != nil {
		var png []byte
		if shot, bad := chromedp.Run(ctx, chromedp.CaptureScreenshot()); bad == nil {
			png = shot
		}
		name := filepath.Join(os.TempDir(), "sparecrate-failed.png")
		_ = os.WriteFile(name, png, 0o600)
		t.Fatalf("%v; the page as it was is in %s", err, name)
	}
}

// Eval returns the value of an expression in the page; promises are waited for.
func Eval[T any](t testing.TB, ctx context.Context, expression string) T { //nolint:revive // t first, as in testing
	t.Helper()
	v, err := chromedp.Run(ctx, chromedp.Evaluate[T](expression, chromedp.EvalAwaitPromise))
	for tries := 0; changed(err) && tries < 20; tries++ {
		time.Sleep(lookEvery)
		v, err = chromedp.Run(ctx, chromedp.Evaluate[T](expression, chromedp.EvalAwaitPromise))
	}
	if err != nil {
		t.Fatal(err)
	}
	return v
}

// changed reports whether an expression was asked of a page that another one was just
// taking the place of.
func changed(err error) bool {
	return err != nil && (strings.Contains(err.Error(), "Cannot find context with specified id") || strings.Contains(err.Error(), "Execution context was destroyed"))
}

// Until waits until an expression in the page is true.
func Until(expression string) Step {
	return func(ctx context.Context, target *chromedp.Target) (chromedp.Void, error) {
		poll := chromedp.Poll[bool](expression, chromedp.WithPollingInterval(100*time.Millisecond), chromedp.WithPollingTimeout(stepPatience))
		_, err := poll(ctx, target)
		for changed(err) && ctx.Err() == nil {
			time.Sleep(lookEvery)
			_, err = poll(ctx, target)
		}
		if err != nil {
			err = fmt.Errorf("waiting for %s: %w", expression, err)
		}
		return chromedp.Void{}, err
	}
}

// lookEvery is how long a tab is left alone between looks for an element.
const lookEvery = 40 * time.Millisecond

// Visible waits until an element is there and can be seen. A selector is CSS, or XPath
// where it begins with a slash.
func Visible(selector string) Step {
	return chromedp.WaitVisible(selector, chromedp.RetryInterval(lookEvery))
}

// Hidden waits until an element cannot be seen.
func Hidden(selector string) Step {
	return chromedp.WaitNotVisible(selector, chromedp.RetryInterval(lookEvery))
}

// Gone waits until an element is not there.
func Gone(selector string) Step {
	return chromedp.WaitNotPresent(selector, chromedp.RetryInterval(lookEvery))
}

// Type waits for an element and types into it.
func Type(selector, text string) Step {
	return chromedp.SendKeys(selector, text, chromedp.RetryInterval(lookEvery))
}
