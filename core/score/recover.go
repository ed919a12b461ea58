package score

import (
	"math"
	"slices"
	"strings"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/orient"
	"maestrale/core/track"
)

// Two recoveries are followed here: the flight home, which the craft flies by
// itself while the pilot watches or takes over, and the lost orientation, which
// the pilot has to end.

// Nearer is the share of the distance at which an orientation counts as regained.
const Nearer = 0.8

const (
	stickTakes = 0.15 // of a stick that takes over from the autopilot
	setsOff    = 1.0  // m over the ground at which a flight home has left
)

// recovery is what a flight home or a lost orientation leaves behind for its
// metrics: metres, seconds, and degrees for homeHeading.
type recovery struct {
	climb, offset, taken float64 // of a return
	// Of a return: whether the craft landed by itself, or the pilot took over.
	landed, tookOver        bool
	home, lost, homeHeading float64 // of a regain
	wrong                   int
	// came is whether the craft came home, knowsSticks whether the log has
	// sticks to count by, begun whether the step began.
	came, knowsSticks, begun bool
}

// recovered returns what the current step leaves behind, made at its first use.
func (s *sampler) recovered() *recovery {
	if s.recoveries == nil {
		s.recoveries = map[int]*recovery{}
	}
	if s.recoveries[s.step] == nil {
		s.recoveries[s.step] = &recovery{}
	}
	return s.recoveries[s.step]
}

// returning follows a flight home: what set it off, how far it climbed before
// it left, and whether it landed at home or was taken over, and when. A log in
// which nothing sets it off leaves the step undone.
func (s *sampler) returning() {
	target, r := s.target(), s.recovered()
	i := slices.IndexFunc(s.t.Calls, func(c track.Call) bool {
		return c.T >= s.ready-1e-9 && setsHome(target.Trigger,
			c.Text)
	})
	if i < 0 {
		s.i = s.t.Len() - 1
		return
	}
	from := s.t.Calls[i].T
	begin := s.when(from)
	s.i = max(0, s.t.At(from))
	first := s.i
	s.started(from)
	r.begun = true
	r.knowsSticks = s.t.StickThrottle != nil && s.t.StickYaw != nil && s.t.StickPitch != nil && s.t.StickRoll != nil
	// Sticks before that moment cannot be an answer.
	hears := s.hearsFrom(from)
	left := false
	stood, rest := clock{}, s.newRest()
	a := begin
	for ; s.i < s.t.Len()-1; s.i++ {
		b := s.sample(s.i + 1)
		speed, since := s.speed(s.i + 1)
		// The climb is over once the craft has set off over the ground.
		if left = left || math.Hypot(b.x-begin.x, b.y-begin.y) > setsOff; !left {
			r.climb = math.Max(r.climb, b.z-begin.z)
		}
		// Watched to the ground, it is done after a second of standing there.
		if target.TakeOverS == 0 {
			if s.standsAtHome(&stood, b, since, speed < rest.may.limit) {
				return
			}
			continue
		}
		// The first push takes over; one before TakeOverS was too early.
		if !r.tookOver && r.knowsSticks && b.t > hears && s.pushed(s.i+1, first) {
			r.tookOver, r.taken = true, b.t-from
			if r.taken < target.TakeOverS {
				s.fault(Fault{TS: b.t, Code: Order, Value: value(r.taken), Limit: value(target.TakeOverS), At: &Place{b.x, b.y,
					b.z}})
			}
		}
		// Without sticks in the log, a craft that rests after the time to take
		// over is believed to have been taken over.
		ready := r.tookOver || (!r.knowsSticks && b.t >= from+target.TakeOverS)
		rest.see(a.t, b.t, speed, ready)
		if may, sure := s.enough(&rest, b.t, settle); may && ready {
			if !sure && !s.surely(rest, settle) {
				s.hidden(s.step, "rest", s.pace, drill.RestMps, "m/s")
			}
			s.finish(b.t)
			return
		}
		s.timeOut(b.t)
		a = b
	}
}

// standsAtHome looks whether a craft that comes home by itself has stood for
// settle seconds by b, and ends the step there. still is whether it is slow enough
// to be at rest, since when it became so.
func (s *sampler) standsAtHome(stood *clock, b point, since float64, still bool) bool {
	if b.z >= s.ground || !still {
		stood.leave(b.t)
	} else {
		stood.enter(since)
	}
	if stood.on && b.t >= stood.runs() {
		s.landedAt(b, stood.since)
		s.finish(stood.runs())
		return true
	}
	s.timeOut(b.t)
	return false
}

// landedAt notes where a craft that came home by itself stands since a moment,
// and how far that is from home.
func (s *sampler) landedAt(b point, since float64) {
	r := s.recovered()
	home := s.homeOf()
	r.landed, r.offset = true, math.Hypot(b.x-home.X, b.y-home.Y)
	if limit := s.judged[s.step].homeOffset; limit > 0 && r.offset > limit {
		s.fault(Fault{TS: since, Code: Offset, Value: value(r.offset), Limit: value(s.target().Limits.HomeOffset),
			At: &Place{b.x, b.y, b.z}, Toward: field.Direction(field.Point{X: b.x - home.X, Y: b.y - home.Y})})
	}
}

// hearsFrom is the moment from which a stick answers what sent the craft home
// at from: it takes 0.3 s to move one, and without a link nothing hears it, so
// that a lost link has to come back first.
func (s *sampler) hearsFrom(from float64) float64 {
	if s.target().Trigger == "link" {
		if j := slices.IndexFunc(s.t.Calls, func(c track.Call) bool { return c.T > from && c.Text == "link-back" }); j >= 0 {
			return s.t.Calls[j].T
		}
	}
	return from + 0.3
}

// setsHome tells whether the text of a call sets off a flight home by this
// trigger: "link", "pack", or else the pilot's own "home".
func setsHome(trigger, text string) bool {
	word, _, _ := strings.Cut(strings.TrimSpace(text), "=")
	switch trigger {
	case "link":
		return word == "link-lost"
	case "pack":
		return word == "pack"
	}
	return word == "home"
}

// pushed tells whether a stick is pushed at sample i, as takes over from the
// autopilot: out of the middle, and away from where it was at sample begun,
// when the craft began to fly by itself.
func (s *sampler) pushed(i, begun int) bool {
	for _, axis := range [][]float64{s.t.StickThrottle, s.t.StickYaw, s.t.StickPitch, s.t.StickRoll} {
		if math.Abs(axis[i]) > stickTakes && math.Abs(axis[i]-axis[begun]) > stickTakes {
			return true
		}
	}
	return false
}

// homeOf is where the craft took off in this attempt, or the first place of the
// log.
func (s *sampler) homeOf() field.Point {
	at := s.t.T[0]
	for i, t := range s.task.Steps[:s.step] {
		if from := s.spans[i].from; t.Kind == drill.TakeOff && !math.IsNaN(from) {
			at = from
		}
	}
	p := s.when(at)
	return field.Point{X: p.x, Y: p.y}
}

// regaining follows a craft whose aspect the pilot has to find. It begins at a
// call or with the log, and is done when the craft is a fifth nearer to the
// station than it was (Nearer). Meanwhile it is followed how much farther away
// it went, and how the nose pointed while it came nearer.
func (s *sampler) regaining() {
	target, c, r := s.target(), s.judged[s.step], s.recovered()
	from := s.ready
	if i := slices.IndexFunc(s.t.Calls, func(c track.Call) bool { return c.T >= s.ready-1e-9 }); i >= 0 {
		from = s.t.Calls[i].T
	}
	begin := s.when(from)
	far := func(p point) float64 { return math.Hypot(p.x-s.task.Station.X, p.y-s.task.Station.Y) }
	start := far(begin)
	s.i = max(0, s.t.At(from))
	s.started(from)
	r.begun = true
	lost := excursion{code: Lost, limit: c.lost, own: target.Limits.Lost}
	a := begin
	nose, closing := 0.0, 0.0
	for ; s.i < s.t.Len()-1; s.i++ {
		b := s.sample(s.i + 1)
		d := far(b)
		r.lost = math.Max(r.lost, d-start)
		lost.see(s, a, b, math.Max(0, d-start), func() string {
			return field.Direction(field.Point{X: b.x - begin.x,
				Y: b.y - begin.y})
		})
		// While it comes nearer by 0.3 m/s at least, the nose's error from the
		// way home is averaged over time.
		if dt := b.t - a.t; s.t.Heading != nil && far(a)-d > 0.3*dt {
			home := field.Bearing(field.Point{X: s.task.Station.X - b.x, Y: s.task.Station.Y - b.y})
			nose += math.Abs(float64((b.heading - home).Wrap())) * dt
			closing += dt
		}
		// A fifth nearer: the pilot knows where the nose is.
		if d <= Nearer*start {
			r.came, r.home = true, b.t-from
			break
		}
		s.timeOut(b.t)
		a = b
	}
	end := s.t.T[min(s.i+1, s.t.Len()-1)]
	if closing > 0 {
		r.homeHeading = field.Angle(nose / closing).Deg()
	}
	s.countWrongInputs(from, end)
	if took := end - from; c.seconds > 0 && took > c.seconds {
		p := s.when(from + c.seconds)
		s.fault(Fault{TS: from + c.seconds, Code: Late, Value: value(took), Limit: value(c.seconds), At: &Place{p.x, p.y,
			p.z}})
	}
	if r.came {
		s.i++
		s.finish(end)
	}
}

// countWrongInputs counts the inputs between two moments that went against what
// the pilot could know, and not against what is true. More than the step allows
// are one fault, at the first of them. A log without sticks has none.
func (s *sampler) countWrongInputs(from, end float64) {
	if w := watched(s.t, s.task.Station, from, end, false); w != nil {
		first := 0.0
		r := s.recovered()
		r.knowsSticks = true
		r.wrong, first = orient.WrongInputs(w.Stretches)
		if limit := s.target().Limits.WrongInputs; limit >= 0 && r.wrong > limit {
			p := s.when(first)
			s.fault(Fault{TS: first, Code: WrongWay, Value: value(float64(r.wrong)), Limit: value(float64(limit)),
				At: &Place{p.x, p.y, p.z}})
		}
	}
}

// measureReturn fills in what the flight home of step i measured.
func (s *sampler) measureReturn(i int) {
	r := s.recoveries[i]
	if r == nil || !r.begun {
		return
	}
	met := s.res.Steps[i].Metrics
	met["climb_m"] = r.climb
	if r.landed {
		met["home_offset_m"] = r.offset
		s.share(i, "home_offset_m", r.offset, s.judged[i].homeOffset, s.sigma)
	}
	if r.tookOver {
		met["taken_over_s"] = r.taken
	}
}

// measureRegain fills in what the lost orientation of step i measured.
func (s *sampler) measureRegain(i int) {
	r := s.recoveries[i]
	if r == nil || !r.begun {
		return
	}
	met, c := s.res.Steps[i].Metrics, s.judged[i]
	met["lost_m"] = r.lost
	s.share(i, "lost_m", r.lost, c.lost, s.sigma)
	if r.came {
		met["home_s"] = r.home
		s.share(i, "home_s", r.home, c.seconds, 0)
		if s.t.Heading != nil {
			met["home_heading_deg"] = r.homeHeading
		}
	}
	if r.knowsSticks {
		met["wrong_inputs"] = float64(r.wrong)
		if limit := s.task.Steps[i].Limits.WrongInputs; limit > 0 {
			s.share(i, "wrong_inputs", float64(r.wrong), float64(limit), 0)
		}
	}
}
