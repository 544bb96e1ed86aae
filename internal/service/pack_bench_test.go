package service_test

import (
	"crypto/sha256"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/reshape"
)

// packFonts are twelve faces of a full character set, of Debian's packages.
func packFonts(b *testing.B) map[string][]byte {
	b.Helper()
	out := map[string][]byte{}
	for _, pattern := range []string{"/usr/share/fonts/truetype/dejavu/*.ttf", "/usr/share/fonts/truetype/liberation2/*.ttf"} {
		found, err := filepath.Glob(pattern)
		require.NoError(b, err)
		for _, path := range found {
			if len(out) < 12 {
				data, err := os.ReadFile(path)
				require.NoError(b, err)
				out[filepath.Base(path)] = data
			}
		}
	}
	require.Len(b, out, 12)
	return out
}

// packed is a studio with a site that carries twelve faces.
func packed(b *testing.B) (s *studio, site int64, families []int64, fonts map[string][]byte) {
	b.Helper()
	s = open(b)
	fonts = packFonts(b)
	had := map[int64]bool{}
	for name, data := range fonts {
		r := s.add(name, data)
		require.NotNil(b, r.JSON200, "%s", r.Body)
		if id := r.JSON200.Family.Id; !had[id] {
			had[id] = true
			families = append(families, id)
		}
	}
	l, err := s.admin.AddLicenseWithResponse(b.Context(), api.LicenseTerms{Kind: api.KindOpen, GrantedTo: 1, Uses: []api.Use{api.UseWeb}, Families: families,
		Changes: &api.LicensedChanges{Subset: ptr(api.ConsentYes), Outlines: ptr(api.ConsentYes), Name: ptr(api.ConsentYes)}})
	require.NoError(b, err)
	require.NotNil(b, l.JSON201, "%s", l.Body)
	s.document(l.JSON201.Id)
	site = s.site("Pages", 1, families...)
	for { // what is made ahead
		jobs, err := s.admin.ListJobsWithResponse(b.Context(), &api.ListJobsParams{})
		require.NoError(b, err)
		if jobs.JSON200.Running+jobs.JSON200.Waiting == 0 {
			return s, site, families, fonts
		}
		time.Sleep(100 * time.Millisecond)
	}
}

// BenchmarkMadePack compares building a pack of twelve faces whose parts are made,
// through the service, with copying the pack's bytes: read, hashed, written and
// forced to disk.
func BenchmarkMadePack(b *testing.B) {
	s, site, _, _ := packed(b)
	build := func() *api.Pack {
		r, err := s.admin.BuildPackWithResponse(b.Context(), site, nil)
		require.NoError(b, err)
		require.NotNil(b, r.JSON201, "%s", r.Body)
		return r.JSON201
	}
	p := build()
	content, err := s.admin.GetPackContentWithResponse(b.Context(), p.Id)
	require.NoError(b, err)
	source := filepath.Join(b.TempDir(), "pack")
	require.NoError(b, os.WriteFile(source, content.Body, 0o600))
	var ours, copying time.Duration
	for b.Loop() {
		start := time.Now()
		build()
		ours += time.Since(start)
		start = time.Now()
		from, err := os.Open(source)
		require.NoError(b, err)
		to, err := os.Create(filepath.Join(b.TempDir(), "copy"))
		require.NoError(b, err)
		_, err = io.Copy(io.MultiWriter(to, sha256.New()), from)
		require.NoError(b, err)
		require.NoError(b, to.Sync())
		require.NoError(b, to.Close())
		require.NoError(b, from.Close())
		copying += time.Since(start)
	}
	b.ReportMetric(float64(ours)/float64(copying), "ratio")
	b.ReportMetric(float64(len(content.Body))/1e6, "MB")
}

// BenchmarkFirstPack compares building a pack of twelve faces of which no part is
// made, through the service, with making its parts one after the other; "machine" is
// the same for its parts made on all cores and nothing else.
func BenchmarkFirstPack(b *testing.B) {
	s, site, families, fonts := packed(b)
	var ours, serial, machine time.Duration
	n := 0
	for b.Loop() {
		n++
		recipe := reshape.Recipe{Subset: &reshape.Subset{Keep: []string{"latin", "latin-ext"}, Text: fmt.Sprint(string(rune('Α'+n%20)), string(rune('а'+n/20)))}}
		for _, f := range families {
			r, err := s.admin.AddSiteFamilyWithResponse(b.Context(), site, f, api.FamilyOnSite{Recipe: &recipe})
			require.NoError(b, err)
			require.NotNil(b, r.JSON200, "%s", r.Body)
		}
		start := time.Now()
		r, err := s.admin.BuildPackWithResponse(b.Context(), site, nil)
		require.NoError(b, err)
		require.NotNil(b, r.JSON201, "%s", r.Body)
		ours += time.Since(start)
		parts := func(data []byte) error {
			opened, err := font.Open(data)
			if err != nil {
				return err
			}
			made, _, err := recipe.Apply(opened.Faces[0])
			for _, to := range []font.Container{font.WOFF2, font.WOFF} {
				if err == nil {
					_, err = font.Make(made, to)
				}
			}
			return err
		}
		start = time.Now()
		for _, data := range fonts {
			require.NoError(b, parts(data))
		}
		serial += time.Since(start)
		start = time.Now()
		var g errgroup.Group
		g.SetLimit(runtime.NumCPU())
		for _, data := range fonts {
			g.Go(func() error { return parts(data) })
		}
		require.NoError(b, g.Wait())
		machine += time.Since(start)
	}
	b.ReportMetric(float64(ours)/float64(serial), "ratio")
	b.ReportMetric(float64(machine)/float64(serial), "machine")
}
