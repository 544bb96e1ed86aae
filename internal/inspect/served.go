package inspect

import (
	"fmt"
	"mime"
	"net/http"
	"net/url"
	"path"
	"strconv"
	"strings"
	"time"

	"sparecrate/internal/css"
	"sparecrate/internal/inspect/origin"
)

// keep is how long browsers should be let keep a font: fonts change their name when they
// change.
const keep = 7 * 24 * time.Hour

// types are the media types of fonts (RFC 8081), and those that were in use before it.
var types = map[string]bool{
	"font/woff2": true, "font/woff": true, "font/ttf": true, "font/otf": true, "font/sfnt": true, "font/collection": true,
	"application/font-woff2": true, "application/font-woff": true, "application/x-font-woff": true, "application/font-sfnt": true,
	"application/x-font-ttf": true, "application/x-font-otf": true, "application/x-font-opentype": true, "application/vnd.ms-fontobject": true, "application/vnd.ms-opentype": true,
}

// import judges how fonts and stylesheets come.
func (j *judge) imp() {
	others := map[string][]string{} // fonts and sheets by somebody else's server
	var servers []string
	for i := range j.Requests {
		r := &j.Requests[i]
		if origin.OtherServer(j.Final, r.URL) && (r.Kind == FontKind || j.fontSheet(r)) {
			host := hostOf(r.URL)
			if others[host] == nil {
				servers = append(servers, host)
			}
			others[host] = append(others[host], r.URL)
		}
		if r.Kind == SheetKind {
			j.sheet(r)
			continue
		}
		j.font(r)
	}
	for _, host := range servers {
		j.add(Finding{Code: "third-party", URL: others[host][0],
			Message:  fmt.Sprintf("Every view of the page asks %s for fonts: it learns the visitor's address and which page is read, which needs a reason in data protection law, and the page waits for one more server.", host),
			Fix:      "Have the site send the fonts itself: take their files into the catalog, build a pack for the site, and take the link to " + host + " out.",
			Evidence: fmt.Sprintf("%d requests, the first %s", len(others[host]), others[host][0])})
	}
}

// fontSheet reports whether a stylesheet holds font rules.
func (j *judge) fontSheet(r *Request) bool {
	for _, x := range j.rules {
		if x.sheet.URL == r.URL {
			return true
		}
	}
	return false
}

// font judges one request for a font.
func (j *judge) font(r *Request) {
	rule := j.ruleFor(r)
	at := rule.place(Finding{URL: r.URL})
	name := path.Base(strings.SplitN(r.URL, "?", 2)[0])
	where := r.URL
	switch {
	case r.Blocked == "address":
		at.Code, at.Message = "font-error", fmt.Sprintf("The font %s lies in a private network, where visitors cannot get it.", where)
		at.Fix = "Put the file where the page is published, and correct the URL in the rule."
	case r.Blocked == "mixed-content":
		at.Code, at.Message = "mixed-content", fmt.Sprintf("The page is sent over https and asks for %s over http, which browsers refuse.", where)
		at.Fix = fmt.Sprintf("src: url(%q)", "https"+strings.TrimPrefix(r.URL, "http"))
	case r.Blocked == "csp":
		u, _ := url.Parse(r.URL)
		at.Code, at.Message = "font-csp", fmt.Sprintf("The page's Content-Security-Policy does not let it load %s.", where)
		at.Fix = fmt.Sprintf("Content-Security-Policy: font-src 'self' %s://%s", u.Scheme, u.Host)
	case r.Status >= 400 && r.Status < 500:
		at.Code, at.Message = "font-404", fmt.Sprintf("There is no font at %s: the server answers %d.", where, r.Status)
		at.Fix = "Upload " + name + " to that place, or write the path where it lies into the rule."
		if u, err := url.Parse(r.URL); err == nil && css.Curly.MatchString(u.Path) {
			at.Code, at.Message = "rule-dropped", fmt.Sprintf("The URL of the font is written with curly quotes, so that they are part of it: %s", where)
			at.Fix = "Write straight quotes: \" or '."
		}
		if len(r.Found) > 0 {
			at.Message += fmt.Sprintf(" The file is at %s.", r.Found[0])
			at.Fix = fmt.Sprintf("src: url(%q)", r.Found[0])
		}
	case r.Blocked == "cors":
		page, _ := url.Parse(j.Final)
		at.Code, at.Message = "font-cors", fmt.Sprintf("The server of %s does not allow this page to use the font: its answer has no Access-Control-Allow-Origin for it.", where)
		at.Fix = fmt.Sprintf("Access-Control-Allow-Origin: %s://%s", page.Scheme, page.Host)
		at.Evidence = "Access-Control-Allow-Origin: " + orNone(r.CORS)
	case r.Status >= 500:
		at.Code, at.Message = "font-error", fmt.Sprintf("The server of %s answers %d.", where, r.Status)
		at.Fix = "Look into the server's log; until it is corrected, text stays in the fallback font."
	case r.Failed != "" && !strings.Contains(r.Failed, "ABORTED") && r.Font == nil && r.Status == 0:
		at.Code, at.Message = "font-error", fmt.Sprintf("The font %s does not come: the browser says %s.", where, r.Failed)
		at.Fix = "Look whether the server of the font can be reached from everywhere."
	case r.Font == nil && isHTML(r):
		at.Code, at.Message = "font-is-html", fmt.Sprintf("A web page comes in place of the font %s, with the answer 200 as if all were well.", where)
		at.Fix = "Upload " + name + " to that place; the server sends its own page for what it does not have."
		at.Evidence = "begins with " + strconv.Quote(start(r.Body))
		if len(r.Found) > 0 {
			at.Message += fmt.Sprintf(" The file is at %s.", r.Found[0])
			at.Fix = fmt.Sprintf("src: url(%q)", r.Found[0])
		}
	case r.Font == nil && (len(r.Body) > 0 || r.Status == http.StatusOK && r.Size == 0 && j.broken(rule)):
		at.Code, at.Message = "font-damaged", fmt.Sprintf("What comes from %s is no whole font; browsers refuse it.", where)
		at.Fix = "Upload the file again, in binary mode, and compare its size: " + kB(int64(len(r.Body))) + " came."
	}
	if at.Code != "" {
		j.add(at)
		return
	}
	if r.Font == nil {
		return
	}
	kind, _, _ := mime.ParseMediaType(r.Type)
	if !types[strings.ToLower(kind)] {
		j.add(Finding{Code: "font-wrong-type", URL: r.URL, Message: fmt.Sprintf("The font %s is sent as %s.", name, orNone(kind)), Evidence: "Content-Type: " + orNone(r.Type),
			Fix: "Content-Type: font/" + r.Font.Format})
	}
	if len(r.Through) > 0 {
		j.add(Finding{Code: "font-redirected", URL: r.Through[0], Message: fmt.Sprintf("The font is passed on from %s to %s, which takes a request more.", r.Through[0], r.URL), Fix: fmt.Sprintf("src: url(%q)", r.URL)})
	}
	if life, said := freshness(r); life < keep {
		often := "for " + span(life) + " only"
		if life <= 0 {
			often = "only to ask whether it changed"
		}
		j.add(Finding{Code: "short-cache", URL: r.URL, Message: fmt.Sprintf("Browsers may keep %s %s, so that later visits wait for its server again.", name, often),
			Evidence: said, Fix: "Cache-Control: public, max-age=31536000, immutable"})
	}
}

// sheet judges one request for a stylesheet.
func (j *judge) sheet(r *Request) {
	if decoded, err := url.PathUnescape(r.URL); err == nil && (strings.Contains(decoded, "<link") || strings.Contains(decoded, "<style") || strings.Contains(decoded, "@import")) {
		j.add(Finding{Code: "tag-in-address", URL: j.Final, Message: "A whole tag was pasted where only the address of a stylesheet belongs: " + short(decoded), Fix: "Paste only what is between the quotes after href=, or switch the box to code."})
		return
	}
	switch {
	case r.Blocked == "csp":
		j.add(Finding{Code: "sheet-missing", URL: r.URL, Message: fmt.Sprintf("The page's Content-Security-Policy does not let it load the stylesheet %s.", r.URL), Fix: "Name its server in style-src, or send it from the page's own."})
	case r.Blocked == "mixed-content":
		j.add(Finding{Code: "mixed-content", URL: r.URL, Message: fmt.Sprintf("The page is sent over https and asks for the stylesheet %s over http, which browsers refuse.", r.URL), Fix: "https" + strings.TrimPrefix(r.URL, "http")})
	case r.Status >= 400 || r.Status == 0 && r.Failed != "" && !strings.Contains(r.Failed, "ABORTED"):
		said := fmt.Sprint("the server answers ", r.Status)
		if r.Status == 0 {
			said = "the browser says " + r.Failed
		}
		j.add(Finding{Code: "sheet-missing", URL: r.URL, Message: fmt.Sprintf("There is no stylesheet at %s: %s. What it declares is missing.", r.URL, said), Fix: "Upload it to that place, or correct the address in the link tag."})
	case strings.HasPrefix(strings.ToLower(r.Type), "text/html"):
		j.add(Finding{Code: "sheet-is-html", URL: r.URL, Message: fmt.Sprintf("A web page comes in place of the stylesheet %s; browsers pass over it.", r.URL), Evidence: "Content-Type: " + r.Type, Fix: "Upload the stylesheet to that place, or correct the address in the link tag."})
	}
	if r.Kind == SheetKind && j.fontSheet(r) && r.Initiator != "" && r.Initiator != j.Final && strings.Contains(strings.ToLower(r.Initiator), ".css") {
		j.add(Finding{Code: "import-chain", URL: r.Initiator, Line: r.Line, Message: fmt.Sprintf("The stylesheet %s, which holds font rules, is only asked for when %s has come.", r.URL, r.Initiator),
			Fix: fmt.Sprintf(`<link rel="stylesheet" href="%s">`, r.URL)})
	}
}

// freshness returns how long an answer may be kept (RFC 9111, section 4.2), and what it
// says of it.
func freshness(r *Request) (time.Duration, string) {
	if r.Cache == "" && r.Expires == "" {
		return 0, "no Cache-Control"
	}
	said := "Cache-Control: " + r.Cache
	for _, part := range strings.Split(strings.ToLower(r.Cache), ",") {
		part = strings.TrimSpace(part)
		if part == "no-store" || part == "no-cache" {
			return 0, said
		}
		if age, is := strings.CutPrefix(part, "max-age="); is {
			seconds, _ := strconv.Atoi(strings.Trim(age, `"`))
			return time.Duration(seconds) * time.Second, said
		}
	}
	if at, err := http.ParseTime(r.Expires); err == nil {
		return time.Until(at), "Expires: " + r.Expires
	}
	if r.Cache == "" {
		said = "Expires: " + r.Expires
	}
	return 0, said
}

// span writes a time that something is kept.
func span(d time.Duration) string {
	switch {
	case d <= 0:
		return "no time"
	case d < 2*time.Minute:
		return fmt.Sprintf("%d seconds", int(d.Seconds()))
	case d < 2*time.Hour:
		return fmt.Sprintf("%d minutes", int(d.Minutes()))
	case d < 48*time.Hour:
		return fmt.Sprintf("%d hours", int(d.Hours()))
	}
	return fmt.Sprintf("%d days", int(d.Hours()/24))
}

// hostOf returns the host and port of a URL.
func hostOf(address string) string {
	u, err := url.Parse(address)
	if err != nil {
		return ""
	}
	return u.Host
}

func orNone(s string) string {
	if s == "" {
		return "nothing"
	}
	return s
}

// isHTML reports whether what came is a web page.
func isHTML(r *Request) bool {
	head := strings.ToLower(start(r.Body))
	return strings.HasPrefix(head, "<!doctype") || strings.HasPrefix(head, "<html") || strings.HasPrefix(head, "<head") || strings.HasPrefix(head, "<body") ||
		strings.HasPrefix(strings.ToLower(r.Type), "text/html")
}

// start returns how a body begins, as text.
func start(b []byte) string {
	b = b[:min(len(b), 60)]
	return strings.TrimSpace(strings.ToValidUTF8(strings.TrimPrefix(string(b), "\uFEFF"), "\uFFFD"))
}

func short(s string) string {
	s = strings.Join(strings.Fields(s), " ")
	if r := []rune(s); len(r) > 160 {
		return string(r[:160]) + "…"
	}
	return s
}
