package browse

import (
	"encoding/json"
	"slices"
	"strings"
	"time"

	"github.com/chromedp/cdproto/css"
	"github.com/chromedp/cdproto/inspector"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"

	"sparecrate/internal/inspect"
)

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
