package drill

// turnKind is a turn of the nose by an angle, on the spot.
type turnKind struct{}

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
		r.fail("the turn is too small to see", "by_deg of 10 degrees or more either way")
	}
	if band := m.Get("rate_dps"); band.Present() {
		s.RateDps = readBand(band, 0, 720)
	}
	s.Within.RadiusM = readLimit(w.Get("radius_m"), 0.01, 1000)
	s.Within.HeightM = readLimit(w.Get("height_m"), 0.01, 100)
	s.Within.OvershootDeg = readLimit(w.Need("overshoot_deg"), 1, 90)
	m.Need("within")
}

func (turnKind) say(t *Target, w *saying) {
	side := "right"
	if t.By < 0 {
		side = "left"
	}
	if t.RandomTurn { // nobody is told before
		head := "turn the nose by the angle that is called"
		if t.Before > 0 {
			head = "turn the nose by " + deg(t.Before) + " and on to the angle that is called"
		}
		w.add("%s", head)
	} else {
		w.add("turn the nose %s by %s", side, deg(t.By.Abs()))
	}
	w.someAngle(t.Limits.Overshoot, "stop within %s")
	w.some(t.Limits.Radius, "stay inside %s m")
	w.some(t.Limits.Height, "height kept within %s m")
}
