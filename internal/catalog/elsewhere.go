package catalog

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"sparecrate/font/facts"
	"sparecrate/internal/builder"
	"sparecrate/internal/css"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
)

// elsewhere gives what packs need of a family that is served from somebody else's
// stylesheets: these, and its faces as they describe them, each once.
func elsewhere(family string, sheets []store.HostedSheet) (out []pack.Sheet, faces []pack.Face) {
	seen := map[string]bool{}
	for _, s := range sheets {
		one := pack.Sheet{Host: s.Host, Address: s.Address}
		for _, h := range s.Faces {
			if s.Address == "" {
				one.Rules = append(one.Rules, h.Rule())
			}
			key := fmt.Sprint(h.WeightMin, h.WeightMax, h.Style, h.Stretch)
			if seen[key] { // another part of its characters
				continue
			}
			seen[key] = true
			faces = append(faces, pack.Face{Facts: factsOf(family, h), Style: styleOf(h)})
		}
		out = append(out, one)
	}
	return out, faces
}

// factsOf are as much as is known of a face without its file.
func factsOf(family string, h css.Hosted) facts.Face {
	f := facts.Face{Style: facts.Style{Weight: h.WeightMin, WidthPercent: 100, Slope: facts.Upright}}
	switch h.Style {
	case "italic":
		f.Style.Slope = facts.Italic
	case "oblique":
		f.Style.Slope = facts.Oblique
	}
	if w, err := strconv.ParseFloat(strings.TrimSuffix(h.Stretch, "%"), 64); err == nil && w > 0 {
		f.Style.WidthPercent = w
	}
	if h.WeightMax > h.WeightMin {
		f.Axes = []facts.Axis{{Tag: "wght", Min: float64(h.WeightMin), Default: float64(max(h.WeightMin, min(400, h.WeightMax))), Max: float64(h.WeightMax)}}
	}
	f.Names.Family, f.Names.Full = family, family+" "+styleOf(h)
	return f
}

// styleOf names the style of a face: Bold Italic.
func styleOf(h css.Hosted) string {
	words := []string{builder.WeightWord(h.WeightMin)}
	if h.WeightMax > h.WeightMin {
		words = []string{fmt.Sprintf("%d to %d", h.WeightMin, h.WeightMax)}
	}
	if h.Style != "" && h.Style != "normal" {
		words = append(words, strings.ToUpper(h.Style[:1])+h.Style[1:])
	}
	return strings.Join(slices.DeleteFunc(words, func(w string) bool { return w == "" }), " ")
}
