package app

import (
	"path"
	"regexp"
	"slices"
	"strings"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"

	"sparecrate/api"
	"sparecrate/font/metadata"
	"sparecrate/internal/store"
)

// MonthForm is how months are written: 2026-11.
const MonthForm = "2006-01"

// MonthOf returns the first moment of a time's month, in UTC.
func MonthOf(t time.Time) time.Time {
	t = t.UTC()
	return time.Date(t.Year(), t.Month(), 1, 0, 0, 0, 0, time.UTC)
}

// FamilyRef returns a family as other things name it.
func FamilyRef(f *store.Family) api.Ref { return api.Ref{Id: f.ID, Name: f.Name} }

// SiteRef returns a site as other things name it.
func SiteRef(s *store.Site) api.Ref { return api.Ref{Id: s.ID, Name: s.Name} }

// SetTo writes a value that was given.
func SetTo[T any](to, given *T) {
	if given != nil {
		*to = *given
	}
}

// SetText writes a text that was given, trimmed and shortened to so many characters.
func SetText(to, given *string, most int) {
	if given != nil {
		*to = Shorten(strings.TrimSpace(*given), most)
	}
}

// FileName keeps the last part of a name, without what no file name holds. It
// is shown and never used as a path.
func FileName(name string) string {
	name = strings.TrimSpace(path.Base(Visible(name)))
	if name == "." || name == "/" || name == "" {
		name = "font"
	}
	return Shorten(name, 250)
}

// DateOf returns the time of a day that was sent, nil for none.
func DateOf(d *openapi.Date) *time.Time {
	if d == nil {
		return nil
	}
	return &d.Time
}

// Day returns a time as a day of the API, nil for none.
func Day(t *time.Time) *openapi.Date {
	if t == nil {
		return nil
	}
	return &openapi.Date{Time: *t}
}

// Filled returns a text that was sent, trimmed; empty for none.
func Filled(s *string) string {
	if s == nil {
		return ""
	}
	return strings.TrimSpace(*s)
}

// Domains reads domains as people paste them, each once; never nil.
func Domains(given []string) ([]string, error) {
	out := []string{}
	for _, d := range given {
		host := strings.ToLower(strings.TrimSpace(d))
		if _, rest, ok := strings.Cut(host, "://"); ok { // a whole address was pasted
			host = rest
		}
		host, _, _ = strings.Cut(host, "/")
		if host == "" {
			continue
		}
		if len(host) > 253 || !domain.MatchString(host) {
			return nil, InvalidField("domains", "bad-domain", "%q is not a domain; write it like holmvik.example.", d)
		}
		if !slices.Contains(out, host) {
			out = append(out, host)
		}
	}
	return out, nil
}

// domain matches a host name, as people paste it after an address was cut down to it.
var domain = regexp.MustCompile(`^[\pL\pN]([\pL\pN-]*[\pL\pN])?(\.[\pL\pN]([\pL\pN-]*[\pL\pN])?)*$`)

// Visible returns a path with slashes and without the characters that are not seen.
func Visible(name string) string {
	return strings.Map(func(r rune) rune {
		if metadata.Hidden(r) || strings.ContainsRune("\n\r\t\u2028\u2029", r) {
			return -1
		}
		return r
	}, strings.ReplaceAll(strings.ToValidUTF8(name, "\uFFFD"), `\`, "/"))
}

// NotDeleted refuses what cannot be done with a deleted family.
func NotDeleted(f *store.Family) error {
	if f.Status != store.Deleted {
		return nil
	}
	return Problem(Conflict, "family-deleted", "%s was deleted by %s on %s. Restore it first.", f.Name, f.StatusBy, f.StatusAt.Format(time.DateOnly))
}
