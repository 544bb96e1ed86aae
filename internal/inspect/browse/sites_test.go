package browse

import (
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/fakes/sites"
)

// chosen returns the pages that are inspected on every run: each fault once where it is
// planted, and a part of those without faults. All of them are with SPARECRATE_ALL_PAGES.
func chosen() []sites.Site {
	faultless, faulty := sites.Faultless(), sites.Faulty()
	if os.Getenv("SPARECRATE_ALL_PAGES") != "" {
		return append(faultless, faulty...)
	}
	out := []sites.Site{}
	for i, one := range faultless {
		if i%3 == 0 {
			out = append(out, one)
		}
	}
	// Pages with several faults first: a fault that one of them has need not be looked for alone.
	slices.SortStableFunc(faulty, func(a, b sites.Site) int { return len(b.Planted) - len(a.Planted) })
	seen := map[string]bool{}
	for _, one := range faulty {
		fresh := false
		for _, code := range one.Planted {
			fresh = fresh || !seen[code]
			seen[code] = true
		}
		if fresh {
			out = append(out, one)
		}
	}
	return out
}

// TestPublishedPages inspects pages with planted faults, of which none may be overlooked,
// and pages without, on which none may be found.
func TestPublishedPages(t *testing.T) {
	all := chosen()
	servers := sites.Start(all)
	t.Cleanup(servers.Close)
	b, err := Start(t.Context(), Options{Private: true, Elsewhere: servers.Elsewhere(), Anyone: true})
	require.NoError(t, err)
	t.Cleanup(b.Close)
	for _, one := range all {
		t.Run(one.Name, func(t *testing.T) {
			// Pages that take the machine for themselves have it.
			if len(one.Planted) == 0 || !strings.HasPrefix(one.Planted[0], "page-") {
				t.Parallel()
			}
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
		})
	}
}
