package yamldoc

import (
	"bytes"
	"crypto/sha256"
	"encoding/binary"
	"errors"
	"sync"

	"go.yaml.in/yaml/v3"
)

// trees are documents that were parsed before, by their text: a catalogue reads each of its files several times. A tree
// is never changed, so that all readers share it.
var trees = struct {
	sync.Mutex
	by map[sumOf]*yaml.Node
}{by: map[sumOf]*yaml.Node{}}

type sumOf [16]byte

// mostTrees is how many are kept; a catalogue has fewer.
const mostTrees = 512

func keyOf(data []byte) (k sumOf) {
	sum := sha256.Sum256(data)
	copy(k[:], sum[:])
	return k
}

// known is the tree of a text that was parsed before; nil for another.
func known(k sumOf) *yaml.Node {
	trees.Lock()
	defer trees.Unlock()
	return trees.by[k]
}

func remember(k sumOf, top *yaml.Node) {
	trees.Lock()
	defer trees.Unlock()
	if len(trees.by) >= mostTrees {
		clear(trees.by)
	}
	trees.by[k] = top
}

// Trees writes down every document that was parsed so far, so that another program need not parse them.
func Trees() []byte {
	trees.Lock()
	defer trees.Unlock()
	var out []byte
	for k, top := range trees.by {
		out = append(out, k[:]...)
		out = writeNode(out, top)
	}
	return out
}

func writeNode(out []byte, n *yaml.Node) []byte {
	out = append(out, byte(n.Kind))
	for _, v := range []int{n.Line, n.Column, int(n.Style)} {
		out = binary.AppendUvarint(out, uint64(v)) //nolint:gosec // never below zero
	}
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

// errTrees is a text that Trees has not written.
var errTrees = errors.New("these are no trees of YAML documents")

// Remember takes what Trees has written: those documents are parsed no more.
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

func readNode(r *bytes.Reader, depth int) (*yaml.Node, error) {
	kind, err := r.ReadByte()
	if err != nil || depth > 1000 {
		return nil, errTrees
	}
	var v [3]uint64
	for i := range v {
		if v[i], err = binary.ReadUvarint(r); err != nil {
			return nil, errTrees
		}
	}
	n := &yaml.Node{Kind: yaml.Kind(kind), Style: yaml.Style(v[2])} //nolint:gosec // small
	n.Line, n.Column = int(v[0]), int(v[1])                         //nolint:gosec // of a file that a person wrote
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
