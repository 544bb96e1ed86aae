package work

import (
	"encoding/json"
	"fmt"
)

// Hopeless marks an error that another attempt would not mend.
func Hopeless(err error) error { return &finalError{err} }

type finalError struct{ error }

func (e *finalError) Unwrap() error { return e.error }

func (e *finalError) Is(target error) bool { return target == ErrHopeless }

// Payload reads what a job was told when it was asked for.
func Payload[T any](payload []byte) (T, error) {
	var t T
	if err := json.Unmarshal(payload, &t); err != nil {
		return t, fmt.Errorf("%w: %w", ErrHopeless, err)
	}
	return t, nil
}
