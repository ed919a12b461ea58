// Package pilot is a model of somebody who flies drills in the simulator: an eye
// that is late and errs, a hand that trembles and has to learn where the stick
// belongs, and a head that takes left for right while the nose does not point away.
// The sample school is flown by it.
package pilot

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/flight"
	"maestrale/core/flight/trace"
	"maestrale/core/rig"
	"maestrale/core/track"
)

// Skill is how somebody flies.
type Skill struct {
	DelayS    float64 // from what is seen to what the hand does
	Tremble   float64 // of the hand, standard deviation of a stick
	Eye       float64 // how far the judged place is off, m, standard deviation; twice that in depth
	LetBe     float64 // how far off it may be before the hand does anything, m
	Confusion float64 // chance a second to take the stick the wrong way with the nose at the pilot
	Trim      float64 // how soon the hand learns to lean against the wind, 1/s
	SinkMps   float64 // onto the ground
	Turning   float64 // how much worse place is held while it turns; 1 = no worse
}

// Of is the skill of somebody whose errors are a share of what a beginner's are, 0
// to 1 and over, on a craft whose drills are so many times as wide as those of the
// light class. Delays are those of visual reaction with a choice to make, 0.25 to
// 0.6 s (Hick, "On the rate of gain of information", QJEP 4 (1952) 11); the rest is a
// reckoning of our own.
func Of(share, wide float64) Skill {
	return Skill{
		DelayS: 0.24 + 0.2*share, Tremble: 0.02 + 0.13*share, Eye: (0.03 + 0.42*share*share) * wide, LetBe: (0.1 +
			0.3*share) * wide,
		Confusion: 0.03 + 0.5*share, Trim: 0.5 / (1 + 2*share), SinkMps: 0.35 + 0.5*share, Turning: 1 + share,
	}
}

// Flown is a flight of a task.
type Flown struct {
	Track   *track.Track
	Run     string // the trace as maestrale-run/1
	Outcome flight.Outcome
}

const (
	reading   = 0.01 // s
	longest   = 240  // s
	muscle    = 0.09 // s in which a hand gets to where it is going
	deadStick = 0.04 // that the autopilot takes for nothing, and a hand knows
)

// Event is what happens to the pilot at a moment, as trace has it.
type Event struct {
	AtS  float64
	Text string
}

// Fly flies the task of a run once, from starting the motors to their stop. The
// same seed gives the same flight.
func Fly(spec trace.Spec, cat *drill.Catalogue, s Skill, seed uint64, events ...Event) (Flown, error) {
	setup, err := rig.SetUp(spec, cat, nil)
	if err != nil {
		return Flown{}, fmt.Errorf("the pilot's run: %w", err)
	}
	if setup.Task == nil {
		return Flown{}, fmt.Errorf("the pilot's run names no drill")
	}
	rec, log, err := setup.Start()
	if err != nil {
		return Flown{}, fmt.Errorf("the pilot's run: %w", err)
	}
	h := &hand{Skill: s, r: rand.New(rand.NewPCG(seed, 0x70696c6f74)), spec: spec, rec: rec, log: log,
		craft: &setup.Config.Craft, aids: setup.Config.Aids, station: setup.Task.Station, events: events}
	h.eyeX.time, h.eyeY.time, h.eyeZ.time = 4, 4, 3
	for _, e := range []*ou{&h.eyeX, &h.eyeY, &h.eyeZ} {
		e.v = h.r.NormFloat64()
	}
	for i := range h.tremble {
		h.tremble[i].time = 0.35
	}
	root := math.Sqrt(h.craft.FullThrust)
	// Where the throttle hovers is known to the hand, if not quite.
	h.power = 2*0.75/(root-0.25) - 1 + 0.25*s.Tremble*h.r.NormFloat64()
	h.sticks.Throttle = -1
	h.task(setup.Task)
	if h.err != nil {
		return Flown{}, fmt.Errorf("the pilot's run: %w", h.err)
	}
	h.log.Hear(h.rec.Happened())
	return Flown{Track: &h.log.Track, Run: h.rec.JSON(spec, false), Outcome: h.rec.Close()}, nil
}

// task flies the steps.
func (h *hand) task(t *drill.Task) {
	at := field.Point{Y: 6}
	for _, s := range t.Steps {
		if s.HasAt {
			at = s.At
			break
		}
	}
	start := h.rec.Sample(h.sticks)
	heading := field.Angle(start.Heading)
	height := 0.0
	if h.ready(start) {
		height = start.Z
	}
	for _, s := range t.Steps {
		if s.HasAt {
			at = s.At
		}
		aim := target{at: at, height: height, heading: heading}
		switch s.Kind {
		case drill.TakeOff:
			h.arm(1)
			height = s.ToHeightM
			aim.height, aim.at = height, field.Point{X: h.now.X, Y: h.now.Y}
			h.rise(aim)
		case drill.Motors:
			h.motors(s)
		case drill.Hold:
			if s.HeightM > 0 {
				height = s.HeightM
			}
			aim.height = height
			heading = h.noseOf(s, at, heading)
			aim.heading = heading
			h.hold(aim, s)
		case drill.Turn:
			heading += s.By
			h.turn(aim, s.By)
		case drill.GoTo:
			if s.HeightM > 0 {
				height = s.HeightM
			}
			if s.Heading.Kind == drill.Fixed {
				heading = s.Heading.Angle
			}
			aim.height, aim.heading = height, heading
			h.goTo(aim, s)
		case drill.Path:
			at, height, heading = h.path(s, heading)
		case drill.Stop:
			at = h.stopOnCall(aim, s)
		case drill.Return:
			at, height = h.flyHome(aim, s)
		case drill.Regain:
			at, height, heading = h.regain(t, s)
		case drill.Land:
			h.land(aim)
		}
	}
}

// arm starts the motors where they do not run, and waits.
func (h *hand) arm(seconds float64) {
	if !h.rec.Armed() {
		_ = h.rec.Event("arm", "")
		h.rest(seconds)
	}
}

// motors lets the motors idle on the ground for a time, and stops them.
func (h *hand) motors(s drill.Target) {
	h.arm(0)
	h.rest(s.Seconds + 0.5 + h.r.Float64())
	_ = h.rec.Event("disarm", "")
	h.rest(1)
}

// ready begins a flight: one that begins in the air (true) goes on from there, else the motors are started.
func (h *hand) ready(start flight.Sample) (inAir bool) {
	if h.rec.Armed() {
		h.sticks.Throttle = 0
		h.now = start
		return true
	}
	h.rest(0.6 + h.r.Float64())
	_ = h.rec.Event("arm", "")
	h.rest(0.8 + 0.6*h.r.Float64())
	return false
}

// noseOf is the heading that a step asks for at a place; the one there was where it asks for none.
func (h *hand) noseOf(s drill.Target, at field.Point, heading field.Angle) field.Angle {
	switch s.Heading.Kind {
	case drill.Fixed:
		return s.Heading.Angle
	case drill.Sight:
		return field.Bearing(at.Sub(h.station)) + s.Heading.Angle
	}
	return heading
}

// target is where the hand wants the craft.
type target struct {
	at      field.Point
	height  float64
	heading field.Angle
	yawRate float64 // rad/s at most; 0 = as it comes
	vx, vy  float64 // how fast the place moves on
}

// hold stays until the time has passed by the pilot's own count.
func (h *hand) hold(aim target, s drill.Target) {
	inside := 0.0
	owed := slices.Clone(s.During)
	for t := 0.0; t < 3*s.Seconds+22+15*float64(len(s.During)) && !h.over; t += reading {
		h.toward(aim, h.lift(aim.height, 0.8))
		if len(owed) > 0 {
			if inside = 0; h.happened(owed[0]) {
				h.answer(aim, owed[0])
				if owed[0].End {
					return
				}
				owed = owed[1:]
			}
			continue
		}
		o := &h.now
		if math.Hypot(o.X-aim.at.X, o.Y-aim.at.Y) < s.Limits.Radius && math.Abs(o.Z-aim.height) < s.Limits.Height {
			inside += reading
		} else {
			inside = 0
		}
		if inside > s.Seconds+2.8+h.DelayS {
			return
		}
	}
}

// turn leads the nose round by an angle, more than half a turn where it has to.
func (h *hand) turn(aim target, by field.Angle) {
	h.turning = true
	defer func() { h.turning = false }()
	rate := (24 + 16*h.r.Float64()) * math.Pi / 180
	aim.yawRate = 1.3 * rate
	from, led, still := aim.heading, 0.0, 0.0
	for t := 0.0; t < 8+by.Abs().Deg()/15 && !h.over; t += reading {
		led = math.Min(float64(by.Abs()), led+rate*reading)
		// The nose is led by less than half a turn, so that it knows the way.
		aim.heading = from + field.Angle(math.Copysign(led, float64(by)))
		h.toward(aim, h.lift(aim.height, 0.6))
		if led == float64(by.Abs()) && math.Abs(float64((aim.heading-field.Angle(h.now.Heading)).Wrap())) < 0.12 {
			still += reading
		} else {
			still = 0
		}
		if still > 1.2 {
			return
		}
	}
}

// goTo leads the craft along a straight way and rests at its end.
func (h *hand) goTo(aim target, s drill.Target) {
	from := field.Point{X: h.now.X, Y: h.now.Y}
	far := s.At.Dist(from)
	way, still := 0.0, 0.0
	aim.at = from
	for t := 0.0; t < 12+far/h.pace() && !h.over; t += reading {
		aim.vx, aim.vy = 0, 0
		if way = math.Min(far, way+h.pace()*reading); way < far {
			u := way / far
			aim.at = field.Point{X: from.X + (s.At.X-from.X)*u, Y: from.Y + (s.At.Y-from.Y)*u}
			slow := math.Min(1, (far-way)/0.8)
			aim.vx, aim.vy = slow*h.pace()*(s.At.X-from.X)/far, slow*h.pace()*(s.At.Y-from.Y)/far
		} else {
			aim.at = s.At
		}
		h.toward(aim, h.lift(aim.height, 0.8))
		if math.Hypot(h.now.X-s.At.X, h.now.Y-s.At.Y) < s.Limits.Past && math.Hypot(h.now.VX, h.now.VY) < 0.25 {
			still += reading
		} else {
			still = 0
		}
		if still > s.RestS+0.8+h.DelayS {
			return
		}
	}
}

// path follows a figure, at rest at its corners where that is asked; it returns
// where it ends.
func (h *hand) path(s drill.Target, heading field.Angle) (field.Point, float64, field.Angle) {
	f := s.Path
	from := 0.0
	if f.Closed && f.Shape != drill.Eight { // joined where it is nearest
		from, _ = f.Nearest(drill.Spot{X: h.now.X, Y: h.now.Y, Z: h.now.Z}, 0, f.Length)
	}
	start, course := f.At(from)
	speed := h.pace() * 1.2
	if s.RestS > 0 || f.Diagonal > 0 { // the lines of an eight cross where they should if it is not hurried
		speed = h.pace() * 0.8
	}
	total := f.Length * float64(max(1, s.Laps))
	if f.Closed {
		total *= 1.01
	}
	aim := target{at: start.Flat(), height: start.Z, heading: heading}
	rule := func(course field.Angle) { h.noseAlong(&aim, s, course) }
	rule(course)
	reach := math.Max(0.3, 0.4*s.Limits.Cross)
	h.steadyAt(aim, start, reach)
	way, corner := 0.0, 0
	owed := slices.Clone(s.During)
	for way < total && !h.over { // from there on
		if len(owed) > 0 && h.happened(owed[0]) {
			h.answer(aim, owed[0])
			if owed[0].End {
				return field.Point{X: h.now.X, Y: h.now.Y}, h.now.Z, aim.heading
			}
			owed = owed[1:]
		}
		if s.RestS > 0 && corner < len(f.Corners) && way >= f.Corners[corner] {
			spot, _ := f.At(f.Corners[corner])
			aim.at, aim.height, aim.vx, aim.vy = spot.Flat(), spot.Z, 0, 0
			h.restFor(aim, s.RestS)
			corner++
			continue
		}
		// Who falls behind waits for the craft.
		spot, course := f.At(from + way)
		if math.Hypot(h.now.X-spot.X, h.now.Y-spot.Y) < 2*reach+0.5 {
			way += speed * reading
		}
		next, _ := f.At(from + way + 0.05)
		d := math.Max(1e-6, f.Far(spot, next))
		aim.at, aim.height = spot.Flat(), spot.Z
		aim.vx, aim.vy = speed*(next.X-spot.X)/d, speed*(next.Y-spot.Y)/d
		rule(course)
		if f.Level {
			h.toward(aim, h.lift(aim.height, 0.8))
			continue
		}
		h.toward(aim, h.climbing(aim.height, speed*(next.Z-spot.Z)/d))
	}
	end, _ := f.At(from + total)
	aim.at, aim.height, aim.vx, aim.vy = end.Flat(), end.Z, 0, 0
	for t := 0.0; t < 2.5 && !h.over; t += reading {
		h.toward(aim, h.lift(aim.height, 0.8))
	}
	return end.Flat(), end.Z, aim.heading
}

// noseAlong turns the nose as a path asks where its course is this; it stays where the path asks for nothing.
func (h *hand) noseAlong(aim *target, s drill.Target, course field.Angle) {
	subject := field.Bearing(s.Subject.Sub(field.Point{X: h.now.X, Y: h.now.Y}))
	if want, ok := s.Heading.OfPath(course, subject); ok {
		aim.heading = want
	} else if s.Heading.Kind == drill.Fixed {
		aim.heading = s.Heading.Angle
	}
}

// steadyAt goes to the start of a path and stays within reach of it for a second.
func (h *hand) steadyAt(aim target, start drill.Spot, reach float64) {
	still := 0.0
	for t := 0.0; t < 30 && still < 1 && !h.over; t += reading {
		h.toward(aim, h.lift(aim.height, 1))
		if still += reading; math.Hypot(h.now.X-start.X, h.now.Y-start.Y) > reach || math.Abs(h.now.Z-start.Z) > 0.4 {
			still = 0
		}
	}
}

// restFor stops at a corner and rests there for so many seconds.
func (h *hand) restFor(aim target, seconds float64) {
	rested := 0.0
	for t := 0.0; t < 3*seconds+12 && rested < seconds+1.2 && !h.over; t += reading {
		h.toward(aim, h.lift(aim.height, 0.8))
		if math.Sqrt(h.now.VX*h.now.VX+h.now.VY*h.now.VY+h.now.VZ*h.now.VZ) < 0.2 {
			rested += reading
		} else {
			rested = 0
		}
	}
}

// stopOnCall sets off, is called, and stands.
func (h *hand) stopOnCall(aim target, s drill.Target) field.Point {
	from := field.Point{X: h.now.X, Y: h.now.Y}
	aim.vx, aim.vy = 0, math.Max(1.2*h.pace(), 1.5*s.FromMps)
	called := drill.Due{Event: "call"}
	for t := 0.0; t < 2*s.AfterS+6 && !h.happened(called) && !h.over; t += reading {
		aim.at = field.Point{X: from.X, Y: from.Y + aim.vy*t}
		h.toward(aim, h.lift(aim.height, 0.6))
	}
	if s.Over {
		h.flip(aim)
		aim.height = math.Max(4, h.now.Z+0.3*h.now.VZ) // it is caught where it is
	}
	return h.stand(aim)
}

// flip turns over once to the right: up first, the stick to its end, and back to the
// middle as the horizon comes round, as early as the hand has learnt that it answers late.
func (h *hand) flip(aim target) {
	aim.vx, aim.vy = 0, 0
	trimX, trimY, power := h.trimX, h.trimY, h.power // what held it before holds it after
	for t := 0.0; t < 0.35 && !h.over; t += reading {
		aim.at = field.Point{X: h.now.X, Y: h.now.Y}
		h.toward(aim, power+0.6)
	}
	turned, last := 0.0, h.now.Roll
	for t := 0.0; t < 1.5 && turned < math.Pi*(1.25-0.8*h.Eye) && !h.over; t += reading {
		h.move(power-0.3, 0, 0, 1)
		turned += float64(field.Angle(h.now.Roll - last).Wrap())
		last = h.now.Roll
	}
	for t := 0.0; t < 1.2 && (t < 0.2 || h.now.VZ < -1.6) && !h.over; t += reading { // it levels itself
		h.move(power+0.3, 0, 0, 0)
	}
	h.trimX, h.trimY, h.power, h.lastVZ = trimX, trimY, power, h.now.VZ
}

func (h *hand) land(aim target) {
	still := 0.0 // over the pad first
	for t := 0.0; t < 12 && still < 0.8 && !h.over; t += reading {
		h.toward(aim, h.lift(aim.height, 0.8))
		if still += reading; math.Hypot(h.now.X-aim.at.X, h.now.Y-aim.at.Y) > h.LetBe+0.25 {
			still = 0
		}
	}
	sink := math.Max(0.2, h.SinkMps*(1+0.15*h.r.NormFloat64()))
	for t := 0.0; t < 30+1.5*h.now.Z && !h.over; t += reading {
		if h.rec.OnGround() {
			break
		}
		if h.now.Z > 3.5 { // from high up it comes down by more than a landing's sink
			h.toward(aim, h.lift(2.5, math.Max(1.2, sink)))
			continue
		}
		if h.aids <= flight.HeightHold {
			lim := &h.craft.Limits[h.aids]
			down := math.Max(sink, 0.5)
			if h.now.Z < 0.8 {
				down = sink
			}
			h.toward(aim, -down/lim.Descend)
			continue
		}
		h.toward(aim, h.lift(h.now.Z-sink/0.8, sink))
	}
	h.sticks.Throttle, h.sticks.Yaw, h.sticks.Pitch, h.sticks.Roll = -1, 0, 0, 0
	for t := 0.0; t < 6 && !h.over && h.rec.Armed(); t += reading {
		h.read()
	}
	h.rest(0.5)
}

// Wide is how many times as wide the drills of a class are as those of the light
// one.
var Wide = map[craft.Class]float64{craft.Micro: 0.5, craft.Light: 1, craft.Medium: 1.2, craft.Heavy: 1.8}
