package authority

import (
	"crypto/tls"
	"crypto/x509"
	"encoding/pem"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"
)

func TestAnAuthorityVouchesForItsOwnNamesOnly(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "https")
	now := time.Date(2026, 5, 1, 8, 0, 0, 0, time.UTC)
	clock := func() time.Time { return now }
	a, err := Open(dir, []string{"192.0.2.7", "2001:db8::7", "laptop.local"}, clock)
	if err != nil {
		t.Fatal(err)
	}
	roots := x509.NewCertPool()
	roots.AddCert(a.Certificate)
	c, err := a.Issue("192.0.2.7", "2001:db8::7", "laptop.local")
	if err != nil {
		t.Fatal(err)
	}
	for _, n := range []string{"192.0.2.7", "2001:db8::7", "laptop.local"} {
		if _, err := c.Leaf.Verify(x509.VerifyOptions{Roots: roots, DNSName: n, CurrentTime: now}); err != nil {
			t.Errorf("%s: %v", n, err)
		}
	}
	for _, n := range []string{"192.0.2.8", "203.0.113.1", "2001:db8::8", "bank.example", "local",
		"laptop.local.example"} {
		if _, err := a.Issue(n); !errors.Is(err, ErrElsewhere) {
			t.Errorf("it vouches for %s: %v", n, err)
		}
	}
	// And what somebody signs with a stolen key is refused by who trusts the authority.
	stolen := &Authority{a.Certificate, a.key, clock}
	wide := *a.Certificate
	wide.PermittedDNSDomains, wide.PermittedIPRanges = []string{"example"}, nil
	forger := &Authority{&wide, stolen.key, clock}
	forged, err := forger.Issue("bank.example")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := forged.Leaf.Verify(x509.VerifyOptions{Roots: roots, DNSName: "bank.example",
		CurrentTime: now}); err == nil {
		t.Error("a certificate outside the authority's names was believed")
	}
}

func TestAnAuthorityIsMadeOnceAndKeptFromOthers(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "https")
	a, err := Open(dir, []string{"127.0.0.1"}, nil)
	if err != nil {
		t.Fatal(err)
	}
	b, err := Open(dir, []string{"127.0.0.1", "192.0.2.9"}, nil)
	if err != nil || !slices.Equal(b.Fingerprint(), a.Fingerprint()) {
		t.Fatalf("a second one was made: %v", err)
	}
	if b.Vouches("192.0.2.9") || !b.Vouches("127.0.0.1") {
		t.Error("it grew")
	}
	if f := a.Fingerprint(); len(f) != 4 || len(f[0]) != 8*3-1 || strings.Count(f[3], " ") != 7 {
		t.Errorf("fingerprint %q", f)
	}
	for name, mode := range map[string]os.FileMode{dir: 0o700, filepath.Join(dir, "authority.key"): 0o600} {
		info, err := os.Stat(name)
		if err != nil || info.Mode().Perm() != mode {
			t.Errorf("%s: %v %v", name, info.Mode(), err)
		}
	}
	if err := os.Chmod(filepath.Join(dir, "authority.key"), 0o640); err != nil {
		t.Fatal(err)
	}
	if _, err := Open(dir, nil, nil); err == nil || !strings.Contains(err.Error(), "0600") {
		t.Errorf("a key that others can read was used: %v", err)
	}
	if err := os.Remove(filepath.Join(dir, "authority.key")); err != nil {
		t.Fatal(err)
	}
	if _, err := Open(dir, nil, nil); err == nil {
		t.Error("an authority without its key was replaced or used")
	}
}

func TestAuthorityWithNamesOfOneKind(t *testing.T) {
	for _, c := range []struct{ mine, other string }{{"127.0.0.1", "bank.example"}, {"laptop.local", "192.0.2.1"}} {
		a, err := Open(t.TempDir()+"/x", []string{c.mine}, nil)
		if err != nil {
			t.Fatal(err)
		}
		roots := x509.NewCertPool()
		roots.AddCert(a.Certificate)
		wide := *a.Certificate
		wide.PermittedDNSDomains = []string{"example"}
		wide.PermittedIPRanges = nil
		if c.other == "192.0.2.1" {
			wide = *mustOpen(t, "192.0.2.1").Certificate
			wide.Subject, wide.RawSubject, wide.PublicKey, wide.SubjectKeyId = a.Certificate.Subject,
				a.Certificate.RawSubject, a.Certificate.PublicKey, a.Certificate.SubjectKeyId
		}
		leaf, err := (&Authority{&wide, a.key, time.Now}).Issue(c.other)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := leaf.Leaf.Verify(x509.VerifyOptions{Roots: roots, DNSName: c.other}); err == nil {
			t.Errorf("an authority of %s was believed for %s", c.mine, c.other)
		}
	}
}

func mustOpen(t *testing.T, name string) *Authority {
	t.Helper()
	a, err := Open(t.TempDir()+"/y", []string{name}, nil)
	if err != nil {
		t.Fatal(err)
	}
	return a
}

func TestCertificatesAreRenewedInTime(t *testing.T) {
	now := time.Date(2026, 5, 1, 8, 0, 0, 0, time.UTC)
	a, err := Open(t.TempDir()+"/x", []string{"127.0.0.1"}, func() time.Time { return now })
	if err != nil {
		t.Fatal(err)
	}
	c, err := a.Issue("127.0.0.1")
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range []struct {
		days int
		due  bool
	}{{0, false}, {leafDays - renewDays - 1, false}, {leafDays - renewDays + 1, true}, {leafDays + 1, true}} {
		if now = c.Leaf.NotBefore.Add(24*time.Hour).AddDate(0, 0, x.days); a.Due(c) != x.due {
			t.Errorf("after %d days: %v", x.days, a.Due(c))
		}
	}
	now = now.AddDate(years+1, 0, 0)
	if !a.Due(nil) {
		t.Error("no certificate is none that is due")
	}
}

// OpenSSL, which other clients are built on, believes what the authority vouches for, and nothing else.
func TestOpensslBelievesIt(t *testing.T) {
	if _, err := exec.LookPath("openssl"); err != nil {
		t.Fatal("openssl is not here; scripts/needs peers installs it")
	}
	for _, names := range [][]string{{"192.0.2.7"}, {"laptop.local"}, {"192.0.2.7", "2001:db8::7", "laptop.local"}} {
		dir := t.TempDir()
		a, err := Open(filepath.Join(dir, "https"), names, nil)
		if err != nil {
			t.Fatal(err)
		}
		verify := func(c *tls.Certificate) (string, error) {
			leaf := filepath.Join(dir, "leaf.pem")
			if err := os.WriteFile(leaf, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: c.Certificate[0]}),
				0o600); err != nil {
				t.Fatal(err)
			}
			out, err := exec.Command("openssl", "verify", "-x509_strict", "-CAfile", filepath.Join(dir, "https",
				"authority.pem"),
				leaf).CombinedOutput()
			return string(out), err
		}
		c, err := a.Issue(names...)
		if err != nil {
			t.Fatal(err)
		}
		if out, err := verify(c); err != nil {
			t.Errorf("%v: %v %s", names, err, out)
		}
		wide := *a.Certificate
		wide.PermittedDNSDomains = []string{"example"}
		forged, err := (&Authority{&wide, a.key, time.Now}).Issue("bank.example")
		if err != nil {
			t.Fatal(err)
		}
		if out, err := verify(forged); err == nil {
			t.Errorf("%v: openssl believes a forged one: %s", names, out)
		}
	}
}
