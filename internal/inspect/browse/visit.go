package browse

import (
	"context"
	_ "embed"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/chromedp/cdproto/browser"
	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/css"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/inspector"
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
func (b *Browser) answering() time.Duration { return b.options.Patience / 8 }

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
		return nil, fmt.Errorf("%q is no address of a page; it looks like https://www.example.com/", address)
	}
	if u.User != nil {
		return nil, errors.New("the address holds a sign-in; give one without")
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
		v.add("redirect-circle", "The page passes on in a circle: %s leads back to where it came from.", v.url)
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
	v.add("page-hangs", "The page did not answer while it was looked at: a script of it runs without end.")
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

// fontMoved is how soon after a font came a shift counts as its doing.
const fontMoved = 150 * time.Millisecond

// report asks the page about itself.
func (v *visiting) report(out *inspect.Visit) {
	told, err := eval[seen](v, reportScript)
	if err != nil {
		return
	}
	out.Title, out.Links, out.Faces, out.Preloads, out.Canvas = told.Title, told.Links, told.Faces, told.Preloads, told.Canvas
	v.off = told.Off
	out.Moments.FirstText = ms(told.Paint)
	out.Moments.FinalText = out.Moments.FirstText
	for _, l := range told.Loads {
		out.Moments.FinalText = max(out.Moments.FinalText, ms(l.At))
	}
	for _, s := range told.Shifts {
		shift := inspect.Shift{At: ms(s.At), Score: s.Score}
		for _, l := range told.Loads {
			if d := shift.At - ms(l.At); d > -fontMoved && d < fontMoved {
				shift.Font = true
			}
		}
		out.Moments.Shifts = append(out.Moments.Shifts, shift)
	}
}

// picture takes a picture of the page at the last width.
func (v *visiting) picture(out *inspect.Visit) {
	size, err := call(v, page.GetLayoutMetrics, cdp.Empty{})
	if err != nil || size.CSSContentSize == nil {
		return
	}
	out.PictureWidth, out.PictureHeight = Widths[1], min(int(size.CSSContentSize.Height), 4000)
	beyond := true
	shot, err := call(v, page.CaptureScreenshot, page.CaptureScreenshotParams{CaptureBeyondViewport: &beyond,
		Clip: &page.Viewport{Width: float64(out.PictureWidth), Height: float64(max(out.PictureHeight, 1)), Scale: 1}})
	if err == nil {
		out.Picture = shot.Data
	}
}

// bodies takes the bytes of what answered for fonts.
func (v *visiting) bodies() {
	v.mu.Lock()
	all := slices.Clone(v.requests)
	v.mu.Unlock()
	for _, r := range all {
		if r.Kind != inspect.FontKind || r.Failed != "" && r.Size == 0 || r.Size > mostFont {
			continue
		}
		if got, err := call(v, network.GetResponseBody, network.GetResponseBodyParams{RequestID: network.RequestID(r.ID)}); err == nil {
			r.Body = got.Body
		}
	}
}

// finish gathers what was seen.
func (v *visiting) finish(out *inspect.Visit) *inspect.Visit {
	v.texts(out)
	v.mu.Lock()
	defer v.mu.Unlock()
	out.Status, out.Trouble = v.status, v.trouble
	out.Final = v.url
	if n := len(v.documents); n > 0 {
		out.Final = v.documents[n-1]
	}
	for _, r := range v.requests {
		out.Requests = append(out.Requests, *r)
	}
	return out
}

// swaps lays the text out in what stands in for its fonts, to see how much it moves.
func (v *visiting) swaps(out *inspect.Visit) {
	stand := out.StandIns()
	if len(stand) == 0 || v.ctx.Err() != nil {
		return
	}
	asked, err := json.Marshal(stand)
	if err != nil {
		return
	}
	measured, err := eval[[]struct{ Before, After, Height float64 }](v, swapScript+"("+string(asked)+")")
	if err != nil || len(measured) != len(stand) {
		return
	}
	for i, m := range measured {
		out.Swaps = append(out.Swaps, inspect.Swap{Family: stand[i].Family, StandIn: stand[i].Name, Before: m.Before, After: m.After, Height: m.Height, Adjusted: stand[i].Has,
			Rule: strings.Replace(stand[i].Rule, stand[i].Adjusted, stand[i].Family+" Fallback", 1)})
	}
}

// mostTried bounds the places where a file is looked for.
const mostTried = 8

// Fetch reads what is at a URL as the pages are loaded, through the proxy: at most limit
// bytes of an answer 200, and where it was at last.
func (b *Browser) Fetch(ctx context.Context, address string, limit int64) (body []byte, final string, err error) {
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
	if err != nil {
		return nil, "", err
	}
	got, err := b.client.Do(r)
	if err != nil {
		return nil, "", err
	}
	defer got.Body.Close() //nolint:errcheck // it was read
	if got.StatusCode != http.StatusOK {
		return nil, "", fmt.Errorf("%s answers %s", r.URL.Host, got.Status)
	}
	body, err = io.ReadAll(io.LimitReader(got.Body, limit))
	return body, got.Request.URL.String(), err
}

// elsewhere looks for fonts that are not where rules say: beside the others that came, in
// the folder of the stylesheet, of the page, and in the customary one.
func (v *visiting) elsewhere(out *inspect.Visit) {
	var folders []string
	add := func(base, path string) {
		u, err := url.Parse(base)
		if err != nil {
			return
		}
		if u, err = u.Parse(path); err == nil && !slices.Contains(folders, u.String()) {
			folders = append(folders, u.String())
		}
	}
	for _, r := range out.Sent() {
		add(r.URL, ".")
	}
	for i := range out.Requests {
		r := &out.Requests[i]
		if r.Kind != inspect.FontKind || r.Font != nil || r.Blocked != "" || r.Status == 0 {
			continue
		}
		name := r.URL[strings.LastIndexByte(r.URL, '/')+1:]
		at := len(folders)
		for _, path := range []string{"fonts/", "../fonts/", ".", "/fonts/", "/assets/fonts/", "/static/fonts/", "/"} {
			add(r.Initiator, path)
		}
		add(out.Final, ".")
		add(r.URL, "..")
		for _, folder := range folders[:min(len(folders), at+mostTried+2)] {
			if found := folder + name; found != r.URL && v.isFont(found) {
				r.Found = append(r.Found, found)
				break
			}
		}
	}
}

// isFont reports whether a font is at a URL.
func (v *visiting) isFont(address string) bool {
	ctx, cancel := context.WithTimeout(v.ctx, v.answering())
	defer cancel()
	head, _, err := v.Fetch(ctx, address, 4)
	if err != nil {
		return false
	}
	return slices.Contains([]string{"wOF2", "wOFF", "OTTO", "true", "ttcf", "\x00\x01\x00\x00"}, string(head))
}

// texts takes the stylesheets.
func (v *visiting) texts(out *inspect.Visit) {
	v.mu.Lock()
	headers := slices.Clone(v.sheets)
	v.mu.Unlock()
	for _, h := range headers {
		if h.Length > mostSheet || v.ctx.Err() != nil {
			continue
		}
		got, err := call(v, css.GetStyleSheetText, css.GetStyleSheetTextParams{StyleSheetID: h.StyleSheetID})
		if err != nil {
			continue
		}
		off := slices.ContainsFunc(v.off, func(o struct{ URL, Text string }) bool {
			return o.URL != "" && o.URL == h.SourceURL && !h.IsInline || o.URL == "" && h.IsInline && o.Text != "" && strings.HasPrefix(got.Text, o.Text)
		})
		out.Sheets = append(out.Sheets, inspect.Sheet{Off: off, ID: string(h.StyleSheetID), URL: h.SourceURL, Inline: h.IsInline, Frame: v.main != "" && h.FrameID != "" && h.FrameID != v.main, Built: h.IsConstructed || h.IsMutable && !h.IsInline && h.SourceURL == "", Line: int(h.StartLine) + 1, Text: got.Text})
	}
}

// event takes what the browser tells.
func (v *visiting) event(event any) {
	v.mu.Lock()
	defer v.mu.Unlock()
	switch e := event.(type) {
	case *network.EventRequestWillBeSent:
		v.asked(e)
	case *network.EventResponseReceived:
		v.answered(e.RequestID, e.Response)
		if e.Type == network.ResourceTypeDocument && (v.main == "" || e.FrameID == v.main) {
			v.status = int(e.Response.Status)
			if _, is := headers(e.Response.Headers)[refusal]; is {
				v.refused, v.status = true, 0
			}
		}
	case *network.EventResponseReceivedExtraInfo:
		// The head of answers that the browser does not let the page have is told here alone.
		if r := v.byID[e.RequestID]; r != nil {
			if r.Status == 0 {
				r.Status = int(e.StatusCode)
			}
			if _, is := headers(e.Headers)[refusal]; is {
				r.Blocked = "address"
			}
		}
	case *network.EventDataReceived:
		v.last = time.Now()
		if r := v.byID[e.RequestID]; r != nil {
			r.Size += e.DataLength
		}
	case *network.EventLoadingFinished:
		v.last = time.Now()
		delete(v.open, e.RequestID)
		if r := v.byID[e.RequestID]; r != nil {
			r.Wire = int64(e.EncodedDataLength)
			r.Took = time.Duration((float64(e.Timestamp) - v.timings[r]) * float64(time.Second))
		}
	case *network.EventLoadingFailed:
		v.last = time.Now()
		delete(v.open, e.RequestID)
		if r := v.byID[e.RequestID]; r != nil {
			v.failed(r, e)
		}
	case *css.EventStyleSheetAdded:
		if e.Header.Origin == css.StyleSheetOriginRegular && len(v.sheets) < mostSeen {
			v.sheets = append(v.sheets, e.Header)
		}
	case *css.EventStyleSheetRemoved:
		v.sheets = slices.DeleteFunc(v.sheets, func(h *css.StyleSheetHeader) bool { return h.StyleSheetID == e.StyleSheetID })
	case *page.EventDomContentEventFired:
		if !v.done.dom {
			v.done.dom = true
			close(v.domReady)
		}
	case *page.EventLoadEventFired:
		if !v.done.load && len(v.documents) > 0 {
			v.done.load = true
			close(v.loaded)
		}
	case *page.EventFrameNavigated:
		if e.Frame.ParentID == "" && strings.HasPrefix(e.Frame.URL, "http") {
			v.main = e.Frame.ID
			v.documents = append(v.documents, e.Frame.URL)
			if len(v.documents) > circle && !v.done.load {
				v.done.load = true
				close(v.loaded)
			}
		}
	case *page.EventJavascriptDialogOpening:
		go func() { _, _ = call(v, page.HandleJavaScriptDialog, page.HandleJavaScriptDialogParams{Accept: true}) }()
	case *inspector.EventTargetCrashed:
		if !v.done.crash {
			v.done.crash = true
			close(v.crashed)
		}
	}
}

// asked takes a request that begins.
func (v *visiting) asked(e *network.EventRequestWillBeSent) {
	v.last = time.Now()
	if v.start == 0 {
		v.start = float64(e.Timestamp)
	}
	if e.Type == network.ResourceTypeEventSource || e.Type == network.ResourceTypeWebSocket || e.Type == network.ResourceTypeMedia {
		return
	}
	if !strings.HasPrefix(e.Request.URL, "data:") && len(v.open) < mostSeen {
		v.open[e.RequestID] = true
	}
	if before := v.byID[e.RequestID]; before != nil && e.RedirectResponse != nil {
		before.Through = append(before.Through, before.URL)
		before.URL = e.Request.URL
		return
	}
	kind, matters := map[network.ResourceType]inspect.Kind{network.ResourceTypeFont: inspect.FontKind, network.ResourceTypeStylesheet: inspect.SheetKind}[e.Type]
	if !matters || len(v.requests) >= mostSeen || strings.HasPrefix(e.Request.URL, "data:") {
		return
	}
	r := &inspect.Request{ID: string(e.RequestID), URL: e.Request.URL + e.Request.URLFragment, Kind: kind, Preload: e.Request.IsLinkPreload, Initiator: e.DocumentURL,
		Began: time.Duration((float64(e.Timestamp) - v.start) * float64(time.Second))}
	if e.Initiator != nil && e.Initiator.URL != "" {
		r.Initiator, r.Line = e.Initiator.URL, int(e.Initiator.LineNumber)+1
	}
	v.timings[r] = float64(e.Timestamp)
	v.byID[e.RequestID] = r
	v.requests = append(v.requests, r)
}

// refusal is the header of answers that are the proxy's own.
var refusal = strings.ToLower(fetch.Answer)

// headers returns headers by their names in small letters.
func headers(h network.Headers) map[string]string {
	raw, err := json.Marshal(h)
	if err != nil {
		return nil
	}
	var all, out map[string]string = nil, map[string]string{}
	if json.Unmarshal(raw, &all) != nil {
		return nil
	}
	for name, value := range all {
		out[strings.ToLower(name)] = value
	}
	return out
}

// answered takes the head of an answer.
func (v *visiting) answered(id network.RequestID, a *network.Response) {
	r := v.byID[id]
	if r == nil {
		return
	}
	r.Status, r.Protocol = int(a.Status), a.Protocol
	for name, value := range headers(a.Headers) {
		switch name {
		case "content-type":
			r.Type = value
		case "cache-control":
			r.Cache = value
		case "expires":
			r.Expires = value
		case "last-modified":
			r.Modified = value
		case "content-encoding":
			r.Encoding = value
		case "access-control-allow-origin":
			r.CORS = value
		case refusal:
			r.Blocked = "address"
		}
	}
}

// failed takes why a request came to nothing.
func (v *visiting) failed(r *inspect.Request, e *network.EventLoadingFailed) {
	r.Failed = e.ErrorText
	if r.Failed == "" {
		r.Failed = "net::ERR_FAILED"
	}
	switch {
	case r.Blocked == "address":
	case e.CorsErrorStatus != nil:
		r.Blocked = "cors"
	case e.BlockedReason == network.BlockedReasonMixedContent:
		r.Blocked = "mixed-content"
	case e.BlockedReason == network.BlockedReasonCsp:
		r.Blocked = "csp"
	case e.BlockedReason != "":
		r.Blocked = string(e.BlockedReason)
	}
}
