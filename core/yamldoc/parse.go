//go:build !pad

package yamldoc

import (
	"errors"
	"io"
	"strconv"
	"strings"
	"sync/atomic"

	"go.yaml.in/yaml/v3"
)

// mostTrees is how many are kept; a catalogue has fewer.
const mostTrees = 512

var parsed atomic.Int64

// Parsed is how many documents were parsed since the program began.
func Parsed() int64 { return parsed.Load() }

// parse reads the one document of a text, at its first mistake with what was
// read, where that is something.
func parse(data []byte) (*Tree, error) {
	parsed.Add(1)
	var top yaml.Node
	dec := yaml.NewDecoder(strings.NewReader(string(data)))
	err := dec.Decode(&top)
	switch {
	case errors.Is(err, io.EOF):
		return nil, wrong(0, msgFileEmpty, "a YAML document")
	case err != nil:
		return nil, syntaxError(err)
	case len(top.Content) != 1:
		return nil, wrong(0, msgFileEmpty, "a YAML document")
	}
	var second yaml.Node
	tree := treeOf(&top)
	if err := dec.Decode(&second); err == nil && len(second.Content) > 0 {
		return tree, wrong(second.Content[0].Line, msgSecondDocument, msgWantOneDocument)
	} else if err != nil && !errors.Is(err, io.EOF) {
		return tree, syntaxError(err)
	}
	if n := alias(&top); n != nil {
		return tree, wrong(n.Line, msgNoAnchors, msgWantWrittenOut)
	}
	return tree, nil
}

// treeOf is what the reader's tree says.
func treeOf(n *yaml.Node) *Tree {
	t := &Tree{Line: n.Line, Tag: n.Tag, Value: n.Value}
	switch n.Kind {
	case yaml.MappingNode:
		t.Kind = Mapping
	case yaml.SequenceNode:
		t.Kind = Sequence
	case yaml.ScalarNode, yaml.AliasNode:
		t.Kind = Scalar
	}
	for _, c := range n.Content {
		t.Content = append(t.Content, treeOf(c))
	}
	return t
}

// syntaxError takes the line out of the decoder's message.
func syntaxError(err error) error {
	s := strings.TrimPrefix(err.Error(), "yaml: ")
	if rest, ok := strings.CutPrefix(s, "line "); ok {
		if num, what, ok := strings.Cut(rest, ": "); ok {
			if line, err := strconv.Atoi(num); err == nil {
				return wrong(line, "not YAML: "+what, "")
			}
		}
	}
	return wrong(1, "not YAML: "+s, "")
}

// alias is the first anchor or alias; nil where there is none.
func alias(n *yaml.Node) *yaml.Node {
	if n.Kind == yaml.AliasNode || n.Anchor != "" {
		return n
	}
	for _, c := range n.Content {
		if found := alias(c); found != nil {
			return found
		}
	}
	return nil
}
