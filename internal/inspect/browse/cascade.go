package browse

import (
	"strings"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/css"
	"github.com/chromedp/cdproto/dom"

	"sparecrate/internal/inspect"
)

// mostElements bounds the elements whose rules are read.
const mostElements = 250

// ruleAt is a rule that asks for a family.
type ruleAt struct {
	selector, family, sheet string
	line                    int
	important, inline       bool
}

// cascade finds the rules that ask for a family that the page sends and never get it,
// because other rules win wherever they apply.
func (v *visiting) cascade(out *inspect.Visit) {
	declared := map[string]bool{}
	for _, f := range out.Faces {
		declared[strings.ToLower(f.Family)] = true
	}
	if len(declared) == 0 {
		return
	}
	root, err := call(v, dom.GetDocument, dom.GetDocumentParams{})
	if err != nil {
		return
	}
	found, err := call(v, dom.QuerySelectorAll, dom.QuerySelectorAllParams{NodeID: root.Root.NodeID, Selector: "body, body *:not(script, style, link, meta, br, svg *, img, template)"})
	if err != nil {
		return
	}
	urls := map[cdp.StyleSheetID]*css.StyleSheetHeader{}
	v.mu.Lock()
	for _, h := range v.sheets {
		urls[h.StyleSheetID] = h
	}
	v.mu.Unlock()
	won := map[ruleAt]bool{}
	lost := map[ruleAt]ruleAt{}
	var order []ruleAt
	// Of very many elements those are read that stand far apart, so that all kinds come up.
	step := max(1, len(found.NodeIDs)/mostElements)
	for i := 0; i < len(found.NodeIDs); i += step {
		matched, err := call(v, css.GetMatchedStylesForNode, css.GetMatchedStylesForNodeParams{NodeID: found.NodeIDs[i]})
		if err != nil {
			continue
		}
		rules := asking(&matched, urls)
		if len(rules) == 0 {
			continue
		}
		winner := rules[len(rules)-1]
		for _, r := range rules {
			if r.important && !winner.important {
				winner = r
			} else if r.important == winner.important && !winner.inline {
				winner = r
			}
		}
		for _, r := range rules {
			if r == winner || r.family == winner.family {
				won[r] = true
			} else if _, has := lost[r]; !has && declared[strings.ToLower(r.family)] {
				lost[r] = winner
				order = append(order, r)
			}
		}
	}
	for _, r := range order {
		by := lost[r]
		if won[r] || declared[strings.ToLower(by.family)] {
			continue
		}
		out.Losing = append(out.Losing, inspect.Losing{Selector: r.selector, Family: r.family, Sheet: r.sheet, Line: r.line,
			By: by.selector, BySheet: by.sheet, ByLine: by.line, ByFamily: by.family, Important: by.important, Inline: by.inline})
	}
}

// mostOfRole bounds the elements of a role that are looked at.
const mostOfRole = 40

// shownRoles reads what the text of the site's roles is set in.
func (v *visiting) shownRoles(out *inspect.Visit) {
	if len(v.roles) == 0 {
		return
	}
	root, err := call(v, dom.GetDocument, dom.GetDocumentParams{})
	if err != nil {
		return
	}
	for _, role := range v.roles {
		shown := inspect.ShownRole{Role: role}
		found, err := call(v, dom.QuerySelectorAll, dom.QuerySelectorAllParams{NodeID: root.Root.NodeID, Selector: role.Selector})
		shown.Bad = err != nil
		for i, node := range found.NodeIDs {
			if i == mostOfRole {
				break
			}
			used, err := call(v, css.GetPlatformFontsForNode, css.GetPlatformFontsForNodeParams{NodeID: node})
			if err != nil || len(used.Fonts) == 0 {
				continue
			}
			if shown.Elements++; shown.Elements > 1 {
				continue
			}
			for _, f := range used.Fonts {
				shown.Fonts = append(shown.Fonts, inspect.Used{Family: f.FamilyName, PostScript: f.PostScriptName, Sent: f.IsCustomFont && !ofMachine(f.FamilyName), Characters: int(f.GlyphCount)})
			}
		}
		out.Roles = append(out.Roles, shown)
	}
}

// asking returns the rules of the page that ask for a family for an element, in the order
// in which later ones win.
func asking(m *css.GetMatchedStylesForNodeResult, sheets map[cdp.StyleSheetID]*css.StyleSheetHeader) []ruleAt {
	var out []ruleAt
	for _, match := range m.MatchedCSSRules {
		if match.Rule == nil || match.Rule.Origin != css.StyleSheetOriginRegular || match.Rule.Style == nil {
			continue
		}
		r := ruleAt{selector: match.Rule.SelectorList.Text}
		if h := sheets[match.Rule.StyleSheetID]; h != nil {
			r.sheet = h.SourceURL
			if match.Rule.Style.Range != nil {
				r.line = int(match.Rule.Style.Range.StartLine) + 1
				if h.IsInline {
					r.line = int(match.Rule.Style.Range.StartLine) + 1
				}
			}
		}
		if take(match.Rule.Style, &r) {
			out = append(out, r)
		}
	}
	if m.InlineStyle != nil {
		r := ruleAt{selector: "style attribute", inline: true}
		if take(m.InlineStyle, &r) {
			out = append(out, r)
		}
	}
	return out
}

// take reads the family that a style asks for.
func take(s *css.Style, r *ruleAt) bool {
	asks := false
	for _, p := range s.CSSProperties {
		if p.Name != "font-family" || p.Disabled || p.Value == "" {
			continue
		}
		names := families(strings.TrimSuffix(strings.TrimSpace(p.Value), "!important"))
		if len(names) == 0 || strings.EqualFold(names[0], "inherit") || strings.HasPrefix(names[0], "var(") {
			continue
		}
		asks = true
		r.family, r.important = names[0], p.Important || strings.Contains(p.Value, "!important")
	}
	return asks
}
