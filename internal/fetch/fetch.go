// Package fetch reads what stands at addresses that people give, guardedly: it
// reaches no machine of the studio's own network unless that is allowed, follows
// few redirects, never from https to http, waits only so long and reads only so
// much. Names are looked up once, and the address that is reached is the one that
// was checked.
package fetch

import (
	"context"
	"errors"
	"fmt"
	"io"
	"mime"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"syscall"
	"time"
)

const (
	maxRedirects = 5
	timeout      = 30 * time.Second // for all of an answer
	connecting   = 10 * time.Second
	agent        = "SpareCrate/0.1"
)

// Fetcher reads from addresses.
type Fetcher struct{ client *http.Client }

// Error says in a sentence why something could not be read.
type Error struct {
	Message string
	Again   bool // another attempt may end better
}

func (e *Error) Error() string { return e.Message }

func refused(format string, args ...any) *Error { return &Error{Message: fmt.Sprintf(format, args...)} }

// New returns a fetcher. private lets it reach addresses of private networks and of
// this machine.
func New(private bool) *Fetcher {
	dialer := &net.Dialer{Timeout: connecting}
	if !private {
		dialer.Control = guard
	}
	return &Fetcher{&http.Client{
		Timeout: timeout,
		Transport: &http.Transport{ // no proxy: it would look names up for itself
			DialContext: dialer.DialContext, TLSHandshakeTimeout: connecting, ResponseHeaderTimeout: connecting,
			MaxResponseHeaderBytes: 64 << 10, ForceAttemptHTTP2: true, MaxIdleConnsPerHost: 4, IdleConnTimeout: time.Minute,
		},
		CheckRedirect: redirect,
	}}
}

// guard refuses to connect to addresses that are not of the public Internet.
func guard(_, address string, _ syscall.RawConn) error {
	at, err := netip.ParseAddrPort(address)
	if err != nil {
		return refused("The URL %s cannot be reached.", address)
	}
	if !Public(at.Addr()) {
		return refused("The URL leads to a private network (%s), which is not allowed. An administrator can allow it with --allow-private-addresses.", at.Addr())
	}
	return nil
}

// special are the blocks of the IANA special-purpose address registries (RFC 6890) and
// of multicast. For IPv6 they are those within global, all else being refused anyway.
var special = prefixes(
	"0.0.0.0/8", "10.0.0.0/8", "100.64.0.0/10", "127.0.0.0/8", "169.254.0.0/16", "172.16.0.0/12", "192.0.0.0/24", "192.0.2.0/24", "192.31.196.0/24",
	"192.52.193.0/24", "192.88.99.0/24", "192.168.0.0/16", "192.175.48.0/24", "198.18.0.0/15", "198.51.100.0/24", "203.0.113.0/24", "224.0.0.0/4", "240.0.0.0/4",
	"2001::/23", "2001:db8::/32", "2002::/16", "2620:4f:8000::/48", "3fff::/20",
)

// global is the block from which public addresses of IPv6 are given out (RFC 4291,
// section 2.4, and the IANA registry of global unicast addresses).
var global = netip.MustParsePrefix("2000::/3")

func prefixes(all ...string) []netip.Prefix {
	out := make([]netip.Prefix, len(all))
	for i, p := range all {
		out[i] = netip.MustParsePrefix(p)
	}
	return out
}

// Public reports whether an address is one of the public Internet.
func Public(a netip.Addr) bool {
	a = a.Unmap().WithZone("")
	if !a.IsValid() || a.Is6() && !global.Contains(a) {
		return false
	}
	return !slices.ContainsFunc(special, func(p netip.Prefix) bool { return p.Contains(a) })
}

func redirect(next *http.Request, before []*http.Request) error {
	if len(before) > maxRedirects {
		return refused("The URL redirects more than %d times. Use the final URL.", maxRedirects)
	}
	if before[0].URL.Scheme == "https" && next.URL.Scheme != "https" {
		return refused("The URL redirects from https to %s, which is not followed.", next.URL.Scheme)
	}
	return check(next.URL)
}

func check(u *url.URL) error {
	if u.Scheme != "http" && u.Scheme != "https" || u.Host == "" {
		return refused("%q is not a URL; it looks like https://type.example/sheet.css.", u.String())
	}
	if u.User != nil {
		return refused("The URL contains a user name or password. Use a URL without them.")
	}
	return nil
}

// Got is what an address answered. Body gives at most the limit and then an Error.
type Got struct {
	Address string // after redirects
	Type    string // media type, empty where none is said
	Body    io.ReadCloser
}

// Get reads from an address, at most limit bytes. Errors meant for people are
// *Error. Close the body.
func (f *Fetcher) Get(ctx context.Context, address string, limit int64) (*Got, error) {
	u, err := url.Parse(address)
	if err != nil {
		return nil, refused("%q is not a URL.", address)
	}
	if err := check(u); err != nil {
		return nil, err
	}
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
	if err != nil {
		return nil, refused("%q is not a URL.", address)
	}
	r.Header.Set("User-Agent", agent)
	r.Header.Set("Accept", "text/css,font/woff2,font/*,*/*;q=0.1")
	answer, err := f.client.Do(r)
	if err != nil {
		return nil, explain(u.Host, err)
	}
	if answer.StatusCode != http.StatusOK {
		_ = answer.Body.Close()
		return nil, &Error{Message: fmt.Sprintf("%s answered %s.", u.Host, answer.Status), Again: answer.StatusCode >= http.StatusInternalServerError || answer.StatusCode == http.StatusTooManyRequests}
	}
	if answer.ContentLength > limit {
		_ = answer.Body.Close()
		return nil, tooMuch(u.Host, limit)
	}
	kind, _, _ := mime.ParseMediaType(answer.Header.Get("Content-Type"))
	return &Got{Address: answer.Request.URL.String(), Type: kind, Body: &bounded{answer.Body, u.Host, limit, limit}}, nil
}

// explain turns what went wrong into a sentence.
func explain(host string, err error) error {
	var own *Error
	var name *net.DNSError
	switch {
	case errors.As(err, &own):
		return own
	case errors.Is(err, context.Canceled):
		return err
	case errors.As(err, &name) && name.IsNotFound:
		return refused("There is no server named %s. Check the URL.", host)
	}
	var late net.Error
	if errors.As(err, &late) && late.Timeout() {
		return &Error{Message: fmt.Sprintf("%s did not answer in time; try again later.", host), Again: true}
	}
	return &Error{Message: fmt.Sprintf("%s cannot be reached; try again later.", host), Again: true}
}

func tooMuch(host string, limit int64) *Error {
	if limit < 1<<20 {
		return refused("%s sends more than %d kB, more than is read.", host, limit>>10)
	}
	return refused("%s sends more than %d MB, more than is read.", host, limit>>20)
}

// bounded reads so much and then says that it is too much.
type bounded struct {
	io.ReadCloser
	host        string
	left, limit int64
}

func (b *bounded) Read(p []byte) (int, error) {
	if int64(len(p)) > b.left+1 {
		p = p[:b.left+1]
	}
	n, err := b.ReadCloser.Read(p)
	if b.left -= int64(n); b.left < 0 {
		return 0, tooMuch(b.host, b.limit)
	}
	if err != nil && !errors.Is(err, io.EOF) {
		err = explain(b.host, err)
	}
	return n, err
}
