package terminal

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
)

// Failure is an error as JSON, for programs that asked for JSON.
type Failure struct {
	Error string `json:"error"`           // a sentence for people
	Code  string `json:"code,omitempty"`  // stable, where the service refused
	Field string `json:"field,omitempty"` // the field at fault, where there is one
}

// Fail writes an error to stderr: as JSON if the arguments ask for JSON, and otherwise as a
// line, followed by more.
func Fail(stderr io.Writer, args []string, err error, more string) {
	if !slices.Contains(args, "--json") && !slices.Contains(args, "-json") {
		_, _ = fmt.Fprintf(stderr, "sparecrate: %v%s\n", err, more)
		return
	}
	f := Failure{Error: err.Error()}
	var refused refusal
	if errors.As(err, &refused) {
		f.Code, f.Field = refused.code, refused.field
	}
	e := json.NewEncoder(stderr)
	e.SetEscapeHTML(false)
	_ = e.Encode(f) // nothing is left to tell it to
}
