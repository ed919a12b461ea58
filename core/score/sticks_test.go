package score

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/track"
)

// held is a hover at a place with sticks: each sample's place and sticks are asked for.
// A time between the two of lost is left out.
func held(hz float64, seconds float64, at func(t float64) (x, y, z, heading float64, k [4]float64),
	lost ...float64) *track.Track {
	tr := &track.Track{}
	for i := range int(seconds * hz) {
		t := float64(i) / hz
		if len(lost) == 2 && t > lost[0]+1e-9 && t < lost[1]-1e-9 {
			continue
		}
		x, y, z, h, k := at(t)
		tr.T, tr.X, tr.Y, tr.Z = append(tr.T, t), append(tr.X, x), append(tr.Y, y), append(tr.Z, z)
		tr.Heading = append(tr.Heading, field.Angle(h))
		tr.StickThrottle, tr.StickYaw = append(tr.StickThrottle, k[0]), append(tr.StickYaw, k[1])
		tr.StickPitch, tr.StickRoll = append(tr.StickPitch, k[2]), append(tr.StickRoll, k[3])
	}
	return tr
}

const holdStep = "{kind: hold, at: [0, 8], height_m: 2, seconds: 5, within: {radius_m: 1, height_m: 0.5}}"

// A drift that nobody answers, and one that is pushed on the wrong way at every
// heading, are named as likely causes; the right answer is not.
func TestCausesFromTheSticks(t *testing.T) {
	task := pathTask(t, strings.Replace(holdStep, "seconds: 5", "seconds: 60", 1), field.NoSide, nil)
	r := rand.New(rand.NewPCG(8, 8))
	for range 60 {
		dir, head := 2*math.Pi*r.Float64(), 2*math.Pi*r.Float64()
		fly := func(push float64) *Result {
			tr := held(20, 12, func(s float64) (x, y, z, h float64, k [4]float64) {
				d := 0.3 * math.Max(0, s-3)
				if s > 9 {
					d = math.Max(0, 1.8-0.6*(s-9))
				}
				x, y, z, h = d*math.Sin(dir), 8+d*math.Cos(dir), 2, head
				if s > 3 && s < 9 { // along the drift where push is over 0
					k[2], k[3] = push*math.Cos(dir-head), push*math.Sin(dir-head)
				}
				return x, y, z, h, k
			})
			return judged(t, task, tr)
		}
		for push, want := range map[float64]string{0: "no answer for", 0.4: "the wrong way for", -0.4: ""} {
			res := fly(push)
			if len(res.Faults) != 1 || (want == "") != (res.Faults[0].Cause == "") || !strings.Contains(res.Faults[0].Cause,
				want) {
				t.Fatalf("drift on %.0f°, nose on %.0f°, push %v: %+v", dir*180/math.Pi, head*180/math.Pi, push, res.Faults)
			}
		}
		met := fly(0.4).Steps[0].Metrics
		if met["wrong_way_s"] < 3 || met["unanswered_s"] > 0.2 {
			t.Errorf("%v", met)
		}
	}
}

// Reversals, slams and the share at full stick are counted; the throttle that goes
// with the yaw is found, and costs the height in a turn.
func TestSticksAreCounted(t *testing.T) {
	task := pathTask(t, holdStep, field.NoSide, nil)
	met := judged(t, task, held(50, 11, func(s float64) (x, y, z, h float64, k [4]float64) {
		k[0] = 0.3 * math.Sin(2*math.Pi*s) // two reversals a second
		if s > 4 && s < 4.2 {
			k[3] = -1
		} else if s >= 4.2 && s < 4.5 {
			k[3] = 1
		}
		return 0, 8, 2, 0, k
	})).Steps[0].Metrics
	within(t, "reversals a minute", met["reversals_per_min"], 120, 14)
	within(t, "slams", met["slams"], 1, 0)
	within(t, "the share at full stick", met["full_share"], 0.5/6, 0.03)
	turn := pathTask(t, "{kind: turn, at: [0, 8], by_deg: 180, within: {radius_m: 2, height_m: 0.4, overshoot_deg: 20}}",
		field.NoSide, nil)
	res := judged(t, turn, held(20, 12, func(s float64) (x, y, z, h float64, k [4]float64) {
		h = math.Min(math.Pi, math.Max(0, 0.5*(s-1)))
		z = 2
		if s > 1 && s < 7.3 {
			k[1], k[0] = 0.5, 0.4*math.Sin(3*s)
			z = 2 + 0.6*math.Sin((s-1)/2)
		}
		return 0, 8, z, h, k
	}))
	if len(res.Faults) == 0 || res.Faults[0].Code != Height || res.Faults[0].Cause != "the yaw hand let the height go" {
		t.Errorf("%+v", res.Faults)
	}
}

// Gaps of up to a second are bridged and said; beyond a longer one nothing is scored,
// and the step in which it lies is incomplete. A log of another place says how far.
func TestGapsAndOtherPlaces(t *testing.T) {
	task := pathTask(t, holdStep, field.NoSide, nil)
	with := func(gap float64) *track.Track {
		return held(20, 12, func(float64) (float64, float64, float64, float64, [4]float64) {
			return 0, 8, 2, 0,
				[4]float64{}
		}, 3, 3+gap)
	}
	short := judged(t, task, with(0.8))
	if short.Verdict != Pass || short.Log.Gaps != 1 {
		t.Errorf("a gap of 0.8 s: %s, %+v", short.Verdict, short.Log)
	}
	long := judged(t, task, with(2.5))
	if long.Verdict != Incomplete || len(long.Faults) != 0 || !strings.Contains(strings.Join(long.Unjudged, ";"),
		"a gap of 2.5 s") {
		t.Errorf("a gap of 2.5 s: %s %v", long.Verdict, long.Unjudged)
	}
	slow := held(1, 20, func(float64) (float64, float64, float64, float64, [4]float64) { return 0, 8, 2, 0, [4]float64{} })
	if r := judged(t, task, slow); r.Verdict != Pass || r.Log.RateHz != 1 {
		t.Errorf("a log at 1 Hz: %s %+v", r.Verdict, r.Log)
	}
	away := held(10, 9, func(float64) (float64, float64, float64, float64, [4]float64) {
		return 3000, 4008, 2, 0, [4]float64{}
	})
	if _, err := Track(task, away, FromLog); err == nil || !strings.Contains(err.Error(), "5000 m from the course") {
		t.Errorf("a log of another place: %v", err)
	}
}

// The flights of a longer log are found, each scored as it would be alone, and the
// first that was flown to its end is proposed.
func TestFlightsInALongLog(t *testing.T) {
	task := pathTask(t, holdStep, field.NoSide, nil)
	tr := held(20, 120, func(s float64) (x, y, z, h float64, k [4]float64) {
		up := func(from, to float64) float64 { return math.Max(0, math.Min(2, math.Min(s-from, to-s))) }
		z = up(10, 18) + up(30, 44) + up(70, 90) // the first is too short for the hold, the hop at 60 s no flight
		if s > 60 && s < 61 {
			z = 0.1
		}
		x = 0
		if s > 70 {
			x = 1.5 // and the third out of the box
		}
		return x, 8, z, 0, k
	})
	list, err := Find(task, tr, FromLog)
	if err != nil || len(list) != 3 {
		t.Fatalf("%d flights, %v", len(list), err)
	}
	for i, want := range []struct {
		from, to float64
		verdict  Verdict
	}{{8, 21, Fail}, {28, 47, Pass}, {68, 93, Incomplete}} {
		within(t, "a flight begins", list[i].FromS, want.from, 1.2)
		within(t, "a flight ends", list[i].ToS, want.to, 1.2)
		if list[i].Result.Verdict != want.verdict {
			t.Errorf("flight %d: %s", i+1, list[i].Result.Verdict)
		}
		alone := judged(t, task, tr.Between(list[i].FromS, list[i].ToS))
		if alone.Summary() != list[i].Result.Summary() {
			t.Errorf("flight %d alone: %s", i+1, alone.Summary())
		}
	}
	if got := Proposed(list); got != 1 {
		t.Errorf("flight %d is proposed", got+1)
	}
	if Proposed(nil) != -1 {
		t.Error("of nothing something is proposed")
	}
}

// BenchmarkFindAll is a log of twenty minutes at 50 Hz, searched for every shipped
// drill.
func BenchmarkFindAll(b *testing.B) {
	tr := held(50, 1200, func(s float64) (x, y, z, h float64, k [4]float64) {
		at := math.Mod(s, 60)
		return 0.2 * math.Sin(s), 6 + 0.2*math.Cos(s/2), math.Max(0, math.Min(1.5, math.Min(at-5, 50-at))),
			0.1 * math.Sin(s/3), k
	})
	cat := drill.Shipped()
	for b.Loop() {
		for _, d := range cat.InOrder() {
			task, err := d.Lay(d.Sides()[0], 1, craft.Light, nil)
			if err != nil {
				b.Fatal(err)
			}
			if list, err := Find(task, tr, FromLog); err != nil || len(list) != 20 {
				b.Fatal(len(list), err)
			}
		}
	}
}
