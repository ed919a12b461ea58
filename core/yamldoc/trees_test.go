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
	text := []byte("format: x\nlist: [1, 2.5, {a: \"ü\"}]\nmore:\n  - {b: true, c: !own d, e: 2026-01-02, f: }\n" +
		"  - |\n    long\n    text\n")
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
	for name, way := range map[string]struct {
		write func(...[]byte) []byte
		read  func([]byte) error
	}{"as it is": {TreesOf, Remember}, "packed": {PackedTreesOf, RememberPacked}} {
		remember(k, was)
		written := way.write(text)
		Forget()
		if err := way.read(written); err != nil {
			t.Fatal(name, err)
		}
		if is := known(k); is == nil || !same(was, is) {
			t.Errorf("%s: another tree", name)
		}
		for cut := range written {
			if err := way.read(written[:cut]); err == nil && cut > 0 {
				t.Fatalf("%s: %d of %d bytes are taken for trees", name, cut, len(written))
			}
		}
	}
	if d, _ := Read([]byte("a: [")); d.Err() == nil || known(keyOf([]byte("a: ["))) != nil {
		t.Error("a text that cannot be read is remembered")
	}
}

func FuzzRemember(f *testing.F) {
	text := []byte("a: {b: [c, !own d]}\n\ne: 3")
	f.Add(TreesOf(text))
	f.Add(PackedTreesOf(text))
	f.Fuzz(func(_ *testing.T, data []byte) { _, _ = Remember(data), RememberPacked(data) })
}
