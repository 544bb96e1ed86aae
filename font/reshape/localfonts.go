package reshape

import (
	"fmt"
	"strings"

	"sparecrate/font/fallback"
	"sparecrate/font/sfnt"
)

// LocalFont is a local font made to the measure of a face.
type LocalFont struct {
	Local  string // its name on a reader's machine
	Source string // where its widths are from, in words
	Groups []fallback.Group
}

// maxLocalFonts bounds how many local fonts stand in for one face.
const maxLocalFonts = 6

// check refuses fonts and languages that are not known. The error wraps
// ErrRecipe.
func (b *Fallback) check() error {
	switch {
	case len(b.Against) == 0:
		return fmt.Errorf("%w: name a fallback font, like arial", ErrRecipe)
	case len(b.Against) > maxLocalFonts:
		return fmt.Errorf("%w: at most %d fallback fonts are possible for a face", ErrRecipe, maxLocalFonts)
	case b.Groups < 0 || b.Groups > fallback.MaxGroups:
		return fmt.Errorf("%w: letters can have 0 to %d groups, not %d", ErrRecipe, fallback.MaxGroups, b.Groups)
	}
	for _, name := range b.Against {
		if _, err := fallback.System(name, false); err != nil {
			return fmt.Errorf("%w: %w", ErrRecipe, err)
		}
	}
	if err := fallback.Known(b.Language); err != nil {
		return fmt.Errorf("%w: %w", ErrRecipe, err)
	}
	return nil
}

// LocalFonts makes the local fonts to the measure of a face; bold ones where the
// face is. The error is a sentence for people.
func (b *Fallback) LocalFonts(f *sfnt.Font, bold bool) ([]LocalFont, error) {
	web, err := fallback.Face(f)
	if err != nil {
		return nil, err
	}
	var out []LocalFont
	for _, name := range b.Against {
		m, err := fallback.System(strings.TrimSpace(name), bold)
		if err != nil {
			return nil, err
		}
		groups, err := fallback.Groups(web, m, b.Language, b.Groups)
		if err != nil {
			return nil, err
		}
		out = append(out, LocalFont{m.Name, m.Source, groups})
	}
	return out, nil
}
