package terminal

import (
	"bytes"
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestNothingActsOnTheTerminal(t *testing.T) {
	for in, want := range map[string]string{
		"Skerrow\n\tSans": "Skerrow\n\tSans", "\x1b]0;owned\x07": `\u001b]0;owned\u0007`, "a\u202eb": `a\u202eb`, "\u009b31m": `\u009b31m`, "back\rhere": `back\u000dhere`,
		"\xff\xfe": "\ufffd\ufffd", "é漢": "é漢",
	} {
		var whole, pieces bytes.Buffer
		_, err := (&Shielded{To: &whole}).Write([]byte(in))
		require.NoError(t, err)
		assert.Equal(t, want, whole.String(), "%q", in)
		w := &Shielded{To: &pieces}
		for i := range len(in) {
			_, err := w.Write([]byte{in[i]})
			require.NoError(t, err)
		}
		assert.Equal(t, want, pieces.String(), "%q, byte by byte", in)
	}
	text, err := json.Marshal("a\u202e\x7f\u009b")
	require.NoError(t, err)
	var out bytes.Buffer
	_, err = (&Shielded{To: &out}).Write(text)
	require.NoError(t, err)
	var back string
	require.NoError(t, json.Unmarshal(out.Bytes(), &back), "JSON stays JSON")
	assert.Equal(t, "a\u202e\x7f\u009b", back)
}
