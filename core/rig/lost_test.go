package rig

import (
	"math"
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/flight/trace"
	"maestrale/core/orient"
)

func lostSpec(l orient.Level, key string, seed uint32) trace.Spec {
	kind := craft.Shipped()[key]
	return trace.Spec{Craft: key, Drill: "regain-read", Side: "none", Level: l.Drill, Aids: string(LostAids(kind, l)),
		WindMps: l.WindMps, WindFromDeg: 90, Gusts: "none", Seed: seed, Lost: l.Key}
}

// A run of every grade begins as the grade has it, with every craft that can fly it; a run
// that claims a grade and is not of it is refused.
func TestGradesOfALostCraft(t *testing.T) {
	cat := drill.Shipped()
	for _, l := range orient.Levels {
		for _, key := range []string{"poiana", "airone", "gheppio", "rondine"} {
			for seed := range uint32(12) {
				spec, out, err := Lost(lostSpec(l, key, seed), cat)
				if err != nil {
					t.Fatalf("%s on %s: %v", l.Key, key, err)
				}
				first := out.Task.Steps[0]
				if !l.Begins(first.Spoilt) || spec.Seed < seed || !out.Config.Airborne ||
					math.Abs(out.Config.Start.Y-out.Task.Station.Y-first.FromM) > 1e-9 {
					t.Errorf("%s on %s begins at %.0f°", l.Key, key, first.Spoilt.Deg())
				}
			}
		}
	}
	still := orient.Levels[0]
	for name, c := range map[string]struct {
		change func(*trace.Spec)
		want   string
	}{
		"grade": {func(s *trace.Spec) { s.Lost = "fog" }, "is not known; expected still"},
		"drill": {func(s *trace.Spec) { s.Drill = "hover-tail-in" }, "no orientation to regain"},
		"wind":  {func(s *trace.Spec) { s.WindMps = 2 }, "wants level 1 in 0 m/s"},
		"level": {func(s *trace.Spec) { s.Level = 2 }, "wants level 1"},
	} {
		s := lostSpec(still, "poiana", 1)
		c.change(&s)
		if _, _, err := Lost(s, cat); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("another %s: %v", name, err)
		}
	}
	// Of the seeds not every one begins along the line: the others are refused as they are.
	refused := 0
	for seed := range uint32(40) {
		if _, err := SetUp(lostSpec(orient.Levels[2], "poiana", seed), cat, nil); err != nil {
			if refused++; !strings.Contains(err.Error(), "begins otherwise") {
				t.Fatal(err)
			}
		}
	}
	if refused < 20 {
		t.Errorf("%d of 40 begin otherwise", refused)
	}
}

// A trace of the trainer is flown again; one that claims to have been of another grade, or
// of none, ends in another state.
func TestALostRunIsFlownAgain(t *testing.T) {
	cat := drill.Shipped()
	spec, out, err := Lost(lostSpec(orient.Levels[0], "poiana", 5), cat)
	if err != nil {
		t.Fatal(err)
	}
	rec, _, err := out.Start()
	if err != nil {
		t.Fatal(err)
	}
	rec.Coach = true
	for i := range 400 {
		rec.Reading(0, 0.3*math.Sin(float64(i)/60), 0.5, 0, 0, int(out.Config.Aids), 0)
	}
	if rec.Last().Pitch != 0.5 {
		t.Error("the last sticks")
	}
	text := rec.JSON(spec, false)
	tr, err := trace.Read(strings.NewReader(text))
	if err != nil || tr.Lost != "still" || !tr.Coach {
		t.Fatalf("%+v, %v", tr, err)
	}
	if r, err := Replay(tr, cat, nil); err != nil || r.Result == nil {
		t.Fatal(err)
	}
	tr.Lost = ""
	if _, err := Replay(tr, cat, nil); err == nil {
		t.Error("the same run as one that was seen is taken")
	}
}
