// Package sealed opens what devices have sealed to the server. A device seals what it has not sent yet, so that nobody
// who holds it can read that, and adds a proof of the sign-in that made it, so that nobody can add to it in the name of
// another.
//
// An envelope is a message to the server's P-256 key: a fresh key of the device and the server's agree on a secret
// (ECDH, NIST SP 800-56A), HKDF (RFC 5869) with SHA-256 makes a key of it, and AES-256-GCM (NIST SP 800-38D) seals. The
// proof is an HMAC (RFC 2104) with SHA-256 under the secret of the sign-in, which the device had from the server.
package sealed

import (
	"crypto/aes"
	"crypto/cipher"
	"crypto/ecdh"
	"crypto/hkdf"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"github.com/google/uuid"
)

// Keys are the server's own.
type Keys struct {
	ID      uuid.UUID
	private *ecdh.PrivateKey
	secret  []byte // what the secrets of sign-ins are made with
}

const secretBytes = 32

// MakeKeys makes keys anew, as they are stored.
func MakeKeys() (private, secret []byte, err error) {
	key, err := ecdh.P256().GenerateKey(rand.Reader)
	if err != nil {
		return nil, nil, fmt.Errorf("make the server's key: %w", err)
	}
	secret = make([]byte, secretBytes)
	_, _ = rand.Read(secret) // never fails
	return key.Bytes(), secret, nil
}

// ReadKeys reads keys as they are stored.
func ReadKeys(id uuid.UUID, private, secret []byte) (*Keys, error) {
	key, err := ecdh.P256().NewPrivateKey(private)
	if err != nil || len(secret) != secretBytes {
		return nil, errors.Join(errors.New("the server's key cannot be read"), err)
	}
	return &Keys{id, key, secret}, nil
}

// Public is what devices seal to: a point of P-256, uncompressed.
func (k *Keys) Public() []byte { return k.private.PublicKey().Bytes() }

// SecretOf is the secret of a sign-in. The device of that sign-in is told it; nobody else is.
func (k *Keys) SecretOf(signIn uuid.UUID) []byte {
	m := hmac.New(sha256.New, k.secret)
	_, _ = m.Write([]byte("maestrale sign-in/1\x00" + signIn.String()))
	return m.Sum(nil)
}

// Envelope is a sealed message.
type Envelope struct {
	Kind   string    `json:"kind"` // attempt, calls, run, …
	ID     uuid.UUID `json:"id"`   // of what is in it
	SignIn uuid.UUID `json:"sign_in"`
	Key    uuid.UUID `json:"key"` // the server's
	Point  []byte    `json:"point"`
	IV     []byte    `json:"iv"`
	Box    []byte    `json:"box"`
}

// inside is what is sealed.
type inside struct {
	Proof []byte `json:"proof"` // over the head and the body
	Body  string `json:"body"`
}

// head is what stands on the envelope, and is sealed with it: whoever changes it breaks the seal.
func (e *Envelope) head() string {
	return strings.Join([]string{"maestrale sealed/1", e.Kind, e.ID.String(), e.SignIn.String(), e.Key.String()}, "\n")
}

// What is wrong with an envelope.
var (
	ErrKey   = errors.New("it was sealed to another server's key")
	ErrSeal  = errors.New("the seal is broken")
	ErrProof = errors.New("the proof is not that of the sign-in that it names")
)

const ivBytes = 12

// Open breaks the seal and checks the proof. It returns ErrKey, ErrSeal or ErrProof.
func (k *Keys) Open(e *Envelope) ([]byte, error) {
	if e.Key != k.ID {
		return nil, ErrKey
	}
	point, err := ecdh.P256().NewPublicKey(e.Point)
	if err != nil || len(e.IV) != ivBytes {
		return nil, ErrSeal
	}
	shared, err := k.private.ECDH(point)
	if err != nil {
		return nil, ErrSeal
	}
	box, err := boxOf(shared, e.Point, k.Public())
	if err != nil {
		return nil, err
	}
	text, err := box.Open(nil, e.IV, e.Box, []byte(e.head()))
	var in inside
	if err != nil || json.Unmarshal(text, &in) != nil {
		return nil, ErrSeal
	}
	if !hmac.Equal(in.Proof, proof(k.SecretOf(e.SignIn), e, in.Body)) {
		return nil, ErrProof
	}
	return []byte(in.Body), nil
}

// Seal does what a device does: tests and the command line use it.
func Seal(e *Envelope, public, secret, body []byte) error {
	server, err := ecdh.P256().NewPublicKey(public)
	if err != nil {
		return fmt.Errorf("the server's key: %w", err)
	}
	fresh, err := ecdh.P256().GenerateKey(rand.Reader)
	if err != nil {
		return fmt.Errorf("seal: %w", err)
	}
	shared, err := fresh.ECDH(server)
	if err != nil {
		return fmt.Errorf("seal: %w", err)
	}
	e.Point = fresh.PublicKey().Bytes()
	box, err := boxOf(shared, e.Point, public)
	if err != nil {
		return err
	}
	text, err := json.Marshal(inside{proof(secret, e, string(body)), string(body)})
	if err != nil {
		return fmt.Errorf("seal: %w", err)
	}
	e.IV = make([]byte, ivBytes)
	_, _ = rand.Read(e.IV)
	e.Box = box.Seal(nil, e.IV, text, []byte(e.head()))
	return nil
}

func boxOf(shared, point, public []byte) (cipher.AEAD, error) {
	key, err := hkdf.Key(sha256.New, shared, append(append([]byte{}, point...), public...), "maestrale sealed/1", 32)
	if err != nil {
		return nil, fmt.Errorf("seal: %w", err)
	}
	block, err := aes.NewCipher(key)
	if err != nil {
		return nil, fmt.Errorf("seal: %w", err)
	}
	return cipher.NewGCM(block) //nolint:wrapcheck // never fails with AES
}

func proof(secret []byte, e *Envelope, body string) []byte {
	m := hmac.New(sha256.New, secret)
	_, _ = m.Write([]byte(e.head() + "\n" + body))
	return m.Sum(nil)
}
