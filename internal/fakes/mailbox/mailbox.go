// Package mailbox is a stand-in for somebody's mail server: it takes every e-mail
// and keeps it.
package mailbox

import (
	"io"
	"net"
	"net/mail"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-smtp"
)

// Server is a running mail server.
type Server struct {
	Address string // host:port
	smtp    *smtp.Server
	mu      sync.Mutex
	letters []Letter
	refuse  bool
}

// Letter is an e-mail that came in.
type Letter struct {
	From, To, Subject, Text string
}

// Start runs a server on a free port of this machine until Close.
func Start() (*Server, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0") //nolint:noctx // ends with Close
	if err != nil {
		return nil, err
	}
	s := &Server{Address: l.Addr().String()}
	s.smtp = smtp.NewServer(s)
	s.smtp.Domain, s.smtp.ReadTimeout, s.smtp.WriteTimeout = "mail.example", 10*time.Second, 10*time.Second
	go func() { _ = s.smtp.Serve(l) }()
	return s, nil
}

// Close ends the server.
func (s *Server) Close() { _ = s.smtp.Close() }

// Refuse has the server refuse all mail, or take it again.
func (s *Server) Refuse(yes bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.refuse = yes
}

// Letters returns what came in so far.
func (s *Server) Letters() []Letter {
	s.mu.Lock()
	defer s.mu.Unlock()
	return slices.Clone(s.letters)
}

// NewSession begins taking mail from a client.
func (s *Server) NewSession(*smtp.Conn) (smtp.Session, error) { return &session{server: s}, nil }

type session struct {
	server   *Server
	from, to string
}

// Mail, Rcpt, Data, Reset and Logout are the steps of RFC 5321, section 3.3.
func (s *session) Mail(from string, _ *smtp.MailOptions) error {
	s.server.mu.Lock()
	defer s.server.mu.Unlock()
	if s.server.refuse {
		return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: "Not now"}
	}
	s.from = from
	return nil
}

func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	s.to = to
	return nil
}

func (s *session) Data(r io.Reader) error {
	m, err := mail.ReadMessage(r)
	if err != nil {
		return err
	}
	text, err := body(m)
	if err != nil {
		return err
	}
	s.server.mu.Lock()
	defer s.server.mu.Unlock()
	s.server.letters = append(s.server.letters, Letter{s.from, s.to, subject(m), strings.ReplaceAll(text, "\r\n", "\n")})
	return nil
}

func (s *session) Reset() {}

func (s *session) Logout() error { return nil }
