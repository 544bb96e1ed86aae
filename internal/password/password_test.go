package password_test

import (
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/password"
)

func TestCheck(t *testing.T) {
	own := []string{"Ines Varga", "ines.varga@lanternjaw.example", "Jo"}
	for _, c := range []struct{ password, why string }{
		{"a few words do well", ""},
		{"harbour lights at dusk", ""},
		{"kettle-7%vellum*orbit", ""},
		{"ключ от старой двери", ""},
		{"correct horse battery staple", "commonly used"}, // everybody knows it
		{"Mon jo chapeau rouge", ""},                      // two letters are no name
		{"", "at least 15"},
		{"fourteen chars", "at least 15"},
		{"          ", "at least 15"},
		{strings.Repeat(" ", 20), "different characters"},
		{"aaaaaaaaaaaaaaaa", "different characters"},
		{"abababababababab", "different characters"},
		{"1234567890123456", "commonly used"},
		{"abcdefghijklmnop", "commonly used"},
		{"passwordpassword1", "commonly used"},
		{"P@ssw0rdP@ssw0rd!", "commonly used"},
		{"qwertyuiopasdfgh", "commonly used"},
		{"Welcome-2026-2027", "commonly used"},
		{"letmein.letmein.letmein", "commonly used"},
		{"SpareCrate 20262026", "commonly used"},
		{"the varga kettle sings", "own name"},
		{"INES likes old kettles", "own name"},
		{"my lanternjaw kettle x", "own name"},
		{strings.Repeat("kettle orbit ", 20), "at most 200"},
	} {
		err := password.Check(c.password, own...)
		if c.why == "" {
			assert.NoError(t, err, c.password)
			continue
		}
		if assert.Error(t, err, c.password) {
			assert.Contains(t, err.Error(), c.why, c.password)
		}
	}
}

// TestLengthIsCountedInCharacters takes letters of several bytes, composed or not.
func TestLengthIsCountedInCharacters(t *testing.T) {
	fourteen := "žščřďťňžščřďťňž"[:28]
	require.Equal(t, 14, utf8.RuneCountInString(fourteen))
	assert.Error(t, password.Check(fourteen))
	assert.NoError(t, password.Check(fourteen+"ů"))
}

func FuzzCheck(f *testing.F) {
	f.Add("correct horse battery staple", "Ines")
	f.Fuzz(func(t *testing.T, s, own string) {
		if password.Check(s, own) == nil && utf8.RuneCountInString(s) > password.Max {
			t.Error("too long")
		}
	})
}
