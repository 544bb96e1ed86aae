package catalogsearch

import (
	"context"
	"errors"
	"net/url"
	"reflect"
	"strings"

	"github.com/oapi-codegen/runtime"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/finddb"
)

// Searches returns a person's saved searches and those others share.
func (c *Finding) Searches(ctx context.Context, p *store.Person) ([]api.SavedSearch, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	all, err := finddb.In(c.store).Searches(ctx, p.ID)
	return app.Each(all, func(s store.SavedSearch) api.SavedSearch { return searchView(&s, p) }), err
}

func searchView(s *store.SavedSearch, p *store.Person) api.SavedSearch {
	return api.SavedSearch{Id: s.ID, Name: s.Name, Query: s.Query, Shared: s.Shared, Person: s.Person.Name, Own: s.PersonID == p.ID}
}

// SaveSearch keeps a search under a name.
func (c *Finding) SaveSearch(ctx context.Context, p *store.Person, n api.NewSavedSearch) (*api.SavedSearch, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	name, err := app.RequiredText("name", n.Name)
	if err != nil {
		return nil, err
	}
	values, err := url.ParseQuery(strings.TrimPrefix(n.Query, "?"))
	if err != nil || len(n.Query) > 4000 {
		return nil, app.InvalidField("query", "bad-query", "The query is not one of the catalog's; it looks like q=sans&language=pl.")
	}
	s := store.SavedSearch{PersonID: p.ID, Name: name, Query: values.Encode(), Shared: n.Shared != nil && *n.Shared, CreatedAt: c.now()}
	if s.Query == "" {
		return nil, app.InvalidField("query", "empty-query", "There is nothing to save. Search for something first.")
	}
	if err := c.canBeMade(ctx, values); err != nil {
		return nil, err
	}
	err = finddb.In(c.store).SaveSearch(ctx, &s)
	if errors.Is(err, store.ErrTaken) {
		return nil, app.InvalidField("name", "name-taken", "You already have a search named %q. Delete it or choose another name.", name)
	}
	if err != nil {
		return nil, err
	}
	s.Person = *p
	v := searchView(&s, p)
	return &v, nil
}

// canBeMade says what is wrong with a search before it is kept.
func (c *Finding) canBeMade(ctx context.Context, values url.Values) error {
	var asked api.ListFamiliesParams
	fields := reflect.ValueOf(&asked).Elem()
	for i := range fields.NumField() {
		name, _, _ := strings.Cut(fields.Type().Field(i).Tag.Get("form"), ",")
		kind := "string"
		if fields.Field(i).Type().Elem().Kind() == reflect.Slice {
			kind = "array"
		}
		if err := runtime.BindQueryParameterWithOptions("form", true, false, name, values, fields.Field(i).Addr().Interface(), runtime.BindQueryParameterOptions{Type: kind}); err != nil {
			return app.InvalidField("query", "bad-query", "%q is not a value for %s.", values.Get(name), name)
		}
	}
	_, _, err := c.query(ctx, &asked)
	if wrong, ok := errors.AsType[*app.Error](err); ok {
		return app.InvalidField("query", wrong.Code, "%s", wrong.Message)
	}
	return err
}

// DeleteSearch ends one of a person's own saved searches.
func (c *Finding) DeleteSearch(ctx context.Context, p *store.Person, id int64) error {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return err
	}
	return app.Explain(finddb.In(c.store).DeleteSearch(ctx, p.ID, id), "search of yours")
}
