package usage

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"sparecrate/font/metadata"
	"sparecrate/internal/builder"
	"sparecrate/internal/css"
)

// metadataOf are as much as is known of a face without its file.
func metadataOf(family string, h css.Hosted) metadata.Face {
	f := metadata.Face{Style: metadata.Style{Weight: h.WeightMin, WidthPercent: 100, Slope: metadata.Upright}}
	switch h.Style {
	case "italic":
		f.Style.Slope = metadata.Italic
	case "oblique":
		f.Style.Slope = metadata.Oblique
	}
	if w, err := strconv.ParseFloat(strings.TrimSuffix(h.Stretch, "%"), 64); err == nil && w > 0 {
		f.Style.WidthPercent = w
	}
	if h.WeightMax > h.WeightMin {
		f.Axes = []metadata.Axis{{Tag: "wght", Min: float64(h.WeightMin), Default: float64(max(h.WeightMin, min(400, h.WeightMax))), Max: float64(h.WeightMax)}}
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
