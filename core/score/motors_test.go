package score

import (
	"strings"
	"testing"

	"maestrale/core/field"
	"maestrale/core/track"
)

// idling is a log at ten samples a second on the pad; runs are the times between which the motors turn.
func idling(hop float64, runs ...[2]float64) *track.Track {
	t := &track.Track{}
	for i := range 400 {
		at := float64(i) / 10
		on, z := false, 0.0
		for _, r := range runs {
			if at >= r[0] && at < r[1] {
				on = true
				if at > r[0]+1 && at < r[0]+1.5 {
					z = hop
				}
			}
		}
		t.T, t.Armed = append(t.T, at), append(t.Armed, on)
		t.X, t.Y, t.Z = append(t.X, 0), append(t.Y, 6), append(t.Z, z)
	}
	return t
}

func TestMotorsIdleOnTheGround(t *testing.T) {
	task, err := catalogue().Drills["arm-disarm"].Lay(field.NoSide, 1, "light", nil)
	if err != nil {
		t.Fatal(err)
	}
	silent := idling(0, [2]float64{2, 6}, [2]float64{10, 14})
	silent.Armed = nil
	for name, c := range map[string]struct {
		log    *track.Track
		want   Verdict
		waited string
	}{
		"twice, long enough":     {idling(0, [2]float64{2, 6}, [2]float64{10, 14}), Pass, ""},
		"a second start is late": {idling(0, [2]float64{2, 6}, [2]float64{10, 11}, [2]float64{20, 24}), Pass, ""},
		"the second too short":   {idling(0, [2]float64{2, 6}, [2]float64{10, 12}), Incomplete, "the motors to start"},
		"never stopped":          {idling(0, [2]float64{2, 60}), Fail, "the motors to stop"},
		"a hop":                  {idling(0.5, [2]float64{2, 6}, [2]float64{10, 14}), Fail, ""},
		"a hop within the limit": {idling(0.2, [2]float64{2, 6}, [2]float64{10, 14}), Pass, ""},
		"a log without motors":   {silent, Incomplete, "the motors to start"},
	} {
		r, err := Track(task, c.log, FromLog)
		if err != nil {
			t.Fatal(err)
		}
		waited := ""
		for _, s := range r.Steps {
			if waited == "" {
				waited = s.Waited
			}
		}
		if r.Verdict != c.want || waited != c.waited {
			t.Errorf("%s: %s, waits for %q, faults %v; expected %s, %q", name, r.Verdict, waited, r.Faults, c.want, c.waited)
		}
		if name == "a log without motors" && !strings.Contains(strings.Join(r.Unjudged, " "), noMotors) {
			t.Errorf("%s: unjudged %v", name, r.Unjudged)
		}
		if name == "a hop" && (len(r.Faults) != 2 || !strings.Contains(r.Faults[0].Text, "left the ground by 0.5 m")) {
			t.Errorf("%s: %v", name, r.Faults)
		}
	}
}

// A stop from speed is held to the speed with which it begins: who crept there has not braked.
func TestABrakeBeginsAtSpeed(t *testing.T) {
	task, err := catalogue().Drills["brake-to-stop"].Lay(field.LeftSide, 1, "light", nil)
	if err != nil {
		t.Fatal(err)
	}
	for _, mps := range []float64{0.6, 1.0, 1.15, 1.3, 2} {
		log, at := &track.Track{}, task.Steps[1].At
		x, z, run := at.X, 0.0, false
		for i := range 2400 {
			now := float64(i) / 50
			switch {
			case now < 2:
			case now < 6:
				z = min(2, z+0.02)
			case now < 10: // at rest over the marker
			case now < 13:
				run = true
				x += mps / 50
			case x > task.Steps[3].At.X && now > 16:
				x = max(task.Steps[3].At.X, x-0.02)
			case x < task.Steps[3].At.X && now > 16:
				x = min(task.Steps[3].At.X, x+0.02)
			}
			log.T, log.X, log.Y, log.Z = append(log.T, now), append(log.X, x), append(log.Y, at.Y), append(log.Z, z)
			log.Heading = append(log.Heading, 0)
			if now == 12.9 {
				log.Calls = append(log.Calls, track.Call{T: now, Text: "brake"})
			}
		}
		r, err := Track(task, log, FromLog)
		if err != nil || !run {
			t.Fatal(err)
		}
		slow := false
		for _, f := range r.Faults {
			slow = slow || f.Code == Speed && strings.Contains(f.Text, "at least 1.2 m/s is asked")
		}
		if got := r.Steps[2].Metrics["from_mps"]; slow != (mps < 1.2) || got < mps-0.02 || got > mps+0.02 {
			t.Errorf("%.2f m/s: measured %.2f, slow %v, %v", mps, got, slow, r.Faults)
		}
	}
}
