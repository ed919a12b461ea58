// Package yamldoc reads the YAML files of the product strictly: every key has
// to be known, every value of the kind that was asked for, and an error says
// the line, what stands there and what was expected.
//
// A reader walks the tree once and asks for what it knows. The first thing
// that is wrong is kept and everything after it answers with zero values, so
// that a reader checks Err once, at its end.
package yamldoc

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"maestrale/core/misread"
)

// MaxBytes is the largest file that is read.
const MaxBytes = 1 << 20

// Error is a mistake in the file; its Line is never 0 but for the file as a whole.
type Error = misread.Error

// Doc is one file being read.
type Doc struct{ err error }

// Err returns the first mistake found so far.
func (d *Doc) Err() error { return d.err }

// fail notes what is wrong at a node; the first mistake stays.
func (d *Doc) fail(n *Tree, what, expected string) {
	if d.err == nil {
		d.err = wrong(n.Line, what, expected)
	}
}

// Kind is what a part of a document is.
type Kind uint8

// The kinds.
const (
	Whole Kind = iota // the document, with its top value
	Mapping
	Sequence
	Scalar
)

// Tree is a document, or a part of it, as it was parsed. A mapping holds its
// keys and values in turn.
type Tree struct {
	Kind       Kind
	Line       int
	Tag, Value string
	Content    []*Tree
}

// Node is a value in the file. The zero Node stands for a key that is absent.
type Node struct {
	doc  *Doc
	n    *Tree
	path string
}

// Read parses one YAML document and returns its top value.
func Read(data []byte) (*Doc, Node) {
	d := &Doc{}
	if len(data) > MaxBytes {
		d.err = wrong(0, msgFileTooLarge, msgWantWrittenFile)
		return d, Node{doc: d}
	}
	key := keyOf(data)
	if top := known(key); top != nil {
		return d, Node{d, top.Content[0], ""}
	}
	var top *Tree
	if top, d.err = parse(data); d.err != nil {
		if top == nil {
			return d, Node{doc: d}
		}
		return d, Node{d, top.Content[0], ""}
	}
	remember(key, top)
	return d, Node{d, top.Content[0], ""}
}

// Present tells whether the key was there.
func (n Node) Present() bool { return n.n != nil }

// Line returns the line of the value.
func (n Node) Line() int {
	if n.n == nil {
		return 0
	}
	return n.n.Line
}

// Fail records that the value is wrong.
func (n Node) Fail(what, expected string) {
	if n.n == nil {
		if n.doc.err == nil {
			n.doc.err = wrong(0, what, expected)
		}
		return
	}
	n.doc.fail(n.n, what, expected)
}

// label names a node in an error by the keys that lead to it.
func (n Node) label() string {
	if n.path == "" {
		return "the document"
	}
	return n.path
}

// written is what stands at a node, as an error shows it.
func (n Node) written() string {
	switch n.n.Kind {
	case Mapping:
		return "a mapping"
	case Sequence:
		return "a list"
	}
	v := n.n.Value
	if len(v) > 40 {
		v = v[:40] + "…"
	}
	return strconv.Quote(v)
}

// IsMap tells whether the value is a mapping.
func (n Node) IsMap() bool { return n.n != nil && n.n.Kind == Mapping }

// IsList tells whether the value is a list.
func (n Node) IsList() bool { return n.n != nil && n.n.Kind == Sequence }

// Map returns the value as a mapping.
func (n Node) Map() Map {
	m := Map{node: n}
	if n.n == nil || n.doc.err != nil {
		return m
	}
	if n.n.Kind != Mapping {
		n.Fail(n.label()+" is "+n.written(), "a mapping")
		return m
	}
	for i := 0; i+1 < len(n.n.Content); i += 2 {
		k := n.n.Content[i]
		for j := 0; j < i; j += 2 {
			if n.n.Content[j].Value == k.Value {
				n.doc.fail(k, fmt.Sprintf(msgKeyTwice, k.Value), msgWantKeyOnce)
			}
		}
	}
	return m
}

// List returns the values of a list.
func (n Node) List() []Node {
	if n.n == nil || n.doc.err != nil {
		return nil
	}
	if n.n.Kind != Sequence {
		n.Fail(n.label()+" is "+n.written(), "a list")
		return nil
	}
	out := make([]Node, len(n.n.Content))
	for i, c := range n.n.Content {
		out[i] = Node{n.doc, c, fmt.Sprintf("%s[%d]", n.path, i)}
	}
	return out
}

// scalar is the text of a node with a tag; ok is false, with the mistake noted,
// where it is another.
func (n Node) scalar(tag, expected string) (string, bool) {
	if n.n == nil || n.doc.err != nil {
		return "", false
	}
	if n.n.Kind != Scalar || n.n.Tag == "!!null" || (tag != "" && n.n.Tag != tag) {
		n.Fail(n.label()+" is "+n.written(), expected)
		return "", false
	}
	return n.n.Value, true
}

// Text returns the value as text.
func (n Node) Text() string {
	s, _ := n.scalar("!!str", "text")
	return s
}

// Scalar returns the value as it is written, whatever its kind.
func (n Node) Scalar() string {
	s, _ := n.scalar("", "one value")
	return s
}

// Word returns the value as text that must be one of the given words.
func (n Node) Word(words ...string) string {
	expected := strings.Join(words, ", ")
	s, ok := n.scalar("", expected)
	if ok && !slices.Contains(words, s) {
		n.Fail(n.label()+" is "+n.written(), expected)
		return ""
	}
	return s
}

// Bool returns the value as true or false.
func (n Node) Bool() bool {
	s, _ := n.scalar("!!bool", msgWantBool)
	return s == "true"
}

// Number returns the value as a finite number in [low, high].
func (n Node) Number(low, high float64) float64 {
	expected := fmt.Sprintf(msgWantNumber, low, high)
	s, ok := n.scalar("", expected)
	if !ok {
		return 0
	}
	v, err := strconv.ParseFloat(s, 64)
	if err != nil || math.IsNaN(v) || v < low || v > high || (n.n.Tag != "!!int" && n.n.Tag != "!!float") {
		n.Fail(n.label()+" is "+n.written(), expected)
		return 0
	}
	return v
}

// Int returns the value as a whole number in [low, high].
func (n Node) Int(low, high int) int {
	v := n.Number(float64(low), float64(high))
	if v != math.Trunc(v) {
		n.Fail(n.label()+" is "+n.written(), fmt.Sprintf(msgWantWhole, low, high))
		return 0
	}
	return int(v)
}

// IsNumber tells whether the value is written as a number.
func (n Node) IsNumber() bool {
	return n.n != nil && n.n.Kind == Scalar && (n.n.Tag == "!!int" || n.n.Tag == "!!float")
}

// Map is a mapping whose keys are asked for one by one.
type Map struct {
	node  Node
	asked []string
}

// Node returns the mapping itself, for its line.
func (m *Map) Node() Node { return m.node }

// Keys returns the keys in the order of the file.
func (m *Map) Keys() []string {
	var keys []string
	if m.node.IsMap() {
		for i := 0; i+1 < len(m.node.n.Content); i += 2 {
			keys = append(keys, m.node.n.Content[i].Value)
		}
	}
	return keys
}

// Get returns the value of key, absent or not.
func (m *Map) Get(key string) Node {
	m.asked = append(m.asked, key)
	out := Node{doc: m.node.doc, path: key}
	if m.node.path != "" {
		out.path = m.node.path + "." + key
	}
	if m.node.IsMap() {
		for i := 0; i+1 < len(m.node.n.Content); i += 2 {
			if m.node.n.Content[i].Value == key {
				out.n = m.node.n.Content[i+1]
			}
		}
	}
	return out
}

// Need returns the value of key, which must be there.
func (m *Map) Need(key string) Node {
	n := m.Get(key)
	if !n.Present() && m.node.Present() {
		m.node.Fail(fmt.Sprintf("%s has no %q", m.node.label(), key), "that key")
	}
	return n
}

// Done refuses every key that was not asked for. At the top of the file, where
// everything is asked for whatever was wrong before, an unknown key that stands
// above the mistake found so far is told instead.
func (m *Map) Done() {
	doc := m.node.doc
	if !m.node.IsMap() || (doc.err != nil && m.node.path != "") {
		return
	}
	for i := 0; i+1 < len(m.node.n.Content); i += 2 {
		k := m.node.n.Content[i]
		if slices.Contains(m.asked, k.Value) {
			continue
		}
		var before *Error
		if errors.As(doc.err, &before) && before.Line > k.Line {
			doc.err = nil
		}
		doc.fail(k, fmt.Sprintf(msgUnknownKey, k.Value, m.node.label()), "one of "+strings.Join(m.asked, ", "))
		return
	}
}

// wrong makes an error.
func wrong(line int, what, expected string) *Error {
	return &Error{Line: line, What: what, Expected: expected}
}
