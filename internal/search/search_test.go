package search_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"sparecrate/internal/search"
)

func TestWords(t *testing.T) {
	for _, c := range []struct {
		typed string
		want  []string
	}{
		{"  Holmvík  SANS ", []string{"holmvik", "sans"}},
		{"Skerrow-Bold_57.otf", []string{"skerrow", "bold", "57", "otf"}},
		{"Øresund Ærø ĳsberg Straße", []string{"oresund", "aero", "ijsberg", "strasse"}},
		{"渡し舟", []string{"渡し舟"}},
		{"ﬁne e\u0301", []string{"fine", "e"}},
		{"·—*", []string{}},
		{strings.Repeat("ø", 100), []string{strings.Repeat("o", 64)}},
	} {
		require.Equal(t, c.want, search.Words(c.typed), c.typed)
	}
}

func TestIndex(t *testing.T) {
	require.Equal(t, []string{"2", "bold", "bolditalic", "italic", "sans", "skerrow", "skerrowsans2"},
		search.Index("SkerrowSans2-BoldItalic", "Skerrow Sans 2"))
	require.Empty(t, search.Index("", "—"))
}

func TestMeant(t *testing.T) {
	vocabulary := []string{"bold", "holmvik", "skerrow", "umbrisk", "zenithar", "zephyr"}
	for _, c := range []struct {
		why, typed string
		want       []string
	}{
		{"a letter wrong", "zenithor", []string{"zenithar"}},
		{"the first letter wrong", "senithar", []string{"zenithar"}},
		{"a letter missing", "zenihar", []string{"zenithar"}},
		{"the first letter missing", "kerow", nil}, // two slips
		{"a letter too many", "zenitthar", []string{"zenithar"}},
		{"two in the wrong order", "umbirsk", []string{"umbrisk"}},
		{"only begun, and misspelt", "skero", []string{"skerrow"}},
		{"the last letter wrong", "umbrisc", []string{"umbrisk"}},
		{"one more at the end", "umbriskk", []string{"umbrisk"}},
		{"a piece from within", "mvik", []string{"holmvik"}},
		{"too short to guess", "bxd", nil},
		{"something else", "timetable", nil},
	} {
		require.Equal(t, c.want, search.Meant(c.typed, vocabulary), c.why)
		begins, holds := search.Sieve(c.typed)
		for _, w := range c.want {
			require.True(t, strings.HasPrefix(w, begins) || strings.Contains(w, holds), "%s passes the sieve of %s", w, c.typed)
		}
	}
}
