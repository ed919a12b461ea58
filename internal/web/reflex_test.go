package web

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"

	"maestrale/internal/store"
)

// An answer is judged by its first movement, kept once, and followed by another item; what
// is void is not kept, and what cannot be is refused.
func TestReflexAnswers(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Learner)
	at := "/students/" + s.student.String() + "/reflex"
	id := store.NewID().String()
	answer := func(more map[string]any) (reply, map[string]any) {
		v := map[string]any{"id": id, "item": "bring-left/8", "seconds": 0.7, "roll": 1, "pitch": 0, "yaw": 0}
		for k, x := range more {
			v[k] = x
		}
		r := c.json(at, v)
		var out map[string]any
		_ = json.Unmarshal([]byte(r.body), &out)
		return r, out
	}
	for range 2 { // sent again
		if r, out := answer(nil); r.status != 200 || out["right"] != true || out["next"].(map[string]any)["key"] == "" ||
			s.count("reflexes") != 1 {
			t.Fatalf("nose-in, to the left, by a push to the right: %d %s, %d kept", r.status, r.body, s.count("reflexes"))
		}
	}
	if _, out := answer(map[string]any{"id": store.NewID().String(), "roll": -1}); out["right"] != false ||
		s.count("reflexes") != 2 {
		t.Error("a push to the left is right")
	}
	if _, out := answer(map[string]any{"id": store.NewID().String(), "void": true}); out["void"] != true ||
		s.count("reflexes") != 2 {
		t.Error("what was void was kept")
	}
	for name, bad := range map[string]map[string]any{"item": {"item": "dance/3"}, "seconds": {"seconds": -1},
		"too slow": {"seconds": 900}, "stick": {"roll": 7}, "id": {"id": "00000000-0000-0000-0000-000000000000"},
		"kind": {"seconds": "fast"}} {
		if r, _ := answer(bad); r.status != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d", name, r.status)
		}
	}
	p := c.get(at)
	if p.status != 200 || !strings.Contains(p.body, "2 of 30 answered") || !strings.Contains(p.body,
		`class="reflex-ring"`) || !strings.Contains(p.body, "nose-in") {
		t.Errorf("%d %s", p.status, p.body)
	}
	if r := c.json("/students/"+s.other.String()+"/reflex", map[string]any{"id": id,
		"item": "bring-left/8"}); r.status == 200 {
		t.Error("a student answers for another")
	}
	if n := s.count("attempts"); n != 0 {
		t.Errorf("%d attempts of a trainer", n)
	}
}
