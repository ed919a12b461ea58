package marking

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/orient"
	"maestrale/core/readiness"
	"maestrale/core/score"
)

// Every shipped drill has a sheet on which every step says what it asks, and faults that
// are each of the one table.
func TestSheetsOfEveryDrill(t *testing.T) {
	for _, d := range drill.Shipped().InOrder() {
		for _, side := range d.Sides() {
			task, err := d.Lay(side, 1, craft.Light, nil)
			if err != nil {
				t.Fatal(err)
			}
			s := SheetOf(task)
			if len(s.Steps) != len(d.Steps) || s.Asked == "" || s.Scale != 1 {
				t.Errorf("%s: %+v", d.Key, s)
			}
			for _, step := range s.Steps {
				if step.Words == "" || step.Kind == "" {
					t.Errorf("%s: %+v", d.Key, step)
				}
			}
			for _, f := range s.Faults {
				m := score.Mark{ID: "x", TS: 1, Mark: "fault", Code: f.Code}
				if err := m.Valid(); err != nil {
					t.Errorf("%s: %v", d.Key, err)
				}
			}
		}
	}
}

var at = time.Date(2026, 5, 1, 9, 0, 0, 0, time.UTC)

func bundle(t *testing.T, change func(*Bundle)) []byte {
	t.Helper()
	b := Bundle{Format: Format, School: "Pan", TimeZone: "Europe/Rome", By: "Ettore", Made: at,
		Until:    at.Add(14 * time.Hour),
		Students: []StudentOf{{ID: "s1", Name: "Ada", Programme: "position-hold-first", Craft: "poiana"}}}
	if change != nil {
		change(&b)
	}
	data, err := json.Marshal(b)
	if err != nil {
		t.Fatal(err)
	}
	return data
}

func hover(id string, began time.Time) (Opening, []score.Mark) {
	o := Opening{ID: id, Student: "s1", Drill: "hover-tail-in", Side: field.NoSide, Level: 1, Aids: craft.PositionHold,
		Craft: "poiana", DeviceAt: began}
	var marks []score.Mark
	for i, m := range []score.Mark{{TS: 0, Mark: "start"}, {TS: 4, Mark: "in"}, {TS: 29, Mark: "touch", AwayM: ptr(0.2),
		RightM: ptr(0.1)}, {TS: 31, Mark: "done"}} {
		m.ID = fmt.Sprint(id, "-", i)
		marks = append(marks, m)
	}
	return o, marks
}

func ptr(v float64) *float64 { return &v }

// A desk judges as the server does, each attempt with those before it, however they come;
// one that is added again counts once.
func TestADeskKnowsWhatWasMarkedOnIt(t *testing.T) {
	d, err := Open(bundle(t, nil))
	if err != nil {
		t.Fatal(err)
	}
	want := []string{"untried → building", "building", "building"}
	for i, w := range want {
		o, marks := hover(fmt.Sprint("a", i), at.Add(time.Duration(i)*time.Hour))
		if state, ev, err := d.Judge(o, marks[:2], 10, o.DeviceAt); err != nil || state.Ended || !state.Inside || ev != nil {
			t.Fatalf("%+v %v", state, err)
		}
		state, ev, err := d.Judge(o, marks, 32, o.DeviceAt)
		if err != nil || !state.Ended || ev == nil || state.Verdict == nil || state.Verdict.Verdict != "pass" ||
			!strings.HasPrefix(state.Verdict.Standing, w) {
			t.Fatalf("%+v %+v %v", state, state.Verdict, err)
		}
		d.Add("s1", *ev)
		if again, _, err := d.Judge(o, marks, 32, o.DeviceAt); err != nil ||
			again.Verdict.Standing != state.Verdict.Standing {
			t.Errorf("judged again: %+v %v", again.Verdict, err)
		}
	}
	if rows := d.Rows(at.Add(4 * time.Hour)); len(rows) != 1 || rows[0].Marked != 3 || rows[0].Title == "" {
		t.Errorf("%+v", rows)
	}
	// What the record has by now is not counted twice.
	o, marks := hover("a0", at)
	d2, err := Open(bundle(t, func(b *Bundle) {
		b.Students[0].Evidence = []Evidence{{ID: "a0", At: at, Drill: "hover-tail-in", Side: "none", Level: 1,
			Aids: craft.PositionHold, Class: craft.Light, Source: score.Observed, Verdict: score.Pass, Counts: true}}
	}))
	if err != nil {
		t.Fatal(err)
	}
	if _, ev, err := d2.Judge(o, marks, 32, at); err != nil || len(d2.own["s1"]) != 0 || ev == nil {
		t.Errorf("%v %v", d2.own, err)
	}
}

func TestAPageOfTheDesk(t *testing.T) {
	course := "format: maestrale-course/1\nmarkers: {pad: [0, 6], centre: [0, 6]}\n"
	d, err := Open(bundle(t, func(b *Bundle) { b.Course = CourseOf{"c@1", "Pan, small", course} }))
	if err != nil {
		t.Fatal(err)
	}
	p, err := d.Page(Wanted{Student: "s1", Drill: "hover-tail-in"}, at)
	if err != nil || p.Course != "c@1" || p.On != "on Pan, small" || p.Title != "Tail-in hover" ||
		p.Before != "untried, three passes on two dates to go" && !strings.HasPrefix(p.Before, "untried") ||
		len(p.Drills) < 70 {
		t.Errorf("%+v %v", p, err)
	}
	if p, err = d.Page(Wanted{Student: "s1", Drill: "eight-kept", Side: "left"}, at); err != nil || p.Course != "" ||
		!strings.Contains(p.On, "not on Pan, small") || p.Other != field.RightSide {
		t.Errorf("%+v %v", p, err)
	}
	if p, err = d.Page(Wanted{Student: "s1"}, at); err != nil || p.Sheet.Drill == "" {
		t.Errorf("%+v %v", p, err)
	}
	for what, w := range map[string]Wanted{"nobody": {Student: "x"}, "no drill": {Student: "s1", Drill: "moon"},
		"closed": {Student: "s1", Drill: "hand-catch", Side: "left"}} {
		if _, err := d.Page(w, at); err == nil {
			t.Errorf("%s: no error", what)
		}
	}
}

// In a wind in which nothing is open the device's pad opens all the same, on what would be next without it, and says
// that an attempt is practice.
func TestAPageInAnyWind(t *testing.T) {
	calm, err := Open(bundle(t, nil))
	if err != nil {
		t.Fatal(err)
	}
	want, err := calm.Page(Wanted{Student: "s1"}, at)
	if err != nil || want.Wind != "" {
		t.Fatalf("%+v %v", want, err)
	}
	windy, err := Open(bundle(t, func(b *Bundle) { b.WindMps = ptr(14) }))
	if err != nil {
		t.Fatal(err)
	}
	got, err := windy.Page(Wanted{Student: "s1"}, at)
	if err != nil || got.Sheet.Drill != want.Sheet.Drill || got.Wind == "" {
		t.Errorf("%s in 14 m/s and %s in a calm, %q, %v", got.Sheet.Drill, want.Sheet.Drill, got.Wind, err)
	}
	if rows := windy.Rows(at); len(rows) != 1 || rows[0].Next.Drill != "" {
		t.Errorf("in 14 m/s the list offers %+v", rows)
	}
}

func TestADeskRefuses(t *testing.T) {
	for what, c := range map[string]struct {
		data []byte
		want string
	}{
		"nothing": {[]byte(""), "the day on this device"},
		"other":   {[]byte(`{"format":"maestrale-pad/9"}`), `expected "maestrale-pad/1"`},
		"a zone":  {bundle(t, func(b *Bundle) { b.TimeZone = "Moon/Base" }), "time zone"},
		"a drill": {bundle(t, func(b *Bundle) {
			b.Files = map[string]string{"x.yaml": "format: maestrale-drill/1\nkey: " +
				"x\n"}
		}), "x.yaml"},
		"a course": {bundle(t, func(b *Bundle) {
			b.Course.Source = "format: maestrale-course/1\nmarkers: {pad: [0, " +
				"-4]}\n"
		}), "behind the pilot"},
		"no format": {[]byte(`{}`), "expected"},
	} {
		if _, err := Open(c.data); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v", what, err)
		}
	}
	d, err := Open(bundle(t, nil))
	if err != nil {
		t.Fatal(err)
	}
	o, marks := hover("a", at)
	marks[1].Mark = "dance"
	if _, _, err := d.Judge(o, marks, 3, at); err == nil || !strings.Contains(err.Error(), "mark 2") {
		t.Errorf("%v", err)
	}
	o.Side = "left"
	if _, _, err := d.Judge(o, nil, 3, at); err == nil {
		t.Error("a side that the drill does not have")
	}
}

// A device's time is set right by how its clock stands, and its counter decides the order.
func TestWhenAnAttemptBegan(t *testing.T) {
	now := at
	ago := func(min float64) time.Time { return now.Add(-time.Duration(min * float64(time.Minute))) }
	ptr := func(x time.Time) *time.Time { return &x }
	for what, k := range map[string]struct {
		device        time.Time
		off           time.Duration
		before, after *time.Time
		want          time.Time
	}{
		"a clock that is right":         {ago(10), 0, nil, nil, ago(10)},
		"off by little":                 {ago(10), 29 * time.Second, nil, nil, ago(10)},
		"an hour ahead":                 {ago(-50), -time.Hour, nil, nil, ago(10)},
		"a year ahead":                  {now.AddDate(1, 0, 0), -365 * 24 * time.Hour, nil, nil, now},
		"never later than now":          {ago(-5), 0, nil, nil, now},
		"put back since the one before": {ago(90), 0, ptr(ago(20)), nil, ago(20).Add(time.Millisecond)},
		"put back before the one after": {ago(5), 0, nil, ptr(ago(20)), ago(20).Add(-time.Millisecond)},
		"between both":                  {ago(15), 0, ptr(ago(20)), ptr(ago(10)), ago(15)},
	} {
		if got := Began(k.device, k.off, now, k.before, k.after); !got.Equal(k.want) {
			t.Errorf("%s: %v; expected %v", what, got, k.want)
		}
	}
}

// The pad of a device knows how far each student tells the nose: it says so of a drill that
// goes farther, and hands out what the noting of calls needs.
func TestADeskKnowsTheEyes(t *testing.T) {
	near := func(b *Bundle) {
		for range 12 {
			b.Students[0].Calls = append(b.Students[0].Calls, orient.Call{DistanceM: 10}, orient.Call{DistanceM: 15})
		}
	}
	d, err := Open(bundle(t, near))
	if err != nil {
		t.Fatal(err)
	}
	st := d.Students[0]
	c, err := d.CallsOf(st.ID, orient.Dusk)
	if err != nil || c.SpacingM <= 0 || len(c.Calls) != 24 || c.Light != orient.Dusk ||
		len(c.Names) != len(orient.CalledAmong) || c.Name != st.Name {
		t.Errorf("%+v, %v", c, err)
	}
	p, err := d.Page(Wanted{Student: st.ID, Drill: "out-and-back"}, time.Now())
	if err != nil || !strings.Contains(p.TooFar, st.Name+" can tell nose from tail to") {
		t.Errorf("%q, %v", p.TooFar, err)
	}
	free, err := Open(bundle(t, nil))
	if err != nil {
		t.Fatal(err)
	}
	if p, err := free.Page(Wanted{Student: st.ID, Drill: "out-and-back"}, time.Now()); err != nil || p.TooFar != "" {
		t.Errorf("by the cue alone: %q, %v", p.TooFar, err)
	}
	if _, err := d.CallsOf("nobody", orient.Day); err == nil {
		t.Error("calls of nobody")
	}
}

// The orientation can be lost in every step but on the way up and down, and an answer is asked where a due has a limit.
func TestWhatAStepCanHave(t *testing.T) {
	for _, c := range []struct {
		kinds []drill.Kind
		lost  bool
	}{
		{[]drill.Kind{drill.TakeOff}, false}, {[]drill.Kind{drill.Land}, false},
		{[]drill.Kind{drill.TakeOff, drill.Land}, false}, {[]drill.Kind{drill.TakeOff, drill.Hold}, true},
		{[]drill.Kind{drill.Turn}, true},
	} {
		var task drill.Task
		for _, k := range c.kinds {
			task.Steps = append(task.Steps, drill.Target{Kind: k})
		}
		if got := slices.ContainsFunc(faultsOf(task), func(f Fault) bool { return f.Code == score.Lost }); got != c.lost {
			t.Errorf("%v: orientation can be lost: %v", c.kinds, got)
		}
	}
	for _, c := range []struct {
		seconds, distance float64
		asks              bool
	}{{0, 0, false}, {2, 0, true}, {0, 2, true}, {2, 2, true}} {
		step := stepOf(drill.Target{Kind: drill.Hold, During: []drill.Due{{Seconds: c.seconds, Distance: c.distance}}})
		if step.Happens[0].Asks != c.asks {
			t.Errorf("%+v asks for an answer: %v", c, step.Happens[0].Asks)
		}
	}
}

// A standing that stays is said once, and one that changes is said with what it was.
func TestWordsOfAStanding(t *testing.T) {
	var none, held readiness.Cell
	held.Standing, held.SimStanding = readiness.Held, readiness.Held
	for _, words := range []func(before, after readiness.Cell) string{simStandingWords, StandingWords} {
		if got := words(none, held); !strings.HasPrefix(got, none.Standing.String()+" → "+held.Standing.String()) {
			t.Errorf("from nothing to held: %q", got)
		}
		if got := words(held, held); strings.Contains(got, "→") || !strings.HasPrefix(got, held.Standing.String()) {
			t.Errorf("held and stays so: %q", got)
		}
	}
}
