package web

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/coder/websocket"
	"github.com/google/uuid"

	"maestrale/core/flight/trace"
	"maestrale/internal/store"
	"maestrale/internal/web/fly"
)

// dial opens a line as somebody.
func (c *client) dial(path string) (*websocket.Conn, *http.Response, error) {
	h := http.Header{}
	for _, k := range c.Jar.Cookies(mustURL(c.s.url)) {
		h.Add("Cookie", k.String())
	}
	return websocket.Dial(bg, "ws"+strings.TrimPrefix(c.s.url, "http")+path, &websocket.DialOptions{HTTPHeader: h,
		CompressionMode: websocket.CompressionDisabled}) //nolint:bodyclose // the socket's
}

func (c *client) line(path string) *websocket.Conn {
	c.s.t.Helper()
	conn, _, err := c.dial(path)
	if err != nil {
		c.s.t.Fatal(err)
	}
	c.s.t.Cleanup(func() { _ = conn.CloseNow() })
	return conn
}

func say(t *testing.T, conn *websocket.Conn, v any) {
	t.Helper()
	data, err := json.Marshal(v)
	if err == nil {
		err = conn.Write(bg, websocket.MessageText, data)
	}
	if err != nil {
		t.Fatal(err)
	}
}

func hear(t *testing.T, conn *websocket.Conn, v any) {
	t.Helper()
	if err := fly.ReadLine(bg, conn, v); err != nil {
		t.Fatal(err)
	}
}

// An instructor watches a run on another machine and lets a gust happen; it is in
// the trace that the server flies again, and in the debrief. A trace that claims
// what no instructor sent is refused.
func TestAnInstructorLetsAGustHappen(t *testing.T) {
	s := newSite(t)
	pilot, teacher := s.as(store.Learner), s.as(store.Instructor)
	at := "/students/" + s.student.String()
	var given struct{ Spec trace.Spec }
	run := store.NewID()
	s.flown(pilot, hoverQuery, func(rec *trace.Recorder, i int) (float64, float64) { return hovering(rec, i) })
	given.Spec = trace.Spec{Craft: "poiana", Drill: "hover-tail-in", Side: "none", Level: 1, Aids: "position-hold",
		WindMps: 3, WindFromDeg: 180, Gusts: "light", Seed: 4}

	watching := teacher.line(at + "/watch/live")
	if p := text(teacher.get(at + "/watch").body); !strings.Contains(p, "flies nothing now") {
		t.Errorf("before anything is flown: %s", p)
	}
	flying := pilot.line(at + "/live")
	say(t, flying, fly.Hello{Run: run, Spec: given.Spec})
	var changed struct{ Changed bool }
	if hear(t, watching, &changed); !changed.Changed {
		t.Error("who watches is not told that a run began")
	}
	say(t, flying, fly.Picture{State: make([]float64, len(trace.Fields)), Sticks: []float64{0, 0, 0, 0.5}})
	var seen fly.Picture
	if hear(t, watching, &seen); len(seen.State) != len(trace.Fields) || seen.Sticks[3] != 0.5 {
		t.Errorf("%+v", seen)
	}
	if p := teacher.get(at + "/watch").body; !strings.Contains(p, run.String()) || !strings.Contains(p,
		"Inject a failure") {
		t.Error("the panel does not show the run")
	}
	if p := text(teacher.get("/fly").body); !strings.Contains(p, "First Student") || !strings.Contains(p,
		"Tail-in hover") {
		t.Error("the run does not stand among what is in the air")
	}
	if p := s.as(store.Spotter).get(at + "/watch").body; strings.Contains(p, "data-event") {
		t.Error("a spotter may inject failures")
	}

	for body, want := range map[string]int{
		`{"run":"` + run.String() + `","event":"arm"}`:        http.StatusUnprocessableEntity,
		`{"run":"` + run.String() + `","event":"gust=90"}`:    http.StatusUnprocessableEntity,
		`{"run":7,"event":"gust=6"}`:                          http.StatusBadRequest,
		`{"run":"` + uuid.NewString() + `","event":"gust=6"}`: http.StatusConflict,
	} {
		if r := teacher.json(at+"/watch", json.RawMessage(body)); r.status != want {
			t.Errorf("%s: %d %s", body, r.status, r.body)
		}
	}
	if n := s.count("injections"); n != 0 {
		t.Errorf("%d of what was refused are kept", n)
	}
	if r := teacher.json(at+"/watch", map[string]any{"run": run, "event": "gust=6"}); r.status != http.StatusOK ||
		!strings.Contains(r.body, "gust of 6 m/s") {
		t.Fatalf("%d %s", r.status, r.body)
	}
	var o fly.Order
	if hear(t, flying, &o); o.Event != "gust=6" || o.By != "The instructor" {
		t.Fatalf("%+v", o)
	}
	say(t, flying, fly.Picture{Got: []uuid.UUID{o.ID}})
	if hear(t, watching, &seen); len(seen.Got) != 1 || seen.Got[0] != o.ID {
		t.Errorf("the panel is not told that it happened: %+v", seen)
	}

	with := func(by string, times int) string {
		return s.flown(pilot, hoverQuery, func(rec *trace.Recorder, i int) (float64, float64) {
			if i == 1000 {
				for range times {
					_ = rec.Event(o.Event, by)
				}
			}
			return hovering(rec, i)
		})
	}
	for _, claim := range []string{with("The chief", 1), with(o.By, 2)} {
		if got, status := s.send(pilot, store.NewID().String(), claim); status != http.StatusUnprocessableEntity ||
			!strings.Contains(got.Refused, "no instructor did") {
			t.Errorf("a claim that nobody sent: %d %+v", status, got)
		}
	}
	got, status := s.send(pilot, run.String(), with(o.By, 1))
	if status != http.StatusOK || got.Verdict == nil || !strings.Contains(string(got.Plan), "<svg") {
		t.Fatalf("%d %+v", status, got)
	}
	if p := text(teacher.get("/attempts/" + run.String()).body); !strings.Contains(p,
		"10.0 s: gust of 6 m/s, by The instructor") {
		t.Error("the debrief does not tell of the gust")
	}
	_ = flying.Close(websocket.StatusNormalClosure, "")
	if hear(t, watching, &changed); !changed.Changed {
		t.Error("who watches is not told that the run ended")
	}
}

// Lines are closed to who may not have them, and to what makes no sense.
func TestLinesAreRefused(t *testing.T) {
	s := newSite(t)
	at, other := "/students/"+s.student.String(), "/students/"+s.other.String()
	for _, c := range []struct{ role, path string }{
		{"", at + "/live"}, {store.Learner, other + "/live"}, {store.Learner, at + "/watch/live"}, {store.Instructor,
			"/students/" + uuid.NewString() + "/live"},
	} {
		if conn, _, err := s.as(c.role).dial(c.path); err == nil {
			_ = conn.CloseNow()
			t.Errorf("%q may open %s", c.role, c.path)
		}
	}
	pilot := s.as(store.Learner)
	for _, first := range []any{"x", fly.Hello{Run: uuid.New(), Spec: trace.Spec{Craft: "a whale"}},
		fly.Hello{Run: uuid.Nil, Spec: trace.Spec{Craft: "poiana", Aids: "position-hold", Gusts: "none", Level: 1}}} {
		conn := pilot.line(at + "/live")
		say(t, conn, first)
		var o fly.Order
		if err := fly.ReadLine(bg, conn, &o); err == nil {
			t.Errorf("%v is taken", first)
		}
	}
	// A flight that is flown elsewhere leaves the first line.
	spec := trace.Spec{Craft: "poiana", Aids: "position-hold", Gusts: "none", Level: 1}
	first := pilot.line(at + "/live")
	say(t, first, fly.Hello{Run: uuid.New(), Spec: spec})
	for len(s.app.Live.Aloft(s.school)) == 0 {
		time.Sleep(time.Millisecond)
	}
	second := pilot.line(at + "/live")
	say(t, second, fly.Hello{Run: uuid.New(), Spec: spec})
	var o fly.Order
	if err := fly.ReadLine(bg, first, &o); websocket.CloseStatus(err) != websocket.StatusGoingAway {
		t.Errorf("%v", err)
	}
}

// A radio is kept for the person who set it; what no radio can have is one sentence.
func TestRadios(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Learner)
	ch := `{"axis":1,"reverse":true,"low":-1,"centre":0,"high":1,"dead":0.03,"expo":0.2}`
	set := func(mode, channel string) json.RawMessage {
		return json.RawMessage(`{"device":"a radio","settings":{"mode":` + mode + `,"channels":{"throttle":` + channel +
			`,"yaw":` + ch + `,"pitch":` + ch + `,"roll":` + ch +
			`},"switches":{"aids":{"axis":4,"says":["position-hold","height-hold"]}}}}`)
	}
	if r := c.json("/radio", set("3", ch)); r.status != http.StatusOK {
		t.Fatalf("%d %s", r.status, r.body)
	}
	if r := c.json("/radio", set("1", ch)); r.status != http.StatusOK || s.count("radios") != 1 {
		t.Fatalf("again: %d, %d radios", r.status, s.count("radios"))
	}
	if p := c.get("/students/" + s.student.String() + "/fly?" + hoverQuery).body; !strings.Contains(p, "a radio") ||
		!strings.Contains(p, `&#34;mode&#34;:1`) {
		t.Error("the Fly screen does not have it")
	}
	if p := text(c.get("/fly").body); !strings.Contains(p, "Set for you: a radio") {
		t.Error("the place does not name it")
	}
	if p := s.as(store.Chief).get("/radio").body; strings.Contains(p, "a radio&#34;") {
		t.Error("another person has it")
	}
	bad := func(from, to string) string { return strings.Replace(ch, from, to, 1) }
	for _, b := range []struct{ mode, channel, want string }{
		{"5", ch, "1 to 4"}, {"2", bad(`"centre":0`, `"centre":1`), "low < centre < high"}, {"2",
			bad(`"low":-1,"centre":0,"high":1`, `"low":0,"centre":0.05,"high":0.1`), "move the stick to both ends"},
		{"2", bad("0.03", "0.5"), "0 to 0.3"}, {"2", bad("0.2", "7"), "0 to 1"}, {"2", bad(`"axis":1`, `"axis":-1`),
			"0 to 63"}, {"2", "null", "the ends of throttle"},
	} {
		if r := c.json("/radio", set(b.mode, b.channel)); r.status != http.StatusUnprocessableEntity ||
			!strings.Contains(r.body, strings.ReplaceAll(b.want, "<", `\u003c`)) {
			t.Errorf("%s %s: %d %s", b.mode, b.channel, r.status, r.body)
		}
	}
}
