package mailbox

import (
	"io"
	"mime"
	"mime/quotedprintable"
	"net/mail"
)

func subject(m *mail.Message) string {
	s := m.Header.Get("Subject")
	if d, err := (&mime.WordDecoder{}).DecodeHeader(s); err == nil {
		return d
	}
	return s
}

func body(m *mail.Message) (string, error) {
	r := m.Body
	if m.Header.Get("Content-Transfer-Encoding") == "quoted-printable" {
		r = quotedprintable.NewReader(r)
	}
	b, err := io.ReadAll(r)
	return string(b), err
}
