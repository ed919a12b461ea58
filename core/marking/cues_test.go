package marking

import (
	"slices"
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/score"
)

// hearing marks a task and listens every tenth of a second.
func hearing(t *testing.T, key string, untilS float64, marks ...score.Mark) (said []string) {
	t.Helper()
	d, err := drill.Shipped().Drill(key)
	if err != nil {
		t.Fatal(err)
	}
	task, err := d.Lay(d.Sides()[0], 1, craft.Light, nil)
	if err != nil {
		t.Fatal(err)
	}
	var before *heard
	for now := 0.0; now <= untilS; now += 0.1 {
		var so []score.Mark
		for _, m := range marks {
			if m.TS <= now+1e-9 {
				so = append(so, m)
			}
		}
		s, _ := StateOf(task, so, now)
		if s.Ended {
			s.Verdict = &Verdict{Verdict: "pass"}
		}
		for _, c := range cuesOf(task, before, s, now) {
			said = append(said, c.Kind+" "+c.Words)
		}
		before = &heard{s, now}
	}
	return said
}

// A hover is heard from its beginning to its end: what each step asks, five seconds, done, out, and the verdict; each
// of it once, however often the pad listens.
func TestAHoverIsHeard(t *testing.T) {
	said := hearing(t, "hover-tail-in", 60, score.Mark{TS: 0, Mark: "start"}, score.Mark{TS: 5, Mark: "in"},
		score.Mark{TS: 12, Mark: "out", Toward: "left"}, score.Mark{TS: 14, Mark: "in"}, score.Mark{TS: 40, Mark: "touch"},
		score.Mark{TS: 43, Mark: "done"})
	var kinds []string
	for _, s := range said {
		kinds = append(kinds, strings.Fields(s)[0])
	}
	want := []string{"step", "count", "step", "out", "count", "count", "step", "count", "verdict"}
	if !slices.Equal(kinds, want) {
		t.Errorf("%q", said)
	}
	if !slices.Contains(said, "count five") || !strings.Contains(strings.Join(said, "\n"), "to the left") {
		t.Errorf("%q", said)
	}
}

// That the time of a step is over is said as that.
func TestATimeOutIsHeard(t *testing.T) {
	said := hearing(t, "marker-tour-tail", 300, score.Mark{TS: 0, Mark: "start"}, score.Mark{TS: 5, Mark: "in"},
		score.Mark{TS: 290, Mark: "rest"})
	if !slices.ContainsFunc(said, func(s string) bool { return strings.HasPrefix(s, CueTimeOut+" ") }) {
		t.Errorf("%q", said)
	}
}

// Every call that a drill asks for is said before it is marked.
func TestCallsAreSaid(t *testing.T) {
	calls := 0
	for _, d := range drill.Shipped().InOrder() {
		task, err := d.Lay(d.Sides()[0], 1, craft.Light, nil)
		if err != nil {
			continue
		}
		marks, _ := follow(t, task, 900)
		made := 0
		for _, m := range marks {
			if m.Mark == "call" {
				made++
			}
		}
		if made == 0 {
			continue
		}
		heardCalls := 0
		for _, s := range hearing(t, d.Key, marks[len(marks)-1].TS+1, marks...) {
			if strings.HasPrefix(s, CueCall+" ") {
				heardCalls++
			}
		}
		if heardCalls < made {
			t.Errorf("%s: %d calls are made, and %d said", d.Key, made, heardCalls)
		}
		calls += made
	}
	if calls < 10 {
		t.Errorf("%d calls in the whole catalogue", calls)
	}
}
