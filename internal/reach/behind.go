package reach

import (
	"context"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"strings"
)

// Proxies are the machines whose word is taken for who asks, and at which address.
type Proxies []netip.Prefix

// ReadProxies reads addresses and ranges, such as "127.0.0.1" and "10.1.0.0/16".
func ReadProxies(list []string) (Proxies, error) {
	var out Proxies
	for _, s := range list {
		p, err := netip.ParsePrefix(s)
		if err != nil {
			a, err := netip.ParseAddr(s)
			if err != nil {
				return nil, fmt.Errorf("--behind is %q; expected addresses of proxies, such as 127.0.0.1 or 10.1.0.0/16", s)
			}
			p = netip.PrefixFrom(a, a.BitLen())
		}
		if p.Bits() == 0 {
			return nil, fmt.Errorf("--behind is %q, which is everybody; expected the addresses of the proxies alone", s)
		}
		out = append(out, p.Masked())
	}
	return out, nil
}

func (p Proxies) has(a netip.Addr) bool {
	for _, x := range p {
		if x.Contains(a.Unmap()) {
			return true
		}
	}
	return false
}

type schemeKey struct{}

// OverHTTPS tells whether a request came over HTTPS, to this server or to a trusted proxy before it.
func OverHTTPS(r *http.Request) bool {
	return r.TLS != nil || r.Context().Value(schemeKey{}) == "https"
}

// Wrap gives a request from a trusted proxy the address of who asked it, the host that was asked for, and the scheme.
// What anybody else says of these is taken out.
func (p Proxies) Wrap(next http.Handler) http.Handler {
	forwarded := []string{"Forwarded", "X-Forwarded-For", "X-Forwarded-Host", "X-Forwarded-Proto", "X-Real-Ip"}
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		from, err := netip.ParseAddrPort(r.RemoteAddr)
		r = r.Clone(r.Context())
		if err == nil && p.has(from.Addr()) {
			// The last address that is not a proxy's: those before it are what somebody claims.
			hops := strings.Split(strings.Join(r.Header.Values("X-Forwarded-For"), ","), ",")
			for i := len(hops) - 1; i >= 0; i-- {
				a, err := netip.ParseAddr(strings.TrimSpace(hops[i]))
				if err != nil {
					break
				}
				r.RemoteAddr = net.JoinHostPort(a.Unmap().String(), "0")
				if !p.has(a) {
					break
				}
			}
			if h := r.Header.Get("X-Forwarded-Host"); h != "" && !strings.ContainsAny(h, "/\\@ ,") {
				r.Host = h
			}
			r = r.WithContext(context.WithValue(r.Context(), schemeKey{}, strings.ToLower(r.Header.Get("X-Forwarded-Proto"))))
		}
		for _, h := range forwarded {
			r.Header.Del(h)
		}
		next.ServeHTTP(w, r)
	})
}
