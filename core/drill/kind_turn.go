package drill

// turnKind is a turn of the nose by an angle, on the spot. A random angle is
// called out when the turn begins; full turns before it may be written.
type turnKind struct{}

// read wants the angle, or that it is random, and how far past it the nose may
// go. Less than 10° could not be told from a nose that wavers.
func (turnKind) read(s *Step, r *stepReader) {
	m, w := r.keys, r.limits
	if at := m.Get("at"); at.Present() {
		s.At = readPlace(at)
	}
	s.Random = m.Get("random").Bool()
	switch by := m.Get("by_deg"); {
	case by.Present() && !by.IsNumber():
		s.Random = by.Word("random") == "random"
	case s.Random:
		s.ByDeg = by.Number(0, 3240) // turned before the angle that is called
	default:
		s.ByDeg = m.Need("by_deg").Number(-3600, 3600)
	}
	if !s.Random && s.ByDeg > -10 && s.ByDeg < 10 {
		r.fail(msgTurnTooSmall, msgWantTenDegrees)
	}
	if band := m.Get("rate_dps"); band.Present() {
		s.RateDps = readBand(band, 0, 720)
	}
	s.Within.RadiusM = readLimit(w.Get("radius_m"), 0.01, 1000)
	s.Within.HeightM = readLimit(w.Get("height_m"), 0.01, 100)
	s.Within.OvershootDeg = readLimit(w.Need("overshoot_deg"), 1, 90)
	m.Need("within")
}

// say names the angle and the side; a random angle nobody is told before.
func (turnKind) say(t *Target, w *saying) {
	switch { // nobody is told a random angle before
	case t.RandomTurn && t.Before > 0:
		w.add(msgTurnByThenCalled, deg(t.Before))
	case t.RandomTurn:
		w.add(msgTurnCalled)
	case t.By < 0:
		w.add(msgTurnLeft, deg(t.By.Abs()))
	default:
		w.add(msgTurnRight, deg(t.By))
	}
	w.someAngle(t.Limits.Overshoot, "stop within %s")
	w.some(t.Limits.Radius, "stay within %s m")
	w.some(t.Limits.Height, msgKeepHeightWithin)
}
