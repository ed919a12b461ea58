package pilot

import (
	"bytes"
	"os"
	"slices"
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/flight/trace"
	"maestrale/core/rig"
	"maestrale/core/score"
)

func specOf(key string, d drill.Drill, side field.Side, aids craft.Aids, seed int) trace.Spec {
	wind := 2.5
	if key == "rondine" {
		wind = 0.8
	}
	return trace.Spec{Craft: key, Drill: d.Key, Side: string(side), Level: 1, Aids: string(aids), WindMps: wind,
		WindFromDeg: 170, Gusts: "none", Seed: uint32(seed)}
}

// passes is how many of n flights a skill passes.
func passes(t *testing.T, key string, d drill.Drill, side field.Side, aids craft.Aids, share float64,
	n int) (pass int) {
	t.Helper()
	cat := drill.Shipped()
	class := cat.Craft[key].Class()
	why := map[string]int{}
	for seed := range n {
		setup, err := rig.SetUp(specOf(key, d, side, aids, seed), cat, nil)
		if err != nil {
			t.Fatal(err)
		}
		task := *setup.Task
		f, err := Fly(specOf(key, d, side, aids, seed), cat, Of(share, Wide[class]), uint64(seed))
		if err != nil {
			t.Fatal(err)
		}
		r, err := score.Track(task, f.Track, score.FromLog)
		if err != nil {
			t.Fatal(err)
		}
		if r.Verdict == score.Pass && f.Outcome.Ended != "crashed" {
			pass++
		} else {
			why[r.Summary()]++
		}
	}
	t.Logf("share %v: %v", share, why)
	return pass
}

// Every drill is flown to a pass by a practised hand and to a fail by a raw one,
// with every aids level that its craft is taught on in the first rungs.
func TestSkillDecides(t *testing.T) {
	cat := drill.Shipped()
	n := 3
	if os.Getenv("MAESTRALE_NIGHTLY") != "" {
		n = 5
	}
	all := func(drill.Drill) bool { return true }
	first := func(d drill.Drill) bool {
		return slices.Contains([]string{"ground-effect-hover", "hover-tail-in", "landing-pad", "yaw-quarter"}, d.Key)
	}
	for _, c := range []struct {
		key   string
		aids  craft.Aids
		which func(drill.Drill) bool
	}{{"poiana", craft.HeightHold, all}, {"poiana", craft.PositionHold, first}, {"gheppio", craft.SelfLevel,
		first}, {"rondine", craft.SelfLevel, first}, {"airone", craft.PositionHold, first}} {
		for i, d := range cat.InOrder() {
			if d.Key == "arm-disarm" { // no skill is asked for
				continue
			}
			if !c.which(d) || testing.Short() && i%8 != 0 { // the quick round flies every eighth
				continue
			}
			aids := c.aids
			if len(d.Aids) > 0 { // the first is the usual one
				aids = d.Aids[0]
			}
			key := c.key
			if !cat.Craft[key].Has(aids) {
				key = "gheppio" // it lets go
			}
			t.Run(key+"/"+string(aids)+"/"+d.Key, func(t *testing.T) {
				t.Parallel()
				sides := d.Sides()
				side := sides[len(sides)-1]
				good, raw := passes(t, key, d, side, aids, 0.06, n), passes(t, key, d, side, aids, 1.1, n)
				t.Logf("%d and %d of %d", good, raw, n)
				if good < n-1 || raw > 1 {
					t.Errorf("of %d a practised hand passes %d, a raw one %d", n, good, raw)
				}
			})
		}
	}
}

// The same seed gives the same flight, another one another; the trace is one that
// the server reads; an event happens when it is told to.
func TestFlightsRepeat(t *testing.T) {
	cat := drill.Shipped()
	d, err := cat.Drill("hover-tail-in")
	if err != nil {
		t.Fatal(err)
	}
	spec := specOf("poiana", d, field.NoSide, craft.HeightHold, 5)
	fly := func(seed uint64, events ...Event) Flown {
		f, err := Fly(spec, cat, Of(0.3, 1), seed, events...)
		if err != nil {
			t.Fatal(err)
		}
		return f
	}
	a, b, c, gust := fly(1), fly(1), fly(2), fly(1, Event{9, "gust=8"})
	if a.Run != b.Run || a.Outcome.Hash == c.Outcome.Hash || a.Outcome.Hash == gust.Outcome.Hash {
		t.Error("the seed does not decide")
	}
	tr, err := trace.Read(bytes.NewReader([]byte(gust.Run)))
	if err != nil || !slices.ContainsFunc(tr.Events, func(e trace.Happens) bool {
		return e.Event == "gust=8" &&
			e.Reading == 900
	}) {
		t.Errorf("%v, %+v", err, tr)
	}
	if _, err := Fly(spec, cat, Of(0.3, 1), 1, Event{1, "storm"}); err == nil {
		t.Error("an unknown event is taken")
	}
	spec.Drill = ""
	if _, err := Fly(spec, cat, Of(0.3, 1), 1); err == nil {
		t.Error("free flight has no task, and is flown")
	}
}

func BenchmarkFly(b *testing.B) {
	cat := drill.Shipped()
	d, _ := cat.Drill("hover-tail-in")
	for i := range b.N {
		if _, err := Fly(specOf("poiana", d, field.NoSide, craft.HeightHold, i), cat, Of(0.3, 1), uint64(i)); err != nil {
			b.Fatal(err)
		}
	}
}

// What a drill lets happen is part of the run: the server flies it again to the same
// state and comes to the same verdict; another seed, another moment.
func TestHappeningsAreFlownAgain(t *testing.T) {
	cat := drill.Shipped()
	moments := map[float64]bool{}
	for _, key := range []string{"nose-in-dodge", "fix-lost", "away-and-up", "link-lost", "regain-read", "yaw-random",
		"stop-on-call"} {
		d, err := cat.Drill(key)
		if err != nil {
			t.Fatal(err)
		}
		sides := d.Sides()
		spec := specOf("poiana", d, sides[0], craft.PositionHold, 3)
		f, err := Fly(spec, cat, Of(0.1, 1), 4)
		if err != nil {
			t.Fatal(err)
		}
		tr, err := trace.Read(bytes.NewReader([]byte(f.Run)))
		if err != nil {
			t.Fatal(err)
		}
		if !slices.ContainsFunc(tr.Events, func(e trace.Happens) bool { return e.By == trace.ByDrill }) {
			t.Errorf("%s: nothing happened", key)
		}
		again, err := rig.Replay(tr, cat, nil)
		if err != nil {
			t.Fatalf("%s: %v", key, err)
		}
		setup, err := rig.SetUp(spec, cat, nil)
		if err != nil {
			t.Fatal(err)
		}
		own, err := score.Track(*setup.Task, f.Track, score.Sim)
		if err != nil {
			t.Fatal(err)
		}
		if own.Verdict != again.Result.Verdict || len(own.Faults) != len(again.Result.Faults) {
			t.Errorf("%s: %s here, %s again", key, own.Verdict, again.Result.Verdict)
		}
		// A call that is left out, or comes sooner, changes no state and is refused.
		at := slices.IndexFunc(tr.Events, func(e trace.Happens) bool { return e.By == trace.ByDrill && e.Event == "call" })
		if at < 0 {
			continue
		}
		other := *tr
		other.Events = slices.Delete(slices.Clone(tr.Events), at, at+1)
		if _, err := rig.Replay(&other, cat, nil); err == nil {
			t.Errorf("%s: a call that is left out is taken", key)
		}
		other.Events = slices.Clone(tr.Events)
		other.Events[at].Reading--
		if _, err := rig.Replay(&other, cat, nil); err == nil {
			t.Errorf("%s: a call that comes sooner is taken", key)
		}
	}
	d, _ := cat.Drill("away-and-up")
	for seed := range 6 {
		f, err := Fly(specOf("poiana", d, field.NoSide, craft.HeightHold, seed), cat, Of(0.1, 1), 4)
		if err != nil {
			t.Fatal(err)
		}
		moments[f.Track.Calls[0].T] = true
	}
	if len(moments) < 4 {
		t.Errorf("a random moment is always the same: %v", moments)
	}
}

// Every rung of every programme is flown by a practised hand on the craft that it is
// taught on.
func TestProgrammesCanBeClimbed(t *testing.T) {
	if testing.Short() {
		t.Skip("a minute")
	}
	cat := drill.Shipped()
	// least is how many of four flights of a rung the modelled hand has to pass. Without position hold it holds its line
	// across the box, or a speed, in about every other flight, and it does not find home in a drift at all: it looks at
	// the craft's place, which a person who is lost does not know.
	least := func(c drill.Cell) int {
		switch {
		case strings.HasPrefix(c.Drill, "regain-") && c.Aids == craft.HeightHold:
			return 0
		case c.Aids == craft.SelfLevel:
			return 1
		}
		return 3
	}
	seen := map[string]bool{}
	for _, on := range [][2]string{{"position-hold-first", "poiana"}, {"hands-first", "gheppio"},
		{"hands-first", "rondine"}, {"on-then-off", "poiana"}} {
		for _, c := range cat.Programmes[on[0]].Cells() {
			name := on[1] + "/" + c.Drill + "/" + string(c.Aids)
			if seen[name] || c.Side == field.LeftSide {
				continue
			}
			seen[name] = true
			d := cat.Drills[c.Drill]
			t.Run(name, func(t *testing.T) {
				t.Parallel()
				if n := passes(t, on[1], d, c.Side, c.Aids, 0.06, 4); n < least(c) {
					t.Errorf("of 4 a practised hand passes %d", n)
				}
			})
		}
	}
}
