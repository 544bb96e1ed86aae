package browse

import (
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/css"
	"github.com/chromedp/cdproto/dom"
	"github.com/chromedp/cdproto/domsnapshot"

	"sparecrate/internal/inspect"
)

// The styles that a run of text is told by, in the order asked for.
const (
	styleFamily = iota
	styleWeight
	styleStyle
	styleStretch
	styleSize
	styleVisibility
	styleTransform
	styleSynthWeight
	styleSynthStyle
	styleOpacity
)

var styles = []string{"font-family", "font-weight", "font-style", "font-stretch", "font-size", "visibility", "text-transform", "font-synthesis-weight", "font-synthesis-style", "opacity"}

const (
	mostTexts = 4000 // texts of a page that are looked at
	askers    = 4    // questions to the browser at once
)

// textAt is a text of the page and where it stands.
type textAt struct {
	node cdp.BackendNodeID
	run  inspect.Run
	key  string
}

// runs returns the text of the page as it is drawn now, with the fonts it is set in.
func (v *visiting) runs(width int) ([]inspect.Run, error) {
	snapshot, err := call(v, domsnapshot.CaptureSnapshot, domsnapshot.CaptureSnapshotParams{ComputedStyles: styles})
	if err != nil {
		return nil, err
	}
	var texts []textAt
	for _, d := range snapshot.Documents {
		texts = append(texts, (&document{d, snapshot.Strings, width}).texts()...)
	}
	if len(texts) > mostTexts {
		v.add("page-too-long", "The page has %d texts; the first %d were looked at.", len(texts), mostTexts)
		texts = texts[:mostTexts]
	}
	if len(texts) == 0 {
		return nil, nil
	}
	// Nodes are known to the browser's other questions once the document was asked for.
	if _, err := call(v, dom.GetDocument, dom.GetDocumentParams{}); err != nil {
		return nil, err
	}
	ids := make([]cdp.BackendNodeID, len(texts))
	for i, t := range texts {
		ids[i] = t.node
	}
	nodes, err := call(v, dom.PushNodesByBackendIDsToFrontend, dom.PushNodesByBackendIDsToFrontendParams{BackendNodeIDs: ids})
	if err != nil {
		return nil, err
	}
	var wait sync.WaitGroup
	next := make(chan int)
	for range askers {
		wait.Go(func() {
			for i := range next {
				if i >= len(nodes.NodeIDs) || nodes.NodeIDs[i] == 0 {
					continue
				}
				used, err := call(v, css.GetPlatformFontsForNode, css.GetPlatformFontsForNodeParams{NodeID: nodes.NodeIDs[i]})
				if err != nil {
					continue // it went meanwhile
				}
				for _, f := range used.Fonts {
					texts[i].run.Fonts = append(texts[i].run.Fonts, inspect.Used{Family: f.FamilyName, PostScript: f.PostScriptName, Sent: f.IsCustomFont && !ofMachine(f.FamilyName), Characters: int(f.GlyphCount)})
				}
			}
		})
	}
	for i := range texts {
		next <- i
	}
	close(next)
	wait.Wait()
	return gathered(texts), v.ctx.Err()
}

// ofMachine reports whether a family is one of the machine's own, which rules reach by
// local() too.
func ofMachine(family string) bool {
	return slices.ContainsFunc(kept, func(k keptFamily) bool { return k.family == family })
}

// gathered puts together texts of one look.
func gathered(texts []textAt) []inspect.Run {
	at := map[string]int{}
	var out []inspect.Run
	for _, t := range texts {
		if len(t.run.Fonts) == 0 {
			continue
		}
		key := t.key
		for _, f := range t.run.Fonts {
			key += "\x00" + f.PostScript + strconv.FormatBool(f.Sent)
		}
		i, has := at[key]
		if !has {
			at[key] = len(out)
			t.run.Characters = len([]rune(t.run.Text))
			t.run.Text = once("", t.run.Text)
			out = append(out, t.run)
			continue
		}
		r := &out[i]
		r.Characters += len([]rune(t.run.Text))
		r.Text = once(r.Text, t.run.Text)
		for k := range r.Fonts {
			r.Fonts[k].Characters += t.run.Fonts[k].Characters
		}
	}
	return out
}

// once adds the characters of a text that are not there yet.
func once(have, text string) string {
	for _, r := range text {
		if !strings.ContainsRune(have, r) {
			have += string(r)
		}
	}
	return have
}

// document is a document of a snapshot.
type document struct {
	*domsnapshot.DocumentSnapshot
	strings []string
	width   int
}

func (d *document) text(i domsnapshot.StringIndex) string {
	if i < 0 || int(i) >= len(d.strings) {
		return ""
	}
	return d.strings[i]
}

// rare returns the values of a sparse column, by node.
func (d *document) rare(of *domsnapshot.RareStringData) map[int64]string {
	out := map[int64]string{}
	if of != nil {
		for i, node := range of.Index {
			if i < len(of.Value) {
				out[node] = d.text(of.Value[i])
			}
		}
	}
	return out
}

// attribute returns an attribute of an element.
func (d *document) attribute(node int64, name string) (string, bool) {
	if node < 0 || int(node) >= len(d.Nodes.Attributes) {
		return "", false
	}
	a := d.Nodes.Attributes[node]
	for i := 0; i+1 < len(a); i += 2 {
		if d.text(domsnapshot.StringIndex(a[i])) == name {
			return d.text(domsnapshot.StringIndex(a[i+1])), true
		}
	}
	return "", false
}

// parent returns the node that a node stands in; -1 for none.
func (d *document) parent(node int64) int64 {
	if node < 0 || int(node) >= len(d.Nodes.ParentIndex) {
		return -1
	}
	return d.Nodes.ParentIndex[node]
}

// texts returns the texts that are drawn.
func (d *document) texts() []textAt {
	pseudo := d.rare(d.Nodes.PseudoType)
	var out []textAt
	for i, node := range d.Layout.NodeIndex {
		text := strings.Map(func(r rune) rune {
			if unicode.IsSpace(r) || r == 0xFEFF || r == 0x200B || unicode.Is(unicode.Cf, r) || unicode.IsControl(r) {
				return -1
			}
			return r
		}, d.text(d.Layout.Text[i]))
		if text == "" || pseudo[node] == "marker" || pseudo[d.parent(node)] == "marker" || len(d.Layout.Styles[i]) <= styleOpacity {
			continue
		}
		style := func(which int) string { return d.text(domsnapshot.StringIndex(d.Layout.Styles[i][which])) }
		t := textAt{node: d.Nodes.BackendNodeID[node]}
		r := &t.run
		r.Invisible = style(styleVisibility) != "visible" || style(styleOpacity) == "0"
		r.Width, r.Asked, r.Style, r.Stretch = d.width, families(style(styleFamily)), style(styleStyle), style(styleStretch)
		if word, _, found := strings.Cut(r.Style, " "); found {
			r.Style = word
		}
		r.Weight, _ = strconv.Atoi(style(styleWeight))
		r.Size, _ = strconv.ParseFloat(strings.TrimSuffix(style(styleSize), "px"), 64)
		r.MayBold, r.MaySlant = style(styleSynthWeight) != "none", style(styleSynthStyle) != "none"
		// The snapshot holds text as it is drawn, in the case that styles ask for.
		r.Text = text
		if b := d.Layout.Bounds[i]; len(b) == 4 {
			r.Box = inspect.Box{X: b[0], Y: b[1], Width: b[2], Height: b[3]}
		}
		r.Selector, r.Hidden = d.place(node, pseudo)
		t.key = strings.Join([]string{r.Selector, style(styleFamily), style(styleWeight), r.Style, r.Stretch, strconv.FormatBool(r.Hidden), strconv.FormatBool(r.Invisible)}, "\x00")
		out = append(out, t)
	}
	return out
}

// place names the element of a text by a selector, and says whether screen readers pass
// over it.
func (d *document) place(node int64, pseudo map[int64]string) (string, bool) {
	suffix, hidden := "", false
	var parts []string
	for n := node; n >= 0 && int(n) < len(d.Nodes.ParentIndex); n = d.Nodes.ParentIndex[n] {
		if kind, is := pseudo[n]; is {
			suffix, hidden = "::"+kind, true
			continue
		}
		if d.Nodes.NodeType[n] != 1 {
			continue
		}
		if is, _ := d.attribute(n, "aria-hidden"); is == "true" {
			hidden = true
		}
		if len(parts) >= 3 {
			continue
		}
		name := strings.ToLower(d.text(d.Nodes.NodeName[n]))
		part := name
		id, hasID := d.attribute(n, "id")
		class, _ := d.attribute(n, "class")
		switch fields := strings.Fields(class); {
		case hasID && plainWord(id):
			part += "#" + id
		default:
			for _, f := range fields[:min(len(fields), 2)] {
				if plainWord(f) {
					part += "." + f
				}
			}
		}
		if len(parts) == 0 || part != name { // ancestors are named where that tells something
			parts = append([]string{part}, parts...)
		}
		if hasID && plainWord(id) {
			parts = append(parts, make([]string, 3)...)[:max(len(parts), 3)]
		}
	}
	var named []string
	for _, p := range parts {
		if p != "" {
			named = append(named, p)
		}
	}
	return strings.Join(named, " ") + suffix, hidden
}

// plainWord reports whether a name can stand in a selector as it is.
func plainWord(s string) bool {
	return s != "" && len(s) < 60 && !unicode.IsDigit(rune(s[0])) && !strings.ContainsFunc(s, func(r rune) bool {
		return r != '-' && r != '_' && !unicode.IsLetter(r) && !unicode.IsDigit(r)
	})
}

// families reads a computed font-family: names as they are, in order.
func families(value string) []string {
	var out []string
	var name strings.Builder
	var quote rune
	flush := func() {
		if s := strings.TrimSpace(name.String()); s != "" {
			out = append(out, s)
		}
		name.Reset()
	}
	escaped := false
	for _, r := range value {
		switch {
		case escaped:
			name.WriteRune(r)
			escaped = false
		case r == '\\':
			escaped = true
		case quote != 0:
			if r == quote {
				quote = 0
			} else {
				name.WriteRune(r)
			}
		case r == '"' || r == '\'':
			quote = r
		case r == ',':
			flush()
		default:
			name.WriteRune(r)
		}
	}
	flush()
	return out
}
