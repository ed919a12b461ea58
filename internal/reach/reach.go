// Package reach is how a server is reached: over plain HTTP on this machine, or over HTTPS with a certificate from
// files, from a public authority (ACME, RFC 8555), or from an authority of one's own.
package reach

import (
	"context"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"golang.org/x/crypto/acme"
	"golang.org/x/crypto/acme/autocert"

	"maestrale/internal/authority"
)

// Options say how the server is to be reached. At most one of CertFile, Domain and OwnAuthority is set.
type Options struct {
	Addr              string // where to listen; empty = the usual one
	HTTPAddr          string // where to listen for plain HTTP besides HTTPS; empty = on the same port only
	Public            string // the address at which people reach it; empty = found out
	CertFile, KeyFile string
	Domain            string
	ACMEDirectory     string // of another authority than the usual one, such as a stand-in
	ACMEClient        *http.Client
	OwnAuthority      bool
	Folder            string   // keeps certificates: those of Domain, and the own authority
	Names             []string // that a new own authority vouches for; empty = those of this machine
}

// Front is what listens, and how it is reached.
type Front struct {
	Public    string // the address for links
	Secure    bool
	Authority *authority.Authority // the own one; nil without
	// Left are the addresses of this machine that the own authority was not made for.
	Left  []string
	addrs []string // further addresses at which phones may reach it

	listener, plain net.Listener
	tls             *tls.Config
	allows          func(host string) bool
	answers         http.Handler // answers plain HTTP besides HTTPS, before it is redirected; may be nil
}

const (
	usualAddr   = "127.0.0.1:8080"
	fieldAddr   = ":8443"
	domainAddr  = ":443"
	domainPlain = ":80"
)

// Check tells what does not go together.
func (o Options) Check() error {
	ways := 0
	for _, set := range []bool{o.CertFile != "" || o.KeyFile != "", o.Domain != "", o.OwnAuthority} {
		if set {
			ways++
		}
	}
	switch {
	case ways > 1:
		return errors.New("--tls-cert, --domain and --own-authority are three ways to HTTPS; expected one of them")
	case (o.CertFile == "") != (o.KeyFile == ""):
		return errors.New("--tls-cert and --tls-key go together; one of them is missing")
	}
	if o.Public != "" {
		u, err := url.Parse(o.Public)
		if err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" || strings.Trim(u.Path, "/") != "" ||
			u.RawQuery != "" {
			return fmt.Errorf("--public-url is %q; expected an address such as https://school.example", o.Public)
		}
	}
	return nil
}

// Listen opens the addresses and finds out how the server is reached.
func Listen(o Options) (f *Front, err error) {
	if err := o.Check(); err != nil {
		return nil, err
	}
	begun := &Front{}
	f = begun
	defer func() {
		if err != nil {
			begun.Close()
			f = nil
		}
	}()
	if err := f.secure(&o); err != nil {
		return nil, err
	}
	if f.listener, err = listen(o.Addr, "--addr"); err != nil {
		return f, err
	}
	if o.HTTPAddr != "" {
		if f.plain, err = listen(o.HTTPAddr, "--http-addr"); err != nil {
			return f, err
		}
	}
	f.publish(o)
	return f, nil
}

func listen(addr, flag string) (net.Listener, error) {
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, fmt.Errorf("cannot serve on %s: %w; choose another with %s", addr, err, flag)
	}
	return l, nil
}

// secure prepares the certificates.
func (f *Front) secure(o *Options) error {
	usual := func(addr string) {
		if o.Addr == "" {
			o.Addr = addr
		}
	}
	switch {
	case o.CertFile != "":
		usual(fieldAddr)
		files := &pair{cert: o.CertFile, key: o.KeyFile}
		leaf, err := files.get()
		if err != nil {
			return err
		}
		f.tls = &tls.Config{GetCertificate: func(*tls.ClientHelloInfo) (*tls.Certificate, error) { return files.get() }}
		f.allows = func(host string) bool { return leaf.Leaf.VerifyHostname(host) == nil }
	case o.Domain != "":
		usual(domainAddr)
		if o.HTTPAddr == "" && o.Addr == domainAddr {
			o.HTTPAddr = domainPlain
		}
		m := &autocert.Manager{Prompt: autocert.AcceptTOS, HostPolicy: autocert.HostWhitelist(o.Domain),
			Cache: autocert.DirCache(filepath.Join(o.Folder, "acme"))}
		if o.ACMEDirectory != "" {
			m.Client = &acme.Client{DirectoryURL: o.ACMEDirectory, HTTPClient: o.ACMEClient}
		}
		if err := os.MkdirAll(o.Folder, 0o700); err != nil {
			return fmt.Errorf("folder of certificates: %w", err)
		}
		f.tls = m.TLSConfig()
		f.answers = m.HTTPHandler(http.HandlerFunc(f.redirect))
		f.allows = func(host string) bool { return strings.EqualFold(host, o.Domain) }
	case o.OwnAuthority:
		usual(fieldAddr)
		return f.own(*o)
	default:
		usual(usualAddr)
	}
	if f.tls != nil {
		f.tls.MinVersion = tls.VersionTLS12
		f.Secure = true
	}
	return nil
}

// own uses or makes the own authority, and a certificate for those of this machine's addresses that it vouches for.
func (f *Front) own(o Options) error {
	names := o.Names
	if len(names) == 0 {
		names = Names()
	}
	a, err := authority.Open(o.Folder, names, nil)
	if err != nil {
		return err
	}
	var mine []string
	for _, n := range names {
		if a.Vouches(n) {
			mine = append(mine, n)
		} else {
			f.Left = append(f.Left, n)
		}
	}
	if len(mine) == 0 {
		return fmt.Errorf("the authority in %s vouches for %s, and this machine is now at %s; use one of the old "+
			"addresses, or "+
			"move the folder away, start again, and let the phones trust the new authority", o.Folder,
			strings.Join(a.Names(), ", "), strings.Join(names, ", "))
	}
	leaf := &issued{from: a, names: mine}
	if _, err := leaf.get(); err != nil {
		return err
	}
	f.Authority, f.Secure, f.allows = a, true, a.Vouches
	f.tls = &tls.Config{MinVersion: tls.VersionTLS12,
		GetCertificate: func(*tls.ClientHelloInfo) (*tls.Certificate, error) { return leaf.get() }}
	f.addrs = mine
	return nil
}

// publish finds the address for links: the one that was given, else the best that is listened on.
func (f *Front) publish(o Options) {
	scheme := "http"
	if f.Secure {
		scheme = "https"
	}
	at := f.listener.Addr().(*net.TCPAddr)
	full := func(host string) string {
		port := at.Port
		if (scheme == "https" && port == 443) || (scheme == "http" && port == 80) {
			if strings.Contains(host, ":") {
				return scheme + "://[" + host + "]"
			}
			return scheme + "://" + host
		}
		return scheme + "://" + net.JoinHostPort(host, fmt.Sprint(port))
	}
	var all []string
	switch {
	case o.Domain != "":
		all = []string{o.Domain}
	case f.Authority != nil && at.IP.IsUnspecified():
		all = slices.Clone(f.addrs)
		slices.SortStableFunc(all, func(a, b string) int { return rank(a) - rank(b) })
	case at.IP.IsUnspecified():
		for _, n := range Names() {
			if f.allows == nil || f.allows(n) {
				all = append(all, n)
			}
		}
		slices.SortStableFunc(all, func(a, b string) int { return rank(a) - rank(b) })
	default:
		all = []string{at.IP.String()}
	}
	f.addrs = nil
	for _, h := range all {
		f.addrs = append(f.addrs, full(h))
	}
	if f.Public = strings.TrimSuffix(o.Public, "/"); f.Public == "" {
		if len(all) == 0 {
			all = []string{"127.0.0.1"}
		}
		f.Public = full(all[0])
	}
}

// rank puts first what a phone in the same network reaches best.
func rank(host string) int {
	ip, err := netip.ParseAddr(host)
	switch {
	case err != nil:
		return 2 // a name: not every phone finds it
	case ip.IsLoopback():
		return 4
	case ip.Is4():
		return 0
	default:
		return 1
	}
}

// Addresses are all those at which the server is reached, the best for phones first.
func (f *Front) Addresses() []string { return slices.Clone(f.addrs) }

// Local tells whether only this machine reaches it.
func (f *Front) Local() bool {
	at, ok := f.listener.Addr().(*net.TCPAddr)
	return ok && at.IP.IsLoopback()
}

// Addr is where it listens.
func (f *Front) Addr() net.Addr { return f.listener.Addr() }

// Serve answers until the server is shut down. Plain HTTP besides HTTPS is answered by open, for a few addresses, and
// redirected otherwise; open may be nil.
func (f *Front) Serve(server *http.Server, open http.Handler) error {
	if !f.Secure {
		return server.Serve(f.listener)
	}
	redirects := f.answers
	if redirects == nil {
		redirects = http.HandlerFunc(f.redirect)
	}
	if open != nil {
		other := redirects
		redirects = http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if strings.HasPrefix(r.URL.Path, "/trust") && (r.Method == http.MethodGet || r.Method == http.MethodHead) ||
				strings.HasPrefix(r.URL.Path, "/static/") {
				open.ServeHTTP(w, r)
				return
			}
			other.ServeHTTP(w, r)
		})
	}
	plain := &http.Server{Handler: redirects, ReadTimeout: 10 * time.Second, WriteTimeout: 10 * time.Second,
		IdleTimeout: 30 * time.Second, MaxHeaderBytes: 16 << 10, ErrorLog: server.ErrorLog}
	server.RegisterOnShutdown(func() {
		ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
		defer cancel()
		_ = plain.Shutdown(ctx)
	})
	secure, insecure := divide(f.listener)
	go func() { _ = plain.Serve(insecure) }()
	if f.plain != nil {
		go func() { _ = plain.Serve(f.plain) }()
	}
	server.TLSConfig = f.tls
	return server.ServeTLS(secure, "", "")
}

// redirect leads to HTTPS: at the same name where that is one of ours, and else at the public address.
func (f *Front) redirect(w http.ResponseWriter, r *http.Request) {
	if r.Method != http.MethodGet && r.Method != http.MethodHead {
		http.Error(w, msgServerSpeaksHttps,
			http.StatusForbidden)
		return
	}
	base := f.Public
	host := r.Host
	if h, _, err := net.SplitHostPort(r.Host); err == nil {
		host = h
	}
	host = strings.Trim(host, "[]")
	if f.allows != nil && f.allows(host) {
		port := f.listener.Addr().(*net.TCPAddr).Port
		base = "https://" + net.JoinHostPort(host, fmt.Sprint(port))
		if port == 443 {
			base = strings.TrimSuffix(base, ":443")
		}
	}
	w.Header().Set("Connection", "close")
	http.Redirect(w, r, base+r.URL.RequestURI(), http.StatusPermanentRedirect)
}

// Close gives the addresses back.
func (f *Front) Close() {
	for _, l := range []net.Listener{f.listener, f.plain} {
		if l != nil {
			_ = l.Close()
		}
	}
}

// OnLoopback refuses an address that other machines reach.
func OnLoopback(addr string) error {
	host, _, err := net.SplitHostPort(addr)
	if err != nil {
		return fmt.Errorf("%q is no address; expected one such as 127.0.0.1:9464", addr)
	}
	if ip := net.ParseIP(host); host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return fmt.Errorf("%q can be reached from other machines; expected one on loopback, such as 127.0.0.1:9464", addr)
	}
	return nil
}

// Names are the names and addresses of this machine: what phones may type, and what is only reached from here.
func Names() []string {
	var out []string
	all, err := net.InterfaceAddrs()
	if err != nil {
		all = nil // then only what every machine has
	}
	for _, a := range all {
		n, ok := a.(*net.IPNet)
		if !ok || n.IP.IsLoopback() || n.IP.IsLinkLocalUnicast() {
			continue
		}
		out = append(out, n.IP.String())
	}
	if name, err := os.Hostname(); err == nil && name != "" && net.ParseIP(name) == nil {
		name, _, _ = strings.Cut(strings.ToLower(name), ".")
		out = append(out, name+".local")
	}
	return append(out, "localhost", "127.0.0.1", "::1")
}

// issued is a certificate of the own authority, made anew before it ends.
type issued struct {
	mu    sync.Mutex
	from  *authority.Authority
	names []string
	now   *tls.Certificate
}

func (i *issued) get() (*tls.Certificate, error) {
	i.mu.Lock()
	defer i.mu.Unlock()
	if i.from.Due(i.now) {
		c, err := i.from.Issue(i.names...)
		if err != nil {
			return nil, err
		}
		i.now = c
	}
	return i.now, nil
}

// pair is a certificate in files: read again when they change, so that a renewed one is served without a restart.
type pair struct {
	mu        sync.Mutex
	cert, key string
	read      *tls.Certificate
	at        [2]time.Time
	looked    time.Time
}

func (p *pair) get() (*tls.Certificate, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.read != nil && time.Since(p.looked) < 10*time.Second {
		return p.read, nil
	}
	p.looked = time.Now()
	var at [2]time.Time
	for i, name := range []string{p.cert, p.key} {
		info, err := os.Stat(name)
		if err != nil {
			return p.kept(fmt.Errorf("certificate: %w", err))
		}
		at[i] = info.ModTime()
	}
	if p.read != nil && at == p.at {
		return p.read, nil
	}
	c, err := tls.LoadX509KeyPair(p.cert, p.key)
	if err != nil {
		return p.kept(fmt.Errorf("certificate %s with key %s: %w", p.cert, p.key, err))
	}
	if c.Leaf == nil {
		if c.Leaf, err = x509.ParseCertificate(c.Certificate[0]); err != nil {
			return p.kept(fmt.Errorf("certificate %s: %w", p.cert, err))
		}
	}
	p.read, p.at = &c, at
	return p.read, nil
}

// kept stays with the certificate that was read before, where there is one.
func (p *pair) kept(err error) (*tls.Certificate, error) {
	if p.read != nil {
		return p.read, nil
	}
	return nil, err
}
