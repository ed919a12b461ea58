package drill

import "testing"

func TestWhatElseDecidesWhetherAnAttemptCounts(t *testing.T) {
	d := Drill{Wind: Wind{MaxMps: 5}}
	calm, gale := 2.0, 9.0
	for _, c := range []struct {
		name string
		x    Circumstances
		want string // why not; empty = it counts
	}{
		{"as asked", Circumstances{Flown: Flown{WindMps: &calm}}, ""},
		{"coached", Circumstances{Flown: Flown{WindMps: &calm}, Coached: true}, "the coach was asked"},
		{"wind says more than the coach", Circumstances{Flown: Flown{WindMps: &gale}, Coached: true},
			"wind 9.0 m/s, over the drill's 5.0 m/s"},
		{"marked twice", Circumstances{Flown: Flown{WindMps: &gale}, Twice: true}, MarkedTwice},
		{"closed", Circumstances{Closed: "it is closed", Twice: true, Coached: true}, "it is closed"},
	} {
		ok, why := d.CountsIn(c.x)
		if ok != (c.want == "") || why != c.want {
			t.Errorf("%s: counts %v, %q; want %q", c.name, ok, why, c.want)
		}
	}
}
