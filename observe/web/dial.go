package web

import (
	"context"
	"fmt"
	"net"
	"net/netip"
	"slices"
	"sync"
	"time"
)

// pins remember what a name first resolved to: an allowed name that later leads elsewhere is refused, as whoever answers for the
// name could otherwise point it at any machine.
type pins struct {
	mu    sync.Mutex
	known map[string][]netip.Addr
}

// Dial connects to a host; whether it is allowed is told before. A name that leads elsewhere than at first is refused before any connection
// is made.
func (c *Client) Dial(ctx context.Context, network, address string) (net.Conn, error) {
	host, port, err := net.SplitHostPort(address)
	if err != nil {
		return nil, err
	}
	addresses, err := c.resolve(ctx, host)
	if err != nil {
		return nil, err
	}
	dialer := net.Dialer{Timeout: 10 * time.Second}
	var last error
	for _, a := range addresses {
		conn, err := dialer.DialContext(ctx, network, net.JoinHostPort(a.String(), port))
		if err == nil {
			return conn, nil
		}
		last = err
	}
	return nil, last
}

func (c *Client) resolve(ctx context.Context, host string) ([]netip.Addr, error) {
	if literal, err := netip.ParseAddr(host); err == nil {
		return []netip.Addr{literal}, nil
	}
	lookUp := c.o.LookUp
	if lookUp == nil {
		lookUp = func(ctx context.Context, host string) ([]netip.Addr, error) {
			return net.DefaultResolver.LookupNetIP(ctx, "ip", host)
		}
	}
	found, err := lookUp(ctx, host)
	if err != nil {
		return nil, fmt.Errorf("the name %s cannot be resolved: %w", host, err)
	}
	for i := range found {
		found[i] = found[i].Unmap()
		if a := found[i]; a.IsLinkLocalUnicast() || a.IsMulticast() || a.IsUnspecified() {
			return nil, fmt.Errorf("the name %s leads to %s, which is not an address of a site; if it is meant, write the address itself", host, a)
		}
	}
	c.pins.mu.Lock()
	defer c.pins.mu.Unlock()
	if c.pins.known == nil {
		c.pins.known = map[string][]netip.Addr{}
	}
	first, known := c.pins.known[host]
	if !known {
		c.pins.known[host] = found
		return found, nil
	}
	for _, a := range found {
		if !slices.Contains(first, a) {
			return nil, fmt.Errorf("the name %s now leads to %s and led elsewhere before; it is not contacted", host, a)
		}
	}
	return found, nil
}
