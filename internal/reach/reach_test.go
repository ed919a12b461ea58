package reach

import (
	"crypto/tls"
	"crypto/x509"
	"encoding/pem"
	"fmt"
	"io"
	"log"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"maestrale/internal/authority"
)

// front is a server that is reached as the options say, until the test ends.
func front(t *testing.T, o Options) *Front {
	t.Helper()
	f, err := Listen(o)
	if err != nil {
		t.Fatal(err)
	}
	s := &http.Server{Handler: http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		_, _ = io.WriteString(w, "page "+r.URL.Path)
	}), ErrorLog: log.New(io.Discard, "", 0), ReadHeaderTimeout: time.Minute}
	go func() { _ = f.Serve(s, s.Handler) }()
	t.Cleanup(func() { _ = s.Close(); f.Close() })
	return f
}

func trusting(a *authority.Authority) *http.Client {
	roots := x509.NewCertPool()
	if a != nil {
		roots.AddCert(a.Certificate)
	}
	return &http.Client{Timeout: time.Minute, Transport: &http.Transport{TLSClientConfig: &tls.Config{RootCAs: roots}},
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
}

func get(t *testing.T, c *http.Client, address, host string) (status int, body, to string) {
	t.Helper()
	req, err := http.NewRequest(http.MethodGet, address, nil)
	if err != nil {
		t.Fatal(err)
	}
	req.Host = host
	r, err := c.Do(req)
	if err != nil {
		return 0, err.Error(), ""
	}
	defer func() { _ = r.Body.Close() }()
	b, _ := io.ReadAll(r.Body)
	return r.StatusCode, string(b), r.Header.Get("Location")
}

// Over the own authority a server answers HTTPS, redirects plain HTTP on the same port, shows the page of trust there,
// and never redirects to a host that a request made up.
func TestTheOwnAuthority(t *testing.T) {
	folder := filepath.Join(t.TempDir(), "https")
	f := front(t, Options{Addr: "127.0.0.1:0", OwnAuthority: true, Folder: folder, Names: []string{"127.0.0.1",
		"127.0.0.2",
		"laptop.local"}})
	if !f.Secure || f.Public != "https://"+f.Addr().String() {
		t.Errorf("%s", f.Public)
	}
	c := trusting(f.Authority)
	if status, body, _ := get(t, c, f.Public+"/x", ""); status != http.StatusOK || body != "page /x" {
		t.Errorf("%d %q", status, body)
	}
	if status, body, _ := get(t, trusting(nil), f.Public, ""); status != 0 || !strings.Contains(body, "certificate") {
		t.Errorf("who does not trust it: %d %s", status, body)
	}
	plain := strings.Replace(f.Public, "https://", "http://", 1)
	port := f.Addr().(*net.TCPAddr).Port
	for host, want := range map[string]string{"": f.Public, "evil.example": f.Public, "evil.example:8443": f.Public,
		"laptop.local": fmt.Sprintf("https://laptop.local:%d", port), "x.laptop.local.evil.example": f.Public,
		"127.0.0.2:99": fmt.Sprintf("https://127.0.0.2:%d", port)} {
		if status, _, to := get(t, c, plain+"/a?b=c", host); status != http.StatusPermanentRedirect || to != want+"/a?b=c" {
			t.Errorf("asked as %q: %d to %s", host, status, to)
		}
	}
	if status, body, _ := get(t, c, plain+"/trust", ""); status != http.StatusOK || body != "page /trust" {
		t.Errorf("the page of trust over plain HTTP: %d %q", status, body)
	}
	r, err := c.Post(plain+"/sign-in", "application/x-www-form-urlencoded", strings.NewReader("password=x"))
	if err != nil || r.StatusCode != http.StatusForbidden {
		t.Errorf("a password over plain HTTP: %v %v", r, err)
	}
	if r != nil {
		_ = r.Body.Close()
	}
	// The machine has moved to another network: the authority stays, and says where it is not believed.
	again, err := Listen(Options{Addr: "127.0.0.1:0", OwnAuthority: true, Folder: folder, Names: []string{"127.0.0.1",
		"192.0.2.44"}})
	if err != nil {
		t.Fatal(err)
	}
	defer again.Close()
	if !slices.Equal(again.Authority.Fingerprint(), f.Authority.Fingerprint()) || len(again.Left) != 1 ||
		again.Left[0] != "192.0.2.44" {
		t.Errorf("%v", again.Left)
	}
	if _, err := Listen(Options{Addr: "127.0.0.1:0", OwnAuthority: true, Folder: folder,
		Names: []string{"192.0.2.44"}}); err == nil || !strings.Contains(err.Error(), "192.0.2.44") {
		t.Errorf("no address is left: %v", err)
	}
}

// Who connects and says nothing keeps nobody waiting.
func TestSilentConnections(t *testing.T) {
	f := front(t, Options{Addr: "127.0.0.1:0", OwnAuthority: true, Folder: t.TempDir() + "/x",
		Names: []string{"127.0.0.1"}})
	for range 50 {
		conn, err := net.Dial("tcp", f.Addr().String())
		if err != nil {
			t.Fatal(err)
		}
		defer func() { _ = conn.Close() }()
	}
	if status, _, _ := get(t, trusting(f.Authority), f.Public, ""); status != http.StatusOK {
		t.Errorf("%d", status)
	}
}

// A certificate in files is served anew when the files change, and the old one goes on while they cannot be read.
func TestCertificatesInFiles(t *testing.T) {
	dir := t.TempDir()
	cert, key := filepath.Join(dir, "c.pem"), filepath.Join(dir, "k.pem")
	a, err := authority.Open(filepath.Join(dir, "a"), []string{"127.0.0.1"}, nil)
	if err != nil {
		t.Fatal(err)
	}
	write := func() {
		c, err := a.Issue("127.0.0.1")
		if err != nil {
			t.Fatal(err)
		}
		der, err := x509.MarshalPKCS8PrivateKey(c.PrivateKey)
		if err != nil {
			t.Fatal(err)
		}
		for name, b := range map[string]*pem.Block{cert: {Type: "CERTIFICATE", Bytes: c.Certificate[0]},
			key: {Type: "PRIVATE KEY", Bytes: der}} {
			if err := os.WriteFile(name, pem.EncodeToMemory(b), 0o600); err != nil {
				t.Fatal(err)
			}
		}
	}
	write()
	p := &pair{cert: cert, key: key}
	first, err := p.get()
	if err != nil {
		t.Fatal(err)
	}
	write()
	later := time.Now().Add(time.Hour)
	for _, name := range []string{cert, key} {
		if err := os.Chtimes(name, later, later); err != nil {
			t.Fatal(err)
		}
	}
	p.looked = time.Time{}
	second, err := p.get()
	if err != nil || second == first {
		t.Errorf("the new one is not served: %v", err)
	}
	if err := os.WriteFile(key, []byte("half a ke"), 0o600); err != nil {
		t.Fatal(err)
	}
	p.looked = time.Time{}
	if third, err := p.get(); err != nil || third != second {
		t.Errorf("a file that is half written stops the server: %v", err)
	}
	write()
	f := front(t, Options{Addr: "127.0.0.1:0", CertFile: cert, KeyFile: key})
	if status, _, _ := get(t, trusting(a), f.Public, ""); status != http.StatusOK {
		t.Errorf("over a certificate in files: %d", status)
	}
	if _, _, to := get(t, trusting(a), strings.Replace(f.Public, "https", "http", 1),
		"evil.example"); to != f.Public+"/" &&
		to != f.Public {
		t.Errorf("plain HTTP leads to %s", to)
	}
}

func TestOptionsThatDoNotGoTogether(t *testing.T) {
	for _, c := range []struct {
		o    Options
		want string
	}{
		{Options{CertFile: "a"}, "--tls-key"}, {Options{KeyFile: "a"}, "--tls-key"},
		{Options{CertFile: "a", KeyFile: "b", Domain: "c"}, "three ways"}, {Options{Domain: "c", OwnAuthority: true},
			"three"},
		{Options{Public: "school.example"}, "--public-url"}, {Options{Public: "ftp://x"}, "--public-url"},
		{Options{Public: "https://x/y"}, "--public-url"}, {Options{CertFile: "/nowhere", KeyFile: "/nowhere"}, "/nowhere"},
		{Options{Addr: "256.0.0.1:1"}, "--addr"}, {Options{Addr: "127.0.0.1:0", HTTPAddr: "x"}, "--http-addr"},
	} {
		if f, err := Listen(c.o); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%+v: %v", c.o, err)
			if f != nil {
				f.Close()
			}
		}
	}
	for addr, good := range map[string]bool{"127.0.0.1:9464": true, "[::1]:1": true, "localhost:1": true, ":9464": false,
		"0.0.0.0:9464": false, "192.0.2.1:1": false, "nonsense": false} {
		if err := OnLoopback(addr); (err == nil) != good {
			t.Errorf("%s: %v", addr, err)
		}
	}
}

// What proxies say of who asks is believed of those on the list, and of nobody else.
func TestBehindProxies(t *testing.T) {
	for _, bad := range [][]string{{"x"}, {"0.0.0.0/0"}, {"::/0"}, {"10.0.0.0/33"}} {
		if _, err := ReadProxies(bad); err == nil {
			t.Errorf("%v was taken", bad)
		}
	}
	p, err := ReadProxies([]string{"127.0.0.1", "10.1.0.0/16"})
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		proxies           Proxies
		remote, forwarded string
		from, host        string
		https             bool
	}{
		{nil, "127.0.0.1:5", "198.51.100.7", "127.0.0.1:5", "asked.example", false},
		{p, "203.0.113.9:5", "198.51.100.7", "203.0.113.9:5", "asked.example", false},
		{p, "127.0.0.1:5", "198.51.100.7", "198.51.100.7:0", "school.example", true},
		{p, "10.1.2.3:5", "198.51.100.7", "198.51.100.7:0", "school.example", true},
		{p, "127.0.0.1:5", "6.6.6.6, 198.51.100.7, 10.1.0.9", "198.51.100.7:0", "school.example", true},
		{p, "127.0.0.1:5", "6.6.6.6, nonsense", "127.0.0.1:5", "school.example", true},
		{p, "127.0.0.1:5", "", "127.0.0.1:5", "school.example", true},
		{p, "127.0.0.1:5", "2001:db8::1", "[2001:db8::1]:0", "school.example", true},
	} {
		var got *http.Request
		h := c.proxies.Wrap(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) { got = r }))
		r := httptest.NewRequest(http.MethodGet, "http://asked.example/", nil)
		r.RemoteAddr = c.remote
		r.Header.Set("X-Forwarded-For", c.forwarded)
		r.Header.Set("X-Forwarded-Host", "school.example")
		r.Header.Set("X-Forwarded-Proto", "https")
		h.ServeHTTP(httptest.NewRecorder(), r)
		if got.RemoteAddr != c.from || got.Host != c.host || OverHTTPS(got) != c.https {
			t.Errorf("%+v: %s, %s, %v", c, got.RemoteAddr, got.Host, OverHTTPS(got))
		}
		if got.Header.Get("X-Forwarded-Host") != "" {
			t.Error("what was claimed is passed on")
		}
	}
}

func TestTheCodeInTheTerminal(t *testing.T) {
	code, err := TerminalQR("https://192.0.2.2:8443/trust")
	if err != nil {
		t.Fatal(err)
	}
	lines := strings.Split(strings.TrimSuffix(code, "\n"), "\n")
	if len(lines) < 15 || len(lines) > 24 {
		t.Errorf("%d lines do not fit into a terminal", len(lines))
	}
}
