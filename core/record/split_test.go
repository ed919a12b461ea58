package record

import (
	"bytes"
	"encoding/json"
	"math/rand/v2"
	"testing"
)

func checkCut(t *testing.T, text []byte) {
	t.Helper()
	var want map[string]json.RawMessage
	wrong := json.Unmarshal(text, &want)
	got, err := membersOf(text)
	if (err == nil) != (wrong == nil) {
		t.Fatalf("%q: %v; expected %v", text, err, wrong)
	}
	if err == nil && len(got) != len(want) {
		t.Fatalf("%q: %q; expected %q", text, got, want)
	}
	for k, v := range got {
		if !bytes.Equal(v, want[k]) {
			t.Fatalf("%q: %q is %q; expected %q", text, k, v, want[k])
		}
		var list []json.RawMessage
		notList := json.Unmarshal(v, &list)
		cut, err := elementsOf(v)
		if (err == nil) != (notList == nil) || len(cut) != len(list) {
			t.Fatalf("%q: %q, %v; expected %q, %v", v, cut, err, list, notList)
		}
		for i := range cut {
			if !bytes.Equal(cut[i], list[i]) {
				t.Fatalf("%q: element %d is %q; expected %q", v, i, cut[i], list[i])
			}
		}
	}
}

// Documents are cut as encoding/json cuts them, and what is no JSON is refused alike.
func TestCutAsByEncodingJSON(t *testing.T) {
	parts := []string{"{", "}", "[", "]", ",", ":", `"a"`, `"b\""`, `"\\"`, `"x\u0041"`, "1", "-2.5e3", "true", "null",
		" ", "\n", `{"a":1}`, `[1, "]"]`, `"a":`, `"c" : [ 1 ,2 ]`, `{"a": [{"b": "}"}], "c":null}`}
	r := rand.New(rand.NewPCG(22, 8))
	for range 200_000 {
		text := []byte("{")
		for range r.IntN(9) {
			text = append(text, parts[r.IntN(len(parts))]...)
		}
		checkCut(t, append(text, '}'))
		checkCut(t, text)
	}
}

func FuzzCut(f *testing.F) {
	f.Add([]byte(`{"a": [{"b": "}"}, 1], "c\\": null}`))
	f.Fuzz(checkCut)
}
