package browse

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/css"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"

	"sparecrate/internal/inspect"
)

// mostTried bounds the places where a file is looked for.
const mostTried = 8

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

// swaps lays the text out in the fallbacks of its fonts, to see how much it moves.
func (v *visiting) swaps(out *inspect.Visit) {
	stand := out.Fallbacks()
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
		out.Swaps = append(out.Swaps, inspect.Swap{Family: stand[i].Family, Fallback: stand[i].Name, Before: m.Before, After: m.After, Height: m.Height, Adjusted: stand[i].Has,
			Rule: strings.Replace(stand[i].Rule, stand[i].Adjusted, stand[i].Family+" Fallback", 1)})
	}
}

// Fetch reads what is at a URL as the pages are loaded, through the proxy: at most limit
// bytes of an answer 200, and where it was at last.
func (b *Browser) Fetch(ctx context.Context, address string, limit int64) (body []byte, final string, err error) {
	b.proxy.Allow(max(limit, mostBytes)) // what pages before it loaded does not count
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
