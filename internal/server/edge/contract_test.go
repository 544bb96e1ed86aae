package edge

import (
	"testing"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/app"
)

// TestEveryCallHasARoleAndALimit holds the table of roles and that of uploads against
// the contract, both ways.
func TestEveryCallHasARoleAndALimit(t *testing.T) {
	doc, err := openapi3.NewLoader().LoadFromData(api.Contract)
	require.NoError(t, err)
	uploads := UploadLimits(app.DefaultLimits)
	known := map[string]bool{}
	for path, item := range doc.Paths.Map() {
		for method, op := range item.Operations() {
			known[op.OperationID] = true
			assert.Contains(t, leastRole, op.OperationID, "%s %s has no least role", method, path)
			upload := op.RequestBody != nil && op.RequestBody.Value.Content.Get("multipart/form-data") != nil
			_, limited := uploads[op.OperationID]
			assert.Equal(t, upload, limited, "%s %s: uploads and only those have a limit of their own", method, path)
			if op.RequestBody != nil {
				for kind := range op.RequestBody.Value.Content {
					assert.Contains(t, []string{"application/json", "multipart/form-data"}, kind)
				}
			}
		}
	}
	for name := range leastRole {
		assert.True(t, known[name], "%s is no call of the contract", name)
	}
}

// TestReasonsAreSentences checks bodies that do not fit, and reads what is said of them.
func TestReasonsAreSentences(t *testing.T) {
	k := OpenContract()
	body := func(path, method string) *openapi3.Schema { return k.operations[method+" "+Base+path].body }
	for _, c := range []struct {
		schema *openapi3.Schema
		value  any
		field  string
		says   string
	}{
		{body("/clients", "POST"), map[string]any{}, "name", "is missing"},
		{body("/clients", "POST"), map[string]any{"name": 7.0}, "name", "must be a text"},
		{body("/clients", "POST"), map[string]any{"name": nil}, "name", "must not be null; remove it instead"},
		{body("/clients", "POST"), map[string]any{"name": "x", "label": "y"}, "label", "is not known here; check its spelling"},
		{body("/people", "POST"), map[string]any{"name": "x", "email": "y", "role": "boss"}, "role", `is "boss"; choose guest, viewer, editor or admin`},
		{body("/tokens", "POST"), map[string]any{"name": "x", "days": 0.0}, "days", "must be from 1 to 365"},
		{body("/tokens", "POST"), map[string]any{"name": "x", "days": 1.5}, "days", "must be a whole number"},
		{body("/sites/:id/views", "PUT"), map[string]any{"items": []any{map[string]any{"month": "2026-10"}}}, "items.0.views", "is missing"},
		{body("/licenses", "POST"), map[string]any{"kind": "bought", "grantedTo": 1.0, "uses": "web", "families": []any{1.0}}, "uses", "must be a list"},
		{body("/licenses", "POST"), []any{}, "", "must be an object"},
	} {
		err := c.schema.VisitJSON(c.value, openapi3.VisitAsRequest())
		require.Error(t, err, "%v", c.value)
		assert.Equal(t, c.field, fieldOf(err), "%v", c.value)
		assert.Equal(t, c.says, reasonOf(err), "%v", c.value)
	}
}
