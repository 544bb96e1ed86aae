package sites

import (
	"net/http"
	"strings"
	"time"
)

// Faulty are pages with planted faults.
func Faulty() []Site {
	replace := func(text string, pairs ...string) File { return sheet(strings.NewReplacer(pairs...).Replace(text)) }
	single := regular + fallbackRule + strings.ReplaceAll(use, "700", "400")
	all := regular + bold + fallbackRule + use
	gone := File{}
	page := func(body string, sheetText string, more map[string]File) map[string]File {
		files := map[string]File{"index.html": html(link, body), "site.css": sheet(sheetText)}
		for path, f := range more {
			files[path] = f
		}
		return with(files)
	}
	return []Site{
		// What only a catalog knows.
		{"redrawn", with(map[string]File{"fonts/regular.woff2": sent("redrawn.woff2")}), nil, false},
		// Import.
		{"missing-file", with(map[string]File{"fonts/bold.woff2": gone}), []string{"font-404"}, false},
		{"wrong-folder", with(map[string]File{"site.css": replace(all, "fonts/regular", "font/regular")}), []string{"font-404"}, false},
		{"misspelt-file", with(map[string]File{"site.css": replace(all, "regular.woff2", "reguler.woff2")}), []string{"font-404"}, false},
		{"prefix-missing", with(map[string]File{"site.css": replace(all, "fonts/", "")}), []string{"font-404"}, false},
		{"gone-410", with(map[string]File{"fonts/bold.woff2": {Type: "text/plain", Status: 410, Body: "gone"}}), []string{"font-404"}, false},
		{"html-for-font", with(map[string]File{"fonts/regular.woff2": {Type: "text/html", Body: "<!doctype html><title>Home</title>"}}), []string{"font-is-html"}, false},
		{"html-as-font-type", with(map[string]File{"fonts/regular.woff2": {Type: woff2, Body: "<html><body>Not here</body></html>"}}), []string{"font-is-html"}, false},
		{"server-error", with(map[string]File{"fonts/bold.woff2": {Type: "text/plain", Status: 503, Body: "busy"}}), []string{"font-error"}, false},
		{"cut-short", with(map[string]File{"fonts/bold.woff2": {Type: woff2, Body: Fonts()["bold.woff2"][:4000]}}), []string{"font-damaged"}, false},
		{"text-for-font", with(map[string]File{"fonts/bold.woff2": {Type: woff2, Body: "this is no font"}}), []string{"font-damaged"}, false},
		{"wrong-type", with(map[string]File{"fonts/regular.woff2": {Type: "text/plain", Body: Fonts()["regular.woff2"]}}), []string{"font-wrong-type"}, false},
		{"octets", with(map[string]File{"fonts/regular.woff2": {Type: "application/octet-stream", Body: Fonts()["regular.woff2"]}}), []string{"font-wrong-type"}, false},
		{"closed-server", with(map[string]File{"site.css": replace(all, "fonts/regular", "{other}/closed/regular")}), []string{"font-cors", "third-party"}, false},
		{"own-other-server", with(map[string]File{"site.css": replace(all, "fonts/regular", "{other}/regular")}), []string{"third-party"}, false},
		{"hosted-sheet", map[string]File{"index.html": html(`<link rel="stylesheet" href="{other}/hosted.css"><style>`+fallbackRule+use+`</style>`, text)}, []string{"third-party"}, false},
		{"mixed", page(text, strings.ReplaceAll(all, "fonts/regular", "http://plain.harbour.example/mixed/fonts/regular"), nil), []string{"mixed-content"}, true},
		{"policy-forbids", with(map[string]File{"index.html": {Type: "text/html; charset=utf-8", Body: html(link, text).Body, Headers: map[string]string{"Content-Security-Policy": "default-src 'self'; font-src 'none'"}}}), []string{"font-csp"}, false},
		{"redirected", with(map[string]File{"site.css": replace(all, "fonts/regular", "old/regular"), "old/regular.woff2": {Type: woff2, Status: 302, Headers: map[string]string{"Location": "../fonts/regular.woff2"}}}), []string{"font-redirected"}, false},
		{"short-cache", with(map[string]File{"fonts/bold.woff2": {Type: woff2, Body: Fonts()["bold.woff2"], Headers: map[string]string{"Cache-Control": "max-age=600"}}}), []string{"short-cache"}, false},
		{"no-cache", with(map[string]File{"fonts/bold.woff2": {Type: woff2, Body: Fonts()["bold.woff2"], Headers: map[string]string{"Cache-Control": "no-store"}}}), []string{"short-cache"}, false},
		{"sheet-gone", with(map[string]File{"index.html": html(link+`<link rel="stylesheet" href="fonts.css">`, text)}), []string{"sheet-missing"}, false},
		{"sheet-html", with(map[string]File{"index.html": html(link+`<link rel="stylesheet" href="fonts.css">`, text), "fonts.css": {Type: "text/html", Body: "<!doctype html>home"}}), []string{"sheet-is-html"}, false},
		{"tag-pasted", with(map[string]File{"index.html": html(link+`<link rel="stylesheet" href="<link rel='stylesheet' href='fonts.css'>">`, text)}), []string{"tag-in-address"}, false},
		{"import-chain", with(map[string]File{"site.css": sheet("@import \"faces.css\";\n" + use), "faces.css": sheet(regular + bold + fallbackRule)}), []string{"import-chain"}, false},
		// Rules.
		{"misspelt-rule", with(map[string]File{"site.css": replace(all, "@font-face { font-family: \"Skerrow Sans\"; src: url(\"fonts/bold", "@fontface { font-family: \"Skerrow Sans\"; src: url(\"fonts/bold")}), []string{"rule-dropped", "faux-bold"}, false},
		{"underscore-rule", with(map[string]File{"site.css": replace(all, "@font-face { font-family: \"Skerrow Sans\"; src: url(\"fonts/bold", "@font_face { font-family: \"Skerrow Sans\"; src: url(\"fonts/bold")}), []string{"rule-dropped", "faux-bold"}, false},
		{"curly-name", with(map[string]File{"site.css": replace(all, "@font-face { font-family: \"Skerrow Sans\"; src: url(\"fonts/bold", "@font-face { font-family: “Skerrow Sans”; src: url(\"fonts/bold")}), []string{"rule-dropped", "faux-bold"}, false},
		{"curly-url", with(map[string]File{"site.css": replace(all, "url(\"fonts/bold.woff2\")", "url(“fonts/bold.woff2”)")}), []string{"rule-dropped"}, false},
		{"curly-use", with(map[string]File{"site.css": replace(all, "body { font-family: \"Skerrow Sans\"", "body { font-family: “Skerrow Sans”")}), []string{"rule-dropped", "declared-unused"}, false},
		{"no-source", with(map[string]File{"site.css": replace(all, "src: url(\"fonts/bold.woff2\") format(\"woff2\");", "")}), []string{"rule-dropped", "faux-bold"}, false},
		{"semicolon-missing", with(map[string]File{"site.css": replace(all, "@font-face { font-family: \"Skerrow Sans\"; src: url(\"fonts/bold", "@font-face { font-family: \"Skerrow Sans\" src: url(\"fonts/bold")}), []string{"rule-dropped", "faux-bold"}, false},
		{"unknown-format", with(map[string]File{"site.css": replace(all, "url(\"fonts/bold.woff2\") format(\"woff2\")", "url(\"fonts/bold.woff2\") format(\"woff9\")")}), []string{"rule-dropped", "faux-bold"}, false},
		{"theme-wins", with(map[string]File{"index.html": html(link+`<link rel="stylesheet" href="theme.css">`, text), "site.css": sheet(single + "h1 { font-family: \"Skerrow Sans\", sans-serif }"), "theme.css": sheet("body h1 { font-family: Georgia, serif }")}), []string{"rule-overridden"}, false},
		{"theme-important", with(map[string]File{"index.html": html(`<link rel="stylesheet" href="theme.css">`+link, text), "site.css": sheet(single + "h1 { font-family: \"Skerrow Sans\", sans-serif }"), "theme.css": sheet("h1 { font-family: Georgia, serif !important }")}), []string{"rule-overridden"}, false},
		{"attribute-wins", with(map[string]File{"index.html": html(link, strings.ReplaceAll(text, "<h1>", `<h1 style="font-family: Georgia, serif">`)), "site.css": sheet(single + "h1 { font-family: \"Skerrow Sans\", sans-serif }")}), []string{"rule-overridden"}, false},
		{"twice-declared", with(map[string]File{"site.css": sheet(regular + strings.ReplaceAll(bold, "700", "400") + fallbackRule + strings.ReplaceAll(use, "700", "400"))}), []string{"rule-duplicate", "weight-mislabeled"}, false},
		{"name-without-space", with(map[string]File{"site.css": replace(all, "body { font-family: \"Skerrow Sans\"", "body { font-family: \"SkerrowSans\"")}), []string{"family-not-declared", "declared-unused"}, false},
		{"name-misspelt", with(map[string]File{"site.css": replace(all, "body { font-family: \"Skerrow Sans\"", "body { font-family: \"Skerow Sans\"")}), []string{"family-not-declared", "declared-unused"}, false},
		{"name-hyphen", with(map[string]File{"site.css": replace(all, "body { font-family: \"Skerrow Sans\"", "body { font-family: Skerrow-Sans")}), []string{"family-not-declared", "declared-unused"}, false},
		{"never-declared", with(map[string]File{"site.css": sheet(all + "h1 { font-family: \"Tidegarth Poster\", sans-serif }")}), []string{"family-not-declared", "local-only", "declared-unused"}, false},
		{"installed-only", with(map[string]File{"site.css": sheet(all + "@font-face { font-family: \"Quay\"; src: local(\"Tidegarth Poster\"); }\nh1 { font-family: Quay, sans-serif }")}), []string{"local-only", "declared-unused"}, false},
		{"designers-machine", with(map[string]File{"site.css": sheet(all + "h1 { font-family: Futura, sans-serif }")}), []string{"local-only", "declared-unused"}, false},
		{"bold-as-regular", with(map[string]File{"site.css": sheet(strings.ReplaceAll(regular, "regular", "bold") + fallbackRule + strings.ReplaceAll(use, "700", "400"))}), []string{"weight-mislabeled"}, false},
		{"italic-as-upright", with(map[string]File{"site.css": sheet(strings.ReplaceAll(regular, "regular", "italic") + fallbackRule + strings.ReplaceAll(use, "700", "400")), "fonts/italic.woff2": sent("italic.woff2")}), []string{"style-mislabeled"}, false},
		{"range-of-another", with(map[string]File{"index.html": html(link, text+"<p>Паром</p>"), "site.css": sheet(all + strings.ReplaceAll(strings.ReplaceAll(regular, "regular", "more"), "}", "unicode-range: U+0410-044F; }")), "fonts/more.woff2": sent("few.woff2")}), []string{"range-wrong", "missing-characters"}, false},
		{"whole-family-for-two", with(map[string]File{"site.css": sheet(all + Rule("Skerrow Sans", 300, "fonts/light.woff2") + Rule("Skerrow Sans", 900, "fonts/black.woff2"))}), []string{"declared-unused"}, false},
		{"extra-family", with(map[string]File{"site.css": sheet(all + Rule("Umbrisk Display", 400, "fonts/display.woff2")), "fonts/display.woff2": sent("display.woff2")}), []string{"declared-unused"}, false},
		{"no-display", with(map[string]File{"site.css": replace(all, " font-display: swap;", "")}), []string{"no-font-display"}, false},
		{"no-general-family", with(map[string]File{"site.css": sheet(regular + bold + "body { font-family: \"Skerrow Sans\"; line-height: 1.5 } h1 { font-weight: 700 }")}), []string{"no-fallback"}, false},
		{"old-formats", with(map[string]File{"site.css": replace(all, "src: url(\"fonts/regular.woff2\")", "src: url(\"fonts/regular.eot?#iefix\") format(\"embedded-opentype\"), url(\"fonts/regular.woff2\")")}), []string{"legacy-format"}, false},
		// What is shown.
		{"bold-not-sent", with(map[string]File{"site.css": sheet(regular + fallbackRule + use)}), []string{"faux-bold"}, false},
		{"bold-words", with(map[string]File{"index.html": html(link, "<p>The <strong>first</strong> ferry leaves at six.</p>"), "site.css": sheet(regular + fallbackRule + use)}), []string{"faux-bold"}, false},
		{"italic-not-sent", page(text+"<p><em>Dogs travel free.</em></p>", all, nil), []string{"faux-italic"}, false},
		{"greek-missing", page(text+"<p>Ωρες</p>", all, nil), []string{"missing-characters"}, false},
		{"subset-too-small", page("<p>Ferry times Zürich</p>", regular+fallbackRule+use, map[string]File{"fonts/regular.woff2": sent("few.woff2")}), []string{"missing-characters"}, false},
		{"icons-spoken", page(text+`<button class="icon">&#xE000;</button>`, all+"@font-face { font-family: \"Quay Icons\"; src: url(\"fonts/icons.woff2\") format(\"woff2\"); font-display: block; }\n.icon { font-family: \"Quay Icons\" }", map[string]File{"fonts/icons.woff2": sent("icons.woff2")}), []string{"icon-read-aloud"}, false},
		{"hidden-while-loading", with(map[string]File{"site.css": replace(all, "font-display: swap", "font-display: block"), "fonts/regular.woff2": {Type: woff2, Body: Fonts()["regular.woff2"], Delay: 1200 * time.Millisecond}}), []string{"text-invisible"}, false},
		{"jumps", with(map[string]File{"index.html": html(link, strings.Repeat(text, 6)), "site.css": sheet(regular + bold + "body { font-family: \"Skerrow Sans\", Arial, sans-serif } h1 { font-weight: 700; font-size: 4rem } p { font-size: 1.5rem }"),
			"fonts/regular.woff2": {Type: woff2, Body: Fonts()["regular.woff2"], Delay: 600 * time.Millisecond}}), []string{"fallback-shift"}, false},
		// Weight.
		{"loaded-for-nothing", page(text+`<script>document.fonts.load("16px 'Umbrisk Display'")</script>`, all+Rule("Umbrisk Display", 400, "fonts/display.woff2"), map[string]File{"fonts/display.woff2": sent("display.woff2")}), []string{"loaded-unused"}, false},
		{"ttf-sent", with(map[string]File{"site.css": replace(all, "fonts/regular.woff2\") format(\"woff2\")", "fonts/regular.ttf\") format(\"truetype\")"), "fonts/regular.ttf": {Type: "font/ttf", Body: Fonts()["regular.ttf"]}}), []string{"uncompressed"}, false},
		{"woff-sent", with(map[string]File{"site.css": replace(all, "fonts/regular.woff2\") format(\"woff2\")", "fonts/regular.woff\") format(\"woff\")"), "fonts/regular.woff": {Type: "font/woff", Body: Fonts()["regular.woff"]}}), []string{"woff2-missing"}, false},
		{"much-never-shown", with(map[string]File{"fonts/regular.woff2": sent("large.woff2")}), []string{"subset-would-save"}, false},
		{"variable-for-one", with(map[string]File{"index.html": html(link, text), "fonts/variable.woff2": sent("variable.woff2"), "site.css": sheet("@font-face { font-family: \"Skerrow Sans\"; src: url(\"fonts/variable.woff2\") format(\"woff2\"); font-weight: 300 700; font-display: swap; }\n" + fallbackRule + strings.ReplaceAll(use, "700", "400"))}), []string{"variable-for-one"}, false},
		{"preload-of-another", with(map[string]File{"index.html": html(`<link rel="preload" href="fonts/regular.woff" as="font" type="font/woff" crossorigin>`+link, text), "fonts/regular.woff": {Type: "font/woff", Body: Fonts()["regular.woff"]}}), []string{"preload-unused", "woff2-missing"}, false},
		{"preload-plain", with(map[string]File{"index.html": html(`<link rel="preload" href="fonts/regular.woff2" as="font" type="font/woff2">`+link, text)}), []string{"preload-twice"}, false},
		{"in-the-sheet", with(map[string]File{"site.css": replace(all, "url(\"fonts/regular.woff2\")", "url(\""+dataURL("regular.woff2")+"\")")}), []string{"font-embedded"}, false},
		{"two-addresses", page(text+"<p class=\"b\">Board</p>", all+Rule("Board Sans", 400, "copy/regular.woff2")+".b { font-family: \"Board Sans\", \"Skerrow Sans Fallback\", sans-serif }", map[string]File{"copy/regular.woff2": sent("regular.woff2")}), []string{"font-twice"}, false},
		{"two-versions", page(text+"<p class=\"b\">Board</p>", all+Rule("Board Sans", 400, "copy/old.woff2")+".b { font-family: \"Board Sans\", \"Skerrow Sans Fallback\", sans-serif }", map[string]File{"copy/old.woff2": sent("old.woff2")}), []string{"several-versions"}, false},
		// What may be there.
		{"restricted", page(text, all+Rule("Tidegarth Poster", 400, "fonts/poster.woff2")+"h1 { font-family: \"Tidegarth Poster\", sans-serif; font-weight: 400 }", map[string]File{"fonts/poster.woff2": sent("poster.woff2")}), []string{"embedding-restricted", "trial-font", "declared-unused"}, false},
		{"trial", page(text+"<p class=\"b\">Board</p>", all+Rule("Brackwater Text", 400, "fonts/trial.woff2")+".b { font-family: \"Brackwater Text\", \"Skerrow Sans Fallback\", sans-serif }", map[string]File{"fonts/trial.woff2": sent("trial.woff2")}), []string{"trial-font"}, false},
		// The page itself, and several at once.
		{"page-404", map[string]File{"index.html": {Type: "text/html", Status: 404, Body: "<!doctype html><p>Not here"}}, []string{"page-error"}, false},
		{"redirect-circle", map[string]File{"index.html": {Serve: func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, r.URL.Path, http.StatusFound) }}}, []string{"redirect-circle"}, false},
		{"refresh-circle", map[string]File{"index.html": html(`<script>location.href = location.pathname + "?" + Math.random()</script>`, "<p>Wait</p>")}, []string{"redirect-circle"}, false},
		{"never-ends", map[string]File{"index.html": {Serve: streaming("<!doctype html><title>Log</title>")}}, []string{"page-never-ends"}, false},
		{"script-without-end", map[string]File{"index.html": html("", "<p>Wait</p><script>setTimeout(() => { for (;;) {} }, 10)</script>")}, []string{"page-hangs"}, false},
		{"eats-memory", map[string]File{"index.html": html("", "<p>Wait</p><script>const all = []; const eat = () => { const b = new Uint8Array(40e6); b.fill(1); all.push(b) }; for (let i = 0; i < 12; i++) eat(); setInterval(eat, 5)</script>")}, []string{"page-too-heavy"}, false},
		{"botched", with(map[string]File{"fonts/bold.woff2": gone, "site.css": replace(all, "fonts/regular.woff2\") format(\"woff2\")", "fonts/regular.ttf\") format(\"truetype\")", " font-display: swap;", ""), "fonts/regular.ttf": {Type: "application/octet-stream", Body: Fonts()["regular.ttf"], Headers: map[string]string{"Cache-Control": ""}}}),
			[]string{"font-404", "uncompressed", "font-wrong-type", "short-cache", "no-font-display"}, false},
		{"worse", with(map[string]File{"index.html": html(link+`<link rel="stylesheet" href="theme.css">`, text+"<p><em>Late</em> Ωρες</p>"), "theme.css": sheet("body h1 { font-family: Georgia, serif }"), "site.css": replace(single+"h1 { font-family: \"Skerrow Sans\", sans-serif }", "fonts/regular", "{other}/regular")}),
			[]string{"third-party", "rule-overridden", "faux-italic", "missing-characters"}, false},
	}
}
