package reshape

import (
	"errors"
	"fmt"
	"strconv"
	"strings"

	"sparecrate/font/coverage"
	"sparecrate/font/instance"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/font/table"
)

// Places reads places on axes as they are typed, "wght=700,wdth=80". The error
// wraps ErrRecipe.
func Places(s string) (map[string]float64, error) {
	out := map[string]float64{}
	for one := range strings.SplitSeq(s, ",") {
		if one = strings.TrimSpace(one); one == "" {
			continue
		}
		tag, value, _ := strings.Cut(one, "=")
		x, err := strconv.ParseFloat(strings.TrimSpace(value), 64)
		if tag = strings.TrimSpace(tag); err != nil || x != x || len(tag) == 0 || len(tag) > 4 {
			return nil, fmt.Errorf("%w: %q is no axis with its place; write them like wght=700,wdth=80", ErrRecipe, one)
		}
		out[tag] = x
	}
	return out, nil
}

// Posed returns a face as it stands at places on its axes, to draw a text with: the
// characters of that text only, where there is one. As in stylesheets, an axis the
// face does not have is passed over, and a place beyond an axis is its end. A
// static face comes back as it is. The error wraps that of package trim or pin.
func Posed(f *sfnt.Font, at map[string]float64, text string) (*sfnt.Font, error) {
	if !f.Has(table.TagFvar) {
		return f, nil
	}
	fvar, err := table.ParseFvar(f.Table(table.TagFvar))
	if err != nil {
		return nil, fmt.Errorf("%w: its axes cannot be read: %w", sfnt.ErrDamaged, err)
	}
	o, moved := instance.Options{At: map[string]instance.Range{}, Rest: true}, false
	for _, a := range fvar.Axes {
		tag := strings.TrimSpace(a.Tag.String())
		if x, given := at[tag]; given {
			x = max(a.Min.Float(), min(x, a.Max.Float()))
			o.At[tag] = instance.Range{Min: x, Max: x}
			moved = moved || x != a.Default.Float()
		}
	}
	if !moved {
		return f, nil
	}
	if text != "" {
		// Few characters are pinned in a moment.
		small, _, err := subset.Face(f, subset.Options{Characters: coverage.OfText(text)})
		switch {
		case err == nil:
			f = small
		case !errors.Is(err, subset.ErrNothing): // of which a blank is drawn
			return nil, err
		}
	}
	out, _, err := instance.Face(f, o)
	return out, err
}
