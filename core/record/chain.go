package record

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
)

// Hash is a SHA-256 sum.
type Hash = [sha256.Size]byte

// Link is one entry of a student's chain: the first has Seq 1 and a Prev of
// zeros.
type Link struct {
	Student string          `json:"student"`
	Seq     int64           `json:"seq"`
	Kind    string          `json:"kind"` // attempt, signoff, …
	ID      string          `json:"id"`
	Body    json.RawMessage `json:"body"`
}

// Sum returns the hash of a link after prev: SHA-256 over prev and the link as
// JSON with its fields in this order. Whoever changes, drops or moves an entry
// changes every hash that follows.
func (l Link) Sum(prev Hash) (Hash, error) {
	data, err := json.Marshal(l)
	if err != nil {
		return Hash{}, fmt.Errorf("chain entry %d: %w", l.Seq, err)
	}
	return sha256.Sum256(append(prev[:], data...)), nil
}

// Sealed is a link with the hash that it was kept with.
type Sealed struct {
	Link
	Hash Hash
}

// Verify walks a chain and returns the place of the first entry that does not
// follow from those before it, or 0 where all do.
func Verify(chain []Sealed) (broken int64, err error) {
	prev := Hash{}
	for i, s := range chain {
		sum, err := s.Sum(prev)
		if err != nil {
			return int64(i + 1), err
		}
		if s.Seq != int64(i+1) || sum != s.Hash {
			return int64(i + 1), nil
		}
		prev = s.Hash
	}
	return 0, nil
}

// AttemptBody is what of an attempt goes into the chain: all of the attempt,
// who recorded it, and the sums of its evidence.
type AttemptBody struct {
	Attempt      Attempt `json:"attempt"`
	CraftType    string  `json:"craft_type"`
	By           string  `json:"by"`
	DrillSHA256  string  `json:"drill_sha256"`
	ResultSHA256 string  `json:"result_sha256"`
	TrackSHA256  string  `json:"track_sha256,omitempty"`
	MarksSHA256  string  `json:"marks_sha256,omitempty"`
}
