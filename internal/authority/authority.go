// Package authority is a certificate authority of one's own, for HTTPS at a field without internet: made once, kept
// with strict permissions, and unable to vouch for anything but the names and addresses it was made for.
package authority

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/sha256"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"errors"
	"fmt"
	"io/fs"
	"math/big"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"
)

const (
	years = 5
	// leafDays is how long a server's certificate is valid: phones refuse those of private authorities over 825 days.
	leafDays = 90
	// renewDays before the end a new one is made.
	renewDays = 30
)

// Authority vouches for the names and addresses of this machine.
type Authority struct {
	Certificate *x509.Certificate
	key         *ecdsa.PrivateKey
	now         func() time.Time
}

// ErrElsewhere is returned for a name or an address that the authority was not made for.
var ErrElsewhere = errors.New("the authority was not made for it")

// Open reads the authority in a folder, or makes one there for the given names and addresses. One that was made for
// others is kept as it is: Vouches tells.
func Open(dir string, names []string, now func() time.Time) (*Authority, error) {
	if now == nil {
		now = time.Now
	}
	certFile, keyFile := filepath.Join(dir, "authority.pem"), filepath.Join(dir, "authority.key")
	certPEM, err := os.ReadFile(certFile)
	if errors.Is(err, fs.ErrNotExist) {
		return create(dir, names, now)
	}
	if err != nil {
		return nil, fmt.Errorf("read the authority: %w", err)
	}
	info, err := os.Stat(keyFile)
	if err != nil {
		return nil, fmt.Errorf("the authority's key: %w", err)
	}
	if mode := info.Mode().Perm(); mode&0o077 != 0 {
		return nil, fmt.Errorf("%s can be read by others (%04o); expected 0600. Who has it can pretend to be this school's "+
			"server: make a new authority, or chmod 600 it where nobody else was on this machine", keyFile, mode)
	}
	keyPEM, err := os.ReadFile(keyFile)
	if err != nil {
		return nil, fmt.Errorf("read the authority's key: %w", err)
	}
	pair, err := tls.X509KeyPair(certPEM, keyPEM)
	if err != nil {
		return nil, fmt.Errorf("%s and %s: %w", certFile, keyFile, err)
	}
	key, ok := pair.PrivateKey.(*ecdsa.PrivateKey)
	if !ok || !pair.Leaf.IsCA {
		return nil, fmt.Errorf("%s is no certificate authority of this program", certFile)
	}
	if now().After(pair.Leaf.NotAfter) {
		return nil, fmt.Errorf("the authority in %s ended on %s; move the folder away, start again, and let the phones "+
			"trust "+
			"the new one", dir, pair.Leaf.NotAfter.Format("2 January 2006"))
	}
	return &Authority{pair.Leaf, key, now}, nil
}

func create(dir string, names []string, now func() time.Time) (*Authority, error) {
	if len(names) == 0 {
		return nil, errors.New("an authority needs at least one name or address that it vouches for")
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("make the authority: %w", err)
	}
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return nil, fmt.Errorf("make the authority: %w", err)
	}
	t := template(names, now())
	der, err := x509.CreateCertificate(rand.Reader, t, t, key.Public(), key)
	if err != nil {
		return nil, fmt.Errorf("make the authority: %w", err)
	}
	cert, err := x509.ParseCertificate(der)
	if err != nil {
		return nil, fmt.Errorf("make the authority: %w", err)
	}
	keyDER, err := x509.MarshalPKCS8PrivateKey(key)
	if err != nil {
		return nil, fmt.Errorf("make the authority: %w", err)
	}
	// The key first: a certificate without its key would stand for an authority that cannot sign.
	for _, f := range []struct {
		name, kind string
		der        []byte
		mode       fs.FileMode
	}{{"authority.key", "PRIVATE KEY", keyDER, 0o600}, {"authority.pem", "CERTIFICATE", der, 0o644}} {
		if err := writeWhole(filepath.Join(dir, f.name), pem.EncodeToMemory(&pem.Block{Type: f.kind, Bytes: f.der}),
			f.mode); err != nil {
			return nil, err
		}
	}
	return &Authority{cert, key, now}, nil
}

// template is what the certificate of a new authority says: above all for which names it may vouch.
func template(names []string, now time.Time) *x509.Certificate {
	t := &x509.Certificate{
		SerialNumber: serial(), Subject: pkix.Name{CommonName: "Maestrale of " + names[0],
			Organization: []string{"Maestrale"}},
		NotBefore: now.Add(-24 * time.Hour), NotAfter: now.AddDate(years, 0, 0), // a phone's clock may be behind
		IsCA: true, BasicConstraintsValid: true, MaxPathLenZero: true,
		KeyUsage:                    x509.KeyUsageCertSign | x509.KeyUsageCRLSign,
		ExtKeyUsage:                 []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth},
		PermittedDNSDomainsCritical: true,
	}
	for _, n := range names {
		if ip := net.ParseIP(n); ip != nil {
			bits := 128
			if v4 := ip.To4(); v4 != nil {
				ip, bits = v4, 32
			}
			t.PermittedIPRanges = append(t.PermittedIPRanges, &net.IPNet{IP: ip, Mask: net.CIDRMask(bits, bits)})
			continue
		}
		t.PermittedDNSDomains = append(t.PermittedDNSDomains, strings.ToLower(n))
	}
	// A kind of name without any permitted one would be free: it is closed instead (RFC 5280, 4.2.1.10).
	if len(t.PermittedIPRanges) == 0 {
		t.ExcludedIPRanges = []*net.IPNet{{IP: net.IPv4zero.To4(), Mask: net.CIDRMask(0, 32)},
			{IP: net.IPv6zero, Mask: net.CIDRMask(0, 128)}}
	}
	if len(t.PermittedDNSDomains) == 0 {
		t.ExcludedDNSDomains = []string{""}
	}
	return t
}

// writeWhole writes a file that is there whole or not at all, after a power cut too.
func writeWhole(name string, data []byte, mode fs.FileMode) error {
	f, err := os.OpenFile(name+".new", os.O_CREATE|os.O_TRUNC|os.O_WRONLY, mode)
	if err != nil {
		return fmt.Errorf("write %s: %w", name, err)
	}
	_, err = f.Write(data)
	err = errors.Join(err, f.Chmod(mode), f.Sync(), f.Close())
	if err == nil {
		err = os.Rename(name+".new", name)
	}
	if err != nil {
		return fmt.Errorf("write %s: %w", name, err)
	}
	return nil
}

func serial() *big.Int {
	b := make([]byte, 16)
	_, _ = rand.Read(b) // never fails
	b[0] &= 0x7f
	return new(big.Int).SetBytes(b)
}

// Vouches tells whether the authority was made for a name or an address.
func (a *Authority) Vouches(name string) bool {
	if ip := net.ParseIP(name); ip != nil {
		return slices.ContainsFunc(a.Certificate.PermittedIPRanges, func(n *net.IPNet) bool { return n.Contains(ip) })
	}
	name = strings.ToLower(name)
	return slices.ContainsFunc(a.Certificate.PermittedDNSDomains, func(d string) bool {
		return name == d || strings.HasSuffix(name, "."+d)
	})
}

// Names are the names and addresses that the authority was made for.
func (a *Authority) Names() []string {
	out := slices.Clone(a.Certificate.PermittedDNSDomains)
	for _, n := range a.Certificate.PermittedIPRanges {
		out = append(out, n.IP.String())
	}
	return out
}

// Issue makes a server's certificate for some of the authority's names.
func (a *Authority) Issue(names ...string) (*tls.Certificate, error) {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return nil, fmt.Errorf("make a certificate: %w", err)
	}
	now := a.now()
	end := now.AddDate(0, 0, leafDays)
	if end.After(a.Certificate.NotAfter) {
		end = a.Certificate.NotAfter
	}
	// The subject is no name of a host: some clients would hold it against the authority's constraints.
	t := &x509.Certificate{SerialNumber: serial(), Subject: pkix.Name{CommonName: msgMaestraleServerSchool},
		NotBefore: now.Add(-24 * time.Hour), NotAfter: end, KeyUsage: x509.KeyUsageDigitalSignature,
		ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}, BasicConstraintsValid: true}
	for _, n := range names {
		if !a.Vouches(n) {
			return nil, fmt.Errorf("%s: %w", n, ErrElsewhere)
		}
		if ip := net.ParseIP(n); ip != nil {
			t.IPAddresses = append(t.IPAddresses, ip)
		} else {
			t.DNSNames = append(t.DNSNames, n)
		}
	}
	der, err := x509.CreateCertificate(rand.Reader, t, a.Certificate, key.Public(), a.key)
	if err != nil {
		return nil, fmt.Errorf("make a certificate: %w", err)
	}
	leaf, err := x509.ParseCertificate(der)
	if err != nil {
		return nil, fmt.Errorf("make a certificate: %w", err)
	}
	return &tls.Certificate{Certificate: [][]byte{der, a.Certificate.Raw}, PrivateKey: key, Leaf: leaf}, nil
}

// Due tells whether a certificate has to be made anew.
func (a *Authority) Due(c *tls.Certificate) bool {
	return c == nil || a.now().AddDate(0, 0, renewDays).After(c.Leaf.NotAfter) &&
		c.Leaf.NotAfter.Before(a.Certificate.NotAfter)
}

// PEM is the authority's certificate, for phones that are to trust it.
func (a *Authority) PEM() []byte {
	return pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: a.Certificate.Raw})
}

// Fingerprint is the SHA-256 of the authority's certificate: four lines of eight pairs of hexadecimal digits, to
// compare by eye.
func (a *Authority) Fingerprint() []string {
	sum := sha256.Sum256(a.Certificate.Raw)
	var lines []string
	for part := range slices.Chunk(sum[:], 8) {
		lines = append(lines, fmt.Sprintf("% X", part))
	}
	return lines
}
