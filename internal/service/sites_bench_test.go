package service_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"sparecrate/api"
)

// BenchmarkSites asks for pages of a studio's sites, two hundred with five families
// each, every family judged, and reads the same rows with plain statements, in turn.
// To reach: 30; the metadata of every face are read, which plain rows do not have.
func BenchmarkSites(b *testing.B) {
	db, viewer := crateInUse(b, 3000)
	var ours, theirs []time.Duration
	sites := 0
	for b.Loop() {
		sites = 0
		start := time.Now()
		for cursor := (*string)(nil); ; {
			r, err := viewer.ListSitesWithResponse(b.Context(), &api.ListSitesParams{Cursor: cursor})
			require.NoError(b, err)
			require.NotNil(b, r.JSON200, string(r.Body))
			sites += len(r.JSON200.Items)
			if cursor = r.JSON200.Next; cursor == nil {
				break
			}
		}
		middle := time.Now()
		require.GreaterOrEqual(b, plainRows(b, db), 3000)
		theirs = append(theirs, time.Since(middle))
		ours = append(ours, middle.Sub(start))
	}
	require.GreaterOrEqual(b, sites, 200)
	slices.Sort(ours)
	slices.Sort(theirs)
	b.ReportMetric(float64(ours[len(ours)/2])/float64(theirs[len(theirs)/2]), "of-plain-SQL")
	b.ReportMetric(float64(ours[len(ours)/2])/1e6/float64(sites), "ms/site")
	b.ReportMetric(0, "ns/op")
}
