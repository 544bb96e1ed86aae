// Package browsertest starts headless Chromium for tests: pages as people see
// them, and fonts as a browser takes them.
package browsertest

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/browser"
	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/css"
	"github.com/chromedp/cdproto/dom"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"

	"sparecrate/internal/inspect/browse"
)

// How long a test in the browser may take, and a group of its steps.
const (
	patience     = 5 * time.Minute
	stepPatience = 2 * time.Minute
	// How long a page that looks for a second may take to answer.
	answerPatience = 5 * time.Second
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
	path, err := browse.Program()
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
		chromedp.Flag("disable-dev-shm-usage", true), chromedp.Flag("font-render-hinting", "none"),
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
// in use where it is empty. Errors on the console of a page fail the test.
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
	// Steps ask the page itself, so nobody need follow each change of its elements and styles.
	for _, unused := range []string{css.Disable.Method, dom.Disable.Method} {
		if err := chromedp.FromContext(ctx).Target.Call(ctx, unused, cdp.Empty{}, nil); err != nil {
			t.Fatal(err)
		}
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
	return err != nil && slices.ContainsFunc([]string{"Cannot find context with specified id", "Execution context was destroyed", "Inspected target navigated or closed"},
		func(said string) bool { return strings.Contains(err.Error(), said) })
}

// Until waits until an expression in the page is true. The page looks for a second at a
// time: a page that is left while it looks may never answer.
func Until(expression string) Step {
	look := chromedp.Evaluate[bool](fmt.Sprintf(`new Promise((done, failed) => {
		const end = Date.now() + 1000
		const look = async () => {
			try {
				if (await (%[1]s)) done(true)
				else if (Date.now() > end) done(false)
				else setTimeout(look, %[2]d)
			} catch (wrong) { // a page that is only just coming has no body yet
				if (document.body) failed(wrong)
				else setTimeout(look, %[2]d)
			}
		}
		look()
	})`, expression, lookEvery.Milliseconds()), chromedp.EvalAwaitPromise)
	return chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		for {
			once, cancel := context.WithTimeout(ctx, answerPatience)
			is, err := look(once, target)
			unanswered := once.Err() != nil
			cancel()
			switch {
			case ctx.Err() != nil:
				return fmt.Errorf("waiting for %s: %w", expression, ctx.Err())
			case err == nil && is:
				return nil
			case err != nil && !changed(err) && !unanswered:
				return fmt.Errorf("waiting for %s: %w", expression, err)
			case err != nil:
				time.Sleep(lookEvery)
			}
		}
	})
}

// lookEvery is how long a tab is left alone between two tries.
const lookEvery = 40 * time.Millisecond

// find is an expression for the element that a selector finds: CSS, or XPath where it
// begins with a slash.
func find(selector string) string {
	quoted, _ := json.Marshal(selector) // a string
	if strings.HasPrefix(selector, "/") {
		return fmt.Sprintf("document.evaluate(%s, document, null, XPathResult.FIRST_ORDERED_NODE_TYPE, null).singleNodeValue", quoted)
	}
	return fmt.Sprintf("document.querySelector(%s)", quoted)
}

// seen is an expression that is true where an element is there and can be seen.
func seen(selector string) string {
	return fmt.Sprintf(`(e => !!e && e.getClientRects().length > 0 && getComputedStyle(e).visibility === "visible")(%s)`, find(selector))
}

// Visible waits until an element is there and can be seen. A selector is CSS, or XPath
// where it begins with a slash.
func Visible(selector string) Step { return Until(seen(selector)) }

// Hidden waits until an element is there and cannot be seen.
func Hidden(selector string) Step {
	return Until(fmt.Sprintf("!!%s && !%s", find(selector), seen(selector)))
}

// Gone waits until an element is not there.
func Gone(selector string) Step { return Until(fmt.Sprintf("!%s", find(selector))) }

// Type waits for an element and types into it.
func Type(selector, text string) Step {
	focus := Until(fmt.Sprintf("%s && (e => { e.focus(); return e.matches(':focus') })(%s)", seen(selector), find(selector)))
	// A list that opens under the field, and what it finds, is there before the next key asks for it.
	pause := chromedp.Func(func(context.Context, *chromedp.Target) error { time.Sleep(2 * lookEvery); return nil })
	words := strings.TrimRight(text, "\r\t")
	return chromedp.Steps(focus, pause, chromedp.KeyEvent(words), pause, chromedp.KeyEvent(text[len(words):]))
}

// Upload waits for a field for files and chooses some.
func Upload(selector string, paths ...string) Step {
	return chromedp.Steps(Until("!!"+find(selector)), chromedp.Func(func(ctx context.Context, _ *chromedp.Target) error {
		field, err := chromedp.Call(ctx, runtime.Evaluate, runtime.EvaluateParams{Expression: find(selector)})
		if err != nil {
			return err
		}
		_, err = chromedp.Call(ctx, dom.SetFileInputFiles, dom.SetFileInputFilesParams{Files: paths, ObjectID: field.Result.ObjectID})
		return err
	}))
}

// Fonts returns the fonts that the browser set the text of elements in, of all that a CSS
// selector finds.
func Fonts(t testing.TB, ctx context.Context, selector string) []*css.PlatformFontUsage { //nolint:revive // t first, as in testing
	t.Helper()
	var out []*css.PlatformFontUsage
	Do(t, ctx, chromedp.Func(func(ctx context.Context, _ *chromedp.Target) error {
		if _, err := chromedp.Call(ctx, dom.Enable, dom.EnableParams{}); err != nil {
			return err
		}
		if _, err := chromedp.Call(ctx, css.Enable, cdp.Empty{}); err != nil {
			return err
		}
		root, err := chromedp.Call(ctx, dom.GetDocument, dom.GetDocumentParams{})
		if err != nil {
			return err
		}
		nodes, err := chromedp.Call(ctx, dom.QuerySelectorAll, dom.QuerySelectorAllParams{NodeID: root.Root.NodeID, Selector: selector})
		if err != nil {
			return err
		}
		for _, n := range nodes.NodeIDs {
			r, err := chromedp.Call(ctx, css.GetPlatformFontsForNode, css.GetPlatformFontsForNodeParams{NodeID: n})
			if err != nil {
				return err
			}
			out = append(out, r.Fonts...)
		}
		return nil
	}))
	return out
}
