package rehearse

import (
	"fmt"
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/track"
)

// size is the error of a step in a criterion, 0 without one.
func (f *Flight) size(i int, criterion string) float64 {
	if f.err.Step == i && f.err.Criterion == criterion {
		return f.err.Size
	}
	return 0
}

// call makes a call now.
func (f *Flight) call(text string) {
	f.calls = append(f.calls, track.Call{T: f.total, Text: text})
}

// step flies one step of a task.
func (f *Flight) step(i int, s *drill.Target, side field.Side) {
	switch s.Kind {
	case drill.TakeOff:
		f.climb(s.ToHeightM)
		f.rest(f.style.Lead)
	case drill.Hold:
		f.hold(i, s)
	case drill.Turn:
		f.turn(i, s, side)
	case drill.GoTo:
		f.goTo(i, s)
	case drill.Path:
		f.path(i, s)
	case drill.Stop:
		f.stop(i, s)
	case drill.Return:
		f.comeHome(i, s)
	case drill.Regain:
		f.regain(i, s)
	case drill.Land:
		f.touch(i, s)
	case drill.Motors:
		f.idle(i, s)
	}
}

// nose is the heading that a rule asks for at a place; ok is false where it
// asks for none.
func (f *Flight) nose(r drill.Rule, at field.Point) (field.Angle, bool) {
	switch r.Kind {
	case drill.Fixed:
		return r.Angle, true
	case drill.Sight:
		return field.Bearing(at.Sub(f.station)) + r.Angle, true
	}
	return 0, false
}

// idle runs the motors on the ground.
func (f *Flight) idle(i int, s *drill.Target) {
	f.rest(f.style.Lead)
	from := f.total
	if e := f.size(i, "height_max_m"); e > 0 { // it hops
		a := f.end
		f.add(1, func(u float64) pose {
			p := a
			p.z = a.z + e*bump(u)
			return p
		})
	}
	f.rest(s.Seconds + 0.5 + f.style.Extra)
	f.motors = append(f.motors, [2]float64{from, f.total})
	f.rest(1)
}

// hold flies a hold, with what happens in it.
func (f *Flight) hold(i int, s *drill.Target) {
	at := field.Point{X: f.end.x, Y: f.end.y}
	if s.HasAt {
		at = s.At
	}
	if e := f.size(i, "radius_max_m"); len(s.During) == 0 && e > 0 && e <= s.Limits.Radius {
		f.to(at.X+0.6*e, at.Y+0.8*e, s.HeightM)
		f.end.x, f.end.y = at.X, at.Y
	} else {
		f.to(at.X, at.Y, s.HeightM)
	}
	if h, ok := f.nose(s.Heading, at); ok {
		f.turnTo(h)
	}
	if len(s.During) > 0 {
		f.rest(1.5)
	}
	for _, d := range s.During {
		f.rest(2)
		f.happens(i, d)
	}
	if len(s.During) > 0 && s.During[len(s.During)-1].End {
		return
	}
	if len(s.During) > 0 {
		f.to(at.X, at.Y, s.HeightM)
		f.rest(1.5)
	}
	f.stay(i, s, at)
	f.short(i, "inside_s", s.Seconds+1)
}

// stay holds the place. An error inside its limit lasts for the whole stay; one
// beyond it is a swing of four seconds after the first.
func (f *Flight) stay(i int, s *drill.Target, at field.Point) {
	e, up, nose := f.size(i, "radius_max_m"), f.size(i, "height_max_m"), f.size(i, "nose_max_deg")*math.Pi/180
	a := f.end
	missed := e > s.Limits.Radius || up > s.Limits.Height || nose > float64(s.Limits.Nose)
	stay := s.Seconds + 1 + f.style.Extra
	if missed {
		stay += 8
	}
	bears := field.Bearing(at.Sub(f.station))
	f.add(stay, func(u float64) pose {
		b := bump((u*stay - 1) / 4)
		if !missed {
			b = 1
		}
		p := a
		p.x, p.y, p.z, p.heading = a.x+e*b*0.6, a.y+e*b*0.8, a.z+up*b, a.heading+nose*b
		if s.Heading.Kind == drill.Sight { // the nose follows the line of sight
			p.heading += float64((field.Bearing(field.Point{X: p.x - f.station.X, Y: p.y - f.station.Y}) - bears).Wrap())
		}
		return p
	})
}

// short takes time off the stay that was flown last, where that is the error.
func (f *Flight) short(i int, criterion string, asked float64) {
	e := f.size(i, criterion)
	if e == 0 {
		return
	}
	l := &f.legs[len(f.legs)-1]
	cut := l.seconds - (e + asked - asked)
	if cut <= 0 {
		return
	}
	l.seconds -= cut
	f.total -= cut
	f.ends[len(f.ends)-1] = f.total
}

// happens is what befalls the flight during a step, and its answer.
func (f *Flight) happens(i int, d drill.Due) {
	text := d.Event
	if d.Call() {
		text = d.Said()
	}
	f.call(text)
	far := d.Distance + 0.1
	was := f.style.Speed
	f.style.Speed = math.Max(was, 1.2)
	if d.Seconds > 0 && d.FirstWay != "" {
		f.style.Speed = math.Max(f.style.Speed, 3.2*far/d.Seconds)
	}
	f.rest(math.Min(0.3, d.Seconds/10))
	way, flat := field.Way(d.FirstWay)
	switch {
	case flat:
		f.to(f.end.x+way.X*far, f.end.y+way.Y*far, f.end.z)
	case d.FirstWay == "up":
		f.to(f.end.x, f.end.y, f.end.z+far)
	case d.FirstWay == "down":
		f.to(f.end.x, f.end.y, f.end.z-far)
	default:
		if e := f.size(i, "answer_m"); e > 0 {
			f.to(f.end.x+e, f.end.y, f.end.z)
		}
	}
	f.style.Speed = was
	f.rest(2.2)
}

// turn flies a turn.
func (f *Flight) turn(i int, s *drill.Target, side field.Side) {
	if s.HasAt {
		f.to(s.At.X, s.At.Y, f.end.z)
	}
	f.rest(f.style.Lead)
	by := float64(s.By)
	if s.RandomTurn {
		by = float64(s.Before) + 135*math.Pi/180
		word := "right"
		if side == field.LeftSide {
			by, word = -by, "left"
		}
		f.call(fmt.Sprintf("turn %s 135", word))
		f.rest(0.8)
	}
	dps := 45.0
	if s.RateDps[1] > 0 {
		dps = math.Sqrt(math.Max(s.RateDps[0], 1) * s.RateDps[1])
		if e := f.size(i, "rate_dps"); e > 0 {
			dps = e
		}
	}
	past := math.Copysign(f.size(i, "overshoot_deg")*math.Pi/180, by)
	e, up := f.size(i, "drift_max_m"), f.size(i, "height_max_m")
	a := f.end
	seconds := math.Abs(by+past) * 180 / math.Pi / dps
	f.add(seconds, func(u float64) pose {
		b := bump((u - 0.2) / 0.6)
		p := a
		p.x, p.z, p.heading = a.x+e*b, a.z+up*b, a.heading+(by+past)*u
		return p
	})
	if past != 0 {
		f.turnBy(-past, 30)
	}
	f.rest(1 + f.style.Extra)
}

// goTo flies to a place and rests there.
func (f *Flight) goTo(i int, s *drill.Target) {
	if h, ok := f.nose(s.Heading, s.At); ok {
		f.turnTo(h)
		f.rest(f.style.Lead / 2)
	}
	a := f.end
	e, past, up, nose := f.size(i, "cross_max_m"), f.size(i, "overshoot_m"), f.size(i, "height_max_m"), f.size(i,
		"nose_max_deg")*math.Pi/180
	flat := math.Max(1e-9, math.Hypot(s.At.X-a.x, s.At.Y-a.y))
	ux, uy := (s.At.X-a.x)/flat, (s.At.Y-a.y)/flat
	f.toBy(s.At.X+past*ux, s.At.Y+past*uy, s.HeightM, e, 0)
	if nose != 0 {
		l := &f.legs[len(f.legs)-1]
		way := l.at
		l.at = func(u float64) pose { p := way(u); p.heading += nose * bump(u); return p }
	}
	if up != 0 {
		l := &f.legs[len(f.legs)-1]
		way := l.at
		l.at = func(u float64) pose { p := way(u); p.z += up * bump((u-0.5)/0.45); return p }
	}
	if past != 0 {
		f.to(s.At.X, s.At.Y, s.HeightM)
	}
	f.rest(s.RestS + f.style.Extra)
}

// stop flies on until it is called, and stands.
func (f *Flight) stop(i int, s *drill.Target) {
	if h, ok := f.nose(s.Heading, s.At); ok {
		f.turnTo(h)
	}
	a := f.end
	v, wait := math.Max(1, 1.3*s.FromMps), 2.5
	if s.AfterS > 0 && !s.OnCall {
		wait = s.AfterS
	}
	brake := 1.0
	if e := f.size(i, "stop_s"); e > 0 { // from v to the speed at which it counts as at rest
		brake = (v - 0.3) / e
	}
	if e := f.size(i, "stop_m"); e > 0 {
		v = math.Max(2, v)
		brake = (v*v - 0.09) / 2 / e
	}
	across := 1.0
	if a.x > 0 {
		across = -1
	}
	if s.Over {
		f.rest(wait)
		f.call("flip")
		f.rest(0.5)
		f.rolls = append(f.rolls, [2]float64{f.total, f.total + 1})
		f.rest(1)
		f.rest(2 + f.style.Extra)
		return
	}
	// It gathers speed over a second, flies on, and brakes evenly.
	f.add(1, func(u float64) pose { p := a; p.x += across * v * u * u / 2; return p })
	b := f.end
	f.add(wait, func(u float64) pose { p := b; p.x += across * v * wait * u; return p })
	if s.OnCall {
		f.call("Stop")
	}
	c := f.end
	t := v / brake
	f.add(t, func(u float64) pose { p := c; p.x += across * (v*t*u - brake*t*t*u*u/2); return p })
	f.rest(1 + f.style.Extra)
}

// comeHome is a flight home that sets itself off: up, back, and down or taken over.
func (f *Flight) comeHome(i int, s *drill.Target) {
	home := f.legs[0].at(0)
	f.to(f.end.x, f.end.y+6, f.end.z)
	f.rest(1)
	switch s.Trigger {
	case "link":
		f.call("link-lost")
	case "pack":
		f.call("pack=15")
	default:
		f.call("home")
	}
	f.climb(math.Max(f.end.z, 4))
	if s.TakeOverS > 0 {
		f.to(f.end.x, f.end.y-2, f.end.z)
		if s.Trigger == "link" {
			f.call("link-back")
		}
		f.rest(s.TakeOverS + 3)
		return
	}
	f.to(home.x+f.size(i, "home_offset_m"), home.y, f.end.z)
	f.land()
}

// regain turns the nose home and flies there.
func (f *Flight) regain(i int, s *drill.Target) {
	f.call("lost")
	a := f.end
	home := field.Bearing(field.Point{X: f.station.X - a.x, Y: f.station.Y - a.y})
	f.turnTo(home)
	if e := f.size(i, "lost_m"); e > 0 {
		f.to(a.x, a.y+e, a.z)
	}
	was := f.style.Speed
	f.style.Speed = math.Max(was, s.FromM/8)
	f.to(f.station.X+(a.x-f.station.X)*0.7, f.station.Y+(a.y-f.station.Y)*0.7, a.z)
	f.style.Speed = was
	f.rest(1)
}

// touch flies down and stands.
func (f *Flight) touch(i int, s *drill.Target) {
	at := s.At
	if !s.HasAt {
		at = field.Point{X: f.end.x, Y: f.end.y}
	}
	e := f.size(i, "offset_m")
	f.to(at.X+0.6*e, at.Y+0.8*e, math.Max(f.end.z, 0.6))
	f.rest(f.style.HoverEnd)
	if h, ok := f.nose(s.Heading, field.Point{X: f.end.x, Y: f.end.y}); ok {
		f.turnTo(h + field.Angle(f.size(i, "nose_deg")*math.Pi/180))
	}
	f.rest(0.5)
	was := f.style.Sink
	if v := f.size(i, "sink_mps"); v > 0 {
		f.style.Sink = v
	}
	f.land()
	f.style.Sink = was
}
