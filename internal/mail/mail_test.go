package mail_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/fakes/mailbox"
	"sparecrate/internal/mail"
)

func TestALetterArrives(t *testing.T) {
	box, err := mailbox.Start()
	require.NoError(t, err)
	defer box.Close()
	c := mail.Config{Server: box.Address, From: "crate@lanternjaw.example", Plain: true}
	text := "Hello Ines,\n\nÅsa’s license ends – soon.\n.\nA line that is longer than seventy-six characters, so that it is broken on its way and put together again.\n"
	require.NoError(t, c.Send(t.Context(), mail.Letter{To: "ines@lanternjaw.example", Subject: "Fonts: 3 due – 1 blocked", Text: text}))
	require.Len(t, box.Letters(), 1)
	got := box.Letters()[0]
	assert.Equal(t, "crate@lanternjaw.example", got.From)
	assert.Equal(t, "Fonts: 3 due – 1 blocked", got.Subject)
	assert.Equal(t, text, got.Text)

	box.Refuse(true)
	require.ErrorContains(t, c.Send(t.Context(), mail.Letter{To: "ines@lanternjaw.example"}), "send mail by 127.0.0.1")
	for says, bad := range map[string]mail.Config{
		"is not host:port": {Server: "nowhere", From: "a@b.example"}, "is no number": {Server: "a:b", From: "a@b.example"}, "mail comes from": {Server: box.Address, From: "nobody"},
	} {
		require.ErrorContains(t, bad.Send(t.Context(), mail.Letter{To: "ines@lanternjaw.example"}), says)
	}
	require.ErrorContains(t, c.Send(t.Context(), mail.Letter{To: "nobody"}), `the address "nobody"`)
	// Without leave to send plainly, a server without encryption gets nothing.
	box.Refuse(false)
	c.Plain = false
	require.Error(t, c.Send(t.Context(), mail.Letter{To: "ines@lanternjaw.example", Text: "x"}))
	assert.Len(t, box.Letters(), 1)
}
