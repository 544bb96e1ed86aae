package browse

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/fakes/sites"
	"sparecrate/internal/inspect"
)

// TestPublishedPages inspects pages with planted faults, of which none may be overlooked,
// and pages without, on which none may be found.
func TestPublishedPages(t *testing.T) {
	all := append(sites.Faultless(), sites.Faulty()...)
	servers := sites.Start(all)
	t.Cleanup(servers.Close)
	b, err := Start(t.Context(), Options{Private: true, Elsewhere: servers.Elsewhere(), Anyone: true, Patience: 20 * time.Second})
	require.NoError(t, err)
	t.Cleanup(b.Close)
	for _, one := range all {
		t.Run(one.Name, func(t *testing.T) {
			t.Parallel()
			p, err := b.Inspect(t.Context(), servers.URL(one), Plan{})
			require.NoError(t, err)
			var found []string
			for _, f := range p.Findings {
				assert.NotEmpty(t, f.Message)
				assert.NotEmpty(t, f.Fix, f.Code)
				if !slices.Contains(found, f.Code) {
					found = append(found, f.Code)
				}
			}
			said := ""
			for _, f := range p.Findings {
				said += fmt.Sprintf("\n%s %s (%s) %s %s:%d", f.Severity, f.Code, f.Evidence, f.Message, f.URL, f.Line)
			}
			slices.Sort(found)
			planted := slices.Sorted(slices.Values(one.Planted))
			assert.Equal(t, planted, found, "%s", said)
			_ = inspect.Codes
		})
	}
}
