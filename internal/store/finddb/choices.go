package finddb

import (
	"context"

	"sparecrate/internal/store"
)

// Choice is a value of a filter, and how many families it finds.
type Choice struct {
	Value    string
	Families int
}

// filter is a filter whose values are counted: how it is taken off a query, and the
// expression whose values are counted, of the family f or its face c.
type filter struct {
	name string
	off  func(q *Query)
	by   string
	face bool // the expression is of the face c
	join string
}

// counted are the filters whose values are counted.
var counted = []filter{
	{"kind", func(q *Query) { q.Face.Kinds = nil }, "c.kind", true, ""},
	{"permission", func(q *Query) { q.Face.Permissions = nil }, "c.permission", true, ""},
	{"slope", func(q *Query) { q.Face.Slopes = nil }, "c.slope", true, ""},
	{"format", func(q *Query) { q.Face.Formats = nil }, "c.format", true, ""},
	{"variable", func(q *Query) { q.Face.Variable = nil }, "IF(c.variable, 'true', 'false')", true, ""},
	{"color", func(q *Query) { q.Face.Color = nil }, "IF(c.color, 'true', 'false')", true, ""},
	{"origin", func(q *Query) { q.Origins = nil }, "f.origin", false, ""},
	{"client", func(q *Query) { q.Clients = nil }, "k.name", false, "JOIN clients k ON k.id = f.client_id"},
	{"tag", func(q *Query) { q.Tags = nil }, "t.tag", false, "JOIN family_tags t ON t.family_id = f.id"},
	{"used", func(q *Query) { q.Used = nil }, "IF(EXISTS (SELECT 1 FROM site_families u WHERE u.family_id = f.id), 'true', 'false')", false, ""},
	{"status", func(q *Query) { q.Status = store.AnyStatus }, "f.status", false, ""},
}

// mostChoices bounds the values that are counted of one filter.
const mostChoices = 200

// Choices counts, for each filter, how many families each of its values would find beside
// the other filters of a query.
func (s Queries) Choices(ctx context.Context, q *Query) (map[string][]Choice, error) {
	if err := s.resolve(ctx, &q.Face); err != nil {
		return nil, err
	}
	out := map[string][]Choice{}
	for _, f := range counted {
		one := *q
		f.off(&one)
		found, err := s.choices(ctx, &one, f)
		if err != nil {
			return nil, err
		}
		out[f.name] = found
	}
	states, err := s.licenseChoices(ctx, q)
	out["license"] = states
	return out, err
}

func (s Queries) choices(ctx context.Context, q *Query, f filter) ([]Choice, error) {
	w := q.familyConditions()
	from := "families f " + f.join
	face := q.Face.conditions()
	if f.face {
		from += " JOIN faces c ON c.family_id = f.id"
		face.and("c.file_id <> 0")
		w.and(face.String(), face.values...)
	} else if len(face.all) > 0 {
		w.and(someFace(face, false), face.values...)
	}
	var found []Choice
	err := s.On(ctx).Raw("SELECT "+f.by+" AS value, COUNT(DISTINCT f.id) AS families FROM "+from+" WHERE "+w.String()+
		" GROUP BY 1 HAVING value <> '' ORDER BY 2 DESC, 1 LIMIT ?", append(w.values, mostChoices)...).Scan(&found).Error
	return found, store.Told(err)
}

// licenseChoices counts the states of licenses, of which a family may have several.
func (s Queries) licenseChoices(ctx context.Context, q *Query) ([]Choice, error) {
	var out []Choice
	for _, state := range []store.LicenseState{Unlicensed, InForce, Ending, Lapsed, Unproven} {
		one := *q
		one.Licenses = []store.LicenseState{state}
		n, err := s.Count(ctx, &one)
		if err != nil {
			return nil, err
		}
		if n > 0 {
			out = append(out, Choice{Value: string(state), Families: n})
		}
	}
	return out, nil
}
