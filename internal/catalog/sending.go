package catalog

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"sparecrate/internal/app"

	"sparecrate/font/facts"
	"sparecrate/internal/builder"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
)

// ruleBook is every set of builder rules there is, by kind.
type ruleBook map[string]booked

// booked is a set of rules with what the studio did to it.
type booked struct {
	*builder.Rules
	version int
	shipped bool
	kept    *store.Builder // nil where it is as shipped
}

// rules gives the rules of a kind, those the studio has of it.
func (c *Catalog) rules(ctx context.Context) (ruleBook, error) {
	book := ruleBook{}
	for _, r := range builder.Shipped() {
		book[r.Kind] = booked{Rules: &r, version: 1, shipped: true}
	}
	kept, err := c.store.Builders(ctx)
	if err != nil {
		return nil, err
	}
	for _, b := range kept {
		var r builder.Rules
		if err := json.Unmarshal([]byte(b.Rules), &r); err != nil {
			return nil, fmt.Errorf("read the builder rules %s: %w", b.Kind, err)
		}
		_, shipped := builder.ShippedOf(b.Kind)
		book[b.Kind] = booked{&r, b.Version, shipped, &b}
	}
	return book, nil
}

// of gives the rules of a site; those of a web site of one's own where its builder
// is known no more.
func (b ruleBook) of(s *store.Site) booked {
	if r, ok := b[s.Builder]; ok {
		return r
	}
	return b[fallbackBuilder]
}

const fallbackBuilder = "self-hosted"

// rulesFor gives the rules by which a site's packs are made: with the containers of old
// browsers where the site asks for them.
func rulesFor(s *store.Site, rules *builder.Rules) *builder.Rules {
	if s.Choices.OldBrowsers {
		return rules.WithOld()
	}
	return rules
}

// styled is a face as the choice of what is sent needs it.
type styled struct {
	id         int64
	style      string
	variable   bool
	postScript bool
	facts      facts.Face // its style and its weight axis alone
}

// place says where a face stands in its family.
func (s *styled) place(f store.FaceStyle) {
	s.style = f.Style
	s.facts.Style = facts.Style{Weight: f.Weight, WidthPercent: f.Width, Slope: facts.Slope(f.Slope)}
	if s.variable && f.WeightMin < f.WeightMax {
		s.facts.Axes = []facts.Axis{{Tag: "wght", Min: float64(f.WeightMin), Max: float64(f.WeightMax)}}
	}
}

// place says where faces stand in their families: what roles choose by. Most families
// of a studio are asked about without it.
func (s *scales) place(places map[int64]store.FaceStyle) {
	for _, faces := range s.styles {
		for i := range faces {
			if f, ok := places[faces[i].id]; ok {
				faces[i].place(f)
			}
		}
	}
}

// placeFaces reads where the faces of families stand.
func (c *Catalog) placeFaces(ctx context.Context, s *scales, families []int64) error {
	places, err := c.store.FaceStyles(ctx, families)
	if err == nil {
		s.place(places)
	}
	return err
}

// sending is what goes out of a family to a receiver.
type sending struct {
	needs   map[int64]string // what each face is needed for, of those that are; by face
	sent    []int64
	left    []int64
	changes []license.Change // that the receiver makes necessary
}

// placementsOf gives what a family does on a site, stand-ins included.
func placementsOf(s *store.Site, family int64, name string) []pack.Placement {
	var out []pack.Placement
	for _, p := range s.Placements {
		if p.FamilyID == family {
			out = append(out, placementOf(p, name))
		}
	}
	for _, i := range s.StandIns {
		if i.FamilyID == family {
			out = append(out, pack.Placement{Role: "stand-in", Name: "the stand-in " + i.Name, Family: name, Weight: i.Weight, Slope: facts.Slope(i.Slope)})
		}
	}
	return out
}

func placementOf(p store.Placement, family string) pack.Placement {
	return pack.Placement{Role: builder.Role(p.Role), Name: p.Name, Selector: p.Selector, Family: family, Face: p.FaceID, Weight: p.Weight, Slope: facts.Slope(p.Slope), Stack: p.Stack, Override: p.Override}
}

// sends chooses the faces of a family that go to a receiver.
func (s *scales) sends(site *store.Site, family int64, name string, rules *builder.Rules) sending {
	faces := s.styles[family]
	out := sending{sent: make([]int64, 0, len(faces))}
	placements := placementsOf(site, family, name)
	if len(placements) > 0 { // without them all are needed, for nothing in particular
		out.needs = map[int64]string{}
		for _, n := range pack.Needed(app.Each(faces, func(f styled) int64 { return f.id }), app.Each(faces, func(f styled) *facts.Face { return &f.facts }), placements) {
			out.needs[faces[n.Index].id] = n.Why
		}
	}
	_, retype, _ := rulesFor(site, rules).ContainersOf(facts.CFF)
	changed := false
	for i := range faces {
		f := &faces[i]
		if !isSent(&site.Choices, f.id, out.needs) {
			out.left = append(out.left, f.id)
			continue
		}
		out.sent = append(out.sent, f.id)
		changed = changed || retype && f.postScript || f.variable && !rules.Files.Variable
	}
	if changed {
		out.changes = []license.Change{license.Outlines}
	}
	return out
}

// isSent reports whether a face is sent: what is needed and not left at home, and
// what is sent besides. needs is nil where all are.
func isSent(c *store.Choices, face int64, needs map[int64]string) bool {
	_, needed := needs[face]
	if needed || needs == nil {
		return !slices.Contains(c.Leave, face)
	}
	return slices.Contains(c.Send, face)
}

// held is what a pack that was built holds.
type held struct {
	faces   []int64
	changes map[int64][]license.Change // that were made to a family; nil where the pack does not say
	away    []int64                    // families that its pages load from elsewhere
}

// asHeld asks about a family on a site as a pack holds it, whatever is sent by now.
func (s *scales) asHeld(site *store.Site, f *store.Family, rules *builder.Rules, changes []license.Change, h *held) asked {
	a := asked{family: f, client: site.Client.Name, site: site, use: license.Use(rules.For), changes: changes}
	if slices.Contains(h.away, f.ID) {
		a.use = license.WebHosted
	}
	if h.changes != nil {
		a.changes = h.changes[f.ID]
	}
	for _, face := range s.styles[f.ID] {
		if slices.Contains(h.faces, face.id) {
			a.faces = append(a.faces, face.id)
		}
	}
	return a
}

// usual is the use that is asked about where none is named: on the web, from one's own
// server, or for a family without files from somebody else's.
func (s *scales) usual(family int64) license.Use {
	if len(s.sheets[family]) > 0 {
		return license.WebHosted
	}
	return license.Web
}

// useOn is the use that a receiver stands for.
func (s *scales) useOn(family int64, rules *builder.Rules) license.Use {
	if use := license.Use(rules.For); use != license.Web {
		return use
	}
	return s.usual(family)
}

// on asks about a family on a site, as packs for it are made.
func (s *scales) on(site *store.Site, f *store.Family, rules *builder.Rules, changes []license.Change) (asked, sending) {
	sent := s.sends(site, f.ID, f.Name, rules)
	a := asked{family: f, client: site.Client.Name, site: site, use: s.useOn(f.ID, rules)}
	if len(sent.left) > 0 {
		a.faces = sent.sent
	}
	a.changes = sent.with(changes)
	return a, sent
}

// with adds the changes that the receiver makes necessary to those that were asked for.
func (s sending) with(changes []license.Change) []license.Change {
	out := slices.Clone(changes)
	for _, change := range s.changes {
		if !slices.Contains(out, change) {
			out = append(out, change)
		}
	}
	return out
}

// pinsOf gives the weights that a variable face is pinned at for a receiver that
// takes none: those its roles have, or the site's choice.
func pinsOf(site *store.Site, f *facts.Face, placements []pack.Placement) []int {
	low, high := f.Style.Weight, f.Style.Weight
	for _, a := range f.Axes {
		if a.Tag == "wght" {
			low, high = int(a.Min), int(a.Max)
		}
	}
	wanted := slices.Clone(site.Choices.Weights)
	if len(wanted) == 0 {
		for _, p := range placements {
			wanted = append(wanted, p.Weight)
			if k, _ := p.Role.Known(); k.Running && p.Weight < 600 {
				wanted = append(wanted, 700)
			}
		}
	}
	if len(wanted) == 0 {
		wanted = []int{400, 700}
	}
	var out []int
	for _, w := range wanted {
		if w = max(low, min(w, high)); !slices.Contains(out, w) {
			out = append(out, w)
		}
	}
	slices.Sort(out)
	return out
}

// genericOf guesses the generic family nearest to a design by its name.
func genericOf(name string) string {
	words := " " + strings.ToLower(name) + " "
	has := func(list ...string) bool {
		return slices.ContainsFunc(list, func(w string) bool { return strings.Contains(words, " "+w+" ") })
	}
	switch {
	case has("mono", "code", "typewriter", "console"):
		return "monospace"
	case has("script", "hand", "handwriting", "brush", "cursive"):
		return "cursive"
	case has("serif", "roman", "antiqua", "slab", "book", "text") && !has("sans"):
		return "serif"
	}
	return "sans-serif"
}

func (c *Catalog) booked(ctx context.Context, kind string) (*booked, error) {
	book, err := c.rules(ctx)
	if err != nil {
		return nil, err
	}
	b, ok := book[kind]
	if !ok {
		return nil, app.Problem(app.Missing, "not-found", "There are no builder rules %q; there are %s.", kind, strings.Join(slices.Sorted(maps.Keys(book)), ", "))
	}
	return &b, nil
}
