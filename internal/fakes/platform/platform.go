// Package platform plays the programs that studios upload fonts to, one for each
// kind: content management systems with forms, page builders, prototype tools,
// course authoring, app builders. Each refuses what such a program refuses, gives
// addresses only after the upload, takes forms, boxes or a stylesheet by address,
// loses what was not saved, and publishes pages. They know nothing of packs; they
// stand in for outside programs in tests and in the demo.
package platform

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"html"
	"net/http"
	"path"
	"regexp"
	"slices"
	"strings"
	"sync"

	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/font/table"
)

// Refused is what a platform says when it does not take something.
type Refused string

func (r Refused) Error() string { return string(r) }

func refuse(format string, args ...any) error { return Refused(fmt.Sprintf(format, args...)) }

// File is something uploaded.
type File struct {
	Name string
	Data []byte
}

// face is a font as its owner filed it.
type face struct {
	family, weight, style string
	files                 []string // addresses, best first
	formats               []string
}

// Platform is one such program with one site in it.
type Platform struct {
	kind  *habits
	mu    sync.Mutex
	files map[string][]byte // by address
	faces []face
	// pending is what was uploaded and not saved yet.
	pending *face
	styles  string            // of the site
	blocks  map[string]string // of pages
	sheet   string            // address
	listed  []string          // addresses of stylesheets in the list of fonts
	script  string
	chosen  map[string][3]string // family, weight and style by field
	swaps   map[string]string
	head    string
	main    string // the site's own stylesheet, where it has one
	live    map[string]string
}

// habits are what one kind of platform does.
type habits struct {
	takes     []font.Container
	together  int // files at a time
	largest   int
	name      *regexp.Regexp // of files; any where nil
	variable  bool
	fields    []string
	mustMatch string            // the field that must be the file's and the font's name
	choices   map[string]string // fields where fonts are chosen, with the element they are for
	where     func(name string, data []byte) string
	own       string // its own styles
}

var plainName = regexp.MustCompile(`^[a-z0-9-]+\.[a-z0-9]+$`)

// under returns addresses with a mark that nobody can guess in them.
func under(folder string) func(string, []byte) string {
	return func(name string, data []byte) string {
		sum := sha256.Sum256(append([]byte(folder), data...))
		return folder + hex.EncodeToString(sum[:5]) + "/" + name
	}
}

// marked puts the mark into the name.
func marked(name string, data []byte) string {
	sum := sha256.Sum256(data)
	ext := path.Ext(name)
	return "/files/" + strings.TrimSuffix(name, ext) + "_" + hex.EncodeToString(sum[:4]) + ext
}

var kinds = map[string]*habits{
	"self-hosted": {where: func(name string, _ []byte) string { return "/" + name }},
	"bundler":     {where: func(name string, _ []byte) string { return "/src/" + name }},
	"upload-form": {takes: []font.Container{font.WOFF2}, together: 1, largest: 2_000_000, fields: []string{"Font name", "Weight", "Style", "Fallback"}, mustMatch: "Font name",
		choices: map[string]string{"Text font": "body", "Title font": "h1", "Subtitle font": "h2"}, where: under("/media/")},
	"upload-form-several": {takes: []font.Container{font.WOFF2, font.WOFF, font.TTF}, together: 3, largest: 5_000_000, name: plainName, fields: []string{"Family", "Weight", "Style", "Fallback"},
		choices: map[string]string{"Paragraphs": "body", "Main heading": "h1", "Section heading": "h2", "Small heading": "h3", "Buttons": "button", "Menu": "nav"}, where: under("/store/")},
	"fields-only": {takes: []font.Container{font.WOFF, font.TTF, font.OTF}, together: 1, largest: 1_000_000, name: plainName, fields: []string{"Name in lists"},
		choices: map[string]string{"Body": "body", "Heading 1": "h1", "Heading 2": "h2", "Heading 3": "h3", "Button label": "button", "Navigation": "nav", "Quotation": "blockquote"}, where: under("/f/")},
	"style-box": {takes: []font.Container{font.WOFF2, font.WOFF}, together: 20, name: plainName, variable: true, where: marked,
		own: ".text-part p, .text-part li { font-family: monospace; font-weight: 300; } h1, .title-part { font-family: monospace !important; font-weight: 300; } body h2 { font-family: monospace; font-weight: 200; }"},
	"page-block": {takes: []font.Container{font.WOFF2}, together: 1, name: plainName, variable: true, where: under("/u/"),
		own: "p, li { font-family: monospace; } h1, h2 { font-family: monospace; font-weight: 500; }"},
	"face-stylesheets":  {takes: []font.Container{font.WOFF2}, together: 20, name: plainName, where: under("/assets/")},
	"linked-stylesheet": {takes: []font.Container{font.WOFF2, font.WOFF}, together: 20, name: plainName, variable: true, where: marked},
	"prototype":         {takes: []font.Container{font.WOFF2}, together: 20, name: regexp.MustCompile(`^[A-Za-z0-9-]+\.woff2$`), where: under("/p/")},
	"course-script":     {takes: []font.Container{font.WOFF, font.TTF}, together: 20, name: plainName, variable: true, where: under("/course/"), own: "#slide p { font-family: monospace; } h1, h2 { font-family: monospace; }"},
	"app-form": {takes: []font.Container{font.TTF}, together: 1, largest: 1_500_000, fields: []string{"Typeface name"}, mustMatch: "Typeface name",
		choices: map[string]string{"Paragraph style": "body", "Screen title style": "h1", "Button style": "button"}, where: under("/bundle/")},
}

// Pages are the pages of the site in a platform.
var Pages = []string{"/", "/prices"}

// New returns a platform of a kind, empty.
func New(kind string) (*Platform, error) {
	h, ok := kinds[kind]
	if !ok {
		return nil, fmt.Errorf("there is no platform of the kind %q", kind)
	}
	return &Platform{kind: h, files: map[string][]byte{}, blocks: map[string]string{}, chosen: map[string][3]string{}, swaps: map[string]string{}}, nil
}

// Upload takes files in one go, with what was typed into the form beside them. It
// gives their addresses; where there is a form, nothing is kept until Save.
func (r *Platform) Upload(files []File, typed map[string]string) ([]string, error) {
	r.mu.Lock()
	defer r.mu.Unlock()
	h := r.kind
	if h.together > 0 && len(files) > h.together {
		return nil, refuse("Too many files: %d at a time.", h.together)
	}
	one := &face{weight: "400", style: "normal"}
	var addresses []string
	kept := map[string][]byte{}
	for _, f := range files {
		if err := h.look(f, typed, one); err != nil {
			return nil, err
		}
		at := h.where(f.Name, f.Data)
		kept[at] = f.Data
		addresses = append(addresses, at)
		one.files = append(one.files, at)
		one.formats = append(one.formats, path.Ext(f.Name)[1:])
	}
	for at, data := range kept {
		r.files[at] = data
	}
	if len(h.fields) == 0 {
		return addresses, nil
	}
	if err := h.file(typed, one); err != nil {
		return nil, err
	}
	r.pending = one // what was pending before is lost
	return nil, nil
}

// look refuses a file as the program would.
func (h *habits) look(f File, typed map[string]string, one *face) error {
	if h.takes == nil {
		return nil // a plain server takes anything
	}
	ext := strings.TrimPrefix(path.Ext(f.Name), ".")
	if ext == "css" && len(h.fields) == 0 {
		return nil
	}
	if !slices.Contains(h.takes, font.Container(ext)) {
		return refuse("%s: this file type is not supported.", f.Name)
	}
	if h.largest > 0 && len(f.Data) > h.largest {
		return refuse("%s: the file is too large.", f.Name)
	}
	if h.name != nil && !h.name.MatchString(f.Name) {
		return refuse("%s: please rename your file; only small letters, digits and hyphens.", f.Name)
	}
	opened, err := font.Open(f.Data)
	if err != nil || string(opened.Container) != ext {
		return refuse("%s: the file seems to be corrupted.", f.Name)
	}
	if !h.variable && opened.Faces[0].Has(table.TagFvar) {
		return refuse("%s: variable fonts are not supported.", f.Name)
	}
	said := metadata.One(opened.Faces[0])
	if h.mustMatch != "" {
		base := strings.TrimSuffix(f.Name, path.Ext(f.Name))
		if typed[h.mustMatch] != base || base != said.Names.Full {
			return refuse("Font name, file name and the name in the font must be the same.")
		}
	}
	one.family = said.Names.FamilyName()
	return nil
}

// file keeps what was typed with a face.
func (h *habits) file(typed map[string]string, one *face) error {
	for _, field := range h.fields {
		v := typed[field]
		if v == "" {
			return refuse("%s is required.", field)
		}
		switch field {
		case "Weight":
			words := map[string]string{"Thin": "100", "Light": "300", "Regular": "400", "Medium": "500", "Bold": "700", "Black": "900"}
			one.weight = cmp.Or(words[v], v)
		case "Style":
			one.style = v
		case "Family":
			one.family = v
		case "Name in lists", "Typeface name":
			one.family, one.weight, one.style = v, "normal", "normal"
		}
	}
	for field := range typed {
		if !slices.Contains(h.fields, field) {
			return refuse("Unknown field %s.", field)
		}
	}
	return nil
}

// Save is the button at the end of the form.
func (r *Platform) Save() error {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.pending == nil {
		return refuse("There is nothing to save.")
	}
	r.faces = append(r.faces, *r.pending)
	r.pending = nil
	return nil
}

// Choose says in the settings which font an element has.
func (r *Platform) Choose(field, family, weight, style string) error {
	r.mu.Lock()
	defer r.mu.Unlock()
	if _, ok := r.kind.choices[field]; !ok {
		return refuse("There is no setting %s.", field)
	}
	if !slices.ContainsFunc(r.faces, func(f face) bool { return f.family == family }) {
		return refuse("%s is not in the list of fonts.", family)
	}
	r.chosen[field] = [3]string{family, cmp.Or(weight, "normal"), cmp.Or(style, "normal")}
	return nil
}

// StyleBox is the box for styles of the whole site.
func (r *Platform) StyleBox(text string) error {
	if strings.Contains(text, "<") {
		return refuse("HTML is not allowed here; enter styles only.")
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	r.styles = text
	return nil
}

// PageBox is the box for HTML of one page.
func (r *Platform) PageBox(page, text string) error {
	if regexp.MustCompile(`(?i)<(script|link|meta)\b`).MatchString(text) {
		return refuse("Scripts and links are not allowed here.")
	}
	if !strings.HasPrefix(strings.TrimSpace(text), "<") {
		return refuse("This is not HTML.")
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	r.blocks[page] = text
	return nil
}

// SheetSetting takes the address of a stylesheet, and only that.
func (r *Platform) SheetSetting(address string) error {
	if strings.ContainsAny(address, "<>\" ") || !strings.HasSuffix(address, ".css") {
		return refuse("Please enter the address of a stylesheet.")
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	r.sheet = address
	return nil
}

// ListFont puts a stylesheet into the list of fonts by its address, with the family that it
// declares; empty for one of other styles.
func (r *Platform) ListFont(address, family string) error {
	r.mu.Lock()
	defer r.mu.Unlock()
	sheet, ok := r.files[pathOf(address)]
	switch {
	case !ok:
		return refuse("No stylesheet can be loaded from %s.", address)
	case family != "" && !strings.Contains(string(sheet), fmt.Sprintf("font-family: %q", family)):
		return refuse("The stylesheet has no font named %s.", family)
	case family != "" && strings.Count(string(sheet), "font-family:") > strings.Count(string(sheet), fmt.Sprintf("font-family: %q", family)):
		return refuse("One font for each stylesheet.")
	}
	r.listed = append(r.listed, address)
	return nil
}

// ScriptBox takes a script that runs on every slide.
func (r *Platform) ScriptBox(text string) error {
	if strings.Contains(text, "<script") || strings.Contains(text, "</") {
		return refuse("Enter the script without tags.")
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	r.script = text
	return nil
}

// Swap fills in a line of the table of swapped fonts.
func (r *Platform) Swap(name, address string) error {
	r.mu.Lock()
	defer r.mu.Unlock()
	if _, ok := r.files[pathOf(address)]; !ok {
		return refuse("No font can be loaded from %s.", address)
	}
	r.swaps[name] = address
	return nil
}

func pathOf(address string) string {
	if _, rest, ok := strings.Cut(address, "://"); ok {
		_, p, _ := strings.Cut(rest, "/")
		return "/" + p
	}
	return address
}

// Head puts a line into the head of every page, as people do who have the pages.
func (r *Platform) Head(line string) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.head = line + "\n" + r.head
}

// MainSheet puts a line at the top of the site's own stylesheet.
func (r *Platform) MainSheet(line string) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.main = line + "\n" + r.main
}

// Publish makes public what was saved.
func (r *Platform) Publish() {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.live = map[string]string{}
	for _, page := range Pages {
		r.live[page] = r.page(page)
	}
}

// page writes a page as it is published.
func (r *Platform) page(page string) string {
	var s strings.Builder
	s.WriteString("<!doctype html><html lang=\"en\"><head><meta charset=\"utf-8\"><title>A published page</title><link rel=\"icon\" href=\"data:,\">\n" + r.head)
	fmt.Fprintf(&s, "<style>%s</style>\n", r.kind.own)
	if r.main != "" {
		s.WriteString("<style>" + bundle(r.main, r.files) + "</style>\n")
	}
	for _, f := range r.faces {
		var src []string
		for i, at := range f.files {
			src = append(src, fmt.Sprintf("url(%q) format(%q)", at, map[string]string{"woff2": "woff2", "woff": "woff", "ttf": "truetype", "otf": "opentype"}[f.formats[i]]))
		}
		fmt.Fprintf(&s, "<style>@font-face { font-family: %q; font-weight: %s; font-style: %s; src: %s }</style>\n", f.family, f.weight, f.style, strings.Join(src, ", "))
	}
	for field, c := range r.chosen {
		fmt.Fprintf(&s, "<style>%s { font-family: %q; font-weight: %s; font-style: %s }</style>\n", r.kind.choices[field], c[0], c[1], c[2])
	}
	for name, address := range r.swaps {
		fmt.Fprintf(&s, "<style>@font-face { font-family: %q; src: url(%q) }</style>\n", name, address)
	}
	if r.sheet != "" {
		fmt.Fprintf(&s, "<link rel=\"stylesheet\" href=\"%s\">\n", html.EscapeString(r.sheet))
	}
	for _, address := range r.listed {
		fmt.Fprintf(&s, "<link rel=\"stylesheet\" href=\"%s\">\n", html.EscapeString(address))
	}
	if r.styles != "" {
		fmt.Fprintf(&s, "<style>%s</style>\n", r.styles)
	}
	s.WriteString("</head><body>\n" + r.blocks[page])
	s.WriteString(`<div class="text-part" id="slide"><h1>Ferries to Skerry 16:35</h1><h2>Winter timetable</h2>
<p class="words">Boats leave <strong>every hour</strong> from the quay.</p><ul><li>Holmvik</li></ul><p class="swapped" style="font-family: 'Georgia'">Set in the name the design has.</p></div>
`)
	if r.script != "" {
		fmt.Fprintf(&s, "<script>%s</script>\n", r.script)
	}
	s.WriteString("</body></html>")
	return s.String()
}

// bundle does what a bundler does with the site's stylesheet: it writes imported
// sheets in their place, and the files they name as data of their own.
func bundle(sheet string, files map[string][]byte) string {
	imports := regexp.MustCompile(`^@import (?:url\()?["']\./([^"']+)["']\)?;`)
	m := imports.FindStringSubmatch(sheet)
	if m == nil {
		return sheet // an import that is not the first rule does nothing
	}
	imported, ok := files["/src/"+m[1]]
	if !ok {
		return "/* cannot resolve " + m[1] + " */" + sheet
	}
	return regexp.MustCompile(`url\("([^"]+)"\)`).ReplaceAllString(string(imported), `url("/src/$1")`) + imports.ReplaceAllString(sheet, "")
}

// ServeHTTP serves what is public: pages that were published, and files.
func (r *Platform) ServeHTTP(w http.ResponseWriter, req *http.Request) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if page, ok := r.live[req.URL.Path]; ok {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		_, _ = w.Write([]byte(page))
		return
	}
	data, ok := r.files[req.URL.Path]
	if !ok {
		http.NotFound(w, req)
		return
	}
	if kind, known := map[string]string{".woff2": "font/woff2", ".woff": "font/woff", ".ttf": "font/ttf", ".otf": "font/otf", ".css": "text/css"}[path.Ext(req.URL.Path)]; known {
		w.Header().Set("Content-Type", kind)
	}
	_, _ = w.Write(data)
}
