package pilot

import (
	"math"
	"math/rand/v2"

	"maestrale/core/field"
	"maestrale/core/flight"
	"maestrale/core/flight/trace"
	"maestrale/core/rig"
)

// hand is somebody who flies.
type hand struct {
	heard  int // events of the drill that were answered
	events []Event
	Skill
	r          *rand.Rand
	spec       trace.Spec
	rec        *trace.Recorder
	log        *rig.Recorder
	craft      *flight.Craft
	aids       flight.Aids
	station    field.Point
	seen       []flight.Sample // what the eye has not worked through yet
	now        flight.Sample   // what it has
	eyeX, eyeY ou
	eyeZ       ou
	tremble    [4]ou
	sticks     flight.Sticks
	trimX      float64 // acceleration against the wind, field frame
	trimY      float64
	power      float64 // throttle that hovers, without height hold
	lastVZ     float64
	wrongFor   float64 // s for which left is taken for right
	over       bool
	err        error
	turning    bool
}

// ou is a slow random error of standard deviation 1 (Ornstein and Uhlenbeck).
type ou struct{ v, time float64 }

func (o *ou) next(r *rand.Rand) float64 {
	o.v += -o.v/o.time*reading + math.Sqrt(2*reading/o.time)*r.NormFloat64()
	return o.v
}

// rest holds the sticks as they are.
func (h *hand) rest(seconds float64) {
	for range int(seconds / reading) {
		h.read()
	}
}

// read flies one reading and looks.
func (h *hand) read() {
	if h.over {
		return
	}
	k := h.sticks
	if len(h.events) > 0 && h.rec.Now() >= h.events[0].AtS {
		if err := h.rec.Event(h.events[0].Text, ""); err != nil {
			h.err = err
		}
		h.events = h.events[1:]
	}
	h.over = !h.rec.Reading(k.Throttle, k.Yaw, k.Pitch, k.Roll, 0, int(h.aids), 0) || h.rec.Now() > longest
	h.seen = append(h.seen, h.rec.Sample(k))
	if late := int(h.DelayS / reading); len(h.seen) > late {
		h.now = h.seen[len(h.seen)-1-late]
		h.seen = h.seen[len(h.seen)-late:]
	}
}

// toward moves the sticks toward what brings the craft to where it should be, and
// flies a reading.
func (h *hand) toward(aim target, throttle float64) {
	o := &h.now
	worse := 1.0
	if h.turning {
		worse = h.Turning
	}
	ex := o.X + h.Eye*worse*h.eyeX.next(h.r) - aim.at.X
	ey := o.Y + 2*h.Eye*worse*h.eyeY.next(h.r) - aim.at.Y
	var wantX, wantY, full float64
	aids := h.flownWith()
	lim := &h.craft.Limits[aids]
	if aids == flight.PositionHold {
		// The stick is a speed; near enough is let be.
		if far := math.Hypot(ex, ey); far > h.LetBe || aim.vx != 0 || aim.vy != 0 {
			wantX, wantY = aim.vx-0.6*ex, aim.vy-0.6*ey
		}
		full = lim.Speed
	} else {
		// The stick is a lean: an acceleration, with what leans against the wind. The
		// hand foresees what its delay hides, as far as it has learnt to.
		lead := 0.6 * h.DelayS
		px, py := ex+lead*(o.VX-aim.vx), ey+lead*(o.VY-aim.vy)
		if math.Hypot(ex, ey) < 3*h.LetBe+1 {
			h.trimX -= h.Trim * 0.5 * px * reading
			h.trimY -= h.Trim * 0.5 * py * reading
		}
		wantX, wantY = -0.7*px-1.5*(o.VX-aim.vx)+h.trimX, -0.7*py-1.5*(o.VY-aim.vy)+h.trimY
		full = flight.Gravity * math.Tan(math.Min(lim.Lean, 1.2))
	}
	sin, cos := math.Sincos(o.Heading)
	ahead, right := (wantX*sin+wantY*cos)/full, (wantX*cos-wantY*sin)/full
	// The more the nose points at the pilot, the likelier the wrong way is taken.
	aspect := math.Abs(float64(field.Angle(o.Heading - math.Atan2(o.X-h.station.X, o.Y-h.station.Y)).Wrap()))
	if h.wrongFor > 0 {
		h.wrongFor -= reading
		right = -right
		if aspect > 1.8 {
			ahead = -ahead
		}
	} else if h.r.Float64() < h.Confusion*aspect/math.Pi*reading {
		h.wrongFor = 0.4 + h.DelayS + 0.6*h.r.Float64()
	}
	off := float64((aim.heading - field.Angle(o.Heading)).Wrap())
	rate := 1.3 * off
	if aim.yawRate > 0 {
		rate = math.Max(-aim.yawRate, math.Min(aim.yawRate, rate))
	} else if math.Abs(off) < 0.06 {
		rate = 0
	}
	h.move(throttle, rate/lim.YawMax, ahead, right)
}

// move brings the hands nearer to where they are going and flies a reading.
func (h *hand) move(throttle, yaw, pitch, roll float64) {
	share := reading / muscle
	for i, m := range []struct {
		stick *float64
		to    float64
		loud  float64
	}{{&h.sticks.Throttle, throttle, 0.25}, {&h.sticks.Yaw, yaw, 0.35}, {&h.sticks.Pitch, pitch, 1}, {&h.sticks.Roll, roll,
		1}} {
		to := m.to
		if i > 0 && math.Abs(to) > 0.005 {
			to += math.Copysign(deadStick, to)
		}
		loud := m.loud * h.Tremble
		if h.flownWith() == flight.PositionHold && math.Abs(m.to) < 0.005 {
			loud = 0 // the hand rests
		}
		to = math.Max(-1, math.Min(1, to+loud*h.tremble[i].next(h.r)))
		*m.stick += share * (to - *m.stick)
	}
	h.read()
}

// lift is the throttle toward a height at a climb at most.
func (h *hand) lift(height, most float64) float64 {
	o := &h.now
	off := height - o.Z + h.Eye*h.eyeZ.next(h.r)*0.6
	lim := &h.craft.Limits[h.aids]
	if h.aids <= flight.HeightHold {
		want := math.Max(-most, math.Min(most, 0.9*off))
		if math.Abs(off) < 0.5*h.LetBe {
			want = 0
		}
		if want > 0 {
			return want / lim.Climb
		}
		return want / lim.Descend
	}
	want := math.Max(-most, math.Min(most, 0.8*off))
	// What a stick's width lifts with more, m/s²: the hand has learnt how strong the
	// craft is, and asks for no more than its delay lets it mend.
	strong := flight.Gravity * (math.Sqrt(h.craft.FullThrust) - 0.25)
	foreseen := o.VZ + 0.1*h.DelayS*(o.VZ-h.lastVZ)/reading
	h.lastVZ = o.VZ
	miss := want - foreseen
	h.power += 0.3 / strong * miss * reading
	return math.Max(-0.9, h.power+1.3/strong*miss)
}

func (h *hand) rise(aim target) {
	for t := 0.0; t < 14 && !h.over; t += reading {
		climb := 0.8
		if h.now.Z > aim.height-0.12 && h.now.VZ < 0.3 {
			return
		}
		throttle := h.lift(aim.height+0.1, climb)
		if h.aids <= flight.HeightHold && h.now.Z < 0.2 {
			throttle = math.Max(throttle, 0.35)
		}
		if h.now.Z < 0.15 { // before it is up there is nothing to correct
			h.move(throttle, 0, 0, 0)
			continue
		}
		h.toward(aim, throttle)
	}
}

// pace is how fast a learner moves from place to place, m/s.
func (h *hand) pace() float64 { return 0.9 * math.Max(0.7, math.Sqrt(h.craft.Span/0.3)) }

// climbing is the throttle along a slope: the height that is due, met with the climb
// that the slope takes.
func (h *hand) climbing(height, climb float64) float64 {
	off := height - h.now.Z
	want := climb + 0.8*off
	lim := &h.craft.Limits[h.aids]
	if h.aids > flight.HeightHold {
		return h.lift(h.now.Z+want/0.8, 3)
	}
	if want > 0 {
		return want / lim.Climb
	}
	return want / lim.Descend
}

// flownWith are the aids that the craft flies with, as the hand has noticed: those
// that were picked, or fewer where something was lost.
func (h *hand) flownWith() flight.Aids { return max(h.aids, h.now.Aids) }
