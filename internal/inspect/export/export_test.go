package export

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"sparecrate/internal/inspect"
)

// TestAFindingIsTheWorst orders findings and severities.
func TestAFindingIsTheWorst(t *testing.T) {
	pages := []*inspect.Page{{Findings: []inspect.Finding{{Severity: inspect.Note}}}, {Findings: []inspect.Finding{{Severity: inspect.Warning}, {Severity: inspect.Note}}}}
	assert.Equal(t, inspect.Warning, Worst(pages))
	assert.Empty(t, Worst(nil))
	assert.True(t, AtLeast(inspect.Warning, inspect.Note))
	assert.True(t, AtLeast(inspect.Warning, inspect.Warning))
	assert.False(t, AtLeast(inspect.Warning, inspect.Error))
	assert.False(t, AtLeast("", inspect.Note))
}
