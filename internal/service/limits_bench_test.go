package service_test

import (
	"fmt"
	"net/http"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/demo/foundry"
)

// BenchmarkNotThere asks, as somebody limited to one client, for what another client has and
// for what nobody has, in turns. The ratio of the medians tells whether the time of an answer
// says that something is there; one is what it should be.
func BenchmarkNotThere(b *testing.B) {
	s := open(b)
	ours := s.furnish("Amberly", foundry.Signage()[0])
	theirs := s.furnish("Birkfold", foundry.Poster())
	who := s.join(api.NewPerson{Name: "Freya Lund", Email: "freya@lanternjaw.example", Role: api.RoleEditor, Clients: &[]int64{ours.client}})
	for _, kind := range []string{"families", "faces", "files", "sites", "licenses", "packs", "shortlists", "imports", "clients"} {
		path := s.Address + "/api/v1/" + kind + "/"
		if status, _ := who.ask(b, "GET", path+fmt.Sprint(theirs.of[kind]), "", nil); status != http.StatusNotFound {
			continue // it is read by something below it only
		}
		b.Run(kind, func(b *testing.B) {
			var hidden, nothing []float64
			for b.Loop() {
				for _, one := range []struct {
					id   int64
					into *[]float64
				}{{theirs.of[kind], &hidden}, {99999, &nothing}} {
					start := time.Now()
					status, _ := who.ask(b, "GET", path+fmt.Sprint(one.id), "", nil)
					*one.into = append(*one.into, time.Since(start).Seconds())
					require.Equal(b, http.StatusNotFound, status)
				}
			}
			b.ReportMetric(median(hidden)/median(nothing), "hidden/nothing")
		})
	}
}

func median(of []float64) float64 {
	sorted := slices.Sorted(slices.Values(of))
	return sorted[len(sorted)/2]
}
