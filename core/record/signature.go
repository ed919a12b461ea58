//go:build !pad

package record

import (
	"bytes"
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"time"

	"maestrale/core/misread"
)

// Sign writes a record with its chain, signed for a school at a moment.
func Sign(e *Exported, key ed25519.PrivateKey, at time.Time) ([]byte, error) {
	e.Format = "maestrale-record/1"
	if e.Attempts == nil {
		e.Attempts = []Attempt{}
	}
	if e.Chain == nil {
		e.Chain = []ChainEntry{}
	}
	data, err := json.Marshal(e)
	if err != nil {
		return nil, fmt.Errorf("write the record: %w", err)
	}
	var b bytes.Buffer
	if err := lines(&b, data); err != nil {
		return nil, err
	}
	b.WriteString(",")
	sig := Signature{"Ed25519", e.School, at.UTC().Truncate(time.Second),
		base64.StdEncoding.EncodeToString(key.Public().(ed25519.PublicKey)), ""}
	sig.Value = base64.StdEncoding.EncodeToString(ed25519.Sign(key, signed(b.Bytes(), sig)))
	tail, err := sig.tail()
	if err != nil {
		return nil, err
	}
	b.WriteString(tail)
	return b.Bytes(), nil
}

// ReadExported reads an exported record and verifies it: the signature, the chain, and
// that the record says what its chain says. A record that is none is an error; one that
// was changed is not, and the verification says what is wrong. pinned, where it is not
// nil, is the key that has to have signed it.
func ReadExported(r io.Reader, pinned ed25519.PublicKey) (*Exported, *Verification, []string, error) {
	x, err := read(r)
	if err != nil {
		return nil, nil, nil, err
	}
	e := &Exported{Record: *x.rec, raws: x.raws}
	signature, chain := x.member("signature"), x.member("chain")
	if signature == nil || chain == nil {
		return nil, nil, nil, misread.At(1, "a record that was exported, with its chain and signature",
			"the record has no %s", map[bool]string{true: "signature", false: "chain"}[signature == nil])
	}
	if err := e.readMembers(signature, chain, x.member("marks")); err != nil {
		return nil, nil, nil, misread.At(0, "an exported record", "%v", err)
	}
	v := &Verification{Signature: e.Signature, Student: e.Student, Attempts: len(e.Attempts), Entries: len(e.Chain)}
	for _, a := range e.Attempts {
		if a.At.After(v.Newest) {
			v.Newest = a.At
		}
	}
	v.Why = wrongSignature(x.data, e.Signature, pinned)
	if why, row := e.Broken(); why != "" {
		v.Row = row
		v.Why = joined(v.Why, why)
	}
	v.Sound, e.raws = v.Why == "", nil // what is changed of it from here on is not what was read
	return e, v, x.notes, nil
}

// readMembers reads what an exported record has over another.
func (e *Exported) readMembers(signature, chain, marks json.RawMessage) error {
	if err := json.Unmarshal(signature, &e.Signature); err != nil {
		return err
	}
	list, err := elementsOf(chain)
	if err != nil {
		return err
	}
	e.Chain = make([]ChainEntry, len(list))
	errs := make([]error, len(list))
	shared(len(list), func(i int) { errs[i] = json.Unmarshal(list[i], &e.Chain[i]) })
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	if marks == nil {
		return nil
	}
	return json.Unmarshal(marks, &e.Marks)
}

// wrongSignature says in words why a signature is not taken; empty for one that
// is.
func wrongSignature(data []byte, s Signature, pinned ed25519.PublicKey) string {
	at := bytes.LastIndex(data, []byte(signatureMember))
	tail, err := s.tail()
	if at < 0 || err != nil || string(data[at:]) != tail {
		return msgSignatureSpeltWrong
	}
	key, err1 := base64.StdEncoding.DecodeString(s.Key)
	value, err2 := base64.StdEncoding.DecodeString(s.Value)
	switch {
	case s.Algorithm != "Ed25519" || err1 != nil || err2 != nil || len(key) != ed25519.PublicKeySize ||
		len(value) != ed25519.SignatureSize:
		return msgSignatureOfOtherKind
	case base64.StdEncoding.EncodeToString(key) != s.Key || base64.StdEncoding.EncodeToString(value) != s.Value:
		return msgSignatureSpeltWrong
	case !ed25519.Verify(key, signed(data[:at], s), value):
		return msgSignatureDoesNotFit
	case pinned != nil && !bytes.Equal(pinned, key):
		return msgSignedWithOtherKey
	}
	return ""
}

// signed is what the signature is over: the SHA-256 of the document before it, and what
// the signature itself says.
func signed(doc []byte, s Signature) []byte {
	sum := sha256.Sum256(doc)
	return fmt.Appendf(nil, "maestrale-record/1\n%x\n%s\n%s\n", sum, s.School, s.At.UTC().Format(time.RFC3339))
}

// tail is the signature as it stands at the end of a document.
func (s Signature) tail() (string, error) {
	data, err := json.Marshal(s)
	if err != nil {
		return "", fmt.Errorf("write the signature: %w", err)
	}
	return signatureMember + string(data) + "}\n", nil
}

// lines writes an object with a line for each member and for each element of a list in
// it, without its last brace.
func lines(b *bytes.Buffer, data []byte) error {
	d := json.NewDecoder(bytes.NewReader(data))
	if _, err := d.Token(); err != nil {
		return fmt.Errorf("write the record: %w", err)
	}
	b.WriteString("{")
	for first := true; d.More(); first = false {
		name, err := d.Token()
		if err != nil {
			return fmt.Errorf("write the record: %w", err)
		}
		var raw json.RawMessage
		if err := d.Decode(&raw); err != nil {
			return fmt.Errorf("write the record: %w", err)
		}
		if !first {
			b.WriteString(",")
		}
		fmt.Fprintf(b, "\n%q: ", name)
		var list []json.RawMessage
		if raw[0] != '[' || json.Unmarshal(raw, &list) != nil || len(list) == 0 {
			b.Write(raw)
			continue
		}
		for i, e := range list {
			b.WriteString(map[bool]string{true: "[\n ", false: ",\n "}[i == 0])
			b.Write(e)
		}
		b.WriteString("]")
	}
	return nil
}

// ReadKey reads a public key in base64, white space around it.
func ReadKey(text string) (ed25519.PublicKey, error) {
	key, err := base64.StdEncoding.DecodeString(strings.TrimSpace(text))
	if err != nil || len(key) != ed25519.PublicKeySize {
		return nil, misread.At(0, "32 bytes in base64, as the school shows it", "the key is %.60q", text)
	}
	return key, nil
}
