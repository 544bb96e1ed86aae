package catalog

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
)

// basis is what a pack is made of, to be compared with what it would be made of
// now.
type basis struct {
	Builder      string      `json:"builder"`
	RulesVersion int         `json:"rulesVersion"`
	Prefix       string      `json:"prefix,omitempty"`
	OldBrowsers  bool        `json:"oldBrowsers,omitempty"`
	Faces        []basisFace `json:"faces"`
	Roles        []basisRole `json:"roles"`
	StandIns     []string    `json:"standIns"`
}

type basisFace struct {
	Face       int64  `json:"face"`
	Name       string `json:"name"`
	Source     string `json:"source"` // SHA-256
	Version    string `json:"version"`
	Recipe     string `json:"recipe"` // its words
	Containers string `json:"containers"`
}

type basisRole struct {
	Title string `json:"title"`
	Says  string `json:"says"`
}

// basis gives what a pack for an environment is made of.
func (d *delivered) basis(environment string) *basis {
	p := d.input(environment)
	b := &basis{Builder: d.Builder, RulesVersion: d.rules.version, Prefix: p.Prefix, OldBrowsers: d.Choices.OldBrowsers, Faces: []basisFace{}, Roles: []basisRole{}, StandIns: []string{}}
	for i := range p.faces {
		f := &p.faces[i]
		one := basisFace{Face: f.face.ID, Name: f.used.family.Name + " " + f.face.Style, Source: f.cur.File.SHA256, Version: f.cur.Facts.Names.Version, Containers: font.Listed(f.containers)}
		if !f.recipe.Empty() {
			one.Recipe = f.recipe.Words()
		}
		b.Faces = append(b.Faces, one)
	}
	for i := range p.Placements {
		b.Roles = append(b.Roles, basisRole{p.Placements[i].Title(), roleSays(&p.Placements[i])})
	}
	for _, s := range p.StandIns {
		b.StandIns = append(b.StandIns, fmt.Sprintf("%s for %s, %d", s.Family, s.Name, s.Weight))
	}
	return b
}

// roleSays writes what a placement says, without its title.
func roleSays(p *pack.Placement) string {
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
func (now *basis) since(was *basis, rulesName string) []string {
	out := []string{}
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	switch {
	case now.Builder != was.Builder:
		say("The site has another builder: %s.", rulesName)
	case now.RulesVersion != was.RulesVersion:
		say("The rules of its builder are in version %d; it was made by version %d.", now.RulesVersion, was.RulesVersion)
	}
	if now.Prefix != was.Prefix {
		say("The files are to be at “%s”; it was “%s”.", now.Prefix, was.Prefix)
	}
	if now.OldBrowsers != was.OldBrowsers {
		say("Containers for old browsers are %s now.", map[bool]string{true: "sent", false: "left out"}[now.OldBrowsers])
	}
	for _, f := range now.Faces {
		at := slices.IndexFunc(was.Faces, func(o basisFace) bool { return o.Face == f.Face && o.Recipe == f.Recipe })
		if at < 0 {
			at = slices.IndexFunc(was.Faces, func(o basisFace) bool { return o.Face == f.Face })
		}
		if at < 0 {
			say("%s is sent as well.", f.Name)
			continue
		}
		o := was.Faces[at]
		switch {
		case f.Source != o.Source && f.Version != o.Version:
			say("%s has a newer file: %s, it was %s.", f.Name, f.Version, o.Version)
		case f.Source != o.Source:
			say("%s has another file.", f.Name)
		}
		if f.Recipe != o.Recipe {
			say("%s is %s now; it was %s.", f.Name, orAsItCame(f.Recipe), orAsItCame(o.Recipe))
		}
		if f.Containers != o.Containers && now.RulesVersion == was.RulesVersion && now.OldBrowsers == was.OldBrowsers && now.Builder == was.Builder {
			say("%s goes as %s now; it was %s.", f.Name, f.Containers, o.Containers)
		}
	}
	for _, o := range was.Faces {
		if !slices.ContainsFunc(now.Faces, func(f basisFace) bool { return f.Face == o.Face }) {
			say("%s is not sent any more; take it down.", o.Name)
		}
	}
	for _, r := range now.Roles {
		at := slices.IndexFunc(was.Roles, func(o basisRole) bool { return o.Title == r.Title })
		switch {
		case at < 0:
			say("%s is set now: %s.", r.Title, r.Says)
		case was.Roles[at].Says != r.Says:
			say("%s is %s now; it was %s.", r.Title, r.Says, was.Roles[at].Says)
		}
	}
	for _, o := range was.Roles {
		if !slices.ContainsFunc(now.Roles, func(r basisRole) bool { return r.Title == o.Title }) {
			say("%s is not set any more.", o.Title)
		}
	}
	for _, s := range now.StandIns {
		if !slices.Contains(was.StandIns, s) {
			say("It swaps %s now.", s)
		}
	}
	for _, s := range was.StandIns {
		if !slices.Contains(now.StandIns, s) {
			say("It swaps %s no more.", s)
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

// outdated gives the last pack of each environment that is not what would be built
// now, and how it differs.
func (c *Catalog) outdated(ctx context.Context, d *delivered) ([]api.OutdatedPack, error) {
	packs, err := c.store.LatestPacks(ctx, []int64{d.ID})
	if err != nil {
		return nil, err
	}
	out := []api.OutdatedPack{}
	for _, p := range packs {
		changes, err := d.leftBehind(&p)
		if err != nil {
			return nil, err
		}
		if len(changes) > 0 {
			out = append(out, api.OutdatedPack{Pack: p.ID, Environment: p.Environment, BuiltAt: p.CreatedAt, Changes: changes})
		}
	}
	return out, nil
}

// leftBehind says how a pack differs from what would be built now; nothing for one
// that says not what it was made of, as older versions built them.
func (d *delivered) leftBehind(p *store.Pack) ([]string, error) {
	if p.Basis == "" {
		return nil, nil
	}
	if p.Environment != "" && !slices.ContainsFunc(d.Environments, func(e store.Environment) bool { return e.Name == p.Environment }) {
		return nil, nil // the site has it no more
	}
	var was basis
	if err := json.Unmarshal([]byte(p.Basis), &was); err != nil {
		return nil, fmt.Errorf("read what pack %d was made of: %w", p.ID, err)
	}
	return d.basis(p.Environment).since(&was, d.rules.Name), nil
}
