package record

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"runtime"
	"sync"
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
	sums, errs := make([]Hash, len(chain)), make([]error, len(chain))
	shared(len(chain), func(i int) {
		prev := Hash{}
		if i > 0 {
			prev = chain[i-1].Hash
		}
		sums[i], errs[i] = chain[i].Sum(prev)
	})
	for i := range chain {
		if errs[i] != nil {
			return int64(i + 1), errs[i]
		}
		if chain[i].Seq != int64(i+1) || sums[i] != chain[i].Hash {
			return int64(i + 1), nil
		}
	}
	return 0, nil
}

// shared does something for each number under n, on all processors where that
// is worth it.
func shared(n int, do func(i int)) {
	const worth = 256
	hands := min(runtime.GOMAXPROCS(0), n/worth+1)
	var wg sync.WaitGroup
	for h := range hands {
		wg.Go(func() {
			for i := h * n / hands; i < (h+1)*n/hands; i++ {
				do(i)
			}
		})
	}
	wg.Wait()
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
