package usage

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"sparecrate/api"
	"sparecrate/font/reshape"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
)

// LicenseName is how people know a license.
func LicenseName(l store.License) string {
	parts := []string{"license"}
	if l.ID != 0 {
		parts[0] = fmt.Sprintf("license %d", l.ID)
	}
	if l.Licensor != "" {
		parts = append(parts, l.Licensor)
	}
	if l.Reference != "" {
		parts = append(parts, l.Reference)
	}
	return strings.Join(parts, ", ")
}

// ChangesOf are the changes a recipe makes, as licenses speak of them.
func ChangesOf(r *reshape.Recipe) []license.Change {
	if r.Empty() {
		return nil
	}
	return app.Each(r.Changes(), func(c string) license.Change { return license.Change(c) })
}

// JudgeChanges weighs changes to a family for its client.
func (c *Usage) JudgeChanges(ctx context.Context, f *store.Family, changes []license.Change) (license.Verdict, error) {
	s, err := c.Weigh(ctx, []int64{f.ID})
	if err != nil {
		return license.Verdict{}, err
	}
	return license.JudgeChanges(s.question(Question{Family: f, Client: f.Client.Name, Changes: changes})), nil
}

// ReasonViews shows the reasons of a verdict.
func ReasonViews(reasons []license.Reason) []api.Reason {
	return app.Each(reasons, func(r license.Reason) api.Reason {
		v := api.Reason{State: api.VerdictState(r.State), Code: r.Code, Message: r.Message, Evidence: r.Evidence}
		if r.License != 0 {
			v.License = &r.License
		}
		return v
	})
}

// RecipeOf reads a recipe as it is kept with a site.
func RecipeOf(text string) (*reshape.Recipe, error) {
	if text == "" {
		return nil, nil //nolint:nilnil // no recipe is no error
	}
	var r reshape.Recipe
	if err := json.Unmarshal([]byte(text), &r); err != nil {
		return nil, fmt.Errorf("read the recipe of a family on a site: %w", err)
	}
	return &r, nil
}
