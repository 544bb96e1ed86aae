// Package mail sends the service's e-mails over SMTP (RFC 5321).
package mail

import (
	"context"
	"fmt"
	"net"
	"strconv"
	"time"

	gomail "github.com/wneessen/go-mail"

	"sparecrate/font/metadata"
)

// Config says how mail leaves. Without Host none does.
type Config struct {
	Server   string // host:port
	From     string // address it comes from
	User     string // empty for a server that asks for none
	Password string
	// Plain sends without encryption, for a server on the same machine.
	Plain bool
}

const timeout = 30 * time.Second

// Letter is an e-mail in plain text.
type Letter struct{ To, Subject, Text string }

// Send sends a letter.
func (c Config) Send(ctx context.Context, l Letter) error {
	host, port, err := net.SplitHostPort(c.Server)
	if err != nil {
		return fmt.Errorf("the mail server %q is not host:port", c.Server)
	}
	n, err := strconv.Atoi(port)
	if err != nil {
		return fmt.Errorf("the port of the mail server %q is no number", c.Server)
	}
	m := gomail.NewMsg()
	if err := m.From(c.From); err != nil {
		return fmt.Errorf("the address that mail comes from, %q: %w", c.From, err)
	}
	if err := m.To(l.To); err != nil {
		return fmt.Errorf("the address %q: %w", l.To, err)
	}
	m.Subject(metadata.Printable(l.Subject))
	m.SetBodyString(gomail.TypeTextPlain, metadata.PrintableText(l.Text))
	options := []gomail.Option{gomail.WithPort(n), gomail.WithTimeout(timeout), gomail.WithTLSPolicy(gomail.TLSMandatory)}
	switch {
	case c.Plain:
		options = append(options, gomail.WithTLSPolicy(gomail.NoTLS))
	case n == 465:
		options = append(options, gomail.WithSSL())
	}
	if c.User != "" {
		options = append(options, gomail.WithSMTPAuth(gomail.SMTPAuthAutoDiscover), gomail.WithUsername(c.User), gomail.WithPassword(c.Password))
	}
	client, err := gomail.NewClient(host, options...)
	if err != nil {
		return err
	}
	if err := client.DialAndSendWithContext(ctx, m); err != nil {
		return fmt.Errorf("send mail by %s: %w", c.Server, err)
	}
	return nil
}
