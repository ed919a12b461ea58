package flight_test

import (
	"math"
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/flight"
)

// parked is a craft on the pad, motors off.
func parked(t testing.TB, key string, change func(*flight.Config)) *flight.Flight {
	t.Helper()
	have := craftOf(t, key)
	return hover(t, key, have.Most(), func(c *flight.Config) {
		c.Airborne, c.Start = false, flight.Vec{Y: 5}
		if change != nil {
			change(c)
		}
	})
}

var low = flight.Sticks{Throttle: -1}

func event(t testing.TB, text string) flight.Event {
	t.Helper()
	e, err := flight.ParseEvent(text)
	if err != nil {
		t.Fatal(err)
	}
	return e
}

func TestArmingIsRefusedWithItsReason(t *testing.T) {
	for _, c := range []struct {
		name, want string
		k          flight.Sticks
		before     func(*flight.Flight)
	}{
		{"ready", "", low, nil},
		{"throttle up", "throttle is not low", flight.Sticks{Throttle: 0.2}, nil},
		{"throttle in the middle", "throttle is not low", flight.Sticks{}, nil},
		{"leaned over", "not level", low, func(f *flight.Flight) {
			f.State.Att = flight.Quat{W: math.Cos(0.3),
				X: math.Sin(0.3)}
		}},
		{"empty", "the pack is empty", low, func(f *flight.Flight) { f.Happen(event(t, "pack=3"), low) }},
		{"no link", "no link", low, func(f *flight.Flight) { f.Happen(event(t, "link-lost"), low) }},
		{"twice", "run already", low, func(f *flight.Flight) { f.Happen(event(t, "arm"), low) }},
		{"in the air", "not on the ground", low, func(f *flight.Flight) { f.State.Pos.Z = 3; fly(f, 0.01, low, nil) }},
	} {
		f := parked(t, "poiana", nil)
		fly(f, 0.2, low, nil)
		if c.before != nil {
			c.before(f)
		}
		f.Refused = nil
		f.Happen(event(t, "arm"), c.k)
		switch {
		case c.want == "" && (len(f.Refused) > 0 || !f.Armed()):
			t.Errorf("%s: refused: %+v", c.name, f.Refused)
		case c.want != "" && (len(f.Refused) != 1 || !strings.Contains(f.Refused[0].Why, c.want)):
			t.Errorf("%s: %+v; expected %q", c.name, f.Refused, c.want)
		}
	}
}

// From the pad up to a metre and a half by itself, down by itself, and the motors
// stop; all four craft that hold their height, and by hand those that do not.
func TestTakeOffAndLandAlone(t *testing.T) {
	for _, key := range []string{"poiana", "airone"} {
		f := parked(t, key, func(c *flight.Config) { c.Still = false })
		fly(f, 0.5, low, nil)
		f.Happen(event(t, "takeoff"), low)
		if len(f.Refused) != 1 || f.Refused[0].Why != "the motors do not run" {
			t.Errorf("%s: %+v", key, f.Refused)
		}
		f.Happen(event(t, "arm"), low)
		fly(f, 1, low, nil)
		if !f.OnGround() {
			t.Fatalf("%s jumps as it is armed", key)
		}
		f.Happen(event(t, "takeoff"), low)
		fly(f, 6, low, nil) // the throttle is still where arming wants it
		if f.Mode() != "taking off" {
			t.Errorf("%s: %s while the throttle was not touched", key, f.Mode())
		}
		near(t, key+"'s height with the throttle low", f.Sample(low).Z, 1.5, 0.35)
		fly(f, 4, at(f.State.Aids), nil)
		if f.Mode() != "by hand" {
			t.Errorf("%s: %s with the throttle in the middle", key, f.Mode())
		}
		near(t, key+"'s height", f.Sample(low).Z, 1.5, 0.35)
		near(t, key+" aside", f.State.Pos.X, 0, 1.2)
		f.Happen(event(t, "disarm"), low)
		if n := len(f.Refused); n != 2 || f.Refused[1].Why != "the craft is in the air" || !f.Armed() {
			t.Errorf("%s: disarmed in the air: %+v", key, f.Refused)
		}
		f.Happen(event(t, "land"), at(f.State.Aids))
		sink := 0.0
		was := false
		fly(f, 12, at(f.State.Aids), func() {
			if f.OnGround() && !was {
				sink = -f.State.Vel.Z
			}
			was = was || f.OnGround()
		})
		if f.Ended() || f.Armed() || !f.OnGround() || sink > 0.6 {
			t.Errorf("%s: ended %v %s, armed %v, on the ground %v at %.2f m/s", key, f.Ended(), f.State.Cause, f.Armed(),
				f.OnGround(), sink)
		}
	}
}

// Throttle held down on the ground stops the motors after 3 s, once it has been
// over idle, and not before.
func TestTheMotorsStop(t *testing.T) {
	f := parked(t, "poiana", nil)
	fly(f, 0.2, low, nil)
	f.Happen(event(t, "arm"), low)
	fly(f, 6, low, nil)
	if !f.Armed() {
		t.Error("they stop before it has ever been over idle")
	}
	fly(f, 1.5, flight.Sticks{Throttle: 0.6}, nil)
	if f.OnGround() {
		t.Fatal("it does not lift off")
	}
	fly(f, 8, flight.Sticks{Throttle: -0.5}, nil)
	if !f.OnGround() || !f.Armed() {
		t.Fatalf("on the ground %v, armed %v, %s", f.OnGround(), f.Armed(), f.State.Cause)
	}
	fly(f, 2.8, low, nil)
	if !f.Armed() {
		t.Error("they stop too early")
	}
	fly(f, 0.4, low, nil)
	if f.Armed() {
		t.Error("they do not stop")
	}
}

func TestByHandFromThePad(t *testing.T) {
	for _, key := range []string{"gheppio", "rondine"} {
		th := hoverThrottle(t, key, flight.SelfLevel)
		f := parked(t, key, nil)
		k := low
		k.Aids = flight.SelfLevel
		fly(f, 0.2, k, nil)
		f.Happen(event(t, "arm"), k)
		k.Throttle = math.Min(1, th+0.25)
		fly(f, 1, k, nil)
		if f.OnGround() || f.Ended() || f.Sample(k).Z < 0.15 {
			t.Errorf("%s: %.2f m up after a second, %s", key, f.Sample(k).Z, f.State.Cause)
		}
		k.Throttle = -1
		fly(f, 5, k, nil)
		if !f.Ended() && !f.OnGround() {
			t.Errorf("%s: with the throttle closed it stays up", key)
		}
	}
	// What holds no height refuses to take off by itself, until it is fitted.
	f := parked(t, "gheppio", nil)
	fly(f, 0.2, low, nil)
	f.Happen(event(t, "arm"), low)
	f.Happen(event(t, "takeoff"), low)
	if len(f.Refused) != 1 || !strings.Contains(f.Refused[0].Why, "holds no height") {
		t.Errorf("%+v", f.Refused)
	}
	f = parked(t, "gheppio", func(c *flight.Config) {
		c.Craft = craftOf(t, "gheppio", craft.HeightHold)
		c.Aids = flight.HeightHold
	})
	k := flight.Sticks{Throttle: -1, Aids: flight.HeightHold}
	fly(f, 0.2, k, nil)
	f.Happen(event(t, "arm"), k)
	f.Happen(event(t, "takeoff"), k)
	fly(f, 6, at(flight.HeightHold), nil)
	near(t, "fitted with height hold it stands at", f.Sample(k).Z, 1.5, 0.3)
}

// The flight home climbs over the return height before it leaves, lands on the
// home point, and yields to the pilot at once.
func TestFlightHome(t *testing.T) {
	away := func() *flight.Flight {
		f := parked(t, "poiana", func(c *flight.Config) { c.Wind = flight.Vec{X: 2, Y: 2} })
		fly(f, 0.2, low, nil)
		f.Happen(event(t, "arm"), low)
		f.Happen(event(t, "takeoff"), low)
		fly(f, 5, at(flight.PositionHold), nil)
		fly(f, 9, flight.Sticks{Pitch: 0.6, Roll: 0.4, Yaw: 0.1}, nil)
		fly(f, 4, at(flight.PositionHold), nil)
		f.Happen(event(t, "home"), at(flight.PositionHold))
		return f
	}
	f := away()
	from := math.Hypot(f.State.Pos.X, f.State.Pos.Y-5)
	if from < 30 || len(f.Refused) > 0 {
		t.Fatalf("%.1f m away, %+v", from, f.Refused)
	}
	left := 0.0
	fly(f, 90, at(flight.PositionHold), func() {
		if d := math.Hypot(f.State.Pos.X, f.State.Pos.Y-5); left == 0 && d < from-3 {
			left = f.Sample(low).Z
		}
	})
	near(t, "the height as it leaves", left, 20, 0.7)
	near(t, "home, aside", f.State.Pos.X, 0, 0.6)
	near(t, "home, away", f.State.Pos.Y, 5, 0.6)
	if !f.OnGround() || f.Armed() || f.Ended() {
		t.Errorf("on the ground %v, armed %v, %s", f.OnGround(), f.Armed(), f.State.Cause)
	}

	f = away()
	fly(f, 4, at(flight.PositionHold), nil)
	if f.Mode() != "going home" || f.TakenOver() >= 0 {
		t.Fatal(f.Mode())
	}
	now := f.Now()
	fly(f, 0.004, flight.Sticks{Roll: 0.5}, nil)
	if f.Mode() != "by hand" || math.Abs(f.TakenOver()-now) > 0.003 {
		t.Errorf("%s, taken over at %.3f s of %.3f", f.Mode(), f.TakenOver(), now)
	}
	// Whoever holds a stick over as it begins, and lets go, has not taken over; who
	// moves another has.
	f = away()
	f.Happen(event(t, "cancel"), at(flight.PositionHold))
	over := flight.Sticks{Pitch: 1}
	fly(f, 0.1, over, nil)
	f.Happen(event(t, "home"), over)
	fly(f, 1, over, nil)
	fly(f, 1, at(flight.PositionHold), nil)
	if f.Mode() != "going home" {
		t.Errorf("%s: a stick that was held over took over", f.Mode())
	}
	fly(f, 0.01, flight.Sticks{Yaw: -0.3}, nil)
	if f.Mode() != "by hand" {
		t.Error("another stick does not take over")
	}
	f = away()
	f.Happen(event(t, "cancel"), at(flight.PositionHold))
	if f.Mode() != "by hand" {
		t.Error("it is not cancelled")
	}
	f.Happen(event(t, "cancel"), at(flight.PositionHold))
	f.Happen(event(t, "fix-lost"), low)
	f.Happen(event(t, "home"), low)
	if len(f.Refused) != 2 || f.Refused[1].Why != "there is no position fix" {
		t.Errorf("%+v", f.Refused)
	}
}

func TestWhatGoesWrong(t *testing.T) {
	hold := at(flight.PositionHold)
	// Without a fix it drifts with the wind; with it again it stands.
	f := hover(t, "poiana", flight.PositionHold, func(c *flight.Config) { c.Wind = flight.Vec{X: 4} })
	f.Happen(event(t, "fix-lost"), hold)
	fly(f, 20, hold, nil)
	if f.State.Aids != flight.HeightHold || f.State.Vel.X < 3 {
		t.Errorf("without a fix: %s, %.2f m/s", f.State.Aids, f.State.Vel.X)
	}
	f.Happen(event(t, "fix-back"), hold)
	fly(f, 10, hold, nil)
	near(t, "with a fix again it stands, m/s", flat(f.State.Vel), 0, 0.1)
	// The link lost, it goes home; one that holds nothing falls.
	f = hover(t, "poiana", flight.PositionHold, nil)
	f.Happen(event(t, "link-lost"), hold)
	fly(f, 2, flight.Sticks{Pitch: 1}, nil)
	if f.Mode() != "going home" {
		t.Error(f.Mode())
	}
	fly(f, 60, flight.Sticks{Pitch: 1}, nil)
	if !f.OnGround() || f.Ended() {
		t.Errorf("without a link it ends %v, %s", f.OnGround(), f.State.Cause)
	}
	f = hover(t, "gheppio", flight.SelfLevel, nil)
	f.Happen(event(t, "link-lost"), hold)
	fly(f, 6, at(flight.SelfLevel), nil)
	if !f.Ended() || f.Armed() {
		t.Errorf("a craft that holds no height flies on without a link: %.1f m", f.State.Pos.Z)
	}
	// A low pack takes it home; an empty one lets it fall.
	f = hover(t, "poiana", flight.PositionHold, nil)
	f.Happen(event(t, "pack=14"), hold)
	fly(f, 0.1, hold, nil)
	if f.Mode() != "going home" {
		t.Error(f.Mode())
	}
	f = hover(t, "gheppio", flight.SelfLevel, func(c *flight.Config) { c.Start.Z = 30 })
	f.Happen(event(t, "pack=0"), hold)
	o, err := f.Run([]flight.Row{{Sticks: at(flight.SelfLevel)}}, 20, nil)
	if err != nil || o.Ended != "flat-pack" || !strings.Contains(o.Cause, "the pack was empty; hit the ground") {
		t.Errorf("%+v, %v", o, err)
	}
	// One weak rotor of six is carried by the others; of four it turns and sinks.
	f = hover(t, "airone", flight.PositionHold, nil)
	f.Happen(event(t, "rotor=2:60"), hold)
	fly(f, 15, hold, nil)
	s := f.Sample(hold)
	if f.Ended() || math.Abs(s.Z-8) > 0.7 || math.Hypot(s.X, s.Y-10) > 1 {
		t.Errorf("a hex with a weak rotor is at %.2f %.2f %.2f, %s", s.X, s.Y, s.Z, f.State.Cause)
	}
	f.Happen(event(t, "rotor=7:60"), hold)
	if len(f.Refused) != 1 || f.Refused[0].Why != "the craft has 6 rotors" {
		t.Errorf("%+v", f.Refused)
	}
	// A gust pushes along the wind and is mended.
	f = hover(t, "poiana", flight.PositionHold, func(c *flight.Config) { c.Wind = flight.Vec{X: 1} })
	f.Happen(event(t, "gust=8"), hold)
	far := 0.0
	fly(f, 15, hold, func() { far = math.Max(far, f.State.Pos.X) })
	if far < 0.2 || math.Abs(f.State.Pos.X) > 0.15 {
		t.Errorf("a gust moves it %.2f m, and after it stands %.2f m off", far, f.State.Pos.X)
	}
	// Sensors err: a poor fix wanders farther than a good one.
	spread := func(poor bool) float64 {
		f := hover(t, "poiana", flight.PositionHold, func(c *flight.Config) { c.Still, c.PoorFix = false, poor })
		sum := 0.0
		fly(f, 240, hold, func() { sum += math.Hypot(f.State.Pos.X, f.State.Pos.Y-10) })
		return sum
	}
	if good, poor := spread(false), spread(true); poor < 2.5*good || good == 0 {
		t.Errorf("a good fix wanders %.0f, a poor one %.0f", good, poor)
	}
}

func TestGentleAndFence(t *testing.T) {
	speed := func(gentle bool) float64 {
		f := hover(t, "poiana", flight.PositionHold, nil)
		if gentle {
			f.Happen(event(t, "gentle=on"), low)
		}
		fly(f, 6, flight.Sticks{Pitch: 1}, nil)
		return f.State.Vel.Y
	}
	near(t, "at full stick", speed(false), 10, 0.4)
	near(t, "at full stick with gentle", speed(true), 4, 0.2)
	f := hover(t, "poiana", flight.PositionHold, nil)
	f.Happen(event(t, "fence=25/12"), low)
	far, high := 0.0, 0.0
	fly(f, 25, flight.Sticks{Pitch: 1, Roll: 0.5, Throttle: 1}, func() {
		far, high = math.Max(far, math.Hypot(f.State.Pos.X, f.State.Pos.Y)), math.Max(high, f.State.Pos.Z)
	})
	if far > 25.6 || far < 23 || high > 12.7 || high < 11.5 {
		t.Errorf("in a fence of 25 m and 12 m it reached %.2f m and %.2f m", far, high)
	}
}
