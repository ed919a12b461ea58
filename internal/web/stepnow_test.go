package web

import (
	"context"
	"encoding/json"
	"testing"
	"time"

	"maestrale/core/flight/trace"
	"maestrale/internal/store"
	"maestrale/internal/web/fly"
)

// While a drill is flown in the simulator, the pilot's page is told which step runs, where that is, and when all are
// done: take-off, the hover over the pad, the landing, in this order.
func TestTheStepThatRunsIsTold(t *testing.T) {
	s := newSite(t)
	pilot := s.as(store.Learner)
	var pictures []fly.Picture
	s.flown(pilot, hoverQuery, func(rec *trace.Recorder, i int) (float64, float64) {
		if i%10 == 0 {
			pictures = append(pictures, fly.Picture{State: rec.Drawn(), Sticks: []float64{0, 0, 0, 0}})
		}
		return hovering(rec, i)
	})
	line := pilot.line("/students/" + s.student.String() + "/live")
	say(t, line, fly.Hello{Run: store.NewID(), Spec: trace.Spec{Craft: "poiana", Drill: "hover-tail-in", Side: "none",
		Level: 1, Aids: "position-hold", WindMps: 3, WindFromDeg: 180, Gusts: "light", Seed: 4}})
	heard := make(chan fly.StepNow, 200)
	go func() {
		defer close(heard)
		for {
			ctx, cancel := context.WithTimeout(bg, 5*time.Second)
			_, data, err := line.Read(ctx)
			cancel()
			var m struct{ Now *fly.StepNow }
			if err != nil || json.Unmarshal(data, &m) != nil {
				return
			}
			if m.Now != nil {
				heard <- *m.Now
			}
		}
	}()
	// What is no picture of this run changes nothing: too few numbers, the same moment again.
	say(t, line, fly.Picture{State: []float64{1, 2}, Sticks: []float64{0, 0, 0, 0}})
	for _, p := range pictures {
		say(t, line, p)
		say(t, line, p)
	}
	var steps []int
	places := map[int]string{}
	for now := range heard {
		if n := len(steps); n == 0 || steps[n-1] != now.Step {
			steps = append(steps, now.Step)
		}
		if places[now.Step] = now.Place; now.At != nil && now.Step == 2 && now.At[2] != 1.5 {
			t.Errorf("the hover is at %v", now.At)
		}
		if now.Done {
			break
		}
	}
	if len(steps) != 4 || steps[0] != 1 || steps[1] != 2 || steps[2] != 3 {
		t.Errorf("the steps were %v", steps)
	}
	if places[2] != "the centre" || places[3] != "the pad" {
		t.Errorf("the places were %v", places)
	}
}
