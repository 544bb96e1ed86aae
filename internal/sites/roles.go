package sites

import (
	"context"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/font/metadata"
	"sparecrate/internal/app"
	"sparecrate/internal/builder"
	"sparecrate/internal/library"
	"sparecrate/internal/pack"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/usage"
)

func environmentView(e store.Environment) api.SiteEnvironment {
	v := api.SiteEnvironment{Name: e.Name}
	if e.Prefix != "" {
		v.Prefix = &e.Prefix
	}
	return v
}

// environmentsOf reads environments as people write them.
func environmentsOf(given []api.SiteEnvironment) ([]store.Environment, error) {
	out := []store.Environment{}
	for _, e := range given {
		one := store.Environment{Name: strings.TrimSpace(e.Name)}
		if one.Name == "" {
			return nil, app.InvalidField("environments", "missing-value", "An environment needs a name, like staging.")
		}
		if len([]rune(one.Name)) > 60 {
			return nil, app.InvalidField("environments", "too-long", "The name of an environment has at most 60 letters.")
		}
		if e.Prefix != nil {
			if one.Prefix = strings.TrimSpace(*e.Prefix); strings.ContainsAny(one.Prefix, " \"'()<>\\\n") || len(one.Prefix) > 300 {
				return nil, app.InvalidField("environments", "bad-prefix", "“%s” is no path; write it like /assets/fonts/ or https://cdn.example/fonts/.", one.Prefix)
			}
		}
		if slices.ContainsFunc(out, func(o store.Environment) bool { return strings.EqualFold(o.Name, one.Name) }) {
			return nil, app.InvalidField("environments", "twice", "The environment %q is there twice.", one.Name)
		}
		out = append(out, one)
	}
	return out, nil
}

func choicesView(c store.Choices) api.PackChoices {
	v := api.PackChoices{}
	if len(c.Include) > 0 {
		v.Include = &c.Include
	}
	if len(c.Exclude) > 0 {
		v.Exclude = &c.Exclude
	}
	if c.LegacyFormats {
		v.LegacyFormats = &c.LegacyFormats
	}
	if c.Load != "" {
		call := api.PackChoicesLoad(c.Load)
		v.Load = &call
	}
	if len(c.Weights) > 0 {
		v.Weights = &c.Weights
	}
	if c.Source != "" {
		supply := api.PackChoicesSource(c.Source)
		v.Source = &supply
	}
	if len(c.Pinned) > 0 {
		stay := app.Each(c.Pinned, func(s store.PinnedFile) api.PinnedFile { return api.PinnedFile{Face: s.Face, File: s.File} })
		v.Pinned = &stay
	}
	return v
}

func slopeView(s string) api.FaceSlope {
	if s == string(metadata.Upright) || s == "" {
		return api.StyleNormal
	}
	return api.FaceSlope(s)
}

func slopeOf(s api.FaceSlope) string {
	if s == api.StyleNormal || s == "" {
		return string(metadata.Upright)
	}
	return string(s)
}

func replacementView(s store.Replacement) api.Replacement {
	return api.Replacement{Name: s.Name, Family: s.FamilyID, Weight: s.Weight, Slope: slopeView(s.Slope)}
}

// roleViews returns the roleAssignments of a site with the face of each.
func roleViews(d *usage.Site) []api.AssignedRole {
	out := []api.AssignedRole{}
	for _, p := range d.RoleAssignments {
		at := slices.IndexFunc(d.Uses, func(u usage.SiteFamily) bool { return u.Family.ID == p.FamilyID })
		if at < 0 {
			continue
		}
		u := &d.Uses[at]
		one := usage.RoleAssignmentOf(p, u.Family.Name)
		v := api.AssignedRole{Title: one.Title(), Family: api.Ref{Id: u.Family.ID, Name: u.Family.Name}, Selector: p.Selector,
			Assignment: api.RoleAssignment{Role: p.Role, Family: p.FamilyID, Weight: p.Weight, Slope: slopeView(p.Slope), Fallbacks: append([]string{}, p.Stack...), Override: p.Override}}
		if p.Name != "" {
			v.Assignment.Name = &p.Name
		}
		if p.Selector != "" {
			v.Assignment.Selector = &p.Selector
		} else {
			v.Selector = d.Rules.Selector(one.Role)
		}
		var faces []*metadata.Face
		var of []*store.Face
		for i := range u.Family.Faces {
			if cur := u.Family.Faces[i].Current(); cur != nil {
				faces, of = append(faces, &cur.Metadata), append(of, &u.Family.Faces[i])
			}
		}
		k := slices.IndexFunc(of, func(f *store.Face) bool { return f.ID == p.FaceID })
		if k < 0 {
			k = pack.Match(faces, p.Weight, metadata.Slope(p.Slope))
		}
		if p.FaceID != 0 {
			v.Assignment.Face = &p.FaceID
		}
		if k >= 0 {
			cur := of[k].Current()
			v.Face, v.File, v.Place = of[k].Style, &cur.FileID, &cur.Place
		} else if _, there := usage.Elsewhere(u.Family.Name, u.Sheets); len(there) > 0 {
			if k := pack.Match(app.Each(there, func(f pack.Face) *metadata.Face { return &f.Metadata }), p.Weight, metadata.Slope(p.Slope)); k >= 0 {
				v.Face = there[k].Style
			}
		}
		out = append(out, v)
	}
	slices.SortStableFunc(out, func(a, b api.AssignedRole) int {
		return builder.Role(b.Assignment.Role).Reading() - builder.Role(a.Assignment.Role).Reading()
	})
	return out
}

var roleName = regexp.MustCompile(`^[a-z0-9]+(-[a-z0-9]+)*$`)

// AssignRoles says which family does which role on a site, and which names are
// swapped, in place of what was said before.
func (dir *Directory) AssignRoles(ctx context.Context, p *store.Person, site int64, ifMatch string, in api.RoleAssignments) (*api.Site, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	version, err := app.ReadETag(ifMatch)
	if err != nil {
		return nil, err
	}
	assignments, err := roleAssignmentsIn(in.Assignments)
	if err != nil {
		return nil, err
	}
	replacements, err := replacementsIn(in.Replacements)
	if err != nil {
		return nil, err
	}
	var families []int64
	for _, one := range assignments {
		families = append(families, one.FamilyID)
	}
	for _, one := range replacements {
		families = append(families, one.FamilyID)
	}
	slices.Sort(families)
	families = slices.Compact(families)
	if err := dir.nameFaces(ctx, assignments); err != nil {
		return nil, err
	}
	err = dir.store.Tx(ctx, func(tx *store.Store) error {
		s, err := sitedb.In(tx).Site(ctx, site)
		if err != nil {
			return app.Explain(err, "site")
		}
		if s.ParentID != nil {
			return notOfOutlet(s)
		}
		if err := app.Open(&s.Client); err != nil {
			return err
		}
		for _, id := range families {
			if slices.ContainsFunc(s.Families, func(f store.Family) bool { return f.ID == id }) {
				continue
			}
			f, err := familydb.In(tx).Family(ctx, id)
			if err != nil {
				return app.Explain(err, "family")
			}
			if err := library.Usable(ctx, tx, f); err != nil {
				return err
			}
			if _, err := sitedb.In(tx).AddSiteFamily(ctx, site, id, ""); err != nil {
				return err
			}
		}
		if err := sitedb.In(tx).AssignRoles(ctx, site, version, slices.Clone(assignments), slices.Clone(replacements)); err != nil {
			return app.Explain(err, "site")
		}
		if err := sitedb.In(tx).Follow(ctx, site); err != nil {
			return err
		}
		return dir.note(ctx, tx, p, "assigned roles", s.Name, app.Shorten(saidOf(in), 2000))
	})
	if err != nil {
		return nil, err
	}
	return dir.Site(ctx, p, site)
}

// nameFaces gives roleAssignments that name a face its weight and style; of a variable
// one its style alone.
func (dir *Directory) nameFaces(ctx context.Context, assignments []store.RoleAssignment) error {
	for i := range assignments {
		p := &assignments[i]
		if p.FaceID == 0 {
			continue
		}
		f, err := familydb.In(dir.store).Family(ctx, p.FamilyID)
		if err != nil {
			return app.Explain(err, "family")
		}
		at := slices.IndexFunc(f.Faces, func(face store.Face) bool { return face.ID == p.FaceID })
		if at < 0 {
			return app.InvalidField(fmt.Sprintf("assignments.%d.face", i), "unknown-face", "%s has no face with the number %d.", f.Name, p.FaceID)
		}
		face := &f.Faces[at]
		p.Slope = face.Slope
		if cur := face.Current(); cur == nil || len(cur.Metadata.Axes) == 0 {
			p.Weight = face.Weight
		}
	}
	return nil
}

func saidOf(in api.RoleAssignments) string {
	out := app.Each(in.Assignments, func(p api.RoleAssignment) string { return p.Role })
	for _, s := range in.Replacements {
		out = append(out, "replacement "+s.Name)
	}
	if len(out) == 0 {
		return "none"
	}
	return strings.Join(out, ", ")
}

// roleAssignmentsIn reads roleAssignments as they were sent.
func roleAssignmentsIn(given []api.RoleAssignment) ([]store.RoleAssignment, error) {
	out := make([]store.RoleAssignment, 0, len(given))
	for i, p := range given {
		field := func(name string) string { return fmt.Sprintf("assignments.%d.%s", i, name) }
		one := store.RoleAssignment{FamilyID: p.Family, Role: strings.TrimSpace(p.Role), Weight: p.Weight, Slope: slopeOf(p.Slope), Stack: []string{}, Override: p.Override}
		if p.Name != nil {
			one.Name = strings.TrimSpace(*p.Name)
		}
		if p.Selector != nil {
			one.Selector = strings.TrimSpace(*p.Selector)
		}
		if p.Face != nil {
			one.FaceID = *p.Face
		}
		if !roleName.MatchString(one.Role) || len(one.Role) > 60 {
			return nil, app.InvalidField(field("role"), "bad-role", "A role's name has small letters, digits and hyphens, like timetable-cells; %q is none.", p.Role)
		}
		known, ok := builder.Role(one.Role).Known()
		if !ok && one.Name == "" {
			one.Name = strings.ToUpper(one.Role[:1]) + strings.ReplaceAll(one.Role[1:], "-", " ")
		}
		if ok {
			one.Name = ""
		}
		if len([]rune(one.Name)) > 100 {
			return nil, app.InvalidField(field("name"), "too-long", "The name of a role has at most 100 letters.")
		}
		if one.Selector != "" || !ok {
			if err := builder.CheckSelector(one.Selector); err != nil {
				return nil, app.InvalidField(field("selector"), "bad-selector", "%s", sentence.Of(err))
			}
		}
		if err := checkFace(field, p.Weight, p.Slope); err != nil {
			return nil, err
		}
		for _, name := range p.Fallbacks {
			name = strings.TrimSpace(strings.Trim(strings.TrimSpace(name), `"'`))
			if name == "" {
				continue
			}
			if strings.ContainsAny(name, ",;{}\n") || len([]rune(name)) > 100 {
				return nil, app.InvalidField(field("fallbacks"), "bad-fallback", "“%s” is no name of a font; give one name each.", name)
			}
			if generic := strings.ToLower(name); slices.Contains(pack.Generics, generic) {
				name = generic
			}
			one.Stack = append(one.Stack, name)
		}
		if at := slices.IndexFunc(one.Stack, func(n string) bool { return slices.Contains(pack.Generics, n) }); at >= 0 && at < len(one.Stack)-1 {
			return nil, app.InvalidField(field("fallbacks"), "generic-first", "Fonts after %s are never used, because it is always available. Put it last.", one.Stack[at])
		}
		if slices.ContainsFunc(out, func(o store.RoleAssignment) bool { return o.Role == one.Role }) {
			if ok {
				return nil, app.InvalidField(field("role"), "role-twice", "%s is set twice; one family does a role.", known.Name)
			}
			return nil, app.InvalidField(field("role"), "role-twice", "The role %q is set twice; one family does a role.", one.Role)
		}
		out = append(out, one)
	}
	return out, nil
}

func checkFace(field func(string) string, weight int, slope api.FaceSlope) error {
	if weight < 1 || weight > 1000 {
		return app.InvalidField(field("weight"), "bad-weight", "A weight is a number from 1 to 1000; regular is 400, bold is 700.")
	}
	if slope != "" && !slope.Valid() {
		return app.InvalidField(field("slope"), "bad-slope", "The style is normal, italic or oblique, not %q.", slope)
	}
	return nil
}

const maxReplaced = 200 // names and styles on a site

// replacementsIn reads stand-ins as they were sent.
func replacementsIn(given []api.Replacement) ([]store.Replacement, error) {
	out := make([]store.Replacement, 0, len(given))
	for i, s := range given {
		field := func(name string) string { return fmt.Sprintf("replacements.%d.%s", i, name) }
		one := store.Replacement{FamilyID: s.Family, Name: strings.TrimSpace(strings.Trim(strings.TrimSpace(s.Name), `"'“”‘’`)), Weight: s.Weight, Slope: slopeOf(s.Slope)}
		if one.Name == "" {
			return nil, app.InvalidField(field("name"), "missing-value", "Say which name the design has.")
		}
		if len([]rune(one.Name)) > 200 {
			return nil, app.InvalidField(field("name"), "too-long", "The name of a font has at most 200 letters.")
		}
		if slices.Contains(pack.Generics, strings.ToLower(one.Name)) {
			return nil, app.InvalidField(field("name"), "generic-name", "%s is a generic family, not a font, and cannot be replaced.", one.Name)
		}
		if err := checkFace(field, s.Weight, s.Slope); err != nil {
			return nil, err
		}
		for _, o := range out {
			switch {
			case !strings.EqualFold(o.Name, one.Name):
			case o.FamilyID != one.FamilyID:
				return nil, app.InvalidField(field("name"), "twice", "The name %s is replaced twice; only one replacement is possible.", one.Name)
			case o.Weight == one.Weight && o.Slope == one.Slope:
				return nil, app.InvalidField(field("weight"), "twice", "The name %s has the weight %d twice; each weight and style stands once.", one.Name, one.Weight)
			}
		}
		if len(out) >= maxReplaced {
			return nil, app.InvalidField(field("name"), "too-many", "At most %d names and styles are replaced on a site.", maxReplaced)
		}
		out = append(out, one)
	}
	return out, nil
}

// SetChoices decides about the packs of a site.
func (dir *Directory) SetChoices(ctx context.Context, p *store.Person, site int64, ifMatch string, in api.PackChoices) (*api.Site, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	version, err := app.ReadETag(ifMatch)
	if err != nil {
		return nil, err
	}
	choices := store.Choices{LegacyFormats: in.LegacyFormats != nil && *in.LegacyFormats}
	if in.Include != nil {
		choices.Include = *in.Include
	}
	if in.Exclude != nil {
		choices.Exclude = *in.Exclude
	}
	if in.Load != nil {
		if choices.Load = string(*in.Load); !in.Load.Valid() {
			return nil, app.InvalidField("load", "bad-load", "%q is not a way to load a stylesheet. Choose link, import or url.", choices.Load)
		}
	}
	if in.Weights != nil {
		for _, w := range *in.Weights {
			if w < 1 || w > 1000 {
				return nil, app.InvalidField("weights", "bad-weight", "A weight is a number from 1 to 1000, not %d.", w)
			}
		}
		choices.Weights = *in.Weights
	}
	if in.Source != nil {
		if choices.Source = string(*in.Source); !in.Source.Valid() {
			return nil, app.InvalidField("source", "bad-supply", "%q is no choice between files; say supplied, made or smaller.", choices.Source)
		}
	}
	if in.Pinned != nil {
		choices.Pinned = app.Each(*in.Pinned, func(s api.PinnedFile) store.PinnedFile { return store.PinnedFile{Face: s.Face, File: s.File} })
	}
	for _, id := range choices.Include {
		if slices.Contains(choices.Exclude, id) {
			return nil, app.InvalidField("exclude", "both", "Face %d cannot be included and excluded at the same time.", id)
		}
	}
	s, err := sitedb.In(dir.store).Site(ctx, site)
	if err != nil {
		return nil, app.Explain(err, "site")
	}
	if err := app.Open(&s.Client); err != nil {
		return nil, err
	}
	on := map[int64]bool{}
	files := map[store.PinnedFile]bool{}
	for _, f := range s.Families {
		family, err := familydb.In(dir.store).Family(ctx, f.ID)
		if err != nil {
			return nil, app.Explain(err, "family")
		}
		for _, face := range family.Faces {
			on[face.ID] = true
			for _, l := range face.Files {
				files[store.PinnedFile{Face: face.ID, File: l.FileID}] = true
			}
		}
	}
	for _, stay := range choices.Pinned {
		if !files[stay] {
			return nil, app.InvalidField("pin", "no-such-version", "The file %d holds no version of the face %d, or that is on no family of the site %s.", stay.File, stay.Face, s.Name)
		}
	}
	for _, id := range slices.Concat(choices.Include, choices.Exclude) {
		if !on[id] {
			return nil, app.InvalidField("include", "unknown-face", "No family on the site %s has a face with the number %d.", s.Name, id)
		}
	}
	err = dir.store.Tx(ctx, func(tx *store.Store) error {
		if err := sitedb.In(tx).SetChoices(ctx, site, version, choices); err != nil {
			return app.Explain(err, "site")
		}
		return dir.note(ctx, tx, p, "changed pack choices", s.Name, fmt.Sprintf("%d faces included, %d excluded, %d pinned to a file", len(choices.Include), len(choices.Exclude), len(choices.Pinned)))
	})
	if err != nil {
		return nil, err
	}
	return dir.Site(ctx, p, site)
}
