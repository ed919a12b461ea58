package reach

import (
	"crypto/tls"
	"crypto/x509"
	"fmt"
	"io"
	"log"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/letsencrypt/challtestsrv"
	"github.com/letsencrypt/pebble/v2/ca"
	"github.com/letsencrypt/pebble/v2/db"
	"github.com/letsencrypt/pebble/v2/va"
	"github.com/letsencrypt/pebble/v2/wfe"
)

// directory is a stand-in for a public authority: it asks for proof over the network, as the real one does, and finds
// every name on loopback.
type directory struct {
	*httptest.Server
	roots *x509.CertPool
}

func newDirectory(t *testing.T, port int) *directory {
	t.Helper()
	t.Setenv("PEBBLE_VA_NOSLEEP", "1")
	t.Setenv("PEBBLE_WFE_NONCEREJECT", "0")
	resolver := freeForBoth(t)
	quiet := log.New(io.Discard, "", 0)
	names, err := challtestsrv.New(challtestsrv.Config{DNSAddrs: []string{resolver}, Log: quiet})
	if err != nil {
		t.Fatal(err)
	}
	names.SetDefaultDNSIPv4("127.0.0.1")
	names.SetDefaultDNSIPv6("")
	go names.Run()
	t.Cleanup(names.Shutdown)
	store := db.NewMemoryStore()
	authority := ca.New(quiet, store, "", "ecdsa", 0, 1, map[string]ca.Profile{"default": {}})
	checks := va.New(quiet, port, port, true, resolver, store)
	front := wfe.New(quiet, store, checks, authority, nil, true, false, 1, 1)
	d := &directory{Server: httptest.NewTLSServer(front.Handler()), roots: x509.NewCertPool()}
	t.Cleanup(d.Close)
	d.roots.AddCert(authority.GetRootCert(0).Cert)
	return d
}

// freeForBoth is an address whose port nobody uses, by UDP or by TCP: names are asked for by both.
func freeForBoth(t *testing.T) string {
	t.Helper()
	for range 100 {
		udp, err := net.ListenPacket("udp", "127.0.0.1:0")
		if err != nil {
			t.Fatal(err)
		}
		at := udp.LocalAddr().String()
		tcp, err := net.Listen("tcp", at)
		_ = udp.Close()
		if err == nil {
			_ = tcp.Close()
			return at
		}
	}
	t.Fatal("no port is free for both")
	return ""
}

func freePort(t *testing.T) int {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = l.Close() }()
	return l.Addr().(*net.TCPAddr).Port
}

// The certificate of a name in the internet is fetched when it is first asked for, kept, and used again without the
// authority; nobody else's name is asked for.
func TestACertificateIsFetchedForADomain(t *testing.T) {
	port := freePort(t)
	d := newDirectory(t, port)
	folder := filepath.Join(t.TempDir(), "certificates")
	serve := func() (stop func()) {
		f, err := Listen(Options{Addr: fmt.Sprintf("127.0.0.1:%d", port), Domain: "school.example", Folder: folder,
			ACMEDirectory: d.URL + wfe.DirectoryPath, ACMEClient: d.Client()})
		if err != nil {
			t.Fatal(err)
		}
		if f.Public != fmt.Sprintf("https://school.example:%d", port) || !f.Secure {
			t.Errorf("it is reached at %s", f.Public)
		}
		s := &http.Server{Handler: http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
			_, _ = io.WriteString(w, "over HTTPS")
		}), ErrorLog: log.New(io.Discard, "", 0), ReadHeaderTimeout: time.Minute}
		go func() { _ = f.Serve(s, nil) }()
		return func() { _ = s.Close() }
	}
	ask := func(name string) (string, error) {
		c := &http.Client{Timeout: time.Minute, Transport: &http.Transport{DisableKeepAlives: true,
			TLSClientConfig: &tls.Config{RootCAs: d.roots, ServerName: name}}}
		r, err := c.Get(fmt.Sprintf("https://127.0.0.1:%d/", port))
		if err != nil {
			return "", err
		}
		defer func() { _ = r.Body.Close() }()
		b, err := io.ReadAll(r.Body)
		return string(b), err
	}
	stop := serve()
	if got, err := ask("school.example"); err != nil || got != "over HTTPS" {
		t.Fatalf("%q, %v", got, err)
	}
	if got, err := ask("bank.example"); err == nil {
		t.Errorf("a certificate for another name: %q", got)
	}
	stop()
	d.Close() // the authority is gone, the certificate stays
	info, err := os.Stat(folder)
	if err != nil || info.Mode().Perm() != 0o700 {
		t.Errorf("%v %v", info, err)
	}
	stop = serve()
	defer stop()
	if got, err := ask("school.example"); err != nil || got != "over HTTPS" {
		t.Errorf("after a restart without the authority: %q, %v", got, err)
	}
	stay := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	r, err := stay.Get(fmt.Sprintf("http://127.0.0.1:%d/students?x=1", port))
	if err != nil {
		t.Fatal(err)
	}
	_ = r.Body.Close()
	if to := r.Header.Get("Location"); !strings.HasPrefix(to, "https://school.example") {
		t.Errorf("plain HTTP: %d to %q", r.StatusCode, to)
	}
}
