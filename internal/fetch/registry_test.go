package fetch_test

import (
	"encoding/binary"
	"net/netip"
	"testing"

	"github.com/stretchr/testify/assert"

	"sparecrate/internal/fetch"
)

// registry are the blocks of the IANA IPv4 and IPv6 Special-Purpose Address Registries,
// row by row, with multicast (RFC 5771, RFC 4291) and what was given back.
var registry = map[string]string{
	"0.0.0.0/8": "this network", "0.0.0.0/32": "this host", "10.0.0.0/8": "private", "100.64.0.0/10": "shared", "127.0.0.0/8": "loopback",
	"169.254.0.0/16": "link local", "172.16.0.0/12": "private", "192.0.0.0/24": "protocol assignments", "192.0.0.0/29": "service continuity",
	"192.0.0.8/32": "dummy", "192.0.0.9/32": "PCP anycast", "192.0.0.10/32": "TURN anycast", "192.0.0.170/32": "NAT64 discovery", "192.0.0.171/32": "NAT64 discovery",
	"192.0.2.0/24": "documentation", "192.31.196.0/24": "AS112-v4", "192.52.193.0/24": "AMT", "192.88.99.0/24": "6to4 relay", "192.88.99.2/32": "6a44 relay",
	"192.168.0.0/16": "private", "192.175.48.0/24": "direct delegation AS112", "198.18.0.0/15": "benchmarking", "198.51.100.0/24": "documentation",
	"203.0.113.0/24": "documentation", "240.0.0.0/4": "reserved", "255.255.255.255/32": "limited broadcast", "224.0.0.0/4": "multicast",
	"::1/128": "loopback", "::/128": "unspecified", "::ffff:0:0/96": "IPv4-mapped", "64:ff9b::/96": "IPv4-IPv6 translation", "64:ff9b:1::/48": "IPv4-IPv6 translation",
	"100::/64": "discard only", "100:0:0:1::/64": "dummy", "2001::/23": "protocol assignments", "2001::/32": "Teredo", "2001:1::1/128": "PCP anycast",
	"2001:1::2/128": "TURN anycast", "2001:1::3/128": "DNS-SD anycast", "2001:2::/48": "benchmarking", "2001:3::/32": "AMT", "2001:4:112::/48": "AS112-v6",
	"2001:10::/28": "ORCHID", "2001:20::/28": "ORCHIDv2", "2001:30::/28": "drone remote identification", "2001:db8::/32": "documentation", "2002::/16": "6to4",
	"2620:4f:8000::/48": "direct delegation AS112", "3fff::/20": "documentation", "5f00::/16": "segment routing", "fc00::/7": "unique local",
	"fe80::/10": "link local", "fec0::/10": "site local", "ff00::/8": "multicast", "::/96": "IPv4-compatible", "::ffff:0:0:0/96": "IPv4-translated",
}

// TestEverySpecialRangeIsRefused tries the first, the last and a middle address of each
// block, also as IPv6 forms of IPv4.
func TestEverySpecialRangeIsRefused(t *testing.T) {
	for block, what := range registry {
		p := netip.MustParsePrefix(block)
		for _, a := range []netip.Addr{p.Addr(), last(p), middle(p)} {
			if block == "::ffff:0:0/96" {
				continue // each counts as the address of IPv4 in it
			}
			assert.False(t, fetch.Public(a), "%s (%s of %s)", a, what, block)
			if a.Is4() {
				four := a.As4()
				mapped := netip.AddrFrom16([16]byte{10: 0xff, 11: 0xff, 12: four[0], 13: four[1], 14: four[2], 15: four[3]})
				assert.False(t, fetch.Public(mapped), "%s", mapped)
			}
		}
	}
	for _, public := range []string{"1.1.1.1", "8.8.8.8", "93.184.216.34", "::ffff:93.184.216.34", "2606:2800:220:1::1", "2a00:1450:4001::1", "9.255.255.255", "11.0.0.0", "172.32.0.0", "223.255.255.255"} {
		assert.True(t, fetch.Public(netip.MustParseAddr(public)), public)
	}
	assert.False(t, fetch.Public(netip.Addr{}))
}

// last returns the last address of a block.
func last(p netip.Prefix) netip.Addr {
	b := p.Addr().AsSlice()
	for i := p.Bits(); i < 8*len(b); i++ {
		b[i/8] |= 0x80 >> (i % 8)
	}
	a, _ := netip.AddrFromSlice(b)
	return a
}

// middle returns an address within a block.
func middle(p netip.Prefix) netip.Addr {
	a, z := p.Addr().As16(), last(p).As16()
	low, high := binary.BigEndian.Uint64(a[8:]), binary.BigEndian.Uint64(z[8:])
	binary.BigEndian.PutUint64(a[8:], low+(high-low)/2)
	out := netip.AddrFrom16(a)
	if p.Addr().Is4() {
		return out.Unmap()
	}
	return out
}
