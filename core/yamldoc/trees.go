package yamldoc

import (
	"bytes"
	"crypto/sha256"
	"encoding/binary"
	"errors"
	"sync"
)

// trees are documents that were parsed before, by their text: a catalogue reads each of its files several times. A tree
// is never changed, so that all readers share it.
var trees = struct {
	sync.Mutex
	by map[sumOf]*Tree
}{by: map[sumOf]*Tree{}}

type sumOf [16]byte

func keyOf(data []byte) (k sumOf) {
	sum := sha256.Sum256(data)
	copy(k[:], sum[:])
	return k
}

// known is the tree of a text that was parsed before; nil for another.
func known(k sumOf) *Tree {
	trees.Lock()
	defer trees.Unlock()
	return trees.by[k]
}

func remember(k sumOf, top *Tree) {
	trees.Lock()
	defer trees.Unlock()
	if trees.by[k] == nil {
		if len(trees.by) >= mostTrees {
			clear(trees.by)
		}
		trees.by[k] = top
	}
}

// TreesOf writes down these documents as they were parsed, for a reader who cannot parse. What is no YAML is left out.
func TreesOf(texts ...[]byte) (out []byte) {
	for _, text := range texts {
		k := keyOf(text)
		top := known(k)
		if top == nil {
			if d, _ := Read(text); d.Err() != nil {
				continue
			}
			top = known(k)
		}
		if top != nil { // nil where others took its place meanwhile
			out = writeNode(append(out, k[:]...), top)
		}
	}
	return out
}

// Forget lets go of every document that was parsed.
func Forget() {
	trees.Lock()
	defer trees.Unlock()
	clear(trees.by)
}

func writeNode(out []byte, n *Tree) []byte {
	out = append(out, byte(n.Kind))
	out = binary.AppendUvarint(out, uint64(n.Line)) //nolint:gosec // never below zero
	for _, s := range []string{n.Tag, n.Value} {
		out = binary.AppendUvarint(out, uint64(len(s)))
		out = append(out, s...)
	}
	out = binary.AppendUvarint(out, uint64(len(n.Content)))
	for _, c := range n.Content {
		out = writeNode(out, c)
	}
	return out
}

// errTrees is a text that TreesOf has not written.
var errTrees = errors.New("these are no trees of YAML documents")

// Remember takes what TreesOf has written: those documents are parsed no more.
func Remember(data []byte) error {
	r := bytes.NewReader(data)
	for r.Len() > 0 {
		var k sumOf
		if n, _ := r.Read(k[:]); n < len(k) {
			return errTrees
		}
		top, err := readNode(r, 0)
		if err != nil {
			return err
		}
		remember(k, top)
	}
	return nil
}

func readNode(r *bytes.Reader, depth int) (*Tree, error) {
	kind, err := r.ReadByte()
	if err != nil || depth > 1000 {
		return nil, errTrees
	}
	line, err := binary.ReadUvarint(r)
	if err != nil || line > MaxBytes || Kind(kind) > Scalar {
		return nil, errTrees
	}
	n := &Tree{Kind: Kind(kind), Line: int(line)} //nolint:gosec // of a file that a person wrote
	for _, to := range []*string{&n.Tag, &n.Value} {
		long, err := binary.ReadUvarint(r)
		if err != nil || long > uint64(r.Len()) { //nolint:gosec // a length
			return nil, errTrees
		}
		text := make([]byte, long)
		_, _ = r.Read(text)
		*to = string(text)
	}
	many, err := binary.ReadUvarint(r)
	if err != nil || many > uint64(r.Len()) { //nolint:gosec // a length
		return nil, errTrees
	}
	for range many {
		c, err := readNode(r, depth+1)
		if err != nil {
			return nil, err
		}
		n.Content = append(n.Content, c)
	}
	return n, nil
}
