package marking

import (
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/score"
)

// follow marks what the pad asks for, as a patient hand does: it waits for the clock of the step, taps the ring, and
// lets happen what is to happen. It returns the marks and what came of them.
func follow(t *testing.T, task drill.Task, mostS float64) ([]score.Mark, State) {
	t.Helper()
	marks := []score.Mark{{TS: 0, Mark: "start"}}
	now := 0.0
	for now < mostS {
		s, _ := StateOf(task, marks, now)
		a := s.Ask
		if s.Ended || a.MainMark == "" {
			return marks, s
		}
		if a.Big == "" && !a.Clock {
			t.Fatalf("step %d at %.1f s: nothing stands in the ring: %+v", s.Step, now, a)
		}
		mark := a.Tap
		switch {
		case a.NeedS > 0 && now < a.SinceS+a.NeedS: // wait for the clock
			now += 0.5
			continue
		case mark == "out" || a.Big == "standing" || a.Big == "stands" || a.Clock && a.NeedS > 0 && mark == "moving" &&
			!strings.Contains(a.Small, "corner"):
			now += 0.5 // the step settles by itself
			continue
		}
		now += 1.2
		m := score.Mark{TS: now, Mark: mark}
		if mark == "touch" {
			zero := 0.0
			m.AwayM, m.RightM = &zero, &zero
		}
		marks = append(marks, m)
	}
	s, _ := StateOf(task, marks, now)
	return marks, s
}

// Who does what the pad asks comes to the end of every drill without a fault.
func TestWhoDoesWhatIsAskedComesToTheEnd(t *testing.T) {
	seen := map[drill.Kind]bool{}
	for _, d := range drill.Shipped().InOrder() {
		for _, side := range d.Sides() {
			task, err := d.Lay(side, 1, craft.Light, nil)
			if err != nil {
				continue // not for the class
			}
			for _, s := range task.Steps {
				seen[s.Kind] = true
			}
			marks, s := follow(t, task, 900)
			r := score.Marks(task, marks).Result
			if !s.Ended || r.Verdict != score.Pass {
				var list []string
				for _, m := range marks {
					list = append(list, m.Mark)
				}
				t.Errorf("%s %s: %s, step %d of %d, asked %+v, %v; marks %v", d.Key, side, r.Verdict, s.Step, len(task.Steps),
					s.Ask, r.Faults, list)
			}
		}
	}
	for _, k := range []drill.Kind{drill.TakeOff, drill.Hold, drill.Turn, drill.GoTo, drill.Path, drill.Stop, drill.Return,
		drill.Regain, drill.Land} {
		if !seen[k] {
			t.Errorf("no shipped drill has a step %s", k)
		}
	}
}

// What is asked at the moments that a hand gets wrong: twice, late, and while a step settles.
func TestAskAtTheMomentsThatGoWrong(t *testing.T) {
	lay := func(key string) drill.Task {
		d, err := drill.Shipped().Drill(key)
		if err != nil {
			t.Fatal(err)
		}
		task, err := d.Lay(d.Sides()[0], 1, craft.Light, nil)
		if err != nil {
			t.Fatal(err)
		}
		return task
	}
	ask := func(task drill.Task, now float64, marks ...score.Mark) score.Ask {
		s, _ := StateOf(task, marks, now)
		return s.Ask
	}
	start, in := score.Mark{TS: 0, Mark: "start"}, score.Mark{TS: 4, Mark: "in"}
	hover := lay("hover-tail-in")
	if a := ask(hover, 1, start); a.Tap != "in" || a.Out || a.MainMark != "done" {
		t.Errorf("on the way up: %+v", a)
	}
	if a := ask(hover, 9, start, in); a.Tap != "out" || !a.Out || !a.Clock || a.SinceS != 5 || a.NeedS <= 0 {
		t.Errorf("inside: %+v", a)
	}
	if a := ask(hover, 9, start, in, score.Mark{TS: 8, Mark: "out", Toward: "left"}); a.Tap != "in" || a.Out {
		t.Errorf("out again: %+v", a)
	}
	// A touch that was marked twice asks for nothing but Done.
	down := score.Mark{TS: 60, Mark: "touch"}
	if a := ask(hover, 61, start, in, down); a.Main != "Done" || a.MainMark != "done" || a.Out {
		t.Errorf("down: %+v", a)
	}
	yaw := lay("yaw-quarter")
	if a := ask(yaw, 40, start, in); a.Tap != "moving" || a.Big != "turn" {
		t.Errorf("late: %+v", a)
	}
}
