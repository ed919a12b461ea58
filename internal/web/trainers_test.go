package web

import (
	"encoding/json"
	"html"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/flight/trace"
	"maestrale/internal/demo/pilot"
	"maestrale/internal/store"
)

// call notes a call of the student's as an instructor does.
func (s *site) call(c *client, more map[string]any) reply {
	v := map[string]any{"id": store.NewID().String(), "craft": "poiana", "distance_m": 40, "light": "day", "shown": 1,
		"called": 1}
	for k, x := range more {
		v[k] = x
	}
	return c.json("/students/"+s.student.String()+"/sight", v)
}

// Calls are kept once and fitted; what cannot be is refused and nothing is kept; a student
// looks and does not note.
func TestCallsLimitWhatIsFlown(t *testing.T) {
	s := newSite(t)
	c, own := s.as(store.Instructor), s.as(store.Learner)
	at := "/students/" + s.student.String()
	page := plain(own.get(at + "/sight").body)
	if !strings.Contains(page, "80 m") || !strings.Contains(page, "no calls yet") || strings.Contains(page, "Carry it") {
		t.Errorf("before any call: %s", page)
	}
	id := store.NewID().String()
	for range 2 {
		if r := s.call(c, map[string]any{"id": id}); r.status != http.StatusOK || !strings.Contains(r.body, `"calls":1`) ||
			s.count("calls") != 1 {
			t.Fatalf("%d %s", r.status, r.body)
		}
	}
	for name, bad := range map[string]map[string]any{"distance": {"distance_m": 0.2}, "light": {"light": "moon"},
		"shown": {"shown": 4}, "called": {"called": -2}, "craft": {"craft": "a kite"}, "id": {"id": uuid.Nil.String()},
		"kind": {"distance_m": "far"}} {
		if r := s.call(c, bad); r.status != http.StatusUnprocessableEntity || s.count("calls") != 1 {
			t.Errorf("a wrong %s: %d %s", name, r.status, r.body)
		}
	}
	if r := s.call(own, nil); r.status != http.StatusForbidden {
		t.Errorf("a student notes calls: %d", r.status)
	}
	if r := c.json("/students/"+store.NewID().String()+"/sight", map[string]any{"id": id, "craft": "poiana",
		"distance_m": 40, "light": "day"}); r.status != http.StatusNotFound {
		t.Errorf("nobody's call: %d", r.status)
	}
	// Eyes that tell to some ten metres limit the pad, the simulator's level and the lesson.
	for range 6 {
		for metres, called := range map[int]int{10: 1, 15: 2, 20: 3} {
			if r := s.call(c, map[string]any{"distance_m": metres, "called": called}); r.status != http.StatusOK {
				t.Fatalf("%d %s", r.status, r.body)
			}
		}
	}
	page = plain(c.get(at + "/sight").body)
	if !strings.Contains(page, "by 19 calls") || !strings.Contains(page, "Beyond it, of the ladder") ||
		!strings.Contains(page, "could not tell") {
		t.Errorf("after calls: %s", page)
	}
	far, reach := "", 0.0 // the drill that goes farthest
	for _, d := range drill.Shipped().InOrder() {
		if task, err := d.Lay(d.Sides()[0], 1, "light", nil); err == nil && d.Closed == drill.Open && task.ReachM() > reach {
			far, reach = d.Key, task.ReachM()
		}
	}
	if p := c.padPage("drill=" + far); !strings.Contains(p, "First Student can tell nose from tail to") {
		t.Errorf("the pad: %s", p)
	}
	if p := plain(c.get(at + "/fly?drill=" + far).body); !strings.Contains(p, "First Student can tell nose from tail to") {
		t.Errorf("the simulator: %s", p)
	}
	if p := c.padPage("drill=hover-tail-in"); !strings.Contains(p, `"too_far":""`) {
		t.Error("a hover a few metres away is too far")
	}
	if p := plain(c.get(at + "/sight?light=dusk").body); !strings.Contains(p, "“dusk”") {
		t.Errorf("at dusk: %s", p)
	}
}

// lostConfig is what the trainer's page gives.
type lostConfig struct {
	Spec trace.Spec
	Lost struct {
		Level string
		NearM float64 `json:"near_m"`
		Birds int
	}
}

// plain is the text of a page, with single spaces.
func plain(body string) string {
	return strings.NewReplacer(" ,", ",", " :", ":", " .", ".").Replace(strings.Join(strings.Fields(text(body)), " "))
}

func (s *site) lostPage(c *client, query string) (lostConfig, reply) {
	s.t.Helper()
	r := c.get("/students/" + s.student.String() + "/fly?" + query)
	var out lostConfig
	if m := regexp.MustCompile(`data-config="([^"]*)"`).FindStringSubmatch(r.body); m != nil {
		if err := json.Unmarshal([]byte(html.UnescapeString(m[1])), &out); err != nil {
			s.t.Fatal(err)
		}
	}
	return out, r
}

// A lost craft is flown from what the page gives, judged, kept as a run of its grade, shown
// with what could be known, and counts in the simulator alone; with the coach it is practice.
func TestALostCraftIsBroughtHome(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Learner)
	at := "/students/" + s.student.String()
	page := plain(c.get(at + "/lost").body)
	for _, want := range []string{"Still air due", "0 of 0", "Which school when", "Turn until it hangs still",
		"Your instructor has the protocol"} {
		if !strings.Contains(page, want) {
			t.Errorf("the trainer lacks %q: %s", want, page)
		}
	}
	for query, want := range map[string]string{"lost=fog&drill=regain-read": "is not known; expected still",
		"lost=still&drill=hover-tail-in": "no orientation to regain", "lost=still&drill=free": "no drill is named"} {
		if r := c.get(at + "/fly?" + query); r.status != http.StatusUnprocessableEntity || !strings.Contains(plain(r.body),
			want) {
			t.Errorf("%s: %d %s", query, r.status, plain(r.body))
		}
	}
	got, r := s.lostPage(c, "lost=wind&drill=regain-turn")
	if got.Spec.WindMps != 3 || got.Spec.Aids != "height-hold" || got.Lost.Level != "wind" || got.Spec.Lost != "wind" ||
		got.Lost.Birds != 0 {
		t.Errorf("%+v", got)
	}
	if !strings.Contains(plain(r.body), "Lost: Wind") {
		t.Errorf("%s", plain(r.body))
	}
	got, _ = s.lostPage(c, "lost=still&drill=regain-read&seed=4")
	flown, err := pilot.Fly(got.Spec, drill.Shipped(), pilot.Of(0.02, 1), 4)
	if err != nil {
		t.Fatal(err)
	}
	id := store.NewID().String()
	state, status := s.send(c, id, flown.Run)
	if status != http.StatusOK || state.Verdict == nil || !state.Verdict.Counts || !strings.Contains(state.Verdict.Again,
		"lost=still") {
		t.Fatalf("%d %+v %+v", status, state, state.Verdict)
	}
	page = plain(c.get("/attempts/" + id).body)
	for _, want := range []string{"What could be known", "bits", "ahead", "most informative movement"} {
		if !strings.Contains(page, want) {
			t.Errorf("the debrief lacks %q: %s", want, page)
		}
	}
	coached := strings.Replace(flown.Run, `"coach":false`, `"coach":true`, 1)
	if state, _ := s.send(c, store.NewID().String(), coached); state.Verdict == nil || state.Verdict.Counts ||
		!strings.Contains(state.Verdict.WhyNot, "coach") {
		t.Errorf("%+v", state.Verdict)
	}
	page = plain(c.get(at + "/lost").body)
	if !strings.Contains(page, "of 1") || !strings.Contains(page, "with the coach") {
		t.Errorf("the runs: %s", page)
	}
	// Nobody says after the run that the craft was lost.
	if state, _ := s.send(c, store.NewID().String(), strings.Replace(flown.Run, `"lost":"still"`, `"lost":"birds"`,
		1)); state.Refused == "" {
		t.Error("another grade was taken")
	}
}

// The sheet is the spotter's: a distance beyond the eyes, seconds of yaw each way, and the
// same again by its number.
func TestTheLostSheet(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Spotter)
	at := "/students/" + s.student.String() + "/lost/sheet?draw=7"
	page := plain(c.get(at).body)
	for _, want := range []string{"Only with a spotter", "90 m", "tells its nose to 80 m", "left for", "right for",
		"farther than 100 m, or after 22 s", "Local rules", "turn 7"} {
		if !strings.Contains(page, want) {
			t.Errorf("the sheet lacks %q: %s", want, page)
		}
	}
	yaw := regexp.MustCompile(`left for [\d.]+ s, then right for [\d.]+ s`)
	if again := plain(c.get(at).body); yaw.FindString(again) == "" || yaw.FindString(again) != yaw.FindString(page) {
		t.Errorf("%q and %q", yaw.FindString(page), yaw.FindString(again))
	}
	if r := s.as(store.Learner).get(at); r.status != http.StatusForbidden {
		t.Errorf("the pilot reads it: %d", r.status)
	}
}

func TestTrainersAndPlannedYaw(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Learner)
	page := plain(c.get("/students/" + s.student.String() + "/trainers").body)
	for _, want := range []string{"Two minutes a day", "0 of 30 answered", "Lost craft", "80 m", "Planned yaw",
		"Begin: reflexes"} {
		if !strings.Contains(page, want) {
			t.Errorf("the trainers lack %q: %s", want, page)
		}
	}
	if r := c.get("/students/" + s.other.String() + "/trainers"); r.status != http.StatusNotFound {
		t.Errorf("another's: %d", r.status)
	}
	if page = c.get("/fly/yaw").body; !strings.Contains(page, `value="subject-run" selected`) || !strings.Contains(page,
		"abeam") {
		t.Errorf("at first: %s", plain(page))
	}
	// 2 m/s past a subject 5 m off: 2/5 rad/s, 22.9°/s, a quarter of the Poiana's 90°/s.
	page = plain(c.get("/fly/yaw?drill=own&speed=2&offset=5").body)
	for _, want := range []string{"The yaw rate reaches 23 °/s: 25 % of the stick",
		"up to 6.3 m/s here, or as near as 1.6 m",
		"begins to turn"} {
		if !strings.Contains(page, want) {
			t.Errorf("the plan lacks %q: %s", want, page)
		}
	}
	if page = plain(c.get("/fly/yaw?drill=own&shape=orbit&speed=9,5&offset=6").body); !strings.Contains(page,
		"Too fast for the craft: 7.5 m/s at most here") {
		t.Errorf("too fast: %s", page)
	}
	if page = c.get("/fly/yaw?drill=subject-run").body; !strings.Contains(page, "/fly?drill=subject-run") ||
		!strings.Contains(page, "never a person") {
		t.Errorf("of a drill: %s", plain(page))
	}
	for query, want := range map[string]string{"drill=own&speed=-3": "expected a number from 0.1 to 60",
		"drill=own&offset=x": "expected a number from 0.5 to " +
			"1000", "drill=hover-tail-in": "keeps no nose on a subject", "drill=nonsense": "nonsense"} {
		if r := c.get("/fly/yaw?" + query); r.status != http.StatusUnprocessableEntity || !strings.Contains(plain(r.body),
			want) {
			t.Errorf("%s: %d %s", query, r.status, plain(r.body))
		}
	}
}
