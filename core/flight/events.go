package flight

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
)

// EventKind is what happens besides the sticks.
type EventKind uint8

// The events.
const (
	Arm EventKind = iota
	Disarm
	Takeoff
	Land
	Home
	Cancel
	Freeze
	FixLost
	FixBack
	LinkLost
	LinkBack
	CompassError // Value in degrees
	PackAt       // Value in per cent
	RotorAt      // rotor N gives Value per cent
	GentleSwitch // Value 1 on, 0 off
	Fence        // Value is the radius, More the height, m; 0 0 = off
	SensorSwitch
	Gust // Value in m/s along the wind
	CallOut
	Hand        // something reaches up under the craft for a moment
	FrameTurned // the stick frame is another, Value, until the pilot's switch moves
	PictureLost // the screen or the goggles show nothing
	PictureBack
	eventCount
)

// eventNames are the words as the sticks file has them.
var eventNames = [eventCount]string{"arm", "disarm", "takeoff", "land", "home", "cancel", "freeze", "fix-lost",
	"fix-back", "link-lost", "link-back", "compass", "pack", "rotor", "gentle", "fence", "sensors", "gust", "call", "hand",
	"frame", "picture-lost", "picture-back"}

// Event is one event.
type Event struct {
	Kind        EventKind
	N           int
	Value, More float64
}

// String writes the event as a sticks file has it.
func (e Event) String() string {
	n := func(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }
	name := eventNames[e.Kind]
	switch e.Kind {
	case CompassError, PackAt, Gust:
		return name + "=" + n(e.Value)
	case RotorAt:
		return fmt.Sprintf("rotor=%d:%s", e.N, n(e.Value))
	case FrameTurned:
		return name + "=" + Frame(e.Value).String()
	case GentleSwitch, SensorSwitch:
		if e.Value > 0 {
			return name + "=on"
		}
		return name + "=off"
	case Fence:
		return "fence=" + n(e.Value) + "/" + n(e.More)
	}
	return name
}

// Words says what happens as an instructor would.
func (e Event) Words() string {
	n := func(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }
	on := func(what string) string {
		if e.Value > 0 {
			return what + " on"
		}
		return what + " off"
	}
	switch e.Kind {
	case CompassError:
		if e.Value == 0 {
			return msgCompassRight
		}
		return fmt.Sprintf(msgCompassOff, n(e.Value))
	case PackAt:
		return "pack at " + n(e.Value) + " %"
	case RotorAt:
		return fmt.Sprintf("rotor %d at %s %%", e.N, n(e.Value))
	case Gust:
		return "gust of " + n(e.Value) + " m/s"
	case FrameTurned:
		return fmt.Sprintf(msgStickFrameTurned, Frame(e.Value).String())
	case GentleSwitch:
		return on("gentle")
	case SensorSwitch:
		return on("sensors")
	case Fence:
		if e.Value == 0 && e.More == 0 {
			return "fence off"
		}
		return "fence of " + n(e.Value) + " m and " + n(e.More) + " m up"
	}
	return [eventCount]string{Arm: "motors started", Disarm: "motors stopped", Takeoff: msgAutomaticTakeOff,
		Land: "automatic landing", Home: "flight home", Cancel: "taken over",
		Freeze: "direction captured", FixLost: msgPositionFixLost, FixBack: msgPositionFixBack, LinkLost: "link lost",
		LinkBack: "link back", CallOut: "call", Hand: "a hand underneath", PictureLost: "picture lost",
		PictureBack: "picture back"}[e.Kind]
}

// ByPilot tells whether the pilot's own switches make an event happen; the others
// happen to the pilot.
func (e Event) ByPilot() bool {
	switch e.Kind {
	case Arm, Disarm, Takeoff, Land, Home, Cancel, Freeze, GentleSwitch, Fence, SensorSwitch:
		return true
	}
	return false
}

// ParseEvent reads one event.
func ParseEvent(text string) (Event, error) {
	word, value, has := strings.Cut(text, "=")
	kind := slices.Index(eventNames[:], word)
	if kind < 0 {
		return Event{}, fmt.Errorf("the event %.40q; expected %s", text, strings.Join(eventNames[:], ", "))
	}
	e := Event{Kind: EventKind(kind)}
	number := func(text string, low, high float64) (float64, error) {
		v, err := strconv.ParseFloat(text, 64)
		if err != nil || !(v >= low && v <= high) {
			return 0, fmt.Errorf("%s is %.20q; expected %v to %v", word, text, low, high)
		}
		return v, nil
	}
	var err error
	switch e.Kind {
	case CompassError:
		e.Value, err = number(value, -180, 180)
	case PackAt:
		e.Value, err = number(value, 0, 100)
	case Gust:
		e.Value, err = number(value, -30, 30)
	case RotorAt:
		n, percent, ok := strings.Cut(value, ":")
		e.N, err = strconv.Atoi(n)
		if !ok || err != nil || e.N < 1 || e.N > MostRotors {
			return e, fmt.Errorf("rotor is %.20q; expected N:PERCENT with a rotor from 1", value)
		}
		e.Value, err = number(percent, 0, 100)
	case FrameTurned:
		f, ok := FrameOf(value)
		if !ok {
			return e, fmt.Errorf("frame is %.20q; expected %s", value, strings.Join(FrameNames[:], ", "))
		}
		e.Value = float64(f)
	case GentleSwitch, SensorSwitch:
		if value != "on" && value != "off" {
			return e, fmt.Errorf("%s is %.20q; expected on or off", word, value)
		}
		if value == "on" {
			e.Value = 1
		}
	case Fence:
		radius, height, ok := strings.Cut(value, "/")
		if !ok {
			return e, fmt.Errorf("fence is %.20q; expected RADIUS/HEIGHT in m", value)
		}
		if e.Value, err = number(radius, 0, 10_000); err == nil {
			e.More, err = number(height, 0, 1000)
		}
	default:
		if has {
			return e, fmt.Errorf("%s takes no value and has %.20q", word, value)
		}
	}
	return e, err
}

// Happen carries an event out, or refuses it and says why.
func (f *Flight) Happen(e Event, k Sticks) {
	s := &f.State
	if s.linked() && !s.Crashed {
		s.last = k
	}
	if why := f.refusal(e, k); why != "" {
		f.Refused = append(f.Refused, Refused{f.Now(), e.String(), why})
		return
	}
	m := s.Att.mat()
	switch e.Kind {
	case Arm:
		s.armed, s.wasOverIdle, s.downFor = true, false, 0
		s.mode = byHand
		s.home, s.hasHome = Vec{s.Pos.X, s.Pos.Y, 0}, s.fix
		s.pilot.frozen, s.pilot.holdHeading, s.pilot.turning = m.heading(), m.heading(), false
		s.pilot.holding, s.pilot.heightHeld = false, false
	case Disarm:
		s.armed, s.mode = false, byHand
	case Takeoff:
		f.begin(takingOff)
		s.wasOverIdle = true
	case Land:
		f.begin(landing)
	case Home:
		f.goHome()
	case Cancel:
		s.mode = byHand
		s.pilot.holding, s.pilot.heightHeld = false, false
	case Freeze:
		s.pilot.frozen = wrap(m.heading() + s.compass)
	case FixLost, FixBack:
		s.fix = e.Kind == FixBack
	case LinkLost, LinkBack:
		s.link = e.Kind == LinkBack
	case CompassError:
		s.compass = float64(e.Value * (math.Pi / 180))
	case PackAt:
		s.Charge = float64(e.Value / 100)
		s.warned = s.warned && s.Charge < lowPack
	case RotorAt:
		s.weak[e.N-1] = float64(e.Value / 100)
	case GentleSwitch:
		s.gentle = e.Value > 0
	case Fence:
		s.fenceRadius, s.fenceHeight = e.Value, e.More
	case SensorSwitch:
		s.sensorsOn = e.Value > 0
	case FrameTurned:
		s.turned, s.turnedFrom, s.turnedTo = true, k.Frame, Frame(e.Value)
		s.pilot.frozen = wrap(m.heading() + s.compass)
	case PictureLost, PictureBack:
		s.dark = e.Kind == PictureLost
	case Hand:
		s.handFor = handFor
	case Gust:
		s.wind.blow, s.wind.blowFor = e.Value, gustBlow
	}
}

// refusal is why an event does not happen now; empty for one that does.
func (f *Flight) refusal(e Event, k Sticks) string {
	s := &f.State
	if s.Crashed {
		return msgCraftCrashed
	}
	switch e.Kind {
	case Arm:
		return f.armRefusal(k)
	case Disarm:
		switch {
		case !s.armed:
			return msgMotorsStopped
		case !s.onGround:
			return msgInTheAir
		}
	case Takeoff:
		switch {
		case !s.armed:
			return msgMotorsStopped
		case !s.onGround:
			return msgInTheAir
		case f.craft.Most() > HeightHold:
			return msgHoldsNoHeight
		}
	case Land:
		switch {
		case !s.armed || s.onGround:
			return msgNotInTheAir
		case f.craft.Most() > HeightHold:
			return msgHoldsNoHeight
		}
	case Home:
		switch {
		case !s.armed || s.onGround:
			return msgNotInTheAir
		case !f.craft.Limits[PositionHold].Has:
			return msgHoldsNoPosition
		case !s.fix:
			return msgNoPositionFix
		case !s.hasHome:
			return msgNoHomePoint
		}
	case Cancel:
		if s.mode == byHand {
			return msgNotFlyingItself
		}
	case RotorAt:
		if e.N > len(f.craft.Rotors) {
			return fmt.Sprintf(msgHasRotors, len(f.craft.Rotors))
		}
	}
	return ""
}

// armRefusal is why the motors do not start now; empty where they do.
func (f *Flight) armRefusal(k Sticks) string {
	s := &f.State
	switch {
	case s.armed:
		return msgMotorsRunAlready
	case s.Flat || s.Charge <= emptyPack:
		return msgPackEmpty
	case !s.onGround && f.feetHeight() > 0.05:
		return msgNotOnTheGround
	case k.Throttle > -0.9:
		return msgThrottleNotLow
	case s.Att.mat().z.Z < 0.94:
		return msgNotLevel
	case !s.linked():
		return msgNoLink
	}
	return ""
}
