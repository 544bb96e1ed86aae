package sfnt_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/sfnt"
)

// TestACursorRemembersWhatLiesOutside reads inside, at the edges and behind them.
func TestACursorRemembersWhatLiesOutside(t *testing.T) {
	v := sfnt.View{0x01, 0x02, 0xFF, 0xFE, 0x03}
	c := v.Cursor()
	assert.Equal(t, uint8(1), c.U8(0))
	assert.Equal(t, uint16(0x0102), c.U16(0))
	assert.Equal(t, int16(-2), c.I16(2))
	assert.Equal(t, 0x0102FF, c.U24(0))
	assert.Equal(t, uint32(0x02FFFE03), c.U32(1))
	assert.Equal(t, 0xFE03, c.Count(3))
	assert.Equal(t, 0x0102FFFE, c.Offset(0))
	require.NoError(t, c.Err())

	for name, read := range map[string]func(*sfnt.Cursor) int{
		"a byte": func(c *sfnt.Cursor) int { return int(c.U8(5)) }, "two bytes": func(c *sfnt.Cursor) int { return c.Count(4) },
		"four bytes": func(c *sfnt.Cursor) int { return c.Offset(2) }, "before": func(c *sfnt.Cursor) int { return int(c.I16(-1)) },
		"three bytes": func(c *sfnt.Cursor) int { return c.U24(4) & 0xFFFF },
	} {
		c := v.Cursor()
		assert.Zero(t, read(c), name)
		assert.Zero(t, c.U8(0), "%s: nothing is read after it", name)
		require.ErrorIs(t, c.Err(), sfnt.ErrDamaged, name)
		assert.Contains(t, c.Err().Error(), "it ends after 5 bytes", name)
	}
	c = v.Cursor()
	c.U8(9)
	c.U8(77)
	assert.Contains(t, c.Err().Error(), "stands at 9", "the first counts")
}

// TestDamagedSpeaksForItself wraps the one error of damaged fonts in other words.
func TestDamagedSpeaksForItself(t *testing.T) {
	rules := sfnt.Damaged("the layout rules are damaged")
	assert.Equal(t, "the layout rules are damaged", rules.Error())
	require.ErrorIs(t, rules, sfnt.ErrDamaged)
	require.NotErrorIs(t, rules, sfnt.ErrNotFont)
	assert.Equal(t, rules, sfnt.Damage(rules), "not said twice")
	assert.Equal(t, "the font file is damaged: this is not a font file", sfnt.Damage(sfnt.ErrNotFont).Error())
	require.ErrorIs(t, sfnt.Damage(sfnt.ErrNotFont), sfnt.ErrNotFont)
	require.NoError(t, sfnt.Damage(nil))
}
