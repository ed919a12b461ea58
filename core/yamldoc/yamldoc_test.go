package yamldoc

import (
	"errors"
	"strings"
	"testing"
)

func readSample(data string) error {
	d, top := Read([]byte(data))
	m := top.Map()
	m.Need("name").Text()
	m.Get("count").Int(0, 10)
	m.Get("on").Bool()
	m.Get("kind").Word("a", "b")
	for _, n := range m.Get("list").List() {
		n.Number(-1, 1)
	}
	m.Done()
	return d.Err()
}

func TestErrorsNameTheLineAndWhatWasExpected(t *testing.T) {
	for _, c := range []struct {
		data, want string
		line       int
	}{
		{"", "empty", 0},
		{"name: x\n\tcount: 1\n", "not YAML", 2},
		{"count: 1\n", `no "name"`, 1},
		{"name: x\ncount: eleven\n", "a number from 0 to 10", 2},
		{"name: x\n\ncount: 11\n", "a number from 0 to 10", 3},
		{"name: x\ncount: 1.5\n", "whole number", 2},
		{"name: x\ncount: .nan\n", "a number", 2},
		{"name: x\non: maybe\n", "true or false", 2},
		{"name: x\nkind: c\n", "a, b", 2},
		{"name: x\nlist:\n  - 0\n  - 2\n", "list[1]", 4},
		{"name: x\nlist: 3\n", "a list", 2},
		{"name: x\ncolour: red\n", `unknown key "colour"`, 2},
		{"name: x\nname: y\n", "twice", 2},
		{"name: &a x\ncount: *a\n", "aliases", 1},
		{"name: x\n---\nname: y\n", "second document", 3},
		{"- name\n", "a mapping", 1},
		{"name: 12\n", "text", 1},
		{strings.Repeat("#", MaxBytes+1), "larger", 0},
	} {
		err := readSample(c.data)
		var e *Error
		if !errors.As(err, &e) {
			t.Errorf("%.30q: got %v, want an Error", c.data, err)
			continue
		}
		if e.Line != c.line || !strings.Contains(e.Error(), c.want) {
			t.Errorf("%.30q: got line %d, %q; want line %d and %q", c.data, e.Line, e, c.line, c.want)
		}
	}
	if err := readSample("name: x\ncount: 3\non: true\nkind: a\nlist: [0, 1]\n"); err != nil {
		t.Errorf("a right file was refused: %v", err)
	}
}

func FuzzRead(f *testing.F) {
	f.Add("name: x\ncount: 3\nlist: [1]\n")
	f.Add("a: &b [*b]")
	f.Fuzz(func(t *testing.T, data string) {
		if err := readSample(data); err != nil {
			var e *Error
			if !errors.As(err, &e) {
				t.Errorf("%q: %T is not an Error", data, err)
			}
		}
	})
}
