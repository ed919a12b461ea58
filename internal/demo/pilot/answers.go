package pilot

import (
	"math"
	"strings"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/flight"
	"maestrale/core/flight/trace"
)

// happened tells whether the drill let something happen that was not answered yet.
func (h *hand) happened(d drill.Due) bool {
	events := h.rec.Happened()
	for ; h.heard < len(events); h.heard++ {
		if e := events[h.heard]; e.By == trace.ByDrill && e.Event == d.Fly() {
			h.heard++
			return true
		}
	}
	return false
}

// answer does what is asked after something happened: goes the way that was called,
// or brings the craft to rest.
func (h *hand) answer(aim target, d drill.Due) {
	if d.FirstWay == "" {
		if d.Call() {
			h.stand(aim)
			return
		}
		// What befell the craft is noticed by what it does; then it is flown on.
		for t := 0.0; t < 3 && !h.over; t += reading {
			h.toward(aim, h.lift(aim.height, 0.8))
		}
		if strings.HasPrefix(d.Event, "compass") { // who flies against a wrong compass circles
			h.aids = flight.HeightHold
			aim.at = field.Point{X: h.now.X + 0.4*h.now.VX, Y: h.now.Y + 0.4*h.now.VY}
		}
		still := 0.0
		for t := 0.0; t < 12 && still < 1.4 && !h.over; t += reading {
			h.toward(aim, h.lift(aim.height, 0.8))
			if still += reading; math.Hypot(h.now.VX, h.now.VY) > 0.22 {
				still = 0
			}
		}
		return
	}
	for t := 0.0; t < h.DelayS+0.15 && !h.over; t += reading {
		h.toward(aim, h.lift(aim.height, 0.8))
	}
	far := 1.35*d.Distance + h.LetBe
	to := aim
	if way, flat := field.Way(d.FirstWay); flat {
		to.at = field.Point{X: h.now.X + way.X*far, Y: h.now.Y + way.Y*far}
	} else if d.FirstWay == "up" {
		to.height = h.now.Z + far
	} else {
		to.height = math.Max(0.8, h.now.Z-far)
	}
	from := h.now
	for t := 0.0; t < 9 && !h.over; t += reading {
		h.toward(to, h.lift(to.height, 2.5))
		gone := math.Abs(h.now.Z - from.Z)
		if way, flat := field.Way(d.FirstWay); flat {
			gone = (h.now.X-from.X)*way.X + (h.now.Y-from.Y)*way.Y
		}
		if gone > d.Distance*1.05 {
			return
		}
	}
}

// stand brings the craft to rest where it is, after what the head takes to hear.
func (h *hand) stand(aim target) field.Point {
	for t := 0.0; t < h.DelayS && !h.over; t += reading {
		aim.at.X += aim.vx * reading
		aim.at.Y += aim.vy * reading
		h.toward(aim, h.lift(aim.height, 0.6))
	}
	aim.at, aim.vx, aim.vy = field.Point{X: h.now.X + 0.35*h.now.VX, Y: h.now.Y + 0.35*h.now.VY}, 0, 0
	still := 0.0
	for t := 0.0; t < 9 && still < 1.6 && !h.over; t += reading {
		h.toward(aim, h.lift(aim.height, 0.6))
		if still += reading; math.Hypot(h.now.VX, h.now.VY) > 0.22 {
			still = 0
		}
	}
	return aim.at
}

// flyHome lets the craft fly home, and takes over or lets it land; it returns where
// that leaves it.
func (h *hand) flyHome(aim target, s drill.Target) (field.Point, float64) {
	for t := 0.0; s.Trigger == "asked" && t < 1.5+h.r.Float64() && !h.over; t += reading {
		h.toward(aim, h.lift(aim.height, 0.8))
	}
	h.sticks = h.atRest()
	set := func() bool { return h.happened(drill.Due{Event: "link-lost"}) }
	switch s.Trigger {
	case "asked":
		if err := h.rec.Event("home", ""); err != nil {
			h.err = err
		}
		set = func() bool { return true }
	case "pack":
		set = func() bool { return h.happened(drill.Due{Event: "pack=12"}) }
	}
	for t := 0.0; t < 9 && !set() && !h.over; t += reading {
		h.read()
	}
	if s.TakeOverS == 0 {
		for t := 0.0; t < 120 && h.rec.Armed() && !h.over; t += reading {
			h.read()
		}
		h.rest(1.5)
		return field.Point{X: h.now.X, Y: h.now.Y}, 0
	}
	// Who is raw is early as often as late.
	watched := s.TakeOverS + 0.8 + h.DelayS + 4*h.Tremble*h.r.NormFloat64()
	for t := 0.0; t < watched && !h.over; t += reading {
		h.read()
	}
	h.sticks.Pitch = -0.35 // any stick takes over
	h.rest(0.15)
	return h.stand(target{at: field.Point{X: h.now.X, Y: h.now.Y}, height: h.now.Z, heading: field.Angle(h.now.Heading)}),
		h.now.Z
}

// atRest are the sticks let go.
func (h *hand) atRest() flight.Sticks {
	k := h.sticks
	k.Yaw, k.Pitch, k.Roll = 0, 0, 0
	if h.aids <= flight.HeightHold {
		k.Throttle = 0
	}
	return k
}

// regain finds the nose again by the first school: ahead, see where it goes, turn it
// until it comes home. A raw head takes one side for the other.
func (h *hand) regain(t *drill.Task, s drill.Target) (field.Point, float64, field.Angle) {
	height := h.now.Z
	far := func() float64 { return math.Hypot(h.now.X-t.Station.X, h.now.Y-t.Station.Y) }
	begun := far()
	fly := func(seconds, pitch, yaw float64) {
		for u := 0.0; u < seconds && !h.over; u += reading {
			h.move(h.lift(height, 0.8), yaw, pitch, 0)
		}
	}
	yawMax := h.craft.Limits[h.aids].YawMax
	fly(0.8+h.DelayS+10*h.Tremble, 0, 0) // who is raw thinks for longer
	for u := 0; u < 14 && far() > 0.78*begun && !h.over; u++ {
		was, from := field.Bearing(field.Point{X: h.now.X - t.Station.X, Y: h.now.Y - t.Station.Y}), far()
		fly(1.2, 0.5, 0)
		fly(0.6+h.DelayS, 0, 0)
		side := float64((field.Bearing(field.Point{X: h.now.X - t.Station.X, Y: h.now.Y - t.Station.Y}) - was).Wrap())
		nearer := from - far()
		aspect := math.Atan2(side*from, -nearer) // what the eye makes of it
		aspect += (0.1 + 4*h.Tremble) * h.r.NormFloat64() * math.Pi / 2
		if h.r.Float64() < h.Confusion {
			aspect = -aspect
		}
		turn := float64((field.Toward - field.Angle(aspect)).Wrap())
		if math.Abs(turn) > 0.25 {
			fly(math.Abs(turn)/(0.5*yawMax), 0, math.Copysign(0.5+deadStick, turn))
			fly(0.3, 0, 0)
		}
		for v := 0.0; v < 3.5 && far() > 0.78*begun && !h.over; v += 0.5 {
			before := far()
			fly(0.5, 0.6, 0)
			if far() > before-0.1 && v > 0.6 {
				break
			}
		}
	}
	fly(1, 0, 0)
	return field.Point{X: h.now.X, Y: h.now.Y}, height, field.Angle(h.now.Heading)
}
