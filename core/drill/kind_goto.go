package drill

// goToKind is the way to a place, and a rest there.
type goToKind struct{}

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

func (goToKind) say(t *Target, w *saying) {
	w.add(msgFlyToAt, t.place(msgNextPlace), num(t.HeightM))
	w.some(t.Limits.Past, msgStopWithin)
	w.some(t.Limits.Cross, msgStayWithinStraight)
	w.some(t.RestS, msgRestThereFor)
	w.nose(t)
}
