package pack_test

import (
	"fmt"
	"maps"
	"slices"
	"testing"

	"sparecrate/font/fonttest"
	"sparecrate/font/metadata"
	"sparecrate/internal/builder"
	"sparecrate/internal/pack"
)

// TestPacksAsApproved holds what packs for each kind of builder hold: of a family with
// and without roles, beside one served from elsewhere, and of many faces.
func TestPacksAsApproved(t *testing.T) {
	t.Parallel()
	var lines []string
	for _, r := range builder.Shipped() {
		plain := input(t, r.Kind)
		roles := input(t, r.Kind)
		roles.RoleAssignments = []pack.RoleAssignment{
			{Role: builder.Heading1, Family: roles.Families[0].Name, Weight: 700, Stack: []string{"Georgia", "serif"}},
			{Role: builder.Body, Family: roles.Families[0].Name, Weight: 400, Override: true},
			{Role: "timetable", Name: "Timetable */ cells", Selector: ".timetable td", Family: roles.Families[0].Name, Weight: 400, Slope: metadata.Italic},
		}
		beside := input(t, r.Kind)
		beside.Families = append(beside.Families, away())
		many := input(t, r.Kind)
		for i := range 9 {
			f := many.Families[0].Faces[0]
			f.ID, f.Style, f.Metadata.Style = int64(10+i), fmt.Sprint("Weight ", i), metadata.Style{Weight: 100 * (i + 1), WidthPercent: 75 + float64(i), Slope: metadata.Upright}
			many.Families[0].Faces = append(many.Families[0].Faces, f)
		}
		for name, in := range map[string]pack.Input{"plain": plain, "with roles": roles, "beside one from elsewhere": beside, "of many faces": many} {
			packed, err := pack.Assemble(in)
			if err != nil {
				lines = append(lines, fmt.Sprintf("%s, %s: %v", r.Kind, name, err))
				continue
			}
			files := map[string]string{}
			for _, e := range packed.Entries {
				data := read(t, e.Blob)
				files[e.Path] = fmt.Sprintf("%d %s %s", len(data), fonttest.Digest(data), e.Why)
			}
			for _, path := range slices.Sorted(maps.Keys(files)) {
				lines = append(lines, fmt.Sprintf("%s, %s: %s %s", r.Kind, name, path, files[path]))
			}
			lines = append(lines, fmt.Sprintf("%s, %s: %v", r.Kind, name, codes(pack.Warnings(in))))
		}
	}
	slices.Sort(lines)
	fonttest.Lines(t, "packs", lines...)
}

// TestFaceSelectionAsApproved asks which of several faces is taken for each weight.
func TestFaceSelectionAsApproved(t *testing.T) {
	t.Parallel()
	var lines []string
	for _, weights := range [][]int{{400}, {400, 700}, {100, 300, 500, 900}, {350, 450, 600, 800}, {500, 400}} {
		var faces []*metadata.Face
		for i, w := range weights {
			slope := metadata.Upright
			if i%2 == 1 {
				slope = metadata.Italic
			}
			faces = append(faces, &metadata.Face{Style: metadata.Style{Weight: w, WidthPercent: 100}}, &metadata.Face{Style: metadata.Style{Weight: w, WidthPercent: 100, Slope: slope}})
		}
		line := fmt.Sprint(weights, ":")
		for w := 50; w <= 1000; w += 50 {
			line += fmt.Sprint(" ", pack.Match(faces, w, metadata.Upright), "/", pack.Match(faces, w, metadata.Italic))
		}
		lines = append(lines, line)
	}
	for _, n := range []int64{0, 1, 999, 100_000, 5_000_000} {
		lines = append(lines, fmt.Sprintf("%d bytes take %.3f s", n, pack.SlowSeconds(n)))
	}
	for _, name := range []string{"Fähre & Co.", "", "../x", "Timetables"} {
		lines = append(lines, pack.FileName(name, "staging"), pack.FileName(name, ""))
	}
	fonttest.Lines(t, "selection", lines...)
}
