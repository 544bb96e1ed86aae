package sites

import (
	"fmt"
	"net/http"
	"strings"
	"time"
)

const woff2 = "font/woff2"

// html writes a page.
func html(head, body string) File {
	return File{Type: "text/html; charset=utf-8", Body: "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<meta name=\"viewport\" content=\"width=device-width\">\n<title>Harbour</title>\n" + head + "\n</head>\n<body>\n" + body + "\n</body>\n</html>\n"}
}

func sheet(text string) File { return File{Type: "text/css", Body: text} }

func sent(name string) File { return File{Type: woff2, Body: Fonts()[name]} }

// link asks for the stylesheet of a site.
const link = `<link rel="stylesheet" href="site.css">`

// text is what the pages say.
const text = `<h1>Ferries from Skerrow</h1>
<p>The first ferry leaves at six. Timetables change with the tide, and dogs travel free.</p>
<ul><li>Harbour office</li><li>Lost property</li></ul>`

// replacement is the rule of a fallback made to measure, and use asks for both.
const (
	use = "body { font-family: \"Skerrow Sans\", \"Skerrow Sans Fallback\", Arial, sans-serif; line-height: 1.5; }\nh1 { font-weight: 700; }\n"
)

var regular = Rule("Skerrow Sans", 400, "fonts/regular.woff2")
var bold = Rule("Skerrow Sans", 700, "fonts/bold.woff2")

// good returns the files of a page without faults, in two faces.
func good() map[string]File {
	return map[string]File{
		"index.html": html(link, text), "site.css": sheet(regular + bold + fallbackRule + use),
		"fonts/regular.woff2": sent("regular.woff2"), "fonts/bold.woff2": sent("bold.woff2"),
	}
}

// with returns the files of the page without faults, with others in their place.
func with(changes map[string]File) map[string]File {
	out := good()
	for path, f := range changes {
		if f.Type == "" && f.Serve == nil && f.Status == 0 {
			delete(out, path)
			continue
		}
		out[path] = f
	}
	return out
}

// Faultless are pages that nothing is wrong with.
func Faultless() []Site {
	one := sheet(regular + fallbackRule + strings.ReplaceAll(use, "700", "400"))
	return []Site{
		{Name: "plain", Files: good()},
		{Name: "system-fonts", Files: map[string]File{"index.html": html("<style>body { font-family: system-ui, -apple-system, \"Segoe UI\", Roboto, sans-serif } code { font-family: ui-monospace, Menlo, Consolas, monospace }</style>", text+"<p><code>quay 4</code> <em>by boat</em> <b>today</b></p>")}},
		{Name: "safe-fonts", Files: map[string]File{"index.html": html("<style>body { font-family: Georgia, \"Times New Roman\", serif } h1 { font-family: Arial, Helvetica, sans-serif }</style>", text)}},
		{Name: "no-styles", Files: map[string]File{"index.html": html("", text)}},
		{Name: "variable", Files: map[string]File{"index.html": html(link, text+"<p><b>Bold</b> words</p>"), "fonts/variable.woff2": sent("variable.woff2"),
			"site.css": sheet("@font-face { font-family: \"Skerrow Sans\"; src: url(\"fonts/variable.woff2\") format(\"woff2\"); font-weight: 300 700; font-display: swap; }\n" + fallbackRule + use)}},
		{Name: "right-to-left", Files: map[string]File{"index.html": html("<style>body { font-family: \"Geeza Pro\", \"Segoe UI\", Tahoma, sans-serif }</style>", `<div dir="rtl" lang="ar"><h1>مواعيد العبارات</h1><p>تغادر العبارة الأولى في السادسة.</p></div>`)}},
		{Name: "hebrew-beside", Files: map[string]File{"index.html": html(link, text+`<p lang="he" dir="rtl">מעבורת ראשונה בשש</p>`), "site.css": sheet(regular + bold + fallbackRule + use + "[lang=he] { font-family: Arial, sans-serif }"),
			"fonts/regular.woff2": sent("regular.woff2"), "fonts/bold.woff2": sent("bold.woff2")}},
		{Name: "chinese", Files: map[string]File{"index.html": html(link, text+`<p lang="zh">第一班渡轮六点出发</p>`), "site.css": sheet(regular + bold + fallbackRule + "body { font-family: \"Skerrow Sans\", \"Skerrow Sans Fallback\", \"PingFang SC\", \"Microsoft YaHei\", sans-serif } h1 { font-weight: 700 }"),
			"fonts/regular.woff2": sent("regular.woff2"), "fonts/bold.woff2": sent("bold.woff2")}},
		{Name: "icons", Files: with(map[string]File{"index.html": html(link, text+`<button><span class="icon" aria-hidden="true">&#xE000;</span> Menu</button><a href="#" class="more">More</a>`),
			"site.css": sheet(regular + bold + fallbackRule + use + "@font-face { font-family: \"Quay Icons\"; src: url(\"fonts/icons.woff2\") format(\"woff2\"); font-display: block; }\n.icon, .more::after { font-family: \"Quay Icons\" } .more::after { content: \"\\e001\" } button { font: inherit }"), "fonts/icons.woff2": sent("icons.woff2")})},
		{Name: "shadow", Files: with(map[string]File{"index.html": html(link, text+`<quay-board></quay-board><script>customElements.define("quay-board", class extends HTMLElement { connectedCallback() { this.attachShadow({ mode: "open" }).innerHTML = "<style>p { font-weight: 700 }</style><p>Quay 4</p>" } })</script>`)})},
		{Name: "frame", Files: with(map[string]File{"index.html": html(link, text+`<iframe src="board.html" title="Board" width="300" height="120"></iframe>`), "board.html": html(link, "<p>Quay 4, <b>six</b></p>")})},
		{Name: "canvas", Files: with(map[string]File{"index.html": html(link, text+`<canvas id="c" width="300" height="60" role="img" aria-label="Quay"></canvas><script>document.fonts.load("20px 'Quay Display'").then(() => { const c = document.getElementById("c").getContext("2d"); c.font = "20px 'Quay Display', sans-serif"; c.fillText("Quay 4", 5, 30) })</script>`),
			"site.css": sheet(regular + bold + fallbackRule + use + Rule("Quay Display", 400, "fonts/quay.woff2")), "fonts/quay.woff2": sent("display.woff2")})},
		{Name: "late-script", Files: with(map[string]File{"index.html": html(link, `<main id="m"></main><script>setTimeout(() => { document.getElementById("m").innerHTML = "<h1>Ferries from Skerrow</h1><p>The first ferry leaves at six.</p>" }, 500)</script>`)})},
		{Name: "script-face", Files: map[string]File{"index.html": html("<style>"+use+"</style><style>"+fallbackRule+"</style>", `<h1 style="font-weight:400">Ferries</h1><p>The first ferry leaves at six.</p><script>const f = new FontFace("Skerrow Sans", "url(fonts/regular.woff2)", { display: "swap" }); document.fonts.add(f); f.load()</script>`), "fonts/regular.woff2": sent("regular.woff2")}},
		{Name: "policy", Files: with(map[string]File{"index.html": {Type: "text/html; charset=utf-8", Body: html(link, text).Body, Headers: map[string]string{"Content-Security-Policy": "default-src 'self'; font-src 'self'; style-src 'self'"}}})},
		{Name: "preloaded", Files: with(map[string]File{"index.html": html(`<link rel="preload" href="fonts/regular.woff2" as="font" type="font/woff2" crossorigin>`+link, text)})},
		{Name: "ranges", Files: map[string]File{"index.html": html(link, text+"<p>Łódź</p>"), "site.css": sheet(strings.ReplaceAll(regular, "}", "unicode-range: U+0000-00FF, U+2000-206F; }") + strings.ReplaceAll(strings.ReplaceAll(regular, "regular", "more"), "}", "unicode-range: U+0100-024F; }") + fallbackRule + strings.ReplaceAll(use, "700", "400")),
			"fonts/regular.woff2": sent("latin.woff2"), "fonts/more.woff2": sent("more.woff2")}},
		{Name: "inline-rules", Files: map[string]File{"index.html": html("<style>"+one.Body+"</style>", text), "fonts/regular.woff2": sent("regular.woff2")}},
		{Name: "print-and-screen", Files: with(map[string]File{"site.css": sheet(regular + bold + fallbackRule + use + "@media print { body { font-family: serif } }\n@media (min-width: 900px) { h1 { font-size: 3rem } }")})},
		{Name: "form", Files: with(map[string]File{"index.html": html(link, text+`<form><label>Name <input value="Ines"></label> <select><option>Quay 4</option></select> <textarea>Words</textarea> <button>Send</button></form>`), "site.css": sheet(regular + bold + fallbackRule + use + "input, select, textarea, button { font: inherit }")})},
		{Name: "themed", Files: with(map[string]File{"index.html": html(`<link rel="stylesheet" href="theme.css">`+link, text), "theme.css": sheet("body { font-family: Arial, sans-serif } h1 { font-family: Georgia, serif }"), "site.css": sheet(regular + bold + fallbackRule + use + "h1 { font-family: \"Skerrow Sans\", \"Skerrow Sans Fallback\", sans-serif }")})},
		{Name: "slow-but-measured", Files: with(map[string]File{"fonts/regular.woff2": {Type: woff2, Body: Fonts()["regular.woff2"], Delay: 400 * time.Millisecond}})},
		{Name: "optional", Files: map[string]File{"index.html": html(link, text), "site.css": sheet(strings.ReplaceAll(regular+bold, "swap", "optional") + use), "fonts/regular.woff2": sent("regular.woff2"), "fonts/bold.woff2": sent("bold.woff2")}},
		{Name: "for-print", Files: with(map[string]File{"index.html": html(link+`<link rel="stylesheet" href="print.css" media="print"><style media="print">@font-face { font-family: Quay; src: url(fonts/quay.woff2) }</style>`, text), "print.css": sheet(Rule("Umbrisk Display", 400, "fonts/display.woff2") + "body { font-family: \"Umbrisk Display\" }")})},
		{Name: "not-seen-yet", Files: with(map[string]File{"index.html": html(link, `<p>The first ferry leaves at six.</p><div style="visibility: hidden"><h1>Menu</h1></div><p style="opacity: 0"><b>Later</b></p>`)})},
		{Name: "japanese", Files: map[string]File{"index.html": html("<style>body { font-family: \"Hiragino Sans\", sans-serif } p { font-family: \"Noto Sans JP\", sans-serif }</style>", "<h1 lang=\"ja\">フェリー</h1><p lang=\"ja\">最初の便は六時です。</p>")}},
		{Name: "drawn-text", Files: with(map[string]File{"index.html": html(link, text+`<svg width="200" height="40" role="img" aria-label="Quay"><text x="5" y="25" font-weight="700">Quay 4</text></svg><details><summary>More</summary><p>Hidden until asked for</p></details><select><option>One</option></select>`), "site.css": sheet(regular + bold + fallbackRule + use + "select { font: inherit }")})},
		{Name: "constructed", Files: with(map[string]File{"index.html": html(link, text+`<script>const s = new CSSStyleSheet(); s.replaceSync("h1 { letter-spacing: 0 }"); document.adoptedStyleSheets = [s]</script>`)})},
	}
}

// streaming sends a page whose end never comes.
func streaming(head string) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		_, _ = fmt.Fprint(w, head)
		for i := 0; ; i++ {
			if _, err := fmt.Fprintf(w, "<p>Line %d</p>\n", i); err != nil || r.Context().Err() != nil {
				return
			}
			w.(http.Flusher).Flush()
			time.Sleep(50 * time.Millisecond)
		}
	}
}
