package drill

import (
	"strings"
	"testing"
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
