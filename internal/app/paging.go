package app

import (
	"encoding/base64"
	"strconv"
	"strings"

	"sparecrate/internal/store"
)

// ETag returns the entity tag of a version (RFC 9110, section 8.8.3).
func ETag(version int) string { return `"` + strconv.Itoa(version) + `"` }

// ReadETag reads the version a change was made from.
func ReadETag(ifMatch string) (int, error) {
	v, err := strconv.Atoi(strings.Trim(strings.TrimPrefix(ifMatch, "W/"), `"`))
	if err != nil {
		return 0, InvalidField("If-Match", "bad-etag", "The header If-Match must hold the ETag of what is being changed.")
	}
	return v, nil
}

const (
	// DefaultPage is how many things a page of a list has where nobody says.
	DefaultPage = 50
	maxPage     = 200
)

// ReadPage reads cursor and limit of a list.
func ReadPage(cursor *string, limit *int) (store.Page, error) {
	p := store.Page{Limit: DefaultPage}
	if limit != nil {
		if *limit < 1 || *limit > maxPage {
			return p, InvalidField("limit", "bad-limit", "The limit must be from 1 to %d.", maxPage)
		}
		p.Limit = *limit
	}
	if cursor != nil && *cursor != "" {
		b, err := base64.RawURLEncoding.DecodeString(*cursor)
		id, name, ok := strings.Cut(string(b), " ")
		if p.AfterID, _ = strconv.ParseInt(id, 10, 64); err != nil || !ok || p.AfterID <= 0 {
			return p, InvalidField("cursor", "bad-cursor", "The cursor is not valid. Start from the first page.")
		}
		p.AfterName = name
	}
	p.Limit++ // one more tells whether there is a next page
	return p, nil
}

// CutPage cuts a list to its page and gives the cursor of the next, nil at the end.
func CutPage[T any](items []T, p store.Page, place func(T) (name string, id int64)) ([]T, *string) {
	if len(items) < p.Limit {
		return items, nil
	}
	items = items[:p.Limit-1]
	name, id := place(items[len(items)-1])
	next := base64.RawURLEncoding.EncodeToString([]byte(strconv.FormatInt(id, 10) + " " + name))
	return items, &next
}
