package sfnt

import (
	"errors"
	"fmt"
)

// ErrDamaged says that bytes of a font break its format. Every error of the packages
// that read fonts wraps it where that is the reason, whatever its own words are.
var ErrDamaged = errors.New("the font file is damaged")

// Damaged returns an error that wraps ErrDamaged and speaks in its own words of the part
// that is damaged.
func Damaged(part string) error { return &damage{errors.New(part)} }

// Damage returns err as one that wraps ErrDamaged: unchanged if it does, and otherwise
// behind the words of ErrDamaged. nil stays nil.
func Damage(err error) error {
	if err == nil || errors.Is(err, ErrDamaged) {
		return err
	}
	return fmt.Errorf("%w: %w", ErrDamaged, err)
}

type damage struct{ error }

func (*damage) Is(target error) bool { return target == ErrDamaged } //nolint:errorlint // Is compares what it is given
