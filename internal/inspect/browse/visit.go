package browse

import (
	"context"
	_ "embed"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/chromedp/cdproto/browser"
	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/css"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"

	"sparecrate/internal/fetch"
	"sparecrate/internal/inspect"
)

//go:embed page.js
var pageScript string

//go:embed report.js
var reportScript string

//go:embed scroll.js
var scrollScript string

//go:embed swap.js
var swapScript string

// Widths are those of the windows that a page is looked at in, CSS pixels: a phone's and
// a desktop's.
var Widths = [2]int{390, 1280}

// How long parts of a visit may take.
const (
	quietAfter = 250 * time.Millisecond
	grace      = 2 * time.Second
	quietMost  = 4 * time.Second
	scrolling  = 10 * time.Second // with the fonts that it wakes
	circle     = 12               // documents that a page may pass on to
	mostSeen   = 2000
	mostSheet  = 2 << 20
	mostFont   = 16 << 20
)

// loading is how long a page may take to load, and answering how long it may take to
// answer a question.
func (b *Browser) loading() time.Duration   { return b.options.Patience / 3 }
func (b *Browser) answering() time.Duration { return b.options.Patience / 4 }

// visiting is a visit while it goes on.
type visiting struct {
	*Browser
	ctx   context.Context
	url   string
	roles []inspect.Role
	began time.Time

	mu        sync.Mutex
	start     float64 // monotonic, seconds, of the first request
	requests  []*inspect.Request
	byID      map[network.RequestID]*inspect.Request
	timings   map[*inspect.Request]float64
	open      map[network.RequestID]bool
	last      time.Time // something was loaded
	documents []string  // URLs of the main frame
	main      cdp.FrameID
	status    int
	refused   bool // the answer for the page is the proxy's own
	sheets    []*css.StyleSheetHeader
	domReady  chan struct{}
	loaded    chan struct{}
	crashed   chan struct{}
	done      struct{ dom, load, crash bool }
	trouble   []inspect.Trouble
	off       []struct{ URL, Text string }
}

// Visit looks at a page. The error is the context's, or says why there is no page to look
// at; what else goes wrong is said in the visit.
func (b *Browser) Visit(ctx context.Context, address string, roles ...inspect.Role) (*inspect.Visit, error) {
	u, err := url.Parse(address)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" {
		return nil, fmt.Errorf("%q is not the URL of a page; it looks like https://www.example.com/", address)
	}
	if u.User != nil {
		return nil, errors.New("the URL contains a user name or password; use a URL without them")
	}
	b.proxy.Allow(mostBytes)
	tab, cancel := context.WithTimeout(b.ctx, b.options.Patience)
	defer cancel()
	defer context.AfterFunc(ctx, cancel)()
	v := &visiting{Browser: b, url: address, roles: roles, began: time.Now(), byID: map[network.RequestID]*inspect.Request{}, timings: map[*inspect.Request]float64{},
		open: map[network.RequestID]bool{}, domReady: make(chan struct{}), loaded: make(chan struct{}), crashed: make(chan struct{})}
	tab, close := chromedp.NewContext(tab, chromedp.WithNewBrowserContext(), chromedp.WithListener(v.event)) //nolint:revive // ends the tab
	defer close()
	v.ctx = tab
	out, err := v.visit()
	if err != nil && ctx.Err() != nil {
		return nil, ctx.Err()
	}
	return out, err
}

// call asks the browser something, for a bounded time.
func call[P, R any](v *visiting, method cdp.Command[P, R], params P) (R, error) {
	ctx, cancel := context.WithTimeout(v.ctx, v.answering())
	defer cancel()
	return chromedp.Call(ctx, method, params)
}

// eval asks the page something, for a bounded time.
func eval[T any](v *visiting, expression string) (T, error) {
	ctx, cancel := context.WithTimeout(v.ctx, v.answering())
	defer cancel()
	return chromedp.Run(ctx, chromedp.Evaluate[T](expression, chromedp.EvalAwaitPromise))
}

func (v *visiting) add(code, format string, args ...any) {
	v.mu.Lock()
	defer v.mu.Unlock()
	if !slices.ContainsFunc(v.trouble, func(t inspect.Trouble) bool { return t.Code == code }) {
		v.trouble = append(v.trouble, inspect.Trouble{Code: code, Message: fmt.Sprintf(format, args...)})
	}
}

func (v *visiting) visit() (*inspect.Visit, error) {
	if err := chromedp.Do(v.ctx); err != nil {
		return nil, fmt.Errorf("open a tab: %w", err)
	}
	ready := func() error {
		if _, err := call(v, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{Source: pageScript}); err != nil {
			return err
		}
		if _, err := call(v, browser.SetDownloadBehavior, browser.SetDownloadBehaviorParams{Behavior: browser.SetDownloadBehaviorBehaviorDeny, BrowserContextID: chromedp.FromContext(v.ctx).BrowserContextID}); err != nil {
			return err
		}
		// Pages beside each other are all as if looked at: those that are not draw seldom.
		if _, err := call(v, emulation.SetFocusEmulationEnabled, emulation.SetFocusEmulationEnabledParams{Enabled: true}); err != nil {
			return err
		}
		return v.window(Widths[0])
	}
	if err := ready(); err != nil {
		return nil, fmt.Errorf("prepare a tab: %w", err)
	}
	out := &inspect.Visit{URL: v.url}
	went, err := v.navigate()
	if err != nil || went != "" {
		v.unreachable(went, err)
		return v.finish(out), nil //nolint:nilerr // it is said in the visit
	}
	if !v.wait() {
		return v.finish(out), nil
	}
	if v.isRefused() {
		v.unreachable("", nil)
		return v.finish(out), nil
	}
	var runs []inspect.Run
	for _, width := range Widths {
		if err := v.window(width); err != nil {
			break
		}
		if !v.settle() {
			return v.finish(out), nil
		}
		seen, err := v.runs(width)
		if err != nil {
			v.stuck()
			return v.finish(out), nil //nolint:nilerr // it is said in the visit
		}
		runs = append(runs, seen...)
	}
	out.Runs = runs
	v.report(out)
	v.picture(out)
	v.cascade(out)
	v.shownRoles(out)
	v.bodies()
	v.finish(out)
	out.Read()
	v.swaps(out)
	v.elsewhere(out)
	return out, nil //nolint:nilerr // what the browser said of the address was handled above
}

// window sets the size of the window.
func (v *visiting) window(width int) error {
	height := int64(800)
	if width < 600 {
		height = 844
	}
	_, err := call(v, emulation.SetDeviceMetricsOverride, emulation.SetDeviceMetricsOverrideParams{Width: int64(width), Height: height, DeviceScaleFactor: 1, Mobile: width < 600})
	return err
}

// navigate goes to the page; the browser's error where it cannot be reached.
func (v *visiting) navigate() (string, error) {
	ctx, cancel := context.WithTimeout(v.ctx, v.loading())
	defer cancel()
	r, err := chromedp.Call(ctx, page.Navigate, page.NavigateParams{URL: v.url})
	if err != nil {
		return "", err
	}
	return r.ErrorText, nil
}

// unreachable says why there is no page.
func (v *visiting) unreachable(said string, err error) {
	u, _ := url.Parse(v.url)
	if v.late() != "" {
		u, _ = url.Parse(v.late())
	}
	host := u.Host
	if u.Port() == "" {
		host += map[string]string{"http": ":80", "https": ":443"}[u.Scheme]
	}
	why := v.proxy.Refused(host)
	switch {
	case strings.Contains(said, "TOO_MANY_REDIRECTS"):
		v.add("redirect-circle", "The page redirects in a loop: %s leads back to itself.", v.url)
	case why != "":
		v.add("page-unreachable", "The page cannot be looked at. %s", why)
	case strings.Contains(said, "CERT"):
		v.add("page-unreachable", "The page cannot be looked at: browsers refuse the certificate of %s (%s).", u.Host, said)
	case said != "":
		v.add("page-unreachable", "The page cannot be looked at: the browser says %s.", said)
	case errors.Is(err, context.DeadlineExceeded):
		v.add("page-never-ends", "The page sent no answer in %.0f seconds.", v.loading().Seconds())
	default:
		v.add("page-unreachable", "The page cannot be looked at.")
	}
}

// isRefused reports whether the proxy answered in place of the page's server.
func (v *visiting) isRefused() bool {
	v.mu.Lock()
	defer v.mu.Unlock()
	return v.refused
}

// late returns the last document that the page passed on to.
func (v *visiting) late() string {
	v.mu.Lock()
	defer v.mu.Unlock()
	if len(v.documents) == 0 {
		return ""
	}
	return v.documents[len(v.documents)-1]
}

// wait waits for the page to be loaded; false where there is nothing to look at.
func (v *visiting) wait() bool {
	end := time.NewTimer(v.loading())
	defer end.Stop()
	select {
	case <-v.loaded:
		return v.still()
	case <-v.crashed:
	case <-v.ctx.Done():
	case <-end.C:
		v.add("page-never-ends", "The page was still loading after %.0f seconds; what was there by then was looked at.", v.loading().Seconds())
		select {
		case <-v.domReady:
		default:
			ctx, cancel := context.WithTimeout(v.ctx, v.answering())
			_ = v.target().Call(ctx, page.StopLoading.Method, cdp.Empty{}, nil)
			cancel()
		}
		return v.still()
	}
	return v.still()
}

func (v *visiting) target() *chromedp.Target { return chromedp.FromContext(v.ctx).Target }

// still reports whether there is a page that can be looked at.
func (v *visiting) still() bool {
	select {
	case <-v.crashed:
		v.heavy()
		return false
	default:
	}
	v.mu.Lock()
	hops := len(v.documents)
	v.mu.Unlock()
	if hops > circle {
		v.add("redirect-circle", "The page passes on again and again: after %d pages it still leads to another.", circle)
		return false
	}
	if v.proxy.Over() {
		v.add("page-too-heavy", "The page loads more than %d MB, more than is looked at.", mostBytes>>20)
	}
	if v.ctx.Err() != nil {
		v.add("page-never-ends", "The page was not done in %.0f seconds.", v.options.Patience.Seconds())
		return false
	}
	return true
}

// stuck says why the page does not answer.
func (v *visiting) stuck() {
	// Whoever fills memory hangs first, and is ended then.
	select {
	case <-v.crashed:
	case <-time.After(grace):
	}
	switch {
	case !v.still():
		return // it says why
	case v.killed.Load() > v.began.UnixNano():
		v.heavy()
		return
	}
	v.add("page-hangs", "The page stopped responding during the inspection: one of its scripts does not end.")
}

func (v *visiting) heavy() {
	v.add("page-too-heavy", "The page was ended: it took more than %d MB of memory.", mostMemory>>20)
}

// settle scrolls through the page and waits until its fonts are there and nothing more is
// loaded.
func (v *visiting) settle() bool {
	_, err := eval[bool](v, "true")
	if err == nil {
		ctx, cancel := context.WithTimeout(v.ctx, v.answering()+scrolling)
		_, err = chromedp.Run(ctx, chromedp.Evaluate[bool](scrollScript, chromedp.EvalAwaitPromise))
		cancel()
	}
	if err != nil {
		v.stuck()
		return false
	}
	end := time.Now().Add(quietMost)
	for time.Now().Before(end) && v.ctx.Err() == nil {
		v.mu.Lock()
		quiet := len(v.open) == 0 && time.Since(v.last) > quietAfter
		v.mu.Unlock()
		if quiet {
			break
		}
		time.Sleep(30 * time.Millisecond)
	}
	if _, err := eval[bool](v, `Promise.race([document.fonts.ready.then(() => new Promise(go => __seen.later(go, 60, true))), new Promise(go => __seen.later(go, 2000, true))])`); err != nil {
		if !v.still() {
			return false
		}
	}
	return v.still()
}

// seen is what report.js tells.
type seen struct {
	Title    string
	Links    []string
	Off      []struct{ URL, Text string } // stylesheets that are not for this medium
	Faces    []inspect.Face
	Preloads []inspect.Preload
	Canvas   []string
	Shifts   []struct{ At, Score float64 }
	Paint    float64
	Loads    []struct {
		At       float64
		Families []string
	}
	Height int
}

func ms(f float64) time.Duration { return time.Duration(f * float64(time.Millisecond)) }

// refusal is the header of answers that are the proxy's own.
var refusal = strings.ToLower(fetch.Answer)
