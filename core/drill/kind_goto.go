package drill

// goToKind is the way to a place, and a rest there. How far beyond the place
// the craft may go has to be said, since that is where it has arrived.
type goToKind struct{}

// read wants the place and its overshoot; a rest, the line and the nose may be
// asked.
func (goToKind) read(s *Step, r *stepReader) {
	m, w := r.keys, r.limits
	s.To = readPlace(m.Need("to"))
	s.HeightM = readLimit(m.Get("height_m"), 0, 120)
	s.Heading = readHeading(m.Get("heading"))
	s.RestS = m.Get("rest_s").Number(0, 600)
	s.Within.CrossM = readLimit(w.Get("cross_m"), 0.01, 1000)
	s.Within.OvershootM = readLimit(w.Need("overshoot_m"), 0.01, 1000)
	s.Within.HeightM = readLimit(w.Get("height_m"), 0.01, 100)
	s.Within.NoseDeg = readLimit(w.Get("nose_deg"), 0.1, 180)
	m.Need("within")
	s.needHeight(m)
}

// say names the place and where to stop, then how straight the way has to be.
func (goToKind) say(t *Target, w *saying) {
	w.add(msgFlyTo, t.place(msgNextPlace), num(t.HeightM))
	w.some(t.Limits.Past, msgStopWithin)
	w.some(t.Limits.Cross, msgStayOnLine)
	w.some(t.RestS, msgRestThere)
	w.nose(t)
}
