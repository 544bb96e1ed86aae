package fetch

import (
	"context"
	"errors"
	"io"
	"net"
	"net/http"
	"net/url"
	"sync"
	"sync/atomic"
	"time"
)

// Proxy is an HTTP proxy (RFC 9110, sections 3.7 and 9.3.6) for a program that loads what
// others publish: it reaches no machine of private networks unless that is allowed, and
// passes on only so many bytes.
type Proxy struct {
	Address string // host and port on loopback
	server  *http.Server
	dialer  *net.Dialer
	through http.RoundTripper
	left    atomic.Int64
	mu      sync.Mutex
	refused map[string]string // why, by host and port
	closing context.CancelFunc
}

const (
	maxRefused  = 1000
	idleTunnel  = 2 * time.Minute
	proxyHeader = 10 * time.Second
)

// Answer holds what a proxy says of itself: the reason of a refusal, in a header that
// pages do not see.
const Answer = "Sparecrate-Refused"

// NewProxy starts a proxy on loopback that passes on at most limit bytes. private lets it
// reach addresses of private networks and of this machine. Hosts in elsewhere are reached
// at the address given for them, whatever it is. Close it.
func NewProxy(private bool, limit int64, elsewhere map[string]string) (*Proxy, error) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	ctx, cancel := context.WithCancel(context.Background())
	p := &Proxy{Address: listener.Addr().String(), dialer: &net.Dialer{Timeout: connecting}, refused: map[string]string{}, closing: cancel}
	if !private {
		p.dialer.Control = guard
	}
	p.left.Store(limit)
	dial := func(ctx context.Context, network, address string) (net.Conn, error) {
		if to, has := elsewhere[address]; has {
			return (&net.Dialer{Timeout: connecting}).DialContext(ctx, network, to)
		}
		c, err := p.dialer.DialContext(ctx, network, address)
		if err != nil {
			p.note(address, err)
		}
		return c, err
	}
	p.through = &http.Transport{DialContext: dial, ResponseHeaderTimeout: timeout, MaxResponseHeaderBytes: 64 << 10, DisableCompression: true, IdleConnTimeout: time.Minute}
	p.server = &http.Server{
		ReadHeaderTimeout: proxyHeader, MaxHeaderBytes: 64 << 10,
		BaseContext: func(net.Listener) context.Context { return ctx },
		Handler: http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if r.Method == http.MethodConnect {
				p.tunnel(w, r, dial)
				return
			}
			p.pass(w, r)
		}),
	}
	go func() { _ = p.server.Serve(listener) }()
	return p, nil
}

// Close ends the proxy and all that goes through it.
func (p *Proxy) Close() {
	p.closing()
	_ = p.server.Close()
}

// Refused returns why a host and port could not be reached; empty where it could.
func (p *Proxy) Refused(address string) string {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.refused[address]
}

// Over reports whether more was asked for than the proxy passes on.
func (p *Proxy) Over() bool { return p.left.Load() <= 0 }

// Allow lets so many more bytes through.
func (p *Proxy) Allow(bytes int64) { p.left.Store(bytes) }

func (p *Proxy) note(address string, err error) {
	host, _, _ := net.SplitHostPort(address)
	why := explain(host, err)
	p.mu.Lock()
	defer p.mu.Unlock()
	if len(p.refused) < maxRefused {
		p.refused[address] = why.Error()
	}
}

// pass answers a request for an http URL.
func (p *Proxy) pass(w http.ResponseWriter, r *http.Request) {
	if err := check(r.URL); err != nil {
		http.Error(w, err.Error(), http.StatusBadRequest)
		return
	}
	out := r.Clone(r.Context())
	out.RequestURI = ""
	for _, name := range []string{"Proxy-Connection", "Proxy-Authorization", "Connection"} {
		out.Header.Del(name)
	}
	answer, err := p.through.RoundTrip(out)
	if err != nil {
		w.Header().Set(Answer, "1")
		http.Error(w, p.Refused(hostPort(r.URL)), http.StatusBadGateway)
		return
	}
	defer answer.Body.Close() //nolint:errcheck // it was read
	for name, values := range answer.Header {
		w.Header()[name] = values
	}
	w.Header().Del("Connection")
	w.WriteHeader(answer.StatusCode)
	p.copy(flushing{w}, answer.Body)
}

// hostPort writes the address that a URL is reached at.
func hostPort(u *url.URL) string {
	if u.Port() != "" {
		return u.Host
	}
	if u.Scheme == "https" {
		return net.JoinHostPort(u.Hostname(), "443")
	}
	return net.JoinHostPort(u.Hostname(), "80")
}

// flushing hands on at once what comes slowly.
type flushing struct{ http.ResponseWriter }

func (f flushing) Write(b []byte) (int, error) {
	n, err := f.ResponseWriter.Write(b)
	if flush, can := f.ResponseWriter.(http.Flusher); can {
		flush.Flush()
	}
	return n, err
}

// copy passes bytes on as long as the limit allows.
func (p *Proxy) copy(to io.Writer, from io.Reader) {
	_, _ = io.Copy(to, &counted{p, from})
}

type counted struct {
	p *Proxy
	io.Reader
}

func (c *counted) Read(b []byte) (int, error) {
	if c.p.Over() {
		return 0, errors.New("the limit of bytes is used up")
	}
	n, err := c.Reader.Read(b)
	c.p.left.Add(int64(-n))
	return n, err
}

// tunnel joins a connection to the host that was asked for.
func (p *Proxy) tunnel(w http.ResponseWriter, r *http.Request, dial func(context.Context, string, string) (net.Conn, error)) {
	far, err := dial(r.Context(), "tcp", r.Host)
	if err != nil {
		http.Error(w, p.Refused(r.Host), http.StatusBadGateway)
		return
	}
	defer far.Close() //nolint:errcheck // nothing is lost
	near, buffered, err := http.NewResponseController(w).Hijack()
	if err != nil {
		return
	}
	defer near.Close() //nolint:errcheck // nothing is lost
	if _, err := near.Write([]byte("HTTP/1.1 200 OK\r\n\r\n")); err != nil {
		return
	}
	_ = far.SetDeadline(time.Now().Add(idleTunnel))
	_ = near.SetDeadline(time.Now().Add(idleTunnel))
	done := make(chan struct{}, 2)
	go func() { p.copy(far, buffered); done <- struct{}{} }()
	go func() { p.copy(near, far); done <- struct{}{} }()
	select {
	case <-done:
	case <-r.Context().Done():
	}
}
