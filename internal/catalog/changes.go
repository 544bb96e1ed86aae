package catalog

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

// licenseName is how people know a license.
func licenseName(l store.License) string {
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

// changesOf are the changes a recipe makes, as licenses speak of them.
func changesOf(r *reshape.Recipe) []license.Change {
	if r.Empty() {
		return nil
	}
	return app.Each(r.Changes(), func(c string) license.Change { return license.Change(c) })
}

// judgeChanges weighs changes to a family for its client.
func (c *Catalog) judgeChanges(ctx context.Context, f *store.Family, changes []license.Change) (license.Verdict, error) {
	s, err := c.weigh(ctx, []int64{f.ID})
	if err != nil {
		return license.Verdict{}, err
	}
	return license.JudgeChanges(s.question(asked{family: f, client: f.Client.Name, changes: changes})), nil
}

func reasonViews(reasons []license.Reason) []api.Reason {
	return app.Each(reasons, func(r license.Reason) api.Reason {
		v := api.Reason{State: api.VerdictState(r.State), Code: r.Code, Message: r.Message, Evidence: r.Evidence}
		if r.License != 0 {
			v.License = &r.License
		}
		return v
	})
}

// recipeOf reads a recipe as it is kept with a site.
func recipeOf(text string) (*reshape.Recipe, error) {
	if text == "" {
		return nil, nil //nolint:nilnil // no recipe is no error
	}
	var r reshape.Recipe
	if err := json.Unmarshal([]byte(text), &r); err != nil {
		return nil, fmt.Errorf("read the recipe of a family on a site: %w", err)
	}
	return &r, nil
}
