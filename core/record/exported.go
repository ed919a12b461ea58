package record

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"time"
)

// An exported record is a maestrale-record/1 document with two more members:
// chain, the entries of the student's chain with their hashes, and, as the
// last, signature. The Ed25519 signature (RFC 8032) is over every byte of the
// file before the member signature, and the member itself is written in one way
// alone, so that no byte of the file can be changed unseen.

// Exported is a record as it is exported.
type Exported struct {
	Record
	Chain []ChainEntry `json:"chain"`
	// Marks are those of the attempts that were marked by eye, by the attempt's
	// id; empty in older files.
	Marks     map[string]json.RawMessage `json:"marks,omitempty"`
	Signature Signature                  `json:"-"`
	raws      map[string]json.RawMessage // the attempts as they stand in the file, by their ids; nil where it was not read
}

// ChainEntry is an entry of the chain in a file.
type ChainEntry struct {
	Seq  int64           `json:"seq"`
	Kind string          `json:"kind"`
	ID   string          `json:"id"`
	Body json.RawMessage `json:"body"`
	Hash string          `json:"hash"` // SHA-256 in hexadecimal
}

// Signature is who signed a record.
type Signature struct {
	Algorithm string    `json:"algorithm"` // Ed25519
	School    string    `json:"school"`
	At        time.Time `json:"at"`
	Key       string    `json:"key"` // public, base64
	Value     string    `json:"value"`
}

const signatureMember = "\n\"signature\": "

// Chained makes the chain of a record that has none yet: its attempts, acts and
// sign-offs in order of time.
func Chained(rec *Record) ([]ChainEntry, error) {
	type entry struct {
		at   time.Time
		kind string
		id   string
		body any
	}
	var list []entry
	for _, a := range rec.Attempts {
		list = append(list, entry{a.At, "attempt", a.ID, AttemptBody{Attempt: a, CraftType: a.CraftType}})
	}
	for i, w := range rec.Witnessed {
		list = append(list, entry{w.At, "witnessed", fmt.Sprintf("witnessed-%d", i+1), w})
	}
	for i, s := range rec.SignOffs {
		list = append(list, entry{s.At, "signoff", fmt.Sprintf("signoff-%d", i+1), s})
	}
	slices.SortStableFunc(list, func(a, b entry) int { return a.at.Compare(b.at) })
	var sealed []Sealed
	prev := Hash{}
	for i, e := range list {
		body, err := json.Marshal(e.body)
		if err != nil {
			return nil, fmt.Errorf("chain entry %d: %w", i+1, err)
		}
		l := Link{Student: rec.Student.ID, Seq: int64(i + 1), Kind: e.kind, ID: e.id, Body: body}
		if prev, err = l.Sum(prev); err != nil {
			return nil, err
		}
		sealed = append(sealed, Sealed{l, prev})
	}
	return Entries(sealed), nil
}

// Entries writes a chain as it stands in a file.
func Entries(chain []Sealed) []ChainEntry {
	out := make([]ChainEntry, len(chain))
	for i, s := range chain {
		out[i] = ChainEntry{s.Seq, s.Kind, s.ID, s.Body, hex.EncodeToString(s.Hash[:])}
	}
	return out
}

// Verification is what is found of an exported record.
type Verification struct {
	Sound     bool
	Why       string // what is wrong; empty where it is sound
	Row       int64  // of the chain, where it is broken; 0 = elsewhere
	Signature Signature
	Student   Student
	Attempts  int
	Entries   int
	Newest    time.Time
}

// member is a member of the document; nil for none.
func (x *reading) member(name string) json.RawMessage {
	if raw := x.top[name]; string(raw) != "null" {
		return raw
	}
	return nil
}

// joined is a and b with a separator between them, where both are there.
func joined(a, b string) string {
	if a == "" {
		return b
	}
	return a + "; " + b
}

// Broken says at which row the chain is broken, or what the record says
// otherwise than its chain; it is empty for a record that is sound. The marks
// are compared with the sums that the chain has of them.
func (e *Exported) Broken() (why string, row int64) {
	chain := make([]Sealed, len(e.Chain))
	for i, c := range e.Chain {
		chain[i] = Sealed{Link: Link{e.Student.ID, c.Seq, c.Kind, c.ID, c.Body}}
		h, err := hex.DecodeString(c.Hash)
		if err != nil || len(h) != len(Hash{}) {
			return fmt.Sprintf(msgRowWithoutHash, i+1), int64(i + 1)
		}
		chain[i].Hash = Hash(h)
	}
	broken, err := Verify(chain)
	if err != nil || broken > 0 {
		return fmt.Sprintf(msgChainBroken, max(1, broken)),
			max(1, broken)
	}
	bodies := e.bodies()
	in := make(map[string]*Attempt, len(e.Chain)) // nil for what stands in the chain to the letter
	for i, c := range e.Chain {
		if c.Kind != "attempt" {
			continue
		}
		b := &bodies[i]
		if b.err != nil {
			return fmt.Sprintf(msgRowWithoutAttempt, i+1), int64(i + 1)
		}
		in[c.ID] = nil
		if raw, ok := e.raws[c.ID]; !ok || !bytes.Equal(raw, b.Attempt) {
			var a Attempt
			_, err := readAttempt(b.Attempt, fmt.Sprintf("chain[%d].body.attempt", i), &a)
			if err != nil || a.ID != c.ID {
				return fmt.Sprintf(msgRowWithoutAttempt, i+1), int64(i + 1)
			}
			in[a.ID] = &a
		}
		if why := e.wrongMarks(c.ID, b.Sum); why != "" {
			return why, int64(i + 1)
		}
	}
	for i := range e.Attempts {
		a := &e.Attempts[i]
		c, ok := in[a.ID]
		if !ok {
			return fmt.Sprintf(msgAttemptNotInChain, i), 0
		}
		if c != nil && !same(*a, *c) {
			return fmt.Sprintf(msgAttemptDiffers, i), 0
		}
		delete(in, a.ID)
	}
	if len(in) > 0 {
		return fmt.Sprintf(msgAttemptsMissing, len(in)), 0
	}
	return "", 0
}

// body is what an entry of the chain says of an attempt.
type body struct {
	Attempt json.RawMessage `json:"attempt"`
	Sum     string          `json:"marks_sha256"`
	err     error
}

// bodies are those of the chain's attempts, by their rows.
func (e *Exported) bodies() []body {
	out := make([]body, len(e.Chain))
	shared(len(e.Chain), func(i int) {
		if e.Chain[i].Kind == "attempt" {
			out[i].err = json.Unmarshal(e.Chain[i].Body, &out[i])
		}
	})
	return out
}

// wrongMarks says what is wrong with the marks of an attempt, by the sum that
// the chain has of them; it is empty where the file has none of anybody.
func (e *Exported) wrongMarks(id, sum string) string {
	if e.Marks == nil {
		return ""
	}
	marks, has := e.Marks[id]
	if sum == "" {
		if has {
			return fmt.Sprintf(msgMarksNotInChain, id)
		}
		return ""
	}
	var plain bytes.Buffer
	if !has || json.Compact(&plain, marks) != nil {
		return fmt.Sprintf(msgMarksMissing, id)
	}
	if is := sha256.Sum256(plain.Bytes()); hex.EncodeToString(is[:]) != sum {
		return fmt.Sprintf(msgMarksDiffer, id)
	}
	return ""
}

// same compares what two attempts say; of the craft type, which older entries
// keep beside the attempt, only what both say.
func same(a, b Attempt) bool {
	if !a.At.Equal(b.At) || a.CraftType != "" && b.CraftType != "" && a.CraftType != b.CraftType {
		return false
	}
	a.At, a.CraftType = b.At, b.CraftType
	if len(a.Automatic) == 0 && len(b.Automatic) == 0 {
		a.Automatic = b.Automatic
	}
	return reflect.DeepEqual(a, b)
}
