package craft

import (
	"strings"
	"testing"
	"testing/fstest"
)

func TestShippedTypesAreThoseOfTheDesign(t *testing.T) {
	c := Shipped()
	for _, want := range []struct {
		key   string
		class Class
		has   string
		not   string
	}{
		{"rondine", Micro, "self-level tumble rate", "position-hold height-hold"},
		{"gheppio", Light, "height-hold self-level tumble rate", "position-hold"},
		{"poiana", Light, "position-hold height-hold", "self-level rate"},
		{"airone", Heavy, "position-hold height-hold self-level", "tumble rate"},
	} {
		got, ok := c[want.key]
		if !ok || got.Class() != want.class {
			t.Errorf("%s: found %v, class %q, want %q", want.key, ok, got.Class(), want.class)
		}
		for _, a := range strings.Fields(want.has) {
			if !got.Has(Aids(a)) {
				t.Errorf("%s lacks %s", want.key, a)
			}
		}
		for _, a := range strings.Fields(want.not) {
			if got.Has(Aids(a)) {
				t.Errorf("%s has %s", want.key, a)
			}
		}
	}
	if got := strings.Join(c.Keys(), " "); got != "rondine gheppio poiana airone" {
		t.Errorf("keys in order of span: %s", got)
	}
}

func TestClassBoundaries(t *testing.T) {
	for span, want := range map[float64]Class{0.149: Micro, 0.15: Light, 0.399: Light, 0.4: Medium, 0.799: Medium,
		0.8: Heavy} {
		if got := ClassOf(span); got != want {
			t.Errorf("ClassOf(%v) = %s, want %s", span, got, want)
		}
	}
}

func TestFewerFollowsTheOrder(t *testing.T) {
	for i, a := range AidsOrder {
		for j, b := range AidsOrder {
			if a.Fewer(b) != (i > j) {
				t.Errorf("%s fewer than %s: %v", a, b, a.Fewer(b))
			}
		}
	}
}

func TestAddIsAllOrNothing(t *testing.T) {
	c := Catalogue{}
	good := &fstest.MapFile{Data: []byte("format: maestrale-craft/1\nkey: a\ntitle: A\nkind: k\nspan_m: 0.5\nmass_kg: " +
		"1\naids: [rate]\n")}
	bad := &fstest.MapFile{Data: []byte("format: maestrale-craft/1\nkey: b\ntitle: B\nkind: k\nspan_m: 0.5\nmass_kg: " +
		"1\naids: [magic]\n")}
	err := c.Add(fstest.MapFS{"d/a.yaml": good, "d/b.yaml": bad}, "d")
	if err == nil || !strings.Contains(err.Error(), "d/b.yaml:7: ") || len(c) != 0 {
		t.Errorf("err %v, %d types kept", err, len(c))
	}
	if err := c.Add(fstest.MapFS{"d/a.yaml": good}, "d"); err != nil || c["a"].Class() != Medium {
		t.Errorf("err %v, %+v", err, c)
	}
}
