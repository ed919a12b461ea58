package yamldoc

import "testing"

func same(a, b *Tree) bool {
	if a.Kind != b.Kind || a.Value != b.Value || a.Tag != b.Tag || a.Line != b.Line || len(a.Content) != len(b.Content) {
		return false
	}
	for i := range a.Content {
		if !same(a.Content[i], b.Content[i]) {
			return false
		}
	}
	return true
}

// What was parsed once is read from its tree, with its lines, and a tree that was written down is the same.
func TestTreesAreWhatWasParsed(t *testing.T) {
	text := []byte("format: x\nlist: [1, 2.5, {a: \"ü\"}]\nmore:\n  - {b: true}\n  - |\n    long\n    text\n")
	_, n := Read(text)
	m := n.Map()
	if line := m.Get("more").Line(); line != 4 {
		t.Fatalf("line %d", line)
	}
	k := keyOf(text)
	was := known(k)
	if was == nil {
		t.Fatal("it is not remembered")
	}
	written := TreesOf(text)
	Forget()
	if err := Remember(written); err != nil {
		t.Fatal(err)
	}
	if is := known(k); is == nil || !same(was, is) {
		t.Error("another tree")
	}
	for cut := range written {
		if err := Remember(written[:cut]); err == nil && cut > 0 {
			t.Fatalf("%d of %d bytes are taken for trees", cut, len(written))
		}
	}
	if d, _ := Read([]byte("a: [")); d.Err() == nil || known(keyOf([]byte("a: ["))) != nil {
		t.Error("a text that cannot be read is remembered")
	}
}

func FuzzRemember(f *testing.F) {
	f.Add(TreesOf([]byte("a: {b: [c]}")))
	f.Fuzz(func(_ *testing.T, data []byte) { _ = Remember(data) })
}
