package drill

import (
	"strings"
	"testing"

	"maestrale/core/field"
)

func TestCounts(t *testing.T) {
	d := Drill{ManualTakeoff: true, Wind: Wind{From: "behind", MaxMps: 6}, Steps: []Step{{Kind: Land, Manual: true}}}
	mps := func(v float64) *float64 { return &v }
	for _, c := range []struct {
		f   Flown
		why string
	}{
		{Flown{}, ""},
		{Flown{Frame: "nose", Eyes: "craft", WindMps: mps(6), WindFromDeg: mps(180)}, ""},
		{Flown{WindMps: mps(5), WindFromDeg: mps(-140)}, ""},
		{Flown{WindMps: mps(0.8), WindFromDeg: mps(0)}, ""},
		{Flown{Frame: "frozen"}, "stick frame frozen"},
		{Flown{Frame: "pilot"}, "stick frame pilot"},
		{Flown{Zoom: true}, "zoom"},
		{Flown{Eyes: "screen"}, "eyes on the screen"},
		{Flown{Automatic: []string{"takeoff"}}, "take-off"},
		{Flown{Automatic: []string{"landing"}}, "landing"},
		{Flown{Automatic: []string{"figure"}}, "figure"},
		{Flown{WindMps: mps(6.1)}, "over the drill's 6.0"},
		{Flown{WindMps: mps(4), WindFromDeg: mps(30)}, "from behind the pilot"},
	} {
		ok, why := d.Counts(c.f)
		if ok != (c.why == "") || !strings.Contains(why, c.why) {
			t.Errorf("%+v: %v %q, want %q", c.f, ok, why, c.why)
		}
	}
	if ok, _ := (&Drill{}).Counts(Flown{Automatic: []string{"takeoff", "landing"}}); !ok {
		t.Error("a drill that does not want it by hand refused automatic take-off and landing")
	}
}

// What flies home by itself regains no orientation.
func TestFlownHomeIsNotRegained(t *testing.T) {
	d := Drill{Steps: []Step{{Kind: Regain}, {Kind: Land}}}
	if ok, why := d.Counts(Flown{Automatic: []string{"landing"}}); ok || !strings.Contains(why, "to be regained") {
		t.Errorf("%v %q", ok, why)
	}
	if ok, _ := d.Counts(Flown{}); !ok {
		t.Error("flown by hand it does not count")
	}
}

// A drill stays within what the eyes tell by a lower level, where it has one.
func TestWithin(t *testing.T) {
	d, err := Shipped().Drill("subject-run")
	if err != nil {
		t.Fatal(err)
	}
	one, err := d.Lay("left", 1, "light", nil)
	if err != nil {
		t.Fatal(err)
	}
	r := one.ReachM()
	if l, reach, err := d.Within("left", 1, "light", nil, r+0.1); err != nil || l != 1 || reach != r {
		t.Errorf("level %d, %.1f m, %v", l, reach, err)
	}
	if l, reach, err := d.Within("left", 2, "light", nil, r-0.1); err != nil || l != 0 || reach < r {
		t.Errorf("level %d, %.1f m, %v", l, reach, err)
	}
	if _, _, err := d.Within("none", 1, "light", nil, 50); err == nil {
		t.Error("a side that it does not have")
	}
	lost, err := Shipped().Drill("regain-read")
	if err != nil {
		t.Fatal(err)
	}
	if l, _, err := lost.Within("none", 1, "light", nil, 5); err != nil || l != 1 {
		t.Errorf("an orientation that is lost on purpose is held to the eyes: %d, %v", l, err)
	}
}

// The direction of the wind is asked for over 1 m/s.
func TestABreezeHasNoDirection(t *testing.T) {
	d := Drill{Wind: Wind{From: "behind"}}
	for mps, want := range map[float64]bool{0.5: true, 0.95: true, 1.05: false, 1.2: false, 4: false} {
		ahead, behind := 0.0, 180.0
		if ok, _ := d.Counts(Flown{WindMps: &mps, WindFromDeg: &ahead}); ok != want {
			t.Errorf("%g m/s from ahead counts: %v", mps, ok)
		}
		if ok, why := d.Counts(Flown{WindMps: &mps, WindFromDeg: &behind}); !ok {
			t.Errorf("%g m/s from behind: %s", mps, why)
		}
	}
}

// The other side of a drill in a crosswind wants the wind from the other side.
func TestTheWindOfTheOtherSide(t *testing.T) {
	d := Shipped().Drills["landing-crosswind"]
	for _, k := range []struct {
		side field.Side
		from float64
		want bool
	}{{field.LeftSide, 270, true}, {field.LeftSide, 90, false}, {field.RightSide, 90, true}, {field.RightSide, 270,
		false}} {
		mps := 4.0
		if ok, why := d.Counts(Flown{WindMps: &mps, WindFromDeg: &k.from, Side: k.side}); ok != k.want {
			t.Errorf("%s in wind from %.0f°: %v %s", k.side, k.from, ok, why)
		}
	}
}
