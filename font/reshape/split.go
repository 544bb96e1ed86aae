package reshape

import (
	"fmt"
	"strings"

	"sparecrate/font/coverage"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
)

// Part is one of the files a face is split into.
type Part struct {
	Name       string              // of its set
	Characters coverage.Characters // what a browser asks the file for
	own        coverage.Characters // what the file has
}

// rest is the name of the set of what no other set has.
const rest = "rest"

// Parts returns the files a face is split into: one for each named set of
// characters, of those that the sets before it do not have; "rest" stands for
// what is in none. Sets of which the font has nothing are left out. The error
// wraps ErrRecipe or is trim's.
func Parts(f *sfnt.Font, sets []string) ([]Part, error) {
	have, err := subset.Has(f)
	if err != nil {
		return nil, err
	}
	var parts []Part
	var done coverage.Characters
	for _, name := range sets {
		want := have
		if name != rest {
			if want, err = coverage.Named(name); err != nil {
				return nil, fmt.Errorf("%w: %w", ErrRecipe, err)
			}
		}
		own := want.And(have).Without(done)
		done = done.Plus(want)
		if own.Len() == 0 {
			continue
		}
		// The whole set, so that a browser need not know what the font has.
		said := want
		if name == rest {
			said = own
		}
		parts = append(parts, Part{name, said, own})
	}
	if len(parts) == 0 {
		return nil, fmt.Errorf("%w: %s", subset.ErrNothing, strings.Join(sets, ", "))
	}
	return parts, nil
}

// checkSplit refuses sets that are not known. The error wraps ErrRecipe.
func checkSplit(sets []string) error {
	for _, name := range sets {
		if name == rest {
			continue
		}
		if _, err := coverage.Named(name); err != nil {
			return fmt.Errorf("%w: %w", ErrRecipe, err)
		}
	}
	return nil
}

// part trims a face to the part that is asked for.
func (r *Recipe) part(f *sfnt.Font) (*sfnt.Font, *subset.Result, error) {
	if r.Part == "" {
		return nil, nil, fmt.Errorf("%w: say which part of %s", ErrRecipe, strings.Join(r.Split, ", "))
	}
	parts, err := Parts(f, r.Split)
	if err != nil {
		return nil, nil, err
	}
	for _, p := range parts {
		if p.Name == r.Part {
			var features []string
			if r.Subset != nil {
				features = r.Subset.Features
			}
			return p.face(f, features)
		}
	}
	return nil, nil, fmt.Errorf("%w: nothing of the part %s is in this font", ErrRecipe, r.Part)
}

// face makes the file of a part.
func (p *Part) face(f *sfnt.Font, features []string) (*sfnt.Font, *subset.Result, error) {
	o, err := (&Subset{Ranges: []string{"U+20"}, Features: features}).options()
	if err != nil {
		return nil, nil, err
	}
	o.Characters = p.own
	return subset.Face(f, o)
}

// SplitFace is a part with its face.
type SplitFace struct {
	Part
	Font   *sfnt.Font
	Result *subset.Result
}

// Split makes the faces of all parts. The error wraps ErrRecipe or is trim's.
func Split(f *sfnt.Font, sets []string, features []string) ([]SplitFace, error) {
	parts, err := Parts(f, sets)
	if err != nil {
		return nil, err
	}
	out := make([]SplitFace, 0, len(parts))
	for _, p := range parts {
		face, result, err := p.face(f, features)
		if err != nil {
			return nil, err
		}
		out = append(out, SplitFace{p, face, result})
	}
	return out, nil
}

// maxSplit bounds into how many files a face is split.
const maxSplit = 40

// Check says what is wrong with a recipe before a face is at hand. The error
// wraps ErrRecipe.
func (r *Recipe) Check() error {
	if r.Subset != nil {
		if _, err := r.Subset.options(); err != nil {
			return err
		}
	}
	if r.Instance != nil {
		if _, err := r.Instance.options(); err != nil {
			return err
		}
	}
	if r.Fine && r.Whole {
		return fmt.Errorf("%w: outlines are rounded either on a finer grid or on the font's own; use fine or whole, not both", ErrRecipe)
	}
	if len(r.Split) > maxSplit {
		return fmt.Errorf("%w: a face is split into %d files at most", ErrRecipe, maxSplit)
	}
	if err := checkSplit(r.Split); err != nil {
		return err
	}
	if r.Fallback != nil {
		return r.Fallback.check()
	}
	return nil
}
