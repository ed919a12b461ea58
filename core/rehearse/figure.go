package rehearse

import (
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// path flies along a figure: to its start, a turn of the nose there, round, and
// on a little.
func (f *Flight) path(i int, s *drill.Target) {
	fig := s.Path
	from := 0.0
	if fig.Closed && fig.Shape != drill.Eight {
		from = f.style.Joins * fig.Length
	}
	length := fig.Length
	if fig.Closed {
		length *= float64(max(1, s.Laps))
	}
	first, course := fig.At(from)
	wide := f.style.Wide * math.Min(1, fig.Length/25)
	sin, cos := math.Sincos(float64(course))
	if f.style.Rolling && fig.Level {
		// It comes on from behind the start and is on the figure's line when it
		// passes it.
		run := math.Min(3, 0.1*fig.Length)
		f.toBy(first.X-run*sin, first.Y-run*cos, first.Z, wide, 0)
		f.noseOnto(s, first, course)
		f.along(i, s, from, length, run)
		return
	}
	f.toBy(first.X, first.Y, first.Z, wide, 0)
	f.rest(f.style.Lead / 2)
	f.noseOnto(s, first, course)
	f.rest(f.style.Lead / 2)
	if f.style.Retry {
		some := math.Min(2.5, 0.15*length)
		f.alongBy(s, from, some, 0, noError)
		f.rest(1)
		f.to(first.X, first.Y, first.Z)
		f.rest(1)
		f.noseOnto(s, first, course)
		f.rest(1)
	}
	f.along(i, s, from, length, 0)
}

// noseOnto turns the nose to what the figure asks for at its start.
func (f *Flight) noseOnto(s *drill.Target, first drill.Spot, course field.Angle) {
	if h, ok := f.noseAlong(s, first, course); ok {
		f.turnTo(h)
	}
}

// noseAlong is the heading that a step asks for at a place of its path; ok is
// false where it asks for none.
func (f *Flight) noseAlong(s *drill.Target, at drill.Spot, course field.Angle) (field.Angle, bool) {
	switch s.Heading.Kind {
	case drill.Along, drill.Against, drill.Subject:
		return s.Heading.OfPath(course, field.Bearing(s.Subject.Sub(at.Flat())))
	}
	return f.nose(s.Heading, at.Flat())
}

// bend moves a place of a figure, so far along at a share of it, and turns the
// nose off.
type bend func(way, share float64, p drill.Spot, course field.Angle) (drill.Spot, float64)

// noError bends nothing.
func noError(_, _ float64, p drill.Spot, _ field.Angle) (drill.Spot, float64) { return p, 0 }

// bendOf is the error of a step on its figure: a swing in its middle, for an
// eight in its first lobe.
func (f *Flight) bendOf(i int, s *drill.Target, length float64) bend {
	swing := func(share float64) float64 { return bump((share - 0.35) / 0.3) }
	if s.Path.Shape == drill.Eight {
		swing = func(share float64) float64 { return bump((share - 0.12) / 0.26) }
	}
	switch e := f.err.Size; {
	case f.err.Step != i || f.err.Criterion == "":
		return noError
	case f.err.Criterion == "cross_max_m":
		return func(_, share float64, p drill.Spot, course field.Angle) (drill.Spot, float64) {
			sin, cos := math.Sincos(float64(course) + math.Pi/2)
			b := e * swing(share)
			if !s.Path.Level { // up, square to the line
				return drill.Spot{X: p.X, Y: p.Y + b, Z: p.Z}, 0
			}
			return drill.Spot{X: p.X + b*sin, Y: p.Y + b*cos, Z: p.Z}, 0
		}
	case f.err.Criterion == "height_max_m":
		return func(_, share float64, p drill.Spot, _ field.Angle) (drill.Spot, float64) {
			return drill.Spot{X: p.X, Y: p.Y, Z: p.Z + e*swing(share)}, 0
		}
	case f.err.Criterion == "nose_max_deg" || f.err.Criterion == "aim_deg":
		return func(_, share float64, p drill.Spot, _ field.Angle) (drill.Spot, float64) {
			return p, e * math.Pi / 180 * swing(share)
		}
	case f.err.Criterion == "radius_ratio":
		return func(way, _ float64, p drill.Spot, _ field.Angle) (drill.Spot, float64) {
			if lap := math.Mod(way, s.Path.Length); lap > s.Path.Parts[0] {
				c := s.Path.Centre
				p.X, p.Y = c.X+e*(p.X-c.X), c.Y+e*(p.Y-c.Y)
			}
			return p, 0
		}
	case f.err.Criterion == "crossing_m":
		return func(way, _ float64, p drill.Spot, _ field.Angle) (drill.Spot, float64) {
			return drill.Spot{X: p.X, Y: p.Y + e*onto(way)*onto(length-way), Z: p.Z}, 0
		}
	case f.err.Criterion == "angle_deg":
		a, b := spotAt(s.Path, 0), spotAt(s.Path, s.Path.Length)
		flat := math.Hypot(b.X-a.X, b.Y-a.Y)
		own := math.Atan2(b.Z-a.Z, flat)
		mid := (a.Z + b.Z) / 2
		return func(way, _ float64, p drill.Spot, _ field.Angle) (drill.Spot, float64) {
			x := (way/length - 0.5) * flat
			if in := onto(way) * onto(length-way); in < 1 {
				return drill.Spot{X: p.X, Y: p.Y, Z: p.Z + in*(mid+x*math.Tan(own+e*math.Pi/180)-p.Z)}, 0
			}
			return drill.Spot{X: p.X, Y: p.Y, Z: mid + x*math.Tan(own+e*math.Pi/180)}, 0
		}
	}
	return noError
}

// onto grows from nothing to one over the first metre of a figure.
func onto(way float64) float64 {
	u := math.Max(0, math.Min(1, way))
	return u * u * (3 - 2*u)
}

// spotAt is the place so many metres along a figure.
func spotAt(f *drill.Figure, way float64) drill.Spot {
	p, _ := f.At(way)
	return p
}

// along flies the figure, from corner to corner where rests are asked, with the
// step's error; run is how far it comes on before the start.
func (f *Flight) along(i int, s *drill.Target, from, length, run float64) {
	by := f.bendOf(i, s, length)
	was := f.style.Speed
	if s.SpeedMps[1] > 0 {
		f.style.Speed = (s.SpeedMps[0] + s.SpeedMps[1]) / 2
		if v := f.size(i, "speed_mean_mps"); v > 0 {
			f.style.Speed = v
		}
	}
	at := from
	if s.RestS > 0 {
		for n, c := range s.Path.Corners {
			f.alongBy(s, at, c-at, 0, by)
			rest := s.RestS + f.style.Extra
			if e := f.size(i, "rest_s"); e > 0 && n == 0 {
				rest = e
			}
			f.rest(rest)
			at = c
		}
	}
	beyond := 0.0
	if s.Path.Closed {
		beyond = 0.3
	}
	f.alongBy(s, at, from+length+beyond-at, run, by)
	f.style.Speed = was
	f.rest(f.style.Lead)
}

// alongBy follows a figure so far, with an error, gathering and losing speed
// over half a second.
func (f *Flight) alongBy(s *drill.Target, from, far, run float64, by bend) {
	fig := s.Path
	total := fig.Length
	if fig.Closed {
		total *= float64(max(1, s.Laps))
	}
	v := f.style.Speed
	ramp := math.Min(0.8, (far+run)/v/3)
	if f.style.Sharp {
		ramp = 0
	}
	seconds := (far+run)/v + ramp
	held := f.end.heading
	last := held
	start := f.style.Joins * fig.Length
	if !fig.Closed || fig.Shape == drill.Eight {
		start = 0
	}
	// The way over time: an even speed between two ramps.
	way := func(u float64) float64 {
		t := u * seconds
		switch {
		case t < ramp:
			return v * t * t / 2 / ramp
		case t > seconds-ramp:
			d := seconds - t
			return far + run - v*d*d/2/ramp
		}
		return v * (t - ramp/2)
	}
	f.add(seconds, func(u float64) pose {
		w := from - run + way(u)
		p, course := fig.At(math.Max(w, from))
		if !fig.Closed {
			p, course = fig.At(math.Min(fig.Length, math.Max(w, from)))
		}
		if w < from {
			sin, cos := math.Sincos(float64(course))
			p.X, p.Y = p.X-(from-w)*sin, p.Y-(from-w)*cos
		}
		off := 0.0
		q := p
		if w >= from {
			q, off = by(w-start, (w-start)/total, p, course)
		}
		heading := held
		if h, ok := f.noseAlong(s, q, course); ok {
			heading = float64(h)
		}
		heading += off
		// Not wrapped: the nose goes the short way from moment to moment.
		last += float64(field.Angle(heading - last).Wrap())
		return pose{q.X, q.Y, q.Z, last}
	})
	f.end.heading = last
}
