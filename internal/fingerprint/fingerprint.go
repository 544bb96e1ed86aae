// Package fingerprint says what a pack is made of, to be compared with what it would be made of
// now: how sites leave their packs behind.
package fingerprint

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/reshape"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
	"sparecrate/internal/store/packdb"
	"sparecrate/internal/usage"
)

// Pack is what a pack is made of. It is kept with the pack as JSON.
type Pack struct {
	Builder      string   `json:"builder"`
	RulesVersion int      `json:"rulesVersion"`
	Prefix       string   `json:"prefix,omitempty"`
	OldBrowsers  bool     `json:"oldBrowsers,omitempty"`
	Supply       string   `json:"supply,omitempty"`
	Faces        []Face   `json:"faces"`
	Roles        []role   `json:"roles"`
	Replacements []string `json:"replacements"`
	// Changes are those made to each family, as licenses speak of them.
	Changes map[int64][]license.Change `json:"changes"`
	// Elsewhere are the families that are loaded from somebody else's server.
	Elsewhere []Sheet `json:"elsewhere"`
}

// Sheet is a family that is loaded from somebody else's server.
type Sheet struct {
	Family int64  `json:"family"`
	Name   string `json:"name"`
	From   string `json:"from"` // addresses, or servers where there are none
}

// Face is a face of a pack.
type Face struct {
	Face    int64  `json:"face"`
	Name    string `json:"name"`
	Source  string `json:"source"` // SHA-256
	Version string `json:"version"`
	Recipe  string `json:"recipe"` // its words
	Key     string `json:"key"`    // the same for the same recipe
	Formats string `json:"formats"`
	// Supplied are those of them that its supplier made; nil where an older version built it.
	Supplied *string `json:"supplied,omitempty"`
}

type role struct {
	Title string `json:"title"`
	Face  int64  `json:"face,omitempty"` // that is named
	Says  string `json:"says"`
}

// family is a family on a site with what a basis says of its faces.
type family struct {
	id     int64
	name   string
	recipe *reshape.Recipe
	sends  usage.Selection
	faces  []usage.FaceStyle
	sheets []store.HostedStylesheet
	// source is the SHA-256 of a face's file, version what its font says, where that
	// is known; by face.
	source, version map[int64]string
}

// For returns what a pack for an environment of a site would be made of now.
func For(d *usage.Site, environment string) *Pack {
	families := app.Each(d.Uses, func(u usage.SiteFamily) family {
		f := family{id: u.Family.ID, name: u.Family.Name, recipe: u.Recipe, sends: u.Sends, faces: usage.StylesOf(u.Family), sheets: u.Sheets, source: map[int64]string{}, version: map[int64]string{}}
		for _, face := range u.Family.Faces {
			if cur := face.Current(); cur != nil {
				f.source[face.ID], f.version[face.ID] = packdb.SourceOf(hashesOf(&face)), cur.Metadata.Names.Version
			}
		}
		return f
	})
	return of(d.Site, d.Rules, environment, families)
}

// hashesOf are the hashes of the files that packs take of a face.
func hashesOf(f *store.Face) []string {
	var out []string
	for _, l := range f.Files {
		if l.Current || l.Beside {
			out = append(out, l.File.SHA256)
		}
	}
	return out
}

// basisOf returns what a pack for an environment of a site is made of, out of what
// lists know of faces.
func of(site *store.Site, rules usage.BuilderRules, environment string, families []family) *Pack {
	b := &Pack{Builder: site.Builder, RulesVersion: rules.Version, OldBrowsers: site.Choices.LegacyFormats, Supply: site.Choices.Source, Faces: []Face{}, Roles: []role{}, Replacements: []string{}, Changes: map[int64][]license.Change{}, Elsewhere: []Sheet{}}
	for _, e := range site.Environments {
		if e.Name == environment {
			b.Prefix = e.Prefix
		}
	}
	taken := usage.RulesFor(site, rules.Rules)
	names := map[int64]string{}
	for _, f := range families {
		names[f.id] = f.name
		b.Changes[f.id] = f.sends.With(usage.ChangesOf(f.recipe))
		if len(f.sheets) > 0 {
			from := app.Each(f.sheets, func(s store.HostedStylesheet) string { return cmp.Or(s.URL, s.Host) })
			b.Elsewhere = append(b.Elsewhere, Sheet{f.id, f.name, strings.Join(from, " and ")})
		}
		for _, face := range f.faces {
			if !slices.Contains(f.sends.Sent, face.ID) {
				continue
			}
			formats, _, _ := face.FormatsOn(site, rules.Rules, !f.recipe.Empty())
			one := Face{Face: face.ID, Name: f.name + " " + face.Style, Source: f.source[face.ID], Version: f.version[face.ID], Formats: font.Listed(formats)}
			supplied := ""
			if f.recipe.Empty() && site.Choices.Source != store.SourceConverted {
				supplied = font.Listed(slices.DeleteFunc(slices.Clone(formats), func(c font.Container) bool { return !face.Supplied.Has(string(c)) }))
			}
			one.Supplied = &supplied
			if !f.recipe.Empty() {
				one.Recipe, one.Key = f.recipe.Words(), f.recipe.Key()
			}
			if face.Variable && !taken.Files.Variable && (f.recipe == nil || f.recipe.Instance == nil) {
				for _, weight := range usage.PinsOf(site, &face.Metadata, usage.RoleAssignmentsOf(site, f.id, f.name)) {
					one.Recipe = strings.TrimPrefix(one.Recipe+fmt.Sprintf("; static instance at weight %d", weight), "; ")
				}
			}
			b.Faces = append(b.Faces, one)
		}
	}
	for _, p := range site.RoleAssignments {
		one := usage.RoleAssignmentOf(p, names[p.FamilyID])
		b.Roles = append(b.Roles, role{one.Title(), one.Face, roleSays(&one)})
	}
	for _, s := range site.Replacements {
		b.Replacements = append(b.Replacements, fmt.Sprintf("%s for %s, %d", names[s.FamilyID], s.Name, s.Weight))
	}
	return b
}

// roleSays writes what a placement says, without its title.
func roleSays(p *pack.RoleAssignment) string {
	s := fmt.Sprintf("%s, weight %d", p.Family, p.Weight)
	if p.Slope != "upright" && p.Slope != "" {
		s += ", " + string(p.Slope)
	}
	if p.Selector != "" {
		s += ", for " + p.Selector
	}
	if len(p.Stack) > 0 {
		s += ", then " + strings.Join(p.Stack, ", ")
	}
	if p.Override {
		s += ", overruling"
	}
	return s
}

// since says what is otherwise now than it was, a sentence each.
func (now *Pack) since(was *Pack, rulesName string) []string {
	out := []string{}
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	switch {
	case now.Builder != was.Builder:
		say("The site has another builder: %s.", rulesName)
	case now.RulesVersion != was.RulesVersion:
		say("The builder rules are now version %d; the pack was built with version %d.", now.RulesVersion, was.RulesVersion)
	}
	if now.Prefix != was.Prefix {
		say("The files are to be at “%s”; it was “%s”.", now.Prefix, was.Prefix)
	}
	if now.OldBrowsers != was.OldBrowsers {
		say("Formats for old browsers are %s now.", map[bool]string{true: "sent", false: "not included"}[now.OldBrowsers])
	}
	if now.Supply != was.Supply {
		say("It holds %s now.", map[string]string{store.SourceConverted: "converted files, even where the supplier delivered them", store.SourceSmaller: "the supplier's files or converted ones, whichever are smaller"}[now.Supply]+
			map[bool]string{true: "the supplier's own files where there are some"}[now.Supply == "" || now.Supply == store.SourceSupplied])
	}
	for _, f := range now.Faces {
		at := slices.IndexFunc(was.Faces, func(o Face) bool { return o.Face == f.Face && o.Recipe == f.Recipe })
		if at < 0 {
			at = slices.IndexFunc(was.Faces, func(o Face) bool { return o.Face == f.Face })
		}
		if at < 0 {
			say("%s is included now.", f.Name)
			continue
		}
		o := was.Faces[at]
		switch {
		case f.Source != o.Source && f.Version != o.Version && f.Version != "":
			say("%s has a newer file: %s, it was %s.", f.Name, f.Version, o.Version)
		case f.Source != o.Source:
			say("%s has another file.", f.Name)
		}
		switch {
		case f.Recipe != o.Recipe:
			say("%s is %s now; it was %s.", f.Name, orAsItCame(f.Recipe), orAsItCame(o.Recipe))
		case f.Key != o.Key && o.Key != "": // another text, other features
			say("%s is still %s, with other settings.", f.Name, f.Recipe)
		}
		if o.Supplied != nil && *f.Supplied != *o.Supplied && now.Supply == was.Supply && f.Formats == o.Formats && f.Source == o.Source {
			say("%s has files of its supplier for the pack now that it had not.", f.Name)
		}
		if f.Formats != o.Formats && now.RulesVersion == was.RulesVersion && now.OldBrowsers == was.OldBrowsers && now.Builder == was.Builder {
			say("%s goes as %s now; it was %s.", f.Name, f.Formats, o.Formats)
		}
	}
	for _, o := range was.Faces {
		if !slices.ContainsFunc(now.Faces, func(f Face) bool { return f.Face == o.Face }) {
			say("%s is no longer included; remove it from the platform.", o.Name)
		}
	}
	for _, s := range now.Elsewhere {
		if at := slices.IndexFunc(was.Elsewhere, func(o Sheet) bool { return o.Family == s.Family }); at < 0 {
			say("%s is loaded from %s now.", s.Name, s.From)
		} else if o := was.Elsewhere[at]; o.From != s.From {
			say("%s is loaded from %s now; it was %s.", s.Name, s.From, o.From)
		}
	}
	for _, o := range was.Elsewhere {
		if !slices.ContainsFunc(now.Elsewhere, func(s Sheet) bool { return s.Family == o.Family }) {
			say("%s is no longer loaded from %s.", o.Name, o.From)
		}
	}
	for _, r := range now.Roles {
		at := slices.IndexFunc(was.Roles, func(o role) bool { return o.Title == r.Title })
		switch {
		case at < 0:
			say("%s is set now: %s.", r.Title, r.Says)
		case was.Roles[at].Says != r.Says:
			say("%s is %s now; it was %s.", r.Title, r.Says, was.Roles[at].Says)
		case was.Roles[at].Face != r.Face:
			say("%s now uses another face of its family.", r.Title)
		}
	}
	for _, o := range was.Roles {
		if !slices.ContainsFunc(now.Roles, func(r role) bool { return r.Title == o.Title }) {
			say("%s is not set any more.", o.Title)
		}
	}
	for _, s := range now.Replacements {
		if !slices.Contains(was.Replacements, s) {
			say("It swaps %s now.", s)
		}
	}
	for _, s := range was.Replacements {
		if !slices.Contains(now.Replacements, s) {
			say("It no longer replaces %s.", s)
		}
	}
	return out
}

func orAsItCame(words string) string {
	if words == "" {
		return "as it came"
	}
	return words
}

// Outdated returns by site the last pack of each environment that is not what would be
// built now, and how it differs.
func Outdated(ctx context.Context, in *store.Store, sites []*usage.Site) (map[int64][]api.OutdatedPack, error) {
	by := make(map[int64]*usage.Site, len(sites))
	for _, d := range sites {
		by[d.ID] = d
	}
	packs, err := packdb.In(in).LatestPacks(ctx, slices.Sorted(maps.Keys(by)))
	if err != nil {
		return nil, err
	}
	out := map[int64][]api.OutdatedPack{}
	for _, p := range packs {
		changes, err := Changes(by[p.SiteID], &p)
		if err != nil {
			return nil, err
		}
		if len(changes) > 0 {
			out[p.SiteID] = append(out[p.SiteID], api.OutdatedPack{Pack: p.ID, Environment: p.Environment, BuiltAt: p.CreatedAt, Changes: changes})
		}
	}
	return out, nil
}

// Changes says how a pack differs from what would be built now; nothing for one that says
// not what it was made of, as older versions built them.
func Changes(d *usage.Site, p *store.Pack) ([]string, error) {
	return behind(d.Site, d.Rules, p, func() *Pack { return For(d, p.Environment) })
}

func behind(site *store.Site, rules usage.BuilderRules, p *store.Pack, now func() *Pack) ([]string, error) {
	if p.Fingerprint == "" {
		return nil, nil
	}
	if p.Environment != "" && !slices.ContainsFunc(site.Environments, func(e store.Environment) bool { return e.Name == p.Environment }) {
		return nil, nil // the site has it no more
	}
	var was Pack
	if err := json.Unmarshal([]byte(p.Fingerprint), &was); err != nil {
		return nil, fmt.Errorf("read what pack %d was made of: %w", p.ID, err)
	}
	return now().since(&was, rules.Name), nil
}

// Superseded is a pack that no longer is what would be built now.
type Superseded struct {
	Site    *store.Site
	Pack    store.Pack
	Changes []string // sentences
}

// SupersededPacks returns the packs that their sites have left behind since.
func SupersededPacks(ctx context.Context, in *store.Store, weighed *usage.Usage, all *usage.Everywhere) ([]Superseded, error) {
	var sites []int64
	uses := map[int64][]usage.Use{}
	for _, u := range all.Uses {
		if uses[u.Site.ID] = append(uses[u.Site.ID], u); len(uses[u.Site.ID]) == 1 {
			sites = append(sites, u.Site.ID)
		}
	}
	packs, err := packdb.In(in).LatestPacks(ctx, sites)
	if err != nil || len(packs) == 0 {
		return nil, err
	}
	var families []int64
	for _, p := range packs {
		for _, u := range uses[p.SiteID] {
			families = append(families, u.Family.ID)
		}
	}
	slices.Sort(families)
	if err := weighed.PlaceFaces(ctx, all.Evidence, slices.Compact(families)); err != nil {
		return nil, err
	}
	sources, err := packdb.In(in).CurrentSources(ctx, app.Each(packs, func(p store.Pack) int64 { return p.SiteID }))
	if err != nil {
		return nil, err
	}
	var out []Superseded
	for _, p := range packs {
		site := all.Sites[p.SiteID]
		rules := all.Book.Of(site)
		changes, err := behind(site, rules, &p, func() *Pack {
			return of(site, rules, p.Environment, app.Each(uses[p.SiteID], func(u usage.Use) family {
				return family{id: u.Family.ID, name: u.Family.Name, recipe: u.Recipe, sends: u.Sends, faces: all.FacesOn(site, u.Family.ID), sheets: all.Sheets[u.Family.ID], source: all.SourcesOn(site, sources)}
			}))
		})
		if err != nil {
			return nil, err
		}
		if len(changes) > 0 {
			out = append(out, Superseded{site, p, changes})
		}
	}
	return out, nil
}

// CarriesOld reports whether a pack was made from another file of a face of a family than
// its site would be sent now.
func CarriesOld(d *usage.Site, p *store.Pack, f *store.Family) bool {
	var was Pack
	if json.Unmarshal([]byte(p.Fingerprint), &was) != nil {
		return false
	}
	now := For(d, p.Environment)
	for _, o := range was.Faces {
		if !slices.ContainsFunc(f.Faces, func(face store.Face) bool { return face.ID == o.Face }) {
			continue
		}
		if slices.ContainsFunc(now.Faces, func(n Face) bool { return n.Face == o.Face && n.Source != o.Source }) {
			return true
		}
	}
	return false
}
