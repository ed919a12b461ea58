// Package password keeps passwords as Argon2id hashes (RFC 9106) in the PHC string form: 19 MiB of memory, 2 passes, 1
// lane, the least that OWASP's Password Storage Cheat Sheet (2024) recommends, so that a laptop checks several at once.
package password

import (
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"

	"golang.org/x/crypto/argon2"
)

const (
	memory  = 19 * 1024
	passes  = 2
	lanes   = 1
	saltLen = 16
	keyLen  = 32
	// Longest is the longest password that is taken, in bytes.
	Longest = 1024
)

// Hash returns what is kept of a password.
func Hash(password string) (string, error) {
	if password == "" || len(password) > Longest {
		return "", fmt.Errorf("the password has %d bytes; expected 1 to %d", len(password), Longest)
	}
	salt := make([]byte, saltLen)
	_, _ = rand.Read(salt) // never fails
	key := argon2.IDKey([]byte(password), salt, passes, memory, lanes, keyLen)
	b := base64.RawStdEncoding
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, memory, passes, lanes,
		b.EncodeToString(salt), b.EncodeToString(key)), nil
}

var errForm = errors.New("not an Argon2id hash that is known here")

// Check tells whether a password is the one that was hashed, in the same time
// whichever byte differs.
func Check(password, hash string) (bool, error) {
	var version, m, t, p int
	parts := strings.Split(hash, "$")
	if len(parts) != 6 || parts[1] != "argon2id" || len(password) > Longest {
		return false, errForm
	}
	if _, err := fmt.Sscanf(parts[2], "v=%d", &version); err != nil || version != argon2.Version {
		return false, errForm
	}
	if _, err := fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &m, &t, &p); err != nil || m < 8 || m > 1<<20 || t < 1 || t > 64 ||
		p < 1 || p > 64 {
		return false, errForm
	}
	salt, err := base64.RawStdEncoding.DecodeString(parts[4])
	if err != nil {
		return false, errForm
	}
	want, err := base64.RawStdEncoding.DecodeString(parts[5])
	if err != nil || len(want) < 16 {
		return false, errForm
	}
	got := argon2.IDKey([]byte(password), salt, uint32(t), uint32(m), uint8(p), uint32(len(want)))
	return subtle.ConstantTimeCompare(got, want) == 1, nil
}

// Outdated tells whether a hash was made otherwise than Hash makes them now: it is made anew at the next sign-in.
func Outdated(hash string) bool {
	return !strings.HasPrefix(hash, fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$", argon2.Version, memory, passes, lanes))
}
