package school

import (
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"strings"
	"time"
)

// LinkDays is for how many days a link can be used.
const LinkDays = 7

// LinkState says what a link is worth.
type LinkState string

// The states of a link.
const (
	LinkOpen    LinkState = "open"
	LinkUsed    LinkState = "used"
	LinkRevoked LinkState = "revoked"
	LinkOver    LinkState = "over" // its days have passed
)

// StateOf is the state of a link at a moment. What was used stays used,
// whatever came after.
func StateOf(ends time.Time, used, revoked *time.Time, now time.Time) LinkState {
	switch {
	// Somebody who comes too late learns first that it was used: it may have
	// been another person.
	case used != nil:
		return LinkUsed
	case revoked != nil:
		return LinkRevoked
	case !now.Before(ends):
		return LinkOver
	}
	return LinkOpen
}

// Words says what is to be done about a link that cannot be used; it is empty
// for an open one.
func (s LinkState) Words() string {
	switch s {
	case LinkUsed:
		return msgLinkUsed
	case LinkRevoked:
		return msgLinkWithdrawn
	case LinkOver:
		return msgLinkExpired
	}
	return ""
}

// NewAddress makes the secret part of a link's address: 192 random bits in 32 letters.
func NewAddress() string {
	// Nobody guesses an address of so many bits, so no try is counted.
	raw := make([]byte, 24)
	_, _ = rand.Read(raw) // never fails
	return base64.RawURLEncoding.EncodeToString(raw)
}

// HashOf is what is kept of a link's address.
func HashOf(address string) []byte {
	// An address is random, so one round of the hash is enough.
	h := sha256.Sum256([]byte("link:" + address))
	return h[:]
}

// letters are those of a setup code: none is mistaken for another when it is
// read aloud or typed from a terminal (the alphabet of Crockford's base 32,
// 2019).
const letters = "0123456789ABCDEFGHJKMNPQRSTVWXYZ"

// NewCode makes a setup code: 60 random bits, in three groups of four letters.
func NewCode() string {
	raw := make([]byte, 12)
	_, _ = rand.Read(raw) // never fails
	var b strings.Builder
	for i, v := range raw {
		if i > 0 && i%4 == 0 {
			b.WriteByte('-')
		}
		// 256 is a multiple of the 32 letters, so each is as likely as another.
		b.WriteByte(letters[int(v)%len(letters)])
	}
	return b.String()
}

// CodeHash is what is kept of a setup code. Small letters, spaces and dashes
// make no difference, nor do the letters that are often mistaken: O is 0, I and
// L are 1.
func CodeHash(code string) []byte {
	plain := strings.Map(func(r rune) rune {
		switch r {
		case '-', ' ', '\t', '\u00a0', '\u2013':
			return -1
		case 'O':
			return '0'
		case 'I', 'L':
			return '1'
		}
		return r
	}, strings.ToUpper(code))
	h := sha256.Sum256([]byte("setup:" + plain))
	return h[:]
}
