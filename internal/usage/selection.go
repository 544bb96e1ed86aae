package usage

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/internal/app"
	"sparecrate/internal/builder"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/store/usagedb"
)

// RuleBook is every set of builder rules there is, by kind.
type RuleBook map[string]BuilderRules

// BuilderRules is a set of rules with what the studio did to it.
type BuilderRules struct {
	*builder.Rules
	Version int
	Shipped bool
	Kept    *store.Builder // nil where it is as shipped
}

// Rules returns the rules of a kind, those the studio has of it.
func (c *Usage) Rules(ctx context.Context) (RuleBook, error) {
	book := RuleBook{}
	for _, r := range builder.Shipped() {
		book[r.Kind] = BuilderRules{Rules: &r, Version: 1, Shipped: true}
	}
	kept, err := sitedb.In(c.store).Builders(ctx)
	if err != nil {
		return nil, err
	}
	for _, b := range kept {
		var r builder.Rules
		if err := json.Unmarshal([]byte(b.Rules), &r); err != nil {
			return nil, fmt.Errorf("read the builder rules %s: %w", b.Kind, err)
		}
		_, shipped := builder.ShippedOf(b.Kind)
		book[b.Kind] = BuilderRules{&r, b.Version, shipped, &b}
	}
	return book, nil
}

// Of returns the rules of a site; those of a web site of one's own where its builder
// is known no more.
func (b RuleBook) Of(s *store.Site) BuilderRules {
	if r, ok := b[s.Builder]; ok {
		return r
	}
	return b[FallbackBuilder]
}

// FallbackBuilder is the kind of the rules for sites whose builder nobody knows.
const FallbackBuilder = "self-hosted"

// RulesFor returns the rules by which a site's packs are made: with the formats of old
// browsers where the site asks for them.
func RulesFor(s *store.Site, rules *builder.Rules) *builder.Rules {
	if s.Choices.LegacyFormats {
		return rules.WithOld()
	}
	return rules
}

// FaceStyle is a face as the choice of what is sent needs it.
type FaceStyle struct {
	ID         int64
	Style      string
	Variable   bool
	PostScript bool
	Supplied   store.Formats // that its supplier delivered
	Metadata   metadata.Face // its style and its weight axis alone
}

// FormatsOn returns the formats that a face goes out in on a site, best first, and
// whether its outlines have to become TrueType ones for that: as its supplier made them
// where a web font is among these, unless the site wants others or the face is changed.
func FormatsOn(site *store.Site, rules *builder.Rules, outlines metadata.Outlines, supplied store.Formats, changed bool) (out []font.Container, retype bool, err error) {
	taken := RulesFor(site, rules)
	usual := site.Choices.Source == "" || site.Choices.Source == store.SourceSupplied
	if usual && !changed && !site.Choices.LegacyFormats {
		return taken.SuppliedOf(outlines, supplied)
	}
	return taken.FormatsOf(outlines)
}

// FormatsOn returns the formats of a face on a site (see the function of that name).
func (s *FaceStyle) FormatsOn(site *store.Site, rules *builder.Rules, changed bool) ([]font.Container, bool, error) {
	outlines := metadata.TrueType
	if s.PostScript {
		outlines = metadata.CFF
	}
	return FormatsOn(site, rules, outlines, s.Supplied, changed)
}

// converts reports whether one of some formats is made from another, as a site has it;
// not where nobody knows what was delivered.
func (s *FaceStyle) converts(site *store.Site, formats []font.Container) bool {
	return len(s.Supplied) > 0 && slices.ContainsFunc(formats, func(c font.Container) bool {
		return !s.Supplied.Has(string(c)) || (site.Choices.Source == store.SourceConverted || site.Choices.Source == store.SourceSmaller) && len(s.Supplied) > 1
	})
}

// place says where a face stands in its family.
func (s *FaceStyle) place(f store.FaceStyle) {
	s.Style = f.Style
	s.Metadata.Style = metadata.Style{Weight: f.Weight, WidthPercent: f.Width, Slope: metadata.Slope(f.Slope)}
	if s.Variable && f.WeightMin < f.WeightMax {
		s.Metadata.Axes = []metadata.Axis{{Tag: "wght", Min: float64(f.WeightMin), Max: float64(f.WeightMax)}}
	}
}

// place says where faces stand in their families: what roles choose by. Most families
// of a studio are asked about without it.
func (s *Evidence) place(places map[int64]store.FaceStyle) {
	for _, faces := range s.Styles {
		for i := range faces {
			if f, ok := places[faces[i].ID]; ok {
				faces[i].place(f)
			}
		}
	}
}

// PlaceFaces reads where the faces of families stand.
func (c *Usage) PlaceFaces(ctx context.Context, s *Evidence, families []int64) error {
	places, err := usagedb.In(c.store).FaceStyles(ctx, families)
	if err == nil {
		s.place(places)
	}
	return err
}

// Selection is what goes out of a family to a platform.
type Selection struct {
	Needs   map[int64]string // what each face is needed for, of those that are; by face
	Sent    []int64
	left    []int64
	changes []license.Change // that the platform makes necessary
}

// RoleAssignmentsOf returns what a family does on a site, stand-ins included.
func RoleAssignmentsOf(s *store.Site, family int64, name string) []pack.RoleAssignment {
	var out []pack.RoleAssignment
	for _, p := range s.RoleAssignments {
		if p.FamilyID == family {
			out = append(out, RoleAssignmentOf(p, name))
		}
	}
	for _, i := range s.Replacements {
		if i.FamilyID == family {
			out = append(out, pack.RoleAssignment{Role: "stand-in", Name: "the replacement " + i.Name, Family: name, Weight: i.Weight, Slope: metadata.Slope(i.Slope)})
		}
	}
	return out
}

// RoleAssignmentOf returns a role on a site as packs need it.
func RoleAssignmentOf(p store.RoleAssignment, family string) pack.RoleAssignment {
	return pack.RoleAssignment{Role: builder.Role(p.Role), Name: p.Name, Selector: p.Selector, Family: family, Face: p.FaceID, Weight: p.Weight, Slope: metadata.Slope(p.Slope), Stack: p.Stack, Override: p.Override}
}

// sends chooses the faces of a family that go to a platform; changed says that they are
// changed on the way.
func (s *Evidence) sends(site *store.Site, family int64, name string, rules *builder.Rules, changed bool) Selection {
	faces := s.FacesOn(site, family)
	out := Selection{Sent: make([]int64, 0, len(faces))}
	assignments := RoleAssignmentsOf(site, family, name)
	if len(assignments) > 0 { // without them all are needed, for nothing in particular
		out.Needs = map[int64]string{}
		for _, n := range pack.Needed(app.Each(faces, func(f FaceStyle) int64 { return f.ID }), app.Each(faces, func(f FaceStyle) *metadata.Face { return &f.Metadata }), assignments) {
			out.Needs[faces[n.Index].ID] = n.Why
		}
	}
	outlines, converted := false, false
	for i := range faces {
		f := &faces[i]
		if !isSent(&site.Choices, f.ID, out.Needs) {
			out.left = append(out.left, f.ID)
			continue
		}
		out.Sent = append(out.Sent, f.ID)
		formats, retype, _ := f.FormatsOn(site, rules, changed)
		outlines = outlines || retype || f.Variable && !rules.Files.Variable
		converted = converted || f.converts(site, formats)
	}
	if outlines {
		out.changes = append(out.changes, license.Outlines)
	}
	if converted {
		out.changes = append(out.changes, license.Format)
	}
	return out
}

// stay returns the file that a site stays on of a face.
func (s *Evidence) stay(site *store.Site, face int64) (*store.FaceFile, bool) {
	file := site.Choices.PinnedTo(face)
	if file == 0 {
		return nil, false
	}
	l, is := s.Stays[store.PinnedFile{Face: face, File: file}]
	return &l, is
}

// FacesOn returns the faces of a family as the choice of what is sent needs them, with the
// files that a site stays on.
func (s *Evidence) FacesOn(site *store.Site, family int64) []FaceStyle {
	faces := s.Styles[family]
	if len(site.Choices.Pinned) == 0 {
		return faces
	}
	out := slices.Clone(faces)
	for i := range out {
		if l, stays := s.stay(site, out[i].ID); stays {
			out[i] = stayed(out[i], l)
		}
	}
	return out
}

// SourcesOn returns the sources of faces with those of files that a site stays on.
func (s *Evidence) SourcesOn(site *store.Site, sources map[int64]string) map[int64]string {
	if len(site.Choices.Pinned) == 0 {
		return sources
	}
	out := maps.Clone(sources)
	for _, one := range site.Choices.Pinned {
		if l, stays := s.stay(site, one.Face); stays {
			out[one.Face] = l.File.SHA256
		}
	}
	return out
}

// stayed is a face as a file of it has it that a site stays on.
func stayed(out FaceStyle, l *store.FaceFile) FaceStyle {
	out.Variable, out.PostScript = len(l.Metadata.Axes) > 0, l.Metadata.Outlines == metadata.CFF || l.Metadata.Outlines == metadata.CFF2
	out.Supplied = nil
	if l.File.Faces == 1 {
		out.Supplied = store.Formats{l.File.Format}
	}
	out.Metadata = metadata.Face{Style: l.Metadata.Style, Axes: l.Metadata.Axes}
	return out
}

// staying returns a family as it is on a site: where the site stays on files, these are in
// use.
func (s *Evidence) staying(site *store.Site, f *store.Family) *store.Family {
	if len(site.Choices.Pinned) == 0 {
		return f
	}
	out := *f
	out.Faces = slices.Clone(f.Faces)
	for i := range out.Faces {
		face := &out.Faces[i]
		l, stays := s.stay(site, face.ID)
		if !stays {
			continue
		}
		face.Together, face.Files = nil, slices.Clone(face.Files)
		for k := range face.Files {
			one := &face.Files[k]
			one.Current, one.Beside, one.Outcome = one.FileID == l.FileID && one.Place == l.Place, false, ""
		}
	}
	return &out
}

// isSent reports whether a face is sent: what is needed and not left at home, and
// what is sent besides. needs is nil where all are.
func isSent(c *store.Choices, face int64, needs map[int64]string) bool {
	_, needed := needs[face]
	if needed || needs == nil {
		return !slices.Contains(c.Exclude, face)
	}
	return slices.Contains(c.Include, face)
}

// PackContents is what a pack that was built holds.
type PackContents struct {
	Faces   []int64
	Changes map[int64][]license.Change // that were made to a family; nil where the pack does not say
	Away    []int64                    // families that its pages load from elsewhere
}

// asHeld asks about a family on a site as a pack holds it, whatever is sent by now.
func (s *Evidence) asHeld(site *store.Site, f *store.Family, rules *builder.Rules, changes []license.Change, h *PackContents) Question {
	a := Question{Family: f, Client: site.Client.Name, Site: site, Use: license.Use(rules.For), Changes: changes}
	if slices.Contains(h.Away, f.ID) {
		a.Use = license.WebHosted
	}
	if h.Changes != nil {
		a.Changes = h.Changes[f.ID]
	}
	for _, face := range s.Styles[f.ID] {
		if slices.Contains(h.Faces, face.ID) {
			a.Faces = append(a.Faces, face.ID)
		}
	}
	return a
}

// Usual is the use that is asked about where none is named: on the web, from one's own
// server, or for a family without files from somebody else's.
func (s *Evidence) Usual(family int64) license.Use {
	if len(s.Sheets[family]) > 0 {
		return license.WebHosted
	}
	return license.Web
}

// useOn is the use that a platform stands for.
func (s *Evidence) useOn(family int64, rules *builder.Rules) license.Use {
	if use := license.Use(rules.For); use != license.Web {
		return use
	}
	return s.Usual(family)
}

// On asks about a family on a site, as packs for it are made.
func (s *Evidence) On(site *store.Site, f *store.Family, rules *builder.Rules, changes []license.Change) (Question, Selection) {
	sent := s.sends(site, f.ID, f.Name, rules, len(changes) > 0)
	a := Question{Family: f, Client: site.Client.Name, Site: site, Use: s.useOn(f.ID, rules)}
	if len(sent.left) > 0 {
		a.Faces = sent.Sent
	}
	a.Changes = sent.With(changes)
	for _, id := range sent.Sent {
		if l, stays := s.stay(site, id); stays {
			one := license.FaceOf(&l.Metadata)
			one.ID = id
			a.Instead = append(a.Instead, one)
		}
	}
	return a, sent
}

// With adds the changes that the platform makes necessary to those that were asked for.
func (s Selection) With(changes []license.Change) []license.Change {
	out := slices.Clone(changes)
	for _, change := range s.changes {
		if !slices.Contains(out, change) {
			out = append(out, change)
		}
	}
	return out
}

// PinsOf returns the weights that a variable face is pinned at for a platform that
// takes none: those its roles have, or the site's choice.
func PinsOf(site *store.Site, f *metadata.Face, assignments []pack.RoleAssignment) []int {
	low, high := f.Style.Weight, f.Style.Weight
	for _, a := range f.Axes {
		if a.Tag == "wght" {
			low, high = int(a.Min), int(a.Max)
		}
	}
	wanted := slices.Clone(site.Choices.Weights)
	if len(wanted) == 0 {
		for _, p := range assignments {
			wanted = append(wanted, p.Weight)
			if k, _ := p.Role.Known(); k.Running {
				wanted = append(wanted, pack.Bolder(p.Weight))
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

// RulesOf returns the builder rules of a kind.
func (c *Usage) RulesOf(ctx context.Context, kind string) (*BuilderRules, error) {
	book, err := c.Rules(ctx)
	if err != nil {
		return nil, err
	}
	b, ok := book[kind]
	if !ok {
		return nil, app.Problem(app.Missing, "not-found", "There are no builder rules %q; there are %s.", kind, strings.Join(slices.Sorted(maps.Keys(book)), ", "))
	}
	return &b, nil
}
