package yamldoc

import (
	"bytes"
	"crypto/sha256"
	"encoding/binary"
	"errors"
	"slices"
	"sync"
)

// trees are documents that were parsed before, by their text: a catalogue reads
// each of its files several times. A tree is never changed, so that all readers
// share it.
var trees = struct {
	sync.Mutex
	by map[sumOf]*Tree
}{by: map[sumOf]*Tree{}}

// sumOf identifies a text: the first half of its SHA-256.
type sumOf [16]byte

// keyOf is the sum of a text.
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

// remember keeps a tree for a text, if none is kept.
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

// TreesOf writes down these documents as they were parsed, for a reader who
// cannot parse. What is no YAML is left out.
func TreesOf(texts ...[]byte) []byte { return writeTrees(false, texts) }

// PackedTreesOf is TreesOf in two thirds of the room, for what is built into a
// program and read by nothing older.
func PackedTreesOf(texts ...[]byte) []byte { return writeTrees(true, texts) }

// writeTrees writes the trees of texts, each after the sum of its text; packed
// is the shorter form.
func writeTrees(packed bool, texts [][]byte) []byte {
	w := treeWriter{packed: packed}
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
			w.out, w.line = append(w.out, k[:]...), 0
			w.node(top)
		}
	}
	return w.out
}

// Forget lets go of every document that was parsed.
func Forget() {
	trees.Lock()
	defer trees.Unlock()
	clear(trees.by)
}

// usualTags are what most values are; packed, a tag is its place among them,
// and otherTag is followed by its name.
var usualTags = []string{"", "!!str", "!!map", "!!seq", "!!int", "!!float", "!!bool", "!!null"}

const otherTag = 15

// treeWriter writes trees, packed or not. Packed, a node begins with its kind
// and its tag in one byte, and its line is counted from the node before.
type treeWriter struct {
	out    []byte
	packed bool
	line   int
}

// node writes a node and what is in it.
func (w *treeWriter) node(n *Tree) {
	tag := slices.Index(usualTags, n.Tag)
	switch {
	case !w.packed:
		w.out = append(w.out, byte(n.Kind))
		w.out = binary.AppendUvarint(w.out, uint64(n.Line)) //nolint:gosec // never below zero
		w.text(n.Tag)
	case tag < 0:
		w.out = append(w.out, byte(n.Kind)<<4|otherTag)
		w.text(n.Tag)
	default:
		w.out = append(w.out, byte(n.Kind)<<4|byte(tag)) //nolint:gosec // one of few
	}
	if w.packed {
		w.out = binary.AppendVarint(w.out, int64(n.Line-w.line))
		w.line = n.Line
	}
	w.text(n.Value)
	w.out = binary.AppendUvarint(w.out, uint64(len(n.Content)))
	for _, c := range n.Content {
		w.node(c)
	}
}

// text writes a text after its length.
func (w *treeWriter) text(s string) {
	w.out = binary.AppendUvarint(w.out, uint64(len(s)))
	w.out = append(w.out, s...)
}

// errTrees is a text that TreesOf has not written.
var errTrees = errors.New("these are no trees of YAML documents")

// Remember takes what TreesOf has written: those documents are parsed no more.
func Remember(data []byte) error { return readTrees(false, data) }

// RememberPacked takes what PackedTreesOf has written.
func RememberPacked(data []byte) error { return readTrees(true, data) }

// readTrees reads what writeTrees writes, and remembers it.
func readTrees(packed bool, data []byte) error {
	r := treeReader{Reader: bytes.NewReader(data), packed: packed}
	for r.Len() > 0 {
		var k sumOf
		if n, _ := r.Read(k[:]); n < len(k) {
			return errTrees
		}
		r.line = 0
		top, err := r.node(0)
		if err != nil {
			return err
		}
		remember(k, top)
	}
	return nil
}

// treeReader reads what treeWriter has written.
type treeReader struct {
	*bytes.Reader
	packed bool
	line   int
}

// node reads a node and what is in it; depth guards against a file without end.
func (r *treeReader) node(depth int) (*Tree, error) {
	if depth > 1000 {
		return nil, errTrees
	}
	n := &Tree{}
	if err := r.head(n); err != nil {
		return nil, err
	}
	var err error
	if n.Value, err = r.text(); err != nil {
		return nil, err
	}
	many, err := binary.ReadUvarint(r)
	if err != nil || many > uint64(r.Len()) { //nolint:gosec // a length
		return nil, errTrees
	}
	for range many {
		c, err := r.node(depth + 1)
		if err != nil {
			return nil, err
		}
		n.Content = append(n.Content, c)
	}
	return n, nil
}

// head reads what a node is, its tag and its line.
func (r *treeReader) head(n *Tree) (err error) {
	first, err := r.ReadByte()
	if err != nil {
		return errTrees
	}
	tag := byte(otherTag)
	if n.Kind = Kind(first); r.packed {
		n.Kind, tag = Kind(first>>4), first&15
		if tag != otherTag && int(tag) >= len(usualTags) {
			return errTrees
		}
	} else if err = r.lineAt(n, 0); err != nil {
		return err
	}
	if n.Kind > Scalar {
		return errTrees
	}
	if tag != otherTag {
		n.Tag = usualTags[tag]
	} else if n.Tag, err = r.text(); err != nil {
		return err
	}
	if r.packed {
		return r.lineAt(n, r.line)
	}
	return nil
}

// lineAt reads a line, which is counted from another.
func (r *treeReader) lineAt(n *Tree, from int) error {
	var by int64
	var err error
	if r.packed {
		by, err = binary.ReadVarint(r)
	} else {
		var line uint64
		line, err = binary.ReadUvarint(r)
		by = int64(min(line, MaxBytes+1)) //nolint:gosec // bounded
	}
	if err != nil || by > MaxBytes || int64(from)+by < 0 || int64(from)+by > MaxBytes {
		return errTrees
	}
	n.Line = from + int(by)
	r.line = n.Line
	return nil
}

// text reads a text.
func (r *treeReader) text() (string, error) {
	long, err := binary.ReadUvarint(r)
	if err != nil || long > uint64(r.Len()) { //nolint:gosec // a length
		return "", errTrees
	}
	text := make([]byte, long)
	_, _ = r.Read(text)
	return string(text), nil
}
